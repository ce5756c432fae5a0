package syntax

import "testing"

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
