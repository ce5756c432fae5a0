package marks

import (
	"errors"
	"fmt"
	"strings"
	"testing"

	"ironcast/core/syntax"
)

// taken writes what is cast when every condition that says "yes" holds and every
// list has one item.
func taken(content string, nodes []Node) string {
	var out strings.Builder
	for _, node := range nodes {
		switch n := node.(type) {
		case Text:
			out.WriteString(content[n.Start:n.End])
		case *Repeat:
			out.WriteString(taken(content, n.Body))
		case *Choice:
			for _, branch := range n.Branches {
				if branch.When == "" || branch.When == "yes" {
					out.WriteString(taken(content, branch.Body))
					break
				}
			}
		}
	}
	return out.String()
}

func TestMarksInEveryCommentStyle(t *testing.T) {
	for _, c := range []struct{ path, source, yes, no string }{
		{"a.go", "a\n\t// ironcast: only when yes\n\tb\n\t// ironcast: otherwise\n\t//| c()\n\t// ironcast: end\nd\n", "a\n\tb\nd\n", "a\n\tc()\nd\n"},
		{"a.py", "# ironcast: only when yes\nb\n# ironcast: otherwise\n#| c\n#|d\n# ironcast: end", "b\n", "c\nd\n"},
		{"a.html", "<!-- ironcast: only when yes -->\r\nb\r\n<!-- ironcast: otherwise -->\r\n  <!--| <p>c</p> -->\r\n<!-- ironcast: end -->\r\n", "b\r\n", "  <p>c</p>\r\n"},
		{"a.css", "/* ironcast: only when yes */\nb\n/* ironcast: otherwise */\n/*| c */\n/* ironcast: end */\n", "b\n", "c\n"},
		{"a.tsx", "{/* ironcast: only when yes */}\nb\n{/* ironcast: end */}\n", "b\n", ""},
		{"a.sql", "-- ironcast: only when yes\nb\n-- ironcast: end\n", "b\n", ""},
		{"a.md", "<!-- ironcast: only when yes -->\nb\n<!-- ironcast: end -->\n", "b\n", ""},
		{"a.ini", "; ironcast: only when yes\nb\n; ironcast: end\n", "b\n", ""},
		{"a.unknown", "## ironcast: only when yes\nb\n## ironcast: end\n", "b\n", ""},
		{"a.go", "a\nb() // ironcast: only when yes\nc\n", "a\nb()\nc\n", "a\nc\n"},
		{"a.yaml", "a: 1\nb: 2   # ironcast: only when yes", "a: 1\nb: 2", "a: 1\n"},
		{"a.go", "a\n// ironcast: source only\nb\n// ironcast: only when yes\nx\n// ironcast: end\n// ironcast: end\nc // ironcast: source only\nd\n", "a\nd\n", "a\nd\n"},
		{"a.go", "// ironcast: only when no\na\n// ironcast: otherwise when yes\nb\n// ironcast: otherwise\nc\n// ironcast: end\n", "b\n", "c\n"},
		{"a.go", "// ironcast: only when yes\n// ironcast: only when yes\na\n// ironcast: end\nb\n// ironcast: end\n", "a\nb\n", ""},
		{"a.go", "// ironcast: repeat r in rs standing for \"north \\\"quay\\\"\"\na\n// ironcast: end\n", "a\n", "a\n"},
		{"a.go", "//| not held outside of blocks\nx := \"ironcast: end\"\n", "//| not held outside of blocks\nx := \"ironcast: end\"\n", "//| not held outside of blocks\nx := \"ironcast: end\"\n"},
		{"a.json", "{ \"a\": \"# ironcast: end\" }", "{ \"a\": \"# ironcast: end\" }", "{ \"a\": \"# ironcast: end\" }"},
	} {
		nodes, err := Parse([]byte(c.source), syntax.Of(c.path))
		if err != nil {
			t.Errorf("%s %q: %v", c.path, c.source, err)
			continue
		}
		if got := taken(c.source, nodes); got != c.yes {
			t.Errorf("%s %q gives %q, want %q", c.path, c.source, got, c.yes)
		}
		no := strings.ReplaceAll(c.source, "when yes", "when not")
		nodes, _ = Parse([]byte(no), syntax.Of(c.path))
		if got := taken(no, nodes); got != c.no {
			t.Errorf("%s %q gives %q, want %q", c.path, no, got, c.no)
		}
	}
}

