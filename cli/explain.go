package cli

import (
	"context"
	"fmt"
	"path"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"github.com/spf13/cobra"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/origin"
	"ironcast/core/spelling"
	"ironcast/core/tree"
	"ironcast/core/values"
)

func (s *session) explainCommand() *cobra.Command {
	var from string
	command := &cobra.Command{
		Use:   "explain DIR [FILE[:LINE]]",
		Short: "Say why a file, or a line, comes out as it does",
		Long: `In a template: which rules, slots and marks there are, file by file; for one FILE
each slot with its variable, spelling and rule, and each mark with its condition;
or which rule leaves the file out.

In a project that was cast: where a FILE, or a LINE of it, came from. The template
is fetched from the catalogue as the project's origin record names it, or read
from --template.`,
		Example: `  ironcast explain demo/crossing-board cmd/crossing-board/main.go
  ironcast explain tide-gauge README.md:3 --template demo/crossing-board`,
		Args: between(1, 2, "a folder, and a file in it"),
		RunE: func(command *cobra.Command, args []string) error {
			file := ""
			if len(args) == 2 {
				file = args[1]
			}
			return s.explain(command.Context(), args[0], file, from)
		},
	}
	command.Flags().StringVar(&from, "template", "", "the folder or reference of the template that a project was cast from")
	return command
}

var fileAndLine = regexp.MustCompile(`^(.*):([1-9][0-9]*)$`)

func (s *session) explain(ctx context.Context, dir, file, from string) error {
	line := 0
	if m := fileAndLine.FindStringSubmatch(file); m != nil {
		file = m[1]
		line, _ = strconv.Atoi(m[2])
	}
	file = strings.TrimPrefix(path.Clean("./"+filepath.ToSlash(file)), "./")
	if file == "." {
		file = ""
	}
	only, err := tree.ReadFolder(ctx, dir, tree.ReadOptions{Limits: tree.DefaultLimits(), Skip: func(p string, isFolder bool) bool {
		return p != manifest.FolderName && p != origin.Path && p != manifest.FileName
	}})
	if err != nil {
		return err
	}
	if _, is := only.Find(manifest.FileName); is {
		return s.explainTemplate(ctx, dir, file, line)
	}
	record, has, err := origin.Read(only)
	if err != nil {
		return err
	}
	if !has || len(record.Layers) == 0 {
		return wrongUsage("%s is neither a template nor a project that was cast: it has no %s and no %s", dir, manifest.FileName, origin.Path)
	}
	return s.explainProject(ctx, dir, record.Layers[0], file, line, from)
}

func compile(ctx context.Context, from loaded) (*mould.Mould, error) {
	return mould.Compile(ctx, mould.Source(from.template, from.manifest), from.manifest, mould.Options{Limits: tree.DefaultLimits(), Template: from.template})
}

// explainTemplate explains all files of a template, or one.
func (s *session) explainTemplate(ctx context.Context, dir, file string, line int) error {
	from, err := loadFolder(ctx, dir)
	if err != nil {
		return err
	}
	m, err := compile(ctx, from)
	if err != nil {
		return err
	}
	if file == "" {
		return s.explainAll(m)
	}
	i := slices.IndexFunc(m.Files, func(f mould.File) bool { return f.Source.Path == file })
	if i < 0 {
		return s.explainAbsent(m, file)
	}
	x, err := m.Explain(&m.Files[i])
	if err != nil {
		return err
	}
	if line > 0 {
		x.Slots = slices.DeleteFunc(x.Slots, func(slot mould.SlotFinding) bool { return slot.Line != line })
		x.Marks = slices.DeleteFunc(x.Marks, func(r mould.MarkedRegion) bool { return line < r.From || r.To < line })
	}
	if s.format == "json" {
		return s.json(x)
	}
	p := newPrinter(s.out)
	p.line("%s", p.strong.Render(x.Path))
	printExplanation(p, x.Rules, x.Slots, x.Marks)
	if len(x.Rules)+len(x.Slots)+len(x.Marks) == 0 {
		p.line("  Nothing varies here: it is copied as it is.")
	}
	return nil
}

