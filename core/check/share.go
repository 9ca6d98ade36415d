package check

import (
	"slices"

	"celandine/core/source"
)

// Variables at addresses that overlap, such as %MW0 and %MX0.1, share their bits. Each keeps a place of its own, and
// whatever writes one is followed by assignments that bring the others up to it. Byte 0 of a word is its lower one.

// sharer brings variables that share bits up to each other.
type sharer struct {
	c      *checker
	others map[*Variable][]*Variable
}

// overlapping finds the variables that lie at addresses of their own, by those, and with which others each shares bits.
func overlapping(variables []*Variable) (placed []*Variable, others map[*Variable][]*Variable) {
	others = map[*Variable][]*Variable{}
	type place struct {
		*Variable
		source.BitRange
	}
	places := make([]place, 0, len(variables))
	for _, v := range variables {
		if v.Address != "" && v.Same == nil && v.Type != nil {
			places = append(places, place{v, source.BitsAt(v.Address)})
		}
	}
	slices.SortStableFunc(places, func(a, b place) int { return a.From - b.From })
	placed = make([]*Variable, len(places))
	for i, v := range places {
		placed[i] = v.Variable
		for _, w := range places[i+1:] {
			if w.From >= v.From+64 {
				break
			}
			if v.Overlaps(w.BitRange) {
				others[v.Variable], others[w.Variable] = append(others[v.Variable], w.Variable), append(others[w.Variable], v.Variable)
			}
		}
	}
	return placed, others
}

// share adds the assignments that keep variables alike whose addresses overlap.
func (c *checker) share(placed []*Variable, others map[*Variable][]*Variable) {
	s := &sharer{c, others}
	for _, v := range placed {
		if len(others[v]) > 0 {
			s.sharable(v)
		}
	}
	if len(s.others) == 0 || c.problems.HasErrors() {
		return
	}
	s.initials()
	first := s.images(placed)
	for _, u := range c.program.Units {
		s.unit(u)
		switch {
		case len(u.Rungs) == 0:
			u.Statements = append(statementsOf(first), u.Statements...)
		case len(first) > 0:
			u.Rungs[0].Net.Elements = append([]Element{&Share{first}}, u.Rungs[0].Net.Elements...)
		}
	}
	for _, p := range c.order {
		s.unit(p.unit)
	}
}

func (s *sharer) sharable(v *Variable) {
	if c := v.Type.Plain().Class; c == Floating || c == Duration {
		s.c.report(source.WrongAddress, v.Span, "Place it where nothing else lies.",
			"%s at %s is %s %s, whose bits cannot be shared with another variable.", v.Name, v.Address, article(v.Type.Name), v.Type.Name)
	}
}

// initials gives variables that share bits one beginning: that of the points, over it what is declared with a value, in the order
// of declaration.
func (s *sharer) initials() {
	begun := map[*Variable]*Value{}
	for _, points := range []bool{true, false} {
		for _, v := range s.c.program.Variables {
			if len(s.others[v]) == 0 || v.Initial == nil || v.Point != points {
				continue
			}
			for _, w := range append([]*Variable{v}, s.others[v]...) {
				begun[w] = overlaid(begun[w], w, v)
			}
		}
	}
	for w, value := range begun {
		w.Initial = value
	}
}

// overlaid is what w begins with where v, which shares bits with it, begins with a value of its own.
func overlaid(begun *Value, w, v *Variable) *Value {
	number := int64(0)
	if begun != nil {
		number = begun.Number
	}
	from, to := source.BitsAt(v.Address), source.BitsAt(w.Address)
	low, high := max(from.From, to.From), min(from.To, to.To)
	part := uint64(v.Initial.Number) >> (low - from.From) & mask(high-low)
	return &Value{Number: w.Type.Wrap(int64(uint64(number)&^(mask(high-low)<<(low-to.From)) | part<<(low-to.From)))}
}

// images returns what brings inputs up to the image at the start of a scan: the widest of those that overlap is what the world
// writes, the others follow it.
func (s *sharer) images(placed []*Variable) (list []*Assign) {
	for _, v := range placed {
		if v.Role != Input {
			continue
		}
		for _, w := range s.others[v] {
			if w.Role == Input && w.Type.Bits < v.Type.Bits {
				w.Role = Local
				list = append(list, s.assign(w, v, v.Span))
			}
		}
	}
	return list
}

func (s *sharer) unit(u *Unit) {
	u.Statements = s.statements(u.Statements)
	for _, r := range u.Rungs {
		s.series(r.Net)
	}
}

