// Package differ looks for the shortest script on which two programs differ.
//
// In comes a [Pair]: two programs, the panel that works them, and what of them is compared and how strictly. Out comes a [Result]: the
// script with the fewest events, and of those the shortest, on which they differ; or that they are the same, when every state that they can
// reach together was seen; or that none was found within so many scans. An event is one device worked once, a value written from outside, or a loss
// of supply.
//
// First [Pair.Search] goes breadth first over the states of both and the next events (search.go), at the times that matter: the next scans,
// and just before, at and just after every scan in which anything but an elapsed time changes. Still time is skipped. What it does not find
// within a quarter of its budget is looked for scan by scan, with every combination of inputs (prove.go); where that comes to an end, the
// two are the same. The budget counts scans, so that the answer is the same bytes on every host. Programs of logic alone are tried
// beforehand with 64 combinations of inputs at once (lanes.go). The package reads no clock and grades nothing.
package differ

import (
	"time"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
)

// A Pair is two programs that are worked by the same panel.
type Pair struct {
	A, B     *machine.Code // A is what is expected
	Period   time.Duration
	Inputs   []exercise.Point
	Writes   []signal.Act // what may be written from outside, at any scan: names and values
	Compared []Compared
}

// Compared is a value of A, the value of B that should be the same, and how far that may be from it.
type Compared struct {
	A, B string
	compare.Tolerance
}

// A Verdict is what a search came to.
type Verdict string

// The verdicts.
const (
	Differs Verdict = "differs"
	Same    Verdict = "same" // beyond what is allowed, in every state that they can reach
	None    Verdict = "none" // was found within the budget
)

// A Result is the answer about a pair.
type Result struct {
	Verdict Verdict
	Script  *signal.Trace // on which they differ
	Events  int           // of the script
	Signal  int           // the number of what differs first, or -1 where a run ends in a fault
	Scan    int           // at which it does
	Fault   *machine.Fault
	Scans   int // that were executed, of both programs each
	States  int // that were seen
}

// Budget is how many scans a search executes where nobody says otherwise.
const Budget = 200_000

// Search looks for a difference within a budget of scans. An error tells what keeps the two from being worked by the panel.
func (p Pair) Search(budget int) (Result, error) {
	both, err := p.start()
	if err != nil {
		return Result{}, err
	}
	if l := both.logicOf(); l != nil {
		if same, states := l.same(both, budget/4); same {
			return Result{Verdict: Same, Scans: both.scans, States: states}, nil
		}
	}
	s := &search{both: both, budget: both.scans + budget/4}
	if s.run(); s.best.Verdict == Differs {
		s.best.Scans, s.best.States = both.scans, s.states
		return s.best, nil
	}
	again, err := p.start()
	if err != nil {
		return Result{}, err
	}
	r := (&proof{both: again, budget: max(budget-both.scans, budget/2)}).run()
	r.Scans, r.States = both.scans+again.scans, max(s.states, r.States)
	return r, nil
}

// Values are what both programs show at the scan at which they differ, as JSON has them.
func (r Result) Values(p Pair) (expected, actual any, err error) {
	b, err := p.start()
	if err != nil {
		return nil, nil, err
	}
	runs := [2]*machine.Run{}
	for side := range runs {
		if runs[side], err = b.plays(side, r.Script); err != nil {
			return nil, nil, err
		}
	}
	a, c := runs[0].Trace.Columns[r.Signal], runs[1].Trace.Columns[r.Signal]
	return a.JSON(a.At(r.Scan)), c.JSON(c.At(r.Scan)), nil
}
