// Package hooks runs the steps that a template has around a cast, and is the one
// way from a mould and values to a project:
//
//	result, err := hooks.Cast(ctx, hooks.Request{Mould: m, Template: t, Given: given, Occasion: values.Now()})
//
// Scripts are Starlark (github.com/bazelbuild/starlark, spec.md). They have no
// clock, no network and no disk: a script before the cast sees the values and
// may refuse them or set some; one after it works on the files of the project,
// in memory. They run the same wherever a project is cast, each in a process of
// its own that is bounded in steps, time, memory and output, so that no template
// can take its host along.
//
// Commands are only prepared here: they run on the machine of the person who
// casts, by whoever asked that person.
package hooks

import (
	"context"
	"fmt"
	"time"

	"ironcast/core/expression"
	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// The bounds of a script.
const (
	maxSteps  = 5_000_000              // of the interpreter
	maxTime   = 700 * time.Millisecond // of processor time
	maxMemory = 128 << 20              // bytes
	maxOutput = 64 << 10               // bytes printed
	maxWrites = 32 << 20               // bytes written to files
	maxCalls  = 10_000                 // of the project's methods
	maxScript = 256 << 10              // bytes of the script itself
)

// Request says what to cast.
type Request struct {
	Mould    *mould.Mould
	Template tree.Tree // where the scripts are
	Given    values.Input
	Occasion values.Occasion
	Limits   tree.Limits
}

// Result is a project, and what its hooks said.
type Result struct {
	Values  values.Values
	Casting *mould.Casting // before the scripts that run after it
	Project tree.Tree
	Changed []string // paths that scripts wrote, sorted
	Output  []string // lines that scripts printed
}

// Cast resolves the values, runs the scripts before the cast, casts, and runs
// the scripts after it. Wrong values are of type values.Problems, a script that
// fails of type *ScriptError.
func Cast(ctx context.Context, r Request) (*Result, error) {
	result := &Result{}
	var err error
	if result.Values, err = r.resolve(ctx, result); err != nil {
		return nil, err
	}
	if result.Casting, err = r.Mould.Apply(result.Values); err != nil {
		return nil, err
	}
	if result.Project, err = result.Casting.Tree(); err != nil {
		return nil, err
	}
	return result, r.after(ctx, result)
}

// resolve returns the values after the scripts that may change them.
func (r Request) resolve(ctx context.Context, result *Result) (values.Values, error) {
	m := r.Mould.Manifest
	vs, err := values.Resolve(m, r.Given, r.Occasion)
	if err != nil {
		return values.Values{}, err
	}
	given := values.Input{}
	for name, value := range r.Given {
		given[name] = value
	}
	for _, hook := range m.Hooks.Before {
		script, err := r.script(hook, vs)
		if err != nil || script == nil {
			if err != nil {
				return values.Values{}, err
			}
			continue
		}
		done, err := run(ctx, *script, vs, nil)
		if err != nil {
			return values.Values{}, err
		}
		result.Output = append(result.Output, done.Output...)
		if len(done.Set) == 0 {
			continue
		}
		for name, value := range done.Set {
			given[name] = value
		}
		// New ids stay what they are while scripts change other values.
		for i := range m.Variables {
			if v := &m.Variables[i]; v.Kind == manifest.KindID && given[v.Name] == nil && !v.IsComputed() {
				given[v.Name] = vs.Get(v.Name).String()
			}
		}
		if vs, err = values.Resolve(m, given, r.Occasion); err != nil {
			return values.Values{}, fmt.Errorf("%s sets values that are wrong: %w", hook.Script, err)
		}
	}
	return vs, nil
}

// after runs the scripts that work on the project.
func (r Request) after(ctx context.Context, result *Result) error {
	var project *project
	for _, hook := range r.Mould.Manifest.Hooks.After {
		if hook.Script == "" {
			continue
		}
		script, err := r.script(hook, result.Values)
		if err != nil {
			return err
		}
		if script == nil {
			continue
		}
		if project == nil {
			project = newProject(result.Project, r.Limits)
		}
		done, err := run(ctx, *script, result.Values, project)
		if err != nil {
			return err
		}
		result.Output = append(result.Output, done.Output...)
	}
	if project == nil {
		return nil
	}
	changed, err := project.tree()
	if err != nil {
		return fmt.Errorf("the scripts leave a project that cannot be written: %w", err)
	}
	result.Project, result.Changed = changed, project.changedPaths()
	return nil
}

// script returns the script of a hook, or nil where its condition does not hold.
func (r Request) script(hook manifest.Hook, vs values.Values) (*script, error) {
	if holds, err := holds(hook.When, vs); err != nil || !holds {
		return nil, err
	}
	entry, found := r.Template.Find(hook.Script)
	if !found || entry.Kind != tree.File {
		return nil, fmt.Errorf("there is no script %s in the template", hook.Script)
	}
	if entry.Content.Size() > maxScript {
		return nil, fmt.Errorf("the script %s has %d bytes; at most %d are run", hook.Script, entry.Content.Size(), maxScript)
	}
	text, err := entry.Bytes()
	if err != nil {
		return nil, err
	}
	return &script{Path: hook.Script, Text: string(text)}, nil
}

func holds(when *expression.Expression, vs values.Values) (bool, error) {
	if when == nil {
		return true, nil
	}
	return when.Decide(vs.Expression())
}

// Command is a command of a template, ready to be shown and run.
type Command struct {
	Arguments   []string // the program first
	Timeout     time.Duration
	Environment []string // the names of further environment variables that it gets
}

// Commands returns the commands that run after a cast with these values.
func Commands(m *manifest.Manifest, vs values.Values) ([]Command, error) {
	var commands []Command
	seen := vs.Expression()
	for _, hook := range m.Hooks.After {
		if hook.Run == nil {
			continue
		}
		if holds, err := holds(hook.When, vs); err != nil || !holds {
			if err != nil {
				return nil, err
			}
			continue
		}
		command := Command{Timeout: hook.Timeout, Environment: hook.Environment}
		for _, argument := range hook.Run {
			text, err := argument.Text(seen)
			if err != nil {
				return nil, err
			}
			command.Arguments = append(command.Arguments, text)
		}
		commands = append(commands, command)
	}
	return commands, nil
}

// Step is something to do once a project is cast.
type Step struct {
	Do  string `json:"do"`
	Run string `json:"run,omitempty" doc:"A command line for it."`
}

// NextSteps returns what to do after a cast with these values.
func NextSteps(m *manifest.Manifest, vs values.Values) ([]Step, error) {
	steps := []Step{}
	seen := vs.Expression()
	for _, next := range m.NextSteps {
		holds, err := holds(next.When, vs)
		if err != nil {
			return nil, err
		}
		if !holds {
			continue
		}
		var step Step
		if step.Do, err = next.Do.Text(seen); err != nil {
			return nil, err
		}
		if next.Run != nil {
			if step.Run, err = next.Run.Text(seen); err != nil {
				return nil, err
			}
		}
		steps = append(steps, step)
	}
	return steps, nil
}
