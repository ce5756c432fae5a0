package client

import (
	"time"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/mould"
	"ironcast/core/proof"
	"ironcast/core/values"
)

// Template is an entry of the catalogue.
type Template struct {
	Team     string    `json:"team"`
	Name     string    `json:"name"`
	Title    string    `json:"title"`
	Summary  string    `json:"summary"`
	Licence  string    `json:"licence" doc:"An SPDX expression."`
	Labels   []string  `json:"labels" nullable:"false"`
	Version  string    `json:"version" doc:"The highest release, or the highest pre-release where there is none."`
	Versions int       `json:"versions" doc:"How many versions are published."`
	Updated  time.Time `json:"updated"`
}

// Reference returns team/name.
func (t Template) Reference() string { return t.Team + "/" + t.Name }

// TemplatePage is part of what a search found.
type TemplatePage struct {
	Items []Template `json:"items" nullable:"false"`
	Total int        `json:"total"`
}

// Version is one published version of a template.
type Version struct {
	Version   string    `json:"version"`
	Digest    string    `json:"digest" doc:"SHA-256 of the bundle, unpacked."`
	Files     int       `json:"files"`
	Slots     int       `json:"slots"`
	Published time.Time `json:"published"`
	By        string    `json:"by"`
}

// VersionDetail is everything that is said about one version.
type VersionDetail struct {
	Version
	Template  Template            `json:"template"`
	Title     string              `json:"title"`
	Summary   string              `json:"summary"`
	Licence   string              `json:"licence"`
	Variables []manifest.Variable `json:"variables" nullable:"false"`
	Presets   []manifest.Preset   `json:"presets" nullable:"false"`
	Schema    manifest.Schema     `json:"schema" doc:"A JSON Schema (2020-12) of the values."`
	Readme    string              `json:"readme" doc:"The source project's readme; empty where it has none."`
}

// Piece is a stretch of text, with the variable where it is a slot.
type Piece struct {
	Text     string `json:"text"`
	Variable string `json:"variable,omitempty"`
	Form     string `json:"form,omitempty" doc:"How the value is written there, such as upper_snake."`
	Literal  string `json:"literal,omitempty" doc:"What stands there in the source project."`
	Guessed  bool   `json:"guessed,omitempty" doc:"Whether the form was chosen among several that coincide."`
	Mark     bool   `json:"mark,omitempty" doc:"Whether it is a mark, or the sign of a held line, which is never cast."`
}

// FileInfo is a file, an empty folder or a link of a template, or of what it
// would cast.
type FileInfo struct {
	ID         string   `json:"id" doc:"Names the file while values change: its path in the source project, with the item where it is repeated."`
	Path       string   `json:"path"`
	Pieces     []Piece  `json:"pieces" nullable:"false" doc:"The path, cut at its slots."`
	Source     string   `json:"source" doc:"The path in the source project."`
	Kind       string   `json:"kind" enum:"file,folder,link"`
	Target     string   `json:"target,omitempty" doc:"Of a link."`
	Executable bool     `json:"executable,omitempty"`
	Binary     bool     `json:"binary,omitempty"`
	Verbatim   bool     `json:"verbatim,omitempty"`
	Size       int64    `json:"size" doc:"In bytes."`
	Slots      int      `json:"slots" doc:"In its content."`
	Variables  []string `json:"variables" nullable:"false" doc:"Those with slots in its content."`
	Item       string   `json:"item,omitempty" doc:"The item of a list that it is repeated for."`
	Scripted   bool     `json:"scripted,omitempty" doc:"Whether a script of the template wrote it."`

	Rules []mould.FileRule `json:"rules" nullable:"false" doc:"The rules of the manifest that decide over it."`
}

// FileText is the content of a file, cut at its slots.
type FileText struct {
	FileInfo
	Text      []Piece `json:"text" nullable:"false" doc:"Empty for what is no text."`
	Truncated bool    `json:"truncated,omitempty" doc:"Whether the text is longer than what is shown."`

	Marks []mould.MarkedRegion `json:"marks" nullable:"false" doc:"The blocks of the source that marks rule."`
}

// PreviewRequest asks what a cast would give.
type PreviewRequest struct {
	Values values.Input `json:"values" doc:"By variable; those that are missing take their default, or the source project's own value."`
	Preset string       `json:"preset,omitempty" doc:"A named set of values, which the values above override."`
	File   string       `json:"file,omitempty" doc:"The id of a file to show."`
}

// Preview is what a cast would give.
type Preview struct {
	Folder   string           `json:"folder" doc:"What the project's folder would be called."`
	Files    []FileInfo       `json:"files" nullable:"false"`
	File     *FileText        `json:"file,omitempty"`
	Values   map[string]any   `json:"values" doc:"What was taken for each variable, but no secret."`
	Asked    map[string]bool  `json:"asked" doc:"Which variables are to be asked for."`
	Problems []values.Problem `json:"problems" nullable:"false" doc:"Why these values could not be cast."`

	LeftOut   []LeftOutFile `json:"left_out" nullable:"false" doc:"Files of the source that these values leave out."`
	Output    []string      `json:"output" nullable:"false" doc:"What the template's scripts printed."`
	Commands  []string      `json:"commands" nullable:"false" doc:"What a cast from the command line would run, with consent; the service never does."`
	NextSteps []hooks.Step  `json:"next_steps" nullable:"false"`
}

// LeftOutFile is a file that some values leave out.
type LeftOutFile struct {
	Source string `json:"source"`
	Rule   string `json:"rule" doc:"What decides over it."`
}

// CastRequest asks for a project.
type CastRequest struct {
	Values values.Input `json:"values" doc:"By variable; those that are missing take their default."`
	Preset string       `json:"preset,omitempty" doc:"A named set of values, which the values above override."`
}

// Publication is what became of a bundle that was sent.
type Publication struct {
	Reference string       `json:"reference"`
	Version   Version      `json:"version"`
	Added     bool         `json:"added" doc:"False where the same contents were there already."`
	Proof     proof.Report `json:"proof"`
}

// Account is someone who is logged in.
type Account struct {
	Name     string `json:"name"`
	Operator bool   `json:"operator"`
}

// Credentials are a name and a password.
type Credentials struct {
	Name     string `json:"name" minLength:"1" maxLength:"60"`
	Password string `json:"password" minLength:"1" maxLength:"200"`
}

// Token lets a program act for an account.
type Token struct {
	ID       uint64     `json:"id"`
	Label    string     `json:"label"`
	Created  time.Time  `json:"created"`
	LastUsed *time.Time `json:"last_used,omitempty"`
	Secret   string     `json:"secret,omitempty" doc:"Shown once, when the token is made."`
}

// NewToken asks for a token.
type NewToken struct {
	Label string `json:"label" minLength:"1" maxLength:"100" doc:"What it is for."`
}

// Problem is an error of the API (RFC 9457).
type Problem struct {
	Status int    `json:"status"`
	Title  string `json:"title"`
	Detail string `json:"detail"`
	Errors []struct {
		Message  string `json:"message"`
		Location string `json:"location"`
	} `json:"errors"`
}

// Error returns the detail, with a line for each single error.
func (p *Problem) Error() string {
	text := p.Detail
	if text == "" {
		text = p.Title
	}
	for _, e := range p.Errors {
		text += "\n  "
		if e.Location != "" {
			text += e.Location + ": "
		}
		text += e.Message
	}
	return text
}
