package machine

import (
	"encoding/binary"
	"hash/maphash"
	"slices"
)

// Skipping what goes on as it did: while no input changes, a program mostly does in every cycle of some scans what it did in the one
// before. Of one scan where it holds still or its values move evenly; of some where it counts to two, blinks, or has slow tasks. A prober
// looks for such a cycle, a foresight proves for how many more it holds, and these need not be executed.

// A cycle is a number of scans that come again so many times, with the words that move in it, each time by as much.
type cycle struct {
	scans, times int
	moved        []moved
}

// A prober looks for cycles. It looks less often while it finds none.
type prober struct {
	m         *Machine
	foresight foresight
	beat      int              // scans until the tasks are due as they were
	was       state            // before the scan
	moved     []moved          // in the scan, or in the cycle last looked at
	did       uint64           // what the scan before did
	levels    [4]*level        // of scans one after another; of those behind a leap that the level below led to
	level     int              // of the scan looked at
	whole     map[uint64]whole // scans behind any leap, by everything that decides what comes
	behind    int              // scans behind a leap since something happened
	still     patience         // of cycles of one scan
	pending   pending
	next      int // scan to look at
	left      int // looks until then
	window    int // looks in a row, while they are in vain
	executed  int // scans, foreseen ones among them
	seed      maphash.Seed
	pose      []byte
}

// A pending cycle is proved and goes on for the first time, up to the end of a scan.
type pending struct {
	cycle
	level, end int // end 0: none
}

// mostProbed is how many values a program may hold to be skipped: to look at all of a larger one costs more than its scans.
const mostProbed = 20_000

const (
	shortestWindow = 256 // looks
	longestWindow  = 4096
	fewest         = 3 // cycles that are worth a leap
	longestPause   = 64
)

// state is a machine's at the end of a scan.
type state struct {
	bits  []byte
	words []int64
	texts []string
}

func (s *state) of(m *Machine) {
	live := m.code.live
	s.bits = append(s.bits[:0], m.bits[:live.bit]...)
	s.words = append(s.words[:0], m.words[:live.word]...)
	s.texts = append(s.texts[:0], m.texts[:live.text]...)
}

// since lists the words that moved since a state, and reports whether bits and texts are the same.
func (s *state) since(m *Machine, list []moved) ([]moved, bool) {
	live := m.code.live
	for i, w := range m.words[:live.word] {
		if w != s.words[i] {
			list = append(list, moved{uint32(i), w - s.words[i]})
		}
	}
	return list, slices.Equal(s.bits, m.bits[:live.bit]) && slices.Equal(s.texts, m.texts[:live.text])
}

// patience puts off what fails, longer each time.
type patience struct{ next, pause int }

func (p *patience) fails(scan, longest int) {
	p.next, p.pause = scan+1+p.pause, min(2*p.pause+1, longest)
}

// A level knows when it saw a scan that did the same, and the state of one that may come again a cycle later.
type level struct {
	marks   map[uint64]mark
	anchor  state
	at, due int // scans
	retry   patience
}

// A mark is a scan that did something, and how long before it one had done the same.
type mark struct{ scan, executed, before int }

// A whole is a scan behind which all was as it may be again, and when each timer had begun.
type whole struct {
	mark
	starts []int64
}

func newProber(m *Machine) *prober {
	return &prober{m: m, beat: m.code.beat(), left: shortestWindow, window: shortestWindow, seed: maphash.MakeSeed()}
}

// before keeps the state that a scan begins with.
func (p *prober) before() { p.was.of(p.m) }

// after looks at the scan just executed and returns how many of the next, at most most, do what it did.
func (p *prober) after(scan, most int) cycle {
	if p.pending.end > 0 {
		most = min(most, p.pending.end-scan)
	}
	var same bool
	p.moved, same = p.was.since(p.m, p.moved[:0])
	level, before, found := p.level, p.did, cycle{}
	p.level, p.did = 0, 0
	if same && p.beat == 1 && scan >= p.still.next {
		found = p.evenly(scan, most)
	}
	if p.pending.end == 0 && (level > 0 || found.times == 0) {
		p.did = p.key(scan)
	}
	switch {
	case p.did == 0, level == 0 && p.did == before: // it goes on as it did
	case level > 0 && p.returns(scan, most), p.look(p.at(level), scan, most):
		p.pending.level = level
		p.hope()
		if found.times = min(found.times, p.pending.end-scan); found.times < fewest {
			return cycle{}
		}
		return found
	}
	if found.times > 0 {
		p.hope()
		p.leaps(0)
		return found
	}
	if p.pending.end == 0 {
		p.tire(scan)
	}
	return found
}

