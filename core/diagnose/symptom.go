package diagnose

import (
	"slices"

	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
)

// A symptom is something that is seen of one signal, beside what is expected of it.
type symptom struct {
	title, words, hint string
	seen               func(want, got []*machine.Run, signal int) bool
}

// symptoms stand in the order in which they are looked for: the plainest first.
var symptoms = []symptom{
	{"never changes", "never changes", "Look at what switches it, and at where the power ends.", inEach((*signal.Column).Steady)},
	{"flickers", "changes in every scan", "Hold the button for a second and look what happens in each scan.", inSome(flickers)},
	{"never goes off again", "never goes off again", "Look at what switches it off.", inEach(staysOn)},
	{"never goes down", "never goes down", "Look at what counts it down, and at what sets it back.", inEach(oneWay(-1))},
	{"never goes up", "never goes up", "Look at what counts it up.", inEach(oneWay(1))},
	{"on for off, off for on", "is on when it should be off, and off when it should be on", "Look at what each contact does at rest.",
		opposite},
	{"on when it should be off", "is on when it should be off", "Look at what must switch it off, or keep it off.", only(1)},
	{"off when it should be on", "is off when it should be on", "Look at what must switch it on, or keep it on.", only(0)},
}

// inEach reports what shows in every scenario of what was got, and not in every one of what is wanted.
func inEach(shows func(c *signal.Column, scans int) bool) func(want, got []*machine.Run, n int) bool {
	each := func(runs []*machine.Run, n int) bool {
		return !slices.ContainsFunc(runs, func(r *machine.Run) bool {
			c := r.Trace.Columns[n]
			return c.Empty() || !shows(c, r.Trace.Scans)
		})
	}
	return func(want, got []*machine.Run, n int) bool { return each(got, n) && !each(want, n) }
}

func inSome(shows func(c *signal.Column, scans int) bool) func(want, got []*machine.Run, n int) bool {
	some := func(runs []*machine.Run, n int) bool {
		return slices.ContainsFunc(runs, func(r *machine.Run) bool { return shows(r.Trace.Columns[n], r.Trace.Scans) })
	}
	return func(want, got []*machine.Run, n int) bool { return some(got, n) && !some(want, n) }
}

func staysOn(c *signal.Column, scans int) bool {
	_, falls := c.Edges(0, scans)
	return c.Kind == signal.Bool && falls == 0
}

// oneWay reports a whole number that never changes in one direction.
func oneWay(sign int64) func(c *signal.Column, scans int) bool {
	return func(c *signal.Column, scans int) bool {
		if c.Kind != signal.Int {
			return false
		}
		before := int64(0)
		for change := range c.Stream(0, scans) {
			if (change.Value-before)*sign > 0 {
				return false
			}
			before = change.Value
		}
		return true
	}
}

// opposite reports a BOOL that is in every scan what it should not be.
func opposite(want, got []*machine.Run, n int) bool {
	same, on, off := apart(want, got, n)
	return same == 0 && on+off > 0
}

// only reports a BOOL that is wrong only by being on, or only by being off.
func only(value int) func(want, got []*machine.Run, n int) bool {
	return func(want, got []*machine.Run, n int) bool {
		_, on, off := apart(want, got, n)
		return value == 1 && on > 0 && off == 0 || value == 0 && off > 0 && on == 0
	}
}

// apart counts the scans in which a BOOL is what it should be, is on where it should be off, and is off where it should be on. What lasts
// no longer than the usual slack counts as neither.
func apart(want, got []*machine.Run, n int) (same, on, off int) {
	for i := range want {
		a, b := want[i].Trace.Columns[n], got[i].Trace.Columns[n]
		if a.Kind != signal.Bool || b.Empty() || b.Kind != signal.Bool {
			return 0, 0, 0
		}
		scans := got[i].Trace.Scans
		moments := []int{0, scans}
		for _, c := range []*signal.Column{a, b} {
			for change := range c.Stream(0, scans) {
				moments = append(moments, change.Scan)
			}
		}
		slices.Sort(moments)
		for k := range len(moments) - 1 {
			at, long := moments[k], moments[k+1]-moments[k]
			switch x, y := a.At(at), b.At(at); {
			case long <= exercise.DefaultSlack:
			case x == y:
				same += long
			case y != 0:
				on += long
			default:
				off += long
			}
		}
	}
	return same, on, off
}

// flickers reports a signal that changes in many scans that follow each other.
func flickers(c *signal.Column, scans int) bool {
	const many = 6
	if c.Kind != signal.Bool {
		return false
	}
	together, before := 0, -2
	for change := range c.Stream(0, scans) {
		if change.Scan != before+1 {
			together = 0
		}
		together++
		if before = change.Scan; together > many {
			return true
		}
	}
	return false
}

// symptom says what is seen of a wrong hand-in, and not of the solution.
func (k *Known) symptom(shown behaviour) (Mistake, bool) {
	n := len(k.grader.Exercise.Scenarios)
	want, got := k.right[0][:n], shown[:n]
	for _, s := range symptoms {
		for j, graded := range k.grader.Exercise.Graded {
			if s.seen(want, got, j) {
				words := graded.Name() + " " + s.words
				return Mistake{Key: "seen: " + words, Title: s.title, Words: words, Hint: s.hint}, true
			}
		}
	}
	return Mistake{}, false
}
