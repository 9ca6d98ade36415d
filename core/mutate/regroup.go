package mutate

import (
	"slices"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// What must hold for every way to an output is easily written so that it holds for one way alone: (start OR motor) AND stop becomes
// start OR motor AND stop. This file makes that mistake in all three languages.

// aroundBranches puts all contacts that stand behind branches into one of them.
func (m *maker) aroundBranches(s *syntax.Series, i int, p *syntax.Parallel) {
	var behind []syntax.Element
	for _, e := range s.Elements[i+1:] {
		c, ok := e.(*syntax.Contact)
		if !ok {
			break
		}
		behind = append(behind, c)
	}
	for _, n := range slices.Compact([]int{min(1, len(behind)), len(behind)}) {
		if n == 0 {
			continue
		}
		what := syntax.PrintElements(behind[:n])
		if n == 1 {
			what = "the contact " + inner(behind[0].Place())
		}
		for k, b := range p.Branches {
			longer := *b
			longer.Elements = append(slices.Clone(b.Elements), behind[:n]...)
			branches := slices.Clone(p.Branches)
			branches[k] = &longer
			other := slices.Concat(s.Elements[:i], []syntax.Element{&syntax.Parallel{Branches: branches, Span: p.Span}}, s.Elements[i+1+n:])
			put(m, &s.Elements, other, BranchAround, behind[0].Place(), "%s stands in the branch %s alone", what,
				syntax.PrintElements(b.Elements))
		}
	}
}

// regroupText moves what is joined by AND to an OR in parentheses into one side of the OR.
func (m *maker) regroupText(e *syntax.Expr, x *syntax.Binary) {
	terms := chain(x, isAnd)
	for i, term := range terms {
		paren, ok := term.(*syntax.Paren)
		if !ok {
			continue
		}
		or, ok := paren.X.(*syntax.Binary)
		if !ok || or.Op != "OR" {
			continue
		}
		rest := slices.Delete(slices.Clone(terms), i, i+1)
		ways := chain(or, func(op string) bool { return op == "OR" })
		for n, way := range ways {
			other := slices.Clone(ways)
			other[n] = &syntax.Paren{X: joined("AND", append([]syntax.Expr{way}, rest...), x.Span), Span: x.Span}
			put(m, e, syntax.Expr(&syntax.Paren{X: joined("OR", other, x.Span), Span: x.Span}), BranchAround, paren.Span,
				"%s for %s alone", count(rest), text(way))
		}
	}
}

func isAnd(op string) bool { return op == "AND" || op == "&" }

// chain lists the operands that an operator joins.
func chain(e syntax.Expr, is func(op string) bool) []syntax.Expr {
	if x, ok := e.(*syntax.Binary); ok && is(x.Op) {
		return append(chain(x.X, is), chain(x.Y, is)...)
	}
	return []syntax.Expr{e}
}

func joined(op string, list []syntax.Expr, at source.Span) syntax.Expr {
	out := list[0]
	for _, x := range list[1:] {
		out = &syntax.Binary{Op: op, X: out, Y: x, OpSpan: at, Span: at}
	}
	return out
}

// count says that something counts: "stop and trip count".
func count(list []syntax.Expr) string {
	words := make([]string, len(list))
	for i, e := range list {
		words[i] = text(e)
	}
	if len(words) == 1 {
		return words[0] + " counts"
	}
	return strings.Join(words, " and ") + " count"
}

// regroupPins does the same where an input of AND is an OR, called there or held in a wire.
func (m *maker) regroupPins(e *syntax.Expr, c *syntax.Call) {
	if !m.pins || !calls(c, "AND") {
		return
	}
	for i, a := range c.Arguments {
		or, wire := m.orAt(a.Value)
		if or == nil {
			continue
		}
		rest := slices.Delete(slices.Clone(c.Arguments), i, i+1)
		for n, way := range or.Arguments {
			ways := slices.Clone(or.Arguments)
			and := *c
			and.Arguments = append([]syntax.Argument{way}, rest...)
			ways[n] = syntax.Argument{Value: &and, Span: way.Span}
			other := *or
			other.Arguments = ways
			done := &changes{}
			change(done, e, syntax.Expr(&other), c.Span)
			if wire >= 0 {
				change(done, &m.network.Nodes, slices.Delete(slices.Clone(m.network.Nodes), wire, wire+1), c.Span)
			}
			values := []syntax.Expr{}
			for _, r := range rest {
				values = append(values, r.Value)
			}
			m.try(BranchAround, c.Span, done.back, "%s for %s alone", count(values), text(way.Value))
		}
	}
}

// orAt returns the call of OR at a pin, and where it is held in a wire the number of its node; else -1.
func (m *maker) orAt(e syntax.Expr) (or *syntax.Call, wire int) {
	switch x := e.(type) {
	case *syntax.Call:
		if calls(x, "OR") {
			return x, -1
		}
	case *syntax.Identifier:
		for i, n := range m.network.Nodes {
			if call, ok := n.Value.(*syntax.Call); ok && n.Wire != nil && strings.EqualFold(n.Wire.Text, x.Text) && calls(call, "OR") {
				return call, i
			}
		}
	}
	return nil, -1
}

func calls(c *syntax.Call, function string) bool {
	id, ok := c.Callee.(*syntax.Identifier)
	return ok && strings.EqualFold(id.Text, function)
}
