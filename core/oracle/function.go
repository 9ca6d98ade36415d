package oracle

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"celandine/core/syntax"
)

var signs = map[string]string{"add": "+", "sub": "-", "mul": "*", "div": "/", "mod": "MOD", "and": "AND", "or": "OR", "xor": "XOR",
	"expt": "**",
	"gt":   ">", "ge": ">=", "eq": "=", "le": "<=", "lt": "<", "ne": "<>"}

// function calls a standard function, or one of one's own.
func (o *Interpreter) function(f *frame, call *syntax.Call, want *typ) value {
	name := lower(call.Callee.(*syntax.Identifier).Text)
	if u := o.units[name]; u != nil {
		return o.invoke(f, u, call)
	}
	args := inOrder(name, call)
	if from, to, ok := strings.Cut(name, "_to_"); ok {
		return convert(o.eval(f, args[0], o.types[from]), o.types[from], o.types[to])
	}
	if sign, ok := signs[name]; ok {
		return o.folded(f, sign, args, want)
	}
	switch name {
	case "move":
		return o.eval(f, args[0], want)
	case "not":
		return unary("NOT", o.eval(f, args[0], want))
	case "sel":
		g := o.truth(f, args[0])
		x, y := o.alike(f, args[1:], want)
		if g {
			return y
		}
		return x
	case "min", "max":
		return o.extreme(f, name, args, want)
	case "limit":
		low, in := o.alike(f, args[:2], want)
		high := o.eval(f, args[2], low.t)
		if compared("<", low.t, in, low) {
			in = low
		}
		if compared(">", low.t, in, high) {
			in = high
		}
		return in
	case "mux":
		k := o.eval(f, args[0], o.types["int"]).i
		var list []value
		for _, a := range args[1:] {
			list = append(list, o.eval(f, a, want))
		}
		if k < 0 || k >= int64(len(list)) {
			fail("index")
		}
		return list[k]
	}
	return o.single(f, name, args, want)
}

// formal are the names of the inputs of functions that have others than IN, or IN1, IN2 and so on.
var formal = map[string][]string{"sel": {"g", "in0", "in1"}, "limit": {"mn", "in", "mx"}, "left": {"in", "l"}, "right": {"in", "l"},
	"mid":    {"in", "l", "p"},
	"insert": {"in1", "in2", "p"}, "delete": {"in", "l", "p"}, "replace": {"in1", "in2", "l", "p"}, "shl": {"in", "n"}, "shr": {"in", "n"},
	"rol": {"in", "n"},
	"ror": {"in", "n"}, "expt": {"in1", "in2"}, "mux": {"k", "in0", "in1", "in2", "in3"}}

// inOrder lists the arguments of a call in the order of the function's inputs.
func inOrder(name string, call *syntax.Call) []syntax.Expr {
	args := make([]syntax.Expr, len(call.Arguments))
	for n, a := range call.Arguments {
		at := n
		if a.Name != nil {
			names := formal[name]
			if names == nil {
				names = []string{"in1", "in2", "in3", "in4"}
			}
			at = max(slices.Index(names, lower(a.Name.Text)), 0)
		}
		args[at] = a.Value
	}
	return args
}

// alike evaluates two arguments and gives both the type that holds both.
func (o *Interpreter) alike(f *frame, args []syntax.Expr, want *typ) (x, y value) {
	x, y = o.operands(f, args[0], args[1], want)
	t := o.common(x.t, y.t)
	return as(x, t), as(y, t)
}

// folded applies an operator from left to right; a comparison holds for each pair of neighbours.
func (o *Interpreter) folded(f *frame, sign string, args []syntax.Expr, want *typ) value {
	compares := strings.ContainsAny(sign, "<>=")
	if compares {
		want = nil
	}
	x, y := o.operands(f, args[0], args[1], want)
	out := o.binary(sign, x, y)
	for _, a := range args[2:] {
		next := o.eval(f, a, y.t)
		if compares {
			out = o.boolean(out.i != 0 && o.binary(sign, y, next).i != 0)
			y = next
			continue
		}
		out = o.binary(sign, out, next)
	}
	return out
}

func (o *Interpreter) extreme(f *frame, name string, args []syntax.Expr, want *typ) value {
	x, y := o.alike(f, args[:2], want)
	best := x
	if name == "max" == compared("<", x.t, x, y) && !(name == "min" && compared("=", x.t, x, y)) {
		best = y
	}
	for _, a := range args[2:] {
		next := as(o.eval(f, a, best.t), best.t)
		if (name == "max") == compared("<", best.t, best, next) {
			best = next
		}
	}
	return best
}

