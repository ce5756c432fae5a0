package spelling

import (
	"slices"
	"unicode"
	"unicode/utf8"
)

// Place is what kind of text surrounds an occurrence of a name.
type Place uint8

const (
	InCode  Place = iota // contents of any file that is not prose
	InProse              // contents of a document: Markdown, plain text, HTML
	InPath               // the path of a file or folder, or the target of a link
)

// Choose decides which of several coinciding spellings is meant where one text
// of a name stands at data[start:end]. The neighbours decide: board_client is
// snake, board-client kebab, boardClient camel. Standing alone, the place
// decides. The answer is certain only when candidates holds one spelling.
func Choose(candidates []Spelling, data []byte, start, end int, place Place) Spelling {
	if len(candidates) == 1 {
		return candidates[0]
	}
	before, _ := utf8.DecodeLastRune(data[:start])
	after, _ := utf8.DecodeRune(data[end:])
	for _, wanted := range preference(before, after, place) {
		if slices.Contains(candidates, wanted) {
			return wanted
		}
	}
	return candidates[0]
}

func preference(before, after rune, place Place) []Spelling {
	switch {
	case after == '_' || before == '_' && after != '-':
		return []Spelling{Snake, UpperSnake, Pascal}
	case after == '-' || before == '-':
		return []Spelling{Kebab, Train, UpperKebab}
	case unicode.IsUpper(after):
		return []Spelling{Camel, Pascal, UpperFlat}
	case unicode.IsLetter(after) || unicode.IsLetter(before):
		return []Spelling{Flat, Pascal, UpperFlat}
	case after == '/' || before == '/' || place == InPath:
		return []Spelling{Kebab, Pascal, UpperSnake}
	case place == InProse:
		return []Spelling{Flat, Title, UpperSpaced}
	default:
		return []Spelling{Flat, Pascal, UpperSnake}
	}
}

// IsPart tells whether data[start:end] is a whole part of a word: board in
// board_client and boardClient, but not in dashboard or board2.
func IsPart(data []byte, start, end int) bool {
	return partBegins(data, start) && partEnds(data, start, end)
}

func partBegins(data []byte, start int) bool {
	before, _ := utf8.DecodeLastRune(data[:start])
	if start == 0 || !isWordRune(before) {
		return true
	}
	first, size := utf8.DecodeRune(data[start:])
	if !unicode.IsUpper(first) {
		return false
	}
	second, _ := utf8.DecodeRune(data[start+size:])
	return unicode.IsLower(before) || unicode.IsLower(second)
}

func partEnds(data []byte, start, end int) bool {
	after, size := utf8.DecodeRune(data[end:])
	if end == len(data) || !isWordRune(after) {
		return true
	}
	if !unicode.IsUpper(after) {
		return false
	}
	last, _ := utf8.DecodeLastRune(data[start:end])
	next, _ := utf8.DecodeRune(data[end+size:])
	return unicode.IsLower(last) || unicode.IsLower(next)
}

// IsWhole tells whether data[start:end] stands as written and not inside a
// longer word or number: 8087 in ":8087" and "8087,", but not in "18087",
// "8087.5" or "port8087".
func IsWhole(data []byte, start, end int) bool {
	first, _ := utf8.DecodeRune(data[start:end])
	last, _ := utf8.DecodeLastRune(data[start:end])
	before, size := utf8.DecodeLastRune(data[:start])
	after, afterSize := utf8.DecodeRune(data[end:])
	if joins(first) && start > 0 {
		if joins(before) {
			return false
		}
		earlier, _ := utf8.DecodeLastRune(data[:start-size])
		if before == '.' && unicode.IsDigit(first) && unicode.IsDigit(earlier) {
			return false
		}
	}
	if joins(last) && end < len(data) {
		if joins(after) {
			return false
		}
		later, _ := utf8.DecodeRune(data[end+afterSize:])
		if after == '.' && unicode.IsDigit(last) && unicode.IsDigit(later) {
			return false
		}
	}
	return true
}

func joins(r rune) bool { return r == '_' || isWordRune(r) }
