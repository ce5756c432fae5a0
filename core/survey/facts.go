package survey

import (
	"encoding/json"
	"encoding/xml"
	"path"
	"regexp"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"
	"golang.org/x/mod/modfile"
	"golang.org/x/mod/module"

	"ironcast/core/spelling"
	"ironcast/core/tree"
)

// facts are what a project says of itself.
type facts struct {
	names        []said
	dependencies []string
	licence      string
	title        string
	summary      string
}

// said is a name with where it comes from.
type said struct {
	words string
	from  string
}

func (f *facts) name(text, from string) {
	name, err := spelling.Parse(strings.Join(spelling.Split(text), " "))
	if err != nil {
		return
	}
	f.names = append(f.names, said{words: name.String(), from: from})
}

// readers know the files in which projects of common ecosystems name
// themselves and what they depend on. A file that cannot be read says nothing.
var readers = map[string]func(f *facts, file string, data []byte){
	"go.mod":           (*facts).readGoMod,
	"package.json":     (*facts).readPackageJSON,
	"pyproject.toml":   (*facts).readPyproject,
	"requirements.txt": (*facts).readRequirements,
	"Cargo.toml":       (*facts).readCargo,
	"pom.xml":          (*facts).readPom,
	"README.md":        (*facts).readReadme,
	"LICENSE":          (*facts).readLicence,
	"LICENCE":          (*facts).readLicence,
}

// readFacts reads the files at the project's top, then those below.
func readFacts(project tree.Tree, folder string) (*facts, error) {
	f := &facts{}
	entries := slices.Clone(project.Entries())
	slices.SortStableFunc(entries, func(a, b tree.Entry) int {
		return strings.Count(a.Path, "/") - strings.Count(b.Path, "/")
	})
	for _, e := range entries {
		read, known := readers[path.Base(e.Path)]
		if !known || e.Kind != tree.File || e.Content.Size() > 1<<20 {
			continue
		}
		if top := !strings.Contains(e.Path, "/"); !top && !strings.HasSuffix(path.Base(e.Path), ".mod") && !strings.Contains(path.Base(e.Path), ".json") {
			continue
		}
		data, err := e.Bytes()
		if err != nil {
			return nil, err
		}
		read(f, e.Path, data)
	}
	f.name(folder, "folder")
	return f, nil
}

var majorVersion = regexp.MustCompile(`^v[0-9]+$`)

func (f *facts) readGoMod(file string, data []byte) {
	parsed, err := modfile.ParseLax(file, data, nil)
	if err != nil || parsed.Module == nil {
		return
	}
	prefix, _, _ := module.SplitPathVersion(parsed.Module.Mod.Path)
	if majorVersion.MatchString(path.Base(prefix)) {
		prefix = path.Dir(prefix)
	}
	if file == "go.mod" {
		f.name(path.Base(prefix), file)
	}
	for _, require := range parsed.Require {
		f.dependencies = append(f.dependencies, require.Mod.Path)
	}
}

func (f *facts) readPackageJSON(file string, data []byte) {
	var parsed struct {
		Name                                            string
		Dependencies, DevDependencies, PeerDependencies map[string]any
	}
	if json.Unmarshal(data, &parsed) != nil {
		return
	}
	if file == "package.json" {
		f.name(path.Base(parsed.Name), file)
	}
	for _, group := range []map[string]any{parsed.Dependencies, parsed.DevDependencies, parsed.PeerDependencies} {
		for name := range group {
			f.dependencies = append(f.dependencies, name)
		}
	}
}

var requirement = regexp.MustCompile(`^\s*([A-Za-z0-9][A-Za-z0-9._-]*)`)

func (f *facts) requirements(lines []string) {
	for _, line := range lines {
		if m := requirement.FindStringSubmatch(line); m != nil {
			f.dependencies = append(f.dependencies, m[1])
		}
	}
}

func (f *facts) readPyproject(file string, data []byte) {
	var parsed struct {
		Project struct {
			Name         string
			Dependencies []string
		}
	}
	if toml.Unmarshal(data, &parsed) != nil {
		return
	}
	f.name(parsed.Project.Name, file)
	f.requirements(parsed.Project.Dependencies)
}

func (f *facts) readRequirements(_ string, data []byte) {
	f.requirements(strings.Split(string(data), "\n"))
}

func (f *facts) readCargo(file string, data []byte) {
	var parsed struct {
		Package      struct{ Name string }
		Dependencies map[string]any
	}
	if toml.Unmarshal(data, &parsed) != nil {
		return
	}
	f.name(parsed.Package.Name, file)
	for name := range parsed.Dependencies {
		f.dependencies = append(f.dependencies, name)
	}
}

func (f *facts) readPom(file string, data []byte) {
	var parsed struct {
		ArtifactID   string `xml:"artifactId"`
		Dependencies []struct {
			GroupID    string `xml:"groupId"`
			ArtifactID string `xml:"artifactId"`
		} `xml:"dependencies>dependency"`
	}
	if xml.Unmarshal(data, &parsed) != nil {
		return
	}
	f.name(parsed.ArtifactID, file)
	for _, d := range parsed.Dependencies {
		f.dependencies = append(f.dependencies, d.GroupID, d.ArtifactID)
	}
}

var headings = regexp.MustCompile(`(?m)^#\s+(.+?)\s*#*$`)

func (f *facts) readReadme(file string, data []byte) {
	text := strings.ReplaceAll(string(data), "\r\n", "\n")
	at := headings.FindStringSubmatchIndex(text)
	if at == nil {
		return
	}
	f.title = text[at[2]:at[3]]
	if len(spelling.Split(f.title)) <= 4 {
		f.name(f.title, file)
	}
	for paragraph := range strings.SplitSeq(strings.TrimSpace(text[at[1]:]), "\n\n") {
		first := strings.TrimSpace(paragraph)
		if first == "" || strings.ContainsAny(first[:1], "#[!<|>`") {
			continue
		}
		f.summary = strings.Join(strings.Fields(first), " ")
		return
	}
}

// licenceMarks are texts by which common licences are known.
var licenceMarks = []struct{ mark, id string }{
	{"Apache License", "Apache-2.0"},
	{"Mozilla Public License Version 2.0", "MPL-2.0"},
	{"Permission is hereby granted, free of charge", "MIT"},
	{"Permission to use, copy, modify, and/or distribute", "ISC"},
	{"Neither the name of", "BSD-3-Clause"},
	{"Redistributions in binary form", "BSD-2-Clause"},
}

func (f *facts) readLicence(_ string, data []byte) {
	text := strings.Join(strings.Fields(string(data)), " ")
	for _, l := range licenceMarks {
		if f.licence == "" && strings.Contains(text, l.mark) {
			f.licence = l.id
		}
	}
}
