package tree

import (
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"runtime"
	"slices"
	"strings"
	"sync"
	"time"

	"golang.org/x/sync/errgroup"
)

// ReadOptions say what to read of a folder.
type ReadOptions struct {
	Limits Limits
	// Skip names what to leave out; a folder that is skipped is not entered.
	Skip func(path string, folder bool) bool
	// Twins, when set, is told about two paths of which only one can be on some
	// file systems. The second is passed over, and what is below it. Without it
	// they are an error.
	Twins func(first, second string)
	// Progress, when set, is told about the entries and bytes found so far.
	Progress func(files int, bytes int64)
}

// historyFolders hold a version control system's own records and are no part
// of a project.
var historyFolders = []string{".git", ".hg", ".svn", ".bzr"}

// ReadFolder lists the project in dir. Its files are read when their content is
// asked for. Version control records are never part of it.
func ReadFolder(ctx context.Context, dir string, options ReadOptions) (Tree, error) {
	info, err := os.Stat(dir)
	if err != nil {
		return Tree{}, fmt.Errorf("the folder %s cannot be read: %w", dir, reason(err))
	}
	if !info.IsDir() {
		return Tree{}, fmt.Errorf("%s is no folder", dir)
	}
	r := folderReader{ctx: ctx, root: dir, options: options, meter: meter{limits: options.Limits}}
	if _, err := r.read(""); err != nil {
		return Tree{}, err
	}
	for {
		read, err := New(r.entries, options.Limits)
		var found twins
		if options.Twins == nil || !errors.As(err, &found) {
			return read, err
		}
		options.Twins(found.first, found.second)
		r.entries = slices.DeleteFunc(r.entries, func(e Entry) bool {
			return e.Path == found.second || strings.HasPrefix(e.Path, found.second+"/")
		})
	}
}

type folderReader struct {
	ctx     context.Context
	root    string
	options ReadOptions
	meter   meter
	entries []Entry
}

// read lists one folder and returns how many entries it found below it.
func (r *folderReader) read(folder string) (int, error) {
	if err := r.ctx.Err(); err != nil {
		return 0, err
	}
	listed, err := os.ReadDir(filepath.Join(r.root, folder))
	if err != nil {
		return 0, fmt.Errorf("the folder %s cannot be read: %w", filepath.Join(r.root, folder), reason(err))
	}
	before := len(r.entries)
	for _, item := range listed {
		p := path.Join(folder, item.Name())
		if slices.Contains(historyFolders, item.Name()) || r.options.Skip != nil && r.options.Skip(p, item.IsDir()) {
			continue
		}
		if item.IsDir() {
			below, err := r.read(p)
			if err != nil {
				return 0, err
			}
			if below == 0 {
				r.entries = append(r.entries, Entry{Path: p, Kind: Folder})
			}
			continue
		}
		entry, err := r.leaf(p, item)
		if err != nil {
			return 0, err
		}
		r.entries = append(r.entries, entry)
		if r.options.Progress != nil {
			r.options.Progress(r.meter.files, r.meter.bytes)
		}
	}
	return len(r.entries) - before, nil
}

func (r *folderReader) leaf(p string, item fs.DirEntry) (Entry, error) {
	info, err := item.Info()
	if err != nil {
		return Entry{}, fmt.Errorf("%s cannot be read: %w", p, reason(err))
	}
	entry := Entry{Path: p}
	switch info.Mode().Type() {
	case 0:
		entry.Executable = info.Mode()&0o111 != 0
		entry.Content = diskContent{path: filepath.Join(r.root, p), size: info.Size(), changed: info.ModTime()}
		return entry, r.meter.add(p, info.Size())
	case fs.ModeSymlink:
		entry.Kind = Link
		if entry.Target, err = os.Readlink(filepath.Join(r.root, p)); err != nil {
			return Entry{}, fmt.Errorf("the link %s cannot be read: %w", p, reason(err))
		}
		return entry, r.meter.add(p, 0)
	}
	return Entry{}, fmt.Errorf("%s %w; leave it out", p, ErrKind)
}

