package xmlio

import (
	"cmp"
	"math"
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/syntax"
)

// diagram writes a body of networks.
func (g *grapher) diagram(body *element) {
	g.write(body, "FBD")
	for _, s := range g.pieces() {
		for _, words := range s.comments {
			g.write(s.at, "%s", words)
		}
		n := &networker{grapher: g, wires: map[*outlet]string{}, doing: map[*object]bool{}, done: map[*object]bool{}, held: map[*outlet]string{}}
		n.network(s)
	}
	g.write(body, "END_FBD")
}

// A networker makes nodes of the objects of one network.
type networker struct {
	*grapher
	nodes []*placed
	wires map[*outlet]string // what has a name of its own
	held  map[*outlet]string // the variables of results that are kept
	doing map[*object]bool   // on the way to an object
	done  map[*object]bool   // instances that are called, and functions that have run
}

// placed is a node with the object that it comes from.
type placed struct {
	node *syntax.Node
	from *outlet // of a value that goes to targets
	at   *element
}

func (n *networker) network(s *sheet) {
	var acts []*object
	for _, o := range s.objects {
		if n.acts(o) {
			acts = append(acts, o)
		}
	}
	slices.SortStableFunc(acts, func(a, b *object) int { return cmp.Compare(a.rank(), b.rank()) })
	for _, o := range acts {
		n.act(o)
	}
	title := ""
	if s.title != "" {
		title = " '" + s.title + "'"
	}
	n.write(s.at, "NETWORK%s", title)
	for _, p := range n.nodes {
		text := syntax.PrintNetwork(&syntax.Network{Title: "t", Nodes: []*syntax.Node{p.node}})
		n.write(p.at, "%s", text[strings.Index(text, "\n")+1:])
	}
}

// rank orders objects by what the file says of their order, and those of which it says nothing by where they stand in it.
func (o *object) rank() float64 {
	if o.order > 0 {
		return float64(o.order)
	}
	return math.MaxInt32 + float64(o.number)
}

// acts reports what does something by itself: an instance, a target, a function with EN or whose result nothing takes, and one whose line
// has a name.
func (n *networker) acts(o *object) bool {
	switch o.kind {
	case sinkKind:
		return true
	case boxKind:
		return n.isInstance(o) || n.enable(o) != nil || n.unused(o) || o.wire != ""
	}
	return false
}

func (g *grapher) unused(o *object) bool {
	return !slices.ContainsFunc(o.outs, func(out *outlet) bool { return len(out.to) > 0 })
}

func (g *grapher) isInstance(o *object) bool {
	u := g.called(o.heading)
	return o.instance != "" || u != nil && u.kind != syntax.Function
}

// enable is the inlet EN where something other than TRUE is connected to it, or nil.
func (g *grapher) enable(o *object) *inlet {
	for _, in := range o.ins {
		if strings.EqualFold(in.name, "EN") && len(in.from) > 0 && !g.always(in) {
			return in
		}
	}
	return nil
}

// always reports an inlet that the left rail or TRUE drives.
func (g *grapher) always(in *inlet) bool {
	if in.negated || in.edge != "" {
		return false
	}
	return slices.ContainsFunc(in.from, func(out *outlet) bool {
		return out.of.kind == leftRail || out.of.kind == sourceKind && !out.of.negated && strings.EqualFold(out.of.operand, "TRUE")
	})
}

// act adds the nodes of an object, after those that it needs.
func (n *networker) act(o *object) {
	if n.done[o] {
		return
	}
	n.doing[o] = true
	defer func() { delete(n.doing, o); n.done[o] = true }()
	switch {
	case o.kind == sinkKind:
		n.sink(o)
	case n.isInstance(o):
		n.call(o)
	default:
		n.function(o)
	}
}

func (n *networker) add(node *syntax.Node, from *outlet, at *element) {
	n.nodes = append(n.nodes, &placed{node, from, at})
}

// sink is a node that goes to a target; targets of one value side by side are one node.
func (n *networker) sink(o *object) {
	in := o.ins[0]
	for _, out := range in.from {
		if of := out.of; of.kind == boxKind && !n.doing[of] && (n.isInstance(of) || n.enable(of) != nil || n.hasOutputs(of)) {
			n.act(of)
		}
	}
	if n.done[o] { // as a target of what runs with EN
		return
	}
	to := n.place(o.operand, o.at)
	if len(in.from) == 0 {
		n.wrong(o.at, "Draw a line to it, or remove it.", "nothing is connected to %s.", o.operand)
		return
	}
	target := &syntax.Coil{Kind: o.storage, Operand: to}
	negated := o.negated != in.negated
	if negated && o.storage == "" {
		target.Kind, negated = syntax.NegatedCoil, false
	}
	edge := cmp.Or(o.edge, in.edge)
	if len(in.from) == 1 && !negated && edge == "" {
		if last := len(n.nodes) - 1; last >= 0 && n.nodes[last].from == in.from[0] {
			n.nodes[last].node.Targets = append(n.nodes[last].node.Targets, target)
			return
		}
	}
	value := n.sum(in)
	if value == nil {
		return
	}
	from := in.from[0]
	if negated {
		value, from = circled(value), nil
	}
	if edge != "" {
		value, from = sensed(edge, value, cmp.Or(o.memory, in.memory)), nil
	}
	n.add(&syntax.Node{Value: value, Targets: []*syntax.Coil{target}}, from, o.at)
}

