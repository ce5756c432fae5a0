package syntax

import (
	"strings"
	"testing"
)

func TestTypesAreKnownByName(t *testing.T) {
	for path, leader := range map[string]string{
		"a/main.go": "//", "Dockerfile": "#", "deploy/Dockerfile.dev": "#", "Makefile": "#", "a.tf": "#", "x.sql": "--", "a.py.j2": "#",
		"a.lua": "--", ".env": "#", ".env.local": "#", "CMakeLists.txt": "#", "a.unknown": "#", "a.vb": "'", "go.mod": "//", "a.ini": "#",
	} {
		if l := Of(path); len(l.Line) == 0 || l.Line[0] != leader {
			t.Errorf("%s begins comments with %v, want %s", path, l.Line, leader)
		}
	}
	if l := Of("a.md"); len(l.Line) != 0 || l.Block[0][0] != "<!--" {
		t.Errorf("Markdown has %+v", l)
	}
}

// A place is found for every span, whatever the text and the type, and a text
// that needs no escaping is written as it is.
func FuzzPlaces(f *testing.F) {
	for _, path := range []string{"a.go", "a.json", "a.yaml", "a.xml", "a.html", "a.sh", "a.toml", "Dockerfile", "Makefile", "a.py", "a.csv", ".env", "a.properties", "a.rs", "a.sql"} {
		f.Add(path, "x = \"North\" # it's <a b='North'> `North` |\n  North\n<<E\nNorth\nE\n", uint(5))
	}
	f.Fuzz(func(t *testing.T, path, text string, at uint) {
		if len(text) == 0 {
			return
		}
		start := int(at % uint(len(text)))
		spans := []Span{{start, start + 1}}
		if start+2 < len(text) {
			spans = append(spans, Span{start + 1, len(text)})
		}
		places := Of(path).Places([]byte(text), spans)
		for _, p := range places {
			written, err := p.Write("North")
			if err != nil || written != "North" && !p.WithQuotes() && p.way != shellBare {
				t.Fatalf("%s: North is written %q, %v by %+v", path, written, err, p)
			}
			_, _ = p.Write("a: \"b\" 'c' <d> & $e `f` \\ {{g}}\nh")
		}
	})
}

// Where a text stands decides how another is written there.
func TestTextsAreWrittenAsTheirPlaceNeeds(t *testing.T) {
	const value = "a \"b\" 'c' $d \\e"
	for _, c := range []struct {
		path, text string // the text holds X
		want       string
	}{
		{"a.go", `var a = "X"`, `a \"b\" 'c' $d \\e`},
		{"a.go", "var a = `X`", value},
		{"a.go", `var a = X // "`, value},
		{"a.go", `var a = '"' // X`, value},
		{"a.kt", `val a = "X"`, `a \"b\" 'c' \$d \\e`},
		{"a.js", "const a = `X`", "a \"b\" 'c' \\$d \\\\e"},
		{"a.js", `const a = 'X'`, `a "b" \'c\' $d \\e`},
		{"a.rs", `let a: &'static str = "X";`, `a \"b\" 'c' $d \\e`},
		{"a.cs", `var a = @"X";`, `a ""b"" 'c' $d \e`},
		{"a.rb", `a = "X"`, `a \"b\" 'c' $d \\e`},
		{"a.php", `<?php $a = 'X';`, `a "b" \'c\' $d \\e`},
		{"a.sql", `SELECT 'X';`, `a "b" ''c'' $d \e`},
		{"a.py", `a = r"""x""" + "X"`, `a \"b\" 'c' $d \\e`},
		{"a.py", "a = '''X'''", `a "b" 'c' $d \\e`},
		{"a.csv", "x,X,y\n", `"a ""b"" 'c' $d \e"`},
		{"a.csv", "x,\"X\",y\n", `a ""b"" 'c' $d \e`},
		{".env", "A=X\n", `"a \"b\" 'c' \$d \\e"`},
		{".env", "A=\"X\"\n", `a \"b\" 'c' \$d \\e`},
		{"a.properties", "a = X\n", `a "b" 'c' $d \\e`},
		{"a.ini", "a = X\n", value},
		{"Makefile", "A := X\n", `a "b" 'c' $$d \e`},
		{"Makefile", "a:\n\techo \"X\"\n", `a \"b\" 'c' \$$d \\e`},
		{"Dockerfile", "RUN echo 'X'\n", `a "b" '\''c'\'' $d \e`},
		{"Dockerfile", "CMD [\"X\"]\n", `a \"b\" 'c' $d \\e`},
		{"Dockerfile", "LABEL a=X\n", `a\ \"b\"\ \'c\'\ \$d\ \\e`},
		{"a.sh", "echo $(echo \"X\")\n", `a \"b\" 'c' \$d \\e`},
		{"a.sh", "# it's\nA=X\n", `a\ \"b\"\ \'c\'\ \$d\ \\e`},
		{"a.html", "<script>const a = \"X\";</script>", `a \"b\" 'c' $d \\e`},
		{"a.html", "<style>a { content: 'X' }</style>", `a "b" \'c\' $d \\e`},
		{"a.xml", "<!-- X -->", value},
		{"a.yaml", "a: {b: X}\n", `"a \"b\" 'c' $d \\e"`},
		{"a.yaml", "# X\n", value},
		{"a.toml", "a = '''X'''\n", ""},
		{"a.md", "`X`", value},
		{"a.unknown", `"X"`, value},
	} {
		at := strings.Index(c.text, "X")
		place := Of(c.path).Places([]byte(c.text), []Span{{at, at + 1}})[0]
		got, err := place.Write(value)
		if c.want == "" {
			if err == nil {
				t.Errorf("%s %s takes %s", c.path, c.text, got)
			}
			continue
		}
		if err != nil || got != c.want {
			t.Errorf("%s %s is written %s, %v; want %s", c.path, c.text, got, err, c.want)
		}
	}
}
