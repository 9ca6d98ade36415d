package machine

import (
	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/say"
	"celandine/core/signal"
)

// A blockCode is what the code knows of a standard block: what runs it, and where its members and its hidden state lie, counted
// from the instance's first bit and first word.
type blockCode struct {
	does
	family  block.Family
	routine uint32 // of opBlock
	members map[string]uint32
	hidden  extent
	size    extent
	preset  string // the input that the block's instruction can load itself
}

// does is what runs a block: an instruction of its own, or a routine, with what follows its words along lines. Lasts tells of a timer
// that its start is the time of its last call, which moves on in every scan that calls it.
type does struct {
	op    op
	run   routine
	along func(*foresight, *instruction)
	lasts bool
}

// deeds are what runs the standard blocks.
var deeds = map[string]does{
	"SR":     {run: setWins},
	"RS":     {run: resetWins},
	"R_TRIG": {run: rising},
	"F_TRIG": {run: falling},
	"CTU":    {op: opCTU},
	"CTD":    {run: countDown, along: (*foresight).countDown},
	"CTUD":   {run: countBoth, along: (*foresight).countBoth},
	"TON":    {op: opTON},
	"TOF":    {op: opTOF},
	"TP":     {run: pulse, along: (*foresight).pulse},
	"TACC":   {run: accumulate, along: (*foresight).accumulate, lasts: true},
}

// An instance is a standard block's memory from its first bit and word on, what it counts in, and the time.
type instance struct {
	bits  []byte
	words []int64
	n     uint16
	now   int64
}

// A routine executes a block with its inputs as they stand.
type routine func(instance)

// wayOut is where the output lies that is the power's way out: behind the way in, which is the first bit.
const wayOut = pair

var blockCodes, routines = func() (map[string]*blockCode, []does) {
	codes, routines := map[string]*blockCode{}, []does{}
	for _, b := range block.All() {
		d, ok := deeds[b.Name]
		if !ok {
			continue
		}
		codes[b.Name] = laid(b, d)
		if d.run != nil {
			codes[b.Name].op, codes[b.Name].routine = opBlock, uint32(len(routines))
			routines = append(routines, d)
		}
	}
	return codes, routines
}()

// standard is the code of a standard block. One without would be half a block: a test sees to it that there is none.
func standard(b *check.Block) *blockCode {
	code := blockCodes[b.Kind()]
	if code == nil {
		panic(say.Textf("machine: the block %s has no code", b.Name))
	}
	return code
}

// laid gives a block's members their places: of bits the way in, the outputs, what is remembered, the other inputs; of words the
// preset, what is measured, what is remembered.
func laid(b *block.Block, d does) *blockCode {
	c := &blockCode{does: d, family: b.Family, members: map[string]uint32{}, preset: b.Preset().Name}
	place := func(pins []block.Pin, fits func(block.Pin) bool) {
		for _, p := range pins {
			switch {
			case !fits(p):
			case p.Kind == signal.Bool:
				c.members[p.Name] = c.size.bit
				c.size.bit += pair
			default:
				c.members[p.Name] = c.size.word
				c.size.word++
			}
		}
	}
	leads := func(p block.Pin) bool { return p.Role == block.Power || p.Role == block.Preset }
	place(b.In, leads)
	place(b.Out, func(block.Pin) bool { return true })
	c.hidden = c.size
	c.size = c.size.plus(extent{bit: uint32(b.State.Bits) * pair, word: uint32(b.State.Words)})
	place(b.In, func(p block.Pin) bool { return !leads(p) })
	return c
}

// instruction returns the block's instruction for an instance, with nothing given.
func (b *blockCode) instruction(at extent) instruction {
	in := instruction{op: b.op, a: at.bit, b: at.word, c: at.word, d: at.bit, e: at.bit + wayOut, f: b.routine, g: at.bit + wayOut}
	if b.op == opCTU {
		in.f = at.bit + b.members["R"]
	}
	return in
}

// Where a latch's reset and an edge's memory lie; the way in is the first bit, the way out the next.
const (
	latchR  = 4
	edgeWas = 4
)

func setWins(i instance)   { put(i.bits, wayOut, i.bits[0]|i.bits[wayOut]&^i.bits[latchR]) }
func resetWins(i instance) { put(i.bits, wayOut, (i.bits[0]|i.bits[wayOut])&^i.bits[latchR]) }

func rising(i instance) {
	put(i.bits, wayOut, i.bits[0]&^i.bits[edgeWas])
	put(i.bits, edgeWas, i.bits[0])
}

func falling(i instance) {
	put(i.bits, wayOut, (i.bits[0]|i.bits[edgeWas])^1)
	put(i.bits, edgeWas, i.bits[0]^1)
}
