// Package compare tells where two recorded columns differ by more than is allowed.
//
// In come what is expected, what was recorded and how far the one may be from the other; out comes the first scan at which they differ.
// [Columns] walks segments, so that it costs what happened, not how long it took. [Follower] does the same scan by scan, for
// those who look for a difference as they go. Neither knows where the columns come from.
package compare

import (
	"math"
	"slices"

	"celandine/core/exercise"
	"celandine/core/signal"
)

// A Tolerance is how far a signal may be from what is expected of it.
type Tolerance struct {
	Slack      int     // scans
	Drift      int     // scans that a change may be off further than the one before it
	Numeric    bool    // compared by how far its values are off; else by its steps
	Within     int64   // of whole numbers, and of times in nanoseconds
	WithinReal float64 // of reals
}

// Columns returns the first scan at which two columns of the same or of kindred kinds differ, over the scans from 0 up to but
// without scans, with the ignored windows cut out.
//
// A stepped signal must take the same values in the same order, each change within slack scans of its partner, so that a missing or an
// extra one-scan pulse never passes. Before the first scan both sides have their kind's first value. A change whose partner would lie
// beyond the end, or in an ignored window, needs none. The first difference is the earlier of the two changes that found no
// partner. A numeric signal must be within so much of the expected value, except within slack scans of the expected steps. Both walk
// what happened; a slope counts as one.
func Columns(expected, actual *signal.Column, scans int, t Tolerance, ignore []exercise.Window) (scan int, differs bool) {
	if expected.Same(actual) {
		return 0, false
	}
	for _, k := range keep(scans, ignore) {
		if t.Numeric {
			scan, differs = compareNumbers(expected, actual, k, t)
		} else {
			scan, differs = compareSteps(expected, actual, k, t)
		}
		if differs {
			return scan, true
		}
	}
	return 0, false
}

// stretch is scans that are compared: from is in, to is out. The last ends with the run.
type stretch struct {
	from, to int
	last     bool
}

// keep returns what is left of the scans without the ignored windows.
func keep(scans int, ignore []exercise.Window) (list []stretch) {
	ignore = slices.Clone(ignore)
	slices.SortFunc(ignore, func(a, b exercise.Window) int { return a.From - b.From })
	from := 0
	for _, w := range append(ignore, exercise.Window{From: scans, To: scans}) {
		if to := min(w.From, scans); to > from {
			list = append(list, stretch{from, to, to == scans})
		}
		from = max(from, w.To)
	}
	return list
}

// Equal reports whether a value of one column is a value of another, whose kinds may be two kinds of number.
func Equal(a *signal.Column, x int64, b *signal.Column, y int64) bool {
	switch {
	case a.Kind == signal.Text || b.Kind == signal.Text:
		return a.Kind == b.Kind && a.Format(x) == b.Format(y)
	case a.Kind == signal.Real || b.Kind == signal.Real:
		p, q := real(a, x), real(b, y)
		return p == q || p != p && q != q
	case a.Kind != b.Kind && (x < 0 || y < 0): // a negative number is no unsigned one
		return false
	}
	return x == y
}

func real(c *signal.Column, v int64) float64 {
	switch c.Kind {
	case signal.Real:
		return signal.RealOf(v)
	case signal.Uint:
		return float64(uint64(v))
	}
	return float64(v)
}

// steps are the moves of a column in a stretch, taken from the front one change, or some changes of a slope, at a time.
type steps struct {
	column *signal.Column
	moves  []signal.Move
}

// stepsOf takes the moves of a column in a stretch. In the run's first the signal begins with what it is expected to begin with.
func stepsOf(c, expected *signal.Column, k stretch) steps {
	s := steps{c, c.Moves(k.from, k.to)}
	if k.from == 0 && len(s.moves) > 0 && begins(expected, c, s.moves[0].Value) {
		s.moves = s.moves[1:] // it changes nothing
	}
	return s
}

// begins reports the value that a signal of a column's kind has before the first scan: zero, FALSE, no text, or an
// enumeration's first name.
func begins(kind, c *signal.Column, v int64) bool {
	switch {
	case kind.Named && len(kind.Texts) > 0:
		return Equal(kind, 0, c, v)
	case kind.Kind == signal.Text:
		return c.Kind == signal.Text && c.Format(v) == ""
	}
	return real(c, v) == 0
}

func (s *steps) empty() bool { return len(s.moves) == 0 }

// ends is the scan from which the front's value holds no more.
func (s *steps) ends(k stretch) int {
	switch {
	case s.moves[0].Count > 1:
		return s.moves[0].Scan + 1
	case len(s.moves) > 1:
		return s.moves[1].Scan
	}
	return k.to
}

// drop takes n changes from the front move.
func (s *steps) drop(n int) {
	m := &s.moves[0]
	if m.Count -= n; m.Count == 0 {
		s.moves = s.moves[1:]
		return
	}
	m.Scan += n
	m.Value += m.Slope * int64(n)
}

// spared reports whether the front needs no partner: it ends so soon after a window, or begins so late before the end or
// a window, that its partner may lie there.
func (s *steps) spared(k stretch, reach int) bool {
	return k.from > 0 && s.ends(k)-k.from <= reach || s.moves[0].Scan+reach >= k.to
}

