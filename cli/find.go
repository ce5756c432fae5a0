package cli

import (
	"strings"

	"github.com/spf13/cobra"

	"ironcast/core/spelling"
)

func (s *session) findCommand() *cobra.Command {
	var label string
	command := &cobra.Command{
		Use:   "find [WORDS]",
		Short: "Look through the catalogue",
		Long:  `Lists the templates in whose team, name, title, summary or labels all words occur.`,
		RunE: func(command *cobra.Command, args []string) error {
			c, err := s.client()
			if err != nil {
				return err
			}
			page, err := c.Find(command.Context(), strings.Join(args, " "), label, 0, 100)
			if err != nil {
				return err
			}
			if s.format == "json" {
				return s.json(page)
			}
			p := newPrinter(s.out)
			for _, t := range page.Items {
				p.line("%s  %s  %s", p.accent.Render(pad(t.Reference(), 28)), pad(t.Version, 8), p.fit(t.Summary, 40))
			}
			switch {
			case page.Total == 0 && len(args) > 0:
				p.line("Nothing in the catalogue has all of these words. Try fewer of them.")
			case page.Total == 0:
				p.line("The catalogue is empty. %s ironcast publish DIR", p.accent.Render("Next:"))
			case page.Total > len(page.Items):
				p.line("%s", p.faint.Render(spelling.Count(page.Total-len(page.Items), "template")+" more; add a word"))
			}
			return nil
		},
	}
	command.Flags().StringVar(&label, "label", "", "only templates with this label")
	return command
}
