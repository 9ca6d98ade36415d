package compare

import (
	"math"

	"celandine/core/signal"
)

// Around the expected steps of a numeric signal its value is excused within the slack, for a right program may take them a scan or two
// earlier or later. Steps that follow one another so closely that the slack around them meets, each about as large as the next and in the
// same direction, are a climb: were they all excused, a value that climbs would not be compared at all. There the value must be one
// that is expected within the slack before or after.

// A step is a change of the expected value into a scan.
type step struct {
	scan int
	size float64
}

// stepsIn lists the steps of a column. A slope of several changes is none, nor is where it begins or ends without a jump.
func stepsIn(c *signal.Column) (list []step) {
	slope, value := 0.0, 0.0 // behind the segment before: its slope, if it is one, and its last value
	segments := c.Segments()
	for i, s := range segments {
		size := real(c, s.Value) - value
		own := 0.0
		length := math.MaxInt
		if i+1 < len(segments) {
			length = segments[i+1].Scan - s.Scan
		}
		if length > 2 {
			own = float64(s.Slope)
		}
		if size != 0 && !goesOn(size, slope) && !goesOn(size, own) {
			list = append(list, step{s.Scan, size})
		}
		if s.Slope != 0 && length == 2 {
			list = append(list, step{s.Scan + 1, float64(s.Slope)})
		}
		if i+1 < len(segments) {
			value, slope = real(c, c.At(segments[i+1].Scan-1)), own
		}
	}
	return list
}

// goesOn reports whether a step is no more than a slope's.
func goesOn(size, slope float64) bool { return size*slope > 0 && math.Abs(size) <= math.Abs(slope) }

// An excuse is scans in which a value need not be the one that is expected just then.
type excuse struct {
	from, to int
	climb    bool // it must be expected within the slack all the same
}

// excuses lists the excused scans around the steps of a column, in order and apart. Where the slack around a step meets a climb, the
// step goes first.
func excuses(c *signal.Column, slack int) (list []excuse) {
	if slack == 0 {
		return nil
	}
	steps := stepsIn(c)
	for i, s := range steps {
		e := excuse{s.scan - slack, s.scan + slack + 1, i > 0 && climbs(steps[i-1], s, slack) || i+1 < len(steps) && climbs(s, steps[i+1],
			slack)}
		for n := len(list); n > 0 && list[n-1].to > e.from; n-- {
			last := &list[n-1]
			if e.climb && !last.climb {
				e.from = last.to
				break
			}
			if last.climb == e.climb {
				e.from = last.from
			} else if last.to = e.from; last.from < last.to {
				break
			}
			list = list[:n-1]
		}
		list = append(list, e)
	}
	return list
}

// climbs reports whether of two steps, one after the other, each is much like the other.
func climbs(a, b step, slack int) bool {
	x, y := math.Abs(a.size), math.Abs(b.size)
	return b.scan-a.scan <= 2*slack+1 && a.size*b.size > 0 && x <= 2*y && y <= 2*x
}

// strays finds the first scan of a climb in which a value is none of those that are expected within the slack, give or take what is
// allowed.
func strays(expected, actual *signal.Column, k stretch, t Tolerance) (int, bool) {
	for scan := k.from; scan < k.to; scan++ {
		fits := false
		for near := max(scan-t.Slack, 0); near <= scan+t.Slack && !fits; near++ {
			fits = !t.apart(expected, expected.At(near), actual, actual.At(scan))
		}
		if !fits {
			return scan, true
		}
	}
	return 0, false
}
