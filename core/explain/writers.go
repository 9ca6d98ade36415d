package explain

import (
	"fmt"
	"strings"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A writer is a place in the text that can write a name, or call a standard block.
type writer struct {
	name   string       // as the trace has it
	index  []check.Expr // of name, where they are known only when the program runs
	within string       // what the names of its unit's variables begin with: belt_2. in an instance
	place  any          // *check.Rung or check.Statement
	at     source.Span
	coil   *check.Coil // or nil
	net    *check.Series
	arms   []branchOf  // the IFs and CASEs that it stands in, outermost first
	call   *check.Call // of a standard block
}

// branchOf is one arm of an IF, or one choice of a CASE; after the last comes ELSE.
type branchOf struct {
	choice *check.If
	cases  *check.Case // where it is none of an IF
	arm    int
}

// place is the statement whose arm it is.
func (b branchOf) place() any {
	if b.cases != nil {
		return b.cases
	}
	return b.choice
}

type collector struct {
	list   []writer
	prefix string
	arms   []branchOf
	seen   int
}

// What is collected of blocks within blocks and arrays of them is bounded.
const (
	deepest     = 20
	mostWriters = 50_000
)

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
	if v.Type != nil && !v.InOut {
		c.instances(prefix+v.Name, v.Type)
	}
}

func (c *collector) instances(name string, t *check.Type) {
	if t.Class == check.Array && len(t.Bounds) == 1 && t.Element.Class == check.Instance {
		for n := t.Bounds[0].Low; n <= t.Bounds[0].High && len(c.list) < mostWriters; n++ {
			c.instances(fmt.Sprintf("%s[%d]", name, n), t.Element)
		}
		return
	}
	if t.Class != check.Instance || t.Block.Unit == nil || c.seen > deepest || len(c.list) >= mostWriters {
		return
	}
	c.seen++
	c.unit(t.Block.Unit, name+".")
	for _, inner := range t.Block.Unit.Variables {
		c.instance(inner, name+".")
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

// add notes a place that can write what a reference names. What is a caller's variable is not known here by its name.
func (c *collector) add(target *check.Ref, w writer) {
	if target.Variable.InOut {
		return
	}
	if w.name, w.within = target.Name(), c.prefix; target.Variable.Owner != nil {
		w.name = c.prefix + w.name
	}
	w.index = running(target)
	w.arms = append([]branchOf{}, c.arms...)
	c.list = append(c.list, w)
}

// running returns the indices of a reference that are known only when the program runs.
func running(r *check.Ref) (list []check.Expr) {
	for _, s := range r.Path {
		for _, x := range s.Index {
			if _, known := x.(*check.Const); !known {
				list = append(list, x)
			}
		}
	}
	return list
}

// mayWrite reports whether a writer's name is one, or may be it: names[k] may be names[2].
func (w *writer) mayWrite(name string) bool {
	if w.index == nil {
		return strings.EqualFold(w.name, name)
	}
	stem, tail := w.name[:strings.IndexByte(w.name, '[')+1], w.name[strings.LastIndexByte(w.name, ']'):]
	name = strings.ToLower(name)
	return strings.HasPrefix(name, strings.ToLower(stem)) && strings.HasSuffix(name, strings.ToLower(tail))
}

func (c *collector) statements(list []check.Statement) {
	for _, s := range list {
		switch s := s.(type) {
		case *check.Assign:
			c.add(s.Target, writer{place: s, at: s.At})
		case *check.Call:
			c.call(s, s, nil)
		case *check.If:
			for i, arm := range s.Arms {
				c.inArm(branchOf{choice: s, arm: i}, arm.Body)
			}
			c.inArm(branchOf{choice: s, arm: len(s.Arms)}, s.Else)
		case *check.Case:
			for i, choice := range s.Choices {
				c.inArm(branchOf{cases: s, arm: i}, choice.Body)
			}
			c.inArm(branchOf{cases: s, arm: len(s.Choices)}, s.Else)
		case *check.For:
			c.statements(s.Body)
		case *check.While:
			c.statements(s.Body)
		case *check.Repeat:
			c.statements(s.Body)
		}
	}
}

func (c *collector) inArm(arm branchOf, body []check.Statement) {
	c.arms = append(c.arms, arm)
	c.statements(body)
	c.arms = c.arms[:len(c.arms)-1]
}

func (c *collector) call(s *check.Call, place any, net *check.Series) {
	for _, o := range s.Outputs {
		c.add(o.Target, writer{place: place, at: s.At, net: net})
	}
	if s.Instance.Type().Block.Unit == nil {
		c.add(s.Instance, writer{place: place, at: s.At, net: net, call: s})
	}
}

func (c *collector) series(r *check.Rung, s *check.Series) {
	for _, e := range s.Elements {
		switch e := e.(type) {
		case *check.Coil:
			c.add(e.Target, writer{place: r, at: e.At, coil: e, net: r.Net})
		case *check.BlockBox:
			c.call(e.Call, r, r.Net)
		case *check.FunctionBox:
			if e.Target != nil {
				c.add(e.Target, writer{place: r, at: e.At, net: r.Net})
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
		if w.call == nil && w.mayWrite(name) {
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

// gives reports whether a name is an output of the block that the writer calls.
func (w *writer) gives(name string) bool {
	m := w.call.Instance.Type().Block.Member(name[strings.LastIndexByte(name, '.')+1:])
	return m != nil && m.Output
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
