package service_test

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"compress/gzip"
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"net/http/httptest"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"ironcast/client"
	"ironcast/core/bundle"
	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/tree"
	"ironcast/core/values"
	"ironcast/service"
	"ironcast/service/mariadbd"
	"ironcast/service/store"
)

// database is the private server that all tests of this package share; each
// test begins with an empty catalogue.
var database *mariadbd.Server

func TestMain(m *testing.M) {
	hooks.RunSandbox()
	os.Exit(func() int {
		dir, err := os.MkdirTemp("", "ironcast-test-")
		if err != nil {
			panic(err)
		}
		defer os.RemoveAll(dir)
		if database, err = mariadbd.Start(context.Background(), dir); err != nil {
			fmt.Fprintln(os.Stderr, err)
			return 1
		}
		defer database.Stop()
		return m.Run()
	}())
}

const password = "a long enough password"

// running is a service on loopback with an empty catalogue.
type running struct {
	*httptest.Server
	records *store.Store
}

func start(t *testing.T) *running { return startWith(t, tree.DefaultLimits()) }

func startWith(t *testing.T, limits tree.Limits) *running {
	t.Helper()
	ctx := context.Background()
	records, err := store.Open(database.DSN())
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { records.Close() })
	if err := records.Migrate(ctx); err != nil {
		t.Fatal(err)
	}
	empty(t)
	if made, err := records.CreateOperator(ctx, "operator", password); err != nil || !made {
		t.Fatal(made, err)
	}
	server := httptest.NewServer(service.Handler(records, service.Config{Limits: limits}))
	t.Cleanup(server.Close)
	return &running{server, records}
}

// empty removes all records.
func empty(t *testing.T) {
	t.Helper()
	db, err := sql.Open("mysql", database.DSN())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, table := range []string{"versions", "templates", "chunks", "bundles", "tokens", "sessions", "accounts"} {
		if _, err := db.Exec("DELETE FROM " + table); err != nil {
			t.Fatal(err)
		}
	}
}

// operator returns a client that is logged in.
func (r *running) operator(t *testing.T) *client.Client {
	t.Helper()
	c := client.New(r.URL, "")
	if _, err := c.LogIn(context.Background(), client.Credentials{Name: "operator", Password: password}, "test"); err != nil {
		t.Fatal(err)
	}
	return c
}

