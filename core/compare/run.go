package compare

import (
	"celandine/core/exercise"
	"celandine/core/signal"
)

// Expected is what is expected of one run, and how far a run may be from it. It is the one definition of what an exercise allows: marks,
// the search for a difference, strength and mistake names all ask it.
type Expected struct {
	Columns    []*signal.Column // of each thing that is graded
	Tolerances []Tolerance      // of each
	Scans      int              // that the run must last; it lasts less where it ends in a fault
	Ignore     []exercise.Window
}

// A Judgement is what became of one thing that is graded.
type Judgement struct {
	Outcome Outcome
	Scan    int // of the first difference, or the scan before which the run ended
}

// An Outcome is why a thing is right, or what is wrong with it.
type Outcome int

// The outcomes.
const (
	Right     Outcome = iota
	Differs           // more than is allowed
	Missing           // the run has no such value
	OtherKind         // it is of a kind that cannot be compared with what is expected
	Ended             // right as far as it went, but the run ended too early
)

// Judge compares one thing that is graded, by its number, with what a run of so many scans recorded; nil where it recorded nothing.
func (e Expected) Judge(n int, actual *signal.Column, scans int) Judgement {
	want := e.Columns[n]
	switch {
	case actual == nil || scans > 0 && actual.Empty() && !want.Empty():
		return Judgement{Outcome: Missing}
	case !Kindred(want.Kind, actual.Kind):
		return Judgement{Outcome: OtherKind}
	}
	if scan, differs := Columns(want, actual, min(scans, e.Scans), e.Tolerances[n], e.Ignore); differs {
		return Judgement{Differs, scan}
	}
	if scans < e.Scans {
		return Judgement{Ended, scans}
	}
	return Judgement{}
}

// First returns the number of the thing that is the first to be wrong in a run, and what is wrong; -1 where the run is allowed.
func (e Expected) First(actual []*signal.Column, scans int) (n int, first Judgement) {
	n = -1
	for i, c := range actual {
		j := e.Judge(i, c, scans)
		if j.Outcome != Right && (n < 0 || j.Scan < first.Scan) {
			n, first = i, j
		}
	}
	return n, first
}

// Allows reports whether a run is allowed.
func (e Expected) Allows(actual []*signal.Column, scans int) bool {
	n, _ := e.First(actual, scans)
	return n < 0
}

// Kindred reports kinds whose values can be the same.
func Kindred(a, b signal.Kind) bool {
	number := func(k signal.Kind) bool { return k == signal.Int || k == signal.Uint || k == signal.Real }
	return a == b || number(a) && number(b)
}
