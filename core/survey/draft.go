package survey

import (
	"bytes"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"ironcast/core/manifest"
	"ironcast/core/spelling"
)

// Draft is what an author decided: the manifest to be written.
type Draft struct {
	Template string
	Title    string
	Summary  string
	Version  string
	Team     string
	Licence  string

	Variables []DraftVariable
	Keep      []string
	LeaveOut  []Group
}

// DraftVariable is a proposal that became a variable.
type DraftVariable struct {
	Name      string
	Kind      manifest.Kind
	Label     string
	StandsFor string
	Default   string // "" for none
	In        []string
	Note      string // a comment for the author
	Keep      []string
}

// Draft returns a manifest with everything that the survey proposes.
func (s *Survey) Draft(team string) Draft {
	d := Draft{
		Template: "template", Title: s.Title, Summary: s.Summary, Version: "1.0.0", Team: team,
		Licence: s.Licence, LeaveOut: s.LeaveOut,
	}
	if name, err := spelling.Parse(strings.Join(spelling.Split(s.Folder), " ")); err == nil {
		d.Template = name.In(spelling.Kebab)
	}
	for _, v := range s.Variables() {
		d.Add(v)
	}
	if len(d.Variables) > 0 && d.Variables[0].Kind == manifest.KindName {
		name, _ := spelling.Parse(d.Variables[0].StandsFor)
		d.Template = name.In(spelling.Kebab)
		if d.Title == "" {
			d.Title = name.In(spelling.Sentence)
		}
	}
	return d
}

// Add takes a variable into the draft, under a name that no other has.
func (d *Draft) Add(v DraftVariable) {
	free := v.Name
	for n := 2; slices.ContainsFunc(d.Variables, func(other DraftVariable) bool { return other.Name == free }); n++ {
		free = fmt.Sprintf("%s_%d", v.Name, n)
	}
	v.Name = free
	d.Variables = append(d.Variables, v)
	for _, text := range v.Keep {
		if !slices.Contains(d.Keep, text) {
			d.Keep = append(d.Keep, text)
		}
	}
}

// Only leaves the variables out for which wanted is false, and the texts to keep
// that only they asked for.
func (d *Draft) Only(wanted func(DraftVariable) bool) {
	var asked, refused []string
	var left []DraftVariable
	for _, v := range d.Variables {
		if wanted(v) {
			left = append(left, v)
			asked = append(asked, v.Keep...)
		} else {
			refused = append(refused, v.Keep...)
		}
	}
	d.Variables = left
	d.Keep = slices.DeleteFunc(d.Keep, func(text string) bool {
		return slices.Contains(refused, text) && !slices.Contains(asked, text)
	})
}

// Variables returns the proposed variables, the most important first.
func (s *Survey) Variables() []DraftVariable {
	var proposed []DraftVariable
	for _, n := range s.Names {
		if n.Proposed {
			proposed = append(proposed, n.variable(len(proposed) == 0))
		}
	}
	own := ""
	if len(proposed) > 0 {
		name, _ := spelling.Parse(proposed[0].StandsFor)
		own = name.In(spelling.Snake) + "_"
	}
	for _, l := range s.Ports {
		if !l.Proposed {
			continue
		}
		proposed = append(proposed, DraftVariable{
			Name: orElse(strings.TrimPrefix(l.Variable, own), "port"), Kind: manifest.KindInteger, StandsFor: l.Text, Default: l.Text,
			In: l.In, Note: places(l.Count, l.Files),
		})
	}
	for _, l := range s.IDs {
		if !l.Proposed {
			continue
		}
		proposed = append(proposed, DraftVariable{
			Name: orElse(strings.TrimPrefix(l.Variable, own), "id"), Kind: manifest.KindID, StandsFor: l.Text, Note: places(l.Count, l.Files),
		})
	}
	return proposed
}

func (n Name) variable(first bool) DraftVariable {
	v := DraftVariable{Name: "project", Label: "Project name", Kind: manifest.KindName, StandsFor: n.Words, Keep: n.Keep}
	if !first {
		name, _ := spelling.Parse(n.Words)
		v.Name, v.Label = name.In(spelling.Snake), name.In(spelling.Sentence)
	}
	v.Note = places(n.Count, n.Files)
	if len(n.Spellings) > 1 {
		texts := make([]string, 0, 4)
		for _, s := range n.Spellings[:min(len(n.Spellings), 4)] {
			if !slices.Contains(texts, s.Text) {
				texts = append(texts, s.Text)
			}
		}
		v.Note += ": " + strings.Join(texts, ", ")
		if len(n.Spellings) > 4 {
			v.Note += ", …"
		}
	}
	return v
}

