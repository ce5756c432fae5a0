// Package spelling treats a name as a list of words, not as a string.
//
// The words "crossing board" stand in a project as crossing-board,
// CrossingBoard, crossing_board, CROSSING_BOARD and so on. A Name is read from
// any of these and written in any other:
//
//	name, err := spelling.Parse("TideGauge") // the words tide, gauge
//	name.In(spelling.Snake)                  // tide_gauge
//	name.In(spelling.UpperKebab)             // TIDE-GAUGE
//
// Words are split at anything that is no letter or digit, and where case shows
// a new word: TideGauge, HTTPServer.
package spelling

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// MaxName is the longest name, in bytes, that Parse accepts.
const MaxName = 200

// Name is one or more words, kept in lower case. The zero Name has no words.
// Names are comparable with ==.
type Name struct {
	spaced string // the words, separated by single spaces
}

// Parse reads a name in any spelling. A name begins with a letter and holds
// letters and digits, with one separator (space, "-", "_", "." or "/") between
// words.
func Parse(text string) (Name, error) {
	refuse := func(why string) (Name, error) {
		return Name{}, fmt.Errorf("%q is no name: %s", clip(text), why)
	}
	switch {
	case text == "":
		return Name{}, fmt.Errorf("a name cannot be empty; give it a word or two, such as %q", "tide gauge")
	case len(text) > MaxName:
		return refuse(fmt.Sprintf("it is longer than %d bytes", MaxName))
	case !utf8.ValidString(text):
		return refuse("it is not valid UTF-8")
	}
	separated := true
	for i, r := range text {
		switch {
		case i == 0 && !unicode.IsLetter(r):
			return refuse("it must begin with a letter")
		case isSeparator(r):
			if separated {
				return refuse("it has two separators in a row")
			}
			separated = true
		case unicode.IsLetter(r):
			if !survivesCase(r) {
				return refuse(fmt.Sprintf("the letter %q does not survive a change of case", r))
			}
			separated = false
		case unicode.IsDigit(r):
			separated = false
		default:
			return refuse(fmt.Sprintf("it holds %q; use letters, digits and one separator between words", r))
		}
	}
	if separated {
		return refuse("it ends with a separator")
	}
	return Of(Split(text)...), nil
}

// Of makes a Name of words that hold nothing but letters and digits.
func Of(words ...string) Name {
	return Name{spaced: strings.ToLower(strings.Join(words, " "))}
}

// Split cuts text into its words, as they are written there.
func Split(text string) []string {
	var words []string
	start := -1
	for i, r := range text {
		if !isWordRune(r) {
			if start >= 0 {
				words = append(words, text[start:i])
			}
			start = -1
			continue
		}
		if start >= 0 && startsWord(text, start, i) {
			words = append(words, text[start:i])
			start = i
		}
		if start < 0 {
			start = i
		}
	}
	if start >= 0 {
		words = append(words, text[start:])
	}
	return words
}

// startsWord tells whether case shows a new word at text[i:], inside a run of
// letters and digits that began at start.
func startsWord(text string, start, i int) bool {
	here, size := utf8.DecodeRuneInString(text[i:])
	if !unicode.IsUpper(here) {
		return false
	}
	before, _ := utf8.DecodeLastRuneInString(text[start:i])
	if unicode.IsLower(before) {
		return true
	}
	after, _ := utf8.DecodeRuneInString(text[i+size:])
	return unicode.IsLower(after)
}

// Words returns the words in lower case.
func (n Name) Words() []string {
	if n.spaced == "" {
		return nil
	}
	return strings.Split(n.spaced, " ")
}

// IsZero tells whether the name has no words.
func (n Name) IsZero() bool { return n.spaced == "" }

// Single tells whether the name is one word, so that several of its spellings
// coincide.
func (n Name) Single() bool { return !strings.Contains(n.spaced, " ") }

// String returns the name in the spelling Spaced.
func (n Name) String() string { return n.spaced }

func isSeparator(r rune) bool { return strings.ContainsRune(" -_./", r) }

// survivesCase tells whether a letter can be written in upper case and read
// back. Letters of scripts without case can.
func survivesCase(r rune) bool {
	lower, upper := unicode.ToLower(r), unicode.ToUpper(r)
	if lower == upper {
		return !unicode.IsLower(r) && !unicode.IsUpper(r)
	}
	return unicode.ToUpper(lower) == upper && unicode.ToLower(upper) == lower && unicode.IsUpper(upper) && unicode.IsLower(lower)
}

func isWordRune(r rune) bool { return unicode.IsLetter(r) || unicode.IsDigit(r) }

func clip(text string) string {
	const most = 60
	if len(text) <= most {
		return text
	}
	return text[:most] + "…"
}