func compareSteps(expected, actual *signal.Column, k stretch, t Tolerance) (int, bool) {
	e, a := stepsOf(expected, expected, k), stepsOf(actual, expected, k)
	off := 0 // of the last change
	for !e.empty() && !a.empty() {
		x, y := e.moves[0], a.moves[0]
		now := y.Scan - x.Scan
		if Equal(expected, x.Value, actual, y.Value) && (near(now, 0, t.Slack) || near(now, off, t.Drift)) {
			n := alike(x, y)
			e.drop(n)
			a.drop(n)
			off = now
			continue
		}
		reach := max(t.Slack, abs(off)+t.Drift)
		switch {
		case e.spared(k, reach) && (x.Scan <= y.Scan || !a.spared(k, reach)):
			e.drop(1)
		case a.spared(k, reach):
			a.drop(1)
		default:
			return min(x.Scan, y.Scan), true
		}
	}
	for _, s := range []*steps{&e, &a} {
		if s.empty() {
			continue
		}
		if first := s.moves[0].Scan; k.last && t.Drift == 0 && s.returns() {
			return first, true // a pulse is missing, or one too many, however near the end
		}
		for ; !s.empty(); s.drop(1) {
			if !s.spared(k, max(t.Slack, abs(off)+t.Drift)) {
				return s.moves[0].Scan, true
			}
		}
	}
	return 0, false
}

// returns reports whether what is left ends at the value that it began from.
func (s *steps) returns() bool {
	before := int64(0)
	if at := s.moves[0].Scan; at > 0 {
		before = s.column.At(at - 1)
	}
	return Equal(s.column, before, s.column, s.moves[len(s.moves)-1].Last())
}

// alike is how many changes at the front of two moves are the same: slopes of one steepness go on together.
func alike(x, y signal.Move) int {
	if x.Slope != y.Slope {
		return 1
	}
	return min(x.Count, y.Count)
}

func near(a, b, within int) bool { return abs(a-b) <= within }

func abs(v int) int {
	if v < 0 {
		return -v
	}
	return v
}

// beyond reports whether two values at a scan are further apart than allowed.
func (t Tolerance) beyond(expected, actual *signal.Column, scan int) bool {
	return t.apart(expected, expected.At(scan), actual, actual.At(scan))
}

// apart reports whether two values are further apart than allowed.
func (t Tolerance) apart(expected *signal.Column, x int64, actual *signal.Column, y int64) bool {
	if expected.Kind == signal.Real || actual.Kind == signal.Real {
		p, q := real(expected, x), real(actual, y)
		return p != q && !(p != p && q != q) && !(math.Abs(p-q) <= t.WithinReal)
	}
	if expected.Kind != actual.Kind && (x < 0 || y < 0) {
		return true
	}
	return distance(x, y, expected.Kind == signal.Uint) > uint64(t.Within)
}

// distance is how far two whole numbers of 64 bits are apart.
func distance(x, y int64, unsigned bool) uint64 {
	if x > y && !unsigned || unsigned && uint64(x) > uint64(y) {
		x, y = y, x
	}
	return uint64(y) - uint64(x)
}

// compareNumbers looks at each stretch on which both columns are straight, so that the gap grows or shrinks evenly.
func compareNumbers(expected, actual *signal.Column, k stretch, t Tolerance) (int, bool) {
	excused := excuses(expected, t.Slack)
	for _, straight := range straights(expected, actual, k) {
		for from := straight.from; from < straight.to; {
			for len(excused) > 0 && excused[0].to <= from {
				excused = excused[1:]
			}
			to, look := straight.to, firstBeyond
			switch {
			case len(excused) > 0 && excused[0].from <= from && !excused[0].climb:
				from = excused[0].to
				continue
			case len(excused) > 0 && excused[0].from <= from:
				to, look = min(to, excused[0].to), strays
			case len(excused) > 0:
				to = min(to, excused[0].from)
			}
			if scan, differs := look(expected, actual, stretch{from: from, to: to}, t); differs {
				return scan, true
			}
			from = to
		}
	}
	return 0, false
}

// straights cuts a stretch where a segment of either column begins.
func straights(a, b *signal.Column, k stretch) (list []stretch) {
	from, i, j := k.from, 0, 0
	first, second := a.Segments(), b.Segments()
	for from < k.to {
		for i < len(first) && first[i].Scan <= from {
			i++
		}
		for j < len(second) && second[j].Scan <= from {
			j++
		}
		to := k.to
		if i < len(first) {
			to = min(to, first[i].Scan)
		}
		if j < len(second) {
			to = min(to, second[j].Scan)
		}
		list = append(list, stretch{from: from, to: to})
		from = to
	}
	return list
}

// firstBeyond finds where an even gap leaves what is allowed: it does so once.
func firstBeyond(expected, actual *signal.Column, k stretch, t Tolerance) (int, bool) {
	low, high := k.from, k.to-1
	if t.beyond(expected, actual, low) {
		return low, true
	}
	if !t.beyond(expected, actual, high) {
		return 0, false
	}
	for high-low > 1 {
		if middle := (low + high) / 2; t.beyond(expected, actual, middle) {
			high = middle
		} else {
			low = middle
		}
	}
	return high, true
}
