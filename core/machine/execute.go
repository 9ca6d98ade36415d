package machine

// A stop is why execute returned.
type stop uint8

const (
	finished stop = iota
	outOfFuel
	divided  // by zero
	zeroStep // of a FOR
)

// execute runs from pc until the end of the program or a fault, or until fuel
// instructions have been executed. It returns where it stopped, and why.
func (m *Machine) execute(pc, fuel int, now int64) (int, stop) {
	code, operands := m.code.instructions, m.code.operands
	bits, words := m.bits, m.words
	for ; fuel > 0; fuel-- {
		in := &code[pc]
		pc++
		switch in.op {
		case opEnd:
			return pc - 1, finished
		case opCopy:
			bits[in.a] = operand(in.b).read(bits)
		case opAnd:
			bits[in.a] = operand(in.b).read(bits) & operand(in.c).read(bits)
		case opOr:
			bits[in.a] = operand(in.b).read(bits) | operand(in.c).read(bits)
		case opXor:
			bits[in.a] = operand(in.b).read(bits) ^ operand(in.c).read(bits)
		case opAll:
			v := byte(1)
			for _, o := range operands[in.b:in.c] {
				v &= o.read(bits)
			}
			bits[in.a] = v
		case opAny:
			v := byte(0)
			for _, o := range operands[in.b:in.c] {
				v |= o.read(bits)
			}
			bits[in.a] = v
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
			words[in.a] = words[in.b]
		case opAdd:
			words[in.a] = (words[in.b] + words[in.c]) << in.n >> in.n
		case opSub:
			words[in.a] = (words[in.b] - words[in.c]) << in.n >> in.n
		case opMul:
			words[in.a] = (words[in.b] * words[in.c]) << in.n >> in.n
		case opNegate:
			words[in.a] = -words[in.b] << in.n >> in.n
		case opDiv, opMod, opDivUnsigned, opModUnsigned:
			if words[in.c] == 0 {
				return pc - 1, divided
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

		case opEqual:
			bits[in.a] = truth(words[in.b] == words[in.c])
		case opLess:
			bits[in.a] = truth(words[in.b] < words[in.c])
		case opLessEqual:
			bits[in.a] = truth(words[in.b] <= words[in.c])
		case opLessUnsigned:
			bits[in.a] = truth(uint64(words[in.b]) < uint64(words[in.c]))
		case opLessEqualUnsigned:
			bits[in.a] = truth(uint64(words[in.b]) <= uint64(words[in.c]))
		case opWiden:
			words[in.a] = int64(operand(in.b).read(bits))
		case opTruth:
			bits[in.a] = truth(words[in.b] != 0)

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
		case opCheckStep:
			if words[in.b] == 0 {
				return pc - 1, zeroStep
			}
		case opForTest:
			if passed(words[in.b], words[in.c], words[in.c+1], in.n == countsUlint) {
				pc = int(in.a)
			}
		case opForNext:
			if m.forNext(in) {
				pc = int(in.a)
			}

		case opSR:
			f := bits[in.a : in.a+3]
			f[2] = f[0] | f[2]&^f[1]
		case opRS:
			f := bits[in.a : in.a+3]
			f[2] = (f[0] | f[2]) &^ f[1]
		case opRTrig:
			f := bits[in.a : in.a+3]
			f[1] = f[0] &^ f[2]
			f[2] = f[0]
		case opFTrig:
			f := bits[in.a : in.a+3]
			f[1] = (f[0] | f[2]) ^ 1
			f[2] = f[0] ^ 1
		case opTON:
			onDelay(timerFace(in, bits, words), words, in, now)
		case opTOF:
			offDelay(timerFace(in, bits, words), words, in, now)
		case opTP:
			pulse(timerFace(in, bits, words), words, in, now)
		case opTACC:
			accumulate(timerFace(in, bits, words), words, in, now)
		case opCTU:
			countUp(in, bits, words)
		case opCTD:
			countDown(in, bits, words)
		case opCTUD:
			countBoth(in, bits, words)
		}
	}
	return pc, outOfFuel
}

func truth(b bool) byte {
	if b {
		return 1
	}
	return 0
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
