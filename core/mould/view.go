package mould

import (
	"bytes"

	"ironcast/core/tree"
)

// Piece is a stretch of a text: fixed, or a filled slot.
type Piece struct {
	Text   string
	Slot   *Slot // nil where it is fixed
	Source int   // where it begins in the source
	Mark   bool  // whether it is a mark or a held line's sign, shown but not cast
}

// SourceFiles returns the files as the source project has them, to look at.
func (m *Mould) SourceFiles() []CastFile {
	texts := make(filling, len(m.rules))
	for _, id := range m.used {
		texts[id] = []byte(m.rules[id].Literal)
	}
	files := make([]CastFile, len(m.Files))
	for i := range m.Files {
		f := &m.Files[i]
		files[i] = CastFile{Path: f.Source.Path, Target: f.Source.Target, File: f, Content: f, texts: texts}
	}
	return files
}

// PathPieces returns the path, cut at its slots.
func (f *CastFile) PathPieces() []Piece {
	source := []byte(f.File.Source.Path)
	return f.texts.pieces(nil, source, 0, uint32(len(source)), f.File.PathSlots)
}

// Pieces returns the content, cut at its slots.
func (f *CastFile) Pieces() ([]Piece, error) {
	source, err := f.Content.Source.Bytes()
	if err != nil || f.Content.Source.Kind != tree.File {
		return nil, err
	}
	if f.runs == nil {
		return f.texts.pieces(nil, source, 0, uint32(len(source)), f.Content.Slots), nil
	}
	var pieces []Piece
	for _, r := range f.runs {
		pieces = r.texts.pieces(pieces, source, r.part.Start, r.part.End, r.part.Slots)
	}
	return pieces, nil
}

// SourcePieces returns a file of the source project, marks included, cut at its
// slots and marks.
func (f *CastFile) SourcePieces() ([]Piece, error) {
	source, err := f.File.Source.Bytes()
	if err != nil || f.File.Parts == nil {
		pieces, err := f.Pieces()
		for i := range pieces {
			if slot := pieces[i].Slot; slot != nil {
				pieces[i].Text = string(source[slot.Start:slot.End])
			}
		}
		return pieces, err
	}
	var pieces []Piece
	at := uint32(0)
	eachStretch(f.File.Parts, func(p *Part) {
		if at < p.Start {
			pieces = append(pieces, Piece{Text: string(source[at:p.Start]), Source: int(at), Mark: true})
		}
		from := len(pieces)
		pieces = f.texts.pieces(pieces, source, p.Start, p.End, p.Slots)
		for i := from; i < len(pieces); i++ {
			if slot := pieces[i].Slot; slot != nil {
				pieces[i].Text = string(source[slot.Start:slot.End])
			}
		}
		at = p.End
	})
	if int(at) < len(source) {
		pieces = append(pieces, Piece{Text: string(source[at:]), Source: int(at), Mark: true})
	}
	return pieces, nil
}

// eachStretch calls visit for every stretch of text, in the source's order.
func eachStretch(parts []Part, visit func(*Part)) {
	for i := range parts {
		p := &parts[i]
		switch {
		case p.Choice != nil:
			for _, branch := range p.Choice {
				eachStretch(branch.Parts, visit)
			}
		case p.Repeat != nil:
			eachStretch(p.Repeat.Parts, visit)
		default:
			visit(p)
		}
	}
}

// pieces appends source[from:to], cut at its slots.
func (f filling) pieces(pieces []Piece, source []byte, from, to uint32, slots []Slot) []Piece {
	fixed := func(from, to uint32) {
		if from < to {
			pieces = append(pieces, Piece{Text: string(source[from:to]), Source: int(from)})
		}
	}
	at := from
	for i := range slots {
		slot := &slots[i]
		fixed(at, slot.Start)
		pieces = append(pieces, Piece{Text: string(f[slot.Rule]), Slot: slot, Source: int(slot.Start)})
		at = slot.End
	}
	fixed(at, to)
	return pieces
}

// lineOf returns the line of a position, from 1.
func lineOf(content []byte, at uint32) int { return 1 + bytes.Count(content[:at], []byte("\n")) }
