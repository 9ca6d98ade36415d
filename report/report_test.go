package report_test

import (
	"bytes"
	"encoding/xml"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/folder"
	"celandine/report"
)

const course = "../courses/glasshouse/"

func graded(t *testing.T, texts ...string) (*exercise.Exercise, []report.Graded) {
	files, err := folder.Open(course + "exercises/mist-hold-in")
	require.NoError(t, err)
	e, problems := exercise.Read(files)
	require.Empty(t, problems)
	g, problems := grade.Prepare(e)
	require.Empty(t, problems)
	var list []report.Graded
	for i, text := range texts {
		f := source.NewFile([]string{"=mine.ladder", "b.ladder", "<c>.st"}[i], text)
		r, evidence := g.Grade(f.Name, []*source.File{f})
		list = append(list, report.Graded{File: f, Result: r, Evidence: evidence})
	}
	return e, list
}

const (
	noHold = "PROGRAM p\nLADDER\nRUNG 'Mist' [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n"
	right  = "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n"
	broken = "PROGRAM p\nmist_valve := <b>;\nEND_PROGRAM\n"
)

func TestCSVHoldsNoFormula(t *testing.T) {
	e, list := graded(t, noHold, right)
	var b bytes.Buffer
	require.NoError(t, report.CSV(&b, e, list))
	rows := strings.Split(b.String(), "\n")
	assert.Equal(t, "hand-in,earned,points,stays on after release,stop wins over start,a press of one scan is enough,wire break stops the "+
		"mist,deducted,first difference", rows[0])
	assert.Equal(t, `'=mine.ladder,2,10,0,2,0,0,0,"stays on after release, scan 30: mist_valve expected TRUE, was FALSE"`, rows[1])
	assert.Equal(t, "b.ladder,10,10,4,2,2,2,0,", rows[2])
}

func TestJUnit(t *testing.T) {
	e, list := graded(t, noHold, right, broken)
	var b bytes.Buffer
	require.NoError(t, report.JUnit(&b, e, list))
	var all struct {
		Suites []struct {
			Name     string `xml:"name,attr"`
			Tests    int    `xml:"tests,attr"`
			Failures int    `xml:"failures,attr"`
			Cases    []struct {
				Name    string `xml:"name,attr"`
				Failure *struct {
					Text string `xml:",chardata"`
				} `xml:"failure"`
			} `xml:"testcase"`
		} `xml:"testsuite"`
	}
	require.NoError(t, xml.Unmarshal(b.Bytes(), &all))
	require.Len(t, all.Suites, 3)
	assert.Equal(t, []int{4, 3}, []int{all.Suites[0].Tests, all.Suites[0].Failures})
	assert.Contains(t, all.Suites[0].Cases[0].Failure.Text, "had no power past [mist_on]")
	assert.Zero(t, all.Suites[1].Failures)
	assert.Nil(t, all.Suites[1].Cases[0].Failure)
	assert.Positive(t, all.Suites[2].Failures)
}

// The page loads nothing, says why, draws the rung, and takes no markup from a hand-in.
func TestHTMLStandsAlone(t *testing.T) {
	e, list := graded(t, noHold, right, broken)
	var b bytes.Buffer
	require.NoError(t, report.HTML(&b, e, list))
	page := b.String()
	for _, want := range []string{"3 hand-ins, 1 with full marks", "had no power past [mist_on]", "<svg", "stroke-dasharray", "&lt;b&gt;",
		"&lt;c&gt;.st", "open since scan 30"} {
		assert.Contains(t, page, want)
	}
	for _, never := range []string{"<script", "src=", "@import", "<b>", `href="http`} {
		assert.NotContains(t, page, never)
	}
}

func TestCommonestCountsFirstLosses(t *testing.T) {
	_, list := graded(t, noHold, right, noHold)
	common := report.Commonest([]*grade.Result{list[0].Result, list[1].Result, list[2].Result})
	require.Len(t, common, 1)
	assert.Len(t, common[0].Files, 2)
	assert.Equal(t, "stays on after release, scan 30: mist_valve expected TRUE, was FALSE", common[0].Words)
}
