// Package manifest reads ironcast.yaml, the file that makes a project a
// template: what varies in it, what is left out, and what it is called in the
// catalogue.
//
//	ironcast: 1
//	template: harbour-service
//	version: 1.2.0
//	team: kelpwick
//	variables:
//	  service:
//	    kind: name
//	    stands_for: crossing board
//
// Parse reports everything that is wrong at once, each with its line and column
// and what would be right. What it returns has been checked: globs and patterns
// compile, versions are SemVer, names are names, bounds make sense.
package manifest

import (
	"fmt"
	"regexp"
	"slices"

	"ironcast/core/spelling"
	"ironcast/core/tree"
)

const (
	// FileName is the manifest's name, at the root of a template.
	FileName = "ironcast.yaml"
	// FolderName is the folder beside it with what belongs to the template alone.
	FolderName = ".ironcast"
	// Format is the version of the manifest's format that this package reads.
	Format = 1
	// MaxBytes is the size up to which a manifest is read.
	MaxBytes = 1 << 20
)

// Manifest is what ironcast.yaml says.
type Manifest struct {
	Template string   // its name in the catalogue, in kebab-case
	Title    string   // for people
	Summary  string   // one sentence
	Version  string   // SemVer 2.0.0
	Team     string   // who owns it, in kebab-case
	Licence  string   // an SPDX expression
	Labels   []string // in kebab-case
	Source   string   // the folder of the source project, "." for the manifest's own

	Variables []Variable // in the order of the file
	Keep      []string   // texts that are never touched
	Files     Files
}

// Files are the rules for whole files; globs match paths below Source.
type Files struct {
	LeaveOut []string // not part of the template
	Verbatim []string // copied as they are
}

// Kind is what values a variable takes.
type Kind string

const (
	KindName    Kind = "name"    // words, written in the spelling of each place
	KindText    Kind = "text"    // any text
	KindInteger Kind = "integer" // a whole number
	KindBoolean Kind = "boolean" // true or false
	KindChoice  Kind = "choice"  // one of several options
	KindID      Kind = "id"      // a UUID (RFC 9562), new for each project
)

// Kinds are all kinds, in the order in which they are listed to people.
var Kinds = []Kind{KindName, KindText, KindInteger, KindBoolean, KindChoice, KindID}

// Match says how much of a longer word a literal may be.
type Match string

const (
	MatchDefault  Match = ""         // anywhere for names of several words, part for one word, whole for the rest
	MatchAnywhere Match = "anywhere" // inside other words as well
	MatchPart     Match = "part"     // only as a whole part of a word
)

// Variable is what changes from project to project.
type Variable struct {
	Name string `json:"name"`
	Kind Kind   `json:"kind" enum:"name,text,integer,boolean,choice,id"`

	Label    string   `json:"label,omitempty" doc:"For people; the name where there is none."`
	Help     string   `json:"help,omitempty"`
	Examples []string `json:"examples,omitempty"`

	Default   *string `json:"default,omitempty" doc:"As it would be typed."`
	Reference *string `json:"reference,omitempty" doc:"The source project's own value."`
	StandsFor string  `json:"stands_for,omitempty" doc:"The text of the source project."`

	In       []string `json:"in,omitempty" doc:"Globs of the files it is looked for in; all when empty."`
	Except   []string `json:"except,omitempty" doc:"Globs of files it is not looked for in."`
	Contents bool     `json:"-"` // looked for in contents
	Paths    bool     `json:"-"` // looked for in paths
	Match    Match    `json:"-"`
	Spell    []Spell  `json:"-"` // overrides the spelling where several coincide

	Minimum   *int64   `json:"minimum,omitempty"`
	Maximum   *int64   `json:"maximum,omitempty"`
	MinLength *int     `json:"min_length,omitempty" doc:"In characters."`
	MaxLength *int     `json:"max_length,omitempty" doc:"In characters."`
	Pattern   string   `json:"pattern,omitempty" doc:"A regular expression that a text must match."`
	Lines     bool     `json:"lines,omitempty" doc:"Whether a text may have several lines."`
	Options   []Option `json:"options,omitempty"`

	pattern *regexp.Regexp // Pattern, compiled; nil where there is none
}

// Spell names the spelling that is meant in some files.
type Spell struct {
	In []string
	As spelling.Spelling
}

// Option is one value of a choice.
type Option struct {
	Value string `json:"value"`
	Label string `json:"label"`
}

// Title returns the variable's label, or its name where it has none.
func (v *Variable) Title() string {
	if v.Label != "" {
		return v.Label
	}
	return v.Name
}

// ReferenceText returns the source project's own value as it would be typed,
// and whether the manifest says it.
func (v *Variable) ReferenceText() (string, bool) {
	switch {
	case v.Reference != nil:
		return *v.Reference, true
	case v.StandsFor != "":
		return v.StandsFor, true
	}
	return "", false
}

// Variable returns the variable of that name, or nil.
func (m *Manifest) Variable(name string) *Variable {
	i := slices.IndexFunc(m.Variables, func(v Variable) bool { return v.Name == name })
	if i < 0 {
		return nil
	}
	return &m.Variables[i]
}

// VariableNames returns the names of all variables, in order.
func (m *Manifest) VariableNames() []string {
	names := make([]string, len(m.Variables))
	for i := range m.Variables {
		names[i] = m.Variables[i].Name
	}
	return names
}

// Of returns the manifest of a template.
func Of(template tree.Tree) (*Manifest, error) {
	entry, found := template.Find(FileName)
	if !found || entry.Kind != tree.File {
		return nil, fmt.Errorf("there is no %s at the top of it, so it is no template; write one with: ironcast define", FileName)
	}
	data, err := entry.Bytes()
	if err != nil {
		return nil, err
	}
	return Parse(data)
}
