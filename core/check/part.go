package check

import (
	"celandine/core/source"
	"celandine/core/syntax"
)

// A part is what a stretch of a text adds to what is known of a program: the declarations, a body, or one rung of it.
type part struct {
	tree     *syntax.Rung // of which it is, or nil
	rung     *Rung        // the same with names and types, or nil
	told     source.List
	read     []*Variable // as often as they are
	noted    []noted     // what else becomes of variables
	made     []made
	networks []*Network
	wires    []*Variable
	looks    int // for the nearest name
}

// noted is one thing that becomes of a variable.
type noted struct {
	variable *Variable
	kind     noteKind
	Wrote
}

type noteKind uint8

const (
	written noteKind = iota
	remembered
	called
	calledSometimes // not in every scan
	presetGiven
)

// made is a variable of the program that a part declares, or needs: for an edge's memory, or at an address that no text declares.
type made struct {
	variable *Variable
	at       source.Span
}

func (c *checker) note(v *Variable, kind noteKind, w Wrote) {
	c.now.noted = append(c.now.noted, noted{v, kind, w})
}

func (c *checker) reads(v *Variable)             { c.now.read = append(c.now.read, v) }
func (c *checker) writes(v *Variable, w Wrote)   { c.note(v, written, w) }
func (c *checker) remembers(v *Variable, at use) { c.note(v, remembered, Wrote{use: at}) }
func (c *checker) presets(v *Variable)           { c.note(v, presetGiven, Wrote{}) }
func (c *checker) calls(v *Variable, at use, conditional bool) {
	kind := called
	if conditional {
		kind = calledSometimes
	}
	c.note(v, kind, Wrote{use: at})
}

// makes adds a variable to the program, or to the function or block that is being checked.
func (c *checker) makes(v *Variable) {
	if c.owner != nil {
		c.owner.Variables = append(c.owner.Variables, v)
		return
	}
	c.now.made = append(c.now.made, made{v, v.Span})
}

// take ends a part and begins the next.
func (c *checker) take() *part {
	p := c.now
	c.now = part{}
	return &p
}

// add makes what a part tells known of the program.
func (c *checker) add(p *part) {
	c.problems = append(c.problems, p.told...)
	c.program.networks = append(c.program.networks, p.networks...)
	c.program.wires = append(c.program.wires, p.wires...)
	for _, m := range p.made {
		v := m.variable
		if v.bare {
			if c.placed[v] {
				continue
			}
			c.placed[v], v.Span = true, m.at
		}
		c.program.Variables = append(c.program.Variables, v)
	}
	for _, v := range p.read {
		v.uses.reads++
	}
	for _, n := range p.noted {
		n.variable.uses.add(n)
	}
}

func (u *usage) add(n noted) {
	switch n.kind {
	case written:
		u.writes = append(u.writes, n.Wrote)
	case remembered:
		u.edges = append(u.edges, n.use)
	case called:
		u.called = true
		u.calls = append(u.calls, n.use)
	case calledSometimes:
		u.called = true
	case presetGiven:
		u.preset = true
	}
}

// forget takes back what add said of a part's variables.
func (p *part) forget() {
	for _, v := range p.read {
		v.uses.clear()
	}
	for _, n := range p.noted {
		n.variable.uses.clear()
	}
}

func (u *usage) clear() {
	*u = usage{initial: u.initial, writes: u.writes[:0], calls: u.calls[:0], edges: u.edges[:0]}
}

// move gives a part's places those that they have after a change of the text before it.
func (p *part) move(by source.Shift) {
	by.List(p.told)
	for i := range p.noted {
		by.Span(&p.noted[i].At)
	}
	for i := range p.made {
		by.Span(&p.made[i].at)
		if v := p.made[i].variable; !v.bare {
			by.Span(&v.Span)
		}
	}
	for _, n := range p.networks {
		by.Span(&n.At)
	}
}
