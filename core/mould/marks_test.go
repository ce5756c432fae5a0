package mould

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"testing"

	"ironcast/core/manifest"
	"ironcast/core/tree"
	"ironcast/core/values"
)

const optional = head + `  service: { kind: name, stands_for: crossing board }
  storage: { kind: choice, options: [mariadb, memory], reference: mariadb, default: memory }
  metrics: { kind: boolean, reference: true, default: true }
  regions: { kind: list, of: name, reference: [north quay], default: [main quay] }
  extras: { kind: list, of: text, reference: [], default: [] }
`

// casts returns the paths and contents of a cast, joined.
func casts(t *testing.T, manifestText string, given values.Input, files ...tree.Entry) string {
	t.Helper()
	all, err := tree.New(files, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	m, err := manifest.Parse([]byte(manifestText))
	if err != nil {
		t.Fatal(err)
	}
	mould, err := Compile(context.Background(), Source(all, m), m, Options{Limits: tree.DefaultLimits(), Template: all})
	if err != nil {
		t.Fatal(err)
	}
	cast, err := mould.Cast(resolve(t, mould, given))
	if err != nil {
		t.Fatal(err)
	}
	var out strings.Builder
	for _, e := range cast.Entries() {
		content, err := e.Bytes()
		if err != nil {
			t.Fatal(err)
		}
		if e.Kind == tree.File && int64(len(content)) != e.Content.Size() {
			t.Errorf("%s has %d bytes and says %d", e.Path, len(content), e.Content.Size())
		}
		fmt.Fprintf(&out, "[%s]%s", e.Path, content)
	}
	return out.String()
}

func TestMarksChooseRepeatAndHold(t *testing.T) {
	source := `package crossingboard
// ironcast: only when storage == "mariadb"
var store = "crossing-board mariadb"
// ironcast: otherwise
//| var store = "crossing-board memory"
// ironcast: end
// ironcast: repeat region in regions standing for "north quay"
func NorthQuay() { open("north-quay") } // crossing board
// ironcast: only when region.kebab != "main-quay"
func NorthQuayExtra() {}
// ironcast: end
// ironcast: end
var metrics = true // ironcast: only when metrics
// ironcast: source only
var test = crossingBoard
// ironcast: end
`
	got := casts(t, optional, values.Input{"service": "tide gauge", "regions": []any{"main quay", "South Pier"}, "metrics": false}, file("a.go", source))
	want := `[a.go]package tidegauge
var store = "tide-gauge memory"
func MainQuay() { open("main-quay") } // tide gauge
func SouthPier() { open("south-pier") } // tide gauge
func SouthPierExtra() {}
`
	if got != want {
		t.Errorf("got\n%s\nwant\n%s", got, want)
	}
	reference := values.Input{"service": "crossing board", "storage": "mariadb", "regions": []any{"north quay"}}
	if got := casts(t, optional, reference, file("a.go", source)); !strings.Contains(got, "NorthQuayExtra") || !strings.Contains(got, "var metrics = true\n") || strings.Contains(got, "memory") || strings.Contains(got, "ironcast") {
		t.Errorf("with the source's own values it is\n%s", got)
	}
}

func TestFileRulesChooseSwapAndRepeat(t *testing.T) {
	text := optional + `files:
  only_when:
    - { paths: ["internal/db/**"], when: storage == "mariadb" }
    - { paths: ["regions/north-quay/extra"], when: region.kebab != "main-quay" }
  swap:
    - { path: config/store.yaml, with: .ironcast/variants/memory.yaml, when: storage == "memory" }
  repeat:
    - { paths: ["regions/**"], each: region in regions, standing_for: north quay }
  folders: [var/spool, internal]
`
	files := []tree.Entry{
		file("internal/db/open.go", "package db"), file("config/store.yaml", "mariadb crossing-board"), file(".ironcast/variants/memory.yaml", "memory crossing-board"),
		file("regions/north-quay/go.mod", "module crossing-board/north-quay"), file("regions/north-quay/extra", "NORTH_QUAY"),
	}
	got := casts(t, text, values.Input{"service": "tide gauge", "regions": []any{"main quay", "south pier"}}, files...)
	want := "[config/store.yaml]memory tide-gauge[internal][regions/main-quay/go.mod]module tide-gauge/main-quay[regions/south-pier/extra]SOUTH_PIER[regions/south-pier/go.mod]module tide-gauge/south-pier[var/spool]"
	if got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
	got = casts(t, text, values.Input{"service": "tide gauge", "storage": "mariadb", "regions": []any{}}, files...)
	if want := "[config/store.yaml]mariadb tide-gauge[internal/db/open.go]package db[var/spool]"; got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestPackagesMoveFoldersAndKeepTheirSeparator(t *testing.T) {
	text := head + "  namespace: { kind: package, stands_for: example.kelpwick.crossings }\n"
	got := casts(t, text, values.Input{"namespace": "org.tides"},
		file("src/example/kelpwick/crossings/Main.java", "package example.kelpwick.crossings;"),
		file("src/lib.rs", "use example::kelpwick::crossings::Board;"),
		file("composer.json", `{"a": "example\\kelpwick\\crossings\\", "b": "example/kelpwick/crossings"}`),
		file("a.php", `namespace example\kelpwick\crossings;`))
	want := `[a.php]namespace org\tides;[composer.json]{"a": "org\\tides\\", "b": "org/tides"}[src/lib.rs]use org::tides::Board;[src/org/tides/Main.java]package org.tides;`
	if got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestWhatIsWrongInMarksIsReportedWithItsLine(t *testing.T) {
	m, err := manifest.Parse([]byte(optional))
	if err != nil {
		t.Fatal(err)
	}
	project, err := tree.New([]tree.Entry{
		file("a.go", "x\n// ironcast: only when stroage == \"a\"\n// ironcast: end\n// ironcast: repeat a in storage standing for \"b\"\n// ironcast: end\n"),
		file("b.py", "# ironcast: repeat service in regions standing for \"9\"\n# ironcast: end\nif x: # ironcast: only when metrics == 1\n"),
		file("c.sh", "# ironcast: stop\n"),
	}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	_, err = Compile(context.Background(), project, m, Options{Limits: tree.DefaultLimits()})
	var problems Problems
	if !errors.As(err, &problems) || len(problems) != 5 {
		t.Fatalf("error is %v", err)
	}
	for _, want := range []string{
		"a.go:2: the expression \"stroage == \\\"a\\\"\" uses stroage, which is no variable; did you mean storage?\n    // ironcast: only when stroage",
		"a.go:4: storage is of kind choice; repeat goes over a list", "b.py:1: service means something already",
		"b.py:3: the expression \"metrics == 1\" is wrong", "c.sh:1: \"stop\" is no mark; a mark is",
	} {
		if !strings.Contains(err.Error(), want) {
			t.Errorf("not reported: %s\nin\n%v", want, err)
		}
	}
}

func TestRepeatsAreBounded(t *testing.T) {
	text := head
	source := ""
	for i := range 3 {
		text += fmt.Sprintf("  list%d: { kind: list, of: text, default: [] }\n", i)
		source += fmt.Sprintf("# ironcast: repeat x%d in list%d standing for \"t\"\n", i, i)
	}
	m := compiled(t, text, file("a.sh", source+strings.Repeat("# ironcast: end\n", 3)))
	var items []any
	for i := range 1000 {
		items = append(items, fmt.Sprint(i))
	}
	_, err := m.Cast(resolve(t, m, values.Input{"list0": items, "list1": items, "list2": items}))
	if !errors.Is(err, errTooMuch) || !strings.HasPrefix(err.Error(), "a.sh: ") {
		t.Errorf("error is %v", err)
	}
	big := compiled(t, text, file("a.sh", "# ironcast: repeat x in list0 standing for \"t\"\n"+strings.Repeat("y", 100_000)+"\n# ironcast: end\n"))
	if _, err := big.Cast(resolve(t, big, values.Input{"list0": items})); err == nil || !strings.Contains(err.Error(), "larger than 67108864 bytes") {
		t.Errorf("error is %v", err)
	}
}
