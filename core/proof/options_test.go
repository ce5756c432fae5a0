package proof

import (
	"context"
	"encoding/xml"
	"errors"
	"fmt"
	"slices"
	"strings"
	"testing"

	"ironcast/core/hooks"
	"ironcast/core/manifest"
	"ironcast/core/tree"
)

// Every pair of levels of two factors stands in some row, in far fewer rows than
// there are combinations.
func TestPairsCoverEveryPair(t *testing.T) {
	for _, c := range []struct {
		levels []int
		most   int // rows
	}{
		{[]int{2}, 2}, {[]int{2, 2}, 4}, {[]int{3, 3, 3}, 12}, {[]int{2, 2, 2, 2, 2, 2, 2, 2}, 10}, {[]int{5, 2, 2, 3, 4, 2}, 26},
	} {
		rows, refused := pairs(c.levels, func([]int) bool { return true })
		if refused != 0 || len(rows) > c.most {
			t.Errorf("%v takes %d rows, %d refused", c.levels, len(rows), refused)
		}
		for _, p := range openPairs(c.levels) {
			if !slices.ContainsFunc(rows, func(row []int) bool { return row[p.a] == p.levelA && row[p.b] == p.levelB }) {
				t.Errorf("%v lacks the pair %+v", c.levels, p)
			}
		}
	}
}

func TestPairsThatAreNotAllowedAreLeftOut(t *testing.T) {
	allowed := func(row []int) bool { return row[0] != 1 || row[1] != 1 }
	rows, refused := pairs([]int{2, 2, 3}, allowed)
	if refused != 1 {
		t.Errorf("%d pairs are refused, want 1", refused)
	}
	for _, row := range rows {
		if !allowed(row) {
			t.Errorf("the row %v is not allowed", row)
		}
	}
	if rows, refused := pairs([]int{2, 2}, func([]int) bool { return false }); len(rows) != 0 || refused != 4 {
		t.Errorf("%v, %d", rows, refused)
	}
	if rows, refused := singles([]int{3, 500, 2}, func(row []int) bool { return row[0] != 1 }); len(rows)+refused != maxRows || refused != 33 {
		t.Errorf("%d rows, %d refused", len(rows), refused)
	}
}

const options = head + `  storage: { kind: choice, options: [disk, memory], reference: disk, default: memory }
  metrics: { kind: boolean, reference: true, default: true }
  probes: { kind: choices, options: [health, ready], reference: [health], default: [] }
  regions: { kind: list, of: name, reference: [north quay], default: [main quay] }
`

const marked = `package a
# ironcast: only when storage == "disk"
disk
# ironcast: otherwise
#| memory
# ironcast: end
# ironcast: repeat region in regions standing for "north quay"
north-quay
# ironcast: end
`

func stageOf(t *testing.T, r Report, name string) Stage {
	t.Helper()
	i := slices.IndexFunc(r.Stages, func(s Stage) bool { return s.Name == name })
	if i < 0 {
		t.Fatalf("there is no stage %q in %+v", name, r)
	}
	return r.Stages[i]
}

func TestOptionsAreProvenTogether(t *testing.T) {
	report := proveFiles(t, map[string]string{"ironcast.yaml": options, "a.sh": marked})
	stage := stageOf(t, report, "options")
	// A choice, a truth value, two options of choices, and a list of 0, 1 or 2.
	if !report.Passed() || !strings.Contains(stage.Detail, "every pair of 5 options; all combinations would be 48") {
		t.Errorf("%s\n%s", stage.Detail, findings(report))
	}
	distinct := stageOf(t, report, "no trace")
	if !strings.Contains(distinct.Detail, `regions="`) {
		t.Errorf("the list is not tried with another item: %s", distinct.Detail)
	}
}

