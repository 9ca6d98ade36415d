package check

// fold works a constant expression out.
func fold(e Expr) Expr {
	switch e := e.(type) {
	case *Op:
		x, ok := e.X.(*Const)
		if !ok {
			return e
		}
		if e.Y == nil {
			return &Const{e.T, Apply(e.Op, e.T, x.Value, 0), e.At}
		}
		if y, ok := e.Y.(*Const); ok {
			return &Const{e.T, Apply(e.Op, x.T, x.Value, y.Value), e.At}
		}
	case *Convert:
		if x, ok := e.X.(*Const); ok {
			return &Const{e.T, ConvertValue(x.T, e.T, x.Value), x.At}
		}
	}
	return e
}

// Apply computes an operator on two values of the operand type t; results
// wrap. Division by zero yields zero: the caller has ruled it out.
func Apply(op Operator, t *Type, x, y int64) int64 {
	truth := func(b bool) int64 {
		if b {
			return 1
		}
		return 0
	}
	wide := t.unsigned64()
	switch op {
	case Not:
		return t.Wrap(^x)
	case Negate:
		return t.Wrap(-x)
	case And:
		return x & y
	case Or:
		return x | y
	case Xor:
		return x ^ y
	case Add:
		return t.Wrap(x + y)
	case Sub:
		return t.Wrap(x - y)
	case Mul:
		return t.Wrap(x * y)
	case Div, Mod:
		return t.Wrap(divide(op, wide, x, y))
	case Equal:
		return truth(x == y)
	case NotEqual:
		return truth(x != y)
	case Less:
		return truth(x < y && !wide || wide && uint64(x) < uint64(y))
	}
	return truth(x <= y && !wide || wide && uint64(x) <= uint64(y))
}

func divide(op Operator, wide bool, x, y int64) int64 {
	switch {
	case y == 0:
		return 0
	case wide && op == Div:
		return int64(uint64(x) / uint64(y))
	case wide:
		return int64(uint64(x) % uint64(y))
	case op == Div:
		return x / y // the least value by -1 wraps, as Go defines it
	}
	return x % y
}

// ConvertValue turns a value of one elementary type into another: numbers are
// cut as two's complement, any number but zero is TRUE, and TIME counts
// milliseconds.
func ConvertValue(from, to *Type, v int64) int64 {
	const millisecond = 1_000_000
	switch {
	case from == to:
		return v
	case to == Bool:
		if v != 0 {
			return 1
		}
		return 0
	case from == Time:
		return to.Wrap(v / millisecond)
	case to == Time:
		return v * millisecond
	}
	return to.Wrap(v)
}
