package grade

import (
	"fmt"
	"slices"
	"strings"

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
	could    [][]string         // what each graded thing can be in it
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
	h.could = make([][]string, len(g.Exercise.Graded))
	for j, one := range g.Exercise.Graded {
		if h.code != nil {
			h.could[j] = wanted(one).In(h.code)
		}
	}
	return h
}

// watched lists what a run is watched for: what is graded, and the signals of checks and rules, as far as the program has them.
func (h *Handin) watched() (names []string) {
	add := func(name string) {
		if _, ok := h.code.Slot(name); ok && !slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) {
			names = append(names, name)
		}
	}
	for _, list := range h.could {
		for _, name := range list {
			add(name)
		}
	}
	for _, s := range h.grader.Exercise.Scenarios {
		for _, c := range s.Expect.Checks {
			add(c.Signal)
		}
	}
	for _, r := range h.grader.Exercise.Rules {
		if r.Kind == exercise.Chatter {
			add(r.What)
		}
	}
	return names
}

// recording is what a change of one value costs in each scan to record and to compare, in instructions.
const recording = 30

// Longest is how many instructions marking takes at most in some scenarios, whatever happens in them: it depends on the program
// and the scenarios' length alone.
func (h *Handin) Longest(which func(exercise.Scenario) bool) (most int) {
	if h.code == nil {
		return 0
	}
	watched := len(h.watched())
	for _, s := range h.grader.Exercise.Scenarios {
		if which(s) {
			most += h.code.Longest(s.Script.Scans) + s.Script.Scans*watched*recording
		}
	}
	return most
}

// mostRecorded bounds the changes that all scenarios together record of one hand-in: some hundred megabytes.
const mostRecorded = 4_000_000

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
	watch, err := h.code.Watch(h.watched())
	if err != nil {
		return fmt.Errorf("watching what is graded: %w", err)
	}
	watch.AtMost(mostRecorded)
	for i, s := range h.grader.Exercise.Scenarios {
		if !which(s) {
			continue
		}
		if h.runs[i], err = play(watch, h.grader.scripts[i]); err != nil {
			return err
		}
	}
	return nil
}

// Mark gives the marks of a hand-in that has played every scenario, without reasons.
func (h *Handin) Mark() {
	g, r := h.grader, h.Result
	names := h.choose(Every)
	r.Scenarios, h.Evidence = slices.Grow(r.Scenarios, len(h.runs)), make([]Evidence, 0, len(h.runs))
	for i := range g.Exercise.Scenarios {
		r.Scenarios = append(r.Scenarios, g.scenario(i, names, h.code, h.runs[i]))
	}
	g.marks(r)
	h.tell(names)
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

// choose returns what each graded thing is in the hand-in: of several instances of a block, the one that is right in most
// of some scenarios, and of those the first declared; "" where there is none.
func (h *Handin) choose(among func(exercise.Scenario) bool) []string {
	names := make([]string, len(h.could))
	for j, list := range h.could {
		if len(list) == 1 {
			names[j] = list[0]
			continue
		}
		best := -1
		for _, name := range list {
			if right := h.rightIn(j, name, among); right > best {
				best, names[j] = right, name
			}
		}
	}
	return names
}

// rightIn is in how many of some scenarios a graded thing is as expected, were it what has a name in the hand-in.
func (h *Handin) rightIn(j int, name string, among func(exercise.Scenario) bool) (right int) {
	for i, p := range h.runs {
		s := h.grader.Exercise.Scenarios[i]
		if p.run != nil && s.Expect.Checks == nil && among(s) && h.grader.compared(i, j, name, h.code, p).OK {
			right++
		}
	}
	return right
}

// tell lets the shown scenarios speak of the instances that match best in them. Marks are given for those that match best in
// all; were the shown ones to speak of these, a learner with many instances would read from the choice how hidden scenarios
// went.
func (h *Handin) tell(marked []string) {
	names := h.choose(Shown)
	for i, s := range h.grader.Exercise.Scenarios {
		if !s.Shown || s.Expect.Checks != nil || h.runs[i].run == nil {
			continue
		}
		for j := range names {
			if names[j] != marked[j] {
				h.Result.Scenarios[i].Signals[j] = h.grader.compared(i, j, names[j], h.code, h.runs[i])
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
		if err := h.explain(&h.Result.Scenarios[i], i); err != nil {
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
