package survey

import (
	"bytes"
	"cmp"
	"context"
	"maps"
	"math"
	"slices"
	"strings"

	"ironcast/core/mould"
	"ironcast/core/spelling"
	"ironcast/core/tree"
)

const (
	// maxNames is how many names are looked at closely.
	maxNames = 8
	// minSpellings is in how many spellings a name must stand when nothing but
	// its spellings speaks for it.
	minSpellings = 3
)

// candidate is a name that may be worth proposing.
type candidate struct {
	words string
	from  []string
	score float64
}

func findNames(ctx context.Context, project tree.Tree, f *facts, text *projectText, limits tree.Limits) ([]Name, error) {
	var names []Name
	for _, c := range candidates(f, text) {
		name, err := describeName(ctx, project, c, limits)
		if err != nil {
			return nil, err
		}
		if name.Count == 0 || slices.Contains(name.From, recurring) && len(name.Spellings) < minSpellings {
			continue
		}
		name.Keep = keepFor(name, f, text)
		name.Inside = insideWords(name, text)
		names = append(names, name)
	}
	slices.SortStableFunc(names, func(a, b Name) int { return cmp.Compare(weight(b), weight(a)) })
	propose(names)
	return names, nil
}

// weight ranks a name by how widely and how variously it is written, and by who
// says it is one.
func weight(n Name) float64 {
	w := math.Log2(1+float64(n.Count)) * float64(len(n.Spellings)) * math.Log2(1+float64(n.Files))
	for _, from := range n.From {
		switch {
		case isBuildFile(from):
			w = w*3 + 100
		case from != recurring:
			w = w*1.5 + 20
		}
	}
	return w
}

// propose marks the first name, and every other that a build file says and that
// has no words in common with one before.
func propose(names []Name) {
	taken := map[string]bool{}
	for i := range names {
		n := &names[i]
		words := strings.Fields(n.Words)
		shares := slices.ContainsFunc(words, func(w string) bool { return taken[w] })
		n.Proposed = !shares && (i == 0 || slices.ContainsFunc(n.From, isBuildFile))
		if n.Proposed {
			for _, word := range words {
				taken[word] = true
			}
		}
	}
}

// recurring is where a name comes from that only its spellings speak for.
const recurring = "words in several spellings"

func isBuildFile(from string) bool {
	return from != "folder" && from != "README.md" && from != recurring
}

// candidates returns what the project says of itself, and the phrases that
// stand in several spellings in several files.
func candidates(f *facts, text *projectText) []candidate {
	found := map[string]*candidate{}
	for _, s := range f.names {
		c := found[s.words]
		if c == nil {
			c = &candidate{words: s.words, score: 1e6}
			found[s.words] = c
		}
		if !slices.Contains(c.from, s.from) {
			c.from = append(c.from, s.from)
			c.score += 1e6
		}
	}
	for words, p := range text.phrases {
		if _, err := spelling.Parse(words); err != nil || found[words] != nil || len(p.texts) < 2 || p.files < 2 {
			continue
		}
		count := 0
		for _, n := range p.texts {
			count += n
		}
		found[words] = &candidate{words: words, from: []string{recurring}, score: float64(len(p.texts)*len(p.texts)) * math.Log2(1+float64(count))}
	}
	ranked := slices.Collect(maps.Values(found))
	slices.SortFunc(ranked, func(a, b *candidate) int {
		return cmp.Or(cmp.Compare(b.score, a.score), strings.Compare(a.words, b.words))
	})
	best := make([]candidate, 0, maxNames)
	for _, c := range ranked[:min(len(ranked), maxNames)] {
		best = append(best, *c)
	}
	return best
}

