package workshop

import (
	"bytes"
	"fmt"
	"maps"
	"slices"
	"strings"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/signal"
	"celandine/core/source"
)

// Differences tells in sentences what changed from one state of an exercise's folder to another, what a learner is marked by first.
// Two folders with the same bytes differ in nothing; a change that is only spaces or comments is told as such.
func Differences(before, after exercise.Files) []string {
	was, _ := exercise.Draft(before)
	is, _ := exercise.Draft(after)
	d := &differences{list: []string{}}
	d.value("The title", was.Title, is.Title)
	d.value("The topic", was.Topic, is.Topic)
	d.value("What is handed in", string(was.Kind), string(is.Kind))
	d.value("The reasons to choose from", strings.Join(was.Reasons, "; "), strings.Join(is.Reasons, "; "))
	d.value("The scan's period", signal.FormatClock(was.Period), signal.FormatClock(is.Period))
	d.value("The languages", strings.Join(was.Languages, ", "), strings.Join(is.Languages, ", "))
	d.value("The panel's picture", was.Picture, is.Picture)
	d.points("input", was.Inputs, is.Inputs)
	d.points("output", was.Outputs, is.Outputs)
	d.graded(was, is)
	d.scenarios(was, is)
	d.rules(was, is)
	if fmt.Sprint(was.Tasks) != fmt.Sprint(is.Tasks) {
		d.say("The tasks changed.")
	}
	d.files(before, after)
	if len(d.list) == 0 && !bytes.Equal(before[yamlName], after[yamlName]) {
		d.say("Only spaces, comments or the order of things in exercise.yaml changed.")
	}
	return d.list
}

type differences struct{ list []string }

func (d *differences) say(format string, args ...any) {
	d.list = append(d.list, fmt.Sprintf(format, args...))
}

func (d *differences) value(what, was, is string) {
	if was != is {
		d.say("%s: %s became %s.", what, orNone(was), orNone(is))
	}
}

func orNone(text string) string {
	if text == "" {
		return "nothing"
	}
	return "“" + text + "”"
}

// each compares two lists by the names of their items, in the order in which they stand.
func each[T any](d *differences, what string, was, is []T, name func(T) string, compare func(was, is T)) {
	find := func(list []T, n string) int {
		return slices.IndexFunc(list, func(one T) bool { return strings.EqualFold(name(one), n) })
	}
	for _, one := range was {
		if find(is, name(one)) < 0 {
			d.say("The %s %s is gone.", what, name(one))
		}
	}
	for _, one := range is {
		at := find(was, name(one))
		if at < 0 {
			d.say("The %s %s is new.", what, name(one))
			continue
		}
		compare(was[at], one)
	}
}

func (d *differences) points(what string, was, is []exercise.Point) {
	each(d, what, was, is, func(p exercise.Point) string { return p.Name }, func(was, is exercise.Point) {
		d.value(is.Name+", address", was.Address, is.Address)
		d.value(is.Name+", device", was.Device, is.Device)
		d.value(is.Name+", contact", contact(was), contact(is))
		d.value(is.Name+", label", was.Label, is.Label)
		d.value(is.Name+", type", was.Type, is.Type)
		d.value(is.Name+", unit", was.Unit, is.Unit)
		d.value(is.Name+", place", fmt.Sprint(was.Place), fmt.Sprint(is.Place))
		d.value(is.Name+", first value", was.Kind().Format(was.Initial), is.Kind().Format(is.Initial))
	})
}

func contact(p exercise.Point) string {
	if p.Closed {
		return "normally closed"
	}
	return "normally open"
}

func (d *differences) graded(was, is *exercise.Exercise) {
	each(d, "graded signal", was.Graded, is.Graded, exercise.Graded.Name, func(was, is exercise.Graded) {
		d.value(is.Name()+", weight", fmt.Sprint(was.Weight), fmt.Sprint(is.Weight))
		d.value(is.Name()+", slack in scans", fmt.Sprint(was.Slack), fmt.Sprint(is.Slack))
		d.value(is.Name()+", drift in scans", fmt.Sprint(was.Drift), fmt.Sprint(is.Drift))
		d.value(is.Name()+", within", was.Within, is.Within)
	})
}

