package mould

import (
	"fmt"
	"path"
	"slices"
	"strings"
	"sync"

	"ironcast/core/expression"
	"ironcast/core/manifest"
	"ironcast/core/marks"
	"ironcast/core/spelling"
	"ironcast/core/syntax"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// Problem is what is wrong in one of a template's files.
type Problem struct {
	Path    string
	Line    int // from 1; 0 for the whole file
	Message string
	Excerpt string // the line itself
}

// Problems is everything that is wrong in a template's files.
type Problems []Problem

// Error returns one line for each problem, with the line it is about.
func (p Problems) Error() string {
	var lines []string
	for _, problem := range p {
		where := problem.Path
		if problem.Line > 0 {
			where = fmt.Sprintf("%s:%d", where, problem.Line)
		}
		lines = append(lines, where+": "+problem.Message)
		if problem.Excerpt != "" {
			lines = append(lines, "    "+problem.Excerpt)
		}
	}
	return strings.Join(lines, "\n")
}

// compiler holds what all files are compiled with. Only the rules that are added
// while it works change.
type compiler struct {
	manifest *manifest.Manifest
	options  Options
	rules    []Rule // those of all literals; fixed
	slots    *matcher
	keeps    *matcher // nil where the manifest keeps nothing
	single   []bool   // by variable: a name of one word
	repeats  []fileRepeat

	mutex sync.Mutex
	added []Rule
	index map[Rule]ruleID // of those that were added
}

// fileRepeat is a rule of the manifest that repeats files.
type fileRepeat struct {
	repeat *Repeat
	scope  *expression.Scope
}

func newCompiler(m *manifest.Manifest, options Options) (*compiler, error) {
	c := &compiler{manifest: m, options: options, single: make([]bool, len(m.Variables)), index: map[Rule]ruleID{}}
	literals := map[string][]claim{}
	for i := range m.Variables {
		v := &m.Variables[i]
		if v.StandsFor == "" {
			continue
		}
		stands, err := values.Read(v, manifest.Typed(v.StandsFor))
		if err != nil {
			return nil, fmt.Errorf("the variable %s cannot stand for %q: %w", v.Name, v.StandsFor, err)
		}
		c.single[i] = v.Kind == manifest.KindName && !strings.Contains(stands.String(), " ")
		c.claim(literals, stands, v.StandsFor, i, nil)
	}
	c.slots = newMatcher(literals)
	if len(m.Keep) > 0 {
		kept := map[string][]claim{}
		for _, text := range m.Keep {
			kept[text] = []claim{{}}
		}
		c.keeps = newMatcher(kept)
	}
	for _, rule := range m.Files.Repeat {
		repeat, scope, err := c.repeat(m.Scope(), rule.Item, rule.List, rule.StandingFor, rule.Line)
		if err != nil {
			return nil, err
		}
		c.repeats = append(c.repeats, fileRepeat{repeat, scope})
	}
	return c, nil
}

// claim adds the literals of a value that a variable stands for, or of an item
// of a list that a repeat does, in every form and as every format writes them.
func (c *compiler) claim(literals map[string][]claim, stands values.Value, text string, variable int, repeat *Repeat) {
	for _, literal := range stands.Literals() {
		if stands.Kind() == manifest.KindNumber || stands.Kind() == manifest.KindInteger {
			literal.Text = text // as it is written, with its zeros
		}
		first, more, _ := strings.Cut(literal.Text, "\n")
		claim := claim{variable: variable, written: literal.Text, placed: placed(stands.Kind(), literal.Forms[0])}
		for _, form := range literal.Forms {
			claim.forms = append(claim.forms, ruleID(len(c.rules)))
			c.rules = append(c.rules, Rule{Variable: variable, Form: form, Literal: literal.Text, Repeat: repeat})
		}
		if first == "" {
			first = literal.Text
		}
		claim.severalLines = more != "" && first != literal.Text
		literals[first] = append(literals[first], claim)
		if claim.placed {
			for _, variant := range syntax.Variants(first) {
				literals[variant] = append(literals[variant], claim)
			}
		}
	}
}

// placed tells whether what a value is written as depends on the place: whether
// it may hold what means something to some format.
func placed(kind manifest.Kind, form values.Form) bool {
	switch kind {
	case manifest.KindText, manifest.KindSecret, manifest.KindChoice:
		return true
	}
	return form == values.Backslashes
}

// rule returns the id of a rule, which it adds if it is new.
func (c *compiler) rule(r Rule) ruleID {
	c.mutex.Lock()
	defer c.mutex.Unlock()
	id, found := c.index[r]
	if !found {
		id = ruleID(len(c.rules) + len(c.added))
		c.added = append(c.added, r)
		c.index[r] = id
	}
	return id
}

func (c *compiler) allRules() []Rule { return slices.Concat(c.rules, c.added) }

// repeat checks a repetition, and returns it with the scope inside it.
func (c *compiler) repeat(scope *expression.Scope, item, list, standingFor string, line int) (*Repeat, *expression.Scope, error) {
	if _, taken := scope.Type(item); taken {
		return nil, nil, fmt.Errorf("%s means something already; give the item another name", item)
	}
	if err := c.manifest.CheckRepeat(item, list, standingFor); err != nil {
		return nil, nil, err
	}
	at := slices.IndexFunc(c.manifest.Variables, func(v manifest.Variable) bool { return v.Name == list })
	itemType, _ := c.manifest.Variables[at].Type().Item()
	inner, err := scope.With(expression.Declaration{Name: item, Type: itemType})
	return &Repeat{Item: item, List: at, StandingFor: standingFor, Line: line}, inner, err
}

func (c *compiler) file(e tree.Entry, buffer []byte) (File, []byte, error) {
	s := &scope{compiler: c, path: e.Path, expressions: c.manifest.Scope()}
	if c.options.SourcePath != nil {
		s.path = c.options.SourcePath(e.Path)
	}
	f := File{Source: e}
	for i, rule := range c.manifest.Files.OnlyWhen {
		if matches(rule.Paths, s.path) {
			f.OnlyWhen = append(f.OnlyWhen, i)
		}
	}
	for i, rule := range c.manifest.Files.Repeat {
		if !matches(rule.Paths, s.path) {
			continue
		}
		if f.Repeat != nil {
			return File{}, nil, Problems{{Path: e.Path, Message: "two rules of repeat name this file; only one can repeat it"}}
		}
		f.Repeat = c.repeats[i].repeat
		s.expressions = c.repeats[i].scope
	}
	s.around = f.Repeat
	var err error
	if f.PathSlots, err = s.search([]byte(e.Path), spelling.InPath); err != nil {
		return File{}, nil, err
	}
	switch e.Kind {
	case tree.Link:
		f.TargetSlots, err = s.search([]byte(e.Target), spelling.InPath)
	case tree.File:
		buffer, err = s.content(&f, buffer)
		if err == nil {
			err = s.swaps(&f)
		}
	}
	return f, buffer, err
}

// content compiles a file's content.
func (s *scope) content(f *File, buffer []byte) ([]byte, error) {
	if f.Verbatim = matches(s.manifest.Files.Verbatim, s.path); f.Verbatim {
		return buffer, nil
	}
	content, buffer, err := contentOf(f.Source, buffer)
	if err != nil {
		return nil, err
	}
	if f.Binary = tree.IsBinary(content); f.Binary {
		return buffer, nil
	}
	place := placeOf(f.Source.Path)
	if s.options.MarksAsText || !marks.Has(content) {
		f.Slots, err = s.search(content, place)
		return buffer, err
	}
	nodes, err := marks.Parse(content, syntax.Of(f.Source.Path))
	if problems, is := err.(marks.Problems); is {
		var wrong Problems
		for _, p := range problems {
			wrong = append(wrong, Problem{Path: f.Source.Path, Line: p.Line, Message: p.Message, Excerpt: p.Excerpt})
		}
		return buffer, wrong
	}
	if err != nil {
		return buffer, err
	}
	if _, plain := onlyText(nodes); plain {
		f.Slots, err = s.search(content, place) // the word stands there in no comment
		return buffer, err
	}
	b := body{scope: s, content: content, place: place}
	f.Parts, f.Slots, err = b.compile(nodes)
	return buffer, err
}

// onlyText tells whether the nodes are one text and nothing else.
func onlyText(nodes []marks.Node) (marks.Text, bool) {
	if len(nodes) != 1 {
		return marks.Text{}, len(nodes) == 0
	}
	text, is := nodes[0].(marks.Text)
	return text, is
}

// swaps compiles what may be cast in the place of a file.
func (s *scope) swaps(f *File) error {
	for i, rule := range s.manifest.Files.Swap {
		if rule.Path != s.path || s.options.Template.Entries() == nil {
			continue
		}
		other, found := s.options.Template.Find(rule.With)
		if !found || other.Kind != tree.File {
			return Problems{{Path: manifest.FileName, Line: rule.Line, Message: fmt.Sprintf("there is no file %s in the template to swap in", rule.With)}}
		}
		swapped := File{Source: f.Source, PathSlots: f.PathSlots}
		swapped.Source.Content, swapped.Source.Executable = other.Content, other.Executable
		if _, err := s.content(&swapped, nil); err != nil {
			if problems, is := err.(Problems); is {
				for i := range problems {
					problems[i].Path = rule.With
				}
				return problems
			}
			return err
		}
		f.Swaps = append(f.Swaps, Swap{Rule: i, File: swapped})
	}
	return nil
}

var proseEndings = []string{".md", ".markdown", ".txt", ".rst", ".adoc", ".html", ".htm"}

func placeOf(p string) spelling.Place {
	if slices.Contains(proseEndings, strings.ToLower(path.Ext(p))) {
		return spelling.InProse
	}
	return spelling.InCode
}
