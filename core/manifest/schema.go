package manifest

import (
	"strconv"
	"strings"
)

// Schema is a JSON Schema (2020-12) as a JSON object.
type Schema map[string]any

// VariablesSchema describes the values of a cast: an object with a property for
// each variable. It accepts what a cast accepts, as far as JSON Schema can say
// it.
func (m *Manifest) VariablesSchema() Schema {
	properties := Schema{}
	required := []string{}
	for i := range m.Variables {
		v := &m.Variables[i]
		properties[v.Name] = v.schema()
		if v.Default == nil && v.Kind != KindID {
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
	s := Schema{"title": v.Title()}
	set := func(key string, value any, when bool) {
		if when {
			s[key] = value
		}
	}
	set("description", v.Help, v.Help != "")
	switch v.Kind {
	case KindName:
		s["type"] = "string"
		s["pattern"] = `^\p{L}[\p{L}\p{Nd}]*([ \-_./][\p{L}\p{Nd}]+)*$`
		s["maxLength"] = 200
	case KindText:
		s["type"] = "string"
		set("minLength", v.MinLength, v.MinLength != nil)
		set("maxLength", v.MaxLength, v.MaxLength != nil)
		s["pattern"] = `^[^\x00]*$`
		set("pattern", `^[^\r\n\x00]*$`, !v.Lines)
		if v.Pattern != "" {
			s["allOf"] = []Schema{{"pattern": v.Pattern}}
		}
	case KindInteger:
		s["type"] = "integer"
		set("minimum", v.Minimum, v.Minimum != nil)
		set("maximum", v.Maximum, v.Maximum != nil)
	case KindBoolean:
		s["type"] = "boolean"
	case KindChoice:
		options := make([]Schema, len(v.Options))
		for i, option := range v.Options {
			options[i] = Schema{"const": option.Value, "title": option.Label}
		}
		s["oneOf"] = options
	case KindID:
		s["type"] = "string"
		s["format"] = "uuid"
	}
	if v.Default != nil {
		s["default"] = v.json(*v.Default)
	}
	if len(v.Examples) > 0 {
		examples := make([]any, len(v.Examples))
		for i, example := range v.Examples {
			examples[i] = v.json(example)
		}
		s["examples"] = examples
	}
	return s
}

// json returns a checked value in its JSON type.
func (v *Variable) json(text string) any {
	switch v.Kind {
	case KindInteger:
		number, _ := strconv.ParseInt(text, 10, 64)
		return number
	case KindBoolean:
		return strings.EqualFold(text, "true")
	}
	return text
}
