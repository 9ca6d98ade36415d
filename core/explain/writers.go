package explain

import (
	"strings"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A writer is a place in the text that can write a name, or call a standard block.
type writer struct {
	name  string // as the trace has it
	place any    // *check.Rung or check.Statement
	at    source.Span
	coil  *check.Coil // or nil
	net   *check.Series
	arms  []branchOf  // the IFs that it stands in, outermost first
	call  *check.Call // of a standard block
}

// branchOf is one arm of an IF; after the last comes ELSE.
type branchOf struct {
	choice *check.If
	arm    int
}

type collector struct {
	list   []writer
	prefix string
	arms   []branchOf
	seen   int
}

// deepest bounds blocks within blocks.
const deepest = 20

func writersOf(p *check.Program) []writer {
	c := &collector{}
	for _, u := range p.Units {
		c.unit(u, "")
	}
	for _, v := range p.Variables {
		if v.Same == nil {
			c.instance(v, "")
		}
	}
	return c.list
}

func (c *collector) instance(v *check.Variable, prefix string) {
	if v.Type == nil || v.Type.Class != check.Instance || v.Type.Block.Unit == nil || c.seen > deepest {
		return
	}
	c.seen++
	u := v.Type.Block.Unit
	c.unit(u, prefix+v.Name+".")
	for _, inner := range u.Variables {
		c.instance(inner, prefix+v.Name+".")
	}
	c.seen--
}

func (c *collector) unit(u *check.Unit, prefix string) {
	c.prefix, c.arms = prefix, nil
	c.statements(u.Statements)
	for _, r := range u.Rungs {
		c.series(r, r.Net)
	}
}

func (c *collector) add(w writer) {
	w.name = c.prefix + w.name
	w.arms = append([]branchOf{}, c.arms...)
	c.list = append(c.list, w)
}

func (c *collector) statements(list []check.Statement) {
	for _, s := range list {
		switch s := s.(type) {
		case *check.Assign:
			c.add(writer{name: s.Target.Name(), place: s, at: s.At})
		case *check.Call:
			c.call(s, s, nil)
		case *check.If:
			for i, arm := range s.Arms {
				c.inArm(s, i, arm.Body)
			}
			c.inArm(s, len(s.Arms), s.Else)
		case *check.Case:
			for _, choice := range s.Choices {
				c.statements(choice.Body)
			}
			c.statements(s.Else)
		case *check.For:
			c.statements(s.Body)
		case *check.While:
			c.statements(s.Body)
		case *check.Repeat:
			c.statements(s.Body)
		}
	}
}

func (c *collector) inArm(s *check.If, arm int, body []check.Statement) {
	c.arms = append(c.arms, branchOf{s, arm})
	c.statements(body)
	c.arms = c.arms[:len(c.arms)-1]
}

func (c *collector) call(s *check.Call, place any, net *check.Series) {
	for _, o := range s.Outputs {
		c.add(writer{name: o.Target.Name(), place: place, at: s.At, net: net})
	}
	if s.Instance.Type().Block.Unit == nil {
		c.add(writer{name: s.Instance.Name(), place: place, at: s.At, net: net, call: s})
	}
}

func (c *collector) series(r *check.Rung, s *check.Series) {
	for _, e := range s.Elements {
		switch e := e.(type) {
		case *check.Coil:
			c.add(writer{name: e.Target.Name(), place: r, at: e.At, coil: e, net: r.Net})
		case *check.BlockBox:
			c.call(e.Call, r, r.Net)
		case *check.FunctionBox:
			if e.Target != nil {
				c.add(writer{name: e.Target.Name(), place: r, at: e.At, net: r.Net})
			}
		case *check.Parallel:
			for _, b := range e.Branches {
				c.series(r, b)
			}
		}
	}
}

// writersNamed returns the places that can write a name.
func (a *Asker) writersNamed(name string) (list []writer) {
	for _, w := range a.writers {
		if w.call == nil && strings.EqualFold(w.name, name) {
			list = append(list, w)
		}
	}
	return list
}

// block returns the call of the standard block that a name is a member of.
func (a *Asker) block(name string) (*writer, bool) {
	dot := strings.LastIndexByte(name, '.')
	if dot < 0 {
		return nil, false
	}
	for i := range a.writers {
		if w := &a.writers[i]; w.call != nil && strings.EqualFold(w.name, name[:dot]) {
			return w, true
		}
	}
	return nil, false
}

// turns reports whether a writer gives a BOOL the other value when it acts.
func (w *writer) turns(value bool) bool {
	if w.coil == nil {
		return true
	}
	switch w.coil.Kind {
	case syntax.SetCoil:
		return !value
	case syntax.ResetCoil:
		return value
	}
	return true
}
