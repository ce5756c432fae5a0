package mould

import (
	"fmt"
	"strings"
	"testing"

	"ironcast/core/tree"
	"ironcast/core/values"
)

const explained = optional + `  quay: { kind: text, lines: true, stands_for: South Pier }
files:
  verbatim: [LICENSE]
  leave_out: ["*.log"]
  only_when: [{ paths: ["north-quay/**"], when: region.kebab != "x" }]
  repeat: [{ paths: ["north-quay/**"], each: region in regions, standing_for: north quay }]
  folders: [var]
`

const explainedText = `crossing-board "South Pier"
# ironcast: only when metrics
# ironcast: repeat r in regions standing for "north quay"
NorthQuay
# ironcast: end
# ironcast: otherwise
#| none
# ironcast: end
# ironcast: source only
x
# ironcast: end
last # ironcast: only when !metrics
`

func explainedMould(t *testing.T) *Mould {
	return compiled(t, explained, file("a.sh", explainedText), file("LICENSE", "crossing-board"), file("logo", "\x00"), file("north-quay/crossing-board.md", "# North Quay\n\nthe crossing board\n"),
		tree.Entry{Path: "link", Kind: tree.Link, Target: "north-quay/crossing-board.md"})
}

func fileAt(t *testing.T, m *Mould, path string) *File {
	t.Helper()
	for i := range m.Files {
		if m.Files[i].Source.Path == path {
			return &m.Files[i]
		}
	}
	t.Fatalf("there is no file %s", path)
	return nil
}

func TestExplainListsRulesMarksAndSlots(t *testing.T) {
	m := explainedMould(t)
	for path, want := range map[string]string{
		"a.sh": `2-5 only when metrics; 3-5 for each r in regions, standing for "north quay"; 6-8 otherwise; 9-11 never cast: the source's own; 12-12 only when !metrics; ` +
			`1:1 crossing-board service kebab; 1:17 South Pier quay as it is; 4:1 NorthQuay regions pascal; `,
		"LICENSE":                      "verbatim its content is copied as it is; ",
		"logo":                         "binary it is no text, so its content is copied as it is; ",
		"var":                          "folders every project has this folder, although it is empty; ",
		"north-quay/crossing-board.md": `only_when cast only when region.kebab != "x"; repeat cast for each region in regions, standing for "north quay"; 0:1 north-quay regions kebab; 0:12 crossing-board service kebab; 1:3 North Quay regions title; 3:5 crossing board service spaced; `,
		"link":                         "0:12 crossing-board service kebab; ",
	} {
		x, err := m.Explain(fileAt(t, m, path))
		if err != nil {
			t.Fatal(err)
		}
		var got strings.Builder
		for _, r := range x.Rules {
			fmt.Fprintf(&got, "%s %s; ", r.Rule, r.Effect)
		}
		for _, r := range x.Marks {
			fmt.Fprintf(&got, "%d-%d %s; ", r.From, r.To, r.Effect)
		}
		for _, s := range x.Slots {
			fmt.Fprintf(&got, "%d:%d %s %s %s; ", s.Line, s.Column, s.Text, s.Variable, s.Form)
		}
		if got.String() != want {
			t.Errorf("%s is explained as\n%s\nwant\n%s", path, got.String(), want)
		}
	}
	if rule, is := LeftOutBy(m.Manifest, "a.log"); !is || !strings.Contains(rule.Effect, `"*.log" leaves it out`) {
		t.Errorf("a.log is left out by %+v", rule)
	}
	if _, is := LeftOutBy(m.Manifest, "a.sh"); is {
		t.Error("a.sh is left out")
	}
}

