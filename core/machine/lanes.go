package machine

import (
	"slices"

	"celandine/core/check"
)

// Lanes is 64 machines of one program at once, a bit of a word each. Only programs that do nothing but logic have one: contacts, coils,
// storage and edges, in every scan.
type Lanes struct {
	code *Code
	bits []uint64 // as a machine's, a word for each byte
}

// everyLane is a bit that is TRUE in all lanes.
const everyLane = ^uint64(0)

// Lanes returns the lanes of a program, or nil where it does more than logic, or keeps something over a restart.
func (c *Code) Lanes() *Lanes {
	if slices.ContainsFunc(c.program.Variables, func(v *check.Variable) bool { return v.Retain }) {
		return nil
	}
	if c.live.word > 0 || c.live.text > 0 || !c.steady() {
		return nil
	}
	for i := range c.instructions {
		switch op := c.instructions[i].op; {
		case op > opFall && op != opXor:
			return nil
		}
	}
	return &Lanes{c, make([]uint64, len(c.start.bits))}
}

// Load puts every lane into the state of a machine of the same code.
func (l *Lanes) Load(m *Machine) {
	for i, b := range m.bits {
		l.bits[i] = -uint64(b & 1)
	}
}

// Write sets a BOOL, a bit a lane.
func (l *Lanes) Write(s Slot, lanes uint64) { l.put(s.index, lanes) }

// Read returns a BOOL, a bit a lane.
func (l *Lanes) Read(s Slot) uint64 { return l.bits[s.index] }

// Remembered lists what the next scan depends on besides inputs: everything that the lanes hold but the inputs.
func (l *Lanes) Remembered() (places []int) {
	input := map[int]bool{}
	for _, name := range l.code.inputs {
		if s, ok := l.code.Slot(name); ok {
			input[int(s.index)] = true
		}
	}
	for i := pair; i < int(l.code.live.bit); i += pair {
		if !input[i] {
			places = append(places, i)
		}
	}
	return places
}

// At returns the word of a place that Remembered lists; Set writes one.
func (l *Lanes) At(place int) uint64         { return l.bits[place] }
func (l *Lanes) Set(place int, lanes uint64) { l.put(uint32(place), lanes) }

func (l *Lanes) put(at uint32, v uint64) { l.bits[at], l.bits[at+1] = v, ^v }

// Scan executes one scan in every lane.
func (l *Lanes) Scan() {
	for i := range l.code.tasks {
		if t := &l.code.tasks[i]; !t.once || l.bits[l.code.firstScan] != 0 {
			l.execute(t)
		}
	}
	l.put(l.code.firstScan, 0)
}

// execute runs one program; of a once-task only the lanes that are in their first scan keep what it did.
func (l *Lanes) execute(t *scheduled) {
	var before []uint64
	first := l.bits[l.code.firstScan]
	if t.once && first != everyLane {
		before = append(before, l.bits...)
	}
	for pc := t.start; l.code.instructions[pc].op != opEnd; pc++ {
		l.one(&l.code.instructions[pc])
	}
	for i, was := range before {
		l.bits[i] = l.bits[i]&first | was&^first
	}
}

func (l *Lanes) one(in *instruction) {
	b := l.bits
	switch in.op {
	case opCopy:
		l.put(in.a, b[in.b])
	case opAnd:
		l.put(in.a, b[in.b]&b[in.c])
	case opOr:
		l.put(in.a, b[in.b]|b[in.c])
	case opXor:
		l.put(in.a, b[in.b]^b[in.c])
	case opAnd3:
		l.put(in.a, b[in.b]&b[in.c]&b[in.d])
	case opOr3:
		l.put(in.a, b[in.b]|b[in.c]|b[in.d])
	case opAnd4:
		l.put(in.a, b[in.b]&b[in.c]&b[in.d]&b[in.e])
	case opOrAnd:
		l.put(in.a, (b[in.b]|b[in.c])&b[in.d])
	case opAndOr:
		l.put(in.a, (b[in.b]&b[in.c]|b[in.d]&b[in.e])&b[in.f])
	case opSetAnd:
		l.put(in.a, b[in.a]|b[in.b]&b[in.c])
	case opResetAnd:
		l.put(in.a, b[in.a]&^(b[in.b]&b[in.c]))
	case opProduct, opSum:
		l.become(in, l.chain(in))
	case opSet:
		l.put(in.a, b[in.a]|b[in.b])
	case opReset:
		l.put(in.a, b[in.a]&^b[in.b])
	case opRise:
		v, before := b[in.b], b[in.c]
		l.put(in.c, v)
		l.put(in.a, v&^before)
	case opFall:
		v, before := b[in.b], b[in.c]
		l.put(in.c, v)
		l.put(in.a, before&^v)
	}
}

// chain works out a product of sums, or a sum of products.
func (l *Lanes) chain(in *instruction) uint64 {
	sum := in.op == opSum
	v, group := everyLane, uint64(0)
	if sum {
		v, group = 0, everyLane
	}
	for _, link := range l.code.links[in.b:in.c] {
		x := l.bits[link>>1]
		if sum {
			group &= x
		} else {
			group |= x
		}
		if link&1 == 0 {
			continue
		}
		if sum {
			v, group = v|group, everyLane
		} else {
			v, group = v&group, 0
		}
	}
	return v
}

func (l *Lanes) become(in *instruction, v uint64) {
	switch in.n {
	case assigns:
	case sets:
		v |= l.bits[in.a]
	default:
		v = l.bits[in.a] &^ v
	}
	l.put(in.a, v)
}
