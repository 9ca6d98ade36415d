package workshop

import (
	"fmt"
	"slices"

	"celandine/core/block"
	"celandine/core/exercise"
	"celandine/core/signal"
)

// SetCell writes a value into the scan table of a script: an input shows it from a scan on, until it changed before this. The steps
// that work the input are written anew, wires that break stay as they are.
func SetCell(files exercise.Files, scenario, scan int, input, value string) (exercise.Files, error) {
	p, err := inputNamed(files, input)
	if err != nil {
		return nil, err
	}
	v, err := p.Kind().Parse(value)
	if err != nil {
		return nil, fmt.Errorf("%s cannot show that: %w", p.Name, err)
	}
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) {
		for _, step := range s.form.Steps {
			if len(step.Values) > 1 && step.Works(p.Name) {
				return nil, fmt.Errorf("the step at %s sets several inputs at once; change it in the list of steps", step.At)
			}
		}
		changes := slices.DeleteFunc(s.column(p).Changes(0, s.length()), func(one signal.Change) bool { return one.Scan == scan })
		at, _ := slices.BinarySearchFunc(changes, scan, func(one signal.Change, scan int) int { return one.Scan - scan })
		return s.reworked(p, signal.Steps(p.Name, p.Kind(), slices.Insert(changes, at, signal.Change{Scan: scan, Value: v})))
	})
}

// column is what an input's device does in the script, as bits with all wires whole.
func (s scene) column(p exercise.Point) *signal.Column {
	state := []signal.Change{{Scan: 0, Value: p.Rest()}}
	for _, one := range Of(s.files).Scripts {
		if one.Scenario != s.number {
			continue
		}
		for _, edge := range one.Edges {
			if edge.Step >= len(s.form.Steps) {
				continue // a key stands twice, and the two mean different scripts
			}
			if step := s.form.Steps[edge.Step]; edge.Input == p.Name && !ofWire(step) {
				state = append(state, signal.Change{Scan: edge.Scan, Value: p.Bit(edge.State)})
			}
		}
	}
	slices.SortStableFunc(state, func(a, b signal.Change) int { return a.Scan - b.Scan })
	return signal.Steps(p.Name, p.Kind(), state)
}

// ofWire tells of a step that breaks or mends a wire.
func ofWire(s exercise.StepForm) bool {
	verb, _ := block.VerbNamed(s.Verb)
	return verb.Does == block.Break || verb.Does == block.Mend
}

// reworked writes the steps of one input anew.
func (s scene) reworked(p exercise.Point, c *signal.Column) (exercise.Files, error) {
	var edits []exercise.Edit
	for i, step := range slices.Backward(s.form.Steps) {
		if step.Works(p.Name) && !ofWire(step) {
			edits = append(edits, exercise.Edit{Do: exercise.Remove, At: s.at("steps/%d", i)})
		}
	}
	files, err := edit(s.files, edits...)
	if err != nil {
		return nil, err
	}
	if s, err = sceneOf(files, s.number); err != nil {
		return nil, err
	}
	made := exercise.StepsByHand([]exercise.Point{p}, &signal.Trace{Scans: s.length(), Columns: []*signal.Column{c}}, nil)
	var steps []Timed
	for _, step := range s.taps(made) {
		steps = append(steps, Timed{s.scan(step), step})
	}
	return s.add(steps...)
}
