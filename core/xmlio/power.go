package xmlio

import (
	"slices"
	"strings"

	"celandine/core/syntax"
)

// argument is what is connected to a pin that power does not drive; nil where nothing is.
func (r *runger) argument(in *inlet) syntax.Expr {
	if len(in.from) == 0 {
		return nil
	}
	if in.edge != "" {
		name := r.unit.declare("edge", "BOOL")
		inner := *in
		inner.edge = ""
		edge := &syntax.Contact{Kind: in.edge, Memory: memory(in.memory)}
		needs := r.needs
		r.needs = nil
		w := r.lead(nil, nil, append(r.contacts(r.power(&inner), false), edge, &syntax.Coil{Operand: named(name)})...)
		w.makes, r.needs = strings.ToLower(name), append(needs, strings.ToLower(name))
		return named(name)
	}
	return r.power(in)
}

// power is what is connected to an inlet as an expression.
func (r *runger) power(in *inlet) syntax.Expr {
	x := r.sum(in.from)
	if in.negated {
		x = not(x)
	}
	return x
}

func (r *runger) sum(from []*outlet) syntax.Expr {
	var sum syntax.Expr
	for _, out := range r.set(from, map[*outlet]bool{}) {
		x := r.through(out)
		if isTrue(x) {
			return x
		}
		sum = binary("OR", sum, x)
	}
	if sum == nil {
		return literal("FALSE")
	}
	return sum
}

func literal(text string) syntax.Expr { return &syntax.Literal{Kind: syntax.Keyword, Text: text} }

func isTrue(e syntax.Expr) bool {
	l, ok := e.(*syntax.Literal)
	return ok && strings.EqualFold(l.Text, "TRUE")
}

// binary joins two conditions, of which the first may be nil.
func binary(op string, x, y syntax.Expr) syntax.Expr {
	if x == nil || op == "AND" && isTrue(x) {
		return y
	}
	return &syntax.Binary{Op: op, X: inside(x, op), Y: inside(y, op)}
}

// inside is an operand in parentheses, where it needs them.
func inside(e syntax.Expr, op string) syntax.Expr {
	if b, ok := e.(*syntax.Binary); ok && b.Op != op {
		return &syntax.Paren{X: e}
	}
	return e
}

func not(e syntax.Expr) syntax.Expr {
	if _, ok := e.(*syntax.Binary); ok {
		e = &syntax.Paren{X: e}
	}
	if n, ok := e.(*syntax.Unary); ok && n.Op == "NOT" {
		return n.X
	}
	return &syntax.Unary{Op: "NOT", X: e}
}

// through is the power at an outlet, or its value.
func (r *runger) through(out *outlet) syntax.Expr {
	if r.on[out] {
		r.wrong(out.of.at, throughVariable, "what comes out of %s goes back into it.", out.of.called())
		return literal("FALSE")
	}
	known, ok := r.known[out]
	if !ok {
		needs := r.needs
		r.needs = nil
		r.on[out] = true
		known.x = r.short(out, r.reached(out))
		delete(r.on, out)
		known.needs, r.needs = r.needs, needs
		r.known[out] = known
	}
	r.need(known.needs...)
	return known.x
}

// need notes what the wire on its way reads of others, each once.
func (r *runger) need(names ...string) {
	for _, name := range names {
		if !slices.Contains(r.needs, name) {
			r.needs = append(r.needs, name)
		}
	}
}

// worked is an expression, and what it reads of other wires.
type worked struct {
	x     syntax.Expr
	needs []string
}

// short is what comes out of an outlet, in a variable where the expression for it is long: it may stand in several others.
func (r *runger) short(out *outlet, x syntax.Expr) syntax.Expr {
	switch o := out.of; {
	case len(syntax.PrintExpression(x)) <= mostBridged:
		return x
	case o.kind == contactKind:
		return r.tapped(out)
	case o.kind == boxKind && !r.isInstance(o):
		name := r.hold(out)
		w := r.lead(nil, nil, &syntax.Box{Call: function("MOVE", x), Result: named(name)})
		w.makes = strings.ToLower(name)
		r.need(w.makes)
		return named(name)
	}
	return x
}

// reached works out the power at an outlet, or its value.
func (r *runger) reached(out *outlet) syntax.Expr {
	switch o := out.of; o.kind {
	case leftRail:
		return literal("TRUE")
	case coilKind:
		return r.power(o.ins[0])
	case contactKind:
		if o.edge != "" {
			return r.tapped(out)
		}
		x := r.expression(o.operand, o.at)
		switch {
		case x == nil:
			return literal("FALSE")
		case o.negated:
			x = not(x)
		}
		return binary("AND", r.power(o.ins[0]), x)
	}
	x := r.value(out)
	if out.negated {
		return not(x)
	}
	return x
}

