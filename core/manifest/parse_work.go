package manifest

import (
	"fmt"
	"regexp"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"ironcast/core/expression"
	"ironcast/core/tree"
)

func (d *decoder) checks(node *yaml.Node, m *Manifest) {
	d.items(node, "checks", func(item *yaml.Node) {
		var check Check
		d.required(d.mapping(item, "an item of checks", fields{
			"that":    func(n *yaml.Node) { check.That = d.condition(n, "that") },
			"message": func(n *yaml.Node) { check.Message = d.template(n, "message") },
		}), item, "an item of checks", "that", "message")
		m.Checks = append(m.Checks, check)
	})
}

func (d *decoder) presets(node *yaml.Node, m *Manifest) {
	d.pairs(node, "presets", func(key, value *yaml.Node) {
		preset := Preset{Name: key.Value}
		if err := CheckKebab(preset.Name); err != nil {
			d.refuse(key, "the name of the preset %v", err)
		}
		what := "the preset " + preset.Name
		// Either the values themselves, or a label, a help and the values.
		if valuesNode := child(value, "values"); valuesNode != nil && m.Variable("values") == nil {
			d.mapping(value, what, fields{
				"label":  func(n *yaml.Node) { preset.Label = d.line(n, "label", 100) },
				"help":   func(n *yaml.Node) { preset.Help, _ = d.text(n, "help") },
				"values": func(n *yaml.Node) { preset.Values = d.values(n, what) },
			})
		} else {
			preset.Values = d.values(value, what)
		}
		for name := range preset.Values {
			if m.Variable(name).Kind == KindSecret {
				d.refuse(value, "%s gives the secret %s, which would be published with the template", what, name)
			}
		}
		m.Presets = append(m.Presets, preset)
	})
}

// child returns the value of a key in a mapping, or nil.
func child(node *yaml.Node, key string) *yaml.Node {
	for i := 0; node.Kind == yaml.MappingNode && i+1 < len(node.Content); i += 2 {
		if node.Content[i].Value == key {
			return node.Content[i+1]
		}
	}
	return nil
}

func (d *decoder) files(node *yaml.Node, m *Manifest) {
	f := &m.Files
	if repeat := child(node, "repeat"); repeat != nil {
		d.items(repeat, "repeat", func(item *yaml.Node) { f.Repeat = append(f.Repeat, d.repeat(item, m)) })
	}
	// The conditions for files may look at the items that files are repeated for.
	outer := m.scope
	defer func() { m.scope = outer }()
	m.scope = d.withItems(outer, f.Repeat)
	d.mapping(node, "files", fields{
		"leave_out": func(n *yaml.Node) { f.LeaveOut = d.globs(n, "leave_out") },
		"verbatim":  func(n *yaml.Node) { f.Verbatim = d.globs(n, "verbatim") },
		"folders": func(n *yaml.Node) {
			d.items(n, "folders", func(item *yaml.Node) {
				if path := d.path(item, "an item of folders"); path != "" {
					f.Folders = append(f.Folders, path)
				}
			})
		},
		"only_when": func(n *yaml.Node) {
			d.items(n, "only_when", func(item *yaml.Node) {
				rule := OnlyWhen{Line: item.Line}
				d.required(d.mapping(item, "an item of only_when", fields{
					"paths": func(n *yaml.Node) { rule.Paths = d.globs(n, "paths") },
					"when":  func(n *yaml.Node) { rule.When = d.condition(n, "when") },
				}), item, "an item of only_when", "paths", "when")
				f.OnlyWhen = append(f.OnlyWhen, rule)
			})
		},
		"swap": func(n *yaml.Node) {
			d.items(n, "swap", func(item *yaml.Node) {
				rule := Swap{Line: item.Line}
				d.required(d.mapping(item, "an item of swap", fields{
					"path": func(n *yaml.Node) { rule.Path = d.path(n, "path") },
					"with": func(n *yaml.Node) { rule.With = d.ownPath(n, "with") },
					"when": func(n *yaml.Node) { rule.When = d.condition(n, "when") },
				}), item, "an item of swap", "path", "with", "when")
				f.Swap = append(f.Swap, rule)
			})
		},
		"repeat": func(*yaml.Node) {}, // read before
	})
}

