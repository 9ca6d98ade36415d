package syntax

import "celandine/core/source"

// move gives what stands behind a change its places in the text as it is now. What stands before it is left alone.
func (d *Draft) move(by source.Shift) {
	m := mover{by}
	by.List(d.rest)
	for i := range d.Tree.Comments {
		by.Span(&d.Tree.Comments[i].Span)
	}
	m.node(d.Tree.Types)
	m.node(d.Tree.Globals)
	for _, u := range d.Tree.Units {
		switch {
		case u.Span.Start >= by.From:
			m.node(u)
		case u.Span.End > by.From:
			m.ladder(u.Body.(*Ladder)) // the change is in it
			by.Span(&u.Span)
		}
	}
}

// A mover moves each span of a tree; every node stands in it once.
type mover struct{ by source.Shift }

// node moves all that is in a node, of whatever kind. Rungs, of which there may be many, go the quick way.
func (m mover) node(node any) {
	everything(node, func(n any) bool {
		switch n := n.(type) {
		case *source.Span:
			m.by.Span(n)
		case *Ladder:
			m.ladder(n)
			return false
		}
		return true
	})
}

func (m mover) ladder(l *Ladder) {
	for _, r := range l.Rungs {
		if r.Span.End > m.by.From {
			m.series(r.Net)
			m.by.Span(&r.Span)
		}
	}
	for i := range l.pieces {
		if one := &l.pieces[i]; one.from >= m.by.From {
			one.from += m.by.By
			m.by.List(one.told)
		}
	}
	m.by.Span(&l.Span)
}

func (m mover) series(s *Series) {
	for _, e := range s.Elements {
		switch e := e.(type) {
		case *Parallel:
			for _, b := range e.Branches {
				m.series(b)
			}
			m.by.Span(&e.Span)
		case *Contact:
			m.expr(e.Operand)
			m.expr(e.Memory)
			m.by.Span(&e.Span)
		case *Coil:
			m.expr(e.Operand)
			m.by.Span(&e.Span)
		default:
			m.node(e)
		}
	}
	m.by.Span(&s.Span)
}

func (m mover) expr(e Expr) {
	switch e := e.(type) {
	case nil:
	case *Identifier:
		m.by.Span(&e.Span)
	default:
		m.node(e)
	}
}
