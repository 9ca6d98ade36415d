package explain

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
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
		d := m.deedOf(arm.place(), w.within)
		if d == nil {
			continue
		}
		if arm.cases != nil {
			if why, list := a.otherCase(d, arm, w); why != "" {
				return why, list
			}
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

// otherCase says that a CASE ran another of its choices, and what it waits for there; "" where it ran this one.
func (a *Asker) otherCase(d *deed, b branchOf, w *writer) (string, []Element) {
	v := d.values[b.cases.Value]
	ran := len(b.cases.Choices)
	for i, c := range slices.Backward(b.cases.Choices) {
		if slices.ContainsFunc(c.Labels, func(l check.Label) bool { return l.From <= v.v && v.v <= l.To }) {
			ran = i
		}
	}
	if ran == b.arm {
		return "", nil
	}
	list := a.leaves(d, b.cases.Value, true)
	why := fmt.Sprintf("%s did not run: %s is %s", a.spoken(w), b.cases.Value.Span().Text(), a.state(b.cases.Value, v))
	if len(list) > 0 {
		why += " " + a.sinceWords(list[0].Since)
	}
	leaves, waits := a.leaves(d, b.cases.Value, false), []Element(nil)
	if len(leaves) == 1 && leaves[0].Name != "" {
		waits = a.leavesCase(d, b.cases, ran, leaves[0].Name, w.within)
	}
	if len(waits) == 0 {
		return why, list
	}
	for i := range list {
		list[i].stays = true // what keeps it so is more to the point than what made it so
	}
	return fmt.Sprintf("%s; it stays so because of %s", why, a.listed(d.scan, decisive(waits), nil)), append(list, waits...)
}

// leavesCase is what keeps the choice that a CASE ran from giving its selector another value.
func (a *Asker) leavesCase(d *deed, c *check.Case, ran int, selector, within string) []Element {
	for i := range a.writers {
		w := &a.writers[i]
		at := slices.IndexFunc(w.arms, func(b branchOf) bool { return b.cases == c && b.arm == ran })
		if at < 0 || w.within != within || !w.mayWrite(selector) {
			continue
		}
		for _, arm := range w.arms[at+1:] {
			inner := a.moment(d.scan).deedOf(arm.place(), within)
			if arm.choice == nil || inner == nil {
				continue
			}
			if list, chosen := a.chosen(inner, arm); !chosen {
				return list
			}
		}
	}
	return nil
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
