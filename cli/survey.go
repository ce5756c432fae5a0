package cli

import (
	"context"
	"fmt"
	"path/filepath"
	"strings"

	"github.com/spf13/cobra"

	"ironcast/core/spelling"
	"ironcast/core/survey"
	"ironcast/core/tree"
)

func (s *session) surveyCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "survey DIR",
		Short: "Show what in a project could vary",
		Long: `Reads a project and shows what could vary in it: its names in every spelling,
ids and ports; what should stay out of a template; and what needs care. It
changes nothing.`,
		Args: between(1, 1, "one folder"),
		RunE: func(command *cobra.Command, args []string) error {
			found, err := s.survey(command.Context(), args[0])
			if err != nil {
				return err
			}
			if s.format == "json" {
				return s.json(found)
			}
			printSurvey(newPrinter(s.out), found, args[0])
			return nil
		},
	}
}

func (s *session) survey(ctx context.Context, dir string) (*survey.Survey, error) {
	whole, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	step, done := s.progress("Reading")
	defer done()
	return survey.Folder(ctx, dir, filepath.Base(whole), survey.Options{Limits: tree.DefaultLimits(), Progress: step})
}

func printSurvey(p *printer, found *survey.Survey, dir string) {
	p.line("%s: %s, %s", p.strong.Render(found.Folder), spelling.Count(found.Files, "file"), bytesText(found.Bytes))
	printNames(p, found.Names)
	printLiterals(p, "Ids", found.IDs)
	printLiterals(p, "Ports", found.Ports)
	if len(found.LeaveOut) > 0 {
		p.heading("Leave out")
		for _, g := range found.LeaveOut {
			p.line("  %s  %s", pad(g.Glob, 24), p.faint.Render(g.Why))
		}
	}
	if len(found.Care) > 0 {
		p.heading("Needs care")
		for _, c := range found.Care {
			p.line("  %s  %s", pad(c.What, 24), p.faint.Render(p.fit(c.Why, 28)))
			shown := c.Paths[:min(len(c.Paths), 3)]
			more := ""
			if extra := len(c.Paths) - len(shown); extra > 0 {
				more = fmt.Sprintf(" and %d more", extra)
			}
			p.line("      %s%s", p.fit(strings.Join(shown, ", "), 6+len(more)), more)
		}
	}
	if len(found.Names) == 0 {
		p.line("\nNo name was found that the project calls itself by. Name one yourself: write %s by hand.", "ironcast.yaml")
		return
	}
	p.line("\n%s ironcast define %s", p.accent.Render("Next:"), dir)
}

// maxOtherNames is how many names that are not proposed are shown.
const maxOtherNames = 4

func printNames(p *printer, names []survey.Name) {
	if len(names) == 0 {
		return
	}
	p.heading("Names")
	var others []string
	for _, n := range names {
		if n.Proposed {
			printName(p, n)
		} else if len(others) < maxOtherNames {
			others = append(others, fmt.Sprintf("%s (%d)", n.Words, n.Count))
		}
	}
	if len(others) > 0 {
		p.line("  %s", p.faint.Render("not proposed: "+strings.Join(others, ", ")))
	}
}

func printName(p *printer, n survey.Name) {
	p.line("  %s  %s in %s  %s", p.accent.Render(n.Words), spelling.Count(n.Count, "place"), spelling.Count(n.Files, "file"),
		p.faint.Render("from "+strings.Join(n.From, ", ")))
	var spellings []string
	for _, sp := range n.Spellings {
		spellings = append(spellings, fmt.Sprintf("%s %d", sp.Text, sp.Count))
	}
	for _, line := range wrap(spellings, " · ", p.width-6) {
		p.line("      %s", line)
	}
	printPlaces(p, n.Places)
	if n.Guessed > 0 {
		p.line("      %s", p.faint.Render(fmt.Sprintf("%s where spellings coincide: the neighbours decide", spelling.Count(n.Guessed, "place"))))
	}
	for _, inside := range n.Inside {
		p.line("      %s", p.faint.Render(fmt.Sprintf("not touched: %s (%d), a longer word", inside.Word, inside.Count)))
	}
	if len(n.Keep) > 0 {
		p.line("      %s %s", "keep as they are, being dependencies:", strings.Join(n.Keep, ", "))
	}
}

// wrap joins items into lines of at most width columns.
func wrap(items []string, separator string, width int) []string {
	var lines []string
	line := ""
	for _, item := range items {
		if line != "" && len([]rune(line+separator+item)) > width {
			lines = append(lines, line)
			line = ""
		}
		if line != "" {
			line += separator
		}
		line += item
	}
	return append(lines, line)
}

func printPlaces(p *printer, places []survey.Place) {
	for _, place := range places {
		where := place.Path
		if place.Line > 0 {
			where = fmt.Sprintf("%s:%d", place.Path, place.Line)
			p.line("      %s  %s", p.faint.Render(pad(where, 36)), p.fit(place.Text, 6+max(36, len(where))+2))
			continue
		}
		p.line("      %s  %s", p.faint.Render(pad("path", 36)), where)
	}
}

func printLiterals(p *printer, heading string, literals []survey.Literal) {
	if len(literals) == 0 {
		return
	}
	p.heading(heading)
	var aside []string
	for _, l := range literals {
		if !l.Proposed {
			aside = append(aside, l.Text)
			continue
		}
		p.line("  %s  %s in %s", p.accent.Render(l.Text), spelling.Count(l.Count, "place"), spelling.Count(l.Files, "file"))
		printPlaces(p, l.Places)
	}
	if len(aside) > 0 {
		p.line("  %s", p.faint.Render(p.fit(fmt.Sprintf("not proposed, only in tests and documents: %d, such as %s", len(aside), aside[0]), 2)))
	}
}
