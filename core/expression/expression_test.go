package expression

import (
	"errors"
	"reflect"
	"strings"
	"testing"
	"time"

	"ironcast/core/spelling"
)

func testScope(t testing.TB) *Scope {
	t.Helper()
	scope, err := NewScope([]Declaration{
		{"service", NameType}, {"namespace", PackageType}, {"port", Whole}, {"storage", Text},
		{"ready", Truth}, {"share", Decimal}, {"regions", ListOf(NameType)}, {"extras", ListOf(Text)},
	})
	if err != nil {
		t.Fatal(err)
	}
	return scope
}

func testValues() Values {
	return Values{
		"service": NewName(spelling.Of("tide", "gauge")), "namespace": NewPackage("example.kelpwick.tides"), "port": int64(8090),
		"storage": "memory", "ready": true, "share": 0.5, "extras": []string{"a", "b"},
		"regions": []Name{NewName(spelling.Of("north", "quay")), NewName(spelling.Of("main"))},
		Today:     NewDate(time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)),
	}
}

func TestExpressionsGive(t *testing.T) {
	scope := testScope(t)
	for _, c := range []struct {
		source string
		want   any
	}{
		{`service.kebab + "-api"`, "tide-gauge-api"},
		{`namespace.path`, "example/kelpwick/tides"},
		{`namespace.parts[1]`, "kelpwick"},
		{`storage == "memory" && size(regions) == 2`, true},
		{`port + 1`, int64(8091)},
		{`today.year`, int64(2026)},
		{`regions.map(r, r.kebab)`, []any{"north-quay", "main"}},
		{`regions[1].pascal`, "Main"},
		{`name(namespace.last + " entry").pascal`, "TidesEntry"},
		{`extras.join(", ").upperAscii()`, "A, B"},
		{`ready ? share : 1.0`, 0.5},
		{`service`, NewName(spelling.Of("tide", "gauge"))},
		{`name("pier guide")`, NewName(spelling.Of("pier", "guide"))},
	} {
		e, err := scope.Compile(c.source, anything...)
		if err != nil {
			t.Errorf("%s: %v", c.source, err)
			continue
		}
		if got, err := e.Evaluate(testValues()); err != nil || !reflect.DeepEqual(got, c.want) {
			t.Errorf("%s gives %#v, %v; want %#v", c.source, got, err, c.want)
		}
	}
}

func TestExpressionsAreRefusedWhenCompiled(t *testing.T) {
	scope := testScope(t)
	for _, c := range []struct {
		source string
		offset int
		want   string
	}{
		{"", 0, "is empty"},
		{"port +", 6, "Syntax error"},
		{"port == \"a\"", 5, "no matching overload"},
		{"stroage == \"a\"", 0, "did you mean storage?"},
		{"service.kebap == \"a\"", 7, `asks for "kebap"`},
		{"port", 0, "gives a whole number; it must give true or false"},
		{strings.Repeat("!", 5000) + "ready", 0, "at most 4096"},
		{strings.Repeat("(", 1000) + "ready" + strings.Repeat(")", 1000), -1, "recursion"},
	} {
		_, err := scope.Compile(c.source, Truth)
		var fault *Error
		if !errors.As(err, &fault) || !strings.Contains(err.Error(), c.want) || c.offset >= 0 && fault.Offset != c.offset {
			t.Errorf("%.40s gives %+v; want %q at %d", c.source, fault, c.want, c.offset)
		}
	}
}

func TestAnExpressionOfExponentialCostIsStopped(t *testing.T) {
	scope := testScope(t)
	for _, source := range []string{
		strings.Repeat(`[1,2,3,4,5,6,7,8].all(x, `, 12) + "true" + strings.Repeat(")", 12),
		`[1,2,3,4,5,6,7,8,9].map(a, [1,2,3,4,5,6,7,8,9].map(b, [1,2,3,4,5,6,7,8,9].map(c, [1,2,3,4,5,6,7,8,9].map(d, [1,2,3,4,5,6,7,8,9].map(e, [1,2,3,4,5,6,7,8,9]))))).size() > 0`,
		`("x" + "y").replace("x", "` + strings.Repeat("x", 1000) + `").replace("x", "` + strings.Repeat("x", 1000) + `").replace("x", "` + strings.Repeat("y", 1000) + `") == ""`,
	} {
		e, err := scope.Compile(source, Truth)
		if err != nil {
			t.Errorf("%.60s is refused: %v", source, err)
			continue
		}
		if _, err := e.Evaluate(testValues()); err == nil || !strings.Contains(err.Error(), "more than 200000 steps") {
			t.Errorf("%.60s ends with %v", source, err)
		}
	}
}

func TestTemplatesJoinTextsAndExpressions(t *testing.T) {
	scope := testScope(t)
	for source, want := range map[string]any{
		"plain":                              "plain",
		"http://127.0.0.1:${port}/healthz":   "http://127.0.0.1:8090/healthz",
		"${port + 1}":                        int64(8091),
		"$${HOME} ${service} ${today}":       "${HOME} tide gauge 2026-11-23",
		`${{"a": "}"}["a"]}-${"it's"}`:       "}-it's",
		"${regions.map(r, r.title)}.":        "North Quay, Main.",
		"${namespace}${ready}${share}${'x'}": "example.kelpwick.tidestrue0.5x",
	} {
		template, err := scope.ParseTemplate(source)
		if err != nil {
			t.Errorf("%s: %v", source, err)
			continue
		}
		if got, err := template.Evaluate(testValues()); err != nil || got != want {
			t.Errorf("%s gives %#v, %v; want %#v", source, got, err, want)
		}
	}
	for source, want := range map[string]string{"a ${port": "no closing }", "a ${prot}": "did you mean port?", "${service}": "must give a whole number", "a${port}": "gives a text"} {
		_, err := scope.ParseTemplate(source, Whole)
		if err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s gives %v; want %q", source, err, want)
		}
	}
}

func FuzzParseTemplate(f *testing.F) {
	scope := testScope(f)
	for _, seed := range []string{"${port}", "$${", "${service.kebab + '}'}", `${regions.map(r, r.kebab).join(",")}`} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, source string) {
		template, err := scope.ParseTemplate(source)
		var fault *Error
		if errors.As(err, &fault) {
			if fault.Offset < 0 || fault.Offset > len(source) {
				t.Fatalf("offset %d lies outside of %q", fault.Offset, source)
			}
			return
		}
		_, _ = template.Text(testValues())
	})
}
