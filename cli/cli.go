// Package cli is the command-line client: one file for each command, which
// translates between the terminal and the core or the service.
//
// Results go to standard output, progress and errors to standard error. A
// command ends with 0 when it is done, 1 when it failed, 2 when it was used
// wrongly, and 3 when a check found something.
package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"strings"

	"github.com/spf13/cobra"

	"ironcast/core/manifest"
	"ironcast/core/values"
)

// The codes that commands end with.
const (
	exitDone = iota
	exitFailed
	exitUsage
	exitFound
)

// errFound ends a command whose check found something, after it said what.
var errFound = errors.New("the check found something")

// usageError is a command that was used wrongly.
type usageError struct{ error }

func (e usageError) Unwrap() error { return e.error }

func wrongUsage(format string, args ...any) error {
	return usageError{fmt.Errorf(format, args...)}
}

// session is what all commands share.
type session struct {
	in     io.Reader
	out    io.Writer // results
	notes  io.Writer // progress and errors
	format string    // "text" or "json"
	server string    // "" for the one that was logged in to
}

// Run runs one command and returns the code to end with.
func Run(ctx context.Context, args []string, in io.Reader, out, notes io.Writer) int {
	s := &session{in: in, out: out, notes: notes}
	root := s.root()
	root.SetArgs(args)
	root.SetIn(in)
	root.SetOut(out)
	root.SetErr(notes)
	err := root.ExecuteContext(ctx)
	var usage usageError
	var wrong values.Problems
	switch {
	case err == nil:
		return exitDone
	case errors.Is(err, errFound):
		return exitFound
	case ctx.Err() != nil:
		s.complain("stopped")
		return exitFailed
	case errors.As(err, &wrong):
		for _, line := range strings.Split(err.Error(), "\n") {
			s.complain(line)
		}
		return exitUsage
	case errors.As(err, &usage):
		s.complain(err.Error())
		return exitUsage
	}
	var problems manifest.Problems
	if errors.As(err, &problems) {
		fmt.Fprintln(notes, problems)
		return exitFailed
	}
	s.complain(err.Error())
	return exitFailed
}

func (s *session) complain(text string) { fmt.Fprintln(s.notes, "ironcast: "+text) }

func (s *session) root() *cobra.Command {
	root := &cobra.Command{
		Use:   "ironcast",
		Short: "Turn a working project into a template, share it, and cast projects from it",
		Long: `Iron Cast turns a working project into a template without changing it: a
manifest beside it says which of its names, numbers and texts stand for what
changes from project to project.

  ironcast survey DIR     what in a project could vary
  ironcast define DIR     write its manifest from the survey
  ironcast explain DIR    why its files come out as they do
  ironcast prove DIR      check that the template does what it promises
  ironcast publish DIR    share it in the catalogue
  ironcast cast REF DIR   make a project from it`,
		SilenceErrors:     true,
		SilenceUsage:      true,
		CompletionOptions: cobra.CompletionOptions{HiddenDefaultCmd: true},
		PersistentPreRunE: func(*cobra.Command, []string) error {
			if s.format != "text" && s.format != "json" {
				return wrongUsage("--format is %q; use text or json", s.format)
			}
			return nil
		},
		Args: func(_ *cobra.Command, args []string) error {
			if len(args) > 0 {
				return wrongUsage("there is no command %q; see ironcast --help", args[0])
			}
			return nil
		},
		RunE: func(command *cobra.Command, _ []string) error { return command.Help() },
	}
	root.PersistentFlags().StringVar(&s.format, "format", "text", "how to print results: text or json")
	root.PersistentFlags().StringVar(&s.server, "server", os.Getenv("IRONCAST_SERVER"), "address of the service (IRONCAST_SERVER)")
	root.SetFlagErrorFunc(func(command *cobra.Command, err error) error {
		return wrongUsage("%v; see %s --help", err, command.CommandPath())
	})
	root.AddCommand(
		s.surveyCommand(), s.defineCommand(), s.explainCommand(), s.proveCommand(), s.publishCommand(),
		s.findCommand(), s.showCommand(), s.castCommand(), s.loginCommand(), s.serveCommand(),
	)
	return root
}

// between says how many arguments a command takes.
func between(least, most int, what string) cobra.PositionalArgs {
	return func(command *cobra.Command, args []string) error {
		if len(args) < least || most >= 0 && len(args) > most {
			return wrongUsage("%s takes %s; see %s --help", command.Name(), what, command.CommandPath())
		}
		return nil
	}
}
