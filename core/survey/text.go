package survey

import (
	"bytes"
	"cmp"
	"context"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"github.com/google/uuid"

	"ironcast/core/mould"
	"ironcast/core/spelling"
	"ironcast/core/tree"
)

// maxTextFile is the size, in bytes, up to which a file's words are counted.
// Larger ones are data rather than source.
const maxTextFile = 2 << 20

// projectText is what one pass over all paths and text contents finds.
type projectText struct {
	phrases  map[string]*phrase  // by their words, separated by spaces
	tokens   map[string]*seen    // every identifier, as written
	literals map[string]*Literal // ids and ports, by their text
	isID     map[string]bool
	binaries []string
	notUTF8  []string
}

// phrase is two or three words that stand together in identifiers.
type phrase struct {
	texts map[string]int // as written
	files int
	last  string // the file counted last
}

// seen is an identifier that was taken apart once and is counted from then on.
type seen struct {
	count   int
	words   []string
	phrases []part
}

// part is a phrase in an identifier, as it is written there.
type part struct {
	phrase *phrase
	text   string
}

func readText(ctx context.Context, project tree.Tree) (*projectText, error) {
	t := &projectText{phrases: map[string]*phrase{}, tokens: map[string]*seen{}, literals: map[string]*Literal{}, isID: map[string]bool{}}
	var buffer []byte
	for _, e := range project.Entries() {
		if err := ctx.Err(); err != nil {
			return nil, err
		}
		t.read(e.Path, []byte(e.Path))
		if e.Kind != tree.File {
			continue
		}
		var err error
		if buffer, err = e.Content.AppendTo(buffer[:0]); err != nil {
			return nil, err
		}
		switch {
		case tree.IsBinary(buffer):
			t.binaries = append(t.binaries, e.Path)
			continue
		case !utf8.Valid(buffer):
			t.notUTF8 = append(t.notUTF8, e.Path)
		}
		if len(buffer) <= maxTextFile {
			t.read(e.Path, buffer)
			t.readLiterals(e.Path, buffer)
		}
	}
	return t, nil
}

// read counts the identifiers in a text: runs of letters, digits, "-" and "_"
// that begin with a letter. What follows a digit is part of a number or an id.
func (t *projectText) read(file string, data []byte) {
	for i := 0; i < len(data); {
		if !isLetter(data[i]) || i > 0 && joins(data[i-1]) {
			i++
			continue
		}
		start := i
		for i < len(data) && (isLetter(data[i]) || data[i] == '-' || data[i] == '_' || '0' <= data[i] && data[i] <= '9') {
			i++
		}
		found := t.tokens[string(data[start:i])]
		if found == nil {
			found = t.takeApart(string(data[start:i]))
		}
		found.count++
		for _, part := range found.phrases {
			part.phrase.texts[part.text]++
			if part.phrase.last != file {
				part.phrase.last = file
				part.phrase.files++
			}
		}
	}
}

func isLetter(b byte) bool { return 'a' <= b && b <= 'z' || 'A' <= b && b <= 'Z' }

// takeApart finds the phrases in an identifier that was not seen before.
func (t *projectText) takeApart(text string) *seen {
	words := spelling.Split(text)
	found := &seen{words: words}
	t.tokens[text] = found
	const longest = 12 // words; a longer identifier is data
	if len(words) < 2 || len(words) > longest {
		return found
	}
	ends := make([]int, len(words)+1)
	for i, word := range words {
		ends[i+1] = ends[i] + strings.Index(text[ends[i]:], word) + len(word)
	}
	for i := range words {
		start := ends[i+1] - len(words[i])
		for n := 2; n <= 3 && i+n <= len(words); n++ {
			key := strings.ToLower(strings.Join(words[i:i+n], " "))
			p := t.phrases[key]
			if p == nil {
				p = &phrase{texts: map[string]int{}}
				t.phrases[key] = p
			}
			found.phrases = append(found.phrases, part{p, text[start:ends[i+n]]})
		}
	}
	return found
}

// wordCounts returns how often each single word stands, in lower case.
func (t *projectText) wordCounts() map[string]int {
	counts := map[string]int{}
	for _, found := range t.tokens {
		for _, word := range found.words {
			counts[strings.ToLower(word)] += found.count
		}
	}
	return counts
}

