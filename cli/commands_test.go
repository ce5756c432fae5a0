package cli

import (
	"bytes"
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/tree"
	"ironcast/core/values"
)

func TestArgumentsAreShownAsTheyWouldBeTyped(t *testing.T) {
	for want, arguments := range map[string][]string{
		"go vet ./...":               {"go", "vet", "./..."},
		`sh -c 'echo "a b"; exit 3'`: {"sh", "-c", `echo "a b"; exit 3`},
		`echo 'it'\''s' '' '$HOME'`:  {"echo", "it's", "", "$HOME"},
	} {
		if got := shellLine(arguments); got != want {
			t.Errorf("%v is shown as %s, want %s", arguments, got, want)
		}
	}
}

func TestACommandIsStoppedWithWhatItStarted(t *testing.T) {
	dir := t.TempDir()
	began := time.Now()
	var printed bytes.Buffer
	err := runCommand(context.Background(), dir, hooks.Command{Arguments: []string{"sh", "-c", "echo begun; (sleep 60; touch late) & sleep 60"}, Timeout: 300 * time.Millisecond}, &printed)
	if err == nil || !strings.Contains(err.Error(), "it took longer than 300ms") || printed.String() != "begun\n" {
		t.Errorf("%v, printed %q", err, &printed)
	}
	if took := time.Since(began); took > 30*time.Second {
		t.Errorf("what it started went on for %v", took)
	}
	ctx, cancel := context.WithCancel(context.Background())
	cancel()
	if err := runCommand(ctx, dir, hooks.Command{Arguments: []string{"sleep", "60"}, Timeout: time.Minute}, &printed); err == nil || !strings.Contains(err.Error(), "it was stopped") {
		t.Errorf("error is %v", err)
	}
}

func TestASampleRunsInAScratchCopy(t *testing.T) {
	project, err := tree.New([]tree.Entry{{Path: "a", Content: tree.Memory("x")}}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	marker := filepath.Join(t.TempDir(), "marker")
	after := []hooks.Command{{Arguments: []string{"sh", "-c", "cat a > b"}, Timeout: time.Minute}}
	sample := manifest.Sample{Timeout: time.Minute, Run: [][]string{{"sh", "-c", "pwd > " + marker}, {"grep", "-q", "x", "b"}}}
	if err := runSample(context.Background(), project, after, sample); err != nil {
		t.Error(err)
	}
	where, err := os.ReadFile(marker)
	if err != nil {
		t.Fatal(err)
	}
	if _, err := os.Stat(strings.TrimSpace(string(where))); err == nil {
		t.Errorf("the copy in %s is still there", where)
	}
	sample.Run = [][]string{{"sh", "-c", "for i in $(seq 40); do echo line $i; done; exit 4"}}
	err = runSample(context.Background(), project, nil, sample)
	if err == nil || !strings.Contains(err.Error(), "it ended with 4") || !strings.HasSuffix(err.Error(), "line 40") || strings.Contains(err.Error(), "line 20\n") {
		t.Errorf("error is %v", err)
	}
}

func TestSecretsComeFromTheEnvironmentOrADescriptor(t *testing.T) {
	m, err := manifest.Parse([]byte("ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\nvariables:\n  pin: { kind: secret }\n  key: { kind: secret }\n  port: { kind: integer, default: 1 }\n"))
	if err != nil {
		t.Fatal(err)
	}
	t.Setenv("IRONCAST_SECRET_PIN", "from the environment")
	reader, writer, err := os.Pipe()
	if err != nil {
		t.Fatal(err)
	}
	writer.WriteString("from a pipe\n")
	writer.Close()
	given := values.Input{}
	if err := addSecrets(m, given, []string{"key=" + fd(reader)}); err != nil || given["pin"] != manifest.Typed("from the environment") || given["key"] != manifest.Typed("from a pipe") {
		t.Errorf("given are %v, %v", given, err)
	}
	for _, c := range []struct {
		given values.Input
		flag  string
		want  string
	}{
		{values.Input{"pin": manifest.Typed("1234")}, "", "which others could read on the command line"},
		{values.Input{}, "port=3", "is not NAME=N"}, {values.Input{}, "pin", "is not NAME=N"}, {values.Input{}, "pin=x", "is not NAME=N"}, {values.Input{}, "key=9999", "cannot be read from the file descriptor 9999"},
	} {
		var flags []string
		if c.flag != "" {
			flags = append(flags, c.flag)
		}
		if err := addSecrets(m, c.given, flags); err == nil || !strings.Contains(err.Error(), c.want) || strings.Contains(err.Error(), "1234") {
			t.Errorf("%v and %q give %v, want %q", c.given, c.flag, err, c.want)
		}
	}
}

func fd(file *os.File) string {
	return valueText(int64(file.Fd()))
}
