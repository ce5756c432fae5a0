package expression

import (
	"errors"
	"fmt"
	"slices"
	"strings"
)

// Template is a text of the manifest in which ${…} holds an expression, and
// $${ stands for ${ itself.
type Template struct {
	source string
	parts  []part
}

// part is a fixed text, or an expression.
type part struct {
	fixed      string
	expression *Expression
}

// HasExpression tells whether a text holds ${…}, or a $${ that needs reading.
func HasExpression(source string) bool { return strings.Contains(source, "${") }

// anything is what may stand in ${…} beside other text.
var anything = []Type{
	Truth, Whole, Decimal, Text, NameType, PackageType, DateType,
	ListOf(Truth), ListOf(Whole), ListOf(Decimal), ListOf(Text), ListOf(NameType),
}

// ParseTemplate reads a text with expressions. A text that is one expression and
// nothing else gives what that gives, which must be one of the types, where any
// are named. Its error is an *Error, with an offset into the text.
func (s *Scope) ParseTemplate(source string, wanted ...Type) (*Template, error) {
	t := &Template{source: source}
	var fixed strings.Builder
	flush := func() {
		if fixed.Len() > 0 {
			t.parts = append(t.parts, part{fixed: fixed.String()})
			fixed.Reset()
		}
	}
	for at := 0; at < len(source); {
		rest := source[at:]
		switch {
		case strings.HasPrefix(rest, "$${"):
			fixed.WriteString("${")
			at += 3
		case strings.HasPrefix(rest, "${"):
			length := closing(rest[2:])
			if length < 0 {
				return nil, &Error{Offset: at, Message: fmt.Sprintf("${ in %q has no closing }", source)}
			}
			flush()
			types := anything
			if at == 0 && 2+length+1 == len(source) && len(wanted) > 0 {
				types = wanted
			}
			e, err := s.Compile(rest[2:2+length], types...)
			var fault *Error
			if errors.As(err, &fault) {
				fault.Offset += at + 2
				return nil, fault
			}
			t.parts = append(t.parts, part{expression: e})
			at += 2 + length + 1
		default:
			fixed.WriteByte(source[at])
			at++
		}
	}
	flush()
	if !t.single() && len(wanted) > 0 && !slices.Contains(wanted, Text) {
		return nil, &Error{Message: fmt.Sprintf("%q gives a text; it must give %s", source, list(wanted))}
	}
	return t, nil
}

func (t *Template) single() bool { return len(t.parts) == 1 && t.parts[0].expression != nil }

// closing returns where the } stands that closes an expression, or -1.
func closing(text string) int {
	depth := 0
	for i := 0; i < len(text); i++ {
		switch c := text[i]; c {
		case '{':
			depth++
		case '}':
			if depth == 0 {
				return i
			}
			depth--
		case '"', '\'':
			for i++; i < len(text) && text[i] != c; i++ {
				if text[i] == '\\' {
					i++
				}
			}
		}
	}
	return -1
}

// String returns the text as it was written.
func (t *Template) String() string { return t.source }

// Uses returns the declared names that stand in it, sorted.
func (t *Template) Uses() []string {
	var uses []string
	for _, p := range t.parts {
		if p.expression != nil {
			uses = append(uses, p.expression.uses...)
		}
	}
	slices.Sort(uses)
	return slices.Compact(uses)
}

// Evaluate returns what the one expression gives, or the text with what its
// expressions give.
func (t *Template) Evaluate(vs Values) (any, error) {
	if t.single() {
		return t.parts[0].expression.Evaluate(vs)
	}
	var out strings.Builder
	for _, p := range t.parts {
		if p.expression == nil {
			out.WriteString(p.fixed)
			continue
		}
		value, err := p.expression.Evaluate(vs)
		if err != nil {
			return nil, err
		}
		out.WriteString(Write(value))
	}
	return out.String(), nil
}

// Text returns what Evaluate does, as a text.
func (t *Template) Text(vs Values) (string, error) {
	value, err := t.Evaluate(vs)
	if err != nil {
		return "", err
	}
	return Write(value), nil
}