var (
	// What stands before a port. A pattern is tried only where a number is.
	beforePort = regexp.MustCompile(`(?i)(?:port[a-z_]*["']?\s*(?:[:=(,]|:=|=>|to|is)?\s*["']?:?|EXPOSE\s+|(?:localhost|127\.0\.0\.1|0\.0\.0\.0|\[::1?\])?:)$`)
	key        = regexp.MustCompile(`([A-Za-z][A-Za-z0-9_.-]*)["']?\s*(?::=|[:=])?\s*["'{(]*:?$`)
)

const (
	uuidBytes  = 36
	portReach  = 40 // how far before a number its meaning is looked for, in bytes
	lowestPort = 1024
)

func (t *projectText) readLiterals(file string, data []byte) {
	for i := 0; i < len(data); {
		if !joins(data[i]) || i > 0 && joins(data[i-1]) {
			i++
			continue
		}
		if end := i + uuidBytes; looksLikeUUID(data, i) {
			text := strings.ToLower(string(data[i:end]))
			if strings.Trim(text, "0-") != "" {
				t.isID[text] = true
				t.literal(file, data, text, i, end)
			}
			i = end
			continue
		}
		end := i
		for end < len(data) && '0' <= data[end] && data[end] <= '9' {
			end++
		}
		if end-i == 4 || end-i == 5 {
			number, _ := strconv.Atoi(string(data[i:end]))
			if lowestPort <= number && number <= 65535 && spelling.IsWhole(data, i, end) && beforePort.Match(data[max(0, i-portReach):i]) {
				t.literal(file, data, strconv.Itoa(number), i, end)
			}
		}
		i = max(end, i+1)
	}
}

func joins(b byte) bool { return isLetter(b) || '0' <= b && b <= '9' || b == '_' }

// looksLikeUUID tells whether a UUID in its canonical form (RFC 9562) begins at
// data[i:] and is not part of a longer word.
func looksLikeUUID(data []byte, i int) bool {
	end := i + uuidBytes
	if end > len(data) || data[i+8] != '-' || data[i+13] != '-' || end < len(data) && (joins(data[end]) || data[end] == '-') {
		return false
	}
	_, err := uuid.ParseBytes(data[i:end])
	return err == nil
}

func (t *projectText) literal(file string, data []byte, text string, start, end int) {
	l := t.literals[text]
	if l == nil {
		l = &Literal{Text: text}
		t.literals[text] = l
	}
	l.Count++
	if !slices.Contains(l.In, file) {
		l.In = append(l.In, file)
		l.Files++
	}
	if len(l.Places) < maxPlaces {
		l.Places = append(l.Places, Place{Path: file, Line: 1 + bytes.Count(data[:start], []byte("\n")), Text: mould.Excerpt(data, start, end)})
	}
	if l.Variable == "" {
		lineStart := 1 + bytes.LastIndexByte(data[:start], '\n')
		if m := key.FindSubmatch(data[lineStart:start]); m != nil {
			l.Variable = variableName(string(m[1]))
		}
	}
}

// variableName makes a variable's name of any text; "" when there is none in it.
func variableName(text string) string {
	name, err := spelling.Parse(strings.Join(spelling.Split(text), " "))
	if err != nil || len(text) > 40 {
		return ""
	}
	return name.In(spelling.Snake)
}

func (t *projectText) ids() []Literal {
	return t.ranked(func(l *Literal) bool { return t.isID[l.Text] })
}

// ports leaves out numbers that stand only once: they are rarely what a project
// listens on.
func (t *projectText) ports() []Literal {
	return t.ranked(func(l *Literal) bool { return !t.isID[l.Text] && l.Count > 1 })
}

func (t *projectText) ranked(keep func(*Literal) bool) []Literal {
	var found []Literal
	for _, l := range t.literals {
		if keep(l) {
			l.Proposed = slices.ContainsFunc(l.In, isOwn)
			found = append(found, *l)
		}
	}
	slices.SortFunc(found, func(a, b Literal) int {
		if a.Proposed != b.Proposed {
			if a.Proposed {
				return -1
			}
			return 1
		}
		return cmp.Or(b.Files-a.Files, b.Count-a.Count, strings.Compare(a.Text, b.Text))
	})
	return found
}

var aside = regexp.MustCompile(`(?i)(^|/)(tests?|testdata|__tests__|fixtures|examples?|docs?|vendor|third_party)/|_test\.|\.test\.|\.spec\.|(^|/)test_|\.(md|rst|txt|adoc)$`)

// isOwn tells whether a file is the project proper, not a test or a document,
// whose ids and numbers are examples.
func isOwn(file string) bool { return !aside.MatchString(file) }
