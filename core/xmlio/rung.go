package xmlio

import (
	"cmp"
	"fmt"
	"slices"
	"strings"

	"celandine/core/syntax"
)

// ladder writes a body of rungs.
func (g *grapher) ladder(body *element) {
	g.write(body, "LADDER")
	for _, s := range g.pieces() {
		for _, words := range s.comments {
			g.write(s.at, "%s", words)
		}
		r := &runger{grapher: g, at: s.at, nodes: map[string]int{}, held: map[*outlet]string{}, led: map[*outlet]bool{}, done: map[*object]bool{},
			info: map[syntax.Element]*wire{}, known: map[*outlet]worked{}, origin: map[syntax.Element]*element{}, free: map[*syntax.Box]bool{}, on: map[*outlet]bool{}}
		r.rung(&syntax.Rung{Title: s.title, Net: r.net(s)})
	}
	g.write(body, "END_LADDER")
}

// A runger makes one rung of objects: first wires between nodes, each with the elements on it, then of these, series and branches.
type runger struct {
	*grapher
	at     *element
	wires  []*wire
	sets   [][]*outlet    // that are joined at a node
	nodes  map[string]int // by set; see key
	held   map[*outlet]string
	led    map[*outlet]bool // values that have a wire of contacts
	done   map[*object]bool // targets that a box writes
	info   map[syntax.Element]*wire
	origin map[syntax.Element]*element
	on     map[*outlet]bool     // whose power is being worked out
	left   *outlet              // of the rail
	free   map[*syntax.Box]bool // instances whose power out is an output of their own
	known  map[*outlet]worked   // what comes out, as an expression
	needs  []string             // what the wire on its way reads of others
}

// rung writes a rung, in which each element comes from where it stands in the file.
func (r *runger) rung(rung *syntax.Rung) {
	text := syntax.PrintRung(rung)
	start := r.out.Len()
	r.write(r.at, "%s", text)
	after := strings.LastIndex(strings.TrimSuffix(text, "\n"), "\n") + 1 // the title
	syntax.Walk(rung.Net, func(node any) bool {
		e, ok := node.(syntax.Element)
		if !ok || r.origin[e] == nil {
			return true
		}
		words := syntax.PrintElements([]syntax.Element{e})
		if n := strings.Index(text[after:], words); n >= 0 {
			r.mark(start+after+n, r.origin[e].at.Start)
			after += n + len(words)
		}
		return false
	})
}

// The first nodes are the rail and where all ends.
const (
	rail = iota
	end
	others
)

// A wire leads from one node to another through elements in series.
type wire struct {
	from, to int
	series   []syntax.Element
	sides    []*wire // where the series is nothing but these branches
	slot     int     // its place among those that meet where it ends
	number   int     // in the order of working out
	out      *outlet // at its end; nil where nothing can begin
	needs    []string
	makes    string // the instance that it calls, or the variable that it writes for others
}

// net is the rung that objects make.
func (r *runger) net(s *sheet) *syntax.Series {
	list := slices.Clone(s.objects)
	slices.SortStableFunc(list, func(a, b *object) int { return cmp.Compare(a.rank(), b.rank()) })
	for _, o := range list {
		r.object(o)
	}
	r.join()
	if r.problems.HasErrors() {
		return &syntax.Series{}
	}
	return r.reduced()
}

// object adds the wire of an object, if power goes through it.
func (r *runger) object(o *object) {
	switch o.kind {
	case contactKind:
		r.contact(o)
	case coilKind:
		r.coil(o, o.outs[0])
	case sinkKind:
		r.boxesBefore(o)
		if r.done[o] {
			return
		}
		if slices.ContainsFunc(o.ins[0].from, r.isPower) || o.storage != "" || o.negated || o.edge != "" || o.ins[0].negated {
			r.coil(o, nil)
			return
		}
		r.sink(o)
	case boxKind:
		r.box(o)
	}
}

