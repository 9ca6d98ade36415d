package exercise

import (
	"time"

	"go.yaml.in/yaml/v3"

	"celandine/core/signal"
	"celandine/core/source"
)

// ReadScript reads steps for inputs that belong to no exercise: a list of
// steps, or a mapping with the keys period, for and steps. An input with no device takes every
// verb. Where length is zero the script ends a second after its last step, unless it says for how long.
func ReadScript(name string, text []byte, inputs []Point, period, length time.Duration) (*signal.Trace, source.List) {
	r := &reader{files: Files{name: text}, file: source.NewFile(name, string(text)), exercise: &Exercise{Period: period, Inputs: inputs}}
	root, ok := r.parse(name, text)
	if !ok {
		return nil, r.problems
	}
	steps := root
	if root.Kind == yaml.MappingNode {
		steps = nil
		var forNode *yaml.Node
		r.mapping(root, "The script",
			field{"period", false, func(v *yaml.Node) {
				if d := r.duration(v, "period"); d > 0 {
					r.exercise.Period = d
				}
			}},
			field{"for", false, func(v *yaml.Node) { forNode = v }},
			field{"steps", true, func(v *yaml.Node) { steps = v }},
		)
		if forNode != nil && length == 0 {
			length = time.Duration(r.scans(forNode, "for")) * r.exercise.Period
		}
	}
	scans := r.scanAt(length)
	if length == 0 {
		scans = signal.MaxScans
	}
	t, _ := r.steps(steps, scans)
	if r.problems.HasErrors() {
		r.problems.Sort()
		return nil, r.problems
	}
	if length == 0 {
		t.Scans = lastChange(t) + r.scanAt(time.Second)
	}
	return t, nil
}

// lastChange is the scan of the last change of any column, or of the last act.
func lastChange(t *signal.Trace) int {
	last := 0
	for _, c := range t.Columns {
		segments := c.Segments()
		last = max(last, segments[len(segments)-1].Scan)
	}
	for _, act := range t.Acts {
		last = max(last, act.Scan)
	}
	return last
}
