package survey

import (
	"path"
	"slices"
	"strings"
)

// leaveOutRules are what no template should hold. The first that matches a
// path counts it. A rule for folders covers all that is below.
var leaveOutRules = []struct {
	name   string // of a file or folder, as in path.Match
	folder bool
	why    string
}{
	{".idea", true, "editor settings"},
	{".vscode", true, "editor settings"},
	{".vs", true, "editor settings"},
	{"*.iml", false, "editor settings"},
	{"*.swp", false, "editor files"},
	{"*.swo", false, "editor files"},
	{"*~", false, "editor files"},
	{".DS_Store", false, "system files"},
	{"Thumbs.db", false, "system files"},
	{"desktop.ini", false, "system files"},
	{"node_modules", true, "installed dependencies"},
	{".venv", true, "installed dependencies"},
	{"venv", true, "installed dependencies"},
	{"bower_components", true, "installed dependencies"},
	{"__pycache__", true, "build output"},
	{"*.pyc", false, "build output"},
	{"*.egg-info", true, "build output"},
	{"*.class", false, "build output"},
	{"*.o", false, "build output"},
	{"bin", true, "build output"},
	{"obj", true, "build output"},
	{"target", true, "build output"},
	{"dist", true, "build output"},
	{".next", true, "build output"},
	{".gradle", true, "caches"},
	{".pytest_cache", true, "caches"},
	{".mypy_cache", true, "caches"},
	{".ruff_cache", true, "caches"},
	{".cache", true, "caches"},
	{".tox", true, "caches"},
	{"coverage.out", false, "test output"},
	{".coverage", false, "test output"},
	{"*.log", false, "logs"},
}

// leaveOut collects what is passed over while a folder is read.
type leaveOut struct {
	found []Group
}

// skip tells whether a path is left out, and remembers it.
func (l *leaveOut) skip(p string, folder bool) bool {
	for _, rule := range leaveOutRules {
		if ok, _ := path.Match(rule.name, path.Base(p)); !ok || folder != rule.folder {
			continue
		}
		glob := "**/" + rule.name
		if folder {
			glob = p + "/**"
		}
		l.add(Group{Glob: glob, Why: rule.why, Files: 1})
		return true
	}
	return false
}

func (l *leaveOut) add(g Group) {
	if strings.HasSuffix(g.Glob, "/**") {
		g.Files = 0
	}
	for i := range l.found {
		if l.found[i].Glob == g.Glob {
			l.found[i].Files++
			return
		}
	}
	l.found = append(l.found, g)
}

func (l *leaveOut) groups() []Group {
	slices.SortStableFunc(l.found, func(a, b Group) int { return strings.Compare(a.Why+a.Glob, b.Why+b.Glob) })
	return l.found
}
