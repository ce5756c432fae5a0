package hooks

import (
	"errors"
	"fmt"
	"strings"
	"testing"
	"time"

	"ironcast/core/manifest"
	"ironcast/core/tree"
	"ironcast/core/values"
)

func testProject(t *testing.T) *project {
	t.Helper()
	entries := []tree.Entry{
		{Path: "a/b.txt", Content: tree.Memory("b")}, {Path: "a/c/d.txt", Content: tree.Memory("d"), Executable: true},
		{Path: "e", Content: tree.Memory("e")}, {Path: "latin", Content: tree.Memory("F\xe4hre")}, {Path: "link", Kind: tree.Link, Target: "e"}, {Path: "var", Kind: tree.Folder},
	}
	all, err := tree.New(entries, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	limits := tree.DefaultLimits()
	limits.Files = 8
	return newProject(all, limits)
}

func TestAProjectDoesWhatScriptsAsk(t *testing.T) {
	p := testProject(t)
	for _, step := range []struct {
		request request
		want    string
	}{
		{request{Op: "read", Path: "a/b.txt"}, "b [] false "},
		{request{Op: "read", Path: "latin"}, "latin is no UTF-8 text, so a script cannot read it"},
		{request{Op: "read", Path: "var"}, "var is a folder, no file"},
		{request{Op: "read", Path: "nowhere"}, "there is no file nowhere in the project"},
		{request{Op: "files", Path: "**/*.txt"}, " [a/b.txt a/c/d.txt] false "},
		{request{Op: "files", Path: "[a"}, `"[a" is no glob of paths`},
		{request{Op: "exists", Path: "link"}, " [] true "},
		{request{Op: "exists", Path: "a"}, " [] false "},
		{request{Op: "write", Path: "../x"}, "is not a safe path"},
		{request{Op: "write", Path: "link", Text: "x"}, "link is a link, no file"},
		{request{Op: "write", Path: "a/c/d.txt", Text: "new"}, " [] false "},
		{request{Op: "write", Path: "f", Text: "f", Executable: true}, " [] false "},
		{request{Op: "write", Path: "g", Text: "g"}, " [] false "},
		{request{Op: "write", Path: "h", Text: "h"}, "more than 8 files"},
		{request{Op: "move", Path: "a", To: "z"}, " [] false "},
		{request{Op: "move", Path: "nowhere", To: "y"}, "there is no file or folder nowhere"},
		{request{Op: "move", Path: "e", To: "f"}, "f is there already"},
		{request{Op: "move", Path: "e", To: "/etc/e"}, "is not a safe path"},
		{request{Op: "remove", Path: "z/c"}, " [] false "},
		{request{Op: "remove", Path: "z/c"}, "there is no file or folder z/c"},
		{request{Op: "executable", Path: "e", Executable: true}, " [] false "},
		{request{Op: "executable", Path: "var", Executable: true}, "var is a folder, no file"},
		{request{Op: "format", Path: "e"}, `a project has no "format"`},
	} {
		answer := p.do(step.request)
		got := answer.Error
		if got == "" {
			got = fmt.Sprintf("%s %v %v ", answer.Text, answer.Paths, answer.Is)
		}
		if !strings.Contains(got, step.want) {
			t.Errorf("%+v gives %q, want %q", step.request, got, step.want)
		}
	}
	done, err := p.tree()
	if err != nil {
		t.Fatal(err)
	}
	var left []string
	for _, e := range done.Entries() {
		left = append(left, fmt.Sprint(e.Path, e.Executable))
	}
	if got := strings.Join(left, " "); got != "etrue ftrue gfalse latinfalse linkfalse varfalse z/b.txtfalse" {
		t.Errorf("left are %s", got)
	}
	if got := strings.Join(p.changedPaths(), " "); got != "e f g z/b.txt" {
		t.Errorf("changed are %s", got)
	}
}

// Scripts see dates, records and lists as expressions do, and give them back.
func TestScriptsAndExpressionsSpeakOfTheSame(t *testing.T) {
	for script, want := range map[string]string{
		`set("image", values.service.upper_snake)`:                                        "image=TIDE_GAUGE",
		`set("service", name("gull island"))`:                                             "service=gull island",
		`set("namespace", values.namespace)`:                                              "namespace=example.kelpwick.tides",
		`set("regions", [values.regions[1], "south pier"])`:                               "regions=main, south pier",
		`set("port", values.port + 1)`:                                                    "port=8081",
		`set("image", json.encode({"day": today.text})[:8])`:                              `image={"day":"`,
		`set("image", str(values.namespace.parts))`:                                       `image=["example", "kelpwick", "tides"]`,
		"def f(n):\n    return n if n < 2 else f(n - 1) + f(n - 2)\nset(\"port\", f(20))": "port=6765",
	} {
		result, err := cast(t, before, script, nil)
		if err != nil {
			t.Errorf("%s: %v", script, err)
			continue
		}
		variable, value, _ := strings.Cut(want, "=")
		if got := result.Values.Get(variable).String(); got != value {
			t.Errorf("%s gives %s=%q, want %q", script, variable, got, value)
		}
	}
	for script, want := range map[string]string{
		`set("port", 1 << 70)`:              "is too large for a value",
		`set("port", {})`:                   "a value cannot be of type dict",
		`set("regions", [{}])`:              "a value cannot be of type",
		`set("prot", 1)`:                    "did you mean port?",
		`set("port")`:                       "set: got 1 argument",
		`name("9")`:                         "is no name",
		`refuse()`:                          "refuse: got 0 arguments",
		`project.read("a")`:                 "undefined: project",
		`fail("odd")`:                       "odd",
		`set("service", values.service.up)`: "has no .up attribute",
	} {
		if _, err := cast(t, before, script, nil); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s gives %v, want %q", script, err, want)
		}
	}
}