func (d *decoder) withItems(scope *expression.Scope, repeats []Repeat) *expression.Scope {
	for _, rule := range repeats {
		v := d.known.Variable(rule.List)
		if v == nil || !v.IsList() || rule.Item == "" {
			continue
		}
		item, _ := v.Type().Item()
		if wider, err := scope.With(expression.Declaration{Name: rule.Item, Type: item}); err == nil {
			scope = wider
		}
	}
	return scope
}

var eachIn = regexp.MustCompile(`^([a-z][a-z0-9_]*) in ([a-z][a-z0-9_]*)$`)

func (d *decoder) repeat(item *yaml.Node, m *Manifest) Repeat {
	rule := Repeat{Line: item.Line}
	var list *yaml.Node
	d.required(d.mapping(item, "an item of repeat", fields{
		"paths": func(n *yaml.Node) { rule.Paths = d.globs(n, "paths") },
		"each": func(n *yaml.Node) {
			list = n
			if parts := eachIn.FindStringSubmatch(d.line(n, "each", 200)); parts != nil {
				rule.Item, rule.List = parts[1], parts[2]
			} else {
				d.refuse(n, "each is %q; write it such as %q", n.Value, "region in regions")
			}
		},
		"standing_for": func(n *yaml.Node) { rule.StandingFor, _ = d.scalar(n, "standing_for") },
	}), item, "an item of repeat", "paths", "each", "standing_for")
	if list == nil || rule.List == "" {
		return rule
	}
	if err := m.CheckRepeat(rule.Item, rule.List, rule.StandingFor); err != nil {
		d.refuse(list, "%v", err)
	}
	return rule
}

// CheckRepeat tells what is wrong with a repetition over a list.
func (m *Manifest) CheckRepeat(item, list, standingFor string) error {
	v := m.Variable(list)
	switch {
	case v == nil:
		return fmt.Errorf("there is no variable %q to repeat over%s", list, nearestHint(list, m.VariableNames()))
	case !v.IsList():
		return fmt.Errorf("%s is of kind %s; repeat goes over a list", list, v.Kind)
	case CheckVariableName(item) != nil:
		return fmt.Errorf("the name of the item %v", CheckVariableName(item))
	case m.Variable(item) != nil || item == expression.Today:
		return fmt.Errorf("%s is a variable already; give the item another name", item)
	case standingFor == "" || len(standingFor) > maxLiteral:
		return fmt.Errorf("say for which text of the source project the item stands, such as standing for %q", "north quay")
	}
	if _, err := v.ItemVariable(item).Read(Typed(standingFor)); err != nil {
		return fmt.Errorf("the items of %s cannot stand for it: %w", list, err)
	}
	return nil
}

// ItemVariable returns a variable for one item of the list.
func (v *Variable) ItemVariable(name string) *Variable {
	item := *v
	item.Name, item.Kind, item.Of = name, v.Of, ""
	if v.Kind == KindChoices {
		item.Kind = KindText // the source may stand for what is no option
	}
	item.Default, item.computed, item.value, item.askWhen, item.Reference, item.StandsFor = nil, nil, nil, nil, nil, ""
	return &item
}

// path reads the path of a file or folder.
func (d *decoder) path(node *yaml.Node, what string) string {
	path := strings.TrimSuffix(strings.TrimPrefix(d.line(node, what, 1024), "./"), "/")
	if path == "" {
		d.refuse(node, "%s is empty; it must be a path", what)
		return ""
	}
	if err := tree.CheckPath(path, tree.DefaultLimits()); err != nil {
		d.refuse(node, "%s: %v", what, err)
		return ""
	}
	return path
}