// diskContent is a file that is read when it is needed.
type diskContent struct {
	path    string
	size    int64
	changed time.Time
}

func (c diskContent) Size() int64 { return c.size }

func (c diskContent) AppendTo(dst []byte) ([]byte, error) {
	file, err := os.Open(c.path)
	if err != nil {
		return nil, fmt.Errorf("%s cannot be read: %w", c.path, reason(err))
	}
	defer file.Close()
	start := len(dst)
	dst = slices.Grow(dst, int(c.size))[:start+int(c.size)]
	_, err = io.ReadFull(file, dst[start:])
	info, statErr := file.Stat()
	if err != nil || statErr != nil || info.Size() != c.size || !info.ModTime().Equal(c.changed) {
		return nil, fmt.Errorf("%s changed while it was being read; try again", c.path)
	}
	return dst, nil
}

// ErrNotEmpty is wrapped by WriteFolder's refusal of a folder with contents.
var ErrNotEmpty = errors.New("is not empty")

// CheckTarget refuses a folder that WriteFolder would refuse.
func CheckTarget(dir string) error {
	listed, err := os.ReadDir(dir)
	switch {
	case errors.Is(err, fs.ErrNotExist):
		return nil
	case err != nil:
		if info, statErr := os.Lstat(dir); statErr == nil && !info.IsDir() {
			return fmt.Errorf("%s is there already and is no folder; name a new one", dir)
		}
		return fmt.Errorf("the folder %s cannot be read: %w", dir, reason(err))
	case len(listed) > 0:
		return fmt.Errorf("the folder %s %w; name a new or an empty one", dir, ErrNotEmpty)
	}
	return nil
}

// WriteFolder writes the tree to dir, which must be new or empty. The files are
// written beside dir and moved in at the end, so that a failed or cancelled
// write leaves dir as it was.
func WriteFolder(ctx context.Context, t Tree, dir string, progress func(files int, bytes int64)) error {
	staging, err := Stage(ctx, t, dir, progress)
	if err != nil {
		return err
	}
	return staging.MoveIn()
}

// Staging is a folder beside the one that it will become.
type Staging struct {
	Path string // where it is now
	dir  string // where it goes
	made string // the topmost folder that was made for it; "" for none
}

// Stage writes the tree beside dir, which must be new or empty. The caller ends
// with MoveIn, Discard or SetAside.
func Stage(ctx context.Context, t Tree, dir string, progress func(files int, bytes int64)) (*Staging, error) {
	if err := CheckTarget(dir); err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(dir)
	if err != nil {
		return nil, err
	}
	s := &Staging{dir: dir}
	parent := filepath.Dir(dir)
	if s.made, err = makeFolders(parent); err != nil {
		return nil, fmt.Errorf("the folder %s cannot be made: %w", parent, reason(err))
	}
	if s.Path, err = os.MkdirTemp(parent, "."+filepath.Base(dir)+".casting-"); err != nil {
		s.Discard()
		return nil, fmt.Errorf("the folder %s cannot be written to: %w", parent, reason(err))
	}
	err = os.Chmod(s.Path, 0o777&^umask())
	if err == nil {
		err = writeEntries(ctx, t, s.Path, progress)
	}
	if err == nil {
		err = ctx.Err()
	}
	if err != nil {
		s.Discard()
		return nil, err
	}
	return s, nil
}

// MoveIn makes the folder what it was written for. When that fails it is gone.
func (s *Staging) MoveIn() error {
	if err := moveIn(s.Path, s.dir); err != nil {
		s.Discard()
		return err
	}
	return os.RemoveAll(s.Path)
}

// Discard removes the folder, and what was made for it.
func (s *Staging) Discard() {
	if s.Path != "" {
		os.RemoveAll(s.Path)
	}
	if s.made != "" {
		os.RemoveAll(s.made)
	}
}

