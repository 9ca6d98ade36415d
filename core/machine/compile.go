package machine

import (
	"celandine/core/check"
	"celandine/core/pool"
	"celandine/core/source"
)

// MaxInstructions bounds the code of one program, with its functions and blocks
// in the place of each call.
const MaxInstructions = 200_000

// Compile translates a checked program. The code is nil when it would be too large.
func Compile(p *check.Program) (*Code, source.List) { return compileProgram(p, true) }

// compileProgram fuses a block's power with its instruction only where asked: a force
// must find every write alone.
func compileProgram(p *check.Program, fused bool) (*Code, source.List) {
	s := &sizes{map[*check.Variable]extent{}, map[*check.Unit]extent{}}
	places := make(map[*check.Variable]extent, len(p.Variables))
	c := &compiler{
		code:      &Code{named: make(map[string]int, len(p.Variables)), places: places, sizes: s, program: p, unfused: !fused},
		fused:     fused,
		sizes:     s,
		places:    places,
		constants: map[int64]uint32{},
		literals:  map[string]uint32{},
		inouts:    map[*check.Variable]location{},
	}
	c.lay(p)
	const usual = 32 // instructions of a short program
	c.code.instructions, c.code.spans = make([]instruction, 0, usual), make([]source.Span, 0, usual)
	for _, u := range p.Units {
		c.code.entries = append(c.code.entries, entry{u.Name, int(c.here())})
		for _, v := range p.Temporaries(u) {
			c.begin(v, c.places[v])
		}
		c.unit(u)
		c.emit(instruction{op: opEnd})
	}
	c.emit(instruction{op: opEnd})
	c.code.everyScan()
	if c.tooLarge {
		var problems source.List
		problems.Add(source.TooLarge, p.Units[0].Tree.Name.Span, "Call blocks and functions from fewer places.",
			"With its functions and blocks in the place of each call, the program has more than %d instructions.", MaxInstructions)
		return nil, problems
	}
	if !c.code.verified() {
		var problems source.List
		problems.Add(source.Internal, p.Units[0].Tree.Name.Span, "Please report it with this program.",
			"Celandine made a mistake in translating this program and will not run it.")
		return nil, problems
	}
	c.code.sortNames()
	return c.code, nil
}

type compiler struct {
	code      *Code
	sizes     *sizes
	places    map[*check.Variable]extent
	constants map[int64]uint32
	literals  map[string]uint32
	at        source.Span // what is being compiled
	frame     extent      // of the function or block being compiled
	inouts    map[*check.Variable]location
	powers    pool.Pool[[]operand]
	alone     pool.Pool[operand]
	tooLarge  bool
	fused     bool
	landed    uint32 // the last place that a jump leads to
	shared    uint32 // the last place before which the result has, or may have, several readers
	// Scratch is used like a stack: a statement gives back what it took.
	freeBits, freeWords, freeTexts []uint32
	usedBits, usedWords, usedTexts int
	exits, continues               []int // jumps to patch at the end of a loop
	returns                        []int
}

func (c *compiler) unit(u *check.Unit) {
	outer := c.returns
	c.returns = nil
	c.block(u.Statements)
	for _, r := range u.Rungs {
		c.rung(r)
	}
	c.land(c.returns)
	c.returns = outer
}

func (c *compiler) emit(in instruction) int {
	if len(c.code.instructions) >= MaxInstructions {
		c.tooLarge = true
		return 0
	}
	c.code.instructions = append(c.code.instructions, in)
	c.code.spans = append(c.code.spans, c.at)
	return len(c.code.instructions) - 1
}

// last returns the instruction before this place where nothing else leads here and it may be changed.
func (c *compiler) last() *instruction {
	if !c.fused || c.here() == 0 || c.landed == c.here() {
		return nil
	}
	return &c.code.instructions[c.here()-1]
}

func (c *compiler) here() uint32 { return uint32(len(c.code.instructions)) }

// land makes jumps arrive here.
func (c *compiler) land(jumps []int) {
	for _, j := range jumps {
		c.code.instructions[j].a = c.here()
		c.landed = c.here()
	}
}

