package explain

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// leading lists the elements of a rung on the power's way to the element at a place, marks those that decide whether
// power reached it, and reports whether it did.
func (a *Asker) leading(d *deed, net *check.Series, target source.Span) (list []Element, reached bool) {
	way := wayTo(net, target)
	if way == nil {
		way = net.Elements
	}
	list, reached = []Element{}, true
	for _, e := range way {
		flow := d.power[e]
		if newPower(e) {
			list, reached = undecided(list), true
		}
		for _, part := range a.elements(d, e) {
			part.Decides = reached && !part.aside && part.passed == flow.out
			list = append(list, part)
		}
		reached = reached && flow.out
	}
	for i := range list { // what let power through does not matter where it was stopped
		list[i].Decides = list[i].Decides && list[i].passed == reached
	}
	return list, reached
}

// behind names what, behind the element that stopped the power on its way to a place, would have stopped it as well: "" where
// nothing would.
func (a *Asker) behind(d *deed, net *check.Series, target source.Span) string {
	way := wayTo(net, target)
	if way == nil {
		return ""
	}
	begin := 0 // behind a block the power is its own
	for i, e := range way {
		if newPower(e) {
			begin = i
		}
	}
	stopped := false
	var walls []string
	var wall, others []Element
	unknown := ""
	for _, e := range way[begin:] {
		parts := a.elements(d, e)
		box, gate := e.(*check.FunctionBox)
		switch {
		case stopped && a.stops(d, e):
			walls = append(walls, textOf(e))
		case stopped && gate && box.Gate:
			unknown = fmt.Sprintf("What %s behind it gives was not worked out", textOf(e))
		case !stopped && !d.power[e].out:
			stopped, wall = true, parts
		default:
			others = append(others, parts...)
		}
	}
	switch len(walls) {
	case 0:
		if both := readTwice(others, wall); both != "" {
			return both
		}
		return unknown
	case 1:
		return fmt.Sprintf("%s behind it is open, too", walls[0])
	}
	return fmt.Sprintf("%s and %s behind it are open, too", strings.Join(walls[:len(walls)-1], ", "), walls[len(walls)-1])
}

// readTwice tells of another contact on the way that passes power for the very value for which this one stops it.
func readTwice(others, wall []Element) string {
	for _, w := range wall {
		for _, f := range others {
			if f.Name != "" && f.passed && strings.EqualFold(f.Name, w.Name) {
				return fmt.Sprintf("Else %s would be open", f.Text)
			}
		}
	}
	return ""
}

// stops reports whether an element would stop power that reached it, as far as that can be told without any.
func (a *Asker) stops(d *deed, e check.Element) bool {
	switch e := e.(type) {
	case *check.Contact:
		return e.Operand != nil && !a.contact(d, e).passed
	case *check.Parallel:
		return !slices.ContainsFunc(e.Branches, func(b *check.Series) bool {
			return !slices.ContainsFunc(b.Elements, func(inner check.Element) bool { return a.stops(d, inner) })
		})
	}
	return false
}

func textOf(e check.Element) string {
	if p, ok := e.(*check.Parallel); ok && len(p.Branches) > 0 && len(p.Branches[0].Elements) > 0 {
		return "{ " + spanOfElement(p.Branches[0].Elements[0]).Text() + " | … }"
	}
	return spanOfElement(e).Text()
}

// newPower reports an element behind which the power is its own: a block's output, or the edge of the power.
func newPower(e check.Element) bool {
	switch e := e.(type) {
	case *check.BlockBox:
		return e.In != nil
	case *check.Contact:
		return e.Operand == nil
	}
	return false
}

func undecided(list []Element) []Element {
	for i := range list {
		list[i].Decides = false
	}
	return list
}

// wayTo returns the elements in front of the one at a place, through the branches that lead there.
func wayTo(s *check.Series, target source.Span) []check.Element {
	for i, e := range s.Elements {
		if spanOfElement(e) == target && target.File != nil {
			return slices.Clone(s.Elements[:i])
		}
		p, ok := e.(*check.Parallel)
		if !ok {
			continue
		}
		for _, branch := range p.Branches {
			if inside := wayTo(branch, target); inside != nil {
				return append(slices.Clone(s.Elements[:i]), inside...)
			}
			if len(branch.Elements) > 0 && spanOfElement(branch.Elements[0]) == target {
				return append([]check.Element{}, s.Elements[:i]...)
			}
		}
	}
	return nil
}

func spanOfElement(e check.Element) source.Span {
	switch e := e.(type) {
	case *check.Contact:
		return e.At
	case *check.Coil:
		return e.At
	case *check.BlockBox:
		return e.Call.At
	case *check.FunctionBox:
		return e.At
	}
	return source.Span{}
}

