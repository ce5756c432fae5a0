package hooks

import (
	"context"
	"errors"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
)

func TestMain(m *testing.M) {
	RunSandbox()
	os.Exit(m.Run())
}

const head = `ironcast: 1
template: board
version: 1.0.0
team: kelpwick
variables:
  service: { kind: name, stands_for: crossing board, default: tide gauge }
  namespace: { kind: package, default: example.kelpwick.tides }
  port: { kind: integer, default: 8080 }
  image: { kind: text, default: "", ask_when: "false" }
  regions: { kind: list, of: name, default: [north quay, main] }
  extras: { kind: list, of: text, default: [] }
  password: { kind: secret, ask_when: "false" }
`

const before = "hooks: { before_cast: [{ script: .ironcast/hooks/a.star }] }\n"
const after = "hooks: { after_cast: [{ script: .ironcast/hooks/a.star }] }\n"

func cast(t *testing.T, manifestText, script string, given values.Input) (*Result, error) {
	t.Helper()
	template, err := tree.New([]tree.Entry{
		{Path: "ironcast.yaml", Content: tree.Memory(head + manifestText)},
		{Path: ".ironcast/hooks/a.star", Content: tree.Memory(script)},
		{Path: "package.json", Content: tree.Memory(`{"name": "crossing-board", "dependencies": {"z": "1"}}`)},
		{Path: "cmd/crossing-board/main.go", Content: tree.Memory("package main")},
		{Path: "run.sh", Content: tree.Memory("true")},
	}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	parsed, err := manifest.Of(template)
	if err != nil {
		t.Fatal(err)
	}
	m, err := mould.Compile(context.Background(), mould.Source(template, parsed), parsed, mould.Options{Limits: tree.DefaultLimits(), Template: template})
	if err != nil {
		t.Fatal(err)
	}
	return Cast(context.Background(), Request{Mould: m, Template: template, Given: given, Occasion: values.Now(), Limits: tree.DefaultLimits()})
}

func TestAScriptAfterTheCastWorksOnTheProject(t *testing.T) {
	result, err := cast(t, after, `
package = json.decode(project.read("package.json"))
for extra in values.extras:
    package["dependencies"][extra] = "*"
project.write("package.json", json.indent(json.encode(package), indent="  ") + "\n")
project.move("cmd/" + values.service.kebab, "cmd/" + values.service.snake)
project.executable("run.sh")
project.write("notes/" + values.regions[0].pascal + ".txt", "%d %s %d" % (values.port, values.namespace.path, today.year))
project.remove("notes") if values.port == 1 else None
print("files:", project.files("**/*.go"), project.exists("cmd"), hasattr(values, "password"))
`, values.Input{"extras": []any{"b", "a"}, "password": "hunter2"})
	if err != nil {
		t.Fatal(err)
	}
	var got strings.Builder
	for _, e := range result.Project.Entries() {
		content, _ := e.Bytes()
		fmt.Fprintf(&got, "%s %v %s\n", e.Path, e.Executable, content)
	}
	want := fmt.Sprintf(`cmd/tide_gauge/main.go false package main
notes/NorthQuay.txt false 8080 example/kelpwick/tides %d
package.json false {
  "dependencies": {
    "a": "*",
    "b": "*",
    "z": "1"
  },
  "name": "tide-gauge"
}

run.sh true true
`, time.Now().Year())
	if got.String() != want || strings.Join(result.Output, "|") != `files: ["cmd/tide_gauge/main.go"] False False` {
		t.Errorf("got\n%s\nwant\n%s\nand printed %q", got.String(), want, result.Output)
	}
	if len(result.Changed) != 4 {
		t.Errorf("changed are %v", result.Changed)
	}
}

func TestAScriptBeforeTheCastSetsAndRefuses(t *testing.T) {
	result, err := cast(t, before, `set("image", "registry.kelpwick.example/" + values.service.kebab)`, nil)
	if err != nil || result.Values.Get("image").String() != "registry.kelpwick.example/tide-gauge" {
		t.Errorf("image is %v, %v", result, err)
	}
	_, err = cast(t, before, "def check(n):\n    if n < 9000:\n        refuse(\"Ports below 9000 are taken at Kelpwick.\")\ncheck(values.port)\n", nil)
	var refused *ScriptError
	if !errors.As(err, &refused) || !refused.Refused || err.Error() != "Ports below 9000 are taken at Kelpwick." {
		t.Errorf("error is %v", err)
	}
	_, err = cast(t, before, `set("port", "many")`, nil)
	var wrong values.Problems
	if !errors.As(err, &wrong) || wrong[0].Variable != "port" {
		t.Errorf("error is %v", err)
	}
}

func TestAFailingScriptSaysWhereAndByWhichCalls(t *testing.T) {
	for script, want := range map[string]string{
		"def inner(d):\n    return d[\"x\"]\n\ndef outer():\n    inner({})\n\nouter()\n": "the script .ironcast/hooks/a.star:2 fails: key \"x\" not in dict\n    called from .ironcast/hooks/a.star:5, in outer\n    called from .ironcast/hooks/a.star:7, in <toplevel>",
		"x = 1\nif x\n":                           "fails: got newline, want ':'",
		"x = y\n":                                 ".ironcast/hooks/a.star:1 fails: undefined: y",
		"project.read(\"nothing\")":               "a.star:1 fails: there is no file nothing in the project",
		"project.write(\"../x\", \"\")":           "is not a safe path",
		"project.write(\"run.sh/x\", \"\")":       "the scripts leave a project that cannot be written",
		"project.move(\"run.sh\", \"a/../../b\")": "is not a safe path",
		"load(\"x.star\", \"y\")":                 "load not implemented",
		"set(\"port\", 1)":                        "set: got 2 arguments",
		"project.write(\"a\", \"ä\"[:1])":         "texts and paths must be UTF-8",
		"values.pots":                             "struct has no .pots attribute",
	} {
		_, err := cast(t, after, script, nil)
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q gives\n%v\nwant\n%s", script, err, want)
		}
	}
}

