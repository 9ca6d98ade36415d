// Package grade compares what a hand-in did with what was expected, and gives
// marks.
//
// [Prepare] compiles an exercise's solution and records its expected traces, once.
// [Grader.Grade] checks and runs one hand-in through every scenario and returns a
// [Result], which is plain data: the same hand-in and exercise give the same
// bytes on every host. Beside it stands the [Evidence], the traces that a
// diagram shows. Comparing walks segments, so that it costs what happened, not
// how long it took.
package grade

import (
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"strings"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Engine names the rules by which programs run and are marked. It changes when the same hand-in could get another mark.
const Engine = "celandine/2"

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
	Name    string         `json:"name"`
	Earned  exercise.Marks `json:"earned"`
	Points  exercise.Marks `json:"points"`
	Signals []Signal       `json:"signals"`
	Fault   *Fault         `json:"fault,omitempty"`
	Hidden  bool           `json:"hidden,omitempty"` // what a learner may not see was taken out
}

// Signal tells whether one graded signal was as expected.
type Signal struct {
	Signal     string       `json:"signal"`
	OK         bool         `json:"ok"`
	Difference *Difference  `json:"difference,omitempty"`
	Missing    string       `json:"missing,omitempty"` // what to declare, where the program lacks the name
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
	Rule   string         `json:"rule"`
	Deduct exercise.Marks `json:"deduct"`
	Say    string         `json:"say"`
}

// Words returns "mist_valve expected FALSE, was TRUE".
func (s Signal) Words() string {
	switch {
	case s.Missing != "":
		return s.Missing
	case s.Difference == nil:
		return s.Signal + " could not be compared to the end"
	}
	return fmt.Sprintf("scan %d: %s expected %s, was %s", s.Difference.Scan, s.Signal, inWords(s.Difference.Expected), inWords(s.Difference.Actual))
}

