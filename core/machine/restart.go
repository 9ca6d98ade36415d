package machine

import "celandine/core/check"

// A restart is a loss of supply and its return: every variable takes its initial value, but those declared RETAIN, and instances
// so declared as a whole, keep theirs. The input image stays as the devices have it, time runs on, and forces stay.

// Restart does what a restart does, before the next scan, in which FIRST_SCAN is TRUE and once-tasks run again.
func (m *Machine) Restart() {
	m.untrack()
	fresh := m.code.Start(m.period)
	for _, v := range m.code.program.Variables {
		if v.Same != nil || v.Role == check.Input || v.Retain {
			continue
		}
		m.begin(fresh, v.Type, m.code.places[v])
	}
	m.applyForces()
}

// begin gives a value of a type at a place what it began with, but for what is retained in it.
func (m *Machine) begin(fresh *Machine, t *check.Type, at extent) {
	sizes := m.code.sizes
	switch {
	case t.Class == check.Array && t.Element.Class == check.Instance:
		size := sizes.of(t.Element)
		for n := range uint32(t.Count()) {
			m.begin(fresh, t.Element, at.plus(size.times(n)))
		}
	case t.Class == check.Instance && t.Block.Unit != nil:
		sizes.unit(t.Block.Unit)
		for _, v := range t.Block.Unit.Variables {
			if !v.InOut && !v.Retain {
				m.begin(fresh, v.Type, at.plus(sizes.offsets[v]))
			}
		}
	default:
		size := sizes.of(t)
		copy(m.bits[at.bit:at.bit+size.bit], fresh.bits[at.bit:])
		copy(m.words[at.word:at.word+size.word], fresh.words[at.word:])
		copy(m.texts[at.text:at.text+size.text], fresh.texts[at.text:])
	}
}

// first reports whether the next scan is the first, or the first after a restart.
func (m *Machine) first() bool { return m.bits[m.code.firstScan] != 0 }
