package syntax

import (
	"bytes"
	"regexp"
	"strings"
)

// scanShell finds comments, quotes, here-documents and words in content[at:end].
// base holds what goes for all of them.
func scanShell(content []byte, at, end int, base Place, visit func(region) bool) bool {
	with := func(p Place) Place { p.money = base.money; return p }
	var pending []here // whose bodies begin with the next line
	word := true       // whether a word may begin here
	for at < end {
		var r region
		next := at
		switch c := content[at]; {
		case c == '#' && word:
			next = min(lineEnd(content, at), end)
			r = region{start: at + 1, end: next, comment: "#"}
		case c == '\\':
			at = min(at+2, end)
			word = false
			continue
		case c == '"':
			close := closeShell(content, at+1, end)
			r, next = region{start: at + 1, end: close, base: with(Place{way: shellDouble, quote: '"'})}, close+1
		case c == '\'':
			close := min(indexFrom(content, at+1, "'"), end)
			r, next = region{start: at + 1, end: close, base: with(Place{way: shellQuoted, quote: '\''})}, close+1
		case c == '<' && hasPrefix(content, at, "<<") && !hasPrefix(content, at, "<<<"):
			if h, length := hereOf(content[at:end]); length > 0 {
				pending = append(pending, h)
				at += length
				continue
			}
			at += 2
			continue
		case c == '\n':
			at++
			word = true
			for _, h := range pending {
				close := h.end(content, at, end)
				p := Place{}
				if !h.quoted {
					p = with(Place{way: shellHere})
				}
				if !visit(region{start: at, end: close, base: p}) {
					return false
				}
				at = min(close+len(h.word)+1, end)
			}
			pending = nil
			continue
		case strings.IndexByte(" \t;|&()=", c) >= 0:
			word = c != '='
			at++
			continue
		default:
			next = bareEnd(content, at, end)
			r = region{start: at, end: next, base: with(Place{way: shellBare})}
		}
		word = false
		if !visit(r) {
			return false
		}
		at = max(next, at+1)
	}
	return true
}

// bareEnd returns where text without quotes ends: at a quote, a comment, or the
// end of the line. Spaces are in it, since a text may stand there as several
// words.
func bareEnd(content []byte, at, end int) int {
	for i := at; i < end; i++ {
		switch content[i] {
		case '"', '\'', '\n', ';', '|', '&', '(', ')', '<':
			return i
		case '\\':
			i++
		case '#':
			if i > at && content[i-1] == ' ' {
				return i
			}
		}
	}
	return end
}

func closeShell(content []byte, at, end int) int {
	for at < end && content[at] != '"' {
		if content[at] == '\\' {
			at++
		}
		at++
	}
	return min(at, end)
}

// here is a here-document that is still to come.
type here struct {
	word   string
	quoted bool // whether nothing is expanded in it
	tabs   bool // whether tabs before the closing word do not count
}

var hereStart = regexp.MustCompile(`^<<(-?)[ \t]*(?:'([^'\n]+)'|"([^"\n]+)"|\\?([A-Za-z_][A-Za-z0-9_]*))`)

func hereOf(text []byte) (here, int) {
	m := hereStart.FindSubmatch(text[:min(len(text), 200)])
	if m == nil {
		return here{}, 0
	}
	h := here{tabs: len(m[1]) > 0, quoted: len(m[2])+len(m[3]) > 0 || bytes.IndexByte(m[0], '\\') >= 0}
	h.word = string(m[2]) + string(m[3]) + string(m[4])
	return h, len(m[0])
}

// end returns where the document's last line ends.
func (h here) end(content []byte, at, end int) int {
	for at < end {
		close := min(lineEnd(content, at), end)
		line := string(content[at:close])
		if h.tabs {
			line = strings.TrimLeft(line, "\t")
		}
		if line == h.word {
			return at
		}
		at = close + 1
	}
	return end
}

var dockerShell = map[string]bool{"run": true, "cmd": true, "entrypoint": true, "healthcheck": true, "shell": true}

// scanDocker finds the instructions of a Dockerfile, each with the lines that
// continue it.
func scanDocker(content []byte, visit func(region) bool) {
	json := languages[".json"]
	for at := 0; at < len(content); {
		end := instructionEnd(content, at)
		line := content[at:end]
		rest := bytes.TrimLeft(line, " \t")
		word, _, _ := bytes.Cut(rest, []byte(" "))
		from := at + len(line) - len(rest) + len(word)
		going := true
		switch name := strings.ToLower(string(word)); {
		case bytes.HasPrefix(rest, []byte("#")):
			going = visit(region{start: at + len(line) - len(rest) + 1, end: end, comment: "#"})
		case bytes.HasPrefix(bytes.TrimLeft(content[from:end], " \t"), []byte("[")):
			going = json.scanCode(content, from, end, visit)
		case dockerShell[name]:
			going = scanShell(content, from, end, Place{}, visit)
		default:
			going = scanDockerWords(content, from, end, visit)
		}
		if !going {
			return
		}
		at = end + 1
	}
}

// instructionEnd returns where an instruction ends, past lines that end in a
// backslash. Comments have no such lines.
func instructionEnd(content []byte, at int) int {
	comment := bytes.HasPrefix(bytes.TrimLeft(content[at:], " \t"), []byte("#"))
	for {
		end := lineEnd(content, at)
		if comment || end == at || end >= len(content) || content[end-1] != '\\' {
			return end
		}
		at = indexFrom(content, end, "\n") + 1
	}
}

func scanDockerWords(content []byte, at, end int, visit func(region) bool) bool {
	for at < end {
		var r region
		var next int
		switch c := content[at]; c {
		case '"':
			close := closeShell(content, at+1, end)
			r, next = region{start: at + 1, end: close, base: Place{way: dockerDouble, quote: '"'}}, close+1
		case '\'':
			close := min(indexFrom(content, at+1, "'"), end)
			r, next = region{start: at + 1, end: close, base: Place{way: dockerSingle, quote: '\''}}, close+1
		case ' ', '\t', '=':
			at++
			continue
		default:
			next = bareEnd(content, at, end)
			r = region{start: at, end: next, base: Place{way: dockerBare}}
		}
		if !visit(r) {
			return false
		}
		at = max(next, at+1)
	}
	return true
}

// scanMake finds comments, recipes, which are shell, and everything else.
func scanMake(content []byte, visit func(region) bool) {
	for at := 0; at < len(content); {
		end := instructionEnd(content, at)
		line := content[at:end]
		rest := bytes.TrimLeft(line, " \t")
		going := true
		switch {
		case bytes.HasPrefix(rest, []byte("#")):
			going = visit(region{start: at + len(line) - len(rest) + 1, end: end, comment: "#"})
		case len(line) > 0 && line[0] == '\t':
			going = scanShell(content, at+1, end, Place{money: true}, visit)
		default:
			going = visit(region{start: at, end: end, base: Place{way: makeText, money: true}})
		}
		if !going {
			return
		}
		at = end + 1
	}
}
