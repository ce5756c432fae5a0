package manifest

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"github.com/santhosh-tekuri/jsonschema/v6"
	"go.yaml.in/yaml/v3"

	"ironcast/core/expression"
	"ironcast/core/spelling"
)

// maxLiteral is the longest text, in bytes, that a variable may stand for.
const maxLiteral = 4096

func (d *decoder) variable(key, node *yaml.Node) Variable {
	v := Variable{Name: key.Value, Contents: true, Paths: true}
	if err := checkDeclared(v.Name); err != nil {
		d.refuse(key, "the name of the variable %v", err)
	}
	// Kept until the kind is known, since keys may stand in any order.
	nodes := map[string]*yaml.Node{}
	later := func(name string) func(*yaml.Node) { return func(n *yaml.Node) { nodes[name] = n } }
	what := "the variable " + v.Name
	d.mapping(node, what, fields{
		"kind":       func(n *yaml.Node) { nodes["kind"] = n; v.Kind = d.kind(n) },
		"of":         func(n *yaml.Node) { nodes["of"] = n; v.Of = d.itemKind(n) },
		"label":      func(n *yaml.Node) { v.Label = d.line(n, "label", 100) },
		"help":       func(n *yaml.Node) { v.Help, _ = d.text(n, "help") },
		"examples":   later("examples"),
		"default":    later("default"),
		"reference":  later("reference"),
		"stands_for": later("stands_for"),
		"in":         func(n *yaml.Node) { v.In = d.globs(n, "in") },
		"except":     func(n *yaml.Node) { v.Except = d.globs(n, "except") },
		"where":      func(n *yaml.Node) { v.Contents, v.Paths = d.where(n) },
		"as_is":      func(n *yaml.Node) { v.AsIs = d.boolean(n, "as_is") },
		"ask_when":   later("ask_when"),
		"check":      later("check"),
		"message":    later("message"),
		"value":      later("value"),
		"match":      func(n *yaml.Node) { v.Match = d.match(n) },
		"spell":      func(n *yaml.Node) { nodes["spell"] = n; v.Spell = d.spell(n) },
		"minimum":    func(n *yaml.Node) { nodes["minimum"] = n; v.Minimum = optional(d.number(n, "minimum")) },
		"maximum":    func(n *yaml.Node) { nodes["maximum"] = n; v.Maximum = optional(d.number(n, "maximum")) },
		"min_length": func(n *yaml.Node) { nodes["min_length"] = n; v.MinLength = d.length(n, "min_length") },
		"max_length": func(n *yaml.Node) { nodes["max_length"] = n; v.MaxLength = d.length(n, "max_length") },
		"min_items":  func(n *yaml.Node) { nodes["min_items"] = n; v.MinItems = d.length(n, "min_items") },
		"max_items":  func(n *yaml.Node) { nodes["max_items"] = n; v.MaxItems = d.length(n, "max_items") },
		"format":     func(n *yaml.Node) { nodes["format"] = n; v.Format, v.format = d.format(n) },
		"pattern":    func(n *yaml.Node) { nodes["pattern"] = n; v.Pattern, v.pattern = d.pattern(n) },
		"lines":      func(n *yaml.Node) { nodes["lines"] = n; v.Lines = d.boolean(n, "lines") },
		"options":    func(n *yaml.Node) { nodes["options"] = n; v.Options = d.options(n) },
	})
	if node.Kind != yaml.MappingNode {
		return v
	}
	switch {
	case nodes["kind"] == nil && nodes["value"] != nil:
		v.Kind, nodes["kind"] = KindText, key
	case nodes["kind"] == nil:
		d.refuse(key, "%s has no kind; use one of %s", what, kindList())
	}
	if v.Kind == "" {
		v.Kind = KindText // so that expressions find something
		return v
	}
	d.onlyFor(&v, nodes)
	d.bounds(&v, nodes)
	d.fixedValues(&v, nodes)
	d.later = append(d.later, func() { d.computedValues(d.known.Variable(v.Name), nodes) })
	return v
}

// checkDeclared refuses what cannot name a variable in an expression either.
func checkDeclared(name string) error {
	switch name {
	case "in", "true", "false", "null", "name", expression.Today:
		return fmt.Errorf("%q has a meaning in expressions; choose another", name)
	}
	return CheckVariableName(name)
}

func (d *decoder) itemKind(node *yaml.Node) Kind {
	switch kind := Kind(node.Value); kind {
	case KindName, KindText, KindInteger:
		return kind
	}
	d.refuse(node, "of is %q; the items of a list are of kind name, text or integer", node.Value)
	return ""
}

