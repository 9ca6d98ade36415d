package exercise

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"celandine/core/block"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Form is exercise.yaml as it is written, mistakes and all: every value is the text that stands there, "" where none does. The
// items of its lists are those of the file, in their order, so that their numbers are the places of an [Edit]. A value of the
// wrong shape is left out; [Read] tells of it.
type Form struct {
	Name      string              `yaml:"name" json:"name"`
	Title     string              `yaml:"title" json:"title"`
	Topic     string              `yaml:"topic" json:"topic"`
	Kind      string              `yaml:"kind" json:"kind"`
	Reasons   []string            `yaml:"reasons" json:"reasons"`
	Period    string              `yaml:"period" json:"period"`
	Languages []string            `yaml:"languages" json:"languages"`
	Panel     PanelForm           `yaml:"panel" json:"panel"`
	Graded    Items[GradedForm]   `yaml:"graded" json:"graded"`
	Scenarios Items[ScenarioForm] `yaml:"scenarios" json:"scenarios"`
	Rules     Items[RuleForm]     `yaml:"rules" json:"rules"`
	Tasks     Items[TaskForm]     `yaml:"tasks" json:"tasks"`
}

// Items are those of a list of the file, one for one: an item of another shape is there too, with nothing in it.
type Items[T any] []T

// UnmarshalYAML reads item by item, so that each keeps its number.
func (list *Items[T]) UnmarshalYAML(n *yaml.Node) error {
	*list = Items[T]{}
	if n.Kind != yaml.SequenceNode {
		return nil
	}
	for _, item := range n.Content {
		var one T
		_ = item.Decode(&one) // what has another shape stays out, and Read tells of it
		*list = append(*list, one)
	}
	return nil
}

// PanelForm is the panel's devices.
type PanelForm struct {
	Inputs  Items[PointForm] `yaml:"inputs" json:"inputs"`
	Outputs Items[PointForm] `yaml:"outputs" json:"outputs"`
}

// PointForm is a point, or a numbered series of them.
type PointForm struct {
	Name    string `yaml:"name" json:"name"`
	At      string `yaml:"at" json:"at"`
	Device  string `yaml:"device" json:"device"`
	Contact string `yaml:"contact" json:"contact"`
	Label   string `yaml:"label" json:"label"`
	Type    string `yaml:"type" json:"type"`
	Unit    string `yaml:"unit" json:"unit"`
	Initial string `yaml:"initial" json:"initial"`
}

// GradedForm is what is compared, and how strictly.
type GradedForm struct {
	Signal string `yaml:"signal" json:"signal"`
	Block  string `yaml:"block" json:"block"`
	Member string `yaml:"member" json:"member"`
	Weight string `yaml:"weight" json:"weight"`
	Slack  string `yaml:"slack" json:"slack"`
	Drift  string `yaml:"drift" json:"drift"`
	Within string `yaml:"within" json:"within"`
}

// ScenarioForm is a scripted run and what is expected of it.
type ScenarioForm struct {
	Name    string            `yaml:"name" json:"name"`
	Points  string            `yaml:"points" json:"points"`
	Shown   string            `yaml:"shown" json:"shown"`
	ByHand  string            `yaml:"by_hand" json:"byHand"`
	Predict string            `yaml:"predict" json:"predict"`
	For     string            `yaml:"for" json:"for"`
	Script  string            `yaml:"script" json:"script"`
	Steps   Items[StepForm]   `yaml:"steps" json:"steps"`
	Expect  ExpectForm        `yaml:"expect" json:"expect"`
	Ignore  Items[WindowForm] `yaml:"ignore" json:"ignore"`
}

// StepForm is one step. Of force, write and set the values are a list; of any other verb there is one thing that it is done to.
type StepForm struct {
	At     string      `json:"at"`
	Verb   string      `json:"verb"`
	Object string      `json:"object"`
	Values []ValueForm `json:"values"`
	For    string      `json:"for"`
	Every  string      `json:"every"`
	Times  string      `json:"times"`
}

// Works tells whether the step works an input, or breaks or mends its wire.
func (s StepForm) Works(input string) bool {
	return strings.EqualFold(s.Object, input) ||
		slices.ContainsFunc(s.Values, func(v ValueForm) bool { return strings.EqualFold(v.Name, input) })
}

// ValueForm is what a variable or an input is given.
type ValueForm struct {
	Name  string `json:"name"`
	Value string `json:"value"`
}

// UnmarshalYAML takes the one key that is a verb for what the step does.
func (s *StepForm) UnmarshalYAML(n *yaml.Node) error {
	s.Values = []ValueForm{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i].Value, n.Content[i+1]
		switch {
		case key == "at":
			s.At = value.Value
		case key == "for":
			s.For = value.Value
		case key == "every":
			s.Every = value.Value
		case key == "times":
			s.Times = value.Value
		case slices.Contains(block.Verbs(), key):
			s.Verb, s.Object = key, value.Value
			for j := 0; j+1 < len(value.Content); j += 2 {
				s.Values = append(s.Values, ValueForm{value.Content[j].Value, value.Content[j+1].Value})
			}
		}
	}
	return nil
}

