package hooks

import (
	"errors"
	"fmt"
	"reflect"
	"strings"
	"unicode/utf8"

	starjson "go.starlark.net/lib/json"
	"go.starlark.net/starlark"
	"go.starlark.net/starlarkstruct"
	"go.starlark.net/syntax"

	"ironcast/core/expression"
	"ironcast/core/manifest"
	"ironcast/core/spelling"
)

// job is what an interpreter is given.
type job struct {
	Script   script
	Values   []given
	Today    expression.Date
	HasFiles bool // whether there is a project to work on
}

type script struct {
	Path string
	Text string
}

// given is one value, without a secret's.
type given struct {
	Name string
	Kind manifest.Kind
	Of   manifest.Kind
	Data any
}

// outcome is what an interpreter gives back.
type outcome struct {
	Output []string
	Set    map[string]any // values that the script set
	Failed *ScriptError
}

// ScriptError is why a script failed, or refused.
type ScriptError struct {
	Script  string
	Line    int // from 1; 0 where there is none
	Message string
	Trail   []string // the calls that led there, the last first
	Refused bool     // whether the script itself refuses the values
}

// Error returns what happened and where, with the calls that led there.
func (e *ScriptError) Error() string {
	if e.Refused {
		return e.Message
	}
	where := e.Script
	if e.Line > 0 {
		where = fmt.Sprintf("%s:%d", where, e.Line)
	}
	text := "the script " + where + " fails: " + e.Message
	for _, call := range e.Trail {
		text += "\n    called from " + call
	}
	return text
}

// errRefused is what refuse ends a script with.
var errRefused = errors.New("refused")

// files is how an interpreter reaches the project.
type files func(request) (reply, error)

// request is what a script asks of the project, and reply the answer.
type request struct {
	Op         string
	Path       string
	To         string
	Text       string
	Executable bool
}

type reply struct {
	Text  string
	Paths []string
	Is    bool
	Error string
}

// interpreter runs one script.
type interpreter struct {
	job     job
	files   files
	printed int
	written int
	calls   int
	outcome outcome
	refusal string
}

func interpret(j job, files files) outcome {
	i := &interpreter{job: j, files: files, outcome: outcome{Set: map[string]any{}}}
	thread := &starlark.Thread{Name: j.Script.Path, Print: func(thread *starlark.Thread, text string) {
		if i.printed += len(text); i.printed > maxOutput {
			thread.Cancel(fmt.Sprintf("it prints more than %d bytes", maxOutput))
			return
		}
		i.outcome.Output = append(i.outcome.Output, strings.Split(text, "\n")...)
	}}
	thread.SetMaxExecutionSteps(maxSteps)
	thread.OnMaxSteps = func(thread *starlark.Thread) {
		thread.Cancel(fmt.Sprintf("it takes more than %d steps", maxSteps))
	}
	options := &syntax.FileOptions{Set: true, While: true, TopLevelControl: true, GlobalReassign: true, Recursion: true}
	_, err := starlark.ExecFileOptions(options, thread, j.Script.Path, j.Script.Text, i.predeclared())
	if err != nil {
		i.outcome.Failed = i.failure(err)
	}
	return i.outcome
}

// predeclared are the names that a script finds.
func (i *interpreter) predeclared() starlark.StringDict {
	names := starlark.StringDict{
		"values": i.values(),
		"today":  record(i.job.Today),
		"json":   starjson.Module,
		"refuse": starlark.NewBuiltin("refuse", i.refuse),
		"name":   starlark.NewBuiltin("name", nameOf),
	}
	if i.job.HasFiles {
		names["project"] = i.project()
	} else {
		names["set"] = starlark.NewBuiltin("set", i.set)
	}
	return names
}

func (i *interpreter) values() starlark.Value {
	fields := starlark.StringDict{}
	for _, g := range i.job.Values {
		fields[g.Name] = valueOf(g)
	}
	return starlarkstruct.FromStringDict(starlark.String("values"), fields)
}

