package api

import (
	"context"
	"io"
	"mime"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"ironcast/client"
	"ironcast/core/hooks"
	"ironcast/core/origin"
	"ironcast/core/tree"
	"ironcast/core/values"
)

func (a *API) registerCasts(described huma.API) {
	huma.Register(described, huma.Operation{
		OperationID: "cast", Method: http.MethodPost, Path: "/templates/{team}/{name}/versions/{version}/cast", Tags: []string{"casting"},
		Summary:   "Cast a project and send it as an archive",
		Responses: binaryResponse("application/octet-stream", "The project below one folder, as .tar.gz or .zip."),
	}, a.cast)
}

func (a *API) cast(ctx context.Context, in *struct {
	VersionInput
	Format string `query:"format" enum:"tar.gz,zip" default:"tar.gz"`
	Body   client.CastRequest
}) (*huma.StreamResponse, error) {
	_, ready, err := a.ready(ctx, &in.VersionInput)
	if err != nil {
		return nil, problem(ctx, err)
	}
	given, err := values.WithPreset(ready.manifest, in.Body.Preset, in.Body.Values)
	if err != nil {
		return nil, problem(ctx, err)
	}
	result, err := hooks.Cast(ctx, ready.request(given, values.Now(), a.limits))
	if err != nil {
		return nil, problem(ctx, err)
	}
	vs := result.Values
	record := origin.New(ready.manifest, ready.digest, vs)
	project, err := record.Add(result.Project, a.limits)
	if err != nil {
		return nil, problem(ctx, err)
	}
	folder := values.FolderName(ready.manifest, vs)
	write, contentType := tree.WriteTarGz, "application/gzip"
	if in.Format == "zip" {
		write, contentType = tree.WriteZip, "application/zip"
	}
	return &huma.StreamResponse{Body: func(out huma.Context) {
		out.SetHeader("Content-Type", contentType)
		out.SetHeader("Content-Disposition", mime.FormatMediaType("attachment", map[string]string{"filename": folder + "." + in.Format}))
		stream(out, func(w io.Writer) error { return write(out.Context(), w, project, folder) })
		castsTotal.Inc()
	}}, nil
}
