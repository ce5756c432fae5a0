package mould

import (
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"ironcast/core/expression"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// The most that a cast may do, so that no template can exhaust a machine.
const maxRuns = 200_000 // stretches of text that are repeated, in all files together

// filling holds the text for each rule, for one set of values and one item of
// each list that is being repeated. Rules that no slot refers to have none.
type filling [][]byte

// Casting is a mould with one set of values: which files come, where, and with
// which texts. It does not change, and is safe for use by many goroutines.
type Casting struct {
	Files []CastFile // in the order of their sources
	mould *Mould
}

// CastFile is a file as a cast writes it.
type CastFile struct {
	Path    string
	Target  string // of a link
	File    *File  // what it is cast from
	Content *File  // whose content it has: File itself, or what is swapped in
	Item    string // the item that it is repeated for, as it would be typed
	texts   filling
	runs    []run // of a content with marks
}

// run is a stretch of a content that is cast, with its texts.
type run struct {
	part  *Part
	texts filling
}

// caster applies values to a mould.
type caster struct {
	mould *Mould
	lists values.Values
	seen  expression.Values // what expressions see
	texts filling
	known map[*expression.Expression]bool // the conditions that depend on no item
	runs  int
	size  int64 // of the runs
	// repeating is how many repeats the work is in.
	repeating int
}

// CastError is why values that are right by themselves cannot be cast.
type CastError struct{ reason error }

// Error returns the reason.
func (e *CastError) Error() string { return e.reason.Error() }

// Unwrap returns the reason.
func (e *CastError) Unwrap() error { return e.reason }

// Apply decides every condition and writes every text. Every variable needs a
// value; values.Resolve sees to that. Its error is a *CastError.
func (m *Mould) Apply(vs values.Values) (*Casting, error) {
	casting, err := m.apply(vs)
	if err != nil {
		return nil, &CastError{err}
	}
	return casting, nil
}

func (m *Mould) apply(vs values.Values) (*Casting, error) {
	c := &caster{mould: m, lists: vs, seen: vs.Expression(), known: map[*expression.Expression]bool{}}
	var err error
	if c.texts, err = m.fill(vs); err != nil {
		return nil, err
	}
	casting := &Casting{mould: m, Files: make([]CastFile, 0, len(m.Files))}
	for i := range m.Files {
		if casting.Files, err = c.file(&m.Files[i], casting.Files); err != nil {
			return nil, err
		}
		if len(casting.Files) > m.limits.Files {
			return nil, fmt.Errorf("with these values more than %d files would be cast, which is the limit", m.limits.Files)
		}
	}
	casting.Files = withoutFilledFolders(casting.Files)
	return casting, nil
}

// fill writes every text that some slot needs, but those of items.
func (m *Mould) fill(vs values.Values) (filling, error) {
	texts := make(filling, len(m.rules))
	for _, id := range m.used {
		rule := &m.rules[id]
		if rule.Repeat != nil {
			continue
		}
		text, err := rule.Place.Write(vs.Get(m.Manifest.Variables[rule.Variable].Name).Write(rule.Form))
		if err != nil {
			return nil, fmt.Errorf("the value of %s cannot be written to %s: %w", m.Manifest.Variables[rule.Variable].Name, m.whereUsed(id), err)
		}
		texts[id] = []byte(text)
	}
	return texts, nil
}

// whereUsed returns a place that a rule fills, for a message.
func (m *Mould) whereUsed(id ruleID) string {
	for i := range m.Files {
		f := &m.Files[i]
		for _, slot := range f.Slots {
			if slot.Rule == id {
				content, err := f.Source.Bytes()
				if err != nil {
					return f.Source.Path
				}
				return fmt.Sprintf("%s:%d", f.Source.Path, lineOf(content, slot.Start))
			}
		}
	}
	return "a file"
}

// file adds what a file is cast to: nothing, itself, or one for each item.
func (c *caster) file(f *File, files []CastFile) ([]CastFile, error) {
	if f.Repeat == nil {
		return c.one(f, "", files)
	}
	err := c.each(f.Repeat, func(item values.Value) (err error) {
		files, err = c.one(f, item.String(), files)
		return err
	})
	return files, err
}

// each calls visit for every item of a list, while expressions and texts see
// the item.
func (c *caster) each(r *Repeat, visit func(item values.Value) error) error {
	outer, outerTexts := c.seen, c.texts
	defer func() { c.seen, c.texts = outer, outerTexts }()
	// Conditions are decided at once, so that one set of values serves all items;
	// texts are kept for when the file is written.
	c.seen = maps.Clone(outer)
	for _, item := range c.lists.Get(c.mould.Manifest.Variables[r.List].Name).Items() {
		c.seen[r.Item] = item.Expression()
		var err error
		if c.texts, err = c.itemTexts(r, item, outerTexts); err != nil {
			return err
		}
		if err := visit(item); err != nil {
			return err
		}
	}
	return nil
}

// itemTexts returns the texts with those of an item.
func (c *caster) itemTexts(r *Repeat, item values.Value, texts filling) (filling, error) {
	filled := slices.Clone(texts)
	for _, id := range c.mould.used {
		rule := &c.mould.rules[id]
		if rule.Repeat != r {
			continue
		}
		text, err := rule.Place.Write(item.Write(rule.Form))
		if err != nil {
			return nil, fmt.Errorf("the item %q of %s cannot be written to %s: %w", item, c.mould.Manifest.Variables[r.List].Name, c.mould.whereUsed(id), err)
		}
		filled[id] = []byte(text)
	}
	return filled, nil
}

func (c *caster) one(f *File, item string, files []CastFile) ([]CastFile, error) {
	for _, rule := range f.OnlyWhen {
		holds, err := c.decide(c.mould.Manifest.Files.OnlyWhen[rule].When)
		if err != nil {
			return files, fmt.Errorf("%s: %w", f.Source.Path, err)
		}
		if !holds {
			return files, nil
		}
	}
	content := f
	for i := range f.Swaps {
		holds, err := c.decide(c.mould.Manifest.Files.Swap[f.Swaps[i].Rule].When)
		if err != nil {
			return files, err
		}
		if holds {
			content = &f.Swaps[i].File
			break
		}
	}
	cast := CastFile{
		Path: c.texts.path(f.Source.Path, f.PathSlots), Target: c.texts.path(f.Source.Target, f.TargetSlots),
		File: f, Content: content, Item: item, texts: c.texts,
	}
	if content.Parts != nil {
		c.size = 0
		cast.runs = []run{}
		if err := c.parts(content.Parts, &cast.runs); err != nil {
			return files, fmt.Errorf("%s: %w", f.Source.Path, err)
		}
	}
	return append(files, cast), nil
}

// parts adds the stretches that are cast.
func (c *caster) parts(parts []Part, runs *[]run) error {
	for i := range parts {
		p := &parts[i]
		switch {
		case p.Choice != nil:
			if err := c.choice(p.Choice, runs); err != nil {
				return err
			}
		case p.Repeat != nil:
			if err := c.repeat(p.Repeat, runs); err != nil {
				return err
			}
		default:
			if err := c.count(p); err != nil {
				return err
			}
			*runs = append(*runs, run{p, c.texts})
		}
	}
	return nil
}

func (c *caster) choice(branches []Branch, runs *[]run) error {
	for i := range branches {
		holds := branches[i].When == nil
		if !holds {
			var err error
			if holds, err = c.decide(branches[i].When); err != nil {
				return fmt.Errorf("line %d: %w", branches[i].Line, err)
			}
		}
		if holds {
			return c.parts(branches[i].Parts, runs)
		}
	}
	return nil
}

func (c *caster) repeat(r *Repeat, runs *[]run) error {
	c.repeating++
	defer func() { c.repeating-- }()
	return c.each(r, func(values.Value) error {
		if c.runs++; c.runs > maxRuns {
			return errTooMuch
		}
		return c.parts(r.Parts, runs)
	})
}

var errTooMuch = fmt.Errorf("its marks would cast more than %d blocks, which is the limit", maxRuns)

// count bounds what the marks of a file make.
func (c *caster) count(p *Part) error {
	if c.repeating > 0 {
		if c.runs++; c.runs > maxRuns {
			return errTooMuch
		}
	}
	c.size += c.texts.size(int64(p.End-p.Start), p.Slots)
	if c.size > c.mould.limits.FileBytes {
		return fmt.Errorf("its marks would make it larger than %d bytes, which is the limit", c.mould.limits.FileBytes)
	}
	return nil
}

// decide evaluates a condition, once where it depends on no item.
func (c *caster) decide(e *expression.Expression) (bool, error) {
	if holds, known := c.known[e]; known {
		return holds, nil
	}
	holds, err := e.Decide(c.seen)
	if err != nil {
		return false, err
	}
	if !slices.ContainsFunc(e.Uses(), func(name string) bool { return name != expression.Today && c.mould.Manifest.Variable(name) == nil }) {
		c.known[e] = holds
	}
	return holds, nil
}

// withoutFilledFolders drops the folders that the manifest asks for and that are
// not empty.
func withoutFilledFolders(files []CastFile) []CastFile {
	if !slices.ContainsFunc(files, func(f CastFile) bool { return f.File.Declared }) {
		return files
	}
	return slices.DeleteFunc(files, func(folder CastFile) bool {
		return folder.File.Declared && slices.ContainsFunc(files, func(f CastFile) bool { return strings.HasPrefix(f.Path, folder.Path+"/") })
	})
}

// join writes source[from:to] with each slot replaced by its text.
func (f filling) join(dst, source []byte, from, to uint32, slots []Slot) []byte {
	at := from
	for _, slot := range slots {
		dst = append(dst, source[at:slot.Start]...)
		dst = append(dst, f[slot.Rule]...)
		at = slot.End
	}
	return append(dst, source[at:to]...)
}

func (f filling) path(source string, slots []Slot) string {
	if len(slots) == 0 {
		return source
	}
	return string(f.join(nil, []byte(source), 0, uint32(len(source)), slots))
}

// size returns how many bytes a stretch has with its slots filled.
func (f filling) size(size int64, slots []Slot) int64 {
	for _, slot := range slots {
		size += int64(len(f[slot.Rule])) - int64(slot.End-slot.Start)
	}
	return size
}

// Size returns how many bytes the content has.
func (f *CastFile) Size() int64 {
	if f.runs == nil {
		return f.texts.size(f.Content.Source.Content.Size(), f.Content.Slots)
	}
	var size int64
	for _, r := range f.runs {
		size += r.texts.size(int64(r.part.End-r.part.Start), r.part.Slots)
	}
	return size
}

// Cast returns the project that the values give. Contents are joined when they
// are read.
func (m *Mould) Cast(vs values.Values) (tree.Tree, error) {
	casting, err := m.Apply(vs)
	if err != nil {
		return tree.Tree{}, err
	}
	return casting.Tree()
}

// Tree returns the project. Contents are joined when they are read.
func (c *Casting) Tree() (tree.Tree, error) {
	entries := make([]tree.Entry, len(c.Files))
	for i := range c.Files {
		f := &c.Files[i]
		e := f.Content.Source
		e.Path, e.Target = f.Path, f.Target
		if e.Kind == tree.File && (len(f.Content.Slots) > 0 || f.runs != nil) {
			e.Content = castContent{file: f, size: f.Size()}
		}
		entries[i] = e
	}
	cast, err := tree.New(entries, c.mould.limits)
	if errors.Is(err, tree.ErrTwice) {
		if twice := c.twice(); twice != nil {
			return tree.Tree{}, &CastError{twice}
		}
	}
	if err != nil {
		return tree.Tree{}, &CastError{fmt.Errorf("with these values the project cannot be cast: %w", err)}
	}
	return cast, nil
}

// twice says which two source paths become one.
func (c *Casting) twice() error {
	from := map[string]string{}
	for _, f := range c.Files {
		if other, taken := from[f.Path]; taken {
			return fmt.Errorf("with these values %s and %s %w, %s; choose values that differ", other, f.File.Source.Path, tree.ErrTwice, f.Path)
		}
		from[f.Path] = f.File.Source.Path
	}
	return nil
}

// castContent is a file's content with the slots filled.
type castContent struct {
	file *CastFile
	size int64
}

func (c castContent) Size() int64 { return c.size }

func (c castContent) AppendTo(dst []byte) ([]byte, error) {
	source, err := c.file.Content.Source.Bytes()
	if err != nil {
		return nil, err
	}
	if c.file.runs == nil {
		return c.file.texts.join(dst, source, 0, uint32(len(source)), c.file.Content.Slots), nil
	}
	for _, r := range c.file.runs {
		dst = r.texts.join(dst, source, r.part.Start, r.part.End, r.part.Slots)
	}
	return dst, nil
}
