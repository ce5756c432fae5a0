package survey

import (
	"slices"
	"strings"
	"testing"

	"ironcast/core/tree"
)

func factsOf(t *testing.T, files map[string]string) *facts {
	t.Helper()
	var entries []tree.Entry
	for path, text := range files {
		entries = append(entries, tree.Entry{Path: path, Content: tree.Memory(text)})
	}
	project, err := tree.New(entries, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	f, err := readFacts(project, "some-folder")
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func TestBuildFilesNameTheProjectAndItsDependencies(t *testing.T) {
	for _, c := range []struct{ file, text, name, dependencies string }{
		{"go.mod", "module kelpwick.example/tides/tide-gauge/v3\n\nrequire (\n\tkelpwick.example/tools v1.2.0\n)\n", "tide gauge", "kelpwick.example/tools"},
		{"package.json", `{"name": "@kelpwick/tide-gauge", "dependencies": {"left-quay": "^1"}, "devDependencies": {"pier-tools": "2"}}`, "tide gauge", "left-quay pier-tools"},
		{"pyproject.toml", "[project]\nname = \"tide_gauge\"\ndependencies = [\"tide-units>=2\", \"pier[all]==1\"]\n", "tide gauge", "pier tide-units"},
		{"Cargo.toml", "[package]\nname = \"tide-gauge\"\n[dependencies]\nserde_quay = \"1\"\n", "tide gauge", "serde_quay"},
		{"pom.xml", "<project><artifactId>tide-gauge</artifactId><dependencies><dependency><groupId>example.quay</groupId><artifactId>quay-core</artifactId></dependency></dependencies></project>", "tide gauge", "example.quay quay-core"},
		{"requirements.txt", "# what it needs\ntide-units>=2\n  pier_tools\n", "some folder", "pier_tools tide-units"},
		{"README.md", "# Tide Gauge\n\n[![badge](x)](y)\n\nShows the\ntide.\n\nMore.\n", "tide gauge", ""},
		{"README.md", "# How to measure the tide of a harbour\n", "some folder", ""},
		{"go.mod", "this is none", "some folder", ""},
		{"package.json", "{", "some folder", ""},
		{"pyproject.toml", "[", "some folder", ""},
		{"pom.xml", "<", "some folder", ""},
	} {
		f := factsOf(t, map[string]string{c.file: c.text})
		slices.Sort(f.dependencies)
		if got := f.names[0].words; got != c.name {
			t.Errorf("%s %.30q names %q, want %q", c.file, c.text, got, c.name)
		}
		if got := strings.Join(f.dependencies, " "); got != c.dependencies {
			t.Errorf("%s depends on %q, want %q", c.file, got, c.dependencies)
		}
	}
}

func TestReadmeAndLicence(t *testing.T) {
	f := factsOf(t, map[string]string{
		"README.md": "# Tide Gauge\r\n\r\n![picture](x)\r\n\r\nShows the\r\ntide.\r\n\r\nMore.\r\n",
		"LICENCE":   "Apache License\nVersion 2.0",
	})
	if f.title != "Tide Gauge" || f.summary != "Shows the tide." || f.licence != "Apache-2.0" {
		t.Errorf("title %q, summary %q, licence %q", f.title, f.summary, f.licence)
	}
}

func TestIDsAndPortsInText(t *testing.T) {
	text := &projectText{phrases: map[string]*phrase{}, tokens: map[string]*seen{}, literals: map[string]*Literal{}, isID: map[string]bool{}}
	text.readLiterals("config.yaml", []byte(`
id: {3F0C7C1E-8A55-4F5E-9A44-6A52B7A1F0DE}
nil: 00000000-0000-0000-0000-000000000000
longer: 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de-77
port: 8087
"httpPort": 8088,
EXPOSE 8089
http://localhost:8090/
DEFAULT_PORT = 8091
year: 2026
port: 80
import 8092
`))
	var ids, ports []string
	for number := range text.literals {
		if text.isID[number] {
			ids = append(ids, number)
		} else {
			ports = append(ports, number)
		}
	}
	slices.Sort(ports)
	if !slices.Equal(ids, []string{"3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de"}) {
		t.Errorf("ids are %v", ids)
	}
	if !slices.Equal(ports, []string{"8087", "8088", "8089", "8090", "8091", "8092"}) {
		t.Errorf("ports are %v", ports)
	}
	for number, want := range map[string]string{"8087": "port", "8088": "http_port", "8091": "default_port"} {
		if l := text.literals[number]; l == nil || l.Variable != want {
			t.Errorf("%s is called %+v, want %s", number, l, want)
		}
	}
}

func TestWhatStandsAsideIsNotProposed(t *testing.T) {
	for file, own := range map[string]bool{
		"config/app.yaml": true, "src/main.go": true, "deploy/Dockerfile": true, "contest/a.go": true,
		"main_test.go": false, "tests/a.py": false, "src/test_a.py": false, "README.md": false, "a.spec.ts": false, "x/testdata/a": false,
	} {
		if isOwn(file) != own {
			t.Errorf("isOwn(%s) = %v", file, !own)
		}
	}
}
