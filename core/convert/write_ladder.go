package convert

import (
	"maps"
	"slices"
	"strings"

	"celandine/core/syntax"
)

// rung writes a network as one rung: a line of elements for each event, drawn together where they begin alike.
func (b *body) rung(n *network) string {
	w := &ladderWriter{body: b, uses: map[string]int{}, outs: map[*syntax.Box]string{}}
	n.each(w.hold, w.event)
	for _, l := range w.lines {
		syntax.Walk(&syntax.Series{Elements: l.elements}, func(node any) bool {
			if id, ok := node.(*syntax.Identifier); ok {
				w.uses[id.Text]++
			}
			return true
		})
	}
	branches := w.joined(w.lines)
	var dropped []string
	for _, name := range w.held {
		if w.uses[name] == 0 {
			dropped = append(dropped, name)
		}
	}
	b.untemporary(dropped)
	return syntax.PrintRung(&syntax.Rung{Title: n.title, Net: together(branches)})
}

// undeclare takes back variables that nothing uses after all.
func (b *body) untemporary(names []string) {
	b.held = slices.DeleteFunc(b.held, func(d string) bool {
		name, _, _ := strings.Cut(d, " : ")
		return slices.Contains(names, name)
	})
	for _, name := range names {
		delete(b.names, strings.ToLower(name))
	}
}

// A line is elements in series from the rail. Held is the variable that its last coil writes for the lines below it alone.
type line struct {
	elements []syntax.Element
	held     string
	writes   touched
}

type ladderWriter struct {
	*body
	lines []line
	held  []string
	uses  map[string]int
	outs  map[*syntax.Box]string          // the power out of a block: settle.Q
	edges map[*syntax.Contact]syntax.Expr // sensed in a line of their own, each under its name
}

func (w *ladderWriter) add(writes touched, elements ...syntax.Element) {
	w.lines = append(w.lines, line{elements: elements, writes: writes})
}

func coil(kind syntax.CoilKind, target syntax.Expr) *syntax.Coil {
	return &syntax.Coil{Kind: kind, Operand: plain(target)}
}

// keepBool writes a condition to a variable of its own, for the lines below.
func (w *ladderWriter) keepBool(wanted string, elements []syntax.Element) string {
	made := w.temporary(wanted, "BOOL")
	w.lines = append(w.lines, line{elements: append(elements, coil("", name(made))), held: made})
	w.held = append(w.held, made)
	return made
}

func (w *ladderWriter) hold(v *value) {
	w.edges = nil
	if v.kind == "BOOL" {
		v.name = w.keepBool(v.name, w.contacts(v.expr, false, true))
		return
	}
	from := w.words(v.expr)
	v.name = w.temporary(v.name, v.kind)
	w.add(nil, w.box(from, name(v.name)))
}

func (w *ladderWriter) event(e *event) {
	w.edges = nil
	switch {
	case e.call != nil:
		w.block(e)
	case len(e.targets) == 0:
		w.add(w.writes(e), &syntax.Box{Call: w.words(e.value).(*syntax.Call)})
	case e.enable != nil:
		w.enabled(e)
	case e.bool:
		w.coils(e)
	default:
		w.numbers(e, nil)
	}
}

func (w *ladderWriter) coils(e *event) {
	from, inverted := turned(e)
	elements := w.contacts(from, false, true)
	var coils []syntax.Element
	for _, t := range e.targets {
		kind := t.Kind
		if inverted {
			kind = syntax.NegatedCoil
		}
		coils = append(coils, coil(kind, t.Operand))
	}
	w.add(w.writes(e), append(elements, side(coils)...)...)
}

// side is elements drawn below each other.
func side(list []syntax.Element) []syntax.Element {
	if len(list) < 2 {
		return list
	}
	p := &syntax.Parallel{}
	for _, x := range list {
		p.Branches = append(p.Branches, &syntax.Series{Elements: []syntax.Element{x}})
	}
	return []syntax.Element{p}
}

// numbers writes a value that is no condition by a box, and from the first target on to the others.
func (w *ladderWriter) numbers(e *event, power []syntax.Element) {
	first, others := plain(e.targets[0].Operand), e.targets[1:]
	if len(others) > 0 && !simple(first) {
		first, others = name(w.temporary("held", w.declaredAs(first))), e.targets
	}
	elements := append(power, w.box(w.words(e.value), first))
	for _, t := range others {
		elements = append(elements, w.box(first, plain(t.Operand)))
	}
	w.add(w.writes(e), elements...)
}

