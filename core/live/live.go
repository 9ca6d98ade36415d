// Package live is a bench: a program at work on inputs that a person works by hand.
//
// In come a compiled program and what is done to it: devices set, values forced and written, scans run ([Bench.Run]). Every scan
// is recorded, and a snapshot is kept every so often, so that any scan can be looked at again with the power in its rungs
// ([Bench.Look]). What was done by hand can be had as a script. The program can be exchanged while it runs ([Bench.Replace]): values of
// names that stay are kept. It knows no screen and no clock: whoever drives it says how many scans to run.
package live

import (
	"cmp"
	"fmt"
	"slices"
	"time"

	"celandine/core/check"
	"celandine/core/explain"
	"celandine/core/machine"
	"celandine/core/observe"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/core/walk"
)

// between is the number of scans from snapshot to snapshot.
const between = 256

// A Bench is one program at work.
type Bench struct {
	program   *check.Program
	code      *machine.Code
	machine   *machine.Machine
	watch     *machine.Watch
	recorder  *machine.Recorder
	snapshots []machine.Snapshot
	begun     int           // the scan at which this program took over
	script    *signal.Trace // what was done since
	fault     *machine.Fault
	devices   map[string]explain.Device
	played    *signal.Trace // a script that works the inputs, or nil
}

// New puts a program on the bench with every input at rest.
func New(program *check.Program, code *machine.Code, period time.Duration, devices map[string]explain.Device) (*Bench, error) {
	b := &Bench{program: program, code: code, machine: code.Start(period), devices: devices, script: &signal.Trace{Period: period}}
	return b, b.record()
}

func (b *Bench) record() error {
	watch, err := b.code.Watch(b.code.Names())
	if err != nil {
		return fmt.Errorf("recording: %w", err)
	}
	b.watch, b.recorder, b.snapshots, b.begun = watch, watch.Recorder(b.script.Period), nil, b.machine.Scans()
	return nil
}

// Scans is the number of scans run since the start.
func (b *Bench) Scans() int { return b.machine.Scans() }

// First is the first scan that can be looked at: programs that were exchanged are forgotten.
func (b *Bench) First() int { return b.begun }

// Fault is why the program stopped, or nil.
func (b *Bench) Fault() *machine.Fault { return b.fault }

// Do sets, forces, releases or writes a value from the next scan on. Set is [signal.Write].
func (b *Bench) Do(verb, name string, value int64) error {
	slot, ok := b.code.Slot(name)
	if !ok {
		return fmt.Errorf("there is nothing named %s. %s", name, source.Meant(name, b.code.Names()))
	}
	act := signal.Act{Scan: b.machine.Scans(), Verb: verb, Name: slot.Name}
	switch verb {
	case signal.Force:
		b.machine.Force(slot, value)
	case signal.Unforce:
		b.machine.Release(slot)
	default:
		b.machine.Write(slot, value)
	}
	if verb != signal.Unforce {
		act.Value = slot.Type.Format(value)
	}
	b.script.Acts = append(b.script.Acts, act)
	return nil
}

// Restart takes the supply away and gives it back before the next scan: what is not retained begins anew.
func (b *Bench) Restart() {
	b.machine.Restart()
	b.script.Acts = append(b.script.Acts, signal.Act{Scan: b.machine.Scans(), Verb: signal.Restart})
}

// Play lets a script work the inputs, from the scan on at which the bench stands.
func (b *Bench) Play(script *signal.Trace) { b.played = script }

// prompt does what the played script does in a scan.
func (b *Bench) prompt(scan int) {
	if b.played == nil || scan >= b.played.Scans {
		return
	}
	for _, c := range b.played.Columns {
		if v := c.At(scan); scan == 0 || v != c.At(scan-1) {
			_ = b.Do(signal.Write, c.Name, v) // an input that this program lacks has no wire
		}
	}
	for _, act := range b.played.Acts {
		if act.Scan != scan {
			continue
		}
		if act.Verb == signal.Restart {
			b.Restart()
			continue
		}
		value, err := int64(0), error(nil)
		if act.Verb != signal.Unforce {
			value, err = b.Parse(act.Name, act.Value)
		}
		if err == nil {
			_ = b.Do(act.Verb, act.Name, value) // the name was found when the value was read
		}
	}
}

// Run runs scans until there are that many more, or a fault.
func (b *Bench) Run(scans int) {
	for range scans {
		if b.fault != nil {
			return
		}
		scan := b.machine.Scans()
		b.prompt(scan)
		if (scan-b.begun)%between == 0 {
			b.snapshots = append(b.snapshots, b.machine.Snapshot())
		}
		if b.fault = b.machine.Scan(); b.fault != nil {
			return
		}
		b.recorder.Record(b.machine, scan)
		b.recorder.Trace.Scans = scan + 1
		b.script.Scans = scan + 1
	}
}