// evenly finds how many scans go on as the one just executed.
func (p *prober) evenly(scan, most int) cycle {
	n := min(p.foreseen(1, p.moved), most)
	if n < fewest {
		p.still.fails(scan, longestPause)
		return cycle{}
	}
	p.still = patience{}
	return cycle{1, n, p.moved}
}

// leaps notes that the next scan executed is behind a leap that a level led to.
func (p *prober) leaps(level int) {
	for _, l := range p.levels[:level+1] {
		l.forget()
	}
	p.level = min(level+1, len(p.levels)-1)
}

// hope looks on, and tire gives up for a while what was in vain for long.
func (p *prober) hope() { p.left, p.window = shortestWindow, shortestWindow }

func (p *prober) tire(scan int) {
	if p.left--; p.left > 0 {
		return
	}
	p.next = scan + p.window*p.window/8 // ever longer: 32 windows, then 64
	p.window = min(2*p.window, longestWindow)
	p.left = p.window
	p.forget()
}

// foreseen is for how many cycles of so many scans what moved goes on. Where nothing moved in a scan, nothing will: the time is told by
// timers alone, and any that runs moves, unless its elapsed time is forced.
func (p *prober) foreseen(scans int, moved []moved) int {
	if scans == 1 && len(moved) == 0 && len(p.m.forces) == 0 {
		return longest
	}
	p.executed += scans
	return p.foresight.foresee(p.m, scans, moved)
}

// returns looks whether everything is as it was behind a leap before, whatever happened in between: then it comes again, and nothing but
// the timers' starts moved. Most of the time something else happens first, so it waits for a few leaps.
func (p *prober) returns(scan, most int) bool {
	if p.behind++; p.behind <= fewest {
		return false
	}
	p.pose = p.m.Pose(p.pose[:0])
	key := maphash.Bytes(p.seed, p.pose)
	seen, known := p.whole[key]
	now := whole{mark{scan, p.executed, 0}, nil}
	var moves []moved
	for i, t := range p.m.code.timers {
		start := p.m.words[t.word+wordStart]
		now.starts = append(now.starts, start)
		if known && start != seen.starts[i] {
			moves = append(moves, moved{t.word + wordStart, start - seen.starts[i]})
		}
	}
	length := scan - seen.scan
	if p.whole == nil {
		p.whole = map[uint64]whole{}
	}
	p.whole[key] = now
	return known && worth(length, p.executed-seen.executed, most) && p.proves(scan, length, most, moves)
}

// forget drops what was seen: something happens that comes from outside.
func (p *prober) forget() {
	for _, l := range p.levels {
		l.forget()
	}
	clear(p.whole)
	p.level, p.behind, p.pending.end = 0, 0, 0
}

func (l *level) forget() {
	if l != nil {
		clear(l.marks)
		l.due = 0
	}
}

// key tells scans apart by what they did: what is on at their end, and how words moved.
func (p *prober) key(scan int) uint64 {
	live := p.m.code.live
	pose := append(p.pose[:0], p.m.bits[:live.bit]...)
	for _, w := range p.moved {
		pose = binary.LittleEndian.AppendUint32(pose, w.word)
		pose = binary.LittleEndian.AppendUint64(pose, uint64(w.by))
	}
	for _, t := range p.m.texts[:live.text] {
		pose = append(append(pose, t...), 0)
	}
	p.pose = binary.AppendUvarint(pose, uint64(scan%p.beat))
	return maphash.Bytes(p.seed, p.pose)
}

