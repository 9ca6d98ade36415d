package machine

import (
	"celandine/core/check"
)

// A layout tells where the members of a block instance lie, counted from its
// first bit and its first word, and how many of each it has with its hidden state.
type layout struct {
	op      op
	members map[string]uint32
	bits    uint32
	words   uint32
	preset  string // the input that the block's instruction can load itself
}

var timerMembers = map[string]uint32{"IN": 0, "Q": 1, "R": 2, "PT": 0, "ET": 1}

// Hidden state: a timer has a phase bit at 3 and its start at word 2; an
// accumulating timer has its last IN at bit 3 and its last call at word 2.
var layouts = map[string]layout{
	"SR":     {opSR, map[string]uint32{"S1": 0, "R": 1, "Q1": 2}, 3, 0, ""},
	"RS":     {opRS, map[string]uint32{"S": 0, "R1": 1, "Q1": 2}, 3, 0, ""},
	"R_TRIG": {opRTrig, map[string]uint32{"CLK": 0, "Q": 1}, 3, 0, ""},
	"F_TRIG": {opFTrig, map[string]uint32{"CLK": 0, "Q": 1}, 3, 0, ""},
	"TON":    {opTON, timerMembers, 4, 3, "PT"},
	"TOF":    {opTOF, timerMembers, 4, 3, "PT"},
	"TP":     {opTP, timerMembers, 4, 3, "PT"},
	"TACC":   {opTACC, timerMembers, 4, 3, "PT"},
	"CTU":    {opCTU, map[string]uint32{"CU": 0, "R": 1, "Q": 2, "PV": 0, "CV": 1}, 4, 2, "PV"},
	"CTD":    {opCTD, map[string]uint32{"CD": 0, "LD": 1, "Q": 2, "PV": 0, "CV": 1}, 4, 2, "PV"},
	"CTUD":   {opCTUD, map[string]uint32{"CU": 0, "CD": 1, "R": 2, "LD": 3, "QU": 4, "QD": 5, "PV": 0, "CV": 1}, 8, 2, "PV"},
}

// place is where a variable's storage begins.
type place struct{ bit, word uint32 }

// lay gives every variable its storage and name.
func (c *compiler) lay(p *check.Program) {
	c.code.bits = []byte{0} // the constant FALSE
	for _, v := range p.Variables {
		if v.Same != nil {
			continue
		}
		c.places[v] = c.reserve(v)
	}
	for _, v := range p.Variables {
		if v.Name == "FIRST_SCAN" && v.Role == check.System {
			c.code.firstScan = c.places[v].bit
		}
		c.name(v)
	}
	c.code.liveBits, c.code.liveWords = len(c.code.bits), len(c.code.words)
	c.code.sortNames()
}

func (c *compiler) reserve(v *check.Variable) place {
	at := place{uint32(len(c.code.bits)), uint32(len(c.code.words))}
	switch {
	case v.Type.Block != nil:
		l := layouts[v.Type.Block.Family()]
		c.code.bits = append(c.code.bits, make([]byte, l.bits)...)
		c.code.words = append(c.code.words, make([]int64, l.words)...)
	case v.Type == check.Bool:
		c.code.bits = append(c.code.bits, byte(v.Initial))
	default:
		c.code.words = append(c.code.words, v.Initial)
	}
	return at
}

func (c *compiler) name(v *check.Variable) {
	s := v.Storage()
	switch {
	case v.Hidden && v.Role != check.System:
		return
	case v.Role == check.Input && v.Same == nil:
		c.code.inputs = append(c.code.inputs, v.Name)
	case v.Role == check.Output && v.Same == nil:
		c.code.outputs = append(c.code.outputs, v.Name)
	}
	listed := false
	for _, name := range []string{v.Name, v.Unit + "." + v.Name, v.Address} {
		if name == "" || name[0] == '.' {
			continue
		}
		for _, slot := range c.slotsOf(name, v, s) {
			if c.code.addSlot(slot) && !listed {
				c.code.names = append(c.code.names, slot.Name)
			}
		}
		listed = true
	}
}

// slotsOf returns the value under a name, or those of an instance's members.
func (c *compiler) slotsOf(name string, v, storage *check.Variable) []Slot {
	if v.Type.Block == nil {
		return []Slot{{name, v.Type, v.Role == check.Input, v.Point, c.index(storage, nil)}}
	}
	var list []Slot
	for _, m := range v.Type.Block.Members {
		list = append(list, Slot{Name: name + "." + m.Name, Type: m.Type, index: c.index(storage, m)})
	}
	return list
}

// index returns the bit or word where a variable or member lies.
func (c *compiler) index(v *check.Variable, m *check.Member) uint32 {
	at, t, offset := c.places[v.Storage()], v.Type, uint32(0)
	if m != nil {
		t, offset = m.Type, layouts[v.Type.Block.Family()].members[m.Name]
	}
	if t == check.Bool {
		return at.bit + offset
	}
	return at.word + offset
}