// lead adds a wire from an inlet through elements.
func (r *runger) lead(in *inlet, out *outlet, elements ...syntax.Element) *wire {
	from := rail
	if in != nil {
		var before []syntax.Element
		from, before = r.enter(in)
		elements = append(before, elements...)
	}
	w := &wire{from: from, series: elements, out: out, number: len(r.wires), needs: r.needs}
	r.needs = nil
	r.wires = append(r.wires, w)
	for _, e := range elements {
		r.info[e] = w
		if in != nil {
			r.origin[e] = in.of.at
		}
	}
	return w
}

// enter is the node of the power at an inlet, and what stands before whatever is there: the circle and the edge of a pin.
func (r *runger) enter(in *inlet) (int, []syntax.Element) {
	if len(in.from) == 0 {
		r.wrong(in.of.at, "Draw a line from the left rail or from what is before it.", "nothing is connected to the left of %s.", in.of.called())
		return rail, nil
	}
	var edge []syntax.Element
	if in.edge != "" {
		edge = []syntax.Element{&syntax.Contact{Kind: in.edge, Memory: memory(in.memory)}}
	}
	if in.negated {
		return rail, append(r.contacts(r.power(in), false), edge...)
	}
	return r.node(in.from), edge
}

func memory(name string) syntax.Expr {
	if name == "" {
		return nil
	}
	return named(name)
}

// node is the node where outlets are joined.
func (r *runger) node(from []*outlet) int {
	set := r.set(from, map[*outlet]bool{})
	if len(set) == 1 && set[0].of.kind == leftRail {
		return rail
	}
	for _, out := range set {
		if !r.isPower(out) && !r.led[out] {
			r.led[out] = true
			needs := r.needs
			r.needs = nil
			r.lead(nil, out, r.contacts(r.value(out), out.negated)...)
			r.needs = needs
		}
	}
	key := key(set)
	if n, ok := r.nodes[key]; ok {
		return n
	}
	r.sets = append(r.sets, set)
	r.nodes[key] = others + len(r.sets) - 1
	return r.nodes[key]
}

// set is outlets without doubles, with those in place of ENO that lead to its EN.
func (r *runger) set(from []*outlet, seen map[*outlet]bool) (list []*outlet) {
	for _, out := range from {
		if out.of.kind == leftRail { // all rails are one
			out = r.rail(out)
		}
		if seen[out] {
			continue
		}
		seen[out] = true
		if in := r.passed(out); in != nil {
			list = append(list, r.set(in.from, seen)...)
			continue
		}
		list = append(list, out)
	}
	return list
}

// rail is the outlet that stands for those of all left rails.
func (r *runger) rail(out *outlet) *outlet {
	if r.left == nil {
		r.left = out
	}
	return r.left
}

func key(set []*outlet) string {
	numbers := make([]int, len(set))
	for i, out := range set {
		numbers[i] = out.number
	}
	slices.Sort(numbers)
	return fmt.Sprint(numbers)
}

// passed is the EN of a condition, whose ENO has the same power; nil of other outlets.
func (r *runger) passed(out *outlet) *inlet {
	if o := out.of; o.kind == boxKind && r.isENO(out) && r.isGate(o) {
		return r.enable(o)
	}
	return nil
}

// isGate reports a comparison, or a logic function of BOOLs, whose result is the power out.
func (r *runger) isGate(o *object) bool {
	sign := syntax.SignOf(strings.ToUpper(o.heading))
	logic := strings.EqualFold(o.heading, "NOT") || sign != "" && syntax.Binds(sign) < 4
	switch {
	case r.isInstance(o) || r.own[strings.ToLower(o.heading)] != nil || r.main(o) == nil:
		return false
	case logic:
		kind := r.kindFrom(r.main(o), map[*object]bool{})
		return kind == "" || kind == "BOOL"
	}
	return syntax.Binds(sign) == 4
}

// isPower reports an outlet at the end of a wire.
func (r *runger) isPower(out *outlet) bool {
	switch o := out.of; o.kind {
	case leftRail, contactKind, coilKind:
		return true
	case boxKind:
		return out == r.powerOut(o) || r.passed(out) != nil
	}
	return false
}