func printExplanation(p *printer, rules []mould.FileRule, slots []mould.SlotFinding, marks []mould.MarkedRegion) {
	for _, r := range rules {
		where := ""
		if r.Line > 0 {
			where = p.faint.Render(fmt.Sprintf("  %s:%d", manifest.FileName, r.Line))
		}
		p.line("  %s %s%s", p.accent.Render(pad(r.Rule, 10)), r.Effect, where)
	}
	for _, r := range marks {
		lines := fmt.Sprintf("%d-%d", r.From, r.To)
		if r.From == r.To {
			lines = strconv.Itoa(r.From)
		}
		p.line("  %s %s", p.accent.Render(pad(lines, 10)), r.Effect)
	}
	text, form := 0, 0
	for _, slot := range slots {
		text = min(max(text, len([]rune(strconv.Quote(slot.Text)))), 40)
		form = max(form, len(slot.Form))
	}
	for _, slot := range slots {
		where := "in the path"
		if slot.Line > 0 {
			where = fmt.Sprintf("%d:%d", slot.Line, slot.Column)
		}
		p.line("  %s %s  %s  %s", pad(where, 10), p.strong.Render(pad(p.fit(strconv.Quote(slot.Text), 60), text)), pad(slot.Form, form), p.faint.Render(p.fit(slot.Rule, 40)))
	}
}

// explainAll lists every file that something rules.
func (s *session) explainAll(m *mould.Mould) error {
	type summary struct {
		Path      string           `json:"path"`
		Slots     int              `json:"slots"`
		Variables []string         `json:"variables"`
		Rules     []mould.FileRule `json:"rules"`
		Marks     int              `json:"marks"`
	}
	all := []summary{}
	for i := range m.Files {
		x, err := m.Explain(&m.Files[i])
		if err != nil {
			return err
		}
		one := summary{Path: x.Path, Slots: len(x.Slots), Variables: []string{}, Rules: x.Rules, Marks: len(x.Marks)}
		for _, slot := range x.Slots {
			if !slices.Contains(one.Variables, slot.Variable) {
				one.Variables = append(one.Variables, slot.Variable)
			}
		}
		all = append(all, one)
	}
	if s.format == "json" {
		return s.json(all)
	}
	p := newPrinter(s.out)
	for _, one := range all {
		var parts []string
		if one.Slots > 0 {
			parts = append(parts, spelling.Count(one.Slots, "slot")+" of "+strings.Join(one.Variables, ", "))
		}
		if one.Marks > 0 {
			parts = append(parts, spelling.Count(one.Marks, "mark"))
		}
		for _, r := range one.Rules {
			parts = append(parts, r.Effect)
		}
		if len(parts) == 0 {
			parts = append(parts, p.faint.Render("copied as it is"))
		}
		p.line("%s  %s", pad(one.Path, 44), p.fit(strings.Join(parts, "; "), 46))
	}
	return nil
}

// explainAbsent says why a template casts no file of that path.
func (s *session) explainAbsent(m *mould.Mould, file string) error {
	rule, is := mould.LeftOutBy(m.Manifest, file)
	if mould.Own(file) {
		rule, is = mould.FileRule{Rule: "own", Effect: "never cast: it belongs to the template alone"}, true
	}
	if !is {
		return fmt.Errorf("there is no file %s in the template", file)
	}
	if s.format == "json" {
		return s.json(mould.Explanation{Path: file, Rules: []mould.FileRule{rule}, Slots: []mould.SlotFinding{}, Marks: []mould.MarkedRegion{}})
	}
	p := newPrinter(s.out)
	p.line("%s", p.strong.Render(file))
	printExplanation(p, []mould.FileRule{rule}, nil, nil)
	return nil
}