func valueOf(g given) starlark.Value {
	if list, is := g.Data.([]any); is {
		items := make([]starlark.Value, len(list))
		for i := range list {
			items[i] = valueOf(given{Kind: g.Of, Data: list[i]})
		}
		return starlark.NewList(items)
	}
	switch data := g.Data.(type) {
	case string:
		switch g.Kind {
		case manifest.KindName:
			return record(expression.NewName(spelling.Of(data)))
		case manifest.KindPackage:
			return record(expression.NewPackage(data))
		}
		return starlark.String(data)
	case bool:
		return starlark.Bool(data)
	case float64:
		if g.Kind == manifest.KindInteger {
			return starlark.MakeInt64(int64(data))
		}
		return starlark.Float(data)
	}
	return starlark.None
}

// record returns a record of expressions as a Starlark struct.
func record(of any) starlark.Value {
	fields := starlark.StringDict{}
	v := reflect.ValueOf(of)
	for i := range v.NumField() {
		name := v.Type().Field(i).Tag.Get("cel")
		switch field := v.Field(i).Interface().(type) {
		case string:
			fields[name] = starlark.String(field)
		case int64:
			fields[name] = starlark.MakeInt64(field)
		case []string:
			items := make([]starlark.Value, len(field))
			for k := range field {
				items[k] = starlark.String(field[k])
			}
			fields[name] = starlark.NewList(items)
		}
	}
	return starlarkstruct.FromStringDict(starlark.String(strings.ToLower(v.Type().Name())), fields)
}

