package e2e

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"

	"github.com/creack/pty"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
)

// copyOf copies a folder into the tests' own, with git's way of copying: links,
// modes and empty folders.
func copyOf(t *testing.T, dir string) string {
	t.Helper()
	target := filepath.Join(t.TempDir(), filepath.Base(dir))
	in(t, ".", "cp", "-R", dir, target)
	return target
}

func readFolder(t *testing.T, dir string) tree.Tree {
	t.Helper()
	read, err := tree.ReadFolder(context.Background(), dir, tree.ReadOptions{Limits: tree.DefaultLimits()})
	if err != nil {
		t.Fatal(err)
	}
	return read
}

func TestFromAProjectToABuiltOne(t *testing.T) {
	source := copyOf(t, filepath.Join(projects, "try", "crossing-board"))
	before := readFolder(t, source)

	surveyed := must(t, "survey", source)
	for _, want := range []string{"crossing board", "CROSSING_BOARD", "3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de", "8087", ".idea/**", "var/spool", "assets/badge.png", "Next: ironcast define"} {
		if !strings.Contains(surveyed, want) {
			t.Errorf("the survey does not show %s:\n%s", want, surveyed)
		}
	}
	if defined := must(t, "define", source, "--accept", "all", "--team", "piers"); !strings.Contains(defined, "It proves clean") {
		t.Errorf("define says\n%s", defined)
	}
	after := readFolder(t, source).Select(func(e tree.Entry) bool { return e.Path != manifest.FileName })
	if differences, err := tree.Compare(before, after); err != nil || len(differences) > 0 {
		t.Errorf("define changed the project: %v %v", differences, err)
	}
	if again := must(t, "define", source, "--accept", "all"); !strings.Contains(again, "nothing is changed") {
		t.Errorf("define says the second time\n%s", again)
	}
	if proven := must(t, "prove", source); strings.Count(proven, "✓") != 5 {
		t.Errorf("prove says\n%s", proven)
	}
	if published := must(t, "publish", source); !strings.Contains(published, "Published piers/crossing-board@1.0.0") {
		t.Errorf("publish says\n%s", published)
	}
	if published := must(t, "publish", source); !strings.Contains(published, "published already with these very contents") {
		t.Errorf("publish says the second time\n%s", published)
	}
	if found := must(t, "find", "piers"); !strings.Contains(found, "piers/crossing-board") {
		t.Errorf("find says\n%s", found)
	}
	target := filepath.Join(t.TempDir(), "tide-gauge")
	must(t, "cast", "piers/crossing-board", target, "project=tide gauge", "--no-ask")
	in(t, target, "go", "build", "./...")
	in(t, target, "go", "test", "./...")
}

// original is the part of a demo project that a cast copies.
func original(t *testing.T, dir string) (tree.Tree, *manifest.Manifest) {
	t.Helper()
	template := readFolder(t, dir)
	m, err := manifest.Of(template)
	if err != nil {
		t.Fatal(err)
	}
	return mould.Source(template, m), m
}

// asTemplate gives a cast project the manifest that stands for its own values.
func asTemplate(t *testing.T, cast, sourceManifest string, values map[string]string) {
	t.Helper()
	text, err := os.ReadFile(sourceManifest)
	if err != nil {
		t.Fatal(err)
	}
	turned := string(text)
	for from, to := range values {
		turned = strings.Replace(turned, "stands_for: "+from+"\n", "stands_for: "+to+"\n", 1)
	}
	if err := os.WriteFile(filepath.Join(cast, manifest.FileName), []byte(turned), 0o666); err != nil {
		t.Fatal(err)
	}
	in(t, cast, "cp", "-R", filepath.Join(filepath.Dir(sourceManifest), manifest.FolderName)+"/.", manifest.FolderName)
}