// Trace is every value at every scan since this program took over.
func (b *Bench) Trace() *signal.Trace { return b.recorder.Trace }

// Replace goes on with another program, keeping the values of names whose type is the same.
func (b *Bench) Replace(program *check.Program, code *machine.Code) error {
	b.machine.Replace(code)
	b.program, b.code, b.fault = program, code, nil
	return b.record()
}

// Release lets go of every force.
func (b *Bench) Release() error {
	for _, name := range b.machine.Forced() {
		if err := b.Do(signal.Unforce, name, 0); err != nil {
			return err
		}
	}
	return nil
}

// Forced lists the names that are held by force.
func (b *Bench) Forced() []string { return b.machine.Forced() }

// Value is a name's value at the end of a scan.
func (b *Bench) Value(name string, scan int) (value int64, kind signal.Kind, ok bool) {
	c := b.recorder.Trace.Column(name)
	if c == nil || scan < b.begun || scan >= b.machine.Scans() {
		return 0, 0, false
	}
	return c.At(scan), c.Kind, true
}

// Back forgets what came after a scan, so that the bench goes on from there.
func (b *Bench) Back(scan int) error {
	if scan < b.begun || scan >= b.machine.Scans() || len(b.snapshots) == 0 {
		return fmt.Errorf("scan %d cannot be gone back to; the bench knows %d to %d", scan, b.begun, b.machine.Scans()-1)
	}
	m := b.code.Start(b.script.Period)
	m.Restore(b.snapshots[0])
	r := b.watch.Recorder(b.script.Period)
	for n := b.begun; n <= scan; n++ {
		if n > b.begun {
			b.redo(m, n)
		}
		m.Scan() // it had no fault then
		r.Record(m, n)
	}
	r.Trace.Scans = scan + 1
	b.machine, b.recorder, b.fault = m, r, nil
	b.snapshots = b.snapshots[:(scan-b.begun)/between+1]
	b.script.Scans = scan + 1
	b.script.Acts = slices.DeleteFunc(b.script.Acts, func(act signal.Act) bool { return act.Scan > scan })
	return nil
}

// A Flow is the power at an element of a rung: before it and behind it. Start is where its text begins; Instance
// is the block of one's own whose rung it is, or "".
type Flow struct {
	Start    int
	Instance string
	In, Out  bool
	Closed   bool // of a contact: it would pass power that reached it; of anything else: Out
}

// A Carried is what a line of a block diagram carries: the value of what stands at a place of the text, as people read it.
type Carried struct {
	Start, End int
	Instance   string // of the block of one's own whose network it is, or ""
	Value      string
}

// Look returns the power at every element of every rung in a scan, and what the lines of every network carry.
func (b *Bench) Look(scan int) ([]Flow, []Carried) {
	again := b.before(scan)
	if again == nil {
		return nil, nil
	}
	o := observe.Of(again)
	w := &watcher{program: b.program, observer: o, values: map[check.Expr]int64{}, carried: map[Carried]string{}}
	o.Watch(w)
	o.Scan()
	var carried []Carried
	for at, value := range w.carried {
		at.Value = value
		carried = append(carried, at)
	}
	slices.SortFunc(carried, func(a, b Carried) int {
		return cmp.Or(cmp.Compare(a.Start, b.Start), cmp.Compare(a.End, b.End), cmp.Compare(a.Instance, b.Instance))
	})
	return w.flows, carried
}

// Walk tells a scan step by step; nothing where it cannot be looked at.
func (b *Bench) Walk(scan int) []walk.Stage {
	again := b.before(scan)
	if again == nil {
		return nil
	}
	return walk.Scan(again)
}

// before is the machine as it stood before a scan, with what was done to it since the scan before; nil where nobody knows.
func (b *Bench) before(scan int) *machine.Machine {
	if scan < b.begun || scan >= b.machine.Scans() || len(b.snapshots) == 0 {
		return nil
	}
	again := b.code.Start(b.script.Period)
	n := (scan - b.begun) / between
	again.Restore(b.snapshots[n])
	first := b.begun + n*between // a snapshot holds what was done before its own scan
	for done := first; done < scan; done++ {
		if done > first {
			b.redo(again, done)
		}
		if again.Scan() != nil {
			return nil
		}
	}
	if scan > first {
		b.redo(again, scan)
	}
	return again
}

// redo does again what was done before a scan.
func (b *Bench) redo(m *machine.Machine, scan int) {
	for _, act := range b.script.Acts {
		if act.Scan != scan {
			continue
		}
		if act.Verb == signal.Restart {
			m.Restart()
			continue
		}
		slot, ok := b.code.Slot(act.Name)
		if !ok {
			continue
		}
		value, _ := slot.Type.Parse(act.Value)
		switch act.Verb {
		case signal.Force:
			m.Force(slot, value)
		case signal.Unforce:
			m.Release(slot)
		default:
			m.Write(slot, value)
		}
	}
}

