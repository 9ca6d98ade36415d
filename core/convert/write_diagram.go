package convert

import (
	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/syntax"
)

// diagramNetwork writes a network as one of a block diagram: what is held is a wire.
func (b *body) diagramNetwork(n *network) string {
	out := &syntax.Network{Title: n.title}
	names := b.names
	b.names = map[string]bool{} // wires belong to their network
	for name := range names {
		b.names[name] = true
	}
	defer func() { b.names = names }()
	b.visible(n)
	n.each(func(v *value) {
		made := pinned(v.expr, v.kind == "BOOL")
		v.name = b.fresh(v.name)
		out.Nodes = append(out.Nodes, &syntax.Node{Wire: &syntax.Name{Text: v.name}, Value: made})
	}, func(e *event) { out.Nodes = append(out.Nodes, b.node(e)) })
	return syntax.PrintNetwork(out)
}

// visible tells of operators whose functions cannot be called, since a variable has the name.
func (b *body) visible(n *network) {
	for _, e := range n.events {
		for _, x := range e.expressions() {
			each(x, func(x syntax.Expr) {
				if op, ok := x.(*syntax.Binary); ok && b.hidden(syntax.BoxOf(op.Op)) {
					b.cannot(e.at, "Give the variable another name.", "The function %s cannot be called where a variable has its name.",
						syntax.BoxOf(op.Op))
				}
			})
		}
	}
}

// each visits what a network holds and what it does, in order.
func (n *network) each(held func(*value), does func(*event)) {
	next := 0
	for i := 0; i <= len(n.events); i++ {
		for ; next < len(n.values) && n.values[next].made <= i; next++ {
			if v := n.values[next]; v.held {
				held(v)
			}
		}
		if i < len(n.events) && n.events[i].hold == nil {
			does(n.events[i])
		}
	}
}

func (b *body) node(e *event) *syntax.Node {
	if e.call != nil {
		return &syntax.Node{Value: &syntax.Call{Callee: pinned(e.call.Callee, false), Arguments: gated(e, pinnedInputs(e))}}
	}
	from, inverted := turned(e)
	node := &syntax.Node{Value: pinned(from, e.bool)}
	for _, t := range e.targets {
		kind := t.Kind
		if inverted {
			kind = syntax.NegatedCoil
		}
		node.Targets = append(node.Targets, &syntax.Coil{Kind: kind, Operand: pinned(t.Operand, false)})
	}
	if e.enable == nil {
		return node
	}
	made, ok := node.Value.(*syntax.Call)
	if !ok {
		made = call("MOVE", node.Value)
	}
	node.Value = &syntax.Call{Callee: made.Callee, Arguments: gated(e, b.named(made))}
	return node
}

// gated are the inputs of a call with EN before and ENO behind them.
func gated(e *event, list []syntax.Argument) []syntax.Argument {
	if e.enable != nil {
		list = append([]syntax.Argument{inputOf("EN", pinned(e.enable, true))}, list...)
	}
	if e.eno != nil {
		list = append(list, outputOf("ENO", pinned(e.eno, false)))
	}
	return list
}

func pinnedInputs(e *event) []syntax.Argument {
	list := make([]syntax.Argument, len(e.call.Arguments))
	for i, a := range e.call.Arguments {
		m := e.block.Member(a.Name.Text)
		list[i] = syntax.Argument{Name: a.Name, Output: a.Output, Value: pinned(a.Value, m != nil && m.Type == check.Bool)}
	}
	return list
}

// named are the inputs of a function by their names, as they stand beside EN.
func (b *body) named(e *syntax.Call) []syntax.Argument {
	if len(e.Arguments) == 0 || e.Arguments[0].Name != nil {
		return e.Arguments
	}
	names := block.InputNames(functionName(e), len(e.Arguments))
	if u := b.own(e); u != nil {
		names = u.Inputs()
	}
	list := make([]syntax.Argument, len(e.Arguments))
	for i, a := range e.Arguments {
		list[i] = inputOf(names[i], a.Value)
	}
	return list
}

// pinned is an expression as it goes to a pin: operators are functions, and of a BOOL that is inverted the pin has a circle.
func pinned(e syntax.Expr, bool bool) syntax.Expr {
	pin := func(x syntax.Expr) syntax.Expr { return pinned(x, false) }
	switch x := e.(type) {
	case nil:
		return nil
	case *value:
		if x.held {
			return name(x.name)
		}
		return pinned(x.expr, bool || x.kind == "BOOL")
	case *syntax.Paren:
		return pinned(x.X, bool)
	case *syntax.Inverted:
		return circled(pinned(x.X, true))
	case *syntax.Unary:
		return pinnedUnary(x, bool)
	case *syntax.Contact:
		return &syntax.Contact{Kind: x.Kind, Operand: sensedPin(pinned(x.Operand, true)), Memory: x.Memory}
	case *syntax.Index:
		return over(x, plain)
	case *syntax.Binary:
		return call(syntax.BoxOf(x.Op), chained(x, x.Op, bool)...)
	case *syntax.Call:
		if sign := functionName(x); sign == "AND" || sign == "OR" || sign == "XOR" {
			pin = func(x syntax.Expr) syntax.Expr { return pinned(x, bool) }
		}
		return &syntax.Call{Callee: x.Callee, Arguments: arguments(x.Arguments, pin)}
	}
	return over(e, pin)
}

// circled is an inverted pin; two circles are none.
func circled(x syntax.Expr) syntax.Expr {
	if twice, ok := x.(*syntax.Inverted); ok {
		return twice.X
	}
	return &syntax.Inverted{X: x}
}

// sensedPin is what the brackets of an edge hold, where neither a circle nor another edge can stand.
func sensedPin(x syntax.Expr) syntax.Expr {
	switch x := x.(type) {
	case *syntax.Inverted:
		return call("NOT", x.X)
	case *syntax.Contact:
		return call("MOVE", x)
	}
	return x
}

func pinnedUnary(x *syntax.Unary, bool bool) syntax.Expr {
	switch {
	case x.Op == "NOT" && bool:
		return circled(pinned(x.X, true))
	case x.Op == "NOT":
		return call("NOT", pinned(x.X, false))
	case x.Op == "+":
		return pinned(x.X, false)
	}
	return &syntax.Unary{Op: x.Op, X: pinned(x.X, false)}
}

// chained are the inputs of one function for operators of a kind in a row: AND(a, b, c) for a AND b AND c.
func chained(x *syntax.Binary, op string, bool bool) []syntax.Expr {
	logic := op == "AND" || op == "OR" || op == "XOR"
	last := pinned(x.Y, bool && logic)
	if left, ok := inner(x.X).(*syntax.Binary); ok && left.Op == op && inARow(op) {
		return append(chained(left, op, bool), last)
	}
	return []syntax.Expr{pinned(x.X, bool && logic), last}
}
