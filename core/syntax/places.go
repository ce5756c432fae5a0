package syntax

import (
	"bytes"
	"slices"
	"strings"
)

// Span is content[Start:End].
type Span struct{ Start, End int }

// Places returns, for each span of a file's content, in what place its text
// stands. Spans are in order and do not overlap.
func (l *Language) Places(content []byte, spans []Span) []Place {
	places := make([]Place, len(spans))
	at := 0
	l.scan(content, func(r region) bool {
		for at < len(spans) && spans[at].Start < r.end {
			if spans[at].Start >= r.start {
				places[at] = r.place(content, spans[at])
			}
			at++
		}
		return at < len(spans)
	})
	for ; at < len(spans) && l.family == plain; at++ {
		places[at] = region{start: 0, end: len(content)}.place(content, spans[at])
	}
	return places
}

// Variants returns the distinct texts, other than the text itself, in which it
// may stand where something must be escaped.
func Variants(text string) []string {
	var variants []string
	for _, p := range []Place{
		{way: withBackslash, quote: '"'}, {way: withBackslash, quote: '\''}, {way: withBackslash, quote: '`', extra: "$", breaks: true},
		{way: withBackslash, quote: '"', extra: "$"}, {way: withFewer, quote: '\''}, {way: withDoubled, quote: '\''}, {way: withDoubled, quote: '"'},
		{way: xmlText}, {way: xmlAttribute, quote: '"'}, {way: xmlAttribute, quote: '\''},
		{way: shellQuoted}, {way: shellDouble}, {way: shellBare}, {way: dockerDouble}, {way: makeText, money: true}, {way: shellDouble, money: true},
	} {
		if variant, err := p.Write(text); err == nil && variant != text && !slices.Contains(variants, variant) {
			variants = append(variants, variant)
		}
	}
	return variants
}

// region is a stretch of content in which texts are written alike. Regions
// follow each other, with gaps between them in which texts stand as they are.
type region struct {
	start, end int
	base       Place
	comment    string // what begins a comment that ends with its line
	block      bool   // a comment that may have several lines
}

// place finishes what the region says with what the span says.
func (r region) place(content []byte, s Span) Place {
	p := r.base
	p.whole = s.Start == r.start && s.End == r.end
	p.spaces = (p.way == shellBare || p.way == dockerBare || p.way == setting) && bytes.ContainsAny(content[s.Start:s.End], " ")
	switch {
	case r.comment != "":
		p.prefix = leaderOf(content, r.start, r.comment)
	case r.block:
		p.prefix = indentOf(content, s.Start)
		if rest := strings.TrimLeft(string(lineBefore(content, s.Start)), " \t"); strings.HasPrefix(rest, "* ") {
			p.prefix += "* "
		}
	case p.way == asIs || p.prefix == indentHere:
		p.prefix = indentOf(content, s.Start)
	}
	return p
}

// indentHere asks for the indent of the line in which a text stands.
const indentHere = "\x00"

// leaderOf returns what a line that goes on with a comment begins with: spaces
// up to where the comment begins, and its leader with what follows it.
func leaderOf(content []byte, inner int, leader string) string {
	begin := inner - len(leader)
	line := lineBefore(content, begin)
	indent := strings.Map(func(r rune) rune {
		if r == '\t' {
			return r
		}
		return ' '
	}, string(line))
	space := inner
	for space < len(content) && (content[space] == ' ' || content[space] == '\t') {
		space++
	}
	return indent + leader + string(content[inner:space])
}

// lineBefore returns what stands before a position in its line.
func lineBefore(content []byte, at int) []byte {
	return content[1+bytes.LastIndexByte(content[:at], '\n') : at]
}

// indentOf returns the white space that the line of a position begins with.
func indentOf(content []byte, at int) string {
	line := lineBefore(content, at)
	return string(line[:len(line)-len(bytes.TrimLeft(line, " \t"))])
}

// lineEnd returns where the line of a position ends, before its line break.
func lineEnd(content []byte, at int) int {
	if i := bytes.IndexByte(content[at:], '\n'); i >= 0 {
		if i > 0 && content[at+i-1] == '\r' {
			i--
		}
		return at + i
	}
	return len(content)
}