// powerIn is the inlet that power drives, or nil where it is the rail. EN tells that it drives that.
func (r *runger) powerIn(o *object) (in *inlet, en bool) {
	if in := r.enable(o); in != nil {
		return in, true
	}
	if !r.isInstance(o) {
		return r.atRail(o), true
	}
	u := r.called(o.heading)
	if u == nil || power(u.inputs) == "" || power(u.outputs) == "" {
		return r.atRail(o), true
	}
	for _, in := range o.ins {
		if strings.EqualFold(in.name, power(u.inputs)) && len(in.from) > 0 && r.atRail(o) == nil {
			return in, false
		}
	}
	return r.atRail(o), true
}

// atRail is the EN of a box that the left rail itself drives, or nil.
func (r *runger) atRail(o *object) *inlet {
	for _, in := range o.ins {
		rails := func(out *outlet) bool { return out.of.kind == leftRail }
		if strings.EqualFold(in.name, "EN") && !in.negated && in.edge == "" && slices.ContainsFunc(in.from, rails) {
			return in
		}
	}
	return nil
}

// powerOut is the outlet that gives the power on, or nil.
func (r *runger) powerOut(o *object) *outlet {
	name := "ENO"
	in, en := r.powerIn(o)
	switch {
	case r.isGate(o):
		if in == nil { // a value like any other
			return nil
		}
		return r.main(o)
	case !en:
		name = power(r.called(o.heading).outputs)
	}
	for _, out := range o.outs {
		if strings.EqualFold(out.name, name) && !out.negated {
			return out
		}
	}
	return nil
}

func (r *runger) contact(o *object) {
	c := &syntax.Contact{Kind: o.edge, Memory: memory(o.memory)}
	if o.operand != "" || o.edge == "" { // an edge without a variable is that of the power
		if c.Operand = r.expression(o.operand, o.at); c.Operand == nil {
			return
		}
	}
	if o.edge != "" && o.negated {
		r.unread(o.at, "Draw two contacts.", "the contact %s is closed and senses an edge, which is not read.", o.operand)
	}
	if o.negated {
		c.Kind = syntax.ClosedContact
	}
	r.lead(o.ins[0], o.outs[0], c)
}

func (r *runger) coil(o *object, out *outlet) {
	to := r.place(o.operand, o.at)
	kind := cmp.Or(o.storage, syntax.CoilKind(o.edge))
	negated := o.negated
	if negated && kind == "" {
		kind, negated = syntax.NegatedCoil, false
	}
	if negated || o.storage != "" && o.edge != "" {
		r.unread(o.at, "Draw a coil with one mark.", "the coil %s has two marks, which is not read.", o.operand)
	}
	r.lead(o.ins[0], out, &syntax.Coil{Kind: kind, Operand: to})
}

// boxesBefore adds the boxes that a target takes its value from, which may write it themselves.
func (r *runger) boxesBefore(o *object) {
	for _, out := range o.ins[0].from {
		if out.of.kind == boxKind {
			r.box(out.of)
		}
	}
}

// sink is a value that goes to a variable: the box that makes it writes it, or it is moved.
func (r *runger) sink(o *object) {
	if len(o.ins[0].from) == 0 {
		r.wrong(o.at, "Draw a line to it, or remove it.", "nothing is connected to %s.", o.operand)
		return
	}
	if to := r.place(o.operand, o.at); to != nil {
		r.lead(nil, nil, &syntax.Box{Call: function("MOVE", r.argument(o.ins[0])), Result: to})
	}
}

