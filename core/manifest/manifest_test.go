package manifest

import (
	"errors"
	"flag"
	"os"
	"strings"
	"testing"

	"go.yaml.in/yaml/v3"
)

var update = flag.Bool("update", false, "write the golden files anew")

const head = "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\n"

func TestParseReadsEveryKey(t *testing.T) {
	data, err := os.ReadFile("testdata/full.yaml")
	if err != nil {
		t.Fatal(err)
	}
	m, err := Parse(data)
	if err != nil {
		t.Fatal(err)
	}
	if m.Template != "harbour-service" || m.Source != "service" || len(m.Variables) != 6 || m.Variables[0].Name != "service" {
		t.Errorf("read %+v", m)
	}
	port := m.Variable("port")
	if port == nil || port.Default != int64(8080) || *port.Minimum != 1024 || port.StandsFor != "8087" || len(port.In) != 2 || port.Paths || !port.Contents {
		t.Errorf("port is %+v", port)
	}
	if storage := m.Variable("storage"); storage.Options[1].Label != "In memory" || storage.Reference != "mariadb" {
		t.Errorf("storage is %+v", storage)
	}
	if m.Variable("colour") != nil {
		t.Error("a variable is found that is not there")
	}
}

func TestParseReportsEverythingAtOnce(t *testing.T) {
	data, err := os.ReadFile("testdata/wrong.yaml")
	if err != nil {
		t.Fatal(err)
	}
	_, err = Parse(data)
	var problems Problems
	if !errors.As(err, &problems) {
		t.Fatalf("error is %v", err)
	}
	got := problems.Error() + "\n"
	if *update {
		os.WriteFile("testdata/wrong.txt", []byte(got), 0o666)
	}
	want, err := os.ReadFile("testdata/wrong.txt")
	if err != nil {
		t.Fatal(err)
	}
	if got != string(want) {
		t.Errorf("problems are\n%s\nwant\n%s", got, want)
	}
}

func TestParseRefuses(t *testing.T) {
	for _, c := range []struct{ name, text, want string }{
		{"nothing", "", "the manifest is empty"},
		{"only a comment", "# soon\n", "the manifest is empty"},
		{"no YAML", "a: [", "not valid YAML"},
		{"a list", "- a\n", "it must be keys with values"},
		{"two documents", head + "---\n" + head, "one YAML document"},
		{"a later format", strings.Replace(head, "1", "2", 1), "this version reads format 1"},
		{"missing keys", "ironcast: 1\n", `the key "team" is missing`},
		{"an alias", head + "title: &t Board\nsummary: *t\n", "an alias, which a manifest may not hold"},
		{"aliases that multiply", head + "labels: &a [x, y]\nkeep: [*a, *a, *a]\n", "an alias"},
		{"a version that is a number", strings.Replace(head, "1.0.0", "1.0", 1), "no SemVer version"},
		{"a source above", head + "source: ../other\n", "source names a folder below"},
		{"two claims on one text", head + "variables:\n  a: { kind: name, stands_for: crossing board }\n  b: { kind: text, stands_for: crossing-board }\n", `ironcast.yaml:7:3: the variables a and b both claim the text "crossing-board"`},
		{"two references", head + "variables: { a: { kind: text, stands_for: quay, reference: pier } }\n", "leave reference out"},
		{"a boolean everywhere", head + "variables: { a: { kind: boolean, stands_for: true } }\n", "say in which files"},
		{"too large", head + strings.Repeat("#", MaxBytes), "at most 1048576 are read"},
	} {
		if _, err := Parse([]byte(c.text)); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s gives %v; want %q", c.name, err, c.want)
		}
	}
}

func FuzzParse(f *testing.F) {
	for _, name := range []string{"testdata/full.yaml", "testdata/wrong.yaml"} {
		data, err := os.ReadFile(name)
		if err != nil {
			f.Fatal(err)
		}
		f.Add(data)
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		m, err := Parse(data)
		if err != nil {
			var problems Problems
			if !errors.As(err, &problems) || len(problems) == 0 || problems[0].Line < 1 {
				t.Fatalf("error without a place: %#v", err)
			}
			return
		}
		var plain any
		if yaml.Unmarshal(data, &plain) != nil {
			t.Fatal("what is no YAML is accepted")
		}
		for i := range m.Variables {
			v := &m.Variables[i]
			value, said := v.ReferenceValue()
			if !said {
				continue
			}
			if _, err := v.Read(value); err != nil {
				t.Fatalf("%s takes %q and refuses it: %v", v.Name, value, err)
			}
		}
		m.VariablesSchema()
	})
}