// single calls a function whose inputs have types of their own.
func (o *Interpreter) single(f *frame, name string, args []syntax.Expr, want *typ) value {
	var list []value
	for n, a := range args {
		implied := want
		if n > 0 {
			implied = o.types["lint"]
		}
		list = append(list, o.eval(f, a, implied))
	}
	x := list[0]
	text := func(s string) value { return value{t: o.types["string"], s: s} }
	number := func(n int) value { return value{t: o.types["int"], i: int64(n)} }
	switch name {
	case "abs":
		if x.t.family == signedFamily && x.i < 0 {
			x.i = wrap(x.t, -x.i)
		}
		x.f = math.Abs(x.f)
		return x
	case "trunc":
		return value{t: o.types["dint"], i: saturated(math.Trunc(x.f), o.types["dint"])}
	case "sqrt":
		x.f = rounded(x.t, math.Sqrt(x.f))
		return x
	case "shl":
		x.i = wrap(x.t, int64(shifted(uint64(x.i), list[1].i)))
		return x
	case "shr":
		n := min(max(list[1].i, 0), 64)
		x.i = int64(uint64(x.i) >> n)
		return x
	case "rol", "ror":
		bits := int64(x.t.bits)
		n := max(list[1].i, 0) % bits
		if name == "ror" {
			n = (bits - n) % bits
		}
		x.i = wrap(x.t, int64(uint64(x.i)<<n|uint64(x.i)>>(bits-n)))
		return x
	case "len":
		return number(len(x.s))
	case "left":
		return text(x.s[:clamp(list[1].i, len(x.s))])
	case "right":
		return text(x.s[len(x.s)-clamp(list[1].i, len(x.s)):])
	case "mid":
		from := clamp(list[2].i-1, len(x.s))
		return text(x.s[from:][:clamp(list[1].i, len(x.s)-from)])
	case "delete":
		from := clamp(list[2].i-1, len(x.s))
		return text(x.s[:from] + x.s[from:][clamp(list[1].i, len(x.s)-from):])
	case "insert":
		at := clamp(list[2].i, len(x.s))
		return text(x.s[:at] + list[1].s + x.s[at:])
	case "replace":
		from := clamp(list[3].i-1, len(x.s))
		return text(x.s[:from] + list[1].s + x.s[from:][clamp(list[2].i, len(x.s)-from):])
	case "concat":
		return text(x.s + list[1].s)
	case "find":
		return number(strings.Index(x.s, list[1].s) + 1)
	}
	unknown(name)
	return value{}
}

// rounded cuts a real to the digits of its type.
func rounded(t *typ, f float64) float64 {
	if t.bits == 32 {
		return float64(float32(f))
	}
	return f
}

func shifted(u uint64, n int64) uint64 {
	if n >= 64 {
		return 0
	}
	return u << max(n, 0)
}

func clamp(n int64, length int) int { return int(min(max(n, 0), int64(length))) }

// convert is A_TO_B: whole numbers are cut; a real rounds half to even and saturates; TIME counts milliseconds.
func convert(v value, from, to *typ) value {
	v = as(v, from)
	out := value{t: to}
	switch {
	case to.family == textFamily:
		out.s = strconv.FormatInt(v.i, 10)
	case from.family == textFamily:
		out.i, _ = strconv.ParseInt(v.s, 10, 64)
	case to.family == boolFamily:
		out.i = truth(v.i != 0 || v.f != 0)
	case from.family == realFamily && to.family == realFamily:
		return as(v, to)
	case from.family == realFamily:
		scale := 1.0
		if to.family == timeFamily {
			scale = 1e6
		}
		out.i = saturated(v.f*scale, to)
	case to.family == realFamily:
		out.f = float64(v.i)
		if from.family != signedFamily && from.bits == 64 && from.family != timeFamily {
			out.f = float64(uint64(v.i))
		}
		if from.family == timeFamily {
			out.f /= 1e6
		}
		out.f = rounded(to, out.f)
	case from.family == timeFamily && to.family != timeFamily:
		out.i = wrap(to, v.i/1e6)
	case to.family == timeFamily && from.family != timeFamily:
		out.i = v.i * 1e6
	default:
		out.i = wrap(to, v.i)
	}
	return out
}

func saturated(f float64, t *typ) int64 {
	f = math.RoundToEven(f)
	low, high := 0.0, math.Ldexp(1, t.bits)
	if t.family == signedFamily || t.family == timeFamily {
		low, high = -math.Ldexp(1, t.bits-1), math.Ldexp(1, t.bits-1)
	}
	switch {
	case math.IsNaN(f):
		return 0
	case f <= low:
		if low == 0 {
			return 0
		}
		return -1 << (t.bits - 1)
	case f >= high:
		if low == 0 {
			return int64(^uint64(0) >> (64 - t.bits))
		}
		return 1<<(t.bits-1) - 1
	case f >= 1<<63:
		return int64(uint64(f))
	}
	return int64(f)
}

// invoke calls a function of one's own, which has no memory.
func (o *Interpreter) invoke(f *frame, u *syntax.Unit, call *syntax.Call) value {
	inner := o.enter(u)
	inner.result = o.begin(o.typeOf(u.Result), nil)
	var inputs []string
	for _, s := range u.Sections {
		if s.Word != "VAR_INPUT" && s.Word != "VAR_IN_OUT" {
			continue
		}
		for _, v := range s.Variables {
			for _, n := range v.Names {
				inputs = append(inputs, lower(n.Text))
			}
		}
	}
	for n, a := range call.Arguments {
		if a.Output {
			continue
		}
		name := inputs[min(n, len(inputs)-1)]
		if a.Name != nil {
			name = lower(a.Name.Text)
		}
		if inOut(u, name) {
			inner.cells[name] = o.place(f, a.Value)
			continue
		}
		c := inner.cells[name]
		store(c, o.eval(f, a.Value, c.t))
	}
	o.body(inner)
	for _, a := range call.Arguments {
		if a.Output {
			store(o.place(f, a.Value), inner.cells[lower(a.Name.Text)].value())
		}
	}
	return inner.result.value()
}
