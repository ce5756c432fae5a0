package manifest

import (
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/Masterminds/semver/v3"
	"github.com/bmatcuk/doublestar/v4"
	"github.com/google/uuid"
	"go.yaml.in/yaml/v3"

	"ironcast/core/spelling"
	"ironcast/core/tree"
)

var (
	kebab        = regexp.MustCompile(`^[a-z][a-z0-9]*(-[a-z0-9]+)*$`)
	variableName = regexp.MustCompile(`^[a-z][a-z0-9]*(_[a-z0-9]+)*$`)
	licence      = regexp.MustCompile(`^[A-Za-z0-9.+:() -]+$`)
)

// CheckKebab refuses what cannot name a template, a team or a label.
func CheckKebab(text string) error {
	if !kebab.MatchString(text) || len(text) > 60 {
		return fmt.Errorf("%q must be in kebab-case, such as tide-gauge, and at most 60 characters long", text)
	}
	return nil
}

// CheckVariableName refuses what cannot name a variable.
func CheckVariableName(text string) error {
	if !variableName.MatchString(text) || len(text) > 60 {
		return fmt.Errorf("%q must be in lower case with underscores, such as deploy_id, and at most 60 characters long", text)
	}
	return nil
}

// Parse reads a manifest. Its error is of type Problems.
func Parse(data []byte) (*Manifest, error) {
	var d decoder
	if len(data) > MaxBytes {
		d.refuse(&yaml.Node{}, "the manifest has %d bytes; at most %d are read", len(data), MaxBytes)
		return nil, d.problems
	}
	m := &Manifest{Source: "."}
	if root := d.parseYAML(data); root != nil {
		d.manifest(root, m)
	}
	if len(d.problems) > 0 {
		return nil, d.problems.sorted()
	}
	return m, nil
}

func (d *decoder) manifest(root *yaml.Node, m *Manifest) {
	seen := map[string]bool{}
	saw := func(key string, read func(*yaml.Node)) func(*yaml.Node) {
		return func(node *yaml.Node) { seen[key] = true; read(node) }
	}
	d.mapping(root, "the manifest", fields{
		"ironcast": saw("ironcast", func(n *yaml.Node) {
			if n.Value != strconv.Itoa(Format) {
				d.refuse(n, "ironcast is %q; this version reads format %d", n.Value, Format)
			}
		}),
		"template": saw("template", func(n *yaml.Node) { m.Template = d.kebab(n, "template") }),
		"title":    func(n *yaml.Node) { m.Title = d.line(n, "title", 100) },
		"summary":  func(n *yaml.Node) { m.Summary = d.line(n, "summary", 300) },
		"version":  saw("version", func(n *yaml.Node) { m.Version = d.version(n) }),
		"team":     saw("team", func(n *yaml.Node) { m.Team = d.kebab(n, "team") }),
		"licence": func(n *yaml.Node) {
			if m.Licence = d.line(n, "licence", 100); m.Licence != "" && !licence.MatchString(m.Licence) {
				d.refuse(n, "licence %q is no SPDX expression; an example is Apache-2.0", m.Licence)
			}
		},
		"labels": func(n *yaml.Node) {
			d.items(n, "labels", func(item *yaml.Node) {
				if label := d.kebab(item, "a label"); label != "" && !slices.Contains(m.Labels, label) {
					m.Labels = append(m.Labels, label)
				}
			})
		},
		"source": func(n *yaml.Node) {
			if m.Source = d.line(n, "source", 1024); m.Source == "." || m.Source == "" {
				m.Source = "."
			} else if err := tree.CheckPath(m.Source, tree.DefaultLimits()); err != nil {
				d.refuse(n, "source names a folder below the manifest; %v", err)
			}
		},
		"variables": func(n *yaml.Node) {
			d.pairs(n, "variables", func(key, value *yaml.Node) {
				m.Variables = append(m.Variables, d.variable(key, value))
			})
		},
		"keep": func(n *yaml.Node) { m.Keep = d.keep(n) },
		"files": func(n *yaml.Node) {
			d.mapping(n, "files", fields{
				"leave_out": func(n *yaml.Node) { m.Files.LeaveOut = d.globs(n, "leave_out") },
				"verbatim":  func(n *yaml.Node) { m.Files.Verbatim = d.globs(n, "verbatim") },
			})
		},
	})
	if root.Kind != yaml.MappingNode {
		return
	}
	for _, key := range []string{"ironcast", "template", "version", "team"} {
		if !seen[key] {
			d.refuse(root, "the key %q is missing", key)
		}
	}
	d.clashes(root, m)
}

