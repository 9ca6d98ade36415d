package observe

import (
	"fmt"

	"celandine/core/check"
	"celandine/core/machine"
)

// A rule is what a standard block does, and how it takes over what a machine's remembers.
type rule struct {
	run  func(face)
	load func(*cell, machine.Place)
}

// rules are the standard blocks by name, each written from its rule in the language page.
var rules = map[string]rule{
	"SR":     {func(f face) { f.flag("Q1", f.on("S1") || f.on("Q1") && !f.on("R")) }, nothing},
	"RS":     {func(f face) { f.flag("Q1", !f.on("R1") && (f.on("S") || f.on("Q1"))) }, nothing},
	"R_TRIG": {func(f face) { f.flag("Q", f.rises(0, f.on("CLK"))) }, edges},
	"F_TRIG": {func(f face) { f.flag("Q", f.rises(0, !f.on("CLK"))) }, edges},
	"CTU":    {countUp, edges},
	"CTD":    {countDown, edges},
	"CTUD":   {countBoth, edges},
	"TON":    {func(f face) { f.time(face.onDelay) }, phases},
	"TOF":    {func(f face) { f.time(face.offDelay) }, phases},
	"TP":     {func(f face) { f.time(face.pulse) }, phases},
	"TACC":   {func(f face) { f.time(face.accumulate) }, lastCall},
}

// ruleOf is the rule of an instance of a standard block. One without would be half a block: a test sees to it that there is none.
func ruleOf(c *cell) rule {
	r, ok := rules[c.typed.Block.Kind()]
	if !ok {
		panic(fmt.Sprintf("observe: the block %s has no rule", c.typed.Block.Name))
	}
	return r
}

// hidden is what a standard block remembers: a bit of an edge or counter, or whether a timer runs, since when, and whether it
// has come to its end.
type hidden [3]int64

func nothing(*cell, machine.Place) {}

func edges(c *cell, from machine.Place) {
	bits, _ := from.Hidden()
	for n, b := range bits {
		c.hidden[n] = int64(b)
	}
}

func phases(c *cell, from machine.Place) {
	bits, words := from.Hidden()
	runs, ended := machine.Timing(bits[0])
	c.hidden = hidden{bitOfBool(runs), words[0], bitOfBool(ended)}
}

func lastCall(c *cell, from machine.Place) {
	bits, words := from.Hidden()
	c.hidden = hidden{int64(bits[0]), words[0]}
}

// A face is an instance of a standard block that is called.
type face struct {
	o *Observer
	*cell
}

func (f face) pin(name string) *cell    { return f.members[f.typed.Block.Member(name)] }
func (f face) on(name string) bool      { return f.pin(name).number != 0 }
func (f face) value(name string) int64  { return f.pin(name).number }
func (f face) set(name string, v int64) { f.o.write(f.pin(name), v) }
func (f face) flag(name string, v bool) { f.set(name, bitOfBool(v)) }
func (f face) count() *check.Type       { return f.typed.Block.Count }
func (f face) compare(a, b int64) bool  { return check.Operate(check.LessEqual, f.count(), a, b) != 0 }
func (f face) elapsed(pt int64) int64   { return min(f.o.now()-f.hidden[1], pt) }
func (f face) phase(runs, ended bool)   { f.hidden[0], f.hidden[2] = bitOfBool(runs), bitOfBool(ended) }
func (f face) begin()                   { f.hidden = hidden{1, f.o.now(), 0} }
func (f face) runs() bool               { return f.hidden[0] != 0 }
func (f face) ended() bool              { return f.hidden[2] != 0 }

// rises reports whether a bit is TRUE that was not at the last call, which the n-th hidden value remembers.
func (f face) rises(n int, now bool) bool {
	before := f.hidden[n] != 0
	f.hidden[n] = bitOfBool(now)
	return now && !before
}

// step counts up or down, within the limits of the type.
func (f face) step(up, down bool) int64 {
	cv := f.value("CV")
	least, greatest := f.count().Range()
	if f.count().IsUnsigned64() {
		greatest = -1 // all bits set
	}
	switch {
	case up && !down && cv != greatest:
		return cv + 1
	case down && !up && cv != least:
		return cv - 1
	}
	return cv
}

func countUp(f face) {
	cv := f.step(f.rises(0, f.on("CU")), false)
	if f.on("R") {
		cv = 0
	}
	f.set("CV", cv)
	f.flag("Q", f.compare(f.value("PV"), cv))
}

func countDown(f face) {
	cv := f.step(false, f.rises(0, f.on("CD")))
	if f.on("LD") {
		cv = f.value("PV")
	}
	f.set("CV", cv)
	f.flag("Q", f.compare(cv, 0))
}

func countBoth(f face) {
	up, down := f.rises(0, f.on("CU")), f.rises(1, f.on("CD"))
	cv := f.step(up, down)
	switch {
	case f.on("R"):
		cv = 0
	case f.on("LD"):
		cv = f.value("PV")
	}
	f.set("CV", cv)
	f.flag("QU", f.compare(f.value("PV"), cv))
	f.flag("QD", f.compare(cv, 0))
}

// time sets ET and Q as a timer's rule has them for a preset that is not negative.
func (f face) time(rule func(f face, pt int64) (et int64, q bool)) {
	et, q := rule(f, max(f.value("PT"), 0))
	f.set("ET", et)
	f.flag("Q", q)
}

func (f face) onDelay(pt int64) (int64, bool) {
	if !f.on("IN") {
		f.phase(false, false)
		return 0, false
	}
	if f.ended() {
		return min(f.value("ET"), pt), true
	}
	if !f.runs() {
		f.begin()
	}
	et := f.elapsed(pt)
	f.phase(et < pt, et >= pt)
	return et, et >= pt
}

func (f face) offDelay(pt int64) (int64, bool) {
	if f.on("IN") {
		f.phase(false, false)
		return 0, true
	}
	if !f.runs() && f.on("Q") { // timing begins at the scan in which IN is first FALSE
		f.begin()
	}
	if !f.runs() {
		return min(f.value("ET"), pt), false
	}
	et := f.elapsed(pt)
	f.phase(et < pt, false)
	return et, et < pt
}

func (f face) pulse(pt int64) (int64, bool) {
	et := f.value("ET")
	if !f.runs() && !f.ended() && f.on("IN") {
		f.begin()
	}
	if f.runs() {
		if et = f.elapsed(pt); et < pt {
			return et, true
		}
		f.phase(false, true)
	}
	if f.ended() && f.on("IN") {
		return min(et, pt), false
	}
	f.phase(false, false)
	return 0, false
}

// accumulate counts the time between two calls at both of which IN is TRUE; hidden are IN at the last call, and its time.
func (f face) accumulate(pt int64) (int64, bool) {
	et := f.value("ET")
	if f.runs() && f.on("IN") {
		et += f.o.now() - f.hidden[1]
	}
	if et = min(et, pt); f.on("R") {
		et = 0
	}
	f.hidden = hidden{bitOfBool(f.on("IN")), f.o.now()}
	return et, et >= pt
}
