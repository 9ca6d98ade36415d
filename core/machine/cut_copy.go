package machine

import (
	"math/bits"
	"slices"
)

// use is which stretches read a cell, as it was before them, and which write it.
type use struct{ read, write uint64 }

func (c *cutter) uses() map[cell]use {
	list := map[cell]use{}
	for n, s := range c.stretches {
		jumping := slices.ContainsFunc(c.body[s[0]:s[1]], func(in instruction) bool { return jumps(in.op) })
		for _, does := range c.does[s[0]:s[1]] {
			for _, a := range does {
				u := list[a.cell]
				if a.reads || jumping { // over what is written there, perhaps: then it stays as it was
					u.read |= 1 << n
				}
				if a.writes {
					u.write |= 1 << n
				}
				list[a.cell] = u
			}
		}
	}
	return list
}

// writer is whose value a stretch finds in a cell: the last one's before it, in the scan before if there is none in this.
func (u use) writer(n int) int {
	if before := u.write & (1<<n - 1); before != 0 {
		return last(before)
	}
	return last(u.write)
}

// last is the last of some stretches.
func last(list uint64) int { return mostStretches - 1 - bits.LeadingZeros64(list) }

// readers are the stretches that find what one has written.
func (u use) readers(writer int) (list uint64) {
	for n := range mostStretches {
		if u.read>>n&1 != 0 && u.writer(n) == writer {
			list |= 1 << n
		}
	}
	return list
}

// A copier makes the copy.
type copier struct {
	*cutter
	*tracks
	m    *Machine
	uses map[cell]use
	// What several stretches write has a cell for each but the last, so that each finds what the one before it has written.
	versions map[version]uint32
}

// version is what a cell is behind a stretch.
type version struct {
	cell
	writer int
}

// tracks makes the copy of the code, and room for what it remembers behind the machine's memory.
func (c *cutter) tracks(m *Machine) *tracks {
	start, live := c.code.start, c.code.live
	m.bits, m.words = m.bits[:len(start.bits)], m.words[:len(start.words)]
	t := &tracks{plain: len(c.body), dirty: uint32(len(m.words)), bits: make([]uint64, live.bit/pair), words: make([]uint64, live.word),
		own: own{make([]bool, live.bit/pair), make([]bool, live.word)}}
	d := &copier{c, t, m, c.uses(), map[version]uint32{}}
	d.know()
	m.words = append(m.words, make([]int64, 1+mostStretches)...)
	t.links = slices.Clone(c.code.links)
	d.onward(0)
	for n := range c.stretches {
		m.words[int(t.dirty)+1+n] = int64(len(t.instructions))
		d.stretch(n)
		d.notices(n)
		d.onward(n + 1)
	}
	m.words[t.dirty] = int64(^uint64(0) >> (mostStretches - len(c.stretches)))
	end := uint32(len(t.instructions))
	t.instructions = append(t.instructions, instruction{op: opEnd}, instruction{op: opEnd})
	for i := range t.instructions {
		if t.instructions[i].op == opNext {
			t.instructions[i].a = end
		}
	}
	return t.on(m)
}

// know notes who reads and writes what a name can name.
func (d *copier) know() {
	for p, u := range d.uses {
		switch {
		case d.scratch(p):
		case p.word:
			d.words[p.at], d.own.words[p.at] = u.read, u.write != 0
		default:
			d.bits[p.at], d.own.bits[p.at] = u.read, u.write != 0
		}
	}
}

func (c *cutter) scratch(p cell) bool {
	return p.word && p.at >= c.code.live.word || !p.word && p.at >= c.code.live.bit/pair
}

// onward adds what goes on with the first stretch from the nth on that is to run.
func (d *copier) onward(n int) {
	d.instructions = append(d.instructions, instruction{op: opNext, n: uint16(n), b: d.dirty, c: d.dirty + 1})
}

// where is the cell in which a stretch has what it reads or writes.
func (d *copier) where(n int, p cell) uint32 {
	u := d.uses[p]
	if bits.OnesCount64(u.write) < 2 || d.scratch(p) {
		return p.at
	}
	writer := n
	if u.write>>n&1 == 0 {
		writer = u.writer(n)
	}
	if writer == last(u.write) {
		return p.at
	}
	v := version{p, writer}
	at, known := d.versions[v]
	if !known {
		at = d.room(p)
		d.versions[v] = at
	}
	return at
}