// template is a small one of the given version, whose main file says text.
func template(t *testing.T, version, text string) (tree.Tree, *manifest.Manifest) {
	t.Helper()
	declared := fmt.Sprintf(`ironcast: 1
template: board
title: Board %s
summary: Shows what leaves next.
version: %s
team: kelpwick
labels: [go, http]
variables:
  service: { kind: name, stands_for: crossing board, examples: [tide gauge] }
  port: { kind: integer, stands_for: 8087, default: 8087, minimum: 1024 }
  deploy_id: { kind: id, stands_for: 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de }
`, version, version)
	made, err := tree.New([]tree.Entry{
		{Path: "ironcast.yaml", Content: tree.Memory(declared)},
		{Path: "README.md", Content: tree.Memory("# Crossing Board\n")},
		{Path: "cmd/crossing-board/main.go", Content: tree.Memory("package main // crossing board on 8087, " + text + "\n")},
		{Path: "id", Content: tree.Memory("3F0C7C1E-8A55-4F5E-9A44-6A52B7A1F0DE")},
		{Path: "run.sh", Executable: true, Content: tree.Memory("#!/bin/sh\n")},
		{Path: "link", Kind: tree.Link, Target: "cmd/crossing-board/main.go"},
		{Path: "var/spool", Kind: tree.Folder},
		{Path: "image", Content: tree.Memory("\x00\x01")},
	}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	m, err := manifest.Of(made)
	if err != nil {
		t.Fatal(err)
	}
	return made, m
}

func publish(t *testing.T, c *client.Client, version, text string) (client.Publication, error) {
	t.Helper()
	made, m := template(t, version, text)
	var packed bytes.Buffer
	if _, _, err := bundle.Write(context.Background(), &packed, made, m); err != nil {
		t.Fatal(err)
	}
	return c.Publish(context.Background(), m.Team, m.Template, m.Version, &packed)
}

// status returns the HTTP status of an error, 0 when there is none.
func status(err error) int {
	var problem *client.Problem
	if errors.As(err, &problem) {
		return problem.Status
	}
	return 0
}

func TestPublishFindAndCast(t *testing.T) {
	ctx := context.Background()
	r := start(t)
	c := r.operator(t)
	for _, version := range []string{"1.0.0", "1.2.0", "1.10.0", "2.0.0-rc.1"} {
		done, err := publish(t, c, version, version)
		if err != nil || !done.Added || !done.Proof.Passed() || done.Version.Slots == 0 {
			t.Fatalf("%s: %+v, %v", version, done, err)
		}
	}
	anyone := client.New(r.URL, "")

	page, err := anyone.Find(ctx, "LEAVES board", "http", 0, 10)
	if err != nil || page.Total != 1 || page.Items[0].Version != "1.10.0" || page.Items[0].Versions != 4 || page.Items[0].Title != "Board 1.10.0" {
		t.Errorf("found %+v, %v", page, err)
	}
	for _, words := range []string{"gull", "%", "_____________________", `\`} {
		if page, err := anyone.Find(ctx, words, "", 0, 10); err != nil || page.Total != 0 {
			t.Errorf("%q finds %+v, %v", words, page, err)
		}
	}
	for wanted, want := range map[string]string{"latest": "1.10.0", "^1.0": "1.10.0", "~1.2": "1.2.0", "1.0.0": "1.0.0", "2.0.0-rc.1": "2.0.0-rc.1"} {
		detail, err := anyone.Version(ctx, "kelpwick", "board", wanted)
		if err != nil || detail.Version.Version != want || len(detail.Variables) != 3 || detail.Readme != "# Crossing Board\n" {
			t.Errorf("%s is %+v, %v", wanted, detail.Version, err)
		}
	}
	versions, err := anyone.Versions(ctx, "kelpwick", "board")
	if err != nil || len(versions) != 4 || versions[0].Version != "2.0.0-rc.1" || versions[3].Version != "1.0.0" || versions[0].By != "operator" {
		t.Errorf("versions are %+v, %v", versions, err)
	}

	packed, err := anyone.Bundle(ctx, "kelpwick", "board", "1.0.0")
	if err != nil {
		t.Fatal(err)
	}
	defer packed.Close()
	back, m, err := bundle.Read(ctx, packed, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	sum, err := bundle.Digest(ctx, back, m)
	if err != nil || string(sum) != versions[3].Digest {
		t.Errorf("the bundle's digest is %s, want %s (%v)", sum, versions[3].Digest, err)
	}
}

func TestPublishingAgain(t *testing.T) {
	r := start(t)
	c := r.operator(t)
	first, err := publish(t, c, "1.0.0", "a")
	if err != nil {
		t.Fatal(err)
	}
	again, err := publish(t, c, "1.0.0", "a")
	if err != nil || again.Added || again.Version.Digest != first.Version.Digest {
		t.Errorf("the same again gives %+v, %v", again, err)
	}
	if _, err := publish(t, c, "1.0.0", "b"); status(err) != 409 || !strings.Contains(err.Error(), "raise the version") {
		t.Errorf("other contents give %v", err)
	}
	var group sync.WaitGroup
	added := make(chan bool, 8)
	for range 8 {
		group.Go(func() {
			done, err := publish(t, c, "1.1.0", "c")
			if err != nil {
				t.Error(err)
			}
			added <- done.Added
		})
	}
	group.Wait()
	close(added)
	count := 0
	for is := range added {
		if is {
			count++
		}
	}
	if count != 1 {
		t.Errorf("of eight publications at once, %d were added", count)
	}
}

func TestPublishRefuses(t *testing.T) {
	ctx := context.Background()
	r := start(t)
	c := r.operator(t)
	if _, err := publish(t, client.New(r.URL, ""), "1.0.0", "a"); status(err) != 401 {
		t.Errorf("without a token: %v", err)
	}
	if _, err := publish(t, client.New(r.URL, "ironcast_WRONG"), "1.0.0", "a"); status(err) != 401 || !strings.Contains(err.Error(), "not known") {
		t.Errorf("with a wrong token: %v", err)
	}
	if _, err := publish(t, c, "1.0.0", "a crossing\n// board"); status(err) != 422 || !strings.Contains(err.Error(), "main.go") {
		// A line break and a comment leader between the words are no separator;
		// this one must pass.
		if err != nil {
			t.Errorf("words that are not together: %v", err)
		}
	}
	if _, err := publish(t, c, "1.0.1", "a cRoSSing-bOArd"); status(err) != 422 || !strings.Contains(err.Error(), "does not prove clean") || !strings.Contains(err.Error(), "main.go:1") {
		t.Errorf("a template with a trace: %v", err)
	}
	archive := func(headers ...tar.Header) io.Reader {
		var packed bytes.Buffer
		w := tar.NewWriter(&packed)
		for _, h := range headers {
			w.WriteHeader(&h)
			w.Write(make([]byte, h.Size))
		}
		w.Close()
		return &packed
	}
	for want, body := range map[string]io.Reader{
		"safe path":       archive(tar.Header{Name: "../x", Mode: 0o644}),
		"safe link":       archive(tar.Header{Name: "x", Typeflag: tar.TypeSymlink, Linkname: "/etc"}),
		"neither a file":  archive(tar.Header{Name: "x", Typeflag: tar.TypeChar}),
		"limit":           archive(tar.Header{Name: "x", Size: 65 << 20, Mode: 0o644}),
		"is no template":  archive(tar.Header{Name: "x", Mode: 0o644}),
		"damaged":         strings.NewReader("this is no archive at all, but long enough to be looked at"),
		"is no template ": strings.NewReader(""),
	} {
		if _, err := c.Publish(ctx, "kelpwick", "board", "9.0.0", body); status(err) != 422 || !strings.Contains(err.Error(), strings.TrimSpace(want)) {
			t.Errorf("%s: %v", want, err)
		}
	}
	made, m := template(t, "3.0.0", "a")
	var packed bytes.Buffer
	if _, _, err := bundle.Write(ctx, &packed, made, m); err != nil {
		t.Fatal(err)
	}
	if _, err := c.Publish(ctx, "kelpwick", "other", "3.0.0", &packed); status(err) != 422 || !strings.Contains(err.Error(), "The bundle says it is kelpwick/board 3.0.0") {
		t.Errorf("under another name: %v", err)
	}
	page, err := c.Find(ctx, "", "", 0, 10)
	if err != nil || page.Total != 1 || page.Items[0].Versions != 1 {
		t.Errorf("what was refused is in the catalogue: %+v, %v", page, err)
	}
}

func TestCastAsArchive(t *testing.T) {
	ctx := context.Background()
	r := start(t)
	if _, err := publish(t, r.operator(t), "1.0.0", "a"); err != nil {
		t.Fatal(err)
	}
	anyone := client.New(r.URL, "")
	given := client.CastRequest{Values: values.Input{"service": "tide gauge", "port": 9000}}
	answer, err := anyone.Cast(ctx, "kelpwick", "board", "latest", "tar.gz", given)
	if err != nil {
		t.Fatal(err)
	}
	project, err := tree.ReadTar(ctx, answer, tree.DefaultLimits())
	answer.Close()
	if err != nil {
		t.Fatal(err)
	}
	main, found := project.Find("tide-gauge/cmd/tide-gauge/main.go")
	text, _ := main.Bytes()
	if !found || string(text) != "package main // tide gauge on 9000, a\n" {
		t.Errorf("main.go is %q", text)
	}
	if e, _ := project.Find("tide-gauge/run.sh"); !e.Executable {
		t.Error("the executable bit is lost")
	}
	if e, _ := project.Find("tide-gauge/link"); e.Target != "cmd/tide-gauge/main.go" {
		t.Errorf("the link leads to %q", e.Target)
	}
	if _, found := project.Find("tide-gauge/.ironcast/origin.yaml"); !found {
		t.Error("there is no origin record")
	}

	if answer, err = anyone.Cast(ctx, "kelpwick", "board", "1.0.0", "zip", given); err != nil {
		t.Fatal(err)
	}
	zipped, _ := io.ReadAll(answer)
	answer.Close()
	if archive, err := zip.NewReader(bytes.NewReader(zipped), int64(len(zipped))); err != nil || len(archive.File) != 8 {
		t.Errorf("the zip archive has %v, %v", archive, err)
	}

	_, err = anyone.Cast(ctx, "kelpwick", "board", "latest", "zip", client.CastRequest{Values: values.Input{"servise": "x", "port": 80}})
	for _, want := range []string{"did you mean service?", "80 is below the minimum", "values.service: a value is missing"} {
		if status(err) != 422 || !strings.Contains(err.Error(), want) {
			t.Errorf("wrong values give %v, without %q", err, want)
		}
	}
	if _, err := anyone.Cast(ctx, "kelpwick", "none", "latest", "zip", given); status(err) != 404 {
		t.Errorf("a template that is not there gives %v", err)
	}
	if _, err := anyone.Cast(ctx, "kelpwick", "board", "3", "zip", given); status(err) != 404 || !strings.Contains(err.Error(), "the highest is 1.0.0") {
		t.Errorf("a version that is not there gives %v", err)
	}
}

func TestPreviewShowsSlotsInPlace(t *testing.T) {
	ctx := context.Background()
	r := start(t)
	if _, err := publish(t, r.operator(t), "1.0.0", "a"); err != nil {
		t.Fatal(err)
	}
	anyone := client.New(r.URL, "")
	const main = "cmd/crossing-board/main.go"
	preview, err := anyone.Preview(ctx, "kelpwick", "board", "1.0.0", client.PreviewRequest{Values: values.Input{"service": "TideGauge"}, File: main})
	if err != nil || len(preview.Problems) != 0 || preview.Folder != "tide-gauge" || len(preview.Files) != 7 {
		t.Fatalf("%+v, %v", preview, err)
	}
	slot := preview.File.Text[1]
	if slot.Text != "tide gauge" || slot.Variable != "service" || slot.Form != "spaced" || slot.Literal != "crossing board" || preview.File.Path != "cmd/tide-gauge/main.go" {
		t.Errorf("the file is %+v", preview.File)
	}
	again, err := anyone.Preview(ctx, "kelpwick", "board", "1.0.0", client.PreviewRequest{Values: values.Input{"service": "TideGauge"}})
	if err != nil || again.Values["deploy_id"] != preview.Values["deploy_id"] {
		t.Error("the id changes from one preview to the next")
	}

	// Values that are missing or wrong do not keep the rest from being shown.
	preview, err = anyone.Preview(ctx, "kelpwick", "board", "1.0.0", client.PreviewRequest{Values: values.Input{"port": 5}, File: "image"})
	if err != nil || len(preview.Problems) != 2 || preview.Folder != "crossing-board" || !preview.File.Binary || len(preview.File.Text) != 0 {
		t.Errorf("%+v, %v", preview, err)
	}
	if _, err := anyone.Preview(ctx, "kelpwick", "board", "1.0.0", client.PreviewRequest{Values: values.Input{}, File: "nowhere"}); status(err) != 404 {
		t.Errorf("a file that is not there gives %v", err)
	}
}

func TestManyPreviewsAtOnceStayCorrect(t *testing.T) {
	r := start(t)
	if _, err := publish(t, r.operator(t), "1.0.0", "a"); err != nil {
		t.Fatal(err)
	}
	anyone := client.New(r.URL, "")
	var group sync.WaitGroup
	for i := range 200 {
		group.Go(func() {
			name := fmt.Sprintf("tide %c", 'a'+i%26)
			preview, err := anyone.Preview(context.Background(), "kelpwick", "board", "latest", client.PreviewRequest{Values: values.Input{"service": name}, File: "README.md"})
			if err != nil || !strings.EqualFold(preview.File.Text[1].Text, name) {
				t.Errorf("%s: %+v, %v", name, preview.File, err)
			}
		})
	}
	group.Wait()
}

// get returns the body of a path, and its status.
func get(t *testing.T, r *running, path string) (string, int) {
	t.Helper()
	answer, err := http.Get(r.URL + path)
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	body, err := io.ReadAll(answer.Body)
	if err != nil {
		t.Fatal(err)
	}
	return string(body), answer.StatusCode
}

func TestSchemaFilesAndDocumentAreServed(t *testing.T) {
	r := start(t)
	if _, err := publish(t, r.operator(t), "1.0.0", "a"); err != nil {
		t.Fatal(err)
	}
	const version = "/api/v1/templates/kelpwick/board/versions/1.0.0"
	for path, want := range map[string]string{
		version + "/schema": `"minimum":1024`,
		version + "/files":  `"source":"cmd/crossing-board/main.go"`,
		version + "/file?path=cmd/crossing-board/main.go": `"form":"spaced"`,
		"/api/v1/openapi.json":                            `"openapi":"3.1.0"`,
		"/healthz":                                        `"ok"`,
		"/readyz":                                         `"ready"`,
		"/metrics":                                        `ironcast_request_seconds_count`,
	} {
		if body, code := get(t, r, path); code != 200 || !strings.Contains(body, want) {
			t.Errorf("%s answers %d: %.300s", path, code, body)
		}
	}
	if body, code := get(t, r, "/api/v1/nothing"); code != 404 || !strings.Contains(body, `"status":404`) {
		t.Errorf("an address that is not there answers %d: %s", code, body)
	}
}

func TestLoginSessionsAndTokens(t *testing.T) {
	r := start(t)
	post := func(path, body, cookie, origin string) *http.Response {
		t.Helper()
		request, err := http.NewRequest(http.MethodPost, r.URL+path, strings.NewReader(body))
		if err != nil {
			t.Fatal(err)
		}
		request.Header.Set("Content-Type", "application/json")
		request.Header.Set("Cookie", cookie)
		if origin != "" {
			request.Header.Set("Sec-Fetch-Site", origin)
		}
		answer, err := http.DefaultClient.Do(request)
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { answer.Body.Close() })
		return answer
	}
	for _, body := range []string{`{"name":"operator","password":"wrong"}`, `{"name":"nobody","password":"` + password + `"}`} {
		answer := post("/api/v1/sessions", body, "", "")
		text, _ := io.ReadAll(answer.Body)
		if answer.StatusCode != 401 || !strings.Contains(string(text), "no account with that name and password") {
			t.Errorf("%s answers %d: %s", body, answer.StatusCode, text)
		}
	}
	answer := post("/api/v1/sessions", `{"name":"operator","password":"`+password+`"}`, "", "same-origin")
	cookie := answer.Header.Get("Set-Cookie")
	if answer.StatusCode != 201 || !strings.Contains(cookie, "HttpOnly") || !strings.Contains(cookie, "SameSite=Strict") {
		t.Fatalf("login answers %d with %q", answer.StatusCode, cookie)
	}
	session, _, _ := strings.Cut(cookie, ";")
	made := post("/api/v1/tokens", `{"label":"pipeline"}`, session, "same-origin")
	var token client.Token
	if err := json.NewDecoder(made.Body).Decode(&token); err != nil || made.StatusCode != 201 || token.Secret == "" {
		t.Fatalf("a token is %+v, %v", token, err)
	}
	if foreign := post("/api/v1/tokens", `{"label":"stolen"}`, session, "cross-site"); foreign.StatusCode != 403 {
		t.Errorf("a page of another site gets %d", foreign.StatusCode)
	}
	ctx := context.Background()
	if account, err := client.New(r.URL, token.Secret).Account(ctx); err != nil || !account.Operator {
		t.Errorf("the token acts for %+v, %v", account, err)
	}
	request, _ := http.NewRequest(http.MethodDelete, fmt.Sprintf("%s/api/v1/tokens/%d", r.URL, token.ID), nil)
	request.Header.Set("Cookie", session)
	if answer, err := http.DefaultClient.Do(request); err != nil || answer.StatusCode != 204 {
		t.Errorf("taking the token back gives %v, %v", answer, err)
	}
	if _, err := client.New(r.URL, token.Secret).Account(ctx); status(err) != 401 {
		t.Errorf("a token that was taken back gives %v", err)
	}
}

func TestTheServiceRecoversWhenTheDatabaseDoes(t *testing.T) {
	r := start(t)
	if _, err := publish(t, r.operator(t), "1.0.0", "a"); err != nil {
		t.Fatal(err)
	}
	if err := database.Kill(); err != nil {
		t.Fatal(err)
	}
	anyone := client.New(r.URL, "")
	_, err := anyone.Find(context.Background(), "", "", 0, 1)
	if status(err) != 503 || !strings.Contains(err.Error(), "database does not answer") {
		t.Errorf("without a database: %v", err)
	}
	if _, code := get(t, r, "/readyz"); code != 503 {
		t.Errorf("readyz answers %d without a database", code)
	}
	if _, code := get(t, r, "/healthz"); code != 200 {
		t.Errorf("healthz answers %d without a database", code)
	}
	deadline := time.Now().Add(60 * time.Second)
	for {
		page, err := anyone.Find(context.Background(), "", "", 0, 1)
		if err == nil && page.Total == 1 {
			break
		}
		if time.Now().After(deadline) {
			t.Fatalf("the service has not recovered: %+v, %v", page, err)
		}
		time.Sleep(200 * time.Millisecond)
	}
	if _, code := get(t, r, "/readyz"); code != 200 {
		t.Errorf("readyz answers %d after the database came back", code)
	}
}

func TestWithoutADatabaseTheServiceSaysSo(t *testing.T) {
	records, err := store.Open("ironcast:x@tcp(127.0.0.1:1)/ironcast")
	if err != nil {
		t.Fatal(err)
	}
	defer records.Close()
	server := httptest.NewServer(service.Handler(records, service.Config{Limits: tree.DefaultLimits()}))
	defer server.Close()
	if _, err := client.New(server.URL, "").Find(context.Background(), "", "", 0, 1); status(err) != 503 {
		t.Errorf("error is %v", err)
	}
	if err := records.Migrate(context.Background()); !errors.Is(err, store.ErrUnavailable) {
		t.Errorf("migrating gives %v", err)
	}
	if _, err := store.Open("ironcast:secret@tcp(127.0.0.1:1)/"); err == nil || strings.Contains(err.Error(), "secret") {
		t.Errorf("a name without a database gives %v", err)
	}
}

func TestRunStopsCleanlyAndRefusesATakenAddress(t *testing.T) {
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	config := service.Config{Listen: listener.Addr().String(), Database: database.DSN(), OperatorName: "operator", Limits: tree.DefaultLimits()}
	if err := service.Run(context.Background(), config); err == nil || !strings.Contains(err.Error(), "is taken by another program") {
		t.Errorf("a taken address gives %v", err)
	}
	listener.Close()

	ctx, cancel := context.WithCancel(context.Background())
	ready := make(chan string, 1)
	config.Ready = func(address string) { ready <- address }
	ended := make(chan error, 1)
	go func() { ended <- service.Run(ctx, config) }()
	address := <-ready
	slow, writer := io.Pipe()
	answered := make(chan int, 1)
	go func() {
		answer, err := http.Post(address+"/api/v1/sessions", "application/json", slow)
		if err != nil {
			t.Error(err)
			answered <- 0
			return
		}
		answer.Body.Close()
		answered <- answer.StatusCode
	}()
	fmt.Fprint(writer, `{"name":"nobody",`)
	time.Sleep(100 * time.Millisecond)
	cancel()
	time.Sleep(100 * time.Millisecond)
	fmt.Fprint(writer, `"password":"x"}`)
	writer.Close()
	if code := <-answered; code != 401 {
		t.Errorf("a request under way at the end answers %d", code)
	}
	if err := <-ended; err != nil {
		t.Errorf("the service ends with %v", err)
	}
}

func TestACompressedBombIsRefusedInTime(t *testing.T) {
	limits := tree.DefaultLimits()
	limits.Bytes = 3 << 20
	r := startWith(t, limits)
	reader, writer := io.Pipe()
	go func() {
		packed := gzip.NewWriter(writer)
		archive := tar.NewWriter(packed)
		for i := range 12 {
			archive.WriteHeader(&tar.Header{Name: fmt.Sprint("zeros", i), Size: 1 << 20, Mode: 0o644})
			if _, err := archive.Write(make([]byte, 1<<20)); err != nil {
				break
			}
		}
		packed.Close()
		writer.Close()
	}()
	_, err := r.operator(t).Publish(context.Background(), "kelpwick", "board", "1.0.0", reader)
	reader.Close()
	if status(err) != 422 || !strings.Contains(err.Error(), "size of all files together is more than the limit") {
		t.Errorf("error is %v", err)
	}
}
