// Package origin keeps the record, in every project, of what it was cast from:
// .ironcast/origin.yaml.
package origin

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"ironcast/core/manifest"
	"ironcast/core/tree"
	"ironcast/core/values"
)

// Path is where the record lies in a project.
const Path = manifest.FolderName + "/origin.yaml"

// Record is what a project was cast from.
type Record struct {
	Format int     `yaml:"ironcast"`
	Layers []Layer `yaml:"layers"`
}

// Layer is one template that was cast into the project.
type Layer struct {
	Template string         `yaml:"template"` // team/template
	Version  string         `yaml:"version"`  // SemVer
	Digest   string         `yaml:"digest"`   // of the bundle
	Folder   string         `yaml:"folder"`   // where in the project it was cast, "." for the whole
	Date     string         `yaml:"date"`     // RFC 3339 full-date
	Values   map[string]any `yaml:"values"`   // generated ids among them, and no secrets
}

// New returns the record of a project with one layer.
func New(m *manifest.Manifest, digest string, vs values.Values) Record {
	return Record{Format: manifest.Format, Layers: []Layer{{
		Template: m.Team + "/" + m.Template,
		Version:  m.Version,
		Digest:   digest,
		Folder:   ".",
		Date:     vs.Today().Format(time.DateOnly),
		Values:   plain(vs),
	}}}
}

// plain returns the values as YAML writes them, numbers with the digits they
// have.
func plain(vs values.Values) map[string]any {
	all := vs.JSON()
	for name, value := range all {
		if number, is := value.(json.Number); is {
			all[name] = &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!float", Value: number.String()}
		}
	}
	return all
}

// Day returns the day of the cast.
func (l Layer) Day() (time.Time, error) { return time.Parse(time.DateOnly, l.Date) }

const head = "# What this project was cast from. Keep it: it lets Iron Cast show how the\n" +
	"# project has drifted and bring in newer versions of its template.\n"

// Add returns the project with the record in it.
func (r Record) Add(project tree.Tree, limits tree.Limits) (tree.Tree, error) {
	text := bytes.NewBufferString(head)
	encoder := yaml.NewEncoder(text)
	encoder.SetIndent(2)
	if err := encoder.Encode(r); err != nil {
		return tree.Tree{}, err
	}
	entries := append([]tree.Entry{{Path: Path, Content: tree.Memory(text.Bytes())}}, project.Entries()...)
	return tree.New(entries, limits)
}

// Read returns the record of a project, and whether it has one.
func Read(project tree.Tree) (Record, bool, error) {
	entry, found := project.Find(Path)
	if !found {
		return Record{}, false, nil
	}
	data, err := entry.Bytes()
	if err != nil {
		return Record{}, true, err
	}
	var r Record
	decoder := yaml.NewDecoder(bytes.NewReader(data))
	decoder.KnownFields(true)
	if err := decoder.Decode(&r); err != nil {
		return Record{}, true, fmt.Errorf("%s is damaged: %s", Path, strings.TrimPrefix(err.Error(), "yaml: "))
	}
	return r, true, nil
}
