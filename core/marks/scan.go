package marks

import (
	"bytes"
	"strings"

	"ironcast/core/syntax"
)

const word = "ironcast:"

// Has tells whether a file may have marks, faster than Parse does.
func Has(content []byte) bool { return bytes.Contains(content, []byte(word)) }

// line is one line of a file.
type line struct {
	number     int // from 1
	start, end int // with its line break
	mark       string
	markAt     int  // where the mark's text begins
	alone      bool // whether nothing else stands on the line
	codeEnd    int  // of a mark behind code: where the code ends
	lineBreak  int  // where the line break begins
}

// scanner walks over the lines of a file.
type scanner struct {
	content  []byte
	language *syntax.Language
	at       int
	number   int
}

// skip passes over the lines before the next that may have a mark, and returns
// the stretch that they are.
func (s *scanner) skip() (start, end int) {
	start, end = s.at, len(s.content)
	if i := bytes.Index(s.content[s.at:], []byte(word)); i >= 0 {
		end = s.at + 1 + bytes.LastIndexByte(s.content[s.at:s.at+i], '\n')
	}
	s.number += bytes.Count(s.content[start:end], []byte("\n"))
	s.at = end
	return start, end
}

func (s *scanner) next() (line, bool) {
	if s.at >= len(s.content) {
		return line{}, false
	}
	s.number++
	l := line{number: s.number, start: s.at, end: len(s.content)}
	if i := bytes.IndexByte(s.content[s.at:], '\n'); i >= 0 {
		l.end = s.at + i + 1
	}
	l.lineBreak = s.at + len(bytes.TrimRight(s.content[s.at:l.end], "\r\n"))
	s.at = l.end
	if i := bytes.Index(s.content[l.start:l.lineBreak], []byte(word)); i >= 0 {
		s.readMark(&l, l.start+i)
	}
	return l, true
}

// readMark fills in the mark of a line in which the word stands at a position,
// if a comment leads to it.
func (s *scanner) readMark(l *line, at int) {
	before := bytes.TrimRight(s.content[l.start:at], " \t")
	after := string(s.content[at+len(word) : l.lineBreak])
	begin, text, found := -1, "", false
	for _, block := range s.language.Block {
		open, close := strings.TrimRight(block[0], " "), block[1]
		trimmed := strings.TrimRight(after, " \t")
		if bytes.HasSuffix(before, []byte(open)) && strings.HasSuffix(trimmed, close) {
			begin, text, found = len(before)-len(open), strings.TrimSuffix(trimmed, close), true
			break
		}
	}
	for _, leader := range s.language.Line {
		leader = strings.TrimRight(leader, " ")
		if found || !bytes.HasSuffix(before, []byte(leader)) {
			continue
		}
		begin, text, found = len(before)-len(leader), after, true
		for bytes.HasSuffix(before[:begin], []byte(leader[:1])) { // ## and //// are comments as well
			begin--
		}
	}
	if !found {
		return
	}
	code := bytes.TrimRight(before[:begin], " \t")
	l.mark = strings.TrimSpace(text)
	l.markAt = at + len(word) + len(text) - len(strings.TrimLeft(text, " \t"))
	l.alone = len(code) == 0
	l.codeEnd = l.start + len(code)
}

// held returns what a held line holds, as two spans to join: what stands before
// its comment, and what stands behind the bar.
func (s *scanner) held(l line) (indent, inner syntax.Span, is bool) {
	text := s.content[l.start:l.lineBreak]
	if bytes.IndexByte(text, '|') < 0 {
		return syntax.Span{}, syntax.Span{}, false
	}
	begin := l.start + len(text) - len(bytes.TrimLeft(text, " \t"))
	from := func(open string) (int, bool) {
		open = strings.TrimRight(open, " ") + "|"
		if !bytes.HasPrefix(s.content[begin:l.lineBreak], []byte(open)) {
			return 0, false
		}
		at := begin + len(open)
		if at < l.lineBreak && s.content[at] == ' ' {
			at++
		}
		return at, true
	}
	for _, block := range s.language.Block {
		close := bytes.TrimRight(s.content[begin:l.lineBreak], " \t")
		if at, is := from(block[0]); is && bytes.HasSuffix(close, []byte(block[1])) {
			end := max(begin+len(close)-len(block[1]), at)
			if end > at && s.content[end-1] == ' ' {
				end--
			}
			return syntax.Span{Start: l.start, End: begin}, syntax.Span{Start: at, End: end}, true
		}
	}
	for _, leader := range s.language.Line {
		if at, is := from(leader); is {
			return syntax.Span{Start: l.start, End: begin}, syntax.Span{Start: at, End: l.lineBreak}, true
		}
	}
	return syntax.Span{}, syntax.Span{}, false
}
