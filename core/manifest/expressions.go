package manifest

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"ironcast/core/expression"
)

// declare makes the scope of the manifest's expressions from its variables.
func (d *decoder) declare() {
	var names []expression.Declaration
	for i := range d.known.Variables {
		v := &d.known.Variables[i]
		names = append(names, expression.Declaration{Name: v.Name, Type: v.Type()})
	}
	scope, err := expression.NewScope(names)
	if err != nil {
		d.refuse(&yaml.Node{}, "the variables cannot be used in expressions: %v", err)
		scope, _ = expression.NewScope(nil)
	}
	d.known.scope = scope
}

// faulty reports an expression's fault where it stands in the file.
func (d *decoder) faulty(node *yaml.Node, what string, err error) {
	at := *node
	var fault *expression.Error
	if errors.As(err, &fault) && node.Style&(yaml.LiteralStyle|yaml.FoldedStyle) == 0 {
		at.Column += fault.Offset
		if node.Style&(yaml.DoubleQuotedStyle|yaml.SingleQuotedStyle) != 0 {
			at.Column++
		}
	}
	d.refuse(&at, "%s: %v", what, err)
}

// expression reads an expression that gives one of the types.
func (d *decoder) expression(node *yaml.Node, what string, wanted ...expression.Type) *expression.Expression {
	text, ok := d.scalar(node, what)
	if !ok {
		return nil
	}
	e, err := d.known.scope.Compile(text, wanted...)
	if err != nil {
		d.faulty(node, what, err)
		return nil
	}
	return e
}

func (d *decoder) condition(node *yaml.Node, what string) *expression.Expression {
	return d.expression(node, what, expression.Truth)
}

// template reads a text with expressions, which may not show a secret.
func (d *decoder) template(node *yaml.Node, what string, wanted ...expression.Type) *expression.Template {
	text, ok := d.scalar(node, what)
	if !ok {
		return nil
	}
	t, err := d.known.scope.ParseTemplate(text, wanted...)
	if err != nil {
		d.faulty(node, what, err)
		return nil
	}
	d.keepsSecrets(node, what, t.Uses())
	return t
}

// keepsSecrets refuses what would write a secret where it can be seen.
func (d *decoder) keepsSecrets(node *yaml.Node, what string, uses []string) {
	for _, name := range uses {
		if v := d.known.Variable(name); v != nil && v.Kind == KindSecret {
			d.refuse(node, "%s would show %s, which is a secret; only conditions may look at it", what, name)
		}
	}
}

// order returns the variables so that each comes after those it needs, and
// refuses circles.
func (d *decoder) order(root *yaml.Node) []int {
	m := d.known
	const (
		untouched = iota
		open
		done
	)
	state := make([]int, len(m.Variables))
	order := make([]int, 0, len(m.Variables))
	var path []string
	var visit func(i int) bool
	visit = func(i int) bool {
		v := &m.Variables[i]
		switch state[i] {
		case done:
			return true
		case open:
			from := slices.Index(path, v.Name)
			d.refuse(variableKey(root, v.Name), "the variables need each other in a circle: %s", strings.Join(append(path[from:], v.Name), " needs "))
			return false
		}
		state[i] = open
		path = append(path, v.Name)
		for _, name := range v.Needs() {
			at := slices.IndexFunc(m.Variables, func(v Variable) bool { return v.Name == name })
			if at >= 0 && !visit(at) {
				return false
			}
		}
		path = path[:len(path)-1]
		state[i] = done
		order = append(order, i)
		return true
	}
	for i := range m.Variables {
		if !visit(i) {
			return nil
		}
	}
	return order
}

// given reads a value of a variable, where the manifest gives one.
func (d *decoder) given(node *yaml.Node, v *Variable, what string) (any, bool) {
	raw, ok := d.raw(node, what)
	if !ok {
		return nil, false
	}
	value, err := v.Read(raw)
	if err != nil {
		d.refuse(node, "%s: %v", what, err)
		return nil, false
	}
	return value, true
}

// raw returns what a value's node holds, without looking at its kind.
func (d *decoder) raw(node *yaml.Node, what string) (any, bool) {
	if node.Kind != yaml.SequenceNode {
		text, ok := d.scalar(node, what)
		return Typed(text), ok
	}
	items := []any{}
	for _, item := range node.Content {
		text, ok := d.scalar(item, "an item of "+what)
		if !ok {
			return nil, false
		}
		items = append(items, Typed(text))
	}
	return items, true
}

// values reads values by variable.
func (d *decoder) values(node *yaml.Node, what string) map[string]any {
	values := map[string]any{}
	d.pairs(node, what, func(key, value *yaml.Node) {
		v := d.known.Variable(key.Value)
		switch {
		case v == nil:
			d.refuse(key, "%s: there is no variable %q%s", what, key.Value, nearestHint(key.Value, d.known.VariableNames()))
		case v.IsComputed():
			d.refuse(key, "%s: %s is computed and cannot be given", what, v.Name)
		default:
			if one, ok := d.given(value, v, fmt.Sprintf("%s, %s", what, v.Name)); ok {
				values[v.Name] = one
			}
		}
	})
	return values
}