func hasPrefix(content []byte, at int, prefix string) bool {
	return len(content)-at >= len(prefix) && string(content[at:at+len(prefix)]) == prefix
}

// indexFrom returns where text stands next, or the end of the content.
func indexFrom(content []byte, at int, text string) int {
	if i := bytes.Index(content[min(at, len(content)):], []byte(text)); i >= 0 {
		return at + i
	}
	return len(content)
}

// scan calls visit for each region, until it returns false.
func (l *Language) scan(content []byte, visit func(region) bool) {
	switch l.family {
	case code:
		l.scanCode(content, 0, len(content), visit)
	case markup, page:
		l.scanMarkup(content, visit)
	case yaml:
		scanYAML(content, visit)
	case shell:
		scanShell(content, 0, len(content), Place{}, visit)
	case docker:
		scanDocker(content, visit)
	case makes:
		scanMake(content, visit)
	case table, settings:
		l.scanFields(content, visit)
	default:
		if l.isINI() {
			visit(region{start: 0, end: len(content), base: Place{way: oneLine}})
		}
	}
}

// isINI tells whether it is one of the formats with a setting in each line.
func (l *Language) isINI() bool {
	return len(l.Line) == 2 && l.Line[0] == "#" && l.Line[1] == ";"
}

// scanCode finds comments and strings in content[at:end].
func (l *Language) scanCode(content []byte, at, end int, visit func(region) bool) bool {
	for at < end {
		r, next := l.codeRegion(content, at, end)
		if next == 0 {
			at++
			continue
		}
		if !visit(r) {
			return false
		}
		at = next
	}
	return true
}

// codeRegion returns the comment or string that begins at a position, and where
// to go on; 0 where none does.
func (l *Language) codeRegion(content []byte, at, end int) (region, int) {
	for _, block := range l.Block {
		if hasPrefix(content, at, block[0]) {
			close := min(indexFrom(content, at+len(block[0]), block[1]), end)
			return region{start: at + len(block[0]), end: close, block: true}, max(close+len(block[1]), at+1)
		}
	}
	for _, leader := range l.Line {
		if hasPrefix(content, at, leader) {
			close := min(lineEnd(content, at), end)
			return region{start: at + len(leader), end: max(close, at+len(leader)), comment: leader}, max(close, at+len(leader))
		}
	}
	for i := range l.quotes {
		q := &l.quotes[i]
		if !hasPrefix(content, at, q.open) || q.prefix != "" && (at == 0 || strings.IndexByte(q.prefix, content[at-1]) < 0) {
			continue
		}
		start := at + len(q.open)
		close, closed := q.end(content, start, end)
		if q.char && (!closed || close-start > 12) {
			continue
		}
		return region{start: start, end: close, base: l.quotePlace(q)}, max(close+len(q.close), at+1)
	}
	return region{}, 0
}

func (q *quote) end(content []byte, at, end int) (close int, closed bool) {
	for at < end {
		switch {
		case hasPrefix(content, at, q.close):
			if q.escape == doubled && hasPrefix(content, at+len(q.close), q.close) {
				at += 2 * len(q.close)
				continue
			}
			return at, true
		case content[at] == '\\' && (q.escape == backslash || q.escape == fewer):
			at += 2
		case content[at] == '\n' && !q.lines:
			return at, false
		default:
			at++
		}
	}
	return end, false
}

func (l *Language) quotePlace(q *quote) Place {
	p := Place{quote: q.close[len(q.close)-1], extra: q.extra}
	triple := len(q.open) == 3 && q.open[0] == q.open[1]
	switch q.escape {
	case backslash:
		p.way, p.breaks = withBackslash, triple || q.open == "`"
		if triple && len(l.Line) == 1 && l.Line[0] == "#" {
			p.prefix = indentHere
		}
	case fewer:
		p.way = withFewer
	case doubled:
		p.way = withDoubled
	case joined:
		p.way = withJoined
	case none:
		p.way = withNothing
		if q.open == "'" {
			p.way = tomlLiteral
		}
	}
	return p
}

// rawElements are the elements of HTML whose content is in another language.
var rawElements = map[string]*Language{"script": languages[".js"], "style": languages[".css"]}

