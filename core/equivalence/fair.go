package equivalence

import (
	"slices"

	"celandine/core/compare"
	"celandine/core/machine"
	"celandine/core/signal"
)

// What an exercise allows as slack is allowed to the program: one that sees an event, or shows a value, some scans later is right. At the
// scan in which a timer ends, an event makes such a program do something else. So a script counts only where it is fair: A does what is
// allowed when an event comes some scans sooner or later, or what B does is not allowed then either; and every other right program does
// what is allowed on the script itself.

// judging is how many scans playing a script counts for.
const judging = 50

// tellsApart tells what differs first in a fair script of so many scans, if anything does. A script that is not fair is tried once more
// with its events far enough apart.
func (b *both) tellsApart(events []event, scans int) (Result, bool) {
	r, differs, fair := b.try(events, scans)
	if differs && !fair {
		apart := spread(events, 2*b.slack(nil)+1)
		r, differs, fair = b.try(apart, scans+last(apart)-last(events))
	}
	return r, differs && fair
}

// try plays a script on both and tells what differs first, and whether the script is fair.
func (b *both) try(events []event, scans int) (r Result, differs, fair bool) {
	script := b.script(events, scans+b.margin())
	want, err := b.plays(0, script)
	if err != nil {
		return Result{}, false, false
	}
	got, err := b.plays(1, script)
	if err != nil {
		return Result{}, false, false
	}
	expected := b.expected(want)
	r, differs = b.difference(expected, want, got)
	if !differs {
		return Result{}, false, false
	}
	r.Verdict, r.Script, r.Events = Differs, script, len(events)
	return r, true, b.allRight(expected, script) && b.fair(events, script.Scans, expected, got)
}

// plays plays a script on one of the two.
func (b *both) plays(side int, script *signal.Trace) (*machine.Run, error) {
	return b.play([2]*machine.Code{b.A, b.B}[side], b.known(side, script), b.names(side))
}

func (b *both) play(code *machine.Code, script *signal.Trace, names []string) (*machine.Run, error) {
	run, err := code.Play(script, names)
	b.scans += judging
	if run != nil {
		b.scans += run.Executed / instructions
	}
	return run, err
}

// expected is what a run of A makes of what is expected.
func (b *both) expected(run *machine.Run) compare.Expected {
	e := compare.Expected{Columns: run.Trace.Columns, Scans: run.Trace.Scans}
	for _, c := range b.Compared {
		e.Tolerances = append(e.Tolerances, c.Tolerance)
	}
	return e
}

// difference is what differs first between a run of A and one of B.
func (b *both) difference(expected compare.Expected, want, got *machine.Run) (r Result, differs bool) {
	n, judged := expected.First(got.Trace.Columns, got.Trace.Scans)
	if b.Lasting && judged.Outcome == compare.Differs {
		columns := slices.Clone(got.Trace.Columns)
		for i, c := range columns {
			if !b.Compared[i].Numeric {
				columns[i] = withoutGlitches(expected.Columns[i], c, min(want.Trace.Scans, got.Trace.Scans), b.Compared[i].Slack)
			}
		}
		if n, judged = expected.First(columns, got.Trace.Scans); n < 0 {
			return Result{}, false
		}
	}
	switch {
	case n >= 0 && judged.Outcome != compare.Ended:
		return Result{Signal: n, Scan: judged.Scan}, true
	case want.Trace.Scans == got.Trace.Scans:
		return Result{}, false
	case want.Trace.Scans < got.Trace.Scans:
		return Result{Signal: -1, Scan: want.Trace.Scans, Fault: want.Fault}, true
	}
	return Result{Signal: -1, Scan: got.Trace.Scans, Fault: got.Fault}, true
}

// withoutGlitches is what B shows, but what A shows where B shows anything else for no longer than the slack while A shows one value.
func withoutGlitches(want, got *signal.Column, scans, slack int) *signal.Column {
	if want.Kind == signal.Text || got.Kind == signal.Text {
		return got
	}
	changes := got.Changes(0, scans)
	var kept []signal.Change
	for i, c := range changes {
		end := scans
		if i+1 < len(changes) {
			end = changes[i+1].Scan
		}
		if end-c.Scan <= slack && end < scans && want.Clip(c.Scan, end).Steady(end) {
			c.Value = want.At(c.Scan)
		}
		kept = append(kept, c)
	}
	return signal.Steps(got.Name, got.Kind, kept)
}

