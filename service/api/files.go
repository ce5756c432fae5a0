package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"ironcast/client"
	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/service/store"
)

// maxShown is how much of a file's text is shown, in bytes.
const maxShown = 512 << 10

func (a *API) registerFiles(described huma.API) {
	huma.Register(described, huma.Operation{
		OperationID: "files", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions/{version}/files", Tags: []string{"catalogue"},
		Summary: "A version's files, with how many slots each has",
	}, func(ctx context.Context, in *VersionInput) (*struct{ Body []client.FileInfo }, error) {
		_, ready, err := a.ready(ctx, in)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &struct{ Body []client.FileInfo }{fileList(ready.mould, ready.mould.SourceFiles())}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "file", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions/{version}/file", Tags: []string{"catalogue"},
		Summary: "The text of one of a version's files, cut at its slots and marks",
	}, func(ctx context.Context, in *struct {
		VersionInput
		Path string `query:"path" required:"true" doc:"In the source project."`
	}) (*struct{ Body client.FileText }, error) {
		_, ready, err := a.ready(ctx, &in.VersionInput)
		if err != nil {
			return nil, problem(ctx, err)
		}
		file, err := sourceText(ready.mould, in.Path)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &struct{ Body client.FileText }{*file}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "explain", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions/{version}/explain", Tags: []string{"catalogue"},
		Summary: "Every slot, mark and rule that touches one of a version's files",
	}, func(ctx context.Context, in *struct {
		VersionInput
		Path string `query:"path" required:"true" doc:"In the source project."`
	}) (*struct{ Body mould.Explanation }, error) {
		_, ready, err := a.ready(ctx, &in.VersionInput)
		if err != nil {
			return nil, problem(ctx, err)
		}
		i := slices.IndexFunc(ready.mould.Files, func(f mould.File) bool { return f.Source.Path == in.Path })
		if i < 0 {
			return nil, problem(ctx, noFile(in.Path))
		}
		explained, err := ready.mould.Explain(&ready.mould.Files[i])
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &struct{ Body mould.Explanation }{*explained}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "preview", Method: http.MethodPost, Path: "/templates/{team}/{name}/versions/{version}/preview", Tags: []string{"casting"},
		Summary:     "What a cast would give: its files, and the text of one",
		Description: "Values may be missing or wrong: what is shown then has the default, or the source project's own, and the problems say why it could not be cast.",
	}, func(ctx context.Context, in *struct {
		VersionInput
		Body client.PreviewRequest
	}) (*struct{ Body client.Preview }, error) {
		_, ready, err := a.ready(ctx, &in.VersionInput)
		if err != nil {
			return nil, problem(ctx, err)
		}
		preview, err := a.preview(ctx, ready, in.Body)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &struct{ Body client.Preview }{*preview}, nil
	})
}

func noFile(path string) error {
	return fmt.Errorf("the file %q %w in this version", path, store.ErrNotFound)
}

// sourceText shows one file of the source project.
func sourceText(m *mould.Mould, path string) (*client.FileText, error) {
	files := m.SourceFiles()
	i := slices.IndexFunc(files, func(f mould.CastFile) bool { return f.File.Source.Path == path })
	if i < 0 {
		return nil, noFile(path)
	}
	return textOf(m, &files[i], true)
}

// fileList describes all files.
func fileList(m *mould.Mould, files []mould.CastFile) []client.FileInfo {
	list := make([]client.FileInfo, len(files))
	for i := range files {
		list[i] = fileInfo(m, &files[i])
	}
	return list
}

func fileInfo(m *mould.Mould, f *mould.CastFile) client.FileInfo {
	source := &f.File.Source
	info := client.FileInfo{
		ID: fileID(f), Path: f.Path, Source: source.Path, Kind: source.Kind.String(), Target: f.Target, Item: f.Item,
		Executable: f.Content.Source.Executable, Binary: f.Content.Binary, Verbatim: f.Content.Verbatim,
		Slots: len(f.Content.Slots), Pieces: pieceList(m, f.PathPieces()), Variables: []string{}, Rules: m.RulesOf(f.File),
	}
	if source.Kind == tree.File {
		info.Size = f.Size()
	}
	for _, slot := range f.Content.Slots {
		if name := m.Variable(slot).Name; !slices.Contains(info.Variables, name) {
			info.Variables = append(info.Variables, name)
		}
	}
	return info
}

// fileID names a file of a cast while the values change.
func fileID(f *mould.CastFile) string {
	if f.Item == "" {
		return f.File.Source.Path
	}
	return f.File.Source.Path + "#" + f.Item
}

// hidden stands where a secret would.
const hidden = "•••"

func pieceList(m *mould.Mould, pieces []mould.Piece) []client.Piece {
	list := make([]client.Piece, len(pieces))
	for i, p := range pieces {
		list[i] = client.Piece{Text: p.Text, Mark: p.Mark}
		if p.Slot != nil {
			rule, v := m.Rule(*p.Slot), m.Variable(*p.Slot)
			list[i].Variable = v.Name
			list[i].Form = rule.Form.String()
			list[i].Literal = rule.Literal
			list[i].Guessed = p.Slot.Guessed
			if v.Kind == manifest.KindSecret {
				list[i].Text, list[i].Literal = hidden, hidden
			}
		}
	}
	return list
}

// textOf shows one file, as the source has it or as it is cast.
func textOf(m *mould.Mould, f *mould.CastFile, source bool) (*client.FileText, error) {
	shown := &client.FileText{FileInfo: fileInfo(m, f), Text: []client.Piece{}, Marks: []mould.MarkedRegion{}}
	if f.File.Source.Kind != tree.File {
		return shown, nil
	}
	explained, err := m.Explain(f.Content)
	if err != nil {
		return nil, err
	}
	shown.Marks = explained.Marks
	read := f.Pieces
	if source {
		read = f.SourcePieces
	}
	pieces, err := read()
	if err != nil {
		return nil, err
	}
	return shown, fillText(shown, pieceList(m, pieces))
}

// fillText adds a text to what is shown, as far as it is shown.
func fillText(shown *client.FileText, pieces []client.Piece) error {
	if len(pieces) > 0 && tree.IsBinary([]byte(pieces[0].Text)) {
		shown.Binary = true
		return nil
	}
	size := 0
	for _, piece := range pieces {
		if size += len(piece.Text); size > maxShown {
			shown.Truncated = true
			piece.Text = cutText(piece.Text, len(piece.Text)-(size-maxShown))
		}
		shown.Text = append(shown.Text, piece)
		if shown.Truncated {
			break
		}
	}
	return nil
}

// cutText returns the first n bytes of text, less what is left of a letter.
func cutText(text string, n int) string {
	for n > 0 && n < len(text) && !utf8.RuneStart(text[n]) {
		n--
	}
	return text[:n]
}
