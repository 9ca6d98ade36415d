package mutate

import (
	"slices"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// functions are what one could call in a function's place.
var functions = map[string][]string{
	"GT": {"GE", "LT"}, "GE": {"GT", "LE"}, "LT": {"LE", "GT"}, "LE": {"LT", "GE"}, "EQ": {"NE", "GE"}, "NE": {"EQ"},
	"AND": {"OR"}, "OR": {"AND"}, "XOR": {"OR"}, "ADD": {"SUB"}, "SUB": {"ADD"}, "MUL": {"DIV"}, "DIV": {"MUL"}, "MOD": {"DIV"},
	"MAX": {"MIN"}, "MIN": {"MAX"}, "SHL": {"SHR"}, "SHR": {"SHL"}, "ROL": {"ROR"}, "ROR": {"ROL"}, "LEFT": {"RIGHT"}, "RIGHT": {"LEFT"},
	"SIN": {"COS"}, "COS": {"SIN"}, "TAN": {"SIN"}, "ASIN": {"ACOS"}, "ACOS": {"ASIN"}, "ATAN": {"TAN"}, "LN": {"LOG"}, "LOG": {"LN"},
	"EXP":  {"LN"},
	"SQRT": {"ABS"}, "ABS": {"SQRT"}, "EXPT": {"MUL"}, "DELETE": {"MID"}, "MID": {"DELETE"},
}

// crossed are inputs of blocks that are easily taken for one another.
var crossed = [][2]string{{"CU", "CD"}, {"R", "LD"}, {"S1", "R"}, {"S", "R1"}, {"CU", "R"}, {"CD", "LD"}, {"IN", "R"}}

// call makes the mistakes in a call of a block or function.
func (m *maker) call(c *syntax.Call) {
	callee := text(c.Callee)
	if id, ok := c.Callee.(*syntax.Identifier); ok {
		for _, other := range functions[strings.ToUpper(id.Text)] {
			put(m, &c.Callee, name(other, id.Span), OtherFunction, id.Span, "%s is called in place of %s", other, id.Text)
		}
	}
	for i := range c.Arguments {
		a := &c.Arguments[i]
		rest := slices.Delete(slices.Clone(c.Arguments), i, i+1)
		switch {
		case a.Output:
			put(m, &c.Arguments, rest, OutputOpen, a.Span, "the output %s of %s is not connected", a.Name.Text, callee)
		case a.Name != nil && resets(a.Name.Text):
			put(m, &c.Arguments, rest, ResetOut, a.Span, "the input %s of %s is not connected", a.Name.Text, callee)
		case a.Name != nil:
			put(m, &c.Arguments, rest, InputOpen, a.Span, "the input %s of %s is not connected", a.Name.Text, callee)
		case len(c.Arguments) > 2:
			put(m, &c.Arguments, rest, InputOpen, a.Span, "the input %s of %s is left out", text(a.Value), callee)
		}
		if a.Value == nil {
			continue
		}
		if a.Output {
			m.target(&a.Value)
			continue
		}
		m.operand(&a.Value)
		m.invert(&a.Value)
	}
	m.cross(c)
}

// symmetric are the functions whose inputs have no order.
var symmetric = map[string]bool{"ADD": true, "MUL": true, "AND": true, "OR": true, "XOR": true, "MAX": true, "MIN": true, "EQ": true,
	"NE": true}

func resets(input string) bool {
	return slices.Contains([]string{"R", "R1", "LD"}, strings.ToUpper(input))
}

// cross exchanges inputs of a block, and the two inputs of a function whose order counts.
func (m *maker) cross(c *syntax.Call) {
	for _, pins := range crossed {
		a, b := argument(c, pins[0]), argument(c, pins[1])
		if a == nil || b == nil {
			continue
		}
		x, y := a.Value, b.Value
		a.Value, b.Value = y, x
		m.try(InputsCrossed, c.Span, func() { a.Value, b.Value = x, y }, "the inputs %s and %s of %s are exchanged", pins[0], pins[1],
			text(c.Callee))
	}
	if n := len(c.Arguments); n >= 2 && c.Arguments[0].Name == nil && !symmetric[strings.ToUpper(text(c.Callee))] {
		for i := range n - 1 {
			a, b := &c.Arguments[i], &c.Arguments[i+1]
			x, y := a.Value, b.Value
			a.Value, b.Value = y, x
			m.try(InputsCrossed, c.Span, func() { a.Value, b.Value = x, y }, "%s and %s are exchanged in %s", text(x), text(y),
				text(c.Callee))
		}
	}
}

func argument(c *syntax.Call, pin string) *syntax.Argument {
	for i := range c.Arguments {
		if a := &c.Arguments[i]; a.Name != nil && !a.Output && strings.EqualFold(a.Name.Text, pin) {
			return a
		}
	}
	return nil
}

// instances uses one instance of a block in another's place: in a call, or everywhere.
func (m *maker) instances(u *syntax.Unit) {
	byType := map[string][]string{}
	for _, s := range u.Sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if t := m.typeOf(n.Text); t != "" {
					byType[t] = append(byType[t], n.Text)
				}
			}
		}
	}
	var calls []*syntax.Call
	syntax.Walk(u.Body, func(n any) bool {
		if c, ok := n.(*syntax.Call); ok {
			calls = append(calls, c)
		}
		return true
	})
	for _, c := range calls {
		id, ok := c.Callee.(*syntax.Identifier)
		if !ok {
			continue
		}
		for _, other := range byType[m.typeOf(id.Text)] {
			if !strings.EqualFold(other, id.Text) {
				m.share(u, id.Text, other, c.Span)
			}
		}
	}
}

func (m *maker) share(u *syntax.Unit, from, to string, at source.Span) {
	c := &changes{}
	syntax.Walk(u.Body, func(n any) bool {
		if id, ok := n.(*syntax.Identifier); ok && strings.EqualFold(id.Text, from) {
			change(c, &id.Text, to, id.Span)
		}
		return true
	})
	m.try(InstanceShared, at, c.back, "%s is used for %s as well", to, from)
}