// allRight reports whether every other right program does what is allowed on a script.
func (b *both) allRight(expected compare.Expected, script *signal.Trace) bool {
	known, names := b.known(0, script), b.names(0)
	return !slices.ContainsFunc(b.Right, func(code *machine.Code) bool {
		run, err := b.play(code, known, names)
		return err != nil || !expected.Allows(run.Trace.Columns, run.Trace.Scans)
	})
}

// fair reports whether B does something that is not allowed whenever the events come. A value of B is excused where it is what A shows
// with an event moved by no more than the slack, and that is not allowed on the script itself.
func (b *both) fair(events []event, scans int, expected compare.Expected, got *machine.Run) bool {
	excused := make([]bool, len(b.Compared))
	for i, c := range got.Trace.Columns {
		excused[i] = expected.Judge(i, c, got.Trace.Scans).Outcome == compare.Right
	}
	b.excuseLate(excused, events, scans, expected, got)
	tried := 0
	for _, by := range offsets(b.slack(expected.Columns)) {
		for i := len(events) - 1; i >= 0; i-- { // most often it is the last that came just then
			for _, with := range [...]together{itself, itsScan, itsInput, allBehind} {
				other, ok := b.move(events, i, by, with)
				if !ok || tried > mostMoved {
					continue
				}
				tried++
				run, err := b.plays(0, b.script(other, scans))
				if err != nil {
					continue
				}
				then := b.expected(run)
				for n, c := range got.Trace.Columns {
					excused[n] = excused[n] || then.Judge(n, c, got.Trace.Scans).Outcome == compare.Right &&
						expected.Judge(n, run.Trace.Columns[n], run.Trace.Scans).Outcome != compare.Right
				}
				if !slices.Contains(excused, false) {
					return false
				}
			}
		}
	}
	return true
}

// excuseLate excuses what comes some scans later after each loss of supply, from its first value.
func (b *both) excuseLate(excused []bool, events []event, scans int, expected compare.Expected, got *machine.Run) {
	restarts := []int{0}
	for _, e := range events {
		if e.input == restart && e.scan > 0 {
			restarts = append(restarts, e.scan)
		}
	}
	if len(restarts) == 1 {
		return // what is later by no more than the slack is allowed
	}
	for i, c := range b.Compared {
		want := expected.Columns[i]
		for by := 1; by <= c.Slack && !c.Numeric && want.Kind != signal.Text; by++ {
			for _, column := range [2]*signal.Column{later(want, restarts, scans, by), begunLate(want, restarts, scans, by)} {
				late := expected
				late.Columns = slices.Clone(expected.Columns)
				late.Columns[i] = column
				excused[i] = excused[i] || late.Judge(i, got.Trace.Columns[i], got.Trace.Scans).Outcome == compare.Right
			}
		}
	}
}

// later is a column that comes some scans later, from zero after each restart.
func later(c *signal.Column, restarts []int, scans, by int) *signal.Column {
	return afterRestarts(c, restarts, scans, func(from, to int) (values []signal.Change) {
		for _, change := range c.Changes(from, to) {
			if change.Scan+by < to {
				values = append(values, signal.Change{Scan: change.Scan + by, Value: change.Value})
			}
		}
		return values
	})
}

// begunLate is a column that shows zero for some scans after each restart.
func begunLate(c *signal.Column, restarts []int, scans, by int) *signal.Column {
	return afterRestarts(c, restarts, scans, func(from, to int) []signal.Change {
		shows := from + by
		if shows >= to {
			return nil
		}
		values := []signal.Change{{Scan: shows, Value: c.At(shows)}}
		return append(values, slices.DeleteFunc(c.Changes(shows, to), func(ch signal.Change) bool { return ch.Scan == shows })...)
	})
}

// afterRestarts is a column that begins with zero at each restart and goes on with what moved makes of the scans up to the next.
func afterRestarts(c *signal.Column, restarts []int, scans int, moved func(from, to int) []signal.Change) *signal.Column {
	values := []signal.Change{}
	for i, from := range restarts {
		to := scans
		if i+1 < len(restarts) {
			to = restarts[i+1]
		}
		values = append(append(values, signal.Change{Scan: from, Value: 0}), moved(from, to)...)
	}
	return signal.Steps(c.Name, c.Kind, values)
}

