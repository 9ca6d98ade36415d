package explain

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/signal"
)

// What is tried to find a cause that holds is bounded.
const (
	mostWays   = 16 // back along other causes
	mostEvents = 60 // before the scan
)

// An event is an input that changed in a scan.
type event struct {
	input string
	scan  int
}

// proved returns the way back to a cause that holds: repeated without what was done there, the run gives another value. Where no way
// ends at such a cause the first is told as far as it goes without one, and then the last event that the value does depend on.
func (a *Asker) proved(name string, scan int) []Step {
	first := a.wayBack(name, scan, turn{-1, 0})
	if a.holds(first, name, scan) {
		return first
	}
	if slices.ContainsFunc(first, func(s Step) bool { return s.waits }) {
		return first // it takes its time from then on
	}
	tried := 0
	for at := len(first) - 1; at >= 0; at-- {
		for cause := 1; first[at].next(cause) != nil && tried < mostWays; cause++ {
			tried++
			if way := a.wayBack(name, scan, turn{at, cause}); a.decides(way, name, scan) {
				return way
			}
		}
	}
	end := &first[len(first)-1]
	if e, ok := a.dependsOn(name, scan); ok {
		step := a.step(e.input, e.scan)
		step.Say = fmt.Sprintf("%s Without that %s would not be %s in %s.", step.Say, shown(name), a.word(name, scan), a.at(scan))
		return append(first[:len(first)-1], step)
	}
	if e, ok := a.besides(event{end.Signal, end.Since}, name, scan); ok {
		switch {
		case e.input == end.Signal:
			end.second(fmt.Sprintf("What was done to %s in %s would have done the same", e.input, a.at(e.scan)))
		case !mentions(first, e.input):
			end.second(fmt.Sprintf("That alone does not decide it: %s in %s, too", a.done(e), a.at(e.scan)))
		}
		return first
	}
	return first[:len(first)-1]
}

// mentions reports whether a way back names an input among what decides.
func mentions(way []Step, input string) bool {
	return slices.ContainsFunc(way, func(s Step) bool {
		return slices.ContainsFunc(s.Elements, func(e Element) bool { return e.Decides && strings.EqualFold(e.Name, input) })
	})
}

// holds reports whether a way back does not end at an event, or the value depends on that event.
func (a *Asker) holds(way []Step, name string, scan int) bool {
	end := way[len(way)-1]
	if end.Kind != "input" || end.Since == 0 || len(way) == 1 {
		return true
	}
	return a.differsWithout(name, scan, event{end.Signal, end.Since})
}

// decides reports whether a way back ends at an input on which the value depends: on what was done to it, or on how it is from the start.
func (a *Asker) decides(way []Step, name string, scan int) bool {
	end := way[len(way)-1]
	return end.Kind == "input" && a.differsWithout(name, scan, event{end.Signal, end.Since})
}

// dependsOn finds the last event without which a value would be another.
func (a *Asker) dependsOn(name string, scan int) (event, bool) {
	for _, e := range a.eventsUpTo(scan) {
		if a.differsWithout(name, scan, e) {
			return e, true
		}
	}
	return event{}, false
}

// besides finds an event without which, and without another, a value would be another.
func (a *Asker) besides(one event, name string, scan int) (event, bool) {
	for _, e := range a.eventsUpTo(scan) {
		if e != one && a.differsWithout(name, scan, one, e) {
			return e, true
		}
	}
	return event{}, false
}

// eventsUpTo lists the changes of inputs up to a scan, the last first.
func (a *Asker) eventsUpTo(scan int) (list []event) {
	for _, c := range a.script.Columns {
		for change := range c.Stream(1, min(scan+1, a.script.Scans)) {
			if c.At(change.Scan-1) != change.Value {
				list = append(list, event{c.Name, change.Scan})
			}
		}
	}
	slices.SortStableFunc(list, func(x, y event) int { return y.scan - x.scan })
	return list[:min(len(list), mostEvents)]
}

// differsWithout repeats the run without some events and reports whether a value is another then, or there is no such scan any more.
func (a *Asker) differsWithout(name string, scan int, events ...event) bool {
	script := *a.script
	script.Columns = slices.Clone(script.Columns)
	script.Scans = scan + 1
	for i, c := range script.Columns {
		script.Columns[i] = without(c, scan+1, events)
	}
	script.Acts = slices.DeleteFunc(slices.Clone(script.Acts), func(act signal.Act) bool { return act.Scan > scan })
	if local(name) {
		return true // it is known in its own scan alone
	}
	run, err := a.code.Play(&script, []string{name})
	a.stop(err)
	if err != nil || run.Trace.Scans <= scan {
		return true
	}
	was, is := a.trace.Column(name), run.Trace.Columns[0]
	return was.Format(was.At(scan)) != is.Format(is.At(scan))
}

// without is a column that keeps its value where an event changed it. Without what a BOOL is from the start, in scan 0, it begins the other
// way round.
func without(c *signal.Column, scans int, events []event) *signal.Column {
	var at []int
	for _, e := range events {
		if strings.EqualFold(e.input, c.Name) {
			at = append(at, e.scan)
		}
	}
	if len(at) == 0 || c.Kind == signal.Text {
		return c
	}
	var changes []signal.Change
	for change := range c.Stream(0, scans) {
		if change.Scan == 0 && slices.Contains(at, 0) && c.Kind == signal.Bool {
			change.Value = 1 - change.Value
			changes = append(changes, change)
		}
		if !slices.Contains(at, change.Scan) {
			changes = append(changes, change)
		}
	}
	return signal.Steps(c.Name, c.Kind, changes)
}

// done says what an event did, in the middle of a sentence: Mist ON was pressed.
func (a *Asker) done(e event) string {
	if d, wired := a.devices[strings.ToLower(e.input)]; wired && a.trace.Column(e.input).Kind == signal.Bool {
		return d.Label + " " + worked(d, a.isTrue(e.input, e.scan)).Changed
	}
	return fmt.Sprintf("%s became %s", e.input, a.word(e.input, e.scan))
}
