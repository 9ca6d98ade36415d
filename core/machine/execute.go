package machine

import (
	"math"
	"math/bits"

	"celandine/core/check"
	"celandine/core/real"
)

// A Cause is why the execution of a program ended.
type Cause uint8

// The causes; all but Finished are faults.
const (
	Finished  Cause = iota
	OutOfFuel       // the scan's budget of instructions is used up
	Divided         // by zero
	ZeroStep        // of a FOR
	Outside         // of an array's bounds
	NoInput         // of MUX
	Beyond          // a subrange's limits
	tooLong         // a run, in all its scans
	tooMuch         // is recorded of a run
	seldom          // at an instruction that the loop leaves to others
)

// execute runs one program from pc until its end or a fault, or until the scan's fuel is used up.
// It returns where it stopped, and why.
func (m *Machine) execute(pc int, now int64) (int, Cause) {
	if len(m.forces) > 0 {
		return m.forced(pc, now)
	}
	for {
		var why Cause
		if pc, m.fuel, why = m.memory.loop(pc, m.fuel, now); why != seldom {
			return pc, why
		}
		if pc, why = m.rare(pc, now); why != Finished {
			return pc, why
		}
	}
}

// rare executes an instruction that the loop leaves to it and returns where to go on.
func (m *Machine) rare(pc int, now int64) (int, Cause) {
	in := &m.code.instructions[pc]
	switch {
	case in.op == opForTest && passed(m.words[in.b], m.words[in.c], m.words[in.c+1], in.n == countsUlint):
		return int(in.a), Finished
	case in.op == opForNext && m.forNext(in):
		return int(in.a), Finished
	}
	if m.fuel -= m.code.effort(in); m.fuel < 0 {
		return pc, OutOfFuel
	}
	if why := m.other(in, now); why != Finished {
		return pc, why
	}
	return pc + 1, Finished
}

// effort is how many instructions more than one a rare instruction counts for, by the time that it takes: a program cannot make a scan long
// with a few that are large.
func (c *Code) effort(in *instruction) int {
	switch in.op {
	case opCopyBits, opCopyWords, opCopyTexts:
		return int(in.c) / 16
	case opPowerReal:
		return 100
	case opApply:
		switch f := check.Function(in.n); {
		case f > check.Truncate && f <= check.Maximum:
			return 0
		case f <= check.Truncate && elementary[c.operands[in.b+in.c]].Class != check.Floating:
			return 0
		}
		return 25
	}
	return 0
}

// single executes one instruction and returns where to go on. It is for programs with forces, which apply after
// every write.
func (m *Machine) single(pc int, now int64) (int, Cause) {
	in := m.code.instructions[pc]
	switch jumps := m.bits; {
	case in.op == opEnd:
		return pc, Finished
	case in.op == opJump, in.op == opJumpIf && jumps[in.b] != 0, in.op == opJumpUnless && jumps[in.b] == 0:
		return int(in.a), OutOfFuel
	case in.op == opJumpIf, in.op == opJumpUnless:
		return pc + 1, OutOfFuel
	}
	alone := m.memory
	alone.code = m.alone.with(in)
	if _, _, why := alone.loop(0, 2, now); why != seldom {
		return pc + 1, OutOfFuel
	}
	next, why := m.rare(pc, now)
	if why == Finished {
		why = OutOfFuel
	}
	return next, why
}

