package mould

import (
	"bytes"
	"fmt"

	"ironcast/core/manifest"
	"ironcast/core/marks"
	"ironcast/core/syntax"
	"ironcast/core/tree"
)

// Explanation says why a file comes out as it does.
type Explanation struct {
	Path  string         `json:"path" doc:"In the source project."`
	Rules []FileRule     `json:"rules" nullable:"false" doc:"The rules of the manifest that decide over the whole file."`
	Slots []SlotFinding  `json:"slots" nullable:"false"`
	Marks []MarkedRegion `json:"marks" nullable:"false"`
}

// FileRule is a rule of the manifest that names a file.
type FileRule struct {
	Rule   string `json:"rule" enum:"leave_out,verbatim,only_when,swap,repeat,folders,binary"`
	Line   int    `json:"line,omitempty" doc:"In the manifest."`
	Effect string `json:"effect"`
}

// SlotFinding is a slot of a file, with its rule.
type SlotFinding struct {
	Line     int    `json:"line" doc:"In the source; 0 for the path."`
	Column   int    `json:"column" doc:"In bytes, from 1."`
	Text     string `json:"text" doc:"What stands there."`
	Variable string `json:"variable"`
	Form     string `json:"form" doc:"How the value is written."`
	Rule     string `json:"rule" doc:"Why it is a slot."`
}

// MarkedRegion is a block of a file that a mark rules.
type MarkedRegion struct {
	From   int    `json:"from" doc:"The mark's line in the source."`
	To     int    `json:"to" doc:"The last line that it rules."`
	Effect string `json:"effect" doc:"Such as: only when storage == \"mariadb\"."`
}

// Explain returns the slots, marks and rules of a file.
func (m *Mould) Explain(f *File) (*Explanation, error) {
	x := &Explanation{Path: f.Source.Path, Rules: m.RulesOf(f), Slots: []SlotFinding{}, Marks: []MarkedRegion{}}
	for _, slot := range f.PathSlots {
		x.Slots = append(x.Slots, m.explainSlot(slot, 0, int(slot.Start)+1, f.Source.Path))
	}
	if f.Source.Kind == tree.Link {
		for _, slot := range f.TargetSlots {
			x.Slots = append(x.Slots, m.explainSlot(slot, 0, int(slot.Start)+1, f.Source.Target))
		}
	}
	if f.Source.Kind != tree.File || f.Verbatim || f.Binary {
		return x, nil
	}
	content, err := f.Source.Bytes()
	if err != nil {
		return nil, err
	}
	line, start := 1, 0 // of the line that the last slot stands on
	for _, slot := range f.Slots {
		for {
			i := bytes.IndexByte(content[start:slot.Start], '\n')
			if i < 0 {
				break
			}
			line, start = line+1, start+i+1
		}
		x.Slots = append(x.Slots, m.explainSlot(slot, line, int(slot.Start)-start+1, string(content)))
	}
	if f.Parts != nil {
		nodes, err := marks.Parse(content, syntax.Of(f.Source.Path))
		if err != nil {
			return nil, err
		}
		x.Marks = regions(content, nodes)
	}
	return x, nil
}

func (m *Mould) explainSlot(slot Slot, line, column int, text string) SlotFinding {
	rule := m.Rule(slot)
	v := m.Variable(slot)
	found := SlotFinding{Line: line, Column: column, Text: text[slot.Start:slot.End], Variable: v.Name, Form: rule.Form.String()}
	switch {
	case rule.Repeat != nil:
		found.Rule = fmt.Sprintf("the item %s of %s, which stands for %q", rule.Repeat.Item, v.Name, rule.Repeat.StandingFor)
	default:
		found.Rule = fmt.Sprintf("%s stands for %q", v.Name, v.StandsFor)
	}
	if !rule.Place.IsZero() {
		found.Rule += "; written as its place needs"
	}
	if slot.Guessed {
		found.Rule += "; the spelling is a guess from what stands beside it"
	}
	return found
}

// RulesOf returns the rules of the manifest that decide over a file.
func (m *Mould) RulesOf(f *File) []FileRule {
	rules := []FileRule{}
	if f.Declared {
		rules = append(rules, FileRule{Rule: "folders", Effect: "every project has this folder, although it is empty"})
	}
	if f.Verbatim {
		rules = append(rules, FileRule{Rule: "verbatim", Effect: "its content is copied as it is"})
	}
	if f.Binary {
		rules = append(rules, FileRule{Rule: "binary", Effect: "it is no text, so its content is copied as it is"})
	}
	for _, i := range f.OnlyWhen {
		rule := m.Manifest.Files.OnlyWhen[i]
		rules = append(rules, FileRule{Rule: "only_when", Line: rule.Line, Effect: "cast only when " + rule.When.String()})
	}
	for i := range f.Swaps {
		rule := m.Manifest.Files.Swap[f.Swaps[i].Rule]
		rules = append(rules, FileRule{Rule: "swap", Line: rule.Line, Effect: fmt.Sprintf("has the content of %s when %s", rule.With, rule.When)})
	}
	if f.Repeat != nil {
		rules = append(rules, FileRule{Rule: "repeat", Line: f.Repeat.Line, Effect: "cast " + f.Repeat.describe(m.Manifest.Variables[f.Repeat.List].Name)})
	}
	return rules
}

