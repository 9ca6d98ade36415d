// Package strength tells how many wrong programs the scenarios of an exercise catch.
//
// In comes a [grade.Grader]; a [Trial] lists the mutants of its solutions and tries them one by one, so that progress can be shown. A
// mutant is caught where it loses marks in a scenario in which every right program keeps them ([Reference]). One that is not caught has
// slipped through; then a search looks for the shortest script that tells it from the solution, and that script is the scenario that the
// exercise lacks. A mutant that no such script is found for is not counted: it may be right. [Trial.Sum] counts. Nothing here reads a
// clock, and the same exercise gives the same bytes on every machine.
package strength

import (
	"fmt"
	"slices"
	"time"

	"celandine/core/equivalence"
	"celandine/core/grade"
	"celandine/core/mutate"
	"celandine/core/source"
)

// A Trial is an exercise whose strength is being found out.
type Trial struct {
	grader    *grade.Grader
	mutants   []variant
	solutions map[string]*Reference // by their files
}

// variant is a mutant of one of the solutions.
type variant struct {
	mutate.Mutant
	file string
}

// New makes the mutants of an exercise's solutions.
func New(g *grade.Grader) (*Trial, error) {
	g = g.Programs()
	t := &Trial{grader: g, solutions: map[string]*Reference{}}
	step := Step(g)
	for _, s := range g.Exercise.Solutions {
		right, err := ReferenceOf(g, source.NewFile(s.Name, s.Text))
		if err != nil {
			return nil, err
		}
		t.solutions[s.Name] = right
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
	File    string              `json:"file"` // the solution that it was made of
	Line    int                 `json:"line"`
	Kind    mutate.Kind         `json:"kind"`
	Mistake string              `json:"mistake"` // the contact mist_off is inverted (rung 1)
	Text    string              `json:"text,omitempty"`
	Caught  []string            `json:"caught"`            // the scenarios in which it loses marks, and no right program does
	Rule    bool                `json:"rule,omitempty"`    // a rule takes marks off
	Verdict equivalence.Verdict `json:"verdict,omitempty"` // of one that earns full marks: differs, same or none
	Found   *Found              `json:"found,omitempty"`   // where it differs
}

// Slipped reports a mutant that no scenario and no rule catches.
func (o Outcome) Slipped() bool { return len(o.Caught) == 0 && !o.Rule }

// Counts reports whether a mutant counts: it is caught, or a script tells it from the solution.
func (o Outcome) Counts() bool { return !o.Slipped() || o.Verdict == equivalence.Differs }

// Try tries a mutant. budget is how many scans a search may execute.
func (t *Trial) Try(n, budget int) (Outcome, error) {
	v := t.mutants[n]
	line, _ := v.At.File.Position(v.At.Start)
	o := Outcome{File: v.file, Line: line, Kind: v.Kind, Mistake: v.String(), Caught: []string{}}
	h, err := Read(t.grader, source.NewFile(v.file, v.Text))
	if err != nil {
		return o, err
	}
	o.Rule = slices.ContainsFunc(h.Result.Findings, func(f grade.Finding) bool { return f.Deduct > 0 })
	for i, s := range h.Result.Scenarios {
		if s.Earned < s.Points && t.solutions[v.file].unfair[i] == "" {
			o.Caught = append(o.Caught, s.Name)
		}
	}
	if !o.Slipped() {
		return o, nil
	}
	o.Text = v.Text
	o.Verdict, o.Found, err = search(t.grader, t.solutions[v.file], h, budget, equivalence.Pair.Apart)
	if err != nil {
		return o, fmt.Errorf("looking for a difference of %s: %w", o.Mistake, err)
	}
	return o, nil
}

// Read marks a program, without reasons.
func Read(g *grade.Grader, f *source.File) (*grade.Handin, error) {
	return ReadUntil(g, f, func() bool { return false })
}

// ReadUntil does the same, and ends with [machine.ErrStopped] where stop, which is asked about every million instructions, says so; so does
// whatever the program's code is then used for.
func ReadUntil(g *grade.Grader, f *source.File, stop func() bool) (*grade.Handin, error) {
	h := g.Read(f.Name, []*source.File{f})
	if err := h.Play(stop, grade.Every); err != nil {
		return nil, err
	}
	h.Mark()
	return h, nil
}
