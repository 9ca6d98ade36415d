// Package grade compares what a hand-in did with what was expected, and gives
// marks.
//
// [Prepare] compiles an exercise's solution and records its expected traces, once.
// [Grader.Grade] checks and runs one hand-in through every scenario and returns a
// [Result], which is plain data: the same hand-in and exercise give the same
// bytes on every host. Beside it stands the [Evidence], the traces that a
// diagram shows. Comparing walks segments, so that it costs what happened, not
// how long it took. What a program that does nothing gets right earns nothing; see [Grader.marks].
package grade

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"celandine/core/check"
	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

// Engine names the rules by which programs run and are marked. It changes when the same hand-in could get another mark.
const Engine = "celandine/5"

// Result is the mark of one hand-in and where it went. It names what it came from: the same three give the same bytes.
type Result struct {
	Engine      string         `json:"engine"`
	Revision    string         `json:"revision"` // hash of the exercise's files
	Handin      string         `json:"handin"`   // hash of the hand-in's text
	File        string         `json:"file"`
	Earned      exercise.Marks `json:"earned"`
	Points      exercise.Marks `json:"points"`
	Scenarios   []Scenario     `json:"scenarios"`
	Findings    []Finding      `json:"findings"`
	Diagnostics source.List    `json:"diagnostics"`
}

// Scenario is the mark of one scenario.
type Scenario struct {
	Name   string         `json:"name"`
	Earned exercise.Marks `json:"earned"`
	Points exercise.Marks `json:"points"`
	// of several instances of a graded block those that match best in the shown scenarios, where it is shown
	Signals []Signal `json:"signals"`
	Still   bool     `json:"still,omitempty"` // a program that does nothing gets all of it right: whole or nothing
	Note    string   `json:"note,omitempty"`  // why it earns nothing, where its signals do not tell
	Fault   *Fault   `json:"fault,omitempty"`
	Hidden  bool     `json:"hidden,omitempty"` // what a learner may not see was taken out
}

// Signal tells whether one part of a scenario, a graded signal or a check, was as expected.
type Signal struct {
	Signal     string       `json:"signal"`       // as the hand-in names it
	Of         string       `json:"of,omitempty"` // TON.ET, where it is graded by its block's type
	Still      bool         `json:"still"`        // a program that does nothing gets it right, so that it earns nothing and, wrong, takes away
	OK         bool         `json:"ok"`
	Drawn      bool         `json:"drawn,omitempty"` // its actual value is what somebody predicted
	Difference *Difference  `json:"difference,omitempty"`
	Missing    string       `json:"missing,omitempty"` // what is wrong where no difference tells it
	Why        *explain.Why `json:"why,omitempty"`     // the first difference
}

// Difference is the first scan at which a signal was not as expected.
type Difference struct {
	Scan     int    `json:"scan"`
	Time     string `json:"time"` // of the scan, for people: 1.2 s
	Expected any    `json:"expected"`
	Actual   any    `json:"actual"`
}

// Fault is where a run ended before its time.
type Fault struct {
	Scan    int    `json:"scan"`
	Line    int    `json:"line"`
	Message string `json:"message"`
}

// Finding is a rule that a hand-in broke.
type Finding struct {
	Rule     string         `json:"rule"`
	Deduct   exercise.Marks `json:"deduct"`
	Say      string         `json:"say"`
	Scenario string         `json:"scenario,omitempty"` // in which it was broken, where it is about what happens
}

// Words returns "scan 40: mist_valve expected FALSE, was TRUE".
func (s Signal) Words() string {
	switch {
	case s.Missing != "":
		return s.Missing
	case s.Difference == nil:
		return s.Signal + " could not be compared to the end"
	case s.Drawn:
		return fmt.Sprintf("scan %d: %s is %s, and was drawn %s", s.Difference.Scan, s.Signal, inWords(s.Difference.Expected),
			inWords(s.Difference.Actual))
	}
	return fmt.Sprintf("scan %d: %s expected %s, was %s", s.Difference.Scan, s.Signal, inWords(s.Difference.Expected),
		inWords(s.Difference.Actual))
}

func inWords(v any) string {
	if b, ok := v.(bool); ok {
		return strings.ToUpper(fmt.Sprint(b))
	}
	return fmt.Sprint(v)
}

// A Grader holds an exercise ready for hand-ins. It is read-only once made.
type Grader struct {
	Exercise   *exercise.Exercise
	points     []check.Point
	scripts    []*machine.Script   // of each scenario
	expected   []*signal.Trace     // of each scenario; a column for each that is graded, in their order
	tolerances []compare.Tolerance // of each that is graded
	kinds      []signal.Kind       // of each that is graded
	still      [][]bool            // of each scenario and part
	executed   int                 // by the solution
	sways      []*sway             // of each scenario, where a trace is predicted: why nobody can tell; nil where one can
}

