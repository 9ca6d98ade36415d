package explain

import (
	"strings"

	"celandine/core/check"
	"celandine/core/observe"
	"celandine/core/source"
)

// A moment is one scan with what every rung and statement read and wrote in it.
type moment struct {
	scan     int
	asker    *Asker
	observer *observe.Observer
	deeds    []*deed
	open     []*deed
	calls    map[*check.Unit]string // of functions: what the names of the last call begin with
	types    map[string]*check.Type // of the variables of functions
	values   map[string]int64
}

// A deed is one execution of a rung or statement.
type deed struct {
	scan   int
	place  any    // *check.Rung or check.Statement
	within string // what the names of its own variables begin with: belt_2. in an instance, fresh#2. in a function, "" in a program
	parent *deed
	calls  []invoked // functions of one's own, in their order
	values map[check.Expr]reading
	names  map[string]int64 // what names read last
	power  map[check.Element]flow
	writes []written
}

type invoked struct {
	call   *check.Invoke
	prefix string // of the names of its variables: fresh#2.
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
	m := &moment{scan: scan, asker: a, calls: map[*check.Unit]string{}, types: map[string]*check.Type{}, values: map[string]int64{}}
	a.moments[scan] = m
	before, fault, err := a.code.Before(a.script, scan)
	a.stop(err)
	if err != nil || fault != nil {
		return m
	}
	o := observe.Of(before)
	m.observer = o
	o.Watch(m)
	o.Scan() // a fault ends it early; what came before is noted
	return m
}

// Begin notes that a rung or statement begins.
func (m *moment) Begin(place any) {
	d := &deed{scan: m.scan, place: place, within: m.within(place), values: map[check.Expr]reading{}, names: map[string]int64{},
		power: map[check.Element]flow{}}
	if n := len(m.open); n > 0 {
		d.parent = m.open[n-1]
	}
	m.deeds = append(m.deeds, d)
	m.open = append(m.open, d)
}

// within is what the names of a unit's own variables begin with while one of its rungs or statements runs.
func (m *moment) within(place any) string {
	if u := m.asker.functions[place]; u != nil {
		return m.calls[u]
	}
	if instance := m.observer.Instance(); instance != "" {
		return instance + "."
	}
	return ""
}

// Called notes the call of a function of one's own.
func (m *moment) Called(e *check.Invoke, name string) {
	m.asker.knows(e.Unit)
	name += "."
	m.calls[e.Unit] = name
	for _, v := range e.Unit.Variables {
		m.types[strings.ToLower(name+v.Name)] = v.Type
	}
	if d := m.now(); d != nil {
		d.calls = append(d.calls, invoked{e, name})
	}
}

// named is the name of what a reference arrives at in the deed, or "" where it stands for a caller's variable that was not read.
func (d *deed) named(r *check.Ref) string {
	if read, ok := d.values[r]; ok && read.name != "" {
		return read.name
	}
	v := r.Variable
	switch {
	case v.InOut:
		return ""
	case v.Owner != nil:
		return d.within + r.Name()
	}
	return r.Name()
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
	if local(name) {
		m.values[strings.ToLower(name)] = v
	}
}

// local reports the name of a function's variable, which is known in its own scan alone.
func local(name string) bool { return strings.Contains(name, "#") }

// shown is a name as people know it: fresh.on for fresh#2.on.
func shown(name string) string {
	at := strings.IndexByte(name, '#')
	if at < 0 {
		return name
	}
	_, member, _ := strings.Cut(name[at:], ".")
	return name[:at] + "." + member
}

// Wrote notes a value that was written.
func (m *moment) Wrote(name string, at source.Span, before, v int64) {
	if before == v && m.asker.shares(name, at) {
		return
	}
	if d := m.now(); d != nil && name != "" {
		d.writes = append(d.writes, written{name, at, v})
	}
	if local(name) {
		m.values[strings.ToLower(name)] = v
	}
}

// shares reports a write that only brings a variable up to another on the same bits: the text at its place names that other.
func (a *Asker) shares(name string, at source.Span) bool {
	root, _, _ := strings.Cut(name, "[")
	root, _, _ = strings.Cut(root, ".")
	for _, v := range a.program.Variables {
		if v.Address != "" && strings.EqualFold(v.Name, root) {
			return at.File != nil && !strings.Contains(strings.ToLower(at.Text()), strings.ToLower(root))
		}
	}
	return false
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

// deedOf returns the last execution of a rung or statement in a program or instance, or nil.
func (m *moment) deedOf(place any, within string) *deed {
	for i := len(m.deeds) - 1; i >= 0; i-- {
		if m.deeds[i].place == place && m.deeds[i].within == within {
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

func (a *Asker) placeOf(place any) *Place {
	at := check.PlaceOf(place)
	if at.File == nil {
		return nil
	}
	line, _ := at.File.Position(at.Start)
	p := &Place{File: at.File.Name, Line: line, Start: at.Start, End: at.End}
	if r, ok := place.(*check.Rung); ok {
		p.Rung, p.Title = r.Number, r.Title
	}
	if n := a.program.NetworkAt(at); n != nil {
		p.Network, p.Title = n.Number, n.Title
	}
	return p
}
