package marks

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"ironcast/core/syntax"
)

// maxDepth is how deep blocks may nest.
const maxDepth = 50

// Problem is what is wrong with a mark.
type Problem struct {
	Line    int // from 1
	Message string
	Excerpt string // the line itself
}

// Problems is everything that is wrong with a file's marks.
type Problems []Problem

// Error returns one line for each problem.
func (p Problems) Error() string {
	lines := make([]string, len(p))
	for i, problem := range p {
		lines[i] = fmt.Sprintf("line %d: %s", problem.Line, problem.Message)
	}
	return strings.Join(lines, "\n")
}

// Parse returns a file's text as nodes. Its error is of type Problems.
func Parse(content []byte, language *syntax.Language) ([]Node, error) {
	p := &parser{scanner: scanner{content: content, language: language}}
	nodes, _ := p.body(0, nil)
	if len(p.problems) > 0 {
		return nil, p.problems
	}
	return nodes, nil
}

type parser struct {
	scanner
	problems Problems
	tooDeep  bool // so that the rest is not read
}

func (p *parser) refuse(l line, format string, args ...any) {
	const most = 100
	excerpt := strings.TrimSpace(strings.ToValidUTF8(string(p.content[l.start:l.lineBreak]), "�"))
	if runes := []rune(excerpt); len(runes) > most {
		excerpt = string(runes[:most]) + "…"
	}
	p.problems = append(p.problems, Problem{Line: l.number, Message: fmt.Sprintf(format, args...), Excerpt: excerpt})
}

const expected = `a mark is only when EXPR, otherwise when EXPR, otherwise, repeat NAME in LIST standing for "TEXT", source only, or end`

// mark is what a mark's text says.
type mark struct {
	verb   string // only, when, otherwise, repeat, source, end
	when   string
	repeat [3]string // item, list, text
	offset int       // of when in the mark's text
}

var repeatText = regexp.MustCompile(`^repeat\s+(\S+)\s+in\s+(\S+)\s+standing\s+for\s+("(?:[^"\\]|\\.)*")$`)

func readMark(text string) (mark, string) {
	after := func(words string) (string, int, bool) {
		rest, found := strings.CutPrefix(text, words)
		trimmed := strings.TrimLeft(rest, " \t")
		return trimmed, len(text) - len(trimmed), found && (rest == "" || rest != trimmed)
	}
	if when, offset, is := after("only when"); is {
		if when == "" {
			return mark{}, "only when needs a condition behind it"
		}
		return mark{verb: "only", when: when, offset: offset}, ""
	}
	if when, offset, is := after("otherwise when"); is {
		if when == "" {
			return mark{}, "otherwise when needs a condition behind it"
		}
		return mark{verb: "when", when: when, offset: offset}, ""
	}
	switch text {
	case "otherwise":
		return mark{verb: "otherwise"}, ""
	case "end":
		return mark{verb: "end"}, ""
	case "source only":
		return mark{verb: "source"}, ""
	}
	if strings.HasPrefix(text, "repeat") {
		if parts := repeatText.FindStringSubmatch(text); parts != nil {
			if quoted, err := strconv.Unquote(parts[3]); err == nil {
				return mark{verb: "repeat", repeat: [3]string{parts[1], parts[2], quoted}, offset: len("repeat ")}, ""
			}
		}
		return mark{}, `repeat is written repeat NAME in LIST standing for "TEXT"`
	}
	return mark{}, fmt.Sprintf("%q is no mark; %s", text, expected)
}

