package convert

import (
	"maps"
	"slices"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A network is what stands together: a rung, a network of a block diagram, a statement or a few.
type network struct {
	title    string
	comments []string // above it
	events   []*event
	values   []*value // in the order in which they are made
	at       source.Span
}

// An event is something that a program does: it writes a value to targets, calls a block, or senses what has to be sensed just here.
type event struct {
	enable  syntax.Expr // under which alone it happens, or nil
	eno     syntax.Expr // what takes ENO, or nil
	value   syntax.Expr
	targets []*syntax.Coil // none: a function of one's own is called for what it does besides
	bool    bool           // the targets are BOOL
	block   *check.Block   // that is called
	call    *syntax.Call   // of the block, without EN and ENO
	hold    *value         // worked out here for what comes later
	at      source.Span
}

// A value is worked out where it is made, for whatever uses it later: power that goes on, a wire, a condition. It stands in expressions,
// where it is written as it is, or, where it is held, by its name.
type value struct {
	expr syntax.Expr
	name string // wanted, and once it is held its own
	kind string // its type's name
	made int    // before which event
	sole bool   // worked out by an event of its own
	held bool
}

// Place returns where the value's expression stands.
func (v *value) Place() source.Span { return v.expr.Place() }

func (n *network) do(e *event) { n.events = append(n.events, e) }

// keep makes a value of a BOOL.
func (n *network) keep(e syntax.Expr) *value {
	if v, ok := e.(*value); ok {
		return v
	}
	return n.worked(e, false)
}

// sense makes a value that is worked out at once, since what it does besides matters.
func (n *network) sense(e syntax.Expr) *value {
	v := n.worked(e, true)
	v.name = "edge"
	return v
}

func (n *network) worked(e syntax.Expr, sole bool) *value {
	v := &value{expr: e, name: "power", kind: "BOOL", made: len(n.events), sole: sole}
	n.values = append(n.values, v)
	if sole {
		n.do(&event{hold: v, at: e.Place()})
	}
	return v
}

// expressions are all that an event works out.
func (e *event) expressions() (list []syntax.Expr) {
	for _, x := range []syntax.Expr{e.enable, e.value} {
		if x != nil {
			list = append(list, x)
		}
	}
	if e.hold != nil {
		list = append(list, e.hold)
	}
	if e.call != nil {
		list = append(list, e.call)
	}
	return list
}

// settle finds which values have to be held: those that are used more than once, and those that something changes
// between where they are made and where they are used.
func (c *converter) settle(n *network) {
	writes := make([]touched, len(n.events))
	uses := map[*value][]int{}
	for i, e := range n.events {
		writes[i] = c.writes(e)
		for _, x := range e.expressions() {
			direct(x, func(v *value) { uses[v] = append(uses[v], i) })
		}
	}
	reads := map[*value]touched{}
	for _, v := range n.values {
		reads[v] = c.readsOf(v, reads)
	}
	for _, v := range slices.Backward(n.values) {
		at := uses[v]
		if v.sole {
			at = at[1:] // the event of its own
		}
		v.held = c.mustHold(n, v, at, writes, reads[v])
		if v.held {
			at = []int{v.made}
		}
		if len(at) > 0 {
			direct(v.expr, func(inner *value) { uses[inner] = append(uses[inner], at...) })
		}
	}
	depths := map[*value]int{}
	for _, v := range n.values { // now that those in it are known to be held, it may do without
		reads[v] = c.readsOf(v, reads)
		depths[v] = depth(v.expr, depths)
		if v.held && !v.sole && len(uses[v]) > 0 {
			v.held = false
			v.held = c.mustHold(n, v, uses[v], writes, reads[v])
		}
		v.held = v.held || depths[v] > mostDepth && len(uses[v]) > 0
	}
}

// mostDepth is how deep what stands in a value may be; beyond that nobody can read it.
const mostDepth = 12

// depth is how deep an expression is, with the values in it that are not held, whose depths are known.
func depth(e syntax.Expr, known map[*value]int) (most int) {
	if v, ok := e.(*value); ok {
		if v.held {
			return 0
		}
		return known[v]
	}
	if row, ok := e.(*syntax.Binary); ok {
		if left, ok := row.X.(*syntax.Binary); ok && left.Op == row.Op { // side by side
			return max(depth(left, known), depth(row.Y, known)+1)
		}
	}
	over(e, func(x syntax.Expr) syntax.Expr { most = max(most, depth(x, known)); return x })
	return most + 1
}

// readsOf are the names that a value reads, with those of the values in it that are not held, which come before it.
func (c *converter) readsOf(v *value, known map[*value]touched) touched {
	set := touched{}
	c.gather(set, v.expr, func(inner *value) {
		if !inner.held {
			maps.Copy(set, known[inner])
		}
	})
	return set
}

// direct visits the values in an expression, but not those in them.
func direct(e syntax.Expr, visit func(*value)) {
	if v, ok := e.(*value); ok {
		visit(v)
		return
	}
	over(e, func(x syntax.Expr) syntax.Expr { direct(x, visit); return x })
}

func (c *converter) mustHold(n *network, v *value, uses []int, writes []touched, reads touched) bool {
	if v.sole {
		return len(uses) != 1 || uses[0] != v.made+1 || uses[0] == len(n.events) || c.mingles(n.events[uses[0]], v)
	}
	if len(uses) == 0 {
		return c.faulty(v.expr)
	}
	if len(uses) > 1 && !simple(v.expr) {
		return true
	}
	for _, w := range writes[v.made:slices.Max(uses)] {
		if w.meets(reads) {
			return true
		}
	}
	return false
}

// mingles reports whether an event reads anything besides that a value changes.
func (c *converter) mingles(e *event, v *value) bool {
	rest := touched{}
	seen := map[*value]bool{v: true}
	var nested func(*value)
	nested = func(other *value) {
		if !seen[other] {
			seen[other] = true
			c.gather(rest, other.expr, nested)
		}
	}
	for _, x := range e.expressions() {
		c.gather(rest, x, nested)
	}
	return c.changes(v.expr).meets(rest)
}

// changes are the names that working an expression out changes: memories of edges, and what a function of one's own may. The values in it
// change nothing: what does is worked out by events of their own.
func (c *converter) changes(e syntax.Expr) touched {
	set := touched{}
	each(e, func(x syntax.Expr) {
		switch x := x.(type) {
		case *syntax.Contact:
			if x.Memory != nil {
				c.touch(set, root(x.Memory))
			}
		case *syntax.Call:
			if c.own(x) != nil {
				set["*"] = true
			}
		}
	})
	return set
}

// writes are the names that an event changes.
func (c *converter) writes(e *event) touched {
	set := touched{}
	for _, x := range e.expressions() {
		maps.Copy(set, c.changes(x))
	}
	if e.hold != nil {
		maps.Copy(set, c.changes(e.hold.expr))
	}
	for _, t := range e.targets {
		c.touch(set, root(t.Operand))
	}
	if e.eno != nil {
		c.touch(set, root(e.eno))
	}
	if e.call == nil {
		return set
	}
	if e.block.Unit != nil {
		set["*"] = true
	}
	c.touch(set, root(e.call.Callee))
	for _, a := range e.call.Arguments {
		if a.Output && a.Value != nil {
			c.touch(set, root(a.Value))
		}
	}
	return set
}

// turned is what is driven without the NOT around it, where all targets can take it inverted instead; of a plain variable the NOT stays.
func turned(e *event) (from syntax.Expr, inverted bool) {
	n, ok := inner(e.value).(*syntax.Unary)
	if !ok || n.Op != "NOT" || !e.bool || e.enable != nil {
		return e.value, false
	}
	sign, _ := operator(n.X)
	for _, t := range e.targets {
		if t.Kind != syntax.PlainCoil || sign == "" || syntax.Binds(sign) >= 4 {
			return e.value, false
		}
	}
	return n.X, true
}
