package mould

import (
	"encoding/json"
	"encoding/xml"
	"go/parser"
	"go/token"
	"os/exec"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/pelletier/go-toml/v2"
	"go.yaml.in/yaml/v3"
	"golang.org/x/net/html"

	"ironcast/core/values"
)

// difficult is what a format must escape somewhere.
const difficult = "Shows \"quays\" & 'piers' <now>\\ at: $HOME `x` #1\nand a second line"

// Each place is read back by its format's own parser.
func TestATextIsReadBackFromEveryFormat(t *testing.T) {
	manifest := head + "  summary: { kind: text, lines: true, stands_for: Shows the next crossings }\n"
	oneLine := strings.ReplaceAll(difficult, "\n", " ")
	for _, c := range []struct {
		name, path, source string
		want               string // difficult where it is empty
		read               func(t *testing.T, text string) string
	}{
		{"JSON", "package.json", `{ "a": "x", "description": "Shows the next crossings", "b": ["\""] }`, "", readJSON},
		{"JSON, part of a string", "package.json", `{ "description": "Now: Shows the next crossings." }`, "Now: " + difficult + ".", readJSON},
		{"XML text", "pom.xml", "<?xml version=\"1.0\"?>\n<project><!-- it's --><description>Shows the next crossings</description></project>", "", readXML},
		{"XML attribute", "a.xml", `<a description="Shows the next crossings"/>`, "", readXML},
		{"XML attribute in single quotes", "a.svg", `<a description='Shows the next crossings'/>`, "", readXML},
		{"XML data", "a.xml", `<description><![CDATA[Shows the next crossings]]></description>`, "", readXML},
		{"YAML without quotes", "chart.yaml", "name: it's\ndescription: Shows the next crossings # says it\nb: c\n", "", readYAML},
		{"YAML in a flow", "chart.yaml", "{ a: 'x', description: Shows the next crossings }\n", "", readYAML},
		{"YAML in single quotes", "chart.yml", "a: 'it''s'\ndescription: 'Shows the next crossings'\n", "", readYAML},
		{"YAML in double quotes", "chart.yml", "description: \"Shows the next crossings\"\n", "", readYAML},
		{"YAML block", "chart.yml", "description: |-\n  Shows the next crossings\nb: 1\n", "", readYAML},
		{"YAML folded block", "chart.yml", "description: >-\n  Shows the next crossings\nb: 1\n", "", readYAML},
		{"TOML", "pyproject.toml", "[project]\ndescription = \"Shows the next crossings\" # \"\n", "", readTOML},
		{"TOML in single quotes", "pyproject.toml", "[project]\ndescription = 'Shows the next crossings'\n", "", readTOML},
		{"TOML over several lines", "pyproject.toml", "[project]\ndescription = \"\"\"Shows the next crossings\"\"\"\n", "", readTOML},
		{"shell, double quotes", "run.sh", "#!/bin/sh\n# it's\nprintf %s \"Shows the next crossings\"\n", "", readShell},
		{"shell, single quotes", "run.sh", "printf %s 'Shows the next crossings'\n", "", readShell},
		{"shell, no quotes", "run.sh", "set -f; IFS=; printf '%s ' Shows the next crossings | sed '$ s/ $//'\n", "", readShell},
		{"shell, here-document", "run.sh", "cat <<END\nShows the next crossings\nEND\n", difficult + "\n", readShell},
		{"shell, quoted here-document", "run.sh", "cat <<'END'\nShows the next crossings\nEND\n", difficult + "\n", readShell},
		{"Go", "a.go", "package a\n\n// It's \"one\".\nvar s = \"Shows the next crossings\"\n", "", readGo},
		{"Go, raw", "a.go", "package a\n\nvar s = `Shows the next crossings`\n", "", readGo},
		{"Python docstring", "a.py", "def f():\n    \"\"\"Shows the next crossings\"\"\"\n\nimport inspect; print(inspect.getdoc(f), end='')\n", "", readPython},
		{"Python", "a.py", "print('Shows the next crossings', end=\"\")\n", "", readPython},
		{"HTML text", "index.html", "<p id=description>Shows the next crossings</p>", "", readHTML},
		{"HTML attribute", "index.html", "<p id=description title=\"Shows the next crossings\"></p>", "", readHTML},
		{"JavaScript", "a.js", `const s = 'Shows the next crossings';`, "", readQuoted("'")},
		{"Dockerfile label", "Dockerfile", "FROM scratch\nLABEL a=b description=\"Shows the next crossings\"\n", oneLine, readDocker},
	} {
		want := c.want
		if want == "" {
			want = difficult
		}
		cast := castText(t, manifest, c.path, c.source, values.Input{"summary": difficult})
		if got := c.read(t, cast); got != want {
			t.Errorf("%s: cast as\n%s\nit reads\n%q, want\n%q", c.name, cast, got, want)
		}
		if back := castText(t, manifest, c.path, c.source, values.Input{"summary": "Shows the next crossings"}); back != c.source {
			t.Errorf("%s: with its own value it becomes\n%s", c.name, back)
		}
	}
}

