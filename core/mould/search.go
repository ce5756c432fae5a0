package mould

import (
	"bytes"
	"fmt"
	"slices"
	"strings"

	"ironcast/core/expression"
	"ironcast/core/manifest"
	"ironcast/core/spelling"
	"ironcast/core/syntax"
	"ironcast/core/values"
)

// scope is one file while it is searched.
type scope struct {
	*compiler
	path        string       // that globs are matched against
	open        map[int]bool // by variable: whether it is looked for in this file
	around      *Repeat      // the rule that repeats the file; nil for none
	expressions *expression.Scope
	items       map[*Repeat]*matcher
}

func (s *scope) includes(variable int) bool {
	is, known := s.open[variable]
	if !known {
		v := &s.manifest.Variables[variable]
		is = (len(v.In) == 0 || matches(v.In, s.path)) && !matches(v.Except, s.path)
		if s.open == nil {
			s.open = map[int]bool{}
		}
		s.open[variable] = is
	}
	return is
}

// found is a slot with the claim that won it.
type found struct {
	Slot
	claim *claim
}

// search returns the slots in data, from left to right, those of the items of
// the file's own repeat among them.
func (s *scope) search(data []byte, place spelling.Place) ([]Slot, error) {
	hits, err := s.find(s.slots, data, place)
	if err != nil {
		return nil, err
	}
	if s.around != nil {
		items, err := s.findItems(s.around, data, place)
		if err != nil {
			return nil, err
		}
		hits = merge(hits, items)
	}
	return s.settle(hits, data, place), nil
}

// find returns what a matcher finds, the longest first and from the left.
func (s *scope) find(m *matcher, data []byte, place spelling.Place) ([]found, error) {
	var slots []found
	var hits []hit
	var kept []span
	searchedKept := s.keeps == nil
	b := newBudget(data)
	for i := m.begin(data, 0); i < len(data); {
		hits = m.at(data, i, hits[:0], &b)
		if len(hits) > 0 && !searchedKept {
			kept, searchedKept = s.keeps.all(data, &b), true
		}
		if b.steps <= 0 {
			return nil, fmt.Errorf("%s %w", s.path, errTooOften)
		}
		end := i + 1
		for at := len(hits) - 1; at >= 0; at-- {
			if overlaps(kept, i, hits[at].end) {
				continue
			}
			winner, err := s.winner(hits[at], data, i, place)
			if err != nil {
				return nil, err
			}
			if winner == nil {
				continue
			}
			slot := Slot{Start: uint32(i), End: uint32(hits[at].end)}
			slot.Rule, slot.Guessed = s.choose(winner, data, slot, place)
			slots = append(slots, found{slot, winner})
			end = hits[at].end
			break
		}
		i = m.begin(data, end)
	}
	return slots, nil
}

// findItems returns where the text stands that a repeat's item stands for.
func (s *scope) findItems(r *Repeat, data []byte, place spelling.Place) ([]found, error) {
	m, known := s.items[r]
	if !known {
		v := s.manifest.Variables[r.List].ItemVariable(r.Item)
		stands, err := values.Read(v, manifest.Typed(r.StandingFor))
		if err != nil {
			return nil, err
		}
		literals := map[string][]claim{}
		own := &compiler{manifest: s.manifest}
		own.claim(literals, stands, r.StandingFor, r.List, r)
		for text, claims := range literals {
			for i := range claims {
				// The rules that were made for it alone are added to all.
				forms := make([]ruleID, len(claims[i].forms))
				for k, id := range claims[i].forms {
					forms[k] = s.rule(own.rules[id])
				}
				claims[i].forms, claims[i].item = forms, r
			}
			literals[text] = claims
		}
		m = newMatcher(literals)
		if s.items == nil {
			s.items = map[*Repeat]*matcher{}
		}
		s.items[r] = m
	}
	return s.find(m, data, place)
}

// merge joins two lists of slots. Where two overlap, the first from the left
// stays, and the longer of two that begin together.
func merge(a, b []found) []found {
	all := slices.Concat(a, b)
	slices.SortStableFunc(all, func(x, y found) int {
		if x.Start != y.Start {
			return int(x.Start) - int(y.Start)
		}
		return int(y.End) - int(x.End)
	})
	kept := all[:0]
	for _, f := range all {
		if len(kept) == 0 || f.Start >= kept[len(kept)-1].End {
			kept = append(kept, f)
		}
	}
	return kept
}

// settle finds out how each slot's text is written in its place, and drops those
// whose text the place does not read as what the variable stands for.
func (s *scope) settle(hits []found, data []byte, place spelling.Place) []Slot {
	if len(hits) == 0 {
		return nil
	}
	slots := make([]Slot, 0, len(hits))
	var spans []syntax.Span
	for _, h := range hits {
		if h.claim.placed {
			spans = append(spans, syntax.Span{Start: int(h.Start), End: int(h.End)})
		}
	}
	var places []syntax.Place
	if place != spelling.InPath && len(spans) > 0 {
		places = syntax.Of(s.path).Places(data, spans)
	}
	next := 0
	for _, h := range hits {
		slot, fits := h.Slot, true
		if h.claim.placed {
			var p syntax.Place
			if places != nil {
				p = places[next]
			}
			next++
			slot, fits = s.settleOne(h, data, p)
		}
		if fits && (len(slots) == 0 || slot.Start >= slots[len(slots)-1].End) {
			slots = append(slots, slot)
		}
	}
	return slots
}