// body reads nodes up to a mark that ends or continues the block that open
// began; open is nil at the top of the file.
func (p *parser) body(depth int, open *line) (nodes []Node, ended *ending) {
	text := func(start, end int, held bool) {
		if start >= end {
			return
		}
		if last := len(nodes) - 1; last >= 0 && !held {
			if before, is := nodes[last].(Text); is && before.End == start && !before.Held {
				nodes[last] = Text{Start: before.Start, End: end}
				return
			}
		}
		nodes = append(nodes, Text{Start: start, End: end, Held: held})
	}
	for {
		if depth == 0 {
			start, end := p.skip()
			text(start, end, false)
		}
		l, more := p.next()
		if !more {
			if open != nil && !p.tooDeep {
				p.refuse(*open, "this block has no end; %s", `close it with "ironcast: end"`)
			}
			return nodes, nil
		}
		if l.mark == "" && !(l.markAt > 0) {
			if indent, inner, is := p.held(l); depth > 0 && is {
				text(indent.Start, indent.End, false)
				text(inner.Start, inner.End, true)
				text(l.lineBreak, l.end, false)
			} else {
				text(l.start, l.end, false)
			}
			continue
		}
		m, wrong := readMark(l.mark)
		switch {
		case wrong != "":
			p.refuse(l, "%s", wrong)
		case !l.alone:
			p.lineMark(l, m, &nodes, text)
		case m.verb == "end" || m.verb == "otherwise" || m.verb == "when":
			if open == nil {
				p.refuse(l, "no block is open here; begin one with only when, repeat or source only")
				continue
			}
			return nodes, &ending{l, m}
		case depth == maxDepth:
			p.refuse(l, "blocks nest deeper than %d here", maxDepth)
			p.at, p.tooDeep = len(p.content), true
		default:
			nodes = append(nodes, p.block(depth, l, m))
		}
	}
}

// ending is the mark that ends or continues a block.
type ending struct {
	line line
	mark mark
}

// lineMark reads a mark behind code, which rules its line alone.
func (p *parser) lineMark(l line, m mark, nodes *[]Node, text func(start, end int, held bool)) {
	body := []Node{Text{Start: l.start, End: l.codeEnd}}
	if l.lineBreak < l.end {
		body = append(body, Text{Start: l.lineBreak, End: l.end})
	}
	switch m.verb {
	case "only":
		*nodes = append(*nodes, &Choice{Start: l.start, End: l.end, Branches: []Branch{{When: m.when, Line: l.number, Offset: l.markAt + m.offset, Body: body}}})
	case "repeat":
		*nodes = append(*nodes, &Repeat{Item: m.repeat[0], List: m.repeat[1], StandingFor: m.repeat[2], Line: l.number, Offset: l.markAt + m.offset, Body: body, Start: l.start, End: l.end})
	case "source":
		*nodes = append(*nodes, &SourceOnly{Line: l.number, Start: l.start, End: l.end})
	default:
		p.refuse(l, "%s stands alone on its line; behind code, only when, repeat and source only rule the line", l.mark)
	}
}

// block reads what a mark opens, up to its end.
func (p *parser) block(depth int, l line, m mark) Node {
	switch m.verb {
	case "only":
		return p.choice(depth, l, m)
	case "repeat":
		r := &Repeat{Item: m.repeat[0], List: m.repeat[1], StandingFor: m.repeat[2], Line: l.number, Offset: l.markAt + m.offset, Start: l.start}
		var end *ending
		r.Body, end = p.body(depth+1, &l)
		r.End = p.close(end, "repeat")
		return r
	}
	_, end := p.body(depth+1, &l)
	return &SourceOnly{Line: l.number, Start: l.start, End: p.close(end, "source only")}
}

func (p *parser) choice(depth int, l line, m mark) Node {
	choice := &Choice{Start: l.start, End: len(p.content)}
	at := ending{l, m}
	for {
		branch := Branch{When: at.mark.when, Line: at.line.number, Offset: at.line.markAt + at.mark.offset}
		var end *ending
		branch.Body, end = p.body(depth+1, &at.line)
		choice.Branches = append(choice.Branches, branch)
		if end == nil || end.mark.verb == "end" {
			if end != nil {
				choice.End = end.line.end
			}
			return choice
		}
		if at.mark.verb == "otherwise" {
			p.refuse(end.line, "%s stands behind otherwise, which is always taken", end.line.mark)
		}
		at = *end
	}
}

// close returns where a block ends that has no branches.
func (p *parser) close(end *ending, what string) int {
	switch {
	case end == nil:
		return len(p.content)
	case end.mark.verb != "end":
		p.refuse(end.line, "%s goes with only when; this block is %s", end.line.mark, what)
	}
	return end.line.end
}
