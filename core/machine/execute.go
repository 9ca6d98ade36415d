package machine

import (
	"math"

	"celandine/core/check"
)

// A stop is why execute returned.
type stop uint8

const (
	finished stop = iota
	outOfFuel
	divided  // by zero
	zeroStep // of a FOR
	outside  // of an array's bounds
	beyond   // a subrange's limits
	tooLong  // a run, in all its scans
)

// execute runs from pc until the end of the program or a fault, or until fuel
// instructions have been executed. It returns where it stopped, and why.
func (m *Machine) execute(pc, fuel int, now int64) (int, stop) {
	code := m.code.instructions
	bits := m.bits
	for ; fuel > 0; fuel-- {
		in := &code[pc]
		pc++
		switch in.op {
		case opEnd:
			m.fuel = fuel
			return pc - 1, finished
		case opCopy:
			bits[in.a] = operand(in.b).read(bits)
		case opAnd:
			bits[in.a] = operand(in.b).read(bits) & operand(in.c).read(bits)
		case opOr:
			bits[in.a] = operand(in.b).read(bits) | operand(in.c).read(bits)
		case opAnd3:
			bits[in.a] = operand(in.b).read(bits) & operand(in.c).read(bits) & operand(in.in).read(bits)
		case opOr3:
			bits[in.a] = operand(in.b).read(bits) | operand(in.c).read(bits) | operand(in.in).read(bits)
		case opAnd4:
			bits[in.a] = operand(in.b).read(bits) & operand(in.c).read(bits) & operand(in.in).read(bits) & operand(in.out).read(bits)
		case opOrAnd:
			bits[in.a] = (operand(in.b).read(bits) | operand(in.c).read(bits)) & operand(in.in).read(bits)
		case opSetAnd:
			bits[in.a] |= operand(in.b).read(bits) & operand(in.c).read(bits)
		case opResetAnd:
			bits[in.a] &^= operand(in.b).read(bits) & operand(in.c).read(bits)
		case opProduct:
			v, group := byte(1), byte(0)
			for _, l := range m.code.links[in.b:in.c] {
				more := byte(l>>1)&1 ^ 1
				group |= bits[l>>2] ^ byte(l&1)
				v &= group | more
				group &= more
			}
			become(&bits[in.a], in.n, v)
		case opSum:
			v, group := byte(0), byte(1)
			for _, l := range m.code.links[in.b:in.c] {
				end := byte(l>>1) & 1
				group &= bits[l>>2] ^ byte(l&1)
				v |= group & end
				group |= end
			}
			become(&bits[in.a], in.n, v)
		case opSet:
			bits[in.a] |= operand(in.b).read(bits)
		case opReset:
			bits[in.a] &^= operand(in.b).read(bits)
		case opRise:
			v := operand(in.b).read(bits)
			before := bits[in.c]
			bits[in.c] = v
			bits[in.a] = v &^ before
		case opFall:
			v := operand(in.b).read(bits)
			before := bits[in.c]
			bits[in.c] = v
			bits[in.a] = before &^ v
		case opMove:
			m.words[in.a] = m.words[in.b]
		case opAdd:
			m.words[in.a] = (m.words[in.b] + m.words[in.c]) << in.n >> in.n
		case opEqual:
			bits[in.a] = truth(m.words[in.b] == m.words[in.c])
		case opLess:
			bits[in.a] = truth(m.words[in.b] < m.words[in.c])
		case opLessEqual:
			bits[in.a] = truth(m.words[in.b] <= m.words[in.c])
		case opJump:
			pc = int(in.a)
		case opJumpIf:
			if operand(in.b).read(bits) != 0 {
				pc = int(in.a)
			}
		case opJumpUnless:
			if operand(in.b).read(bits) == 0 {
				pc = int(in.a)
			}
		case opForTest:
			if passed(m.words[in.b], m.words[in.c], m.words[in.c+1], in.n == countsUlint) {
				pc = int(in.a)
			}
		case opForNext:
			if m.forNext(in) {
				pc = int(in.a)
			}
		case opTON:
			in.feed(bits)
			onDelay(timerFace(in, bits, m.words), m.words, in, now)
			in.drain(bits)
		case opCTU:
			in.feed(bits)
			countUp(in, bits, m.words)
			in.drain(bits)
		default:
			if why := m.other(in, now); why != finished {
				return pc - 1, why
			}
		}
	}
	return pc, outOfFuel
}

