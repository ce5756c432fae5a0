// Package bench measures the bounds that the design sets, each as a ratio of two
// things timed in turns in one run, on a project of 10,000 files and 60 MB.
package bench

import (
	"context"
	"fmt"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/tree"
	"ironcast/core/values"
)

const (
	files     = 10_000
	fileBytes = 6_000
	rounds    = 5
)

var ctx = context.Background()

// source makes source text: mostly ordinary words, and the name twice in every
// hundred lines.
func source() []tree.Entry { return sourceOf(files, false) }

// sourceOf makes some files of it, with a marked block after every fiftieth line or
// without.
func sourceOf(files int, marked bool) []tree.Entry {
	random := rand.New(rand.NewPCG(1, 2))
	words := strings.Fields("func return if err nil string context package import range value path error switch case cast const board crossing config server handler request response")
	entries := make([]tree.Entry, files)
	for i := range entries {
		var text strings.Builder
		for line := 0; text.Len() < fileBytes; line++ {
			for range 6 {
				text.WriteString(words[random.IntN(len(words))])
				text.WriteByte(" \t.("[random.IntN(4)])
			}
			if line%50 == 0 {
				text.WriteString([]string{"crossing-board", "CrossingBoard", "CROSSING_BOARD"}[random.IntN(3)])
			}
			text.WriteByte('\n')
			if marked && line%50 == 0 {
				text.WriteString("// ironcast: only when storage == \"disk\"\nkept()\n// ironcast: otherwise\n//| other()\n// ironcast: end\n")
			}
		}
		entries[i] = tree.Entry{Path: fmt.Sprintf("internal/%02d/crossing_board_%d.go", i%100, i), Content: tree.Memory(text.String())}
	}
	return entries
}

const head = "ironcast: 1\ntemplate: board\nversion: 1.0.0\nteam: kelpwick\nvariables:\n" +
	"  service: { kind: name, stands_for: crossing board }\n  port: { kind: integer, stands_for: 8087 }\n" +
	"  id: { kind: id, stands_for: 3f0c7c1e-8a55-4f5e-9a44-6a52b7a1f0de }\n  storage: { kind: choice, options: [disk, memory], default: disk }\n"

// parsed returns the template's manifest, with idle variables that match nothing.
func parsed(b *testing.B, idle int) *manifest.Manifest {
	b.Helper()
	text := head
	for i := range idle {
		text += fmt.Sprintf("  idle_%d: { kind: name, stands_for: quiet harbour x%d, default: other }\n", i, i)
	}
	m, err := manifest.Parse([]byte(text))
	if err != nil {
		b.Fatal(err)
	}
	return m
}

var given = values.Input{"service": "tide gauge", "port": 9000}

// project makes the project in memory and in a folder.
func project(b *testing.B) (tree.Tree, string) {
	b.Helper()
	inMemory, err := tree.New(source(), tree.DefaultLimits())
	if err != nil {
		b.Fatal(err)
	}
	dir := filepath.Join(b.TempDir(), "project")
	if err := tree.WriteFolder(ctx, inMemory, dir, nil); err != nil {
		b.Fatal(err)
	}
	return inMemory, dir
}

func compile(b *testing.B, t tree.Tree) *mould.Mould { b.Helper(); return compileWith(b, t, 0) }

func compileWith(b *testing.B, t tree.Tree, idle int) *mould.Mould {
	b.Helper()
	made, err := mould.Compile(ctx, t, parsed(b, idle), mould.Options{Limits: tree.DefaultLimits()})
	if err != nil {
		b.Fatal(err)
	}
	return made
}

func castOf(b *testing.B, m *mould.Mould) tree.Tree {
	b.Helper()
	vs, err := values.Resolve(m.Manifest, given, values.Now())
	if err != nil {
		b.Fatal(err)
	}
	cast, err := m.Cast(vs)
	if err != nil {
		b.Fatal(err)
	}
	return cast
}

func readAll(b *testing.B, t tree.Tree) int64 {
	b.Helper()
	var buffer []byte
	var total int64
	for _, e := range t.Entries() {
		var err error
		if buffer, err = e.Content.AppendTo(buffer[:0]); err != nil {
			b.Fatal(err)
		}
		total += int64(len(buffer))
	}
	return total
}

func readFolder(b *testing.B, dir string) tree.Tree {
	b.Helper()
	read, err := tree.ReadFolder(ctx, dir, tree.ReadOptions{Limits: tree.DefaultLimits()})
	if err != nil {
		b.Fatal(err)
	}
	return read
}

