package mould

import (
	"slices"
	"strings"
	"testing"
)

// naive finds what a matcher finds, by looking for every text everywhere.
func naive(texts []string, data string) map[int][]int {
	found := map[int][]int{}
	for i := range data {
		for _, text := range texts {
			if strings.HasPrefix(data[i:], text) && !slices.Contains(found[i], i+len(text)) {
				found[i] = append(found[i], i+len(text))
			}
		}
		slices.Sort(found[i])
	}
	return found
}

func FuzzMatcherFindsWhatANaiveSearchFinds(f *testing.F) {
	f.Add("crossing-board", "board", "8", "the crossing-board on 8087 boards")
	f.Add("a", "aa", "aab", "aaaab")
	f.Add("ä", "é", "x", "xäéx\xff")
	f.Add("ab", "b", "", "ab")
	f.Fuzz(func(t *testing.T, a, b, c, data string) {
		var texts []string
		literals := map[string][]claim{}
		for _, text := range []string{a, b, c} {
			if text != "" && strings.ToValidUTF8(text, "") == text {
				texts = append(texts, text)
				literals[text] = []claim{{}}
			}
		}
		m := newMatcher(literals)
		want := naive(texts, data)
		at := 0
		enough := budget{steps: 1 << 30}
		for i := m.begin([]byte(data), 0); i < len(data); i = m.begin([]byte(data), i+1) {
			for ; at < i; at++ {
				if len(want[at]) > 0 {
					t.Fatalf("%q in %q at %d is passed over", texts, data, at)
				}
			}
			var ends []int
			for _, h := range m.at([]byte(data), i, nil, &enough) {
				ends = append(ends, h.end)
			}
			if !slices.Equal(ends, want[i]) {
				t.Fatalf("%q in %q at %d end at %v, want %v", texts, data, i, ends, want[i])
			}
			at = i + 1
		}
		for ; at < len(data); at++ {
			if len(want[at]) > 0 {
				t.Fatalf("%q in %q at %d is passed over", texts, data, at)
			}
		}
	})
}

func TestAllJoinsOverlaps(t *testing.T) {
	m := newMatcher(map[string][]claim{"board-tools": {{}}, "tools-kit": {{}}, "x": {{}}})
	got := m.all([]byte("a board-tools-kit xx"), &budget{steps: 1000})
	if !slices.Equal(got, []span{{2, 17}, {18, 19}, {19, 20}}) {
		t.Errorf("spans are %v", got)
	}
	for _, c := range []struct {
		start, end int
		want       bool
	}{{0, 2, false}, {0, 3, true}, {16, 18, true}, {17, 18, false}, {19, 20, true}, {20, 25, false}} {
		if overlaps(got, c.start, c.end) != c.want {
			t.Errorf("overlaps(%d, %d) is not %v", c.start, c.end, c.want)
		}
	}
}

func TestExcerptFitsATerminal(t *testing.T) {
	long := strings.Repeat("a", 200)
	for _, c := range []struct{ data, mark, want string }{
		{"one\n\ttwo board three\r\nfour", "board", "two board three"},
		{long + "board" + long, "board", "…" + long[:60] + "board" + long[:60] + "…"},
		{"\x1b[31mboard\x07\xff", "board", "·[31mboard·�"},
		{"crossing\nboard", "crossing\nboard", "crossing board"},
	} {
		start := strings.Index(c.data, c.mark)
		if got := Excerpt([]byte(c.data), start, start+len(c.mark)); got != c.want {
			t.Errorf("excerpt of %q is %q, want %q", c.data, got, c.want)
		}
	}
}

func TestToLowerKeepsPositions(t *testing.T) {
	for text, want := range map[string]string{"Crossing BOARD": "crossing board", "ÜBER": "über", "İX\xe4Z": "İx\xe4z", "": ""} {
		if got := toLower([]byte(text)); string(got) != want || len(got) != len(text) {
			t.Errorf("toLower(%q) = %q", text, got)
		}
	}
}
