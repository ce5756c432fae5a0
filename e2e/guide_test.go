package e2e

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
)

// block is a fenced block of a guide.
type block struct {
	language string
	path     string // of the file that it is; "" for none
	text     string
}

// examples returns the blocks under each heading of a guide that has some.
func examples(t *testing.T, guide string) map[string][]block {
	t.Helper()
	text, err := os.ReadFile(guide)
	if err != nil {
		t.Fatal(err)
	}
	all := map[string][]block{}
	heading := ""
	fence := regexp.MustCompile("(?m)^## (.+)$|^```(\\w+)(?: (\\S+))?\n((?s:.*?))^```$")
	for _, m := range fence.FindAllStringSubmatch(string(text), -1) {
		if m[1] != "" {
			heading = m[1]
			continue
		}
		all[heading] = append(all[heading], block{m[2], m[3], m[4]})
	}
	return all
}

// The guide's examples do what it says they do.
func TestTheGuideIsTrue(t *testing.T) {
	found := 0
	for heading, blocks := range examples(t, "../docs/guide.md") {
		t.Run(heading, func(t *testing.T) {
			dir := filepath.Join(t.TempDir(), "template")
			for _, b := range blocks {
				switch {
				case b.path != "":
					path := filepath.Join(dir, b.path)
					if err := os.MkdirAll(filepath.Dir(path), 0o777); err != nil {
						t.Fatal(err)
					}
					if err := os.WriteFile(path, []byte(b.text), 0o666); err != nil {
						t.Fatal(err)
					}
				case b.language == "console":
					found++
					runTranscript(t, dir, b.text)
				}
			}
		})
	}
	if found < 8 {
		t.Errorf("the guide has %d examples to run", found)
	}
}

// runTranscript runs each command of a transcript and compares what it prints.
func runTranscript(t *testing.T, dir, text string) {
	t.Helper()
	for _, step := range regexp.MustCompile(`(?m)^\$ `).Split("\n"+text, -1)[1:] {
		command, want, _ := strings.Cut(step, "\n")
		shell := exec.Command("sh", "-c", command+" 2>&1")
		if strings.Contains(command, "|") {
			shell = exec.Command("sh", "-c", command)
		}
		shell.Dir = dir
		shell.Env = append(environment(), fmt.Sprintf("PATH=%s:%s", filepath.Dir(binary), os.Getenv("PATH")), "PYTHONDONTWRITEBYTECODE=1", "LC_ALL=C")
		output, _ := shell.CombinedOutput()
		want = strings.TrimRight(want, "\n")
		got := strings.TrimRight(string(output), "\n")
		if pattern := strings.ReplaceAll(regexp.QuoteMeta(want), "…", ".*"); !regexp.MustCompile("^" + pattern + "$").MatchString(got) {
			t.Errorf("$ %s\nprints\n%s\nand the guide says\n%s", command, got, want)
		}
	}
}
