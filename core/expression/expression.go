// Package expression compiles and evaluates the expressions of a manifest and
// of marks, which are CEL (the Common Expression Language, cel.dev).
//
//	scope, err := expression.NewScope([]expression.Declaration{{"service", expression.NameType}})
//	e, err := scope.Compile(`service.kebab + "-api"`, expression.Text)
//	image, err := e.Evaluate(expression.Values{"service": expression.NewName(name)})
//
// Every expression is type-checked when it is compiled, against the variables
// that its scope declares, and bounded in length, depth and cost. A compiled
// expression does not change and is safe for use by many goroutines.
package expression

import (
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"sync"
	"unicode/utf8"

	"cel.dev/cel-go/cel"
	"cel.dev/cel-go/common/types"
	"cel.dev/cel-go/common/types/ref"
	"cel.dev/cel-go/common/types/traits"
	"cel.dev/cel-go/ext"

	"ironcast/core/spelling"
)

const (
	maxBytes = 4096    // in the text of an expression
	maxDepth = 40      // of nested operations
	maxCost  = 200_000 // of one evaluation, in CEL's units: about one for each step
)

// Today is the name under which an expression finds the date of the cast.
const Today = "today"

// Values are what the names in an expression stand for: bool, int64, float64,
// string, Name, Package, Date, or a slice of one of these.
type Values map[string]any

// Declaration is a name that an expression may use, with its type.
type Declaration struct {
	Name string
	Type Type
}

// Scope is what expressions are checked against.
type Scope struct {
	env      *cel.Env
	declared map[string]Type
	compiled sync.Map // by text: the *Expression; templates say the same over and over
}

// base holds what all scopes share, which takes a while to make.
var base = sync.OnceValues(func() (env *cel.Env, err error) {
	nameOf := func(text ref.Val) ref.Val {
		name, err := spelling.Parse(string(text.(types.String)))
		if err != nil {
			return types.NewErr("%v", err)
		}
		return env.CELTypeAdapter().NativeToValue(NewName(name))
	}
	env, err = cel.NewEnv(
		cel.HomogeneousAggregateLiterals(),
		cel.ParserExpressionSizeLimit(maxBytes),
		cel.ParserRecursionLimit(maxDepth),
		ext.Strings(),
		ext.NativeTypes(ext.ParseStructTags(true),
			reflect.TypeFor[Name](), reflect.TypeFor[Package](), reflect.TypeFor[Date]()),
		cel.Variable(Today, cel.ObjectType(dateType)),
		cel.Function("name", cel.Overload("name_of_string", []*cel.Type{cel.StringType}, cel.ObjectType(nameType),
			cel.UnaryBinding(nameOf))),
	)
	return env, err
})

// NewScope returns a scope with these names, and today.
func NewScope(names []Declaration) (*Scope, error) {
	env, err := base()
	if err != nil {
		return nil, err
	}
	return (&Scope{env: env, declared: map[string]Type{Today: DateType}}).With(names...)
}

// With returns the scope with more names in it. A name that is there already
// has its new type.
func (s *Scope) With(names ...Declaration) (*Scope, error) {
	wider := &Scope{declared: map[string]Type{}}
	for name, t := range s.declared {
		wider.declared[name] = t
	}
	var options []cel.EnvOption
	for _, d := range names {
		wider.declared[d.Name] = d.Type
		options = append(options, cel.Variable(internal(d.Name), d.Type.cel()))
	}
	var err error
	wider.env, err = s.env.Extend(options...)
	return wider, err
}

// Type returns the type of a declared name.
func (s *Scope) Type(name string) (Type, bool) {
	t, found := s.declared[name]
	return t, found
}

// Error is why an expression cannot be compiled.
type Error struct {
	Offset  int // of the fault in the text, in bytes
	Message string
}

// Error returns the message alone; the offset is for whoever knows where the
// text stands.
func (e *Error) Error() string { return e.Message }

// Expression is a compiled expression.
type Expression struct {
	source  string
	program cel.Program
	uses    []string
	gives   Type
}

