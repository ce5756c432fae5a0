package api

import (
	"bytes"
	"context"
	"fmt"
	"io"
	"net/http"
	"os"
	"strings"
	"unicode/utf8"

	"github.com/danielgtaylor/huma/v2"
	"github.com/klauspost/compress/gzip"

	"ironcast/client"
	"ironcast/core/bundle"
	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/proof"
	"ironcast/core/tree"
	"ironcast/service/store"
)

// VersionInput names a version in a path.
type VersionInput struct {
	Team    string `path:"team" maxLength:"60" example:"kelpwick"`
	Name    string `path:"name" maxLength:"60" example:"crossing-board"`
	Version string `path:"version" maxLength:"100" example:"1.1.0" doc:"A SemVer version or range, or latest."`
}

func (a *API) registerCatalogue(described huma.API) {
	huma.Register(described, huma.Operation{
		OperationID: "manifest-schema", Method: http.MethodGet, Path: "/schemas/manifest", Tags: []string{"catalogue"},
		Summary: "The JSON Schema of ironcast.yaml, for editors",
	}, func(context.Context, *struct{}) (*struct {
		ContentType string `header:"Content-Type"`
		Body        []byte
	}, error) {
		return &struct {
			ContentType string `header:"Content-Type"`
			Body        []byte
		}{"application/schema+json", manifest.FormatSchema}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "find-templates", Method: http.MethodGet, Path: "/templates", Tags: []string{"catalogue"},
		Summary: "Find templates by words",
	}, func(ctx context.Context, in *struct {
		Words  string `query:"words" maxLength:"200" doc:"All must occur in the team, name, title, summary or labels."`
		Label  string `query:"label" maxLength:"60"`
		Offset int    `query:"offset" minimum:"0" default:"0"`
		Limit  int    `query:"limit" minimum:"1" maximum:"100" default:"50"`
	}) (*struct{ Body client.TemplatePage }, error) {
		found, total, err := a.store.Find(ctx, store.Search{Words: strings.Fields(in.Words), Label: in.Label, Offset: in.Offset, Limit: in.Limit})
		page := client.TemplatePage{Items: make([]client.Template, len(found)), Total: total}
		for i, t := range found {
			page.Items[i] = templateBody(t)
		}
		return &struct{ Body client.TemplatePage }{page}, problem(ctx, err)
	})

	huma.Register(described, huma.Operation{
		OperationID: "versions", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions", Tags: []string{"catalogue"},
		Summary: "List a template's versions, the highest first",
	}, func(ctx context.Context, in *struct {
		Team string `path:"team" maxLength:"60"`
		Name string `path:"name" maxLength:"60"`
	}) (*struct{ Body []client.Version }, error) {
		template, err := a.store.Template(ctx, in.Team, in.Name)
		if err != nil {
			return nil, problem(ctx, err)
		}
		all, err := a.store.Versions(ctx, template)
		listed := make([]client.Version, len(all))
		for i, v := range all {
			listed[i] = versionBody(v)
		}
		return &struct{ Body []client.Version }{listed}, problem(ctx, err)
	})

	huma.Register(described, huma.Operation{
		OperationID: "version", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions/{version}", Tags: []string{"catalogue"},
		Summary: "Everything about one version",
	}, func(ctx context.Context, in *VersionInput) (*struct{ Body client.VersionDetail }, error) {
		version, ready, err := a.ready(ctx, in)
		if err != nil {
			return nil, problem(ctx, err)
		}
		detail := client.VersionDetail{
			Version: versionBody(version), Template: templateBody(version.Template),
			Title: ready.manifest.Title, Summary: ready.manifest.Summary, Licence: ready.manifest.Licence,
			Variables: ready.manifest.Variables, Presets: presets(ready.manifest), Schema: ready.manifest.VariablesSchema(),
			Readme: readme(ready.mould),
		}
		if detail.Title == "" {
			detail.Title = ready.manifest.Template
		}
		if detail.Variables == nil {
			detail.Variables = []manifest.Variable{}
		}
		return &struct{ Body client.VersionDetail }{detail}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "variables-schema", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions/{version}/schema", Tags: []string{"catalogue"},
		Summary: "The variables as a JSON Schema (2020-12)",
	}, func(ctx context.Context, in *VersionInput) (*struct {
		ContentType string `header:"Content-Type"`
		Body        manifest.Schema
	}, error) {
		_, ready, err := a.ready(ctx, in)
		if err != nil {
			return nil, problem(ctx, err)
		}
		return &struct {
			ContentType string `header:"Content-Type"`
			Body        manifest.Schema
		}{"application/schema+json", ready.manifest.VariablesSchema()}, nil
	})

	huma.Register(described, huma.Operation{
		OperationID: "bundle", Method: http.MethodGet, Path: "/templates/{team}/{name}/versions/{version}/bundle", Tags: []string{"catalogue"},
		Summary:   "The version's bundle, a tar archive compressed with gzip",
		Responses: binaryResponse("application/gzip", "The bundle."),
	}, a.sendBundle)

	huma.Register(described, huma.Operation{
		OperationID: "publish", Method: http.MethodPut, Path: "/templates/{team}/{name}/versions/{version}", Tags: []string{"catalogue"},
		Summary: "Prove a bundle and add it to the catalogue", Security: changes,
		Description: "The same contents again change nothing. Other contents under a version that is there are refused.",
		RequestBody: &huma.RequestBody{Required: true, Content: map[string]*huma.MediaType{"application/gzip": {Schema: &huma.Schema{Type: "string", Format: "binary"}}}},
	}, a.publish)
}

