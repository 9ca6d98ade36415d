package explain

import (
	"strings"

	"celandine/core/check"
	"celandine/core/source"
)

// A moment is one scan with what every rung and statement read and wrote in it.
type moment struct {
	scan  int
	deeds []*deed
	open  []*deed
}

// A deed is one execution of a rung or statement.
type deed struct {
	scan   int
	place  any // *check.Rung or check.Statement
	parent *deed
	values map[check.Expr]reading
	names  map[string]int64 // what names read last
	power  map[check.Element]flow
	writes []written
}

type reading struct {
	name string
	v    int64
}

type flow struct{ in, out bool }

type written struct {
	name string
	at   source.Span
	v    int64
}

// moment executes a scan again with a watcher, once.
func (a *Asker) moment(scan int) *moment {
	if m := a.moments[scan]; m != nil {
		return m
	}
	m := &moment{scan: scan}
	a.moments[scan] = m
	before, fault, err := a.code.Before(a.script, scan)
	a.stop(err)
	if err != nil || fault != nil {
		return m
	}
	o := before.Observe()
	o.Watch(m)
	o.Scan() // a fault ends it early; what came before is noted
	return m
}

// Begin notes that a rung or statement begins.
func (m *moment) Begin(place any) {
	d := &deed{scan: m.scan, place: place, values: map[check.Expr]reading{}, names: map[string]int64{}, power: map[check.Element]flow{}}
	if n := len(m.open); n > 0 {
		d.parent = m.open[n-1]
	}
	m.deeds = append(m.deeds, d)
	m.open = append(m.open, d)
}

// within is a name in the deed's block instance as the trace has it: vent.edge.Q for edge.Q.
func (d *deed) within(name string) string {
	for e, r := range d.values {
		ref, ok := e.(*check.Ref)
		if !ok || ref.Variable.Owner == nil || name == "" {
			continue
		}
		if n := len(r.name) - len(ref.Name()); n > 0 && strings.EqualFold(r.name[n:], ref.Name()) {
			return r.name[:n] + name
		}
	}
	return name
}

// End notes that it has ended.
func (m *moment) End() { m.open = m.open[:len(m.open)-1] }

func (m *moment) now() *deed {
	if len(m.open) == 0 {
		return nil
	}
	return m.open[len(m.open)-1]
}

// Power notes the power at an element.
func (m *moment) Power(e check.Element, in, out bool) {
	if d := m.now(); d != nil {
		d.power[e] = flow{in, out}
	}
}

// Value notes the value of an expression.
func (m *moment) Value(e check.Expr, name string, v int64) {
	if d := m.now(); d != nil {
		d.values[e] = reading{name, v}
		d.names[name] = v
	}
}

// Wrote notes a value that was written.
func (m *moment) Wrote(name string, at source.Span, v int64) {
	if d := m.now(); d != nil && name != "" {
		d.writes = append(d.writes, written{name, at, v})
	}
}

// writerOf returns what wrote a name last, or nil.
func (m *moment) writerOf(name string) *deed {
	for i := len(m.deeds) - 1; i >= 0; i-- {
		for _, w := range m.deeds[i].writes {
			if strings.EqualFold(w.name, name) {
				return m.deeds[i]
			}
		}
	}
	return nil
}

// deedOf returns the last execution of a rung or statement, or nil.
func (m *moment) deedOf(place any) *deed {
	for i := len(m.deeds) - 1; i >= 0; i-- {
		if m.deeds[i].place == place {
			return m.deeds[i]
		}
	}
	return nil
}

// wroteAt returns where in its text the deed wrote a name last.
func (d *deed) wroteAt(name string) source.Span {
	var at source.Span
	for _, w := range d.writes {
		if strings.EqualFold(w.name, name) {
			at = w.at
		}
	}
	return at
}

// spanOf is the place of a rung or statement.
func spanOf(place any) source.Span {
	switch p := place.(type) {
	case *check.Rung:
		return p.At
	case *check.Assign:
		return p.At
	case *check.Call:
		return p.At
	case *check.Evaluate:
		return p.At
	case *check.If:
		return p.At
	case *check.Case:
		return p.At
	case *check.For:
		return p.At
	case *check.While:
		return p.At
	case *check.Repeat:
		return p.At
	case *check.Jump:
		return p.At
	}
	return source.Span{}
}

func placeOf(place any) *Place {
	at := spanOf(place)
	if at.File == nil {
		return nil
	}
	line, _ := at.File.Position(at.Start)
	p := &Place{File: at.File.Name, Line: line, Start: at.Start, End: at.End}
	if r, ok := place.(*check.Rung); ok {
		p.Rung, p.Title = r.Number, r.Title
	}
	return p
}
