package equivalence

import (
	"slices"

	"celandine/core/signal"
)

// An act is what may be done at once: an input takes a value; where input is restart, the supply is lost and returns; and a number beyond
// the inputs' is that of a value to be written.
type act struct {
	input int
	value int64
}

const restart = -1

// An event is an act and the scan that sees it first.
type event struct {
	act
	scan int
}

// rest is what the inputs show before anything is done.
func (p Pair) rest() (values []int64) {
	for _, input := range p.Inputs {
		values = append(values, input.Rest())
	}
	return values
}

// script writes events as a script of so many scans.
func (p Pair) script(events []event, scans int) *signal.Trace {
	t := &signal.Trace{Period: p.Period, Scans: scans}
	for i, input := range p.Inputs {
		values := []signal.Change{{Scan: 0, Value: input.Rest()}}
		for _, e := range events {
			if e.input == i {
				values = append(values, signal.Change{Scan: e.scan, Value: e.value})
			}
		}
		t.Columns = append(t.Columns, signal.Steps(input.Name, input.Kind(), values))
	}
	for _, e := range events {
		switch write := e.input - len(p.Inputs); {
		case e.input == restart:
			t.Acts = append(t.Acts, signal.Act{Scan: e.scan, Verb: signal.Restart})
		case write >= 0:
			t.Acts = append(t.Acts, signal.Act{Scan: e.scan, Verb: signal.Write, Name: p.Writes[write].Name, Value: p.Writes[write].Value})
		}
	}
	return t
}

// events reads a script's events; ok is false where something in it is none, such as a force, or there are too many.
func (p Pair) events(script *signal.Trace) (list []event, ok bool) {
	const most = 500
	for i, input := range p.Inputs {
		c := script.Column(input.Name)
		if c == nil {
			continue
		}
		for change := range c.Stream(0, script.Scans) {
			if change.Scan > 0 || change.Value != input.Rest() {
				list = append(list, event{act{i, change.Value}, change.Scan})
			}
			if len(list) > most {
				return nil, false
			}
		}
	}
	for _, a := range script.Acts {
		n := restart
		if a.Verb != signal.Restart {
			n = slices.Index(p.Writes, signal.Act{Verb: a.Verb, Name: a.Name, Value: a.Value})
			if n < 0 {
				return nil, false
			}
			n += len(p.Inputs)
		}
		list = append(list, event{act{n, 0}, a.Scan})
	}
	slices.SortStableFunc(list, func(a, b event) int { return a.scan - b.scan })
	return list, true
}
