// Package values turns what people give for a template's variables into typed
// values, or into everything that is wrong with it at once.
//
//	given := values.Input{"service": values.Typed("tide gauge"), "port": 8090}
//	resolved, err := values.Resolve(m, given, values.NewID)
package values

import (
	"encoding/json"
	"fmt"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"

	"github.com/google/uuid"

	"ironcast/core/manifest"
	"ironcast/core/spelling"
)

// Value is what one variable is set to. The zero Value is no value.
type Value struct {
	kind manifest.Kind
	name spelling.Name // of a name
	text string        // of every other kind, in its canonical form
}

// Values are the values of a template's variables, by name.
type Values map[string]Value

// Typed is a value as someone types it, for a variable of any kind.
type Typed string

// Input is what was given: Typed, or JSON types that fit the variables' kinds.
type Input map[string]any

// Problem is what is wrong with one value.
type Problem struct {
	Variable string `json:"variable"`
	Message  string `json:"message"`
}

// Problems is everything that is wrong with the values that were given.
type Problems []Problem

// Error returns one line for each problem.
func (p Problems) Error() string {
	lines := make([]string, len(p))
	for i, problem := range p {
		lines[i] = problem.Variable + ": " + problem.Message
	}
	return strings.Join(lines, "\n")
}

// NewID returns a random UUID (RFC 9562, version 4).
func NewID(variable string) string { return uuid.NewString() }

// StableID returns a function that makes ids which stay the same for the same
// seed and variable, for showing a cast that is not made yet.
func StableID(seed string) func(variable string) string {
	return func(variable string) string {
		return uuid.NewSHA1(uuid.NameSpaceOID, []byte(seed+"\x00"+variable)).String()
	}
}

// Resolve returns a value for every variable of m: the one given, else the
// default, else for an id a new one from newID. Its error is of type Problems.
func Resolve(m *manifest.Manifest, given Input, newID func(variable string) string) (Values, error) {
	var problems Problems
	refuse := func(variable, format string, args ...any) {
		problems = append(problems, Problem{Variable: variable, Message: fmt.Sprintf(format, args...)})
	}
	for _, name := range slices.Sorted(maps.Keys(given)) {
		if m.Variable(name) != nil {
			continue
		}
		if nearest := spelling.Nearest(name, m.VariableNames()); nearest != "" {
			refuse(name, "the template has no such variable; did you mean %s?", nearest)
		} else {
			refuse(name, "the template has no such variable; it has %s", strings.Join(m.VariableNames(), ", "))
		}
	}
	resolved := Values{}
	for i := range m.Variables {
		v := &m.Variables[i]
		raw, isGiven := given[v.Name]
		switch {
		case isGiven:
			value, err := Read(v, raw)
			if err != nil {
				refuse(v.Name, "%v", err)
			}
			resolved[v.Name] = value
		case v.Default != nil:
			resolved[v.Name] = parse(v.Kind, *v.Default)
		case v.Kind == manifest.KindID:
			resolved[v.Name] = parse(v.Kind, newID(v.Name))
		default:
			refuse(v.Name, "a value is missing (%s)%s", v.Title(), exampleHint(v))
		}
	}
	if len(problems) > 0 {
		return nil, problems
	}
	return resolved, nil
}

// Tentative returns a value for every variable, for showing a cast that cannot
// be made yet: what is given where that is right, else the default, else the
// source project's own, else an example. It also returns what is wrong.
func Tentative(m *manifest.Manifest, given Input, newID func(variable string) string) (Values, Problems) {
	resolved, err := Resolve(m, given, newID)
	if err == nil {
		return resolved, nil
	}
	resolved = Values{}
	for i := range m.Variables {
		v := &m.Variables[i]
		if raw, isGiven := given[v.Name]; isGiven {
			if value, err := Read(v, raw); err == nil {
				resolved[v.Name] = value
				continue
			}
		}
		resolved[v.Name] = parse(v.Kind, standIn(v, newID))
	}
	problems, _ := err.(Problems)
	return resolved, problems
}

func standIn(v *manifest.Variable, newID func(string) string) string {
	reference, said := v.ReferenceText()
	switch {
	case v.Default != nil:
		return *v.Default
	case v.Kind == manifest.KindID:
		return newID(v.Name)
	case said:
		return reference
	case len(v.Examples) > 0:
		return v.Examples[0]
	case v.Kind == manifest.KindChoice:
		return v.Options[0].Value
	case v.Kind == manifest.KindBoolean:
		return "false"
	case v.Kind == manifest.KindInteger:
		return "0"
	case v.Kind == manifest.KindName:
		return v.Name
	}
	return ""
}

