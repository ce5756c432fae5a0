package survey

import (
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"
)

// leaveOutRules are what no template should hold. The first that matches a
// path counts it. A rule for folders covers all that is below.
var leaveOutRules = []struct {
	name   string // of a file or folder, as in path.Match
	folder bool
	why    string
	// Some names mean build output in one project and source in another. Such a
	// folder counts only beside one of these files, or where the project's
	// .gitignore names it.
	beside []string
}{
	{".idea", true, "editor settings", nil},
	{".vscode", true, "editor settings", nil},
	{".vs", true, "editor settings", nil},
	{"*.iml", false, "editor settings", nil},
	{"*.swp", false, "editor files", nil},
	{"*.swo", false, "editor files", nil},
	{"*~", false, "editor files", nil},
	{".DS_Store", false, "system files", nil},
	{"Thumbs.db", false, "system files", nil},
	{"desktop.ini", false, "system files", nil},
	{"node_modules", true, "installed dependencies", nil},
	{".venv", true, "installed dependencies", nil},
	{"venv", true, "installed dependencies", nil},
	{"bower_components", true, "installed dependencies", nil},
	{"__pycache__", true, "build output", nil},
	{"*.pyc", false, "build output", nil},
	{"*.egg-info", true, "build output", nil},
	{"*.class", false, "build output", nil},
	{"*.o", false, "build output", nil},
	{"bin", true, "build output", []string{"*.csproj", "*.fsproj"}},
	{"obj", true, "build output", []string{"*.csproj", "*.fsproj"}},
	{"target", true, "build output", []string{"Cargo.toml", "pom.xml"}},
	{"dist", true, "build output", []string{"setup.py"}},
	{".next", true, "build output", nil},
	{".gradle", true, "caches", nil},
	{".pytest_cache", true, "caches", nil},
	{".mypy_cache", true, "caches", nil},
	{".ruff_cache", true, "caches", nil},
	{".cache", true, "caches", nil},
	{".tox", true, "caches", nil},
	{"coverage.out", false, "test output", nil},
	{".coverage", false, "test output", nil},
	{"*.log", false, "logs", nil},
}

// leaveOut collects what is passed over while a folder is read.
type leaveOut struct {
	root    string
	found   []Group
	ignored map[string]bool // the folders that .gitignore names; nil until it is read
}

// skip tells whether a path is left out, and remembers it.
func (l *leaveOut) skip(p string, folder bool) bool {
	for _, rule := range leaveOutRules {
		if ok, _ := path.Match(rule.name, path.Base(p)); !ok || folder != rule.folder {
			continue
		}
		if rule.beside != nil && !l.isBeside(p, rule.beside) && !l.isIgnored(p) {
			continue
		}
		glob := "**/" + rule.name
		if folder {
			glob = escapeGlob(p) + "/**"
		}
		l.add(Group{Glob: glob, Why: rule.why, Files: 1})
		return true
	}
	return false
}

// isBeside tells whether a file with one of the names lies beside the folder.
func (l *leaveOut) isBeside(folder string, names []string) bool {
	return slices.ContainsFunc(names, func(name string) bool {
		found, _ := filepath.Glob(filepath.Join(l.root, path.Dir(folder), name))
		return len(found) > 0
	})
}

// isIgnored tells whether the .gitignore at the project's top names the folder,
// by its path or by its name.
func (l *leaveOut) isIgnored(folder string) bool {
	if l.ignored == nil {
		l.ignored = map[string]bool{}
		text, _ := os.ReadFile(filepath.Join(l.root, ".gitignore"))
		for line := range strings.Lines(string(text)) {
			l.ignored[strings.Trim(strings.TrimSpace(line), "/")] = true
		}
	}
	return l.ignored[folder] || l.ignored[path.Base(folder)]
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