// elements lists what an element of a rung is made of: itself, or the contacts of a parallel.
func (a *Asker) elements(d *deed, e check.Element) (list []Element) {
	flow := d.power[e]
	switch e := e.(type) {
	case *check.Contact:
		contact := a.contact(d, e)
		list = append(list, contact.powered(flow))
		if ref, ok := e.Operand.(*check.Ref); ok {
			for _, index := range a.chosenBy(d, ref, true) {
				index.passed = contact.passed
				list = append(list, index.powered(flow))
			}
		}
		return list
	case *check.BlockBox:
		if e.Out == nil {
			return []Element{a.element(d, e.Call.At, e.Call.Instance.Name(), "", flow.out).powered(flow)}
		}
		name := d.named(e.Call.Instance.Select(e.Out))
		out := a.element(d, e.Call.At, name, name, flow.out)
		out.State = check.Bool.Format(int64(map[bool]int{true: 1}[flow.out]))
		return []Element{out.powered(flow)}
	case *check.FunctionBox:
		if e.Gate {
			for _, leaf := range a.leaves(d, e.Value, true) {
				leaf.aside, leaf.passed, leaf.Decides = !leaf.Decides, flow.out, false
				list = append(list, leaf.powered(flow))
			}
			return list
		}
	case *check.Parallel:
		for _, b := range e.Branches {
			list = append(list, a.branch(d, b, flow.out)...)
		}
	}
	return list
}

// powered notes the power before and behind an element.
func (e Element) powered(f flow) Element {
	e.In, e.Out = f.in, f.out
	return e
}

// branch lists the elements of one branch of a parallel. Where power came through the whole, the branches decide that let
// it through; where it did not, the first element of each that stopped it.
func (a *Asker) branch(d *deed, b *check.Series, whole bool) (list []Element) {
	through := !slices.ContainsFunc(b.Elements, func(e check.Element) bool { return !d.power[e].out })
	stopped := false
	for _, e := range b.Elements {
		for _, part := range a.elements(d, e) {
			part.aside = part.aside || through != whole || stopped
			list = append(list, part)
		}
		stopped = stopped || !d.power[e].out
	}
	return list
}

func passing(closed bool) string {
	if closed {
		return "closed"
	}
	return "open"
}

// contact tells whether a contact passes the power that reaches it.
func (a *Asker) contact(d *deed, c *check.Contact) Element {
	if c.Operand == nil { // the edge of the power itself
		return a.element(d, c.At, c.At.Text(), "", d.power[c].out)
	}
	v := d.values[c.Operand]
	closed := v.v != 0
	switch c.Kind {
	case syntax.ClosedContact:
		closed = !closed
	case syntax.RisingContact, syntax.FallingContact:
		closed = d.power[c].out
	}
	name := v.name
	if name == "" {
		name = a.latest(d, c.Operand)
	}
	e := a.element(d, c.At, c.At.Text(), name, closed)
	if c.Memory == nil {
		a.datesResult(&e, d, c.Operand)
	}
	e.edge = c.Memory != nil
	e.stays = e.edge && !closed // that it did not change in this scan has no cause further back
	return e
}

// element notes since when what an element reads has been so.
func (a *Asker) element(d *deed, at source.Span, text, name string, closed bool) Element {
	e := Element{Text: text, State: passing(closed), Start: at.Start, End: at.End, passed: closed}
	a.dates(&e, d, name)
	return e
}

// dates finds since when a name that a deed read has had its value.
func (a *Asker) dates(e *Element, d *deed, name string) {
	e.Name, e.read = name, d.scan
	if name == "" {
		return
	}
	if read, ok := d.names[name]; ok {
		if v, known := a.value(name, e.read); known && v != read && e.read > 0 {
			e.read-- // it was written later in the scan
		}
	}
	e.Since = a.since(name, e.read)
}

// conditions lists what decided that a statement ran and what it wrote to a name.
func (a *Asker) conditions(d *deed, name string) []Element {
	list := append([]Element{}, a.governing(d)...)
	if s, ok := d.place.(*check.Assign); ok {
		list = append(list, a.leaves(d, s.Value, true)...)
		list = append(list, a.chosenBy(d, s.Target, true)...)
	}
	return list
}

// arm lists the conditions for which an IF ran the arm that holds a statement.
func (a *Asker) arm(d *deed, s *check.If, inner any) (list []Element) {
	for _, arm := range s.Arms {
		if _, tested := d.values[arm.Condition]; !tested {
			break
		}
		list = append(list, a.leaves(d, arm.Condition, true)...)
	}
	return list
}

