package compare

import (
	"encoding/binary"
	"slices"

	"celandine/core/signal"
)

// A Follower compares what two runs do while they go on, scan by scan. It suspects every difference that [Columns] would find once the
// runs have gone on for a while without an end or a window, and now and then one that it would not: who follows a suspicion asks Columns.
type Follower struct {
	Unsure  bool // a difference was excused by rules that it knows but roughly
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
		f.signals = append(f.signals, followed{Tolerance: t, kind: kinds[i], now: [2]int64{begin[i], begin[i]}, stepped: t.Slack + 1})
	}
	return f
}

// Copy returns a follower that goes on by itself from here.
func (f *Follower) Copy() *Follower {
	out := &Follower{f.Unsure, slices.Clone(f.signals)}
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
			differs = s.number(scans, expected[i], actual[i], &f.Unsure)
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
		f.signals[i].waiting, f.signals[i].straying = nil, 0
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

// number compares how far values are apart.
func (s *followed) number(scans int, expected, actual int64, unsure *bool) bool {
	slope := expected - s.now[0]
	s.changed = slope != 0
	s.stepped = min(s.stepped+scans, s.Slack+1)
	if scans == 1 {
		if slope != s.slope && slope != 0 {
			s.stepped = 0
		}
		s.slope = slope
	}
	s.now = [2]int64{expected, actual}
	a, b := &signal.Column{Kind: s.kind}, &signal.Column{Kind: s.kind}
	switch apart := s.apart(a, expected, b, actual); {
	case s.straying > 0 && s.stepped == 0 && s.straying <= s.Slack:
		s.straying, *unsure = 0, true
	case s.straying > 0:
		s.straying += scans
	case apart && s.stepped <= s.Slack && s.Slack > 0:
		*unsure = true
	case apart:
		s.straying = 1
	}
	return s.straying > s.Slack
}

// Pose appends what of the follower's state decides what it will say: two in the same pose say the same of the same values.
func (f *Follower) Pose(pose []byte) []byte {
	for i := range f.signals {
		s := &f.signals[i]
		pose = binary.AppendVarint(pose, s.now[0])
		pose = binary.AppendVarint(pose, s.now[1])
		pose = append(pose, byte(len(s.waiting)), byte(s.ahead))
		for _, c := range s.waiting {
			pose = binary.AppendVarint(binary.AppendVarint(pose, c.value), int64(c.age))
		}
		if s.Drift > 0 {
			pose = binary.AppendVarint(pose, int64(s.off))
		}
		if s.Numeric {
			pose = binary.AppendVarint(pose, s.slope)
			pose = append(pose, byte(min(s.stepped, 255)), byte(min(s.straying, 255)))
		}
	}
	return pose
}
