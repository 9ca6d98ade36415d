package oracle

import (
	"strconv"
	"strings"

	"celandine/core/syntax"
)

// placed is a variable at an address: bits of one memory, counted from bit 0 of byte 0 of its area.
type placed struct {
	cell       *cell
	first, len int
	last       int64 // its value when memory and variable were last alike
}

// at returns the variable at an address, which is made when it is first named.
func (o *Interpreter) at(address string, t *typ, initial syntax.Expr) *cell {
	area, size, bytes, bit := takeApart(strings.ToUpper(address))
	key := area + size + bytes + "." + bit
	if c := o.images[key]; c != nil {
		return c
	}
	if t == nil {
		t = o.types[map[string]string{"X": "bool", "B": "byte", "W": "word", "D": "dword", "L": "lword"}[size]]
	}
	c := o.begin(t, initial)
	n, _ := strconv.Atoi(bytes)
	b, _ := strconv.Atoi(bit)
	o.images[key] = c
	first := int(area[0])<<24 + n*8 + b
	o.placed = append(o.placed, placed{c, first, t.bits, 0})
	o.share()
	o.refresh()
	return c
}

func takeApart(a string) (area, size, bytes, bit string) {
	area, rest := a[1:2], a[2:]
	if size = rest[:1]; strings.Contains("XBWDL", size) {
		rest = rest[1:]
	} else {
		size = "X"
	}
	bytes, bit, _ = strings.Cut(rest, ".")
	return area, size, bytes, bit
}

// share writes what changed since it was last asked to memory, and what memory says to whatever lies there.
func (o *Interpreter) share() {
	changed := false
	for n := range o.placed {
		if p := &o.placed[n]; p.cell.i != p.last {
			changed = true
			for b := range p.len {
				o.memory[p.first+b] = p.cell.i>>b&1 != 0
			}
		}
	}
	if changed {
		o.refresh()
	}
}

func (o *Interpreter) refresh() {
	for n := range o.placed {
		p := &o.placed[n]
		v := int64(0)
		for b := range p.len {
			v |= truth(o.memory[p.first+b]) << b
		}
		p.cell.i = wrap(p.cell.t, v)
		p.last = p.cell.i
	}
}