// circled is an inverted value; two circles are none.
func circled(x syntax.Expr) syntax.Expr {
	if twice, ok := x.(*syntax.Inverted); ok {
		return twice.X
	}
	return &syntax.Inverted{X: x}
}

// sensed is the edge of a value; in its brackets neither a circle nor another edge can stand.
func sensed(edge syntax.ContactKind, x syntax.Expr, memory string) syntax.Expr {
	switch inner := x.(type) {
	case *syntax.Inverted:
		x = function("NOT", inner.X)
	case *syntax.Contact:
		x = function("MOVE", x)
	}
	c := &syntax.Contact{Kind: edge, Operand: x}
	if memory != "" {
		c.Memory = named(memory)
	}
	return c
}

func named(text string) syntax.Expr { return &syntax.Identifier{Name: syntax.Name{Text: text}} }

func function(name string, in ...syntax.Expr) *syntax.Call {
	c := &syntax.Call{Callee: named(name)}
	for _, x := range in {
		c.Arguments = append(c.Arguments, syntax.Argument{Value: x})
	}
	return c
}

func given(name string, x syntax.Expr) syntax.Argument {
	return syntax.Argument{Name: &syntax.Name{Text: name}, Value: x}
}

func gives(name string, to syntax.Expr) syntax.Argument {
	return syntax.Argument{Name: &syntax.Name{Text: name}, Value: to, Output: true}
}

// sum is what is connected to an inlet, without its circle and its edge; nil where nothing is. Of several lines one is enough.
func (n *networker) sum(in *inlet) syntax.Expr {
	var list []syntax.Expr
	for _, out := range in.from {
		if x := n.value(out); x != nil {
			list = append(list, x)
		}
	}
	switch len(list) {
	case 0:
		return nil
	case 1:
		return list[0]
	}
	return function("OR", list...)
}

// pinned is what is connected to a pin.
func (n *networker) pinned(in *inlet) syntax.Expr {
	x := n.sum(in)
	if x == nil {
		return nil
	}
	if in.negated {
		x = circled(x)
	}
	if in.edge != "" {
		x = sensed(in.edge, x, in.memory)
	}
	return x
}

// value is what comes out of an outlet.
func (n *networker) value(out *outlet) syntax.Expr {
	x := n.plainly(out)
	if x != nil && out.negated {
		return circled(x)
	}
	return x
}

func (n *networker) plainly(out *outlet) syntax.Expr {
	o := out.of
	switch {
	case o.kind == sourceKind:
		return n.source(o)
	case out.inOut != nil:
		return n.pinned(out.inOut)
	case o.kind != boxKind:
		n.wrong(o.at, "Draw it with boxes.", "%s cannot stand here.", o.called())
		return nil
	case n.isInstance(o):
		if !n.done[o] && !n.doing[o] {
			n.act(o)
		}
		if strings.EqualFold(out.name, "ENO") {
			return n.enabled(out)
		}
		return &syntax.Member{Of: n.callee(o), Field: syntax.Name{Text: out.name}}
	}
	return n.result(out)
}

func (g *grapher) callee(o *object) syntax.Expr {
	if o.instance == "" {
		g.wrong(o.at, "Give it the name of an instance.", "this %s has no instance.", o.heading)
		return named("unnamed")
	}
	if e := g.place(o.instance, o.at); e != nil {
		return e
	}
	return named("unnamed")
}

func (n *networker) source(o *object) syntax.Expr {
	x := n.expression(o.operand, o.at)
	if x == nil {
		return nil
	}
	x = asPin(x)
	if o.negated {
		x = circled(x)
	}
	if o.edge != "" {
		x = sensed(o.edge, x, o.memory)
	}
	return x
}

// asPin is an expression as it stands at a pin: operators are functions.
func asPin(e syntax.Expr) syntax.Expr {
	switch e := e.(type) {
	case *syntax.Paren:
		return asPin(e.X)
	case *syntax.Unary:
		if e.Op == "NOT" {
			return function("NOT", asPin(e.X))
		}
		return e
	case *syntax.Binary:
		return function(syntax.BoxOf(e.Op), asPin(e.X), asPin(e.Y))
	case *syntax.Call:
		call := *e
		call.Arguments = slices.Clone(e.Arguments)
		for i, a := range call.Arguments {
			if !a.Output && a.Value != nil {
				call.Arguments[i].Value = asPin(a.Value)
			}
		}
		return &call
	}
	return e
}

