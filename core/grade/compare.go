package grade

import (
	"slices"

	"celandine/core/exercise"
	"celandine/core/signal"
)

// Compare returns the first scan at which two columns differ, over the scans
// from 0 up to but without scans, with the ignored windows cut out: what is left moves together.
//
// With within below zero the signal is stepped: both sides must take the same values in the
// same order, each change within slack scans of its partner, so that a missing or an extra one-scan pulse never
// passes. The first difference is the earlier of the two changes that found no
// partner. Otherwise the signal is numeric: it must be within that much of the expected
// value, except within slack scans of the expected steps.
func Compare(expected, actual *signal.Column, scans int, graded exercise.Graded, ignore []exercise.Window) (scan int, differs bool) {
	kept := keep(scans, ignore)
	if graded.Within < 0 {
		return compareSteps(kept.changes(expected), kept.changes(actual), graded.Slack)
	}
	for _, k := range kept {
		if scan, differs := compareNumbers(expected, actual, k.from, k.to, graded.Slack, graded.Within); differs {
			return scan, true
		}
	}
	return 0, false
}

// stretch is scans that are compared; before is how many were cut out before it.
type stretch struct{ from, to, before int }

type stretches []stretch

// keep returns what is left of the scans without the ignored windows.
func keep(scans int, ignore []exercise.Window) (list stretches) {
	ignore = slices.Clone(ignore)
	slices.SortFunc(ignore, func(a, b exercise.Window) int { return a.From - b.From })
	from, cut := 0, 0
	for _, w := range append(ignore, exercise.Window{From: scans, To: scans}) {
		if to := min(w.From, scans); to > from {
			list = append(list, stretch{from, to, cut})
		}
		if w.To > from {
			cut += w.To - max(w.From, from)
			from = w.To
		}
	}
	return list
}

// moved is a change, and where it stands once the windows are cut out.
type moved struct {
	signal.Change
	at int
}

func (s stretches) changes(c *signal.Column) (list []moved) {
	for _, k := range s {
		for _, change := range c.Changes(k.from, k.to) {
			if n := len(list); n == 0 || list[n-1].Value != change.Value {
				list = append(list, moved{change, change.Scan - k.before})
			}
		}
	}
	return list
}

func compareSteps(expected, actual []moved, slack int) (int, bool) {
	for i := 0; i < len(expected) || i < len(actual); i++ {
		switch {
		case i >= len(actual):
			return expected[i].Scan, true
		case i >= len(expected):
			return actual[i].Scan, true
		}
		e, a := expected[i], actual[i]
		if e.Value != a.Value || e.at-a.at > slack || a.at-e.at > slack {
			return min(e.Scan, a.Scan), true
		}
	}
	return 0, false
}

func compareNumbers(expected, actual *signal.Column, from, to, slack int, within int64) (int, bool) {
	excused := steps(expected, slack)
	bounds := boundaries(expected, actual, from, to)
	for i := 0; i+1 < len(bounds); i++ {
		// Between two boundaries both are straight, so the gap grows or shrinks evenly.
		if scan, differs := firstBeyond(expected, actual, bounds[i], bounds[i+1], within, excused); differs {
			return scan, true
		}
	}
	return 0, false
}

// window is scans in which a numeric signal is not compared; both ends are in.
type window struct{ from, to int }

// steps returns the windows around the jumps of a column.
func steps(c *signal.Column, slack int) []window {
	var list []window
	for i := 1; i < len(c.Segments); i++ {
		s, before := c.Segments[i], c.Segments[i-1]
		jump := abs(s.Value - c.At(s.Scan-1))
		if slack > 0 && jump > abs(before.Slope) && jump > abs(s.Slope) {
			list = append(list, window{s.Scan - slack, s.Scan + slack})
		}
	}
	return list
}

func abs(v int64) int64 {
	if v < 0 {
		return -v
	}
	return v
}

// boundaries merges the scans from one on at which either column's segments begin, with
// the end of the comparison as the last.
func boundaries(a, b *signal.Column, from, scans int) []int {
	list := []int{from}
	i, j := 0, 0
	for i < len(a.Segments) || j < len(b.Segments) {
		next := scans
		if i < len(a.Segments) {
			next = min(next, a.Segments[i].Scan)
		}
		if j < len(b.Segments) {
			next = min(next, b.Segments[j].Scan)
		}
		if next >= scans {
			break
		}
		for i < len(a.Segments) && a.Segments[i].Scan <= next {
			i++
		}
		for j < len(b.Segments) && b.Segments[j].Scan <= next {
			j++
		}
		if next > from {
			list = append(list, next)
		}
	}
	return append(list, scans)
}

func firstBeyond(expected, actual *signal.Column, from, to int, within int64, excused []window) (int, bool) {
	beyond := func(scan int) bool { return abs(expected.At(scan)-actual.At(scan)) > within }
	for scan := from; scan < to; {
		if end, skip := excusedUntil(excused, scan); skip {
			scan = end + 1
			continue
		}
		last := to - 1
		for _, w := range excused {
			if w.from > scan {
				last = min(last, w.from-1)
			}
		}
		if beyond(scan) {
			return scan, true
		}
		if beyond(last) { // the first scan beyond lies between; the gap is even, so halve
			low, high := scan, last
			for high-low > 1 {
				if middle := (low + high) / 2; beyond(middle) {
					high = middle
				} else {
					low = middle
				}
			}
			return high, true
		}
		scan = last + 1
	}
	return 0, false
}

func excusedUntil(excused []window, scan int) (int, bool) {
	for _, w := range excused {
		if scan >= w.from && scan <= w.to {
			return w.to, true
		}
	}
	return 0, false
}
