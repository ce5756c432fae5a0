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
// and what would be right. What it returns has been checked: globs, patterns and
// expressions compile, versions are SemVer, names are names, bounds make sense,
// and no variable needs itself to have a value.
package manifest

import (
	"fmt"
	"slices"
	"time"

	"ironcast/core/expression"
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
	Order     []int      // indices of Variables, each after those that its value needs
	Keep      []string   // texts that are never touched
	Checks    []Check    // across variables
	Presets   []Preset
	Files     Files
	Hooks     Hooks
	NextSteps []NextStep
	Samples   []Sample
	Accepted  []AcceptedTrace // traces of the source project that may be left

	scope *expression.Scope
}

// Scope returns what the expressions of the template are checked against: its
// variables, and today.
func (m *Manifest) Scope() *expression.Scope { return m.scope }

// Files are the rules for whole files; globs match paths below Source.
type Files struct {
	LeaveOut []string // not part of the template
	Verbatim []string // copied as they are
	Folders  []string // empty folders that every project has
	OnlyWhen []OnlyWhen
	Swap     []Swap
	Repeat   []Repeat
}

// OnlyWhen casts some files under a condition.
type OnlyWhen struct {
	Paths []string // globs
	When  *expression.Expression
	Line  int // where the rule stands in the manifest
}

// Swap casts another file in the place of one, under a condition.
type Swap struct {
	Path string // in the source project
	With string // in the template, below FolderName
	When *expression.Expression
	Line int
}

// Repeat casts some files once for each item of a list.
type Repeat struct {
	Paths       []string // globs
	Item        string   // the name under which expressions find the item
	List        string   // the variable
	StandingFor string   // the text of the source project that becomes the item's
	Line        int
}

// Check is a condition that values must meet, and what is said when they do not.
type Check struct {
	That    *expression.Expression
	Message *expression.Template
}

// Preset is a named set of values that the author offers.
type Preset struct {
	Name   string         `json:"name"`
	Label  string         `json:"label,omitempty"`
	Help   string         `json:"help,omitempty"`
	Values map[string]any `json:"values" doc:"By variable."`
}

// Hooks are the steps around a cast, in their order.
type Hooks struct {
	Before []Hook // scripts alone
	After  []Hook
}

// Scripts tells whether any hook is a script.
func (h Hooks) Scripts() bool {
	return len(h.Before) > 0 || slices.ContainsFunc(h.After, func(hook Hook) bool { return hook.Script != "" })
}

// Hook is a script, which runs in a sandbox, or a command, which runs on the
// machine of the person who casts.
type Hook struct {
	Script      string                 // its path in the template; "" for a command
	Run         []*expression.Template // the command's arguments, the program first
	When        *expression.Expression // nil for always
	Timeout     time.Duration          // of a command
	Environment []string               // the names of further environment variables that a command gets
	Line        int
}

// DefaultTimeout is how long a command may run unless the manifest says
// otherwise.
const DefaultTimeout = 5 * time.Minute

// NextStep is something to do once a project is cast.
type NextStep struct {
	Do   *expression.Template
	Run  *expression.Template   // nil where there is nothing to run
	When *expression.Expression // nil for always
}

// Sample is a named set of values that the template must be proven with, and
// what must come out.
type Sample struct {
	Name    string
	Preset  string // "" for none
	Values  map[string]any
	Expect  Expect
	Refused string     // a part of the sentence with which the values must be refused; "" where they must not
	Run     [][]string // commands that must succeed in the project
	Timeout time.Duration
	Line    int
}

// Expect is what a sample's project must look like.
type Expect struct {
	Present  []string            // globs, each of which some path matches
	Absent   []string            // globs that no path matches
	Contains map[string][]string // by path: texts that stand in it
	Lacks    map[string][]string // by path: texts that do not
}

// AcceptedTrace is a text of the source project that may be left in a cast.
type AcceptedTrace struct {
	Text   string
	In     []string // globs; everywhere when empty
	Reason string
}

// Variable returns the variable of that name, or nil.
func (m *Manifest) Variable(name string) *Variable {
	i := slices.IndexFunc(m.Variables, func(v Variable) bool { return v.Name == name })
	if i < 0 {
		return nil
	}
	return &m.Variables[i]
}

// Preset returns the preset of that name, or nil.
func (m *Manifest) Preset(name string) *Preset {
	i := slices.IndexFunc(m.Presets, func(p Preset) bool { return p.Name == name })
	if i < 0 {
		return nil
	}
	return &m.Presets[i]
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
