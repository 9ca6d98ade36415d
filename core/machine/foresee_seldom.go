package machine

import "celandine/core/check"

func (f *foresight) product(in *instruction) {
	x, y := f.line(in.b), f.line(in.c)
	if x.moves() && y.moves() {
		f.fail()
	}
	if y.moves() {
		x, y = y, x
	}
	f.wraps(in.a, x.times(y.at), in.n, false)
}

func (f *foresight) division(in *instruction) {
	x, by := f.line(in.b), f.m.words[in.c]
	f.fixed(in.c)
	if by == 0 {
		return // a fault
	}
	if in.op == opDivUnsigned || in.op == opModUnsigned {
		f.natural(x, still(by))
	}
	q, rest := f.quotient(x, by)
	if in.op == opMod || in.op == opModUnsigned {
		q = rest
	}
	f.wraps(in.a, q, in.n, false)
}

// natural fails for lines, of which any moves, that are not the same as signed and as unsigned numbers.
func (f *foresight) natural(x, y line) {
	if (x.moves() || y.moves()) && (f.less(x, still(0)) || f.less(y, still(0))) {
		f.fail()
	}
}

func (f *foresight) lessUnsigned(in *instruction) {
	x, y := f.line(in.b), f.line(in.c)
	f.natural(x, y)
	if in.op == opLessUnsigned {
		f.less(x, y)
	} else {
		f.less(y, x)
	}
}

// conversion follows an instruction that mostly turns to reals and back, of which none moves.
func (f *foresight) conversion(in *instruction) {
	from, to, l := elementary[in.n>>8], elementary[in.n&0xff], f.line(in.b)
	switch {
	case from == to || !l.moves():
	case !countable(from) || !countable(to):
		f.fail()
	case from.Class == check.Duration:
		l, _ = f.quotient(l, millisecond)
	case to.Class == check.Duration:
		l = l.times(millisecond)
	}
	f.wraps(in.a, l, uint16(64-to.Bits), to.Class == check.Unsigned || to.Class == check.BitString)
}

// countable reports the types whose values a line can be: whole numbers and times.
func countable(t *check.Type) bool {
	switch t.Class {
	case check.Signed, check.Unsigned, check.BitString, check.Duration:
		return true
	}
	return false
}

// seldom follows instructions that mostly have words that stand still.
func (f *foresight) seldom(in *instruction) {
	words := f.m.words
	switch in.op {
	case opAndWords, opOrWords, opXorWords, opPower, opAddReal, opSubReal, opMulReal, opDivReal, opPowerReal:
		f.fixed(in.b, in.c)
		f.becomes(in.a, line{})
	case opNotWords, opNegateReal:
		f.fixed(in.b)
		f.becomes(in.a, line{})
	case opWiden:
		f.becomes(in.a, line{})
	case opEqualReal, opLessReal, opLessEqualReal:
		f.fixed(in.b, in.c)
	case opForTest, opForNext:
		f.fixed(in.b, in.c, in.c+1)
	case opCheckStep:
		f.fixed(in.b)
	case opCheckRange:
		f.within(f.line(in.b), words[in.c], words[in.c+1])
	case opOrdinal:
		o := f.line(in.b).minus(still(words[in.c]))
		f.within(o, 0, words[in.c+1]-1)
		f.becomes(in.a, o)
	case opLoadBit, opLoadText, opStoreBit, opStoreText:
		f.fixed(in.c)
	case opLoadWord:
		f.fixed(in.c)
		f.becomes(in.a, f.line(uint32(int64(in.b)+words[in.c])))
	case opStoreWord:
		f.fixed(in.c)
		f.becomes(uint32(int64(in.a)+words[in.c]), f.line(in.b))
	case opCopyWords:
		copy(f.slopes[in.a:in.a+in.c], f.slopes[in.b:in.b+in.c])
	case opApply:
		f.applied(in)
	}
}

// applied follows a standard function.
func (f *foresight) applied(in *instruction) {
	x := f.m.code.operands[in.b : in.b+in.c]
	t := elementary[f.m.code.operands[in.b+in.c]]
	line := func(i int) line { return f.line(uint32(x[i])) }
	switch function := check.Function(in.n); {
	case function == check.Absolute && countable(t):
		l := line(0)
		if t.Class == check.Signed && f.less(l, still(0)) {
			l = still(0).minus(l)
		}
		f.wraps(in.a, l, uint16(64-t.Bits), t.Class != check.Signed)
	case (function == check.Minimum || function == check.Maximum) && countable(t):
		a, b := line(0), line(1)
		if t.IsUnsigned64() {
			f.natural(a, b)
		}
		if f.less(a, b) == (function == check.Maximum) {
			a = b
		}
		f.becomes(in.a, a)
	case function == check.Multiplex:
		f.fixed(uint32(x[0]))
		if k := f.m.words[x[0]]; t.Class != check.Boolean && t.Class != check.Text && k >= 0 && k < int64(len(x)-1) {
			f.becomes(in.a, line(int(k)+1))
		}
	default:
		f.other(function, in, t, x)
	}
}

// other follows a function that is foreseen only where nothing moves. Its operands may be bits and texts: where a word of the same number
// moves, that is taken for one that it reads.
func (f *foresight) other(function check.Function, in *instruction, t *check.Type, x []operand) {
	for _, o := range x {
		if int(o) < len(f.slopes) {
			f.fixed(uint32(o))
		}
	}
	if givesWord(function, t) {
		f.becomes(in.a, line{})
	}
}

// givesWord reports whether the result of a function of a type is a word.
func givesWord(f check.Function, t *check.Type) bool {
	switch f {
	case check.Length, check.FindText:
		return true
	case check.FromText:
		return t.Class != check.Boolean
	case check.Minimum, check.Maximum:
		return t.Class != check.Text
	}
	return f < check.Minimum || f == check.TimeTimes || f == check.TimeBy
}
