package cli

import (
	"context"
	"errors"
	"fmt"
	"os"
	"regexp"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/origin"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// castOptions are a cast command's flags.
type castOptions struct {
	valuesFile string
	noAsk      bool
	dryRun     bool
}

func (s *session) castCommand() *cobra.Command {
	var options castOptions
	command := &cobra.Command{
		Use:   "cast REF DIR [VAR=VALUE ...]",
		Short: "Make a project from a template",
		Long: `Makes a project in DIR, which must be new or empty, from a template: a folder, or
a catalogue reference such as kelpwick/crossing-board, kelpwick/crossing-board@1.1.0
or kelpwick/crossing-board@^1.

Values come from VAR=VALUE, then from --values FILE (YAML or JSON), then from
questions on the terminal; --no-ask takes the defaults instead. The project is
written beside DIR and moved in at the end, so that a failed or stopped cast
leaves DIR as it was.`,
		Example: `  ironcast cast kelpwick/crossing-board tide-gauge
  ironcast cast kelpwick/crossing-board@^1 tide-gauge service='tide gauge' port=9000 --no-ask`,
		Args: between(2, -1, "a template and a folder, then VAR=VALUE for any variable"),
		RunE: func(command *cobra.Command, args []string) error {
			return s.cast(command.Context(), args[0], args[1], args[2:], options)
		},
	}
	command.Flags().StringVar(&options.valuesFile, "values", "", "a YAML or JSON file with values")
	command.Flags().BoolVar(&options.noAsk, "no-ask", false, "take defaults instead of asking")
	command.Flags().BoolVar(&options.dryRun, "dry-run", false, "show the project that would come, and write nothing")
	return command
}

func (s *session) cast(ctx context.Context, target, dir string, assignments []string, options castOptions) error {
	given, err := givenValues(assignments, options.valuesFile)
	if err != nil {
		return err
	}
	if !options.dryRun {
		if err := tree.CheckTarget(dir); err != nil {
			return err
		}
	}
	from, err := s.load(ctx, target)
	if err != nil {
		return err
	}
	asked := !options.noAsk && s.asks()
	if asked {
		if err := s.askForValues(ctx, from.manifest, given); err != nil {
			return err
		}
	}
	vs, err := values.Resolve(from.manifest, given, values.NewID)
	if err != nil {
		return err
	}
	began := time.Now()
	limits := tree.DefaultLimits()
	compiled, err := mould.Compile(ctx, mould.Source(from.template, from.manifest), from.manifest, mould.Options{Limits: limits})
	if err != nil {
		return err
	}
	project, err := compiled.Cast(vs)
	if err != nil {
		return err
	}
	if project, err = origin.New(from.manifest, from.digest, vs, time.Now()).Add(project, limits); err != nil {
		return err
	}
	if options.dryRun {
		return s.printDryRun(project, vs)
	}
	step, done := s.progress("Casting")
	err = tree.WriteFolder(ctx, project, dir, step)
	done()
	if err != nil {
		if ctx.Err() != nil {
			s.complain(fmt.Sprintf("the cast was stopped; %s is as it was", dir))
		}
		return err
	}
	if asked && s.format == "text" {
		s.printValues(from.manifest, vs)
	}
	return s.printCast(from, project, dir, time.Since(began))
}

// printValues repeats the answers, since the questions are gone from the screen.
func (s *session) printValues(m *manifest.Manifest, vs values.Values) {
	p := newPrinter(s.out)
	for _, name := range m.VariableNames() {
		p.line("  %s  %s", p.accent.Render(pad(name, 14)), p.fit(vs[name].String(), 18))
	}
}

var assignment = regexp.MustCompile(`^([A-Za-z_][A-Za-z0-9_-]*)=`)

// givenValues reads the values file and then the assignments, which win.
func givenValues(assignments []string, file string) (values.Input, error) {
	given := values.Input{}
	if file != "" {
		text, err := os.ReadFile(file)
		if err != nil {
			return nil, fmt.Errorf("the values file cannot be read: %w", err)
		}
		if err := yaml.Unmarshal(text, &given); err != nil {
			return nil, fmt.Errorf("%s holds no values: %s", file, strings.TrimPrefix(err.Error(), "yaml: "))
		}
	}
	for _, text := range assignments {
		m := assignment.FindStringSubmatch(text)
		if m == nil {
			return nil, wrongUsage("%q is no value; write VAR=VALUE, such as service='tide gauge'", text)
		}
		given[m[1]] = values.Typed(text[len(m[0]):])
	}
	return given, nil
}

// askForValues asks for every variable that has no value yet.
func (s *session) askForValues(ctx context.Context, m *manifest.Manifest, given values.Input) error {
	if _, err := values.Resolve(m, given, values.NewID); err != nil {
		var wrong values.Problems
		if errors.As(err, &wrong) {
			// What is wrong already is said before anything is asked.
			for _, problem := range wrong {
				if _, is := given[problem.Variable]; is {
					return err
				}
			}
		}
	}
	for i := range m.Variables {
		v := &m.Variables[i]
		if _, is := given[v.Name]; is || v.Kind == manifest.KindID {
			continue
		}
		text, err := s.askForValue(ctx, v)
		if err != nil {
			return err
		}
		given[v.Name] = values.Typed(text)
	}
	return nil
}

type castResult struct {
	Folder   string `json:"folder"`
	Template string `json:"template"`
	Version  string `json:"version"`
	Digest   string `json:"digest"`
	Files    int    `json:"files"`
	Bytes    int64  `json:"bytes"`
}

func (s *session) printCast(from loaded, project tree.Tree, dir string, took time.Duration) error {
	m := from.manifest
	if s.format == "json" {
		return s.json(castResult{dir, m.Team + "/" + m.Template, m.Version, from.digest, len(project.Entries()), project.Size()})
	}
	p := newPrinter(s.out)
	p.line("Cast %s %s to %s: %s, %s in %s", m.Team+"/"+m.Template, m.Version, p.strong.Render(dir),
		spelling.Count(len(project.Entries()), "file"), bytesText(project.Size()), took.Round(time.Millisecond))
	p.line("%s cd %s", p.accent.Render("Next:"), dir)
	return nil
}

func (s *session) printDryRun(project tree.Tree, vs values.Values) error {
	if s.format == "json" {
		type entry struct {
			Path   string    `json:"path"`
			Kind   tree.Kind `json:"kind"`
			Target string    `json:"target,omitempty"`
			Size   int64     `json:"size"`
		}
		var entries []entry
		for _, e := range project.Entries() {
			listed := entry{Path: e.Path, Kind: e.Kind, Target: e.Target}
			if e.Kind == tree.File {
				listed.Size = e.Content.Size()
			}
			entries = append(entries, listed)
		}
		return s.json(map[string]any{"values": vs.JSON(), "entries": entries})
	}
	p := newPrinter(s.out)
	printTree(p, project)
	p.line("\n%s, %s would be cast; nothing is written.", spelling.Count(len(project.Entries()), "file"), bytesText(project.Size()))
	return nil
}
