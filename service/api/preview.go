package api

import (
	"context"
	"strings"

	"ironcast/client"
	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// preview shows what a cast would give, as far as the values allow. Ids stay
// the same from one preview of a version to the next.
func (a *API) preview(ctx context.Context, ready *compiled, request client.PreviewRequest) (*client.Preview, error) {
	occasion := values.Stable(ready.digest)
	given, err := values.WithPreset(ready.manifest, request.Preset, request.Values)
	if err != nil {
		return nil, err
	}
	state := values.Tentative(ready.manifest, given, occasion)
	preview := &client.Preview{
		Asked: state.Asked, Problems: state.Problems,
		LeftOut: []client.LeftOutFile{}, Output: []string{}, Commands: []string{}, NextSteps: []hooks.Step{},
	}
	if preview.Problems == nil {
		preview.Problems = []values.Problem{}
	}
	refuse := func(err error) { preview.Problems = append(preview.Problems, values.Problem{Message: err.Error()}) }
	shown := project{mould: ready.mould}
	vs := state.Values
	if len(state.Problems) == 0 && ready.manifest.Hooks.Scripts() {
		result, err := hooks.Cast(ctx, ready.request(given, occasion, a.limits))
		switch {
		case ctx.Err() != nil:
			return nil, ctx.Err()
		case err != nil:
			refuse(err)
		default:
			vs, shown.files, shown.result = result.Values, result.Casting.Files, result
			preview.Output = append(preview.Output, result.Output...)
		}
	}
	if shown.files == nil {
		if casting, err := ready.mould.Apply(vs); err != nil {
			refuse(err)
			shown.files = ready.mould.SourceFiles()
		} else {
			shown.files = casting.Files
			if _, err := casting.Tree(); err != nil && len(state.Problems) == 0 {
				refuse(err)
			}
		}
	}
	preview.Folder, preview.Values = values.FolderName(ready.manifest, vs), vs.JSON()
	preview.Files = shown.list()
	preview.LeftOut = append(preview.LeftOut, shown.leftOut()...)
	if err := addSteps(preview, ready.manifest, vs); err != nil {
		refuse(err)
	}
	if request.File != "" {
		preview.File, err = shown.text(request.File)
	}
	return preview, err
}

func addSteps(preview *client.Preview, m *manifest.Manifest, vs values.Values) error {
	steps, err := hooks.NextSteps(m, vs)
	if err != nil {
		return err
	}
	commands, err := hooks.Commands(m, vs)
	if err != nil {
		return err
	}
	preview.NextSteps = append(preview.NextSteps, steps...)
	for _, command := range commands {
		preview.Commands = append(preview.Commands, strings.Join(command.Arguments, " "))
	}
	return nil
}

// project is a cast that is looked at.
type project struct {
	mould  *mould.Mould
	files  []mould.CastFile
	result *hooks.Result // nil where no script ran
}

// list describes the files as they are after the scripts.
func (p *project) list() []client.FileInfo {
	if p.result == nil {
		return fileList(p.mould, p.files)
	}
	cast := map[string]*mould.CastFile{}
	for i := range p.files {
		cast[p.files[i].Path] = &p.files[i]
	}
	changed := map[string]bool{}
	for _, path := range p.result.Changed {
		changed[path] = true
	}
	var list []client.FileInfo
	for _, e := range p.result.Project.Entries() {
		if f := cast[e.Path]; f != nil && !changed[e.Path] {
			list = append(list, fileInfo(p.mould, f))
			continue
		}
		list = append(list, scripted(e, cast[e.Path]))
	}
	return list
}

// scripted describes a file that a script wrote, in the place of a cast one or
// not.
func scripted(e tree.Entry, cast *mould.CastFile) client.FileInfo {
	info := client.FileInfo{
		ID: e.Path, Path: e.Path, Kind: e.Kind.String(), Target: e.Target, Executable: e.Executable, Scripted: true,
		Pieces: []client.Piece{{Text: e.Path}}, Variables: []string{}, Rules: []mould.FileRule{},
	}
	if cast != nil {
		info.ID, info.Source = fileID(cast), cast.File.Source.Path
	}
	if e.Kind == tree.File {
		info.Size = e.Content.Size()
	}
	return info
}

// leftOut returns the files of the source that are not in the cast.
func (p *project) leftOut() []client.LeftOutFile {
	cast := map[*mould.File]bool{}
	for i := range p.files {
		cast[p.files[i].File] = true
	}
	var left []client.LeftOutFile
	for i := range p.mould.Files {
		f := &p.mould.Files[i]
		if cast[f] || f.Declared {
			continue
		}
		var effects []string
		for _, rule := range p.mould.RulesOf(f) {
			effects = append(effects, rule.Effect)
		}
		left = append(left, client.LeftOutFile{Source: f.Source.Path, Rule: strings.Join(effects, "; ")})
	}
	return left
}

// text shows the file of that id.
func (p *project) text(id string) (*client.FileText, error) {
	if p.result != nil {
		for _, info := range p.list() {
			if info.ID == id && info.Scripted {
				return p.scriptedText(info)
			}
		}
	}
	for i := range p.files {
		if fileID(&p.files[i]) == id {
			return textOf(p.mould, &p.files[i], false)
		}
	}
	// These values leave it out: it is shown as the source has it.
	text, err := sourceText(p.mould, id)
	if err != nil {
		return nil, noFile(id)
	}
	return text, nil
}

func (p *project) scriptedText(info client.FileInfo) (*client.FileText, error) {
	shown := &client.FileText{FileInfo: info, Text: []client.Piece{}, Marks: []mould.MarkedRegion{}}
	entry, _ := p.result.Project.Find(info.Path)
	content, err := entry.Bytes()
	if err != nil {
		return nil, err
	}
	return shown, fillText(shown, []client.Piece{{Text: string(content)}})
}
