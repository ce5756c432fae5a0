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
// from the left, so a value is never replaced again. Files with marks are
// compiled to parts, of which some depend on a condition or are repeated. A
// Mould does not change once it is compiled, and is safe for use by many
// goroutines.
package mould

import (
	"context"
	"slices"
	"strings"

	"github.com/bmatcuk/doublestar/v4"

	"ironcast/core/expression"
	"ironcast/core/manifest"
	"ironcast/core/syntax"
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
	Literal  string       // the text of the source project, as the variable stands for it
	Place    syntax.Place // how a text is written there
	Repeat   *Repeat      // whose item fills it; nil where the variable itself does
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
	PathSlots   []Slot  // in Source.Path
	TargetSlots []Slot  // in Source.Target
	Slots       []Slot  // in the content
	Parts       []Part  // of the content; nil where it has no marks
	Verbatim    bool    // whether a rule keeps its content as it is
	Binary      bool    // whether it is no text, so that its content has no slots
	OnlyWhen    []int   // the rules of Manifest.Files.OnlyWhen that name it
	Swaps       []Swap  // what may be cast in its place
	Repeat      *Repeat // the list for whose items it is cast; nil for once
	Declared    bool    // whether it is an empty folder that the manifest asks for
}

// Swap is a file that is cast in the place of another under a condition.
type Swap struct {
	Rule int // index into Manifest.Files.Swap
	File File
}

// Part is a stretch of a content, or a block in it.
type Part struct {
	Start, End uint32 // of a stretch
	Slots      []Slot // in the stretch
	Choice     []Branch
	Repeat     *Repeat
}

// Branch is cast when its condition holds, and no branch before it.
type Branch struct {
	When  *expression.Expression // nil for always
	Line  int                    // of its mark
	Parts []Part
}

// Repeat is cast once for each item of a list.
type Repeat struct {
	Item        string // the name of the item
	List        int    // index into Manifest.Variables
	StandingFor string // the text of the source that becomes the item's
	Line        int    // of its mark, or of its rule in the manifest
	Parts       []Part // of a block
}

// Options change how a tree is compiled.
type Options struct {
	Limits tree.Limits
	// SourcePath maps an entry's path to the one that globs are matched
	// against; nil for the path itself.
	SourcePath func(path string) string
	// MarksAsText takes marks for text like any other, to look at a source
	// without its template.
	MarksAsText bool
	// Template is the whole template, in which what is swapped in is found.
	Template tree.Tree
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
// Source returns for it. What is wrong in its files is of type Problems.
func Compile(ctx context.Context, source tree.Tree, m *manifest.Manifest, options Options) (*Mould, error) {
	c, err := newCompiler(m, options)
	if err != nil {
		return nil, err
	}
	entries := withFolders(source.Entries(), m.Files.Folders)
	mould := &Mould{Manifest: m, Files: make([]File, len(entries)), limits: options.Limits}
	wrong := make([]Problems, len(entries))
	err = parallel(ctx, len(entries), func(i int, buffer []byte) ([]byte, error) {
		var err error
		mould.Files[i], buffer, err = c.file(entries[i], buffer)
		if problems, is := err.(Problems); is {
			wrong[i], err = problems, nil
		}
		return buffer, err
	})
	if err != nil {
		return nil, err
	}
	if problems := slices.Concat(wrong...); len(problems) > 0 {
		return nil, problems
	}
	for i := range mould.Files {
		mould.Files[i].Declared = mould.Files[i].Source.Kind == tree.Folder && slices.Contains(m.Files.Folders, mould.Files[i].Source.Path)
	}
	mould.rules = c.allRules()
	mould.used = usedRules(mould.Files, len(mould.rules))
	return mould, nil
}

// withFolders adds the folders that every project has.
func withFolders(entries []tree.Entry, folders []string) []tree.Entry {
	all := slices.Clone(entries)
	for _, folder := range folders {
		at, found := slices.BinarySearchFunc(all, folder, func(e tree.Entry, p string) int { return strings.Compare(e.Path, p) })
		if !found {
			all = slices.Insert(all, at, tree.Entry{Path: folder, Kind: tree.Folder})
		}
	}
	return all
}

func usedRules(files []File, count int) []ruleID {
	used := make([]bool, count)
	var mark func(f *File)
	mark = func(f *File) {
		for _, slots := range f.allSlots() {
			for _, slot := range slots {
				used[slot.Rule] = true
			}
		}
		for i := range f.Swaps {
			mark(&f.Swaps[i].File)
		}
	}
	for i := range files {
		mark(&files[i])
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
		for _, slots := range m.Files[i].allSlots() {
			count += len(slots)
		}
	}
	return count
}

// SlotsByVariable returns how many slots each variable has, by its name.
func (m *Mould) SlotsByVariable() map[string]int {
	counts := map[string]int{}
	var count func(f *File)
	count = func(f *File) {
		for _, slots := range f.allSlots() {
			for _, slot := range slots {
				counts[m.Variable(slot).Name]++
			}
		}
		for i := range f.Swaps {
			count(&f.Swaps[i].File)
		}
	}
	for i := range m.Files {
		count(&m.Files[i])
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

// Repeats returns everything in the template that is repeated.
func (m *Mould) Repeats() []*Repeat {
	var repeats []*Repeat
	add := func(r *Repeat) {
		if r != nil && !slices.Contains(repeats, r) {
			repeats = append(repeats, r)
		}
	}
	var inParts func(parts []Part)
	inParts = func(parts []Part) {
		for i := range parts {
			for _, branch := range parts[i].Choice {
				inParts(branch.Parts)
			}
			if r := parts[i].Repeat; r != nil {
				add(r)
				inParts(r.Parts)
			}
		}
	}
	for i := range m.Files {
		add(m.Files[i].Repeat)
		inParts(m.Files[i].Parts)
		for k := range m.Files[i].Swaps {
			inParts(m.Files[i].Swaps[k].File.Parts)
		}
	}
	return repeats
}

// LineOf returns the line of a slot in a file's content, from 1; 0 where the
// content cannot be read.
func (m *Mould) LineOf(f *File, slot Slot) int {
	content, err := f.Source.Bytes()
	if err != nil {
		return 0
	}
	return lineOf(content, slot.Start)
}
