package machine

import (
	"celandine/core/check"
	"celandine/core/source"
)

// Compile translates a checked program. It cannot fail: what it is given is typed.
func Compile(p *check.Program) *Code {
	c := &compiler{
		code:      &Code{slots: map[string]Slot{}},
		places:    map[*check.Variable]place{},
		constants: map[int64]uint32{},
	}
	c.lay(p)
	for _, u := range p.Units {
		c.unit(u)
	}
	c.emit(instruction{op: opEnd})
	return c.code
}

type compiler struct {
	code      *Code
	places    map[*check.Variable]place
	constants map[int64]uint32
	at        source.Span // what is being compiled
	// Scratch is used like a stack: a statement gives back what it took.
	freeBits, freeWords []uint32
	usedBits, usedWords int
	exits, continues    []int // jumps to patch at the end of a loop
	returns             []int
}

func (c *compiler) unit(u *check.Unit) {
	c.returns = nil
	c.block(u.Statements)
	for _, r := range u.Rungs {
		c.rung(r)
	}
	c.land(c.returns)
}

func (c *compiler) emit(in instruction) int {
	c.code.instructions = append(c.code.instructions, in)
	c.code.spans = append(c.code.spans, c.at)
	return len(c.code.instructions) - 1
}

func (c *compiler) here() uint32 { return uint32(len(c.code.instructions)) }

// land makes jumps arrive here.
func (c *compiler) land(jumps []int) {
	for _, j := range jumps {
		c.code.instructions[j].a = c.here()
	}
}

func (c *compiler) constant(v int64) uint32 {
	at, ok := c.constants[v]
	if !ok {
		at = uint32(len(c.code.words))
		c.code.words = append(c.code.words, v)
		c.constants[v] = at
	}
	return at
}

func (c *compiler) scratchBit() uint32 {
	if c.usedBits == len(c.freeBits) {
		c.freeBits = append(c.freeBits, uint32(len(c.code.bits)))
		c.code.bits = append(c.code.bits, 0)
	}
	c.usedBits++
	return c.freeBits[c.usedBits-1]
}

func (c *compiler) scratchWord() uint32 {
	if c.usedWords == len(c.freeWords) {
		c.freeWords = append(c.freeWords, uint32(len(c.code.words)))
		c.code.words = append(c.code.words, 0)
	}
	c.usedWords++
	return c.freeWords[c.usedWords-1]
}

func (c *compiler) isScratch(o operand) bool { return int(o>>1) >= c.code.liveBits }

// target is where a result goes: a given bit or word, or scratch as needed.
type target struct {
	index uint32
	given bool
}

func into(index uint32) target { return target{index, true} }

var anywhere = target{}

func (c *compiler) bitAt(t target) uint32 {
	if t.given {
		return t.index
	}
	return c.scratchBit()
}

func (c *compiler) wordAt(t target) uint32 {
	if t.given {
		return t.index
	}
	return c.scratchWord()
}

// bool compiles a BOOL expression. Only its last instruction writes the target, so
// that the target may be read on the way.
func (c *compiler) bool(e check.Expr, t target) operand {
	o := c.boolOperand(e, t)
	if t.given && o != bit(t.index) {
		c.emit(instruction{op: opCopy, a: t.index, b: uint32(o)})
		o = bit(t.index)
	}
	return o
}

func (c *compiler) boolOperand(e check.Expr, t target) operand {
	switch e := e.(type) {
	case *check.Const:
		if e.Value != 0 {
			return always
		}
		return never
	case *check.Ref:
		return bit(c.index(e.Variable, e.Member))
	case *check.Convert:
		return c.truth(e, t)
	case *check.Choose:
		return c.chooseBool(e, t)
	case *check.Op:
		return c.boolOp(e, t)
	}
	return never
}

func (c *compiler) truth(e *check.Convert, t target) operand {
	w := c.word(e.X, anywhere)
	at := c.bitAt(t)
	c.emit(instruction{op: opTruth, a: at, b: w})
	return bit(at)
}

func (c *compiler) chooseBool(e *check.Choose, t target) operand {
	at := c.bitAt(t)
	skip := c.jumpUnless(c.bool(e.If, anywhere))
	c.bool(e.X, into(at))
	end := c.emit(instruction{op: opJump})
	c.land([]int{skip})
	c.bool(e.Y, into(at))
	c.land([]int{end})
	return bit(at)
}

func (c *compiler) boolOp(e *check.Op, t target) operand {
	if e.X.Type() != check.Bool {
		return c.compare(e, t)
	}
	switch e.Op {
	case check.Not:
		return c.boolOperand(e.X, anywhere).inverted()
	case check.And:
		return c.all(c.operandsOf(check.And, e, nil), t)
	case check.Or:
		return c.any(c.operandsOf(check.Or, e, nil), t)
	}
	x, y := c.boolOperand(e.X, anywhere), c.boolOperand(e.Y, anywhere)
	at := c.bitAt(t)
	c.emit(instruction{op: opXor, a: at, b: uint32(x), c: uint32(y)})
	if e.Op == check.Equal {
		return bit(at).inverted()
	}
	return bit(at)
}

// operandsOf flattens a AND b AND c into one list.
func (c *compiler) operandsOf(op check.Operator, e check.Expr, list []operand) []operand {
	if o, ok := e.(*check.Op); ok && o.Op == op && o.T == check.Bool {
		return c.operandsOf(op, o.Y, c.operandsOf(op, o.X, list))
	}
	return append(list, c.boolOperand(e, anywhere))
}

