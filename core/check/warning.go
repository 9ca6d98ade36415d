package check

import (
	"slices"
	"strconv"
	"strings"

	"celandine/core/block"
	"celandine/core/source"
	"celandine/core/syntax"
)

// usage is where a variable is read, written, called and remembered with.
type usage struct {
	initial bool
	preset  bool // a timer's PT or a counter's PV is given somewhere
	called  bool
	reads   int
	writes  []Wrote
	calls   []use
	edges   []use
}

// use is one place that has to do with a variable, or with a part of it.
type use struct {
	At   source.Span
	Part string // "", or what stands behind the name: .on, [3]; somewhere
}

// somewhere is the part with an index that is known only when the program runs.
const somewhere = "[?]"

// useOf is the use of what a reference arrives at.
func useOf(r *Ref, at source.Span) use {
	for _, s := range r.Path {
		for _, x := range s.Index {
			if _, known := x.(*Const); !known {
				return use{at, somewhere}
			}
		}
	}
	return use{at, strings.TrimPrefix(r.Name(), r.Variable.Name)}
}

// Wrote is one place that writes a variable.
type Wrote struct {
	use
	Coil        syntax.CoilKind
	InRung      bool
	Conditional bool // not in every scan
}

// byPart gathers the places of one part each, in the order of their first.
func byPart(list []use) [][]use {
	var parts [][]use
	for _, one := range list {
		if one.Part == somewhere {
			continue
		}
		at := slices.IndexFunc(parts, func(p []use) bool { return p[0].Part == one.Part })
		if at < 0 {
			at, parts = len(parts), append(parts, nil)
		}
		parts[at] = append(parts[at], one)
	}
	return parts
}

// shared is the usage of a place under all its names.
func (c *checker) shared() map[*Variable]*usage {
	all := make(map[*Variable]*usage, len(c.program.Variables))
	several := map[*Variable]bool{} // have more names than one
	for _, v := range c.program.Variables {
		if v.Same != nil {
			several[v.Storage()] = true
		}
	}
	for _, v := range c.program.Variables {
		s := v.Storage()
		if !several[s] {
			all[s] = &v.uses
			continue
		}
		u := all[s]
		if u == nil {
			u = &usage{}
			all[s] = u
		}
		u.initial = u.initial || v.uses.initial
		u.preset = u.preset || v.uses.preset
		u.called = u.called || v.uses.called
		u.reads += v.uses.reads
		u.writes = append(u.writes, v.uses.writes...)
		u.calls = append(u.calls, v.uses.calls...)
		u.edges = append(u.edges, v.uses.edges...)
	}
	return all
}

// warn tells what is legal and seldom meant.
func (c *checker) warn(others map[*Variable][]*Variable) {
	all := c.shared()
	for _, v := range c.program.Variables {
		if v.Same != nil || v.Hidden {
			continue
		}
		u := all[v]
		c.warnWriters(v, u)
		c.warnLatch(v, u)
		c.warnCalls(v, u)
		c.warnUnused(v, u.with(others[v], all))
		c.warnPreset(v, u)
	}
	for _, p := range c.order { // of a block of one's own just what stands in it
		for _, v := range p.unit.Variables {
			if v.Type != nil && !v.InOut {
				c.warnPreset(v, &v.uses)
			}
		}
	}
}

// warnPreset tells of a timer or counter whose preset nobody gives, so that it is zero.
func (c *checker) warnPreset(v *Variable, u *usage) {
	if v.Type.Class != Instance || v.Type.Block.Unit != nil || !u.called || u.preset {
		return
	}
	for _, example := range []string{"PT := T#5s", "PV := 5"} {
		if m := v.Type.Block.Member(example[:2]); m != nil {
			c.warning(source.NoPreset, v.Span, "Give it where it is called: "+v.Name+"("+example+").", "%s has no %s, so it is %s.", v.Name, m.Name,
				m.Type.Format(0))
		}
	}
}

func (c *checker) warning(code source.Code, at source.Span, hint, format string, args ...any) {
	c.problems.Add(code, at, hint, format, args...)
}