// enabled is a function with EN: the power that reaches its box. ENO is a coil in front of it, where power is.
func (w *ladderWriter) enabled(e *event) {
	power := w.contacts(e.enable, false, true)
	if e.eno != nil {
		power = append(power, coil("", e.eno))
	}
	if !e.bool || len(e.targets) == 1 && e.targets[0].Kind == syntax.PlainCoil {
		w.numbers(e, power)
		return
	}
	held := name(w.temporary("held", "BOOL"))
	power = append(power, &syntax.Box{Call: call("MOVE", w.words(e.value)), Result: held})
	var branches [][]syntax.Element
	for _, t := range e.targets {
		switch t.Kind {
		case syntax.PlainCoil:
			branches = append(branches, []syntax.Element{w.box(held, plain(t.Operand))})
		case syntax.NegatedCoil:
			branches = append(branches, []syntax.Element{w.box(plain(not(held)), plain(t.Operand))})
		default:
			branches = append(branches, append(contact(held, false), coil(t.Kind, t.Operand)))
		}
	}
	w.add(w.writes(e), append(power, together(branches).Elements...)...)
}

// box is a function with a target: MOVE where the value needs no other.
func (b *body) box(from, to syntax.Expr) *syntax.Box {
	if x, ok := from.(*syntax.Binary); ok && b.hidden(syntax.BoxOf(x.Op)) {
		return &syntax.Box{Call: call("MOVE", from), Result: to}
	}
	switch x := from.(type) {
	case *syntax.Call:
		return &syntax.Box{Call: x, Result: to}
	case *syntax.Binary:
		return &syntax.Box{Call: call(syntax.BoxOf(x.Op), inRow(x, x.Op)...), Result: to}
	case *syntax.Unary:
		if x.Op == "NOT" {
			return &syntax.Box{Call: call("NOT", unwrapped(x.X)), Result: to}
		}
	}
	return &syntax.Box{Call: call("MOVE", from), Result: to}
}

// inRow are the inputs of one box for operators of a kind in a row.
func inRow(x *syntax.Binary, op string) []syntax.Expr {
	if left, ok := unwrapped(x.X).(*syntax.Binary); ok && left.Op == op && inARow(op) {
		return append(inRow(left, op), unwrapped(x.Y))
	}
	return []syntax.Expr{unwrapped(x.X), unwrapped(x.Y)}
}

func unwrapped(e syntax.Expr) syntax.Expr {
	if p, ok := e.(*syntax.Paren); ok {
		return unwrapped(p.X)
	}
	return e
}

func (w *ladderWriter) block(e *event) {
	in, out := e.block.PowerIn(), e.block.PowerOut()
	box := &syntax.Box{Call: &syntax.Call{Callee: plain(e.call.Callee), Arguments: e.call.Arguments}}
	var power []syntax.Element
	drives := syntax.Expr(nil)
	if in != nil && out != nil && e.enable == nil {
		drives, box.Call.Arguments = without(e.call.Arguments, in.Name, false)
	}
	switch {
	case drives != nil:
		power = w.contacts(drives, false, true)
	case e.enable != nil:
		power = w.contacts(e.enable, false, true)
	}
	box.EN = drives == nil && in != nil && out != nil
	if drives != nil {
		w.outs[box] = syntax.PrintExpression(member(box.Call.Callee, out.Name))
	}
	box.Call.Arguments = arguments(box.Call.Arguments, w.words)
	if e.eno != nil {
		box.Call.Arguments = append(box.Call.Arguments, outputOf("ENO", plain(e.eno)))
	}
	w.add(w.writes(e), append(power, box)...)
}

// words is an expression in structured text, as it stands beside a box; edges in it are sensed in lines of their own.
func (w *ladderWriter) words(e syntax.Expr) syntax.Expr { return plain(w.named(e)) }

func (w *ladderWriter) named(e syntax.Expr) syntax.Expr {
	switch x := e.(type) {
	case *syntax.Contact:
		return w.edge(x)
	case *value:
		if !x.held {
			return w.named(x.expr)
		}
		return e
	}
	return over(e, w.named)
}

// edge is the variable that a line of its own writes where the edge is.
func (w *ladderWriter) edge(e *syntax.Contact) syntax.Expr {
	if made := w.edges[e]; made != nil {
		return made
	}
	if w.edges == nil {
		w.edges = map[*syntax.Contact]syntax.Expr{}
	}
	elements := w.edgeContacts(e, true)
	w.edges[e] = name(w.keepBool("edge", elements))
	return w.edges[e]
}

