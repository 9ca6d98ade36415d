package check

import (
	"celandine/core/source"
	"celandine/core/syntax"
)

func (c *checker) statements(list []syntax.Statement) []Statement {
	var out []Statement
	for i, s := range list {
		typed := c.statement(s)
		if typed == nil {
			continue
		}
		out = append(out, typed)
		if jump, ok := typed.(*Jump); ok && i+1 < len(list) {
			c.warning(source.Unreachable, jump.At, "Remove what follows, or put "+jump.Word+" into an IF.", "What follows %s is never reached.",
				jump.Word)
		}
	}
	return out
}

// inside checks statements that do not run in every scan.
func (c *checker) inside(list []syntax.Statement) []Statement {
	c.nested++
	defer func() { c.nested-- }()
	return c.statements(list)
}

func (c *checker) loop(list []syntax.Statement) []Statement {
	c.loops++
	defer func() { c.loops-- }()
	return c.inside(list)
}

func (c *checker) statement(s syntax.Statement) Statement {
	switch s := s.(type) {
	case *syntax.Assignment:
		return c.assignment(s)
	case *syntax.CallStatement:
		return c.callStatement(s)
	case *syntax.If:
		out := &If{At: s.Span}
		for _, arm := range s.Arms {
			out.Arms = append(out.Arms, Arm{c.condition(arm.Condition), c.inside(arm.Body)})
		}
		c.warnConditions(s, out)
		out.Else = c.inside(s.Else)
		return out
	case *syntax.Case:
		return c.caseStatement(s)
	case *syntax.For:
		return c.forStatement(s)
	case *syntax.While:
		out := &While{c.condition(s.Condition), c.loop(s.Body), s.Span}
		c.waits(out.Condition, out.Body, s.Condition.Place())
		return out
	case *syntax.Repeat:
		out := &Repeat{c.loop(s.Body), c.condition(s.Until), s.Span}
		c.waits(out.Until, out.Body, s.Until.Place())
		return out
	case *syntax.Jump:
		if s.Word != "RETURN" && c.loops == 0 {
			c.report(source.WrongJump, s.Span, "", "%s belongs inside a loop.", s.Word)
			return nil
		}
		return &Jump{Word: s.Word, At: s.Span}
	}
	return nil
}

func (c *checker) assignment(s *syntax.Assignment) Statement {
	target := c.target(s.Target)
	if target == nil {
		c.expression(s.Value, nil)
		return nil
	}
	c.writes(target.Variable, Wrote{use: useOf(target, s.Span), Conditional: c.nested > 0})
	value := c.valueFor(s.Value, target.Type())
	if value == nil {
		return nil
	}
	return &Assign{target, value, s.Span}
}

func (c *checker) callStatement(s *syntax.CallStatement) Statement {
	id, named := s.Call.Callee.(*syntax.Identifier)
	if named && c.functions[lower(id.Text)] != nil {
		value, _ := c.function(id, s.Call, nil)
		return &Evaluate{value, s.Span}
	}
	if named && c.find(id.Text) == nil {
		before := len(c.problems)
		c.function(id, s.Call, nil)
		if len(c.problems) == before {
			c.report(source.WrongCall, s.Span, "Write, for example, x := "+s.Call.Span.Text()+";", "The value of this function is not used.")
		}
		return nil
	}
	call := c.blockCall(s.Call, nil)
	if call == nil {
		return nil
	}
	return call
}

func (c *checker) caseStatement(s *syntax.Case) Statement {
	out := &Case{Value: c.expression(s.Value, nil), At: s.Span}
	var t *Type
	if out.Value != nil {
		t = out.Value.Type()
		if !t.IsInteger() && t.Class != BitString && t.Class != Enumeration {
			c.report(source.WrongType, s.Value.Place(), "", "CASE chooses by a whole number; this is %s %s.", article(t.Name), t.Name)
			t = nil
		}
	}
	taken := map[int64]source.Span{}
	for _, choice := range s.Choices {
		typed := Choice{}
		for _, l := range choice.Labels {
			if label, ok := c.label(l, t, taken); ok {
				typed.Labels = append(typed.Labels, label)
			}
		}
		typed.Body = c.inside(choice.Body)
		out.Choices = append(out.Choices, typed)
	}
	out.Else = c.inside(s.Else)
	return out
}

func (c *checker) label(l syntax.Label, t *Type, taken map[int64]source.Span) (Label, bool) {
	from, ok := c.constant(l.From, t)
	if !ok {
		return Label{}, false
	}
	to := from
	if l.To != nil {
		if to, ok = c.constant(l.To, t); !ok {
			return Label{}, false
		}
	}
	if to < from {
		c.report(source.WrongLabel, l.From.Place().To(l.To.Place()), "Write the lesser value first.", "This range is empty.")
		return Label{}, false
	}
	for v := from; v <= to && v-from < 1000; v++ {
		if _, twice := taken[v]; twice {
			c.report(source.WrongLabel, l.From.Place(), "Only the first would ever run.", "The value %d has a choice already.", v)
			return Label{}, false
		}
		taken[v] = l.From.Place()
	}
	return Label{from, to}, true
}

func (c *checker) constant(e syntax.Expr, t *Type) (int64, bool) {
	if t == nil {
		return 0, false
	}
	x := c.convert(c.expression(e, t), t)
	if x == nil {
		return 0, false
	}
	k, ok := x.(*Const)
	if !ok {
		c.report(source.WrongLabel, e.Place(), "", "A value here must be known before the run.")
		return 0, false
	}
	return k.Value, true
}

func (c *checker) forStatement(s *syntax.For) Statement {
	counter := c.target(s.Counter)
	if counter == nil {
		c.loop(s.Body)
		return nil
	}
	t := counter.Type()
	if !t.IsInteger() {
		c.report(source.WrongType, s.Counter.Place(), "", "FOR counts with a whole number; %s is %s %s.", counter.Name(), article(t.Name), t.Name)
		c.loop(s.Body)
		return nil
	}
	c.writes(counter.Variable, Wrote{use: useOf(counter, s.Span), Conditional: true})
	c.reads(counter.Variable)
	out := &For{Counter: counter, At: s.Span}
	out.From = c.convert(c.expression(s.From, t), t)
	out.To = c.convert(c.expression(s.To, t), t)
	out.Step = &Const{T: t, Value: 1, At: s.Span}
	if s.Step != nil {
		out.Step = c.convert(c.expression(s.Step, t), t)
	}
	out.Body = c.loop(s.Body)
	return out
}
