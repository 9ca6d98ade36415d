package machine

import (
	"slices"

	"celandine/core/check"
)

// call compiles the inputs of a block, the block itself and its outputs.
func (c *compiler) call(s *check.Call) {
	l := c.locate(s.Instance)
	if len(l.dynamic) == 0 {
		c.callAt(s, l.base)
		return
	}
	// Which instance is meant is known only when the program runs: each in turn is asked.
	o := l.dynamic[0]
	l.dynamic = l.dynamic[1:]
	var ends []int
	for k := range o.count {
		flag := c.scratchBit()
		c.emit(instruction{op: opEqual, a: flag, b: o.word, c: c.constant(int64(k)), d: uint32(always)})
		next := c.jumpUnless(bit(flag))
		c.callAt(s, l.base.plus(o.size.times(k)))
		ends = append(ends, c.emit(instruction{op: opJump}))
		c.land([]int{next})
		if c.tooLarge {
			return
		}
	}
	c.land(ends)
}

func (c *compiler) callAt(s *check.Call, at extent) {
	if looksBack(s) {
		s = c.hoisted(s)
	}
	t := s.Instance.Type()
	if u := t.Block.Unit; u != nil {
		c.callOwn(s, t, u, at)
		return
	}
	b := standard(t.Block)
	in := b.instruction(at)
	if count := t.Block.Count; count != nil {
		in.n = countIndex(count)
	}
	for _, i := range s.Inputs {
		if k, ok := i.Value.(*check.Const); ok && i.Member.Name == b.preset {
			in.c = c.constant(k.Value)
			continue
		}
		if ref, ok := i.Value.(*check.Ref); ok && c.fused && b.op == opCTU && i.Member.Name == "R" && static(ref) &&
			ref.Variable != s.Instance.Variable && !callsIn(s) {
			in.f = c.load(ref, anywhere)
			continue
		}
		c.assignTo(location{base: at.plus(c.sizes.member(t, i.Member))}, i.Member.Type, i.Value)
	}
	c.emit(in)
	c.outputs(s, t, at)
}

// looksBack reports whether an input of a call may read what the last call gave the instance, so that none may be stored
// before all are worked out.
func looksBack(s *check.Call) bool {
	return callsIn(s) || slices.ContainsFunc(s.Inputs,
		func(i check.Binding) bool { return i.Value != nil && mentions(i.Value, s.Instance.Variable) })
}

// mentions reports whether an expression reads a variable or a part of it.
func mentions(e check.Expr, v *check.Variable) bool {
	return check.Holds(e, func(x check.Expr) bool { r, is := x.(*check.Ref); return is && r.Variable == v })
}

// hoisted works the inputs of a call out into places of their own and returns the call that takes them from there.
func (c *compiler) hoisted(s *check.Call) *check.Call {
	late := *s
	late.Inputs = slices.Clone(s.Inputs)
	for n, i := range late.Inputs {
		if i.Value != nil {
			value := i.Value
			late.Inputs[n].Value = c.aside(i.Member.Type, func(l location) { c.assignTo(l, i.Member.Type, value) })
		}
	}
	return &late
}

// aside returns a reference to a new place that fill has written.
func (c *compiler) aside(t *check.Type, fill func(location)) *check.Ref {
	l := location{base: c.code.start.end()}
	c.sizes.grow(&c.code.start, t, nil)
	fill(l)
	v := &check.Variable{Type: t, InOut: true}
	c.inouts[v] = l
	return &check.Ref{Variable: v, At: c.at}
}

// callsIn reports whether an input of a call calls a function of one's own.
func callsIn(s *check.Call) bool {
	return slices.ContainsFunc(s.Inputs, func(i check.Binding) bool { return i.Value != nil && check.Invokes(i.Value) })
}

func (c *compiler) outputs(s *check.Call, t *check.Type, at extent) {
	for _, o := range s.Outputs {
		c.deliver(o.Target, o.Member.Type, at.plus(c.sizes.member(t, o.Member)))
	}
}

// deliver writes what came out of a block or function to its caller's place.
func (c *compiler) deliver(target *check.Ref, from *check.Type, at extent) {
	l, t := c.locate(target), target.Type()
	switch {
	case !t.IsSingle():
		c.copy(l, location{base: at}, t)
	case t.Class == check.Boolean:
		c.storeBit(l, bit(at.bit))
	case t.Class == check.Text:
		c.store(l, t, at.text)
	default:
		w := at.word
		if from.Plain() != t.Plain() {
			w = c.scratchWord()
			c.emit(instruction{op: opConvert, n: typeIndex(from)<<8 | typeIndex(t), a: w, b: at.word})
		}
		c.store(l, t, w)
	}
}

