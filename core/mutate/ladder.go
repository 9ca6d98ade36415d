package mutate

import (
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/source"
	"celandine/core/syntax"
)

func (m *maker) ladder(l *syntax.Ladder) {
	for i, r := range l.Rungs {
		m.series(r.Net)
		rest := slices.Delete(slices.Clone(l.Rungs), i, i+1)
		put(m, &l.Rungs, rest, RungOut, r.Span, "the rung%s is left out", titled(r.Title))
		if i+1 < len(l.Rungs) && depends(r, l.Rungs[i+1]) {
			put(m, &l.Rungs, exchanged(l.Rungs, i), Order, r.Span, "the rung%s stands below the next", titled(r.Title))
		}
	}
}

func titled(title string) string {
	if title == "" {
		return ""
	}
	return " “" + title + "”"
}

// depends reports whether the order of two pieces of a program may matter: they share a name that one of them writes.
func depends(a, b any) bool {
	return meet(written(a), named(b)) || meet(written(b), named(a))
}

func meet(a, b map[string]bool) bool {
	for name := range a {
		if b[name] {
			return true
		}
	}
	return false
}

// named lists the variables in a piece of a program, in small letters.
func named(node any) map[string]bool {
	names := map[string]bool{}
	syntax.Walk(node, func(n any) bool {
		if id, ok := n.(*syntax.Identifier); ok {
			names[strings.ToLower(id.Text)] = true
		}
		return true
	})
	return names
}

// written lists those that it may write: what coils, results, outputs and assignments name, and instances called.
func written(node any) map[string]bool {
	names := map[string]bool{}
	add := func(e syntax.Expr) {
		if e != nil {
			for name := range named(e) {
				names[name] = true
			}
		}
	}
	syntax.Walk(node, func(n any) bool {
		switch n := n.(type) {
		case *syntax.Coil:
			add(n.Operand)
		case *syntax.Box:
			add(n.Result)
		case *syntax.Contact:
			add(n.Memory)
		case *syntax.Call:
			add(n.Callee)
			for _, a := range n.Arguments {
				if a.Output {
					add(a.Value)
				}
			}
		case *syntax.Assignment:
			add(n.Target)
		case *syntax.For:
			add(n.Counter)
		}
		return true
	})
	return names
}

func (m *maker) series(s *syntax.Series) {
	for i, e := range s.Elements {
		switch e := e.(type) {
		case *syntax.Contact:
			m.contact(e)
			m.without(s, i, ContactOut, e.Span, "the contact %s is left out", inner(e.Span))
		case *syntax.Coil:
			m.coil(s, i, e)
		case *syntax.Parallel:
			m.parallel(s, i, e)
		case *syntax.Box:
			m.box(s, i, e)
		}
	}
	m.sideBySide(s)
}

// without leaves an element of a series out.
func (m *maker) without(s *syntax.Series, i int, kind Kind, at source.Span, what string, args ...any) {
	put(m, &s.Elements, slices.Delete(slices.Clone(s.Elements), i, i+1), kind, at, what, args...)
}

// inner is what stands in an element's brackets.
func inner(at source.Span) string {
	text := at.Text()
	return strings.TrimSpace(text[1 : len(text)-1])
}

// opposite is what a contact is turned into.
var opposite = map[syntax.ContactKind]syntax.ContactKind{syntax.OpenContact: syntax.ClosedContact, syntax.ClosedContact: syntax.OpenContact,
	syntax.RisingContact: syntax.FallingContact, syntax.FallingContact: syntax.RisingContact}

func (m *maker) contact(c *syntax.Contact) {
	_, compares := c.Operand.(*syntax.Binary)
	switch {
	case c.Kind == syntax.RisingContact || c.Kind == syntax.FallingContact:
		put(m, &c.Kind, opposite[c.Kind], EdgeOther, c.Span, "the contact %s senses the other edge", inner(c.Span))
		m.edgeOut(c)
		m.memory(c)
	case !compares:
		put(m, &c.Kind, opposite[c.Kind], ContactInverted, c.Span, "the contact %s is inverted", text(c.Operand))
	}
	if c.Operand != nil {
		m.operand(&c.Operand)
	}
}

// edgeOut leaves the edge of a contact out; that of the power itself is left out with its contact.
func (m *maker) edgeOut(c *syntax.Contact) {
	if c.Operand == nil {
		return
	}
	plain := syntax.Contact{Operand: c.Operand, Span: c.Span}
	if c.Kind == syntax.FallingContact {
		plain.Kind = syntax.ClosedContact
	}
	put(m, c, plain, EdgeOut, c.Span, "the contact %s senses no edge", inner(c.Span))
}

// memory lets an edge have the memory of another.
func (m *maker) memory(c *syntax.Contact) {
	if c.Memory == nil {
		return
	}
	var others []syntax.Expr
	syntax.Walk(m.unit.Body, func(node any) bool {
		if other, ok := node.(*syntax.Contact); ok && other.Memory != nil && !strings.EqualFold(text(other.Memory), text(c.Memory)) {
			others = append(others, other.Memory)
		}
		return true
	})
	for _, other := range others {
		put(m, &c.Memory, other, EdgeMemory, c.Span, "the contact %s has the memory %s, as another edge has", inner(c.Span), text(other))
	}
}

