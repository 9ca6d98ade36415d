package workshop

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/exercise"
	"celandine/core/signal"
	"celandine/core/source"
)

// SetCell writes a value into the scan table of a script: an input shows it from a scan on, until it changed before this. The steps
// that work the input are written anew, wires that break stay as they are.
func SetCell(files exercise.Files, scenario, scan int, input, value string) (exercise.Files, error) {
	s, e, err := inputOf(files, scenario, input)
	if err != nil {
		return nil, err
	}
	p, _ := e.Input(input)
	v, err := p.Kind().Parse(value)
	if err != nil {
		return nil, fmt.Errorf("%s cannot show that: %w", p.Name, err)
	}
	c := s.column(e, p)
	changes := slices.DeleteFunc(c.Changes(0, s.length()), func(one signal.Change) bool { return one.Scan == scan })
	at, _ := slices.BinarySearchFunc(changes, scan, func(one signal.Change, scan int) int { return one.Scan - scan })
	return s.reworked(p, signal.Steps(p.Name, p.Kind(), slices.Insert(changes, at, signal.Change{Scan: scan, Value: v})))
}

// inputOf finds an input whose steps can be written anew.
func inputOf(files exercise.Files, scenario int, input string) (scene, *exercise.Exercise, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return s, nil, err
	}
	e, _ := exercise.Draft(files)
	if _, ok := e.Input(input); !ok {
		return s, e, fmt.Errorf("there is no input named %s. %s", input, source.Meant(input, nil))
	}
	for _, step := range s.form.Steps {
		if len(step.Values) > 1 && step.Works(input) {
			return s, e, fmt.Errorf("the step at %s sets several inputs at once; change it in the list of steps", step.At)
		}
	}
	return s, e, nil
}

// column is what an input's device does in the script, as bits with all wires whole.
func (s scene) column(e *exercise.Exercise, p exercise.Point) *signal.Column {
	state := []signal.Change{{Scan: 0, Value: p.Rest()}}
	for _, one := range e.Scenarios {
		if one.Name != s.form.Name || one.Script == nil {
			continue
		}
		if s.form.Script != "" {
			return one.Script.Column(p.Name)
		}
		for _, edge := range one.Edges {
			if step := s.form.Steps[edge.Step]; edge.Input == p.Name && !strings.HasSuffix(step.Verb, "_wire") {
				state = append(state, signal.Change{Scan: edge.Scan, Value: p.Bit(edge.State)})
			}
		}
	}
	slices.SortStableFunc(state, func(a, b signal.Change) int { return a.Scan - b.Scan })
	return signal.Steps(p.Name, p.Kind(), state)
}

// reworked writes the steps of one input anew.
func (s scene) reworked(p exercise.Point, c *signal.Column) (exercise.Files, error) {
	var edits []exercise.Edit
	for i, step := range slices.Backward(s.form.Steps) {
		if step.Works(p.Name) && !strings.HasSuffix(step.Verb, "_wire") {
			edits = append(edits, exercise.Edit{Do: exercise.Remove, At: s.at("steps/%d", i)})
		}
	}
	files, err := edit(s.files, edits...)
	if err != nil {
		return nil, err
	}
	made := exercise.StepsByHand([]exercise.Point{p}, &signal.Trace{Scans: s.length(), Columns: []*signal.Column{c}}, nil)
	for _, step := range s.taps(made) {
		if files, err = AddStep(files, s.number, s.scan(step), step); err != nil {
			return nil, err
		}
	}
	return files, nil
}
