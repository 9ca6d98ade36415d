// Package walk tells one scan step by step, in the order in which the machine goes: what each element of a rung or statement looks
// at, what it remembers from the last scan, whether it passes the power, what it writes and what stood there before. The first step
// takes the inputs in, the last lets the outputs out.
//
// In comes a machine as the scan begins ([Scan]); it is not changed. Out come [Stage]s with a sentence each. It runs one scan, draws
// nothing, and asks for no reason beyond that scan.
package walk

import (
	"fmt"
	"strings"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/observe"
	"celandine/core/source"
)

// Kind is what a step is about.
type Kind string

// The kinds.
const (
	Inputs    Kind = "inputs"    // the image of the inputs is taken
	Element   Kind = "element"   // of a rung
	Branches  Kind = "branches"  // the branches of a rung meet again
	Statement Kind = "statement" // of a text
	Enter     Kind = "enter"     // the body of a block or function of one's own begins
	Outputs   Kind = "outputs"   // the values written go out to the outputs
	Stop      Kind = "stop"      // a fault
)

// A Stage is one thing that happens in a scan.
type Stage struct {
	Kind     Kind    `json:"kind"`
	Line     int     `json:"line"`  // 0: it stands nowhere in the text
	Start    int     `json:"start"` // the bytes of the text
	End      int     `json:"end"`
	Rung     int     `json:"rung"`     // from 1 in its program; 0: a statement
	Network  int     `json:"network"`  // from 1 in its body; 0: it stands in no block diagram
	Title    string  `json:"title"`    // of the rung or network
	Instance string  `json:"instance"` // of the block of one's own in whose body it is, or ""
	Text     string  `json:"text"`     // the element or statement as it is written
	Say      string  `json:"say"`
	In       bool    `json:"in"` // the power before an element, and behind it
	Out      bool    `json:"out"`
	Closed   bool    `json:"closed"` // a contact would pass the power that reaches it
	Writes   []Write `json:"writes"`
}

// A Write is a value that was written, as people read it.
type Write struct {
	Name   string `json:"name"`
	Before string `json:"before"`
	After  string `json:"after"`
}

// Most is how many steps are told before the last; a loop may have more.
const Most = 2_000

// Scan tells the scan that the machine would execute next.
func Scan(m *machine.Machine) []Stage {
	w := &walker{o: observe.Of(m), program: m.Code().Program(), forced: map[string]bool{}}
	for name := range m.Forces() {
		w.forced[strings.ToLower(name)] = true
	}
	w.o.Watch(w)
	w.image()
	if fault := w.o.Scan(); fault != nil {
		w.stop(fault)
		return w.steps
	}
	w.publish()
	return w.steps
}

// walker is told of a scan, and makes steps of it.
type walker struct {
	o       *observe.Observer
	program *check.Program
	forced  map[string]bool
	steps   []Stage
	frames  []*frame
	reads   []read  // since the last step
	writes  []write // since the last step
	running string  // the function of one's own whose body runs
}

// A frame is a rung or statement under way.
type frame struct {
	place    any
	instance string
	told     bool
	entered  string // the body that its call has led into
}

type read struct {
	e    check.Expr
	name string
	v    int64
}

type write struct {
	name      string
	before, v int64
}

// full reports that no more is told.
func (w *walker) full() bool { return len(w.steps) >= Most }

func (w *walker) add(s Stage, at source.Span) {
	if w.full() && s.Kind != Outputs && s.Kind != Stop {
		return
	}
	if at.File != nil {
		s.Line, _ = at.File.Position(at.Start)
		s.Start, s.End, s.Text = at.Start, at.End, strings.Join(strings.Fields(at.Text()), " ")
	}
	if f := w.now(); f != nil {
		s.Instance = f.instance
		for _, f := range w.frames {
			if r, ok := f.place.(*check.Rung); ok {
				s.Rung, s.Title = r.Number, r.Title
			}
		}
		if n := w.program.NetworkAt(check.PlaceOf(f.place)); n != nil {
			s.Network, s.Title = n.Number, n.Title
		}
	}
	s.Writes = w.written()
	w.steps = append(w.steps, s)
	w.reads, w.writes = nil, nil
}

// written are the values written since the last step that people know by name.
func (w *walker) written() []Write {
	list := []Write{}
	for _, x := range w.writes {
		if hidden(x.name) {
			continue
		}
		list = append(list, Write{shown(x.name), w.o.Word(x.name, x.before), w.o.Word(x.name, x.v)})
	}
	return list
}

// hidden tells of an edge's own memory, and of what a block diagram holds in between.
func hidden(name string) bool {
	return name == "" || name == "edge" || strings.HasSuffix(name, ".edge") || strings.ContainsAny(name, "( /")
}

// shown is a name as people know it: fresh.on for fresh#2.on.
func shown(name string) string {
	before, rest, numbered := strings.Cut(name, "#")
	if !numbered {
		return name
	}
	_, member, _ := strings.Cut(rest, ".")
	return before + "." + member
}

