package syntax

import (
	"fmt"
	"regexp"
	"strings"
	"unicode"
)

// Place is where a text stands in a file, as far as it matters for how another
// text is written there. Places are comparable with ==; the zero Place writes a
// text as it is.
type Place struct {
	way    way
	quote  byte   // the character that ends the string, where one does
	extra  string // further characters that need a backslash
	prefix string // what each further line begins with
	whole  bool   // whether the text is all of the string or scalar
	folds  bool   // whether a single line break counts as a space
	breaks bool   // whether a quoted string may hold line breaks as they are
	money  bool   // whether "$" is written twice, as in makefiles
	spaces bool   // whether spaces stand unescaped in the source, too
}

// way is how a text is written.
type way uint8

const (
	asIs way = iota
	withBackslash
	withFewer
	withDoubled
	withNothing // cannot hold what ends the string
	withJoined
	xmlText
	xmlAttribute
	xmlComment
	xmlData
	yamlPlain
	yamlSingle
	yamlBlock
	tomlLiteral
	shellDouble
	shellQuoted
	shellBare
	shellHere
	dockerDouble
	dockerSingle
	dockerBare
	makeText
	oneLine
	csvField
	setting
)

// IsZero tells whether a text is written as it is.
func (p Place) IsZero() bool { return p == Place{} }

// WithQuotes tells whether the place takes in the quotes around the text, so
// that Write may choose others.
func (p Place) WithQuotes() bool { return p.whole && (p.way == yamlSingle || p.way == tomlLiteral) }

// errCannotHold begins the sentence for a text that a place has no way to hold.
func errCannotHold(what, where string) error {
	return fmt.Errorf("it holds %s, which %s cannot hold there; quote that text in the source project, or change the value", what, where)
}

// Write returns a text as the place needs it.
func (p Place) Write(text string) (string, error) {
	out, err := p.write(text)
	if p.money {
		out = strings.ReplaceAll(out, "$", "$$")
	}
	return out, err
}

func (p Place) write(text string) (string, error) {
	switch p.way {
	case withBackslash:
		return p.backslashed(text), nil
	case withFewer:
		return escapeEach(text, `\`+string(p.quote)), nil
	case withDoubled:
		return strings.ReplaceAll(text, string(p.quote), string([]byte{p.quote, p.quote})), nil
	case withNothing:
		if strings.ContainsRune(text, rune(p.quote)) {
			return "", errCannotHold("a quote", "a raw string")
		}
		return text, nil
	case withJoined:
		return strings.ReplaceAll(strings.ReplaceAll(text, "\r", ""), "`", "` + \"`\" + `"), nil
	case xmlText:
		return replaceRunes(text, func(r rune) string { return xmlEscapes[r] }), nil
	case xmlAttribute:
		return replaceRunes(text, p.attribute), nil
	case xmlComment:
		for strings.Contains(text, "--") {
			text = strings.ReplaceAll(text, "--", "- -")
		}
		return p.continued(text), nil
	case xmlData:
		return strings.ReplaceAll(text, "]]>", "]]]]><![CDATA[>"), nil
	case yamlPlain, yamlSingle:
		return p.yaml(text)
	case yamlBlock:
		if p.folds {
			text = strings.ReplaceAll(text, "\n", "\n\n")
		}
		return p.continued(text), nil
	case tomlLiteral:
		return p.tomlLiteral(text)
	case shellDouble:
		return escapeEach(text, "\\\"$`"), nil
	case shellQuoted:
		return strings.ReplaceAll(text, "'", `'\''`), nil
	case makeText:
		return strings.ReplaceAll(unfold(text), "#", `\#`), nil
	case dockerSingle:
		if strings.Contains(text, "'") {
			return "", errCannotHold("a single quote", "a string in single quotes of a Dockerfile")
		}
		return unfold(text), nil
	case shellHere:
		return escapeEach(text, "\\$`"), nil
	case shellBare:
		return p.shellWord(text), nil
	case dockerDouble:
		return escapeEach(unfold(text), `\"$`), nil
	case dockerBare:
		special := `\"'$`
		if !p.spaces {
			special += " \t"
		}
		return escapeEach(unfold(text), special), nil
	case oneLine:
		return unfold(text), nil
	case csvField:
		if strings.ContainsAny(text, ",;\"\r\n\t") {
			return `"` + strings.ReplaceAll(text, `"`, `""`) + `"`, nil
		}
		return text, nil
	case setting:
		return p.setting(text), nil
	}
	return p.continued(text), nil
}

// continued begins each further line of a text with the place's prefix.
func (p Place) continued(text string) string {
	if p.prefix == "" || !strings.Contains(text, "\n") {
		return text
	}
	lines := strings.Split(text, "\n")
	for i := 1; i < len(lines); i++ {
		lines[i] = strings.TrimRight(p.prefix+lines[i], " \t")
		if lines[i] == "" && strings.TrimSpace(p.prefix) != "" {
			lines[i] = strings.TrimRight(p.prefix, " ")
		}
	}
	return strings.Join(lines, "\n")
}

// unfold makes one line of a text, for formats that have no line breaks.
func unfold(text string) string {
	if !strings.ContainsAny(text, "\r\n") {
		return text
	}
	return strings.Join(strings.FieldsFunc(text, func(r rune) bool { return r == '\r' || r == '\n' }), " ")
}

