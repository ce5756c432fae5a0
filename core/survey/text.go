package survey

import (
	"bytes"
	"cmp"
	"context"
	"regexp"
	"slices"
	"strconv"
	"strings"

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
	literals map[string]*Literal // ids and ports, by their text
	isID     map[string]bool
	words    map[string]int // single words in lower case, with how often each stands
	binaries []string
	notUTF8  []string
}

// phrase is two to four words that stand together.
type phrase struct {
	texts map[string]int // as written
	files int
	last  string // the file counted last
}

func readText(ctx context.Context, project tree.Tree) (*projectText, error) {
	t := &projectText{phrases: map[string]*phrase{}, literals: map[string]*Literal{}, isID: map[string]bool{}, words: map[string]int{}}
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
		case !isUTF8(buffer):
			t.notUTF8 = append(t.notUTF8, e.Path)
		}
		if len(buffer) <= maxTextFile {
			t.read(e.Path, buffer)
			t.readLiterals(e.Path, buffer)
		}
	}
	return t, nil
}

func isUTF8(content []byte) bool { return bytes.Equal(content, bytes.ToValidUTF8(content, nil)) }

// token is a run of letters and digits with single separators between.
var token = regexp.MustCompile(`[A-Za-z][A-Za-z0-9]*(?:[-_ ][A-Za-z][A-Za-z0-9]*)*`)

func (t *projectText) read(file string, data []byte) {
	for _, found := range token.FindAll(data, -1) {
		// Prose runs on for many words; only identifiers are taken apart.
		for part := range bytes.SplitSeq(found, []byte(" ")) {
			t.token(file, string(part))
		}
		if words := bytes.Fields(found); len(words) > 1 {
			for i := range words[1:] {
				t.phrase(file, string(words[i])+" "+string(words[i+1]))
			}
		}
	}
}

func (t *projectText) token(file, text string) {
	words := spelling.Split(text)
	for _, word := range words {
		t.words[strings.ToLower(word)]++
	}
	const longest = 12 // words; a longer token is data
	if len(words) < 2 || len(words) > longest {
		return
	}
	at := make([]int, len(words)+1) // where each word begins
	for i, word := range words {
		at[i+1] = at[i] + strings.Index(text[at[i]:], word) + len(word)
	}
	for i := range words {
		start := at[i+1] - len(words[i])
		for n := 2; n <= 3 && i+n <= len(words); n++ {
			t.phrase(file, text[start:at[i+n]])
		}
	}
}

func (t *projectText) phrase(file, text string) {
	words := strings.ToLower(strings.Join(spelling.Split(text), " "))
	p := t.phrases[words]
	if p == nil {
		p = &phrase{texts: map[string]int{}}
		t.phrases[words] = p
	}
	p.texts[text]++
	if p.last != file {
		p.last = file
		p.files++
	}
}

var (
	uuids = regexp.MustCompile(`(?i)\b[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}\b`)
	ports = regexp.MustCompile(`(?i)(?:port[a-z_]*["']?\s*(?:[:=(,]|:=|=>|to|is)?\s*["']?:?|EXPOSE\s+|(?:localhost|127\.0\.0\.1|0\.0\.0\.0|\[::1?\])?:)([1-9][0-9]{3,4})\b`)
	key   = regexp.MustCompile(`([A-Za-z][A-Za-z0-9_.-]*)["']?\s*(?::=|[:=])?\s*["'{(]*:?$`)
)

func (t *projectText) readLiterals(file string, data []byte) {
	for _, at := range uuids.FindAllIndex(data, -1) {
		text := strings.ToLower(string(data[at[0]:at[1]]))
		if strings.Trim(text, "0-") == "" {
			continue
		}
		t.isID[text] = true
		t.literal(file, data, text, at[0], at[1])
	}
	for _, at := range ports.FindAllSubmatchIndex(data, -1) {
		number, _ := strconv.Atoi(string(data[at[2]:at[3]]))
		if number < 1024 || number > 65535 || !spelling.IsWhole(data, at[2], at[3]) {
			continue
		}
		t.literal(file, data, strconv.Itoa(number), at[2], at[3])
	}
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
