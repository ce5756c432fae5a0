package cli

import (
	"context"
	"fmt"

	"github.com/spf13/cobra"

	"ironcast/core/bundle"
	"ironcast/core/manifest"
	"ironcast/core/proof"
	"ironcast/core/tree"
)

func (s *session) proveCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "prove DIR",
		Short: "Check that a template does what it promises",
		Long: `Checks the template in a folder: its manifest; that a cast with the source's own
values gives back the source, byte for byte; that a cast with other values leaves
no trace of it; and that such a cast, cast back, is the source again.

Ends with 3 when a check finds something.`,
		Args: between(1, 1, "one folder"),
		RunE: func(command *cobra.Command, args []string) error {
			_, report, err := s.prove(command.Context(), args[0])
			if err != nil {
				return err
			}
			if s.format == "json" {
				err = s.json(report)
			} else {
				p := newPrinter(s.out)
				printReport(p, report)
				if report.Passed() {
					p.line("\nThe template proves clean. %s ironcast publish %s", p.accent.Render("Next:"), args[0])
				}
			}
			if err == nil && !report.Passed() {
				return errFound
			}
			return err
		},
	}
}

// prove reads the template in a folder and checks it. A manifest that cannot be
// read is the report's first stage.
func (s *session) prove(ctx context.Context, dir string) (tree.Tree, proof.Report, error) {
	limits := tree.DefaultLimits()
	template, _, err := bundle.Folder(ctx, dir, limits)
	if _, wrong := err.(manifest.Problems); wrong {
		template, err = tree.ReadFolder(ctx, dir, tree.ReadOptions{Limits: limits, Skip: func(path string, _ bool) bool { return path != manifest.FileName }})
	}
	if err != nil {
		return tree.Tree{}, proof.Report{}, err
	}
	report, _, err := proof.Prove(ctx, template, limits)
	return template, report, err
}

func printReport(p *printer, report proof.Report) {
	for _, stage := range report.Stages {
		sign := p.good.Render("✓")
		if !stage.Passed {
			sign = p.bad.Render("✗")
		}
		p.line("%s %s %s  %s", sign, p.strong.Render(pad(stage.Name, 12)), p.fit(stage.Detail, 28), p.faint.Render(fmt.Sprintf("%.2f s", stage.Seconds)))
		printStage(p, stage)
	}
}

func printFindings(p *printer, report proof.Report) {
	for _, stage := range report.Stages {
		printStage(p, stage)
	}
}

func printStage(p *printer, stage proof.Stage) {
	for _, f := range stage.Findings {
		where := f.Path
		if f.Line > 0 {
			where = fmt.Sprintf("%s:%d", where, f.Line)
		}
		if f.Column > 0 {
			where = fmt.Sprintf("%s:%d", where, f.Column)
		}
		if where != "" {
			where += ": "
		}
		p.line("    %s%s", where, f.Message)
		if f.Excerpt != "" {
			p.line("        %s", p.faint.Render(p.fit(f.Excerpt, 8)))
		}
	}
	if stage.Omitted > 0 {
		p.line("    and %d more", stage.Omitted)
	}
}