// mostMoved bounds the scripts with a moved event of which one is played.
const mostMoved = 400

// offsets lists by how many scans an event is moved: few of a large slack.
func offsets(slack int) (list []int) {
	for by := 1; by <= slack; by++ {
		if by <= 2 || by == slack/2 || by == slack {
			list = append(list, by, -by)
		}
	}
	return list
}

// together is what is moved with an event.
type together int

const (
	itself together = iota
	itsScan
	itsInput // all of it
	allBehind
)

// move moves an event by some scans, with others or alone, but never past or into another of the same input. ok is false too where a
// move is the same as that of less.
func (p Pair) move(events []event, i, by int, with together) (moved []event, ok bool) {
	if with == itsInput && by > 0 && events[i].input >= 0 && events[i].input < len(p.Inputs) {
		return p.seenLate(events, events[i].input, by), true
	}
	out := slices.Clone(events)
	from := events[i].scan
	before, n := map[int]int{}, 0
	for j := range out {
		e := &out[j]
		if j == i || with == itsScan && e.scan == from || with == itsInput && e.input == events[i].input || with == allBehind && e.scan >= from {
			e.scan += by
			n++
		}
		at, again := before[e.input]
		if e.scan < 0 || again && e.scan <= at {
			return nil, false
		}
		before[e.input] = e.scan
	}
	again := with == itsInput && slices.ContainsFunc(events[:i], func(e event) bool { return e.input == events[i].input }) ||
		with != itsInput && i > 0 && events[i-1].scan == from
	if with != itself && (n == 1 || again) {
		return nil, false
	}
	slices.SortStableFunc(out, func(a, b event) int { return a.scan - b.scan })
	return out, true
}

// seenLate moves all events of an input, as a program sees them that keeps it in a bit first: after each restart the bit has the input's
// value at rest for as long.
func (p Pair) seenLate(events []event, input, by int) (out []event) {
	rest := p.Inputs[input].Rest()
	var restarts, moments []int
	for _, e := range events {
		switch e.input {
		case restart:
			restarts, moments = append(restarts, e.scan), append(moments, e.scan, e.scan+by)
		case input:
			moments = append(moments, e.scan+by)
		}
		if e.input != input {
			out = append(out, e)
		}
	}
	slices.Sort(moments)
	shown := rest
	for _, at := range slices.Compact(moments) {
		value := rest
		if !slices.ContainsFunc(restarts, func(r int) bool { return r <= at && at < r+by }) {
			for _, e := range events {
				if e.input == input && e.scan <= at-by {
					value = e.value
				}
			}
		}
		if value != shown {
			out = append(out, event{act{input, value}, at})
			shown = value
		}
	}
	slices.SortStableFunc(out, func(a, b event) int { return a.scan - b.scan })
	return out
}

// spread moves events apart, so that those of different scans are at least so many scans from each other.
func spread(events []event, gap int) []event {
	out := slices.Clone(events)
	later := 0
	for i := 1; i < len(out); i++ {
		if between := events[i].scan - events[i-1].scan; between > 0 && between < gap {
			later += gap - between
		}
		out[i].scan += later
	}
	return out
}

func last(events []event) int {
	if len(events) == 0 {
		return 0
	}
	return events[len(events)-1].scan
}

// slack is the most scans that a value may come later or earlier, in what A shows where that is known: where changes may drift, each adds
// to it.
func (p Pair) slack(shown []*signal.Column) (most int) {
	const mostDrift = 50
	for i, c := range p.Compared {
		most = max(most, c.Slack)
		if c.Drift > 0 && shown != nil {
			most = max(most, c.Slack+min(c.Drift*len(shown[i].Segments()), mostDrift))
		}
	}
	return most
}

// margin is how long a script goes on after a difference, so that what makes it one is not beyond its end.
func (p Pair) margin() int {
	most := 0
	for _, c := range p.Compared {
		most = max(most, c.Slack+c.Drift)
	}
	return most + 2
}