func (s *scope) settleOne(h found, data []byte, p syntax.Place) (Slot, bool) {
	slot := h.Slot
	if s.manifest.Variables[h.claim.variable].AsIs {
		p = syntax.Place{}
	}
	stands := func(text string, err error) bool {
		return err == nil && bytes.HasPrefix(data[slot.Start:], []byte(text)) && (h.claim.severalLines || int(slot.Start)+len(text) == int(slot.End))
	}
	end := func(text string) uint32 { return slot.Start + uint32(len(text)) }
	written, err := p.Write(h.claim.written)
	if p.WithQuotes() && slot.Start > 0 {
		quoted := Slot{Start: slot.Start - 1, End: slot.End + 1, Guessed: slot.Guessed}
		if err == nil && bytes.HasPrefix(data[quoted.Start:], []byte(written)) && int(quoted.Start)+len(written) == int(quoted.End) {
			quoted.Rule = s.withPlace(slot.Rule, p)
			return quoted, true
		}
	}
	if stands(written, err) {
		slot.End = end(written)
		slot.Rule = s.withPlace(slot.Rule, p)
		return slot, true
	}
	// The source holds the text itself where something else was expected: it
	// is written there as it is.
	if stands(h.claim.written, nil) {
		slot.End = end(h.claim.written)
		return slot, true
	}
	return Slot{}, false
}

// withPlace returns the rule that writes in a place what another writes as it
// is.
func (s *scope) withPlace(id ruleID, p syntax.Place) ruleID {
	if p.IsZero() {
		return id
	}
	rule := s.ruleByID(id)
	rule.Place = p
	return s.rule(rule)
}

func (s *scope) ruleByID(id ruleID) Rule {
	if int(id) < len(s.rules) {
		return s.rules[id]
	}
	s.mutex.Lock()
	defer s.mutex.Unlock()
	return s.added[int(id)-len(s.rules)]
}

// winner returns the one claim that holds where a literal stands, or nil.
func (s *scope) winner(h hit, data []byte, start int, place spelling.Place) (*claim, error) {
	var winner *claim
	for i := range h.claims {
		c := &h.claims[i]
		v := &s.manifest.Variables[c.variable]
		if c.item == nil && (place == spelling.InPath && !v.Paths || place != spelling.InPath && !v.Contents) {
			continue
		}
		if !s.bounded(c, data, start, h.end) || c.item == nil && !s.includes(c.variable) {
			continue
		}
		if winner != nil && winner.variable == c.variable {
			continue
		}
		if winner != nil {
			return nil, fmt.Errorf("the variables %s and %s both claim the text %q at %s; limit one of them with in or except",
				s.manifest.Variables[winner.variable].Name, v.Name, data[start:h.end], s.position(data, start, place))
		}
		winner = c
	}
	return winner, nil
}

func (s *scope) position(data []byte, at int, place spelling.Place) string {
	if place == spelling.InPath {
		return "the path " + s.path
	}
	return fmt.Sprintf("%s:%d", s.path, 1+strings.Count(string(data[:at]), "\n"))
}

// bounded tells whether the text's neighbours let it stand for the claim.
func (s *scope) bounded(c *claim, data []byte, start, end int) bool {
	v := &s.manifest.Variables[c.variable]
	kind, single, match := v.Kind, s.single[c.variable], v.Match
	if c.item != nil {
		kind, match = v.ItemVariable("item").Kind, manifest.MatchDefault
		single = kind == manifest.KindName && len(spelling.Split(c.item.StandingFor)) == 1
	}
	switch {
	case match == manifest.MatchAnywhere:
		return true
	case match == manifest.MatchPart:
		return spelling.IsPart(data, start, end)
	case kind != manifest.KindName:
		return spelling.IsWhole(data, start, end)
	case single:
		return spelling.IsPart(data, start, end)
	}
	return true
}

// choose returns the rule among those of a claim, and whether it is a guess.
func (s *scope) choose(c *claim, data []byte, slot Slot, place spelling.Place) (ruleID, bool) {
	if len(c.forms) == 1 {
		return c.forms[0], false
	}
	candidates := make([]spelling.Spelling, len(c.forms))
	for i, rule := range c.forms {
		candidates[i] = spelling.Spelling(s.ruleByID(rule).Form)
	}
	for _, rule := range s.manifest.Variables[c.variable].Spell {
		if i := slices.Index(candidates, rule.As); i >= 0 && matches(rule.In, s.path) {
			return c.forms[i], false
		}
	}
	if i := slices.Index(candidates, spelling.Flat); i >= 0 && namesGoTestPackage(s.path, data, slot) {
		return c.forms[i], false
	}
	chosen := spelling.Choose(candidates, data, int(slot.Start), int(slot.End), place)
	return c.forms[slices.Index(candidates, chosen)], true
}

// namesGoTestPackage tells whether a slot is the name in "package name_test",
// which Go's tests must write as the package itself does: flat, whatever stands
// beside it.
func namesGoTestPackage(p string, data []byte, slot Slot) bool {
	return strings.HasSuffix(p, "_test.go") && bytes.HasSuffix(data[:slot.Start], []byte("package ")) &&
		bytes.HasPrefix(data[slot.End:], []byte("_test"))
}
