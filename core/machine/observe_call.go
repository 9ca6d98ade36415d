package machine

import (
	"strconv"

	"celandine/core/check"
)

// callStatement calls a block unless its EN is FALSE. power goes to the member in, which may be nil.
func (o *Observer) callStatement(s *check.Call, in *check.Member, power bool) {
	enabled := s.Enable == nil || o.truth(s.Enable)
	if enabled {
		o.call(s, in, power)
	}
	if s.ENO != nil {
		o.store(s.ENO, value{number: bitOfBool(enabled)})
	}
}

func (o *Observer) call(s *check.Call, in *check.Member, power bool) {
	o.tick()
	instance := o.cell(s.Instance)
	bound := map[*check.Variable]*cell{}
	values := make([]value, len(s.Inputs)) // all worked out before any is stored: until then a name means the last call's
	for n, i := range s.Inputs {
		if i.Member.InOut {
			bound[i.Member.Variable] = o.cell(i.Target)
		} else {
			values[n] = o.eval(i.Value)
		}
	}
	for n, i := range s.Inputs {
		if !i.Member.InOut {
			o.put(instance.member(i.Member), i.Member.Type, values[n])
		}
	}
	if in != nil {
		o.put(instance.member(in), in.Type, value{number: bitOfBool(power)})
	}
	if instance.own == nil {
		o.standard(instance)
	} else {
		for v, c := range instance.own {
			if v.Temp {
				c.copyFrom(newCell(v.Type, v.Initial))
			}
			bound[v] = c
		}
		outer := o.running
		o.running = instance
		o.inside(instance.typed.Block.Unit, bound)
		o.running = outer
	}
	for _, out := range s.Outputs {
		o.deliver(out.Target, out.Member.Type, instance.member(out.Member))
	}
}

// member is the cell of a block's input or output.
func (c *cell) member(m *check.Member) *cell {
	if c.own != nil {
		return c.own[m.Variable]
	}
	return c.members[m]
}

// inside runs a unit with its variables in these cells.
func (o *Observer) inside(u *check.Unit, cells map[*check.Variable]*cell) {
	frame, at := o.frame, o.at
	o.frame = cells
	o.unit(u)
	o.frame, o.at = frame, at
}

func (o *Observer) deliver(target *check.Ref, t *check.Type, from *cell) {
	v := value{from.number, from.text, from}
	if t.IsSingle() && t.Class != check.Text {
		v.number = check.ConvertValue(t, target.Type(), v.number)
	}
	o.store(target, v)
}

func (o *Observer) invoke(e *check.Invoke) value {
	o.tick()
	o.invoked++
	call := e.Unit.Name + "#" + strconv.Itoa(o.invoked)
	cells := map[*check.Variable]*cell{}
	given := map[*check.Variable]value{}
	for _, i := range e.Inputs {
		switch {
		case i.Target != nil:
			cells[i.Variable] = o.cell(i.Target)
		case i.Value != nil:
			given[i.Variable] = o.eval(i.Value)
		}
	}
	if w, ok := o.watcher.(CallWatcher); ok {
		w.Called(e, call)
	}
	for _, v := range e.Unit.Variables {
		if v.InOut {
			continue
		}
		cells[v] = newCell(v.Type, v.Initial)
		if o.watcher != nil {
			o.name(cells[v], call+"."+v.Name)
		}
		if g, ok := given[v]; ok {
			o.put(cells[v], v.Type, g)
		}
	}
	o.inside(e.Unit, cells)
	for _, out := range e.Outputs {
		o.deliver(out.Target, out.Variable.Type, cells[out.Variable])
	}
	r := cells[e.Unit.Result]
	if o.watcher != nil {
		for _, v := range e.Unit.Variables {
			if !v.InOut {
				delete(o.names, cells[v]) // nobody can ask for them any more
			}
		}
	}
	return value{number: r.number, text: r.text}
}

