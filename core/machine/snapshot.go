package machine

import "slices"

// A Snapshot is the whole state of a machine between two scans.
type Snapshot struct {
	scan   int
	bits   []byte
	words  []int64
	texts  []string
	forces []force
}

// Snapshot copies the state.
func (m *Machine) Snapshot() Snapshot {
	live := m.code.live
	return Snapshot{m.scan, slices.Clone(m.bits[:live.bit]), slices.Clone(m.words[:live.word]), slices.Clone(m.texts[:live.text]),
		slices.Clone(m.forces)}
}

// Restore returns to a state that a machine of the same code had. What a run may execute is counted anew from there.
func (m *Machine) Restore(s Snapshot) {
	m.untrack()
	m.scan, m.used = s.scan, 0
	copy(m.bits, s.bits)
	copy(m.words, s.words)
	copy(m.texts, s.texts)
	m.forces = append(m.forces[:0], s.forces...)
}
