package proof

import (
	"context"
	"fmt"
	"slices"
	"strconv"
	"strings"
	"unicode"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// maxTries is how many values are tried for a variable.
const maxTries = 20

// distinctValues returns a value for each variable that stands nowhere in the
// source, so that a cast with them can be cast back. Variables for which there
// is none, such as a choice whose every option is in the source, are held at
// the source's own value and named.
func distinctValues(ctx context.Context, source tree.Tree, m *manifest.Manifest) (distinct values.Values, held []string, err error) {
	distinct = values.Reference(m)
	var open []*manifest.Variable
	for i := range m.Variables {
		if v := &m.Variables[i]; v.StandsFor != "" {
			open = append(open, v)
		}
	}
	for try := 0; len(open) > 0 && try < maxTries; try++ {
		candidates := map[string]values.Value{}
		var texts []string
		for i, v := range open {
			candidate, found := candidateValue(v, try, i)
			if !found {
				continue
			}
			candidates[v.Name] = candidate
			for _, literal := range candidate.Literals() {
				texts = append(texts, literal.Text)
			}
		}
		taken, err := mould.Occurring(ctx, source, texts)
		if err != nil {
			return nil, nil, err
		}
		open = slices.DeleteFunc(open, func(v *manifest.Variable) bool {
			candidate, found := candidates[v.Name]
			if !found || anyTaken(candidate, taken) || among(distinct, candidate) {
				return false
			}
			distinct[v.Name] = candidate
			return true
		})
	}
	for _, v := range open {
		held = append(held, v.Name)
	}
	return distinct, held, nil
}

func anyTaken(candidate values.Value, taken map[string]bool) bool {
	return slices.ContainsFunc(candidate.Literals(), func(l values.Literal) bool { return taken[l.Text] })
}

func among(vs values.Values, value values.Value) bool {
	for _, other := range vs {
		if other == value {
			return true
		}
	}
	return false
}

// candidateValue returns the value to try for v: the try-th one, different for
// each place in the list of variables.
func candidateValue(v *manifest.Variable, try, place int) (values.Value, bool) {
	text := ""
	seed := try*97 + place*2
	switch v.Kind {
	case manifest.KindName:
		text = invent(seed) + " " + invent(seed+1)
	case manifest.KindText:
		text = candidateText(v, try, seed)
	case manifest.KindInteger:
		text = candidateNumber(v, seed)
	case manifest.KindBoolean:
		reference, _ := v.ReferenceText()
		text = strconv.FormatBool(!strings.EqualFold(reference, "true"))
	case manifest.KindChoice:
		text = v.Options[try%len(v.Options)].Value
	case manifest.KindID:
		text = values.StableID(fmt.Sprint("proof ", seed))(v.Name)
	}
	value, err := values.Read(v, values.Typed(text))
	return value, err == nil
}

// invent returns the n-th of a series of words that stand in no dictionary.
func invent(n int) string {
	heads := []string{"quax", "zorv", "vebl", "jump", "wexl", "yilk", "fyzz"}
	tails := []string{"ilor", "enty", "obax", "umiq", "adwy", "ezub"}
	word := heads[n%len(heads)] + tails[n%len(tails)]
	for n /= len(heads) * len(tails); n > 0; n /= len(tails) {
		word += tails[n%len(tails)]
	}
	return word
}

// candidateText keeps the ends of what the variable stands for, since they
// decide where it is found, and puts invented words between them. Where the
// bounds refuse that, the manifest's own examples are tried.
func candidateText(v *manifest.Variable, try, seed int) string {
	joins := func(r rune) bool { return r == '_' || unicode.IsLetter(r) || unicode.IsDigit(r) }
	inner := strings.TrimFunc(v.StandsFor, func(r rune) bool { return !joins(r) })
	invented := invent(seed) + " " + invent(seed+1)
	text := strings.Replace(v.StandsFor, inner, invented, 1)
	if inner == "" {
		text = v.StandsFor + invented + v.StandsFor
	}
	if v.Check(text) == nil {
		return text
	}
	if short := invent(seed); inner != "" && v.Check(short) == nil {
		return short
	}
	var given []string
	given = append(given, v.Examples...)
	if v.Default != nil {
		given = append(given, *v.Default)
	}
	if try < len(given) {
		return given[try]
	}
	return v.StandsFor
}

// candidateNumber stays within the bounds and near the number of digits.
func candidateNumber(v *manifest.Variable, seed int) string {
	number, _ := strconv.ParseInt(v.StandsFor, 10, 64)
	low, high := int64(0), int64(9)
	for size := int64(10); size <= number && size < 1e17; size *= 10 {
		low, high = size, size*10-1
	}
	if v.Minimum != nil {
		low = max(low, *v.Minimum)
	}
	if v.Maximum != nil {
		high = min(high, *v.Maximum)
	}
	if low > high {
		low, high = deref(v.Minimum, number), deref(v.Maximum, number+1000)
	}
	const stride = 7919 // a prime, so that tries spread over the range
	return strconv.FormatInt(low+(int64(seed+1)*stride)%(high-low+1), 10)
}

func deref(bound *int64, otherwise int64) int64 {
	if bound == nil {
		return otherwise
	}
	return *bound
}