func (d *decoder) format(node *yaml.Node) (string, *jsonschema.Schema) {
	text, ok := d.text(node, "format")
	if !ok {
		return "", nil
	}
	if !slices.Contains(formats, text) {
		d.refuse(node, "format %q is not known%s", text, nearestHint(text, formats))
		return "", nil
	}
	compiled, err := compileFormat(text)
	if err != nil {
		d.refuse(node, "format %q cannot be used: %v", text, err)
	}
	return text, compiled
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
	numbers, texts := []Kind{KindInteger, KindNumber}, []Kind{KindText, KindSecret}
	for _, rule := range []struct {
		key   string
		kinds []Kind
	}{
		{"spell", []Kind{KindName}}, {"minimum", numbers}, {"maximum", numbers}, {"min_length", texts}, {"max_length", texts},
		{"pattern", texts}, {"format", texts}, {"lines", texts}, {"options", []Kind{KindChoice, KindChoices}},
		{"of", []Kind{KindList}}, {"min_items", []Kind{KindList, KindChoices}}, {"max_items", []Kind{KindList, KindChoices}},
	} {
		kind := v.Kind
		if kind == KindList && rule.key != "of" && rule.key != "min_items" && rule.key != "max_items" {
			kind = v.Of
		}
		if node := nodes[rule.key]; node != nil && !slices.Contains(rule.kinds, kind) {
			d.refuse(node, "%s goes with the kind %s; the variable %s is of kind %s", rule.key, joinKinds(rule.kinds), v.Name, v.Kind)
		}
	}
	if (v.Kind == KindChoice || v.Kind == KindChoices) && len(v.Options) < 2 {
		d.refuse(nodes["kind"], "the variable %s is a choice and needs options, two at least", v.Name)
	}
	if v.Kind == KindList && v.Of == "" {
		if nodes["of"] == nil {
			d.refuse(nodes["kind"], "the variable %s is a list and needs %q: name, text or integer", v.Name, "of")
		}
		v.Of = KindText
	}
	if v.Kind == KindBoolean && nodes["stands_for"] != nil && len(v.In) == 0 {
		d.refuse(nodes["stands_for"], "the variable %s stands for true or false, which is everywhere; say in which files with %q", v.Name, "in")
	}
	if v.IsList() && nodes["stands_for"] != nil {
		d.refuse(nodes["stands_for"], "a list stands for no text; its items do, in what is repeated (see marks)")
	}
	if v.Kind == KindSecret {
		for _, key := range []string{"default", "reference", "examples", "value"} {
			if nodes[key] != nil {
				d.refuse(nodes[key], "%s of the secret %s would be published with the template; leave it out", key, v.Name)
			}
		}
	}
	if nodes["message"] != nil && nodes["check"] == nil {
		d.refuse(nodes["message"], "message goes with check, which says what must be true")
	}
	if nodes["check"] != nil && nodes["message"] == nil {
		d.refuse(nodes["check"], "check needs a message that says what would be right")
	}
	for _, key := range []string{"default", "ask_when"} {
		if nodes["value"] != nil && nodes[key] != nil {
			d.refuse(nodes[key], "the variable %s is computed and never asked for; leave %s out", v.Name, key)
		}
	}
	if (v.Kind == KindName || v.Kind == KindPackage) && nodes["ask_when"] != nil && nodes["default"] == nil {
		d.refuse(nodes["ask_when"], "the variable %s may not be asked for, so it needs a default", v.Name)
	}
}

func joinKinds(kinds []Kind) string {
	words := make([]string, len(kinds))
	for i, kind := range kinds {
		words[i] = string(kind)
	}
	return strings.Join(words, " or ")
}

func (d *decoder) bounds(v *Variable, nodes map[string]*yaml.Node) {
	if v.Minimum != nil && v.Maximum != nil && *v.Minimum > *v.Maximum {
		d.refuse(nodes["maximum"], "maximum %s is below minimum %s", Bound(*v.Maximum), Bound(*v.Minimum))
	}
	if v.MinLength != nil && v.MaxLength != nil && *v.MinLength > *v.MaxLength {
		d.refuse(nodes["max_length"], "max_length %d is below min_length %d", *v.MaxLength, *v.MinLength)
	}
	if v.MinItems != nil && v.MaxItems != nil && *v.MinItems > *v.MaxItems {
		d.refuse(nodes["max_items"], "max_items %d is below min_items %d", *v.MaxItems, *v.MinItems)
	}
}

// fixedValues reads the values that the manifest itself gives, and checks each
// against the variable.
func (d *decoder) fixedValues(v *Variable, nodes map[string]*yaml.Node) {
	if n := nodes["default"]; n != nil && !(n.Kind == yaml.ScalarNode && expression.HasExpression(n.Value)) {
		v.Default, _ = d.given(n, v, "default of "+v.Name)
	}
	if n := nodes["reference"]; n != nil {
		v.Reference, _ = d.given(n, v, "reference of "+v.Name)
	}
	if n := nodes["stands_for"]; n != nil {
		if _, ok := d.given(n, v, "stands_for of "+v.Name); ok {
			v.StandsFor = n.Value
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
			if value, ok := d.given(item, v, "an example of "+v.Name); ok {
				v.Examples = append(v.Examples, value)
			}
		})
	}
}

// computedValues reads what holds expressions.
func (d *decoder) computedValues(v *Variable, nodes map[string]*yaml.Node) {
	if n := nodes["default"]; n != nil && n.Kind == yaml.ScalarNode && expression.HasExpression(n.Value) {
		v.Default = n.Value
		v.computed = d.template(n, "default of "+v.Name, v.accepts()...)
	}
	if n := nodes["value"]; n != nil {
		v.Value = n.Value
		if v.value = d.expression(n, "value of "+v.Name, v.accepts()...); v.value != nil {
			d.keepsSecrets(n, "value of "+v.Name, v.value.Uses())
		}
	}
	if n := nodes["ask_when"]; n != nil {
		v.AskWhen = n.Value
		v.askWhen = d.condition(n, "ask_when of "+v.Name)
	}
	if nodes["check"] != nil && nodes["message"] != nil {
		v.Check = &Check{That: d.condition(nodes["check"], "check of "+v.Name), Message: d.template(nodes["message"], "message of "+v.Name)}
	}
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
			texts = nil
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
