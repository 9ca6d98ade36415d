package equivalence

import "slices"

// A walk works both programs at random, from a state that it has reached before: most often from one of those that it has reached last, so
// that it gets deep. It finds what needs many events in their order.
type walk struct {
	*both
	random
	budget  int
	seen    map[string]bool
	reached []station
}

// A station is a state that was reached by events.
type station struct {
	situation
	scan   int
	inputs []int64
	events []event
}

const (
	mostStations = 4096
	lately       = 8   // so many stations are the last
	longestWalk  = 400 // events
)

func (w *walk) run() Result {
	w.seen = map[string]bool{}
	w.reached = []station{{situation: w.keep(), inputs: w.rest()}}
	for !w.spent(w.budget) {
		if r, found := w.from(w.reached[w.choose()]); found {
			return r
		}
	}
	return Result{Verdict: None, States: len(w.seen)}
}

// choose returns the number of a station.
func (w *walk) choose() int {
	n := len(w.reached)
	if w.below(4) > 0 {
		return n - 1 - w.below(min(n, lately))
	}
	return w.below(n)
}

// from does a few things at a station and lets both run on after each.
func (w *walk) from(s station) (Result, bool) {
	w.restore(s.situation)
	inputs, events, scan := slices.Clone(s.inputs), slices.Clone(s.events), s.scan
	for range 1 + w.below(3) {
		e := event{w.act(inputs), scan}
		events = append(events, e)
		switch write := e.input - len(w.Inputs); {
		case e.input == restart:
			w.restart()
		case write >= 0:
			w.both.write([]int{write})
		default:
			inputs[e.input] = e.value
		}
		w.set(inputs)
		scans, ended, found := w.on(events, scan)
		if ended {
			return found, found.Verdict == Differs
		}
		scan = scans
	}
	if pose := string(w.machines[1].Pose(w.machines[0].Pose(nil))); !w.seen[pose] && len(events) < longestWalk {
		w.seen[pose] = true
		if len(w.reached) < mostStations {
			w.reached = append(w.reached, station{w.keep(), scan, inputs, events})
		}
	}
	return Result{}, false
}

// act chooses what is done next: most often a device is worked.
func (w *walk) act(inputs []int64) act {
	n := w.below(8*len(w.Inputs) + len(w.Writes) + 1) // with no inputs: what is written, or a restart
	switch {
	case n < len(w.Writes):
		return act{len(w.Inputs) + n, 0}
	case n == len(w.Writes):
		return act{restart, 0}
	}
	i := w.below(len(w.Inputs))
	values := w.choices[i]
	v := values[w.below(len(values))]
	if v == inputs[i] && len(values) == 2 {
		v = values[0] + values[1] - v
	}
	return act{i, v}
}

// on lets both run on for some scans, or until something happens, and returns the scan that comes next. ended tells that they are of no
// more use: one has ended in a fault, or a difference was found.
func (w *walk) on(events []event, scan int) (next int, ended bool, found Result) {
	wait := [...]int{1, 2, 2*w.slack(nil) + 1, 10, 60, 400, 3000}[w.below(7)]
	for waited := 0; waited < wait && !w.spent(w.budget); {
		switch w.both.scan() {
		case faulted:
			return 0, true, Result{}
		case suspected:
			if r, differs := w.tellsApart(events, scan+waited+1); differs {
				return 0, true, w.shorten(r, eventsOf(r, w.Pair))
			}
			w.follower.Forget()
		}
		waited++
		still, moving := w.still(maxWait)
		if still > 0 && !moving {
			return scan + max(waited, min(wait, waited+still)), false, Result{}
		}
		if still = min(still-1, wait-waited); still > 0 {
			if w.skip(still) == suspected {
				if r, differs := w.tellsApart(events, scan+waited+still); differs {
					return 0, true, w.shorten(r, eventsOf(r, w.Pair))
				}
				w.follower.Forget()
			}
			waited += still
		}
	}
	return scan + wait, false, Result{}
}

// eventsOf reads back the events of a script that was found.
func eventsOf(r Result, p Pair) []event {
	events, _ := p.events(r.Script)
	return events
}

// samples is how many random scripts are tried at the end, and sampleEvents how many events each has at most.
const (
	samples      = 24
	sampleEvents = 24
)

// sample plays random scripts on both, with presses of some scans, of some tenths of a second and of some seconds.
func (b *both) sample(budget int) Result {
	for n := range samples {
		if len(b.Inputs) == 0 || b.spent(budget) {
			break
		}
		w := &walk{both: b, random: random(n + 1)}
		events := w.script(n)
		if r, differs := b.tellsApart(events, last(events)+1000); differs {
			return b.shorten(r, eventsOf(r, b.Pair))
		}
	}
	return Result{Verdict: None}
}

// script makes up a script.
func (w *walk) script(n int) (events []event) {
	inputs := w.rest()
	gap := [...]int{4, 40, 400}[n%3]
	scan := 0
	for range 2 + w.below(sampleEvents-1) {
		scan += 1 + w.below(gap)
		e := event{w.act(inputs), scan}
		if e.input >= 0 && e.input < len(inputs) {
			if inputs[e.input] == e.value {
				continue
			}
			inputs[e.input] = e.value
		}
		events = append(events, e)
	}
	return events
}

// random makes numbers that are the same each time.
type random uint64

// below returns a number from 0 up to but without n.
func (r *random) below(n int) int {
	*r += 0x9e3779b97f4a7c15
	z := uint64(*r)
	z = (z ^ z>>30) * 0xbf58476d1ce4e5b9
	z = (z ^ z>>27) * 0x94d049bb133111eb
	return int((z ^ z>>31) % uint64(n))
}
