package exercise

import (
	"fmt"
	"sort"
	"strings"

	"celandine/core/block"
	"celandine/core/signal"
)

// ByHand writes what was done by hand as a scenario of an exercise.yaml: each change of an input as the step that its device makes, each
// force and write as such. broken lists, by lower-case name, the scans at which a wire broke and was mended in turn.
func ByHand(inputs []Point, script *signal.Trace, broken map[string][]int) string {
	type line struct {
		scan int
		step string
	}
	var lines []line
	add := func(scan int, format string, args ...any) {
		lines = append(lines, line{scan, fmt.Sprintf("{at: scan %d, ", scan) + fmt.Sprintf(format, args...) + "}"})
	}
	for _, p := range inputs {
		c := script.Column(p.Name)
		if c == nil {
			continue
		}
		wires := broken[strings.ToLower(p.Name)]
		changes := c.Changes(0, script.Scans)
		for n, scan := range wires {
			add(scan, "%s: %s", [2]string{"break_wire", "mend_wire"}[n%2], p.Name)
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
				add(change.Scan, "%s", p.step(now))
			}
			state = now
		}
	}
	for _, act := range script.Acts {
		switch act.Verb {
		case signal.Unforce:
			add(act.Scan, "unforce: %s", act.Name)
			continue
		case signal.Restart:
			add(act.Scan, "restart: true")
			continue
		}
		add(act.Scan, "%s: {%s: %s}", act.Verb, act.Name, act.Value)
	}
	sort.SliceStable(lines, func(i, j int) bool { return lines[i].scan < lines[j].scan })
	var b strings.Builder
	fmt.Fprintf(&b, "  - name: by hand\n    points: 1\n    for: %d scans\n", max(script.Scans, 1))
	if len(lines) > 0 {
		b.WriteString("    steps:\n")
	}
	for _, l := range lines {
		b.WriteString("      - " + l.step + "\n")
	}
	return b.String() + "    expect: solution\n"
}

// IsBroken tells whether a wire is broken in a scan, of the scans at which it broke and was mended in turn.
func IsBroken(wires []int, scan int) bool {
	n := sort.SearchInts(wires, scan+1)
	return n%2 == 1
}

// step is what is done with a device to bring it to a state.
func (p Point) step(state int64) string {
	if verb, ok := block.VerbThat([2]block.Deed{block.TurnOff, block.TurnOn}[state&1], p.Device); ok {
		return verb.Name + ": " + p.Name
	}
	return fmt.Sprintf("set: {%s: %s}", p.Name, p.Kind().Format(state))
}
