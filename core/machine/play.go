package machine

import (
	"errors"

	"celandine/core/signal"
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
	w, err := c.Watch(watch)
	if err != nil {
		return nil, err
	}
	return w.Play(ScriptOf(script))
}

// Play does what [Code.Play] does, of a script that is ready.
func (w *Watch) Play(script *Script) (*Run, error) {
	run, _, err := w.play(script, (*player).skip)
	return run, err
}

// Step does what Play does and executes every scan, and all of it: what Play and [Machine.Scan] leave out is held to it.
func (c *Code) Step(script *signal.Trace, watch []string) (*Run, error) {
	w, err := c.Watch(watch)
	if err != nil {
		return nil, err
	}
	run, _, err := w.play(ScriptOf(script), (*player).step)
	return run, err
}

// Before plays a script up to a scan and returns the machine as that scan begins, with its inputs set. The
// fault, where there is one, ended the run before.
func (c *Code) Before(script *signal.Trace, scan int) (*Machine, *Fault, error) {
	p, err := c.player(ScriptOf(script), &Recorder{})
	if err != nil {
		return nil, nil, err
	}
	p.scans = scan
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
	p, err := c.player(ScriptOf(script), &Recorder{})
	if err != nil {
		return err
	}
	p.scans, p.visit = scans, visit
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
	slots    []Slot // of the events
	scans    int
	visit    func(*Machine)
	asked    int // how many instructions were executed when it last asked whether to stop
	stopped  bool
	executed int // scans, foreseen ones among them
}

// player returns one of a program's that is ready to play the whole script.
func (c *Code) player(script *Script, r *Recorder) (*player, error) {
	events, slots, err := c.events(script)
	if err != nil {
		return nil, err
	}
	return &player{m: c.Start(script.trace.Period), recorder: r, events: events, slots: slots, scans: script.trace.Scans}, nil
}

func (w *Watch) play(script *Script, how func(*player) *Fault) (*Run, *Machine, error) {
	r := w.Recorder(script.trace.Period)
	p, err := w.code.player(script, r)
	if err != nil {
		return nil, nil, err
	}
	run := &Run{Trace: r.Trace}
	r.Trace.Scans = p.scans
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
	if p.recorder.Record(p.m, scan); p.recorder.full() {
		return FaultOf(scan, tooMuch, p.m.code.program.Units[0].Tree.Name.Span)
	}
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
		slot := p.slots[e.slot]
		switch e.verb {
		case signal.Force:
			p.m.Force(slot, e.value)
		case signal.Unforce:
			p.m.Release(slot)
		}
		if e.verb != signal.Unforce || slot.Input { // an input is again what it is wired to
			p.m.Write(slot, e.value)
		}
		p.events = p.events[1:]
	}
}

func (p *player) step() *Fault {
	p.m.whole = true
	return p.each()
}

// each executes every scan.
func (p *player) each() *Fault {
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
