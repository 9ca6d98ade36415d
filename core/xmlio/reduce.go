package xmlio

import (
	"cmp"
	"iter"
	"slices"

	"celandine/core/source"
	"celandine/core/syntax"
)

// join gives each wire the node where it ends. An outlet that leads to several nodes has one of its own, with plain wires to those; so has
// a set of outlets that others hold as a whole.
func (r *runger) join() {
	r.dropRead()
	ends := map[*outlet]*wire{}
	for _, w := range r.wires {
		w.to = end
		if w.out != nil {
			ends[w.out] = w
		}
	}
	sets := slices.Clone(r.sets)
	for i := range sets {
		if !r.begins(others + i) {
			sets[i] = nil
		}
	}
	within := wholes(sets)
	count := map[*outlet]int{}
	for i := range sets {
		for _, out := range within[i].rest {
			count[out]++
		}
	}
	for i, set := range sets {
		n := others + i
		for _, inner := range within[i].sets {
			slot := slices.Index(set, sets[inner][0])
			r.wires = append(r.wires, &wire{from: others + inner, to: n, slot: slot, number: unnumbered})
		}
		for _, out := range within[i].rest {
			w, slot := ends[out], slices.Index(set, out)
			switch {
			case out.of.kind == leftRail:
				r.wires = append(r.wires, &wire{from: rail, to: n, slot: slot, number: unnumbered})
			case w == nil:
				r.wrong(out.of.at, "Draw a contact for it.", "%s gives no power.", out.of.called())
				return
			case count[out] == 1 || len(set) == 1:
				w.to, w.slot = n, slot
			default:
				r.wires = append(r.wires, &wire{from: r.alone(w, out), to: n, slot: slot, number: unnumbered})
			}
		}
	}
}

// dropRead takes away contacts whose power only pins read, which have it as an expression.
func (r *runger) dropRead() {
	for {
		live := map[*outlet]bool{}
		for i, set := range r.sets {
			for _, out := range set {
				live[out] = live[out] || r.begins(others+i)
			}
		}
		before := len(r.wires)
		r.wires = slices.DeleteFunc(r.wires, func(w *wire) bool {
			return w.out != nil && !live[w.out] && onlyPins(w.out) && conditionOf(w.series) != nil
		})
		if len(r.wires) == before {
			return
		}
	}
}

// onlyPins reports an outlet from which lines go to boxes and nowhere else.
func onlyPins(out *outlet) bool {
	return len(out.to) > 0 && !slices.ContainsFunc(out.to, func(in *inlet) bool { return in.of.kind != boxKind })
}

// begins reports a node from which a wire leads.
func (r *runger) begins(node int) bool {
	return slices.ContainsFunc(r.wires, func(w *wire) bool { return w.from == node })
}

// unnumbered is the number of a plain wire, which does nothing and so has no turn.
const unnumbered = -1

// parts are what a set is made of: others that it holds as a whole, and the rest.
type parts struct {
	sets []int
	rest []*outlet
}

// mostCompared is how many sets are looked at for others in them.
const mostCompared = 500

// wholes finds for each set the others that it holds as a whole, the greatest first.
func wholes(sets [][]*outlet) []parts {
	bySize := make([]int, len(sets))
	for i := range sets {
		bySize[i] = i
	}
	slices.SortStableFunc(bySize, func(a, b int) int { return cmp.Compare(len(sets[b]), len(sets[a])) })
	list := make([]parts, len(sets))
	for i, set := range sets {
		rest := slices.Clone(set)
		for _, inner := range bySize[:min(len(bySize), mostCompared)] {
			if small := sets[inner]; len(small) > 1 && len(small) < len(set) && holdsAll(rest, small) {
				list[i].sets = append(list[i].sets, inner)
				rest = slices.DeleteFunc(rest, func(out *outlet) bool { return slices.Contains(small, out) })
			}
		}
		list[i].rest = rest
	}
	return list
}

