package marks

import (
	"strings"

	"ironcast/core/syntax"
)

// Strip returns a file as its project would have it without marks: the lines
// that it runs, less marks, held lines and what is the source's only. It reads
// line by line and takes no notice of conditions, so that a proof can hold a
// cast against it.
func Strip(content []byte, language *syntax.Language) []byte {
	s := scanner{content: content, language: language}
	var out []byte
	depth, sourceOnly := 0, 0 // sourceOnly: the depth at which such a block began
	for {
		l, more := s.next()
		if !more {
			return out
		}
		if l.mark == "" {
			if _, _, held := s.held(l); sourceOnly == 0 && !(depth > 0 && held) {
				out = append(out, content[l.start:l.end]...)
			}
			continue
		}
		if !l.alone {
			if sourceOnly == 0 && l.mark != "source only" {
				out = append(append(out, content[l.start:l.codeEnd]...), content[l.lineBreak:l.end]...)
			}
			continue
		}
		switch verb, _, _ := strings.Cut(l.mark, " "); verb {
		case "only", "repeat":
			depth++
		case "source":
			depth++
			if sourceOnly == 0 {
				sourceOnly = depth
			}
		case "end":
			if sourceOnly == depth {
				sourceOnly = 0
			}
			depth--
		}
	}
}
