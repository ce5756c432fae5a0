package proof

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strings"

	"golang.org/x/sync/errgroup"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// samples proves each sample, several at a time where commands are run.
func (p *prover) samples() error {
	samples := p.manifest.Samples
	results := make([]Stage, len(samples))
	group, ctx := errgroup.WithContext(p.ctx)
	group.SetLimit(max(p.options.AtOnce, 1))
	inner := *p
	inner.ctx = ctx
	for i := range samples {
		if p.options.Begin != nil {
			p.options.Begin("sample " + samples[i].Name)
		}
		group.Go(func() (err error) {
			results[i], err = timed("sample "+samples[i].Name, func(s *Stage) error { return inner.sample(s, samples[i]) })
			return err
		})
	}
	err := group.Wait()
	if err == nil {
		p.report.Stages = append(p.report.Stages, results...)
	}
	return err
}

func (p *prover) sample(s *Stage, sample manifest.Sample) error {
	given := values.Input{}
	if preset := p.manifest.Preset(sample.Preset); preset != nil {
		maps.Copy(given, preset.Values)
	}
	maps.Copy(given, sample.Values)
	result, err := hooks.Cast(p.ctx, p.request(given))
	if sample.Refused != "" {
		s.Detail = "its values must be refused"
		switch {
		case p.ctx.Err() != nil:
			return p.ctx.Err()
		case err == nil:
			s.find("the values are taken; they should be refused with %q", sample.Refused)
		case !strings.Contains(err.Error(), sample.Refused):
			s.find("the values are refused with %q; it should hold %q", err, sample.Refused)
		}
		return nil
	}
	if err != nil {
		return p.refuse(s, err)
	}
	if err := expect(s, sample.Expect, result.Project); err != nil {
		return err
	}
	s.Detail = spelling.Count(len(result.Project.Entries()), "file")
	if len(result.Changed) > 0 {
		s.Detail += fmt.Sprintf(", %d by scripts", len(result.Changed))
	}
	after, err := hooks.Commands(p.manifest, result.Values)
	if err != nil {
		return p.refuse(s, err)
	}
	switch count := len(sample.Run) + len(after); {
	case count == 0:
	case p.options.Run == nil:
		s.Detail += ", " + spelling.Count(count, "command") + " not run"
	default:
		s.Detail += ", " + spelling.Count(count, "command") + " run"
		if err := p.options.Run(p.ctx, result.Project, after, sample); err != nil {
			return p.refuse(s, err)
		}
	}
	return nil
}

// expect compares a project with what its sample says of it.
func expect(s *Stage, e manifest.Expect, project tree.Tree) error {
	matching := func(glob string) (string, bool) {
		for _, entry := range project.Entries() {
			if matchesAny([]string{glob}, entry.Path) {
				return entry.Path, true
			}
		}
		return "", false
	}
	for _, glob := range e.Present {
		if _, found := matching(glob); !found {
			s.find("%s should be there, and no path matches it", glob)
		}
	}
	for _, glob := range e.Absent {
		if path, found := matching(glob); found {
			s.Findings = append(s.Findings, Finding{Path: path, Message: fmt.Sprintf("is there; nothing should match %s", glob)})
		}
	}
	for _, check := range []struct {
		texts map[string][]string
		want  bool
		what  string
	}{{e.Contains, true, "does not hold"}, {e.Lacks, false, "holds"}} {
		for _, path := range slices.Sorted(maps.Keys(check.texts)) {
			entry, found := project.Find(path)
			if !found || entry.Kind != tree.File {
				s.Findings = append(s.Findings, Finding{Path: path, Message: "should be there to be looked into"})
				continue
			}
			content, err := entry.Bytes()
			if err != nil {
				return err
			}
			for _, text := range check.texts[path] {
				if bytes.Contains(content, []byte(text)) != check.want {
					s.Findings = append(s.Findings, Finding{Path: path, Message: fmt.Sprintf("%s %q", check.what, text)})
				}
			}
		}
	}
	return nil
}
