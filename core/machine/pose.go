package machine

import (
	"encoding/binary"

	"celandine/core/check"
	"celandine/core/signal"
)

// Pose appends to a text what of a machine's state decides what it does from now on, with the time left out: two machines of the same
// code in the same pose do the same in every later scan that has the same inputs.
func (m *Machine) Pose(pose []byte) []byte {
	live := m.code.live
	pose = append(pose, m.bits[:live.bit]...)
	now := int64(m.scan) * int64(m.period)
	words := m.words[:live.word]
	at := 0
	for i := range m.code.timers {
		t := &m.code.timers[i]
		start := int(t.word + wordStart)
		pose = appendWords(pose, words[at:start])
		since := now - words[start]
		if !t.lasts && m.bits[t.bit+timerPhase] != running || t.lasts && m.bits[t.bit+timerPhase] == 0 {
			since = 0 // it will be set anew before it is looked at
		}
		pose = binary.LittleEndian.AppendUint64(pose, uint64(since))
		at = start + 1
	}
	pose = appendWords(pose, words[at:])
	for _, text := range m.texts[:live.text] {
		pose = append(binary.AppendUvarint(pose, uint64(len(text))), text...)
	}
	return binary.AppendUvarint(pose, uint64(m.scan%m.code.beat()))
}

func appendWords(pose []byte, words []int64) []byte {
	for _, w := range words {
		pose = binary.LittleEndian.AppendUint64(pose, uint64(w))
	}
	return pose
}

// beat is how many scans go by until the tasks are due as they were.
func (c *Code) beat() int {
	beat := 1
	for _, t := range c.tasks {
		if !t.once {
			beat = beat / divisor(beat, t.every) * t.every
		}
	}
	return beat
}

func divisor(a, b int) int {
	for b != 0 {
		a, b = b, a%b
	}
	return a
}

// A Glider moves a machine on while its inputs stand still, and tells how many scans need not be executed.
type Glider struct{ probe *prober }

// Glide returns a glider of a machine.
func (m *Machine) Glide() *Glider { return &Glider{newProber(m)} }

// Scan executes a scan.
func (g *Glider) Scan() *Fault {
	g.probe.before()
	return g.probe.m.Scan()
}

// Still is how many of the scans after the one just executed change nothing but elapsed times, at most most; and whether any elapsed time
// moves in them.
func (g *Glider) Still(most int) (n int, moving bool) {
	if !g.probe.m.code.steady() || !g.probe.unchanged() {
		return 0, false
	}
	return max(g.probe.quiet(most), 0), len(g.probe.moving) > 0
}

// Skip passes over so many of them.
func (g *Glider) Skip(n int) { g.probe.advance(n) }

// ReadAs returns the present value of a slot as a column has it, and of a text the text itself.
func (m *Machine) ReadAs(s Slot) (v int64, text string) {
	switch {
	case s.Type.Class == check.Text:
		return 0, m.texts[s.index]
	case s.Type.Class == check.Enumeration && s.Type.Kind() == signal.Text:
		v = m.Read(s)
		if v >= 0 && v < int64(len(s.Type.Values)) {
			text = s.Type.Values[v]
		}
		return 0, text
	}
	return m.Read(s), ""
}
