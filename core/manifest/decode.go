package manifest

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"ironcast/core/spelling"
)

// decoder walks YAML nodes and collects problems instead of stopping at the
// first.
type decoder struct {
	problems Problems
	later    []func()  // reads what needs to know all variables
	known    *Manifest // with all its variables, once they are read
}

func (d *decoder) refuse(at *yaml.Node, format string, args ...any) {
	d.problems = append(d.problems, Problem{Line: max(at.Line, 1), Column: max(at.Column, 1), Message: fmt.Sprintf(format, args...)})
}

var yamlLine = regexp.MustCompile(`line (\d+): (.*)`)

// parseYAML returns the root node of the one document in data.
func (d *decoder) parseYAML(data []byte) *yaml.Node {
	reader := yaml.NewDecoder(bytes.NewReader(data))
	var document yaml.Node
	err := reader.Decode(&document)
	switch {
	case errors.Is(err, io.EOF) || err == nil && len(document.Content) == 0:
		d.refuse(&yaml.Node{}, "the manifest is empty; it begins with %q", "ironcast: 1")
		return nil
	case err != nil:
		at := &yaml.Node{}
		message := strings.TrimPrefix(err.Error(), "yaml: ")
		if m := yamlLine.FindStringSubmatch(message); m != nil {
			at.Line, _ = strconv.Atoi(m[1])
			message = m[2]
		}
		d.refuse(at, "this is not valid YAML: %s", message)
		return nil
	}
	var second yaml.Node
	if err := reader.Decode(&second); !errors.Is(err, io.EOF) {
		d.refuse(&second, "a manifest is one YAML document; a second one begins here")
	}
	return document.Content[0]
}

// fields says how to read each key of a mapping.
type fields map[string]func(*yaml.Node)

// mapping reads a mapping with known keys, and returns those that are there;
// what names it in messages.
func (d *decoder) mapping(node *yaml.Node, what string, known fields) (seen map[string]bool) {
	names := make([]string, 0, len(known))
	for name := range known {
		names = append(names, name)
	}
	slices.Sort(names)
	seen = map[string]bool{}
	d.pairs(node, what, func(key, value *yaml.Node) {
		read, found := known[key.Value]
		if !found {
			d.refuse(key, "%s has no key %q%s", what, key.Value, nearestHint(key.Value, names))
			return
		}
		seen[key.Value] = true
		read(value)
	})
	return seen
}

// nearestHint ends a sentence about a word that is none of those it may be.
func nearestHint(word string, words []string) string {
	if nearest := spelling.Nearest(word, words); nearest != "" {
		return fmt.Sprintf("; did you mean %q?", nearest)
	}
	if len(words) == 0 {
		return "; there is none"
	}
	return "; there are " + strings.Join(words, ", ")
}

// required refuses a mapping that lacks a key.
func (d *decoder) required(seen map[string]bool, node *yaml.Node, what string, keys ...string) {
	for _, key := range keys {
		if node.Kind == yaml.MappingNode && !seen[key] {
			d.refuse(node, "%s needs the key %q", what, key)
		}
	}
}

// pairs calls each for every key and value of a mapping, once for each key.
func (d *decoder) pairs(node *yaml.Node, what string, each func(key, value *yaml.Node)) {
	if node.Kind != yaml.MappingNode {
		d.refuse(node, "%s is %s; it must be keys with values", what, describe(node))
		return
	}
	seen := map[string]int{}
	for i := 0; i+1 < len(node.Content); i += 2 {
		key, value := node.Content[i], node.Content[i+1]
		if key.Kind != yaml.ScalarNode {
			d.refuse(key, "a key of %s is %s; it must be a word", what, describe(key))
			continue
		}
		if first, twice := seen[key.Value]; twice {
			d.refuse(key, "the key %q stands twice in %s, first on line %d", key.Value, what, first)
			continue
		}
		seen[key.Value] = key.Line
		each(key, value)
	}
}

func describe(node *yaml.Node) string {
	switch {
	case node.Kind == yaml.MappingNode:
		return "keys with values"
	case node.Kind == yaml.SequenceNode:
		return "a list"
	case node.Kind == yaml.AliasNode:
		return "an alias, which a manifest may not hold"
	case node.Tag == "!!null":
		return "empty"
	case node.Tag == "!!bool":
		return "true or false"
	case node.Tag == "!!int", node.Tag == "!!float":
		return "a number"
	}
	return "a text"
}

// scalar returns the text of a scalar of any type but null.
func (d *decoder) scalar(node *yaml.Node, what string) (string, bool) {
	if node.Kind != yaml.ScalarNode || node.Tag == "!!null" || node.Tag == "!!binary" {
		d.refuse(node, "%s is %s; it must be a text or a number", what, describe(node))
		return "", false
	}
	return node.Value, true
}

func (d *decoder) text(node *yaml.Node, what string) (string, bool) {
	if node.Kind != yaml.ScalarNode || node.Tag != "!!str" && node.Tag != "!!timestamp" {
		d.refuse(node, "%s is %s; it must be a text%s", what, describe(node), quoteHint(node))
		return "", false
	}
	return node.Value, true
}

func quoteHint(node *yaml.Node) string {
	if node.Kind == yaml.ScalarNode && node.Value != "" {
		return fmt.Sprintf(" (write %q)", node.Value)
	}
	return ""
}

func (d *decoder) integer(node *yaml.Node, what string) (int64, bool) {
	number, err := strconv.ParseInt(node.Value, 10, 64)
	if node.Kind != yaml.ScalarNode || node.Tag != "!!int" || err != nil {
		d.refuse(node, "%s is %s; it must be a whole number", what, describe(node))
		return 0, false
	}
	return number, true
}

func (d *decoder) number(node *yaml.Node, what string) (float64, bool) {
	number, err := strconv.ParseFloat(node.Value, 64)
	if node.Kind != yaml.ScalarNode || node.Tag != "!!int" && node.Tag != "!!float" || err != nil || math.IsInf(number, 0) || math.IsNaN(number) {
		d.refuse(node, "%s is %s; it must be a number", what, describe(node))
		return 0, false
	}
	return number, true
}

func (d *decoder) boolean(node *yaml.Node, what string) bool {
	if node.Kind != yaml.ScalarNode || node.Tag != "!!bool" {
		d.refuse(node, "%s is %s; it must be true or false", what, describe(node))
		return false
	}
	return strings.EqualFold(node.Value, "true")
}

// items calls each for every item of a list.
func (d *decoder) items(node *yaml.Node, what string, each func(*yaml.Node)) {
	if node.Kind != yaml.SequenceNode {
		d.refuse(node, "%s is %s; it must be a list", what, describe(node))
		return
	}
	for _, item := range node.Content {
		each(item)
	}
}