// Instances lists the instances of each block of one's own, by the block's name.
func (b *Bench) Instances() map[string][]string {
	found := map[string][]string{}
	for _, v := range b.program.Variables {
		if v.Same == nil {
			instances(v.Name, v.Type, found)
		}
	}
	return found
}

func instances(name string, t *check.Type, found map[string][]string) {
	if t.Class == check.Array && len(t.Bounds) == 1 {
		for n := t.Bounds[0].Low; n <= t.Bounds[0].High && t.Element.Class == check.Instance; n++ {
			instances(fmt.Sprintf("%s[%d]", name, n), t.Element, found)
		}
		return
	}
	if t.Class != check.Instance || t.Block.Unit == nil {
		return
	}
	found[t.Block.Name] = append(found[t.Block.Name], name)
	for _, v := range t.Block.Unit.Variables {
		instances(name+"."+v.Name, v.Type, found)
	}
}

type watcher struct {
	program  *check.Program
	observer *observe.Observer
	flows    []Flow
	values   map[check.Expr]int64
	carried  map[Carried]string
}

func (w *watcher) Begin(any)                               {}
func (w *watcher) End()                                    {}
func (w *watcher) Wrote(string, source.Span, int64, int64) {}

// Value notes what a contact reads, whether power reaches it or not, and what stands in a network; of several at one place the last.
func (w *watcher) Value(e check.Expr, name string, v int64) {
	w.values[e] = v
	if at := e.Span(); w.program.NetworkAt(at) != nil {
		w.carried[Carried{at.Start, at.End, w.observer.Instance(), ""}] = w.word(e, name, v)
	}
}

func (w *watcher) word(e check.Expr, name string, v int64) string {
	if e.Type().Class == check.Text {
		return w.observer.Word(name, v)
	}
	return observe.Word(e.Type(), v)
}

// Power notes the power at an element.
func (w *watcher) Power(e check.Element, in, out bool) {
	f := Flow{Instance: w.observer.Instance(), In: in, Out: out, Closed: out}
	switch e := e.(type) {
	case *check.Contact:
		f.Start = e.At.Start
		switch e.Kind {
		case syntax.OpenContact:
			f.Closed = w.values[e.Operand] != 0
		case syntax.ClosedContact:
			f.Closed = w.values[e.Operand] == 0
		}
	case *check.Coil:
		f.Start = e.At.Start
	case *check.BlockBox:
		f.Start = e.Call.At.Start
	case *check.FunctionBox:
		f.Start = e.At.Start
	default:
		return
	}
	w.flows = append(w.flows, f)
}

// Why explains a value at a scan. It needs the program to have run from scan 0.
func (b *Bench) Why(name string, scan int) (*explain.Why, error) {
	if b.begun > 0 {
		return nil, fmt.Errorf("the program was changed at scan %d; restart the bench to ask why", b.begun)
	}
	asker, err := explain.New(b.program, b.code, b.Script(), b.devices)
	if err != nil {
		return nil, err
	}
	return asker.Why(name, scan)
}

// Script is what was done by hand, as a script that does the same.
func (b *Bench) Script() *signal.Trace {
	t := &signal.Trace{Period: b.script.Period, Scans: b.script.Scans}
	changes := map[string][]signal.Change{}
	for _, name := range b.code.Inputs() {
		slot, _ := b.code.Slot(name)
		changes[name] = []signal.Change{{Value: b.code.Start(b.script.Period).Read(slot)}}
	}
	for _, act := range b.script.Acts {
		if act.Verb == signal.Restart {
			t.Acts = append(t.Acts, act)
			continue
		}
		slot, ok := b.code.Slot(act.Name)
		if !ok {
			continue
		}
		if !slot.Input || act.Verb != signal.Write {
			t.Acts = append(t.Acts, act)
			continue
		}
		value, _ := slot.Type.Parse(act.Value)
		changes[slot.Name] = append(changes[slot.Name], signal.Change{Scan: act.Scan, Value: value})
	}
	for _, name := range b.code.Inputs() {
		slot, _ := b.code.Slot(name)
		column := signal.Steps(name, slot.Type.Kind(), changes[slot.Name])
		column.Texts, column.Named = slot.Type.Values, slot.Type.Class == check.Enumeration
		t.Columns = append(t.Columns, column)
	}
	return t
}

// Parse reads a value of a name as people write it.
func (b *Bench) Parse(name, text string) (int64, error) {
	slot, ok := b.code.Slot(name)
	if !ok {
		return 0, fmt.Errorf("there is nothing named %s. %s", name, source.Meant(name, b.code.Names()))
	}
	v, err := slot.Type.Parse(text)
	if err != nil {
		return 0, fmt.Errorf("%s: %w", name, err)
	}
	return v, nil
}