// ExpectForm is where the expected trace comes from: the solution, a table, or checks in place of one.
type ExpectForm struct {
	Table   string      `json:"table"`
	Erratic string      `json:"erratic"` // why nobody can tell
	Checks  []CheckForm `json:"checks"`  // none: the solution, or the table
}

// UnmarshalYAML tells the kinds by their shape.
func (e *ExpectForm) UnmarshalYAML(n *yaml.Node) error {
	e.Checks = []CheckForm{}
	if n.Kind == yaml.SequenceNode {
		return (*Items[CheckForm])(&e.Checks).UnmarshalYAML(n)
	}
	if table := child(n, "table"); table != nil {
		e.Table = table.Value
	}
	if reason := child(n, "erratic"); reason != nil {
		e.Erratic = reason.Value
	}
	return nil
}

// CheckForm is one thing expected of a signal in a window.
type CheckForm struct {
	Signal string `yaml:"signal" json:"signal"`
	From   string `yaml:"from" json:"from"`
	To     string `yaml:"to" json:"to"`
	Is     string `yaml:"is" json:"is"`
	Rises  string `yaml:"rises" json:"rises"`
	Falls  string `yaml:"falls" json:"falls"`
}

// WindowForm is scans that are not compared.
type WindowForm struct {
	From string `yaml:"from" json:"from"`
	To   string `yaml:"to" json:"to"`
}

// RuleForm is what points are taken off for.
type RuleForm struct {
	Require string `yaml:"require" json:"require"`
	Forbid  string `yaml:"forbid" json:"forbid"`
	Warning string `yaml:"warning" json:"warning"`
	Chatter string `yaml:"chatter" json:"chatter"`
	AtLeast string `yaml:"at_least" json:"atLeast"`
	AtMost  string `yaml:"at_most" json:"atMost"`
	Deduct  string `yaml:"deduct" json:"deduct"`
	Say     string `yaml:"say" json:"say"`
}

// TaskForm is when a program runs.
type TaskForm struct {
	Program  string `yaml:"program" json:"program"`
	Every    string `yaml:"every" json:"every"`
	Priority string `yaml:"priority" json:"priority"`
	Once     string `yaml:"once" json:"once"`
}

// Scan is the time from scan to scan, as [Read] takes it.
func (f Form) Scan() time.Duration {
	if d, err := signal.ParseTime(f.Period); err == nil && d > 0 {
		return d
	}
	return usualPeriod
}

// FormOf reads a text of exercise.yaml as it is written. What is no YAML at all gives an empty form and the reason.
func FormOf(text string) (Form, error) {
	var f Form
	w, err := readWritten(text)
	if err == nil {
		_ = w.root.Decode(&f) // what has another shape stays out, and Read tells of it
	}
	for i := range f.Scenarios {
		s := &f.Scenarios[i]
		s.Steps, s.Ignore, s.Expect.Checks = orEmpty(s.Steps), orEmpty(s.Ignore), orEmpty(s.Expect.Checks)
		for j := range s.Steps {
			s.Steps[j].Values = orEmpty(s.Steps[j].Values)
		}
	}
	f.Panel = PanelForm{orEmpty(f.Panel.Inputs), orEmpty(f.Panel.Outputs)}
	f.Reasons = orEmpty(f.Reasons)
	f.Languages, f.Graded, f.Scenarios = orEmpty(f.Languages), orEmpty(f.Graded), orEmpty(f.Scenarios)
	f.Rules, f.Tasks = orEmpty(f.Rules), orEmpty(f.Tasks)
	return f, err
}

// orEmpty is a list that is written as one, even where it holds nothing.
func orEmpty[T any](list []T) []T { return append([]T{}, list...) }

// Draft reads a folder as [Read] does, and returns what could be read of it whatever is wrong: points, scripts and names that are
// right stand there, so that a panel is alive while it is written. It is no exercise to grade by.
func Draft(files Files) (*Exercise, source.List) {
	r := &reader{files: files, exercise: &Exercise{Hash: files.Hash()}}
	r.read()
	r.problems.Sort()
	return r.exercise, r.problems
}

// Places finds where in exercise.yaml something stands.
type Places struct{ written *written }

// PlacesIn reads a text of exercise.yaml; in what is no YAML nothing has a place.
func PlacesIn(text string) Places {
	w, _ := readWritten(text)
	return Places{w}
}

// At is the place, as of an [Edit], of the smallest thing that stands at an offset; "" is the whole.
func (p Places) At(offset int) string {
	if p.written == nil {
		return ""
	}
	var path []string
	n := p.written.root
	for {
		step := p.written.stepTo(n, offset)
		if step == "" {
			return strings.Join(path, "/")
		}
		path, n = append(path, step), child(n, step)
	}
}

// stepTo is the key or the number below a node under which an offset stands; "" is none.
func (w *written) stepTo(n *yaml.Node, offset int) (step string) {
	for i, c := range n.Content {
		start := w.start(c)
		if n.Kind == yaml.MappingNode && i%2 == 1 {
			start = w.start(n.Content[i-1]) // a key belongs to its value
		}
		if offset < start || offset >= max(w.end(c), start+1) {
			continue
		}
		switch {
		case n.Kind == yaml.SequenceNode:
			step = fmt.Sprint(i)
		case i%2 == 1:
			step = n.Content[i-1].Value
		}
	}
	return step
}
