package oracle

import "celandine/core/syntax"

func (o *Interpreter) series(f *frame, s *syntax.Series, power bool) bool {
	for _, e := range s.Elements {
		power = o.element(f, e, power)
		o.share()
	}
	return power
}

func (o *Interpreter) element(f *frame, e syntax.Element, power bool) bool {
	switch e := e.(type) {
	case *syntax.Series:
		return o.series(f, e, power)
	case *syntax.Parallel:
		any := false
		for _, b := range e.Branches {
			if o.series(f, b, power) {
				any = true
			}
		}
		return any
	case *syntax.Contact:
		return o.contact(f, e, power)
	case *syntax.Coil:
		o.coil(f, e, power)
		return power
	case *syntax.Box:
		return o.box(f, e, power)
	}
	unknown(e)
	return false
}

func (o *Interpreter) contact(f *frame, e *syntax.Contact, power bool) bool {
	switch e.Kind {
	case syntax.OpenContact:
		on := o.truth(f, e.Operand)
		return power && on
	case syntax.ClosedContact:
		on := o.truth(f, e.Operand)
		return power && !on
	}
	sensed := power
	if e.Operand != nil {
		sensed = o.truth(f, e.Operand)
	}
	before := f.memory[e]
	if e.Memory != nil {
		m := o.place(f, e.Memory)
		before = m.i != 0
		m.i = truth(sensed)
	} else {
		f.memory[e] = sensed
	}
	edge := sensed && !before
	if e.Kind == syntax.FallingContact {
		edge = before && !sensed
	}
	if e.Operand == nil {
		return edge
	}
	return power && edge
}

func (o *Interpreter) coil(f *frame, e *syntax.Coil, power bool) {
	c := o.place(f, e.Operand)
	before := f.memory[e]
	switch e.Kind {
	case syntax.PlainCoil:
		c.i = truth(power)
	case syntax.NegatedCoil:
		c.i = truth(!power)
	case syntax.SetCoil:
		if power {
			c.i = 1
		}
	case syntax.ResetCoil:
		if power {
			c.i = 0
		}
	case syntax.RisingCoil:
		c.i = truth(power && !before)
		f.memory[e] = power
	case syntax.FallingCoil:
		c.i = truth(!power && before)
		f.memory[e] = power
	}
}

func (o *Interpreter) box(f *frame, e *syntax.Box, power bool) bool {
	id, named := e.Call.Callee.(*syntax.Identifier)
	if named && f.cells[lower(id.Text)] == nil {
		return o.functionBox(f, e, lower(id.Text), power)
	}
	c := o.place(f, e.Call.Callee)
	in, out := powerPins(c)
	if e.EN || in == nil || out == nil {
		if power {
			o.callBlock(f, c, e.Call, nil)
		}
		o.deliverENO(f, e.Call, power)
		return power
	}
	o.callStatement(f, e.Call, &power)
	return out.i != 0
}

// powerPins are the first BOOL input and the first BOOL output of an instance.
func powerPins(c *cell) (in, out *cell) {
	if c.inner == nil {
		for _, p := range pins[c.t.block] {
			m := c.members[p.name]
			switch {
			case m.t.family != boolFamily:
			case p.out && out == nil:
				out = m
			case !p.out && in == nil:
				in = m
			}
		}
		return in, out
	}
	for _, s := range c.inner.unit.Sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				m := c.inner.cells[lower(n.Text)]
				switch {
				case m == nil || m.t.family != boolFamily:
				case s.Word == "VAR_INPUT" && in == nil:
					in = m
				case s.Word == "VAR_OUTPUT" && out == nil:
					out = m
				}
			}
		}
	}
	return in, out
}

// decides tells which functions' BOOL result is the power out.
var decides = map[string]bool{"gt": true, "ge": true, "eq": true, "le": true, "lt": true, "ne": true, "and": true, "or": true, "xor": true,
	"not": true}

func (o *Interpreter) functionBox(f *frame, e *syntax.Box, name string, power bool) bool {
	if !power {
		return false
	}
	if e.Result == nil {
		v := o.function(f, e.Call, nil)
		return !decides[name] || v.t.family != boolFamily || v.i != 0
	}
	c := o.place(f, e.Result)
	v := o.function(f, e.Call, c.t)
	store(c, v)
	return !decides[name] || v.t.family != boolFamily || v.i != 0
}
