package bundle

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ironcast/core/origin"
	"ironcast/core/tree"
	"ironcast/core/values"
)

const manifestText = "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\nsource: project\nvariables: { a: { kind: name, stands_for: crossing board } }\nfiles: { leave_out: ['*.log'] }\n"

func template(t *testing.T) tree.Tree {
	t.Helper()
	var entries []tree.Entry
	for _, path := range []string{".ironcast/hooks/x", ".ironcast/origin.yaml", "notes.txt", "project/crossing-board.go", "project/a.log"} {
		entries = append(entries, tree.Entry{Path: path, Content: tree.Memory(path)})
	}
	entries = append(entries, tree.Entry{Path: "ironcast.yaml", Content: tree.Memory(manifestText)})
	made, err := tree.New(entries, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	return made
}

func paths(t tree.Tree) string {
	var all []string
	for _, e := range t.Entries() {
		all = append(all, e.Path)
	}
	return strings.Join(all, " ")
}

func TestABundleHoldsWhatACastNeedsAndNoMore(t *testing.T) {
	ctx := context.Background()
	dir := t.TempDir() + "/board"
	if err := tree.WriteFolder(ctx, template(t), dir, nil); err != nil {
		t.Fatal(err)
	}
	project, m, err := Folder(ctx, dir, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	if paths(project) != ".ironcast/hooks/x .ironcast/origin.yaml ironcast.yaml project/crossing-board.go" {
		t.Errorf("the folder's template has %s", paths(project))
	}
	var packed bytes.Buffer
	sum, size, err := Write(ctx, &packed, template(t), m)
	if err != nil || size != int64(packed.Len()) {
		t.Fatalf("%d bytes of %d, %v", packed.Len(), size, err)
	}
	if again, err := Digest(ctx, project, m); err != nil || again != sum {
		t.Errorf("digest %s, again %s, %v", sum, again, err)
	}
	back, m2, err := Read(ctx, &packed, tree.DefaultLimits())
	if err != nil || m2.Template != "board" || paths(back) != ".ironcast/hooks/x ironcast.yaml project/crossing-board.go" {
		t.Errorf("reads back as %s, %v", paths(back), err)
	}
}

func TestTheOriginRecordReadsBack(t *testing.T) {
	_, m, err := Read(context.Background(), packed(t), tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	day := values.Occasion{Today: time.Date(2026, 5, 4, 0, 0, 0, 0, time.UTC), NewID: values.Now().NewID}
	vs, err := values.Resolve(m, values.Input{"a": "tide gauge"}, day)
	if err != nil {
		t.Fatal(err)
	}
	record := origin.New(m, "sha256:00", vs)
	project, err := record.Add(tree.Tree{}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	back, found, err := origin.Read(project)
	if err != nil || !found || len(back.Layers) != 1 {
		t.Fatalf("%+v, %v, %v", back, found, err)
	}
	if l := back.Layers[0]; l.Template != "kelpwick/board" || l.Date != "2026-05-04" || l.Values["a"] != "tide gauge" {
		t.Errorf("the layer is %+v", l)
	}
	if _, found, _ := origin.Read(tree.Tree{}); found {
		t.Error("a record is found where there is none")
	}
}

func packed(t *testing.T) *bytes.Buffer {
	t.Helper()
	var b bytes.Buffer
	if err := tree.WriteTarGz(context.Background(), &b, template(t), ""); err != nil {
		t.Fatal(err)
	}
	return &b
}

func TestIdleRulesOfLeaveOutAreFound(t *testing.T) {
	dir := t.TempDir()
	for path, text := range map[string]string{"bin/a/b": "x", "c.log": "x", "ironcast.yaml": "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\nfiles: { leave_out: [\"bin/**\", \"*.log\", \".idea/**\"] }\n"} {
		full := filepath.Join(dir, path)
		if err := os.MkdirAll(filepath.Dir(full), 0o777); err != nil {
			t.Fatal(err)
		}
		if err := os.WriteFile(full, []byte(text), 0o666); err != nil {
			t.Fatal(err)
		}
	}
	_, m, err := Folder(context.Background(), dir, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	if idle, err := IdleLeaveOut(context.Background(), dir, m); err != nil || len(idle) != 1 || idle[0] != ".idea/**" {
		t.Errorf("idle are %v, %v", idle, err)
	}
}