// explainProject says where a file of a cast project came from, or a line of it.
func (s *session) explainProject(ctx context.Context, dir string, layer origin.Layer, file string, line int, from string) error {
	if from == "" {
		from = layer.Template + "@" + layer.Version
	}
	template, err := s.load(ctx, from)
	if err != nil {
		return err
	}
	if template.digest != layer.Digest {
		s.complain(fmt.Sprintf("%s is not the very version that the project was cast from", from))
	}
	m, err := compile(ctx, template)
	if err != nil {
		return err
	}
	result, err := castAgain(ctx, template, m, layer)
	if err != nil {
		return err
	}
	if file == "" {
		return s.explainAll(m)
	}
	i := slices.IndexFunc(result.Casting.Files, func(f mould.CastFile) bool { return f.Path == file })
	switch {
	case slices.Contains(result.Changed, file):
		return s.say(file, "a script of the template wrote it")
	case file == origin.Path:
		return s.say(file, "every cast has this record of where the project came from")
	case i < 0:
		return s.say(file, "it was not cast: it came to the project later, or a script moved it")
	}
	f := &result.Casting.Files[i]
	if line == 0 {
		x, err := m.Explain(f.Content)
		if err != nil {
			return err
		}
		if s.format == "json" {
			return s.json(x)
		}
		p := newPrinter(s.out)
		p.line("%s  from %s", p.strong.Render(file), x.Path)
		printExplanation(p, x.Rules, x.Slots, x.Marks)
		return nil
	}
	return s.explainLine(ctx, dir, m, f, line)
}

// castAgain casts with the values that a project remembers. Secrets it does not.
func castAgain(ctx context.Context, template loaded, m *mould.Mould, layer origin.Layer) (*hooks.Result, error) {
	given := values.Input{}
	for name, value := range layer.Values {
		if v := m.Manifest.Variable(name); v != nil && !v.IsComputed() {
			given[name] = value
		}
	}
	occasion := values.Stable(layer.Digest)
	if day, err := layer.Day(); err == nil {
		occasion.Today = day
	}
	state := values.Tentative(m.Manifest, given, occasion)
	return hooks.Cast(ctx, hooks.Request{Mould: m, Template: template.template, Given: state.Values.Input(m.Manifest), Occasion: occasion, Limits: tree.DefaultLimits()})
}

func (s *session) explainLine(ctx context.Context, dir string, m *mould.Mould, f *mould.CastFile, line int) error {
	found, text, has, err := m.Provenance(f, line)
	if err != nil {
		return err
	}
	if !has {
		return wrongUsage("%s has fewer than %s as it was cast", f.Path, spelling.Count(line, "line"))
	}
	now, err := lineNow(ctx, dir, f.Path, line)
	if err != nil {
		return err
	}
	if s.format == "json" {
		return s.json(map[string]any{"path": f.Path, "line": line, "cast": text, "now": now, "from": found})
	}
	p := newPrinter(s.out)
	p.line("%s  %s", p.strong.Render(fmt.Sprintf("%s:%d", f.Path, line)), text)
	if now != text {
		p.line("  %s %s", p.bad.Render("changed since:"), now)
	}
	p.line("  from %s:%d  %s", found.Source, found.Line, p.faint.Render(p.fit(found.Text, 30)))
	if found.Swap != "" {
		p.line("  in the content of %s, which was swapped in", found.Swap)
	}
	if found.Item != "" {
		p.line("  repeated for %q", found.Item)
	}
	printExplanation(p, m.RulesOf(f.File), found.Slots, found.Marks)
	return nil
}

// lineNow returns a line of a file as the project has it now.
func lineNow(ctx context.Context, dir, file string, line int) (string, error) {
	project, err := tree.ReadFolder(ctx, dir, tree.ReadOptions{Limits: tree.DefaultLimits(), Skip: func(p string, _ bool) bool {
		return p != file && !strings.HasPrefix(file, p+"/")
	}})
	if err != nil {
		return "", err
	}
	entry, found := project.Find(file)
	if !found {
		return "", nil
	}
	content, err := entry.Bytes()
	if err != nil {
		return "", err
	}
	lines := strings.Split(string(content), "\n")
	if line > len(lines) {
		return "", nil
	}
	return strings.TrimRight(lines[line-1], "\r"), nil
}

// say prints one sentence about a file.
func (s *session) say(file, sentence string) error {
	if s.format == "json" {
		return s.json(map[string]string{"path": file, "from": sentence})
	}
	p := newPrinter(s.out)
	p.line("%s  %s", p.strong.Render(file), sentence)
	return nil
}