func binaryResponse(contentType, description string) map[string]*huma.Response {
	return map[string]*huma.Response{"200": {
		Description: description,
		Content:     map[string]*huma.MediaType{contentType: {Schema: &huma.Schema{Type: "string", Format: "binary"}}},
	}}
}

// ready returns a version and its compiled template.
func (a *API) ready(ctx context.Context, in *VersionInput) (store.Version, *compiled, error) {
	version, err := a.store.Version(ctx, in.Team, in.Name, in.Version)
	if err != nil {
		return version, nil, err
	}
	ready, err := a.moulds.get(ctx, version.Digest)
	return version, ready, err
}

func templateBody(t store.Template) client.Template {
	return client.Template{
		Team: t.Team, Name: t.Name, Title: t.Title, Summary: t.Summary, Licence: t.Licence, Labels: t.Labels,
		Version: t.Version, Versions: t.Versions, Updated: t.UpdatedAt,
	}
}

func versionBody(v store.Version) client.Version {
	return client.Version{Version: v.Version, Digest: v.Digest, Files: v.Files, Slots: v.Slots, Published: v.PublishedAt, By: v.PublishedBy}
}

// readme returns the text of the source project's readme, as it stands there.
func readme(m *mould.Mould) string {
	for i := range m.Files {
		e := m.Files[i].Source
		if name := strings.ToLower(e.Path); e.Kind != tree.File || name != "readme.md" && name != "readme" && name != "readme.txt" {
			continue
		}
		if text, err := e.Bytes(); err == nil && utf8.Valid(text) {
			return string(text)
		}
	}
	return ""
}

func (a *API) sendBundle(ctx context.Context, in *VersionInput) (*huma.StreamResponse, error) {
	version, err := a.store.Version(ctx, in.Team, in.Name, in.Version)
	if err != nil {
		return nil, problem(ctx, err)
	}
	packed, _, err := a.store.OpenBundle(ctx, version.Digest)
	if err != nil {
		return nil, problem(ctx, err)
	}
	return &huma.StreamResponse{Body: func(out huma.Context) {
		out.SetHeader("Content-Type", "application/gzip")
		out.SetHeader("ETag", `"`+version.Digest+`"`)
		out.SetHeader("Content-Disposition", fmt.Sprintf(`attachment; filename="%s-%s.tar.gz"`, in.Name, version.Version))
		stream(out, func(w io.Writer) error {
			zipped := gzip.NewWriter(w)
			if _, err := io.Copy(zipped, packed); err != nil {
				return err
			}
			return zipped.Close()
		})
	}}, nil
}

