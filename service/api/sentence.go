package api

import (
	"strings"
	"unicode"
	"unicode/utf8"
)

// sentence returns an error's text as a sentence of its own.
func sentence(err error) string {
	text := err.Error()
	first, size := utf8.DecodeRuneInString(text)
	if words := strings.Fields(text); !strings.ContainsAny(words[0], "/._-0123456789") {
		text = string(unicode.ToUpper(first)) + text[size:]
	}
	if !strings.ContainsAny(text[len(text)-1:], ".!?") {
		text += "."
	}
	return text
}
