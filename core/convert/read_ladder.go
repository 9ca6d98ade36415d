package convert

import (
	"strings"

	"celandine/core/syntax"
)

// readLadder takes each rung for a network. Power is an expression on its way; nil is the rail.
func (b *body) readLadder(l *syntax.Ladder) {
	from := l.Span.Start
	for _, r := range l.Rungs {
		n := b.begin(r.Span, r.Title, &from)
		(&ladderReader{b, n}).series(r.Net, nil)
	}
	b.comments = b.commentsBefore(from, l.Span.End)
}

type ladderReader struct {
	*body
	*network
}

func (r *ladderReader) series(s *syntax.Series, power syntax.Expr) syntax.Expr {
	for _, e := range s.Elements {
		power = r.element(e, power)
	}
	return power
}

func (r *ladderReader) element(e syntax.Element, power syntax.Expr) syntax.Expr {
	switch e := e.(type) {
	case *syntax.Series:
		return r.series(e, power)
	case *syntax.Parallel:
		return r.parallel(e, power)
	case *syntax.Contact:
		return r.contact(e, power)
	case *syntax.Coil:
		return r.coil(e, power)
	case *syntax.Box:
		if block := r.program.BlockCalled(e.Call); block != nil {
			return r.block(e, power)
		}
		return r.function(e, power)
	}
	return power
}

// parallel joins branches: where they only read, they are a condition of their own behind the power.
func (r *ladderReader) parallel(e *syntax.Parallel, power syntax.Expr) syntax.Expr {
	if onlyReads(e) {
		var sum syntax.Expr
		for i, branch := range e.Branches {
			x := r.orTrue(r.series(branch, nil))
			if i == 0 {
				sum = x
				continue
			}
			sum = binary("OR", sum, x)
		}
		return r.and(power, exclusive(sum))
	}
	if power != nil {
		power = r.keep(power)
	}
	var sum syntax.Expr
	same := true
	for i, branch := range e.Branches {
		out := r.series(branch, power)
		same = same && out == power
		out = r.keep(r.orTrue(out))
		if i == 0 {
			sum = out
			continue
		}
		sum = binary("OR", sum, out)
	}
	if same {
		return power
	}
	return r.keep(sum)
}

// exclusive is XOR for the two branches [x] -- [/y] and [/x] -- [y].
func exclusive(e syntax.Expr) syntax.Expr {
	or, ok := e.(*syntax.Binary)
	if !ok || or.Op != "OR" {
		return e
	}
	x, noY := halves(or.X)
	noX, y := halves(or.Y)
	if inverts(noX, x) && inverts(noY, y) {
		return binary("XOR", x, y)
	}
	return e
}

func halves(e syntax.Expr) (x, y syntax.Expr) {
	if and, ok := e.(*syntax.Binary); ok && and.Op == "AND" {
		return and.X, and.Y
	}
	return nil, nil
}

// inverts reports whether one is NOT the other, a plain variable.
func inverts(e, of syntax.Expr) bool {
	n, ok := e.(*syntax.Unary)
	return ok && of != nil && n.Op == "NOT" && simple(of) && simple(n.X) && syntax.PrintExpression(n.X) == syntax.PrintExpression(of)
}

func (r *ladderReader) orTrue(e syntax.Expr) syntax.Expr {
	if e == nil {
		return truth("TRUE")
	}
	return e
}

func (r *ladderReader) and(power, e syntax.Expr) syntax.Expr {
	if power == nil {
		return e
	}
	return binary("AND", power, e)
}

// onlyReads reports an element that neither writes nor senses the power.
func onlyReads(e syntax.Element) bool {
	switch e := e.(type) {
	case *syntax.Contact:
		return e.Operand != nil && e.Memory == nil
	case *syntax.Series:
		for _, x := range e.Elements {
			if !onlyReads(x) {
				return false
			}
		}
		return true
	case *syntax.Parallel:
		for _, branch := range e.Branches {
			if !onlyReads(branch) {
				return false
			}
		}
		return true
	}
	return false
}

func (r *ladderReader) contact(e *syntax.Contact, power syntax.Expr) syntax.Expr {
	x := e.Operand
	switch e.Kind {
	case syntax.ClosedContact:
		x = not(x)
	case syntax.RisingContact, syntax.FallingContact:
		return r.edge(e, power)
	}
	if r.changes(x)["*"] { // it is called with or without power
		if power != nil {
			power = r.keep(power)
		}
		x = r.sense(x)
	}
	return r.and(power, whole(x))
}

// whole is x for x = TRUE, as a contact holds what a function gives.
func whole(e syntax.Expr) syntax.Expr {
	if c, ok := e.(*syntax.Binary); ok && c.Op == "=" && isLiteral(c.Y, "TRUE") {
		if _, called := inner(c.X).(*syntax.Call); called {
			return c.X
		}
	}
	return e
}

