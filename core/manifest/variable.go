package manifest

import (
	"regexp"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"ironcast/core/expression"
	"ironcast/core/spelling"
)

// Kind is what values a variable takes.
type Kind string

const (
	KindName    Kind = "name"    // words, written in the spelling of each place
	KindText    Kind = "text"    // any text
	KindInteger Kind = "integer" // a whole number
	KindNumber  Kind = "number"  // a number, with a point or without
	KindBoolean Kind = "boolean" // true or false
	KindChoice  Kind = "choice"  // one of several options
	KindChoices Kind = "choices" // any of several options
	KindList    Kind = "list"    // several names, texts or whole numbers
	KindPackage Kind = "package" // a dotted name that is also a folder path
	KindID      Kind = "id"      // a UUID (RFC 9562), new for each project
	KindSecret  Kind = "secret"  // a text that is never stored or shown
)

// Kinds are all kinds, in the order in which they are listed to people.
var Kinds = []Kind{KindName, KindText, KindInteger, KindNumber, KindBoolean, KindChoice, KindChoices, KindList, KindPackage, KindID, KindSecret}

// Match says how much of a longer word a literal may be.
type Match string

const (
	MatchDefault  Match = ""         // anywhere for names of several words, part for one word, whole for the rest
	MatchAnywhere Match = "anywhere" // inside other words as well
	MatchPart     Match = "part"     // only as a whole part of a word
)

// Variable is what changes from project to project. Its values are held in one
// form for each kind, which Read returns.
type Variable struct {
	Name string `json:"name"`
	Kind Kind   `json:"kind" enum:"name,text,integer,number,boolean,choice,choices,list,package,id,secret"`
	Of   Kind   `json:"of,omitempty" enum:"name,text,integer" doc:"The kind of a list's items."`

	Label    string `json:"label,omitempty" doc:"For people; the name where there is none."`
	Help     string `json:"help,omitempty"`
	Examples []any  `json:"examples,omitempty"`

	Default   any    `json:"default,omitempty" doc:"In the JSON type of its kind, or a text that holds \"${\" where it is computed from other values."`
	Value     string `json:"value,omitempty" doc:"The expression that computes it, where it is never asked for."`
	AskWhen   string `json:"ask_when,omitempty" doc:"The condition under which it is asked for."`
	Reference any    `json:"reference,omitempty" doc:"The source project's own value."`
	StandsFor string `json:"stands_for,omitempty" doc:"The text of the source project."`

	In       []string `json:"in,omitempty" doc:"Globs of the files it is looked for in; all when empty."`
	Except   []string `json:"except,omitempty" doc:"Globs of files it is not looked for in."`
	Contents bool     `json:"-"` // looked for in contents
	Paths    bool     `json:"-"` // looked for in paths
	Match    Match    `json:"-"`
	Spell    []Spell  `json:"-"` // overrides the spelling where several coincide
	AsIs     bool     `json:"-"` // written without escaping

	Minimum   *float64 `json:"minimum,omitempty"`
	Maximum   *float64 `json:"maximum,omitempty"`
	MinLength *int     `json:"min_length,omitempty" doc:"In characters."`
	MaxLength *int     `json:"max_length,omitempty" doc:"In characters."`
	MinItems  *int     `json:"min_items,omitempty"`
	MaxItems  *int     `json:"max_items,omitempty"`
	Pattern   string   `json:"pattern,omitempty" doc:"A regular expression that a text must match."`
	Format    string   `json:"format,omitempty" doc:"A format of JSON Schema that a text must have."`
	Lines     bool     `json:"lines,omitempty" doc:"Whether a text may have several lines."`
	Options   []Option `json:"options,omitempty"`

	Check *Check `json:"-"`

	pattern  *regexp.Regexp         // Pattern, compiled; nil where there is none
	format   *jsonschema.Schema     // Format, compiled; nil where there is none
	computed *expression.Template   // Default, where it is computed
	value    *expression.Expression // Value, compiled
	askWhen  *expression.Expression // AskWhen, compiled
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

// IsList tells whether it has several values.
func (v *Variable) IsList() bool { return v.Kind == KindList || v.Kind == KindChoices }

// IsComputed tells whether an expression gives its value.
func (v *Variable) IsComputed() bool { return v.value != nil }

// Compute returns what the expression of a computed variable gives.
func (v *Variable) Compute(vs expression.Values) (any, error) { return v.value.Evaluate(vs) }

// HasDefault tells whether it has a default, fixed or computed.
func (v *Variable) HasDefault() bool { return v.Default != nil }

// DefaultIsComputed tells whether the default depends on other values.
func (v *Variable) DefaultIsComputed() bool { return v.computed != nil }

// ComputeDefault returns the default for these values. It is nil where there is
// none.
func (v *Variable) ComputeDefault(vs expression.Values) (any, error) {
	if v.computed == nil {
		return v.Default, nil
	}
	return v.computed.Evaluate(vs)
}

// Asked tells whether the variable is asked for, given the values that its
// condition needs. Computed variables and ids never are.
func (v *Variable) Asked(vs expression.Values) (bool, error) {
	if v.value != nil || v.Kind == KindID {
		return false, nil
	}
	if v.askWhen == nil {
		return true, nil
	}
	return v.askWhen.Decide(vs)
}

// Conditional tells whether it is asked for only under a condition.
func (v *Variable) Conditional() bool { return v.askWhen != nil }

// Needs returns the names of the variables that must have values before this
// one can.
func (v *Variable) Needs() []string {
	var needs []string
	if v.value != nil {
		needs = append(needs, v.value.Uses()...)
	}
	if v.computed != nil {
		needs = append(needs, v.computed.Uses()...)
	}
	if v.askWhen != nil {
		needs = append(needs, v.askWhen.Uses()...)
	}
	return needs
}

// ReferenceValue returns the source project's own value, as it would be given,
// and whether the manifest says it.
func (v *Variable) ReferenceValue() (any, bool) {
	switch {
	case v.Reference != nil:
		return v.Reference, true
	case v.StandsFor != "":
		return Typed(v.StandsFor), true
	}
	return nil, false
}

// Type returns the type under which expressions know the variable.
func (v *Variable) Type() expression.Type {
	kind := v.Kind
	if v.Kind == KindList {
		kind = v.Of
	}
	t := expression.Text
	switch kind {
	case KindName:
		t = expression.NameType
	case KindPackage:
		t = expression.PackageType
	case KindInteger:
		t = expression.Whole
	case KindNumber:
		t = expression.Decimal
	case KindBoolean:
		t = expression.Truth
	}
	if v.IsList() {
		return expression.ListOf(t)
	}
	return t
}

// accepts returns the types from which a value of the variable can be made.
func (v *Variable) accepts() []expression.Type {
	kind := v.Kind
	if v.Kind == KindList {
		kind = v.Of
	}
	types := []expression.Type{expression.Text}
	switch kind {
	case KindName:
		types = append(types, expression.NameType)
	case KindPackage:
		types = append(types, expression.PackageType)
	case KindInteger:
		types = []expression.Type{expression.Whole}
	case KindNumber:
		types = []expression.Type{expression.Decimal, expression.Whole}
	case KindBoolean:
		types = []expression.Type{expression.Truth}
	}
	if v.IsList() {
		for i := range types {
			types[i] = expression.ListOf(types[i])
		}
	}
	return types
}
