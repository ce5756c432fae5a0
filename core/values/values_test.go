package values

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"github.com/santhosh-tekuri/jsonschema/v6"

	"ironcast/core/manifest"
)

const text = `ironcast: 1
template: board
version: 1.0.0
team: kelpwick
variables:
  service: { kind: name, stands_for: crossing board, examples: [tide gauge] }
  port: { kind: integer, stands_for: 8087, default: 8080, minimum: 1024, maximum: 65535 }
  title: { kind: text, default: Board, max_length: 10, pattern: '^[A-Z]' }
  notice: { kind: text, default: "", lines: true }
  storage: { kind: choice, options: [disk, memory], default: disk }
  metrics: { kind: boolean, default: true }
  deploy_id: { kind: id, stands_for: 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de }
  share: { kind: number, default: 0.50, minimum: 0, maximum: 1 }
  regions: { kind: list, of: name, default: [], max_items: 3 }
  ports: { kind: list, of: integer, default: [], minimum: 1 }
  probes: { kind: choices, options: [health, ready], default: [health] }
  namespace: { kind: package, default: "example.kelpwick.${storage}" }
  site: { kind: text, format: uri, default: "https://${service.kebab}.kelpwick.example/" }
  password: { kind: secret, ask_when: storage == "disk" && metrics, min_length: 4 }
  image: { value: '"registry/" + service.kebab + ":" + string(today.year)' }
  entry: { kind: name, value: namespace.last + " entry" }
`

