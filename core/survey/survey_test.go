package survey

import (
	"context"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"ironcast/core/manifest"
	"ironcast/core/marks"
	"ironcast/core/proof"
	"ironcast/core/syntax"
	"ironcast/core/tree"
)

func surveyed(t *testing.T, dir string) *Survey {
	t.Helper()
	s, err := Folder(context.Background(), dir, filepath.Base(dir), Options{Limits: tree.DefaultLimits()})
	if err != nil {
		t.Fatal(err)
	}
	return s
}

func TestSurveyOfTheCrossingBoard(t *testing.T) {
	s := surveyed(t, "../../demo/crossing-board")
	name := s.Names[0]
	if name.Words != "crossing board" || !name.Proposed || len(name.Places) != 3 || name.Guessed != 0 {
		t.Errorf("the first name is %+v", name)
	}
	if !slices.Equal(name.From, []string{"README.md", "go.mod", "folder"}) {
		t.Errorf("it comes from %v", name.From)
	}
	var texts []string
	for _, spelling := range name.Spellings {
		texts = append(texts, spelling.Text)
	}
	for _, want := range []string{"crossing-board", "crossingboard", "CrossingBoard", "crossing_board", "CROSSING_BOARD", "Crossing Board", "CROSSING BOARD"} {
		if !slices.Contains(texts, want) {
			t.Errorf("%s is not among %v", want, texts)
		}
	}
	if len(s.IDs) != 1 || s.IDs[0].Count != 3 || s.IDs[0].Variable != "deploy_id" {
		t.Errorf("ids are %+v", s.IDs)
	}
	if len(s.Ports) != 1 || s.Ports[0].Text != "8087" {
		t.Errorf("ports are %+v", s.Ports)
	}
	var left, care []string
	for _, g := range s.LeaveOut {
		left = append(left, g.Glob)
	}
	for _, c := range s.Care {
		care = append(care, c.What)
	}
	if !slices.Equal(left, []string{".idea/**", "**/*.log"}) || !slices.Equal(care, []string{"binaries", "not UTF-8", "links"}) {
		t.Errorf("left out %v, care %v", left, care)
	}
	if s.Licence != "MIT" || s.Title != "Crossing Board" || !strings.HasPrefix(s.Summary, "Shows the next sailings") {
		t.Errorf("licence %q, title %q, summary %q", s.Licence, s.Title, s.Summary)
	}
}

func TestSurveyProposesToKeepDependencies(t *testing.T) {
	name := surveyed(t, "../../demo/tide-log").Names[0]
	if name.Words != "tide log" || !slices.Equal(name.Keep, []string{"tide-log-units", "tide_log_units"}) {
		t.Errorf("%s keeps %v", name.Words, name.Keep)
	}
}

func TestSurveyCountsOneWordNamesInsideOthers(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "board")
	os.MkdirAll(filepath.Join(dir, "var", "spool"), 0o777)
	os.WriteFile(filepath.Join(dir, "go.mod"), []byte("module kelpwick.example/board/v2\n\nrequire kelpwick.example/board-tools v1.0.0\n"), 0o666)
	os.WriteFile(filepath.Join(dir, "README"), nil, 0o666)
	os.WriteFile(filepath.Join(dir, "ReadMe"), nil, 0o666)
	os.WriteFile(filepath.Join(dir, "a.go"), []byte("package board\n\nvar Board, dashboard, boards = 1, 2, 3 // dashboard\n"), 0o666)
	s := surveyed(t, dir)
	name := s.Names[0]
	if name.Words != "board" || name.Guessed == 0 || !slices.Equal(name.Inside, []Inside{{"dashboard", 2}, {"boards", 1}}) || !slices.Equal(name.Keep, []string{"kelpwick.example/board-tools"}) {
		t.Errorf("name is %+v", name)
	}
	if len(s.LeaveOut) != 1 || s.LeaveOut[0].Glob != "ReadMe" || s.LeaveOut[0].Why != "differs only in case from README" {
		t.Errorf("left out are %+v", s.LeaveOut)
	}
	if len(s.Care) != 1 || s.Care[0].Paths[0] != "var/spool" {
		t.Errorf("care is %+v", s.Care)
	}
}