// Each of these would take a machine along that ran it without bounds.
func TestHostileScriptsAreStopped(t *testing.T) {
	for name, c := range map[string]struct{ script, want string }{
		"a loop without end":          {"while True:\n    pass\n", "it takes more than 5000000 steps"},
		"a recursion without end":     {"def f():\n    f()\nf()\n", "more than"},
		"a list without end":          {"x = []\nwhile True:\n    x.append([0] * 1000)\n", "it"},
		"a text that doubles":         {"x = 'x'\nwhile True:\n    x += x\n", "it"},
		"one huge text":               {"x = 'x' * 1000000000\n", "it uses more than 128 MB of memory"},
		"a text that is squared":      {"x = 'x' * 10000\nfor i in range(9):\n    x = x.replace('x', x)\n", "it uses more than 128 MB of memory"},
		"a huge range":                {"x = list(range(1000000000))\n", "it uses more than 128 MB of memory"},
		"a nest that is printed":      {"x = []\nfor i in range(60):\n    x = [x, x]\nprint(str(x))\n", "it"},
		"a number that is squared":    {"x = 3\nwhile True:\n    x = x * x\n", "it"},
		"much output":                 {"while True:\n    print('x' * 1000)\n", "it prints more than 65536 bytes"},
		"many files":                  {"i = 0\nwhile True:\n    project.write('f%d' % i, '')\n    i += 1\n", "it asks more than 10000 times"},
		"a project without any limit": {"x = 'x' * 10000000\nfor i in range(1000):\n    project.write('f%d' % i, x)\n", "it writes more than 32 MB"},
	} {
		if raceDetector {
			c.want = "it " // it is so slow that another bound may be met first
		}
		began := time.Now()
		_, err := cast(t, after, c.script, nil)
		if err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s ends with %.300v", name, err)
		}
		t.Logf("%s: %v: %.150v", name, time.Since(began).Round(time.Millisecond), err)
	}
}

func TestAStoppedCastStopsItsScript(t *testing.T) {
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if _, err := run(ctx, script{Path: "a.star", Text: "while True:\n    pass"}, values.Values{}, nil); !errors.Is(err, context.Canceled) {
		t.Errorf("error is %v", err)
	}
}
