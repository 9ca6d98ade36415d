package machine

import (
	"math"
	"slices"

	"celandine/core/block"
	"celandine/core/check"
)

// Skipping still time: when a scan changed nothing but the elapsed times of running
// timers, the scans after it do the same until an input changes, a timer
// reaches its preset, or an elapsed time passes a constant that the program compares it
// with. They need not be executed. A timer whose elapsed time the program reads in any other way forbids
// it while it runs.

// A timer is one timer instance, wherever it lies.
type timer struct {
	bit, word  uint32
	lasts      bool    // its start is the time of its last call
	thresholds []int64 // constants that ET is compared with
	opaque     bool    // its part in a scan cannot be foreseen from its state
	called     bool    // somewhere already, while compiling
}

func (t *timer) elapsed() uint32 { return t.word + wordET }

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
			c.timers[at.word+wordET] = len(c.code.timers)
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

// readsElapsed notes that the program reads the word of an elapsed time.
func (c *compiler) readsElapsed(word uint32) {
	if i, ok := c.timers[word]; ok {
		c.code.timers[i].opaque = true
	}
}

// callsTimer notes a call of a timer. One that may be called more than once in a
// scan can reach one preset on the way to another, which the state at the end does not tell.
func (c *compiler) callsTimer(at extent) {
	i, ok := c.timers[at.word+wordET]
	if !ok {
		return
	}
	t := &c.code.timers[i]
	t.opaque = t.opaque || t.called || c.loops > 0
	t.called = true
}

// writesPreset notes that the program sets a timer's preset outside its call.
func (c *compiler) writesPreset(r *check.Ref, l location) {
	if m := r.Member(); m != nil && m.Name == "PT" && m.Type == check.Time {
		for i := range c.code.timers {
			if len(l.dynamic) > 0 || c.code.timers[i].word+wordPT == l.base.word {
				c.code.timers[i].opaque = true
			}
		}
	}
}

// threshold notes a comparison of an elapsed time with a constant, and
// reports whether the comparison is one.
func (c *compiler) threshold(x, y check.Expr) bool {
	ref, ok := x.(*check.Ref)
	k, constant := y.(*check.Const)
	if !ok || !constant || ref.Type().Class != check.Duration || check.Invokes(ref) { // locating it would call the function once more
		return false
	}
	l := c.locate(ref)
	i, elapsed := c.timers[l.base.word]
	if !elapsed || len(l.dynamic) > 0 {
		return false
	}
	c.code.timers[i].thresholds = append(c.code.timers[i].thresholds, k.Value)
	return true
}

// A prober looks whether time stands still. It looks less often while it does not.
type prober struct {
	m      *Machine
	bits   []byte
	words  []int64
	texts  []string
	next   int // scan to look at
	pause  int // scans until then, after a look in vain
	moving []int
}

const longestPause = 64

func newProber(m *Machine) *prober {
	live := m.code.live
	return &prober{m: m, bits: make([]byte, live.bit), words: make([]int64, live.word), texts: make([]string, live.text), next: 1, pause: 1}
}

// before keeps the state that a scan begins with.
func (p *prober) before() {
	copy(p.bits, p.m.bits)
	copy(p.words, p.m.words)
	copy(p.texts, p.m.texts)
}

// still returns how many of the scans after the one just executed would change
// nothing but elapsed times; at most most.
func (p *prober) still(scan, most int) int {
	n := 0
	if p.unchanged() {
		n = p.quiet(most)
	}
	if n < 3 {
		p.next, p.pause = scan+1+p.pause, min(2*p.pause, longestPause)
		return 0
	}
	p.next, p.pause = 0, 1
	return n
}

// unchanged compares the state with the one before the scan, but for timers
// that ran on by one period; it notes those.
func (p *prober) unchanged() bool {
	m := p.m
	live := m.code.live
	if !slices.Equal(p.bits, m.bits[:live.bit]) || !slices.Equal(p.texts, m.texts[:live.text]) {
		return false
	}
	p.moving = p.moving[:0]
	period := int64(m.period)
	for i := range m.code.timers {
		t := &m.code.timers[i]
		et, start := t.elapsed(), t.word+wordStart
		if m.words[et] == p.words[et]+period {
			p.moving = append(p.moving, i)
			p.words[et] += period
		}
		if t.lasts && m.words[start] == p.words[start]+period {
			p.words[start] += period // the time of its last call
		}
	}
	return slices.Equal(p.words, m.words[:live.word])
}

// quiet returns the scans until a moving timer ends or passes a constant.
func (p *prober) quiet(most int) int {
	m, n := p.m, most
	for _, i := range p.moving {
		t := &m.code.timers[i]
		if t.opaque {
			return 0
		}
		now := m.words[t.elapsed()]
		n = min(n, m.scansUntil(now, max(m.words[t.word+wordPT], 0))-1)
		for _, k := range t.thresholds {
			for _, at := range [2]int64{k, k + 1} {
				if now <= at+int64(m.period) { // passed by more than a scan, it is behind
					n = min(n, max(m.scansUntil(now, at)-1, 0))
				}
			}
		}
	}
	return n
}

// scansUntil returns how many scans from now an elapsed time reaches a value.
func (m *Machine) scansUntil(now, value int64) int {
	if value <= now {
		return 0
	}
	n := (value - now + int64(m.period) - 1) / int64(m.period)
	if n < 0 || n > math.MaxInt32 {
		return math.MaxInt32
	}
	return int(n)
}

// advance moves the state on by n still scans.
func (p *prober) advance(n int) {
	m := p.m
	on := int64(n) * int64(m.period)
	for _, i := range p.moving {
		m.words[m.code.timers[i].elapsed()] += on
	}
	for i := range m.code.timers {
		t := &m.code.timers[i]
		if t.lasts && p.called(t) {
			m.words[t.word+wordStart] += on
		}
	}
	m.scan += n
}

// called reports whether an accumulating timer was called in the scan just executed.
func (p *prober) called(t *timer) bool {
	return p.m.words[t.word+wordStart] == int64(p.m.scan-1)*int64(p.m.period)
}
