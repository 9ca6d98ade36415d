package convert

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/syntax"
)

// statements writes a network as statements below a comment that is its title. Networks of one statement without titles stand alone, as
// long as none has a title.
func (b *body) statements(n *network) string {
	w := &textWriter{body: b}
	n.each(func(v *value) {
		w.sense(v.expr)
		made := w.plain(v.expr)
		v.name = b.temporary(v.name, v.kind)
		w.assign(name(v.name), made)
	}, w.event)
	title := n.title
	if title == "" && (len(w.list) != 1 || b.titled || len(n.comments) > 0) {
		title = fmt.Sprintf("Network %d", slices.Index(b.networks, n)+1)
	}
	var out strings.Builder
	if title != "" {
		b.titled = true
		out.WriteString("// " + title + "\n")
	}
	for _, s := range w.list {
		out.WriteString(syntax.PrintStatement(s))
	}
	return out.String()
}

type textWriter struct {
	*body
	list    []syntax.Statement
	governs string                          // the condition of the last statement, where it holds for the next as well
	edges   map[*syntax.Contact]syntax.Expr // sensed before the statement, each as it is read in it
}

func (w *textWriter) add(s syntax.Statement) {
	w.list = append(w.list, s)
	w.governs = ""
}

// under writes statements below a condition; below the one before where that is the same and still holds.
func (w *textWriter) under(condition syntax.Expr, list []syntax.Statement, writes touched) {
	words := syntax.PrintExpression(condition)
	if n := len(w.list); n > 0 && w.governs == words {
		before := w.list[n-1].(*syntax.If)
		before.Arms[0].Body = append(before.Arms[0].Body, list...)
	} else {
		w.add(&syntax.If{Arms: []syntax.Arm{{Condition: condition, Body: list}}})
	}
	w.governs = ""
	if simple(condition) && !writes.meets(w.reads(condition)) {
		w.governs = words
	}
}

func (w *textWriter) assign(target, value syntax.Expr) {
	w.add(&syntax.Assignment{Target: target, Value: value})
}

// plain is an expression in structured text, its edges by their names.
func (w *textWriter) plain(e syntax.Expr) syntax.Expr { return plain(w.named(e)) }

func (w *textWriter) named(e syntax.Expr) syntax.Expr {
	switch x := e.(type) {
	case *syntax.Contact:
		return w.edges[x]
	case *value:
		if !x.held {
			return w.named(x.expr)
		}
		return e
	}
	return over(e, w.named)
}

// sense writes what notices the edges in expressions: in structured text they need memories with names.
func (w *textWriter) sense(list ...syntax.Expr) {
	w.edges = map[*syntax.Contact]syntax.Expr{}
	for _, e := range list {
		for _, edge := range sensed(e) {
			w.edge(edge)
		}
	}
}

// edge writes what notices an edge. R_TRIG is a rising edge with a memory of its own; F_TRIG is another than a falling one: it gives a
// pulse in scan 0. A function has no memory for either.
func (w *textWriter) edge(e *syntax.Contact) {
	of := "power"
	if id, ok := inner(e.Operand).(*syntax.Identifier); ok {
		of = id.Text
	}
	if e.Kind == syntax.RisingContact && e.Memory == nil && w.unit.Kind != syntax.Function {
		trigger := w.declare(of+"_rise", "R_TRIG")
		clock := inputOf("CLK", w.plain(e.Operand))
		w.add(&syntax.CallStatement{Call: &syntax.Call{Callee: name(trigger), Arguments: []syntax.Argument{clock}}})
		w.edges[e] = member(name(trigger), "Q")
		return
	}
	changed := map[syntax.ContactKind]string{syntax.RisingContact: "_rises", syntax.FallingContact: "_falls"}[e.Kind]
	changed = w.temporary(of+changed, "BOOL")
	memory := e.Memory
	if memory == nil {
		memory = name(w.declare(of+"_was", "BOOL"))
	}
	now := w.plain(e.Operand)
	if !simple(now) || w.reads(now).meets(w.reads(memory)) {
		held := name(w.temporary("now", "BOOL"))
		w.assign(held, now)
		now = held
	}
	if e.Kind == syntax.FallingContact {
		w.assign(name(changed), plain(binary("AND", not(now), memory)))
	} else {
		w.assign(name(changed), plain(binary("AND", now, not(memory))))
	}
	w.assign(memory, now)
	w.edges[e] = name(changed)
}

