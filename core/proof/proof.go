// Package proof checks that a template does what it promises before anyone gets
// it. It takes a template's tree and returns a report in stages:
//
//   - manifest: it can be read, and the template compiles;
//   - round trip: cast with the source's own values it gives back the source,
//     byte for byte;
//   - no trace: cast with other values, nothing of the source's own is left;
//   - cast back: that cast, taken as a template which stands for the other
//     values and cast with the source's own, gives the source again.
package proof

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// Report is the result of every check.
type Report struct {
	Stages []Stage `json:"stages"`
}

// Stage is one check.
type Stage struct {
	Name     string    `json:"name"`
	Passed   bool      `json:"passed"`
	Detail   string    `json:"detail"` // what was looked at, or with which values
	Seconds  float64   `json:"seconds"`
	Findings []Finding `json:"findings,omitempty"`
	Omitted  int       `json:"omitted,omitempty"` // findings beyond maxFindings
}

// Finding is one thing that a check found.
type Finding struct {
	Path    string `json:"path,omitempty"`
	Line    int    `json:"line,omitempty"`
	Column  int    `json:"column,omitempty"`
	Message string `json:"message"`
	Excerpt string `json:"excerpt,omitempty"`
}

// maxFindings is how many findings a stage lists.
const maxFindings = 50

// Passed tells whether every check passed.
func (r Report) Passed() bool {
	for _, stage := range r.Stages {
		if !stage.Passed {
			return false
		}
	}
	return len(r.Stages) > 0
}

// Prove runs the checks on a template, and returns it compiled as well; nil when
// it does not compile. A failed check is in the report; the error says only why
// a check could not be made.
func Prove(ctx context.Context, template tree.Tree, limits tree.Limits) (Report, *mould.Mould, error) {
	p := prover{ctx: ctx, template: template, options: mould.Options{Limits: limits}}
	for _, stage := range []struct {
		name  string
		check func(*Stage) error
	}{
		{"manifest", p.compile},
		{"round trip", p.roundTrip},
		{"no trace", p.noTrace},
		{"cast back", p.castBack},
	} {
		began := time.Now()
		result := Stage{Name: stage.name}
		if err := stage.check(&result); err != nil {
			return p.report, nil, err
		}
		result.Seconds = time.Since(began).Seconds()
		result.Passed = len(result.Findings) == 0
		if extra := len(result.Findings) - maxFindings; extra > 0 {
			result.Omitted = extra
			result.Findings = result.Findings[:maxFindings]
		}
		p.report.Stages = append(p.report.Stages, result)
		if p.mould == nil {
			break
		}
	}
	return p.report, p.mould, nil
}

type prover struct {
	ctx      context.Context
	template tree.Tree
	options  mould.Options
	report   Report

	manifest *manifest.Manifest
	source   tree.Tree
	mould    *mould.Mould
	distinct values.Values
	cast     tree.Tree // with the distinct values
}

func (p *prover) compile(s *Stage) error {
	refuse := func(err error) error {
		if p.ctx.Err() != nil {
			return p.ctx.Err()
		}
		s.Findings = append(s.Findings, Finding{Message: err.Error()})
		return nil
	}
	var err error
	if p.manifest, err = manifest.Of(p.template); err != nil {
		var problems manifest.Problems
		if !errors.As(err, &problems) {
			return refuse(err)
		}
		for _, problem := range problems {
			s.Findings = append(s.Findings, Finding{Path: manifest.FileName, Line: problem.Line, Column: problem.Column, Message: problem.Message})
		}
		return nil
	}
	p.source = mould.Source(p.template, p.manifest)
	if len(p.source.Entries()) == 0 {
		return refuse(fmt.Errorf("the template has no files to cast; check source and leave_out in %s", manifest.FileName))
	}
	if p.mould, err = mould.Compile(p.ctx, p.source, p.manifest, p.options); err != nil {
		return refuse(err)
	}
	slots := p.mould.SlotsByVariable()
	total := p.mould.Slots()
	for i := range p.manifest.Variables {
		if v := &p.manifest.Variables[i]; v.StandsFor != "" && slots[v.Name] == 0 {
			s.Findings = append(s.Findings, Finding{Path: manifest.FileName, Message: fmt.Sprintf("the variable %s stands for %q, which is nowhere in the project", v.Name, v.StandsFor)})
		}
	}
	s.Detail = spelling.Count(len(p.mould.Files), "file") + ", " + spelling.Count(len(p.manifest.Variables), "variable") + ", " + spelling.Count(total, "slot")
	return nil
}

