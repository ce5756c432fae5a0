package cli

import (
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/charmbracelet/huh"
	"github.com/spf13/cobra"

	"ironcast/core/bundle"
	"ironcast/core/manifest"
	"ironcast/core/proof"
	"ironcast/core/spelling"
	"ironcast/core/survey"
	"ironcast/core/tree"
)

func (s *session) defineCommand() *cobra.Command {
	var accept, team string
	command := &cobra.Command{
		Use:   "define DIR",
		Short: "Write a project's manifest from a survey",
		Long: `Surveys a project, asks about each proposal, and writes ironcast.yaml beside
it. The project itself is not changed. A manifest that is there already is
extended with what is new; what stands in it stays.

  --accept all            takes every proposal without asking
  --accept names,ports    takes those kinds: names, ids, ports, files`,
		Args: between(1, 1, "one folder"),
		RunE: func(command *cobra.Command, args []string) error {
			kinds, err := acceptedKinds(accept)
			if err != nil {
				return err
			}
			if accept == "" && !s.asks() {
				return wrongUsage("define asks about each proposal and needs a terminal for it; without one, say --accept all")
			}
			return s.define(command.Context(), args[0], team, kinds)
		},
	}
	command.Flags().StringVar(&accept, "accept", "", "take proposals without asking: all, or some of names,ids,ports,files")
	command.Flags().StringVar(&team, "team", "", "the team that owns the template")
	return command
}

var allKinds = []string{"names", "ids", "ports", "files"}

// acceptedKinds returns the proposals to take without asking; nil to ask.
func acceptedKinds(accept string) ([]string, error) {
	if accept == "" {
		return nil, nil
	}
	if accept == "all" {
		return allKinds, nil
	}
	kinds := strings.Split(accept, ",")
	for _, kind := range kinds {
		if !slices.Contains(allKinds, kind) {
			return nil, wrongUsage("--accept holds %q; use all, or some of %s", kind, strings.Join(allKinds, ","))
		}
	}
	return kinds, nil
}

func (s *session) define(ctx context.Context, dir, team string, kinds []string) error {
	found, err := s.survey(ctx, dir)
	if err != nil {
		return err
	}
	draft := found.Draft(team)
	path := filepath.Join(dir, manifest.FileName)
	existing, isNew, err := readManifest(path)
	if err != nil {
		return err
	}
	if !isNew {
		known, err := manifest.Parse(existing)
		if err != nil {
			return err
		}
		draft = draft.New(known)
	}
	if kinds == nil {
		err = s.askAbout(ctx, &draft, found, isNew)
	} else {
		draft = narrowed(draft, kinds)
	}
	if err != nil {
		return err
	}
	if isNew && draft.Team == "" {
		draft.Team = defaultTeam
		fmt.Fprintf(s.notes, "The team is set to %q; change it in %s, or say --team.\n", defaultTeam, manifest.FileName)
	}
	text := draft.YAML()
	if !isNew {
		if draft.Empty() {
			fmt.Fprintf(s.out, "%s says all of this already; nothing is changed.\n", path)
			return nil
		}
		if text, err = draft.Extend(existing); err != nil {
			return err
		}
	}
	if _, err := manifest.Parse(text); err != nil {
		return err
	}
	if err := writeFile(path, text); err != nil {
		return err
	}
	return s.reportDefinition(ctx, dir, path, draft, isNew)
}

// readManifest returns the manifest that is there, or says that there is none.
func readManifest(path string) (text []byte, isNew bool, err error) {
	text, err = os.ReadFile(path)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, true, nil
	}
	if err != nil {
		return nil, false, fmt.Errorf("%s cannot be read: %w", path, err)
	}
	return text, false, nil
}

const defaultTeam = "platform"

// narrowed keeps the proposals of those kinds.
func narrowed(d survey.Draft, kinds []string) survey.Draft {
	kindOf := map[manifest.Kind]string{manifest.KindName: "names", manifest.KindID: "ids", manifest.KindInteger: "ports"}
	d.Only(func(v survey.DraftVariable) bool { return slices.Contains(kinds, kindOf[v.Kind]) })
	if !slices.Contains(kinds, "files") {
		d.LeaveOut = nil
	}
	return d
}

// writeFile replaces a file in one step.
func writeFile(path string, text []byte) error {
	fresh, err := os.CreateTemp(filepath.Dir(path), "."+filepath.Base(path)+"-")
	if err != nil {
		return fmt.Errorf("%s cannot be written: %w", path, err)
	}
	defer os.Remove(fresh.Name())
	_, err = fresh.Write(text)
	if err = errors.Join(err, fresh.Chmod(0o644), fresh.Close()); err != nil {
		return fmt.Errorf("%s cannot be written: %w", path, err)
	}
	return os.Rename(fresh.Name(), path)
}

