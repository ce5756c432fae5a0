package mould

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"sync/atomic"
	"unicode"
	"unicode/utf8"

	"ironcast/core/manifest"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// Trace is a text of the source project that is still there after a cast.
type Trace struct {
	Path     string
	Line     int // from 1; 0 for the path itself
	Variable string
	Text     string // as it stands there
	Excerpt  string // the line around it
}

// Traces looks in a cast project for what the variables stand for in its source,
// more widely than Compile does: in any case, with any separator or line break
// between words, and in binaries. Places that the manifest excepts are not
// looked at: files that a variable is not looked for in, verbatim contents, and
// texts to keep.
func Traces(ctx context.Context, cast tree.Tree, m *manifest.Manifest, options Options) ([]Trace, error) {
	f, err := newTraceFinder(m, options)
	if err != nil {
		return nil, err
	}
	entries := cast.Entries()
	found := make([][]Trace, len(entries))
	err = parallel(ctx, len(entries), func(i int, buffer []byte) ([]byte, error) {
		content, buffer, err := contentOf(entries[i], buffer)
		if err == nil {
			found[i], err = f.entry(entries[i], content)
		}
		return buffer, err
	})
	return slices.Concat(found...), err
}

// Occurring returns which of the texts stand anywhere in the tree's paths or
// text contents.
func Occurring(ctx context.Context, t tree.Tree, texts []string) (map[string]bool, error) {
	literals := map[string][]claim{}
	for i, text := range texts {
		literals[text] = []claim{{variable: i}}
	}
	m := newMatcher(literals)
	entries := t.Entries()
	seen := make([]atomic.Bool, len(texts))
	err := parallel(ctx, len(entries), func(i int, buffer []byte) ([]byte, error) {
		content, buffer, err := contentOf(entries[i], buffer)
		var hits []hit
		b := newBudget(content)
		for _, data := range [][]byte{[]byte(entries[i].Path), []byte(entries[i].Target), content} {
			for at := m.begin(data, 0); at < len(data); at = m.begin(data, at+1) {
				hits = m.at(data, at, hits[:0], &b)
				if b.steps <= 0 {
					return buffer, fmt.Errorf("%s %w", entries[i].Path, errTooOften)
				}
				for _, h := range hits {
					seen[h.claims[0].variable].Store(true)
				}
			}
		}
		return buffer, err
	})
	occurring := map[string]bool{}
	for i, text := range texts {
		if seen[i].Load() {
			occurring[text] = true
		}
	}
	return occurring, err
}

// traceFinder looks for the first word of each variable's text in lower case,
// and checks by hand what follows.
type traceFinder struct {
	*compiler
	first *matcher
	words [][]string // by variable, in lower case
}

func newTraceFinder(m *manifest.Manifest, options Options) (*traceFinder, error) {
	c, err := newCompiler(m, options)
	if err != nil {
		return nil, err
	}
	f := &traceFinder{compiler: c, words: make([][]string, len(m.Variables))}
	literals := map[string][]claim{}
	for i := range m.Variables {
		v := &m.Variables[i]
		if v.StandsFor == "" {
			continue
		}
		stands, _ := values.Read(v, manifest.Typed(v.StandsFor))
		switch v.Kind {
		case manifest.KindName:
			f.words[i] = strings.Split(stands.String(), " ")
		case manifest.KindPackage:
			f.words[i] = strings.Split(strings.ToLower(stands.String()), ".")
		case manifest.KindID:
			f.words[i] = strings.Split(stands.String(), "-")
		default:
			f.words[i] = []string{strings.ToLower(v.StandsFor)}
		}
		literals[f.words[i][0]] = append(literals[f.words[i][0]], claim{variable: i})
	}
	f.first = newMatcher(literals)
	return f, nil
}

func (f *traceFinder) entry(e tree.Entry, content []byte) ([]Trace, error) {
	s := &scope{compiler: f.compiler, path: e.Path}
	if f.options.SourcePath != nil {
		s.path = f.options.SourcePath(e.Path)
	}
	inPath, err := f.search(s, e.Path, []byte(e.Path), spelling.InPath)
	inTarget, errTarget := f.search(s, e.Path, []byte(e.Target), spelling.InPath)
	traces := append(inPath, inTarget...)
	if err = errors.Join(err, errTarget); err != nil || matches(f.manifest.Files.Verbatim, s.path) {
		return traces, err
	}
	inContent, err := f.search(s, e.Path, content, placeOf(e.Path))
	return append(traces, inContent...), err
}