// scanMarkup finds texts, attributes, comments and data sections.
func (l *Language) scanMarkup(content []byte, visit func(region) bool) {
	at := 0
	for at < len(content) {
		switch {
		case hasPrefix(content, at, "<!--"):
			close := indexFrom(content, at+4, "-->")
			if !visit(region{start: at + 4, end: close, base: Place{way: xmlComment}, block: true}) {
				return
			}
			at = close + 3
		case hasPrefix(content, at, "<![CDATA["):
			close := indexFrom(content, at+9, "]]>")
			if !visit(region{start: at + 9, end: close, base: Place{way: xmlData}}) {
				return
			}
			at = close + 3
		case content[at] == '<' && at+1 < len(content) && (isLetter(content[at+1]) || strings.IndexByte("/?!", content[at+1]) >= 0):
			name := elementName(content[at+1:])
			next, going := scanTag(content, at+1, visit)
			if !going {
				return
			}
			at = next
			inner := rawElements[name]
			if l.family != page || inner == nil {
				continue
			}
			close := indexFrom(content, at, "</"+name)
			if !inner.scanCode(content, at, close, visit) {
				return
			}
			at = close
		default:
			close := at + 1
			for close < len(content) && content[close] != '<' {
				close++
			}
			if !visit(region{start: at, end: close, base: Place{way: xmlText}}) {
				return
			}
			at = close
		}
	}
}

func isLetter(c byte) bool { return 'a' <= c && c <= 'z' || 'A' <= c && c <= 'Z' }

func elementName(tag []byte) string {
	end := 0
	for end < len(tag) && isLetter(tag[end]) {
		end++
	}
	return strings.ToLower(string(tag[:end]))
}

// scanTag finds the attributes of a tag, and returns where it ends.
func scanTag(content []byte, at int, visit func(region) bool) (next int, going bool) {
	for at < len(content) {
		switch c := content[at]; c {
		case '>':
			return at + 1, true
		case '"', '\'':
			close := indexFrom(content, at+1, string(c))
			if !visit(region{start: at + 1, end: close, base: Place{way: xmlAttribute, quote: c}}) {
				return 0, false
			}
			at = close + 1
		default:
			at++
		}
	}
	return at, true
}

// scanFields finds the fields of a table, or the values of settings.
func (l *Language) scanFields(content []byte, visit func(region) bool) {
	for at := 0; at < len(content); {
		end := lineEnd(content, at)
		if l.family == settings {
			if !l.scanSetting(content, at, end, visit) {
				return
			}
		} else if !scanRow(content, at, end, visit) {
			return
		}
		at = end + 1
	}
}

func scanRow(content []byte, at, end int, visit func(region) bool) bool {
	for at <= end {
		if at < end && content[at] == '"' {
			q := quote{close: `"`, escape: doubled, lines: true}
			close, _ := q.end(content, at+1, len(content))
			if !visit(region{start: at + 1, end: close, base: Place{way: withDoubled, quote: '"'}}) {
				return false
			}
			at = close + 1
		}
		close := at
		for close < end && strings.IndexByte(",;\t", content[close]) < 0 {
			close++
		}
		if close > at && !visit(region{start: at, end: close, base: Place{way: csvField}}) {
			return false
		}
		at = close + 1
	}
	return true
}

func (l *Language) scanSetting(content []byte, at, end int, visit func(region) bool) bool {
	line := content[at:end]
	equals := bytes.IndexByte(line, '=')
	trimmed := bytes.TrimLeft(line, " \t")
	if len(trimmed) > 0 && strings.IndexByte("#!", trimmed[0]) >= 0 {
		return visit(region{start: end - len(trimmed) + 1, end: end, comment: string(trimmed[:1])})
	}
	if equals < 0 {
		return true
	}
	from := at + equals + 1
	for from < end && content[from] == ' ' {
		from++
	}
	if len(l.Line) == 2 {
		return visit(region{start: from, end: end, base: Place{way: setting, quote: '='}})
	}
	if from < end && (content[from] == '"' || content[from] == '\'') {
		r := region{start: from + 1, end: max(end-1, from+1), base: Place{way: withBackslash, quote: content[from], extra: "$`"}}
		if content[from] == '\'' {
			r.base = Place{way: withNothing, quote: '\''}
		}
		return visit(r)
	}
	return visit(region{start: from, end: end, base: Place{way: setting}})
}