func TestAFolderThatMayBeSourceIsLeftOutOnlyForAReason(t *testing.T) {
	for _, c := range []struct{ name, path, text, want string }{
		{"scripts", "README.md", "# Board", ""},
		{"named in .gitignore", ".gitignore", "*.tmp\n/bin/\n", "bin/**"},
		{"beside a project file", "board.csproj", "<Project/>", "bin/**"},
	} {
		dir := t.TempDir()
		os.Mkdir(filepath.Join(dir, "bin"), 0o777)
		os.WriteFile(filepath.Join(dir, "bin", "board"), []byte("#!/bin/sh\n"), 0o777)
		os.WriteFile(filepath.Join(dir, c.path), []byte(c.text), 0o666)
		got := ""
		for _, g := range surveyed(t, dir).LeaveOut {
			got += g.Glob
		}
		if got != c.want {
			t.Errorf("%s: left out is %q, want %q", c.name, got, c.want)
		}
	}
}

// withManifest copies a demo project and gives it the manifest that the survey
// drafts.
func withManifest(t *testing.T, demo string, text []byte) tree.Tree {
	t.Helper()
	project, err := tree.ReadFolder(context.Background(), demo, tree.ReadOptions{Limits: tree.DefaultLimits()})
	if err != nil {
		t.Fatal(err)
	}
	entries := []tree.Entry{{Path: manifest.FileName, Content: tree.Memory(text)}}
	for _, e := range project.Entries() {
		if e.Path == manifest.FileName {
			continue
		}
		// The project as it was before it had a template, and marks.
		content, err := e.Bytes()
		if err != nil {
			t.Fatal(err)
		}
		if marks.Has(content) {
			e.Content = tree.Memory(marks.Strip(content, syntax.Of(e.Path)))
		}
		entries = append(entries, e)
	}
	template, err := tree.New(entries, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	return template
}

func TestTheDraftProvesClean(t *testing.T) {
	for _, dir := range []string{"../../demo/crossing-board", "../../demo/tide-log"} {
		text := surveyed(t, dir).Draft("kelpwick").YAML()
		report, _, err := proof.Prove(context.Background(), withManifest(t, dir, text), proof.Options{Limits: tree.DefaultLimits()})
		if err != nil || !report.Passed() {
			t.Errorf("%s does not prove clean: %v %+v\n%s", dir, err, report, text)
		}
	}
}

func TestExtendKeepsWhatStandsThere(t *testing.T) {
	const existing = `ironcast: 1
template: tide-log
version: 2.0.0 # as announced
team: crossings
variables:
  # What it is called.
  job: { kind: name, stands_for: TideLog }
  job_id: { kind: text, default: x }
`
	m, err := manifest.Parse([]byte(existing))
	if err != nil {
		t.Fatal(err)
	}
	fresh := surveyed(t, "../../demo/tide-log").Draft("kelpwick").New(m)
	text, err := fresh.Extend([]byte(existing))
	if err != nil {
		t.Fatal(err)
	}
	extended, err := manifest.Parse(text)
	if err != nil {
		t.Fatalf("%v\n%s", err, text)
	}
	for _, want := range []string{"# as announced", "# What it is called.", "job_id_2:", "tide_log_units", ".vscode/**"} {
		if !strings.Contains(string(text), want) {
			t.Errorf("%s is not in\n%s", want, text)
		}
	}
	again := surveyed(t, "../../demo/tide-log").Draft("kelpwick").New(extended)
	if len(fresh.Variables) != 1 || !again.Empty() {
		t.Errorf("first %+v, then %+v", fresh, again)
	}
}

func TestOnlyDropsWhatNobodyAskedToKeep(t *testing.T) {
	draft := Draft{Keep: []string{"other"}}
	for _, v := range []DraftVariable{
		{Name: "a", Keep: []string{"both", "a-tools"}}, {Name: "b", Keep: []string{"both", "b-tools"}}, {Name: "a"},
	} {
		draft.Add(v)
	}
	if draft.Variables[2].Name != "a_2" {
		t.Errorf("the third variable is called %s", draft.Variables[2].Name)
	}
	draft.Only(func(v DraftVariable) bool { return v.Name != "b" })
	if len(draft.Variables) != 2 || !slices.Equal(draft.Keep, []string{"other", "both", "a-tools"}) {
		t.Errorf("left are %+v", draft)
	}
}

func TestQuotedReadsBack(t *testing.T) {
	for text, want := range map[string]string{
		"crossing board": "crossing board", "8087": "8087", "true": `"true"`, "a: b": `"a: b"`,
		".idea/**": `".idea/**"`, "null": `"null"`, "1.0.0": "1.0.0", "007": `"007"`, "": `""`,
	} {
		if got := quoted(text); got != want {
			t.Errorf("quoted(%q) = %s, want %s", text, got, want)
		}
	}
}