func (w *textWriter) event(e *event) {
	w.sense(e.expressions()...)
	switch {
	case e.call != nil:
		list := arguments(e.call.Arguments, w.plain)
		if e.enable != nil {
			list = append([]syntax.Argument{inputOf("EN", w.plain(e.enable))}, list...)
		}
		if e.eno != nil {
			list = append(list, outputOf("ENO", e.eno))
		}
		w.add(&syntax.CallStatement{Call: &syntax.Call{Callee: e.call.Callee, Arguments: list}})
	case len(e.targets) == 0:
		w.add(&syntax.CallStatement{Call: w.plain(e.value).(*syntax.Call)})
	case e.enable != nil:
		w.enabled(e)
	default:
		for _, s := range w.driven(e, w.plain(e.value)) {
			if latch, ok := s.(*syntax.If); ok {
				w.under(latch.Arms[0].Condition, latch.Arms[0].Body, w.writes(e))
				continue
			}
			w.add(s)
		}
	}
}

// enabled is what a function does where its EN is TRUE.
func (w *textWriter) enabled(e *event) {
	condition := w.plain(e.enable)
	if e.eno != nil {
		held := name(w.temporary("enabled", "BOOL"))
		w.assign(held, condition)
		w.assign(e.eno, held)
		condition = held
	}
	list := w.driven(e, w.plain(e.value))
	w.under(condition, list, w.writes(e))
}

// driven writes a value to its targets. It is worked out once.
func (w *textWriter) driven(e *event, v syntax.Expr) (list []syntax.Statement) {
	if len(e.targets) > 1 && (!simple(v) || w.writes(e).meets(w.reads(v))) {
		held := name(w.temporary("held", w.declaredAs(e.targets[0].Operand)))
		list = append(list, &syntax.Assignment{Target: held, Value: v})
		v = held
	}
	for _, t := range e.targets {
		list = append(list, w.drive(t, v))
	}
	return list
}

func (w *textWriter) drive(t *syntax.Coil, v syntax.Expr) syntax.Statement {
	target := plain(t.Operand)
	switch t.Kind {
	case syntax.NegatedCoil:
		return &syntax.Assignment{Target: target, Value: plain(not(v))}
	case syntax.SetCoil, syntax.ResetCoil:
		on := truth("TRUE")
		if t.Kind == syntax.ResetCoil {
			on = truth("FALSE")
		}
		if !steady(target) { // its index is worked out in every scan
			with := binary("OR", v, target)
			if t.Kind == syntax.ResetCoil {
				with = binary("AND", not(v), target)
			}
			return &syntax.Assignment{Target: target, Value: plain(with)}
		}
		return &syntax.If{Arms: []syntax.Arm{{Condition: v, Body: []syntax.Statement{&syntax.Assignment{Target: target, Value: on}}}}}
	}
	return &syntax.Assignment{Target: target, Value: v}
}

// plain is an expression in structured text: functions that have an operator are written with it, in parentheses where they are needed.
func plain(e syntax.Expr) syntax.Expr {
	switch x := e.(type) {
	case nil:
		return nil
	case *value:
		if x.held {
			return name(x.name)
		}
		return plain(x.expr)
	case *syntax.Paren:
		return plain(x.X)
	case *syntax.Inverted:
		return plain(not(x.X))
	case *syntax.Unary:
		of := plain(x.X)
		if twice, ok := of.(*syntax.Unary); ok && x.Op == "NOT" && twice.Op == "NOT" {
			return unwrapped(twice.X)
		}
		return &syntax.Unary{Op: x.Op, X: within(of, unaryBinds)}
	case *syntax.Binary:
		return plainBinary(x.Op, x.X, x.Y)
	case *syntax.Call:
		switch {
		case len(x.Arguments) != 1:
		case functionName(x) == "NOT":
			return plain(not(x.Arguments[0].Value))
		case functionName(x) == "MOVE":
			return plain(x.Arguments[0].Value)
		}
		if sign, operands := operator(x); sign != "" {
			out := operands[0]
			for _, y := range operands[1:] {
				out = binary(sign, out, y)
			}
			return plain(out)
		}
	}
	return over(e, plain)
}

// unaryBinds is how tightly NOT and - bind: more than any operator between two.
const unaryBinds = 8

func plainBinary(op string, x, y syntax.Expr) syntax.Expr {
	binds := syntax.Binds(op)
	return binary(op, apart(op, within(plain(x), binds)), apart(op, within(plain(y), binds+1)))
}

// apart puts parentheses around XOR beside OR, where few know which comes first.
func apart(op string, e syntax.Expr) syntax.Expr {
	if b, ok := e.(*syntax.Binary); ok && (b.Op == "XOR" && op == "OR" || op == "XOR" && b.Op == "AND") {
		return &syntax.Paren{X: e}
	}
	return e
}

// within is an expression in parentheses where it binds less than what it stands in.
func within(e syntax.Expr, binds int) syntax.Expr {
	b, ok := e.(*syntax.Binary)
	if ok && syntax.Binds(b.Op) < binds {
		return &syntax.Paren{X: e}
	}
	return e
}