// all is TRUE where every operand is; any, where one is.
func (c *compiler) all(list []operand, t target) operand {
	return c.chain(opAnd, opAll, always, list, t)
}

func (c *compiler) any(list []operand, t target) operand {
	return c.chain(opOr, opAny, never, list, t)
}

func (c *compiler) chain(two, many op, none operand, list []operand, t target) operand {
	switch len(list) {
	case 0:
		return none
	case 1:
		return list[0]
	}
	at := c.bitAt(t)
	if len(list) == 2 {
		c.emit(instruction{op: two, a: at, b: uint32(list[0]), c: uint32(list[1])})
		return bit(at)
	}
	first := len(c.code.operands)
	c.code.operands = append(c.code.operands, list...)
	c.emit(instruction{op: many, n: 0, a: at, b: uint32(first), c: uint32(first + len(list))})
	return bit(at)
}

func unsigned64(t *check.Type) bool {
	return t.Bits == 64 && (t.Class == check.Unsigned || t.Class == check.BitString)
}

func (c *compiler) compare(e *check.Op, t target) operand {
	x, y := c.word(e.X, anywhere), c.word(e.Y, anywhere)
	at := c.bitAt(t)
	in := instruction{a: at, b: x, c: y}
	wide := unsigned64(e.X.Type())
	switch {
	case e.Op == check.Less && wide:
		in.op = opLessUnsigned
	case e.Op == check.LessEqual && wide:
		in.op = opLessEqualUnsigned
	case e.Op == check.Less:
		in.op = opLess
	case e.Op == check.LessEqual:
		in.op = opLessEqual
	default:
		in.op = opEqual
	}
	c.emit(in)
	if e.Op == check.NotEqual {
		return bit(at).inverted()
	}
	return bit(at)
}

// word compiles any expression but a BOOL, with the same promise as bool.
func (c *compiler) word(e check.Expr, t target) uint32 {
	w := c.wordOf(e, t)
	if t.given && w != t.index {
		c.emit(instruction{op: opMove, a: t.index, b: w})
		return t.index
	}
	return w
}

func (c *compiler) wordOf(e check.Expr, t target) uint32 {
	switch e := e.(type) {
	case *check.Const:
		return c.constant(e.Value)
	case *check.Ref:
		return c.index(e.Variable, e.Member)
	case *check.Convert:
		return c.convert(e, t)
	case *check.Choose:
		at := c.wordAt(t)
		skip := c.jumpUnless(c.bool(e.If, anywhere))
		c.word(e.X, into(at))
		end := c.emit(instruction{op: opJump})
		c.land([]int{skip})
		c.word(e.Y, into(at))
		c.land([]int{end})
		return at
	case *check.Op:
		return c.arithmetic(e, t)
	}
	return 0
}

var wordOps = map[check.Operator]op{
	check.Not: opNotWords, check.Negate: opNegate, check.And: opAndWords, check.Or: opOrWords, check.Xor: opXorWords,
	check.Add: opAdd, check.Sub: opSub, check.Mul: opMul, check.Div: opDiv, check.Mod: opMod,
}

func (c *compiler) arithmetic(e *check.Op, t target) uint32 {
	in := instruction{op: wordOps[e.Op]}
	in.b = c.word(e.X, anywhere)
	if e.Y != nil {
		in.c = c.word(e.Y, anywhere)
	}
	if unsigned64(e.T) {
		switch in.op {
		case opDiv:
			in.op = opDivUnsigned
		case opMod:
			in.op = opModUnsigned
		}
	}
	shift := uint16(64 - e.T.Bits)
	unsigned := shift > 0 && e.T.Class != check.Signed
	if !unsigned {
		in.n = shift
	}
	in.a = c.wordAt(t)
	whole := c.at
	c.at = e.At // a fault names the operation, not the whole statement
	defer func() { c.at = whole }()
	if !unsigned {
		c.emit(in)
		return in.a
	}
	scratch := c.scratchWord()
	at := in.a
	in.a = scratch
	c.emit(in)
	c.emit(instruction{op: opWrapUnsigned, n: shift, a: at, b: scratch})
	return at
}

const millisecond = 1_000_000

func (c *compiler) convert(e *check.Convert, t target) uint32 {
	from, to := e.X.Type(), e.T
	if from == check.Bool {
		o := c.bool(e.X, anywhere)
		at := c.wordAt(t)
		c.emit(instruction{op: opWiden, a: at, b: uint32(o)})
		return at
	}
	x := c.word(e.X, anywhere)
	switch {
	case from == check.Time:
		scratch := c.scratchWord()
		c.emit(instruction{op: opDiv, a: scratch, b: x, c: c.constant(millisecond)})
		x = scratch
	case to == check.Time:
		at := c.wordAt(t)
		c.emit(instruction{op: opMul, a: at, b: x, c: c.constant(millisecond)})
		return at
	}
	shift := uint16(64 - to.Bits)
	if shift == 0 || from.Bits < to.Bits && from.Class != check.Signed || from.Class == to.Class && from.Bits <= to.Bits {
		return x
	}
	at := c.wordAt(t)
	wrap := opWrap
	if to.Class != check.Signed {
		wrap = opWrapUnsigned
	}
	c.emit(instruction{op: wrap, n: shift, a: at, b: x})
	return at
}

func (c *compiler) jumpUnless(o operand) int {
	return c.emit(instruction{op: opJumpUnless, b: uint32(o)})
}
