package explain

import (
	"fmt"
	"strings"

	"celandine/core/check"
)

// kept explains a value that nothing wrote in the scan: what wrote it last, and what kept the others from writing.
func (a *Asker) kept(s *Step) {
	s.Kind = "kept"
	begun, last := a.begun(s)
	writers := a.writersNamed(s.Signal)
	if len(writers) == 0 && last == nil {
		s.Say = fmt.Sprintf("Nothing in the program writes %s.", s.Signal)
		return
	}
	value := a.isTrue(s.Signal, s.Scan)
	var barred []string
	others := 0
	for i := range writers {
		w := &writers[i]
		if !w.turns(value) {
			continue
		}
		others++
		if why, blockers := a.barred(w, s.Scan); why != "" {
			barred = append(barred, why)
			if last == nil {
				s.Place = placeOf(w.place)
				s.Elements = append(s.Elements, blockers...)
			}
		}
	}
	switch {
	case len(barred) > 0 && last == nil:
		s.Say = fmt.Sprintf("%s: %s.", begun, strings.Join(barred, "; "))
	case len(barred) > 0:
		s.Say = fmt.Sprintf("%s and nothing has changed it since: %s.", begun, strings.Join(barred, "; "))
	case others == 0 && last != nil:
		s.Say = begun + ", and nothing in the program turns it back."
	default:
		s.Say = begun + "."
	}
}

// begun says what gave a value that was kept, and fills the step in from it; nothing did where it is the initial one.
func (a *Asker) begun(s *Step) (string, *deed) {
	var last *deed
	if s.Since > 0 {
		last = a.moment(s.Since).writerOf(s.Signal)
	}
	if last == nil {
		return fmt.Sprintf("%s has been %s from the start", s.Signal, s.Value), nil
	}
	s.Place = placeOf(last.place)
	if rung, ok := last.place.(*check.Rung); ok {
		s.Elements, _ = a.leading(last, rung.Net, last.wroteAt(s.Signal))
	} else {
		s.Elements = a.conditions(last, s.Signal)
	}
	return fmt.Sprintf("%s made %s %s in %s", spoken(s.Place), s.Signal, s.Value, a.at(s.Since)), last
}

// barred says what kept a writer from writing in a scan.
func (a *Asker) barred(w *writer, scan int) (string, []Element) {
	m := a.moment(scan)
	if w.net != nil {
		d := m.deedOf(w.place)
		if d == nil {
			return fmt.Sprintf("%s was not executed", lower(spoken(placeOf(w.place)))), nil
		}
		list, reached := a.leading(d, w.net, w.at)
		if reached {
			return "", nil
		}
		return fmt.Sprintf("%s had no power past %s", lower(spoken(placeOf(w.place))), a.listed(scan, decisive(list), nil)), list
	}
	for _, arm := range w.arms {
		d := m.deedOf(arm.choice)
		if d == nil {
			continue
		}
		if list, ran := a.chosen(d, arm); !ran {
			return fmt.Sprintf("%s did not run because of %s", lower(spoken(placeOf(w.place))), a.listed(scan, decisive(list), nil)), list
		}
	}
	return fmt.Sprintf("%s did not run", lower(spoken(placeOf(w.place)))), nil
}

// chosen reports whether an IF ran an arm, with the conditions that decided it.
func (a *Asker) chosen(d *deed, b branchOf) ([]Element, bool) {
	for i, arm := range b.choice.Arms {
		v, tested := d.values[arm.Condition]
		switch {
		case !tested:
			return nil, true
		case v.v != 0 && i == b.arm:
			return nil, true
		case v.v != 0 || i == b.arm:
			return a.leaves(d, arm.Condition, true), false
		}
	}
	return nil, true
}

func decisive(list []Element) (out []Element) {
	for _, e := range list {
		if e.Decides {
			out = append(out, e)
		}
	}
	return out
}

func lower(s string) string { return strings.ToLower(s[:1]) + s[1:] }