// room is a new cell of the kind, as the present one is.
func (d *copier) room(p cell) uint32 {
	if p.word {
		d.m.words = append(d.m.words, d.m.words[p.at])
		return uint32(len(d.m.words) - 1)
	}
	d.m.bits = append(d.m.bits, d.m.bits[p.at*pair:p.at*pair+pair]...)
	return uint32(len(d.m.bits)/pair - 1)
}

// stretch adds the instructions of a stretch, whose jumps lead to what follows it at the farthest. What it does not write in any case it
// takes over first.
func (d *copier) stretch(n int) {
	from, to := d.stretches[n][0], d.stretches[n][1]
	taken := map[cell]bool{}
	for _, does := range d.does[from:to] {
		for _, a := range does {
			if mine := d.where(n, a.cell); a.writes && !taken[a.cell] && d.uses[a.cell].read>>n&1 != 0 {
				taken[a.cell] = true
				d.take(a.cell, mine, d.where(d.uses[a.cell].writer(n), a.cell))
			}
		}
	}
	by := len(d.instructions) - d.start - from
	for _, in := range d.body[from:to] {
		if jumps(in.op) {
			in.a = uint32(int(in.a) + by)
		}
		d.instructions = append(d.instructions, d.renamed(n, in))
	}
}

// take adds what copies a cell to another.
func (d *copier) take(p cell, to, from uint32) {
	switch {
	case to == from:
	case p.word:
		d.instructions = append(d.instructions, instruction{op: opMove, a: to, b: from})
	default:
		d.instructions = append(d.instructions, instruction{op: opCopy, a: to * pair, b: from * pair})
	}
}

// renamed is an instruction with its operands where the stretch has them.
func (d *copier) renamed(n int, in instruction) instruction {
	fields := [...]*uint32{&in.a, &in.b, &in.c, &in.d, &in.e, &in.f, &in.g}
	for i, kind := range operandsOf[in.op] {
		at := fields[i]
		switch kind {
		case aBit, aPlace:
			*at = d.where(n, cell{false, *at / pair})*pair + *at%pair
		case aWord:
			*at = d.where(n, cell{true, *at})
		case aFrom:
			from := uint32(len(d.links))
			for _, l := range d.links[*at:*fields[i+1]] {
				o := uint32(l >> 1)
				d.links = append(d.links, linkOf(operand(d.where(n, cell{false, o / pair})*pair+o%pair), l&1 != 0))
			}
			*at, *fields[i+1] = from, uint32(len(d.links))
		}
	}
	return in
}

// notices adds, for each cell that a stretch writes and another, or itself, has use for, what notices that it has changed.
func (d *copier) notices(n int) {
	noticed := map[cell]bool{}
	for _, does := range d.does[d.stretches[n][0]:d.stretches[n][1]] {
		for _, a := range does {
			u := d.uses[a.cell]
			mask := u.readers(n)
			if a.writes && !noticed[a.cell] && !d.scratch(a.cell) && mask != 0 {
				noticed[a.cell] = true
				d.notice(a.cell, d.where(n, a.cell), mask)
			}
		}
	}
}

// notice adds what notices that a cell has changed, for the stretches in mask.
func (d *copier) notice(p cell, at uint32, mask uint64) {
	before := d.room(p)
	d.m.words = append(d.m.words, int64(mask))
	in := instruction{op: opNoticeBit, a: at * pair, b: before * pair, c: uint32(len(d.m.words) - 1), d: d.dirty}
	if p.word {
		in.op, in.a, in.b = opNoticeWord, at, before
	}
	d.instructions = append(d.instructions, in)
}

// on puts the copy to work on a machine's memory, which has grown.
func (t *tracks) on(m *Machine) *tracks {
	m.memory = memoryOf(m.code, m.bits, m.words)
	copied := &Code{instructions: t.instructions, links: t.links, start: image{bits: m.bits, words: m.words}}
	if !copied.verified() {
		return nil // a mistake of ours: the code itself goes on
	}
	t.memory = memoryOf(copied, m.bits, m.words)
	return t
}
