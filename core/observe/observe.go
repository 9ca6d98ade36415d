// Package observe runs checked programs slowly, on their tree, as the language page says, and tells what the machine's code cannot:
// the power at every element of a rung, the value of every expression, every write.
//
// An [Observer] begins before the first scan, or takes over the state of a [machine.Machine] and executes the scan that the machine
// would execute next ([Of], [Observer.Follow]); a [Watcher] is told what happens in it. The machine is not changed. What blocks do
// is written here apart from the machine's code, so that tests can hold the two to each other; only the arithmetic of standard
// functions is shared. It records nothing and explains nothing.
package observe

import (
	"strconv"
	"strings"
	"time"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// An Observer runs a checked program on its tree.
type Observer struct {
	program *check.Program
	period  time.Duration
	scan    int
	roots   map[*check.Variable]*cell
	frame   map[*check.Variable]*cell // of the function or block that runs
	steps   int
	at      source.Span
	due     []*check.Unit // by tasks; nil: the programs in order, in every scan
	forces  map[*cell]int64
	names   map[*cell]string
	watcher Watcher
	running *cell // the instance whose body runs, or nil
	invoked int   // functions of one's own called in this scan
}

// Instance is the name of the block of one's own whose body runs at this moment; "" in a program. Only a watcher may ask.
func (o *Observer) Instance() string { return o.names[o.running] }

// A Watcher is told what an observer does. A place is a *check.Rung or a check.Statement; a name is that of
// a [machine.Slot], or, for a variable of a function, fresh#2.on: the function, the number of its call in the scan, the variable.
type Watcher interface {
	Begin(place any)
	End()
	Power(e check.Element, in, out bool)                // every element of a rung
	Value(e check.Expr, name string, v int64)           // every expression; name is set for a [check.Ref]
	Wrote(name string, at source.Span, before, v int64) // every single value that is written, and what stood there
}

// A CallWatcher is told, too, of each call of a function of one's own as it begins, with what its variables' names begin with.
type CallWatcher interface {
	Called(e *check.Invoke, name string)
}

// A cell is one value, or a composition of cells.
type cell struct {
	typed    *check.Type
	number   int64
	text     string
	elements []*cell                   // of an array
	members  map[*check.Member]*cell   // of a structure or standard block
	own      map[*check.Variable]*cell // of a block of one's own
	hidden   hidden                    // of a standard block
}

// New returns an observer before the first scan.
func New(p *check.Program, period time.Duration) *Observer {
	o := &Observer{program: p, period: period, roots: map[*check.Variable]*cell{}}
	for _, v := range p.Variables {
		if v.Same == nil {
			o.roots[v] = newCell(v.Type, v.Initial)
		}
	}
	return o
}

func newCell(t *check.Type, initial *check.Value) *cell {
	if initial == nil {
		initial = t.Initial
	}
	c := &cell{typed: t}
	switch t.Class {
	case check.Array:
		for n := range t.Count() {
			var one *check.Value
			if initial != nil && n < int64(len(initial.Elements)) {
				one = initial.Elements[n]
			}
			c.elements = append(c.elements, newCell(t.Element, one))
		}
	case check.Structure:
		c.members = map[*check.Member]*cell{}
		for _, m := range t.Members {
			c.members[m] = newCell(m.Type, initial.Of(m.Name, m.Initial))
		}
	case check.Instance:
		c.beginBlock(t, initial)
	default:
		c.number = t.Begin()
		if initial != nil {
			c.number, c.text = initial.Number, t.Fit(initial.Text)
		}
	}
	return c
}

func (c *cell) beginBlock(t *check.Type, initial *check.Value) {
	if u := t.Block.Unit; u != nil {
		c.own = map[*check.Variable]*cell{}
		for _, v := range u.Variables {
			if !v.InOut {
				c.own[v] = newCell(v.Type, initial.Of(v.Name, v.Initial))
			}
		}
		return
	}
	c.members = map[*check.Member]*cell{}
	for _, m := range t.Block.Members {
		c.members[m] = newCell(m.Type, nil)
	}
}

// copyFrom makes the cell hold what another of its type holds.
func (c *cell) copyFrom(from *cell) {
	c.number, c.text = from.number, from.text
	for i := range c.elements {
		c.elements[i].copyFrom(from.elements[i])
	}
	for m := range c.members {
		c.members[m].copyFrom(from.members[m])
	}
}

// Watch tells the watcher of everything from now on; nil ends it.
func (o *Observer) Watch(w Watcher) {
	o.watcher = w
	if o.names == nil {
		o.names = map[*cell]string{}
		taken := map[string]bool{}
		for _, v := range o.program.Variables {
			if v.Same != nil {
				continue
			}
			name := v.Name
			if taken[strings.ToLower(name)] { // another program's: as [machine.Code.Slot] has it
				name = v.Unit + "." + name
			}
			taken[strings.ToLower(name)] = true
			o.name(o.roots[v], name)
		}
	}
}

func (o *Observer) name(c *cell, name string) {
	o.names[c] = name
	for i, e := range c.elements {
		if b := c.typed.Bounds; len(b) == 1 {
			o.name(e, name+"["+strconv.FormatInt(b[0].Low+int64(i), 10)+"]")
		}
	}
	for m, sub := range c.members {
		o.name(sub, name+"."+m.Name)
	}
	for v, sub := range c.own {
		o.name(sub, name+"."+v.Name)
	}
}

// write gives a single cell a value, unless a force holds it.
func (o *Observer) write(c *cell, number int64) {
	if held, forced := o.forces[c]; forced {
		number = held
	}
	before := c.number
	c.number = number
	if o.watcher != nil {
		o.watcher.Wrote(o.names[c], o.at, before, number)
	}
}

// Word writes a value of the variable of that name as people read it: TRUE, 12, 1.59 s; of a text what stands in it.
func (o *Observer) Word(name string, v int64) string {
	c := o.named(name)
	switch {
	case c == nil:
		return strconv.FormatInt(v, 10)
	case c.typed.Class == check.Text:
		return "'" + c.text + "'"
	}
	return Word(c.typed, v)
}

// Word writes a single value of a type, but a text, as people read it.
func Word(t *check.Type, v int64) string {
	if t.Kind() == signal.Time {
		return signal.FormatClock(time.Duration(v))
	}
	return t.Format(v)
}

// Value is what the variable of that name holds now.
func (o *Observer) Value(name string) int64 {
	if c := o.named(name); c != nil {
		return c.number
	}
	return 0
}

// Set gives an input, or any root variable, a value.
func (o *Observer) Set(v *check.Variable, value int64) { o.roots[v.Storage()].number = value }

// halted unwinds a scan that ends in a fault.
type halted struct{ why machine.Cause }

// Scan executes one scan.
func (o *Observer) Scan() (fault *machine.Fault) {
	o.steps, o.invoked = 0, 0
	defer func() {
		if r := recover(); r != nil {
			h, ours := r.(halted)
			if !ours {
				panic(r)
			}
			fault = machine.FaultOf(o.scan, h.why, o.at)
		}
	}()
	units := o.program.Units
	if o.due != nil {
		units = o.due
	}
	for c, held := range o.forces {
		c.number = held
	}
	for _, u := range units {
		for _, v := range o.program.Temporaries(u) {
			o.roots[v].copyFrom(newCell(v.Type, v.Initial))
		}
		o.unit(u)
	}
	o.scan++
	for _, v := range o.program.Variables {
		if v.Role == check.System {
			o.roots[v].number = 0
		}
	}
	return nil
}

func (o *Observer) now() int64 { return int64(o.scan) * int64(o.period) }

// leave is how a statement ends more than itself.
type leave string

func (o *Observer) unit(u *check.Unit) {
	o.block(u.Statements)
	for _, r := range u.Rungs {
		o.at = r.At
		o.begin(r)
		o.series(r.Net, true)
		o.end()
	}
}

func (o *Observer) begin(place any) {
	if o.watcher != nil {
		o.watcher.Begin(place)
	}
}

func (o *Observer) end() {
	if o.watcher != nil {
		o.watcher.End()
	}
}

func (o *Observer) block(list []check.Statement) leave {
	for _, s := range list {
		o.begin(s)
		how := o.statement(s)
		o.end()
		if how != "" {
			return how
		}
	}
	return ""
}

func (o *Observer) tick() {
	if o.steps++; o.steps > machine.Budget {
		panic(halted{machine.OutOfFuel})
	}
}

func (o *Observer) statement(s check.Statement) leave {
	o.tick()
	switch s := s.(type) {
	case *check.Assign:
		o.at = s.At
		o.assign(s.Target, s.Value)
	case *check.Evaluate:
		o.at = s.At
		o.eval(s.Value)
	case *check.Call:
		o.at = s.At
		o.callStatement(s, nil, false)
	case *check.Jump:
		return leave(s.Word)
	case *check.If:
		for _, arm := range s.Arms {
			if o.truth(arm.Condition) {
				return o.block(arm.Body)
			}
		}
		return o.block(s.Else)
	case *check.Case:
		return o.choose(s)
	default:
		return o.loop(s)
	}
	return ""
}

func (o *Observer) choose(s *check.Case) leave {
	v := o.eval(s.Value).number
	for _, c := range s.Choices {
		for _, l := range c.Labels {
			if v >= l.From && v <= l.To {
				return o.block(c.Body)
			}
		}
	}
	return o.block(s.Else)
}

func (o *Observer) loop(s check.Statement) leave {
	switch s := s.(type) {
	case *check.While:
		for o.truth(s.Condition) {
			if how := o.turn(s.At, s.Body); how != "" {
				return ended(how)
			}
		}
	case *check.Repeat:
		for {
			if how := o.turn(s.At, s.Body); how != "" {
				return ended(how)
			}
			if o.truth(s.Until) {
				return ""
			}
		}
	case *check.For:
		return o.count(s)
	}
	return ""
}

// turn runs the body of the loop at a place once; CONTINUE ends just this.
func (o *Observer) turn(loop source.Span, body []check.Statement) leave {
	o.at = loop
	o.tick()
	if how := o.block(body); how != "CONTINUE" {
		return how
	}
	return ""
}

// ended is what is left to leave after a loop has ended.
func ended(how leave) leave {
	if how == "EXIT" {
		return ""
	}
	return how
}

func (o *Observer) count(s *check.For) leave {
	o.at = s.At
	from, to, step := o.eval(s.From).number, o.eval(s.To).number, o.eval(s.Step).number
	if step == 0 {
		panic(halted{machine.ZeroStep})
	}
	t := s.Counter.Type().Plain()
	least, greatest := t.Range()
	unsigned := t.IsUnsigned64()
	o.store(s.Counter, value{number: from})
	for n := from; ; {
		passed := check.Operate(check.Less, t, to, n)
		if step < 0 && !unsigned {
			passed = check.Operate(check.Less, t, n, to)
		}
		if passed != 0 {
			return ""
		}
		if how := o.turn(s.At, s.Body); how != "" {
			return ended(how)
		}
		n = o.cell(s.Counter).number
		next := n + step
		beyond := !unsigned && (step > 0 && (next < n || next > greatest) || step < 0 && (next > n || next < least)) || unsigned &&
			uint64(next) < uint64(n)
		if beyond {
			return ""
		}
		n = next
		o.store(s.Counter, value{number: n})
	}
}

// value is what an expression gives; a composition is its cell.
type value struct {
	number int64
	text   string
	whole  *cell
}

func (o *Observer) truth(e check.Expr) bool { return o.eval(e).number != 0 }

func (o *Observer) eval(e check.Expr) value {
	v := o.compute(e)
	if o.watcher != nil {
		o.watcher.Value(e, o.names[v.whole], v.number)
	}
	return v
}

func (o *Observer) compute(e check.Expr) value {
	switch e := e.(type) {
	case *check.Const:
		return value{number: e.Value, text: e.Text}
	case *check.Ref:
		c := o.cell(e)
		return value{c.number, c.text, c}
	case *check.Convert:
		return value{number: check.ConvertValue(e.X.Type(), e.T, o.eval(e.X).number)}
	case *check.Choose:
		first, y, x := o.truth(e.If), o.eval(e.Y), o.eval(e.X)
		if first {
			return x
		}
		return y
	case *check.Op:
		return o.operate(e)
	case *check.Apply:
		return o.apply(e)
	case *check.Invoke:
		return o.invoke(e)
	}
	return value{}
}

func (o *Observer) operate(e *check.Op) value {
	if e.Y == nil {
		return value{number: check.Operate(e.Op, e.T, o.eval(e.X).number, 0)}
	}
	var x, y value
	if e.Turned {
		y, x = o.eval(e.Y), o.eval(e.X)
	} else {
		x, y = o.eval(e.X), o.eval(e.Y)
	}
	t := e.X.Type().Plain()
	if t.Class == check.Text {
		x.number, y.number = int64(compareTexts(x.text, y.text)), 0
		t = check.Lint
	}
	if (e.Op == check.Div || e.Op == check.Mod) && y.number == 0 && t.Class != check.Floating {
		o.at = e.At
		panic(halted{machine.Divided})
	}
	return value{number: check.Operate(e.Op, t, x.number, y.number)}
}

func compareTexts(a, b string) int {
	switch {
	case a < b:
		return -1
	case a > b:
		return 1
	}
	return 0
}

// apply hands a standard function to the code's own arithmetic.
func (o *Observer) apply(e *check.Apply) value {
	given := make([]machine.Argument, len(e.X))
	for n, x := range e.X {
		v := o.eval(x)
		given[n] = machine.Argument{Number: v.number, Text: v.text}
	}
	v, why := machine.Apply(e, given)
	if why != machine.Finished {
		panic(halted{why})
	}
	return value{number: v.Number, text: v.Text}
}

// cell finds what a reference names now.
func (o *Observer) cell(r *check.Ref) *cell {
	c := o.frame[r.Variable]
	if c == nil {
		c = o.roots[r.Variable.Storage()]
	}
	for _, s := range r.Path {
		switch {
		case s.Member == nil:
			c = o.element(c, s.Index)
		case c.own != nil:
			c = c.own[s.Member.Variable]
		default:
			c = c.members[s.Member]
		}
	}
	return c
}

func (o *Observer) element(c *cell, index []check.Expr) *cell {
	ordinal := int64(0)
	for i, x := range index {
		b := c.typed.Bounds[i]
		n := o.eval(x).number
		if n < b.Low || n > b.High {
			o.at = x.Span()
			panic(halted{machine.Outside})
		}
		ordinal = ordinal*(b.High-b.Low+1) + n - b.Low
	}
	return c.elements[ordinal]
}

func (o *Observer) assign(target *check.Ref, e check.Expr) {
	// The place is found before the value, as the code does.
	c := o.cell(target)
	o.put(c, target.Type(), o.eval(e))
}

func (o *Observer) store(target *check.Ref, v value) { o.put(o.cell(target), target.Type(), v) }

func (o *Observer) put(c *cell, t *check.Type, v value) {
	if !t.IsSingle() {
		c.copyFrom(v.whole)
		return
	}
	if t.Base != nil && (v.number < t.Low || v.number > t.High) {
		panic(halted{machine.Beyond})
	}
	c.text = t.Fit(v.text)
	o.write(c, v.number)
}

func (o *Observer) series(s *check.Series, power bool) bool {
	for _, e := range s.Elements {
		power = o.through(e, power)
	}
	return power
}

// through passes power through one element and tells of it.
func (o *Observer) through(e check.Element, in bool) bool {
	out := o.pass(e, in)
	if o.watcher != nil {
		o.watcher.Power(e, in, out)
	}
	return out
}

func (o *Observer) pass(e check.Element, in bool) bool {
	switch e := e.(type) {
	case *check.Series:
		return o.series(e, in)
	case *check.Parallel:
		out := false
		for _, b := range e.Branches {
			out = o.series(b, in) || out
		}
		return out
	case *check.Contact:
		o.at = e.At
		return o.contact(e, in)
	case *check.Coil:
		o.at = e.At
		o.coil(e, in)
	case *check.BlockBox:
		o.at = e.Call.At
		return o.blockBox(e, in)
	case *check.FunctionBox:
		o.at = e.At
		return o.functionBox(e, in)
	case *check.Share:
		for _, a := range e.Assigns {
			o.assign(a.Target, a.Value)
		}
	}
	return in
}

func (o *Observer) contact(e *check.Contact, in bool) bool {
	sensed := in
	if e.Operand != nil {
		sensed = o.truth(e.Operand)
	}
	switch e.Kind {
	case syntax.OpenContact:
		return in && sensed
	case syntax.ClosedContact:
		return in && !sensed
	}
	edge := o.edge(o.cell(e.Memory), sensed, e.Kind == syntax.RisingContact)
	return edge && (in || e.Operand == nil) // one that senses the power passes its edge
}

// edge compares a bit with its memory, which then follows it.
func (o *Observer) edge(memory *cell, now, rising bool) bool {
	before := memory.number != 0
	o.write(memory, bitOfBool(now))
	if rising {
		return now && !before
	}
	return before && !now
}

func bitOfBool(b bool) int64 {
	if b {
		return 1
	}
	return 0
}

func (o *Observer) coil(e *check.Coil, in bool) {
	target := o.cell(e.Target)
	switch e.Kind {
	case syntax.PlainCoil:
		o.write(target, bitOfBool(in))
	case syntax.NegatedCoil:
		o.write(target, bitOfBool(!in))
	case syntax.SetCoil:
		if in {
			o.write(target, 1)
		}
	case syntax.ResetCoil:
		if in {
			o.write(target, 0)
		}
	default:
		o.write(target, bitOfBool(o.edge(o.cell(e.Memory), in, e.Kind == syntax.RisingCoil)))
	}
}

func (o *Observer) blockBox(e *check.BlockBox, in bool) bool {
	if e.In == nil {
		if in {
			o.call(e.Call, nil, false)
		}
		if e.Call.ENO != nil {
			o.store(e.Call.ENO, value{number: bitOfBool(in)})
		}
		return in
	}
	o.callStatement(e.Call, e.In, in)
	return o.cell(e.Call.Instance.Select(e.Out)).number != 0
}

func (o *Observer) functionBox(e *check.FunctionBox, in bool) bool {
	if !in {
		return false
	}
	if e.Target == nil {
		v := o.eval(e.Value)
		return !e.Gate || v.number != 0
	}
	o.assign(e.Target, e.Value)
	return !e.Gate || o.cell(e.Target).number != 0
}
