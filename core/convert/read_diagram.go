package convert

import (
	"strings"

	"celandine/core/syntax"
)

// readDiagram takes the networks as they are; a wire is a value.
func (b *body) readDiagram(d *syntax.Diagram) {
	from := d.Span.Start
	for _, one := range d.Networks {
		r := &diagramReader{b, b.begin(one.Span, one.Title, &from), map[string]*value{}}
		for _, node := range one.Nodes {
			r.node(node)
		}
	}
	b.comments = b.commentsBefore(from, d.Span.End)
}

type diagramReader struct {
	*body
	*network
	wires map[string]*value // in small letters
}

// wired is an expression with each wire's name in place of the wire.
func (r *diagramReader) wired(e syntax.Expr) syntax.Expr {
	if id, ok := e.(*syntax.Identifier); ok {
		if v := r.wires[strings.ToLower(id.Text)]; v != nil {
			return v
		}
	}
	return over(e, r.wired)
}

// sensedFirst takes the edges with named memories out of an expression, since others may read those; and with them all edges, so that
// their order stays.
func (r *diagramReader) sensedFirst(e syntax.Expr) syntax.Expr {
	e = r.wired(e)
	edges := own(e)
	for _, x := range edges {
		if x.Memory == nil {
			continue
		}
		made := map[syntax.Expr]syntax.Expr{}
		for _, edge := range edges {
			made[edge] = r.sense(replaced(edge, made))
		}
		return replaced(e, made)
	}
	return e
}

// own are the edges that stand in an expression itself, the inner before the outer.
func own(e syntax.Expr) (list []*syntax.Contact) {
	if _, wire := e.(*value); wire {
		return nil
	}
	over(e, func(x syntax.Expr) syntax.Expr { list = append(list, own(x)...); return x })
	if edge, ok := e.(*syntax.Contact); ok {
		list = append(list, edge)
	}
	return list
}

// replaced is an expression with other parts in place of some; of an edge itself what stands in it.
func replaced(e syntax.Expr, made map[syntax.Expr]syntax.Expr) syntax.Expr {
	if with := made[e]; with != nil {
		return with
	}
	return over(e, func(x syntax.Expr) syntax.Expr { return replaced(x, made) })
}

func (r *diagramReader) node(n *syntax.Node) {
	if written, ok := n.Value.(*syntax.Call); ok {
		if block := r.program.BlockCalled(written); block != nil {
			e := &event{block: block, at: n.Span}
			read := r.sensedFirst(written).(*syntax.Call)
			e.enable, read.Arguments = without(read.Arguments, "EN", false)
			e.eno, read.Arguments = without(read.Arguments, "ENO", true)
			e.call = read
			r.do(e)
			return
		}
	}
	e := &event{targets: n.Targets, at: n.Span, value: r.sensedFirst(n.Value)}
	if n.Wire != nil {
		v := r.worked(e.value, r.changes(e.value)["*"])
		v.name = n.Wire.Text
		r.wires[strings.ToLower(n.Wire.Text)] = v
		if made := r.program.WireAt(n.Wire.Span); made != nil {
			v.kind = made.Type.Name
		}
		return
	}
	if read, ok := e.value.(*syntax.Call); ok {
		if enable, rest := without(read.Arguments, "EN", false); enable != nil {
			e.enable = enable
			e.eno, rest = without(rest, "ENO", true)
			e.value = &syntax.Call{Callee: read.Callee, Arguments: rest, Span: read.Span}
		}
	}
	e.bool = len(n.Targets) > 0 && r.isBool(n.Targets[0].Operand)
	r.do(e)
}
