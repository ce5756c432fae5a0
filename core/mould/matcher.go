package mould

import (
	"errors"
	"slices"
)

// claim is a variable's interest in a literal, with the forms that give it.
type claim struct {
	variable     int
	forms        []ruleID // one for each form, in the literal's order
	written      string   // the whole text, before any format's escaping
	severalLines bool     // whether the literal is only its first line
	placed       bool     // whether the place decides how it is written
	item         *Repeat  // whose item claims it; nil for the variable itself
}

// matcher finds literals in bytes. It is a trie over byte classes, with a
// filter on pairs of bytes in front, so that text in which nothing can begin
// is passed over at the speed of a table look-up.
type matcher struct {
	pairs   [1 << 10]uint64 // bit b0<<8|b1: a literal may begin with these bytes
	class   [256]uint8      // 0: the byte stands in no literal
	classes int
	next    []int32 // node*classes+class: the next node, 0 for none
	claims  [][]claim
	last    [256]bool // a literal of this single byte exists
}

func newMatcher(literals map[string][]claim) *matcher {
	m := &matcher{}
	for text := range literals {
		for i := range len(text) {
			if m.class[text[i]] == 0 {
				// Literals are UTF-8, which never uses all 256 bytes.
				m.classes++
				m.class[text[i]] = uint8(m.classes)
			}
		}
	}
	m.classes++
	m.grow()
	for text, claims := range literals {
		node := 0
		for i := range len(text) {
			at := node*m.classes + int(m.class[text[i]])
			if m.next[at] == 0 {
				m.next[at] = int32(m.grow())
			}
			node = int(m.next[at])
		}
		m.claims[node] = claims
		m.filter(text)
	}
	return m
}

func (m *matcher) grow() (node int) {
	m.next = append(m.next, make([]int32, m.classes)...)
	m.claims = append(m.claims, nil)
	return len(m.claims) - 1
}

func (m *matcher) filter(text string) {
	first := int(text[0]) << 8
	if len(text) > 1 {
		pair := first | int(text[1])
		m.pairs[pair>>6] |= 1 << (pair & 63)
		return
	}
	m.last[text[0]] = true
	for pair := first; pair < first+256; pair++ {
		m.pairs[pair>>6] |= 1 << (pair & 63)
	}
}

// begin returns the first position from i on at which a literal may begin, or
// len(data).
func (m *matcher) begin(data []byte, i int) int {
	n := len(data)
	if i >= n {
		return n
	}
	pair := uint(data[i])
	for ; i+1 < n; i++ {
		pair = (pair<<8 | uint(data[i+1])) & 0xffff
		if m.pairs[pair>>6]&(1<<(pair&63)) != 0 {
			return i
		}
	}
	if m.last[data[i]] {
		return i
	}
	return n
}

// hit is a literal that stands at some position.
type hit struct {
	end    int
	claims []claim
}

// errTooOften ends a search that would take far longer than its text is long:
// one in which a long literal begins over and over.
var errTooOften = errors.New("repeats the beginning of what a variable stands for too often to be searched; leave it out, or keep it verbatim")

// budget bounds the steps of a search by the length of its text.
type budget struct{ steps int }

func newBudget(data []byte) budget { return budget{steps: 16*len(data) + 1<<20} }

// at appends the literals that stand at data[i:], the shortest first.
func (m *matcher) at(data []byte, i int, hits []hit, b *budget) []hit {
	node := 0
	for ; i < len(data) && b.steps > 0; i++ {
		b.steps--
		node = int(m.next[node*m.classes+int(m.class[data[i]])])
		if node == 0 {
			break
		}
		if claims := m.claims[node]; claims != nil {
			hits = append(hits, hit{end: i + 1, claims: claims})
		}
	}
	return hits
}

// span is data[start:end].
type span struct{ start, end int }

// all returns where literals stand, overlaps joined. It finds no more once the
// budget is spent.
func (m *matcher) all(data []byte, b *budget) []span {
	var spans []span
	var hits []hit
	for i := m.begin(data, 0); i < len(data) && b.steps > 0; i = m.begin(data, i+1) {
		if hits = m.at(data, i, hits[:0], b); len(hits) == 0 {
			continue
		}
		end := hits[len(hits)-1].end
		if last := len(spans) - 1; last >= 0 && i < spans[last].end {
			spans[last].end = max(spans[last].end, end)
			continue
		}
		spans = append(spans, span{i, end})
	}
	return spans
}

func overlaps(spans []span, start, end int) bool {
	i, _ := slices.BinarySearchFunc(spans, start, func(s span, start int) int {
		if s.end <= start {
			return -1
		}
		return 1
	})
	return i < len(spans) && spans[i].start < end
}