// callOwn compiles a block of one's own into the place of the call.
func (c *compiler) callOwn(s *check.Call, t *check.Type, u *check.Unit, at extent) {
	bound := map[*check.Variable]location{}
	for _, i := range s.Inputs {
		if i.Member.InOut {
			bound[i.Member.Variable] = c.keep(c.locate(i.Target))
			continue
		}
		c.assignTo(location{base: at.plus(c.sizes.member(t, i.Member))}, i.Member.Type, i.Value)
	}
	for _, v := range u.Variables {
		if v.Temp {
			c.begin(v, c.inUnit(v, at))
		}
	}
	c.inside(u, at, bound)
	c.outputs(s, t, at)
}

// keep copies the ordinals of a location where later code cannot change them.
func (c *compiler) keep(l location) location {
	kept := location{base: l.base}
	for _, o := range l.dynamic {
		w := c.ownWords(1)
		c.emit(instruction{op: opMove, a: w, b: o.word})
		kept.dynamic = append(kept.dynamic, ordinal{w, o.size, o.count})
	}
	return kept
}

// inside compiles a unit's body with its variables at a place.
func (c *compiler) inside(u *check.Unit, at extent, bound map[*check.Variable]location) {
	if c.tooLarge {
		return
	}
	frame, whole := c.frame, c.at
	exits, continues := c.exits, c.continues
	before := map[*check.Variable]location{}
	for v, l := range bound {
		before[v] = c.inouts[v]
		c.inouts[v] = l
	}
	c.frame, c.exits, c.continues = at, nil, nil
	// The body's scratch lies beyond what the caller holds.
	c.unit(u)
	c.frame, c.at, c.exits, c.continues = frame, whole, exits, continues
	for v, l := range before {
		c.inouts[v] = l
	}
}

// inUnit is the place of a variable of a function or block whose variables lie at frame.
func (c *compiler) inUnit(v *check.Variable, frame extent) extent {
	c.sizes.unit(v.Owner)
	return frame.plus(c.sizes.offsets[v])
}

// begin sets a variable to what it begins with.
func (c *compiler) begin(v *check.Variable, at extent) {
	start := &c.code.start
	from := start.end()
	if c.tooLarge = c.tooLarge || int(from.word)+int(from.bit)+int(from.text) > maxMemory; c.tooLarge {
		return
	}
	c.sizes.grow(start, v.Type, v.Initial)
	c.copy(location{base: at}, location{base: from}, v.Type)
}

// invoke compiles a function of one's own into the place of the call and
// returns where its result lies.
func (c *compiler) invoke(e *check.Invoke) extent {
	u := e.Unit
	start := &c.code.start
	frame := start.end()
	if c.tooLarge = c.tooLarge || int(frame.word)+int(frame.bit)+int(frame.text) > maxMemory; c.tooLarge {
		return frame
	}
	c.sizes.growUnit(start, u, nil)
	bound := map[*check.Variable]location{}
	given := map[*check.Variable]bool{}
	for _, i := range e.Inputs {
		switch {
		case i.Target != nil:
			bound[i.Variable] = c.keep(c.locate(i.Target))
		case i.Value != nil:
			given[i.Variable] = true
			c.assignTo(location{base: frame.plus(c.sizes.offsets[i.Variable])}, i.Variable.Type, i.Value)
		}
	}
	for _, v := range u.Variables {
		if !v.InOut && !v.Hidden && !given[v] {
			c.begin(v, c.inUnit(v, frame))
		}
	}
	c.inside(u, frame, bound)
	for _, o := range e.Outputs {
		c.deliver(o.Target, o.Variable.Type, frame.plus(c.sizes.offsets[o.Variable]))
	}
	return frame.plus(c.sizes.offsets[u.Result])
}

// maxMemory bounds the values of one machine, scratch among them.
const maxMemory = 4_000_000

// apply compiles a standard function that is no operator.
func (c *compiler) apply(e *check.Apply, t target) uint32 {
	list := make([]operand, 0, len(e.X)+1)
	for _, x := range e.X {
		list = append(list, operand(c.kept(x)))
	}
	// The function needs to know what it works on: for ToText that is its input.
	typed := e.T
	if e.Function == check.ToText || e.Function <= check.RotateLeft {
		typed = e.X[0].Type()
	}
	list = append(list, operand(typeIndex(typed)))
	first := uint32(len(c.code.operands))
	c.code.operands = append(c.code.operands, list...)
	var at uint32
	switch e.T.Class {
	case check.Boolean:
		at = c.bitAt(&t)
	case check.Text:
		at = c.textAt(&t)
	default:
		at = c.wordAt(&t)
	}
	c.emit(instruction{op: opApply, n: uint16(e.Function), a: at, b: first, c: uint32(len(e.X))})
	return at
}

// kept compiles an argument to a place of its own, so that a later argument
// that calls a function cannot change it.
func (c *compiler) kept(x check.Expr) uint32 {
	switch x.Type().Class {
	case check.Boolean:
		at := c.scratchBit()
		c.bool(x, into(at))
		return at
	case check.Text:
		at := c.scratchText()
		return c.text(x, into(at))
	}
	at := c.scratchWord()
	return c.word(x, into(at))
}
