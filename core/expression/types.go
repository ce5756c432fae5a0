package expression

import (
	"fmt"
	"reflect"
	"strconv"
	"strings"
	"time"

	"cel.dev/cel-go/cel"

	"ironcast/core/spelling"
)

// Type is the type of an expression or of a name in it.
type Type struct {
	kind kind
	list bool
}

type kind uint8

const (
	truth kind = iota
	whole
	decimal
	text
	name
	pkg
	date
)

// The types of single values.
var (
	Truth       = Type{kind: truth}
	Whole       = Type{kind: whole}
	Decimal     = Type{kind: decimal}
	Text        = Type{kind: text}
	NameType    = Type{kind: name}
	PackageType = Type{kind: pkg}
	DateType    = Type{kind: date}
)

// ListOf returns the type of a list of items.
func ListOf(item Type) Type { return Type{kind: item.kind, list: true} }

// Item returns the type of a list's items, and whether it is a list.
func (t Type) Item() (Type, bool) { return Type{kind: t.kind}, t.list }

var kinds = [...]struct {
	cel  *cel.Type
	what string
}{
	truth:   {cel.BoolType, "true or false"},
	whole:   {cel.IntType, "a whole number"},
	decimal: {cel.DoubleType, "a number with a point"},
	text:    {cel.StringType, "a text"},
	name:    {cel.ObjectType(nameType), "a name"},
	pkg:     {cel.ObjectType(packageType), "a package"},
	date:    {cel.ObjectType(dateType), "a date"},
}

// String returns what a value of the type is, such as "a text".
func (t Type) String() string {
	what := kinds[t.kind].what
	if t.list {
		return "a list of which each is " + what
	}
	return what
}

func (t Type) cel() *cel.Type {
	if t.list {
		return cel.ListType(kinds[t.kind].cel)
	}
	return kinds[t.kind].cel
}

func typeOf(c *cel.Type) (Type, bool) {
	item := c
	isList := c.Kind() == cel.ListKind
	if isList {
		item = c.Parameters()[0]
	}
	for k := range kinds {
		if kinds[k].cel.IsExactType(item) {
			return Type{kind: kind(k), list: isList}, true
		}
	}
	// An empty list fits a list of anything.
	return Type{kind: text, list: true}, isList && item.Kind() == cel.TypeParamKind
}

func describe(c *cel.Type) string {
	if t, known := typeOf(c); known {
		return t.String()
	}
	if c.Kind() == cel.DynKind {
		return "what is not known before it is evaluated"
	}
	return "a " + c.String()
}

func list(wanted []Type) string {
	all := make([]string, len(wanted))
	for i, t := range wanted {
		all[i] = t.String()
	}
	return strings.Join(all, " or ")
}

// The names under which CEL knows the records.
const (
	nameType    = "expression.Name"
	packageType = "expression.Package"
	dateType    = "expression.Date"
)

// Name is a name as expressions and scripts see it: a record of its spellings.
type Name struct {
	Kebab      string `cel:"kebab"`
	Snake      string `cel:"snake"`
	Camel      string `cel:"camel"`
	Pascal     string `cel:"pascal"`
	Flat       string `cel:"flat"`
	Dotted     string `cel:"dotted"`
	Path       string `cel:"path"`
	Spaced     string `cel:"spaced"`
	Title      string `cel:"title"`
	Sentence   string `cel:"sentence"`
	Train      string `cel:"train"`
	UpperKebab string `cel:"upper_kebab"`
	UpperSnake string `cel:"upper_snake"`
	UpperFlat  string `cel:"upper_flat"`
	UpperSpace string `cel:"upper_spaced"`
}

// NewName returns the record of a name.
func NewName(n spelling.Name) Name {
	return Name{
		n.In(spelling.Kebab), n.In(spelling.Snake), n.In(spelling.Camel), n.In(spelling.Pascal), n.In(spelling.Flat),
		n.In(spelling.Dotted), n.In(spelling.Path), n.In(spelling.Spaced), n.In(spelling.Title), n.In(spelling.Sentence),
		n.In(spelling.Train), n.In(spelling.UpperKebab), n.In(spelling.UpperSnake), n.In(spelling.UpperFlat), n.In(spelling.UpperSpaced),
	}
}

// Package is a package name as expressions and scripts see it.
type Package struct {
	Dotted    string   `cel:"dotted"`    // example.kelpwick.crossings
	Path      string   `cel:"path"`      // example/kelpwick/crossings
	Colons    string   `cel:"colons"`    // example::kelpwick::crossings
	Backslash string   `cel:"backslash"` // example\kelpwick\crossings
	Last      string   `cel:"last"`      // crossings
	Parts     []string `cel:"parts"`
}

// NewPackage returns the record of a package name, which is given dotted.
func NewPackage(dotted string) Package {
	parts := strings.Split(dotted, ".")
	return Package{dotted, strings.Join(parts, "/"), strings.Join(parts, "::"), strings.Join(parts, `\`), parts[len(parts)-1], parts}
}

// Date is a day as expressions and scripts see it.
type Date struct {
	Text  string `cel:"text"` // 2026-11-23 (RFC 3339, full-date)
	Year  int64  `cel:"year"`
	Month int64  `cel:"month"`
	Day   int64  `cel:"day"`
}

// NewDate returns the record of a day.
func NewDate(t time.Time) Date {
	return Date{t.Format(time.DateOnly), int64(t.Year()), int64(t.Month()), int64(t.Day())}
}

// fieldNames returns what can be asked of a record.
func fieldNames(t Type) []string {
	record := map[kind]reflect.Type{name: reflect.TypeFor[Name](), pkg: reflect.TypeFor[Package](), date: reflect.TypeFor[Date]()}[t.kind]
	names := make([]string, record.NumField())
	for i := range names {
		names[i] = record.Field(i).Tag.Get("cel")
	}
	return names
}

// Write returns a result of Evaluate as a text.
func Write(value any) string {
	switch v := value.(type) {
	case string:
		return v
	case bool:
		return strconv.FormatBool(v)
	case int64:
		return strconv.FormatInt(v, 10)
	case float64:
		return strconv.FormatFloat(v, 'g', -1, 64)
	case Name:
		return v.Spaced
	case Package:
		return v.Dotted
	case Date:
		return v.Text
	case []any:
		all := make([]string, len(v))
		for i := range v {
			all[i] = Write(v[i])
		}
		return strings.Join(all, ", ")
	}
	return fmt.Sprint(value)
}