func (d *decoder) line(node *yaml.Node, what string, most int) string {
	text, _ := d.text(node, what)
	if strings.ContainsAny(text, "\r\n\x00") {
		d.refuse(node, "%s must be a single line", what)
	}
	if utf8.RuneCountInString(text) > most {
		d.refuse(node, "%s has %d characters; at most %d are kept", what, utf8.RuneCountInString(text), most)
	}
	return text
}

func (d *decoder) kebab(node *yaml.Node, what string) string {
	text, ok := d.text(node, what)
	if !ok {
		return ""
	}
	if err := CheckKebab(text); err != nil {
		d.refuse(node, "%s %v", what, err)
		return ""
	}
	return text
}

func (d *decoder) version(node *yaml.Node) string {
	text, ok := d.scalar(node, "version")
	if !ok {
		return ""
	}
	if _, err := semver.StrictNewVersion(text); err != nil || len(text) > 100 {
		d.refuse(node, "version %q is no SemVer version; an example is 1.2.0", text)
	}
	return text
}

func (d *decoder) globs(node *yaml.Node, what string) []string {
	var globs []string
	d.items(node, what, func(item *yaml.Node) {
		text, ok := d.text(item, "an item of "+what)
		switch {
		case !ok:
		case text == "" || !doublestar.ValidatePattern(text) || strings.HasPrefix(text, "/"):
			d.refuse(item, "%s holds %q, which is no glob of paths; an example is config/**", what, text)
		default:
			globs = append(globs, strings.TrimPrefix(text, "./"))
		}
	})
	return globs
}

func (d *decoder) keep(node *yaml.Node) []string {
	var keep []string
	d.items(node, "keep", func(item *yaml.Node) {
		text, ok := d.text(item, "an item of keep")
		switch {
		case !ok:
		case text == "" || len(text) > maxLiteral:
			d.refuse(item, "a text to keep has between 1 and %d bytes", maxLiteral)
		default:
			keep = append(keep, text)
		}
	})
	return keep
}

// maxLiteral is the longest text, in bytes, that a variable may stand for.
const maxLiteral = 4096