func readJSON(t *testing.T, text string) string {
	var v struct{ Description string }
	if err := json.Unmarshal([]byte(text), &v); err != nil {
		t.Error(err)
	}
	return v.Description
}

func readXML(t *testing.T, text string) string {
	decoder := xml.NewDecoder(strings.NewReader(text))
	var read string
	for {
		token, err := decoder.Token()
		if token == nil {
			if err.Error() != "EOF" {
				t.Error(err)
			}
			return strings.TrimSpace(read)
		}
		switch token := token.(type) {
		case xml.StartElement:
			for _, a := range token.Attr {
				if a.Name.Local == "description" {
					return a.Value
				}
			}
		case xml.CharData:
			read += string(token)
		}
	}
}

func readYAML(t *testing.T, text string) string {
	var v struct{ Description string }
	if err := yaml.Unmarshal([]byte(text), &v); err != nil {
		t.Error(err)
	}
	return v.Description
}

func readTOML(t *testing.T, text string) string {
	var v struct{ Project struct{ Description string } }
	if err := toml.Unmarshal([]byte(text), &v); err != nil {
		t.Error(err)
	}
	return v.Project.Description
}

func runScript(t *testing.T, text string, program ...string) string {
	command := exec.Command(program[0], program[1:]...)
	command.Stdin = strings.NewReader(text)
	out, err := command.Output()
	if err != nil {
		t.Errorf("%v: %v", program, err)
	}
	return string(out)
}

func readShell(t *testing.T, text string) string { return runScript(t, text, "sh") }

func readPython(t *testing.T, text string) string { return runScript(t, text, "python3", "-") }

func readGo(t *testing.T, text string) string {
	file, err := parser.ParseFile(token.NewFileSet(), "a.go", text, 0)
	if err != nil {
		t.Error(err)
		return ""
	}
	_ = file
	_, expression, _ := strings.Cut(text, "var s = ")
	var joined string
	for _, part := range strings.Split(strings.TrimSpace(expression), " + ") {
		unquoted, err := strconv.Unquote(part)
		if err != nil {
			t.Errorf("%s: %v", part, err)
		}
		joined += unquoted
	}
	return joined
}

func readHTML(t *testing.T, text string) string {
	root, err := html.Parse(strings.NewReader(text))
	if err != nil {
		t.Error(err)
	}
	for n := range root.Descendants() {
		for _, a := range n.Attr {
			if a.Key == "title" {
				return a.Val
			}
		}
		if n.Type == html.TextNode {
			return n.Data
		}
	}
	return ""
}

// readQuoted reads the first string in quotes, with the escapes that all
// languages of C's family share.
func readQuoted(quote string) func(*testing.T, string) string {
	return func(t *testing.T, text string) string {
		inner := text[strings.Index(text, quote)+1 : strings.LastIndex(text, quote)]
		unquoted, err := strconv.Unquote(`"` + strings.ReplaceAll(strings.ReplaceAll(inner, `\'`, `'`), `"`, `\"`) + `"`)
		if err != nil {
			t.Errorf("%s: %v", inner, err)
		}
		return unquoted
	}
}

