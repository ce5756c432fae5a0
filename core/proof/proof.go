// Package proof checks that a template does what it promises before anyone gets
// it. It takes a template's tree and returns a report in stages:
//
//   - manifest: it can be read, and the template compiles;
//   - round trip: cast with the source's own values it gives back the source,
//     byte for byte, less its marks;
//   - no trace: cast with other values, nothing of the source's own is left;
//   - cast back: that cast, taken as a template which stands for the other
//     values and cast with the source's own, gives the source again;
//   - options: every pair of choices of any two options occurs in some cast;
//   - each sample: what it expects, and its commands where they may be run.
package proof

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/marks"
	"ironcast/core/mould"
	"ironcast/core/spelling"
	"ironcast/core/syntax"
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
	Warnings []Finding `json:"warnings,omitempty"` // what does not fail, and should be looked at
	Omitted  int       `json:"omitted,omitempty"`  // findings beyond maxFindings
}

// Finding is one thing that a check found.
type Finding struct {
	Path    string `json:"path,omitempty"`
	Line    int    `json:"line,omitempty"`
	Column  int    `json:"column,omitempty"`
	Message string `json:"message"`
	Excerpt string `json:"excerpt,omitempty"`
}

// String returns the finding on one line, without the excerpt.
func (f Finding) String() string {
	where := f.Path
	if f.Line > 0 {
		where = fmt.Sprintf("%s:%d", where, f.Line)
	}
	if f.Column > 0 {
		where = fmt.Sprintf("%s:%d", where, f.Column)
	}
	if where != "" {
		where += ": "
	}
	return where + f.Message
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

// Runner runs a project's commands in a scratch copy of it: first those that its
// template has behind a cast, then those of a sample. Its error says which
// command failed, and how.
type Runner func(ctx context.Context, project tree.Tree, after []hooks.Command, sample manifest.Sample) error

// Options say how to prove.
type Options struct {
	Limits tree.Limits
	Run    Runner             // nil where no command may be run
	Begin  func(stage string) // called as each stage begins; may be nil
	AtOnce int                // how many samples run at once; 1 when it is 0
}

// Prove runs the checks on a template, and returns it compiled as well; nil when
// it does not compile. A failed check is in the report; the error says only why
// a check could not be made.
func Prove(ctx context.Context, template tree.Tree, options Options) (Report, *mould.Mould, error) {
	p := &prover{ctx: ctx, template: template, options: options, occasion: values.Stable("proof")}
	for _, stage := range []struct {
		name  string
		check func(*Stage) error
	}{
		{"manifest", p.compile},
		{"round trip", p.roundTrip},
		{"no trace", p.noTrace},
		{"cast back", p.castBack},
		{"options", p.castOptions},
	} {
		if err := p.stage(stage.name, stage.check); err != nil {
			return p.report, nil, err
		}
		if p.mould == nil {
			return p.report, nil, nil
		}
	}
	return p.report, p.mould, p.samples()
}

// stage makes one check and adds its result to the report.
func (p *prover) stage(name string, check func(*Stage) error) error {
	if p.options.Begin != nil {
		p.options.Begin(name)
	}
	result, err := timed(name, check)
	if err == nil {
		p.report.Stages = append(p.report.Stages, result)
	}
	return err
}

func timed(name string, check func(*Stage) error) (Stage, error) {
	began := time.Now()
	result := Stage{Name: name}
	if err := check(&result); err != nil {
		return Stage{}, err
	}
	result.Seconds = time.Since(began).Seconds()
	result.Passed = len(result.Findings) == 0
	if extra := len(result.Findings) - maxFindings; extra > 0 {
		result.Omitted = extra
		result.Findings = result.Findings[:maxFindings]
	}
	return result, nil
}

func (s *Stage) find(format string, args ...any) {
	s.Findings = append(s.Findings, Finding{Message: fmt.Sprintf(format, args...)})
}

type prover struct {
	ctx      context.Context
	template tree.Tree
	options  Options
	occasion values.Occasion
	report   Report

	manifest *manifest.Manifest
	mould    *mould.Mould
	source   tree.Tree // as a project would have it: without marks
	repeats  []*mould.Repeat
	distinct distinct
	casting  *mould.Casting // with the distinct values
	cast     tree.Tree
}

func (p *prover) compile(s *Stage) error {
	var err error
	if p.manifest, err = manifest.Of(p.template); err != nil {
		return p.refuse(s, err)
	}
	files := mould.Source(p.template, p.manifest)
	if len(files.Entries()) == 0 {
		return p.refuse(s, fmt.Errorf("the template has no files to cast; check source and leave_out in %s", manifest.FileName))
	}
	compiled, err := mould.Compile(p.ctx, files, p.manifest, mould.Options{Limits: p.options.Limits, Template: p.template})
	if err != nil {
		return p.refuse(s, err)
	}
	if p.source, err = unmarked(compiled, p.options.Limits); err != nil {
		return p.refuse(s, err)
	}
	p.mould, p.repeats = compiled, compiled.Repeats()
	slots := p.mould.SlotsByVariable()
	for i := range p.manifest.Variables {
		if v := &p.manifest.Variables[i]; v.StandsFor != "" && slots[v.Name] == 0 {
			s.Findings = append(s.Findings, Finding{Path: manifest.FileName, Message: fmt.Sprintf("the variable %s stands for %q, which is nowhere in the project", v.Name, v.StandsFor)})
		}
	}
	p.checkScripts(s)
	s.Warnings = append(s.Warnings, p.idleRules()...)
	s.Warnings = append(s.Warnings, p.narrowPlaces()...)
	s.Detail = spelling.Count(len(p.mould.Files), "file") + ", " + spelling.Count(len(p.manifest.Variables), "variable") + ", " + spelling.Count(p.mould.Slots(), "slot")
	return nil
}

// refuse turns an error into findings.
func (p *prover) refuse(s *Stage, err error) error {
	if p.ctx.Err() != nil {
		return p.ctx.Err()
	}
	var wrong manifest.Problems
	var inFiles mould.Problems
	switch {
	case errors.As(err, &wrong):
		for _, problem := range wrong {
			s.Findings = append(s.Findings, Finding{Path: manifest.FileName, Line: problem.Line, Column: problem.Column, Message: problem.Message})
		}
	case errors.As(err, &inFiles):
		for _, problem := range inFiles {
			s.Findings = append(s.Findings, Finding{Path: problem.Path, Line: problem.Line, Message: problem.Message, Excerpt: problem.Excerpt})
		}
	default:
		for _, line := range strings.Split(err.Error(), "\n") {
			s.find("%s", line)
		}
	}
	return nil
}

func (p *prover) checkScripts(s *Stage) {
	for _, hook := range slices.Concat(p.manifest.Hooks.Before, p.manifest.Hooks.After) {
		if hook.Script == "" {
			continue
		}
		if entry, found := p.template.Find(hook.Script); !found || entry.Kind != tree.File {
			s.Findings = append(s.Findings, Finding{Path: manifest.FileName, Line: hook.Line, Message: fmt.Sprintf("there is no script %s in the template", hook.Script)})
		}
	}
}

// unmarked returns the source project as it would be without marks.
func unmarked(m *mould.Mould, limits tree.Limits) (tree.Tree, error) {
	var entries []tree.Entry
	for i := range m.Files {
		f := &m.Files[i]
		if f.Declared && slices.ContainsFunc(m.Files, func(other mould.File) bool { return strings.HasPrefix(other.Source.Path, f.Source.Path+"/") }) {
			continue
		}
		e := f.Source
		if f.Parts != nil {
			content, err := e.Bytes()
			if err != nil {
				return tree.Tree{}, err
			}
			e.Content = tree.Memory(marks.Strip(content, syntax.Of(e.Path)))
		}
		entries = append(entries, e)
	}
	return tree.New(entries, limits)
}

func (p *prover) roundTrip(s *Stage) error {
	s.Detail = "cast with the source's own values"
	reference, wrong := values.Reference(p.manifest, p.occasion)
	for _, problem := range wrong {
		s.find("the source's own values are refused: %s", values.Problems{problem})
	}
	cast, err := p.mould.Cast(reference)
	if err != nil {
		return p.refuse(s, err)
	}
	return p.compare(s, cast)
}

func (p *prover) compare(s *Stage, got tree.Tree) error {
	differences, err := tree.Compare(p.source, got)
	for _, d := range differences {
		s.Findings = append(s.Findings, Finding{Path: d.Path, Line: d.Line, Message: d.What + p.because(d.Path)})
	}
	return err
}

// because names the rules that decide over a file, where it has any.
func (p *prover) because(path string) string {
	for i := range p.mould.Files {
		f := &p.mould.Files[i]
		if f.Source.Path != path {
			continue
		}
		switch {
		case len(f.OnlyWhen) > 0:
			return fmt.Sprintf("; only_when on line %d of the manifest decides over it, and must hold for the source's own values", p.manifest.Files.OnlyWhen[f.OnlyWhen[0]].Line)
		case len(f.Swaps) > 0:
			return fmt.Sprintf("; swap on line %d of the manifest decides over it, and must not hold for the source's own values", p.manifest.Files.Swap[f.Swaps[0].Rule].Line)
		case f.Repeat != nil:
			return fmt.Sprintf("; it is repeated for each %s, so %s must have the one item %q as its reference", f.Repeat.Item, p.manifest.Variables[f.Repeat.List].Name, f.Repeat.StandingFor)
		case f.Parts != nil:
			return "; its marks must choose, for the source's own values, the lines that are not held"
		}
	}
	return ""
}

func (p *prover) noTrace(s *Stage) error {
	var err error
	if p.distinct, err = distinctValues(p.ctx, p.source, p.manifest, p.repeats); err != nil {
		return err
	}
	s.Detail = p.describeDistinct()
	if p.casting, err = p.mould.Apply(p.distinct.values); err != nil {
		return p.refuse(s, err)
	}
	if p.cast, err = p.casting.Tree(); err != nil {
		return p.refuse(s, err)
	}
	found, accepted, err := p.traces(p.casting, p.cast, p.distinct.held)
	s.Findings = append(s.Findings, found...)
	for i, trace := range p.manifest.Accepted {
		if !accepted[i] {
			s.Warnings = append(s.Warnings, Finding{Path: manifest.FileName, Message: fmt.Sprintf("accept_traces holds %q, which is no trace", trace.Text)})
		}
	}
	if len(accepted) > 0 {
		s.Detail += "; " + spelling.Count(len(accepted), "accepted trace")
	}
	return err
}

// traces returns what is left of the source in a cast, and which of the accepted
// traces were met. The variables in free may have the source's own value.
func (p *prover) traces(casting *mould.Casting, cast tree.Tree, free []string) ([]Finding, map[int]bool, error) {
	options := p.castOptionsOf(casting)
	m := without(p.manifest, free)
	m.Variables = append(m.Variables, p.itemVariables()...)
	traces, err := mould.Traces(p.ctx, cast, m, options)
	var found []Finding
	accepted := map[int]bool{}
	for _, t := range traces {
		path := options.SourcePath(t.Path)
		if i := p.acceptedBy(t, path); i >= 0 {
			accepted[i] = true
			continue
		}
		where := "in the path"
		if t.Line > 0 {
			where = "here"
		}
		found = append(found, Finding{Path: path, Line: t.Line, Excerpt: t.Excerpt,
			Message: fmt.Sprintf("%q, which %s stands for, is still %s", t.Text, t.Variable, where)})
	}
	return found, accepted, err
}

func (p *prover) acceptedBy(t mould.Trace, path string) int {
	return slices.IndexFunc(p.manifest.Accepted, func(a manifest.AcceptedTrace) bool {
		return strings.EqualFold(a.Text, t.Text) && (len(a.In) == 0 || matchesAny(a.In, path))
	})
}

// itemVariables returns a variable for the item of each list that is repeated,
// standing for what it does in the source.
func (p *prover) itemVariables() []manifest.Variable {
	var items []manifest.Variable
	for _, r := range p.repeats {
		item := p.manifest.Variables[r.List].ItemVariable(p.manifest.Variables[r.List].Name)
		item.StandsFor = r.StandingFor
		if !slices.ContainsFunc(items, func(other manifest.Variable) bool {
			return other.Name == item.Name && other.StandsFor == item.StandsFor
		}) {
			items = append(items, *item)
		}
	}
	return items
}

func (p *prover) describeDistinct() string {
	var set []string
	for i := range p.manifest.Variables {
		v := &p.manifest.Variables[i]
		if _, repeats := p.distinct.items[v.Name]; (v.StandsFor != "" || repeats) && !slices.Contains(p.distinct.held, v.Name) {
			set = append(set, fmt.Sprintf("%s=%q", v.Name, p.distinct.values.Get(v.Name)))
		}
	}
	detail := "cast with " + strings.Join(set, ", ")
	if len(set) == 0 {
		detail = "no variable stands for a text"
	}
	if len(p.distinct.held) > 0 {
		detail += fmt.Sprintf("; %s kept as in the source, for want of a value that is not in it", strings.Join(p.distinct.held, ", "))
	}
	return detail
}

// castOptionsOf match globs against the paths of the source project while a cast
// is looked at.
func (p *prover) castOptionsOf(casting *mould.Casting) mould.Options {
	source := map[string]string{}
	for _, f := range casting.Files {
		source[f.Path] = f.File.Source.Path
	}
	return mould.Options{Limits: p.options.Limits, SourcePath: func(path string) string {
		if from, is := source[path]; is {
			return from
		}
		return path // a script made it
	}}
}

func (p *prover) castBack(s *Stage) error {
	s.Detail = "that cast, taken as a template and cast with the source's own values"
	if len(p.cast.Entries()) == 0 {
		s.find("there is no cast to start from")
		return nil
	}
	// The cast has no options left: it is a template of names and texts alone.
	turned := *p.manifest
	turned.Files = manifest.Files{Verbatim: p.manifest.Files.Verbatim}
	turned.Variables = slices.Clone(p.manifest.Variables)
	for i := range turned.Variables {
		if v := &turned.Variables[i]; v.StandsFor != "" {
			v.StandsFor = p.distinct.values.Get(v.Name).Write(values.Plain)
		}
	}
	back, _ := values.Reference(p.manifest, p.occasion)
	for i := range p.manifest.Variables {
		// A computed variable goes back to what it stands for, too.
		if v := &p.manifest.Variables[i]; v.StandsFor != "" && v.IsComputed() {
			if value, err := values.Read(v, manifest.Typed(v.StandsFor)); err == nil {
				back = back.With(v.Name, value)
			}
		}
	}
	for _, item := range p.itemVariables() {
		list := item.Name
		value, err := values.Read(&item, manifest.Typed(item.StandsFor))
		if _, known := p.distinct.items[list]; err != nil || !known {
			continue
		}
		item.Name = list + "\x00item"
		item.StandsFor = p.distinct.items[list].Write(values.Plain)
		turned.Variables = append(turned.Variables, item)
		back = back.With(item.Name, value)
	}
	compiled, err := mould.Compile(p.ctx, p.cast, &turned, p.castOptionsOf(p.casting))
	if err != nil {
		return p.refuse(s, err)
	}
	cast, err := compiled.Cast(back)
	if err != nil {
		return p.refuse(s, err)
	}
	return p.compare(s, cast)
}

// without returns the manifest less the variables of those names.
func without(m *manifest.Manifest, names []string) *manifest.Manifest {
	less := *m
	less.Variables = nil
	less.Files.Repeat = nil
	for _, v := range m.Variables {
		if !slices.Contains(names, v.Name) {
			less.Variables = append(less.Variables, v)
		}
	}
	return &less
}
