package proof

import (
	"context"
	"fmt"
	"math"
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

// distinct is a set of values that stand nowhere in the source, so that a cast
// with them can be cast back.
type distinct struct {
	values values.Values
	items  map[string]values.Value // by list: the one item it has
	held   []string                // variables kept at the source's own value, for want of another
}

// distinctValues finds them for a mould. Options, and lists that repeat nothing,
// stay as the source has them. Variables for which there is no other value, such
// as a choice whose every option is in the source, are held and named.
func distinctValues(ctx context.Context, source tree.Tree, m *manifest.Manifest, repeats []*mould.Repeat) (distinct, error) {
	reference, _ := values.Reference(m, values.Stable("proof"))
	given := reference.Input(m)
	d := distinct{items: map[string]values.Value{}}
	var open []*manifest.Variable
	for i := range m.Variables {
		if v := &m.Variables[i]; v.StandsFor != "" && !v.IsComputed() {
			open = append(open, v)
		}
	}
	items := map[string]string{} // by the name of an item's variable: the list
	for _, r := range repeats {
		list := &m.Variables[r.List]
		if _, known := items[list.Name+"_item"]; known {
			continue
		}
		items[list.Name+"_item"] = list.Name
		item := list.ItemVariable(list.Name + "_item")
		item.StandsFor = r.StandingFor
		open = append(open, item)
	}
	taken := map[string]bool{}
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
		occurring, err := mould.Occurring(ctx, source, texts)
		if err != nil {
			return distinct{}, err
		}
		open = slices.DeleteFunc(open, func(v *manifest.Variable) bool {
			candidate, found := candidates[v.Name]
			text := candidate.Write(values.Plain)
			if !found || anyTaken(candidate, occurring) || taken[text] {
				return false
			}
			taken[text] = true
			if list, is := items[v.Name]; is {
				d.items[list] = candidate
				given[list] = []any{candidate.JSON()}
			} else {
				given[v.Name] = candidate.JSON()
			}
			return true
		})
	}
	for _, v := range open {
		d.held = append(d.held, v.Name)
	}
	// What checks refuse is cast all the same: it is to be looked at, not used.
	d.values = values.Tentative(m, given, values.Stable("proof")).Values
	for i := range m.Variables {
		v := &m.Variables[i]
		if v.IsComputed() && v.StandsFor != "" && d.values.Get(v.Name).Write(values.Plain) == v.StandsFor {
			d.held = append(d.held, v.Name) // such as the year, while it is the source's
		}
	}
	return d, nil
}

func anyTaken(candidate values.Value, taken map[string]bool) bool {
	return slices.ContainsFunc(candidate.Literals(), func(l values.Literal) bool { return taken[l.Text] })
}

// candidateValue returns the value to try for v: the try-th one, different for
// each place in the list of variables.
func candidateValue(v *manifest.Variable, try, place int) (values.Value, bool) {
	text := ""
	seed := try*97 + place*2
	switch v.Kind {
	case manifest.KindName:
		text = invent(seed) + " " + invent(seed+1)
	case manifest.KindPackage:
		text = invent(seed) + "." + invent(seed+1)
	case manifest.KindText, manifest.KindSecret:
		text = candidateText(v, try, seed)
	case manifest.KindInteger, manifest.KindNumber:
		text = candidateNumber(v, seed)
	case manifest.KindBoolean:
		text = strconv.FormatBool(!strings.EqualFold(v.StandsFor, "true"))
	case manifest.KindChoice:
		text = v.Options[try%len(v.Options)].Value
	case manifest.KindID:
		text = values.Stable(fmt.Sprint("proof ", seed)).NewID(v.Name)
	}
	value, err := values.Read(v, manifest.Typed(text))
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
	if !strings.Contains(v.StandsFor, " ") {
		invented = invent(seed) + "-" + invent(seed+1) // as formats need no quotes for
	}
	text := strings.Replace(v.StandsFor, inner, invented, 1)
	if inner == "" {
		text = v.StandsFor + invented + v.StandsFor
	}
	candidates := []any{text}
	if inner != "" {
		candidates = append(candidates, invent(seed), invent(seed)+"@"+invent(seed+1)+".example", "https://"+invent(seed)+".example/")
	}
	for _, candidate := range candidates {
		if _, err := v.Read(candidate); err == nil {
			return candidate.(string)
		}
	}
	given := slices.Clone(v.Examples)
	if v.HasDefault() && !v.DefaultIsComputed() {
		given = append(given, v.Default)
	}
	if try < len(given) {
		return given[try].(string)
	}
	return v.StandsFor
}

// candidateNumber stays within the bounds and near the number of digits.
func candidateNumber(v *manifest.Variable, seed int) string {
	written, _ := strconv.ParseFloat(v.StandsFor, 64)
	number := int64(written)
	low, high := int64(0), int64(9)
	for size := int64(10); size <= number && size < 1e17; size *= 10 {
		low, high = size, size*10-1
	}
	if v.Minimum != nil {
		low = max(low, int64(math.Ceil(*v.Minimum)))
	}
	if v.Maximum != nil {
		high = min(high, int64(math.Floor(*v.Maximum)))
	}
	if low > high {
		low, high = deref(v.Minimum, number), deref(v.Maximum, number+1000)
	}
	const stride = 7919 // a prime, so that tries spread over the range
	text := strconv.FormatInt(low+(int64(seed+1)*stride)%max(high-low+1, 1), 10)
	if _, fraction, has := strings.Cut(v.StandsFor, "."); v.Kind == manifest.KindNumber && has {
		text += "." + fraction
	}
	return text
}

func deref(bound *float64, otherwise int64) int64 {
	if bound == nil {
		return otherwise
	}
	return int64(*bound)
}
