package values

import (
	"strings"

	"ironcast/core/manifest"
	"ironcast/core/spelling"
)

// Form is how a value is written at a place: a spelling for a name, the
// separator of a package, the case and dashes of an id, the case of a truth
// value, or as it is.
type Form uint8

// The forms below Plain are the spellings of a name, with the same numbers.
const (
	Plain         Form = 64 + iota // as it is
	LowerID                        // 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de
	UpperID                        // 3F0C7C1E-8A55-4F5E-9A44-6A52B7A1F0DE
	LowerIDDigits                  // 3f0c7c1e8a554f5e9a446a52b7a1f0de
	UpperIDDigits                  // 3F0C7C1E8A554F5E9A446A52B7A1F0DE
	LowerWord                      // true
	TitleWord                      // True
	UpperWord                      // TRUE
	Dotted                         // example.kelpwick.tides
	Slashed                        // example/kelpwick/tides
	Colons                         // example::kelpwick::tides
	Backslashes                    // example\kelpwick\tides
)

var formNames = map[Form]string{
	Plain: "as it is", LowerID: "lower case", UpperID: "upper case",
	LowerIDDigits: "lower case, no dashes", UpperIDDigits: "upper case, no dashes",
	LowerWord: "lower case", TitleWord: "capitalised", UpperWord: "upper case",
	Dotted: "with dots", Slashed: "as folders", Colons: "with colons", Backslashes: "with backslashes",
}

// String returns the form's name, such as "upper_snake".
func (f Form) String() string {
	if f < Plain {
		return spelling.Spelling(f).String()
	}
	return formNames[f]
}

// Write returns the value in a form. The form must be one of its kind's.
func (v Value) Write(form Form) string {
	if form < Plain {
		return v.name().In(spelling.Spelling(form))
	}
	text := v.text()
	switch form {
	case UpperID, UpperWord:
		return strings.ToUpper(text)
	case LowerIDDigits:
		return strings.ReplaceAll(text, "-", "")
	case UpperIDDigits:
		return strings.ToUpper(strings.ReplaceAll(text, "-", ""))
	case TitleWord:
		return strings.ToUpper(text[:1]) + text[1:]
	case Slashed:
		return strings.ReplaceAll(text, ".", "/")
	case Colons:
		return strings.ReplaceAll(text, ".", "::")
	case Backslashes:
		return strings.ReplaceAll(text, ".", `\`)
	}
	return text
}

// Literal is a text in which a value may stand in a source project, and the
// forms that give it; names of one word have texts with several.
type Literal struct {
	Text  string
	Forms []Form
}

// Literals returns the distinct texts of the value in all forms of its kind.
func (v Value) Literals() []Literal {
	if v.kind != manifest.KindName {
		return v.plainLiterals()
	}
	var literals []Literal
	for _, l := range v.name().Literals() {
		forms := make([]Form, len(l.Spellings))
		for i, s := range l.Spellings {
			forms[i] = Form(s)
		}
		literals = append(literals, Literal{Text: l.Text, Forms: forms})
	}
	return literals
}

func (v Value) plainLiterals() []Literal {
	forms := []Form{Plain}
	switch v.kind {
	case manifest.KindID:
		forms = []Form{LowerID, UpperID, LowerIDDigits, UpperIDDigits}
	case manifest.KindBoolean:
		forms = []Form{LowerWord, TitleWord, UpperWord}
	case manifest.KindPackage:
		forms = []Form{Dotted, Slashed, Colons, Backslashes}
	}
	var literals []Literal
	seen := map[string]bool{}
	for _, form := range forms {
		if text := v.Write(form); !seen[text] {
			seen[text] = true
			literals = append(literals, Literal{Text: text, Forms: []Form{form}})
		}
	}
	return literals
}