func (f *traceFinder) search(s *scope, p string, data []byte, place spelling.Place) ([]Trace, error) {
	lowered := toLower(data)
	var traces []Trace
	var hits []hit
	var kept []span
	searchedKept := f.keeps == nil
	b := newBudget(data)
	for i := f.first.begin(lowered, 0); i < len(lowered); i = f.first.begin(lowered, i+1) {
		hits = f.first.at(lowered, i, hits[:0], &b)
		for _, h := range hits {
			for _, c := range h.claims {
				end := follow(lowered, h.end, f.words[c.variable][1:])
				if end < 0 || !f.counts(s, c.variable, data, i, end, place) {
					continue
				}
				if !searchedKept {
					kept, searchedKept = f.keeps.all(data, &b), true
				}
				if overlaps(kept, i, end) {
					continue
				}
				traces = append(traces, newTrace(p, f.manifest.Variables[c.variable].Name, data, i, end, place))
			}
		}
		if b.steps <= 0 {
			return nil, fmt.Errorf("%s %w", p, errTooOften)
		}
	}
	return traces, nil
}

// counts tells whether a text at data[start:end] is a trace of the variable.
func (f *traceFinder) counts(s *scope, variable int, data []byte, start, end int, place spelling.Place) bool {
	v := &f.manifest.Variables[variable]
	if place == spelling.InPath && !v.Paths || place != spelling.InPath && !v.Contents {
		return false
	}
	return s.bounded(&claim{variable: variable}, data, start, end) && s.includes(variable)
}

// follow returns where the words end that begin at data[at:], with at most one
// separator or one run of white space before each; -1 when they do not follow.
func follow(data []byte, at int, words []string) int {
	for _, word := range words {
		at += separator(data[at:])
		if !bytes.HasPrefix(data[at:], []byte(word)) {
			return -1
		}
		at += len(word)
	}
	return at
}

func separator(data []byte) int {
	if len(data) > 0 && strings.IndexByte("-_./:\\+", data[0]) >= 0 {
		return 1
	}
	return len(data) - len(bytes.TrimLeft(data, " \t\r\n"))
}

func newTrace(p, variable string, data []byte, start, end int, place spelling.Place) Trace {
	t := Trace{Path: p, Variable: variable, Text: string(data[start:end])}
	if place != spelling.InPath {
		t.Line = 1 + bytes.Count(data[:start], []byte("\n"))
	}
	t.Excerpt = Excerpt(data, start, end)
	return t
}

// Excerpt returns the line around data[start:end], shortened to what fits a
// terminal, with what cannot be printed replaced.
func Excerpt(data []byte, start, end int) string {
	const around = 60
	from := 1 + bytes.LastIndexByte(data[:start], '\n')
	to := len(data)
	if at := bytes.IndexByte(data[end:], '\n'); at >= 0 {
		to = end + at
	}
	before, after := "", ""
	if start-from > around {
		from, before = start-around, "…"
	}
	if to-end > around {
		to, after = end+around, "…"
	}
	line := strings.ToValidUTF8(string(data[from:to]), "�")
	printable := strings.Map(func(r rune) rune {
		switch {
		case r == '\t':
			return ' '
		case r == '\r' || r == '\n':
			return ' '
		case !unicode.IsPrint(r):
			return '·'
		}
		return r
	}, line)
	return before + strings.TrimSpace(printable) + after
}

// toLower returns data in lower case, with every letter at its own position.
func toLower(data []byte) []byte {
	lowered := make([]byte, len(data))
	for i := 0; i < len(data); {
		b := data[i]
		if b < utf8.RuneSelf {
			if 'A' <= b && b <= 'Z' {
				b += 'a' - 'A'
			}
			lowered[i] = b
			i++
			continue
		}
		r, size := utf8.DecodeRune(data[i:])
		small := unicode.ToLower(r)
		if r == utf8.RuneError || utf8.RuneLen(small) != size {
			copy(lowered[i:], data[i:i+size])
		} else {
			utf8.EncodeRune(lowered[i:], small)
		}
		i += size
	}
	return lowered
}
