// Package explain tells why a value was what it was at a scan.
//
// In come a checked program, its code, the script that it ran and a question: a name and a scan
// ([Asker.Why]). Out come the steps back along the cause: the rung or statement that decided the value, the contacts
// and conditions in it with how long each has been so, then why the deciding one was so, until an input that
// somebody worked, an initial value, or a timer or counter at work; and a few sentences that say it
// ([Why.Short]).
//
// The run itself is the fast one. Only the scans that matter are executed again on the
// tree, from the state that the machine had, with a watcher that notes what each rung and statement read and wrote. The
// package judges nothing and knows no marks.
package explain

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Device is what is wired to an input, for the sentences.
type Device struct {
	Label  string // Mist OFF
	Kind   string // button, switch, sensor
	Closed bool   // its contact is normally closed
}

// A Why is the answer to one question.
type Why struct {
	Signal string   `json:"signal"`
	Scan   int      `json:"scan"`
	Time   string   `json:"time"`
	Value  string   `json:"value"`
	Short  []string `json:"short"` // at most four sentences
	Steps  []Step   `json:"steps"` // back along the cause
}

// A Step is why one value was what it was.
type Step struct {
	Signal   string    `json:"signal"`
	Value    string    `json:"value"`
	Scan     int       `json:"scan"`  // that was looked at
	Since    int       `json:"since"` // the scan from which the value has been so
	Kind     string    `json:"kind"`  // rung, statement, block, kept, input, force, beginning
	Place    *Place    `json:"place,omitempty"`
	Within   string    `json:"within,omitempty"` // the instance or function whose rung or line it is
	Elements []Element `json:"elements"`         // contacts and conditions, in the order of the text
	Say      string    `json:"say"`
	Second   string    `json:"second,omitempty"` // what else would have kept the value so
	waits    bool      // of a timer: its time is not over
}

// A Place is a rung, a statement, or a node of a network.
type Place struct {
	File  string `json:"file"`
	Line  int    `json:"line"`
	Start int    `json:"start"` // byte offsets
	End   int    `json:"end"`
	Rung  int    `json:"rung,omitempty"` // its number, from 1
	// Network is the number, from 1, of the block diagram's network in which it stands.
	Network int    `json:"network,omitempty"`
	Title   string `json:"title,omitempty"` // of the rung or network
}

// An Element is a contact of a rung, a condition of a statement, or a block's output.
type Element struct {
	Text    string `json:"text"`  // [/mist_off]
	Name    string `json:"name"`  // what it reads, "" where it is more than one value
	State   string `json:"state"` // closed, open; in text TRUE, FALSE or the number
	Since   int    `json:"since"` // the scan from which it has been so
	Decides bool   `json:"decides"`
	In      bool   `json:"in,omitempty"`  // power before it, in a rung
	Out     bool   `json:"out,omitempty"` // power behind it
	Start   int    `json:"start"`
	End     int    `json:"end"`
	read    int    // the scan at whose end it had the value that was read
	passed  bool   // power, in a rung
	aside   bool   // in a branch that does not decide
	edge    bool
	stays   bool // nothing further back is its cause
}

// An Asker answers questions about one run.
type Asker struct {
	program *check.Program
	code    *machine.Code
	script  *signal.Trace
	devices map[string]Device
	trace   *signal.Trace
	writers []writer
	moments map[int]*moment
	never   map[int]*passage // by scan
	stopped bool             // a run was stopped before its end
	// functions tells to which function of one's own a rung or statement belongs, of those that were called.
	functions map[any]*check.Unit
	known     map[*check.Unit]bool
}

// mostExecuted bounds the runs that are explained, since parts of them are executed again: a program that is long in every
// scan must not hold up the marks of others.
const mostExecuted = 5_000_000

// What such a program holds, and what is recorded of it, are bounded as well.
const (
	mostCells    = 20_000
	mostRecorded = 4_000_000 // changes
)

// Errors about what is not explained.
var (
	ErrTooLong  = errors.New("this run executes more than 5,000,000 instructions, too many to look back through")
	ErrTooLarge = errors.New("this program holds more than 20,000 values, too many to look back through")
)

// New plays the script and returns an asker. Devices go by the lower-case names of their inputs.
func New(program *check.Program, code *machine.Code, script *signal.Trace, devices map[string]Device) (*Asker, error) {
	if code.Cells() > mostCells {
		return nil, ErrTooLarge
	}
	watch, err := code.Watch(code.AllNames())
	if err != nil {
		return nil, err
	}
	watch.AtMost(mostRecorded)
	run, err := watch.Play(machine.ScriptOf(script))
	if err != nil {
		return nil, err
	}
	if run.Executed > mostExecuted {
		return nil, ErrTooLong
	}
	return &Asker{program: program, code: code, script: script, devices: devices, trace: run.Trace, writers: writersOf(program),
		moments: map[int]*moment{}, never: map[int]*passage{}, functions: map[any]*check.Unit{}, known: map[*check.Unit]bool{}}, nil
}