func (d *decoder) variable(key, node *yaml.Node) Variable {
	v := Variable{Name: key.Value, Contents: true, Paths: true}
	if err := CheckVariableName(v.Name); err != nil {
		d.refuse(key, "the name of the variable %v", err)
	}
	// Kept until the kind is known, since keys may stand in any order.
	nodes := map[string]*yaml.Node{}
	later := func(name string) func(*yaml.Node) { return func(n *yaml.Node) { nodes[name] = n } }
	what := "the variable " + v.Name
	d.mapping(node, what, fields{
		"kind":       func(n *yaml.Node) { nodes["kind"] = n; v.Kind = d.kind(n) },
		"label":      func(n *yaml.Node) { v.Label = d.line(n, "label", 100) },
		"help":       func(n *yaml.Node) { v.Help, _ = d.text(n, "help") },
		"examples":   later("examples"),
		"default":    later("default"),
		"reference":  later("reference"),
		"stands_for": later("stands_for"),
		"in":         func(n *yaml.Node) { v.In = d.globs(n, "in") },
		"except":     func(n *yaml.Node) { v.Except = d.globs(n, "except") },
		"where":      func(n *yaml.Node) { v.Contents, v.Paths = d.where(n) },
		"match":      func(n *yaml.Node) { v.Match = d.match(n) },
		"spell":      func(n *yaml.Node) { nodes["spell"] = n; v.Spell = d.spell(n) },
		"minimum":    func(n *yaml.Node) { nodes["minimum"] = n; v.Minimum = optional(d.integer(n, "minimum")) },
		"maximum":    func(n *yaml.Node) { nodes["maximum"] = n; v.Maximum = optional(d.integer(n, "maximum")) },
		"min_length": func(n *yaml.Node) { nodes["min_length"] = n; v.MinLength = d.length(n, "min_length") },
		"max_length": func(n *yaml.Node) { nodes["max_length"] = n; v.MaxLength = d.length(n, "max_length") },
		"pattern":    func(n *yaml.Node) { nodes["pattern"] = n; v.Pattern, v.pattern = d.pattern(n) },
		"lines":      func(n *yaml.Node) { nodes["lines"] = n; v.Lines = d.boolean(n, "lines") },
		"options":    func(n *yaml.Node) { nodes["options"] = n; v.Options = d.options(n) },
	})
	if node.Kind != yaml.MappingNode {
		return v
	}
	if nodes["kind"] == nil {
		d.refuse(key, "%s has no kind; use one of %s", what, kindList())
	}
	if v.Kind == "" {
		return v
	}
	d.onlyFor(&v, nodes)
	d.bounds(&v, nodes)
	d.values(&v, nodes)
	return v
}

func optional[T any](value T, ok bool) *T {
	if !ok {
		return nil
	}
	return &value
}

func kindList() string {
	names := make([]string, len(Kinds))
	for i, kind := range Kinds {
		names[i] = string(kind)
	}
	return strings.Join(names, ", ")
}

func (d *decoder) kind(node *yaml.Node) Kind {
	text, ok := d.text(node, "kind")
	if ok && !slices.Contains(Kinds, Kind(text)) {
		d.refuse(node, "kind %q is not known; use one of %s", text, kindList())
		return ""
	}
	return Kind(text)
}

func (d *decoder) where(node *yaml.Node) (contents, paths bool) {
	d.items(node, "where", func(item *yaml.Node) {
		switch item.Value {
		case "content":
			contents = true
		case "paths":
			paths = true
		default:
			d.refuse(item, "where holds %q; use content, paths or both", item.Value)
		}
	})
	return contents, paths
}

func (d *decoder) match(node *yaml.Node) Match {
	switch match := Match(node.Value); match {
	case MatchAnywhere, MatchPart:
		return match
	}
	d.refuse(node, "match is %q; use anywhere or part", node.Value)
	return MatchDefault
}

func (d *decoder) spell(node *yaml.Node) []Spell {
	var rules []Spell
	d.items(node, "spell", func(item *yaml.Node) {
		var rule Spell
		d.mapping(item, "an item of spell", fields{
			"in": func(n *yaml.Node) { rule.In = d.globs(n, "in") },
			"as": func(n *yaml.Node) {
				if err := rule.As.UnmarshalText([]byte(n.Value)); err != nil {
					d.refuse(n, "%v", err)
				}
			},
		})
		rules = append(rules, rule)
	})
	return rules
}

func (d *decoder) length(node *yaml.Node, what string) *int {
	length, ok := d.integer(node, what)
	if ok && (length < 0 || length > 1<<20) {
		d.refuse(node, "%s is %d; it must be from 0 to %d", what, length, 1<<20)
		return nil
	}
	short := int(length)
	return optional(short, ok)
}

func (d *decoder) pattern(node *yaml.Node) (string, *regexp.Regexp) {
	text, ok := d.text(node, "pattern")
	if !ok {
		return "", nil
	}
	pattern, err := regexp.Compile(text)
	if err != nil || len(text) > 1000 {
		d.refuse(node, "pattern %q is no regular expression of at most 1000 bytes: %v", text, err)
		return "", nil
	}
	return text, pattern
}

