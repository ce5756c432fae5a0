package manifest

import (
	"fmt"
	"slices"
	"strings"
)

// Problem is one thing that is wrong in a manifest.
type Problem struct {
	Line    int    `json:"line"`   // from 1
	Column  int    `json:"column"` // from 1
	Message string `json:"message"`
}

// Problems is everything that is wrong in a manifest, in the order of the file.
type Problems []Problem

// Error returns one line for each problem: ironcast.yaml:12:5: message.
func (p Problems) Error() string {
	lines := make([]string, len(p))
	for i, problem := range p {
		lines[i] = fmt.Sprintf("%s:%d:%d: %s", FileName, problem.Line, problem.Column, problem.Message)
	}
	return strings.Join(lines, "\n")
}

func (p Problems) sorted() Problems {
	slices.SortStableFunc(p, func(a, b Problem) int {
		if a.Line != b.Line {
			return a.Line - b.Line
		}
		return a.Column - b.Column
	})
	return p
}