// Executed is how many instructions the solution executes in the shown scenarios; 0 where their expectations were written down beforehand.
func (g *Grader) Executed() int { return g.executed }

// Prepare compiles the solution and records what it does in each scenario.
// With errors in the list there is no grader.
func Prepare(e *exercise.Exercise) (*Grader, source.List) {
	g := &Grader{Exercise: e, points: Points(e)}
	program, code, problems := g.compile([]*source.File{fileOf(e.Solutions[0])})
	if code == nil {
		return nil, problems
	}
	p := &preparation{Grader: g, program: program, code: code}
	p.graded()
	p.checks()
	p.rules()
	p.predictions()
	if !p.list.HasErrors() {
		p.scenarios()
	}
	if p.list.HasErrors() {
		p.list.Sort()
		return nil, p.list
	}
	return g, nil
}

// Points returns an exercise's panel as the checker wants it.
func Points(e *exercise.Exercise) []check.Point {
	var list []check.Point
	add := func(points []exercise.Point, input bool) {
		for _, p := range points {
			list = append(list, check.Point{Name: p.Name, Type: check.TypeNamed(p.Type), Address: p.Address, Input: input, Initial: p.Rest(),
				Label: p.Label})
		}
	}
	add(e.Inputs, true)
	add(e.Outputs, false)
	return list
}

// Compile parses, checks and compiles the files of one program. The code is nil when
// there are errors.
func Compile(files []*source.File, points []check.Point) (*check.Program, *machine.Code, source.List) {
	return machine.Asked{}.Compile(check.Files(files, points))
}

// Missing tells of each graded name that a program lacks, with the nearest
// name it has. It is asked before a hand-in.
func (g *Grader) Missing(files []*source.File) []string {
	if g.predicts() {
		return nil
	}
	_, code, _ := g.compile(files)
	if code == nil {
		return nil
	}
	var list []machine.Wanted
	for _, one := range g.Exercise.Graded {
		list = append(list, wanted(one))
	}
	return code.Lacking(list)
}

// wanted is a graded thing as it is looked for in a program.
func wanted(one exercise.Graded) machine.Wanted {
	return machine.Wanted{Name: one.Signal, Block: one.Block, Member: one.Member}
}

// Check returns the diagnostics of a hand-in against the exercise.
func (g *Grader) Check(files []*source.File) source.List {
	if g.predicts() {
		_, problems := g.Sheet().Read(files[0])
		return problems
	}
	_, _, problems := g.compile(files)
	return problems
}

func (g *Grader) compile(files []*source.File) (*check.Program, *machine.Code, source.List) {
	return compileFor(g.Exercise, g.points, files)
}

// CompileFor compiles a program for an exercise, which may be one being written: its panel, languages and tasks are what it goes by. A
// point that is not wired yet is none.
func CompileFor(e *exercise.Exercise, files []*source.File) (*machine.Code, source.List) {
	points := slices.DeleteFunc(Points(e), func(p check.Point) bool { return !exercise.IsAddress(p.Address) || p.Type == nil })
	_, code, problems := compileFor(e, points, files)
	return code, problems
}

func compileFor(e *exercise.Exercise, points []check.Point, files []*source.File) (*check.Program, *machine.Code, source.List) {
	asked := machine.Asked{Languages: e.Languages}
	if e.Kind == exercise.Predict {
		asked.Languages = nil // of the program that is shown
	}
	for _, t := range e.Tasks {
		asked.Tasks = append(asked.Tasks, machine.Task(t))
	}
	return asked.Compile(check.Files(files, points))
}

// MostMessages is how many diagnostics of a hand-in are kept.
const MostMessages = 100

// Grade marks one hand-in, whose files are one program, and says why in every scenario.
func (g *Grader) Grade(name string, files []*source.File) (*Result, []Evidence) {
	h := g.Read(name, files)
	err := h.Play(func() bool { return false }, Every)
	if err == nil {
		h.Mark()
		err = h.Explain(Every)
	}
	if err != nil {
		panic(fmt.Sprintf("grade: nothing stops it, and yet: %v", err))
	}
	return h.Result, h.Evidence
}

// result is a result in which nothing was looked at yet.
func (g *Grader) result(name string, files []*source.File) *Result {
	return &Result{Engine: Engine, Revision: g.Exercise.Hash, Handin: hashOf(files), File: name, Points: g.Exercise.Points(),
		Scenarios: []Scenario{}, Findings: []Finding{}}
}