// box adds the wire of a block: an instance, or a function with EN or whose result goes to a variable. Other functions are values.
func (r *runger) box(o *object) {
	if r.done[o] {
		return
	}
	in, en := r.powerIn(o)
	if r.isInstance(o) {
		r.done[o] = true
		r.instance(o, in, en)
		return
	}
	main := r.main(o)
	free := r.freeSinks(main)
	if in == nil && len(free) == 0 && !r.hasOutputs(o) && !r.unused(o) {
		return
	}
	r.done[o] = true
	box := &syntax.Box{Call: r.call(o)}
	list := []syntax.Element{box}
	for i, to := range free {
		r.done[to] = true
		place := r.place(to.operand, to.at)
		if i == 0 {
			box.Result = place
			continue
		}
		list = append(list, &syntax.Box{Call: function("MOVE", box.Result), Result: place})
	}
	out := r.powerOut(o)
	if main != nil && main != out && (in != nil || r.own[strings.ToLower(o.heading)] != nil) && len(main.to) > len(free) {
		list = r.kept(main, box, list)
	}
	r.lead(in, out, list...)
}

// kept lets a box write a variable of its own, for others that take its result.
func (r *runger) kept(main *outlet, box *syntax.Box, list []syntax.Element) []syntax.Element {
	name := named(r.hold(main))
	if box.Result == nil {
		box.Result = name
		return list
	}
	return append(list, &syntax.Box{Call: function("MOVE", box.Result), Result: name})
}

// freeSinks are the variables that a result goes to and nothing else writes.
func (r *runger) freeSinks(out *outlet) (list []*object) {
	if out == nil || out.negated {
		return nil
	}
	for _, in := range out.to {
		if o := in.of; o.kind == sinkKind && len(in.from) == 1 && !o.negated && !in.negated && o.storage == "" && o.edge == "" && in.edge == "" {
			list = append(list, o)
		}
	}
	return list
}

func (r *runger) instance(o *object, in *inlet, en bool) {
	call := &syntax.Call{Callee: r.callee(o)}
	box := &syntax.Box{Call: call}
	u := r.called(o.heading)
	box.EN = en && u != nil && power(u.inputs) != "" && power(u.outputs) != ""
	ins, _ := r.inputs(o)
	for _, one := range ins {
		if one == in || len(one.from) == 0 {
			continue
		}
		call.Arguments = append(call.Arguments, given(one.name, r.argument(one)))
	}
	powered := r.powerOut(o)
	for _, out := range o.outs {
		free := r.freeSinks(out)
		if out == powered || len(free) == 0 || r.isENO(out) {
			continue
		}
		r.done[free[0]] = true
		call.Arguments = append(call.Arguments, gives(out.name, r.place(free[0].operand, free[0].at)))
	}
	r.free[box] = !en
	w := r.lead(in, powered, box)
	w.makes = strings.ToLower(syntax.PrintExpression(call.Callee))
}

// call is the call of a function with all that goes in, and the outputs beside its result.
func (r *runger) call(o *object) *syntax.Call {
	call := &syntax.Call{Callee: named(o.heading)}
	ins, names := r.inputs(o)
	byName := r.own[strings.ToLower(o.heading)] != nil && !allConnected(ins, names)
	for _, in := range ins {
		x := r.argument(in)
		switch {
		case byName && x != nil:
			call.Arguments = append(call.Arguments, given(in.name, x))
		case !byName:
			call.Arguments = append(call.Arguments, syntax.Argument{Value: x})
		}
	}
	for _, out := range o.outs {
		if !r.isOutput(out) || r.isENO(out) || len(out.to) == 0 {
			continue
		}
		if free := r.freeSinks(out); len(free) == 1 && len(out.to) == 1 {
			r.done[free[0]] = true
			call.Arguments = append(call.Arguments, gives(out.name, r.place(free[0].operand, free[0].at)))
			continue
		}
		call.Arguments = append(call.Arguments, gives(out.name, named(r.hold(out))))
	}
	return call
}

// hold is the variable of the unit in which a result waits.
func (r *runger) hold(out *outlet) string {
	if r.held[out] == "" {
		r.held[out] = r.unit.declare(strings.ToLower(out.of.heading)+"_out", r.kindOf(out))
	}
	return r.held[out]
}