// SetAside leaves the folder under a name of its own, beside where it would have
// gone, and returns that name.
func (s *Staging) SetAside() (string, error) {
	for n := 1; ; n++ {
		aside := s.dir + ".unfinished"
		if n > 1 {
			aside = fmt.Sprintf("%s.unfinished-%d", s.dir, n)
		}
		if _, err := os.Lstat(aside); errors.Is(err, fs.ErrNotExist) {
			return aside, os.Rename(s.Path, aside)
		}
	}
}

// makeFolders makes dir and its parents, and returns the topmost one it made.
func makeFolders(dir string) (made string, err error) {
	for at := dir; ; at = filepath.Dir(at) {
		if _, err := os.Stat(at); err == nil || at == filepath.Dir(at) {
			break
		}
		made = at
	}
	return made, os.MkdirAll(dir, 0o777)
}

// moveIn renames staging to dir. A folder that is there already stays the same
// folder, since someone may be working in it: then the contents move.
func moveIn(staging, dir string) error {
	if _, err := os.Lstat(dir); errors.Is(err, fs.ErrNotExist) {
		return os.Rename(staging, dir)
	}
	if err := CheckTarget(dir); err != nil {
		return err
	}
	listed, err := os.ReadDir(staging)
	if err != nil {
		return err
	}
	for i, item := range listed {
		if err := os.Rename(filepath.Join(staging, item.Name()), filepath.Join(dir, item.Name())); err != nil {
			for _, moved := range listed[:i] {
				os.RemoveAll(filepath.Join(dir, moved.Name()))
			}
			return fmt.Errorf("the folder %s cannot be written to: %w", dir, reason(err))
		}
	}
	return nil
}

func writeEntries(ctx context.Context, t Tree, dir string, progress func(int, int64)) error {
	made := map[string]bool{".": true}
	for _, e := range t.entries {
		folder := path.Dir(e.Path)
		if e.Kind == Folder {
			folder = e.Path
		}
		if made[folder] {
			continue
		}
		if err := os.MkdirAll(filepath.Join(dir, folder), 0o777); err != nil {
			return reason(err)
		}
		for ; !made[folder]; folder = path.Dir(folder) {
			made[folder] = true
		}
	}
	group, ctx := errgroup.WithContext(ctx)
	workers := runtime.GOMAXPROCS(0)
	var count struct {
		sync.Mutex
		files int
		bytes int64
	}
	for worker := range workers {
		group.Go(func() error {
			var buffer []byte
			for i := worker; i < len(t.entries); i += workers {
				e := t.entries[i]
				if e.Kind == Folder {
					continue
				}
				if err := ctx.Err(); err != nil {
					return err
				}
				var err error
				if buffer, err = writeEntry(filepath.Join(dir, e.Path), e, buffer[:0]); err != nil {
					return err
				}
				if progress != nil {
					count.Lock()
					count.files++
					count.bytes += int64(len(buffer))
					progress(count.files, count.bytes)
					count.Unlock()
				}
			}
			return nil
		})
	}
	return group.Wait()
}

func writeEntry(target string, e Entry, buffer []byte) ([]byte, error) {
	if e.Kind == Link {
		return buffer, reason(os.Symlink(e.Target, target))
	}
	buffer, err := e.Content.AppendTo(buffer)
	if err != nil {
		return nil, err
	}
	mode := fs.FileMode(0o666)
	if e.Executable {
		mode = 0o777
	}
	file, err := os.OpenFile(target, os.O_WRONLY|os.O_CREATE|os.O_EXCL, mode)
	if err != nil {
		return nil, reason(err)
	}
	if _, err := file.Write(buffer); err != nil {
		file.Close()
		return nil, fmt.Errorf("%s cannot be written: %w", e.Path, reason(err))
	}
	return buffer, file.Close()
}

// reason strips the operation and the path from an error of the os package, for
// sentences that name them already.
func reason(err error) error {
	var pathError *fs.PathError
	if errors.As(err, &pathError) {
		return pathError.Err
	}
	var linkError *os.LinkError
	if errors.As(err, &linkError) {
		return linkError.Err
	}
	return err
}
