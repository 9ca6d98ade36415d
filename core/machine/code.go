// Package machine runs checked programs.
//
// [Compile] turns a check.Program into [Code]: a flat list of register
// instructions with a side table back to the source. [Code.Start] gives a [Machine],
// whose whole state is two slices, booleans a byte each and everything else
// 64 bits, so that it can be copied, compared and restored. [Machine.Scan]
// executes one scan; [Code.Play] runs a whole script and records what was watched.
//
// The package reads no clock: the time of scan n is n × period. The same code,
// script and period give the same trace on every host.
package machine

import (
	"sort"
	"strings"

	"celandine/core/check"
	"celandine/core/signal"
	"celandine/core/source"
)

// operand is the index of a bit, with its lowest binary digit set where the
// bit is read inverted.
type operand uint32

func bit(index uint32) operand          { return operand(index << 1) }
func (o operand) inverted() operand     { return o ^ 1 }
func (o operand) read(bits []byte) byte { return bits[o>>1] ^ byte(o&1) }

// Bit 0 is always FALSE, so that both constants are operands.
const (
	never  = operand(0)
	always = operand(1)
)

// An instruction has up to three operands. Bits and words are indexes into the
// machine's two memories.
type instruction struct {
	op      op
	n       uint16
	a, b, c uint32
}

type op uint16

const (
	opEnd op = iota
	// Bits: a is the destination, b and c are operands.
	opCopy
	opAnd
	opOr
	opXor
	opAll // n operands from code.operands[b]
	opAny
	opSet   // a becomes TRUE where b is
	opReset // a becomes FALSE where b is TRUE
	opRise  // a is TRUE where b is and bit c, its memory, was not; the memory follows b
	opFall
	// Words: a is the destination.
	opMove
	opAdd // n: bits to shift out and back, so that the result wraps
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
	// Between the two.
	opEqual // bit a from words b, c
	opLess
	opLessEqual
	opLessUnsigned
	opLessEqualUnsigned
	opWiden // word a from operand b
	opTruth // bit a is TRUE where word b is not zero
	// Flow: a is the target.
	opJump
	opJumpIf
	opJumpUnless
	opForTest   // jumps to a when counter b has passed word c; word c+1 is the step
	opForNext   // adds the step and jumps to a, unless counter b would pass the limit or leave type n of counting
	opCheckStep // a fault where word b is zero
	// Blocks: a is the first bit of the instance, b its first word; c-1, where c
	// is set, is a word that is copied to PT or PV first.
	opSR
	opRS
	opRTrig
	opFTrig
	opTON
	opTOF
	opTP
	opTACC
	opCTU // n: index of the type in counting
	opCTD
	opCTUD
)

// Code is a compiled program. It is read-only and may be shared.
type Code struct {
	instructions []instruction
	spans        []source.Span // of each instruction
	operands     []operand
	bits         []byte // memory at the start
	words        []int64
	liveBits     int // what is state; the rest is constants and scratch
	liveWords    int
	slots        map[string]Slot
	names        []string
	inputs       []string
	outputs      []string
	firstScan    uint32
}

// A Slot is where a named value lives.
type Slot struct {
	Name  string // as declared
	Type  *check.Type
	Input bool
	Point bool
	index uint32
}

func (s Slot) isBit() bool { return s.Type == check.Bool }

// Slot finds a value by the name that a watch list uses: mist_valve,
// settle.ET, or program.name where programs share names.
func (c *Code) Slot(name string) (Slot, bool) {
	s, ok := c.slots[strings.ToLower(name)]
	return s, ok
}

// Names lists the name of every value in alphabetical order.
func (c *Code) Names() []string { return c.names }

// Inputs lists the names of the inputs in the order of declaration.
func (c *Code) Inputs() []string { return c.inputs }

// Outputs lists the names of the outputs in the order of declaration.
func (c *Code) Outputs() []string { return c.outputs }

// addSlot gives a place a name unless another has it, and reports whether it did.
func (c *Code) addSlot(s Slot) bool {
	key := strings.ToLower(s.Name)
	if _, taken := c.slots[key]; taken {
		return false
	}
	c.slots[key] = s
	return true
}

func (c *Code) sortNames() { sort.Strings(c.names) }

// KindOf returns the kind of a named value, for reading scan tables.
func (c *Code) KindOf(name string) (signal.Kind, bool) {
	s, ok := c.Slot(name)
	if !ok {
		return 0, false
	}
	return s.Type.Kind(), true
}