func TestScriptsRunOnlyWhenTheirConditionHolds(t *testing.T) {
	conditional := "hooks: { before_cast: [{ script: .ironcast/hooks/a.star, when: port > 9000 }] }\n"
	if _, err := cast(t, conditional, `refuse("no")`, nil); err != nil {
		t.Errorf("it runs: %v", err)
	}
	if _, err := cast(t, conditional, `refuse("no")`, values.Input{"port": 9001}); err == nil || err.Error() != "no" {
		t.Errorf("it does not run: %v", err)
	}
	missing := "hooks: { after_cast: [{ script: .ironcast/hooks/b.star }] }\n"
	if _, err := cast(t, missing, "", nil); err == nil || !strings.Contains(err.Error(), "there is no script .ironcast/hooks/b.star") {
		t.Errorf("error is %v", err)
	}
}

func TestIdsStayWhileScriptsSetValues(t *testing.T) {
	made := 0
	result, err := cast(t, before+"checks: [{ that: port > 0, message: a }]\n", `set("port", 9100)`, nil)
	if err != nil || result.Values.Get("port").String() != "9100" {
		t.Fatal(result, err)
	}
	m, err := manifest.Parse([]byte(head + "  id: { kind: id }\n" + before))
	if err != nil {
		t.Fatal(err)
	}
	occasion := values.Occasion{Today: time.Now(), NewID: func(string) string { made++; return values.Now().NewID("") }}
	if _, err := values.Resolve(m, nil, occasion); err != nil || made != 1 {
		t.Errorf("%d ids are made, %v", made, err)
	}
}

func TestCommandsAndStepsFollowTheValues(t *testing.T) {
	m, err := manifest.Parse([]byte(head + `hooks:
  after_cast:
    - { run: [make, "${service.kebab}", "$${HOME}"], timeout: 7, environment: [GOPROXY] }
    - { run: [rm], when: port == 1 }
next_steps:
  - Read the readme of ${service}
  - { do: Start it, run: "./${service.kebab} --port ${port}" }
  - { do: Never, when: port == 1 }
`))
	if err != nil {
		t.Fatal(err)
	}
	vs, err := values.Resolve(m, nil, values.Now())
	if err != nil {
		t.Fatal(err)
	}
	commands, err := Commands(m, vs)
	if err != nil || len(commands) != 1 || fmt.Sprint(commands[0]) != "{[make tide-gauge ${HOME}] 7s [GOPROXY]}" {
		t.Errorf("commands are %v, %v", commands, err)
	}
	steps, err := NextSteps(m, vs)
	if err != nil || fmt.Sprint(steps) != "[{Read the readme of tide gauge } {Start it ./tide-gauge --port 8080}]" {
		t.Errorf("steps are %v, %v", steps, err)
	}
}

func TestAScriptErrorSaysItsPlace(t *testing.T) {
	err := error(&ScriptError{Script: "a.star", Message: "odd", Trail: []string{"a.star:3, in f"}})
	if err.Error() != "the script a.star fails: odd\n    called from a.star:3, in f" {
		t.Error(err)
	}
	var failed *ScriptError
	if _, err := cast(t, before, "x = [\n", nil); !errors.As(err, &failed) || failed.Line == 0 || failed.Refused {
		t.Errorf("error is %#v", err)
	}
}
