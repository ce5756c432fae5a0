package cli

import (
	"context"
	"fmt"
	"strconv"
	"strings"

	"github.com/charmbracelet/huh"

	"ironcast/core/manifest"
)

// askForValue asks for one variable, with what is suggested filled in.
func (s *session) askForValue(ctx context.Context, v *manifest.Variable, suggested string) (string, error) {
	text := suggested
	check := func(text string) error { _, err := v.Read(manifest.Typed(text)); return err }
	switch v.Kind {
	case manifest.KindBoolean:
		yes := strings.EqualFold(text, "true")
		err := s.ask(ctx, huh.NewConfirm().Title(v.Title()).Description(v.Help).Value(&yes))
		return strconv.FormatBool(yes), err
	case manifest.KindChoice:
		err := s.ask(ctx, huh.NewSelect[string]().Title(v.Title()).Description(v.Help).Options(optionsOf(v)...).Value(&text))
		return text, err
	case manifest.KindChoices:
		var taken []string
		if suggested != "" {
			taken = strings.Split(suggested, ", ")
		}
		err := s.ask(ctx, huh.NewMultiSelect[string]().Title(v.Title()).Description(v.Help).Options(optionsOf(v)...).Value(&taken))
		return strings.Join(taken, ","), err
	case manifest.KindText:
		if v.Lines {
			err := s.ask(ctx, huh.NewText().Title(v.Title()).Description(v.Help).Value(&text).Validate(check))
			return text, err
		}
	}
	input := huh.NewInput().Title(v.Title()).Description(v.Help).Value(&text).Validate(check)
	switch {
	case v.Kind == manifest.KindSecret:
		input.EchoMode(huh.EchoModePassword)
	case len(v.Examples) > 0:
		input.Placeholder("such as " + strings.Join(exampleTexts(v), " or "))
	case v.Kind == manifest.KindList:
		input.Placeholder("separated by commas")
	}
	return text, s.ask(ctx, input)
}

func optionsOf(v *manifest.Variable) []huh.Option[string] {
	options := make([]huh.Option[string], len(v.Options))
	for i, option := range v.Options {
		options[i] = huh.NewOption(option.Label, option.Value)
	}
	return options
}

// exampleTexts returns the examples as they would be typed.
func exampleTexts(v *manifest.Variable) []string {
	texts := make([]string, len(v.Examples))
	for i, example := range v.Examples {
		texts[i] = valueText(example)
	}
	return texts
}

// valueText returns a value in its JSON type as it would be typed.
func valueText(value any) string {
	items, is := value.([]any)
	if !is {
		return fmt.Sprint(value)
	}
	texts := make([]string, len(items))
	for i, item := range items {
		texts[i] = fmt.Sprint(item)
	}
	return strings.Join(texts, ", ")
}
