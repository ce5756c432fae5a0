package mould

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"ironcast/core/expression"
	"ironcast/core/marks"
	"ironcast/core/spelling"
)

// body compiles the content of a file with marks.
type body struct {
	*scope
	content []byte
	place   spelling.Place
	hits    []found
	items   []found // of the repeats in it
	texts   []span  // where slots may be, in order
	wrong   Problems
}

// compile returns the parts of the nodes, and all slots in them.
func (b *body) compile(nodes []marks.Node) ([]Part, []Slot, error) {
	var err error
	if b.hits, err = b.find(b.slots, b.content, b.place); err != nil {
		return nil, nil, err
	}
	if b.around != nil {
		items, err := b.findItems(b.around, b.content, b.place)
		if err != nil {
			return nil, nil, err
		}
		b.hits = merge(b.hits, items)
	}
	parts := b.parts(nodes, b.expressions)
	if len(b.wrong) > 0 {
		slices.SortStableFunc(b.wrong, func(x, y Problem) int { return x.Line - y.Line })
		return nil, nil, b.wrong
	}
	// Marks and what is the source's own have no slots.
	hits := slices.DeleteFunc(merge(b.hits, b.items), func(h found) bool { return !b.within(h) })
	slots := b.settle(hits, b.content, b.place)
	assign(parts, slots)
	return parts, slots, nil
}

func (b *body) within(h found) bool {
	i, _ := slices.BinarySearchFunc(b.texts, int(h.Start), func(t span, start int) int {
		if t.end <= start {
			return -1
		}
		return 1
	})
	return i < len(b.texts) && b.texts[i].start <= int(h.Start) && int(h.End) <= b.texts[i].end
}

// parts compiles nodes within a scope of expressions.
func (b *body) parts(nodes []marks.Node, scope *expression.Scope) []Part {
	parts := []Part{}
	for _, node := range nodes {
		switch n := node.(type) {
		case marks.Text:
			b.texts = append(b.texts, span{n.Start, n.End})
			parts = append(parts, Part{Start: uint32(n.Start), End: uint32(n.End)})
		case *marks.Choice:
			branches := make([]Branch, len(n.Branches))
			for i, branch := range n.Branches {
				branches[i] = Branch{Line: branch.Line, Parts: b.parts(branch.Body, scope)}
				if branch.When != "" {
					branches[i].When = b.condition(branch, scope)
				}
			}
			parts = append(parts, Part{Choice: branches})
		case *marks.Repeat:
			repeat, inner, err := b.repeat(scope, n.Item, n.List, n.StandingFor, n.Line)
			if err != nil {
				b.refuse(n.Line, err)
				continue
			}
			items, err := b.findItems(repeat, b.content[n.Start:n.End], b.place)
			if err != nil {
				b.refuse(n.Line, err)
				continue
			}
			for i := range items {
				items[i].Start += uint32(n.Start)
				items[i].End += uint32(n.Start)
			}
			b.items = append(b.items, items...)
			repeat.Parts = b.parts(n.Body, inner)
			parts = append(parts, Part{Repeat: repeat})
		}
	}
	return parts
}

func (b *body) condition(branch marks.Branch, scope *expression.Scope) *expression.Expression {
	e, err := scope.Compile(branch.When, expression.Truth)
	if err != nil {
		b.refuse(branch.Line, err)
	}
	return e
}

func (b *body) refuse(line int, err error) {
	message := err.Error()
	var fault *expression.Error
	if errors.As(err, &fault) {
		message = fault.Message
	}
	b.wrong = append(b.wrong, Problem{Path: b.path, Line: line, Message: message, Excerpt: excerptOfLine(b.content, line)})
}

func excerptOfLine(content []byte, line int) string {
	lines := strings.SplitN(string(content), "\n", line+1)
	if line > len(lines) {
		return ""
	}
	text := lines[line-1]
	return Excerpt([]byte(text), 0, min(len(text), 100))
}

// assign gives each stretch the slots that lie in it.
func assign(parts []Part, slots []Slot) {
	for i := range parts {
		p := &parts[i]
		switch {
		case p.Repeat != nil:
			assign(p.Repeat.Parts, slots)
		case p.Choice != nil:
			for _, branch := range p.Choice {
				assign(branch.Parts, slots)
			}
		default:
			from, _ := slices.BinarySearchFunc(slots, p.Start, func(s Slot, start uint32) int { return int(s.Start) - int(start) })
			to := from
			for to < len(slots) && slots[to].End <= p.End {
				to++
			}
			p.Slots = slots[from:to]
		}
	}
}

// describe says what a repeat does, for people.
func (r *Repeat) describe(list string) string {
	return fmt.Sprintf("for each %s in %s, standing for %q", r.Item, list, r.StandingFor)
}
