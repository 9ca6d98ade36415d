package check

import (
	"slices"

	"celandine/core/source"
	"celandine/core/syntax"
)

// A Draft is a program that is being written, as one text. Where a change of the text lies in rungs of a program, just those are checked
// again; what is told is what [Files] would tell of the text.
type Draft struct {
	text    syntax.Draft
	points  []Point
	checker *checker // nil: everything is to be checked
	given   bool     // all that it knows was given as a program
}

// NewDraft returns one without a text yet.
func NewDraft(points []Point) *Draft { return &Draft{points: points} }

// Text is the text as it was last written, with its tree. Another text overwrites both.
func (d *Draft) Text() (*source.File, *syntax.File) { return d.text.File, d.text.Tree }

// Write gives the draft another text.
func (d *Draft) Write(text string) {
	lines := 0
	if d.text.File != nil {
		lines = d.text.File.Lines()
	}
	change := d.text.Write(text)
	if d.checker == nil || !change.Whole && change.Unit == nil {
		return
	}
	if change.Whole || !d.checker.knows(change.Unit) || d.checker.lines && lines != d.text.File.Lines() {
		d.checker = nil
		return
	}
	d.checker.move(change.Shift)
}

// Check returns what is wrong with the text. Without errors there is a program: all of it, or, if it was given all before, just what was
// checked since, among all its variables. In the latter case places within functions and blocks of one's own may be those of an earlier
// text.
func (d *Draft) Check() (program *Program, whole bool, told source.List) {
	text := d.text.Told()
	if whole = d.checker == nil || !d.checker.again(); whole {
		d.checker = newChecker([]*syntax.File{d.text.Tree}, d.points)
		d.checker.rungByRung()
		d.given = false
	}
	program, names := d.checker.judge()
	if program, told = together(program, text, names); program == nil {
		return nil, whole, told
	}
	if !whole && !d.given {
		d.checker = nil
		return d.Check()
	}
	if !whole {
		program = d.checker.fresh()
	}
	d.given = true
	d.checker.give()
	return program, whole, told
}

// Forget makes the next check one of everything.
func (d *Draft) Forget() { d.checker = nil }

// knows reports whether rungs of a unit can be checked alone: those of a program, for a block of one's own stands in others.
func (c *checker) knows(u *syntax.Unit) bool {
	return !c.shares && c.looks <= mostLooks && slices.ContainsFunc(c.bodies, func(b *body) bool { return b.unit.Tree == u })
}

// rungByRung checks the programs' bodies, each rung of a ladder as a part.
func (c *checker) rungByRung() {
	for _, b := range c.bodies {
		c.enter(b)
		if l, ok := b.unit.Tree.Body.(*syntax.Ladder); ok {
			b.unit.Rungs = c.rungs(b, l)
			continue
		}
		c.body(b.unit)
		b.parts = []*part{c.take()}
	}
}

// rungs checks those rungs of a ladder that it has not checked before, and returns them.
func (c *checker) rungs(b *body, l *syntax.Ladder) (fresh []*Rung) {
	before := b.parts
	b.parts = make([]*part, 0, len(l.Rungs))
	for i, r := range l.Rungs {
		if at := slices.IndexFunc(before, func(p *part) bool { return p.tree == r }); at >= 0 {
			b.parts, before = append(b.parts, before[at]), before[at+1:]
			continue
		}
		rung := c.rung(r, i+1)
		p := c.take()
		p.tree, p.rung = r, rung
		b.parts, fresh = append(b.parts, p), append(fresh, rung)
	}
	return fresh
}

// again checks the rungs that are new. It reports whether the rest stays as it is known.
func (c *checker) again() bool {
	c.each((*part).forget)
	c.program = &Program{Units: c.program.Units, blocks: map[*syntax.Call]*Block{}, functions: map[*syntax.Call]*Unit{}}
	c.looks = 0
	for _, b := range c.bodies {
		if l, ok := b.unit.Tree.Body.(*syntax.Ladder); ok {
			c.enter(b)
			c.rungs(b, l)
		}
	}
	c.each(func(p *part) { c.looks += p.looks })
	return c.looks <= mostLooks
}

// each calls do with every part.
func (c *checker) each(do func(*part)) {
	do(c.first)
	for _, b := range c.bodies {
		for _, p := range b.parts {
			do(p)
		}
	}
}

// move gives all that is known its places after a change of the text.
func (c *checker) move(by source.Shift) {
	c.each(func(p *part) { p.move(by) })
	for _, u := range c.order {
		for _, v := range u.unit.Variables {
			by.Span(&v.Span)
		}
	}
}

// fresh is a program of what was checked since give.
func (c *checker) fresh() *Program {
	p := *c.program
	p.Units = nil
	for _, b := range c.bodies {
		unit := &Unit{Kind: b.unit.Kind, Name: b.unit.Name, Tree: b.unit.Tree}
		for _, part := range b.parts {
			if part.rung != nil {
				unit.Rungs = append(unit.Rungs, part.rung)
			}
		}
		p.Units = append(p.Units, unit)
	}
	return &p
}

// give marks all that is known as given.
func (c *checker) give() {
	c.each(func(p *part) { p.rung = nil })
}
