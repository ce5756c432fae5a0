package cli

import (
	"encoding/json"
	"fmt"
	"io"
	"os"
	"strings"
	"time"

	"github.com/charmbracelet/lipgloss"
	"github.com/schollz/progressbar/v3"
	"golang.org/x/term"

	"ironcast/core/spelling"
)

// json prints a result as indented JSON.
func (s *session) json(result any) error {
	encoder := json.NewEncoder(s.out)
	encoder.SetIndent("", "  ")
	encoder.SetEscapeHTML(false)
	return encoder.Encode(result)
}

// printer writes text for people, in colour where the output is a terminal that
// shows it and NO_COLOR is not set.
type printer struct {
	out                              io.Writer
	strong, faint, good, bad, accent lipgloss.Style
	width                            int  // in columns
	terminal                         bool // whether someone looks at it on one
}

func newPrinter(out io.Writer) *printer {
	renderer := lipgloss.NewRenderer(out)
	width, terminal := 100, false
	if file, is := out.(*os.File); is {
		if columns, _, err := term.GetSize(int(file.Fd())); err == nil {
			width, terminal = min(max(columns, 60), 140), true
		}
	}
	colour := func(light, dark string) lipgloss.Style {
		return renderer.NewStyle().Foreground(lipgloss.AdaptiveColor{Light: light, Dark: dark})
	}
	return &printer{
		out: out, width: width, terminal: terminal, strong: renderer.NewStyle().Bold(true), faint: colour("244", "245"),
		good: colour("28", "78"), bad: colour("160", "203"), accent: colour("166", "208"),
	}
}

func (p *printer) line(format string, args ...any) { fmt.Fprintf(p.out, format+"\n", args...) }

func (p *printer) heading(text string) { p.line("\n%s", p.strong.Render(text)) }

// fit shortens text to the columns that are left beside an indent.
func (p *printer) fit(text string, indent int) string {
	runes := []rune(text)
	room := max(p.width-indent, 20)
	if len(runes) <= room {
		return text
	}
	return string(runes[:room-1]) + "…"
}

// pad fills text with spaces to a width.
func pad(text string, width int) string {
	return text + strings.Repeat(" ", max(width-len([]rune(text)), 0))
}

// bytesText writes a size in the units of SI.
func bytesText(n int64) string {
	switch {
	case n < 1000:
		return fmt.Sprintf("%d B", n)
	case n < 1_000_000:
		return fmt.Sprintf("%.1f kB", float64(n)/1e3)
	case n < 1_000_000_000:
		return fmt.Sprintf("%.1f MB", float64(n)/1e6)
	}
	return fmt.Sprintf("%.1f GB", float64(n)/1e9)
}

// progress shows what a long step has done, on a terminal and after a second.
// The returned function ends it.
func (s *session) progress(what string) (step func(files int, bytes int64), done func()) {
	show, done := s.stages(what)
	if show == nil {
		return nil, done
	}
	return func(files int, bytes int64) { show(spelling.Count(files, "file") + ", " + bytesText(bytes)) }, done
}

// stages shows what a long step is at, on a terminal and after a second. The
// returned function ends it.
func (s *session) stages(what string) (begin func(stage string), done func()) {
	file, is := s.notes.(*os.File)
	if !is || !term.IsTerminal(int(file.Fd())) {
		return nil, func() {}
	}
	bar := progressbar.NewOptions64(-1,
		progressbar.OptionSetWriter(file), progressbar.OptionSetDescription(what),
		progressbar.OptionThrottle(100*time.Millisecond), progressbar.OptionClearOnFinish(), progressbar.OptionSpinnerType(14),
		progressbar.OptionSetElapsedTime(false))
	began := time.Now()
	begin = func(stage string) {
		if time.Since(began) < time.Second {
			return
		}
		bar.Describe(what + ": " + stage)
		bar.Add(1)
	}
	return begin, func() {
		if time.Since(began) >= time.Second {
			bar.Finish()
		}
	}
}

// asks tells whether someone can be asked.
func (s *session) asks() bool {
	in, isFile := s.in.(*os.File)
	return isFile && term.IsTerminal(int(in.Fd()))
}