// tapped is the power at an outlet in a variable of its own, which a coil there writes.
func (r *runger) tapped(out *outlet) syntax.Expr {
	if r.held[out] == "" {
		name := r.unit.declare("power", "BOOL")
		r.held[out] = name
		needs := r.needs
		r.needs = nil
		w := &wire{from: r.node([]*outlet{out}), series: []syntax.Element{&syntax.Coil{Operand: named(name)}}, number: len(r.wires), makes: name}
		r.info[w.series[0]] = w
		r.wires = append(r.wires, w)
		r.needs = needs
	}
	r.need(r.held[out])
	return named(r.held[out])
}

// value is what comes out of an outlet that is no power, in structured text.
func (r *runger) value(out *outlet) syntax.Expr {
	o := out.of
	switch {
	case o.kind == sourceKind:
		x := r.expression(o.operand, o.at)
		if x == nil {
			return literal("FALSE")
		}
		if o.negated {
			return not(x)
		}
		return x
	case out.inOut != nil:
		return r.argument(out.inOut)
	case r.isInstance(o):
		callee := r.callee(o)
		if !r.isENO(out) {
			r.need(strings.ToLower(syntax.PrintExpression(callee)))
			return &syntax.Member{Of: callee, Field: syntax.Name{Text: out.name}}
		}
		if in := r.enable(o); in != nil {
			return r.power(in)
		}
		return literal("TRUE")
	case r.isENO(out):
		if in := r.enable(o); in != nil {
			return r.power(in)
		}
		return literal("TRUE")
	}
	if r.enable(o) != nil || r.isOutput(out) || r.hasOutputs(o) {
		r.box(o)
		return named(r.hold(out))
	}
	if r.own[strings.ToLower(o.heading)] != nil && len(out.to) > 1 { // which runs once
		r.box(o)
		return named(r.hold(out))
	}
	return r.call(o)
}

// contacts is a condition as contacts in series and side by side.
func (r *runger) contacts(e syntax.Expr, invert bool) []syntax.Element {
	switch x := e.(type) {
	case *syntax.Paren:
		return r.contacts(x.X, invert)
	case *syntax.Unary:
		if x.Op == "NOT" {
			return r.contacts(x.X, !invert)
		}
	case *syntax.Literal:
		if isTrue(x) != invert {
			return nil
		}
	case *syntax.Binary:
		switch {
		case x.Op == "AND" || x.Op == "OR":
			return r.logic(x, invert)
		case syntax.Binds(x.Op) != 4:
			e = &syntax.Binary{Op: "=", X: &syntax.Paren{X: x}, Y: literal("TRUE")}
		}
	case *syntax.Call:
		if sign := signed(x); sign != nil {
			return r.contacts(sign, invert)
		}
		e = &syntax.Binary{Op: "=", X: x, Y: literal("TRUE")}
	}
	c := &syntax.Contact{Operand: e}
	if invert {
		c.Kind = syntax.ClosedContact
	}
	return []syntax.Element{c}
}

// signed is a call of AND, OR, NOT or a comparison as the expression with its sign; nil of other calls.
func signed(e *syntax.Call) (x syntax.Expr) {
	name := strings.ToUpper(syntax.PrintExpression(e.Callee))
	sign := syntax.SignOf(name)
	if name != "NOT" && sign != "AND" && sign != "OR" && (syntax.Binds(sign) != 4 || len(e.Arguments) != 2) {
		return nil
	}
	for _, a := range e.Arguments {
		switch {
		case a.Value == nil || a.Name != nil:
			return nil
		case name == "NOT":
			return not(a.Value)
		case x == nil:
			x = a.Value
		default:
			x = &syntax.Binary{Op: sign, X: inside(x, sign), Y: inside(a.Value, sign)}
		}
	}
	return x
}

func (r *runger) logic(x *syntax.Binary, invert bool) []syntax.Element {
	left, right := r.contacts(x.X, invert), r.contacts(x.Y, invert)
	if (x.Op == "AND") != invert {
		return append(left, right...)
	}
	p := &syntax.Parallel{Branches: []*syntax.Series{{Elements: left}, {Elements: right}}}
	if len(left) == 1 {
		if inner, ok := left[0].(*syntax.Parallel); ok {
			p.Branches = append(slices.Clone(inner.Branches), p.Branches[1])
		}
	}
	return []syntax.Element{p}
}
