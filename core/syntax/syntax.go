// Package syntax knows what a file's type says about comments and quotes: how a
// comment is written in it, in which kind of place a text stands, and how a
// text must be written to be read back from there.
//
//	language := syntax.Of("deploy/compose.yaml")
//	places := language.Places(content, spans)
//	text, err := places[0].Write(`Ships & "ferries"`)
//
// It reads types by name, not by grammar: a scanner for each family of formats
// finds comments and quoted strings, and takes everything else for plain.
package syntax

import (
	"path"
	"strings"
)

// Language is what is known of a type of file.
type Language struct {
	Line   []string    // what begins a comment that ends with its line
	Block  [][2]string // what begins and what ends a comment
	quotes []quote
	family family
}

// family says which scanner reads a type.
type family uint8

const (
	plain    family = iota // no escaping at all
	code                   // comments and quoted strings
	markup                 // XML
	page                   // HTML, with scripts and styles in it
	yaml                   // scalars with and without quotes, blocks
	shell                  // words, quotes, here-documents
	docker                 // instructions, and shell behind some
	makes                  // variables, and shell in recipes
	table                  // fields that may be quoted
	settings               // environment files: NAME=value
)

// quote is a way of quoting in source code.
type quote struct {
	open, close string
	prefix      string // letters of which some must stand before open; "" for any
	escape      escape
	extra       string // further characters that need a backslash
	lines       bool   // may run over several lines
	char        bool   // holds one character: anything longer is no quote
}

// escape is how what ends or means something in a quote is written.
type escape uint8

const (
	backslash escape = iota // \n \" \\ and so on
	fewer                   // a backslash before itself and the quote alone
	doubled                 // the quote twice
	none                    // what closes the quote cannot be held
	joined                  // Go's raw strings: closed, joined and opened again
)

var (
	double       = quote{open: `"`, close: `"`}
	single       = quote{open: `'`, close: `'`}
	char         = quote{open: `'`, close: `'`, char: true}
	tripleDouble = quote{open: `"""`, close: `"""`, lines: true}
	tripleSingle = quote{open: `'''`, close: `'''`, lines: true}
	template     = quote{open: "`", close: "`", extra: "$", lines: true}
	rawGo        = quote{open: "`", close: "`", escape: joined, lines: true}
	sqlText      = quote{open: `'`, close: `'`, escape: doubled, lines: true}
	sqlName      = quote{open: `"`, close: `"`, escape: doubled}
	singleFewer  = quote{open: `'`, close: `'`, escape: fewer, lines: true}
	dollars      = quote{open: `"`, close: `"`, extra: "$", lines: true}
)

var (
	slashes  = []string{"//"}
	stars    = [][2]string{{"/*", "*/"}}
	angles   = [][2]string{{"<!--", "-->"}}
	hash     = []string{"#"}
	anything = &Language{Line: []string{"#", "//", "--", ";", "%", `"`}, Block: [][2]string{{"<!--", "-->"}, {"/*", "*/"}}}
)