// loop executes the instructions that are met often, and stops at any other. It is the faster the less
// it holds, and calls nothing that is not compiled into it. Fuel is counted where it jumps and stops.
func (m memory) loop(pc, fuel int, now int64) (int, int, Cause) {
	at := m.instruction(pc)
	since := at
	for {
		in := fetch(at)
		at = next(at)
		switch in.op {
		case opEnd:
			if fuel -= between(since, at); fuel < 0 {
				return m.pc(at) - 1, 0, OutOfFuel
			}
			return m.pc(at) - 1, fuel, Finished
		case opCopy:
			m.put(in.a, m.bit(in.b))
		case opAnd:
			m.put(in.a, m.bit(in.b)&m.bit(in.c))
		case opOr:
			m.put(in.a, m.bit(in.b)|m.bit(in.c))
		case opAnd3:
			m.put(in.a, m.bit(in.b)&m.bit(in.c)&m.bit(in.d))
		case opOr3:
			m.put(in.a, m.bit(in.b)|m.bit(in.c)|m.bit(in.d))
		case opAnd4:
			m.put(in.a, m.bit(in.b)&m.bit(in.c)&m.bit(in.d)&m.bit(in.e))
		case opOrAnd:
			m.put(in.a, (m.bit(in.b)|m.bit(in.c))&m.bit(in.d))
		case opAndOr:
			m.put(in.a, (m.bit(in.b)&m.bit(in.c)|m.bit(in.d)&m.bit(in.e))&m.bit(in.f))
		case opSetAnd:
			m.put(in.a, m.bit(in.a)|m.bit(in.b)&m.bit(in.c))
		case opResetAnd:
			m.put(in.a, m.bit(in.a)&^(m.bit(in.b)&m.bit(in.c)))
		case opProduct:
			v, group := byte(1), byte(0)
			for i := in.b; i < in.c; i++ {
				l := m.link(i)
				more := byte(l)&1 ^ 1
				group |= m.bit(uint32(l >> 1))
				v &= group | more
				group &= more
			}
			m.become(in, v)
		case opSum:
			v, group := byte(0), byte(1)
			for i := in.b; i < in.c; i++ {
				l := m.link(i)
				end := byte(l) & 1
				group &= m.bit(uint32(l >> 1))
				v |= group & end
				group |= end
			}
			m.become(in, v)
		case opSet:
			m.put(in.a, m.bit(in.a)|m.bit(in.b))
		case opReset:
			m.put(in.a, m.bit(in.a)&^m.bit(in.b))
		case opRise:
			v, before := m.bit(in.b), m.bit(in.c)
			m.put(in.c, v)
			m.put(in.a, v&^before)
		case opUnlessRise:
			v, before := m.bit(in.b), m.bit(in.c)
			m.put(in.c, v)
			m.put(in.d, v&^before)
			if v&^before == 0 {
				if fuel -= between(since, at); fuel < 0 {
					return m.pc(at) - 1, 0, OutOfFuel
				}
				at = m.instruction(int(in.a))
				since = at
			}
		case opFall:
			v, before := m.bit(in.b), m.bit(in.c)
			m.put(in.c, v)
			m.put(in.a, before&^v)
		case opMove:
			*m.word(in.a) = *m.word(in.b)
		case opAdd:
			*m.word(in.a) = (*m.word(in.b) + *m.word(in.c)) << in.n >> in.n
		case opEqual:
			m.put(in.a, truth(*m.word(in.b) == *m.word(in.c))&m.bit(in.d))
		case opLess:
			m.put(in.a, truth(*m.word(in.b) < *m.word(in.c))&m.bit(in.d))
		case opLessEqual:
			m.put(in.a, truth(*m.word(in.b) <= *m.word(in.c))&m.bit(in.d))
		case opJump:
			if fuel -= between(since, at); fuel < 0 {
				return m.pc(at) - 1, 0, OutOfFuel
			}
			at = m.instruction(int(in.a))
			since = at
		case opJumpIf:
			if m.bit(in.b) != 0 {
				if fuel -= between(since, at); fuel < 0 {
					return m.pc(at) - 1, 0, OutOfFuel
				}
				at = m.instruction(int(in.a))
				since = at
			}
		case opJumpUnless:
			if m.bit(in.b) == 0 {
				if fuel -= between(since, at); fuel < 0 {
					return m.pc(at) - 1, 0, OutOfFuel
				}
				at = m.instruction(int(in.a))
				since = at
			}
		case opTON: // IEC 61131-3, table 46: Q stays from the scan in which ET reaches PT until IN drops
			on := m.bit(in.d)
			m.put(in.a+timerIN, on)
			t := m.timer(in)
			t.words[wordPT] = *m.word(in.c)
			q := byte(0)
			if on == 0 {
				t.turn(0, idle)
				t.words[wordET] = 0
			} else if *t.phase() == over {
				t.cap()
				q = 1
			} else {
				t.begin(idle, now)
				if t.run(now) {
					t.turn(1, over)
					q = 1
				}
			}
			m.put(in.e, q)
		case opTOF: // Q at once with IN, and for PT after it
			on := m.bit(in.d)
			m.put(in.a+timerIN, on)
			t := m.timer(in)
			t.words[wordPT] = *m.word(in.c)
			q := byte(1)
			if on != 0 {
				t.turn(1, held)
				t.words[wordET] = 0
			} else if *t.phase() == idle || *t.phase() == over {
				t.cap()
				q = 0
			} else {
				t.begin(held, now)
				if t.run(now) {
					t.turn(0, over)
					q = 0
				}
			}
			m.put(in.e, q)
		case opCTU: // IEC 61131-3, table 45
			up, reset, before := m.bit(in.d), m.bit(in.f), m.bit(in.a+upWas)
			m.put(in.a, up)
			m.put(in.a+upR, reset)
			m.put(in.a+upWas, up)
			pv, cv := *m.word(in.c), *m.word(in.b + wordCV)
			if reset != 0 {
				cv = 0
			} else if counted(up, before) && cv != limits[in.n][1] {
				cv++
			}
			*m.word(in.b + wordPV), *m.word(in.b + wordCV) = pv, cv
			q := reached(in.n, cv, pv)
			m.put(in.a+wayOut, q)
			m.put(in.e, q)
		case opNext:
			fuel -= between(since, at)
			dirty := m.word(in.b)
			n := bits.TrailingZeros64(uint64(*dirty) >> in.n << in.n)
			at = m.instruction(int(in.a))
			if n < mostStretches {
				*dirty &^= 1 << n
				at = m.instruction(int(*m.word(in.c + uint32(n))))
			}
			since = at
		case opNoticeBit:
			if now, before := m.both(in.a), m.both(in.b); *now != *before {
				*before = *now
				*m.word(in.d) |= *m.word(in.c)
			}
		case opNoticeWord:
			if now, before := m.word(in.a), m.word(in.b); *now != *before {
				*before = *now
				*m.word(in.d) |= *m.word(in.c)
			}
		default:
			if fuel -= between(since, at); fuel < 0 {
				return m.pc(at) - 1, 0, OutOfFuel
			}
			return m.pc(at) - 1, fuel, seldom
		}
	}
}

