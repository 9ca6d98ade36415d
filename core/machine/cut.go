package machine

import "slices"

// A cell is a pair of bits, or a word.
type cell struct {
	word bool
	at   uint32 // of bits, the pair
}

// access is what an instruction does with a cell.
type access struct {
	cell
	reads, writes bool
}

// accesses lists what an instruction reads and writes, in that order.
func (c *Code) accesses(in *instruction) (list []access) {
	fields := [...]uint32{in.a, in.b, in.c, in.d, in.e, in.f, in.g}
	add := func(word bool, at uint32, reads, writes bool) {
		list = append(list, access{cell{word, at}, reads, writes})
	}
	changes := in.op == opSet || in.op == opReset || in.op == opSetAnd || in.op == opResetAnd ||
		(in.op == opProduct || in.op == opSum) && in.n != assigns
	for i, kind := range operandsOf[in.op] {
		at := fields[i]
		switch kind {
		case aBit:
			add(false, at/pair, true, false)
		case aPlace: // an edge's memory is its third
			add(false, at/pair, i == 0 && changes || i == 2, true)
		case aWord:
			writes := i == 0 && (in.op == opMove || in.op == opAdd)
			add(true, at, !writes, writes)
		case aFrom:
			for _, l := range c.links[at:fields[i+1]] {
				add(false, uint32(l>>1)/pair, true, false)
			}
		case aTimer: // its start changes with its phase
			list = written(list, at, timerBits, in.b, timerWords)
			add(false, (at+timerPhase)/pair, true, false)
			add(true, in.b+wordET, true, false)
		case aCounter:
			list = written(list, at, counterBits, in.b, counterWords)
			add(false, (at+upWas)/pair, true, false)
			add(true, in.b+wordCV, true, false)
		}
	}
	slices.SortStableFunc(list, func(a, b access) int { return int(truth(a.writes)) - int(truth(b.writes)) })
	return list
}

// written adds that all of a block's memory is written.
func written(list []access, bit, bits, word, words uint32) []access {
	for n := range bits / pair {
		list = append(list, access{cell{false, bit/pair + n}, false, true})
	}
	for n := range words {
		list = append(list, access{cell{true, word + n}, false, true})
	}
	return list
}

// A cutter cuts a program into stretches.
type cutter struct {
	code      *Code
	start     int
	body      []instruction
	does      [][]access // of each instruction
	stretches [][2]int   // from, to in the body
}

// cut reports whether the program can be cut, and into more than a few stretches.
func (c *cutter) cut() bool {
	c.start = c.code.tasks[0].start
	end, timers := c.start, map[uint32]bool{}
	for c.code.instructions[end].op != opEnd {
		in := &c.code.instructions[end]
		if int(in.op) >= len(operandsOf) || jumpsBack(end, in) {
			return false
		}
		if in.op == opTON || in.op == opTOF {
			if timers[in.a] { // in two places: its start might change and nothing else
				return false
			}
			timers[in.a] = true
		}
		end++
	}
	c.body = c.code.instructions[c.start:end]
	for i := range c.body {
		c.does = append(c.does, c.code.accesses(&c.body[i]))
	}
	joined, whole := c.joined()
	if !whole {
		return false
	}
	from := 0
	for i := range c.body {
		if i+1 == len(c.body) || !joined[i] {
			c.stretches = append(c.stretches, [2]int{from, i + 1})
			from = i + 1
		}
	}
	c.gather()
	return len(c.stretches) >= worthy && 3*len(c.body) < Budget
}

// joined tells of each instruction whether the one behind it belongs to the same stretch: where something jumps over it, where
// scratch that was written is still to be read, and where a block's memory is written again. It is not whole where scratch is read that
// nothing before has written.
func (c *cutter) joined() (joined []bool, whole bool) {
	joined = make([]bool, len(c.body))
	join := func(from, to int) { // the one at to among them
		for i := from; i < to; i++ {
			joined[i] = true
		}
	}
	over := 0 // the place up to which something jumps
	scratch, blocks, ever, kept := map[cell]int{}, map[cell]int{}, c.ever(), c.kept()
	for i := range c.body {
		in := &c.body[i]
		if jumps(in.op) {
			target := int(in.a) - c.start
			join(i, min(target, len(c.body))-1)
			over = max(over, target)
		}
		for _, a := range c.does[i] {
			if first, known := blocks[a.cell]; known && a.writes {
				join(first, i)
			} else if a.writes && kept[a.cell] {
				blocks[a.cell] = i
			}
			if !c.scratch(a.cell) || !ever[a.cell] {
				continue
			}
			from, begun := scratch[a.cell]
			if a.reads && !begun {
				return nil, false
			}
			if a.reads {
				join(from, i)
			}
			if a.writes && (!begun || i >= over) {
				scratch[a.cell] = i
			}
		}
	}
	return joined, true
}

func jumps(o op) bool {
	return o == opJump || o == opJumpIf || o == opJumpUnless || o == opUnlessRise
}

// ever is what the program writes.
func (c *cutter) ever() map[cell]bool {
	list := map[cell]bool{}
	for _, does := range c.does {
		for _, a := range does {
			if a.writes {
				list[a.cell] = true
			}
		}
	}
	return list
}

// kept is the memory of the blocks that are called.
func (c *cutter) kept() map[cell]bool {
	list := map[cell]bool{}
	for i := range c.body {
		in := &c.body[i]
		kinds := operandsOf[in.op]
		if kinds == "" || kinds[0] != aTimer && kinds[0] != aCounter {
			continue
		}
		for _, a := range c.does[i] {
			if at := a.at * pair; !a.word && at >= in.a && at < in.a+counterBits || a.word && a.at >= in.b && a.at < in.b+timerWords {
				list[a.cell] = true
			}
		}
	}
	return list
}

// gather makes so many stretches of neighbours that a word has a bit for each.
func (c *cutter) gather() {
	each := (len(c.stretches) + mostStretches - 1) / mostStretches
	var list [][2]int
	for i := 0; i < len(c.stretches); i += each {
		list = append(list, [2]int{c.stretches[i][0], c.stretches[min(i+each, len(c.stretches))-1][1]})
	}
	c.stretches = list
}
