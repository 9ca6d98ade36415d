package grade

import (
	"encoding/json"
	"errors"
	"fmt"

	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Kept trace is what a hand-in did in a scenario in which it lost marks. Everything else that a diagram shows is made again from the
// exercise and the hand-in when somebody looks.
type Kept struct {
	Scenario string        `json:"scenario"`
	Actual   *signal.Trace `json:"actual"`
}

// mostKept is how many segments are kept of a scenario's trace, some kilobytes; one that has more is made again when somebody looks.
const mostKept = 2_000

// Keep returns what to keep of a hand-in's traces: nothing where it earned everything.
func (h *Handin) Keep() (list []Kept) {
	for i, s := range h.Result.Scenarios {
		if i >= len(h.Evidence) || s.Earned == s.Points {
			continue
		}
		if did := h.Evidence[i].Actual; did.Shortened(mostKept) == did {
			list = append(list, Kept{s.Name, did})
		}
	}
	return list
}

// Record is the result as it is kept: without its hashes, which the exercise and the text give again.
func (h *Handin) Record() (json.RawMessage, error) {
	r := *h.Result
	r.Revision, r.Handin = "", ""
	return json.Marshal(r)
}

// Only is the grader for some of its exercise's scenarios: what it runs, and how long that takes, tells nothing of the others.
func (g *Grader) Only(which func(exercise.Scenario) bool) *Grader {
	some, e := *g, *g.Exercise
	e.Scenarios, some.expected, some.still, some.sways = nil, nil, nil, nil
	for i, s := range g.Exercise.Scenarios {
		if which(s) {
			e.Scenarios = append(e.Scenarios, s)
			some.expected, some.still = append(some.expected, g.expected[i]), append(some.still, g.still[i])
			if g.predicts() {
				some.sways = append(some.sways, g.sways[i])
			}
		}
	}
	some.Exercise = &e
	return &some
}

// recorded is a result as it was kept. Diagnostics name places in a text that is not there any more, so they stay as they were written.
type recorded struct {
	Result
	Diagnostics json.RawMessage `json:"diagnostics"`
}

// Recall makes the evidence of a marked hand-in for some scenarios: what it did as it was kept, or, where nothing was, by
// running it again. The result, as JSON, comes back with reasons for what was not as expected in them. A run that stop ends is
// left out; what was kept stays.
func (g *Grader) Recall(stop func() bool, result json.RawMessage, kept []Kept, file string, files []*source.File,
	which func(exercise.Scenario) bool) (json.RawMessage, []Evidence, error) {
	var r recorded
	if err := json.Unmarshal(result, &r); err != nil {
		return nil, nil, fmt.Errorf("reading a result: %w", err)
	}
	if r.Revision == "" {
		r.Revision, r.Handin = g.Exercise.Hash, hashOf(files)
	}
	some := g.Only(which)
	h := some.Read(file, files)
	err := h.Play(stop, Every)
	if err == nil {
		h.Mark()
		err = h.Explain(func(s exercise.Scenario) bool { return r.unexplained(s.Name) })
	}
	if err != nil && !errors.Is(err, machine.ErrStopped) {
		return nil, nil, err
	}
	actual := map[string]*signal.Trace{}
	for i, e := range h.Evidence {
		actual[e.Scenario] = e.Actual
		r.learn(h.Result.Scenarios[i])
	}
	for _, k := range kept {
		actual[k.Scenario] = k.Actual
	}
	list := []Evidence{}
	for i, s := range some.Exercise.Scenarios {
		did := actual[s.Name]
		if did == nil {
			did = &signal.Trace{Period: s.Script.Period}
		}
		mark := Scenario{}
		if at := r.scenario(s.Name); at != nil {
			mark = *at
		}
		list = append(list, some.evidence(i, mark, did))
	}
	explained, err := json.Marshal(r)
	return explained, list, err
}

func (r *Result) scenario(name string) *Scenario {
	for i := range r.Scenarios {
		if r.Scenarios[i].Name == name {
			return &r.Scenarios[i]
		}
	}
	return nil
}

// unexplained reports whether a scenario has a difference for which no reason is given.
func (r *Result) unexplained(name string) bool {
	s := r.scenario(name)
	if s == nil {
		return false
	}
	for _, part := range s.Signals {
		if part.Difference != nil && part.Why == nil {
			return true
		}
	}
	return false
}

// learn takes the reasons from a scenario that was run again, for those differences that are the same: another engine may have
// found others.
func (r *Result) learn(again Scenario) {
	s := r.scenario(again.Name)
	if s == nil || len(s.Signals) != len(again.Signals) {
		return
	}
	for j := range s.Signals {
		if part, new := &s.Signals[j], again.Signals[j]; part.Why == nil && part.Signal == new.Signal && sameDifference(part.Difference,
			new.Difference) {
			part.Why = new.Why
		}
	}
}

// sameDifference compares values as they are written: read back from JSON, whole numbers are others.
func sameDifference(a, b *Difference) bool {
	if a == nil || b == nil {
		return a == b
	}
	return a.Scan == b.Scan && fmt.Sprint(a.Expected, a.Actual) == fmt.Sprint(b.Expected, b.Actual)
}