func orElse(text, otherwise string) string {
	if text == "" {
		return otherwise
	}
	return text
}

func places(count, files int) string {
	return fmt.Sprintf("%s in %s", spelling.Count(count, "place"), spelling.Count(files, "file"))
}

// YAML returns the draft as a manifest that a person would have written. It is
// empty of what was not decided.
func (d Draft) YAML() []byte {
	var b bytes.Buffer
	line := func(format string, args ...any) { fmt.Fprintf(&b, format+"\n", args...) }
	set := func(key, value string) {
		if value != "" {
			line("%s: %s", key, quoted(value))
		}
	}
	line("ironcast: %d", manifest.Format)
	set("template", d.Template)
	set("title", clipped(d.Title, 100))
	set("summary", clipped(d.Summary, 300))
	set("version", d.Version)
	set("team", d.Team)
	set("licence", d.Licence)
	if len(d.Variables) > 0 {
		line("\nvariables:")
		b.Write(variableLines(d.Variables))
	}
	if len(d.Keep) > 0 {
		line("\n# Names of dependencies, which a cast must not touch.\nkeep:")
		b.Write(listLines(d.Keep))
	}
	if globs := d.globs(); len(globs) > 0 {
		line("\nfiles:\n  leave_out:")
		for _, g := range d.LeaveOut {
			line("    - %s # %s", quoted(g.Glob), g.Why)
		}
	}
	return b.Bytes()
}

func (d Draft) globs() []string {
	globs := make([]string, len(d.LeaveOut))
	for i, g := range d.LeaveOut {
		globs[i] = g.Glob
	}
	return globs
}

func variableLines(variables []DraftVariable) []byte {
	var b bytes.Buffer
	for _, v := range variables {
		fmt.Fprintf(&b, "  %s: # %s\n    kind: %s\n", v.Name, v.Note, v.Kind)
		if v.Label != "" {
			fmt.Fprintf(&b, "    label: %s\n", quoted(v.Label))
		}
		fmt.Fprintf(&b, "    stands_for: %s\n", quoted(v.StandsFor))
		if len(v.In) > 0 {
			globs := make([]string, len(v.In))
			for i, p := range v.In {
				globs[i] = quoted(escapeGlob(p))
			}
			fmt.Fprintf(&b, "    in: [%s]\n", strings.Join(globs, ", "))
		}
		if v.Default != "" {
			fmt.Fprintf(&b, "    default: %s\n", quoted(v.Default))
		}
	}
	return b.Bytes()
}

func listLines(items []string) []byte {
	var b bytes.Buffer
	for _, item := range items {
		fmt.Fprintf(&b, "  - %s\n", quoted(item))
	}
	return b.Bytes()
}

var globCharacters = regexp.MustCompile(`[*?\[\]{}\\]`)

func escapeGlob(path string) string { return globCharacters.ReplaceAllString(path, `\$0`) }

var plainScalar = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9 ._/-]*[A-Za-z0-9]$|^[1-9][0-9]*$|^[0-9]+\.[0-9]+\.[0-9]+$`)

// quoted returns text as a YAML scalar that reads back as that text, or as that
// number.
func quoted(text string) string {
	var back any
	if plainScalar.MatchString(text) && yaml.Unmarshal([]byte(text), &back) == nil {
		if _, truth := back.(bool); !truth && fmt.Sprint(back) == text {
			return text
		}
	}
	encoded, _ := yaml.Marshal(&yaml.Node{Kind: yaml.ScalarNode, Tag: "!!str", Style: yaml.DoubleQuotedStyle, Value: text})
	return strings.TrimSuffix(string(encoded), "\n")
}

func clipped(text string, most int) string {
	text = strings.Join(strings.Fields(text), " ")
	runes := []rune(text)
	if len(runes) <= most {
		return text
	}
	cut := string(runes[:most-1])
	if at := strings.LastIndexByte(cut, ' '); at > 0 {
		cut = cut[:at]
	}
	return cut + "…"
}