// edgeContacts are the contacts that pass power at an edge: one, or, at the rail, contacts and behind them the edge of their power.
func (w *ladderWriter) edgeContacts(e *syntax.Contact, first bool) []syntax.Element {
	if holdable(e.Operand) {
		return []syntax.Element{&syntax.Contact{Kind: e.Kind, Operand: plain(e.Operand), Memory: e.Memory}}
	}
	return append(w.contacts(e.Operand, false, first), &syntax.Contact{Kind: e.Kind, Memory: e.Memory})
}

// holdable reports what the contact of an edge may hold.
func holdable(e syntax.Expr) bool {
	if len(sensed(e)) > 0 {
		return false
	}
	switch x := plain(e).(type) {
	case *syntax.Identifier, *syntax.Member, *syntax.Index, *syntax.Address:
		return true
	case *syntax.Binary:
		return syntax.Binds(x.Op) == 4 && holdable(x.X)
	}
	return false
}

// contacts is a condition as contacts in series and side by side. First tells that they begin at the rail.
func (w *ladderWriter) contacts(e syntax.Expr, invert, first bool) []syntax.Element {
	switch x := inner(e).(type) {
	case *value:
		return contact(name(x.name), invert)
	case *syntax.Inverted:
		return w.contacts(x.X, !invert, first)
	case *syntax.Unary:
		if x.Op == "NOT" {
			return w.contacts(x.X, !invert, first)
		}
	case *syntax.Contact:
		if w.edges[x] != nil || invert || !first && !holdable(x.Operand) {
			return contact(w.edge(x), invert)
		}
		return w.edgeContacts(x, first)
	case *syntax.Call:
		switch functionName(x) {
		case "NOT":
			return w.contacts(x.Arguments[0].Value, !invert, first)
		case "MOVE":
			return w.contacts(x.Arguments[0].Value, invert, first)
		}
		if sign, _ := operator(x); sign == "" {
			return contact(plain(binary("=", w.named(x), truth("TRUE"))), invert)
		}
	}
	if sign, operands := operator(e); syntax.Binds(sign) < 4 && sign != "" {
		return w.logic(sign, operands, invert, first)
	}
	words := w.words(e)
	if isTrue(words) != invert && (isTrue(words) || isLiteral(words, "FALSE")) {
		return nil
	}
	return contact(words, invert)
}

// contact holds a value that is one variable or one comparison.
func contact(e syntax.Expr, invert bool) []syntax.Element {
	kind := syntax.OpenContact
	if invert {
		kind = syntax.ClosedContact
	}
	return []syntax.Element{&syntax.Contact{Kind: kind, Operand: e}}
}

func (w *ladderWriter) logic(sign string, operands []syntax.Expr, invert, first bool) []syntax.Element {
	switch {
	case sign == "XOR":
		return w.exclusive(operands, invert)
	case (sign == "AND") != invert:
		var series []syntax.Element
		for _, x := range operands {
			series = append(series, w.contacts(x, invert, first && len(series) == 0)...)
		}
		return series
	}
	p := &syntax.Parallel{}
	for i, x := range operands {
		branch := w.contacts(x, invert, first)
		if nested, ok := onlyParallel(branch); ok && i == 0 {
			p.Branches = append(p.Branches, nested.Branches...)
			continue
		}
		p.Branches = append(p.Branches, &syntax.Series{Elements: branch})
	}
	return []syntax.Element{p}
}

func onlyParallel(list []syntax.Element) (*syntax.Parallel, bool) {
	if len(list) != 1 {
		return nil, false
	}
	p, ok := list[0].(*syntax.Parallel)
	return p, ok
}

// exclusive is two branches of which one passes power: the first with the other inverted, and the other way round.
func (w *ladderWriter) exclusive(operands []syntax.Expr, invert bool) []syntax.Element {
	if len(operands) > 2 {
		last := len(operands) - 1
		operands = []syntax.Expr{call("XOR", operands[:last]...), operands[last]}
	}
	x, y := w.words(operands[0]), w.words(operands[1])
	if !w.isVariable(x) || !w.isVariable(y) {
		return contact(plain(binary("=", binary("XOR", x, y), truth("TRUE"))), invert)
	}
	return []syntax.Element{&syntax.Parallel{Branches: []*syntax.Series{
		{Elements: append(contact(x, false), contact(y, !invert)...)},
		{Elements: append(contact(x, true), contact(y, invert)...)},
	}}}
}

// isVariable reports a variable, or a part of one, that may be read twice.
func (w *ladderWriter) isVariable(e syntax.Expr) bool {
	switch e.(type) {
	case *syntax.Identifier, *syntax.Member, *syntax.Index, *syntax.Address:
		return !w.faulty(e)
	}
	return false
}