// languages are the types by what their files' names end with.
var languages = func() map[string]*Language {
	all := map[string]*Language{}
	add := func(l Language, endings ...string) {
		for _, ending := range endings {
			all[ending] = &l
		}
	}
	curly := func(quotes ...quote) Language {
		return Language{Line: slashes, Block: stars, quotes: quotes, family: code}
	}
	hashed := func(quotes ...quote) Language { return Language{Line: hash, quotes: quotes, family: code} }
	script := curly(double, single, template)
	script.Block = [][2]string{{"{/*", "*/}"}, {"/*", "*/"}}
	python := func(raw bool, q quote) quote {
		if raw {
			q.prefix, q.escape = "rR", none
		}
		return q
	}

	add(curly(rawGo, double, char), ".go")
	add(Language{Line: slashes, family: plain}, ".mod", "go.mod", "go.work")
	add(curly(double), ".json", ".jsonc", ".json5", ".webmanifest", ".ipynb", ".avsc", ".har")
	add(script, ".js", ".mjs", ".cjs", ".jsx", ".ts", ".mts", ".cts", ".tsx")
	add(curly(tripleDouble, double, char), ".java")
	add(curly(withExtra(tripleDouble, "$"), withExtra(double, "$"), char), ".kt", ".kts")
	add(curly(tripleDouble, double, char), ".scala", ".sc", ".swift")
	add(curly(withExtra(tripleDouble, "$"), tripleSingle, withExtra(double, "$"), single), ".groovy", ".gradle", "jenkinsfile")
	add(curly(double, char), ".c", ".h", ".cc", ".cpp", ".cxx", ".hpp", ".hh", ".m", ".mm", ".ino", ".proto", ".zig", ".v", ".sv")
	add(curly(quote{open: `@"`, close: `"`, escape: doubled, lines: true}, tripleDouble, double, char), ".cs", ".csx")
	add(curly(quote{open: `r#"`, close: `"#`, escape: none, lines: true}, quote{open: `r"`, close: `"`, escape: none, lines: true}, linesIn(double), char), ".rs")
	add(curly(withExtra(tripleDouble, "$"), withExtra(tripleSingle, "$"), withExtra(double, "$"), withExtra(single, "$")), ".dart")
	add(curly(double, single), ".css", ".scss", ".less", ".thrift", ".graphql", ".gql")
	add(Language{Line: []string{"//", "#"}, Block: [][2]string{{"/*", "*/"}, {"<!--", "-->"}}, quotes: []quote{dollars, singleFewer}, family: code}, ".php")
	add(Language{Line: []string{"#", "//"}, Block: stars, quotes: []quote{withExtra(double, "")}, family: code}, ".tf", ".hcl", ".tfvars", ".nomad")
	add(hashed(python(true, tripleDouble), python(true, tripleSingle), python(true, double), python(true, single),
		tripleDouble, tripleSingle, double, single), ".py", ".pyi", ".pyw", ".bzl", ".star", "build.bazel", "sconstruct")
	add(hashed(withExtra(linesIn(double), "#"), singleFewer), ".rb", ".rake", ".gemspec", "gemfile", "rakefile", "podfile", "vagrantfile")
	add(hashed(withExtra(linesIn(double), "$@"), singleFewer), ".pl", ".pm")
	add(hashed(withExtra(tripleDouble, "#"), withExtra(linesIn(double), "#"), char), ".ex", ".exs")
	add(hashed(withExtra(tripleDouble, "$"), withExtra(double, "$"), char), ".jl")
	add(hashed(linesIn(double), single), ".r", ".nim", ".cmake", "cmakelists.txt", ".awk", ".tcl", ".cr", ".coffee")
	add(hashed(tripleDouble, quote{open: "'''", close: "'''", escape: none, lines: true}, double, quote{open: "'", close: "'", escape: none}), ".toml", "cargo.lock", "poetry.lock", "pipfile")
	add(Language{Line: []string{"--"}, Block: stars, quotes: []quote{sqlText, sqlName}, family: code}, ".sql")
	add(Language{Line: []string{"--"}, Block: [][2]string{{"--[[", "]]"}}, quotes: []quote{{open: "[[", close: "]]", escape: none, lines: true}, double, single}, family: code}, ".lua")
	add(Language{Line: []string{"--"}, Block: [][2]string{{"{-", "-}"}}, quotes: []quote{double, char}, family: code}, ".hs", ".elm", ".purs")
	add(Language{Line: []string{";"}, quotes: []quote{linesIn(double)}, family: code}, ".clj", ".cljs", ".edn", ".lisp", ".el", ".scm", ".rkt")
	add(Language{Line: []string{"%"}, quotes: []quote{double}, family: code}, ".erl", ".hrl")
	add(Language{Line: []string{"//"}, Block: [][2]string{{"(*", "*)"}}, quotes: []quote{tripleDouble, linesIn(double), char}, family: code}, ".fs", ".fsx", ".ml", ".mli")
	add(Language{Line: []string{"'"}, quotes: []quote{sqlName}, family: code}, ".vb", ".bas", ".vbs")
	add(Language{Line: []string{"//"}, Block: [][2]string{{"{", "}"}, {"(*", "*)"}}, quotes: []quote{sqlText}, family: code}, ".pas", ".dpr")
	add(Language{Line: hash, Block: [][2]string{{"<#", "#>"}}, quotes: []quote{{open: `"`, close: `"`, escape: doubled, lines: true}, sqlText}, family: code}, ".ps1", ".psm1", ".psd1")
	add(Language{Line: []string{"::", "REM ", "rem "}}, ".bat", ".cmd")
	add(Language{Line: []string{"%"}}, ".tex", ".sty", ".cls", ".bib")
	add(Language{Line: []string{`.\"`}}, ".1", ".2", ".3", ".4", ".5", ".6", ".7", ".8")
	add(Language{Line: []string{`"`}}, ".vim", ".vimrc")
	add(Language{Line: []string{"#", ";"}}, ".ini", ".cfg", ".conf", ".service", ".timer", ".socket", ".desktop", ".editorconfig", ".gitconfig", ".npmrc", ".reg", ".cnf")
	add(Language{Line: []string{"#", "!"}, quotes: nil, family: settings}, ".properties")
	add(Language{Line: hash, family: settings}, ".env", ".envrc")
	add(Language{Block: angles, family: markup}, ".xml", ".xsd", ".xsl", ".xslt", ".svg", ".csproj", ".fsproj", ".vbproj", ".props", ".targets", ".nuspec", ".wsdl", ".plist", ".resx", ".iml", ".storyboard", ".xaml", ".fxml", ".kml", ".rss", ".atom", ".config")
	add(Language{Line: slashes, Block: [][2]string{{"<!--", "-->"}, {"{{/*", "*/}}"}, {"{#", "#}"}, {"<%#", "%>"}, {"/*", "*/"}}, family: page}, ".html", ".htm", ".xhtml", ".vue", ".svelte", ".astro", ".jsp", ".erb", ".twig", ".hbs", ".ejs", ".cshtml", ".razor")
	add(Language{Line: hash, Block: [][2]string{{"{{/*", "*/}}"}, {"{{- /*", "*/ -}}"}}, family: yaml}, ".yaml", ".yml", ".eyaml", ".sublime-syntax")
	add(Language{Line: hash, family: shell}, ".sh", ".bash", ".zsh", ".ksh", ".dash", ".bats", ".fish", ".bashrc", ".zshrc", ".profile", "pkgbuild")
	add(Language{Line: hash, family: docker}, "dockerfile", "containerfile", ".dockerfile", ".containerfile")
	add(Language{Line: hash, family: makes}, "makefile", "gnumakefile", ".mk", ".mak", ".make")
	add(Language{Line: hash, family: table}, ".csv", ".tsv")
	add(Language{Block: [][2]string{{"<!--", "-->"}, {"[//]: # (", ")"}, {"{/*", "*/}"}}}, ".md", ".markdown", ".mdx")
	add(Language{Line: []string{".. "}}, ".rst")
	add(Language{Line: slashes}, ".adoc", ".asciidoc")
	add(Language{Line: hash}, ".txt", ".gitignore", ".dockerignore", ".gitattributes", ".npmignore", ".lock", ".pip", "codeowners", "justfile", ".just", ".nix", ".po", ".pot")
	add(Language{Line: hash, Block: [][2]string{{"{{/*", "*/}}"}, {"{{- /*", "*/ -}}"}, {"{#", "#}"}}}, ".tmpl", ".tpl", ".gotmpl", ".j2", ".jinja", ".jinja2", ".mustache", ".liquid")
	return all
}()

func withExtra(q quote, extra string) quote { q.extra = extra; return q }
func linesIn(q quote) quote                 { q.lines = true; return q }

// endingsOfTemplates are put behind the ending of what a template makes.
var endingsOfTemplates = []string{".tmpl", ".tpl", ".gotmpl", ".j2", ".jinja", ".jinja2", ".in", ".example", ".sample", ".dist"}

// Of returns the language of the file at a path. What is not known has no
// quotes, and comments of every common kind.
func Of(p string) *Language {
	name := strings.ToLower(path.Base(p))
	if l := languages[name]; l != nil {
		return l
	}
	for _, prefix := range []string{"dockerfile.", "containerfile.", "makefile.", ".env."} {
		if strings.HasPrefix(name, prefix) && languages[path.Ext(name)] == nil {
			return languages[strings.TrimSuffix(prefix, ".")]
		}
	}
	for _, ending := range endingsOfTemplates {
		if inner := strings.TrimSuffix(name, ending); inner != name {
			if l := languages[path.Ext(inner)]; l != nil {
				return l
			}
		}
	}
	if l := languages[path.Ext(name)]; l != nil {
		return l
	}
	return anything
}
