package machine

import (
	"slices"

	"celandine/core/check"
	"celandine/core/say"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Script is what happens at the inputs, made ready for any number of runs of any program. It is read-only and may be shared.
type Script struct {
	trace  *signal.Trace
	events []event // of the columns, by scan; each column is the slot of its number
	plain  bool    // they are all that happens, and mean the same in every program
}

// event is an input's new value from a scan on, or an act.
type event struct {
	scan  int
	slot  int // which of the player's
	value int64
	verb  string // signal.Write for an input
}

// ScriptOf makes a script ready.
func ScriptOf(trace *signal.Trace) *Script {
	s := &Script{trace: trace, plain: len(trace.Acts) == 0, events: make([]event, 0, 4*len(trace.Columns)+len(trace.Acts))}
	for i, column := range trace.Columns {
		s.plain = s.plain && column.Kind != signal.Text
		for change := range column.Stream(0, trace.Scans) {
			s.events = append(s.events, event{change.Scan, i, change.Value, signal.Write})
		}
	}
	inOrder(s.events)
	return s
}

// inOrder sorts events by scan. Those of one scan act as they are written; what is done to inputs comes first, and a restart leaves it.
func inOrder(list []event) {
	slices.SortStableFunc(list, func(a, b event) int { return a.scan - b.scan })
}

// events lists what a script does to a program, and the slots to which it does it.
func (c *Code) events(script *Script) (list []event, slots []Slot, err error) {
	columns := script.trace.Columns
	slots = make([]Slot, len(columns), len(columns)+len(script.trace.Acts))
	for i, column := range columns {
		slot, ok := c.Slot(column.Name)
		if !ok || !slot.Input {
			return nil, nil, say.Errorf("the script sets %s, which is not an input of the program", column.Name)
		}
		slots[i] = slot
	}
	if script.plain {
		return script.events, slots, nil
	}
	list = slices.Clone(script.events)
	for i := range list {
		e := &list[i]
		if column := columns[e.slot]; column.Kind == signal.Text && slots[e.slot].Type.Class == check.Enumeration {
			e.value, _ = slots[e.slot].Type.Parse(column.Format(e.value)) // named in the script's own order
		}
	}
	for _, act := range script.trace.Acts {
		e, slot, err := c.act(act, script.trace)
		if err != nil {
			return nil, nil, err
		}
		e.slot = len(slots)
		list, slots = append(list, e), append(slots, slot)
	}
	inOrder(list)
	return list, slots, nil
}

func (c *Code) act(act signal.Act, script *signal.Trace) (event, Slot, error) {
	e := event{scan: act.Scan, verb: act.Verb}
	if act.Verb == signal.Restart {
		return e, Slot{}, nil
	}
	slot, ok := c.Slot(act.Name)
	if !ok || slot.Type.Class == check.Text {
		return e, slot, say.Errorf("the script has %s %s at scan %d, which is not a number, time or BOOL of the program. %s", act.Verb, act.Name,
			act.Scan, source.Meant(act.Name, c.Names()))
	}
	if act.Verb == signal.Unforce {
		if column := script.Column(slot.Name); column != nil && slot.Input {
			e.value = column.At(act.Scan)
		}
		return e, slot, nil
	}
	v, err := slot.Type.Parse(act.Value)
	if err != nil {
		return e, slot, say.Errorf("the script has %s %s at scan %d: %v", act.Verb, act.Name, act.Scan, err)
	}
	e.value = v
	return e, slot, nil
}