// Compile checks an expression and wants it to give one of the types. Its error
// is an *Error.
func (s *Scope) Compile(source string, wanted ...Type) (*Expression, error) {
	if known, is := s.compiled.Load(source); is && slices.Contains(wanted, known.(*Expression).gives) {
		return known.(*Expression), nil
	}
	if len(source) > maxBytes {
		return nil, &Error{Message: fmt.Sprintf("the expression has %d bytes; at most %d are read", len(source), maxBytes)}
	}
	if !utf8.ValidString(source) {
		return nil, &Error{Message: "the expression is not valid UTF-8"}
	}
	if strings.TrimSpace(source) == "" {
		return nil, &Error{Message: "the expression is empty"}
	}
	ast, issues := s.env.Compile(s.unreserve(source))
	if issues.Err() != nil {
		return nil, s.explain(source, issues)
	}
	gives, known := typeOf(ast.OutputType())
	if !known || !slices.Contains(wanted, gives) {
		return nil, &Error{Message: fmt.Sprintf("the expression %s gives %s; it must give %s", quoted(source), describe(ast.OutputType()), list(wanted))}
	}
	program, err := s.env.Program(ast, cel.CostLimit(maxCost), cel.EvalOptions(cel.OptOptimize), cel.InterruptCheckFrequency(1000))
	if err != nil {
		return nil, &Error{Message: fmt.Sprintf("the expression %s cannot be evaluated: %v", quoted(source), err)}
	}
	e := &Expression{source: source, program: program, gives: gives}
	used := map[string]bool{}
	for _, reference := range ast.NativeRep().ReferenceMap() {
		used[reference.Name] = true
	}
	for name := range s.declared {
		if used[internal(name)] {
			e.uses = append(e.uses, name)
		}
	}
	slices.Sort(e.uses)
	s.compiled.Store(source, e)
	return e, nil
}

// explain says what is wrong in the words of the manifest.
func (s *Scope) explain(source string, issues *cel.Issues) *Error {
	first := issues.Errors()[0]
	fault := &Error{Message: fmt.Sprintf("the expression %s is wrong: %s", quoted(source), first.Message)}
	if lines := strings.SplitAfter(source, "\n"); first.Location.Line() >= 1 && first.Location.Line() <= len(lines) {
		line := []rune(lines[first.Location.Line()-1])
		fault.Offset = len(strings.Join(lines[:first.Location.Line()-1], "")) + len(string(line[:min(max(first.Location.Column(), 0), len(line))]))
	}
	if name, is := between(first.Message, "undeclared reference to '", "'"); is {
		fault.Message = fmt.Sprintf("the expression %s uses %s, which is no variable%s", quoted(source), name, s.hint(name))
	}
	if field, is := between(first.Message, "undefined field '", "'"); is {
		fault.Message = fmt.Sprintf("the expression %s asks for %q, which is not there; a name has %s; a package has %s; today has %s",
			quoted(source), field, strings.Join(fieldNames(NameType), ", "), strings.Join(fieldNames(PackageType), ", "), strings.Join(fieldNames(DateType), ", "))
	}
	return fault
}

// quoted writes an expression for a sentence, shortened where it is long.
func quoted(source string) string {
	const most = 120
	if runes := []rune(source); len(runes) > most {
		source = string(runes[:most]) + "…"
	}
	return strconv.Quote(source)
}

func (s *Scope) hint(name string) string {
	var names []string
	for declared := range s.declared {
		names = append(names, declared)
	}
	slices.Sort(names)
	if nearest := spelling.Nearest(name, names); nearest != "" {
		return fmt.Sprintf("; did you mean %s?", nearest)
	}
	return "; there are " + strings.Join(names, ", ")
}

func between(text, before, after string) (string, bool) {
	_, rest, found := strings.Cut(text, before)
	if !found {
		return "", false
	}
	inner, _, found := strings.Cut(rest, after)
	return inner, found
}

// String returns the expression as it was written.
func (e *Expression) String() string { return e.source }

// Uses returns the declared names that stand in it, sorted.
func (e *Expression) Uses() []string { return e.uses }

// Evaluate returns a bool, int64, float64, string, Name, Package, Date, or a
// slice of any of these.
func (e *Expression) Evaluate(vs Values) (any, error) {
	result, _, err := e.program.Eval(vs.internal())
	if err != nil {
		if strings.Contains(err.Error(), "cost limit") {
			err = fmt.Errorf("it takes more than %d steps", maxCost)
		}
		return nil, fmt.Errorf("the expression %s fails: %s", quoted(e.source), strings.TrimPrefix(err.Error(), "evaluation error: "))
	}
	return native(result)
}

// Decide evaluates a condition.
func (e *Expression) Decide(vs Values) (bool, error) {
	result, err := e.Evaluate(vs)
	if err != nil {
		return false, err
	}
	is, _ := result.(bool)
	return is, nil
}

var errResult = errors.New("the expression gives what no variable can hold")

func native(v ref.Val) (any, error) {
	switch v := v.(type) {
	case types.Bool:
		return bool(v), nil
	case types.Int:
		return int64(v), nil
	case types.Double:
		return float64(v), nil
	case types.String:
		return string(v), nil
	case traits.Lister:
		var items []any
		for it := v.Iterator(); it.HasNext() == types.True; {
			item, err := native(it.Next())
			if err != nil {
				return nil, err
			}
			items = append(items, item)
		}
		return items, nil
	}
	switch record := v.Value().(type) {
	case Name, Package, Date:
		return record, nil
	case *Name:
		return *record, nil
	}
	return nil, errResult
}
