package survey

import (
	"bytes"
	"fmt"
	"slices"

	"go.yaml.in/yaml/v3"

	"ironcast/core/manifest"
	"ironcast/core/values"
)

// New returns the part of the draft that a manifest does not say yet: variables
// that stand for other texts, other texts to keep, other globs to leave out.
func (d Draft) New(m *manifest.Manifest) Draft {
	fresh := Draft{Template: m.Template}
	for _, v := range d.Variables {
		if !slices.ContainsFunc(m.Variables, func(known manifest.Variable) bool { return sameText(known, v) }) {
			fresh.Variables = append(fresh.Variables, v)
		}
	}
	for _, text := range d.Keep {
		if !slices.Contains(m.Keep, text) {
			fresh.Keep = append(fresh.Keep, text)
		}
	}
	for _, g := range d.LeaveOut {
		if !slices.Contains(m.Files.LeaveOut, g.Glob) {
			fresh.LeaveOut = append(fresh.LeaveOut, g)
		}
	}
	return fresh
}

// sameText tells whether both stand for the same text, in whatever spelling the
// manifest gives it.
func sameText(known manifest.Variable, v DraftVariable) bool {
	if known.StandsFor == v.StandsFor {
		return true
	}
	stands, err := values.Read(&known, manifest.Typed(known.StandsFor))
	proposed, errProposed := values.Read(&known, manifest.Typed(v.StandsFor))
	return known.Kind == v.Kind && err == nil && errProposed == nil && stands == proposed
}

// Empty tells whether the draft adds nothing.
func (d Draft) Empty() bool { return len(d.Variables)+len(d.Keep)+len(d.LeaveOut) == 0 }

// Extend adds the draft to a manifest's text. What stands there stays, comments
// included; variables get names that are free.
func (d Draft) Extend(existing []byte) ([]byte, error) {
	m, err := manifest.Parse(existing)
	if err != nil {
		return nil, err
	}
	var document yaml.Node
	if err := yaml.Unmarshal(existing, &document); err != nil {
		return nil, err
	}
	root := document.Content[0]
	fresh := Draft{}
	for _, v := range d.Variables {
		for base, n := v.Name, 2; m.Variable(v.Name) != nil; n++ {
			v.Name = fmt.Sprintf("%s_%d", base, n)
		}
		fresh.Add(v)
	}
	if len(fresh.Variables) > 0 {
		if err := addTo(child(root, "variables", yaml.MappingNode), append([]byte("x:\n"), variableLines(fresh.Variables)...)); err != nil {
			return nil, err
		}
	}
	if len(d.Keep) > 0 {
		if err := addTo(child(root, "keep", yaml.SequenceNode), append([]byte("x:\n"), listLines(d.Keep)...)); err != nil {
			return nil, err
		}
	}
	if globs := d.globs(); len(globs) > 0 {
		files := child(root, "files", yaml.MappingNode)
		if err := addTo(child(files, "leave_out", yaml.SequenceNode), append([]byte("x:\n"), listLines(globs)...)); err != nil {
			return nil, err
		}
	}
	var out bytes.Buffer
	encoder := yaml.NewEncoder(&out)
	encoder.SetIndent(2)
	if err := encoder.Encode(&document); err != nil {
		return nil, err
	}
	return out.Bytes(), nil
}

// child returns the value of a key, which is added where it is missing.
func child(mapping *yaml.Node, key string, kind yaml.Kind) *yaml.Node {
	for i := 0; i+1 < len(mapping.Content); i += 2 {
		if mapping.Content[i].Value == key {
			return mapping.Content[i+1]
		}
	}
	value := &yaml.Node{Kind: kind}
	mapping.Content = append(mapping.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: key}, value)
	return value
}

// addTo appends what stands under the key x of a small document.
func addTo(node *yaml.Node, text []byte) error {
	var document yaml.Node
	if err := yaml.Unmarshal(text, &document); err != nil {
		return err
	}
	node.Content = append(node.Content, document.Content[0].Content[1].Content...)
	return nil
}
