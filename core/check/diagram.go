package check

import (
	"slices"
	"strings"

	"celandine/core/say"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A block diagram becomes the statements that do the same: a wire is a variable that is written before it is read, a target is written, a
// set or reset is written where the value is TRUE, an edge is sensed before the node in whose inputs it stands. So whatever runs, watches
// and explains statements does it for block diagrams.

func (c *checker) diagram(d *syntax.Diagram) (out []Statement) {
	c.elsewhere = map[string]bool{}
	for _, n := range d.Networks {
		for _, node := range n.Nodes {
			if node.Wire != nil {
				c.elsewhere[lower(node.Wire.Text)] = true
			}
		}
	}
	for i, n := range d.Networks {
		c.program.networks = append(c.program.networks, &Network{Title: n.Title, Number: i + 1, At: n.Span})
		var wires []string
		for _, node := range n.Nodes {
			list := c.node(node, i+1, &wires)
			slices.SortStableFunc(c.sensed, func(a, b *Assign) int { return a.At.End - b.At.End }) // as they are written, the inner first
			for _, s := range c.sensed {
				out = append(out, s)
			}
			out, c.sensed = append(out, list...), nil
		}
		for _, name := range wires { // they belong to their network
			delete(c.scope, name)
		}
	}
	return out
}

// node checks one piece of a network, by its number from 1, and adds the wire that it makes.
func (c *checker) node(n *syntax.Node, network int, wires *[]string) []Statement {
	call, _ := n.Value.(*syntax.Call)
	if call != nil && c.isInstance(call) {
		return c.blockNode(n, call)
	}
	enable, eno, value := c.gated(n.Value)
	switch {
	case n.Wire != nil && enable != nil:
		c.report(source.WrongCall, n.Span, "Let it go to a variable: => x.", "A wire has a value in every scan, and this function runs only when its EN is TRUE.")
		return nil
	case n.Wire != nil:
		return c.wire(n, network, wires)
	case len(n.Targets) == 0:
		return c.aimless(n, call)
	}
	list := c.driven(n, value)
	if enable == nil {
		return list
	}
	return c.whenEnabled(n, enable, eno, list)
}

func (c *checker) isInstance(call *syntax.Call) bool {
	id, named := call.Callee.(*syntax.Identifier)
	return !named || c.find(id.Text) != nil && c.functions[lower(id.Text)] == nil
}

func (c *checker) blockNode(n *syntax.Node, call *syntax.Call) []Statement {
	typed := c.blockCall(call, nil)
	if typed == nil {
		return nil
	}
	if n.Wire != nil || len(n.Targets) > 0 {
		out := firstOf(typed.Instance.Type().Block.outputNames())
		c.report(source.WrongCall, n.Span, "Call it in a node of its own, and take "+typed.Instance.Name()+"."+out+" in the next.",
			"A function block has no single result.")
		return nil
	}
	return []Statement{typed}
}

// aimless is a node whose value goes nowhere: right for a function of one's own, which may do something besides.
func (c *checker) aimless(n *syntax.Node, call *syntax.Call) []Statement {
	if call != nil {
		if id := call.Callee.(*syntax.Identifier); c.functions[lower(id.Text)] != nil {
			value, _ := c.function(id, call, nil)
			return []Statement{&Evaluate{value, n.Span}}
		}
	}
	before := len(c.problems)
	c.expression(n.Value, nil)
	if len(c.problems) == before {
		c.report(source.WrongCall, n.Span, "Write => and a variable after it, or wire and a name before it.", "The value of %s goes nowhere.",
			n.Value.Place().Text())
	}
	return nil
}

// gated takes EN and ENO out of the call of a function.
func (c *checker) gated(e syntax.Expr) (enable syntax.Expr, eno syntax.Expr, value syntax.Expr) {
	call, ok := e.(*syntax.Call)
	if !ok {
		return nil, nil, e
	}
	inner := *call
	inner.Arguments = nil
	for _, a := range call.Arguments {
		switch {
		case a.Name != nil && strings.EqualFold(a.Name.Text, "EN") && !a.Output && a.Value != nil:
			enable = a.Value
		case a.Name != nil && strings.EqualFold(a.Name.Text, "ENO") && a.Output && a.Value != nil:
			eno = a.Value
		default:
			inner.Arguments = append(inner.Arguments, a)
		}
	}
	if enable == nil {
		return nil, nil, e
	}
	return enable, eno, &inner
}

// wire gives a value a name, for the nodes of its network that come after it.
func (c *checker) wire(n *syntax.Node, network int, wires *[]string) []Statement {
	name := n.Wire.Text
	if c.find(name) != nil {
		c.report(source.Duplicate, n.Wire.Span, "Give the wire another name.", "There is something named %s already.", name)
		c.expression(n.Value, nil)
		return nil
	}
	value := c.expression(n.Value, nil)
	if value == nil {
		return nil
	}
	if !value.Type().IsSingle() {
		c.report(source.WrongType, n.Value.Place(), "", "A wire carries one value, not a whole %s.", value.Type().Name)
		return nil
	}
	v := c.made(name, value.Type(), n.Wire.Span)
	for _, other := range c.wired {
		if strings.EqualFold(other, name) { // of another network
			v.Name = say.Textf("%s@%d", name, network)
		}
	}
	c.wired = append(c.wired, name)
	c.program.wires = append(c.program.wires, v)
	c.scope[lower(name)] = v
	*wires = append(*wires, lower(name))
	if len(n.Targets) > 0 {
		c.report(source.WrongPlace, n.Targets[0].Span, "Write a node of its own: "+name+" => …", "A wire is made in a node of its own.")
	}
	ref := &Ref{Variable: v, At: n.Wire.Span}
	c.writes(v, Wrote{use: useOf(ref, n.Span)})
	return []Statement{&Assign{ref, value, n.Span}}
}

// made is a variable that no text declares.
func (c *checker) made(name string, t *Type, at source.Span) *Variable {
	v := &Variable{Name: name, Type: t, Unit: c.unitName, Owner: c.owner, Span: at}
	c.makes(v)
	return v
}

// hold keeps a value for the statements that come after it, under a name that no text can have. A BOOL may get its value elsewhere.
func (c *checker) hold(value Expr, at source.Span, name string) *Ref {
	t := Bool
	if value != nil {
		t = value.Type()
	}
	if name = strings.Join(strings.Fields(name), " "); name != "edge" && !strings.ContainsAny(name, "( /") {
		name = "(" + name + ")"
	}
	held := &Ref{Variable: c.made(name, t, at), At: at}
	held.Variable.Hidden = true
	held.Variable.Made = &Assign{held, value, at}
	return held
}

// driven writes a value to its targets; it is worked out once.
func (c *checker) driven(n *syntax.Node, e syntax.Expr) (list []Statement) {
	var targets []*Ref
	for _, t := range n.Targets {
		target := c.target(t.Operand)
		if target != nil && t.Kind != syntax.PlainCoil && target.Type().Plain() != Bool {
			c.report(source.WrongType, t.Span, "", "Only a BOOL is inverted, set or reset; %s is %s %s.", target.Name(), article(target.Type().Name),
				target.Type().Name)
			target = nil
		}
		targets = append(targets, target)
	}
	if targets[0] == nil {
		c.expression(e, nil)
		return nil
	}
	value := c.valueFor(e, targets[0].Type())
	if value == nil {
		return nil
	}
	if len(targets) > 1 && value.Type().IsSingle() {
		held := c.hold(value, n.Value.Place(), n.Value.Place().Text())
		list, value = append(list, held.Variable.Made), held
	}
	for i, target := range targets {
		if target == nil {
			return nil
		}
		taken := value
		if i > 0 {
			if taken = c.convert(value, target.Type()); taken == nil {
				return nil
			}
		}
		list = append(list, c.drive(n, n.Targets[i], target, taken))
	}
	return list
}

// drive is what one target does with a value.
func (c *checker) drive(n *syntax.Node, t *syntax.Coil, target *Ref, value Expr) Statement {
	latches := t.Kind == syntax.SetCoil || t.Kind == syntax.ResetCoil
	c.writes(target.Variable, Wrote{use: useOf(target, t.Span), Coil: t.Kind, InRung: true, Conditional: latches || c.nested > 0})
	switch {
	case latches && useOf(target, t.Span).Part == somewhere: // an index is worked out whether it is written there or not
		if t.Kind == syntax.SetCoil {
			return &Assign{target, &Op{Op: Or, T: Bool, X: value, Y: target, At: n.Span}, n.Span}
		}
		return &Assign{target, &Op{Op: And, T: Bool, X: &Op{Op: Not, T: Bool, X: value, At: n.Span}, Y: target, At: n.Span}, n.Span}
	case latches:
		to := &Const{T: Bool, At: t.Span}
		if t.Kind == syntax.SetCoil {
			to.Value = 1
		}
		return &If{Arms: []Arm{{Condition: value, Body: []Statement{&Assign{target, to, n.Span}}}}, At: n.Span}
	case t.Kind == syntax.NegatedCoil:
		value = fold(&Op{Op: Not, T: Bool, X: value, At: n.Span})
	}
	return &Assign{target, value, n.Span}
}

// whenEnabled runs what a function does only when its EN is TRUE.
func (c *checker) whenEnabled(n *syntax.Node, enable, eno syntax.Expr, list []Statement) []Statement {
	condition := c.condition(enable)
	if condition == nil {
		return nil
	}
	var out []Statement
	if eno != nil {
		target := c.writeTarget(eno, Bool)
		if target == nil {
			return nil
		}
		held := c.hold(condition, enable.Place(), enable.Place().Text())
		out = append(out, held.Variable.Made, &Assign{target, held, n.Span})
		condition = held
	}
	return append(out, &If{Arms: []Arm{{Condition: condition, Body: list}}, At: n.Span})
}

// inverted is a pin with a circle.
func (c *checker) inverted(e *syntax.Inverted) Expr {
	x := c.expression(e.X, Bool)
	if x == nil {
		return nil
	}
	if x.Type().Plain() != Bool {
		c.report(source.WrongType, e.Span, "Use NOT for a bit string.", "Only a BOOL is inverted at a pin; %s is %s %s.", e.X.Place().Text(),
			article(x.Type().Name), x.Type().Name)
		return nil
	}
	return fold(&Op{Op: Not, T: Bool, X: x, At: e.Span})
}

// edge is a change that is sensed before the node in whose inputs it stands, in every scan.
func (c *checker) edge(e *syntax.Contact) Expr {
	x := c.condition(e.Operand)
	if x == nil {
		return nil
	}
	memory := c.memory(e.Span)
	if e.Memory != nil {
		if memory = c.writeTarget(e.Memory, Bool); memory == nil {
			return nil
		}
		c.remembers(memory.Variable, useOf(memory, e.Span))
	}
	now, out := c.hold(x, e.Span, "edge"), c.hold(nil, e.Span, e.Span.Text())
	out.Variable.Made, out.Variable.Edge = now.Variable.Made, &Contact{Kind: e.Kind, Operand: x, Memory: memory, At: e.Span}
	rises, before := Expr(now), Expr(&Op{Op: Not, T: Bool, X: memory, At: e.Span})
	if e.Kind == syntax.FallingContact {
		rises, before = &Op{Op: Not, T: Bool, X: now, At: e.Span}, memory
	}
	c.sensed = append(c.sensed, now.Variable.Made, &Assign{out, &Op{Op: And, T: Bool, X: rises, Y: before, At: e.Span}, e.Span},
		&Assign{memory, now, e.Span})
	return out
}
