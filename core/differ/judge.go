package differ

import (
	"slices"

	"celandine/core/compare"
	"celandine/core/machine"
	"celandine/core/signal"
)

// A suspicion is judged by playing its script on both programs from the start and comparing whole traces. What an exercise allows as slack
// is allowed to the program, not just to its trace: one that sees an event, or shows a value, as many scans later or earlier is right. So a
// difference counts only where what B did is not what A does either when an event comes so many scans sooner or later, or when its values
// come so much later after each return of the supply. Without this a timer that ends a scan later would be told apart by an event in just
// that scan, and a right program of another order by a loss of supply.

// judging is how many scans playing a script counts for.
const judging = 50

// judge tells what differs first in a script of so many scans, if anything does.
func (b *both) judge(events []event, scans int) (Result, bool) {
	script := b.script(events, scans+b.margin())
	expected, err := b.plays(0, script)
	if err != nil {
		return Result{}, false
	}
	actual, err := b.plays(1, script)
	if err != nil {
		return Result{}, false
	}
	r, differs := b.held(expected, actual)
	if !differs || r.Fault == nil && b.allowed(events, script.Scans, expected, actual) {
		return Result{}, false
	}
	r.Verdict, r.Script, r.Events = Differs, script, len(events)
	return r, true
}

// plays plays a script on one of the two.
func (b *both) plays(side int, script *signal.Trace) (*machine.Run, error) {
	b.scans += judging
	return [2]*machine.Code{b.A, b.B}[side].Play(b.known(side, script), b.names(side))
}

// held holds what B did to what A did.
func (b *both) held(expected, actual *machine.Run) (Result, bool) {
	scans := min(expected.Trace.Scans, actual.Trace.Scans)
	r := Result{Signal: -1, Scan: scans}
	for i, c := range b.Compared {
		scan, differs := compare.Columns(expected.Trace.Columns[i], actual.Trace.Columns[i], scans, c.Tolerance, nil)
		if differs && (r.Signal < 0 || scan < r.Scan) {
			r.Signal, r.Scan = i, scan
		}
	}
	if r.Signal >= 0 {
		return r, true
	}
	for _, run := range []*machine.Run{expected, actual} {
		if run.Fault != nil && expected.Trace.Scans != actual.Trace.Scans && run.Trace.Scans == scans {
			r.Fault = run.Fault
		}
	}
	return r, r.Fault != nil
}

// allowed reports whether each value of B is what A shows where it sees an event, or shows the value, within the slack later or earlier.
func (b *both) allowed(events []event, scans int, expected, actual *machine.Run) bool {
	slack := b.slack()
	if slack == 0 {
		return false
	}
	right := make([]bool, len(b.Compared))
	if b.alike(right, events, expected, actual) {
		return true
	}
	for i := len(events) - 1; i >= 0; i-- { // most often it is the last that came just then
		for n := range 2 * slack {
			by := [2]int{-1, 1}[n%2] * (n/2 + 1)
			for _, all := range [2]bool{false, true} {
				moved, ok := b.moved(events, i, by, all)
				if !ok {
					continue
				}
				other, err := b.plays(0, b.script(moved, scans))
				if err == nil && b.alike(right, moved, other, actual) {
					return true
				}
			}
		}
	}
	return false
}

// alike notes the values of B that are, at once or some scans later, what A shows; and reports whether that is now true of all.
func (b *both) alike(right []bool, events []event, expected, actual *machine.Run) bool {
	all := true
	scans := min(expected.Trace.Scans, actual.Trace.Scans)
	for i, c := range b.Compared {
		for by := 0; by <= c.Slack && !right[i]; by++ {
			column := expected.Trace.Columns[i]
			if by > 0 {
				if c.Numeric || column.Kind == signal.Text {
					break
				}
				column = later(column, cycles(events), expected.Trace.Scans, by)
			}
			_, differs := compare.Columns(column, actual.Trace.Columns[i], scans, c.Tolerance, nil)
			right[i] = !differs
		}
		all = all && right[i]
	}
	return all
}

// cycles are the scans at which the supply comes.
func cycles(events []event) []int {
	list := []int{0}
	for _, e := range events {
		if e.input == restart && e.scan > 0 {
			list = append(list, e.scan)
		}
	}
	return list
}

// slack is the most that any value may come later or earlier.
func (p Pair) slack() (most int) {
	for _, c := range p.Compared {
		most = max(most, c.Slack)
	}
	return most
}

// moved moves an event, or all from it on, by some scans, but never past or into another of the same input.
func (b *both) moved(events []event, i, by int, all bool) ([]event, bool) {
	if by == 0 || all && i+1 == len(events) {
		return nil, false
	}
	out := slices.Clone(events)
	for j := i; j < len(out) && (all || j == i); j++ {
		out[j].scan += by
	}
	if out[i].scan < 0 {
		return nil, false
	}
	last := map[int]int{}
	for _, e := range out {
		if before, ok := last[e.input]; ok && e.scan <= before {
			return nil, false
		}
		last[e.input] = e.scan
	}
	slices.SortStableFunc(out, func(a, b event) int { return a.scan - b.scan })
	return out, true
}

// later is a column that comes some scans later, from zero in each cycle.
func later(c *signal.Column, cycles []int, scans, by int) *signal.Column {
	values := []signal.Change{}
	for i, from := range cycles {
		to := scans
		if i+1 < len(cycles) {
			to = cycles[i+1]
		}
		values = append(values, signal.Change{Scan: from, Value: 0})
		for _, change := range c.Changes(from, to) {
			if change.Scan+by < to {
				values = append(values, signal.Change{Scan: change.Scan + by, Value: change.Value})
			}
		}
	}
	return signal.Steps(c.Name, c.Kind, values)
}