func (w *walker) now() *frame {
	if len(w.frames) == 0 {
		return nil
	}
	return w.frames[len(w.frames)-1]
}

// Begin notes that a rung or statement begins.
func (w *walker) Begin(place any) {
	if outer := w.now(); outer != nil && !w.full() {
		w.before(outer, place)
	}
	w.frames = append(w.frames, &frame{place: place, instance: w.o.Instance()})
}

// before tells what led to a place: the condition of an IF around it, the call of the body in which it stands.
func (w *walker) before(outer *frame, place any) {
	if s, ok := outer.place.(check.Statement); ok && contains(check.PlaceOf(outer.place), check.PlaceOf(place)) {
		if !outer.told || len(w.reads) > 0 || len(w.writes) > 0 {
			w.tell(outer, s)
		}
		return
	}
	into := w.running
	if instance := w.o.Instance(); instance != outer.instance {
		into = instance
	}
	if outer.entered != into {
		outer.entered = into
		w.add(Stage{Kind: Enter, Say: fmt.Sprintf("Into the body of %s.", into)}, source.Span{})
	}
}

func contains(outer, inner source.Span) bool {
	return outer.File == inner.File && outer.Start <= inner.Start && inner.End <= outer.End
}

// Called notes the call of a function of one's own.
func (w *walker) Called(e *check.Invoke, _ string) { w.running = e.Unit.Name }

// End notes that it has ended.
func (w *walker) End() {
	f := w.now()
	if s, ok := f.place.(check.Statement); ok && !w.full() && !within(s) && (!f.told || len(w.reads) > 0 || len(w.writes) > 0) {
		w.tell(f, s)
	}
	w.frames = w.frames[:len(w.frames)-1]
}

// within reports one of the steps that an edge in a block diagram takes before it is known.
func within(s check.Statement) bool {
	a, ok := s.(*check.Assign)
	return ok && a.Target.Variable.Hidden && a.Target.Variable.Name == "edge"
}

func (w *walker) tell(f *frame, s check.Statement) {
	f.told, f.entered = true, ""
	w.add(Stage{Kind: Statement, Say: w.sayStatement(s)}, spanOf(s))
}

// Value notes what is read.
func (w *walker) Value(e check.Expr, name string, v int64) {
	w.reads = append(w.reads, read{e, name, v})
}

// Wrote notes what is written.
func (w *walker) Wrote(name string, _ source.Span, before, v int64) {
	if !w.full() {
		w.writes = append(w.writes, write{name, before, v})
	}
}

// Power tells of an element, once power has gone through it, or not.
func (w *walker) Power(e check.Element, in, out bool) {
	if w.full() {
		return
	}
	s := Stage{Kind: Element, In: in, Out: out, Closed: out}
	if f := w.now(); f != nil {
		f.entered = ""
	}
	switch e := e.(type) {
	case *check.Contact:
		s.Say, s.Closed = w.contact(e, in, out)
		w.add(s, e.At)
	case *check.Coil:
		s.Say = w.coil(e, in)
		w.add(s, e.At)
	case *check.BlockBox:
		s.Say = w.blockBox(e, in, out)
		w.add(s, e.Call.At)
	case *check.FunctionBox:
		s.Say = w.functionBox(e, in, out)
		w.add(s, e.At)
	case *check.Parallel:
		if len(e.Branches) > 1 {
			s.Kind, s.Say = Branches, "The branches meet: none of them let power through."
			if out {
				s.Say = "The branches meet: power has come through at least one of them, and goes on."
			}
			w.add(s, source.Span{})
		}
	}
}

// image tells of the inputs as the scan finds them.
func (w *walker) image() {
	var words []string
	for _, v := range w.program.Inputs() {
		if v.Type.IsSingle() {
			words = append(words, v.Name+" "+w.word(v.Name))
		}
	}
	say := "The scan begins: the inputs are taken as they are now, and stay so to its end."
	if len(words) > 0 {
		say += " " + strings.Join(words, ", ") + "."
	}
	if first := w.o.Value("FIRST_SCAN"); first != 0 {
		say += " It is the first scan: FIRST_SCAN is TRUE."
	}
	w.add(Stage{Kind: Inputs, Say: say}, source.Span{})
}

// publish tells of the outputs as the scan leaves them.
func (w *walker) publish() {
	var words []string
	for _, v := range w.program.Outputs() {
		if v.Type.IsSingle() {
			words = append(words, v.Name+" "+w.word(v.Name))
		}
	}
	say := "The scan ends."
	if len(words) > 0 {
		say = "The scan ends: only now do the outputs take what was written last. " + strings.Join(words, ", ") + "."
	}
	w.add(Stage{Kind: Outputs, Say: say}, source.Span{})
}

func (w *walker) stop(f *machine.Fault) {
	w.add(Stage{Kind: Stop, Say: "The program stops here. " + f.Message}, f.Span)
}

// word is what a name holds now, as people read it.
func (w *walker) word(name string) string { return w.o.Word(name, w.o.Value(name)) }
