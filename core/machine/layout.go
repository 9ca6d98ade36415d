package machine

import (
	"celandine/core/check"
)

// An extent is a number of bytes of bits, of words and of texts, or where they begin. A variable has a place in just the memories
// that it needs; a structure or an instance may lie in all three, and then its members' places are found by adding extents, in whichever
// memory each lies.
type extent struct{ bit, word, text uint32 }

func (e extent) plus(o extent) extent { return extent{e.bit + o.bit, e.word + o.word, e.text + o.text} }

func (e extent) times(n uint32) extent { return extent{e.bit * n, e.word * n, e.text * n} }

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
			return standard(t.Block).size
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
	at := standard(t.Block).members[m.Name]
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
			s.grow(i, m.Type, initial.Of(m.Name, m.Initial))
		}
	case check.Instance:
		s.growInstance(i, t, initial)
	default:
		i.single(t, initial)
	}
}

func (s *sizes) growInstance(i *image, t *check.Type, initial *check.Value) {
	if t.Block.Unit == nil {
		size := standard(t.Block).size
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
			s.grow(i, v.Type, initial.Of(v.Name, v.Initial))
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
		i.texts = append(i.texts, t.Fit(text))
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
	if a.Name != b.Name || a.Class != b.Class || a.Bits != b.Bits || a.Length != b.Length || len(a.Members) != len(b.Members) ||
		a.Count() != b.Count() {
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