// stop notes that a run was stopped, so that what is told now lacks something.
func (a *Asker) stop(err error) { a.stopped = a.stopped || errors.Is(err, machine.ErrStopped) }

// Names lists what can be asked about.
func (a *Asker) Names() []string { return a.code.AllNames() }

// Scans is how many scans there are to ask about: up to a fault, where there was one.
func (a *Asker) Scans() int { return a.trace.Scans }

// mostSteps bounds the way back.
const mostSteps = 8

// Before is the machine as a scan of the run begins, with its inputs set. A scan beyond the run's end, or after a fault, is an error.
func (a *Asker) Before(scan int) (*machine.Machine, error) {
	if scan < 0 || scan >= a.trace.Scans {
		return nil, fmt.Errorf("there is no scan %d; the run has %d", scan, a.trace.Scans)
	}
	m, fault, err := a.code.Before(a.script, scan)
	if err == nil && fault != nil {
		err = fmt.Errorf("the program stopped in scan %d: %s", fault.Scan, fault.Message)
	}
	return m, err
}

// Why explains the value that a name had at the end of a scan. The way back follows what changed last. Where it ends at something that was
// done to an input, the run is repeated without that: if the value stays as it was, another way is taken ([Asker.proved]).
func (a *Asker) Why(name string, scan int) (*Why, error) {
	column := a.trace.Column(name)
	if column == nil {
		return nil, fmt.Errorf("there is nothing named %s to explain. %s", name, source.Meant(name, a.code.AllNames()))
	}
	if scan < 0 || scan >= a.trace.Scans {
		return nil, fmt.Errorf("the run has the scans 0 to %d; there is no scan %d", a.trace.Scans-1, scan)
	}
	w := &Why{Signal: column.Name, Scan: scan, Time: signal.FormatClock(a.trace.Time(scan)), Value: a.word(column.Name, scan)}
	w.Steps = a.proved(column.Name, scan)
	w.Short = a.short(w)
	if a.stopped {
		return nil, machine.ErrStopped
	}
	return w, nil
}

// A turn is a place on the way back, and which of its causes was followed: the first is the one that changed last.
type turn struct{ step, cause int }

// wayBack follows the causes of a value. At one step it may take another cause than the first.
func (a *Asker) wayBack(name string, scan int, other turn) (steps []Step) {
	asked := map[string]bool{}
	for now, at := name, scan; now != "" && len(steps) < mostSteps; {
		key := fmt.Sprint(strings.ToLower(now), at)
		if asked[key] {
			break
		}
		asked[key] = true
		step := a.step(now, at)
		if at != scan && (step.Kind == "rung" || step.Kind == "statement") {
			step.Say = fmt.Sprintf("In %s %s", a.at(at), lower(step.Say))
		}
		now = ""
		cause := 0
		if len(steps) == other.step {
			cause = other.cause
		}
		next := step.next(cause)
		if next != nil && next.Since > step.Since && step.Second == "" && !local(next.Name) {
			step.second(fmt.Sprintf("%s was %s before that, too", step.Signal, step.Value))
		}
		steps = append(steps, step)
		if next != nil {
			now = next.Name
			if at = next.Since; at == 0 || next.isOutput(a) {
				at = next.read
			}
		}
	}
	return steps
}

// second notes what else would have kept the value so, and says it.
func (s *Step) second(what string) {
	if what != "" {
		s.Second = what
		s.Say += " " + what + "."
	}
}

// next is the deciding element to follow: of those, from 0, the one that changed last; nil where there are no more.
func (s *Step) next(cause int) *Element {
	var list []*Element
	for i := range s.Elements {
		if e := &s.Elements[i]; e.Decides && e.Name != "" && !e.stays {
			list = append(list, e)
		}
	}
	slices.SortStableFunc(list, func(x, y *Element) int { return y.Since - x.Since })
	if cause >= len(list) {
		return nil
	}
	return list[cause]
}

// isOutput reports an output of a standard block, which is explained as it stands: a timer is still running.
func (e *Element) isOutput(a *Asker) bool {
	_, ok := a.block(e.Name)
	return ok
}

// since returns the scan from which a name has had the value that it had at the end of a scan.
func (a *Asker) since(name string, scan int) int {
	column := a.trace.Column(name)
	if column == nil { // of a function: it is made anew in each call
		return scan
	}
	since := 0
	for _, c := range column.Segments() {
		if c.Scan > scan {
			break
		}
		since = c.Scan
		if c.Slope != 0 { // it changes in every scan
			since = scan
		}
	}
	return since
}

