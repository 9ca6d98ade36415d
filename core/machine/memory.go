package machine

import (
	"slices"
	"unsafe"
)

// This file alone reads and writes memory without bounds checks, since a scan does little
// else. It is safe because of [Code.verified]: every operand of every instruction that the loop in
// execute.go executes is looked at once, when the code is built, and code that fails is refused.

// A memory is what the loop works on.
type memory struct{ code, links, bits, words unsafe.Pointer }

// memoryOf returns what a machine's loop works on. It has to be as large as its code was verified for.
func memoryOf(c *Code, bits []byte, words []int64) memory {
	bits, words = bits[:len(c.start.bits)], words[:len(c.start.words)]
	return memory{unsafe.Pointer(unsafe.SliceData(c.instructions)), unsafe.Pointer(unsafe.SliceData(c.links)),
		unsafe.Pointer(unsafe.SliceData(bits)), unsafe.Pointer(unsafe.SliceData(words))}
}

const instructionSize = unsafe.Sizeof(instruction{})

func (m memory) instruction(pc int) unsafe.Pointer {
	return unsafe.Add(m.code, uintptr(pc)*instructionSize)
}

func fetch(at unsafe.Pointer) *instruction { return (*instruction)(at) }

func next(at unsafe.Pointer) unsafe.Pointer { return unsafe.Add(at, instructionSize) }

func (m memory) pc(at unsafe.Pointer) int {
	return int((uintptr(at) - uintptr(m.code)) / instructionSize)
}

// between counts the instructions from one to another.
func between(from, to unsafe.Pointer) int {
	return int((uintptr(to) - uintptr(from)) / instructionSize)
}

// alone is an instruction with two ends behind it.
type alone [3]instruction

func (a *alone) with(in instruction) unsafe.Pointer {
	a[0] = in
	return unsafe.Pointer(a)
}

func (m memory) bit(o uint32) byte { return *(*byte)(unsafe.Add(m.bits, uintptr(o))) }

// put writes a bit and its opposite at once.
func (m memory) put(at uint32, v byte) {
	*(*[pair]byte)(unsafe.Add(m.bits, uintptr(at))) = pairs[v&1]
}

// pairs are the two values of a bit in memory.
var pairs = [2][pair]byte{{0, 1}, {1, 0}}

func (m memory) both(at uint32) *[pair]byte { return (*[pair]byte)(unsafe.Add(m.bits, uintptr(at))) }

func (m memory) word(i uint32) *int64 { return (*int64)(unsafe.Add(m.words, uintptr(i)*8)) }

func (m memory) link(i uint32) link { return *(*link)(unsafe.Add(m.links, uintptr(i)*4)) }

func (m memory) timer(in *instruction) timerFace {
	return timerFace{(*[timerBits]byte)(unsafe.Add(m.bits, uintptr(in.a))), (*[timerWords]int64)(unsafe.Add(m.words, uintptr(in.b)*8))}
}

// What an instruction's operands are, in the order of its fields.
const (
	aBit     = 'b' // read
	aPlace   = 'p' // a bit that is written
	aWord    = 'w'
	aTarget  = 't'
	aFrom    = 'l' // the first link; the next field is the end
	aTimer   = 'T' // its bits; the next field is its first word
	aCounter = 'C'
	aTable   = 's' // the first of the words with the stretches' places
	unused   = '.'
)

// operandsOf lists what the operands are of each instruction that the loop executes.
var operandsOf = [...]string{
	opEnd: "", opCopy: "pb", opAnd: "pbb", opOr: "pbb", opAnd3: "pbbb", opOr3: "pbbb", opAnd4: "pbbbb",
	opOrAnd: "pbbb", opAndOr: "pbbbbb", opSetAnd: "pbb", opResetAnd: "pbb", opProduct: "pl", opSum: "pl",
	opSet: "pb", opReset: "pb", opRise: "pbp", opFall: "pbp",
	opMove: "ww", opAdd: "www", opEqual: "pwwb", opLess: "pwwb", opLessEqual: "pwwb",
	opJump: "t", opJumpIf: "tb", opJumpUnless: "tb", opUnlessRise: "tbpp",
	opTON: "T.wbp", opTOF: "T.wbp", opCTU: "C.wbpb",
	opNext: "tws", opNoticeBit: "ppww", opNoticeWord: "wwww",
}

// verified reports whether the loop can execute the code without leaving its memory. Two ends stand last, since the
// loop looks one instruction ahead.
func (c *Code) verified() bool {
	n := len(c.instructions)
	if n < 2 || c.instructions[n-1].op != opEnd || c.instructions[n-2].op != opEnd {
		return false
	}
	for i := range c.instructions {
		if !c.within(&c.instructions[i]) {
			return false
		}
	}
	for _, e := range c.entries {
		if e.start < 0 || e.start+1 >= n {
			return false
		}
	}
	return true
}

// within reports whether an instruction's operands lie in the code's memory.
func (c *Code) within(in *instruction) bool {
	if in.op == opForTest || in.op == opForNext {
		return c.holds(aTarget, []uint32{in.a})
	}
	if int(in.op) >= len(operandsOf) {
		return true // left to checked code
	}
	fields := [...]uint32{in.a, in.b, in.c, in.d, in.e, in.f, in.g}
	for i, kind := range operandsOf[in.op] {
		if !c.holds(kind, fields[i:]) {
			return false
		}
	}
	return true
}

func (c *Code) holds(kind rune, fields []uint32) bool {
	at := uint64(fields[0])
	bits, words := uint64(len(c.start.bits)), uint64(len(c.start.words))
	switch kind {
	case aBit:
		return at < bits
	case aPlace:
		return at%pair == 0 && at+pair <= bits
	case aWord:
		return at < words
	case aTarget:
		return at+1 < uint64(len(c.instructions))
	case aTimer:
		return at%pair == 0 && at+timerBits <= bits && uint64(fields[1])+timerWords <= words
	case aCounter:
		return at%pair == 0 && at+counterBits <= bits && uint64(fields[1])+counterWords <= words
	case aTable:
		return at+mostStretches <= words && !slices.ContainsFunc(c.start.words[at:at+mostStretches], func(pc int64) bool {
			return pc < 0 || pc+1 >= int64(len(c.instructions))
		})
	case aFrom:
		return c.linksWithin(at, uint64(fields[1]))
	}
	return kind == unused
}

func (c *Code) linksWithin(from, to uint64) bool {
	if from > to || to > uint64(len(c.links)) {
		return false
	}
	for _, l := range c.links[from:to] {
		if uint64(l>>1) >= uint64(len(c.start.bits)) {
			return false
		}
	}
	return true
}
