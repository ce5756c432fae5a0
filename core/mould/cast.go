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

// size returns how many bytes a file's content has with its slots filled.
func (f filling) size(file *File) int64 {
	size := file.Source.Content.Size()
	for _, slot := range file.Slots {
		size += int64(len(f[slot.Rule])) - int64(slot.End-slot.Start)
	}
	return size
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
			e.Content = castContent{file: f, texts: texts, size: texts.size(f)}
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

func (c castContent) Size() int64 { return c.size }

func (c castContent) AppendTo(dst []byte) ([]byte, error) {
	source, err := c.file.Source.Bytes()
	if err != nil {
		return nil, err
	}
	return c.texts.join(dst, source, c.file.Slots), nil
}