// LeftOutBy returns the rule that leaves a path of the source project out.
func LeftOutBy(m *manifest.Manifest, path string) (FileRule, bool) {
	for _, glob := range m.Files.LeaveOut {
		if matches([]string{glob}, path) {
			return FileRule{Rule: "leave_out", Effect: fmt.Sprintf("never cast: %q leaves it out", glob)}, true
		}
	}
	return FileRule{}, false
}

// regions returns the blocks of a file, outer ones first.
func regions(content []byte, nodes []marks.Node) []MarkedRegion {
	found := []MarkedRegion{}
	add := func(from, end int, effect string, body []marks.Node) {
		found = append(found, MarkedRegion{From: from, To: lineOf(content, uint32(max(end-1, 0))), Effect: effect})
		found = append(found, regions(content, body)...)
	}
	for _, node := range nodes {
		switch n := node.(type) {
		case *marks.Choice:
			for i, branch := range n.Branches {
				effect := "only when " + branch.When
				switch {
				case i > 0 && branch.When == "":
					effect = "otherwise"
				case i > 0:
					effect = "otherwise when " + branch.When
				}
				end := n.End
				if i+1 < len(n.Branches) {
					end = startOfLine(content, n.Branches[i+1].Line)
				}
				add(branch.Line, end, effect, branch.Body)
			}
		case *marks.Repeat:
			add(n.Line, n.End, fmt.Sprintf("for each %s in %s, standing for %q", n.Item, n.List, n.StandingFor), n.Body)
		case *marks.SourceOnly:
			add(n.Line, n.End, "never cast: the source's own", nil)
		}
	}
	return found
}

func startOfLine(content []byte, line int) int {
	at := 0
	for ; line > 1; line-- {
		i := bytes.IndexByte(content[at:], '\n')
		if i < 0 {
			return len(content)
		}
		at += i + 1
	}
	return at
}

// Provenance says where a line of a cast file comes from.
type Provenance struct {
	Source string         `json:"source" doc:"The file of the template."`
	Line   int            `json:"line" doc:"In that file."`
	Text   string         `json:"text" doc:"The line as the template has it."`
	Slots  []SlotFinding  `json:"slots" nullable:"false" doc:"Those on the line."`
	Marks  []MarkedRegion `json:"marks" nullable:"false" doc:"The blocks that it stands in."`
	Item   string         `json:"item,omitempty" doc:"The item that the file was repeated for."`
	Swap   string         `json:"swap,omitempty" doc:"What was swapped in."`
}

// Provenance returns where a line of a cast file comes from, from 1, and the
// line itself; false where the file has no such line.
func (m *Mould) Provenance(f *CastFile, line int) (*Provenance, string, bool, error) {
	pieces, err := f.Pieces()
	if err != nil {
		return nil, "", false, err
	}
	at := 1
	from := -1
	var text []byte
	for _, piece := range pieces {
		for i, part := range bytes.SplitAfter([]byte(piece.Text), []byte("\n")) {
			if at == line && len(part) > 0 {
				if from < 0 {
					from = piece.Source
					if piece.Slot == nil {
						from += offsetOfPart(piece.Text, i)
					}
				}
				text = append(text, part...)
			}
			if bytes.HasSuffix(part, []byte("\n")) {
				at++
			}
		}
	}
	if from < 0 {
		return nil, "", false, nil
	}
	source, err := f.Content.Source.Bytes()
	if err != nil {
		return nil, "", false, err
	}
	explained, err := m.Explain(f.Content)
	if err != nil {
		return nil, "", false, err
	}
	p := &Provenance{Source: f.File.Source.Path, Line: lineOf(source, uint32(from)), Item: f.Item, Slots: []SlotFinding{}, Marks: []MarkedRegion{}}
	start := startOfLine(source, p.Line)
	p.Text = string(bytes.TrimRight(source[start:startOfLine(source, p.Line+1)], "\r\n"))
	for _, slot := range explained.Slots {
		if slot.Line == p.Line {
			p.Slots = append(p.Slots, slot)
		}
	}
	for _, region := range explained.Marks {
		if region.From <= p.Line && p.Line <= region.To {
			p.Marks = append(p.Marks, region)
		}
	}
	for i := range f.File.Swaps {
		if &f.File.Swaps[i].File == f.Content {
			p.Swap = m.Manifest.Files.Swap[f.File.Swaps[i].Rule].With
		}
	}
	return p, string(bytes.TrimRight(text, "\r\n")), true, nil
}

// offsetOfPart returns where the i-th line of a text begins.
func offsetOfPart(text string, i int) int {
	at := 0
	for range i {
		at += bytes.IndexByte([]byte(text[at:]), '\n') + 1
	}
	return at
}
