package e2e

import (
	"io"
	"regexp"
	"strings"
	"sync"
)

// transcript is what a program wrote to a terminal, less what moves the cursor
// and colours the text.
type transcript struct {
	mu   sync.Mutex
	text strings.Builder
}

var controls = regexp.MustCompile(`\x1b(\[[0-9;?]*[a-zA-Z]|\][^\x07]*\x07|[=>])`)

func (s *transcript) record(terminal io.Reader) {
	buffer := make([]byte, 4096)
	for {
		n, err := terminal.Read(buffer)
		s.mu.Lock()
		s.text.Write(buffer[:n])
		s.mu.Unlock()
		if err != nil {
			return
		}
	}
}

func (s *transcript) String() string {
	s.mu.Lock()
	defer s.mu.Unlock()
	return controls.ReplaceAllString(s.text.String(), "")
}

func (s *transcript) holds(text string) bool { return strings.Contains(s.String(), text) }