// places returns "rungs 2 and 5", "networks 1 and 3" or, of a text, "lines 4 and 7".
func (c *checker) places(uses []use) string {
	word, numbers := "", []string{}
	for _, u := range uses {
		kind, number := c.pieceAt(u.At)
		if word != "" && kind != word { // in two languages
			kind = "line"
		}
		word, numbers = kind, append(numbers, number)
	}
	if word == "line" {
		for i, u := range uses {
			numbers[i] = lineOf(u.At)
		}
	}
	if len(numbers) == 1 {
		return word + " " + numbers[0]
	}
	return word + "s " + strings.Join(numbers[:len(numbers)-1], ", ") + " and " + numbers[len(numbers)-1]
}

// pieceAt is what those who wrote a program know a place by: its rung, network or line, and the number of that.
func (c *checker) pieceAt(at source.Span) (kind, number string) {
	for _, u := range c.program.Units {
		for _, r := range u.Rungs {
			if r.At.File == at.File && r.At.Start <= at.Start && at.End <= r.At.End {
				return "rung", strconv.Itoa(r.Number)
			}
		}
	}
	if n := c.program.NetworkAt(at); n != nil {
		return "network", strconv.Itoa(n.Number)
	}
	return "line", lineOf(at)
}

func (c *checker) warnWriters(v *Variable, u *usage) {
	if len(u.writes) < 2 {
		return
	}
	var every []use
	for _, w := range u.writes {
		if !w.Conditional && w.Coil != syntax.RisingCoil && w.Coil != syntax.FallingCoil {
			every = append(every, w.use)
		}
	}
	for _, list := range byPart(every) {
		if len(list) < 2 {
			continue
		}
		last := list[len(list)-1].At
		hint := "Join the conditions in one place: branches in one rung, or OR in one assignment."
		if c.program.NetworkAt(last) != nil {
			hint = "Join the conditions in one place: OR in one network."
		}
		c.warning(source.TwoCoils, last, hint,
			"%s is written in every scan, in %s; only the last one counts.", v.Name+list[0].Part, c.places(list))
	}
}

// warnLatch looks at each part that coils set or reset.
func (c *checker) warnLatch(v *Variable, u *usage) {
	var latched []use
	for _, w := range u.writes {
		if w.latches() {
			latched = append(latched, w.use)
		}
	}
	for _, list := range byPart(latched) {
		c.warnLatched(v, u, list[0].Part)
	}
}

func (w Wrote) latches() bool {
	return w.InRung && (w.Coil == syntax.SetCoil || w.Coil == syntax.ResetCoil)
}

func (c *checker) warnLatched(v *Variable, u *usage, part string) {
	var set, reset []use
	for _, w := range u.writes {
		switch {
		case w.Part == somewhere, w.Part != part && strings.HasPrefix(part, w.Part), w.Part == part && !w.latches():
			return // something else writes it, or may
		case w.Part != part:
		case w.Coil == syntax.SetCoil:
			set = append(set, w.use)
		default:
			reset = append(reset, w.use)
		}
	}
	name := v.Name + part
	switch {
	case len(reset) == 0:
		c.warning(source.SetWithoutReset, set[0].At, "Add (R "+name+") where it should go off; check that the reset names the same variable.",
			"%s is set in %s and never reset: once on, it stays on.", name, c.places(set))
	case len(set) == 0 && !u.initial:
		c.warning(source.ResetWithoutSet, reset[0].At, "Add (S "+name+") where it should go on; check that the set names the same variable.",
			"%s is reset in %s and never set: it is never on.", name, c.places(reset))
	}
}

func (c *checker) warnCalls(v *Variable, u *usage) {
	for _, list := range byPart(u.calls) {
		if len(list) > 1 {
			c.warning(source.CalledTwice, list[1].At, "Declare a second instance; each has its own memory.", "%s is called twice in a scan, in %s.",
				v.Name+list[0].Part, c.places(list))
		}
	}
	for _, list := range byPart(u.edges) {
		if name := v.Name + list[0].Part; len(list) > 1 {
			c.warning(source.SharedEdge, list[1].At, "Give each edge its own memory, or leave @ "+name+" out.",
				"%s remembers for more than one edge, in %s; the second misses what the first has seen.", name, c.places(list))
		}
	}
}