func TestTheCrossingBoardCastAsATideGaugeAndBack(t *testing.T) {
	top := t.TempDir()
	source := filepath.Join(projects, "crossing-board")
	cast, back := filepath.Join(top, "tide-gauge"), filepath.Join(top, "back")
	const id = "1a2b3c4d-2222-4333-8444-5e5f5a5b5c5d"
	must(t, "cast", "kelpwick/crossing-board@1.1.0", cast, "service=tide gauge", "port=9100", "deploy_id="+id, "contact=x@y.example", "pier=Gull Island", "--no-ask")
	in(t, cast, "go", "build", "./...")
	if output, err := exec.Command("go", "-C", cast, "test", "./internal/crossingboard").CombinedOutput(); err == nil {
		t.Errorf("a package of the source is still there: %s", output)
	}
	traces := regexp.MustCompile(`(?i)crossing|board`)
	for _, e := range readFolder(t, cast).Entries() {
		content, err := e.Bytes()
		if err != nil {
			t.Fatal(err)
		}
		if e.Path != ".ironcast/origin.yaml" && (traces.MatchString(e.Path+e.Target) || traces.Match(content)) {
			t.Errorf("a trace is left in %s", e.Path)
		}
	}

	asTemplate(t, cast, filepath.Join(source, manifest.FileName), map[string]string{
		"crossing board": "tide gauge", "8087": "9100", "3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de": id,
		"piers@kelpwick.example": "x@y.example", "North Quay": "Gull Island",
	})
	must(t, "cast", cast, back, "service=crossing board", "deploy_id=3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de", "--no-ask")
	want, _ := original(t, source)
	got := readFolder(t, back).Select(func(e tree.Entry) bool { return !mould.Own(e.Path) })
	if differences, err := tree.Compare(want, got); err != nil || len(differences) > 0 {
		t.Errorf("cast back it differs: %v %v", differences, err)
	}

	plain := filepath.Join(top, "plain")
	must(t, "cast", "kelpwick/crossing-board", plain, "service=TideGauge", "--no-ask")
	in(t, plain, "go", "test", "./...")
}

func TestTheTideLogCastPassesItsTests(t *testing.T) {
	target := filepath.Join(t.TempDir(), "fuel")
	must(t, "cast", "crossings/tide-log@^1", target, "job=fuel report", "units=feet", "compress=false", "interval=30", "--no-ask")
	if output := in(t, target, "make", "test"); !strings.Contains(output, "OK") {
		t.Errorf("its tests say\n%s", output)
	}
	config, _ := os.ReadFile(filepath.Join(target, "config", "job.json"))
	if !strings.Contains(string(config), `"compress": false`) || !strings.Contains(string(config), `"units": "feet"`) {
		t.Errorf("job.json is\n%s", config)
	}
	units, err := os.ReadFile(filepath.Join(target, "vendor", "tide_log_units", "__init__.py"))
	if err != nil || len(units) == 0 {
		t.Errorf("the dependency was touched: %v", err)
	}
	if info, err := os.Stat(filepath.Join(target, "var", "spool")); err != nil || !info.IsDir() {
		t.Errorf("the empty folder is gone: %v", err)
	}
}

func TestResultsAsJSON(t *testing.T) {
	for _, args := range [][]string{
		{"survey", filepath.Join(projects, "tide-log")},
		{"prove", filepath.Join(projects, "tide-log")},
		{"find", "tide"},
		{"show", "crossings/tide-log@1.0.0"},
		{"cast", "crossings/tide-log", filepath.Join(t.TempDir(), "x"), "job=fuel report", "--no-ask"},
		{"cast", "crossings/tide-log", filepath.Join(t.TempDir(), "x"), "job=fuel report", "--no-ask", "--dry-run"},
	} {
		var decoded map[string]any
		if out := must(t, append(args, "--format", "json")...); json.Unmarshal([]byte(out), &decoded) != nil || len(decoded) == 0 {
			t.Errorf("%v prints\n%s", args, out)
		}
	}
}

func TestADryRunWritesNothing(t *testing.T) {
	target := filepath.Join(t.TempDir(), "x")
	out := must(t, "cast", "kelpwick/crossing-board", target, "service=tide gauge", "--no-ask", "--dry-run")
	for _, want := range []string{"tide-gauge.yaml", "manual → tide-gauge.1", "spool/  empty", "nothing is written"} {
		if !strings.Contains(out, want) {
			t.Errorf("%s is not shown:\n%s", want, out)
		}
	}
	if _, err := os.Stat(target); !errors.Is(err, fs.ErrNotExist) {
		t.Errorf("the target is there: %v", err)
	}
}

