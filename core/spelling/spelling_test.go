package spelling

import (
	"slices"
	"strings"
	"testing"
)

func TestParseReadsAnySpelling(t *testing.T) {
	for _, c := range []struct{ text, words string }{
		{"tide gauge", "tide gauge"},
		{"tide-gauge", "tide gauge"},
		{"tide_gauge", "tide gauge"},
		{"tide.gauge", "tide gauge"},
		{"tide/gauge", "tide gauge"},
		{"TideGauge", "tide gauge"},
		{"tideGauge", "tide gauge"},
		{"TIDE_GAUGE", "tide gauge"},
		{"Tide Gauge", "tide gauge"},
		{"HTTPServer", "http server"},
		{"v2Client", "v2 client"},
		{"tide2gauge", "tide2gauge"},
		{"tide 2", "tide 2"},
		{"Überfahrt", "überfahrt"},
		{"x", "x"},
	} {
		name, err := Parse(c.text)
		if err != nil || name.String() != c.words {
			t.Errorf("Parse(%q) = %q, %v; want %q", c.text, name, err, c.words)
		}
	}
}

func TestParseRefusesWithASentence(t *testing.T) {
	for _, c := range []struct{ text, why string }{
		{"", "cannot be empty"},
		{"9lives", "must begin with a letter"},
		{"-tide", "must begin with a letter"},
		{"tide--gauge", "two separators in a row"},
		{"tide gauge ", "ends with a separator"},
		{"tide+gauge", `it holds '+'`},
		{"tide\ngauge", `it holds '\n'`},
		{"tid\xe9", "not valid UTF-8"},
		{"../tide", "must begin with a letter"},
		{"a/../b", "two separators in a row"},
		{"ſea", "change of case"},
		{strings.Repeat("a", 201), "longer than 200 bytes"},
	} {
		if _, err := Parse(c.text); err == nil || !strings.Contains(err.Error(), c.why) {
			t.Errorf("Parse(%q) gives %v; want a sentence with %q", c.text, err, c.why)
		}
	}
}

func TestInWritesEverySpelling(t *testing.T) {
	want := map[Spelling]string{
		Kebab: "tide-gauge", Snake: "tide_gauge", Camel: "tideGauge", Pascal: "TideGauge",
		Flat: "tidegauge", Dotted: "tide.gauge", Path: "tide/gauge", Spaced: "tide gauge",
		Title: "Tide Gauge", Sentence: "Tide gauge", Train: "Tide-Gauge",
		UpperKebab: "TIDE-GAUGE", UpperSnake: "TIDE_GAUGE", UpperFlat: "TIDEGAUGE", UpperSpaced: "TIDE GAUGE",
	}
	for _, s := range All() {
		if got := Of("tide", "gauge").In(s); got != want[s] {
			t.Errorf("%s: %q, want %q", s, got, want[s])
		}
		var back Spelling
		text, _ := s.MarshalText()
		if err := back.UnmarshalText(text); err != nil || back != s {
			t.Errorf("%s reads back as %v, %v", text, back, err)
		}
	}
	var s Spelling
	if err := s.UnmarshalText([]byte("shouting")); err == nil || !strings.Contains(err.Error(), "upper_snake") {
		t.Errorf("an unknown spelling gives %v", err)
	}
}

func TestLiteralsOfOneWordCoincide(t *testing.T) {
	literals := Of("board").Literals()
	if len(literals) != 3 {
		t.Fatalf("board has the literals %v; want board, Board, BOARD", literals)
	}
	if len(Of("tide", "gauge").Literals()) != len(All()) {
		t.Error("a name of two words has a text for each spelling")
	}
}

func TestChooseFollowsNeighboursThenPlace(t *testing.T) {
	for _, c := range []struct {
		text  string
		place Place
		want  Spelling
	}{
		{"<board>_client", InCode, Snake},
		{"my_<board>", InCode, Snake},
		{"<board>-client", InCode, Kebab},
		{"<board>Client", InCode, Camel},
		{"my<Board>", InCode, Pascal},
		{"<Board>", InCode, Pascal},
		{"The <Board>", InProse, Title},
		{"<Board>-Client", InCode, Train},
		{"<BOARD>_PORT", InCode, UpperSnake},
		{"<BOARD>", InCode, UpperSnake},
		{"<board>.Serve()", InCode, Flat},
		{"cmd/<board>", InCode, Kebab},
		{"<board>", InPath, Kebab},
		{"the <board> shows", InProse, Flat},
	} {
		start, end := strings.Index(c.text, "<"), strings.Index(c.text, ">")-1
		data := []byte(strings.NewReplacer("<", "", ">", "").Replace(c.text))
		var candidates []Spelling
		for _, literal := range Of("board").Literals() {
			if literal.Text == string(data[start:end]) {
				candidates = literal.Spellings
			}
		}
		if got := Choose(candidates, data, start, end, c.place); got != c.want {
			t.Errorf("%s is %s, want %s", c.text, got, c.want)
		}
	}
}

func TestBoundaries(t *testing.T) {
	for _, c := range []struct {
		text        string
		part, whole bool
	}{
		{"<board>", true, true},
		{"<board>_client", true, false},
		{"<board>Client", true, false},
		{"my<Board>Client", true, false},
		{"HTTP<Board>", true, false},
		{"<BOARD>Client", true, false},
		{"dash<board>", false, false},
		{"<board>s", false, false},
		{"<board>2", false, false},
		{"X<BOARD>", false, false},
		{":<8087>", true, true},
		{"1<8087>", false, false},
		{"<8087>.5", true, false},
		{"3.<8087>", true, false},
		{"port <8087>.", true, true},
		{"é<board>", false, false},
	} {
		start, end := strings.Index(c.text, "<"), strings.Index(c.text, ">")-1
		data := []byte(strings.NewReplacer("<", "", ">", "").Replace(c.text))
		if got := IsPart(data, start, end); got != c.part {
			t.Errorf("IsPart(%s) = %v", c.text, got)
		}
		if got := IsWhole(data, start, end); got != c.whole {
			t.Errorf("IsWhole(%s) = %v", c.text, got)
		}
	}
}

func TestNearest(t *testing.T) {
	known := []string{"service", "port", "deploy_id"}
	for word, want := range map[string]string{"servise": "service", "prot": "port", "porto": "port", "elephant": "", "deploy-id": "deploy_id"} {
		if got := Nearest(word, known); got != want {
			t.Errorf("Nearest(%q) = %q, want %q", word, got, want)
		}
	}
}

func TestCount(t *testing.T) {
	for n, want := range map[int]string{0: "0 files", 1: "1 file", 2: "2 files"} {
		if got := Count(n, "file"); got != want {
			t.Errorf("%d is written %q", n, got)
		}
	}
}

// The spellings that keep their word boundaries read back as the same name, and
// what Parse accepts is always written without a surprise.
func FuzzSpellingRoundTrip(f *testing.F) {
	for _, seed := range []string{"tide gauge", "HTTPServer", "v2 client", "Überfahrt", "a b c", "tide2", "日本 語"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		name, err := Parse(text)
		if err != nil {
			return
		}
		for _, s := range []Spelling{Kebab, Snake, Dotted, Path, Spaced, Title, Sentence, Train, UpperKebab, UpperSnake, UpperSpaced} {
			back, err := Parse(name.In(s))
			if err != nil || back != name {
				t.Fatalf("%q as %s is %q and reads back as %q, %v", name, s, name.In(s), back, err)
			}
		}
		if !slices.Equal(Of(name.Words()...).Words(), name.Words()) {
			t.Fatalf("words of %q change", name)
		}
	})
}