// result is what a function gives: a wire where it goes several ways, or what was kept.
func (n *networker) result(out *outlet) syntax.Expr {
	o := out.of
	if name := n.wires[out]; name != "" {
		return named(name)
	}
	if n.doing[o] {
		n.wrong(o.at, throughVariable, "what comes out of %s goes back into it.", o.heading)
		n.wires[out] = "round"
		return named("round")
	}
	switch {
	case n.isENO(out):
		return n.enabled(out)
	case n.enable(o) != nil || n.isOutput(out):
		return n.keep(out)
	}
	n.doing[o] = true
	value := n.body(o)
	delete(n.doing, o)
	if o.wire == "" && (len(out.to) == 1 || len(out.to) > 1 && n.together(out)) && deep(value) < deepest {
		return value
	}
	name := cmp.Or(o.wire, strings.ToLower(o.heading))
	if o.wire == "" || !identifier.MatchString(name) || n.unit.taken[strings.ToLower(name)] {
		name = n.unit.fresh(name + "_out")
	}
	n.wires[out] = name
	n.add(&syntax.Node{Wire: &syntax.Name{Text: name}, Value: value}, nil, o.at)
	return named(name)
}

// body is the call of a function, or what goes into one that stands for its input alone.
func (n *networker) body(o *object) syntax.Expr {
	call := n.calling(o)
	if o.bare && len(call.Arguments) == 1 && call.Arguments[0].Value != nil {
		return call.Arguments[0].Value
	}
	return call
}

// deepest is how deep calls stand within each other before one becomes a wire.
const deepest = 12

func deep(e syntax.Expr) (most int) {
	switch e := e.(type) {
	case *syntax.Inverted:
		return deep(e.X)
	case *syntax.Contact:
		return deep(e.Operand) + 1
	case *syntax.Call:
		for _, a := range e.Arguments {
			if !a.Output && a.Value != nil {
				most = max(most, deep(a.Value))
			}
		}
		return most + 1
	}
	return 0
}

// together reports an outlet whose lines all go to targets side by side, which are one node.
func (n *networker) together(out *outlet) bool {
	for i, in := range out.to {
		o := in.of
		if o.kind != sinkKind || o.edge != "" || in.edge != "" || len(in.from) > 1 || (o.negated != in.negated) && o.storage != "" ||
			i > 0 && o.rank() != out.to[i-1].of.rank()+1 {
			return false
		}
	}
	return true
}

// enabled is ENO: TRUE where nothing but TRUE enables.
func (n *networker) enabled(out *outlet) syntax.Expr {
	if n.enable(out.of) == nil {
		return &syntax.Literal{Kind: syntax.Keyword, Text: "TRUE"}
	}
	return n.keep(out)
}

func (g *grapher) isENO(out *outlet) bool { return strings.EqualFold(out.name, "ENO") }

// isOutput reports an output of a function beside its result, or ENO where that may be FALSE.
func (g *grapher) isOutput(out *outlet) bool {
	if g.isENO(out) {
		return g.enable(out.of) != nil
	}
	u := g.own[strings.ToLower(out.of.heading)]
	return u != nil && u.kind == syntax.Function && u.find(u.outputs, out.name) != nil
}

// keep is the variable that holds what a function gave when it ran last.
func (n *networker) keep(out *outlet) syntax.Expr {
	n.keepLater(out)
	if !n.doing[out.of] {
		n.act(out.of)
	}
	return named(n.held[out])
}

// function is a function that runs by itself: with EN, or for what it does besides.
func (n *networker) function(o *object) {
	main := n.main(o)
	own := n.own[strings.ToLower(o.heading)] != nil
	if n.enable(o) == nil && main != nil && !n.hasOutputs(o) && (!own || len(main.to) > 0 || o.wire != "") { // a wire
		delete(n.doing, o)
		n.value(main)
		return
	}
	node := &syntax.Node{}
	if main != nil {
		node.Targets = n.targets(main)
	}
	node.Value = n.calling(o)
	n.add(node, nil, o.at)
}

func (g *grapher) hasOutputs(o *object) bool {
	return slices.ContainsFunc(o.outs, func(out *outlet) bool { return g.isOutput(out) && len(out.to) > 0 })
}

// main is the outlet of a function's result, or nil.
func (g *grapher) main(o *object) *outlet {
	for _, out := range o.outs {
		if !g.isOutput(out) && !g.isENO(out) && out.inOut == nil {
			return out
		}
	}
	return nil
}

