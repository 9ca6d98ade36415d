package machine

import "celandine/core/check"

// Observe returns an observer of the scan that the machine would execute next. The machine is not changed.
func (m *Machine) Observe() *Observer {
	o := NewObserver(m.code.program, m.period)
	o.Follow(m)
	return o
}

// Follow gives the observer the state of a machine of the same program, so that its next scan is the machine's.
func (o *Observer) Follow(m *Machine) {
	o.scan = m.scan
	for v, c := range o.roots {
		o.load(c, m, m.code.places[v])
	}
	o.due = []*check.Unit{}
	for i := range m.code.tasks {
		if t := &m.code.tasks[i]; t.due(m.scan, m.first()) {
			o.due = append(o.due, m.code.unitAt(t.start))
		}
	}
	o.forces = map[*cell]int64{}
	for _, f := range m.forces {
		if c := o.named(f.slot.Name); c != nil {
			o.forces[c] = f.value
		}
	}
}

// unitAt returns the program whose code begins at a place.
func (c *Code) unitAt(start int) *check.Unit {
	for i, e := range c.entries {
		if e.start == start {
			return c.program.Units[i]
		}
	}
	return nil
}

// named finds a cell by a slot's name.
func (o *Observer) named(name string) *cell {
	if o.names == nil {
		o.Watch(nil)
	}
	for c, n := range o.names {
		if equalFold(n, name) {
			return c
		}
	}
	return nil
}

func (o *Observer) load(c *cell, m *Machine, at extent) {
	sizes := m.code.sizes
	switch t := c.typed; t.Class {
	case check.Boolean:
		c.number = int64(m.bits[at.bit])
	case check.Text:
		c.text = m.texts[at.text]
	case check.Array:
		size := sizes.of(t.Element)
		for i, e := range c.elements {
			o.load(e, m, at.plus(size.times(uint32(i))))
		}
	case check.Structure:
		for member, sub := range c.members {
			o.load(sub, m, at.plus(sizes.member(t, member)))
		}
	case check.Instance:
		if u := t.Block.Unit; u != nil {
			sizes.unit(u)
			for v, sub := range c.own {
				o.load(sub, m, at.plus(sizes.offsets[v]))
			}
			return
		}
		for member, sub := range c.members {
			o.load(sub, m, at.plus(sizes.member(t, member)))
		}
		c.loadHidden(m, at)
	default:
		c.number = m.words[at.word]
	}
}

// loadHidden takes over what a standard block remembers.
func (c *cell) loadHidden(m *Machine, at extent) {
	bit := func(n uint32) int64 { return int64(m.bits[at.bit+n]) }
	c.hidden = [3]int64{}
	switch b := blocks[c.typed.Block.Family()]; b.op {
	case opRTrig, opFTrig:
		c.hidden[0] = bit(4)
	case opCTU:
		c.hidden[0] = bit(6)
	case opCTD:
		c.hidden[1] = bit(6)
	case opCTUD:
		c.hidden[0], c.hidden[1] = bit(12), bit(14)
	case opTON, opTOF, opTP, opTACC:
		phase, start := m.bits[at.bit+timerPhase], m.words[at.word+wordStart]
		c.hidden = [3]int64{bitOfBool(phase == running), start, bitOfBool(phase == over)}
		if b.op == opTACC {
			c.hidden[0] = int64(phase)
		}
	}
}