// with adds what is done with others that share bits with the variable: who reads or writes those reads or writes it.
func (u *usage) with(others []*Variable, all map[*Variable]*usage) *usage {
	if len(others) == 0 {
		return u
	}
	sum := *u
	for _, w := range others {
		o := all[w]
		sum.reads += o.reads
		sum.initial = sum.initial || o.initial
		sum.writes, sum.edges = slices.Concat(sum.writes, o.writes), slices.Concat(sum.edges, o.edges)
	}
	return &sum
}

// howWritten is how an output is written in the language of the first program.
func (c *checker) howWritten() string {
	if _, blocks := c.program.Units[0].Tree.Body.(*syntax.Diagram); blocks {
		return "Let a value go to it with =>."
	}
	return "Write it with a coil or :=."
}

func (c *checker) warnUnused(v *Variable, u *usage) {
	written := len(u.writes)+len(u.edges) > 0
	switch {
	case v.Type.Class == Instance && !u.called && u.reads == 0 && !written:
		c.warning(source.Unused, v.Span, "Call it, or remove it.", "%s is declared and never called.", v.Name)
	case v.Type.Class == Instance && !u.called:
		c.warning(source.NeverCalled, v.Span, "Call it: "+v.Name+"(…); its inputs alone make nothing happen.",
			"%s is used and never called, so it does nothing.", v.Name)
	case !v.Type.IsSingle() || v.Role == Input || v.Constant:
	case v.Role == Output && !written:
		at := v.Span
		if v.Point { // declared by the panel, not by this text
			at = c.program.Units[0].Tree.Name.Span
		}
		c.warning(source.NeverWritten, at, c.howWritten(), "The output %s is never written.", v.Name)
	case v.Role == Output:
	case u.reads == 0 && !written:
		c.warning(source.Unused, v.Span, "Remove it, or use it.", "%s is declared and never used.", v.Name)
	case u.reads == 0 && len(u.edges) == 0:
		c.warning(source.NeverRead, v.Span, "Read it somewhere, or remove it.", "%s is written and never read.", v.Name)
	case !written && !u.initial:
		c.warning(source.NeverWritten, v.Span, "Write it, or give it an initial value.", "%s is read and never written, so it is always %s.",
			v.Name, v.Type.Format(v.Type.Begin()))
	}
}

// warnConditions tells of conditions that cannot decide anything.
func (c *checker) warnConditions(tree *syntax.If, typed *If) {
	seen := map[string]source.Span{}
	for i, arm := range typed.Arms {
		at := tree.Arms[i].Condition.Place()
		if k, ok := arm.Condition.(*Const); ok {
			c.warning(source.ConstantCondition, at, "Remove the IF, or test a variable.", "This condition is always %s.", Bool.Format(k.Value))
		}
		words := strings.ToLower(strings.Join(strings.Fields(at.Text()), " "))
		if first, twice := seen[words]; twice {
			c.warning(source.SameCondition, at, "Test something else here, or remove this part.",
				"This condition is that of line %s, so this part never runs.", lineOf(first))
		}
		seen[words] = at
	}
}

// warnRung tells of a rung that writes nothing.
func (c *checker) warnRung(r *Rung) {
	if len(r.Net.Elements) > 0 && !effective(r.Net) {
		c.warning(source.NoEffect, r.At, "End it in a coil such as (lamp), or in a block.", "This rung writes nothing, so it has no effect.")
		return
	}
	for i := len(r.Net.Elements) - 1; i > 0; i-- {
		last, ok := r.Net.Elements[i].(*Contact)
		if !ok {
			return
		}
		if _, behind := r.Net.Elements[i-1].(*Coil); behind && last.Memory == nil {
			c.warning(source.NoEffect, last.At, "Put it before the coil.", "The power behind %s goes nowhere, so the contact has no effect.",
				last.At.Text())
		}
	}
}

// effective reports whether an element of a rung changes anything but a hidden memory.
func effective(e Element) bool {
	switch e := e.(type) {
	case *Series:
		for _, x := range e.Elements {
			if effective(x) {
				return true
			}
		}
		return false
	case *Parallel:
		for _, b := range e.Branches {
			if effective(b) {
				return true
			}
		}
		return false
	case *Contact:
		return e.Memory != nil && !e.Memory.Variable.Hidden || e.Operand != nil && Invokes(e.Operand)
	case *FunctionBox:
		return e.Target != nil || Invokes(e.Value)
	}
	return true
}