func (m *maker) coil(s *syntax.Series, i int, c *syntax.Coil) {
	name := text(c.Operand)
	out := func(kind Kind, what string) { m.without(s, i, kind, c.Span, what, name) }
	is := func(kind syntax.CoilKind, mistake Kind, what string) {
		put(m, &c.Kind, kind, mistake, c.Span, what, name)
	}
	switch c.Kind {
	case syntax.PlainCoil:
		out(CoilOut, "the coil %s is left out")
		is(syntax.NegatedCoil, CoilInverted, "the coil %s is inverted")
		is(syntax.SetCoil, SetForPlain, "the coil %s sets and is never reset")
	case syntax.NegatedCoil:
		out(CoilOut, "the coil %s is left out")
		is(syntax.PlainCoil, CoilInverted, "the coil %s is inverted")
	case syntax.SetCoil:
		out(SetOut, "the coil that sets %s is left out")
		is(syntax.PlainCoil, SetForPlain, "the coil %s follows the power and does not set")
		is(syntax.ResetCoil, SetForPlain, "the coil %s resets and does not set")
	case syntax.ResetCoil:
		out(ResetOut, "the coil that resets %s is left out")
		is(syntax.NegatedCoil, SetForPlain, "the coil %s follows the power and does not reset")
		is(syntax.SetCoil, SetForPlain, "the coil %s sets and does not reset")
	case syntax.RisingCoil, syntax.FallingCoil:
		out(CoilOut, "the coil %s is left out")
		other := map[syntax.CoilKind]syntax.CoilKind{syntax.RisingCoil: syntax.FallingCoil, syntax.FallingCoil: syntax.RisingCoil}[c.Kind]
		is(other, EdgeOther, "the coil %s senses the other edge")
		is(syntax.PlainCoil, EdgeOut, "the coil %s senses no edge")
	}
	if c.Operand != nil {
		m.target(&c.Operand)
	}
}

func (m *maker) parallel(s *syntax.Series, i int, p *syntax.Parallel) {
	coils := writes(p)
	for n, b := range p.Branches {
		m.series(b)
		if rest := slices.Delete(slices.Clone(p.Branches), n, n+1); !coils {
			put(m, &p.Branches, rest, BranchOut, b.Span, "the branch %s is left out", syntax.PrintElements(b.Elements))
		}
	}
	if coils {
		return
	}
	line := []syntax.Element{}
	for _, b := range p.Branches {
		line = append(line, b.Elements...)
	}
	put(m, &s.Elements, slices.Concat(s.Elements[:i], line, s.Elements[i+1:]), SeriesParallel, p.Span,
		"the branches of %s stand in series", names(p))
	m.aroundBranches(s, i, p)
}

func names(p *syntax.Parallel) string {
	list := []string{}
	for _, b := range p.Branches {
		list = append(list, syntax.PrintElements(b.Elements))
	}
	return strings.Join(list, " and ")
}

// writes reports whether anything in an element writes a variable.
func writes(e syntax.Element) bool { return len(written(e)) > 0 }

// sideBySide puts contacts that stand one behind the other in parallel.
func (m *maker) sideBySide(s *syntax.Series) {
	for i := 0; i+1 < len(s.Elements); i++ {
		a, b := s.Elements[i], s.Elements[i+1]
		if writes(a) || writes(b) {
			continue
		}
		p := &syntax.Parallel{Branches: []*syntax.Series{{Elements: []syntax.Element{a}}, {Elements: []syntax.Element{b}}}}
		put(m, &s.Elements, slices.Concat(s.Elements[:i], []syntax.Element{p}, s.Elements[i+2:]), SeriesParallel, b.Place(),
			"%s and %s stand in parallel",
			a.Place().Text(), b.Place().Text())
	}
}

func (m *maker) box(s *syntax.Series, i int, b *syntax.Box) {
	m.without(s, i, CallOut, b.Span, "the block %s is left out", text(b.Call.Callee))
	if b.EN {
		put(m, &b.EN, false, InputOpen, b.Span, "the block %s has no EN", text(b.Call.Callee))
	}
	m.doneAsEqual(s, i, b)
	m.call(b.Call)
	if b.Result != nil {
		m.target(&b.Result)
	}
}

// doneAsEqual lets the power pass behind a counter only while it stands at its preset.
func (m *maker) doneAsEqual(s *syntax.Series, i int, b *syntax.Box) {
	id, ok := b.Call.Callee.(*syntax.Identifier)
	if !ok {
		return
	}
	counter, _ := block.Named(m.typeOf(id.Text))
	if counter == nil || counter.Name != "CTU" {
		return
	}
	equal := &syntax.Contact{Operand: equalTo(id, counter, id.Span).(*syntax.Paren).X, Span: id.Span}
	put(m, &s.Elements, slices.Insert(slices.Clone(s.Elements), i+1, syntax.Element(equal)), DoneAsEqual, b.Span,
		"%s is done only while it stands at its preset", id.Text)
}
