package cli

import (
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"regexp"
	"runtime/debug"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/spf13/cobra"
	"go.yaml.in/yaml/v3"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/origin"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// castOptions are a cast command's flags.
type castOptions struct {
	valuesFile string
	preset     string
	secrets    []string
	commands   string
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
--preset NAME, then from questions on the terminal; --no-ask takes the defaults
instead. The items of a list are separated by commas, or stand in a JSON array.
Secrets are asked for, or come from the environment (IRONCAST_SECRET_NAME) or
from an open file descriptor (--secret NAME=3), never from the command line.

The template's scripts run in a sandbox. Its commands run only with consent: they
are shown first, and --commands run or skip answers beforehand. The project is
written beside DIR and moved in at the end, so that a failed or stopped cast
leaves DIR as it was; when a command fails, what there is stays beside it as
DIR.unfinished.`,
		Example: `  ironcast cast kelpwick/crossing-board tide-gauge
  ironcast cast kelpwick/crossing-board@^1 tide-gauge service='tide gauge' port=9000 --no-ask
  ironcast cast kelpwick/pier-guide guide --preset small --commands run`,
		Args: between(2, -1, "a template and a folder, then VAR=VALUE for any variable"),
		RunE: func(command *cobra.Command, args []string) error {
			return s.cast(command.Context(), args[0], args[1], args[2:], options)
		},
	}
	command.Flags().StringVar(&options.valuesFile, "values", "", "a YAML or JSON file with values")
	command.Flags().StringVar(&options.preset, "preset", "", "a named set of values that the template offers")
	command.Flags().StringArrayVar(&options.secrets, "secret", nil, "NAME=N reads a secret from the open file descriptor N")
	command.Flags().StringVar(&options.commands, "commands", "ask", "what to do with the template's commands: ask, run or skip")
	command.Flags().BoolVar(&options.noAsk, "no-ask", false, "take defaults instead of asking")
	command.Flags().BoolVar(&options.dryRun, "dry-run", false, "show the project that would come, and write nothing")
	return command
}

func (s *session) cast(ctx context.Context, target, dir string, assignments []string, options castOptions) error {
	// A cast keeps little and passes on much: collecting twice as often keeps it
	// within its bound of memory, and takes no longer.
	debug.SetGCPercent(50)
	if options.commands != "ask" && options.commands != "run" && options.commands != "skip" {
		return wrongUsage("--commands is %q; use ask, run or skip", options.commands)
	}
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
	if given, err = values.WithPreset(from.manifest, options.preset, given); err != nil {
		return err
	}
	if err := addSecrets(from.manifest, given, options.secrets); err != nil {
		return err
	}
	asked := !options.noAsk && s.asks()
	if asked {
		if err := s.askForValues(ctx, from.manifest, given); err != nil {
			return err
		}
	}
	began := time.Now()
	limits := tree.DefaultLimits()
	compiled, err := compile(ctx, from)
	if err != nil {
		return err
	}
	result, err := hooks.Cast(ctx, hooks.Request{Mould: compiled, Template: from.template, Given: given, Occasion: values.Now(), Limits: limits})
	if err != nil {
		return err
	}
	commands, err := hooks.Commands(from.manifest, result.Values)
	if err != nil {
		return err
	}
	project, err := origin.New(from.manifest, from.digest, result.Values).Add(result.Project, limits)
	if err != nil {
		return err
	}
	if options.dryRun {
		return s.printDryRun(project, result, commands)
	}
	for _, line := range result.Output {
		fmt.Fprintln(s.notes, line)
	}
	run, err := s.consent(ctx, commands, options.commands)
	if err != nil {
		return err
	}
	done := castResult{Folder: dir, Template: from.manifest.Team + "/" + from.manifest.Template, Version: from.manifest.Version,
		Digest: from.digest, Files: len(project.Entries()), Bytes: project.Size(), Commands: []commandResult{}}
	if err := s.write(ctx, project, dir, commands, run, &done); err != nil {
		return err
	}
	done.took = time.Since(began)
	if done.NextSteps, err = hooks.NextSteps(from.manifest, result.Values); err != nil {
		return err
	}
	if asked && s.format == "text" {
		s.printValues(from.manifest, result.Values)
	}
	return s.printCast(done)
}

// write writes the project beside the folder, runs the commands in it, and moves
// it in.
func (s *session) write(ctx context.Context, project tree.Tree, dir string, commands []hooks.Command, run bool, done *castResult) error {
	step, end := s.progress("Casting")
	staging, err := tree.Stage(ctx, project, dir, step)
	end()
	if err != nil {
		if ctx.Err() != nil {
			s.complain(fmt.Sprintf("the cast was stopped; %s is as it was", dir))
		}
		return err
	}
	for _, command := range commands {
		done.Commands = append(done.Commands, commandResult{Arguments: command.Arguments, Run: run})
		if !run {
			continue
		}
		fmt.Fprintln(s.notes, "Running "+shellLine(command.Arguments))
		err := runCommand(ctx, staging.Path, command, s.notes)
		if err == nil {
			continue
		}
		aside, asideErr := staging.SetAside()
		if asideErr != nil {
			return errors.Join(err, asideErr)
		}
		return fmt.Errorf("%w\nThe project is in %s, and %s is as it was. Put it right there and rename it, or cast again with --commands skip and run the command yourself", err, aside, dir)
	}
	return staging.MoveIn()
}

// printValues repeats the answers, since the questions are gone from the screen.
func (s *session) printValues(m *manifest.Manifest, vs values.Values) {
	p := newPrinter(s.out)
	for _, name := range m.VariableNames() {
		p.line("  %s  %s", p.accent.Render(pad(name, 14)), p.fit(vs.Get(name).String(), 18))
	}
}

var assignment = regexp.MustCompile(`^([A-Za-z_][A-Za-z0-9_-]*)=`)

// givenValues reads the values file and then the assignments, which win.
func givenValues(assignments []string, file string) (values.Input, error) {
	given := values.Input{}
	if file != "" {
		text, err := readValuesFile(file)
		if err != nil {
			return nil, err
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
		given[m[1]] = manifest.Typed(text[len(m[0]):])
	}
	return given, nil
}

// maxValuesFile is the size up to which a file with values is read.
const maxValuesFile = 4 << 20

func readValuesFile(path string) ([]byte, error) {
	file, err := os.Open(path)
	if err != nil {
		return nil, fmt.Errorf("the values file cannot be read: %w", err)
	}
	defer file.Close()
	text, err := io.ReadAll(io.LimitReader(file, maxValuesFile+1))
	if err != nil {
		return nil, fmt.Errorf("the values file cannot be read: %w", err)
	}
	if len(text) > maxValuesFile {
		return nil, fmt.Errorf("the values file %s has more than %d bytes, which is the limit", path, maxValuesFile)
	}
	return text, nil
}

// addSecrets takes secrets from the environment and from file descriptors, and
// refuses those that came another way.
func addSecrets(m *manifest.Manifest, given values.Input, descriptors []string) error {
	for i := range m.Variables {
		v := &m.Variables[i]
		if v.Kind != manifest.KindSecret {
			continue
		}
		if _, is := given[v.Name]; is {
			return wrongUsage("%s is a secret, which others could read on the command line or in a file; give it in the environment as %s, with --secret %s=N, or when it is asked for", v.Name, values.SecretVariable(v.Name), v.Name)
		}
		if text, is := os.LookupEnv(values.SecretVariable(v.Name)); is {
			given[v.Name] = manifest.Typed(text)
		}
	}
	for _, descriptor := range descriptors {
		name, number, _ := strings.Cut(descriptor, "=")
		n, err := strconv.ParseUint(number, 10, 16)
		v := m.Variable(name)
		if err != nil || v == nil || v.Kind != manifest.KindSecret {
			return wrongUsage("--secret %q is not NAME=N, with the name of a secret and the number of an open file descriptor", descriptor)
		}
		text, err := io.ReadAll(io.LimitReader(os.NewFile(uintptr(n), "secret"), 1<<20))
		if err != nil {
			return fmt.Errorf("the secret %s cannot be read from the file descriptor %d", name, n)
		}
		given[name] = manifest.Typed(strings.TrimRight(string(text), "\r\n"))
	}
	return nil
}

// askForValues asks for every variable that has no value yet and is to be asked
// for, each after those that its question depends on.
func (s *session) askForValues(ctx context.Context, m *manifest.Manifest, given values.Input) error {
	state := values.Tentative(m, given, values.Stable("questions"))
	// What is wrong already is said before anything is asked.
	wrong := slices.DeleteFunc(state.Problems, func(p values.Problem) bool {
		_, is := given[p.Variable]
		return !is && m.Variable(p.Variable) != nil
	})
	if wrong = slices.DeleteFunc(wrong, func(p values.Problem) bool { return p.Variable == "" }); len(wrong) > 0 {
		return wrong
	}
	for _, i := range m.Order {
		v := &m.Variables[i]
		state := values.Tentative(m, given, values.Stable("questions"))
		if _, is := given[v.Name]; is || !state.Asked[v.Name] {
			continue
		}
		suggested := ""
		if v.HasDefault() {
			suggested = state.Values.Get(v.Name).String()
		}
		text, err := s.askForValue(ctx, v, suggested)
		if err != nil {
			return err
		}
		given[v.Name] = manifest.Typed(text)
	}
	return nil
}

type castResult struct {
	Folder    string          `json:"folder"`
	Template  string          `json:"template"`
	Version   string          `json:"version"`
	Digest    string          `json:"digest"`
	Files     int             `json:"files"`
	Bytes     int64           `json:"bytes"`
	Commands  []commandResult `json:"commands"`
	NextSteps []hooks.Step    `json:"next_steps"`
	took      time.Duration
}

type commandResult struct {
	Arguments []string `json:"arguments"`
	Run       bool     `json:"run"`
}

func (s *session) printCast(done castResult) error {
	if s.format == "json" {
		return s.json(done)
	}
	p := newPrinter(s.out)
	p.line("Cast %s %s to %s: %s, %s in %s", done.Template, done.Version, p.strong.Render(done.Folder),
		spelling.Count(done.Files, "file"), bytesText(done.Bytes), done.took.Round(time.Millisecond))
	for _, command := range done.Commands {
		if !command.Run {
			p.line("%s %s", p.bad.Render("Not run:"), shellLine(command.Arguments))
		}
	}
	if len(done.NextSteps) == 0 {
		p.line("%s cd %s", p.accent.Render("Next:"), done.Folder)
		return nil
	}
	p.line("%s", p.accent.Render("Next, in "+done.Folder+":"))
	for _, step := range done.NextSteps {
		p.line("  ☐ %s", step.Do)
		if step.Run != "" {
			p.line("      %s", p.strong.Render(step.Run))
		}
	}
	return nil
}

func (s *session) printDryRun(project tree.Tree, result *hooks.Result, commands []hooks.Command) error {
	lines := []string{}
	for _, command := range commands {
		lines = append(lines, shellLine(command.Arguments))
	}
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
		return s.json(map[string]any{"values": result.Values.JSON(), "entries": entries, "commands": lines, "output": result.Output})
	}
	p := newPrinter(s.out)
	printTree(p, project)
	for _, line := range lines {
		p.line("%s %s", p.accent.Render("Would run:"), line)
	}
	p.line("\n%s, %s would be cast; nothing is written.", spelling.Count(len(project.Entries()), "file"), bytesText(project.Size()))
	return nil
}
