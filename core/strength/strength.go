// Package strength tells how many wrong programs the scenarios of an exercise catch.
//
// In comes a [grade.Grader]; a [Trial] lists the mutants of its solutions and tries them one by one, so that whoever asks can show how far
// it is. A mutant that earns full marks has slipped through; then a search looks for the shortest script on which it differs from the
// solution. One that is proven to be the same does not count; else that script, as steps of a scenario, is what the exercise lacks. [Sum]
// counts. Nothing here reads a clock, and the same exercise gives the same bytes on every host.
package strength

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"celandine/core/differ"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/mutate"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Trial is an exercise whose strength is being found out.
type Trial struct {
	grader    *grade.Grader
	mutants   []variant
	solutions map[string]*Handin // by their files
}

// variant is a mutant of one of the solutions.
type variant struct {
	mutate.Mutant
	file string
}

// New makes the mutants of an exercise's solutions.
func New(g *grade.Grader) (*Trial, error) {
	t := &Trial{grader: g, solutions: map[string]*Handin{}}
	step := Step(g)
	for _, s := range g.Exercise.Solutions {
		h, err := Read(g, source.NewFile(s.Name, s.Text))
		if err != nil {
			return nil, fmt.Errorf("running %s: %w", s.Name, err)
		}
		t.solutions[s.Name] = h
		for _, m := range mutate.Of(source.NewFile(s.Name, s.Text), grade.Points(g.Exercise), step) {
			t.mutants = append(t.mutants, variant{m, s.Name})
		}
	}
	return t, nil
}

// Step is the least that a time must be off for an exercise to notice it: a scan more than its slack.
func Step(g *grade.Grader) time.Duration {
	slack := 0
	for _, one := range g.Tolerances() {
		slack = max(slack, one.Slack)
	}
	return time.Duration(slack+1) * g.Exercise.Period
}

// Len is how many mutants there are.
func (t *Trial) Len() int { return len(t.mutants) }

// An Outcome is what became of one mutant.
type Outcome struct {
	File    string         `json:"file"` // the solution that it was made of
	Line    int            `json:"line"`
	Kind    mutate.Kind    `json:"kind"`
	Mistake string         `json:"mistake"` // the contact mist_off is inverted (rung 1)
	Text    string         `json:"text,omitempty"`
	Caught  []string       `json:"caught"`            // the scenarios in which it loses marks
	Rule    bool           `json:"rule,omitempty"`    // a rule takes marks off
	Verdict differ.Verdict `json:"verdict,omitempty"` // of one that earns full marks: differs, same or none
	Found   *Found         `json:"found,omitempty"`   // where it differs
}

// A Found difference is the shortest script on which two programs differ.
type Found struct {
	Signal   string              `json:"signal"` // that differs first; "" where one of them ends in a fault
	Scan     int                 `json:"scan"`
	Expected any                 `json:"expected,omitempty"`
	Actual   any                 `json:"actual,omitempty"`
	Fault    string              `json:"fault,omitempty"`
	Name     string              `json:"name"` // of a scenario with these steps
	For      int                 `json:"for"`  // scans
	Steps    []exercise.StepForm `json:"steps"`
	Script   *signal.Trace       `json:"script"`
}

// Told says each step with its time: "0.5 s: press mist_on".
func (f *Found) Told() []string {
	list := []string{}
	for _, s := range f.Steps {
		scan, _ := exercise.MomentOf(s.At, f.Script.Period)
		list = append(list, signal.FormatClock(f.Script.Time(scan))+": "+s.Words())
	}
	return list
}

// Words says what differs: "scan 12: mist_valve expected FALSE, was TRUE".
func (f *Found) Words() string {
	if f.Signal == "" {
		return fmt.Sprintf("scan %d: %s", f.Scan, f.Fault)
	}
	return grade.Signal{Signal: f.Signal, Difference: &grade.Difference{Scan: f.Scan, Expected: f.Expected, Actual: f.Actual}}.Words()
}

// YAML is the script as a scenario of an exercise.yaml.
func (f *Found) YAML() string { return exercise.ScenarioText(f.Name, f.For, f.Steps) }

// Slipped reports a mutant that no scenario and no rule catches.
func (o Outcome) Slipped() bool { return len(o.Caught) == 0 && !o.Rule }

// Counts reports whether a mutant counts: it is not proven to be the same as the solution.
func (o Outcome) Counts() bool { return o.Verdict != differ.Same }

// Try tries a mutant. budget is how many scans a search may execute.
func (t *Trial) Try(n, budget int) (Outcome, error) {
	v := t.mutants[n]
	line, _ := v.At.File.Position(v.At.Start)
	o := Outcome{File: v.file, Line: line, Kind: v.Kind, Mistake: v.String(), Caught: []string{}}
	h, err := Read(t.grader, source.NewFile(v.file, v.Text))
	if err != nil {
		return o, err
	}
	o.Rule = len(h.Result.Findings) > 0
	for _, s := range h.Result.Scenarios {
		if s.Earned < s.Points {
			o.Caught = append(o.Caught, s.Name)
		}
	}
	if !o.Slipped() {
		return o, nil
	}
	o.Text = v.Text
	o.Verdict, o.Found, err = Between(t.grader, t.solutions[v.file], h, budget)
	if err != nil {
		return o, fmt.Errorf("looking for a difference of %s: %w", o.Mistake, err)
	}
	return o, nil
}

// A Handin is a program that was marked.
type Handin struct {
	*grade.Handin
	code *machine.Code
}

// Code is the compiled program, nil where it has errors.
func (h *Handin) Code() *machine.Code { return h.code }

