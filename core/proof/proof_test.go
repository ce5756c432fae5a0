package proof

import (
	"context"
	"os"
	"strings"
	"testing"

	"ironcast/core/bundle"
	"ironcast/core/hooks"
	"ironcast/core/tree"
)

func TestMain(m *testing.M) {
	hooks.RunSandbox()
	os.Exit(m.Run())
}

func proveFiles(t *testing.T, files map[string]string) Report {
	t.Helper()
	var entries []tree.Entry
	for path, text := range files {
		entries = append(entries, tree.Entry{Path: path, Content: tree.Memory(text)})
	}
	template, err := tree.New(entries, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	report, _, err := Prove(context.Background(), template, Options{Limits: tree.DefaultLimits()})
	if err != nil {
		t.Fatal(err)
	}
	return report
}

func findings(r Report) string {
	var all []string
	for _, stage := range r.Stages {
		for _, f := range stage.Findings {
			all = append(all, stage.Name+": "+f.String())
		}
	}
	return strings.Join(all, "\n")
}

func TestTheDemoTemplatesProveClean(t *testing.T) {
	for _, dir := range []string{"crossing-board", "tide-log"} {
		template, _, err := bundle.Folder(context.Background(), "../../demo/"+dir, tree.DefaultLimits())
		if err != nil {
			t.Fatal(err)
		}
		report, _, err := Prove(context.Background(), template, Options{Limits: tree.DefaultLimits()})
		if err != nil {
			t.Fatal(err)
		}
		if len(report.Stages) < 5 || !report.Passed() {
			t.Errorf("%s: %d stages, findings:\n%s", dir, len(report.Stages), findings(report))
		}
		for _, stage := range report.Stages {
			t.Logf("%s %s: %s", dir, stage.Name, stage.Detail)
		}
	}
}

const head = "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\nvariables:\n"

func TestFaultsAreFound(t *testing.T) {
	name := head + "  service: { kind: name, stands_for: crossing board }\n"
	for _, c := range []struct {
		name  string
		files map[string]string
		want  string // in the findings; "" where the template is clean
	}{
		{"a clean template", map[string]string{"ironcast.yaml": name, "main.go": "package crossingboard\n"}, ""},
		{"a name broken over two lines", map[string]string{"ironcast.yaml": name, "crossing-board.md": "the crossing\nboard\n"}, `no trace: crossing-board.md:1: "crossing\nboard"`},
		{"a name in odd capitals", map[string]string{"ironcast.yaml": name, "crossing-board": "CrossingBOARD"}, "is still here"},
		{"a name in a binary", map[string]string{"ironcast.yaml": name, "crossing-board": "\x00crossing-board"}, "is still here"},
		{"a binary that is verbatim", map[string]string{"ironcast.yaml": name + "files: { verbatim: [logo.bin] }\n", "logo.bin": "\x00crossing-board", "crossing-board": ""}, ""},
		{"a text to keep", map[string]string{"ironcast.yaml": name + "keep: [crossing-board-tools]\n", "go.mod": "crossing-board-tools crossing-board"}, ""},
		{"a variable that stands nowhere", map[string]string{"ironcast.yaml": name, "main.go": "package main\n"}, "which is nowhere in the project"},
		{"no files", map[string]string{"ironcast.yaml": name}, "no files to cast"},
		{"no manifest", map[string]string{"main.go": ""}, "so it is no template"},
		{"a wrong manifest", map[string]string{"ironcast.yaml": name + "colour: red\n", "main.go": ""}, `no key "colour"`},
		{"a choice with no other value", map[string]string{
			"ironcast.yaml": head + "  store: { kind: choice, options: [disk, memory], stands_for: disk }\n",
			"main.go":       "disk or memory",
		}, ""},
		{"two variables in one place", map[string]string{
			"ironcast.yaml": head + "  a: { kind: text, stands_for: quay, in: [\"*.go\"] }\n  b: { kind: text, stands_for: quay, in: [\"main.*\"] }\n",
			"main.go":       "x\nthe quay",
		}, "both claim the text \"quay\" at main.go:2"},
		{"a one-word name inside another", map[string]string{"ironcast.yaml": head + "  n: { kind: name, stands_for: board }\n", "board.go": "dashboard board_client BoardX"}, ""},
		{"an id in every form", map[string]string{
			"ironcast.yaml": head + "  n: { kind: id, stands_for: 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de }\n",
			"a":             "{3F0C7C1E-8A55-4F5E-9A44-6A52B7A1F0DE} 3f0c7c1e8a554f5e9a446a52b7a1f0de",
		}, ""},
		{"a text with a pattern and no example", map[string]string{
			"ironcast.yaml": head + "  n: { kind: text, stands_for: AB-1, pattern: '^[A-Z]{2}-[0-9]$' }\n",
			"a":             "AB-1",
		}, ""},
	} {
		t.Run(c.name, func(t *testing.T) {
			report := proveFiles(t, c.files)
			got := findings(report)
			if (c.want == "") != report.Passed() || !strings.Contains(got, c.want) {
				t.Errorf("passed %v with findings:\n%s\nwant %q", report.Passed(), got, c.want)
			}
		})
	}
}
