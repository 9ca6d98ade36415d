package oracle

import "celandine/core/syntax"

// statements runs a list and returns the word of the jump that ended it, or "".
func (o *Interpreter) statements(f *frame, list []syntax.Statement) string {
	for _, s := range list {
		word := o.statement(f, s)
		o.share()
		if word != "" {
			return word
		}
	}
	return ""
}

// pass runs the body of a loop once and reports whether that left the loop, and with which word it goes on.
func (o *Interpreter) pass(f *frame, body []syntax.Statement) (word string, leaves bool) {
	o.turn()
	switch word := o.statements(f, body); word {
	case "EXIT":
		return "", true
	case "RETURN":
		return word, true
	}
	return "", false
}

func (o *Interpreter) statement(f *frame, s syntax.Statement) string {
	switch s := s.(type) {
	case *syntax.Assignment:
		c := o.place(f, s.Target)
		store(c, o.eval(f, s.Value, c.t))
	case *syntax.CallStatement:
		o.callStatement(f, s.Call, nil)
	case *syntax.If:
		for _, arm := range s.Arms {
			if o.truth(f, arm.Condition) {
				return o.statements(f, arm.Body)
			}
		}
		return o.statements(f, s.Else)
	case *syntax.Case:
		return o.choose(f, s)
	case *syntax.For:
		return o.count(f, s)
	case *syntax.While:
		for o.truth(f, s.Condition) {
			if word, leaves := o.pass(f, s.Body); leaves {
				return word
			}
		}
	case *syntax.Repeat:
		for {
			if word, leaves := o.pass(f, s.Body); leaves {
				return word
			}
			if o.truth(f, s.Until) {
				return ""
			}
		}
	case *syntax.Jump:
		return s.Word
	default:
		unknown(s)
	}
	return ""
}

func (o *Interpreter) truth(f *frame, e syntax.Expr) bool { return o.eval(f, e, nil).i != 0 }

func (o *Interpreter) choose(f *frame, s *syntax.Case) string {
	v := o.eval(f, s.Value, nil)
	for _, c := range s.Choices {
		for _, l := range c.Labels {
			from := o.eval(f, l.From, v.t).i
			to := from
			if l.To != nil {
				to = o.eval(f, l.To, v.t).i
			}
			if v.i >= from && v.i <= to {
				return o.statements(f, c.Body)
			}
		}
	}
	return o.statements(f, s.Else)
}

// count runs a FOR: its bounds and step are worked out once, and it ends without wrapping.
func (o *Interpreter) count(f *frame, s *syntax.For) string {
	c := o.place(f, s.Counter)
	from, to, step := o.eval(f, s.From, c.t).i, o.eval(f, s.To, c.t).i, int64(1)
	if s.Step != nil {
		step = o.eval(f, s.Step, c.t).i
	}
	if step == 0 {
		fail("step")
	}
	c.i = from
	for {
		if step > 0 && c.i > to || step < 0 && c.i < to {
			return ""
		}
		o.share()
		if word, leaves := o.pass(f, s.Body); leaves {
			return word
		}
		next := c.i + step
		if wrap(c.t, next) != next {
			return ""
		}
		c.i = next
	}
}

// callStatement calls a block instance, or a function for what it does besides.
func (o *Interpreter) callStatement(f *frame, call *syntax.Call, power *bool) {
	if id, ok := call.Callee.(*syntax.Identifier); ok && f.cells[lower(id.Text)] == nil {
		o.function(f, call, nil)
		return
	}
	enabled := true
	for _, a := range call.Arguments {
		if a.Name != nil && lower(a.Name.Text) == "en" && !a.Output {
			enabled = o.truth(f, a.Value)
		}
	}
	c := o.place(f, call.Callee)
	if enabled {
		o.callBlock(f, c, call, power)
	}
	o.deliverENO(f, call, enabled)
}

func (o *Interpreter) deliverENO(f *frame, call *syntax.Call, enabled bool) {
	for _, a := range call.Arguments {
		if a.Name != nil && lower(a.Name.Text) == "eno" && a.Output {
			store(o.place(f, a.Value), o.boolean(enabled))
		}
	}
}

// callBlock gives an instance its inputs, runs it, and takes its outputs. Until all inputs are worked out, their
// names mean the last call's values.
func (o *Interpreter) callBlock(f *frame, c *cell, call *syntax.Call, power *bool) {
	members := c.members
	if c.inner != nil {
		members = c.inner.cells
	}
	given, lent := map[string]value{}, map[string]*cell{}
	for _, a := range call.Arguments {
		name := lower(a.Name.Text)
		switch {
		case a.Output || name == "en":
		case c.inner != nil && inOut(c.inner.unit, name):
			lent[name] = o.place(f, a.Value)
		default:
			given[name] = as(o.eval(f, a.Value, members[name].t), members[name].t)
		}
	}
	for name, v := range given {
		store(members[name], v)
	}
	for name, place := range lent {
		c.inner.cells[name] = place
	}
	if power != nil {
		in, _ := powerPins(c)
		in.i = truth(*power)
	}
	if c.inner != nil {
		o.runInner(c.inner)
	} else {
		o.standard(c)
	}
	for _, a := range call.Arguments {
		if name := lower(a.Name.Text); a.Output && name != "eno" {
			store(o.place(f, a.Value), members[name].value())
		}
	}
	if c.inner != nil { // a place of the caller's is the caller's
		for name := range c.inner.cells {
			if inOut(c.inner.unit, name) {
				delete(c.inner.cells, name)
			}
		}
	}
}

func (o *Interpreter) runInner(inner *frame) {
	for _, v := range inner.temps {
		for _, n := range v.Names {
			inner.cells[lower(n.Text)].take(o.begin(o.typeOf(v.Type), v.Initial))
		}
	}
	o.body(inner)
}

func inOut(u *syntax.Unit, name string) bool {
	for _, s := range u.Sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if s.Word == "VAR_IN_OUT" && lower(n.Text) == name {
					return true
				}
			}
		}
	}
	return false
}

// mostTurns is how many turns of loops a scan may have: far more than honest programs have, and fewer than the budget of
// instructions that the page names, so that a loop without end is found by both.
const mostTurns = 33_000

func (o *Interpreter) turn() {
	if o.turns++; o.turns > mostTurns {
		fail("endless-loop")
	}
}
