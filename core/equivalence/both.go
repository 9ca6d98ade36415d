package equivalence

import (
	"fmt"
	"slices"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
)

// both is the two programs at work, and what is compared of them.
type both struct {
	Pair
	machines [2]*machine.Machine
	gliders  [2]*machine.Glider
	inputs   [2][]machine.Slot // of the panel's inputs that the program has; else without a name
	outputs  [2][]machine.Slot
	writes   [2][]writing // of those that the program has
	follower *compare.Follower
	values   [2][]int64
	texts    map[string]int64 // texts as numbers
	scans    int              // executed
	size     int              // of a pose, in bytes
	kept     int              // bytes of situations and poses
	choices  [][]int64        // the values that each input is given, that at rest first
	partial  bool             // there are others that the programs could tell apart
}

func (p Pair) start() (*both, error) {
	b := &both{Pair: p, texts: map[string]int64{"": 0}}
	for side, code := range [2]*machine.Code{p.A, p.B} {
		b.machines[side] = code.Start(p.Period)
		b.gliders[side] = b.machines[side].Glide()
		for _, input := range p.Inputs {
			slot, _ := code.Slot(input.Name)
			b.inputs[side] = append(b.inputs[side], slot)
		}
		for _, c := range p.Compared {
			name := [2]string{c.A, c.B}[side]
			slot, ok := code.Slot(name)
			if !ok {
				return nil, fmt.Errorf("there is nothing named %s in one of the programs", name)
			}
			b.outputs[side] = append(b.outputs[side], slot)
		}
		for _, act := range p.Writes {
			b.writes[side] = append(b.writes[side], toWrite(code, act))
		}
		b.values[side] = make([]int64, len(p.Compared))
	}
	tolerances, kinds, begin := []compare.Tolerance{}, []signal.Kind{}, make([]int64, len(p.Compared))
	for i, c := range p.Compared {
		kind := b.outputs[0][i].Type.Kind()
		if kind == signal.Text && len(b.outputs[0][i].Type.Values) > 0 {
			begin[i] = b.number(b.outputs[0][i].Type.Values[0])
		}
		tolerances, kinds = append(tolerances, c.Tolerance), append(kinds, kind)
	}
	b.follower = compare.NewFollower(tolerances, kinds, begin)
	b.size = len(b.pose())
	b.choices, b.partial = p.values()
	return b, nil
}

// number makes a number of a text, the same of the same.
func (b *both) number(text string) int64 {
	n, ok := b.texts[text]
	if !ok {
		n = int64(len(b.texts))
		b.texts[text] = n
	}
	return n
}

// set gives both programs the panel's inputs.
func (b *both) set(inputs []int64) {
	for side := range b.machines {
		for i, slot := range b.inputs[side] {
			if slot != (machine.Slot{}) {
				b.machines[side].Write(slot, inputs[i])
			}
		}
	}
}

// writing is a value that may be written to a place; without one the program does not have it.
type writing struct {
	machine.Slot
	value int64
}

func toWrite(code *machine.Code, act signal.Act) writing {
	slot, ok := code.Slot(act.Name)
	if !ok {
		return writing{}
	}
	v, err := slot.Type.Parse(act.Value)
	if err != nil {
		return writing{}
	}
	return writing{slot, v}
}

// write writes values, by their numbers.
func (b *both) write(numbers []int) {
	for side, m := range b.machines {
		for _, n := range numbers {
			if w := b.writes[side][n]; w.Slot != (machine.Slot{}) {
				m.Write(w.Slot, w.value)
			}
		}
	}
}

func (b *both) restart() {
	for _, m := range b.machines {
		m.Restart()
	}
}

// look reads what is compared.
func (b *both) look() {
	for side, m := range b.machines {
		for i, slot := range b.outputs[side] {
			if v, text := m.ReadAs(slot); text != "" {
				b.values[side][i] = b.number(text)
			} else {
				b.values[side][i] = v
			}
		}
	}
}

// ended is why a scan ended the comparison.
type ended int

const (
	goesOn    ended = iota
	suspected       // a difference
	faulted         // both, in the same scan
)

// What counts for a scan more, so that programs that do much in each scan, or hold much, are searched for as long as any other; and how
// much is kept of what was seen.
const (
	instructions = 2_000
	memory       = 4 << 10
	mostKept     = 128 << 20
)

// spent reports whether a budget is used up.
func (b *both) spent(budget int) bool { return b.scans > budget || b.kept > mostKept }

// scan executes one scan of both.
func (b *both) scan() ended {
	before := b.machines[0].Used() + b.machines[1].Used()
	defer func() { b.scans += 1 + (b.machines[0].Used()+b.machines[1].Used()-before)/instructions + b.size/memory }()
	first, second := b.gliders[0].Scan(), b.gliders[1].Scan()
	switch {
	case first != nil && second != nil:
		return faulted
	case first != nil || second != nil:
		return suspected
	}
	b.look()
	if b.follower.Step(b.values[0], b.values[1]) >= 0 {
		return suspected
	}
	return goesOn
}

// still is how many scans from here on change nothing in either program but elapsed times, and whether those move.
func (b *both) still(most int) (n int, moving bool) {
	if b.follower.Waits() {
		return 0, true
	}
	n = most
	for _, g := range b.gliders {
		own, moves := g.Still(n)
		n, moving = min(n, own), moving || moves
		if n == 0 {
			return 0, true
		}
	}
	return n, moving
}

// skip passes over scans that are still.
func (b *both) skip(n int) ended {
	for _, g := range b.gliders {
		g.Skip(n)
	}
	b.look()
	if b.follower.Skip(n, b.values[0], b.values[1]) >= 0 {
		return suspected
	}
	return goesOn
}

// situation is everything that both will do depends on.
type situation struct {
	machines [2]machine.Snapshot
	follower *compare.Follower
}

func (b *both) keep() situation {
	b.kept += 2 * b.size // with its pose
	return situation{[2]machine.Snapshot{b.machines[0].Snapshot(), b.machines[1].Snapshot()}, b.follower.Copy()}
}

func (b *both) restore(s situation) {
	for side, m := range b.machines {
		m.Restore(s.machines[side])
	}
	b.follower = s.follower.Copy()
}

// pose is what of the present situation decides everything later.
func (b *both) pose() []byte {
	pose := b.machines[0].Pose(nil)
	pose = b.machines[1].Pose(pose)
	return b.follower.Pose(pose)
}

// known is a script without what a program does not have.
func (b *both) known(side int, script *signal.Trace) *signal.Trace {
	out := *script
	out.Columns = slices.Clone(script.Columns)
	out.Columns = slices.DeleteFunc(out.Columns, func(c *signal.Column) bool {
		at := slices.IndexFunc(b.Inputs, func(p exercise.Point) bool { return p.Name == c.Name })
		return at >= 0 && b.inputs[side][at] == (machine.Slot{})
	})
	out.Acts = slices.DeleteFunc(slices.Clone(script.Acts), func(act signal.Act) bool {
		return act.Verb == signal.Write && toWrite([2]*machine.Code{b.A, b.B}[side], act).Slot == (machine.Slot{})
	})
	return &out
}

func (b *both) names(side int) (names []string) {
	for _, c := range b.Compared {
		names = append(names, [2]string{c.A, c.B}[side])
	}
	return names
}