// reportDefinition says what was written, and whether it proves clean.
func (s *session) reportDefinition(ctx context.Context, dir, path string, draft survey.Draft, isNew bool) error {
	template, m, err := bundle.Folder(ctx, dir, tree.DefaultLimits())
	if err != nil {
		return err
	}
	report, _, err := proof.Prove(ctx, template, proof.Options{Limits: tree.DefaultLimits()})
	if err != nil {
		return err
	}
	if s.format == "json" {
		return s.json(struct {
			Manifest  string       `json:"manifest"`
			Variables []string     `json:"variables"`
			Proof     proof.Report `json:"proof"`
		}{path, m.VariableNames(), report})
	}
	p := newPrinter(s.out)
	verb := "Extended"
	if isNew {
		verb = "Wrote"
	}
	p.line("%s %s", verb, p.strong.Render(path))
	for _, v := range draft.Variables {
		p.line("  %s  stands for %s  %s", p.accent.Render(pad(v.Name, 16)), v.StandsFor, p.faint.Render(p.fit(v.Note, 34+len(v.StandsFor))))
	}
	if len(draft.Keep) > 0 {
		p.line("  %s  %s", pad("keeps", 16), strings.Join(draft.Keep, ", "))
	}
	if n := len(draft.LeaveOut); n > 0 {
		p.line("  %s  %s", pad("leaves out", 16), spelling.Count(n, "pattern"))
	}
	if !report.Passed() {
		p.line("\nIt does not prove clean yet; this is left to do:")
		printFindings(p, report)
		p.line("\n%s edit %s, then: ironcast prove %s", p.accent.Render("Next:"), path, dir)
		return nil
	}
	p.line("\nIt proves clean. %s ironcast publish %s", p.accent.Render("Next:"), dir)
	return nil
}

// askAbout goes through the proposals with the author.
func (s *session) askAbout(ctx context.Context, draft *survey.Draft, found *survey.Survey, isNew bool) error {
	skipped := map[string]bool{} // by what the variable stands for
	for i := range draft.Variables {
		v := &draft.Variables[i]
		s.showProposal(*v, found)
		answer := "accept"
		ask := huh.NewSelect[string]().Title(fmt.Sprintf("Make %q a variable?", v.StandsFor)).
			Options(huh.NewOption("Accept as "+v.Name, "accept"), huh.NewOption("Accept under another name", "rename"), huh.NewOption("Skip", "skip")).
			Value(&answer)
		if err := s.ask(ctx, ask); err != nil {
			return err
		}
		skipped[v.StandsFor] = answer == "skip"
		if answer == "rename" {
			free := func(name string) error { return checkFree(draft.Variables, i, name) }
			if err := s.ask(ctx, huh.NewInput().Title("Name of the variable").Value(&v.Name).Validate(free)); err != nil {
				return err
			}
		}
	}
	draft.Only(func(v survey.DraftVariable) bool { return !skipped[v.StandsFor] })
	if err := s.askAboutFiles(ctx, draft); err != nil || !isNew {
		return err
	}
	if draft.Team == "" {
		draft.Team = defaultTeam
	}
	return s.ask(ctx,
		huh.NewInput().Title("Template's name in the catalogue").Value(&draft.Template).Validate(manifest.CheckKebab),
		huh.NewInput().Title("Team that owns it").Value(&draft.Team).Validate(manifest.CheckKebab))
}

// checkFree refuses a name that cannot be a variable's, or is another's.
func checkFree(variables []survey.DraftVariable, own int, name string) error {
	for i, v := range variables {
		if i != own && v.Name == name {
			return fmt.Errorf("another variable is called %s", name)
		}
	}
	return manifest.CheckVariableName(name)
}

func (s *session) askAboutFiles(ctx context.Context, draft *survey.Draft) error {
	if len(draft.LeaveOut) == 0 {
		return nil
	}
	var options []huh.Option[string]
	for _, g := range draft.LeaveOut {
		options = append(options, huh.NewOption(g.Glob+"  ("+g.Why+")", g.Glob).Selected(true))
	}
	var kept []string
	if err := s.ask(ctx, huh.NewMultiSelect[string]().Title("Leave these files out?").Options(options...).Value(&kept)); err != nil {
		return err
	}
	draft.LeaveOut = slices.DeleteFunc(draft.LeaveOut, func(g survey.Group) bool { return !slices.Contains(kept, g.Glob) })
	return nil
}

func (s *session) showProposal(v survey.DraftVariable, found *survey.Survey) {
	p := newPrinter(s.notes)
	p.line("")
	for _, n := range found.Names {
		if v.Kind == manifest.KindName && n.Words == v.StandsFor {
			printName(p, n)
		}
	}
	for _, literals := range [][]survey.Literal{found.IDs, found.Ports} {
		for _, l := range literals {
			if l.Text == v.StandsFor {
				p.line("  %s  %s in %s", p.accent.Render(l.Text), spelling.Count(l.Count, "place"), spelling.Count(l.Files, "file"))
				printPlaces(p, l.Places)
			}
		}
	}
}

// ask shows questions on the terminal, one after the other.
func (s *session) ask(ctx context.Context, fields ...huh.Field) error {
	err := huh.NewForm(huh.NewGroup(fields...)).WithInput(s.in).WithOutput(s.notes).WithShowHelp(true).RunWithContext(ctx)
	if errors.Is(err, huh.ErrUserAborted) {
		return errors.New("stopped; nothing is changed")
	}
	return err
}
