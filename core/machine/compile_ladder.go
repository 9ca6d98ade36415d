package machine

import (
	"celandine/core/check"
	"celandine/core/syntax"
)

// Power on its way through a rung is a list of operands that all must be TRUE;
// an empty list is the power rail. The list is read before the next element
// writes anything, so that each element sees what the ones before it wrote.

func (c *compiler) rung(r *check.Rung) {
	bits, words, texts := c.usedBits, c.usedWords, c.usedTexts
	c.at = r.At
	c.series(r.Net, nil, false)
	c.usedBits, c.usedWords, c.usedTexts = bits, words, texts
}

// series compiles elements in order. wanted tells whether anything uses the
// power that comes out.
func (c *compiler) series(s *check.Series, power []operand, wanted bool) []operand {
	for i, e := range s.Elements {
		power = c.element(e, power, wanted || i+1 < len(s.Elements))
	}
	return power
}

func (c *compiler) element(e check.Element, power []operand, wanted bool) []operand {
	switch e := e.(type) {
	case *check.Series:
		return c.series(e, power, wanted)
	case *check.Parallel:
		return c.parallel(e, power, wanted)
	case *check.Contact:
		c.at = e.At
		return c.contact(e, power)
	case *check.Coil:
		c.at = e.At
		return c.coil(e, power, wanted)
	case *check.BlockBox:
		c.at = e.Call.At
		return c.blockBox(e, power)
	case *check.FunctionBox:
		c.at = e.At
		return c.functionBox(e, power)
	}
	return power
}

// held is the power as one operand that later writes cannot change.
func (c *compiler) held(power []operand) operand {
	o := c.all(power, anywhere)
	if o == always || o == never || c.isScratch(o) {
		return o
	}
	at := c.scratchBit()
	c.emit(instruction{op: opCopy, a: at, b: uint32(o)})
	return bit(at)
}

// follow extends the power by one more condition.
func follow(power []operand, o operand) []operand {
	return append(power[:len(power):len(power)], o)
}

// reads reports whether an element only reads: a contact with no named memory
// that does not sense the power itself, or a network of such.
func reads(e check.Element) bool {
	switch e := e.(type) {
	case *check.Contact:
		return e.Operand != nil && !calls(e.Operand) && (e.Memory == nil || e.Memory.Variable.Hidden)
	case *check.Series:
		for _, x := range e.Elements {
			if !reads(x) {
				return false
			}
		}
		return true
	case *check.Parallel:
		for _, b := range e.Branches {
			if !reads(b) {
				return false
			}
		}
		return true
	}
	return false
}

func (c *compiler) parallel(e *check.Parallel, power []operand, wanted bool) []operand {
	var out []operand
	if reads(e) {
		for _, b := range e.Branches {
			out = append(out, c.all(c.series(b, nil, true), anywhere))
		}
		return follow(power, c.any(out, anywhere))
	}
	in := c.held(power)
	for _, b := range e.Branches {
		branch := c.series(b, []operand{in}, wanted)
		if wanted {
			out = append(out, c.held(branch))
		}
	}
	if !wanted {
		return nil
	}
	return []operand{c.any(out, anywhere)}
}

func (c *compiler) contact(e *check.Contact, power []operand) []operand {
	if e.Memory == nil {
		if calls(e.Operand) {
			power = []operand{c.held(power)}
		}
		o := c.bool(e.Operand, anywhere)
		if e.Kind == syntax.ClosedContact {
			o = o.inverted()
		}
		return follow(power, o)
	}
	edge := opRise
	if e.Kind == syntax.FallingContact {
		edge = opFall
	}
	if !e.Memory.Variable.Hidden || e.Operand == nil {
		power = []operand{c.held(power)}
	}
	sensed := operand(0)
	if e.Operand != nil {
		sensed = c.bool(e.Operand, anywhere)
	} else {
		sensed = power[0]
	}
	at := c.scratchBit()
	memory, original := c.direct(e.Memory)
	c.emit(instruction{op: edge, a: at, b: uint32(sensed), c: memory.base.bit})
	c.storeBack(memory, original)
	if e.Operand == nil {
		return []operand{bit(at)}
	}
	return follow(power, bit(at))
}

func (c *compiler) coil(e *check.Coil, power []operand, wanted bool) []operand {
	if wanted {
		power = []operand{c.held(power)}
	}
	place, original := c.direct(e.Target)
	at := place.base.bit
	if e.Kind == syntax.PlainCoil {
		if o := c.all(power, into(at)); o != bit(at) {
			c.emit(instruction{op: opCopy, a: at, b: uint32(o)})
		}
		c.storeBack(place, original)
		return power
	}
	o := c.all(power, anywhere)
	switch e.Kind {
	case syntax.NegatedCoil:
		c.emit(instruction{op: opCopy, a: at, b: uint32(o.inverted())})
	case syntax.SetCoil:
		c.emit(instruction{op: opSet, a: at, b: uint32(o)})
	case syntax.ResetCoil:
		c.emit(instruction{op: opReset, a: at, b: uint32(o)})
	case syntax.RisingCoil:
		c.emit(instruction{op: opRise, a: at, b: uint32(o), c: c.locate(e.Memory).base.bit})
	case syntax.FallingCoil:
		c.emit(instruction{op: opFall, a: at, b: uint32(o), c: c.locate(e.Memory).base.bit})
	}
	c.storeBack(place, original)
	return power
}

func (c *compiler) blockBox(e *check.BlockBox, power []operand) []operand {
	if e.In == nil {
		enable := c.held(power)
		c.enabled(enable, func() { c.call(e.Call) })
		if e.Call.ENO != nil {
			c.storeBit(c.locate(e.Call.ENO), enable)
		}
		return []operand{enable}
	}
	in := c.locate(e.Call.Instance.Select(e.In))
	if len(in.dynamic) > 0 {
		c.storeBit(in, c.held(power))
	} else if o := c.all(power, into(in.base.bit)); o != bit(in.base.bit) {
		c.emit(instruction{op: opCopy, a: in.base.bit, b: uint32(o)})
	}
	c.callStatement(e.Call)
	return []operand{bit(c.load(e.Call.Instance.Select(e.Out), anywhere))}
}

func (c *compiler) functionBox(e *check.FunctionBox, power []operand) []operand {
	enable := c.held(power)
	if !e.Gate {
		c.enabled(enable, func() {
			if e.Target != nil {
				c.assign(e.Target, e.Value)
			} else if call, ok := e.Value.(*check.Invoke); ok {
				c.invoke(call)
			}
		})
		return []operand{enable}
	}
	at := c.scratchBit()
	c.emit(instruction{op: opCopy, a: at, b: uint32(never)})
	c.enabled(enable, func() {
		c.bool(e.Value, into(at))
		if e.Target != nil {
			c.storeBit(c.locate(e.Target), bit(at))
		}
	})
	return []operand{bit(at)}
}