// targets are those of a result that is written only when its function runs.
func (n *networker) targets(out *outlet) (list []*syntax.Coil) {
	for _, in := range out.to {
		if to := in.of; to.kind == sinkKind && !n.done[to] && len(in.from) == 1 && to.edge == "" && in.edge == "" && !out.negated {
			kind := to.storage
			if to.negated != in.negated && kind == "" {
				kind = syntax.NegatedCoil
			}
			if to.negated != in.negated && to.storage != "" {
				n.keepLater(out)
				continue
			}
			list = append(list, &syntax.Coil{Kind: kind, Operand: n.place(to.operand, to.at)})
			n.done[to] = true
			continue
		}
		n.keepLater(out)
	}
	if name := n.held[out]; name != "" {
		list = append(list, &syntax.Coil{Operand: named(name)})
	}
	return list
}

func (n *networker) keepLater(out *outlet) {
	if n.held[out] == "" {
		n.held[out] = n.unit.declare(strings.ToLower(out.of.heading)+"_out", n.kindOf(out))
	}
}

// calling is the call of a function with all that goes in, and the outputs that it has beside its result.
func (n *networker) calling(o *object) *syntax.Call {
	call := &syntax.Call{Callee: named(o.heading)}
	enable := n.enable(o)
	ins, names := n.inputs(o)
	byName := enable != nil || n.own[strings.ToLower(o.heading)] != nil && !allConnected(ins, names)
	if enable != nil {
		call.Arguments = append(call.Arguments, given("EN", n.pinned(enable)))
	}
	for i, in := range ins {
		x := n.pinned(in)
		name := in.name
		if i < len(names) {
			name = names[i]
		}
		switch {
		case byName && x != nil:
			call.Arguments = append(call.Arguments, given(name, x))
		case !byName:
			call.Arguments = append(call.Arguments, syntax.Argument{Value: x})
		}
	}
	for _, out := range o.outs {
		if n.isOutput(out) && len(out.to) > 0 {
			call.Arguments = append(call.Arguments, gives(out.name, n.taken(out)))
		}
	}
	return call
}

// inputs are the inlets of a box besides EN, in the order of the names that the standard or the declarations have for
// them, and those names.
func (g *grapher) inputs(o *object) (ins []*inlet, names []string) {
	for _, in := range o.ins {
		if !strings.EqualFold(in.name, "EN") {
			ins = append(ins, in)
		}
	}
	if u := g.called(o.heading); u != nil {
		for _, p := range u.inputs {
			names = append(names, p.name)
		}
	} else {
		names = block.InputNames(strings.ToUpper(o.heading), len(ins))
	}
	return inOrder(ins, names), names
}

// allConnected reports inlets of which each has its name and a line to it.
func allConnected(ins []*inlet, names []string) bool {
	if len(ins) != len(names) {
		return false
	}
	for i, in := range ins {
		if !strings.EqualFold(in.name, names[i]) || len(in.from) == 0 {
			return false
		}
	}
	return true
}

// inOrder sorts inlets by names, where they have those.
func inOrder(ins []*inlet, names []string) []*inlet {
	at := func(in *inlet) int {
		return slices.IndexFunc(names, func(n string) bool { return strings.EqualFold(n, in.name) })
	}
	if slices.ContainsFunc(ins, func(in *inlet) bool { return at(in) < 0 }) {
		return ins
	}
	ins = slices.Clone(ins)
	slices.SortStableFunc(ins, func(a, b *inlet) int { return cmp.Compare(at(a), at(b)) })
	return ins
}

// taken is where an output of a function beside its result goes: its one plain target, or a variable of its own.
func (n *networker) taken(out *outlet) syntax.Expr {
	if name := n.held[out]; name != "" {
		return named(name)
	}
	if len(out.to) == 1 {
		in := out.to[0]
		if to := in.of; to.kind == sinkKind && len(in.from) == 1 && !to.negated && !in.negated && to.storage == "" && to.edge == "" {
			n.done[to] = true
			return n.place(to.operand, to.at)
		}
	}
	n.keepLater(out)
	return named(n.held[out])
}

// call is an instance that is called.
func (n *networker) call(o *object) {
	call := &syntax.Call{Callee: n.callee(o)}
	ins, _ := n.inputs(o)
	if enable := n.enable(o); enable != nil {
		ins = append([]*inlet{enable}, ins...)
	}
	for _, in := range ins {
		if x := n.pinned(in); x != nil {
			call.Arguments = append(call.Arguments, given(in.name, x))
		}
	}
	for _, out := range o.outs {
		if n.isENO(out) && n.enable(o) != nil && len(out.to) > 0 {
			call.Arguments = append(call.Arguments, gives(out.name, n.taken(out)))
		}
	}
	n.add(&syntax.Node{Value: call}, nil, o.at)
}
