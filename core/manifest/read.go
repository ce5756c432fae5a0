package manifest

import (
	"encoding/json"
	"fmt"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/google/uuid"
	"github.com/santhosh-tekuri/jsonschema/v6"

	"ironcast/core/expression"
	"ironcast/core/spelling"
)

// Typed is a value as someone types it, for a variable of any kind. The items of
// a list are separated by commas, or stand in a JSON array.
type Typed string

// The most that a value may hold.
const (
	MaxItems     = 1000    // in a list
	maxTextBytes = 1 << 20 // in a text
)

// Read returns the value of the variable that raw stands for, in the one form of
// its kind: a string for a name (its words), a text, a choice, a package
// (dotted), an id and a secret; an int64; a json.Number; a bool; a []any of
// these for a list. What is given is Typed, a JSON type that fits the kind, or
// what an expression gave.
func (v *Variable) Read(raw any) (any, error) {
	if v.IsList() {
		return v.readItems(raw)
	}
	value, err := readOne(v.Kind, raw)
	if err != nil {
		return nil, err
	}
	return value, v.accept(v.Kind, value)
}

func (v *Variable) readItems(raw any) (any, error) {
	given, err := itemsOf(raw)
	if err != nil {
		return nil, err
	}
	kind := v.Of
	if v.Kind == KindChoices {
		kind = KindChoice
	}
	switch {
	case len(given) > MaxItems:
		return nil, fmt.Errorf("it has %s; a list has at most %d", spelling.Count(len(given), "item"), MaxItems)
	case v.MinItems != nil && len(given) < *v.MinItems:
		return nil, fmt.Errorf("it has %s; it needs %d at least", spelling.Count(len(given), "item"), *v.MinItems)
	case v.MaxItems != nil && len(given) > *v.MaxItems:
		return nil, fmt.Errorf("it has %s; it may have %d at most", spelling.Count(len(given), "item"), *v.MaxItems)
	}
	items := make([]any, 0, len(given))
	for i, one := range given {
		value, err := readOne(kind, one)
		if err == nil {
			err = v.accept(kind, value)
		}
		if err == nil && slices.Contains(items, value) {
			err = fmt.Errorf("%q stands in it twice", fmt.Sprint(value))
		}
		if err != nil {
			return nil, fmt.Errorf("item %d: %w", i+1, err)
		}
		items = append(items, value)
	}
	return items, nil
}

func itemsOf(raw any) ([]any, error) {
	switch given := raw.(type) {
	case []any:
		return given, nil
	case []string:
		items := make([]any, len(given))
		for i := range given {
			items[i] = given[i]
		}
		return items, nil
	case Typed:
		text := strings.TrimSpace(string(given))
		if strings.HasPrefix(text, "[") {
			var items []any
			decoder := json.NewDecoder(strings.NewReader(text))
			decoder.UseNumber()
			if err := decoder.Decode(&items); err != nil || decoder.More() {
				return nil, fmt.Errorf("%q is no JSON array", clip(text))
			}
			return items, nil
		}
		var items []any
		if text != "" {
			for item := range strings.SplitSeq(text, ",") {
				items = append(items, Typed(strings.TrimSpace(item)))
			}
		}
		return items, nil
	}
	return nil, fmt.Errorf("it is a single value; it must be a list")
}

// readOne returns a value in the form of its kind, without looking at bounds.
func readOne(kind Kind, raw any) (any, error) {
	switch given := raw.(type) {
	case Typed:
		return readTyped(kind, string(given))
	case string:
		if kind == KindInteger || kind == KindNumber || kind == KindBoolean {
			return nil, fmt.Errorf("%q is a text; it must be of type %s", clip(given), kind)
		}
		return readTyped(kind, given)
	case expression.Name:
		return readTyped(kind, given.Spaced)
	case expression.Package:
		return readTyped(kind, given.Dotted)
	case bool:
		if kind != KindBoolean {
			return nil, fmt.Errorf("it is true or false; it must be a %s, in quotes", kind)
		}
		return given, nil
	case int, int64, float64, json.Number:
		return readNumber(kind, given)
	}
	return nil, fmt.Errorf("it must be a single value of kind %s", kind)
}

var jsonNumber = regexp.MustCompile(`^-?(0|[1-9]\d*)(\.\d+)?([eE][+-]?\d+)?$`)

func readNumber(kind Kind, raw any) (any, error) {
	var text string
	switch given := raw.(type) {
	case int:
		text = strconv.Itoa(given)
	case int64:
		text = strconv.FormatInt(given, 10)
	case float64:
		text = strconv.FormatFloat(given, 'f', -1, 64)
	case json.Number:
		text = given.String()
		if f, err := given.Float64(); err == nil && kind == KindInteger && f == math.Trunc(f) && math.Abs(f) < 1<<53 {
			text = strconv.FormatFloat(f, 'f', -1, 64)
		}
	}
	if kind != KindInteger && kind != KindNumber {
		return nil, fmt.Errorf("it is a number; it must be a %s, in quotes", kind)
	}
	return readTyped(kind, text)
}