// publishInput takes the bundle as a stream.
type publishInput struct {
	VersionInput
	bundle io.Reader
}

// Resolve keeps the request's body, so that a bundle is never held in memory.
func (in *publishInput) Resolve(ctx huma.Context) []error {
	in.bundle = ctx.BodyReader()
	return nil
}

type publishOutput struct {
	Status int
	Body   client.Publication
}

func (a *API) publish(ctx context.Context, in *publishInput) (*publishOutput, error) {
	template, m, err := bundle.Read(ctx, in.bundle, a.limits)
	if err != nil {
		return nil, huma.Error422UnprocessableEntity(sentence(err))
	}
	if m.Team != in.Team || m.Template != in.Name || m.Version != in.Version {
		return nil, huma.Error422UnprocessableEntity(fmt.Sprintf("The bundle says it is %s/%s %s; it was sent as %s/%s %s.", m.Team, m.Template, m.Version, in.Team, in.Name, in.Version))
	}
	report, made, err := proof.Prove(ctx, template, proof.Options{Limits: a.limits})
	if err != nil {
		return nil, problem(ctx, err)
	}
	if !report.Passed() {
		return nil, huma.Error422UnprocessableEntity("The template does not prove clean, so it is not published.", proofErrors(report)...)
	}
	packed, err := os.CreateTemp("", "ironcast-")
	if err != nil {
		return nil, problem(ctx, err)
	}
	defer os.Remove(packed.Name())
	defer packed.Close()
	digest, size, err := bundle.Write(ctx, packed, template, m)
	if err != nil {
		return nil, problem(ctx, err)
	}
	account, _ := accountOf(ctx)
	version, added, err := a.store.Publish(ctx, store.Publication{
		Manifest: m, Digest: string(digest), Size: size, By: account.Name,
		Files: len(made.Files), Slots: made.Slots(),
		Chunks: func(each func(int, []byte) error) error { return chunks(packed, each) },
	})
	if err != nil {
		return nil, problem(ctx, err)
	}
	status := http.StatusOK
	if added {
		status = http.StatusCreated
	}
	return &publishOutput{status, client.Publication{
		Reference: fmt.Sprintf("%s/%s@%s", m.Team, m.Template, m.Version), Version: versionBody(version), Added: added, Proof: report,
	}}, nil
}

func proofErrors(report proof.Report) []error {
	var found []error
	for _, stage := range report.Stages {
		for _, f := range stage.Findings {
			where := f.Path
			if f.Line > 0 {
				where = fmt.Sprintf("%s:%d", f.Path, f.Line)
			}
			found = append(found, &huma.ErrorDetail{Location: where, Message: f.Message})
		}
	}
	return found
}

// chunks cuts a file into pieces of store.ChunkBytes.
func chunks(file io.ReadSeeker, each func(int, []byte) error) error {
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	buffer := make([]byte, store.ChunkBytes)
	for position := 0; ; position++ {
		n, err := io.ReadFull(file, buffer)
		if n > 0 {
			if err := each(position, bytes.Clone(buffer[:n])); err != nil {
				return err
			}
		}
		if err == io.EOF || err == io.ErrUnexpectedEOF {
			return nil
		}
		if err != nil {
			return err
		}
	}
}

// stream writes a body that may fail half-way. The connection is then broken
// off, since the status has been sent.
func stream(out huma.Context, write func(io.Writer) error) {
	if err := write(out.BodyWriter()); err != nil {
		panic(http.ErrAbortHandler)
	}
}

func presets(m *manifest.Manifest) []manifest.Preset {
	if m.Presets == nil {
		return []manifest.Preset{}
	}
	return m.Presets
}