// Read marks a program, without reasons.
func Read(g *grade.Grader, f *source.File) (*Handin, error) {
	return ReadUntil(g, f, func() bool { return false })
}

// ReadUntil does the same, and ends with [machine.ErrStopped] where stop, which is asked about every million instructions, says so; so does
// whatever the program is then used for.
func ReadUntil(g *grade.Grader, f *source.File, stop func() bool) (*Handin, error) {
	files := []*source.File{f}
	h := g.Read(f.Name, files)
	if err := h.Play(stop, grade.Every); err != nil {
		return nil, err
	}
	h.Mark()
	code := g.Code(files)
	if code != nil {
		code.Until(stop)
	}
	return &Handin{h, code}, nil
}

// Between looks for the shortest script on which a program differs from another, such as the solution.
func Between(g *grade.Grader, right, other *Handin, budget int) (differ.Verdict, *Found, error) {
	pair, err := PairOf(g, right, other)
	if err != nil {
		return "", nil, err
	}
	r, err := pair.Search(budget)
	if err != nil || r.Verdict != differ.Differs {
		return r.Verdict, nil, err
	}
	f, err := found(pair, r)
	return r.Verdict, f, err
}

// PairOf puts two marked programs beside each other.
func PairOf(g *grade.Grader, a, b *Handin) (differ.Pair, error) {
	p := differ.Pair{A: a.code, B: b.code, Period: g.Exercise.Period, Inputs: g.Exercise.Inputs}
	if a.code == nil || b.code == nil {
		return p, fmt.Errorf("one of the programs has errors")
	}
	expected, err := a.Graded()
	if err != nil {
		return p, err
	}
	actual, err := b.Graded()
	if err != nil {
		return p, err
	}
	for i, t := range g.Tolerances() {
		if expected[i] != "" && actual[i] != "" {
			p.Compared = append(p.Compared, differ.Compared{A: expected[i], B: actual[i], Tolerance: t})
		}
	}
	return p, nil
}

// found tells of a difference in the words of an exercise.
func found(p differ.Pair, r differ.Result) (*Found, error) {
	f := &Found{Scan: r.Scan, For: r.Script.Scans, Steps: exercise.StepsByHand(p.Inputs, r.Script, nil), Script: r.Script}
	f.Name = nameOf(f.Steps)
	if r.Fault != nil {
		f.Fault = r.Fault.Message
	}
	if r.Signal < 0 {
		return f, nil
	}
	f.Signal = p.Compared[r.Signal].B
	var err error
	f.Expected, f.Actual, err = r.Values(p)
	return f, err
}

// nameOf names a scenario after its steps: "press mist_on, release mist_on and 3 more".
func nameOf(steps []exercise.StepForm) string {
	const told = 3
	words := []string{}
	for _, s := range steps[:min(len(steps), told)] {
		words = append(words, s.Words())
	}
	name := strings.Join(words, ", ")
	switch more := len(steps) - told; {
	case len(steps) == 0:
		return "nothing is touched"
	case more > 0:
		name += fmt.Sprintf(" and %d more", more)
	}
	return name
}

// A Strength is how many mutants the scenarios catch.
type Strength struct {
	Percent   int       `json:"percent"` // of those that count, rounded down
	Mutants   int       `json:"mutants"` // that count
	Caught    int       `json:"caught"`
	Same      int       `json:"same"` // proven to be the same as the solution; they do not count
	Kinds     []ByKind  `json:"kinds"`
	Scenarios []ByWhich `json:"scenarios"`
	Slipped   []Outcome `json:"slipped"`
}

// ByKind counts the mutants of one kind.
type ByKind struct {
	Kind    mutate.Kind `json:"kind"`
	Words   string      `json:"words"`
	Mutants int         `json:"mutants"`
	Caught  int         `json:"caught"`
}

// ByWhich counts what one scenario catches, or the rules.
type ByWhich struct {
	Scenario string `json:"scenario"` // "" of the rules
	Caught   int    `json:"caught"`
	Alone    int    `json:"alone"` // that nothing else catches
}

// Sum counts outcomes.
func (t *Trial) Sum(outcomes []Outcome) Strength {
	s := Strength{Kinds: []ByKind{}, Slipped: []Outcome{}}
	kinds := map[mutate.Kind]*ByKind{}
	for _, k := range mutate.Kinds() {
		kinds[k] = &ByKind{Kind: k, Words: k.Words()}
	}
	for _, one := range t.grader.Exercise.Scenarios {
		s.Scenarios = append(s.Scenarios, ByWhich{Scenario: one.Name})
	}
	rules := ByWhich{}
	for _, o := range outcomes {
		if !o.Counts() {
			s.Same++
			continue
		}
		s.Mutants++
		kinds[o.Kind].Mutants++
		if o.Slipped() {
			s.Slipped = append(s.Slipped, o)
			continue
		}
		s.Caught++
		kinds[o.Kind].Caught++
		ways := len(o.Caught)
		if o.Rule {
			ways++
			rules.add(ways)
		}
		for i := range s.Scenarios {
			if slices.Contains(o.Caught, s.Scenarios[i].Scenario) {
				s.Scenarios[i].add(ways)
			}
		}
	}
	if rules.Caught > 0 {
		s.Scenarios = append(s.Scenarios, rules)
	}
	for _, k := range mutate.Kinds() {
		if kinds[k].Mutants > 0 {
			s.Kinds = append(s.Kinds, *kinds[k])
		}
	}
	if s.Mutants > 0 {
		s.Percent = 100 * s.Caught / s.Mutants
	}
	return s
}

func (b *ByWhich) add(ways int) {
	b.Caught++
	if ways == 1 {
		b.Alone++
	}
}
