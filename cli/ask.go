package cli

import (
	"context"
	"strconv"
	"strings"

	"github.com/charmbracelet/huh"

	"ironcast/core/manifest"
)

// askForValue asks for one variable, with its default filled in.
func (s *session) askForValue(ctx context.Context, v *manifest.Variable) (string, error) {
	text := ""
	if v.Default != nil {
		text = *v.Default
	}
	switch v.Kind {
	case manifest.KindBoolean:
		yes := strings.EqualFold(text, "true")
		err := s.ask(ctx, huh.NewConfirm().Title(v.Title()).Description(v.Help).Value(&yes))
		return strconv.FormatBool(yes), err
	case manifest.KindChoice:
		options := make([]huh.Option[string], len(v.Options))
		for i, option := range v.Options {
			options[i] = huh.NewOption(option.Label, option.Value)
		}
		err := s.ask(ctx, huh.NewSelect[string]().Title(v.Title()).Description(v.Help).Options(options...).Value(&text))
		return text, err
	case manifest.KindText:
		if v.Lines {
			err := s.ask(ctx, huh.NewText().Title(v.Title()).Description(v.Help).Value(&text).Validate(v.Check))
			return text, err
		}
	}
	input := huh.NewInput().Title(v.Title()).Description(v.Help).Value(&text).Validate(v.Check)
	if len(v.Examples) > 0 {
		input.Placeholder("such as " + strings.Join(v.Examples, " or "))
	}
	return text, s.ask(ctx, input)
}
