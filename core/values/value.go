package values

import (
	"encoding/json"
	"maps"
	"strconv"
	"strings"
	"time"

	"ironcast/core/expression"
	"ironcast/core/manifest"
	"ironcast/core/spelling"
)

// Value is what one variable is set to. The zero Value is no value.
type Value struct {
	kind manifest.Kind
	of   manifest.Kind // of a list: the kind of its items
	data any           // what Variable.Read returns
}

// Values are the values of a template's variables, for a cast on some day.
type Values struct {
	byName map[string]Value
	today  time.Time
}

// Read returns the value of v that raw stands for; see manifest.Variable.Read.
func Read(v *manifest.Variable, raw any) (Value, error) {
	data, err := v.Read(raw)
	if err != nil {
		return Value{}, err
	}
	of := v.Of
	if v.Kind == manifest.KindChoices {
		of = manifest.KindText
	}
	return Value{kind: v.Kind, of: of, data: data}, nil
}

// IsZero tells whether it is no value.
func (v Value) IsZero() bool { return v.kind == "" }

// Kind returns the kind of its variable.
func (v Value) Kind() manifest.Kind { return v.kind }

// Items returns a list's items, as values of their own.
func (v Value) Items() []Value {
	list, _ := v.data.([]any)
	items := make([]Value, len(list))
	for i := range list {
		items[i] = Value{kind: v.of, data: list[i]}
	}
	return items
}

func (v Value) name() spelling.Name {
	words, _ := v.data.(string)
	return spelling.Of(words)
}

// text returns the value as it is written where nothing else is asked for.
func (v Value) text() string {
	switch data := v.data.(type) {
	case string:
		return data
	case int64:
		return strconv.FormatInt(data, 10)
	case json.Number:
		return data.String()
	case bool:
		return strconv.FormatBool(data)
	case []any:
		texts := make([]string, len(data))
		for i, item := range v.Items() {
			texts[i] = item.text()
		}
		return strings.Join(texts, ", ")
	}
	return ""
}

// String returns the value as it would be typed; for a secret, that it is one.
func (v Value) String() string {
	if v.kind == manifest.KindSecret {
		if v.data == "" {
			return ""
		}
		return "(secret)"
	}
	return v.text()
}

// Expression returns the value as expressions see it.
func (v Value) Expression() any {
	switch v.kind {
	case manifest.KindName:
		return expression.NewName(v.name())
	case manifest.KindPackage:
		return expression.NewPackage(v.text())
	case manifest.KindNumber:
		number, _ := v.data.(json.Number).Float64()
		return number
	case manifest.KindList, manifest.KindChoices:
		switch v.of {
		case manifest.KindName:
			return expressionsOf[expression.Name](v)
		case manifest.KindInteger:
			return expressionsOf[int64](v)
		}
		return expressionsOf[string](v)
	}
	return v.data
}

func expressionsOf[T any](v Value) []T {
	items := v.Items()
	list := make([]T, len(items))
	for i := range items {
		list[i], _ = items[i].Expression().(T)
	}
	return list
}

// JSON returns the value in the JSON type of its kind.
func (v Value) JSON() any { return v.data }

// NewValues returns values for a cast on some day.
func NewValues(byName map[string]Value, today time.Time) Values {
	return Values{byName: byName, today: today}
}

// Get returns the value of a variable; the zero Value where it has none.
func (vs Values) Get(name string) Value { return vs.byName[name] }

// With returns the values with another one for a variable.
func (vs Values) With(name string, value Value) Values {
	changed := maps.Clone(vs.byName)
	if changed == nil {
		changed = map[string]Value{}
	}
	changed[name] = value
	return Values{byName: changed, today: vs.today}
}

// Today returns the day of the cast.
func (vs Values) Today() time.Time { return vs.today }

// Expression returns all values as expressions see them, with the day.
func (vs Values) Expression() expression.Values {
	all := make(expression.Values, len(vs.byName)+1)
	for name, value := range vs.byName {
		all[name] = value.Expression()
	}
	all[expression.Today] = expression.NewDate(vs.today)
	return all
}

// JSON returns all values but secrets, in the JSON types of their kinds.
func (vs Values) JSON() map[string]any {
	all := make(map[string]any, len(vs.byName))
	for name, value := range vs.byName {
		if value.kind != manifest.KindSecret {
			all[name] = value.JSON()
		}
	}
	return all
}

// ItemKind returns the kind of a list's items; "" for a single value.
func (v Value) ItemKind() manifest.Kind { return v.of }

// Input returns the values as they could be given again.
func (vs Values) Input(m *manifest.Manifest) Input {
	given := Input{}
	for i := range m.Variables {
		if v := &m.Variables[i]; !v.IsComputed() {
			if value, has := vs.byName[v.Name]; has {
				given[v.Name] = value.data
			}
		}
	}
	return given
}
