// Package workshop is an exercise being written, from the first point to a folder that can be handed to a class.
//
// In come the folder's files as they stand, whole or not. Out come what is known of them so far ([Of]): the form, the panel, each
// script's edges, and what is wrong beside the place that it speaks of; what the exercise does and is worth ([Judge]): the solution's
// traces, the marks of every program that comes with it, what the scenarios leave untested and the brief untold; and files changed by what
// an instructor does to them: a point given another name wherever it stands, an edge of a script moved, a press recorded, an
// expectation pinned, a starter made of the solution. [Differences] tells two states of a folder apart in words.
//
// Every change of exercise.yaml leaves the bytes around it as they were. The package keeps nothing, stores nothing and marks nobody.
package workshop

import (
	"fmt"
	"slices"
	"strconv"
	"strings"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/signal"
	"celandine/core/source"
)

const yamlName = "exercise.yaml"

// An Outline is what is known of an exercise being written, whatever is missing or wrong.
type Outline struct {
	Form      exercise.Form `json:"form"`
	Period    string        `json:"period"` // as it is read: 10ms
	Inputs    []PanelPoint  `json:"inputs"`
	Outputs   []PanelPoint  `json:"outputs"`
	Picture   string        `json:"picture"` // the panel's
	Languages []string      `json:"languages"`
	Scripts   []Scripted    `json:"scripts"` // of each scenario that can be read so far, by its number
	Problems  []Problem     `json:"problems"`
	Mistakes  []Mistake     `json:"mistakes"`
	Words     Words         `json:"words"`
}

// Mistake is a program known to be wrong, with what a learner is told of it.
type Mistake struct {
	File string `json:"file"`
	Says string `json:"says"`
}

// PanelPoint is a point as it is wired, one of each series, with the number of its row in the form.
type PanelPoint struct {
	exercise.Point
	Row int `json:"row"`
}

// Scripted is what is done to the inputs in a scenario.
type Scripted struct {
	Scenario int             `json:"scenario"`
	Inputs   *signal.Trace   `json:"inputs"`
	Edges    []exercise.Edge `json:"edges"`
	Ignored  []Expected      `json:"ignored"` // windows that are not compared
	Checks   []Expected      `json:"checks"`
	Table    *signal.Trace   `json:"table"` // of outputs, where one is expected that can be read without a solution
}

// Expected is a window of scans, from is in and to is out, and, of a check, its signal and what is expected of it in words.
type Expected struct {
	Signal string `json:"signal"`
	From   int    `json:"from"`
	To     int    `json:"to"`
	Says   string `json:"says"`
}

// Problem is something wrong, or untested, or untold, with the place that it speaks of: in exercise.yaml as an edit's, else a file.
type Problem struct {
	File    string `json:"file"`
	Line    int    `json:"line"`
	Column  int    `json:"column"`
	At      string `json:"at"` // in exercise.yaml: panel/inputs/2/name
	Error   bool   `json:"error"`
	Message string `json:"message"`
	Hint    string `json:"hint"`
}

// Words are what may be chosen from: the kinds of device and of point, and what a rule can look at.
type Words struct {
	InputDevices  []string `json:"inputDevices"`
	OutputDevices []string `json:"outputDevices"`
	Types         []string `json:"types"`
	Elements      []Choice `json:"elements"` // of a rule that requires or forbids
	Warnings      []Choice `json:"warnings"`
}

// Choice is something that can be chosen, with what it says in a sentence.
type Choice struct {
	Name string `json:"name"`
	Says string `json:"says"`
}

// Of tells what is known of a folder.
func Of(files exercise.Files) Outline {
	text := string(files[yamlName])
	places := exercise.PlacesIn(text)
	form, _ := exercise.FormOf(text) // what is no YAML is told among the problems
	e, problems := exercise.Draft(files)
	out := Outline{Form: form, Period: signal.FormatClock(e.Period), Inputs: pointsOf(e.Inputs, places), Outputs: pointsOf(e.Outputs, places),
		Picture: e.Picture, Languages: languages(e), Scripts: []Scripted{}, Problems: problemsOf(problems, places),
		Mistakes: []Mistake{}, Words: words()}
	for _, m := range e.Mistakes {
		out.Mistakes = append(out.Mistakes, Mistake{m.Name, m.Said()})
	}
	for _, s := range e.Scenarios {
		n, ok := numberIn(places.At(s.At.Start), "scenarios/")
		if !ok || s.Script == nil {
			continue
		}
		one := scripted(n, s)
		if s.Expect.Table != nil {
			here := scene{files, n, form.Scenarios[n], form.Scan()}
			if table, err := here.tableOf(e); err == nil { // else the solution's own names are in it
				one.Table = table
			}
		}
		out.Scripts = append(out.Scripts, one)
	}
	return out
}

