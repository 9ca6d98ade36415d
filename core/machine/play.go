package machine

import (
	"bytes"
	"cmp"
	"errors"
	"fmt"
	"slices"
	"time"

	"celandine/core/check"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Run is what a script made a program do. Trace holds the watched values;
// with a Fault it ends with the scan before it.
type Run struct {
	Trace    *signal.Trace
	Fault    *Fault
	Executed int // instructions
	Scanned  int // scans that were executed, or foreseen; the others were skipped
}

// ErrStopped tells that a run was ended early; see [Code.Until].
var ErrStopped = errors.New("this run was stopped before its end")

// breath is how many instructions go by before a run asks whether to stop: some milliseconds.
const breath = 1_000_000

// Until sets who may end the runs of this code early: they ask it between scans, about every million instructions, and return ErrStopped
// where it says so.
func (c *Code) Until(stop func() bool) { c.stop = stop }

// Play runs the program from its start through every scan of a script, whose
// columns are inputs, and records the values named in watch. An unknown name is an error. Scans in
// which nothing but elapsed times would change are not executed; the trace is the one that [Code.Step] gives.
func (c *Code) Play(script *signal.Trace, watch []string) (*Run, error) {
	run, _, err := c.play(script, watch, (*player).skip)
	return run, err
}

// Step does what Play does and executes every scan.
func (c *Code) Step(script *signal.Trace, watch []string) (*Run, error) {
	run, _, err := c.play(script, watch, (*player).step)
	return run, err
}

// Before plays a script up to a scan and returns the machine as that scan begins, with its inputs set. The
// fault, where there is one, ended the run before.
func (c *Code) Before(script *signal.Trace, scan int) (*Machine, *Fault, error) {
	events, err := c.events(script)
	if err != nil {
		return nil, nil, err
	}
	p := &player{m: c.Start(script.Period), recorder: &Recorder{}, events: events, scans: scan}
	fault := p.skip()
	if p.stopped {
		return nil, nil, ErrStopped
	}
	if fault != nil {
		return nil, fault, nil
	}
	p.set(scan)
	return p.m, nil, nil
}

// Visit plays a script's first scans and calls visit as each begins that is executed, not skipped: those in which
// anything may differ from the one before.
func (c *Code) Visit(script *signal.Trace, scans int, visit func(*Machine)) error {
	events, err := c.events(script)
	if err != nil {
		return err
	}
	p := &player{m: c.Start(script.Period), recorder: &Recorder{}, events: events, scans: scans, visit: visit}
	p.skip() // a fault ends it
	if p.stopped {
		return ErrStopped
	}
	return nil
}

// player plays one script.
type player struct {
	m        *Machine
	recorder *Recorder
	events   []event
	scans    int
	visit    func(*Machine)
	asked    int // how many instructions were executed when it last asked whether to stop
	stopped  bool
	executed int // scans, foreseen ones among them
}

func (c *Code) play(script *signal.Trace, watch []string, how func(*player) *Fault) (*Run, *Machine, error) {
	r, err := NewRecorder(c, script.Period, watch)
	if err != nil {
		return nil, nil, err
	}
	events, err := c.events(script)
	if err != nil {
		return nil, nil, err
	}
	p := &player{m: c.Start(script.Period), recorder: r, events: events, scans: script.Scans}
	run := &Run{Trace: r.Trace}
	r.Trace.Scans = script.Scans
	run.Fault = how(p)
	if p.stopped {
		return nil, nil, ErrStopped
	}
	if run.Fault != nil {
		r.Trace.Scans = run.Fault.Scan
	}
	for _, c := range r.Trace.Columns {
		c.End(r.Trace.Scans)
	}
	run.Executed, run.Scanned = p.m.used, p.executed
	return run, p.m, nil
}

// one executes and records a scan.
func (p *player) one(scan int) *Fault {
	p.set(scan)
	if p.visit != nil {
		p.visit(p.m)
	}
	if fault := p.m.Scan(); fault != nil {
		return fault
	}
	if stop := p.m.code.stop; stop != nil && p.m.used >= p.asked+breath {
		if p.asked = p.m.used; stop() {
			p.stopped = true
			return &Fault{Scan: scan}
		}
	}
	p.recorder.Record(p.m, scan)
	return nil
}

// set gives the inputs what they are in a scan.
func (p *player) set(scan int) {
	for len(p.events) > 0 && p.events[0].scan <= scan {
		e := &p.events[0]
		if e.verb == signal.Restart {
			p.m.Restart()
			p.events = p.events[1:]
			continue
		}
		switch e.verb {
		case signal.Force:
			p.m.Force(e.slot, e.value)
		case signal.Unforce:
			p.m.Release(e.slot)
		}
		if e.verb != signal.Unforce || e.slot.Input { // an input is again what it is wired to
			p.m.Write(e.slot, e.value)
		}
		p.events = p.events[1:]
	}
}

func (p *player) step() *Fault {
	for scan := range p.scans {
		if fault := p.one(scan); fault != nil {
			return fault
		}
		p.executed++
	}
	return nil
}

// quiet returns the scans from one on before the next input changes or the script ends.
func (p *player) quiet(scan int) int {
	if len(p.events) > 0 {
		return min(p.events[0].scan, p.scans) - scan // the script may be played in part
	}
	return p.scans - scan
}

// event is an input's new value from a scan on, or an act.
type event struct {
	scan  int
	slot  Slot
	value int64
	verb  string // signal.Write for an input
}

func (c *Code) events(script *signal.Trace) ([]event, error) {
	list := make([]event, 0, 4*len(script.Columns)+len(script.Acts))
	for _, column := range script.Columns {
		slot, ok := c.Slot(column.Name)
		if !ok || !slot.Input {
			return nil, fmt.Errorf("the script sets %s, which is not an input of the program", column.Name)
		}
		for change := range column.Stream(0, script.Scans) {
			v := change.Value
			if column.Kind == signal.Text && slot.Type.Class == check.Enumeration { // named in the script's own order
				v, _ = slot.Type.Parse(column.Format(v))
			}
			list = append(list, event{change.Scan, slot, v, signal.Write})
		}
	}
	for _, act := range script.Acts {
		e, err := c.act(act, script)
		if err != nil {
			return nil, err
		}
		list = append(list, e)
	}
	// Of one scan a restart comes first: what is written then is written after it.
	slices.SortStableFunc(list, func(a, b event) int { return cmp.Or(a.scan-b.scan, rank(a.verb)-rank(b.verb)) })
	return list, nil
}

func rank(verb string) int {
	if verb == signal.Restart {
		return 0
	}
	return 1
}

func (c *Code) act(act signal.Act, script *signal.Trace) (event, error) {
	if act.Verb == signal.Restart {
		return event{scan: act.Scan, verb: act.Verb}, nil
	}
	slot, ok := c.Slot(act.Name)
	if !ok || slot.Type.Class == check.Text {
		return event{}, fmt.Errorf("the script has %s %s at scan %d, which is not a number, time or BOOL of the program. %s", act.Verb, act.Name,
			act.Scan, source.Meant(act.Name, c.Names()))
	}
	e := event{scan: act.Scan, slot: slot, verb: act.Verb}
	if act.Verb == signal.Unforce {
		if column := script.Column(slot.Name); column != nil && slot.Input {
			e.value = column.At(act.Scan)
		}
		return e, nil
	}
	v, err := slot.Type.Parse(act.Value)
	if err != nil {
		return event{}, fmt.Errorf("the script has %s %s at scan %d: %w", act.Verb, act.Name, act.Scan, err)
	}
	e.value = v
	return e, nil
}

// A Recorder keeps what watched values were, scan by scan. It appends to a column only when its value is not
// the one foreseen.
type Recorder struct {
	Trace *signal.Trace
	bits  []watched
	words []watchedWord
	texts []watched
	image []byte // of the bits, as they were recorded last
}

type watched struct {
	index  uint32
	column *signal.Column
}

// watchedWord is a word being recorded, with what it will be if nothing happens.
type watchedWord struct {
	watched
	foreseen int64
	slope    int64
}

// NewRecorder returns a recorder of the values named; an unknown name is an error.
func NewRecorder(c *Code, period time.Duration, watch []string) (*Recorder, error) {
	r := &Recorder{Trace: &signal.Trace{Period: period}}
	columns := signal.Columns(len(watch))
	for i, name := range watch {
		slot, ok := c.Slot(name)
		if !ok {
			return nil, fmt.Errorf("there is nothing named %s to watch", name)
		}
		w := watched{slot.index, &columns[i]}
		w.column.Name, w.column.Kind, w.column.Texts = slot.Name, slot.Type.Kind(), slot.Type.Values
		w.column.Named = slot.Type.Class == check.Enumeration
		r.Trace.Columns = append(r.Trace.Columns, w.column)
		switch slot.Type.Class {
		case check.Boolean:
			r.bits = append(r.bits, w)
		case check.Text:
			r.texts = append(r.texts, w)
		default:
			r.words = append(r.words, watchedWord{watched: w})
		}
	}
	return r, nil
}

// Still returns a column that keeps the value that a name has now for ever.
func (m *Machine) Still(name string) (*signal.Column, error) {
	r, err := NewRecorder(m.code, m.period, []string{name})
	if err != nil {
		return nil, err
	}
	r.Record(m, 0)
	return r.Trace.Columns[0], nil
}

// Record notes the values at the end of a scan. Scans are recorded in order, from any one on.
func (r *Recorder) Record(m *Machine, scan int) {
	if len(r.bits) > 0 {
		r.recordBits(m.bits[:m.code.live.bit], scan)
	}
	for i := range r.words {
		w := &r.words[i]
		v := m.words[w.index]
		if v == w.foreseen && !w.column.Empty() {
			w.foreseen += w.slope
			continue
		}
		w.slope = w.column.Append(scan, v)
		w.foreseen = v + w.slope
	}
	for _, w := range r.texts {
		w.column.AppendText(scan, m.texts[w.index])
	}
}

// recordBits looks at each bit only when any has changed.
func (r *Recorder) recordBits(bits []byte, scan int) {
	first := r.image == nil
	if !first && bytes.Equal(bits, r.image) {
		return
	}
	for _, w := range r.bits {
		if first || bits[w.index] != r.image[w.index] {
			w.column.Append(scan, int64(bits[w.index]))
		}
	}
	r.image = append(r.image[:0], bits...)
}
