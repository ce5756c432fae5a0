package mould

import (
	"context"
	"errors"
	"fmt"
	"strings"
	"sync"
	"testing"

	"ironcast/core/manifest"
	"ironcast/core/marks"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

const head = "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\nvariables:\n"

func compiled(t testing.TB, text string, entries ...tree.Entry) *Mould {
	t.Helper()
	m, err := manifest.Parse([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	source, err := tree.New(entries, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	mould, err := Compile(context.Background(), source, m, Options{Limits: tree.DefaultLimits()})
	if err != nil {
		t.Fatal(err)
	}
	return mould
}

func file(path, text string) tree.Entry {
	return tree.Entry{Path: path, Content: tree.Memory(text)}
}

func resolve(t testing.TB, m *Mould, given values.Input) values.Values {
	t.Helper()
	vs, err := values.Resolve(m.Manifest, given, values.Stable("test"))
	if err != nil {
		t.Fatal(err)
	}
	return vs
}

// castText returns the text that one file's text becomes.
func castText(t testing.TB, manifestText, path, text string, given values.Input) string {
	t.Helper()
	m := compiled(t, manifestText, file(path, text))
	cast, err := m.Cast(resolve(t, m, given))
	if err != nil {
		t.Fatal(err)
	}
	content, err := cast.Entries()[0].Bytes()
	if err != nil {
		t.Fatal(err)
	}
	if int64(len(content)) != cast.Entries()[0].Content.Size() {
		t.Errorf("%q has %d bytes and says %d", content, len(content), cast.Entries()[0].Content.Size())
	}
	return string(content)
}

func TestCastWritesEachPlaceInItsOwnForm(t *testing.T) {
	two := head + "  service: { kind: name, stands_for: crossing board }\n"
	one := head + "  service: { kind: name, stands_for: board }\n"
	for _, c := range []struct{ name, manifest, path, source, want string }{
		{"every spelling", two, "a.go",
			"crossing-board crossing_board crossingBoard CrossingBoard crossingboard crossing.board crossing/board crossing board Crossing Board Crossing board Crossing-Board CROSSING-BOARD CROSSING_BOARD CROSSINGBOARD CROSSING BOARD",
			"tide-gauge tide_gauge tideGauge TideGauge tidegauge tide.gauge tide/gauge tide gauge Tide Gauge Tide gauge Tide-Gauge TIDE-GAUGE TIDE_GAUGE TIDEGAUGE TIDE GAUGE"},
		{"plurals and parts of words", two, "a.go", "crossing-boards newCrossingBoardServer", "tide-gauges newTideGaugeServer"},
		{"nothing inside another word", one, "a.go", "dashboard boards board2 aboard Board2", "dashboard boards board2 aboard Board2"},
		{"neighbours decide", one, "a.go", "board_client board-client boardClient newBoard BOARD_PORT cmd/board board.Serve", "tide_gauge_client tide-gauge-client tideGaugeClient newTideGauge TIDE_GAUGE_PORT cmd/tide-gauge tidegauge.Serve"},
		{"a Go test's package", one, "a_test.go", "package board_test", "package tidegauge_test"},
		{"prose", one, "a.md", "# Board\n\nThe Board.", "# Tide Gauge\n\nThe Tide Gauge."},
		{"an override", head + "  service: { kind: name, stands_for: board, spell: [{ in: ['*.py'], as: snake }] }\n", "a.py", "import board", "import tide_gauge"},
		{"match anywhere", head + "  service: { kind: name, stands_for: board, match: anywhere }\n", "a.go", "dashboard", "dashtidegauge"},
		{"match part", head + "  service: { kind: name, stands_for: crossing board, match: part }\n", "a.go", "crossing-boards crossing-board", "crossing-boards tide-gauge"},
		{"texts to keep", two + "keep: [crossing-board-tools]\n", "a.go", "crossing-board-tools crossing-board", "crossing-board-tools tide-gauge"},
		{"a text to keep that begins later", two + "keep: [board-tools]\n", "a.go", "crossing-board-tools", "crossing-board-tools"},
		{"excepted files", head + "  service: { kind: name, stands_for: crossing board, except: ['legacy/**'] }\n", "legacy/a", "crossing-board", "crossing-board"},
		{"other files", head + "  service: { kind: name, stands_for: crossing board, in: ['legacy/**'] }\n", "a", "crossing-board", "crossing-board"},
		{"paths only", head + "  service: { kind: name, stands_for: crossing board, where: [paths] }\n", "a", "crossing-board", "crossing-board"},
		{"verbatim files", two + "files: { verbatim: ['*.txt'] }\n", "a.txt", "crossing-board", "crossing-board"},
		{"binaries", two, "a.bin", "\x00crossing-board", "\x00crossing-board"},
		{"line endings, marks and odd bytes stay", two, "a", "\xef\xbb\xbfcrossing-board\r\n\xe4crossing_board\xff", "\xef\xbb\xbftide-gauge\r\n\xe4tide_gauge\xff"},
		{"a file of a few bytes", two, "a", "c", "c"},
		{"an empty file", two, "a", "", ""},
	} {
		if got := castText(t, c.manifest, c.path, c.source, values.Input{"service": "tide gauge"}); got != c.want {
			t.Errorf("%s:\n%q becomes\n%q, want\n%q", c.name, c.source, got, c.want)
		}
	}
}

func TestCastWritesTextsNumbersAndIDs(t *testing.T) {
	text := head + `  port: { kind: integer, stands_for: 8087 }
  quay: { kind: text, stands_for: North Quay }
  short: { kind: text, stands_for: North }
  id: { kind: id, stands_for: 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de }
  on: { kind: boolean, stands_for: true, in: ["a"] }
`
	got := castText(t, text, "a",
		`:8087 18087 8087.5 port8087 North Quay Northern North {3F0C7C1E-8A55-4F5E-9A44-6A52B7A1F0DE} 3f0c7c1e8a554f5e9a446a52b7a1f0de True TRUE true untrue`,
		values.Input{"port": 9000, "quay": "North Pier", "short": "8087", "id": "00000000-0000-4000-8000-00000000ABCD", "on": false})
	want := `:9000 18087 8087.5 port8087 North Pier Northern 8087 {00000000-0000-4000-8000-00000000ABCD} 0000000000004000800000000000abcd False FALSE false untrue`
	if got != want {
		t.Errorf("got  %s\nwant %s", got, want)
	}
}

func TestCastMovesPathsAndLinks(t *testing.T) {
	m := compiled(t, head+"  service: { kind: name, stands_for: crossing board }\n",
		file("cmd/crossing-board/main.go", ""), file("crossing/board/a", ""),
		tree.Entry{Path: "docs/manual", Kind: tree.Link, Target: "../cmd/crossing-board/main.go"},
		tree.Entry{Path: "var/crossing_board", Kind: tree.Folder})
	cast, err := m.Cast(resolve(t, m, values.Input{"service": "tide gauge"}))
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, e := range cast.Entries() {
		got = append(got, e.Path+e.Target)
	}
	want := "cmd/tide-gauge/main.go docs/manual../cmd/tide-gauge/main.go tide/gauge/a var/tide_gauge"
	if strings.Join(got, " ") != want {
		t.Errorf("paths are %v, want %s", got, want)
	}
}

func TestCastRefusesPathsThatMeetOrLeave(t *testing.T) {
	text := head + "  a: { kind: text, stands_for: north }\n  b: { kind: text, stands_for: south }\n"
	m := compiled(t, text, file("docs/north", ""), file("docs/south", ""))
	_, err := m.Cast(resolve(t, m, values.Input{"a": "quay", "b": "quay"}))
	if !errors.Is(err, tree.ErrTwice) || !strings.Contains(err.Error(), "docs/north and docs/south would be the same path, docs/quay") {
		t.Errorf("error is %v", err)
	}
	for _, bad := range []string{"../../etc", "..", "", "a\\b", "nul"} {
		if _, err := m.Cast(resolve(t, m, values.Input{"a": bad, "b": "x"})); !errors.Is(err, tree.ErrPath) {
			t.Errorf("%q in a path gives %v", bad, err)
		}
	}
}

// A value that holds another variable's text is not replaced again.
func TestValuesAreNeverReplacedAgain(t *testing.T) {
	text := head + "  a: { kind: name, stands_for: crossing board }\n  b: { kind: name, stands_for: tide gauge }\n"
	got := castText(t, text, "x", "crossing-board tide-gauge", values.Input{"a": "tide gauge", "b": "crossing board"})
	if got != "tide-gauge crossing-board" {
		t.Errorf("got %q", got)
	}
}

func TestViewsCutAtSlots(t *testing.T) {
	m := compiled(t, head+"  a: { kind: name, stands_for: crossing board }\n", file("crossing-board.md", "the crossing board!"))
	casting, err := m.Apply(resolve(t, m, values.Input{"a": "tide gauge"}))
	if err != nil {
		t.Fatal(err)
	}
	view := &casting.Files[0]
	pieces, err := view.Pieces()
	if err != nil || len(pieces) != 3 {
		t.Fatalf("%v, %v", pieces, err)
	}
	if p := pieces[1]; p.Text != "tide gauge" || m.Rule(*p.Slot).Literal != "crossing board" || m.Rule(*p.Slot).Form.String() != "spaced" || m.Variable(*p.Slot).Name != "a" {
		t.Errorf("the slot is %+v", p)
	}
	if view.Size() != int64(len("the tide gauge!")) || view.PathPieces()[0].Text != "tide-gauge" {
		t.Error("the size or the path is not the cast's")
	}
	shown := m.SourceFiles()[0]
	source, _ := shown.SourcePieces()
	if source[1].Text != "crossing board" || shown.PathPieces()[0].Text != "crossing-board" {
		t.Errorf("the source's own text is %+v", source)
	}
}

func TestAMouldIsSafeForManyCastsAtOnce(t *testing.T) {
	var entries []tree.Entry
	for i := range 100 {
		entries = append(entries, file(fmt.Sprintf("crossing-board/%d", i), strings.Repeat("CrossingBoard ", 50)))
	}
	m := compiled(t, head+"  a: { kind: name, stands_for: crossing board }\n", entries...)
	var group sync.WaitGroup
	for i := range 200 {
		group.Go(func() {
			name := fmt.Sprintf("tide %c", 'a'+i%26)
			cast, err := m.Cast(resolve(t, m, values.Input{"a": name}))
			if err != nil {
				t.Error(err)
				return
			}
			content, _ := cast.Entries()[0].Bytes()
			if want := fmt.Sprintf("Tide%c ", 'A'+i%26); string(content) != strings.Repeat(want, 50) {
				t.Errorf("%s gives %.20q", name, content)
			}
		})
	}
	group.Wait()
}

func TestTracesAreFoundMoreWidelyThanSlots(t *testing.T) {
	m, err := manifest.Parse([]byte(head + `  a: { kind: name, stands_for: crossing board }
  n: { kind: integer, stands_for: 8087, in: ["config"] }
  id: { kind: id, stands_for: 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de }
keep: [crossing-board-tools]
files: { verbatim: [logo] }
`))
	if err != nil {
		t.Fatal(err)
	}
	cast, err := tree.New([]tree.Entry{
		file("code", "crossing-board-tools\nCrossing\n  board, crossing. Board, cRossing_bOard 8087"),
		file("config", "x:8087"), file("logo", "\x00crossing-board"), file("binary", "\x00CROSSINGBOARD"),
		file("ids", "3F0C7C1E8A554F5e9a446a52b7a1f0de"),
	}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	traces, err := Traces(context.Background(), cast, m, Options{Limits: tree.DefaultLimits()})
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, trace := range traces {
		got = append(got, fmt.Sprintf("%s:%d %s", trace.Path, trace.Line, trace.Variable))
	}
	if want := "binary:1 a|code:2 a|code:3 a|config:1 n|ids:1 id"; strings.Join(got, "|") != want {
		t.Errorf("traces are %v, want %s", got, want)
	}
}

// A long literal that begins at every byte of a long file would take a search
// for each byte of it.
func TestASearchIsBoundedByItsText(t *testing.T) {
	literal := strings.Repeat("a", 4000) + "b"
	m, err := manifest.Parse([]byte(head + "  a: { kind: text, match: anywhere, stands_for: " + literal + " }\n"))
	if err != nil {
		t.Fatal(err)
	}
	project, err := tree.New([]tree.Entry{file("f", strings.Repeat("a", 4<<20))}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	ctx, options := context.Background(), Options{Limits: tree.DefaultLimits()}
	_, compiling := Compile(ctx, project, m, options)
	_, tracing := Traces(ctx, project, m, options)
	_, occurring := Occurring(ctx, project, []string{literal})
	for name, err := range map[string]error{"compiling": compiling, "tracing": tracing, "occurring": occurring} {
		if !errors.Is(err, errTooOften) || !strings.HasPrefix(err.Error(), "f repeats") {
			t.Errorf("%s gives %v", name, err)
		}
	}
}

// Casting with other values and casting that back gives the source, whatever
// is in it, as long as the other values do not stand in it already.
func FuzzCastAndCastBack(f *testing.F) {
	for _, seed := range []string{"crossing-board", "dashboard CROSSING_BOARD\r\n", "\x00crossingboard", "ccrossingboardcrossing board", "board_Board boardBOARD"} {
		f.Add("crossing board", seed)
		f.Add("board", seed)
	}
	f.Fuzz(func(t *testing.T, name, source string) {
		if _, err := spelling.Parse(name); err != nil || strings.Contains(strings.ToLower(source), "qu") || marks.Has([]byte(source)) {
			return
		}
		cast := source
		for _, turn := range []struct{ from, to string }{{name, "quax quenty"}, {"quax quenty", name}} {
			m := compiled(t, head+fmt.Sprintf("  a: { kind: name, stands_for: %q }\n", turn.from), file("f", cast))
			done, err := m.Cast(resolve(t, m, values.Input{"a": turn.to}))
			if err != nil {
				t.Fatal(err)
			}
			content, err := done.Entries()[0].Bytes()
			if err != nil {
				t.Fatal(err)
			}
			cast = string(content)
		}
		if cast != source {
			t.Fatalf("%q with %q comes back as %q", source, name, cast)
		}
	})
}