func TestEveryLineOfACastKnowsItsSource(t *testing.T) {
	m := explainedMould(t)
	casting, err := m.Apply(resolve(t, m, values.Input{"service": "tide gauge", "quay": "Long\nPier", "regions": []any{"gull island", "main quay"}}))
	if err != nil {
		t.Fatal(err)
	}
	var got strings.Builder
	for i := range casting.Files {
		f := &casting.Files[i]
		if f.Path != "a.sh" && !strings.HasSuffix(f.Path, ".md") {
			continue
		}
		for line := 1; ; line++ {
			p, text, has, err := m.Provenance(f, line)
			if err != nil {
				t.Fatal(err)
			}
			if !has {
				break
			}
			fmt.Fprintf(&got, "%s:%d %s < %d %s (%d slots, %d marks, %s)\n", f.Path, line, text, p.Line, p.Text, len(p.Slots), len(p.Marks), p.Item)
		}
	}
	want := `a.sh:1 tide-gauge "Long < 1 crossing-board "South Pier" (2 slots, 0 marks, )
a.sh:2 Pier" < 1 crossing-board "South Pier" (2 slots, 0 marks, )
a.sh:3 GullIsland < 4 NorthQuay (1 slots, 2 marks, )
a.sh:4 MainQuay < 4 NorthQuay (1 slots, 2 marks, )
gull-island/tide-gauge.md:1 # Gull Island < 1 # North Quay (1 slots, 0 marks, gull island)
gull-island/tide-gauge.md:2  < 2  (0 slots, 0 marks, gull island)
gull-island/tide-gauge.md:3 the tide gauge < 3 the crossing board (1 slots, 0 marks, gull island)
main-quay/tide-gauge.md:1 # Main Quay < 1 # North Quay (1 slots, 0 marks, main quay)
main-quay/tide-gauge.md:2  < 2  (0 slots, 0 marks, main quay)
main-quay/tide-gauge.md:3 the tide gauge < 3 the crossing board (1 slots, 0 marks, main quay)
`
	if got.String() != want {
		t.Errorf("got\n%s\nwant\n%s", got.String(), want)
	}
}

// The pieces of a source file are the file, marks and held lines included.
func TestSourcePiecesAreTheSource(t *testing.T) {
	m := explainedMould(t)
	for _, f := range m.SourceFiles() {
		if f.File.Source.Kind != tree.File {
			continue
		}
		pieces, err := f.SourcePieces()
		if err != nil {
			t.Fatal(err)
		}
		var text strings.Builder
		marked := 0
		for _, p := range pieces {
			text.WriteString(p.Text)
			if p.Mark {
				marked++
			}
		}
		source, _ := f.File.Source.Bytes()
		if text.String() != string(source) || (marked > 0) != (f.Path == "a.sh") {
			t.Errorf("%s is shown with %d marks as\n%s", f.Path, marked, text.String())
		}
	}
}

func TestMatchersOfItemsFollowTheirKind(t *testing.T) {
	text := head + "  extras: { kind: list, of: text, default: [] }\n  ports: { kind: list, of: integer, default: [] }\n"
	source := `# ironcast: repeat x in extras standing for "Ships & boats"
<a title="Ships &amp; boats">Ships & boats</a>
# ironcast: end
# ironcast: repeat p in ports standing for "8100"
:8100 18100
# ironcast: end
`
	got := castText(t, text, "a.unknown", source, values.Input{"extras": []any{"Nets"}, "ports": []any{7, 8}})
	if want := "<a title=\"Ships &amp; boats\">Nets</a>\n:7 18100\n:8 18100\n"; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
	html := strings.NewReplacer("# ironcast", "<!-- ironcast", "boats\"\n", "boats\" -->\n", "8100\"\n", "8100\" -->\n", "end\n", "end -->\n").Replace(source)
	got = castText(t, text, "a.html", html, values.Input{"extras": []any{`Nets & "rope"`}, "ports": []any{7}})
	if want := "<a title=\"Nets &amp; &quot;rope&quot;\">Nets & \"rope\"</a>\n:7 18100\n"; got != want {
		t.Errorf("got %q, want %q", got, want)
	}
}
