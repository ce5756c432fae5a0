package survey

import (
	"path"
	"slices"

	"ironcast/core/tree"
)

// lockFiles record exact dependencies, some with checksums of the project's own
// files.
var lockFiles = []string{"go.sum", "package-lock.json", "yarn.lock", "pnpm-lock.yaml", "Cargo.lock", "poetry.lock", "uv.lock", "composer.lock", "Gemfile.lock"}

const largeFile = 1 << 20

func findCare(project tree.Tree, text *projectText) []Care {
	var empty, links, large, locks []string
	for _, e := range project.Entries() {
		switch {
		case e.Kind == tree.Folder:
			empty = append(empty, e.Path)
		case e.Kind == tree.Link:
			links = append(links, e.Path)
		case e.Content.Size() > largeFile:
			large = append(large, e.Path)
		case slices.Contains(lockFiles, path.Base(e.Path)):
			locks = append(locks, e.Path)
		}
	}
	var care []Care
	add := func(what, why string, paths []string) {
		if len(paths) > 0 {
			care = append(care, Care{What: what, Why: why, Paths: paths})
		}
	}
	add("empty folders", "a cast makes them again; git alone would lose them", empty)
	add("binaries", "copied as they are: a name inside them would stay, though one in their path is written", text.binaries)
	add("not UTF-8", "cast byte by byte; only plain ASCII spellings are found in them", text.notUTF8)
	add("links", "kept as links; a name in their target is written", links)
	add("lock files", "may be stale once a name in them has changed", locks)
	add("large files", "over 1 MB each: do they belong in a template?", large)
	return care
}
