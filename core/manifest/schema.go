package manifest

import (
	_ "embed"
	"encoding/json"

	"ironcast/core/spelling"
)

// FormatSchema is the JSON Schema (2020-12) of a manifest itself, for editors. It
// says what Parse reads as far as the standard can: whether expressions and
// values fit their variables is beyond it.
//
//go:embed format.schema.json
var FormatSchema []byte

// Schema is a JSON Schema (2020-12) as a JSON object.
type Schema map[string]any

// VariablesSchema describes the values of a cast: an object with a property for
// each variable that can be given. It accepts what a cast accepts, as far as
// JSON Schema can say it: checks and the conditions under which a value is
// needed are beyond it.
func (m *Manifest) VariablesSchema() Schema {
	properties := Schema{}
	required := []string{}
	for i := range m.Variables {
		v := &m.Variables[i]
		if v.IsComputed() {
			continue
		}
		properties[v.Name] = v.schema()
		if !v.HasDefault() && v.Kind != KindID && !v.Conditional() {
			required = append(required, v.Name)
		}
	}
	return Schema{
		"$schema":              "https://json-schema.org/draft/2020-12/schema",
		"title":                "Values for " + m.Team + "/" + m.Template,
		"type":                 "object",
		"properties":           properties,
		"required":             required,
		"additionalProperties": false,
	}
}

func (v *Variable) schema() Schema {
	s := v.valueSchema(v.Kind)
	s["title"] = v.Title()
	if v.Help != "" {
		s["description"] = v.Help
	}
	if v.Default != nil && v.computed == nil {
		s["default"] = v.Default
	}
	if len(v.Examples) > 0 {
		s["examples"] = v.Examples
	}
	return s
}

// What no letter of a name may be: one that has no single other case. Names are
// given here in one case or the other, as people write them.
const namePattern = `^\p{L}[\p{L}\p{Nd}]*([ \-_./][\p{L}\p{Nd}]+)*$`

func (v *Variable) valueSchema(kind Kind) Schema {
	s := Schema{}
	setBound := func(key string, bound *float64) {
		if bound != nil {
			s[key] = json.Number(Bound(*bound))
		}
	}
	setLength := func(key string, length *int) {
		if length != nil {
			s[key] = *length
		}
	}
	switch kind {
	case KindName:
		s["type"], s["pattern"], s["maxLength"] = "string", namePattern, spelling.MaxName
	case KindPackage:
		s["type"], s["maxLength"] = "string", spelling.MaxName
		s["pattern"] = `^` + PackagePart + `((\.|/|::|\\)` + PackagePart + `)*$`
	case KindText, KindSecret:
		s["type"], s["pattern"] = "string", `^[^\x00]*$`
		if !v.Lines {
			s["pattern"] = `^[^\r\n\x00]*$`
		}
		setLength("minLength", v.MinLength)
		setLength("maxLength", v.MaxLength)
		if v.Pattern != "" {
			s["allOf"] = []Schema{{"pattern": v.Pattern}}
		}
		if v.Format != "" {
			s["format"] = v.Format
		}
		if kind == KindSecret {
			s["writeOnly"] = true
		}
	case KindInteger, KindNumber:
		s["type"] = string(kind)
		setBound("minimum", v.Minimum)
		setBound("maximum", v.Maximum)
	case KindBoolean:
		s["type"] = "boolean"
	case KindChoice:
		options := make([]Schema, len(v.Options))
		for i, option := range v.Options {
			options[i] = Schema{"const": option.Value, "title": option.Label}
		}
		s["oneOf"] = options
	case KindID:
		s["type"], s["format"] = "string", "uuid"
	case KindList, KindChoices:
		item := v.Of
		if kind == KindChoices {
			item = KindChoice
		}
		s["type"], s["uniqueItems"], s["maxItems"], s["items"] = "array", true, MaxItems, v.valueSchema(item)
		setLength("minItems", v.MinItems)
		setLength("maxItems", v.MaxItems)
	}
	return s
}