// at returns a level, of which most runs need one at most.
func (p *prober) at(n int) *level {
	if p.levels[n] == nil {
		p.levels[n] = &level{marks: map[uint64]mark{}}
	}
	return p.levels[n]
}

// look finds a cycle that ends with this scan, and makes it pending. A scan that did the same before suggests one, the state here is kept,
// and a cycle later it is seen how the words moved.
func (p *prober) look(l *level, scan, most int) bool {
	if scan == l.due && l.due > 0 {
		moved, same := l.anchor.since(p.m, nil)
		if same && p.proves(scan, scan-l.at, most, moved) {
			l.retry = patience{}
			return true
		}
		l.retry.fails(scan, longestWindow)
	}
	seen, known := l.marks[p.did]
	length := scan - seen.scan
	if known && length == seen.before && scan >= l.due && scan >= l.retry.next && worth(length, p.executed-seen.executed, most) {
		l.anchor.of(p.m)
		l.at, l.due = scan, scan+length
	}
	l.marks[p.did] = mark{scan, p.executed, length}
	return false
}

// proves makes a cycle pending that goes on for long enough.
func (p *prober) proves(scan, length, most int, moved []moved) bool {
	n := min(p.foreseen(length, moved), most/length)
	if n >= fewest {
		p.pending = pending{cycle: cycle{length, n, moved}, end: scan + length}
	}
	return n >= fewest
}

// worth reports whether to prove a cycle of so many scans costs less than to go on executing so many of them.
func worth(scans, executed, most int) bool {
	times := most/scans - 1
	return times > fewest && times*executed >= 2*scans
}

// advance moves the state on by so many cycles.
func (m *Machine) advance(c cycle, times int) {
	m.untrack()
	for _, w := range c.moved {
		m.words[w.word] += w.by * int64(times)
	}
	m.scan += c.scans * times
}

func (p *player) skip() *Fault {
	if p.m.code.Cells() > mostProbed {
		return p.each()
	}
	probe := newProber(p.m)
	defer func() { p.executed += probe.executed }()
	for scan := 0; scan < p.scans; scan++ {
		look := scan >= probe.next && p.quiet(scan) > 0
		if look {
			probe.before()
		} else if scan >= probe.next {
			probe.forget()
		}
		if fault := p.one(scan); fault != nil {
			return fault
		}
		probe.executed++
		if !look {
			continue
		}
		if even := probe.after(scan, p.quiet(scan+1)); even.times > 0 {
			scan = p.glide(even, scan)
		}
		if probe.pending.end == scan {
			scan = p.leap(probe, scan)
		}
	}
	return nil
}

// glide passes over cycles of one scan and returns the last. Two are recorded, which suffices for a column to know its slope.
func (p *player) glide(c cycle, scan int) int {
	for range 2 {
		scan++
		p.m.advance(c, 1)
		p.recorder.Record(p.m, scan)
	}
	p.m.advance(c, c.times-2)
	p.recorder.repeat(c, scan, c.times-2)
	return scan + c.times - 2
}

// leap passes over the cycles that come after the pending one, which ends with a scan, and returns the last scan of them.
func (p *player) leap(probe *prober, scan int) int {
	c := probe.pending
	p.m.advance(c.cycle, c.times-1)
	p.recorder.repeat(c.cycle, scan+1-c.scans, c.times-1)
	probe.pending.end = 0
	probe.leaps(c.level)
	return scan + c.scans*(c.times-1)
}

// repeat records that a cycle which begins at a scan and was just recorded comes again so many times.
func (r *Recorder) repeat(c cycle, from, times int) {
	to := from + c.scans
	for _, w := range r.bits {
		w.column.Repeat(from, to, times, 0)
	}
	for _, w := range r.texts {
		w.column.Repeat(from, to, times, 0)
	}
	for i := range r.words {
		w := &r.words[i]
		by := c.by(w.index)
		w.column.Repeat(from, to, times, by)
		w.foreseen += by * int64(times)
	}
}

// by is how a word moves in a cycle.
func (c *cycle) by(word uint32) int64 {
	for _, w := range c.moved {
		if w.word == word {
			return w.by
		}
	}
	return 0
}
