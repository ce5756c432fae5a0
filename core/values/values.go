// Package values turns what people give for a template's variables into typed
// values, or into everything that is wrong with it at once.
//
//	given := values.Input{"service": manifest.Typed("tide gauge"), "port": 8090}
//	resolved, err := values.Resolve(m, given, values.Now())
//
// A variable has the value that was given, else its default, which may be
// computed from others; computed variables follow from others alone. One that is
// not asked for and has no default is empty.
package values

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"ironcast/core/expression"
	"ironcast/core/manifest"
	"ironcast/core/spelling"
)

// Input is what was given: manifest.Typed, or JSON types that fit the
// variables' kinds.
type Input map[string]any

// Problem is what is wrong with one value, or with several together.
type Problem struct {
	Variable string `json:"variable" doc:"Empty where a check across variables fails."`
	Message  string `json:"message"`
	Missing  bool   `json:"missing,omitempty" doc:"Whether the value was just not given."`
}

// Problems is everything that is wrong with the values that were given.
type Problems []Problem

// Error returns one line for each problem.
func (p Problems) Error() string {
	lines := make([]string, len(p))
	for i, problem := range p {
		lines[i] = problem.Message
		if problem.Variable != "" {
			lines[i] = problem.Variable + ": " + problem.Message
		}
	}
	return strings.Join(lines, "\n")
}

// Occasion is what a cast takes from outside: the day, and new ids.
type Occasion struct {
	Today time.Time
	NewID func(variable string) string
}

// Now is today, with random UUIDs (RFC 9562, version 4).
func Now() Occasion {
	return Occasion{Today: time.Now(), NewID: func(string) string { return uuid.NewString() }}
}

// Stable is today, with ids that stay the same for the same seed and variable:
// for showing a cast that is not made yet.
func Stable(seed string) Occasion {
	return Occasion{Today: time.Now(), NewID: func(variable string) string {
		return uuid.NewSHA1(uuid.NameSpaceOID, []byte(seed+"\x00"+variable)).String()
	}}
}

// WithPreset returns what a preset gives and, over it, what was given.
func WithPreset(m *manifest.Manifest, preset string, given Input) (Input, error) {
	if preset == "" {
		return given, nil
	}
	p := m.Preset(preset)
	if p == nil {
		var names []string
		for _, other := range m.Presets {
			names = append(names, other.Name)
		}
		return nil, Problems{{Message: fmt.Sprintf("the template has no preset %q; it has %s", preset, strings.Join(names, ", "))}}
	}
	all := Input{}
	maps.Copy(all, p.Values)
	maps.Copy(all, given)
	return all, nil
}

// Resolve returns a value for every variable of m. Its error is of type
// Problems.
func Resolve(m *manifest.Manifest, given Input, o Occasion) (Values, error) {
	r := resolve(m, given, o)
	if len(r.problems) > 0 {
		return Values{}, r.problems
	}
	return r.values, nil
}

// State is where someone who gives values stands.
type State struct {
	Values   Values          // for every variable, with a stand-in where it has none yet
	Asked    map[string]bool // by variable
	Problems Problems        // why the values cannot be cast
}

// Tentative returns a value for every variable, for showing a cast that cannot
// be made yet: what is given where that is right, else the default, else the
// source project's own, else an example.
func Tentative(m *manifest.Manifest, given Input, o Occasion) State {
	r := resolve(m, given, o)
	return State{Values: r.values, Asked: r.asked, Problems: r.problems}
}

// Reference returns the source project's own values. Those that the manifest
// does not say are the defaults, or stand-ins; what is computed from the date is
// what it was in the source.
func Reference(m *manifest.Manifest, o Occasion) (Values, Problems) {
	given := Input{}
	for i := range m.Variables {
		v := &m.Variables[i]
		if value, said := v.ReferenceValue(); said && !v.IsComputed() {
			given[v.Name] = value
		}
	}
	r := (&resolver{manifest: m, given: given, occasion: o, reference: true}).run()
	return r.values, slices.DeleteFunc(r.problems, func(p Problem) bool { return p.Missing })
}

// resolver works through the variables in the order in which they need each
// other.
type resolver struct {
	manifest *manifest.Manifest
	given    Input
	occasion Occasion
	// reference is set where the source project's own values are wanted.
	reference bool

	values   Values
	seen     expression.Values // what expressions see
	asked    map[string]bool
	wrong    map[string]bool // variables without a value of their own
	problems Problems
}

func resolve(m *manifest.Manifest, given Input, o Occasion) *resolver {
	return (&resolver{manifest: m, given: given, occasion: o}).run()
}

func (r *resolver) run() *resolver {
	m, given, o := r.manifest, r.given, r.occasion
	r.asked, r.wrong = map[string]bool{}, map[string]bool{}
	r.values = NewValues(map[string]Value{}, o.Today)
	r.seen = r.values.Expression()
	for _, name := range slices.Sorted(maps.Keys(given)) {
		if m.Variable(name) == nil {
			r.unknown(name)
		}
	}
	for _, i := range m.Order {
		v := &m.Variables[i]
		value, problem := r.one(v)
		if problem != nil {
			// What follows from a wrong value is not wrong itself.
			_, isGiven := given[v.Name]
			if isGiven || !slices.ContainsFunc(v.Needs(), func(name string) bool { return r.wrong[name] }) {
				problem.Variable = v.Name
				r.problems = append(r.problems, *problem)
			}
			r.wrong[v.Name] = true
		}
		if value.IsZero() {
			value = standIn(v, o)
		}
		r.values.byName[v.Name] = value
		r.seen[v.Name] = value.Expression()
	}
	for i := range m.Variables {
		if v := &m.Variables[i]; v.Check != nil {
			r.check(v.Name, *v.Check)
		}
	}
	for _, check := range m.Checks {
		r.check("", check)
	}
	return r
}

