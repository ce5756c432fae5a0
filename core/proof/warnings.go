package proof

import (
	"fmt"

	"github.com/bmatcuk/doublestar/v4"

	"ironcast/core/manifest"
)

func matchesAny(globs []string, path string) bool {
	for _, glob := range globs {
		if doublestar.MatchUnvalidated(glob, path) {
			return true
		}
	}
	return false
}

// idleRules returns a warning for each rule for files that matches none. What is
// left out is not in the template's tree: bundle.IdleLeaveOut tells those rules.
func (p *prover) idleRules() []Finding {
	var idle []Finding
	check := func(line int, what string, globs ...string) {
		for _, glob := range globs {
			matched := false
			for i := range p.mould.Files {
				if doublestar.MatchUnvalidated(glob, p.mould.Files[i].Source.Path) {
					matched = true
					break
				}
			}
			if !matched {
				idle = append(idle, Finding{Path: manifest.FileName, Line: line, Message: fmt.Sprintf("%s names %q, which matches no file", what, glob)})
			}
		}
	}
	files := p.manifest.Files
	check(0, "verbatim", files.Verbatim...)
	for _, rule := range files.OnlyWhen {
		check(rule.Line, "only_when", rule.Paths...)
	}
	for _, rule := range files.Swap {
		check(rule.Line, "swap", rule.Path)
	}
	for _, rule := range files.Repeat {
		check(rule.Line, "repeat", rule.Paths...)
	}
	for i := range p.manifest.Variables {
		v := &p.manifest.Variables[i]
		check(0, "in of "+v.Name, v.In...)
		check(0, "except of "+v.Name, v.Except...)
	}
	return idle
}

// difficult is a text that needs quotes or escapes in most formats.
const difficult = "a: \"b\" 'c' #d\ne"

// narrowPlaces returns a warning for each place that cannot hold every text its
// variable may have.
func (p *prover) narrowPlaces() []Finding {
	var narrow []Finding
	seen := map[string]bool{}
	for i := range p.mould.Files {
		f := &p.mould.Files[i]
		for _, slot := range f.Slots {
			rule := p.mould.Rule(slot)
			if rule.Place.IsZero() {
				continue
			}
			if _, err := rule.Place.Write(difficult); err == nil {
				continue
			}
			v := p.mould.Variable(slot)
			if _, err := v.Read(manifest.Typed(difficult[:len(difficult)-2])); err != nil || seen[f.Source.Path+v.Name] {
				continue
			}
			seen[f.Source.Path+v.Name] = true
			narrow = append(narrow, Finding{Path: f.Source.Path, Line: p.mould.LineOf(f, slot), Message: fmt.Sprintf("not every text that %s may be can be written here; put quotes around the text it stands in", v.Name)})
		}
	}
	return narrow
}