// other executes the instructions that are met less often, apart from the
// loop, which is the faster the less it holds.
func (m *Machine) other(in *instruction, now int64) stop {
	bits, words, texts := m.bits, m.words, m.texts
	switch in.op {
	case opXor:
		bits[in.a] = operand(in.b).read(bits) ^ operand(in.c).read(bits)
	case opSub:
		words[in.a] = (words[in.b] - words[in.c]) << in.n >> in.n
	case opMul:
		words[in.a] = (words[in.b] * words[in.c]) << in.n >> in.n
	case opNegate:
		words[in.a] = -words[in.b] << in.n >> in.n
	case opDiv, opMod, opDivUnsigned, opModUnsigned:
		if words[in.c] == 0 {
			return divided
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
		words[in.a] = fromReal(in.n, math.Pow(toReal(words[in.b]), toReal(words[in.c])))
	case opEqualReal:
		bits[in.a] = truth(toReal(words[in.b]) == toReal(words[in.c]))
	case opLessReal:
		bits[in.a] = truth(toReal(words[in.b]) < toReal(words[in.c]))
	case opLessEqualReal:
		bits[in.a] = truth(toReal(words[in.b]) <= toReal(words[in.c]))
	case opMoveText:
		texts[in.a] = cut(texts[in.b], int(in.n))
	case opEqualText:
		bits[in.a] = truth(texts[in.b] == texts[in.c])
	case opLessText:
		bits[in.a] = truth(texts[in.b] < texts[in.c])
	case opLessEqualText:
		bits[in.a] = truth(texts[in.b] <= texts[in.c])
	case opOrdinal:
		o := words[in.b] - words[in.c]
		if uint64(o) >= uint64(words[in.c+1]) {
			return outside
		}
		words[in.a] = o
	case opCheckRange:
		if v := words[in.b]; v < words[in.c] || v > words[in.c+1] {
			return beyond
		}
	case opLoadBit:
		bits[in.a] = bits[int64(in.b)+words[in.c]]
	case opLoadWord:
		words[in.a] = words[int64(in.b)+words[in.c]]
	case opLoadText:
		texts[in.a] = texts[int64(in.b)+words[in.c]]
	case opStoreBit:
		bits[int64(in.a)+words[in.c]] = bits[in.b]
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
		if why := m.apply(in); why != finished {
			return why
		}
	case opLessUnsigned:
		bits[in.a] = truth(uint64(words[in.b]) < uint64(words[in.c]))
	case opLessEqualUnsigned:
		bits[in.a] = truth(uint64(words[in.b]) <= uint64(words[in.c]))
	case opWiden:
		words[in.a] = int64(operand(in.b).read(bits))
	case opTruth:
		bits[in.a] = truth(words[in.b] != 0)
	case opCheckStep:
		if words[in.b] == 0 {
			return zeroStep
		}
	case opSR:
		in.feed(bits)
		f := bits[in.a : in.a+3]
		f[2] = f[0] | f[2]&^f[1]
		in.drain(bits)
	case opRS:
		in.feed(bits)
		f := bits[in.a : in.a+3]
		f[2] = (f[0] | f[2]) &^ f[1]
		in.drain(bits)
	case opRTrig:
		in.feed(bits)
		f := bits[in.a : in.a+3]
		f[1] = f[0] &^ f[2]
		f[2] = f[0]
		in.drain(bits)
	case opFTrig:
		in.feed(bits)
		f := bits[in.a : in.a+3]
		f[1] = (f[0] | f[2]) ^ 1
		f[2] = f[0] ^ 1
		in.drain(bits)
	case opTOF:
		in.feed(bits)
		offDelay(timerFace(in, bits, words), words, in, now)
		in.drain(bits)
	case opTP:
		in.feed(bits)
		pulse(timerFace(in, bits, words), words, in, now)
		in.drain(bits)
	case opTACC:
		in.feed(bits)
		accumulate(timerFace(in, bits, words), words, in, now)
		in.drain(bits)
	case opCTD:
		in.feed(bits)
		countDown(in, bits, words)
		in.drain(bits)
	case opCTUD:
		in.feed(bits)
		countBoth(in, bits, words)
		in.drain(bits)
	}
	return finished
}

// become does with a bit what a chain's action says.
func become(bit *byte, action uint16, v byte) {
	switch action {
	case assigns:
		*bit = v
	case sets:
		*bit |= v
	default:
		*bit &^= v
	}
}

// feed gives a block the power that drives it.
func (in *instruction) feed(bits []byte) {
	if in.in != 0 {
		bits[in.a] = operand(in.in - 1).read(bits)
	}
}

// drain hands a block's power on to a coil.
func (in *instruction) drain(bits []byte) {
	if in.out != 0 {
		bits[in.out-1] = bits[in.q]
	}
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
	return int64(math.Float64bits(f))
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
