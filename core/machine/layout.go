package machine

import (
	"celandine/core/check"
)

// A block describes a standard function block: where its members lie, counted from the
// instance's first bit and first word, and how much it has with its hidden state.
type block struct {
	op      op
	members map[string]uint32
	size    extent
	preset  string // the input that the block's instruction can load itself
	out     uint32 // its power's way out
}

// instruction returns the block's instruction for an instance, with nothing given.
func (b *block) instruction(at extent) instruction {
	in := instruction{op: b.op, a: at.bit, b: at.word, c: at.word, d: at.bit, e: at.bit + b.out, f: at.bit, g: at.bit + b.out}
	if b.op == opCTU {
		in.f += b.members["R"]
	}
	return in
}

// An extent is a number of bytes of bits, of words and of texts, or where they begin.
type extent struct{ bit, word, text uint32 }

func (e extent) plus(o extent) extent { return extent{e.bit + o.bit, e.word + o.word, e.text + o.text} }

func (e extent) times(n uint32) extent { return extent{e.bit * n, e.word * n, e.text * n} }

var timerMembers = map[string]uint32{"IN": timerIN, "Q": timerQ, "R": timerR, "PT": wordPT, "ET": wordET}

// Hidden state: a timer has its phase, a byte, after its bits and its start at word 2; an
// accumulating timer has its last IN and its last call there.
var blocks = map[string]block{
	"SR":     {opSR, map[string]uint32{"S1": 0, "R": 2, "Q1": 4}, extent{6, 0, 0}, "", 4},
	"RS":     {opRS, map[string]uint32{"S": 0, "R1": 2, "Q1": 4}, extent{6, 0, 0}, "", 4},
	"R_TRIG": {opRTrig, map[string]uint32{"CLK": 0, "Q": 2}, extent{6, 0, 0}, "", 2},
	"F_TRIG": {opFTrig, map[string]uint32{"CLK": 0, "Q": 2}, extent{6, 0, 0}, "", 2},
	"TON":    {opTON, timerMembers, extent{8, 3, 0}, "PT", timerQ},
	"TOF":    {opTOF, timerMembers, extent{8, 3, 0}, "PT", timerQ},
	"TP":     {opTP, timerMembers, extent{8, 3, 0}, "PT", timerQ},
	"TACC":   {opTACC, timerMembers, extent{8, 3, 0}, "PT", timerQ},
	"CTU":    {opCTU, map[string]uint32{"CU": 0, "R": 2, "Q": 4, "PV": 0, "CV": 1}, extent{8, 2, 0}, "PV", 4},
	"CTD":    {opCTD, map[string]uint32{"CD": 0, "LD": 2, "Q": 4, "PV": 0, "CV": 1}, extent{8, 2, 0}, "PV", 4},
	"CTUD":   {opCTUD, map[string]uint32{"CU": 0, "CD": 2, "R": 4, "LD": 6, "QU": 8, "QD": 10, "PV": 0, "CV": 1}, extent{16, 2, 0}, "PV", 8},
}

// sizes remembers how large types are and where variables lie in their unit.
type sizes struct {
	offsets map[*check.Variable]extent
	units   map[*check.Unit]extent
}

func (s *sizes) of(t *check.Type) extent {
	switch t.Class {
	case check.Boolean:
		return extent{bit: pair}
	case check.Text:
		return extent{text: 1}
	case check.Array:
		return s.of(t.Element).times(uint32(t.Count()))
	case check.Structure:
		var sum extent
		for _, m := range t.Members {
			sum = sum.plus(s.of(m.Type))
		}
		return sum
	case check.Instance:
		if t.Block.Unit == nil {
			return blocks[t.Block.Family()].size
		}
		return s.unit(t.Block.Unit)
	}
	return extent{word: 1}
}

// unit returns the size of one instance of a function block, or of a
// function's variables, and notes where each variable lies in it.
func (s *sizes) unit(u *check.Unit) extent {
	if sum, known := s.units[u]; known {
		return sum
	}
	var sum extent
	for _, v := range u.Variables {
		s.offsets[v] = sum
		if !v.InOut {
			sum = sum.plus(s.of(v.Type))
		}
	}
	s.units[u] = sum
	return sum
}

