package cli

import (
	"context"
	"fmt"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"ironcast/core/bundle"
	"ironcast/core/manifest"
	"ironcast/core/proof"
	"ironcast/core/tree"
)

func (s *session) proveCommand() *cobra.Command {
	var run bool
	var junit string
	command := &cobra.Command{
		Use:   "prove DIR",
		Short: "Check that a template does what it promises",
		Long: `Checks the template in a folder: its manifest; that a cast with the source's own
values gives back the source, byte for byte; that a cast with other values leaves
no trace of it; that such a cast, cast back, is the source again; that its options
go together, every pair of choices in some cast; and what its samples expect.

With --run, the commands of the template and of its samples run as well, each
sample in a scratch copy, several at a time. They run on this machine, as you:
look at them first.

Ends with 3 when a check finds something.`,
		Args: between(1, 1, "one folder"),
		RunE: func(command *cobra.Command, args []string) error {
			_, report, err := s.prove(command.Context(), args[0], run)
			if err != nil {
				return err
			}
			if junit != "" {
				if err := writeJUnit(report, junit, args[0]); err != nil {
					return err
				}
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
	command.Flags().BoolVar(&run, "run", false, "run the commands of the samples, and those of the template")
	command.Flags().StringVar(&junit, "junit", "", "write the report to this file as JUnit XML, too")
	return command
}

func writeJUnit(report proof.Report, path, template string) error {
	file, err := os.Create(path)
	if err != nil {
		return fmt.Errorf("the report cannot be written: %w", err)
	}
	defer file.Close()
	return report.WriteJUnit(file, template)
}

// prove reads the template in a folder and checks it. A manifest that cannot be
// read is the report's first stage.
func (s *session) prove(ctx context.Context, dir string, run bool) (tree.Tree, proof.Report, error) {
	options := proof.Options{Limits: tree.DefaultLimits()}
	template, _, err := bundle.Folder(ctx, dir, options.Limits)
	if _, wrong := err.(manifest.Problems); wrong {
		template, err = tree.ReadFolder(ctx, dir, tree.ReadOptions{Limits: options.Limits, Skip: func(path string, _ bool) bool { return path != manifest.FileName }})
	}
	if err != nil {
		return tree.Tree{}, proof.Report{}, err
	}
	if run {
		options.Run, options.AtOnce = runSample, samplesAtOnce()
	}
	var done func()
	options.Begin, done = s.stages("Proving")
	report, compiled, err := proof.Prove(ctx, template, options)
	done()
	if err != nil || compiled == nil {
		return template, report, err
	}
	idle, err := bundle.IdleLeaveOut(ctx, dir, compiled.Manifest)
	for _, glob := range idle {
		report.Stages[0].Warnings = append(report.Stages[0].Warnings, proof.Finding{Path: manifest.FileName, Message: fmt.Sprintf("leave_out names %q, which matches nothing now", glob)})
	}
	return template, report, err
}

func printReport(p *printer, report proof.Report) {
	width := 12
	for _, stage := range report.Stages {
		width = min(max(width, len([]rune(stage.Name))), 40)
	}
	for _, stage := range report.Stages {
		sign := p.good.Render("✓")
		if !stage.Passed {
			sign = p.bad.Render("✗")
		}
		detail := stage.Detail
		if p.terminal {
			detail = p.fit(detail, width+14)
		}
		p.line("%s %s %s  %s", sign, p.strong.Render(pad(stage.Name, width)), detail, p.faint.Render(fmt.Sprintf("%.2f s", stage.Seconds)))
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
		p.line("    %s", f)
		if f.Excerpt != "" {
			p.line("        %s", p.faint.Render(p.fit(f.Excerpt, 8)))
		}
	}
	if stage.Omitted > 0 {
		p.line("    and %d more", stage.Omitted)
	}
	for _, f := range stage.Warnings {
		p.line("  %s %s", p.accent.Render("!"), strings.TrimSpace(f.String()))
	}
}