func (r *resolver) unknown(name string) {
	hint := "; it has " + strings.Join(r.manifest.VariableNames(), ", ")
	if nearest := spelling.Nearest(name, r.manifest.VariableNames()); nearest != "" {
		hint = fmt.Sprintf("; did you mean %s?", nearest)
	}
	r.problems = append(r.problems, Problem{Variable: name, Message: "the template has no such variable" + hint})
}

// one returns the value of a variable; the zero Value with a problem.
func (r *resolver) one(v *manifest.Variable) (Value, *Problem) {
	refuse := func(err error) (Value, *Problem) { return Value{}, &Problem{Message: err.Error()} }
	read := func(raw any, what string) (Value, *Problem) {
		value, err := Read(v, raw)
		if err != nil {
			return refuse(fmt.Errorf("%s%w", what, err))
		}
		return value, nil
	}
	asked, err := v.Asked(r.seen)
	if err != nil {
		return refuse(err)
	}
	r.asked[v.Name] = asked
	raw, isGiven := r.given[v.Name]
	switch {
	case v.IsComputed() && isGiven:
		return refuse(fmt.Errorf("it is computed and cannot be given"))
	case v.IsComputed() && r.reference && v.StandsFor != "" && slices.Contains(v.Needs(), expression.Today):
		return read(manifest.Typed(v.StandsFor), "")
	case v.IsComputed():
		computed, err := v.Compute(r.seen)
		if err != nil {
			return refuse(err)
		}
		return read(computed, "what is computed for it is wrong: ")
	case isGiven:
		return read(raw, "")
	case v.HasDefault():
		value, err := v.ComputeDefault(r.seen)
		if err != nil {
			return refuse(err)
		}
		return read(value, "its default is wrong: ")
	case v.Kind == manifest.KindID:
		return read(r.occasion.NewID(v.Name), "")
	case !asked:
		return empty(v), nil
	}
	return Value{}, &Problem{Message: fmt.Sprintf("a value is missing (%s)%s", v.Title(), exampleHint(v)), Missing: true}
}

// check evaluates a condition whose variables all have values.
func (r *resolver) check(variable string, check manifest.Check) {
	for _, name := range append(check.That.Uses(), variable) {
		if r.wrong[name] {
			return
		}
	}
	holds, err := check.That.Decide(r.seen)
	if err == nil && holds {
		return
	}
	problem := Problem{Variable: variable}
	if err == nil {
		problem.Message, err = check.Message.Text(r.seen)
	}
	if err != nil {
		problem.Message = err.Error()
	}
	r.problems = append(r.problems, problem)
}

// empty is the value of a variable that is not asked for and has no default.
func empty(v *manifest.Variable) Value {
	value := Value{kind: v.Kind, of: v.Of, data: ""}
	switch v.Kind {
	case manifest.KindInteger:
		value.data = int64(0)
	case manifest.KindNumber:
		value, _ = Read(&manifest.Variable{Kind: v.Kind}, 0)
	case manifest.KindBoolean:
		value.data = false
	case manifest.KindChoice:
		value.data = v.Options[0].Value
	case manifest.KindList:
		value.data = []any{}
	case manifest.KindChoices:
		value.of, value.data = manifest.KindText, []any{}
	}
	return value
}

// standIn is shown for a variable that has no value yet.
func standIn(v *manifest.Variable, o Occasion) Value {
	var candidates []any
	if reference, said := v.ReferenceValue(); said {
		candidates = append(candidates, reference)
	}
	candidates = append(candidates, v.Examples...)
	switch v.Kind {
	case manifest.KindID:
		candidates = append(candidates, o.NewID(v.Name))
	case manifest.KindName, manifest.KindPackage:
		candidates = append(candidates, v.Name)
	}
	for _, candidate := range candidates {
		if value, err := Read(v, candidate); err == nil {
			return value
		}
	}
	return empty(v)
}

// FolderName returns what to call the folder of a cast: the first name among
// the values, or the template's own.
func FolderName(m *manifest.Manifest, vs Values) string {
	for i := range m.Variables {
		if value := vs.Get(m.Variables[i].Name); value.kind == manifest.KindName {
			return value.name().In(spelling.Kebab)
		}
	}
	return m.Template
}

// SecretVariable returns the name of the environment variable from which the
// value of a secret is read.
func SecretVariable(name string) string { return "IRONCAST_SECRET_" + strings.ToUpper(name) }

func exampleHint(v *manifest.Variable) string {
	if v.Kind == manifest.KindSecret {
		return fmt.Sprintf("; give it in the environment as %s", SecretVariable(v.Name))
	}
	if len(v.Examples) == 0 {
		return fmt.Sprintf("; give it as %s=VALUE", v.Name)
	}
	value, _ := Read(v, v.Examples[0])
	example := value.String()
	if strings.ContainsAny(example, " \t\"'$&|;<>()\\") {
		example = "'" + example + "'"
	}
	return fmt.Sprintf("; for example %s=%s", v.Name, example)
}