func TestFaultsOfOptionsAreFound(t *testing.T) {
	for _, c := range []struct {
		name  string
		files map[string]string
		want  string
	}{
		{"an alternative that is not held", map[string]string{"ironcast.yaml": options, "a.sh": strings.Replace(marked, "#| memory", "memory", 1)},
			"round trip: a.sh:3: has other contents; its marks must choose"},
		{"a chosen branch that is held", map[string]string{"ironcast.yaml": options, "a.sh": strings.Replace(marked, "\ndisk", "\n#| disk", 1)}, "round trip: a.sh"},
		{"a file that the source's own values leave out", map[string]string{"ironcast.yaml": options + "files: { only_when: [{ paths: [b], when: storage == \"memory\" }] }\n", "b": "x", "a.sh": marked},
			"round trip: b: is missing; only_when on line 10 of the manifest decides over it"},
		{"a swap that the source's own values take", map[string]string{"ironcast.yaml": options + "files: { swap: [{ path: b, with: .ironcast/b, when: storage == \"disk\" }] }\n", "b": "x", ".ironcast/b": "y", "a.sh": marked},
			"b:1: has other contents; swap on line 10"},
		{"a repeated folder whose list has another item", map[string]string{"ironcast.yaml": options + "files: { repeat: [{ paths: [\"south-quay/**\"], each: r in regions, standing_for: south quay }] }\n", "south-quay/x": "1", "a.sh": marked},
			"it is repeated for each r, so regions must have the one item \"south quay\""},
		{"what is repeated stands elsewhere", map[string]string{"ironcast.yaml": options, "a.sh": marked, "b": "North Quay"}, "no trace: b:1: \"North Quay\", which regions stands for"},
		{"a swap with nothing", map[string]string{"ironcast.yaml": options + "files: { swap: [{ path: b, with: .ironcast/b, when: metrics }] }\n", "b": "x", "a.sh": marked}, "there is no file .ironcast/b in the template"},
		{"a script that is not there", map[string]string{"ironcast.yaml": options + "hooks: { after_cast: [{ script: .ironcast/a.star }] }\n", "a.sh": marked}, "ironcast.yaml:10: there is no script .ironcast/a.star"},
		{"a script that fails under some option", map[string]string{"ironcast.yaml": options + "hooks: { after_cast: [{ script: .ironcast/a.star }] }\n", "a.sh": marked,
			".ironcast/a.star": "if values.storage == \"memory\":\n    project.remove(\"nowhere\")\n"}, "options: the script .ironcast/a.star:2 fails: there is no file or folder nowhere in the project (storage=memory"},
		{"checks that refuse the source's own values", map[string]string{"ironcast.yaml": options + "checks: [{ that: '!metrics', message: No metrics here. }]\n", "a.sh": marked}, "round trip: the source's own values are refused: No metrics here."},
		{"a script that fails where there is nothing to choose", map[string]string{"ironcast.yaml": head + "  n: { kind: name, stands_for: crossing board }\nhooks: { after_cast: [{ script: .ironcast/a.star }] }\n", "a.sh": "crossing-board",
			".ironcast/a.star": "x\n"}, "options: the script .ironcast/a.star:1 fails: undefined: x"},
		{"checks that refuse everything", map[string]string{"ironcast.yaml": options + "checks: [{ that: 'false', message: Never. }]\n", "a.sh": marked}, "options: the template's checks refuse every combination"},
		{"a mark that is wrong", map[string]string{"ironcast.yaml": options, "a.sh": "# ironcast: onyl when metrics\n"}, "manifest: a.sh:1: \"onyl when metrics\" is no mark"},
		{"a computed value that is not the source's", map[string]string{"ironcast.yaml": options + "  image: { value: '\"r/\" + storage', stands_for: r/board }\n", "a.sh": marked, "b": "r/board"}, "round trip: b:1"},
	} {
		t.Run(c.name, func(t *testing.T) {
			report := proveFiles(t, c.files)
			if got := findings(report); (c.want == "") != report.Passed() || !strings.Contains(got, c.want) {
				t.Errorf("passed %v with findings:\n%s\nwant %q", report.Passed(), got, c.want)
			}
		})
	}
}

func TestWarningsDoNotFail(t *testing.T) {
	report := proveFiles(t, map[string]string{
		"ironcast.yaml": head + "  a: { kind: text, stands_for: North Quay, except: [nowhere] }\nfiles: { verbatim: [\"*.png\"], only_when: [{ paths: [c], when: 'true' }] }\n" +
			"accept_traces: [{ text: gull, reason: It was there. }]\n",
		"a.yaml": "title: From North Quay on\n",
	})
	var warnings []string
	for _, stage := range report.Stages {
		for _, w := range stage.Warnings {
			warnings = append(warnings, w.String())
		}
	}
	got := strings.Join(warnings, "\n")
	for _, want := range []string{`verbatim names "*.png", which matches no file`, `only_when names "c"`, `except of a names "nowhere"`, "a.yaml:1: not every text that a may be can be written here", `accept_traces holds "gull", which is no trace`} {
		if !strings.Contains(got, want) {
			t.Errorf("there is no warning %q in\n%s", want, got)
		}
	}
	if !report.Passed() {
		t.Errorf("findings are\n%s", findings(report))
	}
}

const samples = options + `samples:
  - name: memory
    values: { storage: memory, regions: [gull island] }
    expect:
      present: [a.sh]
      absent: ["*.go"]
      contains: { a.sh: [memory, gull-island] }
      lacks: { a.sh: disk }
    run: [[true]]
  - name: wrong
    values: { storage: disk }
    expect:
      present: [b]
      absent: ["a.*"]
      contains: { a.sh: memory, b: x }
      lacks: { a.sh: disk }
  - name: taken
    values: {}
    refused: never
checks:
  - { that: size(regions) < 2, message: One region. }
hooks: { after_cast: [{ run: [echo, "${storage}"], when: storage == "disk" }] }
`