func (s *sharer) statements(list []Statement) (out []Statement) {
	for _, st := range list {
		var written []*Ref
		switch st := st.(type) {
		case *If:
			for i := range st.Arms {
				st.Arms[i].Body = s.statements(st.Arms[i].Body)
			}
			st.Else = s.statements(st.Else)
		case *Case:
			for i := range st.Choices {
				st.Choices[i].Body = s.statements(st.Choices[i].Body)
			}
			st.Else = s.statements(st.Else)
		case *While:
			st.Body = s.statements(st.Body)
		case *Repeat:
			st.Body = s.statements(st.Body)
		case *For:
			counted := s.after([]*Ref{st.Counter}, st.At)
			st.Body = append(statementsOf(counted), s.statements(st.Body)...)
			written = []*Ref{st.Counter}
		case *Assign:
			written = writtenIn(st.Target, writtenIn(st.Value, []*Ref{st.Target}))
		case *Evaluate:
			written = writtenIn(st.Value, nil)
		case *Call:
			written = writtenBy(st)
		}
		out = append(append(out, st), statementsOf(s.after(written, placeOf(st)))...)
	}
	return out
}

func placeOf(st Statement) (at source.Span) {
	switch st := st.(type) {
	case *Assign:
		return st.At
	case *Evaluate:
		return st.At
	case *Call:
		return st.At
	case *For:
		return st.At
	}
	return at
}

func statementsOf(list []*Assign) (out []Statement) {
	for _, a := range list {
		out = append(out, a)
	}
	return out
}

// series puts a Share behind each element that writes a variable with others on its bits.
func (s *sharer) series(net *Series) {
	var out []Element
	for _, e := range net.Elements {
		out = append(out, e)
		var written []*Ref
		var at source.Span
		switch e := e.(type) {
		case *Parallel:
			for _, b := range e.Branches {
				s.series(b)
			}
		case *Series:
			s.series(e)
		case *Coil:
			written, at = []*Ref{e.Target}, e.At
		case *Contact:
			if e.Memory != nil {
				written, at = []*Ref{e.Memory}, e.At
			}
			if e.Operand != nil {
				written = writtenIn(e.Operand, written)
			}
		case *BlockBox:
			written, at = writtenBy(e.Call), e.Call.At
		case *FunctionBox:
			at = e.At
			if e.Target != nil {
				written = append(written, e.Target)
			}
			written = writtenIn(e.Value, written)
		}
		if more := s.after(written, at); len(more) > 0 {
			out = append(out, &Share{more})
		}
	}
	net.Elements = out
}

// after returns the assignments that follow a write to some variables.
func (s *sharer) after(written []*Ref, at source.Span) (list []*Assign) {
	for _, r := range written {
		v := r.Variable.Storage()
		for _, w := range s.others[v] {
			list = append(list, s.assign(w, v, at))
		}
	}
	return list
}

func writtenBy(c *Call) (list []*Ref) {
	for _, b := range c.Inputs {
		if b.Target != nil {
			list = append(list, b.Target)
		} else {
			list = writtenIn(b.Value, list)
		}
	}
	for _, b := range c.Outputs {
		list = append(list, b.Target)
	}
	if c.ENO != nil {
		list = append(list, c.ENO)
	}
	return list
}

func mask(bits int) uint64 { return ^uint64(0) >> (64 - bits) }

// assign gives w the bits that it shares with v.
func (s *sharer) assign(w, v *Variable, at source.Span) *Assign {
	r, o := source.BitsAt(v.Address), source.BitsAt(w.Address)
	low, high := max(r.From, o.From), min(r.To, o.To)
	number := func(n uint64) Expr { return &Const{T: Lword, Value: int64(n), At: at} }
	shift := func(f Function, x Expr, n int) Expr {
		if n == 0 {
			return x
		}
		return &Apply{f, Lword, []Expr{x, &Const{T: Lint, Value: int64(n), At: at}}, at}
	}
	part := &Op{Op: And, T: Lword, X: shift(ShiftRight, bits(v, at), low-r.From), Y: number(mask(high - low)), At: at}
	target := &Ref{Variable: w, At: at}
	if w.Type.Plain() == Bool {
		return &Assign{target, &Op{Op: NotEqual, T: Bool, X: part, Y: number(0), At: at}, at}
	}
	kept := &Op{Op: And, T: Lword, X: bits(w, at), Y: number(^(mask(high-low) << (low - o.From))), At: at}
	whole := &Op{Op: Or, T: Lword, X: kept, Y: shift(ShiftLeft, part, low-o.From), At: at}
	return &Assign{target, &Convert{w.Type, whole}, at}
}

// bits is a variable's value as bits.
func bits(v *Variable, at source.Span) Expr {
	ref := &Ref{Variable: v, At: at}
	if v.Type.Plain() == Lword {
		return ref
	}
	return &Convert{Lword, ref}
}