func (c *compiler) constant(v int64) uint32 {
	at, ok := c.constants[v]
	if !ok {
		at = uint32(len(c.code.start.words))
		c.code.start.words = append(c.code.start.words, v)
		c.constants[v] = at
	}
	return at
}

func (c *compiler) scratchBit() uint32 {
	if c.usedBits == len(c.freeBits) {
		c.freeBits = append(c.freeBits, uint32(len(c.code.start.bits)))
		c.code.start.bits = unset(c.code.start.bits, pair)
	}
	c.usedBits++
	return c.freeBits[c.usedBits-1]
}

func (c *compiler) scratchWord() uint32 {
	if c.usedWords == len(c.freeWords) {
		c.freeWords = append(c.freeWords, uint32(len(c.code.start.words)))
		c.code.start.words = append(c.code.start.words, 0)
	}
	c.usedWords++
	return c.freeWords[c.usedWords-1]
}

func (c *compiler) scratchText() uint32 {
	if c.usedTexts == len(c.freeTexts) {
		c.freeTexts = append(c.freeTexts, uint32(len(c.code.start.texts)))
		c.code.start.texts = append(c.code.start.texts, "")
	}
	c.usedTexts++
	return c.freeTexts[c.usedTexts-1]
}

func (c *compiler) isScratch(o operand) bool { return uint32(o) >= c.code.live.bit }

// target is where a result goes: a given bit or word, or scratch as needed.
type target struct {
	index uint32
	given bool
}

func into(index uint32) target { return target{index, true} }

var anywhere = target{}

// bitAt returns where a bit result goes, taking scratch if none is given.
func (c *compiler) bitAt(t *target) uint32 {
	if !t.given {
		*t = into(c.scratchBit())
	}
	return t.index
}

func (c *compiler) wordAt(t *target) uint32 {
	if !t.given {
		*t = into(c.scratchWord())
	}
	return t.index
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
		return bit(c.load(e, t))
	case *check.Convert:
		return c.truth(e, t)
	case *check.Choose:
		c.choose(e, into(c.bitAt(&t)))
		return bit(t.index)
	case *check.Op:
		return c.boolOp(e, t)
	case *check.Apply:
		return bit(c.apply(e, t))
	case *check.Invoke:
		return bit(c.invoke(e).bit)
	}
	return never
}

func (c *compiler) truth(e *check.Convert, t target) operand {
	if e.X.Type().Class == check.Boolean {
		return c.boolOperand(e.X, t)
	}
	w := c.word(e.X, anywhere)
	at := c.bitAt(&t)
	if e.X.Type().Class == check.Floating { // negative zero is zero
		c.emit(instruction{op: opEqualReal, a: at, b: w, c: c.constant(0)})
		return bit(at).inverted()
	}
	c.emit(instruction{op: opTruth, a: at, b: w})
	return bit(at)
}

// choose compiles either of two values to one place. Where working out the other could be noticed, both are worked out first.
func (c *compiler) choose(e *check.Choose, t target) {
	if acts(e.X) || acts(e.Y) {
		first := c.held([]operand{c.bool(e.If, anywhere)})
		y := c.aside(e.Y.Type(), func(l location) { c.assignTo(l, e.Y.Type(), e.Y) })
		x := c.aside(e.X.Type(), func(l location) { c.assignTo(l, e.X.Type(), e.X) })
		c.either(first, x, y, t)
		return
	}
	c.either(c.bool(e.If, anywhere), e.X, e.Y, t)
}

// either compiles the one or the other of two values to a place.
func (c *compiler) either(first operand, x, y check.Expr, t target) {
	skip := c.jumpUnless(first)
	c.value(x, t)
	end := c.emit(instruction{op: opJump})
	c.land([]int{skip})
	c.value(y, t)
	c.land([]int{end})
}

// acts reports whether working an expression out may change something or end in a fault.
func acts(e check.Expr) bool {
	return check.Holds(e, func(x check.Expr) bool {
		switch x := x.(type) {
		case *check.Ref:
			return !static(x)
		case *check.Op:
			return (x.Op == check.Div || x.Op == check.Mod) && x.T.Class != check.Floating && !isConst(x.Y)
		case *check.Apply, *check.Invoke:
			return true
		}
		return false
	})
}