// ownPath reads the path of a file that belongs to the template alone.
func (d *decoder) ownPath(node *yaml.Node, what string) string {
	path := d.path(node, what)
	if path != "" && !strings.HasPrefix(path, FolderName+"/") {
		d.refuse(node, "%s is %q; it must lie below %s, which is never cast", what, path, FolderName)
	}
	return path
}

// The most hooks and samples that a template may have, which bounds how long it
// can keep a proof busy.
const (
	maxHooks   = 20
	maxSamples = 50
)

func (d *decoder) hooks(node *yaml.Node, m *Manifest) {
	d.mapping(node, "hooks", fields{
		"before_cast": func(n *yaml.Node) {
			d.items(n, "before_cast", func(item *yaml.Node) {
				hook := d.hook(item)
				if hook.Run != nil {
					d.refuse(item, "before_cast takes scripts alone; a command has no project to run in yet")
				}
				m.Hooks.Before = append(m.Hooks.Before, hook)
			})
		},
		"after_cast": func(n *yaml.Node) {
			d.items(n, "after_cast", func(item *yaml.Node) { m.Hooks.After = append(m.Hooks.After, d.hook(item)) })
		},
	})
	if count := len(m.Hooks.Before) + len(m.Hooks.After); count > maxHooks {
		d.refuse(node, "the template has %d hooks; it may have %d at most", count, maxHooks)
	}
}