func (d *decoder) options(node *yaml.Node) []Option {
	var options []Option
	if node.Kind == yaml.SequenceNode {
		d.items(node, "options", func(item *yaml.Node) {
			if value, ok := d.text(item, "an option"); ok {
				options = append(options, Option{Value: value, Label: value})
			}
		})
	} else {
		d.pairs(node, "options", func(key, value *yaml.Node) {
			label, _ := d.text(value, "the label of option "+key.Value)
			options = append(options, Option{Value: key.Value, Label: label})
		})
	}
	for i, option := range options {
		if option.Value == "" || slices.ContainsFunc(options[:i], func(o Option) bool { return o.Value == option.Value }) {
			d.refuse(node, "options holds %q twice, or an empty one", option.Value)
		}
	}
	return options
}

// onlyFor refuses keys that say nothing for the variable's kind.
func (d *decoder) onlyFor(v *Variable, nodes map[string]*yaml.Node) {
	for _, rule := range []struct {
		key  string
		kind Kind
	}{
		{"spell", KindName}, {"minimum", KindInteger}, {"maximum", KindInteger}, {"min_length", KindText},
		{"max_length", KindText}, {"pattern", KindText}, {"lines", KindText}, {"options", KindChoice},
	} {
		if node := nodes[rule.key]; node != nil && v.Kind != rule.kind {
			d.refuse(node, "%s goes with the kind %s; the variable %s is of kind %s", rule.key, rule.kind, v.Name, v.Kind)
		}
	}
	if v.Kind == KindChoice && len(v.Options) < 2 {
		d.refuse(nodes["kind"], "the variable %s is a choice and needs options, two at least", v.Name)
	}
	if v.Kind == KindBoolean && nodes["stands_for"] != nil && len(v.In) == 0 {
		d.refuse(nodes["stands_for"], "the variable %s stands for true or false, which is everywhere; say in which files with %q", v.Name, "in")
	}
}

func (d *decoder) bounds(v *Variable, nodes map[string]*yaml.Node) {
	if v.Minimum != nil && v.Maximum != nil && *v.Minimum > *v.Maximum {
		d.refuse(nodes["maximum"], "maximum %d is below minimum %d", *v.Maximum, *v.Minimum)
	}
	if v.MinLength != nil && v.MaxLength != nil && *v.MinLength > *v.MaxLength {
		d.refuse(nodes["max_length"], "max_length %d is below min_length %d", *v.MaxLength, *v.MinLength)
	}
}

// values reads the values that the manifest itself gives, and checks each
// against the variable.
func (d *decoder) values(v *Variable, nodes map[string]*yaml.Node) {
	value := func(n *yaml.Node, what string) *string {
		text, ok := d.scalar(n, what)
		if !ok {
			return nil
		}
		if strings.Contains(text, "${") {
			d.refuse(n, "%s of %s holds an expression, ${…}, which this version does not read", what, v.Name)
			return nil
		}
		if err := v.Check(text); err != nil {
			d.refuse(n, "%s of %s: %v", what, v.Name, err)
			return nil
		}
		return &text
	}
	if n := nodes["default"]; n != nil {
		v.Default = value(n, "default")
	}
	if n := nodes["reference"]; n != nil {
		v.Reference = value(n, "reference")
	}
	if n := nodes["stands_for"]; n != nil {
		if text := value(n, "stands_for"); text != nil {
			v.StandsFor = *text
		}
		if n.Value == "" || len(n.Value) > maxLiteral {
			d.refuse(n, "stands_for of %s has between 1 and %d bytes", v.Name, maxLiteral)
		}
	}
	if n := nodes["reference"]; n != nil && nodes["stands_for"] != nil {
		d.refuse(n, "stands_for of %s says already what the source project has; leave reference out", v.Name)
	}
	if n := nodes["examples"]; n != nil {
		d.items(n, "examples", func(item *yaml.Node) {
			if text := value(item, "an example"); text != nil {
				v.Examples = append(v.Examples, *text)
			}
		})
	}
}