func (p *prover) roundTrip(s *Stage) error {
	s.Detail = "cast with the source's own values"
	cast, err := p.mould.Cast(values.Reference(p.manifest))
	if err != nil {
		s.Findings = append(s.Findings, Finding{Message: err.Error()})
		return nil
	}
	return p.compare(s, cast)
}

func (p *prover) compare(s *Stage, got tree.Tree) error {
	differences, err := tree.Compare(p.source, got)
	for _, d := range differences {
		s.Findings = append(s.Findings, Finding{Path: d.Path, Line: d.Line, Message: d.What})
	}
	return err
}

func (p *prover) noTrace(s *Stage) error {
	distinct, held, err := distinctValues(p.ctx, p.source, p.manifest)
	if err != nil {
		return err
	}
	p.distinct = distinct
	s.Detail = describe(p.manifest, distinct, held)
	if p.cast, err = p.mould.Cast(distinct); err != nil {
		s.Findings = append(s.Findings, Finding{Message: err.Error()})
		return nil
	}
	options := p.backOptions()
	traces, err := mould.Traces(p.ctx, p.cast, without(p.manifest, held), options)
	for _, t := range traces {
		where := "in the path"
		if t.Line > 0 {
			where = "here"
		}
		s.Findings = append(s.Findings, Finding{Path: options.SourcePath(t.Path), Line: t.Line, Excerpt: t.Excerpt,
			Message: fmt.Sprintf("%q, which %s stands for, is still %s", t.Text, t.Variable, where)})
	}
	return err
}

func describe(m *manifest.Manifest, distinct values.Values, held []string) string {
	var set []string
	for i := range m.Variables {
		name := m.Variables[i].Name
		if value, is := distinct[name]; is && m.Variables[i].StandsFor != "" && !slices.Contains(held, name) {
			set = append(set, fmt.Sprintf("%s=%q", name, value))
		}
	}
	detail := "cast with " + strings.Join(set, ", ")
	if len(set) == 0 {
		detail = "no variable stands for a text"
	}
	if len(held) > 0 {
		detail += fmt.Sprintf("; %s kept as in the source, for want of a value that is not in it", strings.Join(held, ", "))
	}
	return detail
}

// backOptions match globs against the paths of the source project while the
// cast is looked at.
func (p *prover) backOptions() mould.Options {
	source := map[string]string{}
	for i, cast := range p.mould.CastPaths(p.distinct) {
		source[cast] = p.mould.Files[i].Source.Path
	}
	options := p.options
	options.SourcePath = func(path string) string { return source[path] }
	return options
}

func (p *prover) castBack(s *Stage) error {
	s.Detail = "that cast, taken as a template and cast with the source's own values"
	if len(p.cast.Entries()) == 0 {
		s.Findings = append(s.Findings, Finding{Message: "there is no cast to start from"})
		return nil
	}
	turned := *p.manifest
	turned.Variables = append([]manifest.Variable(nil), p.manifest.Variables...)
	for i := range turned.Variables {
		if v := &turned.Variables[i]; v.StandsFor != "" {
			v.StandsFor = p.distinct[v.Name].String()
		}
	}
	back, err := mould.Compile(p.ctx, p.cast, &turned, p.backOptions())
	if err != nil {
		if p.ctx.Err() != nil {
			return p.ctx.Err()
		}
		s.Findings = append(s.Findings, Finding{Message: err.Error()})
		return nil
	}
	cast, err := back.Cast(values.Reference(p.manifest))
	if err != nil {
		s.Findings = append(s.Findings, Finding{Message: err.Error()})
		return nil
	}
	return p.compare(s, cast)
}

// without returns the manifest less the variables of those names.
func without(m *manifest.Manifest, names []string) *manifest.Manifest {
	less := *m
	less.Variables = nil
	for _, v := range m.Variables {
		if !slices.Contains(names, v.Name) {
			less.Variables = append(less.Variables, v)
		}
	}
	return &less
}