var environmentName = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_]*$`)

func (d *decoder) hook(item *yaml.Node) Hook {
	hook := Hook{Timeout: DefaultTimeout, Line: item.Line}
	seen := d.mapping(item, "a hook", fields{
		"script":  func(n *yaml.Node) { hook.Script = d.ownPath(n, "script") },
		"run":     func(n *yaml.Node) { hook.Run = d.command(n, "run") },
		"when":    func(n *yaml.Node) { hook.When = d.condition(n, "when") },
		"timeout": func(n *yaml.Node) { hook.Timeout = d.seconds(n) },
		"environment": func(n *yaml.Node) {
			d.items(n, "environment", func(n *yaml.Node) {
				if !environmentName.MatchString(n.Value) {
					d.refuse(n, "%q is no name of an environment variable", n.Value)
				}
				hook.Environment = append(hook.Environment, n.Value)
			})
		},
	})
	if item.Kind == yaml.MappingNode && seen["script"] == seen["run"] {
		d.refuse(item, "a hook has either a script or a command to run")
	}
	for _, key := range []string{"timeout", "environment"} {
		if seen["script"] && seen[key] {
			d.refuse(item, "%s goes with a command; scripts have bounds of their own", key)
		}
	}
	return hook
}

// command reads a program and its arguments.
func (d *decoder) command(node *yaml.Node, what string) []*expression.Template {
	arguments := []*expression.Template{}
	d.items(node, what, func(item *yaml.Node) {
		arguments = append(arguments, d.template(item, "an argument of "+what))
	})
	if len(arguments) == 0 {
		d.refuse(node, "%s names no program; an example is [go, mod, tidy]", what)
	}
	return arguments
}

func (d *decoder) seconds(node *yaml.Node) time.Duration {
	n, ok := d.integer(node, "timeout")
	if ok && (n < 1 || n > 3600) {
		d.refuse(node, "timeout is %d; it must be from 1 to 3600 seconds", n)
	}
	return time.Duration(n) * time.Second
}

func (d *decoder) nextSteps(node *yaml.Node, m *Manifest) {
	d.items(node, "next_steps", func(item *yaml.Node) {
		var step NextStep
		if item.Kind == yaml.ScalarNode {
			m.NextSteps = append(m.NextSteps, NextStep{Do: d.template(item, "a next step")})
			return
		}
		d.required(d.mapping(item, "a next step", fields{
			"do":   func(n *yaml.Node) { step.Do = d.template(n, "do") },
			"run":  func(n *yaml.Node) { step.Run = d.template(n, "run") },
			"when": func(n *yaml.Node) { step.When = d.condition(n, "when") },
		}), item, "a next step", "do")
		m.NextSteps = append(m.NextSteps, step)
	})
}

func (d *decoder) samples(node *yaml.Node, m *Manifest) {
	if node.Kind == yaml.SequenceNode && len(node.Content) > maxSamples {
		d.refuse(node, "the template has %d samples; it may have %d at most", len(node.Content), maxSamples)
		return
	}
	d.items(node, "samples", func(item *yaml.Node) {
		sample := Sample{Timeout: DefaultTimeout, Line: item.Line}
		d.required(d.mapping(item, "a sample", fields{
			"name": func(n *yaml.Node) { sample.Name = d.line(n, "name", 100) },
			"preset": func(n *yaml.Node) {
				sample.Preset = d.line(n, "preset", 100)
				if m.Preset(sample.Preset) == nil {
					d.refuse(n, "there is no preset %q", sample.Preset)
				}
			},
			"values":  func(n *yaml.Node) { sample.Values = d.values(n, "the values of the sample") },
			"expect":  func(n *yaml.Node) { sample.Expect = d.expect(n) },
			"refused": func(n *yaml.Node) { sample.Refused = d.line(n, "refused", 300) },
			"timeout": func(n *yaml.Node) { sample.Timeout = d.seconds(n) },
			"run": func(n *yaml.Node) {
				d.items(n, "run", func(item *yaml.Node) {
					var command []string
					d.items(item, "a command", func(n *yaml.Node) {
						if text, ok := d.scalar(n, "an argument"); ok {
							command = append(command, text)
						}
					})
					if item.Kind == yaml.SequenceNode && len(command) == 0 {
						d.refuse(item, "a command names a program; an example is [go, test, ./...]")
						return
					}
					sample.Run = append(sample.Run, command)
				})
			},
		}), item, "a sample", "name")
		if slices.ContainsFunc(m.Samples, func(s Sample) bool { return s.Name == sample.Name }) {
			d.refuse(item, "two samples have the name %q", sample.Name)
		}
		m.Samples = append(m.Samples, sample)
	})
}

func (d *decoder) expect(node *yaml.Node) Expect {
	var e Expect
	d.mapping(node, "expect", fields{
		"present":  func(n *yaml.Node) { e.Present = d.globs(n, "present") },
		"absent":   func(n *yaml.Node) { e.Absent = d.globs(n, "absent") },
		"contains": func(n *yaml.Node) { e.Contains = d.textsByPath(n, "contains") },
		"lacks":    func(n *yaml.Node) { e.Lacks = d.textsByPath(n, "lacks") },
	})
	return e
}

// textsByPath reads one text, or several, for each path.
func (d *decoder) textsByPath(node *yaml.Node, what string) map[string][]string {
	texts := map[string][]string{}
	d.pairs(node, what, func(key, value *yaml.Node) {
		add := func(n *yaml.Node) {
			if text, ok := d.scalar(n, "a text of "+what); ok {
				texts[key.Value] = append(texts[key.Value], text)
			}
		}
		if value.Kind == yaml.SequenceNode {
			d.items(value, what, add)
		} else {
			add(value)
		}
	})
	return texts
}

func (d *decoder) acceptTraces(node *yaml.Node) []AcceptedTrace {
	var accepted []AcceptedTrace
	d.items(node, "accept_traces", func(item *yaml.Node) {
		var trace AcceptedTrace
		d.required(d.mapping(item, "an item of accept_traces", fields{
			"text":   func(n *yaml.Node) { trace.Text, _ = d.scalar(n, "text") },
			"in":     func(n *yaml.Node) { trace.In = d.globs(n, "in") },
			"reason": func(n *yaml.Node) { trace.Reason = d.line(n, "reason", 300) },
		}), item, "an item of accept_traces", "text", "reason")
		accepted = append(accepted, trace)
	})
	return accepted
}