func TestBadInputGetsASentenceAndChangesNothing(t *testing.T) {
	top := t.TempDir()
	write := func(path, text string) string {
		path = filepath.Join(top, path)
		os.MkdirAll(filepath.Dir(path), 0o777)
		if err := os.WriteFile(path, []byte(text), 0o666); err != nil {
			t.Fatal(err)
		}
		return filepath.Dir(path)
	}
	const head = "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\n"
	wrong := write("wrong/ironcast.yaml", head+"colour: red\nvariables: { a: { kind: nam } }\n")
	full := write("full/mine.txt", "mine")
	plain := write("plain/main.go", "package main")
	list := filepath.Join(write("values/list.yaml", "- a\n"), "list.yaml")
	write("meet/north.txt", "")
	write("meet/south.txt", "")
	meet := write("meet/ironcast.yaml", head+"variables: { a: { kind: text, stands_for: north }, b: { kind: text, stands_for: south } }\n")
	traced := write("traced/ironcast.yaml", head+"variables: { a: { kind: name, stands_for: crossing board } }\n")
	write("traced/crossing-board.md", "the crossing\nboard\n")
	clash := write("clash/ironcast.yaml", head+"variables: { a: { kind: text, stands_for: quay }, b: { kind: text, stands_for: quay } }\n")
	write("clash/main.go", "quay")
	changed := copyOf(t, filepath.Join(projects, "tide-log"))
	os.WriteFile(filepath.Join(changed, "extra.txt"), []byte("more"), 0o666)
	linked := t.TempDir()
	os.WriteFile(filepath.Join(linked, manifest.FileName), []byte(head), 0o666)
	os.Symlink("/etc/passwd", filepath.Join(linked, "passwd"))
	target := filepath.Join(top, "target")

	for _, c := range []struct {
		name string
		args []string
		code int
		want []string
	}{
		{"no such command", []string{"melt"}, 2, []string{`no command "melt"`}},
		{"no such flag", []string{"find", "--colour"}, 2, []string{"unknown flag: --colour"}},
		{"no such format", []string{"find", "--format", "xml"}, 2, []string{"use text or json"}},
		{"too few arguments", []string{"cast", "a/b"}, 2, []string{"cast takes a template and a folder"}},
		{"no such folder", []string{"survey", filepath.Join(top, "none")}, 1, []string{"none cannot be read: no such file or directory"}},
		{"no manifest", []string{"prove", plain}, 1, []string{"no ironcast.yaml at the top", "ironcast define"}},
		{"a wrong manifest", []string{"prove", wrong}, 3, []string{`ironcast.yaml:5:1: the manifest has no key "colour"`, `ironcast.yaml:6:25: kind "nam" is not known`}},
		{"a wrong manifest, cast", []string{"cast", wrong, target}, 1, []string{"ironcast.yaml:5:1:", "ironcast.yaml:6:25:"}},
		{"a template with a trace", []string{"prove", traced}, 3, []string{"✗ no trace", "crossing-board.md:1", "1 file, 1 variable, 1 slot"}},
		{"a template with a trace, published", []string{"publish", traced}, 3, []string{"does not prove clean, so it is not published"}},
		{"two claims on one text", []string{"prove", clash}, 3, []string{`variables a and b both claim the text "quay"`}},
		{"a link out", []string{"prove", linked}, 1, []string{"the link passwd to \"/etc/passwd\" is not a safe link"}},
		{"a target with contents", []string{"cast", "kelpwick/crossing-board", full, "service=x", "--no-ask"}, 1, []string{"full is not empty; name a new or an empty one"}},
		{"missing, unknown and wrong values", []string{"cast", "kelpwick/crossing-board", target, "servise=x", "port=80", "--no-ask"}, 2,
			[]string{"servise: the template has no such variable; did you mean service?", "service: a value is missing", "port: 80 is below the minimum of 1024"}},
		{"no assignment", []string{"cast", "kelpwick/crossing-board", target, "service"}, 2, []string{"write VAR=VALUE"}},
		{"a values file that is none", []string{"cast", "kelpwick/crossing-board", target, "--values", list}, 1, []string{"holds no values"}},
		{"paths that meet", []string{"cast", meet, target, "a=quay", "b=quay"}, 1, []string{"north.txt and south.txt would be the same path, quay.txt"}},
		{"a path that leaves", []string{"cast", meet, target, "a=../../quay", "b=x"}, 1, []string{"is not a safe path"}},
		{"no such template", []string{"cast", "kelpwick/none", target, "--no-ask"}, 1, []string{"The template kelpwick/none is not there"}},
		{"no such version", []string{"show", "kelpwick/crossing-board@7"}, 1, []string{"the highest is 1.1.0"}},
		{"no reference", []string{"show", "Crossing Board"}, 2, []string{"is no reference; an example is"}},
		{"no service", []string{"find", "--server", "http://127.0.0.1:1"}, 1, []string{"does not answer", "ironcast serve"}},
		{"a version with other contents", []string{"publish", changed}, 1, []string{"is there already with other contents; raise the version"}},
		{"nobody to ask", []string{"define", plain}, 2, []string{"--accept all"}},
		{"an unknown kind of proposal", []string{"define", plain, "--accept", "colours"}, 2, []string{"use all, or some of"}},
	} {
		t.Run(c.name, func(t *testing.T) {
			before := readFolder(t, top)
			r := run(t, c.args...)
			if r.code != c.code {
				t.Errorf("it ends with %d, want %d", r.code, c.code)
			}
			for _, want := range c.want {
				if !strings.Contains(r.out+r.notes, want) {
					t.Errorf("it does not say %q but\n%s%s", want, r.out, r.notes)
				}
			}
			differences, err := tree.Compare(before, readFolder(t, top))
			if err != nil || len(differences) > 0 {
				t.Errorf("it changed %v %v", differences, err)
			}
		})
	}
}

