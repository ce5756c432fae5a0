package cli

import (
	"maps"
	"slices"
	"strings"
	"time"

	"github.com/spf13/cobra"

	"ironcast/client"
	"ironcast/core/manifest"
	"ironcast/core/spelling"
)

func (s *session) showCommand() *cobra.Command {
	return &cobra.Command{
		Use:   "show REF",
		Short: "Show everything about one template",
		Long:  `Shows a template of the catalogue: what it is, its variables and its versions.`,
		Args:  between(1, 1, "one reference, such as kelpwick/crossing-board"),
		RunE: func(command *cobra.Command, args []string) error {
			r, is := parseReference(args[0])
			if !is {
				return wrongUsage("%q is no reference; an example is kelpwick/crossing-board@1.1.0", args[0])
			}
			c, err := s.client()
			if err != nil {
				return err
			}
			detail, err := c.Version(command.Context(), r.team, r.name, r.version)
			if err != nil {
				return err
			}
			versions, err := c.Versions(command.Context(), r.team, r.name)
			if err != nil {
				return err
			}
			if s.format == "json" {
				return s.json(struct {
					client.VersionDetail
					Versions []client.Version `json:"versions"`
				}{detail, versions})
			}
			printDetail(newPrinter(s.out), detail, versions)
			return nil
		},
	}
}

func printDetail(p *printer, d client.VersionDetail, versions []client.Version) {
	reference := d.Template.Reference()
	p.line("%s  %s", p.strong.Render(d.Title), p.faint.Render(reference+"@"+d.Version.Version))
	p.line("%s", d.Summary)
	facts := []string{spelling.Count(d.Files, "file"), spelling.Count(d.Slots, "slot")}
	if d.Licence != "" {
		facts = append(facts, d.Licence)
	}
	facts = append(facts, d.Template.Labels...)
	p.line("%s", p.faint.Render(strings.Join(facts, " · ")))

	p.heading("Variables")
	width := 14
	for i := range d.Variables {
		width = max(width, len(d.Variables[i].Name))
	}
	for i := range d.Variables {
		v := &d.Variables[i]
		p.line("  %s  %s  %s", p.accent.Render(pad(v.Name, width)), pad(string(v.Kind), 8), describeVariable(v))
		if v.Help != "" {
			p.line("  %s  %s", strings.Repeat(" ", width+10), p.faint.Render(p.fit(v.Help, width+14)))
		}
	}
	if len(d.Presets) > 0 {
		p.heading("Presets")
		for _, preset := range d.Presets {
			var set []string
			for _, name := range slices.Sorted(maps.Keys(preset.Values)) {
				set = append(set, name+"="+valueText(preset.Values[name]))
			}
			p.line("  %s  %s", p.accent.Render(pad(preset.Name, 14)), p.fit(strings.Join(set, ", "), 18))
		}
	}
	p.heading("Versions")
	for _, v := range versions {
		p.line("  %s  %s  %s  %s", pad(v.Version, 10), v.Published.Local().Format(time.DateOnly), pad(v.By, 14), p.faint.Render(shortDigest(v.Digest)))
	}
	p.line("\n%s ironcast cast %s@%s DIR", p.accent.Render("Next:"), reference, d.Version.Version)
}

// shortDigest is enough of a digest to tell versions apart.
func shortDigest(digest string) string { return digest[:min(len(digest), 19)] }

// describeVariable says what a variable takes and what it is otherwise.
func describeVariable(v *manifest.Variable) string {
	var parts []string
	switch {
	case v.Minimum != nil && v.Maximum != nil:
		parts = append(parts, manifest.Bound(*v.Minimum)+" to "+manifest.Bound(*v.Maximum))
	case v.Minimum != nil:
		parts = append(parts, manifest.Bound(*v.Minimum)+" or more")
	case v.Maximum != nil:
		parts = append(parts, manifest.Bound(*v.Maximum)+" or less")
	}
	if len(v.Options) > 0 {
		options := make([]string, len(v.Options))
		for i, option := range v.Options {
			options[i] = option.Value
		}
		few := "one of "
		if v.Kind == manifest.KindChoices {
			few = "any of "
		}
		parts = append(parts, few+strings.Join(options, ", "))
	}
	if v.AskWhen != "" {
		parts = append(parts, "asked when "+v.AskWhen)
	}
	switch {
	case v.Value != "":
		parts = append(parts, "computed: "+v.Value)
	case v.Default != nil:
		text := valueText(v.Default)
		if text == "" {
			text = "none"
		}
		parts = append(parts, "default "+text)
	case v.Kind == manifest.KindID:
		parts = append(parts, "made anew for each project")
	case v.Kind == manifest.KindSecret:
		parts = append(parts, "never stored")
	case len(v.Examples) > 0:
		parts = append(parts, "needed, such as "+strings.Join(exampleTexts(v), " or "))
	case v.AskWhen == "":
		parts = append(parts, "needed")
	}
	return strings.Join(parts, ", ")
}
