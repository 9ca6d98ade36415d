package differ

import (
	"math/bits"

	"celandine/core/machine"
	"celandine/core/signal"
)

// Programs of logic alone are looked at first with 64 combinations of inputs at once, a bit of a word each: where no value of the two ever
// differs in any state that they can reach together, they are the same, and no search is needed. Where one does, the search finds the
// script.

// A logic is two programs of logic alone.
type logic struct {
	lanes   [2]*machine.Lanes
	places  [2][]int // what is remembered
	inputs  [2][]machine.Slot
	outputs [2][]machine.Slot
	masks   [][]uint64 // of each input, a word for each 64 combinations
	groups  int
	used    uint64 // the lanes of the last group that are combinations
}

const lanesAtOnce = 64

// logicOf returns nil where a program does more than logic, or remembers more than fits into a word.
func (b *both) logicOf() *logic {
	l := &logic{inputs: b.inputs, outputs: b.outputs}
	remembered := 0
	for side, code := range [2]*machine.Code{b.A, b.B} {
		if l.lanes[side] = code.Lanes(); l.lanes[side] == nil {
			return nil
		}
		l.places[side] = l.lanes[side].Remembered()
		remembered += len(l.places[side])
	}
	for i := range b.Compared {
		if b.Compared[i].Numeric || b.outputs[0][i].Type.Kind() != signal.Bool || b.outputs[1][i].Type.Kind() != signal.Bool {
			return nil
		}
	}
	n := len(b.Inputs)
	for _, p := range b.Inputs {
		if p.Kind() != signal.Bool {
			return nil
		}
	}
	if remembered > lanesAtOnce || n > 12 || len(b.Writes) > 0 {
		return nil
	}
	l.combine(n)
	return l
}

// combine gives each input its lanes: of combination c of the 2ⁿ, bit i.
func (l *logic) combine(n int) {
	l.groups = max(1<<n/lanesAtOnce, 1)
	l.used = ^uint64(0)
	if n < 6 {
		l.used = 1<<(1<<n) - 1
	}
	for i := range n {
		var words []uint64
		for group := range l.groups {
			word := uint64(0)
			for lane := range lanesAtOnce {
				word |= uint64((group*lanesAtOnce+lane)>>i&1) << lane
			}
			words = append(words, word)
		}
		l.masks = append(l.masks, words)
	}
}

// state packs what both remember in one lane into a word.
func (l *logic) state(lane int) (state uint64) {
	at := 0
	for side := range l.lanes {
		for _, place := range l.places[side] {
			state |= l.lanes[side].At(place) >> lane & 1 << at
			at++
		}
	}
	return state
}

// enter puts all lanes into a state.
func (l *logic) enter(state uint64) {
	for side := range l.lanes {
		for _, place := range l.places[side] {
			l.lanes[side].Set(place, -(state & 1))
			state >>= 1
		}
	}
}

// same reports whether no value ever differs, and how many states that took. It gives up when one does, or the budget of scans is used up.
func (l *logic) same(b *both, budget int) (same bool, states int) {
	for side, m := range b.machines {
		l.lanes[side].Load(m)
	}
	first := l.state(0)
	seen := map[uint64]bool{first: true}
	for todo := []uint64{first}; len(todo) > 0; todo = todo[1:] {
		for group := range l.groups {
			if b.scans += bits.OnesCount64(l.used); b.scans > budget {
				return false, len(seen)
			}
			l.enter(todo[0])
			if l.scan(group)&l.used != 0 {
				return false, len(seen)
			}
			for lane := range bits.Len64(l.used) {
				if next := l.state(lane); !seen[next] {
					seen[next] = true
					todo = append(todo, next)
				}
			}
		}
	}
	return true, len(seen)
}

// scan executes a scan with 64 combinations of inputs and returns the lanes in which a value differs.
func (l *logic) scan(group int) (differs uint64) {
	for side, lanes := range l.lanes {
		for i, slot := range l.inputs[side] {
			if slot != (machine.Slot{}) {
				lanes.Write(slot, l.masks[i][group])
			}
		}
		lanes.Scan()
	}
	for i := range l.outputs[0] {
		differs |= l.lanes[0].Read(l.outputs[0][i]) ^ l.lanes[1].Read(l.outputs[1][i])
	}
	return differs
}
