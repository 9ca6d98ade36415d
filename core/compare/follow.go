package compare

import (
	"encoding/binary"
	"slices"

	"celandine/core/signal"
)

// A Follower compares what two runs do while they go on, scan by scan. It suspects every difference that [Columns] would find once the
// runs have gone on for a while without an end or a window, and now and then one that it would not: who follows a suspicion asks Columns.
type Follower struct {
	signals []followed
}

// followed is one signal of both sides.
type followed struct {
	Tolerance
	kind     signal.Kind
	now      [2]int64 // expected, actual
	changed  bool     // in the last scan
	waiting  []change // of one side, the oldest first
	ahead    int      // which side that is
	off      int      // by how many scans the last change of the actual side came later
	slope    int64    // of a number: by how much the expected value changed last
	stepped  int      // scans since the expected value left an even course
	even     int      // scans since it bent
	crowded  bool     // bends come one upon the other
	used     bool     // a value was excused near the last jump
	cleared  bool     // a suspicion since the last bend came to nothing
	straying int      // scans since a number went beyond what is allowed; 0 where it did not
}

// change is a value that one side has taken and the other has not.
type change struct {
	value int64
	age   int // scans
}

// NewFollower returns a follower of signals by their tolerances, kinds and the values that they have before the first scan.
func NewFollower(tolerances []Tolerance, kinds []signal.Kind, begin []int64) *Follower {
	f := &Follower{}
	for i, t := range tolerances {
		f.signals = append(f.signals, followed{Tolerance: t, kind: kinds[i], now: [2]int64{begin[i], begin[i]}, stepped: t.far(), even: t.far()})
	}
	return f
}

// Copy returns a follower that goes on by itself from here.
func (f *Follower) Copy() *Follower {
	out := &Follower{slices.Clone(f.signals)}
	for i := range out.signals {
		out.signals[i].waiting = slices.Clone(out.signals[i].waiting)
	}
	return out
}

// Step takes the values of both sides at the end of a scan and returns the number of a signal that may differ by now, or -1.
func (f *Follower) Step(expected, actual []int64) int { return f.after(1, expected, actual) }

// Skip takes the values at the end of scans in which no value but elapsed times changed, and these evenly.
func (f *Follower) Skip(scans int, expected, actual []int64) int {
	return f.after(scans, expected, actual)
}

func (f *Follower) after(scans int, expected, actual []int64) int {
	suspect := -1
	for i := range f.signals {
		s := &f.signals[i]
		differs := false
		if s.Numeric {
			differs = s.number(scans, expected[i], actual[i])
		} else {
			differs = s.steps(scans, expected[i], actual[i])
		}
		if differs && suspect < 0 {
			suspect = i
		}
	}
	return suspect
}

// Waits reports whether what comes of the last scans is not settled yet: a change has no partner yet, or was just made.
func (f *Follower) Waits() bool {
	return slices.ContainsFunc(f.signals, func(s followed) bool { return len(s.waiting) > 0 || s.straying > 0 || !s.Numeric && s.changed })
}

// Forget drops what is waited for after a suspicion that came to nothing.
func (f *Follower) Forget() {
	for i := range f.signals {
		f.signals[i].waiting, f.signals[i].straying, f.signals[i].cleared = nil, 0, true
	}
}

// steps compares changes by their order.
func (s *followed) steps(scans int, expected, actual int64) bool {
	for i := range s.waiting {
		s.waiting[i].age += scans
	}
	values := [2]int64{expected, actual}
	s.changed = values != s.now
	for side, v := range values {
		if v == s.now[side] {
			continue
		}
		s.now[side] = v
		if len(s.waiting) == 0 || s.ahead == side {
			s.ahead, s.waiting = side, append(s.waiting, change{v, 0})
			continue
		}
		head := s.waiting[0]
		now := head.age // by how much this side came later
		if s.ahead == 1 {
			now = -now
		}
		if head.value != v || !near(now, 0, s.Slack) && !near(now, s.off, s.Drift) {
			return true
		}
		s.waiting, s.off = s.waiting[1:], now
	}
	return len(s.waiting) > 0 && s.waiting[0].age > s.reach()
}

func (s *followed) reach() int { return max(s.Slack, abs(s.off)+s.Drift) }

// number compares how far values are apart. Near a jump of the expected value any value is excused. What is a jump shows only afterwards,
// and jumps that come one upon the other have finer rules: a value that was excused there is suspect.
func (s *followed) number(scans int, expected, actual int64) (suspect bool) {
	slope := expected - s.now[0]
	s.changed = slope != 0
	s.now = [2]int64{expected, actual}
	switch {
	case scans > 1: // evenly
		s.stepped, s.even = min(s.stepped+scans, s.far()), min(s.even+scans, s.far())
	default:
		suspect = s.bend(slope)
	}
	a, b := &signal.Column{Kind: s.kind}, &signal.Column{Kind: s.kind}
	apart := s.apart(a, expected, b, actual)
	switch {
	case s.straying > 0 && s.stepped == 0 && s.straying <= s.Slack:
		s.straying, s.used = 0, true
	case s.straying > 0:
		s.straying += scans
	case apart && s.stepped <= s.Slack && s.Slack > 0:
		s.used = true
	case apart:
		s.straying = 1
	}
	return suspect || s.straying > s.Slack || s.used && s.crowded && !s.cleared
}

// far is so many scans after a jump that it no longer counts.
func (t Tolerance) far() int { return 2*t.Slack + 3 }

// bend notes how the expected value goes on, and reports whether what was excused is in doubt by that.
func (s *followed) bend(slope int64) (doubt bool) {
	back := s.stepped == 0 // it jumped in the scan before
	turns := slope != s.slope
	s.slope = slope
	s.stepped, s.even = min(s.stepped+1, s.far()), min(s.even+1, s.far())
	switch {
	case !turns && back && slope != 0: // no jump, but where a slope begins
		doubt, s.used, s.stepped = s.used, false, s.far()
	case turns && back && slope != 0: // one upon another
		s.crowded, s.stepped = true, 0
	case turns && !back:
		s.crowded = s.even <= 2*s.Slack+2
		doubt = s.used && s.crowded
		s.used = s.used && s.crowded
		if slope != 0 {
			s.stepped = 0
		}
	}
	if turns {
		s.even, s.cleared = 0, false
	}
	return doubt
}

// Pose appends what of the follower's state decides what it will say: two in the same pose say the same of the same values.
func (f *Follower) Pose(pose []byte) []byte {
	for i := range f.signals {
		s := &f.signals[i]
		pose = binary.AppendVarint(pose, s.now[0])
		pose = binary.AppendVarint(pose, s.now[1])
		pose = binary.AppendVarint(pose, int64(len(s.waiting)))
		numbers := []int{s.ahead}
		for _, c := range s.waiting {
			pose = binary.AppendVarint(pose, c.value)
			numbers = append(numbers, c.age)
		}
		if s.Drift > 0 {
			numbers = append(numbers, s.off)
		}
		if s.Numeric {
			pose = binary.AppendVarint(pose, s.slope)
			numbers = append(numbers, s.stepped, s.even, s.straying, flag(s.crowded), flag(s.used), flag(s.cleared))
		}
		for _, n := range numbers {
			pose = binary.AppendVarint(pose, int64(n))
		}
	}
	return pose
}

func flag(b bool) int {
	if b {
		return 1
	}
	return 0
}
