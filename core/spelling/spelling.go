package spelling

import (
	"fmt"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Spelling is a way of writing a name.
type Spelling uint8

// The spellings, in the order in which they are listed to people.
const (
	Kebab       Spelling = iota // tide-gauge
	Snake                       // tide_gauge
	Camel                       // tideGauge
	Pascal                      // TideGauge
	Flat                        // tidegauge
	Dotted                      // tide.gauge
	Path                        // tide/gauge
	Spaced                      // tide gauge
	Title                       // Tide Gauge
	Sentence                    // Tide gauge
	Train                       // Tide-Gauge
	UpperKebab                  // TIDE-GAUGE
	UpperSnake                  // TIDE_GAUGE
	UpperFlat                   // TIDEGAUGE
	UpperSpaced                 // TIDE GAUGE
)

// letters says how the case of a word is written.
type letters uint8

const (
	lower       letters = iota // tide gauge
	upper                      // TIDE GAUGE
	capital                    // Tide Gauge
	firstOnly                  // Tide gauge
	exceptFirst                // tide Gauge
)

var styles = [...]struct {
	name      string
	separator string
	letters   letters
}{
	Kebab:       {"kebab", "-", lower},
	Snake:       {"snake", "_", lower},
	Camel:       {"camel", "", exceptFirst},
	Pascal:      {"pascal", "", capital},
	Flat:        {"flat", "", lower},
	Dotted:      {"dotted", ".", lower},
	Path:        {"path", "/", lower},
	Spaced:      {"spaced", " ", lower},
	Title:       {"title", " ", capital},
	Sentence:    {"sentence", " ", firstOnly},
	Train:       {"train", "-", capital},
	UpperKebab:  {"upper_kebab", "-", upper},
	UpperSnake:  {"upper_snake", "_", upper},
	UpperFlat:   {"upper_flat", "", upper},
	UpperSpaced: {"upper_spaced", " ", upper},
}

// All returns every spelling, in their listed order.
func All() []Spelling {
	all := make([]Spelling, len(styles))
	for i := range all {
		all[i] = Spelling(i)
	}
	return all
}

// String returns the spelling's name, such as "upper_snake".
func (s Spelling) String() string { return styles[s].name }

// MarshalText returns the spelling's name.
func (s Spelling) MarshalText() ([]byte, error) { return []byte(s.String()), nil }

// UnmarshalText accepts what MarshalText returns.
func (s *Spelling) UnmarshalText(text []byte) error {
	for i := range styles {
		if styles[i].name == string(text) {
			*s = Spelling(i)
			return nil
		}
	}
	var names []string
	for _, style := range styles {
		names = append(names, style.name)
	}
	return fmt.Errorf("%q is no spelling; use one of %s", clip(string(text)), strings.Join(names, ", "))
}

// In writes the name in spelling s.
func (n Name) In(s Spelling) string {
	style := styles[s]
	var out strings.Builder
	for i, word := range n.Words() {
		if i > 0 {
			out.WriteString(style.separator)
		}
		switch {
		case style.letters == upper:
			out.WriteString(strings.ToUpper(word))
		case style.letters == capital,
			style.letters == firstOnly && i == 0,
			style.letters == exceptFirst && i > 0:
			out.WriteString(capitalised(word))
		default:
			out.WriteString(word)
		}
	}
	return out.String()
}

func capitalised(word string) string {
	first, size := utf8.DecodeRuneInString(word)
	return string(unicode.ToUpper(first)) + word[size:]
}

// Literal is one text in which a name may stand, and the spellings that give it.
type Literal struct {
	Text      string
	Spellings []Spelling // more than one where spellings coincide
}

// Literals returns the distinct texts of a name in all its spellings.
func (n Name) Literals() []Literal {
	var literals []Literal
	index := map[string]int{}
	for _, s := range All() {
		text := n.In(s)
		at, seen := index[text]
		if !seen {
			at = len(literals)
			index[text] = at
			literals = append(literals, Literal{Text: text})
		}
		literals[at].Spellings = append(literals[at].Spellings, s)
	}
	return literals
}
