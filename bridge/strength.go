package bridge

import (
	"errors"

	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/strength"
	"celandine/core/workshop"
)

// How strong an exercise's scenarios are is found out in turns, so that the page can show how far it is and ask for other things in between.

// strengthBudget is how many scans one search may execute in a browser; a turn ends once so many programs were tried.
const (
	strengthBudget = equivalence.Budget
	strengthTurn   = 25
)

var onStrength = []Call{
	call("strengthBegin", (*Page).strengthBegin), call("strengthGo", (*Page).strengthGo),
	call("addScenario", func(_ *Page, in addedScenario) (changed, error) {
		return changedBy(workshop.AddScenario(in.read(), in.Name, in.Steps, in.Scans))
	}),
}

// trial is an exercise whose strength is being found out.
type trial struct {
	*strength.Trial
	outcomes []strength.Outcome
}

type addedScenario struct {
	folder
	Name  string              `json:"name"`
	Steps []exercise.StepForm `json:"steps"`
	Scans int                 `json:"scans"`
}

// trying is how far it is; the table is there at the end.
type trying struct {
	Tried   int            `json:"tried"`
	Mutants int            `json:"mutants"`
	Table   *strengthTable `json:"table"`
}

// strengthTable is the strength as the page shows it.
type strengthTable struct {
	Percent   int                `json:"percent"`
	Mutants   int                `json:"mutants"`
	Caught    int                `json:"caught"`
	Same      int                `json:"same"`
	Kinds     []strength.ByKind  `json:"kinds"`
	Scenarios []strength.ByWhich `json:"scenarios"`
	Slipped   []slipped          `json:"slipped"`
	Unfair    []string           `json:"unfair"` // scenarios that take marks off a right program, in sentences
}

// slipped is a mutant that earns full marks, and the scenario that would catch it.
type slipped struct {
	File    string              `json:"file"`
	Line    int                 `json:"line"`
	Mistake string              `json:"mistake"`
	Words   string              `json:"words"` // what differs
	Name    string              `json:"name"`  // of the scenario
	Scans   int                 `json:"scans"`
	Steps   []exercise.StepForm `json:"steps"`
	Lines   []string            `json:"lines"`
}

func (p *Page) strengthBegin(in folder) (trying, error) {
	p.trial = nil
	e, problems := exercise.Read(in.read())
	if problems.HasErrors() {
		return trying{}, errors.New("as soon as nothing is wrong with the exercise its strength can be found out")
	}
	g, problems := grade.Prepare(e)
	if problems.HasErrors() {
		return trying{}, errors.New(problems[0].Message)
	}
	t, err := strength.New(g)
	if err != nil {
		return trying{}, err
	}
	p.trial = &trial{Trial: t}
	return trying{Mutants: t.Len()}, nil
}

func (p *Page) strengthGo(nothing) (trying, error) {
	if p.trial == nil {
		return trying{}, errors.New("there is nothing whose strength is being found out")
	}
	t := p.trial
	for range min(strengthTurn, t.Len()-len(t.outcomes)) {
		o, err := t.Try(len(t.outcomes), strengthBudget)
		if err != nil {
			return trying{}, err
		}
		t.outcomes = append(t.outcomes, o)
	}
	out := trying{Tried: len(t.outcomes), Mutants: t.Len()}
	if out.Tried == out.Mutants {
		out.Table = tableOf(t.Sum(t.outcomes))
		p.trial = nil
	}
	return out, nil
}

func tableOf(s strength.Strength) *strengthTable {
	t := &strengthTable{s.Percent, s.Mutants, s.Caught, s.Same, s.Kinds, s.Scenarios, []slipped{}, []string{}}
	for _, u := range s.Unfair {
		t.Unfair = append(t.Unfair, u.Words())
	}
	for _, o := range s.Slipped {
		one := slipped{File: o.File, Line: o.Line, Mistake: o.Mistake, Steps: []exercise.StepForm{}, Lines: []string{}}
		if f := o.Found; f != nil {
			one.Words, one.Name, one.Scans, one.Steps, one.Lines = f.Words(), f.Name, f.For, append(one.Steps, f.Steps...), f.Told()
		}
		t.Slipped = append(t.Slipped, one)
	}
	return t
}
