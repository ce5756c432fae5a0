package expression

import (
	"slices"
	"strings"
)

// reserved are the words that CEL keeps for languages around it, and that are
// good names for variables all the same. Inside, they are written with a
// capital, which no variable has, so that positions stay what they are.
var reserved = []string{
	"as", "break", "const", "continue", "else", "for", "function", "if", "import", "let", "loop",
	"namespace", "package", "return", "var", "void", "while",
}

func capitalised(word string) string { return strings.ToUpper(word[:1]) + word[1:] }

// internal returns the name under which CEL knows a declared name.
func internal(name string) string {
	if slices.Contains(reserved, name) {
		return capitalised(name)
	}
	return name
}

// unreserve writes an expression with internal names.
func (s *Scope) unreserve(source string) string {
	out := []byte(source)
	isWord := func(c byte) bool {
		return c == '_' || 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' || '0' <= c && c <= '9'
	}
	for i := 0; i < len(out); {
		switch c := out[i]; {
		case c == '"' || c == '\'':
			for i++; i < len(out) && out[i] != c; i++ {
				if out[i] == '\\' {
					i++
				}
			}
			i++
		case isWord(c):
			start := i
			for i < len(out) && isWord(out[i]) {
				i++
			}
			word := source[start:i]
			if _, declared := s.declared[word]; declared && (start == 0 || out[start-1] != '.') {
				copy(out[start:], internal(word))
			}
		default:
			i++
		}
	}
	return string(out)
}

// internal returns the values with their internal names.
func (vs Values) internal() map[string]any {
	for _, name := range reserved {
		if _, has := vs[name]; !has {
			continue
		}
		renamed := make(map[string]any, len(vs))
		for name, value := range vs {
			renamed[internal(name)] = value
		}
		return renamed
	}
	return vs
}