// Spoilt is the result of a hand-in that could not be graded by a mistake of Celandine's own.
func (g *Grader) Spoilt(name string, files []*source.File) *Result {
	r := g.result(name, files)
	for _, s := range g.Exercise.Scenarios {
		r.Scenarios = append(r.Scenarios, Scenario{Name: s.Name, Points: s.Points, Signals: []Signal{}})
	}
	r.Diagnostics.Add(source.Internal, source.Span{File: files[0]}, "It is kept. Ask your instructor to have it graded again.",
		"Celandine made a mistake in grading this hand-in.")
	return r
}

// hashOf names a hand-in's text, whatever its files are called.
func hashOf(files []*source.File) string {
	var all []byte
	for _, f := range files {
		all = append(append(strconv.AppendInt(all, int64(len(f.Text)), 10), '\n'), f.Text...)
	}
	sum := sha256.Sum256(all)
	return hex.EncodeToString(sum[:])
}

// A played scenario is what a hand-in did in it. Without a run it could not begin, as the fault says, or does not compile, or nothing was
// drawn of it.
type played struct {
	run     *machine.Run
	fault   *Fault
	erratic string // of a prediction: why nobody can tell
}

// play runs a hand-in through a scenario. The error is [machine.ErrStopped].
func play(watch *machine.Watch, script *machine.Script) (played, error) {
	run, err := watch.Play(script)
	switch {
	case errors.Is(err, machine.ErrStopped):
		return played{}, err
	case err != nil:
		return played{fault: &Fault{Message: err.Error()}}, nil
	}
	out := played{run: run}
	if f := run.Fault; f != nil {
		line, _ := f.Span.File.Position(f.Span.Start)
		out.fault = &Fault{Scan: f.Scan, Line: line, Message: f.Message}
	}
	return out, nil
}

// scenario looks at each part of one scenario.
func (g *Grader) scenario(i int, names []string, code *machine.Code, p played) Scenario {
	s := g.Exercise.Scenarios[i]
	mark := Scenario{Name: s.Name, Points: s.Points, Signals: []Signal{}, Fault: p.fault}
	switch {
	case p.erratic != "", p.run != nil && s.Expect.Erratic != "":
		mark.Signals = g.erratically(i, p)
		return mark
	case p.run == nil:
		if g.predicts() && code != nil {
			mark.Note = nothingDrawn
		}
		return mark
	}
	if s.Expect.Checks != nil {
		for j, c := range s.Expect.Checks {
			part := checkOne(c, code, p.run.Trace)
			part.Still, part.OK = g.still[i][j], part.OK && p.fault == nil
			mark.Signals = append(mark.Signals, part)
		}
		return mark
	}
	mark.Signals = slices.Grow(mark.Signals, len(names))
	for j, name := range names {
		mark.Signals = append(mark.Signals, g.compared(i, j, name, code, p))
	}
	return mark
}

// compared holds one graded thing of a hand-in, by the name that it has there, to what is expected.
func (g *Grader) compared(i, j int, name string, code *machine.Code, p played) Signal {
	one, want := g.Exercise.Graded[j], g.expected[i].Columns[j]
	out := Signal{Signal: name, Still: g.still[i][j], Drawn: g.predicts()}
	if one.Block != "" {
		out.Of = one.Name()
	}
	got := p.run.Trace.Column(name)
	judged := g.Expected(i).Judge(j, got, p.run.Trace.Scans)
	switch judged.Outcome {
	case compare.Right:
		out.OK = p.fault == nil
	case compare.Missing:
		out.Signal, out.Missing = one.Name(), wanted(one).Lacking(code)
	case compare.OtherKind:
		out.Missing = fmt.Sprintf("%s is %s in the program; %s is graded", name, aKind(got.Kind), aKind(want.Kind))
	case compare.Differs:
		scan := judged.Scan
		out.Difference = &Difference{scan, signal.FormatClock(p.run.Trace.Time(scan)), want.JSON(want.At(scan)), got.JSON(got.At(scan))}
	case compare.Ended: // the fault says it
	default:
		panic(fmt.Sprintf("grade: no such outcome: %d", judged.Outcome))
	}
	return out
}

// Expected is what is expected of a run of one scenario.
func (g *Grader) Expected(scenario int) compare.Expected {
	s := &g.Exercise.Scenarios[scenario]
	return compare.Expected{Columns: g.expected[scenario].Columns, Tolerances: g.tolerances, Scans: s.Script.Scans, Ignore: s.Ignore}
}

func aKind(k signal.Kind) string {
	switch k {
	case signal.Int, signal.Uint:
		return "a whole number"
	case signal.Text:
		return "a text or an enumeration"
	}
	return "a " + k.String()
}
