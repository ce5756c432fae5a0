// Package survey reads an existing project and proposes what could vary in it:
// names in all their spellings, ids, ports; what should stay out of a template;
// and what needs care. The author only decides.
//
//	found, err := survey.Folder(ctx, "src/crossing-board", "crossing-board", survey.Options{Limits: tree.DefaultLimits()})
//	found.Names[0].Words // crossing board
package survey

import (
	"context"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
)

// Survey is what was found in a project. Every list begins with what matters
// most.
type Survey struct {
	Folder   string    `json:"folder"` // the project's folder name
	Files    int       `json:"files"`
	Bytes    int64     `json:"bytes"`
	Names    []Name    `json:"names"`
	IDs      []Literal `json:"ids"`
	Ports    []Literal `json:"ports"`
	LeaveOut []Group   `json:"leave_out"`
	Care     []Care    `json:"care"`

	Licence string `json:"licence,omitempty"` // SPDX id, where a licence file shows it
	Title   string `json:"title,omitempty"`   // of the readme
	Summary string `json:"summary,omitempty"` // the readme's first paragraph
}

// Name is a name that stands in the project in one or more spellings.
type Name struct {
	Words     string     `json:"words"`
	From      []string   `json:"from"` // what says so, such as "go.mod"
	Count     int        `json:"count"`
	Files     int        `json:"files"`
	Spellings []Spelling `json:"spellings"` // the most frequent first
	Places    []Place    `json:"places"`    // three examples
	Guessed   int        `json:"guessed"`   // places where several spellings coincide
	Inside    []Inside   `json:"inside"`    // longer words that hold it and are not touched
	Keep      []string   `json:"keep"`      // dependency names that hold it
	Proposed  bool       `json:"proposed"`  // whether define would accept it by itself
}

// Spelling counts one way of writing a name.
type Spelling struct {
	Spelling string `json:"spelling"`
	Text     string `json:"text"`
	Count    int    `json:"count"`
}

// Inside is a longer word that holds a name.
type Inside struct {
	Word  string `json:"word"`
	Count int    `json:"count"`
}

// Literal is an id or a number that stands in the project.
type Literal struct {
	Text     string   `json:"text"`
	Variable string   `json:"variable"` // a name for it, from what stands beside it
	Count    int      `json:"count"`
	Files    int      `json:"files"`
	Places   []Place  `json:"places"`
	In       []string `json:"in"`       // the files it stands in
	Proposed bool     `json:"proposed"` // whether it stands outside tests and documents
}

// Place is an example of where something stands.
type Place struct {
	Path string `json:"path"`
	Line int    `json:"line"` // from 1; 0 for the path itself
	Text string `json:"text"` // the line
}

// Group is a set of files with a reason.
type Group struct {
	Glob  string `json:"glob"`
	Why   string `json:"why"`
	Files int    `json:"files"` // 0 where the folder was not entered
}

// Care is something the author should know.
type Care struct {
	What  string   `json:"what"`
	Why   string   `json:"why"`
	Paths []string `json:"paths"`
}

// Options say how to read a project.
type Options struct {
	Limits   tree.Limits
	Progress func(files int, bytes int64)
}

// maxPlaces is how many example places are shown.
const maxPlaces = 3

// Folder reads the project in a folder without entering what is plainly build
// output, and surveys it.
func Folder(ctx context.Context, dir, name string, options Options) (*Survey, error) {
	left := leaveOut{root: dir}
	project, err := tree.ReadFolder(ctx, dir, tree.ReadOptions{
		Limits:   options.Limits,
		Progress: options.Progress,
		Skip:     left.skip,
		Twins: func(first, second string) {
			left.add(Group{Glob: escapeGlob(second), Why: "differs only in case from " + first, Files: 1})
		},
	})
	if err != nil {
		return nil, err
	}
	project = project.Select(func(e tree.Entry) bool { return !mould.Own(e.Path) })
	s := &Survey{Folder: name, Files: len(project.Entries()), Bytes: project.Size(), LeaveOut: left.groups()}
	facts, err := readFacts(project, name)
	if err != nil {
		return nil, err
	}
	s.Licence, s.Title, s.Summary = facts.licence, facts.title, facts.summary
	text, err := readText(ctx, project)
	if err != nil {
		return nil, err
	}
	if s.Names, err = findNames(ctx, project, facts, text, options.Limits); err != nil {
		return nil, err
	}
	s.IDs, s.Ports = text.ids(), text.ports()
	s.Care = findCare(project, text)
	return s, nil
}

// compileName compiles the project with one variable for the name.
func compileName(ctx context.Context, project tree.Tree, words string, limits tree.Limits) (*mould.Mould, error) {
	m := &manifest.Manifest{Source: ".", Variables: []manifest.Variable{{
		Name: "name", Kind: manifest.KindName, StandsFor: words, Contents: true, Paths: true,
	}}}
	return mould.Compile(ctx, project, m, mould.Options{Limits: limits, MarksAsText: true})
}
