package explain

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/signal"
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
		if why, blockers := a.barred(w, s); why != "" {
			barred = append(barred, why)
			if last == nil {
				s.Place = a.placeOf(w.place)
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
		if at := a.restarted(s.Since); s.Since > 0 && at == s.Since {
			return fmt.Sprintf("The restart in %s gave %s its first value, %s", a.at(at), s.Signal, s.Value), nil
		}
		return fmt.Sprintf("%s has been %s %s", s.Signal, s.Value, a.sinceWords(s.Since)), nil
	}
	s.Place, s.Within = a.placeOf(last.place), strings.TrimSuffix(shown(last.within), ".")
	s.Elements, _ = a.causes(last, s.Signal)
	return fmt.Sprintf("%s made %s %s in %s", s.spoken(), s.Signal, s.Value, a.at(s.Since)), last
}

// restarted returns the scan of the last restart up to a scan, or -1.
func (a *Asker) restarted(scan int) int {
	last := -1
	for _, act := range a.script.Acts {
		if act.Verb == signal.Restart && act.Scan <= scan {
			last = max(last, act.Scan)
		}
	}
	return last
}

// barred says what kept a writer from writing in a scan.
func (a *Asker) barred(w *writer, s *Step) (string, []Element) {
	scan := s.Scan
	m := a.moment(scan)
	if why, list := a.elsewhere(w, s); why != "" {
		return why, list
	}
	if w.net != nil {
		d := m.deedOf(w.place, w.within)
		if d == nil && w.within != "" && !m.ran(w.within) {
			return a.uncalled(w, scan), nil
		}
		if d == nil {
			return fmt.Sprintf("%s was not executed", a.spoken(w)), nil
		}
		list, reached := a.leading(d, w.net, w.at)
		if reached {
			return "", nil
		}
		why := fmt.Sprintf("%s had no power past %s", a.spoken(w), a.listed(scan, decisive(list), nil))
		if more := a.behind(d, w.net, w.at); more != "" {
			s.Second = more
			why += "; " + lower(more)
		} else if w.coil == nil {
			s.Second = "what it would have written was not worked out"
		}
		return why, list
	}
	for _, arm := range w.arms {
		d := m.deedOf(arm.choice, w.within)
		if d == nil {
			continue
		}
		if list, ran := a.chosen(d, arm); !ran {
			return fmt.Sprintf("%s did not run because of %s", a.spoken(w), a.listed(scan, decisive(list), nil)), list
		}
	}
	if w.within != "" && !m.ran(w.within) {
		return a.uncalled(w, scan), nil
	}
	return fmt.Sprintf("%s did not run", a.spoken(w)), nil
}

// uncalled says that the block in which a writer stands was not called.
func (a *Asker) uncalled(w *writer, scan int) string {
	return fmt.Sprintf("%s was not called in %s", strings.TrimSuffix(w.within, "."), a.at(scan))
}

// elsewhere says that a writer wrote another element than the one asked about, with the index that chose it.
func (a *Asker) elsewhere(w *writer, s *Step) (string, []Element) {
	d := a.moment(s.Scan).deedOf(w.place, w.within)
	if d == nil || w.index == nil {
		return "", nil
	}
	for _, one := range d.writes {
		if one.at != w.at || strings.EqualFold(one.name, s.Signal) {
			continue
		}
		var list []Element
		for _, x := range w.index {
			list = append(list, a.leaves(d, x, true)...)
		}
		return fmt.Sprintf("%s wrote %s instead, with %s", a.spoken(w), one.name, a.listed(s.Scan, list, nil)), list
	}
	return "", nil
}

// ran reports whether any rung or statement of an instance was executed.
func (m *moment) ran(within string) bool {
	return slices.ContainsFunc(m.deeds, func(d *deed) bool { return d.within == within })
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
