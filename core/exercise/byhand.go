package exercise

import (
	"fmt"
	"slices"
	"sort"
	"strings"

	"celandine/core/block"
	"celandine/core/signal"
)

// ByHand writes what was done by hand as a scenario of an exercise.yaml, of [StepsByHand].
func ByHand(inputs []Point, script *signal.Trace, broken map[string][]int) string {
	return ScenarioText("by hand", script.Scans, StepsByHand(inputs, script, broken))
}

// ScenarioText writes steps as a scenario of an exercise.yaml, of so many scans.
func ScenarioText(name string, scans int, steps []StepForm) string {
	var b strings.Builder
	fmt.Fprintf(&b, "  - name: %s\n    points: 1\n    for: %d scans\n", name, max(scans, 1))
	if len(steps) > 0 {
		b.WriteString("    steps:\n")
	}
	for _, s := range steps {
		b.WriteString("      - " + s.String() + "\n")
	}
	return b.String() + "    expect: solution\n"
}

// StepsByHand tells what was done by hand as steps: each change of an input as the step that its device makes, each force and write as
// such. broken lists, by lower-case name, the scans at which a wire broke and was mended in turn.
func StepsByHand(inputs []Point, script *signal.Trace, broken map[string][]int) (list []StepForm) {
	scans := []int{}
	add := func(scan int, s StepForm) {
		s.At = fmt.Sprintf("scan %d", scan)
		at, _ := slices.BinarySearch(scans, scan+1) // behind those of the same scan
		scans, list = slices.Insert(scans, at, scan), slices.Insert(list, at, s)
	}
	for _, p := range inputs {
		if c := script.Column(p.Name); c != nil {
			p.worked(c, script.Scans, broken[strings.ToLower(p.Name)], add)
		}
	}
	for _, act := range script.Acts {
		s := StepForm{Verb: act.Verb, Object: act.Name}
		switch act.Verb {
		case signal.Restart:
			s.Object = "true"
		case signal.Force, signal.Write:
			s.Object, s.Values = "", []ValueForm{{act.Name, act.Value}}
		}
		add(act.Scan, s)
	}
	return list
}

// worked tells what was done with one device and its wire.
func (p Point) worked(c *signal.Column, scans int, wires []int, add func(int, StepForm)) {
	changes := c.Changes(0, scans)
	for n, scan := range wires {
		add(scan, StepForm{Verb: [2]string{"break_wire", "mend_wire"}[n%2], Object: p.Name})
		// A device may have been worked while its wire was broken; that shows when it is mended.
		changes = append(changes, signal.Change{Scan: scan, Value: c.At(scan)})
	}
	sort.SliceStable(changes, func(i, j int) bool { return changes[i].Scan < changes[j].Scan })
	state := p.Initial
	for _, change := range changes {
		if IsBroken(wires, change.Scan) {
			continue
		}
		now := change.Value
		if p.Closed {
			now = 1 - now
		}
		if now != state {
			add(change.Scan, p.StepTo(now))
		}
		state = now
	}
}

// String writes a step as a line of a scenario: {at: scan 10, press: mist_on}.
func (s StepForm) String() string {
	what := s.Object
	if len(s.Values) > 0 {
		var pairs []string
		for _, v := range s.Values {
			pairs = append(pairs, v.Name+": "+v.Value)
		}
		what = "{" + strings.Join(pairs, ", ") + "}"
	}
	return "{at: " + s.At + ", " + s.Verb + ": " + what + "}"
}

// Words says what a step does, without when: "press mist_on", "set bed_temp to 260".
func (s StepForm) Words() string {
	switch {
	case s.Verb == signal.Restart:
		return "loss of supply"
	case len(s.Values) == 0:
		return s.Verb + " " + s.Object
	}
	var pairs []string
	for _, v := range s.Values {
		pairs = append(pairs, v.Name+" to "+v.Value)
	}
	return s.Verb + " " + strings.Join(pairs, ", ")
}

// IsBroken tells whether a wire is broken in a scan, of the scans at which it broke and was mended in turn.
func IsBroken(wires []int, scan int) bool {
	n := sort.SearchInts(wires, scan+1)
	return n%2 == 1
}

// StepTo is what is done with a device to bring it to a state.
func (p Point) StepTo(state int64) StepForm {
	if verb, ok := block.VerbThat([2]block.Deed{block.TurnOff, block.TurnOn}[state&1], p.Device); ok {
		return StepForm{Verb: verb.Name, Object: p.Name}
	}
	return StepForm{Verb: "set", Values: []ValueForm{{p.Name, p.Kind().Format(state)}}}
}