// value compiles a single value of any class to a place.
func (c *compiler) value(e check.Expr, t target) {
	switch e.Type().Class {
	case check.Boolean:
		c.bool(e, t)
	case check.Text:
		c.text(e, t)
	default:
		c.word(e, t)
	}
}

func (c *compiler) boolOp(e *check.Op, t target) operand {
	if e.X.Type().Class != check.Boolean {
		return c.compare(e, t)
	}
	switch e.Op {
	case check.Not:
		return c.boolOperand(e.X, anywhere).inverted()
	case check.And:
		if !check.Invokes(e) {
			return c.network(c.groups(check.And, check.Or, e, nil), t)
		}
		return c.all(c.operandsOf(check.And, e, nil), t)
	case check.Or:
		if !check.Invokes(e) {
			return c.sum(c.groups(check.Or, check.And, e, nil), t)
		}
		return c.any(c.operandsOf(check.Or, e, nil), t)
	}
	x := c.boolOperand(e.X, anywhere)
	if check.Invokes(e.Y) {
		x = c.held([]operand{x})
	}
	y := c.boolOperand(e.Y, anywhere)
	at := c.bitAt(&t)
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
	if check.Invokes(e) {
		for i, o := range list {
			list[i] = c.held([]operand{o})
		}
	}
	return append(list, c.boolOperand(e, anywhere))
}

// groups flattens (a OR b) AND c into [[a b] [c]].
func (c *compiler) groups(outer, inner check.Operator, e check.Expr, list power) power {
	if o, ok := e.(*check.Op); ok && o.T == check.Bool && o.X.Type().Class == check.Boolean {
		switch o.Op {
		case outer:
			return c.groups(outer, inner, o.Y, c.groups(outer, inner, o.X, list))
		case inner:
			return append(list, c.operandsOf(inner, o, nil))
		}
	}
	return append(list, []operand{c.boolOperand(e, anywhere)})
}

// all is TRUE where every operand is; any, where one is.
func (c *compiler) all(list []operand, t target) operand {
	var p power
	for _, o := range list {
		p = append(p, []operand{o})
	}
	return c.network(p, t)
}

func (c *compiler) any(list []operand, t target) operand {
	if len(list) == 0 {
		return never
	}
	return c.network(power{list}, t)
}

func (c *compiler) compare(e *check.Op, t target) operand {
	var x, y uint32
	class := e.X.Type().Class
	if class == check.Text {
		x, y = c.texts(e.X, e.Y, e.Turned)
	} else {
		x, y = c.pair(e.X, e.Y, e.Turned)
	}
	at := c.bitAt(&t)
	in := instruction{a: at, b: x, c: y, d: uint32(always)}
	ops := [3]op{opEqual, opLess, opLessEqual}
	switch {
	case class == check.Text:
		ops = [3]op{opEqualText, opLessText, opLessEqualText}
	case class == check.Floating:
		ops = [3]op{opEqualReal, opLessReal, opLessEqualReal}
	case e.X.Type().IsUnsigned64():
		ops = [3]op{opEqual, opLessUnsigned, opLessEqualUnsigned}
	}
	switch e.Op {
	case check.Less:
		in.op = ops[1]
	case check.LessEqual:
		in.op = ops[2]
	default:
		in.op = ops[0]
	}
	c.emit(in)
	if e.Op == check.NotEqual {
		return bit(at).inverted()
	}
	return bit(at)
}

// pair compiles two words, the second first where they were turned round; the first is kept where the second calls a function.
func (c *compiler) pair(x, y check.Expr, turned bool) (uint32, uint32) {
	if turned && (check.Invokes(x) || check.Invokes(y)) {
		b, a := c.pair(y, x, false)
		return a, b
	}
	a := c.word(x, anywhere)
	if check.Invokes(y) {
		kept := c.scratchWord()
		c.emit(instruction{op: opMove, a: kept, b: a})
		a = kept
	}
	return a, c.word(y, anywhere)
}