// Check tells what is wrong with a value, as it would be typed; nil when the
// variable takes it.
func (v *Variable) Check(text string) error {
	switch v.Kind {
	case KindName:
		_, err := spelling.Parse(text)
		return err
	case KindInteger:
		number, err := strconv.ParseInt(text, 10, 64)
		switch {
		case err != nil:
			return fmt.Errorf("%q is no whole number", text)
		case v.Minimum != nil && number < *v.Minimum:
			return fmt.Errorf("%d is below the minimum of %d", number, *v.Minimum)
		case v.Maximum != nil && number > *v.Maximum:
			return fmt.Errorf("%d is above the maximum of %d", number, *v.Maximum)
		}
	case KindBoolean:
		if !strings.EqualFold(text, "true") && !strings.EqualFold(text, "false") {
			return fmt.Errorf("%q must be true or false", text)
		}
	case KindChoice:
		if !slices.ContainsFunc(v.Options, func(o Option) bool { return o.Value == text }) {
			options := make([]string, len(v.Options))
			for i, option := range v.Options {
				options[i] = option.Value
			}
			return fmt.Errorf("%q is no option; choose one of %s", text, strings.Join(options, ", "))
		}
	case KindID:
		if _, err := uuid.Parse(text); err != nil {
			return fmt.Errorf("%q is no UUID; an example is 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de", text)
		}
	case KindText:
		return v.checkText(text)
	}
	return nil
}

func (v *Variable) checkText(text string) error {
	length := utf8.RuneCountInString(text)
	switch {
	case !utf8.ValidString(text) || strings.ContainsRune(text, 0):
		return fmt.Errorf("the text must be UTF-8 without NUL")
	case !v.Lines && strings.ContainsAny(text, "\r\n"):
		return fmt.Errorf("the text must be a single line")
	case v.MinLength != nil && length < *v.MinLength:
		return fmt.Errorf("the text has %d characters; it needs %d at least", length, *v.MinLength)
	case v.MaxLength != nil && length > *v.MaxLength:
		return fmt.Errorf("the text has %d characters; it may have %d at most", length, *v.MaxLength)
	case v.pattern != nil && !v.pattern.MatchString(text):
		return fmt.Errorf("%q does not match the pattern %s", text, v.Pattern)
	}
	return nil
}

// clashes refuses two variables that stand for the same text wherever either
// is looked for. Those that are limited to some files are compared when they
// meet, while compiling.
func (d *decoder) clashes(root *yaml.Node, m *Manifest) {
	claims := map[string]string{} // by text: the variable
	for i := range m.Variables {
		v := &m.Variables[i]
		if v.StandsFor == "" || len(v.In)+len(v.Except) > 0 || !v.Contents || !v.Paths {
			continue
		}
		texts := []string{v.StandsFor}
		if v.Kind == KindName {
			texts = texts[:0]
			name, _ := spelling.Parse(v.StandsFor)
			for _, literal := range name.Literals() {
				texts = append(texts, literal.Text)
			}
		}
		for _, text := range texts {
			if other, taken := claims[text]; taken {
				d.refuse(variableKey(root, v.Name), "the variables %s and %s both claim the text %q; limit one of them with in or except", other, v.Name, text)
				break
			}
			claims[text] = v.Name
		}
	}
}

// variableKey finds the node that names a variable.
func variableKey(root *yaml.Node, name string) *yaml.Node {
	for i := 0; i+1 < len(root.Content); i += 2 {
		if root.Content[i].Value != "variables" {
			continue
		}
		for variables, j := root.Content[i+1], 0; j+1 < len(variables.Content); j += 2 {
			if variables.Content[j].Value == name {
				return variables.Content[j]
			}
		}
	}
	return root
}
