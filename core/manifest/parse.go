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
	"go.yaml.in/yaml/v3"

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
	seen := map[string]*yaml.Node{}
	saw := func(key string, read func(*yaml.Node)) func(*yaml.Node) {
		return func(node *yaml.Node) { seen[key] = node; read(node) }
	}
	later := func(key string) func(*yaml.Node) { return saw(key, func(*yaml.Node) {}) }
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
		"keep":          func(n *yaml.Node) { m.Keep = d.keep(n) },
		"checks":        later("checks"),
		"presets":       later("presets"),
		"files":         later("files"),
		"hooks":         later("hooks"),
		"next_steps":    later("next_steps"),
		"samples":       later("samples"),
		"accept_traces": func(n *yaml.Node) { m.Accepted = d.acceptTraces(n) },
	})
	if root.Kind != yaml.MappingNode {
		return
	}
	for _, key := range []string{"ironcast", "template", "version", "team"} {
		if seen[key] == nil {
			d.refuse(root, "the key %q is missing", key)
		}
	}
	d.clashes(root, m)
	// What holds expressions or values is read when all variables are known.
	d.known = m
	d.declare()
	for _, read := range d.later {
		read()
	}
	m.Order = d.order(root)
	for _, part := range []struct {
		key  string
		read func(*yaml.Node, *Manifest)
	}{
		{"checks", d.checks}, {"presets", d.presets}, {"files", d.files}, {"hooks", d.hooks},
		{"next_steps", d.nextSteps}, {"samples", d.samples},
	} {
		if node := seen[part.key]; node != nil {
			part.read(node, m)
		}
	}
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