func (r *ladderReader) edge(e *syntax.Contact, power syntax.Expr) syntax.Expr {
	if power != nil {
		power = r.keep(power)
	}
	x := &syntax.Contact{Kind: e.Kind, Operand: e.Operand, Memory: e.Memory, Span: e.Span}
	behind := power
	if e.Operand == nil {
		x.Operand, behind = r.orTrue(power), nil
	}
	if e.Memory != nil {
		return r.and(behind, r.sense(x))
	}
	return r.and(behind, r.keep(x))
}

// coil writes the power, which passes on. Coils one after the other are targets of one value.
func (r *ladderReader) coil(e *syntax.Coil, power syntax.Expr) syntax.Expr {
	if power != nil {
		power = r.keep(power)
	}
	kind, driven := e.Kind, r.orTrue(power)
	if kind == syntax.RisingCoil || kind == syntax.FallingCoil {
		driven, kind = &syntax.Contact{Kind: syntax.ContactKind(kind), Operand: driven, Span: e.Span}, syntax.PlainCoil
	}
	target := &syntax.Coil{Kind: kind, Operand: e.Operand, Span: e.Span}
	if n := len(r.events); n > 0 && driven == power && r.events[n-1].value == power {
		r.events[n-1].targets = append(r.events[n-1].targets, target)
		return power
	}
	r.do(&event{value: driven, targets: []*syntax.Coil{target}, bool: true, at: e.Span})
	return power
}

func (r *ladderReader) block(e *syntax.Box, power syntax.Expr) syntax.Expr {
	block := r.program.BlockCalled(e.Call)
	in, out := block.PowerIn(), block.PowerOut()
	ev := &event{block: block, at: e.Span}
	list := e.Call.Arguments
	ev.enable, list = without(list, "EN", false)
	ev.eno, list = without(list, "ENO", true)
	if e.EN || in == nil || out == nil {
		if power != nil {
			power = r.keep(power)
		}
		ev.call, ev.enable = &syntax.Call{Callee: e.Call.Callee, Arguments: list}, power
		if ev.eno != nil {
			ev.enable = r.orTrue(power)
		}
		r.do(ev)
		return power
	}
	drives := inputOf(in.Name, r.orTrue(power))
	ev.call = &syntax.Call{Callee: e.Call.Callee, Arguments: append([]syntax.Argument{drives}, list...)}
	r.do(ev)
	return r.keep(member(e.Call.Callee, out.Name))
}

// function is a box whose power goes to EN, or, where it gives a BOOL alone, is a condition like a contact.
func (r *ladderReader) function(e *syntax.Box, power syntax.Expr) syntax.Expr {
	gate := r.gives(e)
	if e.Result == nil && gate && (power == nil || !r.faulty(e.Call)) {
		return r.and(power, e.Call)
	}
	if power != nil {
		power = r.keep(power)
	}
	ev := &event{enable: power, value: e.Call, at: e.Span}
	result := e.Result
	switch {
	case gate && power != nil && (result == nil || !steady(result)): // what comes out is only known where it runs
		return r.gated(ev, result)
	case result != nil:
		ev.bool = r.isBool(result)
	case power != nil: // a function of one's own
		kind := syntax.PrintType(r.own(e.Call).Result)
		result, ev.bool = name(r.temporary("result", kind)), strings.EqualFold(kind, "BOOL")
	}
	if result != nil {
		ev.targets = []*syntax.Coil{{Operand: result}}
	}
	r.do(ev)
	if !gate {
		return power
	}
	return r.keep(r.and(power, result))
}

// gated is a condition that is worked out with power alone, in a variable that is FALSE without; the target takes it then.
func (r *ladderReader) gated(ev *event, target syntax.Expr) syntax.Expr {
	passes := name(r.temporary("passes", "BOOL"))
	into := func(e syntax.Expr) []*syntax.Coil { return []*syntax.Coil{{Operand: e}} }
	r.do(&event{value: truth("FALSE"), targets: into(passes), bool: true, at: ev.at})
	ev.targets, ev.bool = into(passes), true
	r.do(ev)
	if target != nil {
		r.do(&event{enable: ev.enable, value: passes, targets: into(target), bool: true, at: ev.at})
	}
	return r.keep(passes)
}

// gives reports a comparison or a logic function on BOOL, whose result is the power out.
func (r *ladderReader) gives(e *syntax.Box) bool {
	sign := syntax.SignOf(functionName(e.Call))
	switch {
	case r.own(e.Call) != nil:
		return false
	case syntax.Binds(sign) == 4:
		return true
	case functionName(e.Call) != "NOT" && (sign == "" || syntax.Binds(sign) > 4):
		return false
	}
	return e.Result == nil || r.isBool(e.Result)
}
