package oracle

import (
	"strings"

	"celandine/core/syntax"
)

// diagram runs networks from the top, and the nodes of each as written. A wire is known up to the end of its network.
func (o *Interpreter) diagram(f *frame, d *syntax.Diagram) {
	for _, n := range d.Networks {
		for _, node := range n.Nodes {
			o.sense(f, node)
			o.node(f, node)
			o.share()
		}
		for _, node := range n.Nodes {
			if node.Wire != nil {
				delete(f.cells, lower(node.Wire.Text))
			}
		}
	}
}

// sense looks at every edge of a node, whether what it goes to runs or not.
func (o *Interpreter) sense(f *frame, n *syntax.Node) {
	o.senseIn(f, n.Value)
}

// senseIn looks at the edges in an expression as they are written, and at those within an edge before it.
func (o *Interpreter) senseIn(f *frame, e syntax.Expr) {
	syntax.Walk(e, func(x any) bool {
		c, ok := x.(*syntax.Contact)
		if ok {
			o.senseIn(f, c.Operand)
			f.sensed[c] = o.contact(f, c, true)
		}
		return !ok
	})
}

func (o *Interpreter) node(f *frame, n *syntax.Node) {
	if call, ok := n.Value.(*syntax.Call); ok {
		if id, named := call.Callee.(*syntax.Identifier); !named || f.cells[lower(id.Text)] != nil {
			o.callStatement(f, call, nil)
			return
		}
		plain, runs := o.enabled(f, call)
		if !runs {
			return
		}
		if len(n.Targets) == 0 && n.Wire == nil {
			o.function(f, plain, nil)
			return
		}
		n = &syntax.Node{Wire: n.Wire, Value: plain, Targets: n.Targets}
	}
	if n.Wire != nil {
		v := o.eval(f, n.Value, o.types["int"]) // what bare numbers are where nothing implies more
		c := &cell{t: v.t}
		store(c, v)
		f.cells[lower(n.Wire.Text)] = c
		return
	}
	first := o.place(f, n.Targets[0].Operand)
	v := as(o.eval(f, n.Value, first.t), first.t)
	for _, t := range n.Targets {
		c := o.place(f, t.Operand)
		switch t.Kind {
		case syntax.PlainCoil:
			store(c, as(v, c.t))
		case syntax.NegatedCoil:
			c.i = 1 - v.i
		case syntax.SetCoil:
			c.i |= v.i
		case syntax.ResetCoil:
			c.i &^= v.i
		}
	}
}

// enabled takes EN and ENO out of a call, and tells whether it runs.
func (o *Interpreter) enabled(f *frame, call *syntax.Call) (plain *syntax.Call, runs bool) {
	plain, runs = &syntax.Call{Callee: call.Callee}, true
	for _, a := range call.Arguments {
		if a.Name != nil && strings.EqualFold(a.Name.Text, "EN") {
			runs = o.truth(f, a.Value)
		} else if a.Name == nil || !strings.EqualFold(a.Name.Text, "ENO") {
			plain.Arguments = append(plain.Arguments, a)
		}
	}
	o.deliverENO(f, call, runs)
	return plain, runs
}