// standard runs a standard block, written here from its rule and apart from
// the code's own.
func (o *Observer) standard(c *cell) {
	b := c.typed.Block
	in := func(name string) bool { return c.members[b.Member(name)].number != 0 }
	number := func(name string) int64 { return c.members[b.Member(name)].number }
	set := func(name string, v int64) { o.write(c.members[b.Member(name)], v) }
	flag := func(name string, v bool) { set(name, bitOfBool(v)) }
	switch b.Family() {
	case "SR":
		flag("Q1", in("S1") || in("Q1") && !in("R"))
	case "RS":
		flag("Q1", !in("R1") && (in("S") || in("Q1")))
	case "R_TRIG":
		flag("Q", in("CLK") && c.hidden[0] == 0)
		c.hidden[0] = bitOfBool(in("CLK"))
	case "F_TRIG":
		flag("Q", !in("CLK") && c.hidden[0] == 0)
		c.hidden[0] = bitOfBool(!in("CLK"))
	case "CTU", "CTD", "CTUD":
		o.counter(c, b.Family(), in, number, set)
	default:
		et, q := o.timer(c, b.Family(), in, max(number("PT"), 0), number("ET"), in("Q"))
		set("ET", et)
		flag("Q", q)
	}
}

func (o *Observer) counter(c *cell, family string, in func(string) bool, number func(string) int64, set func(string, int64)) {
	t := c.typed.Block.Count
	least, greatest := t.Range()
	if unsigned64(t) {
		greatest = -1
	}
	up := family != "CTD" && in("CU") && c.hidden[0] == 0
	down := family != "CTU" && in("CD") && c.hidden[1] == 0
	cv, pv := number("CV"), number("PV")
	switch {
	case family != "CTD" && in("R"):
		cv = 0
	case family != "CTU" && in("LD"):
		cv = pv
	case up && down:
	case up && cv != greatest:
		cv++
	case down && cv != least:
		cv--
	}
	set("CV", cv)
	full := check.Operate(check.LessEqual, t, pv, cv)
	none := check.Operate(check.LessEqual, t, cv, 0)
	switch family {
	case "CTU":
		set("Q", full)
		c.hidden[0] = bitOfBool(in("CU"))
	case "CTD":
		set("Q", none)
		c.hidden[1] = bitOfBool(in("CD"))
	default:
		set("QU", full)
		set("QD", none)
		c.hidden[0], c.hidden[1] = bitOfBool(in("CU")), bitOfBool(in("CD"))
	}
}

// timer gives ET and Q. hidden is: whether it runs, since when, and whether it
// has come to its end.
func (o *Observer) timer(c *cell, family string, in func(string) bool, pt, et int64, q bool) (int64, bool) {
	running, since, over := &c.hidden[0], &c.hidden[1], &c.hidden[2]
	start := func() { *running, *since, *over = 1, o.now(), 0 }
	rest := func() { *running, *over = 0, 0 }
	elapsed := func() int64 { return min(o.now()-*since, pt) }
	switch family {
	case "TON":
		if !in("IN") {
			rest()
			return 0, false
		}
		if *running == 0 && *over == 0 {
			start()
		}
		if *over != 0 {
			return min(et, pt), true
		}
		if et = elapsed(); et >= pt {
			*running, *over = 0, 1
		}
		return et, *over != 0
	case "TOF":
		if in("IN") {
			*running, *over = 0, 0
			*since = -1 // timing begins at the scan in which IN is first FALSE
			return 0, true
		}
		if *running == 0 && q {
			start()
		}
		if *running == 0 {
			return min(et, pt), false
		}
		if et = elapsed(); et >= pt {
			*running = 0
			return et, false
		}
		return et, true
	case "TP":
		if *running == 0 && *over == 0 && in("IN") {
			start()
		}
		if *running != 0 {
			if et = elapsed(); et < pt {
				return et, true
			}
			*running, *over = 0, 1
		}
		if *over != 0 && in("IN") {
			return min(et, pt), false
		}
		rest()
		return 0, false
	}
	// TACC: hidden is IN at the last call and its time.
	if *running != 0 && in("IN") {
		et += o.now() - *since
	}
	et = min(et, pt)
	if in("R") {
		et = 0
	}
	*running, *since = bitOfBool(in("IN")), o.now()
	return et, et >= pt
}
