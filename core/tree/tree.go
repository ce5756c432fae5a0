// Package tree holds a project as a sorted list of entries, and reads and
// writes it as a folder or an archive.
//
// It is the only way the core touches files. A Tree is checked when it is made,
// wherever its entries come from, so whoever holds one can write it without
// leaving the target folder:
//
//   - a path is relative, separated by "/", valid UTF-8, at most Limits.PathBytes
//     long, and no part of it is empty, ".", "..", or a name that Windows reserves;
//   - no two paths are the same on a file system that ignores case or normalises
//     Unicode, folders on the way included;
//   - a link is relative and stays inside; nothing lies below a file or a link;
//   - folders are listed only when they are empty.
//
// Contents are read when they are asked for, so a Tree of any size costs little
// more than its paths.
package tree

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
)

// Kind is what an entry is.
type Kind uint8

const (
	File   Kind = iota
	Folder      // an empty one
	Link        // a symbolic link
)

// String returns "file", "folder" or "link".
func (k Kind) String() string { return [...]string{"file", "folder", "link"}[k] }

// MarshalText returns the same as String.
func (k Kind) MarshalText() ([]byte, error) { return []byte(k.String()), nil }

// Entry is one file, empty folder or link.
type Entry struct {
	Path       string // relative to the root, separated by "/"
	Kind       Kind
	Executable bool    // of a file
	Target     string  // of a link
	Content    Content // of a file
}

// Content is what a file holds. It can be read any number of times, from many
// goroutines.
type Content interface {
	// Size is the number of bytes that AppendTo appends.
	Size() int64
	// AppendTo appends the bytes to dst and returns the extended slice.
	AppendTo(dst []byte) ([]byte, error)
}

// Memory is content that is held in memory.
type Memory []byte

// Size returns the number of bytes.
func (m Memory) Size() int64 { return int64(len(m)) }

// AppendTo appends the bytes to dst.
func (m Memory) AppendTo(dst []byte) ([]byte, error) { return append(dst, m...), nil }

// Bytes returns an entry's content; nil unless it is a file. The caller must
// not change the bytes.
func (e Entry) Bytes() ([]byte, error) {
	if e.Kind != File {
		return nil, nil
	}
	if memory, held := e.Content.(Memory); held {
		return memory, nil
	}
	return e.Content.AppendTo(make([]byte, 0, e.Content.Size()))
}

// Tree is a project: its entries, sorted by path.
type Tree struct {
	entries []Entry
}

// New sorts the entries, checks them against the rules of the package and the
// limits, and returns them as a Tree. It takes over the slice.
func New(entries []Entry, limits Limits) (Tree, error) {
	slices.SortFunc(entries, func(a, b Entry) int { return strings.Compare(a.Path, b.Path) })
	if err := check(entries, limits); err != nil {
		return Tree{}, err
	}
	return Tree{entries: entries}, nil
}

// Entries returns the entries, sorted by path. The caller must not change them.
func (t Tree) Entries() []Entry { return t.entries }

// Find returns the entry at path.
func (t Tree) Find(path string) (Entry, bool) {
	i, found := slices.BinarySearchFunc(t.entries, path, func(e Entry, path string) int {
		return strings.Compare(e.Path, path)
	})
	if !found {
		return Entry{}, false
	}
	return t.entries[i], true
}

// Size returns the number of bytes in all files together.
func (t Tree) Size() int64 {
	var size int64
	for _, e := range t.entries {
		if e.Kind == File {
			size += e.Content.Size()
		}
	}
	return size
}

// Select returns the entries for which keep is true, as a Tree.
func (t Tree) Select(keep func(Entry) bool) Tree {
	var kept []Entry
	for _, e := range t.entries {
		if keep(e) {
			kept = append(kept, e)
		}
	}
	return Tree{entries: kept}
}

// Below returns the entries under folder, with their paths relative to it.
func (t Tree) Below(folder string) Tree {
	var below []Entry
	for _, e := range t.entries {
		if rest, found := strings.CutPrefix(e.Path, folder+"/"); found {
			e.Path = rest
			below = append(below, e)
		}
	}
	return Tree{entries: below}
}

// Difference is one way in which two trees differ.
type Difference struct {
	Path string
	Line int    // of the first difference in a text, from 1; 0 where it has none
	What string // such as "is missing" or "has other contents"
}

// Compare returns how got differs from want; nothing when they are the same
// byte for byte.
func Compare(want, got Tree) ([]Difference, error) {
	var found []Difference
	add := func(path string, line int, what string) {
		found = append(found, Difference{Path: path, Line: line, What: what})
	}
	a, b := want.entries, got.entries
	for len(a) > 0 || len(b) > 0 {
		switch {
		case len(b) == 0 || len(a) > 0 && a[0].Path < b[0].Path:
			add(a[0].Path, 0, "is missing")
			a = a[1:]
			continue
		case len(a) == 0 || a[0].Path > b[0].Path:
			add(b[0].Path, 0, "should not be there")
			b = b[1:]
			continue
		}
		x, y := a[0], b[0]
		a, b = a[1:], b[1:]
		switch {
		case x.Kind != y.Kind:
			add(x.Path, 0, fmt.Sprintf("is a %s and should be a %s", y.Kind, x.Kind))
		case x.Executable != y.Executable:
			add(x.Path, 0, "has another executable bit")
		case x.Target != y.Target:
			add(x.Path, 0, fmt.Sprintf("links to %q and should link to %q", y.Target, x.Target))
		case x.Kind == File:
			line, same, err := compareContents(x, y)
			if err != nil {
				return nil, err
			}
			if !same {
				add(x.Path, line, "has other contents")
			}
		}
	}
	return found, nil
}

func compareContents(x, y Entry) (line int, same bool, err error) {
	a, err := x.Bytes()
	if err != nil {
		return 0, false, err
	}
	b, err := y.Bytes()
	if err != nil {
		return 0, false, err
	}
	if bytes.Equal(a, b) {
		return 0, true, nil
	}
	at := 0
	for at < len(a) && at < len(b) && a[at] == b[at] {
		at++
	}
	return 1 + bytes.Count(a[:at], []byte("\n")), false, nil
}

// IsBinary tells whether content is no text: whether there is a NUL in its
// first 8,000 bytes, as git decides it.
func IsBinary(content []byte) bool {
	return bytes.IndexByte(content[:min(len(content), 8000)], 0) >= 0
}
