package proof

import (
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/spelling"
	"ironcast/core/values"
)

// option is something a cast chooses: a choice, a truth value, one option of
// several that may be taken together, or how many items a list has.
type option struct {
	variable string
	member   string // of choices: the option that is taken or not
	levels   []any  // the values, or for a member: whether it is taken
	names    []string
}

// options returns what the template's casts choose among.
func (p *prover) optionsOf() []option {
	var all []option
	for i := range p.manifest.Variables {
		v := &p.manifest.Variables[i]
		switch {
		case v.IsComputed():
		case v.Kind == manifest.KindChoice:
			o := option{variable: v.Name}
			for _, choice := range v.Options {
				o.levels, o.names = append(o.levels, choice.Value), append(o.names, choice.Value)
			}
			all = append(all, o)
		case v.Kind == manifest.KindBoolean:
			all = append(all, option{variable: v.Name, levels: []any{true, false}, names: []string{"true", "false"}})
		case v.Kind == manifest.KindChoices:
			for _, choice := range v.Options {
				all = append(all, option{variable: v.Name, member: choice.Value, levels: []any{true, false}, names: []string{"with " + choice.Value, "without " + choice.Value}})
			}
		case v.Kind == manifest.KindList:
			all = append(all, listOption(v))
		}
	}
	return slices.DeleteFunc(all, func(o option) bool { return len(o.levels) < 2 })
}

// listOption tries a list with no item, one and two, as far as its bounds allow.
func listOption(v *manifest.Variable) option {
	o := option{variable: v.Name}
	for n := range 3 {
		items := []any{}
		for k := range n {
			switch v.Of {
			case manifest.KindInteger:
				items = append(items, int64(7001+k))
			case manifest.KindName:
				items = append(items, invent(40+2*k)+" "+invent(41+2*k))
			default:
				items = append(items, invent(40+k))
			}
		}
		if _, err := v.Read(items); err == nil {
			o.levels, o.names = append(o.levels, items), append(o.names, spelling.Count(n, "item"))
		}
	}
	return o
}

// castOptions casts so that every pair of choices of any two options occurs.
func (p *prover) castOptions(s *Stage) error {
	options := p.optionsOf()
	if len(options) == 0 {
		return p.castOnce(s)
	}
	counts := make([]int, len(options))
	all := 1.0
	for i, o := range options {
		counts[i] = len(o.levels)
		all *= float64(len(o.levels))
	}
	detail := "every pair of " + spelling.Count(len(options), "option")
	search := pairs
	if countPairs(counts) > maxPairs {
		detail = "each choice of " + spelling.Count(len(options), "option") + ", which have too many pairs to try them all"
		search = singles
	}
	rows, refused := search(counts, func(row []int) bool {
		_, err := values.Resolve(p.manifest, p.givenFor(options, row), p.occasion)
		return err == nil
	})
	began := time.Now()
	for n, row := range rows {
		if time.Since(began) > maxTime {
			s.Warnings = append(s.Warnings, Finding{Message: fmt.Sprintf("only %d of %d casts were tried, since they take longer than %v", n, len(rows), maxTime)})
			break
		}
		if err := p.castOption(s, options, row); err != nil {
			return err
		}
	}
	s.Detail = fmt.Sprintf("%s for %s; all combinations would be %s", spelling.Count(len(rows), "cast"), detail, countText(all))
	if refused > 0 {
		s.Detail += fmt.Sprintf("; %d refused by the template's checks", refused)
	}
	if len(rows) == 0 {
		s.find("the template's checks refuse every combination of its options")
	}
	return nil
}

// castOnce lets the scripts of a template without options run.
func (p *prover) castOnce(s *Stage) error {
	s.Detail = "there is nothing to choose"
	if !p.manifest.Hooks.Scripts() {
		return nil
	}
	if _, err := values.Resolve(p.manifest, p.givenFor(nil, nil), p.occasion); err != nil {
		s.Warnings = append(s.Warnings, Finding{Message: "the scripts were not run, since the template's checks refuse the values that were tried; add a sample"})
		return nil
	}
	s.Detail += "; one cast, with the scripts"
	return p.castOption(s, nil, nil)
}

func countText(n float64) string {
	if n < 1e6 {
		return fmt.Sprintf("%.0f", n)
	}
	return fmt.Sprintf("10 to the %.0f", math.Log10(n))
}

// givenFor returns the values of one combination; what is no option has the
// distinct values.
func (p *prover) givenFor(options []option, row []int) values.Input {
	given := p.distinct.values.Input(p.manifest)
	members := map[string][]any{}
	for i, o := range options {
		level := o.levels[row[i]]
		if o.member == "" {
			given[o.variable] = level
			continue
		}
		if members[o.variable] == nil {
			members[o.variable] = []any{}
		}
		if level.(bool) {
			members[o.variable] = append(members[o.variable], o.member)
		}
	}
	for name, taken := range members {
		given[name] = taken
	}
	return given
}