func holdsAll(set, small []*outlet) bool {
	for _, out := range small {
		if !slices.Contains(set, out) {
			return false
		}
	}
	return true
}

// alone is the node of one outlet.
func (r *runger) alone(w *wire, out *outlet) int {
	set := []*outlet{out}
	if n, ok := r.nodes[key(set)]; ok {
		return n
	}
	r.sets = append(r.sets, set)
	n := others + len(r.sets) - 1
	r.nodes[key(set)] = n
	w.to = n
	return n
}

// mostTurns is how deep branches may stand within each other.
const mostTurns = 2 * syntax.MaxDepth

// reduced makes series and branches of the wires until one is left.
func (r *runger) reduced() *syntax.Series {
	if r.inCircle() {
		return &syntax.Series{}
	}
	drawn := slices.Clone(r.wires)
	for i, w := range drawn {
		one := *w
		drawn[i] = &one
	}
	for turn := 0; len(r.wires) > 1 || len(r.wires) == 1 && r.wires[0].to != end; turn++ {
		if turn > mostTurns {
			r.report(source.TooDeep, r.at, "Draw it as several rungs.", "%s: branches stand more than %d deep within each other here.", r.unit.name,
				syntax.MaxDepth)
			return &syntax.Series{}
		}
		if !r.inSeries() && !r.sideBySide() && !r.tails() && !r.bridge() {
			return r.flat(drawn)
		}
	}
	if len(r.wires) == 0 {
		return &syntax.Series{}
	}
	net := &syntax.Series{Elements: r.wires[0].elements()}
	if !r.inOrder(net) {
		return r.flat(drawn)
	}
	return net
}

// inCircle tells of power that goes back to where it comes from.
func (r *runger) inCircle() bool {
	into := r.into()
	ready := []int{rail}
	passed := 0
	out := map[int][]*wire{}
	for _, w := range r.wires {
		out[w.from] = append(out[w.from], w)
	}
	for len(ready) > 0 {
		n := ready[0]
		ready = ready[1:]
		for _, w := range out[n] {
			passed++
			if into[w.to]--; into[w.to] == 0 {
				ready = append(ready, w.to)
			}
		}
	}
	if passed == len(r.wires) {
		return false
	}
	r.wrong(r.at, throughVariable, "the lines of this rung go round in a circle.")
	return true
}

func (r *runger) into() map[int]int {
	into := map[int]int{}
	for _, w := range r.wires {
		into[w.to]++
	}
	return into
}

// elements are what stands on a wire.
func (w *wire) elements() []syntax.Element {
	if w.sides == nil {
		return w.series
	}
	p := &syntax.Parallel{}
	for _, s := range w.sides {
		p.Branches = append(p.Branches, &syntax.Series{Elements: s.elements()})
	}
	return []syntax.Element{p}
}

// inSeries joins wires where one ends and one begins. It reports whether there were any.
func (r *runger) inSeries() (done bool) {
	ending, beginning := map[int][]*wire{}, map[int][]*wire{}
	for _, w := range r.wires {
		ending[w.to] = append(ending[w.to], w)
		beginning[w.from] = append(beginning[w.from], w)
	}
	gone := map[*wire]bool{}
	for _, second := range r.wires {
		n := second.from
		if n < others || len(ending[n]) != 1 || len(beginning[n]) != 1 {
			continue
		}
		first := ending[n][0]
		first.series, first.sides = append(slices.Clip(first.elements()), second.elements()...), nil
		first.to, first.slot, first.number = second.to, second.slot, max(first.number, second.number)
		list := ending[second.to]
		list[slices.Index(list, second)] = first
		gone[second] = true
		done = true
	}
	r.wires = slices.DeleteFunc(r.wires, func(w *wire) bool { return gone[w] })
	return done
}

