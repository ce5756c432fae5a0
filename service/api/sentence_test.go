package api

import (
	"errors"
	"testing"
)

func TestSentences(t *testing.T) {
	for text, want := range map[string]string{
		"the template is not there":          "The template is not there.",
		"kelpwick/board 1.0.0 is there":      "kelpwick/board 1.0.0 is there.",
		"ironcast.yaml:3:1: the key is gone": "ironcast.yaml:3:1: the key is gone.",
		"what now?":                          "What now?",
	} {
		if got := sentence(errors.New(text)); got != want {
			t.Errorf("%q becomes %q, want %q", text, got, want)
		}
	}
}

func TestTextsAreCutBetweenLetters(t *testing.T) {
	for _, c := range []struct {
		text string
		n    int
		want string
	}{{"board", 3, "boa"}, {"Fähre", 2, "F"}, {"Fähre", 3, "Fä"}, {"board", 5, "board"}, {"é", 1, ""}} {
		if got := cutText(c.text, c.n); got != c.want {
			t.Errorf("%q cut to %d bytes is %q", c.text, c.n, got)
		}
	}
}
