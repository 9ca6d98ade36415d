package walk

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/observe"
	"celandine/core/source"
	"celandine/core/syntax"
)

// truth is how a BOOL is said.
func truth(b bool) string { return check.Bool.Format(number(b)) }

func number(b bool) int64 {
	if b {
		return 1
	}
	return 0
}

// sensed is what an expression gave, and how: TRUE of a variable, else the values that made it so.
func (w *walker) sensed(e check.Expr) (now bool, how string) {
	for _, r := range w.reads {
		if r.e == e {
			now = r.v != 0
		}
	}
	if _, ok := e.(*check.Ref); ok {
		return now, truth(now)
	}
	if names := w.lookedAt(); len(names) > 0 {
		return now, strings.Join(names, ", ") + ", which makes it " + truth(now)
	}
	return now, truth(now)
}

// lookedAt lists the variables read since the last step with their values, each once.
func (w *walker) lookedAt() (list []string) {
	for _, r := range w.reads {
		ref, ok := r.e.(*check.Ref)
		name := r.name
		if ok && ref.Variable.Made != nil && ref.Variable.Name != "edge" {
			name = ref.Variable.Name
		} else if !ok || r.name == "" || hidden(r.name) || !ref.Type().IsSingle() {
			continue
		}
		if said := shown(name) + " is " + w.o.Word(r.name, r.v); !slices.Contains(list, said) {
			list = append(list, said)
		}
	}
	return list
}

func (w *walker) contact(e *check.Contact, in, out bool) (say string, closed bool) {
	if e.Memory != nil {
		return w.edgeContact(e, in, out), out
	}
	now, how := w.sensed(e.Operand)
	closed = now == (e.Kind == syntax.OpenContact)
	state := "open"
	if closed {
		state = "closed"
	}
	say = fmt.Sprintf("Looks at %s: %s, so the contact is %s", textOf(e.Operand), how, state)
	if e.Kind == syntax.ClosedContact {
		say += " (a closed contact opens on TRUE)"
	}
	return say + ending(in, closed), closed
}

func textOf(e check.Expr) string { return strings.Join(strings.Fields(e.Span().Text()), " ") }

// ending says what becomes of the power at a contact.
func ending(in, closed bool) string {
	switch {
	case !in:
		return "; no power reaches it."
	case closed:
		return ", and the power goes on."
	}
	return "; the power ends here."
}

// edgeContact tells what an edge remembers from the scan before.
func (w *walker) edgeContact(e *check.Contact, in, out bool) string {
	now, looked := in, "the power before it is "+truth(in)
	if e.Operand != nil {
		how := ""
		now, how = w.sensed(e.Operand)
		looked = textOf(e.Operand) + " is " + how + " now"
	}
	say := w.remembers(e.Memory) + looked + ": "
	edge, way := w.isEdge(now, e.Kind == syntax.RisingContact), "falling"
	if e.Kind == syntax.RisingContact {
		way = "rising"
	}
	switch {
	case out:
		say += fmt.Sprintf("a %s edge, so there is power for this one scan.", way)
	case edge:
		say += fmt.Sprintf("a %s edge, but no power reaches it.", way)
	default:
		say += fmt.Sprintf("no %s edge, so no power.", way)
	}
	return say + " It now remembers " + truth(now) + "."
}

// remembers says what the memory of an edge held.
func (w *walker) remembers(memory *check.Ref) string {
	name := "The edge"
	if !memory.Variable.Hidden {
		name += " (" + memory.Name() + ")"
	}
	return name + " remembers " + truth(w.memory()) + ", "
}

// memory is what the edge of this step remembered: its write came last.
func (w *walker) memory() bool { return len(w.writes) > 0 && w.writes[len(w.writes)-1].before != 0 }

func (w *walker) isEdge(now, rising bool) bool { return w.memory() != now && now == rising }