// leaves lists what an expression reads and marks what decided its value.
func (a *Asker) leaves(d *deed, e check.Expr, decides bool) []Element {
	v := d.values[e]
	switch e := e.(type) {
	case *check.Const:
		return nil
	case *check.Ref:
		if made := e.Variable.Made; made != nil {
			return a.held(d, e, v, decides)
		}
	case *check.Convert:
		return a.leaves(d, e.X, decides)
	case *check.Choose:
		list := a.leaves(d, e.If, decides)
		if d.values[e.If].v != 0 {
			return append(list, a.leaves(d, e.X, decides)...)
		}
		return append(list, a.leaves(d, e.Y, decides)...)
	case *check.Invoke:
		for _, invoked := range slices.Backward(d.calls) {
			if invoked.call != e {
				continue
			}
			out := a.cameOut(d, e.At, invoked.prefix+e.Unit.Result.Name)
			out.Text, out.Decides, out.passed = e.At.Text(), decides, v.v != 0
			return []Element{out}
		}
	case *check.Apply:
		if list := a.chosenOf(d, e, decides); list != nil {
			return list
		}
	case *check.Op:
		if e.T != check.Bool || e.X.Type().Class != check.Boolean {
			break
		}
		if e.Y == nil {
			return a.leaves(d, e.X, decides)
		}
		x, y := decides, decides
		if short := int64(map[check.Operator]int{check.Or: 1}[e.Op]); e.Op == check.And || e.Op == check.Or {
			if v.v == short { // one side suffices: those that do decide
				x, y = decides && d.values[e.X].v == short, decides && d.values[e.Y].v == short
			}
		}
		return append(a.leaves(d, e.X, x), a.leaves(d, e.Y, y)...)
	}
	if list := a.throughFunction(d, e, decides); list != nil {
		return list
	}
	name := v.name
	if name == "" {
		name = a.latest(d, e)
	}
	at := e.Span()
	leaf := Element{Text: at.Text(), State: a.state(e, v), Start: at.Start, End: at.End, Decides: decides}
	a.dates(&leaf, d, name)
	a.datesResult(&leaf, d, e)
	list := append([]Element{leaf}, a.heldIn(d, e, decides)...)
	if ref, ok := e.(*check.Ref); ok {
		list = append(list, a.chosenBy(d, ref, decides)...)
	}
	return list
}

// chosenBy lists what the indices of a reference read: they decide which element it is.
func (a *Asker) chosenBy(d *deed, r *check.Ref, decides bool) (list []Element) {
	for _, x := range running(r) {
		list = append(list, a.leaves(d, x, decides)...)
	}
	return list
}

// heldIn lists what decided the values that a block diagram holds for a number or comparison, such as an edge in it.
func (a *Asker) heldIn(d *deed, e check.Expr, decides bool) (list []Element) {
	check.Inspect(e, func(x check.Expr) bool {
		if ref, is := x.(*check.Ref); is && ref != e && ref.Variable.Made != nil {
			list = append(list, a.held(d, ref, d.values[ref], decides)...)
		}
		return true
	})
	return list
}

// held lists what decided a value that a block diagram holds for a later statement of the same scan.
func (a *Asker) held(d *deed, e *check.Ref, v reading, decides bool) []Element {
	made := e.Variable.Made
	before := a.moment(d.scan).deedOf(made, d.within)
	if before == nil {
		return nil
	}
	edge := e.Variable.Edge
	if edge == nil {
		return a.leaves(before, made.Value, decides)
	}
	name := ""
	ref, single := made.Value.(*check.Ref)
	if single = single && !ref.Variable.Hidden; single {
		name = before.values[made.Value].name
	}
	out := a.element(before, edge.At, edge.At.Text(), name, v.v != 0)
	out.State = check.Bool.Format(v.v)
	out.edge, out.Decides, out.stays = true, decides, v.v == 0
	if single {
		return []Element{out}
	}
	return append([]Element{out}, a.leaves(before, made.Value, decides && v.v != 0)...) // of what a function gives
}

// throughFunction lists what a comparison or sum reads where a function of one's own is part of it, or nil.
func (a *Asker) throughFunction(d *deed, e check.Expr, decides bool) []Element {
	op, ok := e.(*check.Op)
	if !ok || op.Y == nil || !check.Invokes(op) {
		return nil
	}
	return append(a.leaves(d, op.X, decides), a.leaves(d, op.Y, decides)...)
}

// chosenOf lists what a MAX or MIN read: the one that it gave decides. It is nil for other functions.
func (a *Asker) chosenOf(d *deed, e *check.Apply, decides bool) []Element {
	if e.Function != check.Minimum && e.Function != check.Maximum {
		return nil
	}
	list := []Element{}
	for _, x := range e.X {
		list = append(list, a.leaves(d, x, decides && d.values[x].v == d.values[e].v)...)
	}
	return list
}

func (a *Asker) state(e check.Expr, v reading) string {
	if e.Type().Plain() == check.Time {
		return clock(v.v)
	}
	return e.Type().Format(v.v)
}
