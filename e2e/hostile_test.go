package e2e

import (
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

const hostileHead = "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\n"

// writeFiles writes files below a new folder and returns it.
func writeFiles(t *testing.T, files map[string]string) string {
	t.Helper()
	dir := t.TempDir()
	for path, text := range files {
		full := filepath.Join(dir, path)
		if err := os.MkdirAll(filepath.Dir(full), 0o777); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(full, []byte(text), 0o666); err != nil {
			t.Fatal(err)
		}
	}
	return dir
}

// Each of these templates would take a machine along that cast it without
// bounds. They are refused with a sentence that says which bound they met.
func TestHostileTemplatesAreRefused(t *testing.T) {
	numbered := func(n int, format string) string {
		items := make([]string, n)
		for i := range items {
			items[i] = fmt.Sprintf(format, i)
		}
		return strings.Join(items, ",")
	}
	script := hostileHead + "hooks: { after_cast: [{ script: .ironcast/a.star }] }\n"
	manyFiles := map[string]string{"ironcast.yaml": hostileHead + "variables: { l: { kind: list, of: text, reference: [t], default: [" + numbered(1000, "t%d") + "] } }\n" +
		"files: { repeat: [{ paths: ['t/**'], each: x in l, standing_for: t }] }\n"}
	for i := range 1000 {
		manyFiles[fmt.Sprintf("t/%d", i)] = ""
	}
	lists, opens := hostileHead+"variables:\n", ""
	for k := range 3 {
		lists += fmt.Sprintf("  l%d: { kind: list, of: text, reference: [t], default: [%s] }\n", k, numbered(1000, "u%d"))
		opens += fmt.Sprintf("# ironcast: repeat x%d in l%d standing for \"t\"\n", k, k)
	}
	anchors := "a0: &a0 [x,x,x,x,x,x,x,x,x]\n"
	for i := 1; i < 12; i++ {
		anchors += fmt.Sprintf("a%d: &a%d [%s]\n", i, i, strings.TrimSuffix(strings.Repeat(fmt.Sprintf("*a%d,", i-1), 9), ","))
	}
	for name, c := range map[string]struct {
		files map[string]string
		want  string
	}{
		"a script without end":       {map[string]string{"ironcast.yaml": script, ".ironcast/a.star": "while True:\n    pass\n"}, "it takes more than 5000000 steps"},
		"a script that takes all":    {map[string]string{"ironcast.yaml": script, ".ironcast/a.star": "x = 'x' * 1000\nfor i in range(9):\n    x = x.replace('x', x)\n"}, "it uses more than 128 MB of memory"},
		"a script that is too large": {map[string]string{"ironcast.yaml": script, ".ironcast/a.star": strings.Repeat("#", 300_000)}, "at most 262144 are run"},
		"an expression of exponential cost": {map[string]string{"ironcast.yaml": hostileHead + "variables: { a: { kind: boolean, default: '${" +
			strings.Repeat("[1,2,3,4,5,6,7,8].all(x, ", 12) + "true" + strings.Repeat(")", 12) + "}' } }\n"}, "it takes more than 200000 steps"},
		"an expression that nests":        {map[string]string{"ironcast.yaml": hostileHead + "checks: [{ that: '" + strings.Repeat("(", 500) + "true" + strings.Repeat(")", 500) + "', message: a }]\n"}, "recursion limit"},
		"marks that nest":                 {map[string]string{"ironcast.yaml": hostileHead, "a.sh": strings.Repeat("# ironcast: only when true\n", 10_000) + strings.Repeat("# ironcast: end\n", 10_000)}, "a.sh:51: blocks nest deeper than 50 here"},
		"repeats in repeats":              {map[string]string{"ironcast.yaml": lists, "a.sh": opens + "t\n" + strings.Repeat("# ironcast: end\n", 3)}, "its marks would cast more than 200000 blocks"},
		"a list of a million":             {map[string]string{"ironcast.yaml": hostileHead + "variables: { l: { kind: list, of: integer, default: [" + strings.TrimSuffix(strings.Repeat("1,", 300_000), ",") + "] } }\n"}, "a list has at most 1000"},
		"a million files":                 {manyFiles, "more than 50000 files would be cast"},
		"anchors that multiply":           {map[string]string{"ironcast.yaml": hostileHead + anchors}, `has no key "a11"`},
		"anchors that multiply in a list": {map[string]string{"ironcast.yaml": hostileHead + "labels: &a [x]\nkeep: [*a, *a]\n"}, "an alias, which a manifest may not hold"},
		"brackets that nest":              {map[string]string{"ironcast.yaml": hostileHead + "labels: " + strings.Repeat("[", 100_000) + "\n"}, "exceeded max depth"},
	} {
		t.Run(name, func(t *testing.T) {
			c.files["note.txt"] = "x"
			dir := writeFiles(t, c.files)
			target := filepath.Join(t.TempDir(), "out")
			r := run(t, "cast", dir, target, "--no-ask")
			if r.code == 0 || !strings.Contains(r.notes, c.want) || len(r.notes) > 4000 {
				t.Errorf("it ends with %d and says %.300s", r.code, r.notes)
			}
			if _, err := os.Stat(target); err == nil {
				t.Error("something is cast")
			}
		})
	}
	values := filepath.Join(t.TempDir(), "values.json")
	if err := os.WriteFile(values, []byte(`{"l": [`+numbered(1_000_000, "%d")+`]}`), 0o666); err != nil {
		t.Fatal(err)
	}
	dir := writeFiles(t, map[string]string{"ironcast.yaml": hostileHead + "variables: { l: { kind: list, of: integer, default: [] } }\n", "a": ""})
	if r := run(t, "cast", dir, filepath.Join(t.TempDir(), "out"), "--values", values, "--no-ask"); r.code != 1 || !strings.Contains(r.notes, "more than 4194304 bytes") {
		t.Errorf("a huge values file gives %d %s", r.code, r.notes)
	}
}

func TestAFailingCommandLeavesTheProjectAside(t *testing.T) {
	template := writeFiles(t, map[string]string{
		"ironcast.yaml": hostileHead + "hooks: { after_cast: [{ run: [sh, -c, \"echo trouble; exit 3\"] }, { run: [touch, later] }] }\n", "a": "x",
	})
	top := t.TempDir()
	for _, want := range []string{"out.unfinished", "out.unfinished-2"} {
		r := run(t, "cast", template, filepath.Join(top, "out"), "--commands", "run", "--no-ask")
		aside := filepath.Join(top, want)
		for _, text := range []string{"Running sh -c 'echo trouble; exit 3'", "\ntrouble\n", "it ended with 3", "The project is in " + aside + ", and", "--commands skip"} {
			if r.code != 1 || !strings.Contains(r.notes, text) {
				t.Errorf("it ends with %d, without %q:\n%s", r.code, text, r.notes)
			}
		}
		if _, err := os.Stat(filepath.Join(aside, "a")); err != nil {
			t.Error(err)
		}
		if _, err := os.Stat(filepath.Join(aside, "later")); err == nil {
			t.Error("the next command ran as well")
		}
	}
	left, err := os.ReadDir(top)
	if err != nil || len(left) != 2 {
		t.Errorf("left are %v, %v", left, err)
	}
	slow := writeFiles(t, map[string]string{"ironcast.yaml": hostileHead + "hooks: { after_cast: [{ run: [sleep, '60'], timeout: 1 }] }\n", "a": "x"})
	if r := run(t, "cast", slow, filepath.Join(top, "slow"), "--commands", "run", "--no-ask"); r.code != 1 || !strings.Contains(r.notes, "it took longer than 1s") {
		t.Errorf("a command without end gives %d %s", r.code, r.notes)
	}
	missing := writeFiles(t, map[string]string{"ironcast.yaml": hostileHead + "hooks: { after_cast: [{ run: [kelpwick-caulk] }] }\n", "a": "x"})
	if r := run(t, "cast", missing, filepath.Join(top, "missing"), "--commands", "run", "--no-ask"); !strings.Contains(r.notes, "there is no program kelpwick-caulk here") {
		t.Errorf("a program that is missing gives %s", r.notes)
	}
}

// Commands see only what they need of the environment.
func TestCommandsGetASmallEnvironment(t *testing.T) {
	template := writeFiles(t, map[string]string{"ironcast.yaml": hostileHead + "hooks: { after_cast: [{ run: [env], environment: [KELPWICK_WANTED] }] }\n", "a": "x"})
	r := runWith(t, append(environment(), "KELPWICK_TOKEN=hunter2", "KELPWICK_WANTED=yes", "IRONCAST_SECRET_A=hunter3"), "", "cast", template, filepath.Join(t.TempDir(), "out"), "--commands", "run", "--no-ask")
	if r.code != 0 || strings.Contains(r.notes, "hunter") || !strings.Contains(r.notes, "KELPWICK_WANTED=yes") || !strings.Contains(r.notes, "PATH=") {
		t.Errorf("it ends with %d and has\n%s", r.code, r.notes)
	}
}

func TestEveryDemoTemplateProvesCleanWithItsCommands(t *testing.T) {
	for _, name := range []string{"crossing-board", "tide-log", "harbour-suite", "pier-guide"} {
		junit := filepath.Join(t.TempDir(), "proof.xml")
		r := run(t, "prove", filepath.Join(projects, name), "--run", "--junit", junit)
		if r.code != 0 || !strings.Contains(r.out, "proves clean") || strings.Contains(r.out, "not run") || !strings.Contains(r.out, "run  ") {
			t.Errorf("%s ends with %d:\n%s%s", name, r.code, r.out, r.notes)
		}
		text, err := os.ReadFile(junit)
		if err != nil || !strings.Contains(string(text), `failures="0"`) || strings.Count(r.out, "  ! ") != strings.Count(r.out, "which matches nothing now") {
			t.Errorf("%s: %v\n%s\n%s", name, err, r.out, text)
		}
	}
}

func TestExplainFindsTheTemplateOfAProject(t *testing.T) {
	project := filepath.Join(t.TempDir(), "office")
	r := runWith(t, append(environment(), "IRONCAST_SECRET_BROKER_PASSWORD=not-a-real-one"), "", "cast", "kelpwick/harbour-suite", project, "suite=pier office", "regions=gull island", "libraries=example.com/charts@v1.4.0", "--no-ask")
	if r.code != 0 {
		t.Fatal(r.notes)
	}
	for arguments, want := range map[string][]string{
		"regions/gull-island/region.go:7": {`Name: "gull-island"`, "from regions/north-quay/region.go:7", `repeated for "gull island"`, `the item region of regions, which stands for "north quay"`},
		"core/go.mod":                     {"a script of the template wrote it"},
		"go.work:11":                      {"./regions/gull-island", "for each region in regions"},
		"Makefile":                        {"from Makefile"},
		"nowhere":                         {"it was not cast"},
	} {
		out := must(t, "explain", project, arguments)
		for _, text := range want {
			if !strings.Contains(out, text) {
				t.Errorf("explain %s lacks %q:\n%s", arguments, text, out)
			}
		}
	}
	if err := os.WriteFile(filepath.Join(project, "go.work"), []byte("go 1.27\n"), 0o666); err != nil {
		t.Fatal(err)
	}
	if out := must(t, "explain", project, "go.work:1"); !strings.Contains(out, "changed since: go 1.27") {
		t.Errorf("a changed line is explained as\n%s", out)
	}
	if all := must(t, "explain", filepath.Join(projects, "harbour-suite")); !strings.Contains(all, "cast only when billing") || !strings.Contains(all, "6 marks") {
		t.Errorf("a template is explained as\n%s", all)
	}
}