func (w *walker) coil(e *check.Coil, in bool) string {
	name := e.Target.Name()
	power := "No power"
	if in {
		power = "Power"
	}
	switch {
	case e.Kind == syntax.SetCoil && !in:
		return fmt.Sprintf("No power: a set coil then leaves %s as it is.", name)
	case e.Kind == syntax.ResetCoil && !in:
		return fmt.Sprintf("No power: a reset coil then leaves %s as it is.", name)
	}
	if e.Memory != nil && len(w.writes) > 1 {
		memory := w.writes[len(w.writes)-2] // the edge's memory, then its target
		power = fmt.Sprintf("The edge remembers %s, the power is %s", truth(memory.before != 0), truth(in))
	}
	return power + w.wrote(name) + "."
}

// wrote says what the last write of a step made of a value.
func (w *walker) wrote(name string) string {
	if len(w.writes) == 0 {
		return ""
	}
	x := w.writes[len(w.writes)-1]
	if w.forced[strings.ToLower(x.name)] {
		return fmt.Sprintf(": %s is forced, and stays %s", name, w.o.Word(x.name, x.v))
	}
	after := w.o.Word(x.name, x.v)
	if x.before == x.v {
		return fmt.Sprintf(": writes %s to %s, as it was", after, name)
	}
	return fmt.Sprintf(": writes %s to %s (it was %s)", after, name, w.o.Word(x.name, x.before))
}

// given lists a call's inputs as they went in, and gives what came out.
func (w *walker) given(c *check.Call, power *check.Member) (in, out string) {
	var inputs, outputs []string
	instance := c.Instance.Name()
	if power != nil {
		inputs = append(inputs, power.Name+" "+w.word(w.inside(instance)+"."+power.Name))
	}
	for _, i := range c.Inputs {
		if i.Member != nil && i.Member.Type.IsSingle() {
			inputs = append(inputs, i.Member.Name+" "+w.word(w.inside(instance)+"."+i.Member.Name))
		}
	}
	for _, m := range c.Instance.Type().Block.Members {
		if m.Output && m.Type.IsSingle() {
			outputs = append(outputs, m.Name+" "+w.word(w.inside(instance)+"."+m.Name))
		}
	}
	return strings.Join(inputs, ", "), strings.Join(outputs, ", ")
}

// inside is an instance's whole name where the call stands in the body of another.
func (w *walker) inside(instance string) string {
	if f := w.now(); f != nil && f.instance != "" && w.o.Known(f.instance+"."+instance) {
		return f.instance + "." + instance
	}
	return instance
}

func (w *walker) called(c *check.Call, power *check.Member) string {
	in, out := w.given(c, power)
	kind := c.Instance.Type().Block.Name
	say := fmt.Sprintf("Calls %s (%s)", c.Instance.Name(), kind)
	if in != "" {
		say += " with " + in
	}
	if out != "" {
		say += ": " + out
	}
	return say + "."
}

func (w *walker) blockBox(e *check.BlockBox, in, out bool) string {
	name := e.Call.Instance.Name()
	if e.In == nil && !in {
		return fmt.Sprintf("No power at EN: %s is not called, and stays as it is.", name)
	}
	say := w.called(e.Call, e.In)
	if e.Out != nil {
		say += fmt.Sprintf(" The power behind it is %s: %s.", e.Out.Name, truth(out))
	}
	return say
}

func (w *walker) functionBox(e *check.FunctionBox, in, out bool) string {
	if !in {
		return "No power: " + e.Name + " is not worked out" + kept(e) + "."
	}
	say := "Power: works out " + e.Name
	if list := w.lookedAt(); len(list) > 0 {
		say += " with " + strings.Join(list, ", ")
	}
	if e.Target != nil {
		return say + w.wrote(e.Target.Name()) + "."
	}
	if e.Gate {
		return say + ": " + truth(out) + "."
	}
	return say + "."
}