// sideBySide joins wires between the same nodes as branches. It reports whether there were any.
func (r *runger) sideBySide() (done bool) {
	type span struct{ from, to int }
	first := map[span]*wire{}
	gone := map[*wire]bool{}
	for _, w := range r.wires {
		at := span{w.from, w.to}
		one := first[at]
		if one == nil {
			first[at] = w
			continue
		}
		both := &wire{from: w.from, to: w.to, number: max(one.number, w.number)}
		both.sides = append(slices.Clone(one.branches()), w.branches()...)
		slices.SortStableFunc(both.sides, func(a, b *wire) int {
			if w.to == end {
				return cmp.Compare(a.number, b.number)
			}
			return cmp.Compare(a.slot, b.slot)
		})
		both.slot = both.sides[0].slot
		*one = *both
		gone[w], done = true, true
	}
	r.wires = slices.DeleteFunc(r.wires, func(w *wire) bool { return gone[w] })
	return done
}

func (w *wire) branches() []*wire {
	if w.sides != nil {
		return w.sides
	}
	one := *w
	return []*wire{&one}
}

// gives reports elements behind which there may be power though none reaches them: instances with outputs of their own, and
// the falling edge of the power itself.
func (r *runger) gives(list []syntax.Element) bool {
	return slices.ContainsFunc(list, func(e syntax.Element) bool {
		switch e := e.(type) {
		case *syntax.Box:
			return r.free[e]
		case *syntax.Contact:
			return e.Kind == syntax.FallingContact && e.Operand == nil
		case *syntax.Parallel:
			return slices.ContainsFunc(e.Branches, func(s *syntax.Series) bool { return r.gives(s.Elements) })
		}
		return false
	})
}

// tails draws wires that lead nowhere, where others go on, beside the wire that goes on: power passes them by.
func (r *runger) tails() bool {
	into, out := r.into(), map[int][]*wire{}
	for _, w := range r.wires {
		out[w.from] = append(out[w.from], w)
	}
	gone := map[*wire]bool{}
	for _, before := range r.wires {
		n := before.to
		tails := slices.DeleteFunc(slices.Clone(out[n]), func(w *wire) bool { return w.to != end || r.gives(w.elements()) })
		if n < others || into[n] != 1 || len(tails) == 0 || len(tails) == len(out[n]) {
			continue
		}
		beside := &wire{sides: []*wire{{}}}
		for _, w := range tails {
			beside.sides = append(beside.sides, w.branches()...)
			gone[w] = true
		}
		before.series, before.sides = append(slices.Clip(before.elements()), beside.elements()...), nil
	}
	r.wires = slices.DeleteFunc(r.wires, func(w *wire) bool { return gone[w] })
	return len(gone) > 0
}

// mostBridged is how long the expression of a bridge may be.
const mostBridged = 400

// bridge puts an expression in place of what leads to a node on paths that are neither in series nor side by side.
func (r *runger) bridge() bool {
	if len(r.wires) > mostBridged {
		return false
	}
	depth := r.depths()
	node, least := 0, 0
	for n, into := range r.into() {
		if n >= others && into > 1 && (node == 0 || depth[n] < least || depth[n] == least && n < node) {
			node, least = n, depth[n]
		}
	}
	if node == 0 {
		return false
	}
	r.tap(node)
	x := r.powerAt(node, map[int]syntax.Expr{})
	if x == nil || len(syntax.PrintExpression(x)) > mostBridged {
		return false
	}
	r.problems.Advise(source.WrongExchange, r.at.at, "It does the same; a contact of a bridge stands in several branches now.",
		"%s: contacts bridge two paths here, which no rung can say. They are read as the expression %s.", r.unit.name, syntax.PrintExpression(x))
	r.wires = slices.DeleteFunc(r.wires, func(w *wire) bool { return w.to == node })
	r.wires = append(r.wires, &wire{from: rail, to: node, series: r.contacts(x, false), number: r.numberAt(node)})
	r.prune()
	return true
}

