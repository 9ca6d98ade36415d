package machine

import "math"

// A line is a value that moves evenly from one cycle to the next.
type line struct{ at, slope int64 }

func still(v int64) line { return line{at: v} }

func (l line) plus(o line) line   { return line{l.at + o.at, l.slope + o.slope} }
func (l line) minus(o line) line  { return line{l.at - o.at, l.slope - o.slope} }
func (l line) times(f int64) line { return line{l.at * f, l.slope * f} }
func (l line) moves() bool        { return l.slope != 0 }

// Beyond these no line is followed, so that nothing here overflows in the longest run.
const (
	farthest = 1 << 61
	steepest = 1 << 36
)

func (l line) near() bool {
	return l.at > -farthest && l.at < farthest && l.slope > -steepest && l.slope < steepest
}

// A span is how many cycles, after the first, everything found holds for; less than none where something cannot be told.
type span struct{ most int64 }

const unforeseen = -1

func (s *span) end(after int64) { s.most = min(s.most, after) }

// fail notes that something cannot be told.
func (s *span) fail() { s.most = unforeseen }

// near fails for lines, of which any moves, that could overflow, and reports whether it did not.
func (s *span) near(x, y line) bool {
	if !x.moves() && !y.moves() || x.near() && y.near() {
		return true
	}
	s.fail()
	return false
}

// stays ends the span where a line that is negative no longer is, or the other way round, and reports which it is.
func (s *span) stays(l line) (negative bool) {
	switch {
	case l.at < 0 && l.slope > 0:
		s.end((-l.at - 1) / l.slope)
	case l.at >= 0 && l.slope < 0:
		s.end(l.at / -l.slope)
	}
	return l.at < 0
}

// less reports x < y, and ends the span where that changes.
func (s *span) less(x, y line) bool {
	if !x.moves() && !y.moves() {
		return x.at < y.at
	}
	return s.near(x, y) && s.stays(x.minus(y))
}

// same ends the span where two lines part or meet.
func (s *span) same(x, y line) {
	apart := x.minus(y)
	switch {
	case !apart.moves() || !s.near(x, y):
	case apart.at == 0:
		s.end(0)
	case apart.at%apart.slope == 0 && (apart.at < 0) != (apart.slope < 0):
		s.end(-apart.at/apart.slope - 1)
	}
}

// within ends the span where a line leaves limits that it is within.
func (s *span) within(l line, low, high int64) {
	if l.moves() {
		s.less(l, still(max(low, -farthest+1)))
		s.less(still(min(high, farthest-1)), l)
	}
}

// lesser is the lesser of two lines, as it is in the first cycle and stays.
func (s *span) lesser(x, y line) line {
	if s.less(y, x) {
		return y
	}
	return x
}

// quotient divides by a number, not zero, and truncates. A line that does not move by whole multiples gives a quotient that stands
// still until the next multiple.
func (s *span) quotient(x line, by int64) (quotient, rest line) {
	quotient, rest = still(x.at/by), still(x.at%by)
	if !x.moves() {
		return quotient, rest
	}
	if by == math.MinInt64 || !s.near(x, x) {
		s.fail()
		return quotient, rest
	}
	s.stays(x)
	if x.slope%by == 0 {
		quotient.slope = x.slope / by
		return quotient, rest
	}
	size := max(by, -by)
	low := x.at - x.at%by
	if x.at < 0 {
		low -= size - 1
	}
	s.within(x, low, low+size-1)
	rest.slope = x.slope
	return quotient, rest
}
