package check

import (
	"math"

	"celandine/core/real"
)

// fold works a constant expression out.
func fold(e Expr) Expr {
	switch e := e.(type) {
	case *Op:
		x, ok := e.X.(*Const)
		if !ok {
			return e
		}
		if x.T.Class == Text {
			return e
		}
		if e.Y == nil {
			return &Const{T: e.T, Value: Operate(e.Op, e.T, x.Value, 0), At: e.At}
		}
		if y, ok := e.Y.(*Const); ok {
			return &Const{T: e.T, Value: Operate(e.Op, x.T, x.Value, y.Value), At: e.At}
		}
	case *Convert:
		if x, ok := e.X.(*Const); ok && x.T.Class != Text && e.T.Class != Text {
			return &Const{T: e.T, Value: ConvertValue(x.T, e.T, x.Value), At: x.At}
		}
	}
	return e
}

// Operate computes an operator on two values of the operand type t; results
// wrap. Division by zero yields zero: the caller has ruled it out.
func Operate(op Operator, t *Type, x, y int64) int64 {
	truth := func(b bool) int64 {
		if b {
			return 1
		}
		return 0
	}
	if t.Class == Floating {
		return operateReal(op, t, x, y)
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
	case Power:
		return t.Wrap(IntegerPower(x, y))
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

// IntegerPower is x to the power of n, wrapping; below zero n gives zero,
// but for 1 and −1.
func IntegerPower(x, n int64) int64 {
	if n < 0 {
		switch {
		case x == 1 || x == -1 && n%2 == 0:
			return 1
		case x == -1:
			return -1
		}
		return 0
	}
	result := int64(1)
	for ; n > 0; n >>= 1 {
		if n&1 != 0 {
			result *= x
		}
		x *= x
	}
	return result
}

// roundReal cuts a floating value to the precision of its type.
func roundReal(t *Type, v int64) int64 {
	f := math.Float64frombits(uint64(v))
	if t.Bits == 32 {
		f = float64(float32(f))
	}
	return real.Bits(f)
}

func operateReal(op Operator, t *Type, xv, yv int64) int64 {
	x, y := math.Float64frombits(uint64(xv)), math.Float64frombits(uint64(yv))
	var f float64
	switch op {
	case Equal, NotEqual, Less, LessEqual:
		if op == Equal && x == y || op == NotEqual && x != y || op == Less && x < y || op == LessEqual && x <= y {
			return 1
		}
		return 0
	case Negate:
		f = -x
	case Add:
		f = x + y
	case Sub:
		f = x - y
	case Mul:
		f = x * y
	case Div:
		f = x / y
	case Power:
		f = real.Pow(x, y)
	}
	return roundReal(t, int64(math.Float64bits(f)))
}

// RealToInteger rounds half to even and keeps within the type, whose ends it does not leave; what is no number becomes 0.
func RealToInteger(t *Type, f float64) int64 {
	f = math.RoundToEven(f)
	least, greatest := t.Range()
	switch {
	case f != f:
		return 0
	case t.unsigned64() && f >= 1<<64:
		return -1
	case t.unsigned64() && f >= 1<<63:
		return int64(uint64(f))
	case f >= float64(greatest): // the greatest of 64 bits is no float64; the next one above is
		return greatest
	case f <= float64(least):
		return least
	}
	return int64(f)
}

// ConvertValue turns a single value of one type into another: numbers are
// cut as two's complement, a real is rounded half to even, any number but zero is TRUE, and TIME counts
// milliseconds.
func ConvertValue(from, to *Type, v int64) int64 {
	const millisecond = 1_000_000
	switch {
	case from.Plain() == to.Plain():
		return v
	case from.Class == Floating:
		f := math.Float64frombits(uint64(v))
		switch {
		case to.Class == Floating:
			return roundReal(to, v)
		case to.Class == Boolean:
			if f != 0 {
				return 1
			}
			return 0
		case to.Class == Duration:
			return RealToInteger(Time, f*millisecond)
		}
		return RealToInteger(to.Plain(), f)
	case to.Class == Boolean:
		if v != 0 {
			return 1
		}
		return 0
	case to.Class == Floating:
		f := float64(v)
		if from.unsigned64() {
			f = float64(uint64(v))
		} else if from.Class == Duration {
			f /= millisecond
		}
		return roundReal(to, int64(math.Float64bits(f)))
	case from.Class == Duration:
		return to.Wrap(v / millisecond)
	case to.Class == Duration:
		return v * millisecond
	}
	return to.Wrap(v)
}