// describeName compiles the project with this name alone, so that what the
// survey shows is what a cast would touch.
func describeName(ctx context.Context, project tree.Tree, c candidate, limits tree.Limits) (Name, error) {
	n := Name{Words: c.words, From: c.from}
	m, err := compileName(ctx, project, c.words, limits)
	if err != nil {
		return n, err
	}
	counts := map[string]*Spelling{}
	var moved string // a path with the name in it
	for i := range m.Files {
		f := &m.Files[i]
		before := n.Count
		n.add(m, f, counts, f.PathSlots, []byte(f.Source.Path), 0)
		if len(f.PathSlots) > 0 && moved == "" {
			moved = f.Source.Path
		}
		if len(f.Slots) > 0 {
			content, err := f.Source.Bytes()
			if err != nil {
				return n, err
			}
			n.add(m, f, counts, f.Slots, content, 1)
		}
		if n.Count > before {
			n.Files++
		}
	}
	if moved != "" {
		n.Places = append(n.Places[:min(len(n.Places), maxPlaces-1)], Place{Path: moved, Text: moved})
	}
	for _, s := range counts {
		n.Spellings = append(n.Spellings, *s)
	}
	slices.SortFunc(n.Spellings, func(a, b Spelling) int {
		return cmp.Or(b.Count-a.Count, strings.Compare(a.Text, b.Text))
	})
	return n, nil
}

// add counts the slots of one text, which is a path when line is 0.
func (n *Name) add(m *mould.Mould, f *mould.File, counts map[string]*Spelling, slots []mould.Slot, data []byte, line int) {
	for _, slot := range slots {
		rule := m.Rule(slot)
		n.Count++
		if slot.Guessed {
			n.Guessed++
		}
		id := rule.Form.String() + " " + rule.Literal
		s := counts[id]
		if s == nil {
			s = &Spelling{Spelling: rule.Form.String(), Text: rule.Literal}
			counts[id] = s
			if line > 0 {
				n.example(f, slot, data)
			}
		}
		s.Count++
	}
}

// example keeps a place to show, unless there are enough or the file has one.
func (n *Name) example(f *mould.File, slot mould.Slot, content []byte) {
	if len(n.Places) == maxPlaces || slices.ContainsFunc(n.Places, func(p Place) bool { return p.Path == f.Source.Path }) {
		return
	}
	n.Places = append(n.Places, Place{
		Path: f.Source.Path,
		Line: 1 + bytes.Count(content[:slot.Start], []byte("\n")),
		Text: mould.Excerpt(content, int(slot.Start), int(slot.End)),
	})
}

// keepFor returns the names of dependencies that hold the name, as they stand
// in the project.
func keepFor(n Name, f *facts, text *projectText) []string {
	name, err := spelling.Parse(n.Words)
	if err != nil {
		return nil
	}
	var keep []string
	for _, dependency := range f.dependencies {
		variants := []string{dependency, strings.ReplaceAll(dependency, "-", "_")}
		for i, variant := range variants {
			if i > 0 && (variant == dependency || text.count(variant) == 0) || slices.Contains(keep, variant) {
				continue
			}
			if holds(name, variant) {
				keep = append(keep, variant)
			}
		}
	}
	slices.Sort(keep)
	return keep
}

// holds tells whether a cast would touch the text.
func holds(name spelling.Name, text string) bool {
	return slices.ContainsFunc(name.Literals(), func(literal spelling.Literal) bool {
		start := strings.Index(text, literal.Text)
		return start >= 0 && (!name.Single() || spelling.IsPart([]byte(text), start, start+len(literal.Text)))
	})
}

// count returns how often an identifier stands in the project.
func (t *projectText) count(identifier string) int {
	if found := t.tokens[identifier]; found != nil {
		return found.count
	}
	return 0
}

// insideWords returns the longer words that hold a name of one word.
func insideWords(n Name, text *projectText) []Inside {
	if strings.Contains(n.Words, " ") {
		return nil
	}
	var inside []Inside
	for word, count := range text.wordCounts() {
		if word != n.Words && strings.Contains(word, n.Words) {
			inside = append(inside, Inside{Word: word, Count: count})
		}
	}
	slices.SortFunc(inside, func(a, b Inside) int {
		return cmp.Or(b.Count-a.Count, strings.Compare(a.Word, b.Word))
	})
	return inside[:min(len(inside), maxPlaces)]
}
