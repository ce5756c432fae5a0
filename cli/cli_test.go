package cli

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"ironcast/core/manifest"
	"ironcast/core/tree"
)

func TestReferences(t *testing.T) {
	for text, want := range map[string]reference{
		"kelpwick/crossing-board":         {"kelpwick", "crossing-board", "latest"},
		"kelpwick/crossing-board@1.1.0":   {"kelpwick", "crossing-board", "1.1.0"},
		"kelpwick/crossing-board@^1 || 2": {"kelpwick", "crossing-board", "^1 || 2"},
	} {
		if got, is := parseReference(text); !is || got != want {
			t.Errorf("%s is %+v, %v", text, got, is)
		}
	}
	for _, text := range []string{"", "crossing-board", "./crossing-board", "a/b/c", "Kelpwick/board", "kelpwick/board@", "../a/b"} {
		if got, is := parseReference(text); is {
			t.Errorf("%q is taken for %+v", text, got)
		}
	}
}

func TestGivenValues(t *testing.T) {
	file := filepath.Join(t.TempDir(), "values.yaml")
	os.WriteFile(file, []byte("service: tide gauge\nport: 9000\n"), 0o666)
	given, err := givenValues([]string{"port=9100", "note=a=b", "empty="}, file)
	if err != nil || given["service"] != "tide gauge" || given["port"] != manifest.Typed("9100") || given["note"] != manifest.Typed("a=b") || given["empty"] != manifest.Typed("") {
		t.Errorf("given %v, %v", given, err)
	}
	for _, wrong := range []string{"port", "=x", "a b=c", "9=x"} {
		if _, err := givenValues([]string{wrong}, ""); err == nil || !strings.Contains(err.Error(), "write VAR=VALUE") {
			t.Errorf("%q gives %v", wrong, err)
		}
	}
}

func TestTreesAreDrawn(t *testing.T) {
	run := tree.Entry{Path: "b/run.sh", Executable: true, Content: tree.Memory("")}
	project, err := tree.New([]tree.Entry{
		run, {Path: "a", Content: tree.Memory("")}, {Path: "b/c/d", Content: tree.Memory("")},
		{Path: "b/link", Kind: tree.Link, Target: "../a"}, {Path: "var/spool", Kind: tree.Folder},
	}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	var out bytes.Buffer
	printTree(newPrinter(&out), project)
	want := `├── a
├── b/
│   ├── c/
│   │   └── d
│   ├── link → ../a
│   └── run.sh
└── var/
    └── spool/  empty
`
	if out.String() != want {
		t.Errorf("drawn is\n%s", &out)
	}
}

func TestTextFitsTheTerminal(t *testing.T) {
	p := newPrinter(&bytes.Buffer{})
	if got := p.fit(strings.Repeat("é", 200), 10); len([]rune(got)) != p.width-10 || !strings.HasSuffix(got, "…") {
		t.Errorf("fit gives %d runes", len([]rune(got)))
	}
	lines := wrap([]string{"aaaa", "bbbb", "cccc"}, " · ", 12)
	if strings.Join(lines, "|") != "aaaa · bbbb|cccc" {
		t.Errorf("wrapped are %q", lines)
	}
	for n, want := range map[int64]string{0: "0 B", 999: "999 B", 15_500: "15.5 kB", 60_000_000: "60.0 MB", 2_500_000_000: "2.5 GB"} {
		if got := bytesText(n); got != want {
			t.Errorf("%d bytes are %s", n, got)
		}
	}
}

func TestHelpNamesEveryCommand(t *testing.T) {
	var out, notes bytes.Buffer
	if code := Run(context.Background(), []string{"--help"}, nil, &out, &notes); code != exitDone {
		t.Fatalf("help ends with %d: %s", code, &notes)
	}
	for _, command := range []string{"survey", "define", "prove", "publish", "find", "show", "cast", "login", "serve"} {
		if !strings.Contains(out.String(), command) {
			t.Errorf("%s is not named", command)
		}
		var help bytes.Buffer
		if code := Run(context.Background(), []string{command, "--help"}, nil, &help, &notes); code != exitDone || len(help.String()) < 200 {
			t.Errorf("%s --help ends with %d and says %s", command, code, &help)
		}
	}
}