// together is lines below each other, or the one that there is.
func together(branches [][]syntax.Element) *syntax.Series {
	if len(branches) == 1 {
		return &syntax.Series{Elements: branches[0]}
	}
	p := &syntax.Parallel{}
	for _, one := range branches {
		p.Branches = append(p.Branches, &syntax.Series{Elements: one})
	}
	return &syntax.Series{Elements: []syntax.Element{p}}
}

// joined draws lines together that begin with the power that one above them has: behind a block, or behind what is held for them.
func (w *ladderWriter) joined(lines []line) [][]syntax.Element {
	var below []line
	for _, one := range slices.Backward(lines) {
		if n := w.behind(one, below); n > 0 {
			head := one.elements
			if one.held != "" {
				head = head[:len(head)-1] // the power goes on without the variable
				w.uses[one.held] = 0
			}
			one = line{append(slices.Clone(head), w.branching(below[:n])...), "", union(one, below[:n])}
			below = below[n:]
		}
		below = append([]line{one}, below...)
	}
	return w.grouped(below)
}

func union(one line, more []line) touched {
	set := maps.Clone(one.writes)
	if set == nil {
		set = touched{}
	}
	for _, l := range more {
		maps.Copy(set, l.writes)
	}
	return set
}

// grouped draws lines together that begin with the same contact.
func (w *ladderWriter) grouped(lines []line) (branches [][]syntax.Element) {
	for len(lines) > 0 {
		n := alike(w.converter, lines)
		if n > 1 {
			branches = append(branches, append(slices.Clone(lines[0].elements[:1]), w.branching(lines[:n])...))
		} else {
			branches = append(branches, lines[0].elements)
		}
		lines = lines[n:]
	}
	return branches
}

// branching is lines without their first contact, from where they part.
func (w *ladderWriter) branching(lines []line) []syntax.Element {
	rest := make([]line, len(lines))
	for i, l := range lines {
		rest[i] = line{passed(l.elements), l.held, l.writes}
	}
	return together(w.grouped(rest)).Elements
}

// behind counts the lines right below one that begin with the power out of it.
func (w *ladderWriter) behind(one line, below []line) (n int) {
	if len(one.elements) == 0 {
		return 0
	}
	power := one.held
	if box, ok := one.elements[len(one.elements)-1].(*syntax.Box); ok && power == "" {
		power = w.outs[box]
	}
	if power == "" {
		return 0
	}
	for n < len(below) && beginsWith(below[n].elements) == power {
		n++
	}
	if one.held != "" && w.uses[power] != n+1 { // its own coil is one
		return 0
	}
	return n
}

// beginsWith is what the contact holds that lets the power at the beginning of elements on, or senses its edge; "" where they begin
// otherwise.
func beginsWith(list []syntax.Element) string {
	if len(list) == 0 {
		return ""
	}
	c, ok := list[0].(*syntax.Contact)
	if !ok || c.Kind == syntax.ClosedContact || c.Operand == nil {
		return ""
	}
	return syntax.PrintExpression(c.Operand)
}

// passed is elements behind the contact that the power of another line stands for: an edge is one of that power.
func passed(list []syntax.Element) []syntax.Element {
	c := list[0].(*syntax.Contact)
	if c.Kind == syntax.OpenContact || c.Kind == syntax.ClosedContact {
		return list[1:]
	}
	return append([]syntax.Element{&syntax.Contact{Kind: c.Kind, Memory: c.Memory}}, list[1:]...)
}

// alike counts the lines that begin with one contact, none of which changes what it holds.
func alike(c *converter, lines []line) int {
	first, ok := firstContact(lines[0].elements)
	if !ok {
		return 1
	}
	reads := c.reads(first.Operand)
	n := 1
	for ; n < len(lines); n++ {
		other, ok := firstContact(lines[n].elements)
		if !ok || other.Kind != first.Kind || syntax.PrintExpression(other.Operand) != syntax.PrintExpression(first.Operand) ||
			lines[n-1].writes.meets(reads) {
			break
		}
	}
	return n
}

// firstContact is the contact with which elements begin, where it senses no edge and something stands behind it.
func firstContact(list []syntax.Element) (*syntax.Contact, bool) {
	if len(list) < 2 {
		return nil, false
	}
	c, ok := list[0].(*syntax.Contact)
	if !ok || c.Operand == nil || c.Kind == syntax.RisingContact || c.Kind == syntax.FallingContact {
		return nil, false
	}
	return c, true
}