// member returns where a member lies in its composition.
func (s *sizes) member(t *check.Type, m *check.Member) extent {
	if t.Class == check.Structure {
		var sum extent
		for _, other := range t.Members {
			if other == m {
				return sum
			}
			sum = sum.plus(s.of(other.Type))
		}
	}
	if u := t.Block; u.Unit != nil {
		s.unit(u.Unit)
		return s.offsets[m.Variable]
	}
	at := blocks[t.Block.Family()].members[m.Name]
	if m.Type.Class == check.Boolean {
		return extent{bit: at}
	}
	return extent{word: at}
}

// image is memory with what it begins with.
type image struct {
	bits  []byte
	words []int64
	texts []string
}

func (i *image) end() extent {
	return extent{uint32(len(i.bits)), uint32(len(i.words)), uint32(len(i.texts))}
}

// grow adds memory for a value of the type, begun with the initial value, which may be nil.
func (s *sizes) grow(i *image, t *check.Type, initial *check.Value) {
	if initial == nil {
		initial = t.Initial
	}
	switch t.Class {
	case check.Array:
		for n := range t.Count() {
			var one *check.Value
			if initial != nil && n < int64(len(initial.Elements)) {
				one = initial.Elements[n]
			}
			s.grow(i, t.Element, one)
		}
	case check.Structure:
		for _, m := range t.Members {
			s.grow(i, m.Type, memberValue(initial, m.Name, m.Initial))
		}
	case check.Instance:
		s.growInstance(i, t, initial)
	default:
		i.single(t, initial)
	}
}

func memberValue(v *check.Value, name string, otherwise *check.Value) *check.Value {
	if v != nil {
		for key, value := range v.Members {
			if equalFold(key, name) && value != nil {
				return value
			}
		}
	}
	return otherwise
}

func (s *sizes) growInstance(i *image, t *check.Type, initial *check.Value) {
	if t.Block.Unit == nil {
		size := blocks[t.Block.Family()].size
		i.bits = unset(i.bits, size.bit)
		i.words = append(i.words, make([]int64, size.word)...)
		return
	}
	s.growUnit(i, t.Block.Unit, initial)
}

func (s *sizes) growUnit(i *image, u *check.Unit, initial *check.Value) {
	s.unit(u)
	for _, v := range u.Variables {
		if !v.InOut {
			s.grow(i, v.Type, memberValue(initial, v.Name, v.Initial))
		}
	}
}

func (i *image) single(t *check.Type, initial *check.Value) {
	number, text := t.Begin(), ""
	if initial != nil {
		number, text = initial.Number, initial.Text
	}
	switch t.Class {
	case check.Boolean:
		i.bits = append(i.bits, byte(number), byte(number)^1)
	case check.Text:
		i.texts = append(i.texts, cut(text, t.Length))
	default:
		i.words = append(i.words, number)
	}
}

// cut shortens a text to what its variable holds.
func cut(s string, length int) string {
	if len(s) > length {
		return s[:length]
	}
	return s
}

// lay gives every variable of the programs its storage.
func (c *compiler) lay(p *check.Program) {
	c.code.start.bits = unset(nil, pair) // the constant FALSE
	for _, v := range p.Variables {
		if v.Same == nil {
			c.places[v] = c.code.start.end()
			c.sizes.grow(&c.code.start, v.Type, v.Initial)
			c.timersIn(v.Type, c.places[v])
		}
	}
	for _, v := range p.Variables {
		if v.Role == check.System {
			c.code.firstScan = c.places[v].bit
		}
		c.code.root(v, c.places[v.Storage()])
	}
	c.code.live = c.code.start.end()
}

// alike reports whether two types, perhaps of two programs, hold the same.
func alike(a, b *check.Type) bool {
	if a == b {
		return true
	}
	if a.Name != b.Name || a.Class != b.Class || a.Bits != b.Bits || a.Length != b.Length || len(a.Members) != len(b.Members) || a.Count() != b.Count() {
		return false
	}
	for i := range a.Members {
		if a.Members[i].Name != b.Members[i].Name || !alike(a.Members[i].Type, b.Members[i].Type) {
			return false
		}
	}
	if a.Element != nil && !alike(a.Element, b.Element) {
		return false
	}
	if a.Block == nil || a.Block.Unit == nil || b.Block.Unit == nil {
		return true
	}
	x, y := a.Block.Unit.Variables, b.Block.Unit.Variables
	if len(x) != len(y) {
		return false
	}
	for i := range x {
		if x[i].Name != y[i].Name || x[i].InOut != y[i].InOut || !alike(x[i].Type, y[i].Type) {
			return false
		}
	}
	return true
}
