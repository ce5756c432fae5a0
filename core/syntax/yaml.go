package syntax

import (
	"bytes"
	"regexp"
	"strings"
)

var yamlBlockStart = regexp.MustCompile(`(^|[:\-?] +|[^ ] )([|>])[+-]?[0-9]?[+-]?[ \t]*(#.*)?$`)

// scanYAML finds the scalars of each line, blocks and comments.
func scanYAML(content []byte, visit func(region) bool) {
	for at := 0; at < len(content); {
		end := lineEnd(content, at)
		next, going := scanYAMLLine(content, at, end, visit)
		if !going {
			return
		}
		at = max(next, at+1)
	}
}

// scanYAMLLine returns where the next line begins, past what began on this one.
func scanYAMLLine(content []byte, at, end int, visit func(region) bool) (next int, going bool) {
	lineStart := at
	flow := 0
	for at < end {
		switch c := content[at]; {
		case c == ' ' || c == '\t' || c == ',':
			at++
		case (c == '-' || c == '?' || c == ':') && (at+1 == end || content[at+1] == ' '):
			at++
		case c == '[' || c == '{':
			flow++
			at++
		case c == ']' || c == '}':
			flow--
			at++
		case c == '#' && (at == lineStart || content[at-1] == ' ' || content[at-1] == '\t'):
			return end + 1, visit(region{start: at + 1, end: end, comment: "#"})
		case c == '"':
			q := quote{close: `"`, escape: backslash, lines: true}
			close, _ := q.end(content, at+1, len(content))
			if !visit(region{start: at + 1, end: close, base: Place{way: withBackslash, quote: '"'}}) {
				return 0, false
			}
			at = close + 1
			end = lineEnd(content, min(at, len(content)))
		case c == '\'':
			q := quote{close: `'`, escape: doubled, lines: true}
			close, _ := q.end(content, at+1, len(content))
			if !visit(region{start: at + 1, end: close, base: Place{way: yamlSingle, quote: '\''}}) {
				return 0, false
			}
			at = close + 1
			end = lineEnd(content, min(at, len(content)))
		case (c == '|' || c == '>') && yamlBlockStart.Match(content[lineStart:end]):
			close := yamlBlockEnd(content, end, indentOf(content, at))
			return close + 1, visit(region{start: min(end+1, close), end: close, base: Place{way: yamlBlock, prefix: indentHere, folds: c == '>'}})
		case c == '&' || c == '*' || c == '!':
			for at < end && content[at] != ' ' {
				at++
			}
		default:
			close := yamlPlainEnd(content, at, end, flow > 0)
			if !visit(region{start: at, end: close, base: Place{way: yamlPlain}}) {
				return 0, false
			}
			at = max(close, at+1)
		}
	}
	return indexFrom(content, min(end, len(content)), "\n") + 1, true
}

// yamlPlainEnd returns where a scalar without quotes ends, on its line.
func yamlPlainEnd(content []byte, at, end int, flow bool) int {
	close := end
	for i := at; i < end; i++ {
		c := content[i]
		if c == ':' && (i+1 == end || content[i+1] == ' ') || c == '#' && i > at && content[i-1] == ' ' ||
			flow && strings.IndexByte(",[]{}", c) >= 0 {
			close = i
			break
		}
	}
	return at + len(bytes.TrimRight(content[at:close], " \t"))
}

// yamlBlockEnd returns where a block ends whose parent has an indent: before the
// first line that is not empty and not deeper.
func yamlBlockEnd(content []byte, at int, indent string) int {
	last := at
	for at < len(content) {
		start := indexFrom(content, at, "\n") + 1
		if start >= len(content) {
			return len(content)
		}
		end := lineEnd(content, start)
		line := content[start:end]
		trimmed := bytes.TrimLeft(line, " ")
		if len(trimmed) > 0 && len(line)-len(trimmed) <= len(indent) {
			return last
		}
		at, last = end, end
	}
	return last
}
