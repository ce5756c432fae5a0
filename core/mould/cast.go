package mould

import (
	"errors"
	"fmt"

	"ironcast/core/tree"
	"ironcast/core/values"
)

// filling holds the text for each rule, for one set of values. Rules that no
// slot refers to have none.
type filling [][]byte

func (m *Mould) fill(vs values.Values) filling {
	texts := make(filling, len(m.rules))
	for _, id := range m.used {
		rule := m.rules[id]
		texts[id] = []byte(vs[m.Manifest.Variables[rule.Variable].Name].Write(rule.Form))
	}
	return texts
}

// join writes source with each slot replaced by its text.
func (f filling) join(dst, source []byte, slots []Slot) []byte {
	at := uint32(0)
	for _, slot := range slots {
		dst = append(dst, source[at:slot.Start]...)
		dst = append(dst, f[slot.Rule]...)
		at = slot.End
	}
	return append(dst, source[at:]...)
}

func (f filling) path(source string, slots []Slot) string {
	if len(slots) == 0 {
		return source
	}
	return string(f.join(nil, []byte(source), slots))
}

// Cast returns the project that the values give. Every variable with slots
// needs a value; Resolve sees to that. Contents are joined when they are read.
func (m *Mould) Cast(vs values.Values) (tree.Tree, error) {
	texts := m.fill(vs)
	entries := make([]tree.Entry, len(m.Files))
	for i := range m.Files {
		f := &m.Files[i]
		e := f.Source
		e.Path = texts.path(e.Path, f.PathSlots)
		e.Target = texts.path(e.Target, f.TargetSlots)
		if len(f.Slots) > 0 {
			e.Content = newContent(f, texts)
		}
		entries[i] = e
	}
	cast, err := tree.New(entries, m.limits)
	if errors.Is(err, tree.ErrTwice) {
		if twice := m.twice(texts); twice != nil {
			return tree.Tree{}, twice
		}
	}
	if err != nil {
		return tree.Tree{}, fmt.Errorf("with these values the project cannot be cast: %w", err)
	}
	return cast, nil
}

// twice says which two source paths become one.
func (m *Mould) twice(texts filling) error {
	from := map[string]string{}
	for i := range m.Files {
		source := m.Files[i].Source.Path
		cast := texts.path(source, m.Files[i].PathSlots)
		if other, taken := from[cast]; taken {
			return fmt.Errorf("with these values %s and %s %w, %s; choose values that differ", other, source, tree.ErrTwice, cast)
		}
		from[cast] = source
	}
	return nil
}

// CastPath returns where an entry of the source project ends up.
func (m *Mould) CastPath(f *File, vs values.Values) string {
	return m.fill(vs).path(f.Source.Path, f.PathSlots)
}

// CastPaths returns where every entry ends up, in the order of Files.
func (m *Mould) CastPaths(vs values.Values) []string {
	texts := m.fill(vs)
	paths := make([]string, len(m.Files))
	for i := range m.Files {
		paths[i] = texts.path(m.Files[i].Source.Path, m.Files[i].PathSlots)
	}
	return paths
}

// castContent is a file's content with the slots filled.
type castContent struct {
	file  *File
	texts filling
	size  int64
}

func newContent(f *File, texts filling) castContent {
	size := f.Source.Content.Size()
	for _, slot := range f.Slots {
		size += int64(len(texts[slot.Rule])) - int64(slot.End-slot.Start)
	}
	return castContent{file: f, texts: texts, size: size}
}

func (c castContent) Size() int64 { return c.size }

func (c castContent) AppendTo(dst []byte) ([]byte, error) {
	source, err := c.file.Source.Bytes()
	if err != nil {
		return nil, err
	}
	return c.texts.join(dst, source, c.file.Slots), nil
}

// Piece is a stretch of a cast text: fixed, or a filled slot.
type Piece struct {
	Text    string
	Slot    *Slot  // nil where it is fixed
	Literal string // of a slot: what stands there in the source project
}

// Pieces returns the content of a file as a cast writes it, cut at its slots.
// A nil vs gives the source's own text.
func (m *Mould) Pieces(f *File, vs values.Values) ([]Piece, error) {
	source, err := f.Source.Bytes()
	if err != nil {
		return nil, err
	}
	return m.pieces(source, f.Slots, vs), nil
}

// PathPieces returns the path of a file as a cast writes it, cut at its slots.
func (m *Mould) PathPieces(f *File, vs values.Values) []Piece {
	return m.pieces([]byte(f.Source.Path), f.PathSlots, vs)
}

// TargetPieces returns the target of a link as a cast writes it, cut at its
// slots.
func (m *Mould) TargetPieces(f *File, vs values.Values) []Piece {
	return m.pieces([]byte(f.Source.Target), f.TargetSlots, vs)
}

// Size returns the size of a file's content as a cast writes it, in bytes.
func (m *Mould) Size(f *File, vs values.Values) int64 {
	size := f.Source.Content.Size()
	if vs == nil {
		return size
	}
	for _, slot := range f.Slots {
		text := vs[m.Variable(slot).Name].Write(m.Rule(slot).Form)
		size += int64(len(text)) - int64(slot.End-slot.Start)
	}
	return size
}

func (m *Mould) pieces(source []byte, slots []Slot, vs values.Values) []Piece {
	pieces := make([]Piece, 0, 2*len(slots)+1)
	fixed := func(from, to uint32) {
		if from < to {
			pieces = append(pieces, Piece{Text: string(source[from:to])})
		}
	}
	at := uint32(0)
	for i := range slots {
		slot := &slots[i]
		fixed(at, slot.Start)
		literal := string(source[slot.Start:slot.End])
		text := literal
		if vs != nil {
			rule := m.Rule(*slot)
			text = vs[m.Variable(*slot).Name].Write(rule.Form)
		}
		pieces = append(pieces, Piece{Text: text, Slot: slot, Literal: literal})
		at = slot.End
	}
	fixed(at, uint32(len(source)))
	return pieces
}
