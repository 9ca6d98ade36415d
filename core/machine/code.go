// Package machine runs checked programs.
//
// [Compile] turns a check.Program into [Code]: a flat list of register
// instructions with a side table back to the source. [Code.Start] gives a [Machine],
// whose whole state is three slices, booleans a byte each, texts, and everything else
// 64 bits, so that it can be copied, compared and restored. [Machine.Scan]
// executes one scan; [Code.Play] runs a whole script and records what was watched.
//
// Functions and function blocks of one's own are compiled into the place of
// each call, so that every operand is an index that is known beforehand.
//
// compile*.go and layout.go make the code; they share this room because they share
// its hundred instructions, which nobody else has use for. execute.go is the loop,
// with block.go, timer.go and counter.go for the standard blocks; scan.go is one scan,
// with forces, of which track.go leaves out what has not changed since it ran, in code that cut*.go cuts to pieces.
// play.go plays whole scripts (script.go) and records them (record.go); skip.go passes over what goes on as it did, as foresee*.go
// and line.go prove by executing a cycle on values that move evenly.
// What happens within a scan, element by element, core/observe tells.
//
// The package reads no clock: the time of scan n is n × period. The same code,
// script and period give the same trace on every host.
package machine

import (
	"celandine/core/check"
	"celandine/core/source"
)

// pair is the size of a bit in memory: its byte, and a byte with its opposite, so that
// reading it inverted costs nothing.
const pair = 2

// operand is where a bit or its opposite lies.
type operand uint32

func bit(at uint32) operand             { return operand(at) }
func (o operand) inverted() operand     { return o ^ 1 }
func (o operand) read(bits []byte) byte { return bits[o] }

// put writes a bit and its opposite.
func put(bits []byte, at uint32, v byte) {
	both := bits[at : at+pair]
	both[0], both[1] = v, v^1
}

// unset appends memory for a number of bytes of bits that are FALSE.
func unset(bits []byte, bytes uint32) []byte {
	for range bytes / pair {
		bits = append(bits, 0, 1)
	}
	return bits
}

// The bit at 0 is always FALSE, so that both constants are operands.
const (
	never  = operand(0)
	always = operand(1)
)

// An instruction has up to seven operands: indexes into the machine's memories, or a target to jump to.
type instruction struct {
	op               op
	n                uint16
	a, b, c, d, e, f uint32
	g                uint32
}

// A link is a contact in a chain: an operand, then whether it ends its group.
type link uint32

func linkOf(o operand, ends bool) link {
	l := link(o) << 1
	if ends {
		l |= 1
	}
	return l
}

// What a chain does with its result, in n.
const (
	assigns uint16 = iota
	sets           // where it is TRUE
	resets         // where it is TRUE
)

type op uint16

const (
	opEnd op = iota
	// Bits: a is the destination, the others are operands.
	opCopy
	opAnd
	opOr
	opAnd3
	opOr3
	opAnd4
	opOrAnd  // (b or c) and d: a hold-in
	opAndOr  // (b and c or d and e) and f
	opSetAnd // a becomes TRUE where b and c are
	opResetAnd
	opProduct // of sums: the links b … c−1; n tells what becomes of a
	opSum     // of products
	opSet     // a becomes TRUE where b is
	opReset   // a becomes FALSE where b is TRUE
	opRise    // a is TRUE where b is and bit c, its memory, was not; the memory follows b
	opFall
	// Words: a is the destination.
	opMove
	opAdd // n: bits to shift out and back, so that the result wraps
	// Between the two.
	opEqual // bit a from words b, c, and only where the operand d is TRUE
	opLess
	opLessEqual
	// Flow: a is the target.
	opJump
	opJumpIf
	opJumpUnless
	opUnlessRise // jumps unless b is TRUE and bit c, its memory, was not; which is written to bit d
	// Blocks: a is the first bit of the instance, b its first word. Before the block runs, the operand d, the
	// power that drives it, is copied to its first bit, and the word c to its preset; after it has run, its
	// output g to the bit e. What is not given is copied to itself. CTU has its R from the operand f.
	opTON
	opTOF
	opCTU // n: index of the type in counting
	// Of code that is cut into stretches.
	opNext       // to the first stretch from the nth on whose bit is set in word b, or to a; where they begin is in the words from c on
	opNoticeBit  // where bit a is not as in b, it is copied there, and the bits of word c are set in word d
	opNoticeWord // the same with words a and b

	// From here on what the loop leaves to others.

	opXor
	opSub
	opMul
	opDiv
	opMod
	opNegate
	opWrap
	opAndWords
	opOrWords
	opXorWords
	opNotWords
	opDivUnsigned
	opModUnsigned
	opWrapUnsigned
	opPower
	opConvert // n: index of the type from in the high byte and of the type to in the low one
	// Reals: n is 32 where the result is rounded to single precision.
	opAddReal
	opSubReal
	opMulReal
	opDivReal
	opNegateReal
	opPowerReal
	opEqualReal // bit a from words b, c
	opLessReal
	opLessEqualReal
	// Texts: a is the destination, n the length that it holds.
	opMoveText
	opEqualText
	opLessText
	opLessEqualText
	// Arrays: word a becomes the ordinal of word b, whose lower bound and count
	// are the words c and c+1.
	opOrdinal
	opCheckRange // a fault unless word b is within the words c and c+1
	opLoadBit    // a from b and the offset in word c
	opLoadWord
	opLoadText
	opStoreBit // to a and the offset in word c, from b
	opStoreWord
	opStoreText // n: the length that it holds
	opCopyBits  // from b to a; c is the number
	opCopyWords
	opCopyTexts
	opApply        // n: the function; operands b … b+c−1, then the index of the type
	opLessUnsigned // bit a from words b, c
	opLessEqualUnsigned
	opWiden     // word a from operand b
	opTruth     // bit a is TRUE where word b is not zero
	opForTest   // jumps to a when counter b has passed word c; word c+1 is the step
	opForNext   // adds the step and jumps to a, unless counter b would pass the limit or leave type n of counting
	opCheckStep // a fault where word b is zero
	opBlock     // any other block: f is its routine, n for a counter as in opCTU
)

// Code is a compiled program. It is read-only and may be shared.
type Code struct {
	instructions []instruction
	spans        []source.Span // of each instruction
	operands     []operand
	links        []link
	program      *check.Program
	unfused      bool
	entries      []entry
	tasks        []scheduled
	start        image  // memory before the first scan
	live         extent // what is state; the rest is constants and scratch
	sizes        *sizes
	roots        []root         // what names begin with, in the order of declaration
	named        map[string]int // the first root of each name, in lower case
	places       map[*check.Variable]extent
	names        []string
	inputs       []string
	outputs      []string
	firstScan    uint32
	timers       []timer
	stop         func() bool // nil: nothing ends a run early
}
