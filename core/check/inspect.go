package check

// Inspect visits an expression and, where visit says so, all that it is made of, in the order in which it is worked out:
// operands, the indices of a reference, and what goes into a function.
func Inspect(e Expr, visit func(Expr) bool) {
	if !visit(e) {
		return
	}
	each := func(list ...Expr) {
		for _, x := range list {
			Inspect(x, visit)
		}
	}
	switch e := e.(type) {
	case *Ref:
		for _, s := range e.Path {
			each(s.Index...)
		}
	case *Op:
		each(e.X)
		if e.Y != nil {
			each(e.Y)
		}
	case *Convert:
		each(e.X)
	case *Choose:
		each(e.If, e.X, e.Y)
	case *Apply:
		each(e.X...)
	case *Invoke:
		for _, b := range e.Inputs {
			if b.Value != nil {
				each(b.Value)
			}
		}
	}
}

// Holds reports whether an expression, or anything that it is made of, is what is looked for.
func Holds(e Expr, is func(Expr) bool) (found bool) {
	Inspect(e, func(x Expr) bool {
		found = found || is(x)
		return !found
	})
	return found
}

// Invokes reports whether an expression calls a function of one's own, which may change variables.
func Invokes(e Expr) bool {
	return Holds(e, func(x Expr) bool { _, is := x.(*Invoke); return is })
}

// readIn lists what an expression reads.
func readIn(e Expr) (list []*Ref) {
	Inspect(e, func(x Expr) bool {
		if r, ok := x.(*Ref); ok {
			list = append(list, r)
		}
		return true
	})
	return list
}

// writtenIn adds what the functions called in an expression write.
func writtenIn(e Expr, list []*Ref) []*Ref {
	Inspect(e, func(x Expr) bool {
		call, ok := x.(*Invoke)
		if !ok {
			return true
		}
		for _, b := range append(call.Inputs[:len(call.Inputs):len(call.Inputs)], call.Outputs...) {
			if b.Target != nil {
				list = append(list, b.Target)
			}
		}
		return true
	})
	return list
}

// Walk visits every statement, element of a rung and expression of a program, and of the blocks and functions of one's own that it calls,
// each of these once. What a node is made of is visited where visit says so.
func (p *Program) Walk(visit func(node any) bool) {
	w := &walker{visit: visit, seen: map[*Unit]bool{}}
	for _, u := range p.Units {
		w.unit(u)
	}
}

type walker struct {
	visit func(node any) bool
	seen  map[*Unit]bool
}

func (w *walker) unit(u *Unit) {
	if u == nil || w.seen[u] {
		return
	}
	w.seen[u] = true
	w.statements(u.Statements)
	for _, r := range u.Rungs {
		w.element(r.Net)
	}
}

func (w *walker) expressions(list ...Expr) {
	for _, e := range list {
		if e == nil {
			continue
		}
		Inspect(e, func(x Expr) bool {
			if call, ok := x.(*Invoke); ok {
				w.unit(call.Unit)
			}
			return w.visit(x)
		})
	}
}

func (w *walker) refs(list ...*Ref) {
	for _, r := range list {
		if r != nil {
			w.expressions(r)
		}
	}
}

func (w *walker) statements(list []Statement) {
	for _, s := range list {
		if w.visit(s) {
			w.statement(s)
		}
	}
}

func (w *walker) statement(s Statement) {
	switch s := s.(type) {
	case *Assign:
		w.refs(s.Target)
		w.expressions(s.Value)
	case *Call:
		w.unit(s.Instance.Type().Block.Unit)
		w.refs(s.Instance, s.ENO)
		w.expressions(s.Enable)
		for _, b := range append(s.Inputs[:len(s.Inputs):len(s.Inputs)], s.Outputs...) {
			w.refs(b.Target)
			w.expressions(b.Value)
		}
	case *If:
		for _, arm := range s.Arms {
			w.expressions(arm.Condition)
			w.statements(arm.Body)
		}
		w.statements(s.Else)
	case *Case:
		w.expressions(s.Value)
		for _, c := range s.Choices {
			w.statements(c.Body)
		}
		w.statements(s.Else)
	case *For:
		w.refs(s.Counter)
		w.expressions(s.From, s.To, s.Step)
		w.statements(s.Body)
	case *While:
		w.expressions(s.Condition)
		w.statements(s.Body)
	case *Repeat:
		w.statements(s.Body)
		w.expressions(s.Until)
	case *Evaluate:
		w.expressions(s.Value)
	case *Jump:
	default:
		panic("check: a statement that Walk does not know")
	}
}

func (w *walker) element(e Element) {
	if !w.visit(e) {
		return
	}
	switch e := e.(type) {
	case *Series:
		for _, inner := range e.Elements {
			w.element(inner)
		}
	case *Parallel:
		for _, b := range e.Branches {
			w.element(b)
		}
	case *Contact:
		w.expressions(e.Operand)
		w.refs(e.Memory)
	case *Coil:
		w.refs(e.Target, e.Memory)
	case *BlockBox:
		w.statement(e.Call)
	case *FunctionBox:
		w.expressions(e.Value)
		w.refs(e.Target)
	case *Share:
	default:
		panic("check: an element that Walk does not know")
	}
}
