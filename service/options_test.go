package service_test

import (
	"archive/tar"
	"bytes"
	"compress/gzip"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"testing"

	"ironcast/client"
	"ironcast/core/bundle"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// publishDemo publishes one of the demo's templates.
func publishDemo(t *testing.T, c *client.Client, name string) {
	t.Helper()
	ctx := context.Background()
	template, m, err := bundle.Folder(ctx, "../demo/"+name, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	var packed bytes.Buffer
	zipped := gzip.NewWriter(&packed)
	if _, _, err := bundle.Write(ctx, zipped, template, m); err != nil {
		t.Fatal(err)
	}
	zipped.Close()
	if _, err := c.Publish(ctx, m.Team, m.Template, m.Version, &packed); err != nil {
		t.Fatal(err)
	}
}

const secret = "barnacle-lantern-42"

func suiteValues(more values.Input) values.Input {
	given := values.Input{"suite": "pier office", "broker_password": secret, "regions": []any{"main quay", "gull island"}}
	for name, value := range more {
		given[name] = value
	}
	return given
}

func paths(files []client.FileInfo) []string {
	var all []string
	for _, f := range files {
		all = append(all, f.Path)
	}
	return all
}

func TestAPreviewFollowsOptionsListsAndScripts(t *testing.T) {
	ctx := context.Background()
	r := start(t)
	publishDemo(t, r.operator(t), "harbour-suite")
	anyone := client.New(r.URL, "")
	ask := func(request client.PreviewRequest) client.Preview {
		t.Helper()
		preview, err := anyone.Preview(ctx, "kelpwick", "harbour-suite", "latest", request)
		if err != nil {
			t.Fatal(err)
		}
		return preview
	}

	preview := ask(client.PreviewRequest{Values: suiteValues(values.Input{"libraries": []any{"example.com/charts@v1.4.0"}}), File: "regions/north-quay/region.go#gull island"})
	all := paths(preview.Files)
	if len(preview.Problems) != 0 || !slices.Contains(all, "regions/gull-island/region.go") || !slices.Contains(all, "billing/billing.go") || slices.Contains(all, "regions/north-quay/region.go") {
		t.Errorf("the files are %v with %v", all, preview.Problems)
	}
	if f := preview.File; f.Path != "regions/gull-island/region.go" || f.Item != "gull island" || len(f.Rules) != 1 || f.Rules[0].Rule != "repeat" {
		t.Errorf("the file is %+v", f)
	}
	if !slices.Equal(preview.Output, []string{"Added to core/go.mod: example.com/charts@v1.4.0"}) || len(preview.Commands) != 1 || len(preview.NextSteps) != 2 || preview.NextSteps[1].Do != "Run the tests of all 9 modules" {
		t.Errorf("it says %q, %q and %+v", preview.Output, preview.Commands, preview.NextSteps)
	}
	byScript := ask(client.PreviewRequest{Values: suiteValues(values.Input{"libraries": []any{"example.com/charts@v1.4.0"}}), File: "core/go.mod"})
	if !byScript.File.Scripted || !strings.Contains(byScript.File.Text[0].Text, "example.com/charts v1.4.0") {
		t.Errorf("what the script wrote is %+v", byScript.File)
	}

	// A preset leaves modules out, and a question that depends on it.
	small := ask(client.PreviewRequest{Values: suiteValues(nil), Preset: "small", File: "exports/exports.go"})
	if len(small.LeftOut) != 8 || !strings.Contains(small.LeftOut[0].Rule, "only when billing") || small.Asked["exports"] || !small.Asked["billing"] || small.Values["exports"] != false {
		t.Errorf("left out are %+v, asked %v", small.LeftOut, small.Asked)
	}
	if small.File == nil || small.File.Path != "exports/exports.go" {
		t.Errorf("a file that is left out is shown as %+v", small.File)
	}
	for request, want := range map[*client.PreviewRequest]string{
		{Values: suiteValues(values.Input{"regions": []any{"pilots"}})}:                "pilots is the name of a module",
		{Values: suiteValues(values.Input{"billing": false, "exports": true})}:         "Exports are made of bills",
		{Values: suiteValues(values.Input{"regions": []any{"main quay", "MainQuay"}})}: "stands in it twice",
	} {
		if preview := ask(*request); len(preview.Problems) != 1 || !strings.Contains(preview.Problems[0].Message, want) {
			t.Errorf("the problems are %v, want %q", preview.Problems, want)
		}
	}
	if _, err := anyone.Preview(ctx, "kelpwick", "harbour-suite", "latest", client.PreviewRequest{Values: values.Input{}, Preset: "tiny"}); status(err) != 422 || !strings.Contains(err.Error(), "it has office, small") {
		t.Errorf("a preset that is not there gives %v", err)
	}
	if text, code := get(t, r, "/api/v1/schemas/manifest"); code != 200 || !strings.Contains(text, `"Iron Cast manifest"`) {
		t.Errorf("the manifest's schema answers %d", code)
	}
	if text, code := get(t, r, "/api/v1/templates/kelpwick/harbour-suite/versions/latest/explain?path=go.work"); code != 200 || !strings.Contains(text, `for each region in regions`) {
		t.Errorf("explain answers %d %s", code, text)
	}
}

// logged collects the service's log.
type logged struct {
	sync.Mutex
	bytes.Buffer
}

func (l *logged) Write(p []byte) (int, error) {
	l.Lock()
	defer l.Unlock()
	return l.Buffer.Write(p)
}

func TestASecretReachesNothingButItsFiles(t *testing.T) {
	ctx := context.Background()
	log := &logged{}
	before := slog.Default()
	slog.SetDefault(slog.New(slog.NewTextHandler(log, &slog.HandlerOptions{Level: slog.LevelDebug})))
	defer slog.SetDefault(before)
	r := start(t)
	publishDemo(t, r.operator(t), "harbour-suite")
	anyone := client.New(r.URL, "")
	preview, err := anyone.Preview(ctx, "kelpwick", "harbour-suite", "latest", client.PreviewRequest{Values: suiteValues(nil), File: "deploy/broker.env"})
	if err != nil {
		t.Fatal(err)
	}
	shown, err := json.Marshal(preview)
	if err != nil || bytes.Contains(shown, []byte(secret)) || !strings.Contains(string(shown), "•••") {
		t.Errorf("the preview shows %s", shown)
	}
	short := suiteValues(values.Input{"broker_password": "short-1"})
	if _, err := anyone.Cast(ctx, "kelpwick", "harbour-suite", "latest", "tar.gz", client.CastRequest{Values: short}); status(err) != 422 || strings.Contains(err.Error(), "short-1") {
		t.Errorf("a wrong secret gives %v", err)
	}
	answer, err := anyone.Cast(ctx, "kelpwick", "harbour-suite", "latest", "tar.gz", client.CastRequest{Values: suiteValues(nil)})
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Close()
	unzipped, err := gzip.NewReader(answer)
	if err != nil {
		t.Fatal(err)
	}
	var holding []string
	for archive := tar.NewReader(unzipped); ; {
		header, err := archive.Next()
		if err == io.EOF {
			break
		}
		if err != nil {
			t.Fatal(err)
		}
		content, _ := io.ReadAll(archive)
		if bytes.Contains(content, []byte(secret)) {
			holding = append(holding, header.Name)
		}
	}
	if fmt.Sprint(holding) != "[pier-office/deploy/broker.env]" {
		t.Errorf("it stands in %v", holding)
	}
	if text := log.String(); strings.Contains(text, secret) || text == "" {
		t.Errorf("the log holds %s", text)
	}
}
