package strength

import (
	"fmt"
	"slices"

	"celandine/core/equivalence"
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
	Name     string              `json:"name"` // of a scenario with these steps, which it does not tell
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

// Between looks for the shortest script on which a program differs from a right one. Before they are called the same their marks are
// compared: where these differ, the scenario in which they do is the script.
func Between(g *grade.Grader, right *Reference, other *grade.Handin, budget int) (equivalence.Verdict, *Found, error) {
	asFound := func(_ equivalence.Pair, r equivalence.Result) (equivalence.Result, error) { return r, nil }
	verdict, f, err := search(g, right, other, budget, asFound)
	if err != nil || verdict == equivalence.Differs {
		return verdict, f, err
	}
	for i, s := range g.Exercise.Scenarios {
		if f := marked(g, s, right.Result.Scenarios[i], other.Result.Scenarios[i]); f != nil {
			return equivalence.Differs, f, nil
		}
	}
	return verdict, nil, nil
}

// search looks for a fair script, and prefers another like it. Where one of the programs lacks something that is graded they are
// never said to be the same.
func search(g *grade.Grader, right *Reference, other *grade.Handin, budget int,
	prefer func(equivalence.Pair, equivalence.Result) (equivalence.Result, error)) (equivalence.Verdict, *Found, error) {
	pair, whole, err := PairOf(g, right, other)
	if err != nil {
		return "", nil, err
	}
	r, err := pair.Search(budget)
	if err != nil {
		return "", nil, err
	}
	if r.Verdict == equivalence.Differs {
		if r, err = prefer(pair, r); err != nil {
			return "", nil, err
		}
		f, err := found(pair, r)
		return r.Verdict, f, err
	}
	if !whole {
		return equivalence.None, nil, nil
	}
	return r.Verdict, nil, nil
}

// marked is the difference that a scenario's marks show; nil where they are the same.
func marked(g *grade.Grader, s exercise.Scenario, right, other grade.Scenario) *Found {
	if right.Earned == other.Earned {
		return nil
	}
	f := &Found{Name: s.Name, For: s.Script.Scans, Steps: exercise.StepsByHand(g.Exercise.Inputs, s.Script, nil), Script: s.Script}
	for _, one := range []grade.Scenario{other, right} {
		if one.Fault != nil {
			f.Scan, f.Fault = one.Fault.Scan, one.Fault.Message
			return f
		}
		for _, part := range one.Signals {
			switch {
			case part.OK:
				continue
			case part.Difference != nil:
				d := part.Difference
				f.Signal, f.Scan, f.Expected, f.Actual = part.Signal, d.Scan, d.Expected, d.Actual
			default:
				f.Fault = part.Missing
			}
			return f
		}
	}
	return f
}

// PairOf puts a marked program beside a right one; whole tells that both have all that is graded.
func PairOf(g *grade.Grader, right *Reference, other *grade.Handin) (p equivalence.Pair, whole bool, err error) {
	p = equivalence.Pair{A: right.Code(), B: other.Code(), Period: g.Exercise.Period, Inputs: g.Exercise.Inputs, Writes: written(g.Exercise),
		Right: right.others}
	if p.A == nil || p.B == nil {
		return p, false, fmt.Errorf("one of the programs has errors")
	}
	expected, actual := right.Graded(), other.Graded()
	for i, t := range g.Tolerances() {
		if expected[i] != "" && actual[i] != "" {
			p.Compared = append(p.Compared, equivalence.Compared{A: expected[i], B: actual[i], Tolerance: t})
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
func found(p equivalence.Pair, r equivalence.Result) (*Found, error) {
	f := &Found{Scan: r.Scan, For: r.Script.Scans, Steps: exercise.StepsByHand(p.Inputs, r.Script, nil), Script: r.Script}
	f.Name = "another case"
	if r.Fault != nil {
		f.Fault = r.Fault.Message
	}
	if r.Signal < 0 {
		return f, nil
	}
	f.Signal = p.Compared[r.Signal].B
	f.Name = "another case of " + p.Compared[r.Signal].A
	var err error
	f.Expected, f.Actual, err = r.Values(p)
	return f, err
}
