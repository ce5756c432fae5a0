package hooks

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"unicode/utf8"

	"github.com/bmatcuk/doublestar/v4"

	"ironcast/core/tree"
)

// project is what a script works on: the entries of a cast, in memory, by path.
type project struct {
	entries map[string]tree.Entry
	changed map[string]bool
	limits  tree.Limits
}

func newProject(t tree.Tree, limits tree.Limits) *project {
	p := &project{entries: map[string]tree.Entry{}, changed: map[string]bool{}, limits: limits}
	for _, e := range t.Entries() {
		p.entries[e.Path] = e
	}
	return p
}

// tree returns the project as it is now, checked.
func (p *project) tree() (tree.Tree, error) {
	return tree.New(slices.Collect(maps.Values(p.entries)), p.limits)
}

func (p *project) changedPaths() []string {
	return slices.Sorted(maps.Keys(p.changed))
}

// file returns the file at a path.
func (p *project) file(path string) (tree.Entry, error) {
	e, found := p.entries[path]
	switch {
	case !found:
		return tree.Entry{}, fmt.Errorf("there is no file %s in the project", path)
	case e.Kind != tree.File:
		return tree.Entry{}, fmt.Errorf("%s is a %s, no file", path, e.Kind)
	}
	return e, nil
}

// do carries out what a script asks for.
func (p *project) do(r request) reply {
	var answer reply
	var err error
	switch r.Op {
	case "read":
		answer.Text, err = p.read(r.Path)
	case "write":
		err = p.write(r.Path, r.Text, r.Executable)
	case "move":
		err = p.move(r.Path, r.To)
	case "remove":
		err = p.remove(r.Path)
	case "exists":
		_, answer.Is = p.entries[r.Path]
	case "files":
		answer.Paths, err = p.files(r.Path)
	case "executable":
		err = p.setExecutable(r.Path, r.Executable)
	default:
		err = fmt.Errorf("a project has no %q", r.Op)
	}
	if err != nil {
		answer.Error = err.Error()
	}
	return answer
}

func (p *project) read(path string) (string, error) {
	e, err := p.file(path)
	if err != nil {
		return "", err
	}
	content, err := e.Bytes()
	if err == nil && !utf8.Valid(content) {
		err = fmt.Errorf("%s is no UTF-8 text, so a script cannot read it", path)
	}
	return string(content), err
}

func (p *project) write(path, text string, executable bool) error {
	if err := tree.CheckPath(path, p.limits); err != nil {
		return err
	}
	e, found := p.entries[path]
	if found && e.Kind != tree.File {
		return fmt.Errorf("%s is a %s, no file", path, e.Kind)
	}
	if !found && len(p.entries) >= p.limits.Files {
		return fmt.Errorf("the project would have more than %d files, which is the limit", p.limits.Files)
	}
	p.entries[path] = tree.Entry{Path: path, Executable: executable || e.Executable, Content: tree.Memory(text)}
	p.changed[path] = true
	return nil
}

// move renames a file, or everything below a folder.
func (p *project) move(from, to string) error {
	if err := tree.CheckPath(to, p.limits); err != nil {
		return err
	}
	moved := p.below(from)
	if len(moved) == 0 {
		return fmt.Errorf("there is no file or folder %s in the project", from)
	}
	for _, path := range moved {
		target := to + strings.TrimPrefix(path, from)
		if _, taken := p.entries[target]; taken {
			return fmt.Errorf("%s is there already", target)
		}
		e := p.entries[path]
		e.Path = target
		delete(p.entries, path)
		delete(p.changed, path)
		p.entries[target] = e
		p.changed[target] = true
	}
	return nil
}

// remove deletes a file, or everything below a folder.
func (p *project) remove(path string) error {
	removed := p.below(path)
	if len(removed) == 0 {
		return fmt.Errorf("there is no file or folder %s in the project", path)
	}
	for _, path := range removed {
		delete(p.entries, path)
		delete(p.changed, path)
	}
	return nil
}

// below returns the entry at a path and all entries below it, sorted.
func (p *project) below(path string) []string {
	var below []string
	for other := range p.entries {
		if other == path || strings.HasPrefix(other, path+"/") {
			below = append(below, other)
		}
	}
	slices.Sort(below)
	return below
}

// files returns the paths of all files that a glob matches, sorted.
func (p *project) files(glob string) ([]string, error) {
	if !doublestar.ValidatePattern(glob) {
		return nil, fmt.Errorf("%q is no glob of paths; an example is config/**", glob)
	}
	matched := []string{}
	for path, e := range p.entries {
		if e.Kind == tree.File && doublestar.MatchUnvalidated(glob, path) {
			matched = append(matched, path)
		}
	}
	slices.Sort(matched)
	return matched, nil
}

func (p *project) setExecutable(path string, is bool) error {
	e, err := p.file(path)
	if err != nil {
		return err
	}
	e.Executable = is
	p.entries[path] = e
	p.changed[path] = true
	return nil
}