func parsed(t *testing.T) *manifest.Manifest {
	t.Helper()
	m, err := manifest.Parse([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return m
}

func TestResolveTakesWhatIsGivenThenDefaults(t *testing.T) {
	vs, err := Resolve(parsed(t), Input{"service": manifest.Typed("TideGauge"), "port": manifest.Typed("9000"), "metrics": false, "regions": manifest.Typed("North Quay, main"), "ports": []any{7, 8.0}}, Stable("x"))
	if err != nil {
		t.Fatal(err)
	}
	got, _ := json.Marshal(vs.JSON())
	id := vs.Get("deploy_id").String()
	year := fmt.Sprint(vs.Today().Year())
	want := `{"deploy_id":"` + id + `","entry":"disk entry","image":"registry/tide-gauge:` + year + `","metrics":false,"namespace":"example.kelpwick.disk","notice":"","port":9000,"ports":[7,8],"probes":["health"],"regions":["north quay","main"],"service":"tide gauge","share":0.50,"site":"https://tide-gauge.kelpwick.example/","storage":"disk","title":"Board"}`
	if string(got) != want || len(id) != 36 {
		t.Errorf("got  %s\nwant %s", got, want)
	}
	if again, _ := Resolve(parsed(t), Input{"service": "tide gauge", "metrics": false}, Stable("x")); again.Get("deploy_id").String() != id {
		t.Error("a stable id changes")
	}
	if first, second := Now().NewID(""), Now().NewID(""); first == second {
		t.Error("two new ids are the same")
	}
}

func TestResolveReportsAllProblemsAtOnce(t *testing.T) {
	_, err := Resolve(parsed(t), Input{
		"servise": manifest.Typed("x"), "port": manifest.Typed("80"), "title": "quay side and all", "storage": "tape",
		"metrics": manifest.Typed("maybe"), "deploy_id": "12", "notice": "a\x00b",
		"share": 1.5, "regions": manifest.Typed("a,b,c,d"), "ports": manifest.Typed("1,x"), "probes": []any{"live"},
		"namespace": "a..b", "site": "nowhere", "password": "abc", "image": "mine",
	}, Now())
	var problems Problems
	if !errors.As(err, &problems) {
		t.Fatalf("error is %v", err)
	}
	for _, want := range []string{
		"servise: the template has no such variable; did you mean service?",
		"service: a value is missing (service); for example service='tide gauge'",
		"port: 80 is below the minimum of 1024",
		"title: the text has 17 characters; it may have 10 at most",
		`storage: "tape" is no option; choose from disk, memory`,
		`metrics: "maybe" must be true or false`,
		`deploy_id: "12" is no UUID`,
		"notice: the text must be UTF-8 without NUL",
		"share: 1.5 is above the maximum of 1",
		"regions: it has 4 items; it may have 3 at most",
		"ports: item 2: \"x\" is no whole number",
		`probes: item 1: "live" is no option`,
		`namespace: "a..b" is no package`,
		`site: "nowhere" is no uri as JSON Schema has it`,
		"password: the text has 3 characters; it needs 4 at least",
		"image: it is computed and cannot be given",
	} {
		if !strings.Contains(err.Error(), want) {
			t.Errorf("not reported: %s", want)
		}
	}
	if len(problems) != 16 {
		t.Errorf("%d problems:\n%v", len(problems), err)
	}
}

func TestLiteralsCoverEveryForm(t *testing.T) {
	reference, _ := Reference(parsed(t), Stable("x"))
	var ids []string
	for _, l := range reference.Get("deploy_id").Literals() {
		ids = append(ids, l.Text)
		if reference.Get("deploy_id").Write(l.Forms[0]) != l.Text {
			t.Errorf("%s is not written as itself", l.Forms[0])
		}
	}
	want := []string{"3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de", "3F0C7C1E-8A55-4F5E-9A44-6A52B7A1F0DE", "3f0c7c1e8a554f5e9a446a52b7a1f0de", "3F0C7C1E8A554F5E9A446A52B7A1F0DE"}
	if !slices.Equal(ids, want) {
		t.Errorf("ids are %v", ids)
	}
	yes, err := Read(parsed(t).Variable("metrics"), manifest.Typed("TRUE"))
	if err != nil || yes.Write(TitleWord) != "True" || yes.Write(UpperWord) != "TRUE" || len(yes.Literals()) != 3 {
		t.Errorf("true is %v, %v", yes, err)
	}
	if len(reference.Get("service").Literals()) != 15 || len(reference.Get("port").Literals()) != 1 {
		t.Error("a name of two words has 15 texts, a number one")
	}
}

// The schema accepts what Resolve accepts, and refuses what it refuses.
func TestSchemaAgreesWithResolve(t *testing.T) {
	m := parsed(t)
	encoded, err := json.Marshal(m.VariablesSchema())
	if err != nil {
		t.Fatal(err)
	}
	document, err := jsonschema.UnmarshalJSON(bytes.NewReader(encoded))
	if err != nil {
		t.Fatal(err)
	}
	compiler := jsonschema.NewCompiler()
	compiler.AssertFormat()
	if err := compiler.AddResource("variables.json", document); err != nil {
		t.Fatal(err)
	}
	schema, err := compiler.Compile("variables.json")
	if err != nil {
		t.Fatal(err)
	}
	for _, text := range []string{
		`{"service":"tide gauge"}`,
		`{"service":"Überfahrt_2"}`,
		`{"service":"tide  gauge"}`,
		`{"service":"9"}`,
		`{"service":5}`,
		`{}`,
		`{"service":"a","colour":"red"}`,
		`{"service":"a","port":1024}`,
		`{"service":"a","port":1023}`,
		`{"service":"a","port":"1024"}`,
		`{"service":"a","port":1024.5}`,
		`{"service":"a","title":"Quay"}`,
		`{"service":"a","title":"quay"}`,
		`{"service":"a","title":"Quay\nside"}`,
		`{"service":"a","title":"Quay of the north"}`,
		`{"service":"a","notice":"two\nlines"}`,
		`{"service":"a","storage":"memory"}`,
		`{"service":"a","storage":"tape"}`,
		`{"service":"a","metrics":true}`,
		`{"service":"a","metrics":"true"}`,
		`{"service":"a","deploy_id":"3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de"}`,
		`{"service":"a","deploy_id":"3f0c"}`,
		`{"service":["a"]}`,
		`{"service":"a","share":0.25}`,
		`{"service":"a","share":2}`,
		`{"service":"a","share":"0.25"}`,
		`{"service":"a","regions":["North Quay","main"]}`,
		`{"service":"a","regions":["a","b","c","d"]}`,
		`{"service":"a","regions":["9"]}`,
		`{"service":"a","regions":"a"}`,
		`{"service":"a","regions":["a","a"]}`,
		`{"service":"a","ports":[1,2]}`,
		`{"service":"a","ports":[0]}`,
		`{"service":"a","ports":["1"]}`,
		`{"service":"a","probes":[]}`,
		`{"service":"a","probes":["ready","health"]}`,
		`{"service":"a","probes":["live"]}`,
		`{"service":"a","namespace":"org/tides"}`,
		`{"service":"a","namespace":"org.9"}`,
		`{"service":"a","site":"https://a.example/"}`,
		`{"service":"a","site":"nowhere"}`,
		`{"service":"a","image":"mine"}`,
	} {
		instance, err := jsonschema.UnmarshalJSON(strings.NewReader(text))
		if err != nil {
			t.Fatal(err)
		}
		given := Input{"storage": "memory"} // so that no secret is asked for
		if err := json.Unmarshal([]byte(text), &given); err != nil {
			t.Fatal(err)
		}
		_, refused := Resolve(m, given, Now())
		if invalid := schema.Validate(instance); (invalid == nil) != (refused == nil) {
			t.Errorf("%s: the schema says %v, a cast says %v", text, invalid, refused)
		}
	}
}

func TestQuestionsDependOnAnswers(t *testing.T) {
	m := parsed(t)
	state := Tentative(m, Input{"service": "a"}, Stable("x"))
	if !state.Asked["password"] || state.Asked["image"] || state.Asked["deploy_id"] || len(state.Problems) != 1 || state.Problems[0].Variable != "password" || !state.Problems[0].Missing {
		t.Errorf("the state is %+v", state)
	}
	if state := Tentative(m, Input{"service": "a", "storage": "memory"}, Stable("x")); state.Asked["password"] || len(state.Problems) != 0 || state.Values.Get("password").String() != "" {
		t.Errorf("the state is %+v", state)
	}
	// What follows from a wrong value is not wrong itself.
	if state := Tentative(m, Input{"service": "9", "metrics": false}, Stable("x")); len(state.Problems) != 1 || state.Problems[0].Variable != "service" || state.Values.Get("site").String() != "https://crossing-board.kelpwick.example/" {
		t.Errorf("the state is %+v", state)
	}
}

func TestASecretIsNeitherTextNorJSON(t *testing.T) {
	vs, err := Resolve(parsed(t), Input{"service": "a", "password": "barnacle"}, Now())
	if err != nil {
		t.Fatal(err)
	}
	secret := vs.Get("password")
	if _, is := vs.JSON()["password"]; is || secret.String() != "(secret)" || secret.Write(Plain) != "barnacle" {
		t.Errorf("the secret is %q, and in JSON %v", secret, vs.JSON()["password"])
	}
}
