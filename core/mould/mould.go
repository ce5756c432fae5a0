// Package mould compiles a template once, so that casting it only joins pieces.
//
// Compiling finds every place that varies, in contents, paths and the targets
// of links, and remembers it as a slot: where it is, and the rule that fills it
// (which variable, in which form). What lies between slots is fixed. A cast
// then is the fixed bytes with the slots' texts between them:
//
//	source:  package crossingboard // the crossing board
//	slots:           ^ service, flat       ^ service, spaced
//	cast:    package tidegauge // the tide gauge
//
// The search runs in one pass over the source, the longest literal first and
// from the left, so a value is never replaced again. A Mould does not change
// once it is compiled, and is safe for use by many goroutines.
package mould

import (
	"bytes"
	"context"
	"fmt"
	"path"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"

	"ironcast/core/manifest"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// Mould is a compiled template.
type Mould struct {
	Manifest *manifest.Manifest
	Files    []File // in the order of their paths in the source project
	rules    []Rule
	used     []ruleID // the rules that some slot refers to, in order
	limits   tree.Limits
}

// Rule says what fills a slot.
type Rule struct {
	Variable int // index into Manifest.Variables
	Form     values.Form
	Literal  string // what stands there in the source project
}

type ruleID = uint32

// Slot is one place where a value is written: source[Start:End].
type Slot struct {
	Start, End uint32
	Rule       ruleID
	Guessed    bool // whether the form was chosen among several that coincide
}

// File is an entry of the source project with its slots.
type File struct {
	Source      tree.Entry
	PathSlots   []Slot // in Source.Path
	TargetSlots []Slot // in Source.Target
	Slots       []Slot // in the content
	Verbatim    bool   // whether a rule keeps its content as it is
	Binary      bool   // whether it is no text, so that its content has no slots
}

// Options change how a tree is compiled.
type Options struct {
	Limits tree.Limits
	// SourcePath maps an entry's path to the one that globs are matched
	// against; nil for the path itself.
	SourcePath func(path string) string
}

// Source returns the part of a template's tree that a cast copies: what lies
// below the manifest's source folder, without the manifest, its folder, and
// what is left out.
func Source(t tree.Tree, m *manifest.Manifest) tree.Tree {
	if m.Source != "." {
		t = t.Below(m.Source)
	}
	return t.Select(func(e tree.Entry) bool {
		return !Own(e.Path) && !LeftOut(m, e.Path)
	})
}

// Own tells whether a path at a template's root belongs to the template alone.
func Own(p string) bool {
	return p == manifest.FileName || p == manifest.FolderName || strings.HasPrefix(p, manifest.FolderName+"/")
}

// LeftOut tells whether the manifest leaves out a path of the source project.
func LeftOut(m *manifest.Manifest, p string) bool { return matches(m.Files.LeaveOut, p) }

// Compile finds all slots of the template's source project, which is what
// Source returns for it.
func Compile(ctx context.Context, source tree.Tree, m *manifest.Manifest, options Options) (*Mould, error) {
	c := newCompiler(m, options)
	entries := source.Entries()
	mould := &Mould{Manifest: m, Files: make([]File, len(entries)), limits: options.Limits}
	err := parallel(ctx, len(entries), func(i int, buffer []byte) ([]byte, error) {
		var err error
		mould.Files[i], buffer, err = c.file(entries[i], buffer)
		return buffer, err
	})
	if err != nil {
		return nil, err
	}
	mould.rules = c.rules
	mould.used = usedRules(mould.Files, len(c.rules))
	return mould, nil
}

func usedRules(files []File, count int) []ruleID {
	used := make([]bool, count)
	for i := range files {
		for _, slots := range files[i].allSlots() {
			for _, slot := range slots {
				used[slot.Rule] = true
			}
		}
	}
	var ids []ruleID
	for id, is := range used {
		if is {
			ids = append(ids, ruleID(id))
		}
	}
	return ids
}

// Slots returns how many slots there are in all contents, paths and targets.
func (m *Mould) Slots() int {
	count := 0
	for i := range m.Files {
		count += len(m.Files[i].PathSlots) + len(m.Files[i].TargetSlots) + len(m.Files[i].Slots)
	}
	return count
}

// SlotsByVariable returns how many slots each variable has, by its name.
func (m *Mould) SlotsByVariable() map[string]int {
	counts := map[string]int{}
	for i := range m.Files {
		for _, slots := range m.Files[i].allSlots() {
			for _, slot := range slots {
				counts[m.Variable(slot).Name]++
			}
		}
	}
	return counts
}

func (f *File) allSlots() [3][]Slot { return [3][]Slot{f.PathSlots, f.TargetSlots, f.Slots} }

// Rule returns the rule that fills a slot.
func (m *Mould) Rule(slot Slot) Rule { return m.rules[slot.Rule] }

// Variable returns the variable whose value fills a slot.
func (m *Mould) Variable(slot Slot) *manifest.Variable {
	return &m.Manifest.Variables[m.rules[slot.Rule].Variable]
}

// compiler holds what all files are compiled with. It does not change.
type compiler struct {
	manifest *manifest.Manifest
	options  Options
	rules    []Rule
	slots    *matcher
	keeps    *matcher // nil where the manifest keeps nothing
	single   []bool   // by variable: a name of one word
}

func newCompiler(m *manifest.Manifest, options Options) *compiler {
	c := &compiler{manifest: m, options: options, single: make([]bool, len(m.Variables))}
	literals := map[string][]claim{}
	for i := range m.Variables {
		v := &m.Variables[i]
		if v.StandsFor == "" {
			continue
		}
		stands, _ := values.Read(v, values.Typed(v.StandsFor))
		c.single[i] = v.Kind == manifest.KindName && !strings.Contains(stands.String(), " ")
		for _, literal := range stands.Literals() {
			claim := claim{variable: i}
			for _, form := range literal.Forms {
				claim.forms = append(claim.forms, ruleID(len(c.rules)))
				c.rules = append(c.rules, Rule{Variable: i, Form: form, Literal: literal.Text})
			}
			literals[literal.Text] = append(literals[literal.Text], claim)
		}
	}
	c.slots = newMatcher(literals)
	if len(m.Keep) > 0 {
		kept := map[string][]claim{}
		for _, text := range m.Keep {
			kept[text] = []claim{{}}
		}
		c.keeps = newMatcher(kept)
	}
	return c
}

func (c *compiler) file(e tree.Entry, buffer []byte) (File, []byte, error) {
	f := File{Source: e}
	scope := scope{compiler: c, path: e.Path}
	if c.options.SourcePath != nil {
		scope.path = c.options.SourcePath(e.Path)
	}
	var err error
	if f.PathSlots, err = scope.search([]byte(e.Path), spelling.InPath); err != nil {
		return File{}, nil, err
	}
	switch e.Kind {
	case tree.Link:
		f.TargetSlots, err = scope.search([]byte(e.Target), spelling.InPath)
	case tree.File:
		f.Verbatim = matches(c.manifest.Files.Verbatim, scope.path)
		if f.Verbatim {
			break
		}
		var content []byte
		if content, buffer, err = contentOf(e, buffer); err != nil {
			return File{}, nil, err
		}
		if f.Binary = tree.IsBinary(content); !f.Binary {
			f.Slots, err = scope.search(content, placeOf(e.Path))
		}
	}
	return f, buffer, err
}

var proseEndings = []string{".md", ".markdown", ".txt", ".rst", ".adoc", ".html", ".htm"}

func placeOf(p string) spelling.Place {
	if slices.Contains(proseEndings, strings.ToLower(path.Ext(p))) {
		return spelling.InProse
	}
	return spelling.InCode
}

// scope is one file while it is searched.
type scope struct {
	*compiler
	path string       // that globs are matched against
	open map[int]bool // by variable: whether it is looked for in this file
}

func (s *scope) includes(variable int) bool {
	is, known := s.open[variable]
	if !known {
		v := &s.manifest.Variables[variable]
		is = (len(v.In) == 0 || matches(v.In, s.path)) && !matches(v.Except, s.path)
		if s.open == nil {
			s.open = map[int]bool{}
		}
		s.open[variable] = is
	}
	return is
}

// search returns the slots in data, from left to right.
func (s *scope) search(data []byte, place spelling.Place) ([]Slot, error) {
	var slots []Slot
	var hits []hit
	var kept []span
	searchedKept := s.keeps == nil
	b := newBudget(data)
	for i := s.slots.begin(data, 0); i < len(data); {
		hits = s.slots.at(data, i, hits[:0], &b)
		if len(hits) > 0 && !searchedKept {
			kept, searchedKept = s.keeps.all(data, &b), true
		}
		if b.steps <= 0 {
			return nil, fmt.Errorf("%s %w", s.path, errTooOften)
		}
		end := i + 1
		for at := len(hits) - 1; at >= 0; at-- {
			if overlaps(kept, i, hits[at].end) {
				continue
			}
			winner, err := s.winner(hits[at], data, i, place)
			if err != nil {
				return nil, err
			}
			if winner == nil {
				continue
			}
			slot := Slot{Start: uint32(i), End: uint32(hits[at].end)}
			slot.Rule, slot.Guessed = s.choose(winner, data, slot, place)
			slots = append(slots, slot)
			end = hits[at].end
			break
		}
		i = s.slots.begin(data, end)
	}
	return slots, nil
}

// winner returns the one claim that holds where a literal stands, or nil.
func (s *scope) winner(h hit, data []byte, start int, place spelling.Place) (*claim, error) {
	var winner *claim
	for i := range h.claims {
		v := &s.manifest.Variables[h.claims[i].variable]
		if place == spelling.InPath && !v.Paths || place != spelling.InPath && !v.Contents {
			continue
		}
		if !s.bounded(h.claims[i].variable, data, start, h.end) || !s.includes(h.claims[i].variable) {
			continue
		}
		if winner != nil {
			return nil, fmt.Errorf("the variables %s and %s both claim the text %q at %s; limit one of them with in or except",
				s.manifest.Variables[winner.variable].Name, v.Name, data[start:h.end], s.position(data, start, place))
		}
		winner = &h.claims[i]
	}
	return winner, nil
}

func (s *scope) position(data []byte, at int, place spelling.Place) string {
	if place == spelling.InPath {
		return "the path " + s.path
	}
	return fmt.Sprintf("%s:%d", s.path, 1+strings.Count(string(data[:at]), "\n"))
}

// bounded tells whether the text's neighbours let it stand for the variable.
func (s *scope) bounded(variable int, data []byte, start, end int) bool {
	v := &s.manifest.Variables[variable]
	switch {
	case v.Match == manifest.MatchAnywhere:
		return true
	case v.Match == manifest.MatchPart:
		return spelling.IsPart(data, start, end)
	case v.Kind != manifest.KindName:
		return spelling.IsWhole(data, start, end)
	case s.single[variable]:
		return spelling.IsPart(data, start, end)
	}
	return true
}

// choose returns the rule among those of a claim, and whether it is a guess.
func (s *scope) choose(c *claim, data []byte, slot Slot, place spelling.Place) (ruleID, bool) {
	if len(c.forms) == 1 {
		return c.forms[0], false
	}
	candidates := make([]spelling.Spelling, len(c.forms))
	for i, rule := range c.forms {
		candidates[i] = spelling.Spelling(s.rules[rule].Form)
	}
	for _, rule := range s.manifest.Variables[c.variable].Spell {
		if i := slices.Index(candidates, rule.As); i >= 0 && matches(rule.In, s.path) {
			return c.forms[i], false
		}
	}
	if i := slices.Index(candidates, spelling.Flat); i >= 0 && namesGoTestPackage(s.path, data, slot) {
		return c.forms[i], false
	}
	chosen := spelling.Choose(candidates, data, int(slot.Start), int(slot.End), place)
	return c.forms[slices.Index(candidates, chosen)], true
}

// namesGoTestPackage tells whether a slot is the name in "package name_test",
// which Go's tests must write as the package itself does: flat, whatever stands
// beside it.
func namesGoTestPackage(p string, data []byte, slot Slot) bool {
	return strings.HasSuffix(p, "_test.go") && bytes.HasSuffix(data[:slot.Start], []byte("package ")) &&
		bytes.HasPrefix(data[slot.End:], []byte("_test"))
}

// matches tells whether one of the globs matches the path. They have been
// checked by the manifest.
func matches(globs []string, p string) bool {
	for _, glob := range globs {
		if doublestar.MatchUnvalidated(glob, p) {
			return true
		}
	}
	return false
}