// languages are those of the programs in the folder.
func languages(e *exercise.Exercise) []string {
	if e.Kind == exercise.Predict {
		return exercise.Languages()
	}
	return e.Languages
}

func scripted(n int, s exercise.Scenario) Scripted {
	one := Scripted{Scenario: n, Inputs: s.Script, Edges: append([]exercise.Edge{}, s.Edges...), Ignored: []Expected{}, Checks: []Expected{},
		Table: &signal.Trace{Period: s.Script.Period}}
	for _, w := range s.Ignore {
		one.Ignored = append(one.Ignored, Expected{From: w.From, To: w.To, Says: "not compared"})
	}
	for _, c := range s.Expect.Checks {
		one.Checks = append(one.Checks, Expected{c.Signal, c.From, c.To, inWords(c)})
	}
	return one
}

// inWords says what a check expects.
func inWords(c exercise.Check) string {
	if c.Is != "" {
		return "is " + strings.ToUpper(c.Is) + " throughout"
	}
	var words []string
	if c.Rises >= 0 {
		words = append(words, "rises "+times(c.Rises))
	}
	if c.Falls >= 0 {
		words = append(words, "falls "+times(c.Falls))
	}
	return strings.Join(words, " and ")
}

func times(n int) string {
	switch n {
	case 0:
		return "never"
	case 1:
		return "once"
	}
	return fmt.Sprintf("%d times", n)
}

func pointsOf(points []exercise.Point, places exercise.Places) []PanelPoint {
	list := []PanelPoint{}
	for _, p := range points {
		at := places.At(p.At.Start)
		row, ok := numberIn(at, "panel/inputs/")
		if !ok {
			row, _ = numberIn(at, "panel/outputs/")
		}
		list = append(list, PanelPoint{p, row})
	}
	return list
}

// numberIn is the number behind the beginning of a place.
func numberIn(place, beginning string) (n int, ok bool) {
	rest, found := strings.CutPrefix(place, beginning)
	if !found {
		return 0, false
	}
	digits, _, _ := strings.Cut(rest, "/")
	n, err := strconv.Atoi(digits)
	return n, err == nil
}

func problemsOf(list source.List, places exercise.Places) []Problem {
	out := []Problem{}
	for _, d := range list {
		p := Problem{Error: d.Severity != source.Warning, Message: d.Message, Hint: d.Hint}
		if f := d.Span.File; f != nil {
			p.File = f.Name
			p.Line, p.Column = f.Position(d.Span.Start)
			if f.Name == yamlName && f.Text != "" {
				p.At = places.At(d.Span.Start)
			}
		}
		out = append(out, p)
	}
	return out
}

// words are from the same lists that the reader and the checker go by.
func words() Words {
	w := Words{InputDevices: block.InputDevices(), OutputDevices: block.OutputDevices(), Types: exercise.PointTypes(),
		Elements: []Choice{}, Warnings: []Choice{}}
	for _, name := range grade.Elements() {
		w.Elements = append(w.Elements, Choice{name, "a " + name})
	}
	for _, b := range check.Blocks() {
		w.Elements = append(w.Elements, Choice{b.Name, b.Purpose})
	}
	for _, code := range source.WarningCodes() {
		w.Warnings = append(w.Warnings, Choice{string(code), strings.ReplaceAll(string(code), "-", " ")})
	}
	return w
}

// edit returns exercise.yaml after edits, as files that changed.
func edit(files exercise.Files, edits ...exercise.Edit) (exercise.Files, error) {
	text, err := exercise.Rewrite(string(files[yamlName]), edits)
	if err != nil {
		return nil, err
	}
	return exercise.Files{yamlName: []byte(text)}, nil
}

// Edit changes exercise.yaml by edits and returns it, as the files that changed.
func Edit(files exercise.Files, edits []exercise.Edit) (exercise.Files, error) {
	return edit(files, edits...)
}

// programs are the folder's files that are programs, in alphabetical order.
func programs(files exercise.Files) (names []string) {
	for name := range files {
		if exercise.LanguageOf(name) != "" {
			names = append(names, name)
		}
	}
	slices.Sort(names)
	return names
}
