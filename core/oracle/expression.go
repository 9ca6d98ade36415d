package oracle

import (
	"math"
	"strings"

	"celandine/core/syntax"
)

// place finds the cell that an expression names.
func (o *Interpreter) place(f *frame, e syntax.Expr) *cell {
	switch e := e.(type) {
	case *syntax.Identifier:
		if c := f.cells[lower(e.Text)]; c != nil {
			return c
		}
		if f.result != nil && strings.EqualFold(e.Text, f.unit.Name.Text) {
			return f.result
		}
		return o.globals[lower(e.Text)]
	case *syntax.Paren:
		return o.place(f, e.X)
	case *syntax.Member:
		c := o.place(f, e.Of)
		if c.inner != nil {
			return c.inner.cells[lower(e.Field.Text)]
		}
		return c.members[lower(e.Field.Text)]
	case *syntax.Index:
		c := o.place(f, e.Of)
		at := int64(0)
		var all []int64
		for _, x := range e.At {
			all = append(all, o.eval(f, x, o.types["lint"]).i)
		}
		for d, n := range all {
			if n < c.t.low[d] || n > c.t.high[d] {
				fail("index")
			}
			at = at*(c.t.high[d]-c.t.low[d]+1) + n - c.t.low[d]
		}
		return c.elements[at]
	case *syntax.Address:
		return o.at(e.Text, nil, nil)
	}
	unknown(e)
	return nil
}

// bare reports numbers with no type of their own.
func bare(e syntax.Expr) bool {
	switch e := e.(type) {
	case *syntax.Literal:
		return e.Kind == syntax.Int || e.Kind == syntax.Real
	case *syntax.Paren:
		return bare(e.X)
	case *syntax.Unary:
		return e.Op != "NOT" && bare(e.X)
	case *syntax.Binary:
		return strings.Contains(" + - * / MOD ** ", " "+e.Op+" ") && bare(e.X) && bare(e.Y)
	}
	return false
}

// eval works an expression out; want is the type that its place implies for bare numbers.
func (o *Interpreter) eval(f *frame, e syntax.Expr, want *typ) value {
	switch e := e.(type) {
	case *syntax.Literal:
		return o.literal(e, want)
	case *syntax.Paren:
		return o.eval(f, e.X, want)
	case *syntax.Unary:
		return unary(e.Op, o.eval(f, e.X, want))
	case *syntax.Binary:
		switch e.Op {
		case "=", "<>", "<", "<=", ">", ">=":
			want = nil
		}
		x, y := o.operands(f, e.X, e.Y, want)
		return o.binary(e.Op, x, y)
	case *syntax.Call:
		return o.function(f, e, want)
	case *syntax.Inverted:
		return o.boolean(!o.truth(f, e.X))
	case *syntax.Contact:
		return o.boolean(f.sensed[e])
	case *syntax.Identifier:
		if v, ok := o.enums[lower(e.Text)]; ok && f.cells[lower(e.Text)] == nil {
			return v
		}
	}
	return o.place(f, e).value()
}

// operands evaluates both sides, the left first; a bare number takes the type of the other side.
func (o *Interpreter) operands(f *frame, a, b syntax.Expr, want *typ) (x, y value) {
	switch {
	case bare(a) && !bare(b):
		y = o.eval(f, b, want)
		x = o.eval(f, a, numberBeside(y.t))
	case bare(b) && !bare(a):
		x = o.eval(f, a, want)
		y = o.eval(f, b, numberBeside(x.t))
	default:
		x, y = o.eval(f, a, want), o.eval(f, b, want)
	}
	return x, y
}

func numberBeside(t *typ) *typ {
	if t != nil && t.family == timeFamily {
		return nil
	}
	return t
}

func unary(op string, v value) value {
	switch {
	case op == "NOT" && v.t.family == boolFamily:
		v.i ^= 1
	case op == "NOT":
		v.i = wrap(v.t, ^v.i)
	case op == "-":
		v.i, v.f = -v.i, -v.f
		if v.t != nil && v.t.family != realFamily {
			v.i = wrap(v.t, v.i)
		}
	}
	return v
}