func escapeEach(text, special string) string {
	if !strings.ContainsAny(text, special) {
		return text
	}
	var out strings.Builder
	for i := range len(text) {
		if strings.IndexByte(special, text[i]) >= 0 {
			out.WriteByte('\\')
		}
		out.WriteByte(text[i])
	}
	return out.String()
}

func replaceRunes(text string, with func(rune) string) string {
	var out strings.Builder
	for _, r := range text {
		if replacement := with(r); replacement != "" {
			out.WriteString(replacement)
		} else {
			out.WriteRune(r)
		}
	}
	return out.String()
}

// backslashed escapes as C and its descendants, JSON, TOML and YAML do. In a
// string that may run over several lines, line breaks stay, with the indent, and
// so does a single quote, which does not end it.
func (p Place) backslashed(text string) string {
	var out strings.Builder
	var before rune
	for i, r := range text {
		switch {
		case r == rune(p.quote) && p.breaks && p.quote != '`' && before != r && i+1 < len(text):
			out.WriteRune(r)
		case r == '\\' || r == rune(p.quote) || strings.ContainsRune(p.extra, r):
			out.WriteString(`\` + string(r))
		case r == '\n' && p.breaks, !unicode.IsControl(r):
			out.WriteRune(r)
		case r == '\n':
			out.WriteString(`\n`)
		case r == '\r':
			out.WriteString(`\r`)
		case r == '\t':
			out.WriteString(`\t`)
		default:
			fmt.Fprintf(&out, `\u%04x`, r)
		}
		before = r
	}
	return p.continued(out.String())
}

var xmlEscapes = map[rune]string{'&': "&amp;", '<': "&lt;", '>': "&gt;"}

func (p Place) attribute(r rune) string {
	switch r {
	case '"':
		if p.quote == '"' {
			return "&quot;"
		}
	case '\'':
		if p.quote == '\'' {
			return "&#39;"
		}
	case '\n':
		return "&#10;"
	case '\r':
		return "&#13;"
	case '\t':
		return "&#9;"
	}
	return xmlEscapes[r]
}

// plainYAML is a scalar that YAML 1.1 and 1.2 read as the same text without
// quotes: it begins with a letter or a path, holds no indicator that means
// something inside, and is no word for a truth value or nothing.
var (
	plainYAML   = regexp.MustCompile(`^[\p{L}/.][^\x00-\x1f"'\x60{}\[\],]*$`)
	specialYAML = regexp.MustCompile(`(?i)^(true|false|yes|no|on|off|y|n|null|none|\.inf|\.nan|~)$|: |:$| #|^\.{3}|^[.\d]+$`)
)

func (p Place) yaml(text string) (string, error) {
	fits := plainYAML.MatchString(text) && !specialYAML.MatchString(text) && strings.TrimSpace(text) == text
	if p.way == yamlSingle {
		fits = !strings.ContainsAny(text, "\r\n\t") && !strings.ContainsFunc(text, unicode.IsControl)
	}
	quoted := `"` + Place{way: withBackslash, quote: '"'}.backslashed(text) + `"`
	switch {
	case fits && p.way == yamlPlain:
		return text, nil
	case fits && p.WithQuotes():
		return "'" + strings.ReplaceAll(text, "'", "''") + "'", nil
	case fits:
		return strings.ReplaceAll(text, "'", "''"), nil
	case p.whole:
		return quoted, nil
	case p.way == yamlPlain && !strings.ContainsAny(text, "\r\n") && !strings.Contains(text, ": ") && !strings.Contains(text, " #") && !strings.HasSuffix(text, ":") && !strings.ContainsAny(text, "{}[],") && strings.TrimSpace(text) == text:
		return text, nil // in the middle of a scalar less means something
	}
	return "", errCannotHold("what means something in YAML", "a scalar with other text and without double quotes")
}

func (p Place) tomlLiteral(text string) (string, error) {
	fits := !strings.Contains(text, "'") && !strings.ContainsFunc(text, unicode.IsControl)
	switch {
	case fits && p.whole:
		return "'" + text + "'", nil
	case fits:
		return text, nil
	case p.whole:
		return `"` + Place{way: withBackslash, quote: '"'}.backslashed(text) + `"`, nil
	}
	return "", errCannotHold("a quote or a line break", "a literal string of TOML")
}

func (p Place) shellWord(text string) string {
	special := "\\\"'`$&|;<>()*?[]#~!{}\t"
	if !p.spaces {
		special += " "
	}
	return strings.ReplaceAll(escapeEach(text, special), "\n", "'\n'")
}

// setting writes a value of an environment file, or of a properties file.
func (p Place) setting(text string) string {
	if p.quote == '=' { // a properties file
		escaped := Place{way: withBackslash, quote: '\\'}.backslashed(text)
		if strings.HasPrefix(escaped, " ") {
			escaped = `\` + escaped
		}
		return escaped
	}
	if strings.ContainsAny(text, " \t\r\n\"'`$\\#&;|<>()") && p.whole && !p.spaces {
		return `"` + Place{way: withBackslash, quote: '"', extra: "$`"}.backslashed(text) + `"`
	}
	return text
}