// other executes the instructions that are met less often.
func (m *Machine) other(in *instruction, now int64) Cause {
	bits, words, texts := m.bits, m.words, m.texts
	switch in.op {
	case opXor:
		put(bits, in.a, operand(in.b).read(bits)^operand(in.c).read(bits))
	case opSub:
		words[in.a] = (words[in.b] - words[in.c]) << in.n >> in.n
	case opMul:
		words[in.a] = (words[in.b] * words[in.c]) << in.n >> in.n
	case opNegate:
		words[in.a] = -words[in.b] << in.n >> in.n
	case opDiv, opMod, opDivUnsigned, opModUnsigned:
		if words[in.c] == 0 {
			return Divided
		}
		words[in.a] = quotient(in.op, words[in.b], words[in.c]) << in.n >> in.n
	case opWrap:
		words[in.a] = words[in.b] << in.n >> in.n
	case opWrapUnsigned:
		words[in.a] = int64(uint64(words[in.b]) << in.n >> in.n)
	case opAndWords:
		words[in.a] = words[in.b] & words[in.c]
	case opOrWords:
		words[in.a] = words[in.b] | words[in.c]
	case opXorWords:
		words[in.a] = words[in.b] ^ words[in.c]
	case opNotWords:
		words[in.a] = ^words[in.b]
	case opPower:
		words[in.a] = check.IntegerPower(words[in.b], words[in.c]) << in.n >> in.n
	case opConvert:
		words[in.a] = check.ConvertValue(elementary[in.n>>8], elementary[in.n&0xff], words[in.b])
	case opAddReal:
		words[in.a] = fromReal(in.n, toReal(words[in.b])+toReal(words[in.c]))
	case opSubReal:
		words[in.a] = fromReal(in.n, toReal(words[in.b])-toReal(words[in.c]))
	case opMulReal:
		words[in.a] = fromReal(in.n, toReal(words[in.b])*toReal(words[in.c]))
	case opDivReal:
		words[in.a] = fromReal(in.n, toReal(words[in.b])/toReal(words[in.c]))
	case opNegateReal:
		words[in.a] = fromReal(in.n, -toReal(words[in.b]))
	case opPowerReal:
		words[in.a] = fromReal(in.n, real.Pow(toReal(words[in.b]), toReal(words[in.c])))
	case opEqualReal:
		put(bits, in.a, truth(toReal(words[in.b]) == toReal(words[in.c])))
	case opLessReal:
		put(bits, in.a, truth(toReal(words[in.b]) < toReal(words[in.c])))
	case opLessEqualReal:
		put(bits, in.a, truth(toReal(words[in.b]) <= toReal(words[in.c])))
	case opMoveText:
		texts[in.a] = cut(texts[in.b], int(in.n))
	case opEqualText:
		put(bits, in.a, truth(texts[in.b] == texts[in.c]))
	case opLessText:
		put(bits, in.a, truth(texts[in.b] < texts[in.c]))
	case opLessEqualText:
		put(bits, in.a, truth(texts[in.b] <= texts[in.c]))
	case opOrdinal:
		o := words[in.b] - words[in.c]
		if uint64(o) >= uint64(words[in.c+1]) {
			return Outside
		}
		words[in.a] = o
	case opCheckRange:
		if v := words[in.b]; v < words[in.c] || v > words[in.c+1] {
			return Beyond
		}
	case opLoadBit:
		copy(bits[in.a:in.a+pair], bits[int64(in.b)+pair*words[in.c]:])
	case opLoadWord:
		words[in.a] = words[int64(in.b)+words[in.c]]
	case opLoadText:
		texts[in.a] = texts[int64(in.b)+words[in.c]]
	case opStoreBit:
		copy(bits[int64(in.a)+pair*words[in.c]:], bits[in.b:in.b+pair])
	case opStoreWord:
		words[int64(in.a)+words[in.c]] = words[in.b]
	case opStoreText:
		texts[int64(in.a)+words[in.c]] = cut(texts[in.b], int(in.n))
	case opCopyBits:
		copy(bits[in.a:in.a+in.c], bits[in.b:in.b+in.c])
	case opCopyWords:
		copy(words[in.a:in.a+in.c], words[in.b:in.b+in.c])
	case opCopyTexts:
		copy(texts[in.a:in.a+in.c], texts[in.b:in.b+in.c])
	case opApply:
		if why := m.apply(in); why != Finished {
			return why
		}
	case opLessUnsigned:
		put(bits, in.a, truth(uint64(words[in.b]) < uint64(words[in.c])))
	case opLessEqualUnsigned:
		put(bits, in.a, truth(uint64(words[in.b]) <= uint64(words[in.c])))
	case opWiden:
		words[in.a] = int64(operand(in.b).read(bits))
	case opTruth:
		put(bits, in.a, truth(words[in.b] != 0))
	case opCheckStep:
		if words[in.b] == 0 {
			return ZeroStep
		}
	case opBlock:
		put(bits, in.a, operand(in.d).read(bits))
		words := words[in.b:]
		if in.c != in.b {
			words[wordPT] = m.words[in.c] // or PV, which lies there too
		}
		routines[in.f].run(instance{bits[in.a:], words, in.n, now})
		put(bits, in.e, operand(in.g).read(bits))
	}
	return Finished
}

// become does with a bit what a chain's action says.
func (m memory) become(in *instruction, v byte) {
	switch in.n {
	case assigns:
	case sets:
		v |= m.bit(in.a)
	default:
		v = m.bit(in.a) &^ v
	}
	m.put(in.a, v)
}

func truth(b bool) byte {
	if b {
		return 1
	}
	return 0
}

func toReal(v int64) float64 { return math.Float64frombits(uint64(v)) }

// fromReal gives the bits of a real, rounded to single precision where bits is
// 32. Rounding twice is harmless here: a float64 holds more than twice the digits.
func fromReal(bits uint16, f float64) int64 {
	if bits == 32 {
		f = float64(float32(f))
	}
	return real.Bits(f)
}

func quotient(o op, x, y int64) int64 {
	switch o {
	case opDiv:
		return x / y
	case opMod:
		return x % y
	case opDivUnsigned:
		return int64(uint64(x) / uint64(y))
	}
	return int64(uint64(x) % uint64(y))
}
