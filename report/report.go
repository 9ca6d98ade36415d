// Package report writes the results of grading for people and other programs: CSV for a
// spreadsheet, JUnit XML for build servers, and HTML, one file that stands alone with diagrams and drawings.
//
// In come graded hand-ins; out come bytes. It judges nothing.
package report

import (
	"encoding/csv"
	"encoding/xml"
	"fmt"
	"io"
	"sort"
	"strings"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
)

// Graded is one hand-in with its marks and traces.
type Graded struct {
	File     *source.File
	Result   *grade.Result
	Evidence []grade.Evidence
}

// CSV writes a row for each hand-in and a column for each scenario.
func CSV(w io.Writer, e *exercise.Exercise, list []Graded) error {
	out := csv.NewWriter(w)
	head := []string{"hand-in", "earned", "points"}
	for _, s := range e.Scenarios {
		head = append(head, s.Name)
	}
	if err := out.Write(append(head, "deducted", "first difference")); err != nil {
		return err
	}
	for _, g := range list {
		row := []string{cell(g.Result.File), g.Result.Earned.String(), g.Result.Points.String()}
		for _, s := range g.Result.Scenarios {
			row = append(row, s.Earned.String())
		}
		var deducted exercise.Marks
		for _, f := range g.Result.Findings {
			deducted += f.Deduct
		}
		if err := out.Write(append(row, deducted.String(), cell(g.Result.FirstLoss()))); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

// cell keeps a text from being taken for a formula.
func cell(s string) string {
	if s != "" && strings.ContainsRune("=+-@\t\r", rune(s[0])) {
		return "'" + s
	}
	return s
}

type suites struct {
	XMLName xml.Name `xml:"testsuites"`
	Name    string   `xml:"name,attr"`
	Suites  []suite  `xml:"testsuite"`
}

type suite struct {
	Name     string  `xml:"name,attr"`
	Tests    int     `xml:"tests,attr"`
	Failures int     `xml:"failures,attr"`
	Cases    []tcase `xml:"testcase"`
}

type tcase struct {
	Class   string   `xml:"classname,attr"`
	Name    string   `xml:"name,attr"`
	Failure *failure `xml:"failure,omitempty"`
}

type failure struct {
	Message string `xml:"message,attr"`
	Text    string `xml:",chardata"`
}

// JUnit writes a suite for each hand-in and a case for each scenario.
func JUnit(w io.Writer, e *exercise.Exercise, list []Graded) error {
	all := suites{Name: e.Name}
	for _, g := range list {
		s := suite{Name: g.Result.File}
		for _, scenario := range g.Result.Scenarios {
			c := tcase{Class: e.Name, Name: scenario.Name}
			if scenario.Earned < scenario.Points {
				c.Failure = &failure{fmt.Sprintf("%s of %s", scenario.Earned, scenario.Points), strings.Join(lines(scenario), "\n")}
				s.Failures++
			}
			s.Cases = append(s.Cases, c)
		}
		for _, d := range g.Result.Diagnostics {
			if d.Severity == source.Error {
				s.Cases = append(s.Cases, tcase{Class: e.Name, Name: d.Span.String(), Failure: &failure{Message: d.Message, Text: d.Hint}})
				s.Failures++
			}
		}
		s.Tests = len(s.Cases)
		all.Suites = append(all.Suites, s)
	}
	if _, err := io.WriteString(w, xml.Header); err != nil {
		return err
	}
	out := xml.NewEncoder(w)
	out.Indent("", "  ")
	if err := out.Encode(all); err != nil {
		return err
	}
	_, err := io.WriteString(w, "\n")
	return err
}

// lines says what went wrong in a scenario and why.
func lines(s grade.Scenario) (list []string) {
	if s.Fault != nil {
		list = append(list, fmt.Sprintf("scan %d, line %d: %s", s.Fault.Scan, s.Fault.Line, s.Fault.Message))
	}
	if s.Note != "" {
		list = append(list, s.Note)
	}
	for _, signal := range s.Signals {
		if signal.OK {
			continue
		}
		list = append(list, signal.Words())
		if signal.Why != nil {
			list = append(list, signal.Why.Short...)
		}
	}
	return list
}

// A Common difference is a first loss that several hand-ins share.
type Common struct {
	Words string
	Files []string
}

// Commonest lists where marks first went, the most frequent first.
func Commonest(list []*grade.Result) []Common {
	var out []Common
	for _, r := range list {
		loss := r.FirstLoss()
		if r.Diagnostics.HasErrors() {
			loss = "the program has errors"
		}
		if loss == "" {
			continue
		}
		found := false
		for i := range out {
			if out[i].Words == loss {
				out[i].Files, found = append(out[i].Files, r.File), true
			}
		}
		if !found {
			out = append(out, Common{loss, []string{r.File}})
		}
	}
	sort.SliceStable(out, func(i, j int) bool { return len(out[i].Files) > len(out[j].Files) })
	return out
}