func TestRepeatSaysOverWhat(t *testing.T) {
	nodes, err := Parse([]byte("x\n# ironcast: repeat region in regions standing for \"north quay\"\na\n# ironcast: end\n"), syntax.Of("a.sh"))
	if err != nil || len(nodes) != 2 {
		t.Fatalf("%v, %v", nodes, err)
	}
	if r := nodes[1].(*Repeat); r.Item != "region" || r.List != "regions" || r.StandingFor != "north quay" || r.Line != 2 || r.End != 83 {
		t.Errorf("read %+v", r)
	}
}

func TestWrongMarksAreAllReported(t *testing.T) {
	source := `// ironcast: onyl when a
a // ironcast: end
// ironcast: otherwise
// ironcast: end
// ironcast: only when
// ironcast: repeat a in b
// ironcast: only when x
// ironcast: otherwise
// ironcast: otherwise when y
// ironcast: end
// ironcast: source only
// ironcast: otherwise
// ironcast:
// ironcast: only when z
`
	_, err := Parse([]byte(source), syntax.Of("a.go"))
	var problems Problems
	if !errors.As(err, &problems) {
		t.Fatalf("error is %v", err)
	}
	var got []string
	for _, p := range problems {
		got = append(got, fmt.Sprintf("%d %s | %s", p.Line, p.Message, p.Excerpt))
	}
	want := []string{
		`1 "onyl when a" is no mark; a mark is only when EXPR`, `2 end stands alone on its line`, `3 no block is open here`, `4 no block is open here`,
		`5 only when needs a condition`, `6 repeat is written repeat NAME in LIST`, `9 otherwise when y stands behind otherwise`,
		`12 otherwise goes with only when; this block is source only`, `13 "" is no mark`, `14 this block has no end; close it with "ironcast: end" | // ironcast: only when z`,
	}
	for i := range max(len(want), len(got)) {
		if i >= len(want) || i >= len(got) || !strings.HasPrefix(got[i], want[i]) {
			t.Errorf("problems are\n%s", strings.Join(got, "\n"))
			break
		}
	}
}

func TestMarksNestedTooDeepAreRefused(t *testing.T) {
	source := strings.Repeat("# ironcast: only when a\n", 10_000) + strings.Repeat("# ironcast: end\n", 10_000)
	if _, err := Parse([]byte(source), syntax.Of("a.sh")); err == nil || err.Error() != "line 51: blocks nest deeper than 50 here" {
		t.Errorf("%.200s", fmt.Sprint(err))
	}
}

func TestStripKeepsWhatTheSourceRuns(t *testing.T) {
	source := "a\n// ironcast: only when x\nb\n// ironcast: otherwise\n//| c\n// ironcast: end\nd // ironcast: only when y\n// ironcast: source only\ne\n// ironcast: end\n//| f\ng // ironcast: source only\n"
	if got := string(Strip([]byte(source), syntax.Of("a.go"))); got != "a\nb\nd\n//| f\n" {
		t.Errorf("got %q", got)
	}
}

// The nodes of a file cover it in order, and stay within it.
func FuzzParse(f *testing.F) {
	for _, seed := range []string{
		"# ironcast: only when a\nb\n# ironcast: otherwise\n#| c\n# ironcast: end\n", "x // ironcast: source only",
		"<!-- ironcast: repeat a in b standing for \"c\" -->\n<!--| d -->\n<!-- ironcast: end -->", "/* ironcast: end */",
	} {
		f.Add(seed, "a.sh")
		f.Add(seed, "a.html")
		f.Add(seed, "a.go")
	}
	f.Fuzz(func(t *testing.T, source, path string) {
		language := syntax.Of(path)
		nodes, err := Parse([]byte(source), language)
		if err != nil {
			var problems Problems
			if !errors.As(err, &problems) || problems[0].Line < 1 {
				t.Fatalf("error without a line: %#v", err)
			}
			return
		}
		if got := taken(source, nodes); len(got) > len(source) {
			t.Fatalf("%q gives more than it has: %q", source, got)
		}
		if !Has([]byte(source)) && taken(source, nodes) != source {
			t.Fatalf("%q has no marks and changes", source)
		}
		Strip([]byte(source), language)
	})
}
