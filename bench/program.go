package main

import (
	"math"
	"time"
)

// elevenRungs is a mixed program: hold-in, branches, set and reset, edges,
// timers, a counter, a comparison and arithmetic.
const elevenRungs = `PROGRAM glasshouse
VAR_INPUT on, off, door, rain, tray, taken : BOOL; bed_temp : INT; END_VAR
VAR_OUTPUT mist, vent, shade, fan, full, alarm, lamp : BOOL; total : DINT; END_VAR
VAR settle : TON; overrun : TOF; rack : CTU; END_VAR
LADDER
RUNG { [on] | [mist] } -- [off] -- (mist);
RUNG [mist] -- settle(PT := T#5s) -- (vent);
RUNG [mist] -- overrun(PT := T#2s) -- (fan);
RUNG [rain] -- [/vent] -- (S shade);
RUNG [/rain] -- [door] -- (R shade);
RUNG [tray] -- rack(R := taken, PV := 5) -- (full);
RUNG [bed_temp > 350] -- [/vent] -- (alarm);
RUNG { [alarm] | [full] | [shade] } -- (lamp);
RUNG [P tray] -- ADD(total, 1) => total;
RUNG { [on] -- [door] | [rain] -- [/door] } -- [/alarm] -- { (vent) | [/rain] -- (S shade) };
RUNG [N tray] -- [mist] -- [off] -- [/taken] -- (lamp);
END_LADDER
END_PROGRAM
`

// byHand is the same logic as a person would write it in Go: the blocks once, as types, and
// the rungs in order.
type byHand struct {
	on, off, door, rain, tray, taken          bool
	bedTemp                                   int16
	mist, vent, shade, fan, full, alarm, lamp bool
	total                                     int32
	settle                                    onDelay
	overrun                                   offDelay
	rack                                      upCounter
	trayRises                                 rising
	trayFalls                                 falling
}

func (p *byHand) scan(now time.Duration) {
	p.mist = (p.on || p.mist) && p.off
	p.vent = p.settle.update(p.mist, 5*time.Second, now)
	p.fan = p.overrun.update(p.mist, 2*time.Second, now)
	if p.rain && !p.vent {
		p.shade = true
	}
	if !p.rain && p.door {
		p.shade = false
	}
	p.full = p.rack.update(p.tray, p.taken, 5)
	p.alarm = p.bedTemp > 350 && !p.vent
	p.lamp = p.alarm || p.full || p.shade
	if p.trayRises.update(p.tray) {
		p.total++
	}
	power := (p.on && p.door || p.rain && !p.door) && !p.alarm
	p.vent = power
	if power && !p.rain {
		p.shade = true
	}
	p.lamp = p.trayFalls.update(p.tray) && p.mist && p.off && !p.taken
}

type onDelay struct {
	in, q, running, done bool
	pt, et, start        time.Duration
}

func (t *onDelay) update(in bool, pt, now time.Duration) bool {
	t.in, t.pt = in, max(pt, 0)
	if !in {
		t.q, t.running, t.done, t.et = false, false, false, 0
		return false
	}
	if !t.running {
		t.running, t.start = true, now
	}
	if t.done {
		t.et = min(t.et, t.pt)
		return true
	}
	t.et = min(now-t.start, t.pt)
	t.done = t.et == t.pt
	t.q = t.done
	return t.q
}

type offDelay struct {
	in, q, held, running bool
	pt, et, start        time.Duration
}

func (t *offDelay) update(in bool, pt, now time.Duration) bool {
	t.in, t.pt = in, max(pt, 0)
	if in {
		t.q, t.held, t.running, t.et = true, true, false, 0
		return true
	}
	if t.held {
		t.held, t.running, t.start = false, true, now
	}
	if !t.running {
		t.et = min(t.et, t.pt)
		return t.q
	}
	t.et = min(now-t.start, t.pt)
	if t.et == t.pt {
		t.running, t.q = false, false
	}
	return t.q
}

type upCounter struct {
	cu, r, q bool
	pv, cv   int16
}

func (c *upCounter) update(cu, r bool, pv int16) bool {
	switch {
	case r:
		c.cv = 0
	case cu && !c.cu && c.cv < math.MaxInt16:
		c.cv++
	}
	c.cu, c.r, c.pv = cu, r, pv
	c.q = c.cv >= pv
	return c.q
}

type rising struct{ before bool }

func (e *rising) update(now bool) bool {
	edge := now && !e.before
	e.before = now
	return edge
}

type falling struct{ before bool }

func (e *falling) update(now bool) bool {
	edge := e.before && !now
	e.before = now
	return edge
}
