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
