package strength

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/differ"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/signal"
)

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

// Between looks for the shortest script on which a program differs from another, such as the solution. Where one of them lacks something
// that is graded they are never said to be the same.
func Between(g *grade.Grader, right, other *grade.Handin, budget int) (differ.Verdict, *Found, error) {
	pair, whole, err := PairOf(g, right, other)
	if err != nil {
		return "", nil, err
	}
	r, err := pair.Search(budget)
	if r.Verdict == differ.Same && !whole {
		return differ.None, nil, err
	}
	if err != nil || r.Verdict != differ.Differs {
		return r.Verdict, nil, err
	}
	f, err := found(pair, r)
	return r.Verdict, f, err
}

// PairOf puts two marked programs beside each other; whole tells that both have all that is graded.
func PairOf(g *grade.Grader, a, b *grade.Handin) (p differ.Pair, whole bool, err error) {
	p = differ.Pair{A: a.Code(), B: b.Code(), Period: g.Exercise.Period, Inputs: g.Exercise.Inputs, Writes: written(g.Exercise)}
	if p.A == nil || p.B == nil {
		return p, false, fmt.Errorf("one of the programs has errors")
	}
	expected, actual := a.Graded(), b.Graded()
	for i, t := range g.Tolerances() {
		if expected[i] != "" && actual[i] != "" {
			p.Compared = append(p.Compared, differ.Compared{A: expected[i], B: actual[i], Tolerance: t})
		}
	}
	return p, len(p.Compared) == len(g.Tolerances()), nil
}

// written lists what the scenarios write from outside, each once.
func written(e *exercise.Exercise) (list []signal.Act) {
	for _, s := range e.Scenarios {
		for _, act := range s.Script.Acts {
			one := signal.Act{Verb: act.Verb, Name: act.Name, Value: act.Value}
			if act.Verb == signal.Write && !slices.Contains(list, one) {
				list = append(list, one)
			}
		}
	}
	return list
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