func TestLoginRefusesAndKeepsToItself(t *testing.T) {
	config := filepath.Join(t.TempDir(), "config")
	env := append(environment(), "XDG_CONFIG_HOME="+config)
	wrong := runWith(t, env, "wrong\n", "login", server, "--name", "operator", "--password-stdin")
	if wrong.code != 1 || !strings.Contains(wrong.notes, "There is no account with that name and password") {
		t.Errorf("a wrong password gives %+v", wrong)
	}
	if unknown := runWith(t, env, "", "publish", filepath.Join(projects, "tide-log"), "--server", server); unknown.code != 2 || !strings.Contains(unknown.notes, "log in with: ironcast login") {
		t.Errorf("publishing without a login gives %+v", unknown)
	}
	stale := runWith(t, append(env, "IRONCAST_TOKEN=ironcast_STALE"), "", "publish", filepath.Join(projects, "tide-log"), "--server", server)
	if stale.code != 1 || !strings.Contains(stale.notes, "Log in again") {
		t.Errorf("a wrong token gives %+v", stale)
	}
	if right := runWith(t, env, password+"\n", "login", server, "--name", "operator", "--password-stdin"); right.code != 0 {
		t.Fatalf("the right password gives %+v", right)
	}
	info, err := os.Stat(filepath.Join(config, "ironcast", "login.yaml"))
	if err != nil || info.Mode().Perm() != 0o600 {
		t.Errorf("the login is kept as %v, %v", info.Mode(), err)
	}
}

