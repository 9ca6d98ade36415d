package main

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

// byHand is the same logic as a person would write it in Go.
type byHand struct {
	on, off, door, rain, tray, taken           bool
	bedTemp                                    int16
	mist, vent, shade, fan, full, alarm, lamp  bool
	total                                      int32
	settleStart, settleET, overStart, overET   int64
	settleRuns, settleDone, overHeld, overRuns bool
	settleQ, overQ, rackQ, rackCU              bool
	rackCV                                     int16
	riseMemory, fallMemory                     bool
}

func (p *byHand) scan(now int64) {
	p.mist = (p.on || p.mist) && p.off
	p.settle(now)
	p.vent = p.settleQ
	p.overrun(now)
	p.fan = p.overQ
	if p.rain && !p.vent {
		p.shade = true
	}
	if !p.rain && p.door {
		p.shade = false
	}
	if p.taken {
		p.rackCV = 0
	} else if p.tray && !p.rackCU && p.rackCV < 32767 {
		p.rackCV++
	}
	p.rackCU = p.tray
	p.rackQ = p.rackCV >= 5
	p.full = p.rackQ
	p.alarm = p.bedTemp > 350 && !p.vent
	p.lamp = p.alarm || p.full || p.shade
	if p.tray && !p.riseMemory {
		p.total++
	}
	p.riseMemory = p.tray
	power := (p.on && p.door || p.rain && !p.door) && !p.alarm
	p.vent = power
	if power && !p.rain {
		p.shade = true
	}
	fell := p.fallMemory && !p.tray
	p.fallMemory = p.tray
	p.lamp = fell && p.mist && p.off && !p.taken
}

const second = int64(1e9)

func (p *byHand) settle(now int64) {
	if !p.mist {
		p.settleQ, p.settleRuns, p.settleDone, p.settleET = false, false, false, 0
		return
	}
	if !p.settleRuns {
		p.settleRuns, p.settleStart = true, now
	}
	if !p.settleDone {
		p.settleET = min(now-p.settleStart, 5*second)
		p.settleDone = p.settleET == 5*second
	}
	p.settleQ = p.settleDone
}

func (p *byHand) overrun(now int64) {
	if p.mist {
		p.overQ, p.overHeld, p.overRuns, p.overET = true, true, false, 0
		return
	}
	if p.overHeld {
		p.overHeld, p.overRuns, p.overStart = false, true, now
	}
	if p.overRuns {
		p.overET = min(now-p.overStart, 2*second)
		if p.overET == 2*second {
			p.overRuns, p.overQ = false, false
		}
	}
}
