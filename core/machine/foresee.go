package machine

import "slices"

// A foresight executes a cycle of scans as it will be in every later cycle: words are lines that move evenly from one cycle to the next,
// bits and texts come back. Where every condition on the way stays as it is for so many cycles, and the cycle ends with the lines that it
// began with, one cycle on, then by induction so many cycles do just that.
type foresight struct {
	span
	m      *Machine // a copy: what it executes is the first cycle
	slopes []int64  // of each word: how it moves from one cycle to the next
	even   []int64  // of each word that is state: the same at the end of every scan, so that a recording of the cycle moves as a whole
	now    line     // the time of the scan
}

// mostForeseen is how many instructions a scan may execute that is foreseen: far from where the scan's budget ends.
const mostForeseen = Budget / 4

// foresee executes a cycle of scans from where a machine stands, of which the words in moved are known to move by slopes, and returns for how
// many cycles it holds, the first included: 0 where it does not or cannot be told.
func (f *foresight) foresee(m *Machine, scans int, moved []moved) int {
	f.begin(m, moved)
	cycle := int64(scans) * int64(m.period)
	for range scans {
		f.now = line{int64(f.m.scan) * int64(m.period), cycle}
		if !f.scan() || !slices.Equal(f.slopes[:len(f.even)], f.even) {
			return 0
		}
	}
	if !f.returned(m, moved) {
		return 0
	}
	return int(f.most) + 1
}

// moved is a word and by how much it moved in a cycle.
type moved struct {
	word uint32
	by   int64
}

func (f *foresight) begin(m *Machine, moved []moved) {
	if f.m == nil || f.m.code != m.code {
		f.m, f.slopes = m.code.Start(m.period), make([]int64, len(m.words))
	}
	f.m.scan, f.m.period, f.m.used = m.scan, m.period, 0
	f.m.forces = append(f.m.forces[:0], m.forces...)
	copy(f.m.bits, m.bits)
	copy(f.m.words, m.words)
	copy(f.m.texts, m.texts)
	clear(f.slopes)
	for _, w := range moved {
		f.slopes[w.word] = w.by
	}
	f.even = append(f.even[:0], f.slopes[:m.code.live.word]...)
	f.span = span{longest}
}

// longest is as many cycles as any run has.
const longest = 1 << 25

// returned reports whether the cycle that was executed ended as it began, one cycle on.
func (f *foresight) returned(m *Machine, moved []moved) bool {
	live := m.code.live
	if f.most < 0 || !slices.Equal(f.m.bits[:live.bit], m.bits[:live.bit]) || !slices.Equal(f.m.texts[:live.text], m.texts[:live.text]) {
		return false
	}
	for _, w := range moved {
		f.m.words[w.word] -= w.by
	}
	return slices.Equal(f.m.words[:live.word], m.words[:live.word])
}

// scan executes the tasks that are due and reports whether it is foreseen for more than itself.
func (f *foresight) scan() bool {
	m := f.m
	if m.first() {
		return false
	}
	m.fuel = mostForeseen
	for i := range m.code.tasks {
		if t := &m.code.tasks[i]; t.due(m.scan, false) && !f.program(t.start) {
			return false
		}
	}
	m.scan++
	return f.most > 0
}

// program executes a program and reports whether it came to its end.
func (f *foresight) program(pc int) bool {
	m := f.m
	f.force()
	for ; m.fuel > 0 && f.most > 0; m.fuel-- {
		in := &m.code.instructions[pc]
		if in.op == opEnd {
			return true
		}
		if in.op == opUnlessRise {
			pc = f.unlessRise(in, pc)
			continue
		}
		f.instruction(in)
		next, why := m.single(pc, f.now.at)
		if why != OutOfFuel {
			return false
		}
		pc = next
		f.force()
	}
	return false
}

func (f *foresight) force() {
	f.m.applyForces()
	for _, force := range f.m.forces {
		if !force.slot.bit {
			f.slopes[force.slot.index] = 0
		}
	}
}

// unlessRise executes an edge that jumps, which does not stand alone.
func (f *foresight) unlessRise(in *instruction, pc int) int {
	bits := f.m.bits
	v, before := operand(in.b).read(bits), operand(in.c).read(bits)
	put(bits, in.c, v)
	put(bits, in.d, v&^before)
	if v&^before == 0 {
		return int(in.a)
	}
	return pc + 1
}

func (f *foresight) line(word uint32) line { return line{f.m.words[word], f.slopes[word]} }

// becomes notes how a word moves that an instruction is about to write.
func (f *foresight) becomes(word uint32, l line) { f.slopes[word] = l.slope }

// fixed fails unless words stand still.
func (f *foresight) fixed(words ...uint32) {
	for _, w := range words {
		if f.slopes[w] != 0 {
			f.fail()
		}
	}
}

// wraps notes a result that is cut to a number of bits by shifting out and back: it moves as the line does until it would be cut otherwise.
func (f *foresight) wraps(word uint32, l line, shift uint16, unsigned bool) {
	f.becomes(word, l)
	if !l.moves() || shift == 0 { // 64 bits wrap as a line does
		return
	}
	if unsigned {
		f.within(line{int64(uint64(l.at) << shift >> shift), l.slope}, 0, int64(^uint64(0)>>shift))
		return
	}
	greatest := int64(^uint64(0) >> 1 >> shift)
	f.within(line{l.at << shift >> shift, l.slope}, -greatest-1, greatest)
}

// instruction follows the words of an instruction that is about to be executed. Of bits and texts nothing moves.
func (f *foresight) instruction(in *instruction) {
	switch in.op {
	case opMove:
		f.becomes(in.a, f.line(in.b))
	case opAdd:
		f.wraps(in.a, f.line(in.b).plus(f.line(in.c)), in.n, false)
	case opSub:
		f.wraps(in.a, f.line(in.b).minus(f.line(in.c)), in.n, false)
	case opNegate:
		f.wraps(in.a, still(0).minus(f.line(in.b)), in.n, false)
	case opMul:
		f.product(in)
	case opWrap, opWrapUnsigned:
		f.wraps(in.a, f.line(in.b), in.n, in.op == opWrapUnsigned)
	case opDiv, opMod, opDivUnsigned, opModUnsigned:
		f.division(in)
	case opConvert:
		f.conversion(in)
	case opEqual:
		f.same(f.line(in.b), f.line(in.c))
	case opLess:
		f.less(f.line(in.b), f.line(in.c))
	case opLessEqual:
		f.less(f.line(in.c), f.line(in.b))
	case opLessUnsigned, opLessEqualUnsigned:
		f.lessUnsigned(in)
	case opTruth:
		f.same(f.line(in.b), still(0))
	case opTON:
		f.onDelay(in)
	case opTOF:
		f.offDelay(in)
	case opCTU:
		f.countUp(in, f.bit(in.f))
	case opBlock:
		f.block(in)
	default:
		f.seldom(in)
	}
}
