package mutate

import (
	"slices"
	"strconv"
	"strings"
	"time"

	"celandine/core/check"
	"celandine/core/signal"
	"celandine/core/syntax"
)

// One misunderstanding is often made at every place that it fits: a device taken for one that is wired the other way, two names exchanged,
// degrees for tenths of a degree. throughout makes those.
func (m *maker) throughout() {
	m.unit = nil
	for _, p := range m.points {
		if p.Input && p.Type == check.Bool {
			m.inverted(p.Name)
		}
	}
	m.exchanged(true, InputsExchanged)
	m.exchanged(false, OutputsExchanged)
	m.operatorsThroughout()
	m.numbersThroughout()
	m.withoutInverted()
	for _, u := range m.tree.Units {
		switch body := u.Body.(type) {
		case *syntax.Ladder:
			m.reversed(u, func() { slices.Reverse(body.Rungs) }, "the rungs stand from the last to the first")
		case *syntax.Text:
			m.reversed(u, func() { slices.Reverse(body.Statements) }, "the statements stand from the last to the first")
		case *syntax.Diagram:
			m.reversed(u, func() { slices.Reverse(body.Networks) }, "the networks stand from the last to the first")
		}
	}
}

// tryAll makes a mutant of several changes; of one alone there is a mutant already.
func (m *maker) tryAll(c *changes, kind Kind, what string, args ...any) {
	if len(c.undo) < 2 {
		c.back()
		return
	}
	m.try(kind, c.at, c.back, what, args...)
}

func (m *maker) walk(visit func(node any) bool) {
	for _, u := range m.tree.Units {
		_, m.pins = u.Body.(*syntax.Diagram)
		syntax.Walk(u.Body, visit)
	}
	m.pins = false
}

// inverted reads an input inverted wherever it is read.
func (m *maker) inverted(input string) {
	c := &changes{}
	is := func(e syntax.Expr) bool {
		id, ok := e.(*syntax.Identifier)
		return ok && strings.EqualFold(id.Text, input)
	}
	m.walk(func(node any) bool {
		switch n := node.(type) {
		case *syntax.Contact:
			if is(n.Operand) {
				change(c, &n.Kind, opposite[n.Kind], n.Span)
				return false
			}
		case *syntax.Identifier:
			if is(n) {
				not := "NOT "
				if m.pins {
					not = "/"
				}
				change(c, &n.Text, not+n.Text, n.Span)
			}
		}
		return true
	})
	m.tryAll(c, InputInverted, "%s is inverted wherever it is read", input)
}

// exchanged takes each of two neighbouring points for the other.
func (m *maker) exchanged(inputs bool, kind Kind) {
	var names []string
	for _, p := range m.points {
		if p.Input == inputs && p.Type == check.Bool {
			names = append(names, p.Name)
		}
	}
	for i := range max(len(names)-1, 0) {
		a, b := names[i], names[i+1]
		c := &changes{}
		m.walk(func(node any) bool {
			if id, ok := node.(*syntax.Identifier); ok {
				switch {
				case strings.EqualFold(id.Text, a):
					change(c, &id.Text, b, id.Span)
				case strings.EqualFold(id.Text, b):
					change(c, &id.Text, a, id.Span)
				}
			}
			return true
		})
		m.tryAll(c, kind, "%s and %s are exchanged", a, b)
	}
}

// operatorsThroughout writes another operator wherever one stands.
func (m *maker) operatorsThroughout() {
	for _, op := range []string{"AND", "OR", "<", "<=", ">", ">="} {
		for _, to := range operators[op][:1] {
			c := &changes{}
			m.walk(func(node any) bool {
				if b, ok := node.(*syntax.Binary); ok && b.Op == op {
					change(c, &b.Op, to, b.OpSpan)
				}
				return true
			})
			kind := Comparison
			if op == "AND" || op == "OR" {
				kind = Operator
			}
			m.tryAll(c, kind, "every %s is %s", op, to)
		}
	}
}

// numbersThroughout writes every number, or every time, ten times too large or too small.
func (m *maker) numbersThroughout() {
	for _, small := range []bool{true, false} {
		word := "every number is ten times too large"
		if small {
			word = "every number is ten times too small"
		}
		c := &changes{}
		m.walk(func(node any) bool {
			if l, ok := node.(*syntax.Literal); ok {
				if text := scaled(l.Text, small); text != "" {
					change(c, &l.Text, text, l.Span)
				}
			}
			return true
		})
		m.tryAll(c, EveryNumber, "%s", word)
	}
}

func scaled(text string, small bool) string {
	if d, err := signal.ParseTime(strings.ToUpper(text)); err == nil && strings.Contains(text, "#") {
		if small {
			return signal.FormatTime(d / 10)
		}
		return signal.FormatTime(d * time.Duration(10))
	}
	v, err := strconv.ParseInt(strings.ReplaceAll(text, "_", ""), 10, 64)
	switch {
	case err != nil:
		return ""
	case small:
		return strconv.FormatInt(v/10, 10)
	}
	return strconv.FormatInt(v*10, 10)
}

// withoutInverted leaves out what must not be: every inverted contact, every AND NOT.
func (m *maker) withoutInverted() {
	c := &changes{}
	m.walk(func(node any) bool {
		switch n := node.(type) {
		case *syntax.Series:
			rest := slices.DeleteFunc(slices.Clone(n.Elements), func(e syntax.Element) bool {
				contact, ok := e.(*syntax.Contact)
				return ok && contact.Kind == syntax.ClosedContact
			})
			if len(rest) > 0 && len(rest) < len(n.Elements) && writes(rest[len(rest)-1]) {
				change(c, &n.Elements, rest, n.Span)
			}
		case *syntax.Binary:
			if not, ok := n.Y.(*syntax.Unary); ok && n.Op == "AND" && not.Op == "NOT" {
				change(c, &n.Y, n.X, n.Span) // x AND x is x
			}
		}
		return true
	})
	m.tryAll(c, OperandOut, "every inverted condition is left out")
}

// reversed puts a body's pieces into the opposite order.
func (m *maker) reversed(u *syntax.Unit, reverse func(), what string) {
	reverse()
	m.unit = u
	m.try(Order, u.Name.Span, reverse, "%s", what)
	m.unit = nil
}