// common is the narrowest type that holds the values of both.
func (o *Interpreter) common(a, b *typ) *typ {
	if a == nil {
		a = b
	}
	if b == nil {
		b = a
	}
	if a == nil {
		return o.types["dint"]
	}
	if a.family == enumFamily || a.family == textFamily {
		return a
	}
	if holds(b, a) {
		return unlimited(b)
	}
	if holds(a, b) {
		return unlimited(a)
	}
	for _, n := range []string{"sint", "int", "dint", "lint", "usint", "uint", "udint", "ulint", "byte", "word", "dword", "lword", "real",
		"lreal"} {
		if t := o.types[n]; holds(t, a) && holds(t, b) {
			return t
		}
	}
	unknown(a.name + " beside " + b.name)
	return nil
}

// unlimited is the type without the limits of a subrange.
func unlimited(t *typ) *typ {
	if t.plain != nil {
		return t.plain
	}
	return t
}

// holds reports whether every value of b is one of a.
func holds(a, b *typ) bool {
	switch {
	case a.family == b.family:
		return a.bits >= b.bits
	case b.family == unsignedFamily && a.family == signedFamily:
		return a.bits > b.bits
	case (b.family == signedFamily || b.family == unsignedFamily) && a.family == realFamily:
		return b.bits*2 <= a.bits
	}
	return false
}

func (o *Interpreter) binary(op string, x, y value) value {
	if v, done := timed(op, x, y); done {
		return v
	}
	t := o.common(x.t, y.t)
	x, y = as(x, t), as(y, t)
	switch op {
	case "=", "<>", "<", "<=", ">", ">=":
		return o.boolean(compared(op, t, x, y))
	}
	out := value{t: t}
	if t.family == realFamily {
		out.f = rounded(t, realOf(op, x.f, y.f))
		return out
	}
	out.i = wrap(t, wholeOf(op, t, x.i, y.i))
	return out
}

func compared(op string, t *typ, x, y value) bool {
	var less, equal bool
	switch {
	case t.family == realFamily:
		less, equal = x.f < y.f, x.f == y.f
		if math.IsNaN(x.f) || math.IsNaN(y.f) {
			return op == "<>"
		}
	case t.family == textFamily:
		less, equal = x.s < y.s, x.s == y.s
	case t.family == unsignedFamily || t.family == bitsFamily:
		less, equal = uint64(x.i) < uint64(y.i), x.i == y.i
	default:
		less, equal = x.i < y.i, x.i == y.i
	}
	switch op {
	case "=":
		return equal
	case "<>":
		return !equal
	case "<":
		return less
	case "<=":
		return less || equal
	case ">":
		return !less && !equal
	}
	return !less
}

func realOf(op string, x, y float64) float64 {
	switch op {
	case "+":
		return x + y
	case "-":
		return x - y
	case "*":
		return x * y
	case "/":
		return x / y
	}
	unknown(op + " on reals")
	return 0
}

func wholeOf(op string, t *typ, x, y int64) int64 {
	switch op {
	case "+":
		return x + y
	case "-":
		return x - y
	case "*":
		return x * y
	case "AND":
		return x & y
	case "OR":
		return x | y
	case "XOR":
		return x ^ y
	case "**":
		p := int64(1)
		for range max(y, 0) {
			p *= x
		}
		if y < 0 {
			unknown("a negative power")
		}
		return p
	}
	if y == 0 {
		fail("divide")
	}
	unsigned := t.bits == 64 && (t.family == unsignedFamily || t.family == bitsFamily)
	switch {
	case op == "/" && unsigned:
		return int64(uint64(x) / uint64(y))
	case op == "/":
		return x / y
	case unsigned:
		return int64(uint64(x) % uint64(y))
	}
	return x % y
}

// timed is TIME times and by a number.
func timed(op string, x, y value) (value, bool) {
	isTime := func(v value) bool { return v.t != nil && v.t.family == timeFamily }
	if op != "*" && op != "/" || isTime(x) == isTime(y) {
		return value{}, false
	}
	if isTime(y) {
		x, y = y, x
	}
	if y.t != nil && y.t.family == realFamily {
		if op == "*" {
			return value{t: x.t, i: saturated(float64(x.i)*y.f, x.t)}, true
		}
		return value{t: x.t, i: saturated(float64(x.i)/y.f, x.t)}, true
	}
	if op == "*" {
		return value{t: x.t, i: x.i * y.i}, true
	}
	if y.i == 0 {
		fail("divide")
	}
	return value{t: x.t, i: x.i / y.i}, true
}
