package tree

import (
	"archive/tar"
	"archive/zip"
	"bytes"
	"context"
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

func newTree(t *testing.T, entries ...Entry) Tree {
	t.Helper()
	made, err := New(entries, DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	return made
}

func file(path, text string) Entry { return Entry{Path: path, Content: Memory(text)} }
func link(path, to string) Entry   { return Entry{Path: path, Kind: Link, Target: to} }

// odd has one entry of every sort that a cast must leave as it is.
func odd(t *testing.T) Tree {
	run := file("bin/run.sh", "#!/bin/sh\n")
	run.Executable = true
	return newTree(t, run,
		file("crlf.txt", "a\r\nb\r\n"),
		file("bom.csv", "\xef\xbb\xbfa,b\n"),
		file("latin1.txt", "F\xe4hre"),
		file("no-newline", "1.0.0"),
		file("empty", ""),
		file("image.bin", "\x00\x01\x02"),
		link("docs/current", "../crlf.txt"),
		Entry{Path: "var/spool", Kind: Folder},
		file("docs/"+strings.Repeat("long-", 40)+"name.md", "x"),
	)
}

func TestNewRefusesWhatCouldDoHarm(t *testing.T) {
	for _, c := range []struct {
		name    string
		entries []Entry
		want    error
	}{
		{"a path out", []Entry{file("../x", "")}, ErrPath},
		{"a path out, further on", []Entry{file("a/../../x", "")}, ErrPath},
		{"an absolute path", []Entry{file("/etc/passwd", "")}, ErrPath},
		{"an empty path", []Entry{file("", "")}, ErrPath},
		{"a dot", []Entry{file("./x", "")}, ErrPath},
		{"a backslash", []Entry{file(`a\..\x`, "")}, ErrPath},
		{"a control character", []Entry{file("a\nb", "")}, ErrPath},
		{"a reserved name", []Entry{file("docs/aux.md", "")}, ErrPath},
		{"bytes that are no UTF-8", []Entry{file("F\xe4hre", "")}, ErrPath},
		{"a very long path", []Entry{file(strings.Repeat("a/", 600)+"x", "")}, ErrPath},
		{"the same path twice", []Entry{file("a", ""), file("a", "")}, ErrTwice},
		{"paths that differ in case", []Entry{file("Makefile", ""), file("makefile", "")}, ErrTwice},
		{"folders that differ in case", []Entry{file("Docs/a", ""), file("docs/b", "")}, ErrTwice},
		{"paths that normalise to the same", []Entry{file("caf\u00e9", ""), file("cafe\u0301", "")}, ErrTwice},
		{"a file below a file", []Entry{file("a", ""), file("a/b", "")}, ErrBelow},
		{"a file below a link", []Entry{link("a", "b"), file("a/b", "")}, ErrBelow},
		{"a link out", []Entry{link("a", "../b")}, ErrLink},
		{"a link out through a folder", []Entry{link("d/a", "../../b")}, ErrLink},
		{"a link that turns back", []Entry{link("a", "b/../../c")}, ErrLink},
		{"an absolute link", []Entry{link("a", "/etc/passwd")}, ErrLink},
		{"an empty link", []Entry{link("a", "")}, ErrLink},
	} {
		if _, err := New(c.entries, DefaultLimits()); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", c.name, err, c.want)
		}
	}
}

func TestNewKeepsTheLimits(t *testing.T) {
	entries := []Entry{file("a", "12345"), file("b", "12345")}
	for _, limits := range []Limits{
		{Files: 1, Bytes: 99, FileBytes: 99, PathBytes: 9},
		{Files: 9, Bytes: 9, FileBytes: 9, PathBytes: 9},
		{Files: 9, Bytes: 99, FileBytes: 4, PathBytes: 9},
	} {
		if _, err := New(entries, limits); !errors.Is(err, ErrTooLarge) {
			t.Errorf("%+v: %v", limits, err)
		}
	}
	if _, err := New(entries, Limits{Files: 2, Bytes: 10, FileBytes: 5, PathBytes: 1}); err != nil {
		t.Errorf("just within the limits: %v", err)
	}
}

func same(t *testing.T, what string, want, got Tree) {
	t.Helper()
	differences, err := Compare(want, got)
	if err != nil || len(differences) > 0 {
		t.Errorf("%s: %v, %v", what, differences, err)
	}
}

func TestFoldersAndArchivesGiveBackTheTree(t *testing.T) {
	ctx := context.Background()
	want := odd(t)
	dir := filepath.Join(t.TempDir(), "a", "b")
	if err := WriteFolder(ctx, want, dir, nil); err != nil {
		t.Fatal(err)
	}
	got, err := ReadFolder(ctx, dir, ReadOptions{Limits: DefaultLimits()})
	if err != nil {
		t.Fatal(err)
	}
	same(t, "folder", want, got)

	for name, write := range map[string]func(context.Context, io.Writer, Tree, string) error{"tar": WriteTar, "tar.gz": WriteTarGz} {
		var packed, again bytes.Buffer
		if err := errors.Join(write(ctx, &packed, want, ""), write(ctx, &again, got, "")); err != nil {
			t.Fatal(err)
		}
		if !bytes.Equal(packed.Bytes(), again.Bytes()) {
			t.Errorf("%s: the same tree gives other bytes", name)
		}
		got, err := ReadTar(ctx, &packed, DefaultLimits())
		if err != nil {
			t.Fatal(err)
		}
		same(t, name, want, got)
	}
}

func TestZipHoldsTheTree(t *testing.T) {
	var packed bytes.Buffer
	if err := WriteZip(context.Background(), &packed, odd(t), "top"); err != nil {
		t.Fatal(err)
	}
	archive, err := zip.NewReader(bytes.NewReader(packed.Bytes()), int64(packed.Len()))
	if err != nil {
		t.Fatal(err)
	}
	modes := map[string]fs.FileMode{}
	for _, f := range archive.File {
		modes[f.Name] = f.Mode()
	}
	if modes["top/bin/run.sh"] != 0o755 || modes["top/empty"] != 0o644 || modes["top/docs/current"].Type() != fs.ModeSymlink || !modes["top/var/spool/"].IsDir() {
		t.Errorf("modes are %v", modes)
	}
}

func TestLargeArchivesAreSpooled(t *testing.T) {
	ctx := context.Background()
	var entries []Entry
	for _, name := range []string{"a", "b", "c", "d"} {
		entries = append(entries, file(name, strings.Repeat(name, 6<<20)))
	}
	want := newTree(t, entries...)
	var packed bytes.Buffer
	if err := WriteTarGz(ctx, &packed, want, ""); err != nil {
		t.Fatal(err)
	}
	got, err := ReadTar(ctx, &packed, DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	if _, spooled := got.Entries()[3].Content.(spooledContent); !spooled {
		t.Error("all is held in memory")
	}
	same(t, "spooled", want, got)
}

func TestReadTarRefuses(t *testing.T) {
	pack := func(headers ...tar.Header) []byte {
		var packed bytes.Buffer
		w := tar.NewWriter(&packed)
		for _, h := range headers {
			w.WriteHeader(&h)
			w.Write(make([]byte, h.Size))
		}
		w.Close()
		return packed.Bytes()
	}
	for _, c := range []struct {
		name string
		data []byte
		want error
	}{
		{"a path out", pack(tar.Header{Name: "../x", Mode: 0o644}), ErrPath},
		{"an absolute path", pack(tar.Header{Name: "/x", Mode: 0o644}), ErrPath},
		{"a link out", pack(tar.Header{Name: "x", Typeflag: tar.TypeSymlink, Linkname: "../../etc"}), ErrLink},
		{"a hard link", pack(tar.Header{Name: "x", Typeflag: tar.TypeLink, Linkname: "y"}), ErrKind},
		{"a device", pack(tar.Header{Name: "x", Typeflag: tar.TypeBlock}), ErrKind},
		{"a pipe", pack(tar.Header{Name: "x", Typeflag: tar.TypeFifo}), ErrKind},
		{"a file over the limit", pack(tar.Header{Name: "x", Size: 2000, Mode: 0o644}), ErrTooLarge},
		{"a path twice", pack(tar.Header{Name: "x", Mode: 0o644}, tar.Header{Name: "x", Mode: 0o644}), ErrTwice},
	} {
		limits := DefaultLimits()
		limits.FileBytes = 1000
		if _, err := ReadTar(context.Background(), bytes.NewReader(c.data), limits); !errors.Is(err, c.want) {
			t.Errorf("%s: %v, want %v", c.name, err, c.want)
		}
	}
	whole := pack(tar.Header{Name: "x", Size: 900, Mode: 0o644})
	for _, data := range [][]byte{[]byte("this is no archive, whatever it says it is"), whole[:700], {0x1f, 0x8b, 1}} {
		if _, err := ReadTar(context.Background(), bytes.NewReader(data), DefaultLimits()); err == nil {
			t.Errorf("%.20q is accepted", data)
		}
	}
}

func TestReadFolder(t *testing.T) {
	dir := t.TempDir()
	os.MkdirAll(filepath.Join(dir, ".git", "objects"), 0o777)
	os.MkdirAll(filepath.Join(dir, "logs"), 0o777)
	os.WriteFile(filepath.Join(dir, "logs", "a.log"), nil, 0o666)
	os.WriteFile(filepath.Join(dir, ".git", "HEAD"), nil, 0o666)
	os.WriteFile(filepath.Join(dir, "a"), []byte("text"), 0o666)
	got, err := ReadFolder(context.Background(), dir, ReadOptions{Limits: DefaultLimits(), Skip: func(p string, folder bool) bool { return strings.HasSuffix(p, ".log") }})
	if err != nil {
		t.Fatal(err)
	}
	same(t, "a folder stays when what is in it is left out", newTree(t, file("a", "text"), Entry{Path: "logs", Kind: Folder}), got)

	os.WriteFile(filepath.Join(dir, "a"), []byte("other text"), 0o666)
	if _, err := got.Entries()[0].Bytes(); err == nil || !strings.Contains(err.Error(), "changed while it was being read") {
		t.Errorf("a file that changed gives %v", err)
	}
	if _, err := ReadFolder(context.Background(), filepath.Join(dir, "a"), ReadOptions{Limits: DefaultLimits()}); err == nil {
		t.Error("a file is read as a folder")
	}
	if _, err := ReadFolder(context.Background(), dir, ReadOptions{Limits: Limits{Files: 1, Bytes: 9, FileBytes: 9, PathBytes: 99}}); !errors.Is(err, ErrTooLarge) {
		t.Errorf("a folder over the limit gives %v", err)
	}
}

// failing is content that cannot be read.
type failing struct{ Memory }

func (failing) AppendTo([]byte) ([]byte, error) { return nil, errors.New("the disk is gone") }

func TestAFailedWriteLeavesNothing(t *testing.T) {
	top := t.TempDir()
	bad := newTree(t, file("a", "x"), Entry{Path: "b/c", Content: failing{}})
	cancelled, cancel := context.WithCancel(context.Background())
	cancel()
	empty := filepath.Join(top, "empty")
	os.Mkdir(empty, 0o777)
	for _, dir := range []string{filepath.Join(top, "new", "deep"), empty} {
		if err := WriteFolder(context.Background(), bad, dir, nil); err == nil {
			t.Error("content that cannot be read is written")
		}
		if err := WriteFolder(cancelled, odd(t), dir, nil); !errors.Is(err, context.Canceled) {
			t.Errorf("a cancelled write gives %v", err)
		}
	}
	left, _ := os.ReadDir(top)
	inside, _ := os.ReadDir(empty)
	if len(left) != 1 || len(inside) != 0 {
		t.Errorf("left behind: %v, %v", left, inside)
	}
}

func TestWriteFolderRefusesAFolderWithContents(t *testing.T) {
	dir := t.TempDir()
	os.WriteFile(filepath.Join(dir, "mine"), nil, 0o666)
	if err := WriteFolder(context.Background(), odd(t), dir, nil); !errors.Is(err, ErrNotEmpty) {
		t.Errorf("error is %v", err)
	}
	if err := WriteFolder(context.Background(), odd(t), filepath.Join(dir, "mine"), nil); err == nil {
		t.Error("a file is overwritten by a folder")
	}
	os.Remove(filepath.Join(dir, "mine"))
	if err := WriteFolder(context.Background(), odd(t), dir, nil); err != nil {
		t.Errorf("an empty folder is refused: %v", err)
	}
}

func TestCompareSaysWhatDiffers(t *testing.T) {
	run := file("run", "x")
	run.Executable = true
	differences, err := Compare(
		newTree(t, file("gone", ""), file("text", "a\nb\nc"), file("run", "x"), link("l", "a"), file("kind", "")),
		newTree(t, file("new", ""), file("text", "a\nB\nc"), run, link("l", "b"), link("kind", "x")))
	if err != nil {
		t.Fatal(err)
	}
	var got []string
	for _, d := range differences {
		got = append(got, d.Path+" "+d.What)
	}
	want := "gone is missing|kind is a link and should be a file|l links to \"b\" and should link to \"a\"|new should not be there|run has another executable bit|text has other contents"
	if strings.Join(got, "|") != want || differences[5].Line != 2 {
		t.Errorf("got %v", differences)
	}
}

func FuzzReadTar(f *testing.F) {
	var packed, zipped bytes.Buffer
	small, _ := New([]Entry{file("a/b", "text"), link("c", "a/b"), {Path: "d", Kind: Folder}}, DefaultLimits())
	WriteTar(context.Background(), &packed, small, "")
	WriteTarGz(context.Background(), &zipped, small, "")
	f.Add(packed.Bytes())
	f.Add(zipped.Bytes())
	f.Fuzz(func(t *testing.T, data []byte) {
		limits := Limits{Files: 100, Bytes: 1 << 20, FileBytes: 1 << 18, PathBytes: 200}
		got, err := ReadTar(context.Background(), bytes.NewReader(data), limits)
		if err != nil {
			return
		}
		dir := filepath.Join(t.TempDir(), "out")
		if err := WriteFolder(context.Background(), got, dir, nil); err != nil {
			t.Fatalf("what was read cannot be written: %v", err)
		}
		back, err := ReadFolder(context.Background(), dir, ReadOptions{Limits: limits})
		if err != nil {
			t.Fatal(err)
		}
		if differences, err := Compare(got, back); err != nil || len(differences) > 0 && len(got.Entries()) > 0 {
			t.Fatalf("read %v, wrote %v: %v", got, back, differences)
		}
	})
}
