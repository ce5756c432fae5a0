package mould

import "ironcast/core/values"

// View shows a template's files as a cast with some values writes them, cut at
// their slots.
type View struct {
	mould *Mould
	texts filling
}

// View returns the files as a cast with vs writes them.
func (m *Mould) View(vs values.Values) View { return View{m, m.fill(vs)} }

// SourceView returns the files as the source project has them.
func (m *Mould) SourceView() View {
	texts := make(filling, len(m.rules))
	for _, id := range m.used {
		texts[id] = []byte(m.rules[id].Literal)
	}
	return View{m, texts}
}

// Piece is a stretch of a text: fixed, or a filled slot.
type Piece struct {
	Text string
	Slot *Slot // nil where it is fixed
}

// Content returns the content of a file.
func (v View) Content(f *File) ([]Piece, error) {
	source, err := f.Source.Bytes()
	if err != nil {
		return nil, err
	}
	return v.pieces(source, f.Slots), nil
}

// Path returns the path of a file.
func (v View) Path(f *File) []Piece { return v.pieces([]byte(f.Source.Path), f.PathSlots) }

// Target returns the target of a link.
func (v View) Target(f *File) string { return v.texts.path(f.Source.Target, f.TargetSlots) }

// Size returns the size of a file's content in bytes.
func (v View) Size(f *File) int64 { return v.texts.size(f) }

func (v View) pieces(source []byte, slots []Slot) []Piece {
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
		pieces = append(pieces, Piece{Text: string(v.texts[slot.Rule]), Slot: slot})
		at = slot.End
	}
	fixed(at, uint32(len(source)))
	return pieces
}