func (d *differences) scenarios(was, is *exercise.Exercise) {
	each(d, "scenario", was.Scenarios, is.Scenarios, func(s exercise.Scenario) string { return "“" + s.Name + "”" },
		func(was, is exercise.Scenario) {
			name := "“" + is.Name + "”"
			d.value(name+", points", was.Points.String(), is.Points.String())
			if was.Shown != is.Shown {
				d.say("%s is %s learners now.", name, map[bool]string{true: "shown to", false: "hidden from"}[is.Shown])
			}
			if was.ByHand != is.ByHand {
				d.say("%s is %s now.", name, map[bool]string{true: "worked by a hand", false: "exact to the scan"}[is.ByHand])
			}
			if was.Practice != is.Practice {
				d.say("%s is %s before the first run now.", name, map[bool]string{true: "predicted", false: "not predicted"}[is.Practice])
			}
			if was.Script != nil && is.Script != nil && !sameTrace(was.Script, is.Script) {
				d.say("%s: its script changed%s.", name, firstOf(was.Script, is.Script))
			}
			if fmt.Sprint(was.Ignore) != fmt.Sprint(is.Ignore) {
				d.say("%s: what is left out of the comparison changed.", name)
			}
			if expectation(was) != expectation(is) {
				d.say("%s: what is expected changed.", name)
			}
		})
}

// expectation is what a scenario expects, without the places of the text.
func expectation(s exercise.Scenario) string {
	checks := slices.Clone(s.Expect.Checks)
	for i := range checks {
		checks[i].Line, checks[i].At, checks[i].IsAt = 0, source.Span{}, source.Span{}
	}
	return fmt.Sprintf("%s %s %v", s.Expect.Table, s.Expect.Erratic, checks)
}

func sameTrace(a, b *signal.Trace) bool {
	x, wrong := a.MarshalJSON()
	y, also := b.MarshalJSON()
	return wrong == nil && also == nil && bytes.Equal(x, y) && fmt.Sprint(a.Acts) == fmt.Sprint(b.Acts)
}

// firstOf tells from when on two scripts differ.
func firstOf(a, b *signal.Trace) string {
	first := min(a.Scans, b.Scans)
	for _, c := range a.Columns {
		other := b.Column(c.Name)
		if other == nil || other.Kind != c.Kind {
			continue
		}
		if scan, differs := compare.Columns(c, other, first, compare.Tolerance{}, nil); differs {
			first = scan
		}
	}
	return " from " + signal.FormatClock(a.Time(first)) + " on"
}

func (d *differences) rules(was, is *exercise.Exercise) {
	name := func(r exercise.Rule) string { return string(r.Kind) + " " + r.What }
	each(d, "rule", was.Rules, is.Rules, name, func(was, is exercise.Rule) {
		d.value("The rule "+name(is)+", points", was.Deduct.String(), is.Deduct.String())
		d.value("The rule "+name(is)+", how many", fmt.Sprint(was.AtLeast, was.AtMost, was.Per), fmt.Sprint(is.AtLeast, is.AtMost, is.Per))
		d.value("The rule "+name(is)+", words", was.Say, is.Say)
	})
}

// files tells of every file but exercise.yaml.
func (d *differences) files(before, after exercise.Files) {
	all := maps.Clone(before)
	maps.Copy(all, after)
	for _, name := range slices.Sorted(maps.Keys(all)) {
		was, had := before[name]
		is, has := after[name]
		what := called(name)
		switch {
		case name == yamlName || had && has && bytes.Equal(was, is):
		case !has:
			d.say("%s is gone.", what)
		case !had:
			d.say("%s is new.", what)
		default:
			d.say("%s changed%s.", what, lines(string(was), string(is)))
		}
	}
}

func called(name string) string {
	switch {
	case name == "brief.md":
		return "The brief"
	case strings.HasPrefix(name, "solution."), strings.HasPrefix(name, "starter."):
		base, language, _ := strings.Cut(name, ".")
		return "The " + base + " in " + source.LanguageWord(language)
	}
	return name
}

// lines counts the lines that went and came, whatever their order.
func lines(was, is string) string {
	count := map[string]int{}
	for line := range strings.Lines(was) {
		count[strings.TrimSpace(line)]--
	}
	for line := range strings.Lines(is) {
		count[strings.TrimSpace(line)]++
	}
	gone, come := 0, 0
	for line, n := range count {
		switch {
		case line == "":
		case n < 0:
			gone -= n
		default:
			come += n
		}
	}
	if gone == 0 && come == 0 {
		return " in spaces or order alone"
	}
	return fmt.Sprintf(": %s fewer, %d new", source.Plural(gone, "line"), come)
}
