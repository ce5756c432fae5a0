package api

import (
	"context"
	"fmt"
	"net/http"
	"slices"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"

	"ironcast/client"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
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
		return &struct{ Body []client.FileInfo }{fileList(ready.mould, ready.mould.SourceView())}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "file", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions/{version}/file", Tags: []string{"catalogue"},
		Summary: "The text of one of a version's files, cut at its slots",
	}, func(ctx context.Context, in *struct {
		VersionInput
		Path string `query:"path" required:"true" doc:"In the source project."`
	}) (*struct{ Body client.FileText }, error) {
		_, ready, err := a.ready(ctx, &in.VersionInput)
		if err != nil {
			return nil, problem(ctx, err)
		}
		file, err := fileText(ready.mould, in.Path, ready.mould.SourceView())
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &struct{ Body client.FileText }{*file}, nil
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
		preview, err := previewOf(ready, in.Body)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &struct{ Body client.Preview }{*preview}, nil
	})
}

func previewOf(ready *compiled, request client.PreviewRequest) (*client.Preview, error) {
	vs, problems := values.Tentative(ready.manifest, request.Values, values.StableID(ready.digest))
	preview := &client.Preview{Folder: values.FolderName(ready.manifest, vs), Values: vs.JSON(), Problems: problems}
	if preview.Problems == nil {
		preview.Problems = []values.Problem{}
	}
	if len(problems) == 0 {
		if _, err := ready.mould.Cast(vs); err != nil {
			preview.Problems = append(preview.Problems, values.Problem{Message: err.Error()})
		}
	}
	view := ready.mould.View(vs)
	preview.Files = fileList(ready.mould, view)
	if request.File == "" {
		return preview, nil
	}
	var err error
	preview.File, err = fileText(ready.mould, request.File, view)
	return preview, err
}

// fileList describes all files.
func fileList(m *mould.Mould, view mould.View) []client.FileInfo {
	files := make([]client.FileInfo, len(m.Files))
	for i := range m.Files {
		files[i] = fileInfo(m, &m.Files[i], view)
	}
	return files
}

func fileInfo(m *mould.Mould, f *mould.File, view mould.View) client.FileInfo {
	info := client.FileInfo{
		Source: f.Source.Path, Kind: f.Source.Kind.String(),
		Executable: f.Source.Executable, Binary: f.Binary, Verbatim: f.Verbatim,
		Slots: len(f.Slots), Pieces: pieceList(m, view.Path(f)), Variables: []string{},
	}
	for _, piece := range info.Pieces {
		info.Path += piece.Text
	}
	if f.Source.Kind == tree.Link {
		info.Target = view.Target(f)
	}
	if f.Source.Kind == tree.File {
		info.Size = view.Size(f)
	}
	for _, slot := range f.Slots {
		if name := m.Variable(slot).Name; !slices.Contains(info.Variables, name) {
			info.Variables = append(info.Variables, name)
		}
	}
	return info
}

func pieceList(m *mould.Mould, pieces []mould.Piece) []client.Piece {
	list := make([]client.Piece, len(pieces))
	for i, p := range pieces {
		list[i] = client.Piece{Text: p.Text}
		if p.Slot != nil {
			rule := m.Rule(*p.Slot)
			list[i].Variable = m.Variable(*p.Slot).Name
			list[i].Form = rule.Form.String()
			list[i].Literal = rule.Literal
			list[i].Guessed = p.Slot.Guessed
		}
	}
	return list
}

// fileText shows one file, named by its path in the source project.
func fileText(m *mould.Mould, path string, view mould.View) (*client.FileText, error) {
	i := slices.IndexFunc(m.Files, func(f mould.File) bool { return f.Source.Path == path })
	if i < 0 {
		return nil, fmt.Errorf("the file %q %w in this version", path, store.ErrNotFound)
	}
	f := &m.Files[i]
	shown := &client.FileText{FileInfo: fileInfo(m, f, view), Text: []client.Piece{}}
	if f.Source.Kind != tree.File {
		return shown, nil
	}
	pieces, err := view.Content(f)
	if err != nil {
		return nil, err
	}
	if len(pieces) > 0 && tree.IsBinary([]byte(pieces[0].Text)) {
		shown.Binary = true
		return shown, nil
	}
	size := 0
	for _, piece := range pieceList(m, pieces) {
		if size += len(piece.Text); size > maxShown {
			shown.Truncated = true
			piece.Text = cutText(piece.Text, len(piece.Text)-(size-maxShown))
		}
		shown.Text = append(shown.Text, piece)
		if shown.Truncated {
			break
		}
	}
	return shown, nil
}

// cutText returns the first n bytes of text, less what is left of a letter.
func cutText(text string, n int) string {
	for n > 0 && n < len(text) && !utf8.RuneStart(text[n]) {
		n--
	}
	return text[:n]
}
