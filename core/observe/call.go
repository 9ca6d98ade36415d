package observe

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
		ruleOf(instance).run(face{o, instance})
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
