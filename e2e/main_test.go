// Package e2e drives the real binary, the service that it runs, and the console
// in headless Chromium, on the demo's projects.
package e2e

import (
	"bufio"
	"bytes"
	"errors"
	"fmt"
	"net"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"
)

// The one service that all tests share, with the demo's catalogue.
var (
	work     string // a folder for everything that the tests write
	binary   string // the built ironcast
	projects string // the demo's source projects, as prepare.sh lays them out
	server   string // the service's address
)

const password = "kelpwick-demo"

func TestMain(m *testing.M) {
	os.Exit(func() int {
		stop, err := setUp()
		if err != nil {
			fmt.Fprintln(os.Stderr, "the tests cannot be set up:", err)
			return 1
		}
		defer stop()
		return m.Run()
	}())
}

func setUp() (stop func(), err error) {
	if work, err = os.MkdirTemp("", "ironcast-e2e-"); err != nil {
		return nil, err
	}
	binary = filepath.Join(work, "ironcast")
	projects = filepath.Join(work, "projects")
	build := exec.Command("go", "build", "-o", binary, "../cmd/ironcast")
	prepare := exec.Command("../demo/prepare.sh", projects)
	for _, command := range []*exec.Cmd{build, prepare} {
		if output, err := command.CombinedOutput(); err != nil {
			return nil, fmt.Errorf("%v: %w\n%s", command.Args, err, output)
		}
	}
	listener, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return nil, err
	}
	address := listener.Addr().String()
	listener.Close()
	server = "http://" + address

	service := exec.Command(binary, "serve", "--listen", address, "--data", filepath.Join(work, "service"))
	service.Env = environment()
	var log bytes.Buffer
	service.Stderr = &log
	output, err := service.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := service.Start(); err != nil {
		return nil, err
	}
	stop = func() {
		service.Process.Signal(syscall.SIGTERM)
		service.Wait()
		os.RemoveAll(work)
	}
	if line, err := bufio.NewReader(output).ReadString('\n'); err != nil || !strings.HasPrefix(line, "Iron Cast is at") {
		stop()
		return nil, fmt.Errorf("the service says %q: %s", line, &log)
	}
	seed := exec.Command("../demo/seed.sh", projects, server)
	seed.Env = append(environment(), "IRONCAST="+binary)
	if output, err := seed.CombinedOutput(); err != nil {
		stop()
		return nil, fmt.Errorf("seeding: %w\n%s", err, output)
	}
	return stop, nil
}

// environment keeps the tests' login apart from the developer's.
func environment() []string {
	return append(os.Environ(), "XDG_CONFIG_HOME="+filepath.Join(work, "config"), "IRONCAST_SERVER=", "IRONCAST_TOKEN=",
		"IRONCAST_OPERATOR_PASSWORD="+password, "NO_COLOR=1")
}

// result is what a command printed, and how it ended.
type result struct {
	out, notes string
	code       int
}

// run runs the real binary, with nobody to ask.
func run(t *testing.T, args ...string) result {
	t.Helper()
	return runWith(t, environment(), "", args...)
}

func runWith(t *testing.T, env []string, input string, args ...string) result {
	t.Helper()
	command := exec.Command(binary, args...)
	command.Dir = work
	command.Env = env
	command.Stdin = strings.NewReader(input)
	var out, notes strings.Builder
	command.Stdout, command.Stderr = &out, &notes
	err := command.Run()
	var exit *exec.ExitError
	if err != nil && !errors.As(err, &exit) {
		t.Fatal(err)
	}
	return result{out.String(), notes.String(), command.ProcessState.ExitCode()}
}

// must runs the real binary and wants it to end well.
func must(t *testing.T, args ...string) string {
	t.Helper()
	r := run(t, args...)
	if r.code != 0 {
		t.Fatalf("ironcast %s ends with %d\n%s%s", strings.Join(args, " "), r.code, r.out, r.notes)
	}
	return r.out
}

// in runs another program in a folder and wants it to end well.
func in(t *testing.T, dir string, args ...string) string {
	t.Helper()
	command := exec.Command(args[0], args[1:]...)
	command.Dir = dir
	output, err := command.CombinedOutput()
	if err != nil {
		t.Fatalf("%s in %s: %v\n%s", strings.Join(args, " "), dir, err, output)
	}
	return string(output)
}

// eventually waits until a condition holds.
func eventually(t *testing.T, what string, holds func() bool) {
	t.Helper()
	for deadline := time.Now().Add(20 * time.Second); time.Now().Before(deadline); time.Sleep(10 * time.Millisecond) {
		if holds() {
			return
		}
	}
	t.Fatalf("not within 20 seconds: %s", what)
}
