package machine

// What does not change need not run. Of a program that has run for a while, a copy of the code is made that is cut into stretches, most
// of them a rung each, which depend on nothing but what they read and write. Each has a bit in one word, which tells that something of
// that has changed since it ran. Behind each stretch the copy notices what the stretch has changed, by keeping the last value of
// everything that a stretch writes, and goes on with the next one whose bit is set; a timer that runs changes in every scan. What
// the copy leaves in memory after a scan is what the code leaves there.
//
// Only programs that run in every scan are cut, without jumps back, and made of what the loop executes by itself. Where most of a
// program changes all the time, it is executed as it stands.

// tracks is a program's code cut into stretches, at work on one machine's memory.
type tracks struct {
	memory
	instructions []instruction
	links        []link
	dirty        uint32   // the word with the stretches' bits
	bits, words  []uint64 // the stretches that read what lies at each pair of bits, and in each word
	own          own      // what the program writes
	plain        int      // instructions of the code
	spent, scans int      // instructions in the present window, of so many scans
}

// own tells of each pair of bits and each word whether the program writes there.
type own struct{ bits, words []bool }

const (
	settled = 1000 // scans after which a program is cut: about as many as cutting it takes
	window  = 64   // scans after which it is seen whether it was worth it
	longer  = 8    // so many times as long it is left alone where it was not
	worthy  = 4    // stretches that are worth it

	mostStretches = 64 // a word has a bit for each
)

// track cuts the program, if it can be cut and has more than a few stretches.
func (m *Machine) track() {
	c := &cutter{code: m.code}
	if m.whole || len(m.code.tasks) != 1 || m.code.tasks[0].every != 1 || m.code.tasks[0].once || len(m.forces) > 0 || !c.cut() {
		return
	}
	m.tracked = c.tracks(m)
}

// untrack goes on with the code as it stands, for a while at least. What is in memory may be another's.
func (m *Machine) untrack() {
	m.tracked, m.ran = nil, 0
	m.changes++
}

// scan executes the stretches in which something may change, if there are any.
func (t *tracks) scan(m *Machine, now int64) {
	m.scan++
	if *t.word(t.dirty) != 0 {
		m.changes++
		_, fuel, _ := t.loop(0, Budget, now)
		m.used += min(Budget-fuel, t.plain)
		t.spent += Budget - fuel
	}
	if t.scans++; t.scans == window {
		t.review(m)
	}
}

// review ends what has not been worth it lately.
func (t *tracks) review(m *Machine) {
	if t.spent > window*t.plain {
		m.patient *= longer
		m.untrack()
	}
	t.spent, t.scans = 0, 0
}

// touch notes that a value is about to be written from outside. Where the program writes, too, it is executed as it stands for a while.
func (m *Machine) touch(s Slot, v int64) {
	t, at := m.tracked, s.index
	list, own := t.words, t.own.words
	if s.bit {
		list, own, at = t.bits, t.own.bits, at/pair
	}
	switch {
	case m.Read(s) == v:
	case own[at]:
		m.untrack()
	default:
		*t.word(t.dirty) |= int64(list[at])
	}
}
