package machine

import (
	"encoding/binary"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/signal"
)

// A timer is one timer instance, wherever it lies.
type timer struct {
	bit, word uint32
	lasts     bool // its start is the time of its last call
}

// timersIn lists the timers of a type that lies at a place.
func (c *compiler) timersIn(t *check.Type, at extent) {
	switch t.Class {
	case check.Array:
		size := c.sizes.of(t.Element)
		if size == (extent{}) || !holdsTimer(t.Element) {
			return
		}
		for n := range uint32(t.Count()) {
			c.timersIn(t.Element, at.plus(size.times(n)))
		}
	case check.Instance:
		if u := t.Block.Unit; u != nil {
			c.sizes.unit(u)
			for _, v := range u.Variables {
				if !v.InOut {
					c.timersIn(v.Type, at.plus(c.sizes.offsets[v]))
				}
			}
			return
		}
		if isTimer(t) {
			c.code.timers = append(c.code.timers, timer{bit: at.bit, word: at.word, lasts: standard(t.Block).lasts})
		}
	}
}

func isTimer(t *check.Type) bool {
	return t.Class == check.Instance && t.Block.Unit == nil && standard(t.Block).family == block.Timer
}

func holdsTimer(t *check.Type) bool {
	switch {
	case t.Class == check.Array:
		return holdsTimer(t.Element)
	case t.Class == check.Instance && t.Block.Unit != nil:
		for _, v := range t.Block.Unit.Variables {
			if holdsTimer(v.Type) {
				return true
			}
		}
	}
	return isTimer(t)
}

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
type Glider struct {
	probe *prober
	still cycle
}

// Glide returns a glider of a machine.
func (m *Machine) Glide() *Glider { return &Glider{probe: newProber(m)} }

// Scan executes a scan.
func (g *Glider) Scan() *Fault {
	g.probe.before()
	return g.probe.m.Scan()
}

// Still is how many of the scans after the one just executed change nothing but elapsed times, at most most; and whether any elapsed time
// moves in them.
func (g *Glider) Still(most int) (n int, moving bool) {
	p := g.probe
	var same bool
	if p.moved, same = p.was.since(p.m, p.moved[:0]); !same || p.beat > 1 {
		return 0, false
	}
	for _, w := range p.moved {
		elapsed, timed := p.m.code.times(w.word)
		if !timed {
			return 0, false
		}
		moving = moving || elapsed
	}
	g.still = cycle{1, min(p.foreseen(1, p.moved), most), p.moved}
	return g.still.times, moving
}

// times reports whether a word is a timer's elapsed time, or that or its start.
func (c *Code) times(word uint32) (elapsed, timed bool) {
	for i := range c.timers {
		switch t := &c.timers[i]; word {
		case t.word + wordET:
			return true, true
		case t.word + wordStart:
			return false, true
		}
	}
	return false, false
}

// Skip passes over so many of them.
func (g *Glider) Skip(n int) { g.probe.m.advance(g.still, n) }

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
