package proof

import (
	"encoding/xml"
	"fmt"
	"io"
	"strings"
)

// The JUnit XML that build servers read: one suite for a proof, one case for a
// stage.
type junitSuite struct {
	XMLName  xml.Name    `xml:"testsuite"`
	Name     string      `xml:"name,attr"`
	Tests    int         `xml:"tests,attr"`
	Failures int         `xml:"failures,attr"`
	Time     string      `xml:"time,attr"`
	Cases    []junitCase `xml:"testcase"`
}

type junitCase struct {
	Class   string        `xml:"classname,attr"`
	Name    string        `xml:"name,attr"`
	Time    string        `xml:"time,attr"`
	Failure *junitFailure `xml:"failure,omitempty"`
	Output  string        `xml:"system-out,omitempty"`
}

type junitFailure struct {
	Message string `xml:"message,attr"`
	Text    string `xml:",chardata"`
}

// WriteJUnit writes the report as JUnit XML; template names the suite.
func (r Report) WriteJUnit(w io.Writer, template string) error {
	suite := junitSuite{Name: template, Tests: len(r.Stages)}
	var total float64
	for _, stage := range r.Stages {
		total += stage.Seconds
		c := junitCase{Class: template, Name: stage.Name, Time: fmt.Sprintf("%.3f", stage.Seconds), Output: stage.Detail}
		for _, warning := range stage.Warnings {
			c.Output += "\nwarning: " + warning.String()
		}
		if !stage.Passed {
			suite.Failures++
			c.Failure = &junitFailure{Message: stage.Findings[0].String(), Text: findingsText(stage)}
		}
		suite.Cases = append(suite.Cases, c)
	}
	suite.Time = fmt.Sprintf("%.3f", total)
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	encoder := xml.NewEncoder(w)
	encoder.Indent("", "  ")
	if err := encoder.Encode(suite); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

func findingsText(stage Stage) string {
	var lines []string
	for _, f := range stage.Findings {
		lines = append(lines, f.String())
		if f.Excerpt != "" {
			lines = append(lines, "    "+f.Excerpt)
		}
	}
	if stage.Omitted > 0 {
		lines = append(lines, fmt.Sprintf("and %d more", stage.Omitted))
	}
	return strings.Join(lines, "\n")
}
