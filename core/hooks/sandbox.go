package hooks

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"runtime"
	"runtime/debug"
	"runtime/metrics"
	"sort"
	"sync"
	"time"

	"ironcast/core/expression"
	"ironcast/core/values"
)

// sandboxVariable tells a process that it is a sandbox.
const sandboxVariable = "IRONCAST_SANDBOX"

// patience is how long a script may take by the clock, on a busy machine.
const patience = 20 * time.Second

// places bounds how many sandboxes run at once.
var places = make(chan struct{}, max(2, runtime.NumCPU()))

// message is what a sandbox sends: what it asks of the project, or the end.
type message struct {
	Request *request
	Outcome *outcome
}

// RunSandbox turns the process into a sandbox if it was started as one, and then
// does not return. Every program that casts calls it first.
func RunSandbox() {
	if os.Getenv(sandboxVariable) == "" {
		return
	}
	limitMemory(maxMemory + 128<<20) // the program itself has some, too
	in, out := json.NewDecoder(bufio.NewReader(os.Stdin)), json.NewEncoder(os.Stdout)
	var j job
	if err := in.Decode(&j); err != nil {
		os.Exit(1)
	}
	var sending sync.Mutex
	send := func(m message) error {
		sending.Lock()
		defer sending.Unlock()
		return out.Encode(m)
	}
	end := func(o outcome) {
		_ = send(message{Outcome: &o})
		os.Exit(0)
	}
	go watch(func(bound string) {
		end(outcome{Failed: &ScriptError{Script: j.Script.Path, Message: bound}})
	})
	end(interpret(j, func(r request) (reply, error) {
		var answer reply
		if err := send(message{Request: &r}); err != nil {
			return answer, err
		}
		err := in.Decode(&answer)
		return answer, err
	}))
}

var (
	errTime   = fmt.Sprintf("it takes longer than %d ms", maxTime.Milliseconds())
	errMemory = fmt.Sprintf("it uses more than %d MB of memory", maxMemory>>20)
)

// watch calls exceeded once the process has used more time or memory than a
// script may.
func watch(exceeded func(bound string)) {
	debug.SetGCPercent(50)
	began := processorTime()
	samples := []metrics.Sample{{Name: "/memory/classes/heap/objects:bytes"}}
	for {
		time.Sleep(2 * time.Millisecond)
		metrics.Read(samples)
		switch {
		case processorTime()-began > maxTime:
			exceeded(errTime)
		case samples[0].Value.Uint64() > maxMemory:
			exceeded(errMemory)
		}
	}
}

// run runs a script in a sandbox. project is nil before a cast.
func run(ctx context.Context, s script, vs values.Values, project *project) (*outcome, error) {
	select {
	case places <- struct{}{}:
		defer func() { <-places }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	done, err := runSandbox(ctx, job{Script: s, Values: givenOf(vs), Today: expression.NewDate(vs.Today()), HasFiles: project != nil}, project)
	if err != nil {
		return nil, err
	}
	if done.Failed != nil {
		return nil, done.Failed
	}
	return done, nil
}

// givenOf returns all values but secrets, sorted by name.
func givenOf(vs values.Values) []given {
	var all []given
	for name, data := range vs.JSON() {
		value := vs.Get(name)
		all = append(all, given{Name: name, Kind: value.Kind(), Of: value.ItemKind(), Data: data})
	}
	sort.Slice(all, func(i, k int) bool { return all[i].Name < all[k].Name })
	return all
}

func runSandbox(ctx context.Context, j job, project *project) (*outcome, error) {
	outer := ctx
	ctx, cancel := context.WithTimeout(outer, patience)
	defer cancel()
	program, err := os.Executable()
	if err != nil {
		return nil, fmt.Errorf("the sandbox for scripts cannot be started: %w", err)
	}
	command := exec.CommandContext(ctx, program)
	command.Env = []string{sandboxVariable + "=1", "GOTRACEBACK=none", "GOMAXPROCS=2", "GORACE=atexit_sleep_ms=0"}
	command.Dir = os.TempDir()
	in, err := command.StdinPipe()
	if err != nil {
		return nil, err
	}
	out, err := command.StdoutPipe()
	if err != nil {
		return nil, err
	}
	if err := command.Start(); err != nil {
		return nil, fmt.Errorf("the sandbox for scripts cannot be started: %w", err)
	}
	done, err := converse(in, out, j, project)
	in.Close()
	if done == nil {
		cancel()
	}
	ended := command.Wait()
	switch {
	case done != nil:
		return done, nil
	case outer.Err() != nil:
		return nil, outer.Err()
	case ctx.Err() == context.DeadlineExceeded:
		return &outcome{Failed: &ScriptError{Script: j.Script.Path, Message: fmt.Sprintf("it takes longer than %v", patience)}}, nil
	case errors.Is(err, io.EOF) && ended != nil:
		// It died without a word, as a process does that gets no more memory.
		return &outcome{Failed: &ScriptError{Script: j.Script.Path, Message: errMemory}}, nil
	}
	return nil, fmt.Errorf("the sandbox for %s broke off: %w", j.Script.Path, errors.Join(err, ended))
}

// converse gives a sandbox its job and answers it until it is done.
func converse(in io.Writer, out io.Reader, j job, project *project) (*outcome, error) {
	encoder := json.NewEncoder(in)
	decoder := json.NewDecoder(bufio.NewReader(out))
	if err := encoder.Encode(j); err != nil {
		return nil, io.EOF
	}
	for {
		var m message
		if err := decoder.Decode(&m); err != nil {
			if errors.Is(err, io.ErrUnexpectedEOF) {
				err = io.EOF
			}
			return nil, err
		}
		switch {
		case m.Outcome != nil:
			return m.Outcome, nil
		case m.Request == nil || project == nil:
			return nil, errors.New("it asks for what it cannot have")
		}
		// A sandbox that does not listen any more has sent why.
		_ = encoder.Encode(project.do(*m.Request))
	}
}
