package tree

import (
	"errors"
	"fmt"
	"path"
	"strings"
	"unicode"
	"unicode/utf8"

	"golang.org/x/text/cases"
	"golang.org/x/text/unicode/norm"
)

// The reasons for which entries are refused. Errors wrap one of them.
var (
	ErrPath     = errors.New("is not a safe path")
	ErrTwice    = errors.New("would be the same path")
	ErrBelow    = errors.New("cannot lie below it")
	ErrLink     = errors.New("is not a safe link")
	ErrKind     = errors.New("is neither a file, a folder nor a link")
	ErrTooLarge = errors.New("is more than the limit")
)

// Limits bound what is taken in. A zero limit means none of that.
type Limits struct {
	Files     int   // entries in a tree
	Bytes     int64 // in all files together
	FileBytes int64 // in one file
	PathBytes int   // in one path
}

// DefaultLimits returns the bounds that hold unless someone sets others.
func DefaultLimits() Limits {
	return Limits{Files: 50_000, Bytes: 512 << 20, FileBytes: 64 << 20, PathBytes: 1024}
}

// meter counts what has been taken in, so that a reader can stop in time.
type meter struct {
	limits Limits
	files  int
	bytes  int64
}

// add counts one more entry of the given size in bytes.
func (m *meter) add(path string, size int64) error {
	m.files++
	m.bytes += size
	switch {
	case m.files > m.limits.Files:
		return fmt.Errorf("the number of files %w of %d", ErrTooLarge, m.limits.Files)
	case size > m.limits.FileBytes:
		return fmt.Errorf("%s with %d bytes %w of %d bytes a file", path, size, ErrTooLarge, m.limits.FileBytes)
	case m.bytes > m.limits.Bytes:
		return fmt.Errorf("the size of all files together %w of %d bytes", ErrTooLarge, m.limits.Bytes)
	}
	return nil
}

// twins are paths of which only one can be on some file systems.
type twins struct{ first, second string }

func (t twins) Error() string {
	if t.first == t.second {
		return fmt.Sprintf("two entries %v: %s", ErrTwice, t.first)
	}
	return fmt.Sprintf("%s and %s %v on a file system that ignores case or normalises Unicode; rename or leave out one of them", t.first, t.second, ErrTwice)
}

func (t twins) Unwrap() error { return ErrTwice }

// check expects entries sorted by path.
func check(entries []Entry, limits Limits) error {
	meter := meter{limits: limits}
	folders := map[string]string{} // folded path of a folder on the way: its own spelling
	leaves := make(map[string]string, len(entries))
	links := map[string]bool{}
	parent := ""
	for _, e := range entries {
		var size int64
		if e.Kind == File {
			size = e.Content.Size()
		}
		if err := meter.add(e.Path, size); err != nil {
			return err
		}
		if err := CheckPath(e.Path, limits); err != nil {
			return err
		}
		folded := fold(e.Path)
		if other, taken := leaves[folded]; taken {
			return twins{other, e.Path}
		}
		leaves[folded] = e.Path
		if at := strings.LastIndexByte(e.Path, '/'); at >= 0 && e.Path[:at] != parent {
			parent = e.Path[:at]
			if err := checkFolders(parent, folders); err != nil {
				return err
			}
		}
		if e.Kind == Link {
			links[e.Path] = true
			if err := checkLink(e.Path, e.Target); err != nil {
				return err
			}
		}
	}
	for folded, folder := range folders {
		if leaf, taken := leaves[folded]; taken {
			if leaf == folder {
				return fmt.Errorf("%s is no folder with contents, so other entries %w", leaf, ErrBelow)
			}
			return twins{folder, leaf}
		}
	}
	return nil
}

func checkFolders(folder string, folders map[string]string) error {
	for folder != "." {
		folded := fold(folder)
		other, seen := folders[folded]
		if seen && other != folder {
			return twins{other, folder}
		}
		if seen {
			return nil
		}
		folders[folded] = folder
		folder = path.Dir(folder)
	}
	return nil
}

// fold maps paths that some file systems take for the same to the same text.
func fold(p string) string {
	for i := range len(p) {
		if p[i] >= utf8.RuneSelf {
			return norm.NFC.String(cases.Fold().String(norm.NFC.String(p)))
		}
	}
	return strings.ToLower(p)
}

// CheckPath refuses a path that could leave the folder it is written to, or
// that cannot exist on a common file system.
func CheckPath(p string, limits Limits) error {
	refuse := func(why string) error { return fmt.Errorf("%q %w: %s", clip(p), ErrPath, why) }
	switch {
	case p == "":
		return refuse("it is empty")
	case len(p) > limits.PathBytes:
		return refuse(fmt.Sprintf("it is longer than %d bytes", limits.PathBytes))
	case !utf8.ValidString(p):
		return refuse("it is not valid UTF-8")
	case p[0] == '/':
		return refuse("it is absolute")
	}
	for part := range strings.SplitSeq(p, "/") {
		switch {
		case part == "" || part == ".":
			return refuse("a part of it is empty")
		case part == "..":
			return refuse(`it holds ".."`)
		case len(part) > 255:
			return refuse("a part of it is longer than 255 bytes")
		case reserved(part):
			return refuse(fmt.Sprintf("%q is a reserved name on Windows", part))
		}
	}
	for _, r := range p {
		if r == '\\' || unicode.IsControl(r) {
			return refuse(fmt.Sprintf("it holds %q", r))
		}
	}
	return nil
}

func reserved(part string) bool {
	stem, _, _ := strings.Cut(part, ".")
	if len(stem) != 3 && len(stem) != 4 {
		return false
	}
	switch stem = strings.ToUpper(stem); stem {
	case "CON", "PRN", "AUX", "NUL":
		return true
	}
	return len(stem) == 4 && (stem[:3] == "COM" || stem[:3] == "LPT") && stem[3] >= '1' && stem[3] <= '9'
}

// checkLink wants a target of leading ".." parts that stay inside, then parts
// without "..". Every link then ends inside, even through other links.
func checkLink(p, target string) error {
	refuse := func(why string) error {
		return fmt.Errorf("the link %s to %q %w: %s", p, clip(target), ErrLink, why)
	}
	if target == "" || target[0] == '/' || !utf8.ValidString(target) || strings.ContainsAny(target, "\\\x00") {
		return refuse("its target must be a relative path")
	}
	depth := strings.Count(p, "/")
	down := false
	for part := range strings.SplitSeq(strings.TrimSuffix(target, "/"), "/") {
		switch {
		case part != "..":
			down = true
		case down:
			return refuse(`".." may only stand at its beginning`)
		case depth == 0:
			return refuse("it leads out of the folder")
		default:
			depth--
		}
	}
	return nil
}

func clip(text string) string {
	const most = 80
	if len(text) <= most {
		return text
	}
	return text[:most] + "…"
}
