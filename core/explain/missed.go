package explain

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
)

// WhyNot explains the value that a name kept in a scan in which it should have changed. It begins with what was done to an input just
// then, and with whether anything in the program reads that input.
func (a *Asker) WhyNot(name string, scan, slack int) (*Why, error) {
	w, err := a.Why(name, scan)
	if err != nil {
		return nil, err
	}
	events := a.eventsUpTo(scan)
	if len(events) == 0 || events[0].scan < scan-slack {
		return w, nil
	}
	e, places := events[0], a.readers(events[0].input)
	said := a.done(e)
	if strings.Contains(said, ",") {
		said += ","
	}
	said += fmt.Sprintf(" in %s; ", a.at(e.scan))
	switch {
	case len(places) == 0:
		w.Short = []string{fmt.Sprintf("%sno %s reads %s.", said, a.piece(), e.input)}
	case !saidAlready(w, e):
		w.Short = append([]string{said + a.reading(places) + "."}, w.Short[:min(len(w.Short), 3)]...)
	}
	return w, nil
}

// piece is what the program is made of, to those who wrote it: rungs, networks or lines.
func (a *Asker) piece() string {
	switch u := a.program.Units[0]; {
	case len(u.Rungs) > 0:
		return "rung"
	case a.program.NetworkAt(check.PlaceOf(firstOf(u.Statements))) != nil:
		return "network"
	}
	return "line"
}

func firstOf(list []check.Statement) check.Statement {
	if len(list) == 0 {
		return nil
	}
	return list[0]
}

// saidAlready reports whether a reason ends at an event anyway.
func saidAlready(w *Why, e event) bool {
	end := w.Steps[len(w.Steps)-1]
	return end.Kind == "input" && strings.EqualFold(end.Signal, e.input) && end.Since == e.scan
}

// reading says who reads an input: "rung 1 reads it".
func (a *Asker) reading(places []string) string {
	switch n := len(places); {
	case n == 1:
		return lower(places[0]) + " reads it"
	case n <= 3:
		return lower(strings.Join(places[:n-1], ", ")+" and "+lower(places[n-1])) + " read it"
	}
	return fmt.Sprintf("%s and %d others read it", lower(places[0]), len(places)-1)
}

// readers names the rungs, networks or lines that read an input.
func (a *Asker) readers(input string) (places []string) {
	var rungs []*check.Rung
	for _, u := range a.program.Units {
		rungs = append(rungs, u.Rungs...)
	}
	a.program.Walk(func(node any) bool {
		ref, ok := node.(*check.Ref)
		if !ok || !strings.EqualFold(ref.Variable.Storage().Name, input) {
			return true
		}
		line, _ := ref.At.File.Position(ref.At.Start)
		p := Place{Line: line}
		for _, r := range rungs {
			if r.At.File == ref.At.File && r.At.Start <= ref.At.Start && ref.At.End <= r.At.End {
				p.Rung, p.Title = r.Number, r.Title
			}
		}
		if n := a.program.NetworkAt(ref.At); n != nil {
			p.Network, p.Title = n.Number, n.Title
		}
		if place := spoken(&p); !slices.Contains(places, place) {
			places = append(places, place)
		}
		return true
	})
	return places
}

// mostPassedOver bounds how many writers are told that did not act.
const mostPassedOver = 2

// passedOver adds to a step which writers behind the one that gave a value did not act, and why: one of them would have given another.
func (a *Asker) passedOver(s *Step, d *deed, name string) {
	if s.Since == s.Scan && len(decisive(s.Elements)) > 0 {
		return // what gave the value says enough
	}
	told := 0
	for _, w := range a.writersBehind(d, name) {
		if !w.turns(a.isTrue(name, s.Scan)) || a.moment(s.Scan).wrote(w) {
			continue
		}
		why, list := a.barred(&w, s)
		if own := lower(s.spoken()); s.Place.Network > 0 && strings.HasPrefix(why, own) {
			why = "a later node of " + why
		}
		if len(decisive(list)) > 0 && told < mostPassedOver {
			told++
			s.Say += " " + strings.ToUpper(why[:1]) + why[1:] + "."
			s.Elements = few(append(s.Elements, list...))
		}
	}
}

// writersBehind lists the places behind a deed's, in the same program, block or function, that can write a name in the same scan.
func (a *Asker) writersBehind(d *deed, name string) (list []writer) {
	all := a.writers
	if u := a.functions[d.place]; u != nil {
		c := &collector{}
		c.unit(u, d.within)
		all = c.list
	}
	var own []branchOf // of the deed
	if at := slices.IndexFunc(all, func(w writer) bool { return w.place == d.place && w.within == d.within }); at >= 0 {
		own = all[at].arms
	}
	at := check.PlaceOf(d.place)
	for _, w := range all {
		place := check.PlaceOf(w.place)
		if w.call == nil && w.within == d.within && w.mayWrite(name) && place.File == at.File && place.Start >= at.End && !excludes(own, w.arms) {
			list = append(list, w)
		}
	}
	return list
}

// excludes reports whether two places stand in different arms of one IF or CASE.
func excludes(x, y []branchOf) bool {
	return slices.ContainsFunc(x, func(b branchOf) bool {
		return slices.ContainsFunc(y, func(o branchOf) bool { return b.place() == o.place() && b.arm != o.arm })
	})
}

// wrote reports whether a writer wrote anything in the scan.
func (m *moment) wrote(w writer) bool {
	d := m.deedOf(w.place, w.within)
	return d != nil && slices.ContainsFunc(d.writes, func(one written) bool { return one.at == w.at })
}
