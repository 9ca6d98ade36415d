package machine

// A Snapshot is the whole state of a machine between two scans.
type Snapshot struct {
	scan   int
	bits   []byte
	words  []int64
	forces []force
}

// Snapshot copies the state.
func (m *Machine) Snapshot() Snapshot {
	return Snapshot{m.scan, append([]byte(nil), m.bits[:m.code.liveBits]...), append([]int64(nil), m.words[:m.code.liveWords]...), append([]force(nil), m.forces...)}
}

// Restore returns to a state that a machine of the same code had.
func (m *Machine) Restore(s Snapshot) {
	m.scan = s.scan
	copy(m.bits, s.bits)
	copy(m.words, s.words)
	m.forces = append(m.forces[:0], s.forces...)
}
