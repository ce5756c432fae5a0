package manifest

import (
	"bytes"
	"encoding/json"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"go.yaml.in/yaml/v3"
)

// documented are the manifests that the documentation shows, and those of the
// demo.
func documented(t *testing.T) map[string][]byte {
	t.Helper()
	all := map[string][]byte{}
	fence := regexp.MustCompile("(?ms)^```yaml ironcast.yaml\n(.*?)^```$")
	for _, name := range []string{"manifest.md", "guide.md"} {
		text, err := os.ReadFile("../../docs/" + name)
		if err != nil {
			t.Fatal(err)
		}
		for i, m := range fence.FindAllSubmatch(text, -1) {
			all[name+" "+string(rune('a'+i))] = m[1]
		}
	}
	for _, name := range []string{"crossing-board", "tide-log", "harbour-suite", "pier-guide"} {
		text, err := os.ReadFile("../../demo/" + name + "/" + FileName)
		if err != nil {
			t.Fatal(err)
		}
		all[name] = text
	}
	return all
}

func TestEveryDocumentedManifestIsRead(t *testing.T) {
	all := documented(t)
	if len(all) < 10 {
		t.Errorf("only %d manifests are documented", len(all))
	}
	for name, text := range all {
		if _, err := Parse(text); err != nil {
			t.Errorf("%s:\n%v", name, err)
		}
	}
}

// manifestSchema compiles the schema of the manifest itself.
func manifestSchema(t *testing.T) *jsonschema.Schema {
	t.Helper()
	document, err := jsonschema.UnmarshalJSON(bytes.NewReader(FormatSchema))
	if err != nil {
		t.Fatal(err)
	}
	compiler := jsonschema.NewCompiler()
	if err := compiler.AddResource("ironcast.schema.json", document); err != nil {
		t.Fatal(err)
	}
	schema, err := compiler.Compile("ironcast.schema.json")
	if err != nil {
		t.Fatal(err)
	}
	return schema
}

func instance(t *testing.T, text []byte) any {
	t.Helper()
	var plain any
	if err := yaml.Unmarshal(text, &plain); err != nil {
		t.Fatal(err)
	}
	encoded, err := json.Marshal(plain)
	if err != nil {
		t.Fatal(err)
	}
	value, err := jsonschema.UnmarshalJSON(bytes.NewReader(encoded))
	if err != nil {
		t.Fatal(err)
	}
	return value
}

func TestTheFormatsSchemaAcceptsEveryManifest(t *testing.T) {
	schema := manifestSchema(t)
	for name, text := range documented(t) {
		if err := schema.Validate(instance(t, text)); err != nil {
			t.Errorf("%s: %v", name, err)
		}
	}
	for text, why := range map[string]string{
		head + "colour: red\n":                                                       "an unknown key",
		head + "variables: { A: { kind: text } }\n":                                  "a wrong name",
		head + "variables: { a: { kind: colour } }\n":                                "a wrong kind",
		head + "variables: { a: { kind: list } }\n":                                  "a list of nothing",
		head + "hooks: { before_cast: [{ run: [go] }] }\n":                           "a command before the cast",
		head + "samples: [{ values: {} }]\n":                                         "a sample without a name",
		head + "files: { swap: [{ path: a, with: b, when: x }] }\n":                  "what is swapped in lies elsewhere",
		strings.Replace(head, "version: 1.0.0", "version: one", 1):                   "a wrong version",
		head + "variables: { a: { kind: secret, default: hunter2hunter2 } }\n":       "a secret that is published",
		head + "variables: { a: { kind: choice, options: [one] } }\n":                "a choice of one",
		head + "accept_traces: [{ text: a }]\n":                                      "a trace without a reason",
		head + "variables: { a: { kind: text, check: 'true' } }\n":                   "a check without a message",
		head + "files: { repeat: [{ paths: [a], each: regions, standing_for: b }] }": "a repeat over nothing",
	} {
		if schema.Validate(instance(t, []byte(text))) == nil {
			t.Errorf("the schema accepts %s", why)
		}
		if _, err := Parse([]byte(text)); err == nil {
			t.Errorf("the reader accepts %s", why)
		}
	}
}

// The schema and the reader know the same keys.
func TestTheFormatsSchemaNamesEveryKey(t *testing.T) {
	var document struct {
		Properties map[string]json.RawMessage
		Defs       map[string]struct {
			Properties map[string]json.RawMessage
		} `json:"$defs"`
	}
	if err := json.Unmarshal(FormatSchema, &document); err != nil {
		t.Fatal(err)
	}
	known := func(text, what string) []string {
		_, err := Parse([]byte(text))
		_, list, found := strings.Cut(err.Error(), what+` has no key "zzzzzzzz"; there are `)
		if !found {
			t.Fatalf("the reader says %v", err)
		}
		list, _, _ = strings.Cut(list, "\n")
		return strings.Split(list, ", ")
	}
	keys := func(properties map[string]json.RawMessage) []string {
		var names []string
		for name := range properties {
			names = append(names, name)
		}
		slices.Sort(names)
		return names
	}
	for def, c := range map[string]struct{ text, what string }{
		"":         {head + "zzzzzzzz: 1\n", "the manifest"},
		"variable": {head + "variables: { a: { kind: text, zzzzzzzz: 1 } }\n", "the variable a"},
		"files":    {head + "files: { zzzzzzzz: 1 }\n", "files"},
		"hook":     {head + "hooks: { after_cast: [{ zzzzzzzz: 1 }] }\n", "a hook"},
		"sample":   {head + "samples: [{ zzzzzzzz: 1 }]\n", "a sample"},
		"expect":   {head + "samples: [{ name: a, expect: { zzzzzzzz: 1 } }]\n", "expect"},
	} {
		properties := document.Properties
		if def != "" {
			properties = document.Defs[def].Properties
		}
		if want, got := known(c.text, c.what), keys(properties); !slices.Equal(got, want) {
			t.Errorf("the schema's %s has %v, the reader %v", c.what, got, want)
		}
	}
}

func TestTheFormatsSchemaInTheDocumentationIsUpToDate(t *testing.T) {
	const path = "../../docs/ironcast.schema.json"
	if *update {
		if err := os.WriteFile(path, FormatSchema, 0o666); err != nil {
			t.Fatal(err)
		}
	}
	if text, err := os.ReadFile(path); err != nil || !bytes.Equal(text, FormatSchema) {
		t.Errorf("docs/ironcast.schema.json is not the reader's; refresh it with: make generate (%v)", err)
	}
}