func inWords(v any) string {
	if b, ok := v.(bool); ok {
		return strings.ToUpper(fmt.Sprint(b))
	}
	return fmt.Sprint(v)
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

// A Grader holds an exercise ready for hand-ins. It is read-only once made.
type Grader struct {
	Exercise *exercise.Exercise
	points   []check.Point
	expected []*signal.Trace // of each scenario, graded signals
	executed int             // by the solution
}

// Executed is how many instructions the solution executes in all scenarios; 0 where their expectations were written down beforehand.
func (g *Grader) Executed() int { return g.executed }

// Prepare compiles the solution and records what it does in each scenario.
// With errors in the list there is no grader.
func Prepare(e *exercise.Exercise) (*Grader, source.List) {
	g := &Grader{Exercise: e, points: Points(e)}
	solution := e.Solutions[0]
	_, code, problems := g.compile([]*source.File{source.NewFile(solution.Name, solution.Text)})
	if code == nil {
		return nil, problems
	}
	var list source.List
	complain := func(hint, format string, args ...any) {
		list.Add(source.Error, "exercise", source.Span{File: source.NewFile(solution.Name, solution.Text)}, hint, format, args...)
	}
	for _, s := range e.Graded {
		if _, ok := code.Slot(s.Signal); !ok {
			complain(source.Meant(s.Signal, code.Names()), "The solution has nothing named %s, which is graded.", s.Signal)
		}
	}
	g.checkRules(complain)
	for _, s := range e.Scenarios {
		for _, c := range s.Expect.Checks {
			if _, ok := code.Slot(c.Signal); !ok {
				complain(source.Meant(c.Signal, code.Names()), "The solution has nothing named %s, which a check of scenario %q looks at.", c.Signal, s.Name)
			}
		}
	}
	if list.HasErrors() {
		return nil, list
	}
	for _, s := range e.Scenarios {
		expected, err := g.expect(code, s)
		if err != nil {
			complain("", "Scenario %q: %v.", s.Name, err)
			continue
		}
		g.expected = append(g.expected, expected)
	}
	if list.HasErrors() {
		return nil, list
	}
	return g, nil
}

// expect returns the expected trace of a scenario.
func (g *Grader) expect(code *machine.Code, s exercise.Scenario) (*signal.Trace, error) {
	if t := s.Expect.Table; t != nil {
		if t.Scans > s.Script.Scans {
			return nil, fmt.Errorf("the expected table goes on to scan %d, beyond the scenario's last, %d", t.Scans-1, s.Script.Scans-1)
		}
		return g.fromTable(code, t, s.Script.Scans)
	}
	run, err := code.Play(s.Script, g.gradedNames(code))
	if err != nil {
		return nil, err
	}
	g.executed += run.Executed
	if run.Fault != nil {
		return nil, fmt.Errorf("the solution stops with a fault at scan %d: %s", run.Fault.Scan, run.Fault.Message)
	}
	return run.Trace, nil
}

// fromTable takes the graded signals from a table; each must be there.
func (g *Grader) fromTable(code *machine.Code, t *signal.Trace, scans int) (*signal.Trace, error) {
	out := &signal.Trace{Period: t.Period, Scans: scans}
	for _, s := range g.Exercise.Graded {
		c := t.Column(s.Signal)
		if c == nil {
			return nil, fmt.Errorf("the expected table has no column %s", s.Signal)
		}
		kind, _ := code.KindOf(s.Signal)
		out.Columns = append(out.Columns, &signal.Column{Name: c.Name, Kind: kind, Segments: c.Segments})
	}
	return out, nil
}

// Points returns an exercise's panel as the checker wants it.
func Points(e *exercise.Exercise) []check.Point {
	var list []check.Point
	add := func(points []exercise.Point, input bool) {
		for _, p := range points {
			list = append(list, check.Point{Name: p.Name, Type: check.TypeNamed(p.Type), Address: p.Address, Input: input, Initial: p.Rest(), Label: p.Label})
		}
	}
	add(e.Inputs, true)
	add(e.Outputs, false)
	return list
}

// Compile parses, checks and compiles the files of one program. The code is nil when
// there are errors.
func Compile(files []*source.File, points []check.Point) (*check.Program, *machine.Code, source.List) {
	program, problems := check.Files(files, points)
	if program == nil {
		return nil, nil, problems
	}
	code, large := machine.Compile(program)
	return program, code, append(problems, large...)
}

// gradedNames lists what a run is watched for: the graded signals, and those of
// checks and rules, as far as the program has them.
func (g *Grader) gradedNames(code *machine.Code) []string {
	var names []string
	seen := map[string]bool{}
	add := func(name string) {
		if _, ok := code.Slot(name); ok && !seen[strings.ToLower(name)] {
			seen[strings.ToLower(name)] = true
			names = append(names, name)
		}
	}
	for _, s := range g.Exercise.Graded {
		add(s.Signal)
	}
	for _, s := range g.Exercise.Scenarios {
		for _, c := range s.Expect.Checks {
			add(c.Signal)
		}
	}
	for _, r := range g.Exercise.Rules {
		if r.Kind == exercise.Chatter {
			add(r.What)
		}
	}
	return names
}

// Missing tells of each graded name that a program lacks, with the nearest
// name it has. It is asked before a hand-in.
func (g *Grader) Missing(files []*source.File) []string {
	_, code, _ := g.compile(files)
	if code == nil {
		return nil
	}
	var list []string
	for _, s := range g.Exercise.Graded {
		if _, ok := code.Slot(s.Signal); !ok {
			list = append(list, Lacking(s.Signal, code))
		}
	}
	return list
}

// Lacking tells of a name that a program lacks, with the nearest that it has.
func Lacking(name string, code *machine.Code) string {
	message := fmt.Sprintf("the program has nothing named %s", name)
	if hint := source.Meant(name, code.Names()); hint != "" {
		return message + "; " + strings.ToLower(hint[:1]) + hint[1:]
	}
	if instance, _, ok := strings.Cut(name, "."); ok {
		return message + fmt.Sprintf("; declare a block named %s", instance)
	}
	return message
}

// Check returns the diagnostics of a hand-in against the exercise.
func (g *Grader) Check(files []*source.File) source.List {
	_, _, problems := g.compile(files)
	return problems
}

func (g *Grader) compile(files []*source.File) (*check.Program, *machine.Code, source.List) {
	program, problems := check.Files(files, g.points)
	if program == nil {
		return nil, nil, problems
	}
	for _, u := range program.Units {
		language, word := "st", "structured text"
		if _, ladder := u.Tree.Body.(*syntax.Ladder); ladder {
			language, word = "ladder", "ladder"
		}
		if !contains(g.Exercise.Languages, language) {
			problems.Add(source.Error, "language", u.Tree.Name.Span, "Write it in "+strings.Join(g.Exercise.Languages, " or ")+".", "This exercise is not done in %s.", word)
		}
	}
	if problems.HasErrors() {
		return nil, nil, problems
	}
	code, large := machine.Compile(program)
	problems = append(problems, large...)
	if code == nil || len(g.Exercise.Tasks) == 0 {
		return program, code, problems
	}
	scheduled, err := code.Schedule(tasks(g.Exercise))
	if err != nil {
		problems.Add(source.Error, "tasks", program.Units[0].Tree.Name.Span, "Name the programs as the exercise does.", "The exercise runs its programs as tasks: %v.", err)
		return nil, nil, problems
	}
	return program, scheduled, problems
}

func tasks(e *exercise.Exercise) (list []machine.Task) {
	for _, t := range e.Tasks {
		list = append(list, machine.Task(t))
	}
	return list
}

func contains(list []string, word string) bool {
	for _, w := range list {
		if w == word {
			return true
		}
	}
	return false
}

// MostMessages is how many diagnostics of a hand-in are kept.
const MostMessages = 100

// Grade marks one hand-in, whose files are one program.
func (g *Grader) Grade(name string, files []*source.File) (*Result, []Evidence) {
	r, evidence, _ := g.GradeUntil(func() bool { return false }, name, files) // nothing stops it
	return r, evidence
}

// GradeUntil is Grade for programs that others have to wait for. Where a program executes much it asks, about every million instructions, whether
// to stop, and gives [machine.ErrStopped] where it does.
func (g *Grader) GradeUntil(stop func() bool, name string, files []*source.File) (*Result, []Evidence, error) {
	r := &Result{Engine: Engine, Revision: g.Exercise.Hash, Handin: hashOf(files), File: name, Points: g.Exercise.Points(), Scenarios: []Scenario{}, Findings: []Finding{}}
	program, code, problems := g.compile(files)
	r.Diagnostics = append(source.List{}, problems.Most(MostMessages)...)
	if code != nil {
		code.Until(stop)
	}
	var evidence []Evidence
	for i, s := range g.Exercise.Scenarios {
		mark, proof, err := g.scenario(code, s, g.expected[i])
		if err != nil {
			return nil, nil, err
		}
		if err := g.explain(&mark, program, code, s); err != nil {
			return nil, nil, err
		}
		r.Scenarios = append(r.Scenarios, mark)
		r.Earned += mark.Earned
		evidence = append(evidence, proof)
	}
	if code != nil {
		g.rules(r, program, evidence)
	}
	return r, evidence, nil
}

// hashOf names a hand-in's text, whatever its files are called.
func hashOf(files []*source.File) string {
	h := sha256.New()
	for _, f := range files {
		fmt.Fprintf(h, "%d\n%s", len(f.Text), f.Text)
	}
	return hex.EncodeToString(h.Sum(nil))
}

// scenario marks one scenario; code is nil where the hand-in does not compile. The error is [machine.ErrStopped].
func (g *Grader) scenario(code *machine.Code, s exercise.Scenario, expected *signal.Trace) (Scenario, Evidence, error) {
	mark := Scenario{Name: s.Name, Points: s.Points, Signals: []Signal{}}
	proof := Evidence{Scenario: s.Name, Inputs: s.Script, Expected: expected, Actual: &signal.Trace{Period: s.Script.Period}}
	if code == nil {
		return mark, proof, nil
	}
	run, err := code.Play(s.Script, g.gradedNames(code))
	if errors.Is(err, machine.ErrStopped) {
		return mark, proof, err
	}
	if err != nil {
		mark.Fault = &Fault{Message: err.Error()}
		return mark, proof, nil
	}
	proof.Actual = run.Trace.Shortened(mostSegments)
	if f := run.Fault; f != nil {
		line, _ := f.Span.File.Position(f.Span.Start)
		mark.Fault = &Fault{Scan: f.Scan, Line: line, Message: f.Message}
	}
	if s.Expect.Checks != nil {
		g.checks(&mark, s, code, run)
		return mark, proof, nil
	}
	earned, whole := 0, 0
	for _, graded := range g.Exercise.Graded {
		signal := g.signal(graded, code, expected, run, s.Ignore)
		mark.Signals = append(mark.Signals, signal)
		whole += graded.Weight
		if signal.OK {
			earned += graded.Weight
		}
	}
	mark.Earned = s.Points.Share(earned, whole)
	return mark, proof, nil
}

func (g *Grader) signal(graded exercise.Graded, code *machine.Code, expected *signal.Trace, run *machine.Run, ignore []exercise.Window) Signal {
	out := Signal{Signal: graded.Signal}
	want, got := expected.Column(graded.Signal), run.Trace.Column(graded.Signal)
	if got == nil {
		out.Missing = Lacking(graded.Signal, code)
		return out
	}
	scan, differs := Compare(want, got, run.Trace.Scans, graded, ignore)
	if differs {
		out.Difference = &Difference{scan, signal.FormatClock(run.Trace.Time(scan)), got.Kind.JSON(want.At(scan)), got.Kind.JSON(got.At(scan))}
	}
	out.OK = !differs && run.Fault == nil
	return out
}