func TestSamplesSayWhatIsExpected(t *testing.T) {
	report := proveFiles(t, map[string]string{"ironcast.yaml": samples, "a.sh": marked})
	if memory := stageOf(t, report, "sample memory"); !memory.Passed || memory.Detail != "1 file, 1 command not run" {
		t.Errorf("%+v", memory)
	}
	got := findings(report)
	for _, want := range []string{
		"sample wrong: b should be there, and no path matches it", "sample wrong: a.sh: is there; nothing should match a.*", `sample wrong: a.sh: does not hold "memory"`,
		"sample wrong: b: should be there to be looked into", `sample wrong: a.sh: holds "disk"`, `sample taken: the values are taken; they should be refused with "never"`,
	} {
		if !strings.Contains(got, want) {
			t.Errorf("there is no finding %q in\n%s", want, got)
		}
	}
	missing := proveFiles(t, map[string]string{"ironcast.yaml": options + "  port: { kind: integer }\nsamples:\n  - name: old\n    values: {}\n  - name: other\n    values: { storage: memory, port: 1 }\n    refused: Pears\nchecks: [{ that: port > 1, message: Apples. }]\n", "a.sh": marked})
	for _, want := range []string{"sample old: port: a value is missing (port); give it as port=VALUE", `sample other: the values are refused with "Apples."; it should hold "Pears"`} {
		if got := findings(missing); !strings.Contains(got, want) {
			t.Errorf("there is no finding %q in\n%s", want, got)
		}
	}
}

func TestSamplesRunTheirCommands(t *testing.T) {
	template, err := tree.New([]tree.Entry{
		{Path: "ironcast.yaml", Content: tree.Memory(samples)}, {Path: "a.sh", Content: tree.Memory(marked)},
	}, tree.DefaultLimits())
	if err != nil {
		t.Fatal(err)
	}
	var began []string
	ran := make(chan string, 10)
	report, _, err := Prove(context.Background(), template, Options{
		Limits: tree.DefaultLimits(), AtOnce: 2,
		Begin: func(stage string) { began = append(began, stage) },
		Run: func(_ context.Context, project tree.Tree, after []hooks.Command, sample manifest.Sample) error {
			ran <- fmt.Sprint(sample.Name, len(project.Entries()), sample.Run)
			for _, command := range after {
				ran <- fmt.Sprint(command.Arguments)
			}
			if sample.Name == "wrong" {
				return errors.New("the command \"x\" failed: it ended with 2\nlast line")
			}
			return nil
		},
	})
	close(ran)
	if err != nil {
		t.Fatal(err)
	}
	var all []string
	for one := range ran {
		all = append(all, one)
	}
	slices.Sort(all)
	if fmt.Sprint(all) != "[[echo disk] memory1 [[true]] wrong1 []]" {
		t.Errorf("ran %v", all)
	}
	if got := findings(report); !strings.Contains(got, "sample wrong: the command \"x\" failed: it ended with 2\nsample wrong: last line") {
		t.Errorf("findings are\n%s", got)
	}
	if strings.Join(began, ",") != "manifest,round trip,no trace,cast back,options,sample memory,sample wrong,sample taken" {
		t.Errorf("the stages that began are %v", began)
	}

	var written strings.Builder
	if err := report.WriteJUnit(&written, "kelpwick/board"); err != nil {
		t.Fatal(err)
	}
	var suite struct {
		Name     string `xml:"name,attr"`
		Tests    int    `xml:"tests,attr"`
		Failures int    `xml:"failures,attr"`
		Cases    []struct {
			Name    string `xml:"name,attr"`
			Failure *struct {
				Message string `xml:"message,attr"`
				Text    string `xml:",chardata"`
			} `xml:"failure"`
		} `xml:"testcase"`
	}
	if err := xml.Unmarshal([]byte(written.String()), &suite); err != nil {
		t.Fatal(err)
	}
	if suite.Name != "kelpwick/board" || suite.Tests != 8 || suite.Failures != 2 || suite.Cases[5].Failure != nil || !strings.Contains(suite.Cases[6].Failure.Text, "last line") {
		t.Errorf("the JUnit report is\n%s", written.String())
	}
}

func TestAcceptedTracesNeedTheirText(t *testing.T) {
	text := head + "  n: { kind: name, stands_for: crossing board }\naccept_traces: [{ text: \"crossing\\nboard\", in: [a.md], reason: History. }]\n"
	broken := "the crossing\nboard, crossing-board\n"
	if report := proveFiles(t, map[string]string{"ironcast.yaml": text, "a.md": broken}); !report.Passed() || !strings.Contains(stageOf(t, report, "no trace").Detail, "1 accepted trace") {
		t.Errorf("findings are\n%s", findings(report))
	}
	if report := proveFiles(t, map[string]string{"ironcast.yaml": text, "b.md": broken}); report.Passed() {
		t.Error("a trace is accepted in another file")
	}
}