// FolderName returns what to call the folder of a cast: the first name among
// the values, or the template's own.
func FolderName(m *manifest.Manifest, vs Values) string {
	for i := range m.Variables {
		if v := &m.Variables[i]; v.Kind == manifest.KindName && !vs[v.Name].IsZero() {
			return vs[v.Name].name.In(spelling.Kebab)
		}
	}
	return m.Template
}

func exampleHint(v *manifest.Variable) string {
	if len(v.Examples) == 0 {
		return fmt.Sprintf("; give it as %s=VALUE", v.Name)
	}
	example := v.Examples[0]
	if strings.ContainsAny(example, " \t\"'$&|;<>()\\") {
		example = "'" + example + "'"
	}
	return fmt.Sprintf("; for example %s=%s", v.Name, example)
}

// Read returns the value of v that raw stands for: Typed, or the JSON type of
// its kind.
func Read(v *manifest.Variable, raw any) (Value, error) {
	var text string
	switch given := raw.(type) {
	case Typed:
		text = string(given)
	case string:
		if v.Kind == manifest.KindInteger || v.Kind == manifest.KindBoolean {
			return Value{}, fmt.Errorf("%q is a text; it must be of type %s", given, v.Kind)
		}
		text = given
	case bool:
		if v.Kind != manifest.KindBoolean {
			return Value{}, fmt.Errorf("it is true or false; it must be a %s, in quotes", v.Kind)
		}
		text = strconv.FormatBool(given)
	case int, int64, float64, json.Number:
		number, err := wholeNumber(given)
		if err != nil {
			return Value{}, err
		}
		if v.Kind != manifest.KindInteger {
			return Value{}, fmt.Errorf("it is a number; it must be a %s, in quotes", v.Kind)
		}
		text = strconv.FormatInt(number, 10)
	default:
		return Value{}, fmt.Errorf("it must be a single value of kind %s", v.Kind)
	}
	if err := v.Check(text); err != nil {
		return Value{}, err
	}
	return parse(v.Kind, text), nil
}

func wholeNumber(given any) (int64, error) {
	switch number := given.(type) {
	case int:
		return int64(number), nil
	case int64:
		return number, nil
	case json.Number:
		if whole, err := number.Int64(); err == nil {
			return whole, nil
		}
	case float64:
		if number == math.Trunc(number) && math.Abs(number) < 1<<53 {
			return int64(number), nil
		}
	}
	return 0, fmt.Errorf("%v is no whole number", given)
}

// parse expects a text that the variable's Check accepts.
func parse(kind manifest.Kind, text string) Value {
	value := Value{kind: kind, text: text}
	switch kind {
	case manifest.KindName:
		value.name, _ = spelling.Parse(text)
		value.text = ""
	case manifest.KindInteger:
		number, _ := strconv.ParseInt(text, 10, 64)
		value.text = strconv.FormatInt(number, 10)
	case manifest.KindBoolean:
		value.text = strings.ToLower(text)
	case manifest.KindID:
		id, _ := uuid.Parse(text)
		value.text = id.String()
	}
	return value
}

// Reference returns the source project's own values, as far as the manifest
// says them.
func Reference(m *manifest.Manifest) Values {
	reference := Values{}
	for i := range m.Variables {
		if text, said := m.Variables[i].ReferenceText(); said {
			reference[m.Variables[i].Name] = parse(m.Variables[i].Kind, text)
		}
	}
	return reference
}

// IsZero tells whether it is no value.
func (v Value) IsZero() bool { return v.kind == "" }

// String returns the value as it would be typed.
func (v Value) String() string {
	if v.kind == manifest.KindName {
		return v.name.String()
	}
	return v.text
}

// JSON returns the value in the JSON type of its kind.
func (v Value) JSON() any {
	switch v.kind {
	case manifest.KindInteger:
		number, _ := strconv.ParseInt(v.text, 10, 64)
		return number
	case manifest.KindBoolean:
		return v.text == "true"
	}
	return v.String()
}

// JSON returns all values in the JSON types of their kinds.
func (vs Values) JSON() map[string]any {
	all := make(map[string]any, len(vs))
	for name, value := range vs {
		all[name] = value.JSON()
	}
	return all
}