func nameOf(_ *starlark.Thread, b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (starlark.Value, error) {
	var text string
	if err := starlark.UnpackPositionalArgs(b.Name(), args, kwargs, 1, &text); err != nil {
		return nil, err
	}
	name, err := spelling.Parse(text)
	if err != nil {
		return nil, err
	}
	return record(expression.NewName(name)), nil
}

func (i *interpreter) refuse(_ *starlark.Thread, b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (starlark.Value, error) {
	if err := starlark.UnpackPositionalArgs(b.Name(), args, kwargs, 1, &i.refusal); err != nil {
		return nil, err
	}
	return nil, errRefused
}

func (i *interpreter) set(_ *starlark.Thread, b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (starlark.Value, error) {
	var name string
	var value starlark.Value
	if err := starlark.UnpackPositionalArgs(b.Name(), args, kwargs, 2, &name, &value); err != nil {
		return nil, err
	}
	plain, err := plainOf(value)
	if err != nil {
		return nil, err
	}
	i.outcome.Set[name] = plain
	return starlark.None, nil
}

// plainOf returns a value as Variable.Read takes it.
func plainOf(value starlark.Value) (any, error) {
	switch v := value.(type) {
	case starlark.String:
		return string(v), nil
	case starlark.Bool:
		return bool(v), nil
	case starlark.Int:
		number, fits := v.Int64()
		if !fits {
			return nil, fmt.Errorf("the number %s is too large for a value", v)
		}
		return number, nil
	case starlark.Float:
		return float64(v), nil
	case *starlarkstruct.Struct:
		for _, field := range []string{"spaced", "dotted"} {
			if text, err := v.Attr(field); err == nil {
				return plainOf(text)
			}
		}
	case *starlark.List:
		items := []any{}
		for k := range v.Len() {
			item, err := plainOf(v.Index(k))
			if err != nil {
				return nil, err
			}
			items = append(items, item)
		}
		return items, nil
	}
	return nil, fmt.Errorf("a value cannot be of type %s", value.Type())
}

// project returns the object through which scripts work on files.
func (i *interpreter) project() starlark.Value {
	method := func(name string, call func(b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (request, error), give func(reply) starlark.Value) *starlark.Builtin {
		return starlark.NewBuiltin(name, func(_ *starlark.Thread, b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (starlark.Value, error) {
			r, err := call(b, args, kwargs)
			if err != nil {
				return nil, err
			}
			r.Op = name
			i.calls++
			i.written += len(r.Text)
			switch {
			case !utf8.ValidString(r.Text + r.Path + r.To):
				return nil, errors.New("texts and paths must be UTF-8")
			case i.calls > maxCalls:
				return nil, fmt.Errorf("it asks more than %d times for the project's files", maxCalls)
			case i.written > maxWrites:
				return nil, fmt.Errorf("it writes more than %d MB", maxWrites>>20)
			}
			answer, err := i.files(r)
			switch {
			case err != nil:
				return nil, err
			case answer.Error != "":
				return nil, errors.New(answer.Error)
			}
			return give(answer), nil
		})
	}
	one := func(b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (request, error) {
		var r request
		return r, starlark.UnpackArgs(b.Name(), args, kwargs, "path", &r.Path)
	}
	nothing := func(reply) starlark.Value { return starlark.None }
	return starlarkstruct.FromStringDict(starlark.String("project"), starlark.StringDict{
		"read":   method("read", one, func(a reply) starlark.Value { return starlark.String(a.Text) }),
		"exists": method("exists", one, func(a reply) starlark.Value { return starlark.Bool(a.Is) }),
		"remove": method("remove", one, nothing),
		"move": method("move", func(b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (request, error) {
			var r request
			return r, starlark.UnpackArgs(b.Name(), args, kwargs, "path", &r.Path, "to", &r.To)
		}, nothing),
		"write": method("write", func(b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (request, error) {
			var r request
			return r, starlark.UnpackArgs(b.Name(), args, kwargs, "path", &r.Path, "text", &r.Text, "executable?", &r.Executable)
		}, nothing),
		"executable": method("executable", func(b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (request, error) {
			r := request{Executable: true}
			return r, starlark.UnpackArgs(b.Name(), args, kwargs, "path", &r.Path, "on?", &r.Executable)
		}, nothing),
		"files": method("files", func(b *starlark.Builtin, args starlark.Tuple, kwargs []starlark.Tuple) (request, error) {
			r := request{Path: "**"}
			return r, starlark.UnpackArgs(b.Name(), args, kwargs, "glob?", &r.Path)
		}, func(a reply) starlark.Value {
			paths := make([]starlark.Value, len(a.Paths))
			for k := range a.Paths {
				paths[k] = starlark.String(a.Paths[k])
			}
			return starlark.NewList(paths)
		}),
	})
}

// failure says where and why a script ended early.
func (i *interpreter) failure(err error) *ScriptError {
	failed := &ScriptError{Script: i.job.Script.Path, Message: err.Error()}
	if errors.Is(err, errRefused) {
		failed.Refused, failed.Message = true, i.refusal
	}
	var syntaxError syntax.Error
	var unresolved interface{ Error() string }
	var evaluation *starlark.EvalError
	switch {
	case errors.As(err, &evaluation):
		if !failed.Refused {
			failed.Message = strings.TrimPrefix(evaluation.Msg, "Starlark computation cancelled: ")
		}
		for k := len(evaluation.CallStack) - 1; k >= 0; k-- {
			frame := evaluation.CallStack[k]
			if frame.Pos.Filename() == "<builtin>" {
				continue
			}
			if failed.Line == 0 {
				failed.Line = int(frame.Pos.Line)
				continue
			}
			failed.Trail = append(failed.Trail, fmt.Sprintf("%s:%d, in %s", frame.Pos.Filename(), frame.Pos.Line, frame.Name))
		}
	case errors.As(err, &syntaxError):
		failed.Line, failed.Message = int(syntaxError.Pos.Line), syntaxError.Msg
	case errors.As(err, &unresolved):
		// script.star:3:5: undefined: x
		if rest, is := strings.CutPrefix(failed.Message, i.job.Script.Path+":"); is {
			var column int
			if n, _ := fmt.Sscanf(rest, "%d:%d:", &failed.Line, &column); n == 2 {
				_, failed.Message, _ = strings.Cut(rest, ": ")
			}
		}
	}
	return failed
}