func TestAStoppedCastLeavesNothing(t *testing.T) {
	top := t.TempDir()
	template := filepath.Join(top, "template")
	var entries []tree.Entry
	for i := range 20_000 {
		entries = append(entries, tree.Entry{Path: fmt.Sprintf("crossing-board/%d/%d", i%100, i), Content: tree.Memory("crossing-board")})
	}
	entries = append(entries, tree.Entry{Path: manifest.FileName, Content: tree.Memory("ironcast: 1\ntemplate: big\nversion: 1.0.0\nteam: kelpwick\nvariables: { a: { kind: name, stands_for: crossing board } }\n")})
	big, err := tree.New(entries, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	if err := tree.WriteFolder(context.Background(), big, template, nil); err != nil {
		t.Fatal(err)
	}
	target := filepath.Join(top, "new", "target")
	command := exec.Command(binary, "cast", template, target, "a=tide gauge", "--no-ask")
	var notes strings.Builder
	command.Stderr = &notes
	if err := command.Start(); err != nil {
		t.Fatal(err)
	}
	eventually(t, "the cast writes", func() bool {
		staging, _ := filepath.Glob(filepath.Join(top, "new", ".target.casting-*", "tide-gauge"))
		return len(staging) > 0
	})
	command.Process.Signal(syscall.SIGINT)
	command.Wait()
	if code := command.ProcessState.ExitCode(); code != 1 || !strings.Contains(notes.String(), "target is as it was") {
		t.Errorf("it ends with %d and says %s", code, &notes)
	}
	left, err := os.ReadDir(top)
	if err != nil || len(left) != 1 {
		t.Errorf("left behind: %v, %v", left, err)
	}
}

// At a terminal, what is missing is asked for, with the default filled in.
func TestCastAsksAtATerminal(t *testing.T) {
	target := filepath.Join(t.TempDir(), "asked")
	command := exec.Command(binary, "cast", "kelpwick/crossing-board", target, "pier=Gull Island", "contact=a@b.example")
	command.Env = append(environment(), "TERM=xterm-256color")
	terminal, err := pty.StartWithSize(command, &pty.Winsize{Rows: 30, Cols: 100})
	if err != nil {
		t.Fatal(err)
	}
	defer terminal.Close()
	screen := &transcript{}
	go screen.record(terminal)
	eventually(t, "it asks for the service's name", func() bool { return screen.holds("Service name") })
	terminal.WriteString("9lives\r")
	eventually(t, "it refuses a wrong name", func() bool { return screen.holds("must begin with a letter") })
	terminal.WriteString(strings.Repeat("\x7f", 6) + "tide gauge\r")
	eventually(t, "it asks for the port, with its default", func() bool { return screen.holds("Port") && screen.holds("8087") })
	terminal.WriteString("\r")
	eventually(t, "it asks for any of several options", func() bool { return screen.holds("Container image") })
	terminal.WriteString("\r")
	eventually(t, "it asks for one of several options", func() bool { return screen.holds("JSON lines") })
	terminal.WriteString("\r")
	eventually(t, "it shows what it would run", func() bool { return screen.holds("go vet ./...") && screen.holds("as you") })
	terminal.WriteString("y")
	if err := command.Wait(); err != nil {
		t.Fatalf("%v\n%s", err, screen)
	}
	if !screen.holds("Running go vet ./...") || !screen.holds("make test run") || screen.holds("Not run") {
		t.Errorf("it says\n%s", screen)
	}
	record, err := os.ReadFile(filepath.Join(target, ".ironcast", "origin.yaml"))
	if err != nil || !strings.Contains(string(record), "service: tide gauge") || !strings.Contains(string(record), "port: 8087") || !strings.Contains(string(record), "pier: Gull Island") {
		t.Errorf("the origin record is\n%s%v", record, err)
	}
}

func TestDefineAsksAtATerminal(t *testing.T) {
	source := copyOf(t, filepath.Join(projects, "try", "crossing-board"))
	command := exec.Command(binary, "define", source)
	command.Env = append(environment(), "TERM=xterm-256color")
	terminal, err := pty.StartWithSize(command, &pty.Winsize{Rows: 40, Cols: 120})
	if err != nil {
		t.Fatal(err)
	}
	defer terminal.Close()
	screen := &transcript{}
	go screen.record(terminal)
	for _, step := range []struct{ question, answer string }{
		{`Make "crossing board" a variable?`, "\r"},
		{`Make "8087" a variable?`, "\x1b[B\x1b[B\r"}, // skip
		{`Make "3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de" a variable?`, "\x1b[B\r"},
		{"Name of the variable", strings.Repeat("\x7f", 9) + "unit_id\r"},
		{"Leave these files out?", "\r"},
		{"name in the catalogue", "\r"},
		{"Team that owns it", "\r"},
	} {
		eventually(t, step.question, func() bool { return screen.holds(step.question) })
		terminal.WriteString(step.answer)
	}
	if err := command.Wait(); err != nil {
		t.Fatalf("%v\n%s", err, screen)
	}
	_, m := original(t, source)
	if names := strings.Join(m.VariableNames(), " "); names != "project unit_id" || m.Template != "crossing-board" || len(m.Files.LeaveOut) != 2 {
		t.Errorf("defined %s, %+v", names, m)
	}
}