func (a *Asker) value(name string, scan int) (int64, bool) {
	column := a.trace.Column(name)
	if column == nil || scan < 0 {
		return 0, false
	}
	return column.At(scan), true
}

func (a *Asker) isTrue(name string, scan int) bool {
	v, _ := a.value(name, scan)
	return v != 0
}

// word writes a value as people read it: TRUE, 12, 3.2 s.
func (a *Asker) word(name string, scan int) string {
	column := a.trace.Column(name)
	if column == nil {
		return a.localWord(name, scan)
	}
	switch column.Kind {
	case signal.Bool:
		if column.At(scan) != 0 {
			return "TRUE"
		}
		return "FALSE"
	case signal.Time:
		return clock(column.At(scan))
	}
	if slot, ok := a.code.Slot(name); ok && column.Kind != signal.Text { // an enumeration has names
		return slot.Type.Format(column.At(scan))
	}
	return column.Format(column.At(scan))
}

// localWord writes the value of a function's variable.
func (a *Asker) localWord(name string, scan int) string {
	m, key := a.moment(scan), strings.ToLower(name)
	t, v := m.types[key], m.values[key]
	switch {
	case t == nil:
		return "?"
	case t.Class == check.Duration:
		return clock(v)
	}
	return t.Format(v)
}

// step explains one value.
func (a *Asker) step(name string, scan int) Step {
	s := Step{Signal: shown(name), Value: a.word(name, scan), Scan: scan, Since: a.since(name, scan), Elements: []Element{}}
	if a.forced(&s) {
		return s
	}
	if slot, ok := a.code.Slot(name); ok && slot.Input {
		a.input(&s)
		return s
	}
	if block, ok := a.block(name); ok && block.gives(name) {
		a.standard(&s, block)
		return s
	}
	if deed := a.moment(scan).writerOf(name); deed != nil {
		a.decided(&s, deed, name)
		return s
	}
	if local(name) {
		s.Kind, s.Say = "beginning", fmt.Sprintf("%s begins as %s in each call.", s.Signal, s.Value)
		return s
	}
	a.kept(&s)
	return s
}

// forced tells of a force of the script that holds the value.
func (a *Asker) forced(s *Step) bool {
	var holds *signal.Act
	for i := range a.script.Acts {
		act := &a.script.Acts[i]
		if !strings.EqualFold(act.Name, s.Signal) || act.Scan > s.Scan {
			continue
		}
		if holds = act; act.Verb != signal.Force {
			holds = nil
		}
	}
	if holds == nil {
		return false
	}
	s.Kind, s.Since = "force", holds.Scan
	s.Say = fmt.Sprintf("The script has forced %s to %s since %s.", s.Signal, s.Value, a.at(holds.Scan))
	return true
}

// mostElements bounds what a step is told by; a rung that a person drew has fewer.
const mostElements = 60

// few keeps of a long list as many as are told, those that decide first.
func few(list []Element) []Element {
	if len(list) <= mostElements {
		return list
	}
	deciding := 0
	for _, e := range list {
		if e.Decides {
			deciding++
		}
	}
	others := max(0, mostElements-deciding)
	kept := make([]Element, 0, mostElements)
	for _, e := range list {
		switch {
		case len(kept) == mostElements:
			return kept
		case e.Decides:
			kept = append(kept, e)
		case others > 0:
			others--
			kept = append(kept, e)
		}
	}
	return kept
}

// decided fills a step in from the rung or statement that wrote the value.
func (a *Asker) decided(s *Step, d *deed, name string) {
	s.Place, s.Within = a.placeOf(d.place), strings.TrimSuffix(shown(d.within), ".")
	s.Kind = "statement"
	list, _ := a.causes(d, name)
	s.Elements = few(list)
	defer a.passedOver(s, d, name)
	rung, ok := d.place.(*check.Rung)
	if !ok {
		s.Say = a.sayStatement(s, d)
		return
	}
	s.Kind = "rung"
	if list, through := a.throughCall(d, name); through {
		s.Say = a.sayStatement(s, d)
		s.second(a.alsoPowers(d, rung, d.wroteAt(name), list))
		return
	}
	target := d.wroteAt(name)
	s.Say = a.sayRung(s, d, rung, target)
	s.second(a.behind(d, rung.Net, target))
	if coil := coilAt(rung.Net, target); coil != nil && coil.Memory != nil && !a.isTrue(name, s.Scan) {
		for i := range s.Elements {
			s.Elements[i].stays = true // that power did not change in this scan has no cause further back
		}
	}
}
