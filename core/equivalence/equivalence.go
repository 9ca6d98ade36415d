// Package equivalence tells whether two programs do the same, and finds the shortest script on which they do not.
//
// In comes a [Pair]: two programs, the panel that works them, what of them is compared and how strictly. Out comes a [Result]. A script
// tells two programs apart where the second does what is not allowed, and where the script is fair (fair.go): a right program that sees an
// event some scans later would do what is allowed on it.
//
// [Pair.Search] looks in four ways, each within its share of a budget that counts scans: breadth first by the number of events
// (shortest.go), at random from the states that it has reached (walk.go), scan by scan with every combination of inputs (exhaust.go), and
// by a fixed set of random scripts. A script that the last three find is made shorter. The same pair and budget give the same answer on
// every machine. The package reads no clock and grades nothing.
package equivalence

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
	Right    []*machine.Code // other programs that are right where A is; what is compared has A's names in them
	Lasting  bool            // glitches of B do not count: values that it shows for no longer than the slack, while A shows one value
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
	Same    Verdict = "same" // in every state that they can reach
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
	spent, states := 0, 0
	best := Result{Verdict: None}
	for _, look := range []func(*both) Result{
		func(b *both) Result { return (&search{both: b, budget: budget / 4}).run() },
		func(b *both) Result { return (&walk{both: b, budget: budget / 4}).run() },
		func(b *both) Result { return (&exhaustion{both: b, budget: max(budget-spent, budget/2)}).run() },
		func(b *both) Result { return b.sample(budget / 4) },
	} {
		b, err := p.start()
		if err != nil {
			return Result{}, err
		}
		r := look(b)
		spent, states = spent+b.scans, max(states, r.States)
		if r.Verdict == Differs || r.Verdict == Same {
			best = r
		}
		if r.Verdict == Differs {
			break
		}
	}
	best.Scans, best.States = spent, states
	return best, nil
}

// Apart returns a result whose script has its events further apart, so that a program that is later within the slack does the same on it;
// the result itself where such a script tells nothing.
func (p Pair) Apart(r Result) (Result, error) {
	b, err := p.start()
	if err != nil {
		return r, err
	}
	events := spread(eventsOf(r, p), 2*p.slack(nil)+1)
	if later, differs := b.tellsApart(events, r.Scan+1+last(events)); differs {
		later.Scans, later.States = r.Scans, r.States
		return later, nil
	}
	return r, nil
}

// TellsApart reports whether a script tells the two apart, and is fair. One that holds more than events, such as a force, is taken as fair.
func (p Pair) TellsApart(script *signal.Trace) (bool, error) {
	b, err := p.start()
	if err != nil {
		return false, err
	}
	if events, ok := p.events(script); ok {
		_, differs := b.tellsApart(events, script.Scans)
		return differs, nil
	}
	want, err := b.plays(0, script)
	if err != nil {
		return false, err
	}
	got, err := b.plays(1, script)
	if err != nil {
		return true, nil
	}
	_, differs := b.difference(b.expected(want), want, got)
	return differs, nil
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
