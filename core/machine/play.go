package machine

import (
	"fmt"
	"sort"

	"celandine/core/signal"
)

// A Run is what a script made a program do. Trace holds the watched values;
// with a Fault it ends with the scan before it.
type Run struct {
	Trace *signal.Trace
	Fault *Fault
}

// Play runs the program from its start through every scan of a script, whose
// columns are inputs, and records the values named in watch. An unknown name is an error.
func (c *Code) Play(script *signal.Trace, watch []string) (*Run, error) {
	m := c.Start(script.Period)
	r, err := newRecorder(c, script, watch)
	if err != nil {
		return nil, err
	}
	events, err := c.events(script)
	if err != nil {
		return nil, err
	}
	for scan := 0; scan < script.Scans; scan++ {
		for len(events) > 0 && events[0].scan <= scan {
			m.Write(events[0].slot, events[0].value)
			events = events[1:]
		}
		if fault := m.Scan(); fault != nil {
			r.trace.Scans = scan
			return &Run{r.trace, fault}, nil
		}
		r.record(m, scan)
	}
	return &Run{Trace: r.trace}, nil
}

// event is an input's new value from a scan on.
type event struct {
	scan  int
	slot  Slot
	value int64
}

func (c *Code) events(script *signal.Trace) ([]event, error) {
	var list []event
	for _, column := range script.Columns {
		slot, ok := c.Slot(column.Name)
		if !ok || !slot.Input {
			return nil, fmt.Errorf("the script sets %s, which is not an input of the program", column.Name)
		}
		for _, change := range column.Changes(0, script.Scans) {
			list = append(list, event{change.Scan, slot, change.Value})
		}
	}
	sort.SliceStable(list, func(i, j int) bool { return list[i].scan < list[j].scan })
	return list, nil
}

// recorder appends to a column only when its value is not the one foreseen.
type recorder struct {
	trace *signal.Trace
	slots []Slot
}

func newRecorder(c *Code, script *signal.Trace, watch []string) (*recorder, error) {
	r := &recorder{trace: &signal.Trace{Period: script.Period, Scans: script.Scans}}
	for _, name := range watch {
		slot, ok := c.Slot(name)
		if !ok {
			return nil, fmt.Errorf("there is nothing named %s to watch", name)
		}
		r.slots = append(r.slots, slot)
		r.trace.Columns = append(r.trace.Columns, &signal.Column{Name: slot.Name, Kind: slot.Type.Kind()})
	}
	return r, nil
}

func (r *recorder) record(m *Machine, scan int) {
	for i, slot := range r.slots {
		c := r.trace.Columns[i]
		if c.Kind == signal.Text {
			c.AppendText(scan, m.ReadText(slot))
			continue
		}
		c.Append(scan, m.Read(slot))
	}
}