func kept(e *check.FunctionBox) string {
	if e.Target == nil {
		return ""
	}
	return ", and " + e.Target.Name() + " stays as it is"
}

func (w *walker) sayStatement(s check.Statement) string {
	list := strings.Join(w.lookedAt(), ", ")
	looks := ""
	if list != "" {
		looks = "Looks: " + list + ". "
	}
	switch s := s.(type) {
	case *check.Assign:
		if v := s.Target.Variable; v.Made != nil && len(w.writes) > 0 {
			return looks + v.Name + " is " + w.o.Word(w.writes[len(w.writes)-1].name, w.writes[len(w.writes)-1].v) + "."
		}
		return looks + strings.TrimPrefix(sentence(w.wrote(s.Target.Name())), ": ")
	case *check.Call:
		return looks + w.called(s, nil)
	case *check.If:
		return looks + w.sayIf(s)
	case *check.Case:
		for _, r := range w.reads {
			if r.e == s.Value {
				return fmt.Sprintf("%sCASE: the value is %s; the part for it is done, if there is one.", looks, observe.Word(s.Value.Type(), r.v))
			}
		}
	case *check.For:
		return looks + strings.TrimPrefix(sentence(w.wrote(s.Counter.Name())), ": ")
	case *check.While:
		return looks + w.turn(s.Condition, true)
	case *check.Repeat:
		return looks + w.turn(s.Until, false)
	case *check.Jump:
		return s.Word + "."
	}
	return looks + "Done."
}

// sayIf tells which of the conditions that were looked at holds.
func (w *walker) sayIf(s *check.If) string {
	for n, arm := range s.Arms {
		for _, r := range w.reads {
			if r.e != arm.Condition || r.v == 0 {
				continue
			}
			if drawn(s) {
				return truth(true) + ", so it is done."
			}
			if n == 0 {
				return "The condition of IF is TRUE: what follows THEN is done."
			}
			return fmt.Sprintf("%s is the first condition that is TRUE: its part is done.", arm.Condition.Span().Text())
		}
	}
	if len(s.Else) > 0 {
		return "No condition is TRUE: what follows ELSE is done."
	}
	if drawn(s) {
		return truth(false) + ", so nothing of it is done, and what it would write keeps its value."
	}
	return "No condition is TRUE: nothing of it is done, and what it would write keeps its value."
}

// drawn tells of a node of a block diagram that is done where something is TRUE: a set, a reset, a function with EN.
func drawn(s *check.If) bool { return !strings.HasPrefix(strings.ToUpper(s.At.Text()), "IF") }

// turn tells whether a loop goes on.
func (w *walker) turn(condition check.Expr, while bool) string {
	for _, r := range w.reads {
		if r.e == condition {
			if (r.v != 0) == while {
				return "The loop's condition is " + truth(r.v != 0) + ": one more turn."
			}
			return "The loop's condition is " + truth(r.v != 0) + ": it ends."
		}
	}
	return "The loop begins."
}

// sentence begins ": writes …" with a capital and ends it.
func sentence(said string) string {
	said = strings.TrimPrefix(said, ": ")
	if said == "" {
		return "Nothing is written."
	}
	return strings.ToUpper(said[:1]) + said[1:] + "."
}

// spanOf is where a statement stands: of one with a body, its head.
func spanOf(s check.Statement) source.Span {
	at := check.PlaceOf(s)
	switch s := s.(type) {
	case *check.If:
		if drawn(s) {
			return at
		}
		return head(at, s.Arms[0].Condition)
	case *check.Case:
		return head(at, s.Value)
	case *check.For:
		return head(at, s.To)
	case *check.While:
		return head(at, s.Condition)
	}
	return at
}

// head is a statement up to the end of its condition.
func head(whole source.Span, condition check.Expr) source.Span {
	if at := condition.Span(); at.File == whole.File && at.End > whole.Start {
		whole.End = at.End
	}
	return whole
}