var dockerLabel = regexp.MustCompile(`description="((?:[^"\\]|\\.)*)"\n$`)

// readDocker reads a label as Dockerfiles define it: in double quotes a
// backslash takes the meaning from a quote, a dollar sign and itself.
func readDocker(t *testing.T, text string) string {
	m := dockerLabel.FindStringSubmatch(text)
	if m == nil {
		t.Errorf("there is no label on one line in %q", text)
		return ""
	}
	return regexp.MustCompile(`\\(["$\\])`).ReplaceAllString(m[1], "$1")
}

// A literal is found as its format writes it, and given back as it was.
func TestATextIsFoundInItsEscapedForm(t *testing.T) {
	text := head + "  slogan: { kind: text, stands_for: 'Ships & \"boats\"' }\n"
	for _, c := range []struct{ path, source, want string }{
		{"a.json", `{"a": "Ships & \"boats\""}`, `{"a": "Rows \\ tows"}`},
		{"a.xml", `<a>Ships &amp; "boats"</a>`, `<a>Rows \ tows</a>`},
		{"a.html", `<a title="Ships &amp; &quot;boats&quot;">`, `<a title="Rows \ tows">`},
		{"a.go", `var a = "Ships & \"boats\""`, `var a = "Rows \\ tows"`},
		{"a.go", "// Ships & \"boats\"\n", "// Rows \\ tows\n"},
		{"a.md", `Ships & "boats"`, `Rows \ tows`},
		{"a.sh", `echo 'Ships & "boats"'`, `echo 'Rows \ tows'`},
		{"a.sh", `echo "Ships & \"boats\""`, `echo "Rows \\ tows"`},
	} {
		if got := castText(t, text, c.path, c.source, values.Input{"slogan": `Rows \ tows`}); got != c.want {
			t.Errorf("%s: %s becomes %s, want %s", c.path, c.source, got, c.want)
		}
		if got := castText(t, text, c.path, c.source, values.Input{"slogan": `Ships & "boats"`}); got != c.source {
			t.Errorf("%s: %s becomes %s with its own value", c.path, c.source, got)
		}
	}
}

// What a place has no way to hold is refused with the place.
func TestAPlaceThatCannotHoldATextRefusesIt(t *testing.T) {
	m := compiled(t, head+"  a: { kind: text, lines: true, stands_for: North Quay }\n", file("a.yaml", "x: 1\ntitle: From North Quay on\n"))
	_, err := m.Cast(resolve(t, m, values.Input{"a": "a: b"}))
	if err == nil || !strings.Contains(err.Error(), "the value of a cannot be written to a.yaml:2: it holds what means something in YAML") {
		t.Errorf("error is %v", err)
	}
}

// Lines of a text carry on the indent and the leader of the comment.
func TestATextOfSeveralLinesCarriesItsLeaderOn(t *testing.T) {
	text := head + "  a: { kind: text, lines: true, stands_for: 'Shows the next crossings.' }\n"
	for _, c := range []struct{ path, source, want string }{
		{"a.go", "\t// Note: Shows the next crossings.\n", "\t// Note: One.\n\t//\n\t// Two.\n"},
		{"a.py", "x = 1  # Shows the next crossings.\n", "x = 1  # One.\n       #\n       # Two.\n"},
		{"a.java", "/**\n * Shows the next crossings.\n */\n", "/**\n * One.\n *\n * Two.\n */\n"},
		{"a.md", "- a\n  Shows the next crossings.\n", "- a\n  One.\n\n  Two.\n"},
	} {
		if got := castText(t, text, c.path, c.source, values.Input{"a": "One.\n\nTwo."}); got != c.want {
			t.Errorf("%s becomes %q, want %q", c.path, got, c.want)
		}
		back := strings.Replace(text, "'Shows the next crossings.'", `"One.\n\nTwo."`, 1)
		if got := castText(t, back, c.path, c.want, values.Input{"a": "Shows the next crossings."}); got != c.source {
			t.Errorf("%s cast back is %q", c.path, got)
		}
	}
}
