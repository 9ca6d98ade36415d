package report

import (
	_ "embed"
	"fmt"
	"html/template"
	"io"

	"celandine/core/drawing"
	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/grade"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

//go:embed report.html
var page string

type pageData struct {
	Exercise *exercise.Exercise
	Handins  []handinData
	Common   []Common
	Full     int
	Count    string
}

type handinData struct {
	*grade.Result
	ID        string
	Scenarios []scenarioData
	Text      string
}

type scenarioData struct {
	grade.Scenario
	Whole   template.HTML
	Close   template.HTML
	Reasons []reason
	Lost    bool
}

type reason struct {
	Words string
	Time  string
	Why   *explain.Why
	Rung  template.HTML
}

// HTML writes one self-contained page.
func HTML(w io.Writer, e *exercise.Exercise, list []Graded) error {
	data := pageData{Exercise: e, Count: source.Plural(len(list), "hand-in")}
	var results []*grade.Result
	for i, g := range list {
		results = append(results, g.Result)
		if g.Result.Earned == g.Result.Points {
			data.Full++
		}
		data.Handins = append(data.Handins, handinOf(i, e, g))
	}
	data.Common = Commonest(results)
	t, err := template.New("report").Parse(page)
	if err != nil {
		return fmt.Errorf("reading the report's page: %w", err)
	}
	return t.Execute(w, data)
}

func handinOf(i int, e *exercise.Exercise, g Graded) handinData {
	h := handinData{Result: g.Result, ID: fmt.Sprintf("handin-%d", i+1), Text: g.File.Text}
	program := g.File
	if e.Kind == exercise.Predict { // what it does is the reason for a difference
		shown := e.Solutions[0]
		program = source.NewFile(shown.Name, shown.Text)
	}
	rungs := rungsOf(program)
	for n, s := range g.Result.Scenarios {
		d := scenarioData{Scenario: s, Lost: s.Earned < s.Points}
		if n < len(g.Evidence) && d.Lost && g.Evidence[n].Actual.Scans > 0 {
			d.Whole, d.Close = diagrams(g.Evidence[n], s)
		}
		for _, signal := range s.Signals {
			if signal.OK {
				continue
			}
			r := reason{Words: signal.Words(), Why: signal.Why}
			if signal.Difference != nil {
				r.Time = signal.Difference.Time
			}
			r.Rung = rungOf(rungs, signal.Why)
			d.Reasons = append(d.Reasons, r)
		}
		h.Scenarios = append(h.Scenarios, d)
	}
	return h
}

const (
	pictureWidth = 920
	nearby       = 25 // scans shown on each side of a first difference
)

// diagrams draws a scenario whole and close to its first difference. What the drawings hold is made here, from names and
// numbers that are escaped.
func diagrams(e grade.Evidence, s grade.Scenario) (whole, near template.HTML) {
	t := &signal.Trace{Period: e.Actual.Period, Scans: e.Actual.Scans}
	t.Columns = append(append(t.Columns, e.Inputs.Columns...), e.Actual.Columns...)
	whole = template.HTML(drawing.Compared(t, e.Expected, 0, t.Scans, pictureWidth).SVG())
	first := -1
	for _, signal := range s.Signals {
		if d := signal.Difference; d != nil && (first < 0 || d.Scan < first) {
			first = d.Scan
		}
	}
	if first >= 0 && t.Scans > 4*nearby {
		near = template.HTML(drawing.Compared(t, e.Expected, max(first-nearby, 0), min(first+nearby, t.Scans), pictureWidth).SVG())
	}
	return whole, near
}

type drawn struct {
	span source.Span
	rung drawing.Rung
}

// rungsOf draws the rungs of a hand-in.
func rungsOf(f *source.File) (list []drawn) {
	tree, _ := syntax.Parse(f)
	if tree == nil {
		return nil
	}
	for _, u := range tree.Units {
		body, ok := u.Body.(*syntax.Ladder)
		if !ok {
			continue
		}
		for i, r := range drawing.Ladder(body, drawing.NamesOf(tree, u)) {
			list = append(list, drawn{body.Rungs[i].Span, r})
		}
	}
	return list
}

// rungOf draws the rung that decided a value, with the states of its contacts.
func rungOf(rungs []drawn, why *explain.Why) template.HTML {
	if why == nil || len(why.Steps) == 0 || why.Steps[0].Place == nil {
		return ""
	}
	step := why.Steps[0]
	for _, d := range rungs {
		if step.Place.Start < d.span.Start || step.Place.Start >= d.span.End {
			continue
		}
		states := map[int]drawing.State{}
		for _, e := range step.Elements {
			since := "from the start"
			if e.Since > 0 {
				since = fmt.Sprintf("since scan %d", e.Since)
			}
			states[e.Start] = drawing.State{Words: e.State + " " + since, Passes: e.State == "closed" || e.State == "TRUE", Decides: e.Decides}
		}
		return template.HTML(d.rung.SVG(states))
	}
	return ""
}