// tap ends each wire on the way to a node that does more than read, in a variable, and lets what comes behind it begin with that.
func (r *runger) tap(node int) {
	into := map[int][]*wire{}
	for _, w := range r.wires {
		into[w.to] = append(into[w.to], w)
	}
	seen := map[int]bool{}
	var before func(n int)
	before = func(n int) {
		if seen[n] {
			return
		}
		seen[n] = true
		for _, w := range into[n] {
			before(w.from)
			if conditionOf(w.elements()) != nil {
				continue
			}
			name := r.unit.declare("power", "BOOL")
			coil, contact := &syntax.Coil{Operand: named(name)}, &syntax.Contact{Operand: named(name)}
			behind := &wire{from: rail, to: w.to, slot: w.slot, number: w.number, series: []syntax.Element{contact}}
			w.series, w.sides, w.to = append(slices.Clip(w.elements()), coil), nil, end
			r.info[coil], r.info[contact] = &wire{makes: name}, &wire{needs: []string{name}}
			r.wires = append(r.wires, behind)
		}
	}
	before(node)
}

func (r *runger) numberAt(node int) int {
	least := len(r.wires)
	for _, w := range r.wires {
		if w.from == node {
			least = min(least, w.number)
		}
	}
	return least
}

// depths is for each node how many wires lead to it at most.
func (r *runger) depths() map[int]int {
	depth := map[int]int{}
	for changed := true; changed; {
		changed = false
		for _, w := range r.wires {
			if d := depth[w.from] + 1; d > depth[w.to] {
				depth[w.to], changed = d, true
			}
		}
	}
	return depth
}

// powerAt is the power at a node as an expression, where only contacts lead there; else nil.
func (r *runger) powerAt(node int, known map[int]syntax.Expr) syntax.Expr {
	if node == rail {
		return literal("TRUE")
	}
	if x, ok := known[node]; ok {
		return x
	}
	known[node] = nil
	var into []*wire
	for _, w := range r.wires {
		if w.to == node {
			into = append(into, w)
		}
	}
	slices.SortStableFunc(into, func(a, b *wire) int { return cmp.Compare(a.slot, b.slot) })
	var sum syntax.Expr
	for _, w := range into {
		before, passes := r.powerAt(w.from, known), conditionOf(w.elements())
		if before == nil || passes == nil || len(syntax.PrintExpression(before)) > mostBridged {
			return nil
		}
		x := before
		if !isTrue(passes) {
			x = binary("AND", before, passes)
		}
		sum = binary("OR", sum, x)
	}
	known[node] = sum
	return sum
}

// conditionOf is what elements in series let pass, where they only read; else nil.
func conditionOf(list []syntax.Element) syntax.Expr {
	all := literal("TRUE")
	for _, e := range list {
		x := passes(e)
		if x == nil {
			return nil
		}
		if !isTrue(x) {
			all = binary("AND", all, x)
		}
	}
	return all
}

func passes(e syntax.Element) syntax.Expr {
	switch e := e.(type) {
	case *syntax.Contact:
		switch {
		case e.Kind == syntax.OpenContact && e.Operand != nil:
			return e.Operand
		case e.Kind == syntax.ClosedContact && e.Operand != nil:
			return not(e.Operand)
		}
	case *syntax.Parallel:
		var sum syntax.Expr
		for _, branch := range e.Branches {
			x := conditionOf(branch.Elements)
			if x == nil {
				return nil
			}
			if isTrue(x) {
				return x
			}
			sum = binary("OR", sum, x)
		}
		return sum
	}
	return nil
}

// prune takes away contacts that lead nowhere any more.
func (r *runger) prune() {
	for {
		begins := map[int]bool{}
		for _, w := range r.wires {
			begins[w.from] = true
		}
		before := len(r.wires)
		r.wires = slices.DeleteFunc(r.wires, func(w *wire) bool { return w.to >= others && !begins[w.to] })
		if len(r.wires) == before {
			return
		}
	}
}