// timings are how long the rounds of something took.
type timings []time.Duration

// median returns the middle one, in seconds.
func (t timings) median() float64 {
	slices.Sort(t)
	return t[len(t)/2].Seconds()
}

func timed(work func()) time.Duration {
	began := time.Now()
	work()
	return time.Since(began)
}

// report prints a ratio alone: times say nothing on another machine.
func report(b *testing.B, value float64, unit string) {
	b.ReportMetric(0, "ns/op")
	b.ReportMetric(value, unit)
}

func BenchmarkCompileAgainstRead(b *testing.B) {
	_, dir := project(b)
	var read, compiled timings
	for range rounds {
		read = append(read, timed(func() { readAll(b, readFolder(b, dir)) }))
		compiled = append(compiled, timed(func() { compile(b, readFolder(b, dir)) }))
	}
	report(b, compiled.median()/read.median(), "×reading(bound:3)")
}

func BenchmarkCastToMemory(b *testing.B) {
	inMemory, _ := project(b)
	m := compile(b, inMemory)
	var took timings
	var total int64
	for range rounds {
		took = append(took, timed(func() { total = readAll(b, castOf(b, m)) }))
	}
	report(b, float64(total)/1e9/took.median(), "GB/s-a-core(bound:1)")
}

func BenchmarkCastToDiskAgainstCopy(b *testing.B) {
	_, dir := project(b)
	m := compile(b, readFolder(b, dir))
	top := b.TempDir()
	var copied, cast timings
	for round := range rounds {
		target := filepath.Join(top, fmt.Sprint("copy", round))
		copied = append(copied, timed(func() {
			if output, err := exec.Command("cp", "-r", dir, target).CombinedOutput(); err != nil {
				b.Fatalf("%v: %s", err, output)
			}
		}))
		os.RemoveAll(target)
		target = filepath.Join(top, fmt.Sprint("cast", round))
		cast = append(cast, timed(func() {
			if err := tree.WriteFolder(ctx, castOf(b, m), target, nil); err != nil {
				b.Fatal(err)
			}
		}))
		os.RemoveAll(target)
	}
	report(b, cast.median()/copied.median(), "×cp-r(bound:1.2)")
}

// The cost of a cast does not grow with variables that match nothing.
func BenchmarkFiftyIdleVariables(b *testing.B) {
	inMemory, _ := project(b)
	few, many := compile(b, inMemory), compileWith(b, inMemory, 50)
	var manyTook, fewTook, manyCompiled, fewCompiled timings
	for range rounds {
		manyCompiled = append(manyCompiled, timed(func() { compileWith(b, inMemory, 50) }))
		manyTook = append(manyTook, timed(func() { readAll(b, castOf(b, many)) }))
		fewCompiled = append(fewCompiled, timed(func() { compile(b, inMemory) }))
		fewTook = append(fewTook, timed(func() { readAll(b, castOf(b, few)) }))
	}
	b.ReportMetric(manyCompiled.median()/fewCompiled.median(), "×compiling-with-4")
	report(b, manyTook.median()/fewTook.median(), "×casting-with-4")
}

// How compiling and casting depend on the number of files and of variables, and
// on marks: compiling against reading, and casting in GB/s.
func BenchmarkSizes(b *testing.B) {
	for _, count := range []int{1000, 10_000} {
		for _, marked := range []bool{false, true} {
			inMemory, err := tree.New(sourceOf(count, marked), tree.DefaultLimits())
			if err != nil {
				b.Fatal(err)
			}
			dir := filepath.Join(b.TempDir(), "project")
			if err := tree.WriteFolder(ctx, inMemory, dir, nil); err != nil {
				b.Fatal(err)
			}
			for _, variables := range []int{5, 50} {
				b.Run(fmt.Sprintf("files=%d/variables=%d/marks=%v", count, variables, marked), func(b *testing.B) {
					var read, compiled, cast timings
					var total int64
					m := compileWith(b, inMemory, variables-4)
					for range rounds {
						read = append(read, timed(func() { readAll(b, readFolder(b, dir)) }))
						compiled = append(compiled, timed(func() { compileWith(b, readFolder(b, dir), variables-4) }))
						cast = append(cast, timed(func() { total = readAll(b, castOf(b, m)) }))
					}
					b.ReportMetric(compiled.median()/read.median(), "×reading(bound:3)")
					report(b, float64(total)/1e9/cast.median(), "GB/s-a-core(bound:1)")
				})
			}
		}
	}
}
