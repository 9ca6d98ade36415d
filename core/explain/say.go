package explain

import (
	"fmt"
	"strings"
	"time"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

func clock(ns int64) string { return signal.FormatClock(time.Duration(ns)) }

// at is "scan 412 (4.12 s)".
func (a *Asker) at(scan int) string {
	return fmt.Sprintf("scan %d (%s)", scan, signal.FormatClock(a.trace.Time(scan)))
}

func (a *Asker) sinceWords(scan int) string {
	if scan == 0 {
		return "from the start"
	}
	return "since " + a.at(scan)
}

// spoken names a place: Rung 3 "Mist until Off", a network likewise, or Line 12 of a text.
func spoken(p *Place) string {
	word, number := "Line", 0
	switch {
	case p == nil:
		return "The program"
	case p.Network > 0:
		word, number = "Network", p.Network
	case p.Rung > 0:
		word, number = "Rung", p.Rung
	default:
		number = p.Line
	}
	if p.Title != "" {
		return fmt.Sprintf("%s %d \"%s\"", word, number, p.Title)
	}
	return fmt.Sprintf("%s %d", word, number)
}

// spoken names the step's place, and the instance or function in which it is.
func (s *Step) spoken() string {
	if s.Within == "" {
		return spoken(s.Place)
	}
	return spoken(s.Place) + " in " + s.Within
}

// spoken names the writer's place in the middle of a sentence, and the instance in which it is.
func (a *Asker) spoken(w *writer) string {
	s := Step{Place: a.placeOf(w.place), Within: strings.TrimSuffix(shown(w.within), ".")}
	return lower(s.spoken())
}

// input says what was done to a device.
func (a *Asker) input(s *Step) {
	s.Kind = "input"
	d, wired := a.devices[strings.ToLower(s.Signal)]
	column := a.trace.Column(s.Signal)
	if !wired || column.Kind != signal.Bool {
		what := s.Signal
		if wired && d.Label != s.Signal {
			what = fmt.Sprintf("%s (%s)", s.Signal, d.Label)
		}
		s.Say = fmt.Sprintf("The input %s has been %s %s.", what, s.Value, a.sinceWords(s.Since))
		if s.Since == s.Scan && s.Since > 0 { // and may be otherwise by now
			s.Say = fmt.Sprintf("The input %s became %s in %s.", what, s.Value, a.at(s.Since))
		}
		return
	}
	words := worked(d, a.isTrue(s.Signal, s.Scan))
	if s.Since == 0 {
		s.Say = fmt.Sprintf("%s has been %s from the start: %s %s.", s.Signal, s.Value, d.Label, words.Rests)
		return
	}
	s.Say = fmt.Sprintf("%s became %s in %s: %s %s.", s.Signal, s.Value, a.at(s.Since), d.Label, words.Changed)
}

// worked says what a device's bit tells of it.
func worked(d Device, on bool) block.Doing {
	device, known := block.DeviceNamed(d.Kind)
	if !known {
		panic("explain: there is no device " + d.Kind)
	}
	if on == d.Closed {
		return device.Off
	}
	words := device.On
	if d.Closed {
		words.Rests += ", or its wire broken"
		words.Changed += ", or its wire broken"
	}
	return words
}

// listed writes elements as "[a] (open since scan 10, 100 ms) and [b] (open from the start)"; where only is given,
// it alone has its date.
func (a *Asker) listed(scan int, list []Element, only *Element) string {
	var words []string
	for i := range list {
		e := &list[i]
		word := e.Text
		if e.Name != "" && (only == nil || e.Start == only.Start) {
			word = fmt.Sprintf("%s (%s)", e.Text, a.stateOf(e, scan))
		}
		words = append(words, word)
	}
	switch n := len(words); n {
	case 0:
		return "its beginning"
	case 1:
		return words[0]
	case 2, 3, 4:
		return strings.Join(words[:n-1], ", ") + " and " + words[n-1]
	}
	return fmt.Sprintf("%s and %d more", strings.Join(words[:3], ", "), len(words)-3)
}

// stateOf is "open since scan 30, 300 ms"; of an edge and of a number it says what was read.
func (a *Asker) stateOf(e *Element, scan int) string {
	since := "from the start"
	switch {
	case local(e.Name):
		since = "in this scan"
	case e.Since == scan && scan > 0:
		since = "since this scan"
	case e.Since > 0:
		since = fmt.Sprintf("since scan %d, %s", e.Since, signal.FormatClock(a.trace.Time(e.Since)))
	}
	column := a.trace.Column(e.Name)
	number := column != nil && column.Kind != signal.Bool && !strings.EqualFold(e.Text, e.Name)
	switch {
	case number && !e.edge && a.since(e.Name, e.read) != e.Since: // it may have changed on the same side of a limit
		return fmt.Sprintf("%s %s: %s is %s", e.State, since, e.Name, a.word(e.Name, e.read))
	case number || e.edge:
		return fmt.Sprintf("%s: %s is %s %s", e.State, e.Name, a.word(e.Name, e.read), since)
	}
	return e.State + " " + since
}

func (a *Asker) sayRung(s *Step, d *deed, rung *check.Rung, target source.Span) string {
	place := s.spoken()
	deciders := decisive(s.Elements)
	reached := true
	for _, e := range s.Elements {
		if e.Decides && !e.passed {
			reached = false
		}
	}
	coil := coilAt(rung.Net, target)
	if box := boxAt(rung.Net, target); box != nil && box.Target != nil {
		return a.sayStatement(s, d)
	}
	switch {
	case !reached:
		return fmt.Sprintf("%s had no power past %s%s.", place, a.listed(s.Scan, deciders, nil), negated(coil, s.Signal))
	case len(deciders) == 0:
		return fmt.Sprintf("%s always has power%s.", place, negated(coil, s.Signal))
	}
	return fmt.Sprintf("%s had power through %s%s.%s", place, a.listed(s.Scan, deciders, s.next(0)), negated(coil, s.Signal), beside(s))
}

// beside tells of a contact that opened in this scan and did not matter, since power came through another branch.
func beside(s *Step) string {
	for _, e := range s.Elements {
		if !e.passed && !e.Decides && !e.edge && e.Since == s.Scan && s.Scan > 0 {
			return fmt.Sprintf(" %s opened in this scan, but stands in another branch.", e.Text)
		}
	}
	return ""
}

// negated adds what a coil that is not plain made of the power.
func negated(coil *check.Coil, name string) string {
	if coil == nil { // the input of a block
		return ""
	}
	switch coil.Kind {
	case syntax.NegatedCoil:
		return fmt.Sprintf("; its coil (/%s) is the opposite", name)
	case syntax.SetCoil:
		return fmt.Sprintf(" and set %s", name)
	case syntax.ResetCoil:
		return fmt.Sprintf(" and reset %s", name)
	case syntax.RisingCoil:
		return fmt.Sprintf("; (P %s) is TRUE only in the scan in which power comes", name)
	case syntax.FallingCoil:
		return fmt.Sprintf("; (N %s) is TRUE only in the scan in which power goes", name)
	}
	return ""
}

func coilAt(s *check.Series, at source.Span) *check.Coil {
	for _, e := range s.Elements {
		switch e := e.(type) {
		case *check.Coil:
			if e.At == at {
				return e
			}
		case *check.Parallel:
			for _, b := range e.Branches {
				if c := coilAt(b, at); c != nil {
					return c
				}
			}
		}
	}
	return nil
}

func (a *Asker) sayStatement(s *Step, d *deed) string {
	deciders := decisive(s.Elements)
	if len(deciders) == 0 {
		return fmt.Sprintf("%s made %s %s%s%s.", s.spoken(), s.Signal, s.Value, a.pins(d), a.circle(d))
	}
	return fmt.Sprintf("%s made %s %s%s, with %s%s.", s.spoken(), s.Signal, s.Value, a.pins(d), a.listed(s.Scan, deciders, nil),
		a.circle(d))
}

func textsOf(list []Element) string {
	var words []string
	for _, e := range list {
		words = append(words, e.Text)
	}
	return strings.Join(words, " or ")
}

// short picks the sentences that say most: what decided, and where it began.
func (a *Asker) short(w *Why) []string {
	list := []string{w.Steps[0].Say}
	if never := a.neverTrue(w.Signal, w.Scan); never != "" {
		list = append([]string{never}, list...)
		if past := "past " + textsOf(decisive(w.Steps[0].Elements)) + " in "; strings.Contains(never, past) {
			list = list[:1] // the rung would say it again
		}
	}
	rest := w.Steps[1:]
	if room := 4 - len(list); len(rest) > room {
		rest = append(append([]Step{}, rest[:room-1]...), rest[len(rest)-1])
	}
	for _, s := range rest {
		list = append(list, s.Say)
	}
	return list
}
