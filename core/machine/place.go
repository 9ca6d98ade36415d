package machine

import (
	"time"

	"celandine/core/check"
)

// A Place is where a value lies in a machine's memory, a composition's with all that it holds. It is for those who look at a whole
// state, such as the observer; a single value has a [Slot].
type Place struct {
	m     *Machine
	typed *check.Type
	at    extent
}

// Place finds a variable of the programs.
func (m *Machine) Place(v *check.Variable) Place { return Place{m, v.Type, m.code.places[v.Storage()]} }

// Number is the value of what is neither a composition nor a text.
func (p Place) Number() int64 {
	if p.typed.Class == check.Boolean {
		return int64(p.m.bits[p.at.bit])
	}
	return p.m.words[p.at.word]
}

// Text is the value of a text.
func (p Place) Text() string { return p.m.texts[p.at.text] }

// Element finds the n-th element of an array, from 0.
func (p Place) Element(n int) Place {
	size := p.m.code.sizes.of(p.typed.Element)
	return Place{p.m, p.typed.Element, p.at.plus(size.times(uint32(n)))}
}

// Member finds a field of a structure, or an input or output of a standard block.
func (p Place) Member(m *check.Member) Place {
	return Place{p.m, m.Type, p.at.plus(p.m.code.sizes.member(p.typed, m))}
}

// Variable finds a variable of a block of one's own.
func (p Place) Variable(v *check.Variable) Place {
	sizes := p.m.code.sizes
	sizes.unit(p.typed.Block.Unit)
	return Place{p.m, v.Type, p.at.plus(sizes.offsets[v])}
}

// Hidden is what a standard block remembers beside its members: of its bits their values, of its words what they hold.
func (p Place) Hidden() (bits []byte, words []int64) {
	code := standard(p.typed.Block)
	at, state := p.at.plus(code.hidden), p.typed.Block.Standard.State
	for n := range uint32(state.Bits) {
		bits = append(bits, p.m.bits[at.bit+n*pair])
	}
	for n := range uint32(state.Words) {
		words = append(words, p.m.words[at.word+n])
	}
	return bits, words
}

// Timing reads the hidden state of a TON, TOF or TP: whether it runs, and whether it has come to its end.
func Timing(phase byte) (runs, ended bool) { return phase == running, phase == over }

// Program is what was compiled.
func (c *Code) Program() *check.Program { return c.program }

// Code is what the machine runs.
func (m *Machine) Code() *Code { return m.code }

// Period is the time from scan to scan.
func (m *Machine) Period() time.Duration { return m.period }

// Due lists the programs that the next scan runs, in their order.
func (m *Machine) Due() []*check.Unit {
	due := []*check.Unit{}
	for i := range m.code.tasks {
		t := &m.code.tasks[i]
		if !t.due(m.scan, m.first()) {
			continue
		}
		for n, e := range m.code.entries {
			if e.start == t.start {
				due = append(due, m.code.program.Units[n])
			}
		}
	}
	return due
}

// Forces lists what forces hold, by the names of slots.
func (m *Machine) Forces() map[string]int64 {
	held := map[string]int64{}
	for _, f := range m.forces {
		held[f.slot.Name] = f.value
	}
	return held
}

// An Argument is a value that a standard function takes or gives: a number, or a text.
type Argument struct {
	Number int64
	Text   string
}

// Apply works out a standard function that is no operator, as the code does; with anything but Finished it has no result.
func Apply(e *check.Apply, given []Argument) (Argument, Cause) {
	m := &Machine{code: &Code{}, words: []int64{0, 0}, bits: unset(nil, pair), texts: []string{"", ""}}
	for _, v := range given {
		m.code.operands = append(m.code.operands, operand(len(m.words)))
		// Words and texts are taken twice, so that one index serves them and pairs of bits.
		m.words, m.texts = append(m.words, v.Number, 0), append(m.texts, v.Text, "")
		m.bits = append(m.bits, byte(v.Number), byte(v.Number)^1)
	}
	typed := e.T
	if e.Function == check.ToText || e.Function <= check.RotateLeft {
		typed = e.X[0].Type()
	}
	m.code.operands = append(m.code.operands, operand(typeIndex(typed)))
	why := m.apply(&instruction{n: uint16(e.Function), c: uint32(len(e.X))})
	if e.T.Class == check.Boolean {
		return Argument{Number: int64(m.bits[0])}, why
	}
	return Argument{m.words[0], m.texts[0]}, why
}
