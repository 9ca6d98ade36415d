package mutate

import (
	"slices"
	"strings"

	"celandine/core/syntax"
)

// diagram makes the mistakes in a block diagram: in its pins, its targets, and the order of its nodes.
func (m *maker) diagram(d *syntax.Diagram) {
	m.pins = true
	for i, n := range d.Networks {
		m.network = n
		for k := range n.Nodes {
			m.node(n, k)
		}
		rest := slices.Delete(slices.Clone(d.Networks), i, i+1)
		put(m, &d.Networks, rest, RungOut, n.Span, "the network%s is left out", titled(n.Title))
		if i+1 < len(d.Networks) && depends(n, d.Networks[i+1]) {
			put(m, &d.Networks, exchanged(d.Networks, i), Order, n.Span, "the network%s stands below the next", titled(n.Title))
		}
	}
	m.pins = false
}

// exchanged is a list with an item and the next in each other's place.
func exchanged[T any](list []T, i int) []T {
	other := slices.Clone(list)
	other[i], other[i+1] = other[i+1], other[i]
	return other
}

func (m *maker) node(n *syntax.Network, k int) {
	node := n.Nodes[k]
	m.operand(&node.Value)
	m.invert(&node.Value)
	for i := range node.Targets {
		m.driven(node, i)
	}
	put(m, &n.Nodes, slices.Delete(slices.Clone(n.Nodes), k, k+1), StatementOut, node.Span, "%s is left out", text(node.Value))
	if k+1 < len(n.Nodes) && depends(node, n.Nodes[k+1]) {
		put(m, &n.Nodes, exchanged(n.Nodes, k), Order, node.Span, "%s stands below the next", text(node.Value))
	}
}

// driven makes the mistakes in a target.
func (m *maker) driven(n *syntax.Node, i int) {
	t := n.Targets[i]
	name := text(t.Operand)
	is := func(kind syntax.CoilKind, mistake Kind, what string) {
		put(m, &t.Kind, kind, mistake, t.Span, what, name)
	}
	out := CoilOut
	switch t.Kind {
	case syntax.PlainCoil:
		is(syntax.NegatedCoil, CoilInverted, "the target %s is inverted")
		is(syntax.SetCoil, SetForPlain, "the target %s is set and never reset")
	case syntax.NegatedCoil:
		is(syntax.PlainCoil, CoilInverted, "the target %s is not inverted")
	case syntax.SetCoil:
		out = SetOut
		is(syntax.PlainCoil, SetForPlain, "the target %s follows the value and is not set")
		is(syntax.ResetCoil, SetForPlain, "the target %s is reset and not set")
	case syntax.ResetCoil:
		out = ResetOut
		is(syntax.NegatedCoil, SetForPlain, "the target %s follows the value and is not reset")
		is(syntax.SetCoil, SetForPlain, "the target %s is set and not reset")
	}
	if len(n.Targets) > 1 {
		put(m, &n.Targets, slices.Delete(slices.Clone(n.Targets), i, i+1), out, t.Span, "the target %s is left out", name)
	}
	m.target(&t.Operand)
}

// edge makes the mistakes in an edge at a pin.
func (m *maker) edge(e *syntax.Expr, c *syntax.Contact) {
	put(m, &c.Kind, opposite[c.Kind], EdgeOther, c.Span, "%s senses the other edge", text(c))
	plain := c.Operand
	if c.Kind == syntax.FallingContact {
		plain = &syntax.Inverted{X: c.Operand, Span: c.Span}
	}
	put(m, e, plain, EdgeOut, c.Span, "%s senses no edge", text(c))
	m.memory(c)
	m.operand(&c.Operand)
}

// pinOut leaves out one of the two inputs of AND or OR.
func (m *maker) pinOut(e *syntax.Expr, c *syntax.Call) {
	id, ok := c.Callee.(*syntax.Identifier)
	if !m.pins || !ok || len(c.Arguments) != 2 || !strings.EqualFold(id.Text, "AND") && !strings.EqualFold(id.Text, "OR") {
		return
	}
	for i, a := range c.Arguments {
		put(m, e, c.Arguments[1-i].Value, OperandOut, a.Span, "the input %s of %s is left out", text(a.Value), id.Text)
	}
}

// not inverts a value as the language at hand writes it.
func (m *maker) not(e syntax.Expr) syntax.Expr {
	if m.pins {
		return &syntax.Inverted{X: e, Span: e.Place()}
	}
	return &syntax.Unary{Op: "NOT", X: e, Span: e.Place()}
}
