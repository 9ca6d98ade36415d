package grade

import (
	"bytes"
	"cmp"
	"fmt"
	"maps"
	"strings"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

// Freeze returns the files that pin what the solution does now: a table for each scenario that expects a trace, and
// exercise.yaml naming them. A change of the solution then shows, instead of moving the marks.
func (g *Grader) Freeze(yaml string) (exercise.Files, error) {
	files := exercise.Files{yamlName: []byte(yaml)}
	for i, s := range g.Exercise.Scenarios {
		if s.Expect.Checks != nil || s.Expect.Erratic != "" {
			continue
		}
		made, err := g.FreezeOne(string(files[yamlName]), i)
		if err != nil {
			return nil, err
		}
		maps.Copy(files, made)
	}
	if string(files[yamlName]) == yaml {
		delete(files, yamlName)
	}
	return files, nil
}

const yamlName = "exercise.yaml"

// FreezeOne pins what the solution does now in one scenario, by its number: a table, and, where none was named, an exercise.yaml that
// names it.
func (g *Grader) FreezeOne(yaml string, scenario int) (exercise.Files, error) {
	_, code, _ := g.compile([]*source.File{fileOf(g.Exercise.Solutions[0])})
	s := g.Exercise.Scenarios[scenario]
	table, err := g.table(code, s)
	if err != nil {
		return nil, err
	}
	if s.Expect.File != "" {
		return exercise.Files{s.Expect.File: table}, nil
	}
	base := "expected/" + cmp.Or(exercise.NameFor(s.Name), "scenario")
	name := base + ".csv"
	for n := 2; strings.Contains(yaml, name); n++ { // two scenarios whose names differ in capitals alone
		name = fmt.Sprintf("%s-%d.csv", base, n)
	}
	text, err := exercise.Rewrite(yaml, []exercise.Edit{{Do: exercise.Put, At: fmt.Sprintf("scenarios/%d/expect", scenario),
		Value: fmt.Appendf(nil, `{"table": %q}`, name)}})
	if err != nil {
		return nil, err
	}
	return exercise.Files{name: table, yamlName: []byte(text)}, nil
}

// Moved tells of each scenario whose table is no longer what the solution does.
func (g *Grader) Moved() (source.List, error) {
	var list source.List
	_, code, _ := g.compile([]*source.File{fileOf(g.Exercise.Solutions[0])})
	for i, s := range g.Exercise.Scenarios {
		if s.Expect.Table == nil {
			continue
		}
		does, err := g.solutionDoes(code, s)
		if err != nil {
			return nil, err
		}
		for j, graded := range g.Exercise.Graded {
			if scan, differs := compare.Columns(g.expected[i].Columns[j], does.Columns[j], does.Scans, compare.Tolerance{}, nil); differs {
				list.Add(source.Verify, s.Expect.At, "Run freeze to take what the solution does now.",
					"Scenario %q: from scan %d the solution's %s is not that of %s.", s.Name, scan, graded.Name(), s.Expect.File)
			}
		}
	}
	return list, nil
}

// solutionDoes is the trace of what is graded, a column for each under the name that it is graded by.
func (g *Grader) solutionDoes(code *machine.Code, s exercise.Scenario) (*signal.Trace, error) {
	var names []string
	for _, one := range g.Exercise.Graded {
		names = append(names, wanted(one).In(code)[0]) // Prepare found it
	}
	run, err := code.Play(s.Script, names)
	if err != nil {
		return nil, fmt.Errorf("scenario %q: %w", s.Name, err)
	}
	for j, one := range g.Exercise.Graded {
		run.Trace.Columns[j].Name = one.Name()
	}
	return run.Trace, nil
}

func (g *Grader) table(code *machine.Code, s exercise.Scenario) ([]byte, error) {
	does, err := g.solutionDoes(code, s)
	if err != nil {
		return nil, err
	}
	var b bytes.Buffer
	if err := signal.WriteTable(&b, does, sloped(does)); err != nil {
		return nil, fmt.Errorf("scenario %q: %w", s.Name, err)
	}
	if b.Len() > exercise.MaxFile {
		return nil, fmt.Errorf("scenario %q is too long for a table: %w", s.Name, exercise.ErrLarge)
	}
	return b.Bytes(), nil
}

// sloped reports whether a row for each scan is needed to write a trace exactly.
func sloped(t *signal.Trace) bool {
	for _, c := range t.Columns {
		if c.Sloped() {
			return true
		}
	}
	return false
}
