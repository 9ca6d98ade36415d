package mutate

import (
	"slices"

	"celandine/core/source"
	"celandine/core/syntax"
)

func (m *maker) statements(list *[]syntax.Statement) {
	for i := range *list {
		m.statement(list, i)
		at := syntax.PlaceOf((*list)[i])
		put(m, list, slices.Delete(slices.Clone(*list), i, i+1), StatementOut, at, "the statement is left out: %s", first(at))
		if i+1 < len(*list) && depends((*list)[i], (*list)[i+1]) {
			other := slices.Clone(*list)
			other[i], other[i+1] = other[i+1], other[i]
			put(m, list, other, Order, at, "it stands below the next statement: %s", first(at))
		}
	}
}

// first is as much of a statement as stands on its first line.
func first(at source.Span) string {
	text := at.Text()
	for i, r := range text {
		if r == '\n' || i > 60 {
			return text[:i] + " …"
		}
	}
	return text
}

func (m *maker) statement(list *[]syntax.Statement, i int) {
	switch s := (*list)[i].(type) {
	case *syntax.Assignment:
		m.operand(&s.Value)
		m.invert(&s.Value)
		m.target(&s.Target)
	case *syntax.CallStatement:
		m.call(s.Call)
		m.sometimes(list, i, s)
	case *syntax.If:
		m.ifs(list, i, s)
	case *syntax.Case:
		m.cases(s)
	case *syntax.For:
		m.bound(&s.From, "begins")
		m.bound(&s.To, "ends")
		m.statements(&s.Body)
	case *syntax.While:
		m.condition(&s.Condition)
		m.statements(&s.Body)
	case *syntax.Repeat:
		m.condition(&s.Until)
		m.statements(&s.Body)
	}
}

func (m *maker) bound(e *syntax.Expr, does string) {
	for _, op := range []string{"+", "-"} {
		one := &syntax.Literal{Kind: syntax.Int, Text: "1", Span: (*e).Place()}
		put(m, e, syntax.Expr(&syntax.Binary{Op: op, X: *e, Y: one, Span: (*e).Place()}), LoopOff, (*e).Place(), "the loop %s at %s %s 1",
			does, text(*e), op)
	}
}

// sometimes calls a block only while its first input is TRUE.
func (m *maker) sometimes(list *[]syntax.Statement, i int, s *syntax.CallStatement) {
	for _, a := range s.Call.Arguments {
		if a.Name == nil || a.Output || a.Value == nil || resets(a.Name.Text) {
			continue
		}
		other := slices.Clone(*list)
		other[i] = &syntax.If{Arms: []syntax.Arm{{Condition: a.Value, Body: []syntax.Statement{s}}}, Span: s.Span}
		put(m, list, other, CallConditional, s.Span, "%s is called only while %s is TRUE", text(s.Call.Callee), text(a.Value))
		return
	}
}

// condition makes the mistakes in what a statement is governed by.
func (m *maker) condition(e *syntax.Expr) {
	m.operand(e)
	at := (*e).Place()
	put(m, e, syntax.Expr(&syntax.Unary{Op: "NOT", X: &syntax.Paren{X: *e, Span: at}, Span: at}), Inverted, at,
		"the condition %s is inverted", text(*e))
}

func (m *maker) ifs(list *[]syntax.Statement, i int, s *syntax.If) {
	for n := range s.Arms {
		arm := &s.Arms[n]
		m.condition(&arm.Condition)
		always := &syntax.Literal{Kind: syntax.Keyword, Text: "TRUE", Span: arm.Condition.Place()}
		put(m, &arm.Condition, syntax.Expr(always), OperandOut, arm.Condition.Place(), "the condition %s is left out", text(arm.Condition))
		m.statements(&arm.Body)
		if len(s.Arms) > 1 {
			put(m, &s.Arms, slices.Delete(slices.Clone(s.Arms), n, n+1), BranchOfIf, arm.Condition.Place(), "the case %s is left out",
				text(arm.Condition))
		}
		if n > 0 {
			head, tail := *s, *s
			head.Arms, head.Else = s.Arms[:n], nil
			tail.Arms = s.Arms[n:]
			other := slices.Insert(slices.Clone(*list), i+1, syntax.Statement(&tail))
			other[i] = &head
			put(m, list, other, IfForElsif, arm.Condition.Place(), "an IF of its own for %s in place of ELSIF", text(arm.Condition))
			swapped := slices.Clone(s.Arms)
			swapped[n-1], swapped[n] = swapped[n], swapped[n-1]
			put(m, &s.Arms, swapped, Dominance, arm.Condition.Place(), "%s is looked at before %s", text(arm.Condition),
				text(s.Arms[n-1].Condition))
		}
	}
	if s.Else != nil {
		put(m, &s.Else, nil, ElseOut, s.Span, "the ELSE is left out")
		m.statements(&s.Else)
	}
}

func (m *maker) cases(s *syntax.Case) {
	m.operand(&s.Value)
	for n := range s.Choices {
		c := &s.Choices[n]
		at := c.Labels[0].From.Place()
		for i := range c.Labels {
			m.operand(&c.Labels[i].From)
			if c.Labels[i].To != nil {
				m.operand(&c.Labels[i].To)
			}
		}
		put(m, &s.Choices, slices.Delete(slices.Clone(s.Choices), n, n+1), BranchOfIf, at, "the case %s is left out",
			text(c.Labels[0].From))
		m.statements(&c.Body)
	}
	if s.Else != nil {
		put(m, &s.Else, nil, ElseOut, s.Span, "the ELSE is left out")
		m.statements(&s.Else)
	}
}