func readTyped(kind Kind, text string) (any, error) {
	switch kind {
	case KindName:
		name, err := spelling.Parse(text)
		return name.String(), err
	case KindInteger:
		number, err := strconv.ParseInt(text, 10, 64)
		if err != nil {
			return nil, fmt.Errorf("%q is no whole number", clip(text))
		}
		return number, nil
	case KindNumber:
		if f, err := strconv.ParseFloat(text, 64); err != nil || math.IsInf(f, 0) || len(text) > 40 || !jsonNumber.MatchString(text) {
			return nil, fmt.Errorf("%q is no number; write it such as 0.5", clip(text))
		}
		return json.Number(text), nil
	case KindBoolean:
		switch strings.ToLower(text) {
		case "true":
			return true, nil
		case "false":
			return false, nil
		}
		return nil, fmt.Errorf("%q must be true or false", clip(text))
	case KindPackage:
		return readPackage(text)
	case KindID:
		id, err := uuid.Parse(text)
		if err != nil {
			return nil, fmt.Errorf("%q is no UUID; an example is 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de", clip(text))
		}
		return id.String(), nil
	case KindText, KindSecret:
		if !utf8.ValidString(text) || strings.ContainsRune(text, 0) {
			return nil, fmt.Errorf("the text must be UTF-8 without NUL")
		}
		if len(text) > maxTextBytes {
			return nil, fmt.Errorf("the text has %d bytes; it may have %d at most", len(text), maxTextBytes)
		}
	}
	return text, nil
}

// PackagePart is what a part of a package name looks like, as a regular
// expression.
const PackagePart = `[A-Za-z_][A-Za-z0-9_]*`

var packageSeparator = regexp.MustCompile(`::|[./\\]`)
var packageName = regexp.MustCompile(`^` + PackagePart + `(\.` + PackagePart + `)*$`)

func readPackage(text string) (any, error) {
	dotted := packageSeparator.ReplaceAllString(text, ".")
	if !packageName.MatchString(dotted) || len(dotted) > spelling.MaxName {
		return nil, fmt.Errorf("%q is no package; write words of letters, digits and _ between points, such as example.kelpwick.tides", clip(text))
	}
	return dotted, nil
}

// accept tells what the variable's bounds refuse.
func (v *Variable) accept(kind Kind, value any) error {
	switch kind {
	case KindInteger:
		return v.acceptNumber(float64(value.(int64)), strconv.FormatInt(value.(int64), 10))
	case KindNumber:
		f, _ := value.(json.Number).Float64()
		return v.acceptNumber(f, value.(json.Number).String())
	case KindChoice:
		if !slices.ContainsFunc(v.Options, func(o Option) bool { return o.Value == value }) {
			options := make([]string, len(v.Options))
			for i, option := range v.Options {
				options[i] = option.Value
			}
			return fmt.Errorf("%q is no option; choose from %s", clip(value.(string)), strings.Join(options, ", "))
		}
	case KindText, KindSecret:
		return v.acceptText(value.(string), kind == KindSecret)
	}
	return nil
}

func (v *Variable) acceptNumber(number float64, text string) error {
	switch {
	case v.Minimum != nil && number < *v.Minimum:
		return fmt.Errorf("%s is below the minimum of %s", text, Bound(*v.Minimum))
	case v.Maximum != nil && number > *v.Maximum:
		return fmt.Errorf("%s is above the maximum of %s", text, Bound(*v.Maximum))
	}
	return nil
}

// Bound writes a bound of a number as people write it.
func Bound(bound float64) string { return strconv.FormatFloat(bound, 'f', -1, 64) }

func (v *Variable) acceptText(text string, secret bool) error {
	length := utf8.RuneCountInString(text)
	shown := fmt.Sprintf("%q", clip(text))
	if secret {
		shown = "it"
	}
	switch {
	case !v.Lines && strings.ContainsAny(text, "\r\n"):
		return fmt.Errorf("the text must be a single line")
	case v.MinLength != nil && length < *v.MinLength:
		return fmt.Errorf("the text has %s; it needs %d at least", spelling.Count(length, "character"), *v.MinLength)
	case v.MaxLength != nil && length > *v.MaxLength:
		return fmt.Errorf("the text has %s; it may have %d at most", spelling.Count(length, "character"), *v.MaxLength)
	case v.pattern != nil && !v.pattern.MatchString(text):
		return fmt.Errorf("%s does not match the pattern %s", shown, v.Pattern)
	case v.format != nil && v.format.Validate(text) != nil:
		return fmt.Errorf("%s is no %s as JSON Schema has it", shown, v.Format)
	}
	return nil
}

// formats are the formats of JSON Schema (2020-12, section 7.3) that a text may
// have.
var formats = []string{"date", "time", "date-time", "duration", "email", "hostname", "ipv4", "ipv6", "uri", "uri-reference", "uuid", "regex"}

func compileFormat(format string) (*jsonschema.Schema, error) {
	compiler := jsonschema.NewCompiler()
	compiler.AssertFormat()
	if err := compiler.AddResource("format", map[string]any{"format": format}); err != nil {
		return nil, err
	}
	return compiler.Compile("format")
}

func clip(text string) string {
	const most = 60
	if len(text) <= most {
		return text
	}
	return strings.ToValidUTF8(text[:most], "") + "…"
}