// waits tells of a loop whose condition nothing in the loop can change: within a scan inputs and time stand still.
func (c *checker) waits(condition Expr, body []Statement, at source.Span) {
	if condition == nil || c.problems.HasErrors() {
		return
	}
	reads := readIn(condition)
	if len(reads) == 0 || Invokes(condition) {
		return
	}
	changed := &changes{}
	changed.statements(body)
	if changed.leaves {
		return
	}
	for _, r := range reads {
		if changed.may(r) {
			return
		}
	}
	c.warning(source.WaitsForInput, at, "Write IF instead: the whole program runs again in the next scan.",
		"This loop waits for %s, which cannot change while it runs: inputs and times change only between scans.", reads[0].Name())
}

// changes is what the body of a loop may change, and whether it can leave the loop.
type changes struct {
	written []*Variable
	called  []*Variable
	leaves  bool
}

func (w *changes) may(r *Ref) bool {
	for _, v := range w.written {
		if v.Storage() == r.Variable.Storage() {
			return true
		}
	}
	for _, v := range w.called {
		if v == r.Variable {
			if v.Type.Class != Instance || v.Type.Block.Standard == nil || v.Type.Block.Standard.Family != block.Timer { // time stands still
				return true
			}
		}
	}
	return false
}

func (w *changes) refs(list []*Ref) {
	for _, r := range list {
		w.written = append(w.written, r.Variable)
	}
}

func (w *changes) statements(list []Statement) {
	for _, s := range list {
		switch s := s.(type) {
		case *Assign:
			w.refs(writtenIn(s.Target, writtenIn(s.Value, []*Ref{s.Target})))
		case *Evaluate:
			w.refs(writtenIn(s.Value, nil))
		case *Call:
			w.refs(writtenBy(s))
			w.called = append(w.called, s.Instance.Variable)
		case *If:
			for _, arm := range s.Arms {
				w.statements(arm.Body)
			}
			w.statements(s.Else)
		case *Case:
			for _, choice := range s.Choices {
				w.statements(choice.Body)
			}
			w.statements(s.Else)
		case *For:
			w.refs([]*Ref{s.Counter})
			w.statements(s.Body)
		case *While:
			w.statements(s.Body)
		case *Repeat:
			w.statements(s.Body)
		case *Jump:
			w.leaves = w.leaves || s.Word != "CONTINUE"
		}
	}
}

// warnMark tells both readings of [P] where a variable is named so.
func (c *checker) warnMark(e *syntax.Contact) {
	mark := string(e.Kind)
	if e.Operand != nil || c.find(mark) == nil {
		return
	}
	edge := map[syntax.ContactKind]string{syntax.RisingContact: "rising", syntax.FallingContact: "falling"}[e.Kind]
	c.warning(source.EdgeOrName, e.Span, "Write ["+strings.ToLower(mark)+"] for the variable.",
		"[%s] senses the %s edge of the power here; there is a variable named %s as well.", mark, edge, c.find(mark).Name)
}

// warnPower tells of -2 ** 2, which is 4.
func (c *checker) warnPower(e *syntax.Binary) {
	x, ok := e.X.(*syntax.Unary)
	if !ok || e.Op != "**" || x.Op != "-" {
		return
	}
	c.warning(source.Sign, e.Place(), "Write ("+x.Place().Text()+") ** "+e.Y.Place().Text()+", or -("+x.X.Place().Text()+" ** "+
		e.Y.Place().Text()+").", "The sign binds tighter than **: this is the power of a negative number.")
}

// warnContact tells of a contact that is always open or always closed.
func (c *checker) warnContact(e *syntax.Contact, typed *Contact) {
	k, ok := typed.Operand.(*Const)
	if !ok || typed.Memory != nil {
		return
	}
	if passes := (k.Value != 0) != (e.Kind == syntax.ClosedContact); passes {
		c.warning(source.AlwaysClosed, e.Span, "Remove it, or name a variable.", "This contact always passes power.")
	} else {
		c.warning(source.AlwaysOpen, e.Span, "Name a variable; nothing behind it ever gets power.", "This contact never passes power.")
	}
}