// inOrder reports whether each element of a rung stands behind those whose values its lines bring.
func (r *runger) inOrder(net *syntax.Series) bool {
	made := map[string]bool{}
	later := map[string]bool{}
	for _, w := range r.info {
		if w.makes != "" {
			later[w.makes] = true
		}
	}
	ok := true
	syntax.Walk(net, func(node any) bool {
		e, is := node.(syntax.Element)
		if !is {
			return true
		}
		w := r.info[e]
		if w == nil {
			return true
		}
		for _, need := range w.needs {
			ok = ok && (made[need] || !later[need] || need == w.makes)
		}
		if w.makes != "" {
			made[w.makes] = true
		}
		return true
	})
	return ok
}

// flat is a rung of branches from the rail, one for each wire, with a variable for the power at its end.
func (r *runger) flat(drawn []*wire) *syntax.Series {
	r.problems.Advise(source.WrongExchange, r.at.at, "It does the same.",
		"%s: the lines of this rung are neither in series nor side by side. It is read as branches with a variable for the power "+
			"between them.", r.unit.name)
	ending := map[int][]*wire{}
	for _, w := range drawn {
		ending[w.to] = append(ending[w.to], w)
	}
	power := map[*wire]string{}
	p := &syntax.Parallel{}
	for _, w := range inTurn(drawn, ending) {
		if w.plain() {
			continue
		}
		line := append(powered(w.from, ending, power), w.elements()...)
		if w.to != end {
			power[w] = r.unit.declare("power", "BOOL")
			line = append(line, &syntax.Coil{Operand: named(power[w])})
		}
		p.Branches = append(p.Branches, &syntax.Series{Elements: line})
	}
	return &syntax.Series{Elements: []syntax.Element{p}}
}

// plain reports a wire with nothing on it.
func (w *wire) plain() bool { return len(w.series) == 0 && w.sides == nil }

// powered are the contacts that let power on where there is some at a node.
func powered(node int, ending map[int][]*wire, power map[*wire]string) []syntax.Element {
	p := &syntax.Parallel{}
	for name := range sources(node, ending, power) {
		p.Branches = append(p.Branches, &syntax.Series{Elements: []syntax.Element{&syntax.Contact{Operand: named(name)}}})
	}
	switch {
	case node == rail:
		return nil
	case len(p.Branches) == 1:
		return p.Branches[0].Elements
	}
	return []syntax.Element{p}
}

// sources are the variables for the power at a node.
func sources(node int, ending map[int][]*wire, power map[*wire]string) iter.Seq[string] {
	return func(yield func(string) bool) {
		for _, w := range ending[node] {
			if !w.plain() {
				if !yield(power[w]) {
					return
				}
				continue
			}
			for name := range sources(w.from, ending, power) {
				if !yield(name) {
					return
				}
			}
		}
	}
}

// inTurn orders wires so that each comes behind those whose power and values it needs, as far as that goes.
func inTurn(drawn []*wire, ending map[int][]*wire) (list []*wire) {
	done, open := map[*wire]bool{}, map[string]bool{}
	for _, w := range drawn {
		if w.makes != "" {
			open[w.makes] = true
		}
	}
	waiting := slices.Clone(drawn)
	ready := func(w *wire) bool {
		return !slices.ContainsFunc(ending[w.from], func(before *wire) bool { return !done[before] })
	}
	free := func(w *wire) bool {
		return ready(w) && !slices.ContainsFunc(w.needs, func(need string) bool { return open[need] && need != w.makes })
	}
	for len(waiting) > 0 {
		next := slices.IndexFunc(waiting, free)
		if next < 0 { // what goes back is of the scan before
			next = slices.IndexFunc(waiting, ready)
		}
		w := waiting[next]
		waiting = slices.Delete(waiting, next, next+1)
		done[w], open[w.makes] = true, false
		list = append(list, w)
	}
	return list
}