// word compiles any expression but a BOOL or a text, with the same promise as bool.
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
		return c.load(e, t)
	case *check.Convert:
		return c.convert(e, t)
	case *check.Choose:
		c.choose(e, into(c.wordAt(&t)))
		return t.index
	case *check.Op:
		return c.arithmetic(e, t)
	case *check.Apply:
		return c.apply(e, t)
	case *check.Invoke:
		return c.invoke(e).word
	}
	return 0
}

var wordOps = map[check.Operator]op{
	check.Not: opNotWords, check.Negate: opNegate, check.And: opAndWords, check.Or: opOrWords, check.Xor: opXorWords,
	check.Add: opAdd, check.Sub: opSub, check.Mul: opMul, check.Div: opDiv, check.Mod: opMod, check.Power: opPower,
}

var realOps = map[check.Operator]op{
	check.Negate: opNegateReal, check.Add: opAddReal, check.Sub: opSubReal, check.Mul: opMulReal, check.Div: opDivReal,
	check.Power: opPowerReal,
}

func (c *compiler) arithmetic(e *check.Op, t target) uint32 {
	in := instruction{op: wordOps[e.Op]}
	if e.Y != nil {
		in.b, in.c = c.pair(e.X, e.Y, e.Turned)
	} else {
		in.b = c.word(e.X, anywhere)
	}
	if e.T.Class == check.Floating {
		in.op, in.n, in.a = realOps[e.Op], uint16(e.T.Bits), c.wordAt(&t)
		c.emit(in)
		return in.a
	}
	if e.T.IsUnsigned64() {
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
	in.a = c.wordAt(&t)
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
	from, to := e.X.Type().Plain(), e.T.Plain()
	if from.Class == check.Floating || to.Class == check.Floating {
		return c.convertReal(e.X, from, to, t)
	}
	if from.Class == check.Boolean {
		o := c.bool(e.X, anywhere)
		at := c.wordAt(&t)
		c.emit(instruction{op: opWiden, a: at, b: uint32(o)})
		return at
	}
	x := c.word(e.X, anywhere)
	switch {
	case from.Class == check.Duration && to.Class != check.Duration:
		scratch := c.scratchWord()
		c.emit(instruction{op: opDiv, a: scratch, b: x, c: c.constant(millisecond)})
		x = scratch
	case to.Class == check.Duration && from.Class != check.Duration:
		at := c.wordAt(&t)
		c.emit(instruction{op: opMul, a: at, b: x, c: c.constant(millisecond)})
		return at
	}
	shift := uint16(64 - to.Bits)
	if shift == 0 || from.Bits < to.Bits && from.Class != check.Signed || from.Class == to.Class && from.Bits <= to.Bits {
		return x
	}
	at := c.wordAt(&t)
	wrap := opWrap
	if to.Class != check.Signed {
		wrap = opWrapUnsigned
	}
	c.emit(instruction{op: wrap, n: shift, a: at, b: x})
	return at
}

// elementary lists the types that instructions name by index.
var elementary = check.Elementary()

func typeIndex(t *check.Type) uint16 {
	for i, e := range elementary {
		if e == t.Plain() {
			return uint16(i)
		}
	}
	return 0
}

func (c *compiler) convertReal(x check.Expr, from, to *check.Type, t target) uint32 {
	w := uint32(0)
	if from.Class == check.Boolean {
		o := c.bool(x, anywhere)
		w = c.scratchWord()
		c.emit(instruction{op: opWiden, a: w, b: uint32(o)})
		from = check.Usint
	} else {
		w = c.word(x, anywhere)
	}
	at := c.wordAt(&t)
	c.emit(instruction{op: opConvert, n: typeIndex(from)<<8 | typeIndex(to), a: at, b: w})
	return at
}

// jumpUnless jumps where the operand is FALSE. An edge just compiled does that itself.
func (c *compiler) jumpUnless(o operand) int {
	if last := c.last(); last != nil && last.op == opRise && bit(last.a) == o {
		last.op, last.d = opUnlessRise, last.a
		return int(c.here()) - 1
	}
	return c.emit(instruction{op: opJumpUnless, b: uint32(o)})
}
