package grade

import (
	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/prediction"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Handin is a program, or a prediction, that was read against an exercise, to be marked and explained, now or, from the same text,
// whenever somebody asks.
type Handin struct {
	Result   *Result
	Evidence []Evidence // once it is marked, as its scenarios
	grader   *Grader
	program  *check.Program
	code     *machine.Code      // nil: it does not compile
	drawn    []prediction.Drawn // of a prediction; the program is the exercise's then
	runs     []played
}

// Read checks and compiles one hand-in, whose files are one program, or of which the one is a prediction.
func (g *Grader) Read(name string, files []*source.File) *Handin {
	h := &Handin{Result: g.result(name, files), grader: g}
	var problems source.List
	if g.predicts() {
		problems = h.readDrawn(files[0])
	} else {
		h.program, h.code, problems = g.compile(files)
	}
	h.Result.Diagnostics = append(source.List{}, problems.Most(MostMessages)...)
	return h
}

// recording is what a change of one value costs in each scan to record and to compare, in instructions.
const recording = 30

// Longest is how many instructions marking takes at most in some scenarios, whatever happens in them: it depends on the program
// and the scenarios' length alone.
func (h *Handin) Longest(which func(exercise.Scenario) bool) (most int) {
	if h.code == nil {
		return 0
	}
	watched := len(h.grader.watched(h.code))
	for _, s := range h.grader.Exercise.Scenarios {
		if which(s) {
			most += h.code.Longest(s.Script.Scans) + s.Script.Scans*watched*recording
		}
	}
	return most
}

// Play runs the hand-in through some scenarios. Where it executes much it asks, about every million instructions, whether to
// stop, and gives [machine.ErrStopped] where it does.
func (h *Handin) Play(stop func() bool, which func(exercise.Scenario) bool) error {
	if h.runs == nil {
		h.runs = make([]played, len(h.grader.Exercise.Scenarios))
	}
	if h.code == nil {
		return nil
	}
	h.code.Until(stop)
	if h.drawn != nil {
		h.playDrawn(which)
		return nil
	}
	watch := h.grader.watched(h.code)
	for i, s := range h.grader.Exercise.Scenarios {
		if !which(s) {
			continue
		}
		var err error
		if h.runs[i], err = play(h.code, s, watch); err != nil {
			return err
		}
	}
	return nil
}

// Mark gives the marks of a hand-in that has played every scenario, without reasons.
func (h *Handin) Mark() {
	g, r := h.grader, h.Result
	names := g.choose(h.code, h.runs, Every)
	for i := range g.Exercise.Scenarios {
		r.Scenarios = append(r.Scenarios, g.scenario(i, names, h.code, h.runs[i]))
	}
	g.marks(r)
	g.tell(r, h.code, h.runs, names)
	for i, p := range h.runs {
		h.Evidence = append(h.Evidence, g.evidence(i, r.Scenarios[i], g.actual(i, p)))
	}
	if h.code != nil {
		g.rules(r, h.program, h.runs)
	}
}

// Every, Shown and Hidden choose scenarios.
func Every(exercise.Scenario) bool    { return true }
func Shown(s exercise.Scenario) bool  { return s.Shown }
func Hidden(s exercise.Scenario) bool { return !s.Shown }

// tell lets the shown scenarios speak of the instances that match best in them. Marks are given for those that match best in
// all; were the shown ones to speak of these, a learner with many instances would read from the choice how hidden scenarios
// went.
func (g *Grader) tell(r *Result, code *machine.Code, runs []played, marked []string) {
	names := g.choose(code, runs, Shown)
	for i, s := range g.Exercise.Scenarios {
		if !s.Shown || s.Expect.Checks != nil || runs[i].run == nil {
			continue
		}
		for j := range names {
			if names[j] != marked[j] {
				r.Scenarios[i].Signals[j] = g.compared(i, j, names[j], code, runs[i])
			}
		}
	}
}

// Explain says of some scenarios why what was not as expected was what it was. The error is [machine.ErrStopped].
func (h *Handin) Explain(which func(exercise.Scenario) bool) error {
	for i, s := range h.grader.Exercise.Scenarios {
		if h.code == nil || !which(s) {
			continue
		}
		if err := h.explain(&h.Result.Scenarios[i], s); err != nil {
			return err
		}
	}
	return nil
}

// Evidence is what one scenario's diagram shows.
type Evidence struct {
	Scenario string        `json:"scenario"`
	Inputs   *signal.Trace `json:"inputs"`
	Expected *signal.Trace `json:"expected"`
	Actual   *signal.Trace `json:"actual"`
}

// mostSegments bounds the trace that is kept of one scenario: some megabytes.
const mostSegments = 200_000

// actual is what a hand-in did, as far as it is kept.
func (g *Grader) actual(i int, p played) *signal.Trace {
	if p.run == nil {
		return &signal.Trace{Period: g.Exercise.Scenarios[i].Script.Period}
	}
	return p.run.Trace.Shortened(mostSegments)
}

// evidence is what the diagram of a scenario shows; what is graded has the names that the hand-in gives it.
func (g *Grader) evidence(i int, mark Scenario, actual *signal.Trace) Evidence {
	s := g.Exercise.Scenarios[i]
	expected := &signal.Trace{Period: s.Script.Period, Scans: s.Script.Scans}
	columns := make([]signal.Column, len(g.expected[i].Columns))
	expected.Columns = make([]*signal.Column, len(columns))
	for j, c := range g.expected[i].Columns {
		columns[j], expected.Columns[j] = *c, &columns[j]
		if s.Expect.Checks == nil && s.Expect.Erratic == "" && j < len(mark.Signals) {
			columns[j].Name = mark.Signals[j].Signal
		}
	}
	return Evidence{Scenario: s.Name, Inputs: s.Script, Expected: expected, Actual: actual}
}

// Drawn is what a prediction says of each scenario; nil of a program, and of a prediction with errors.
func (h *Handin) Drawn() []prediction.Drawn { return h.drawn }
