package explain

import (
	"fmt"
	"strings"

	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/observe"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A passage is how far power ever came in the scans up to one.
type passage struct {
	observer *observe.Observer
	came     map[spot]flow
}

// A spot is an element in the program, or in one instance.
type spot struct {
	within  string
	element check.Element
}

func (p *passage) Begin(any)                               {}
func (p *passage) End()                                    {}
func (p *passage) Value(check.Expr, string, int64)         {}
func (p *passage) Wrote(string, source.Span, int64, int64) {}
func (p *passage) Power(e check.Element, in, out bool) {
	at := spot{p.observer.Instance(), e}
	f := p.came[at]
	p.came[at] = flow{f.in || in, f.out || out}
}

// mostVisits bounds the scans that are executed again to see how far power ever came.
const mostVisits = 20_000

// passageTo executes again every scan up to one in which anything may differ.
func (a *Asker) passageTo(scan int) *passage {
	if p := a.never[scan]; p != nil {
		return p
	}
	p := &passage{came: map[spot]flow{}}
	a.never[scan] = p
	var o *observe.Observer
	visits := 0
	err := a.code.Visit(a.script, scan+1, func(m *machine.Machine) {
		if visits++; visits > mostVisits {
			return
		}
		if o == nil {
			o = observe.Of(m)
			p.observer = o
			o.Watch(p)
		} else {
			o.Follow(m)
		}
		o.Scan()
	})
	a.stop(err)
	if err != nil || visits > mostVisits {
		p.came = nil
	}
	return p
}

// neverTrue says what power never passed, for a BOOL that coils write and that was never TRUE up to the scan.
func (a *Asker) neverTrue(name string, scan int) string {
	column := a.trace.Column(name)
	if column.Kind != signal.Bool || a.since(name, scan) != 0 || a.isTrue(name, scan) {
		return ""
	}
	var walls []string
	for _, w := range a.writersNamed(name) {
		if w.coil == nil {
			return ""
		}
		if w.coil.Kind == syntax.ResetCoil {
			continue
		}
		wall := a.wall(&w, scan)
		if wall == "" {
			return ""
		}
		walls = append(walls, fmt.Sprintf("%s in %s", wall, a.spoken(&w)))
	}
	if len(walls) == 0 {
		return ""
	}
	return fmt.Sprintf("%s never became TRUE: no scan had power past %s.", name, strings.Join(walls, ", or past "))
}

// wall is the first element on the way to a coil that never passed power.
func (a *Asker) wall(w *writer, scan int) string {
	p := a.passageTo(scan)
	if p.came == nil {
		return ""
	}
	within := strings.TrimSuffix(w.within, ".")
	for _, e := range wayTo(w.net, w.at) {
		if p.came[spot{within, e}].out {
			continue
		}
		return strings.Join(p.walls(within, e), " or ")
	}
	return ""
}

// walls names an element that never passed power; of a parallel, the first such of each branch.
func (p *passage) walls(within string, e check.Element) (list []string) {
	parallel, ok := e.(*check.Parallel)
	if box, ok := e.(*check.BlockBox); ok && box.Out != nil {
		name := box.Call.Instance.Select(box.Out).Name()
		if within != "" && box.Call.Instance.Variable.Owner != nil {
			name = within + "." + name
		}
		return []string{name}
	}
	if !ok {
		return []string{spanOfElement(e).Text()}
	}
	for _, b := range parallel.Branches {
		for _, inner := range b.Elements {
			if !p.came[spot{within, inner}].out {
				list = append(list, p.walls(within, inner)...)
				break
			}
		}
	}
	return list
}