func (p *prover) castOption(s *Stage, options []option, row []int) error {
	var names []string
	for i, o := range options {
		names = append(names, o.variable+"="+o.names[row[i]])
	}
	found := func(f Finding) {
		if len(names) > 0 {
			f.Message += " (" + strings.Join(names, ", ") + ")"
		}
		s.Findings = append(s.Findings, f)
	}
	result, err := hooks.Cast(p.ctx, p.request(p.givenFor(options, row)))
	if err != nil {
		var failed *hooks.ScriptError
		if errors.As(err, &failed) && failed.Refused {
			return nil
		}
		if p.ctx.Err() != nil {
			return p.ctx.Err()
		}
		found(Finding{Message: err.Error()})
		return nil
	}
	free := slices.Clone(p.distinct.held)
	for _, o := range options {
		free = append(free, o.variable)
	}
	traces, _, err := p.traces(result.Casting, result.Project, free)
	for _, t := range traces {
		found(t)
	}
	return err
}

func (p *prover) request(given values.Input) hooks.Request {
	return hooks.Request{Mould: p.mould, Template: p.template, Given: given, Occasion: p.occasion, Limits: p.options.Limits}
}

// The most that is tried, so that no template keeps a proof busy.
const (
	maxPairs = 10_000
	maxRows  = 100
	maxTime  = time.Minute
)

func countPairs(levels []int) int {
	count := 0
	for a := range levels {
		for b := a + 1; b < len(levels); b++ {
			count += levels[a] * levels[b]
		}
	}
	return count
}

// singles returns rows in which each level of each factor stands once, as far as
// maxRows allow, and how many of them are not allowed.
func singles(levels []int, allowed func(row []int) bool) (rows [][]int, refused int) {
	for n := range min(slices.Max(levels), maxRows) {
		row := make([]int, len(levels))
		for factor := range row {
			row[factor] = n % levels[factor]
		}
		if allowed(row) {
			rows = append(rows, row)
		} else {
			refused++
		}
	}
	return rows, refused
}

// pairs returns rows, each with a level for every factor, so that any two levels
// of two factors stand together in some row that is allowed. It also returns how
// many pairs no allowed row was found for. The rows are built one at a time, each
// taking up as many open pairs as it can: Cohen, Dalal, Fredman, Patton, "The
// AETG System" (1997).
func pairs(levels []int, allowed func(row []int) bool) (rows [][]int, refused int) {
	if len(levels) == 1 {
		for level := range levels[0] {
			if row := []int{level}; allowed(row) {
				rows = append(rows, row)
			}
		}
		return rows, 0
	}
	open := openPairs(levels)
	for len(open) > 0 {
		seed := open[0]
		row := fillRow(levels, seed, open, allowed)
		if row == nil {
			open = open[1:]
			refused++
			continue
		}
		rows = append(rows, row)
		open = slices.DeleteFunc(open, func(p pair) bool { return row[p.a] == p.levelA && row[p.b] == p.levelB })
	}
	return rows, refused
}

// pair is a level of one factor with a level of another.
type pair struct{ a, levelA, b, levelB int }

func openPairs(levels []int) []pair {
	var open []pair
	for a := range levels {
		for b := a + 1; b < len(levels); b++ {
			for x := range levels[a] {
				for y := range levels[b] {
					open = append(open, pair{a, x, b, y})
				}
			}
		}
	}
	return open
}

// fillRow completes a row that holds a pair, taking for each factor the level
// with the most open pairs first, and another where the whole is not allowed. It
// returns nil where it finds none.
func fillRow(levels []int, seed pair, open []pair, allowed func([]int) bool) []int {
	row := make([]int, len(levels))
	set := make([]bool, len(levels))
	row[seed.a], row[seed.b], set[seed.a], set[seed.b] = seed.levelA, seed.levelB, true, true
	for factor := range levels {
		if set[factor] {
			continue
		}
		gain := make([]int, levels[factor])
		for _, p := range open {
			if p.b == factor && set[p.a] && row[p.a] == p.levelA {
				gain[p.levelB]++
			}
			if p.a == factor && set[p.b] && row[p.b] == p.levelB {
				gain[p.levelA]++
			}
		}
		row[factor], set[factor] = slices.Index(gain, slices.Max(gain)), true
	}
	if allowed(row) {
		return row
	}
	// Other levels for the rest, as a counter goes through them.
	const tries = 500
	free := slices.DeleteFunc(slices.Collect(indices(len(levels))), func(i int) bool { return i == seed.a || i == seed.b })
	for range tries {
		carry := true
		for _, factor := range free {
			if row[factor]++; row[factor] < levels[factor] {
				carry = false
				break
			}
			row[factor] = 0
		}
		if allowed(row) {
			return row
		}
		if carry && len(free) == 0 {
			return nil
		}
	}
	return nil
}

func indices(n int) func(func(int) bool) {
	return func(yield func(int) bool) {
		for i := range n {
			if !yield(i) {
				return
			}
		}
	}
}
