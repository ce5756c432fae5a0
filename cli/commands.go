package cli

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"runtime"
	"strings"
	"time"

	"github.com/charmbracelet/huh"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/tree"
)

// consent tells whether the template's commands may run. Whoever is asked sees
// exactly what would run.
func (s *session) consent(ctx context.Context, commands []hooks.Command, choice string) (bool, error) {
	switch {
	case len(commands) == 0 || choice == "skip":
		return false, nil
	case choice == "run":
		return true, nil
	case !s.asks():
		return false, nil
	}
	var lines []string
	for _, command := range commands {
		lines = append(lines, "  "+shellLine(command.Arguments))
	}
	run := false
	err := s.ask(ctx, huh.NewConfirm().Title("The template wants to run, in the new project:\n"+strings.Join(lines, "\n")).
		Description("They run on this machine, as you.").Affirmative("Run them").Negative("Leave them out").Value(&run))
	return run, err
}

// environmentKept are the environment variables that every command gets.
var environmentKept = []string{"PATH", "HOME", "USER", "LOGNAME", "LANG", "LC_ALL", "TZ", "TMPDIR", "TEMP", "TMP", "SYSTEMROOT", "USERPROFILE", "APPDATA", "LOCALAPPDATA",
	"HTTP_PROXY", "HTTPS_PROXY", "NO_PROXY", "http_proxy", "https_proxy", "no_proxy"}

// errCommand begins with the command line that failed.
type errCommand struct {
	line   string
	reason string
}

func (e *errCommand) Error() string {
	return fmt.Sprintf("the command %q failed: %s", e.line, e.reason)
}

// runCommand runs a command in a folder, with a small environment and a time
// limit, and passes on what it prints. What it started ends with it.
func runCommand(ctx context.Context, dir string, command hooks.Command, output io.Writer) error {
	failed := &errCommand{line: shellLine(command.Arguments)}
	limited, cancel := context.WithTimeout(ctx, command.Timeout)
	defer cancel()
	process := exec.CommandContext(limited, command.Arguments[0], command.Arguments[1:]...)
	process.Dir = dir
	process.Stdout, process.Stderr = output, output
	process.WaitDelay = 2 * time.Second
	for _, name := range append(environmentKept[:len(environmentKept):len(environmentKept)], command.Environment...) {
		if value, is := os.LookupEnv(name); is {
			process.Env = append(process.Env, name+"="+value)
		}
	}
	ownGroup(process)
	err := process.Run()
	var exit *exec.ExitError
	switch {
	case err == nil:
		return nil
	case ctx.Err() != nil:
		failed.reason = "it was stopped"
	case limited.Err() != nil:
		failed.reason = fmt.Sprintf("it took longer than %v", command.Timeout)
	case errors.As(err, &exit):
		failed.reason = fmt.Sprintf("it ended with %d", exit.ExitCode())
	case errors.Is(err, exec.ErrNotFound):
		failed.reason = fmt.Sprintf("there is no program %s here; install it, or leave the commands out", command.Arguments[0])
	default:
		failed.reason = err.Error()
	}
	return failed
}

var plainWord = regexp.MustCompile(`^[\w@%+=:,./-]+$`)

// shellLine writes arguments as they would be typed.
func shellLine(arguments []string) string {
	words := make([]string, len(arguments))
	for i, word := range arguments {
		if words[i] = word; !plainWord.MatchString(word) {
			words[i] = "'" + strings.ReplaceAll(word, "'", `'\''`) + "'"
		}
	}
	return strings.Join(words, " ")
}

// runSample runs a sample's commands in a scratch copy of its project. When one
// fails, the end of what it printed is in the error.
func runSample(ctx context.Context, project tree.Tree, after []hooks.Command, sample manifest.Sample) error {
	scratch, err := os.MkdirTemp("", "ironcast-sample-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(scratch)
	dir := filepath.Join(scratch, "project")
	if err := tree.WriteFolder(ctx, project, dir, nil); err != nil {
		return err
	}
	commands := after
	for _, arguments := range sample.Run {
		commands = append(commands, hooks.Command{Arguments: arguments, Timeout: sample.Timeout, Environment: buildVariables})
	}
	for _, command := range commands {
		var printed bytes.Buffer
		if err := runCommand(ctx, dir, command, &printed); err != nil {
			return fmt.Errorf("%w\n%s", err, lastLines(printed.String(), 12))
		}
	}
	return nil
}

// buildVariables are what the builds of samples may need: where their tools keep
// caches and find packages.
var buildVariables = []string{"GOPROXY", "GOFLAGS", "GOCACHE", "GOMODCACHE", "GOPATH", "GOTOOLCHAIN", "GONOSUMDB", "GONOSUMCHECK", "GOSUMDB", "NPM_CONFIG_REGISTRY", "NPM_CONFIG_CACHE", "PIP_INDEX_URL", "PYENV_ROOT", "CARGO_HOME", "RUSTUP_HOME", "JAVA_HOME"}

func lastLines(text string, n int) string {
	lines := strings.Split(strings.TrimRight(text, "\n"), "\n")
	return strings.Join(lines[max(len(lines)-n, 0):], "\n")
}

// samplesAtOnce is how many samples' commands run at the same time.
func samplesAtOnce() int { return max(runtime.NumCPU(), 1) }
