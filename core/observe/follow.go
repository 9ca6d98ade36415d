package observe

import (
	"strings"

	"celandine/core/check"
	"celandine/core/machine"
)

// Of returns an observer of the scan that the machine would execute next.
func Of(m *machine.Machine) *Observer {
	o := New(m.Code().Program(), m.Period())
	o.Follow(m)
	return o
}

// Follow gives the observer the state of a machine of the same program, so that its next scan is the machine's.
func (o *Observer) Follow(m *machine.Machine) {
	o.scan, o.due = m.Scans(), m.Due()
	for v, c := range o.roots {
		c.load(m.Place(v))
	}
	o.forces = map[*cell]int64{}
	for name, held := range m.Forces() {
		if c := o.named(name); c != nil {
			o.forces[c] = held
		}
	}
}

// named finds a cell by a slot's name.
func (o *Observer) named(name string) *cell {
	if o.names == nil {
		o.Watch(nil)
	}
	for c, n := range o.names {
		if strings.EqualFold(n, name) {
			return c
		}
	}
	return nil
}

// load takes over what a machine has.
func (c *cell) load(from machine.Place) {
	switch c.typed.Class {
	case check.Text:
		c.text = from.Text()
	case check.Array:
		for i, e := range c.elements {
			e.load(from.Element(i))
		}
	case check.Structure:
		for m, sub := range c.members {
			sub.load(from.Member(m))
		}
	case check.Instance:
		c.loadInstance(from)
	default:
		c.number = from.Number()
	}
}

func (c *cell) loadInstance(from machine.Place) {
	for v, sub := range c.own {
		sub.load(from.Variable(v))
	}
	for m, sub := range c.members {
		sub.load(from.Member(m))
	}
	if c.own == nil {
		ruleOf(c).load(c, from)
	}
}

// Known reports whether there is a variable of that name.
func (o *Observer) Known(name string) bool { return o.named(name) != nil }
