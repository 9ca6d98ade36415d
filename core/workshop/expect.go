package workshop

import (
	"bytes"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/signal"
)

// Pin writes down what a solution does in a scenario as what is expected of it, in a table: the solution of the folder, or, with a text,
// what it was before. From then on a change of the solution shows, instead of moving the marks.
func Pin(files exercise.Files, scenario int, solution string) (exercise.Files, error) {
	whole := maps.Clone(files)
	e, _ := exercise.Draft(files)
	if len(e.Solutions) == 0 {
		return nil, errors.New("there is no solution whose trace could be written down")
	}
	if solution != "" {
		whole[e.Solutions[0].Name] = []byte(solution)
	}
	e, problems := exercise.Read(whole)
	if e == nil {
		return nil, fmt.Errorf("mend this first: %s", problems[0])
	}
	g, problems := grade.Prepare(e)
	switch {
	case g == nil:
		return nil, fmt.Errorf("mend this first: %s", problems[0])
	case scenario < 0 || scenario >= len(e.Scenarios):
		return nil, errGone
	}
	return g.FreezeOne(string(files[yamlName]), scenario)
}

// Unpin expects of a scenario what the solution does, whatever that is; its table goes.
func Unpin(files exercise.Files, scenario int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	changed, err := edit(files, s.put(quote("solution"), "expect"))
	return withoutTable(changed, s.form.Expect.Table), err
}

// AddCheck expects something of a signal from one scan up to another, in place of a trace where there was one.
func AddCheck(files exercise.Files, scenario int, check exercise.CheckForm, from, to int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	fields := map[string]any{"signal": check.Signal}
	for key, text := range map[string]string{"is": check.Is, "rises": check.Rises, "falls": check.Falls} {
		if text != "" {
			fields[key] = text
		}
	}
	if from > 0 {
		fields["from"] = exercise.Moment(from, s.period, "")
	}
	if to < s.length() {
		fields["to"] = exercise.Moment(to, s.period, "")
	}
	value, err := ordered(fields, exercise.KeysOf("scenarios/0/expect/0"))
	if err != nil {
		return nil, err
	}
	if len(s.form.Expect.Checks) > 0 {
		return edit(files, exercise.Edit{Do: exercise.Insert, At: s.at("expect/%d", len(s.form.Expect.Checks)), Value: value})
	}
	return edit(files, s.put([]byte("["+string(value)+"]"), "expect"))
}

// Ignore leaves the scans from one up to another out of what is compared.
func Ignore(files exercise.Files, scenario, from, to int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	value := fmt.Sprintf(`{"from": %s, "to": %s}`, s.moment(from, ""), s.moment(to, ""))
	return edit(files, exercise.Edit{Do: exercise.Insert, At: s.at("ignore/%d", len(s.form.Ignore)), Value: []byte(value)})
}

// DrawExpected writes a value into the table that a scenario expects: a signal has it from one scan up to another. A scenario that
// had none gets one, in which every graded output is at rest: so an expected trace can be drawn by hand before there is a solution.
func DrawExpected(files exercise.Files, scenario int, name, value string, from, to int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	e, _ := exercise.Draft(files)
	table, err := s.tableOf(e)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(table.Columns, func(c *signal.Column) bool { return strings.EqualFold(c.Name, name) })
	if at < 0 {
		return nil, fmt.Errorf("%s is not graded", name)
	}
	c := table.Columns[at]
	v, err := c.Kind.Parse(value)
	if err != nil {
		return nil, fmt.Errorf("%s cannot be that: %w", name, err)
	}
	after := c.At(to)
	changes := slices.DeleteFunc(c.Changes(0, table.Scans), func(one signal.Change) bool { return one.Scan >= from && one.Scan <= to })
	changes = append(changes, signal.Change{Scan: from, Value: v})
	if to < table.Scans {
		changes = append(changes, signal.Change{Scan: to, Value: after})
	}
	slices.SortFunc(changes, func(a, b signal.Change) int { return a.Scan - b.Scan })
	table.Columns[at] = signal.Steps(c.Name, c.Kind, changes)
	return s.drawn(table)
}

// tableOf is the table that the scenario expects, or a new one with every graded point at rest.
func (s scene) tableOf(e *exercise.Exercise) (*signal.Trace, error) {
	kinds := map[string]signal.Kind{}
	for _, p := range e.Outputs {
		kinds[strings.ToLower(p.Name)] = p.Kind()
	}
	if text, ok := s.files[s.form.Expect.Table]; ok {
		table, problems := signal.ReadTable(text, s.period, func(column string) (signal.Kind, error) {
			if kind, known := kinds[strings.ToLower(column)]; known {
				return kind, nil
			}
			return signal.Bool, fmt.Errorf("%s is no output; a table with it comes from the solution", column)
		})
		if len(problems) > 0 {
			return nil, fmt.Errorf("%s, line %d: %s", s.form.Expect.Table, problems[0].Line, problems[0].Message)
		}
		table.Scans = s.length()
		return table, nil
	}
	table := &signal.Trace{Period: s.period, Scans: s.length()}
	for _, g := range e.Graded {
		kind, known := kinds[strings.ToLower(g.Signal)]
		if !known {
			return nil, fmt.Errorf("%s is no output of the panel; write a solution, and its trace is there", g.Name())
		}
		table.Columns = append(table.Columns, signal.Steps(g.Signal, kind, []signal.Change{{}}))
	}
	if len(table.Columns) == 0 {
		return nil, errors.New("choose what is graded first")
	}
	return table, nil
}

// drawn stores a table as what the scenario expects.
func (s scene) drawn(table *signal.Trace) (exercise.Files, error) {
	name, changed := s.form.Expect.Table, exercise.Files{}
	if name == "" {
		name = "expected/" + exercise.NameFor(s.form.Name) + ".csv"
		var err error
		if changed, err = edit(s.files, s.put(fmt.Appendf(nil, `{"table": %q}`, name), "expect")); err != nil {
			return nil, err
		}
	}
	var b bytes.Buffer
	if err := signal.WriteTable(&b, table, false); err != nil {
		return nil, fmt.Errorf("writing %s: %w", name, err)
	}
	changed[name] = b.Bytes()
	return changed, nil
}

// Grade chooses or no longer chooses a value of the solution as what is graded. A member of a standard block is meant by the block's
// type, whatever the hand-in calls it.
func Grade(files exercise.Files, one Signal) (exercise.Files, error) {
	if one.Graded >= 0 {
		return edit(files, exercise.Edit{Do: exercise.Remove, At: fmt.Sprintf("graded/%d", one.Graded)})
	}
	form, err := exercise.FormOf(string(files[yamlName]))
	if err != nil {
		return nil, err
	}
	fields := map[string]any{"signal": one.Name}
	if one.Block != "" {
		fields = map[string]any{"block": one.Block, "member": one.Member}
	}
	value, err := ordered(fields, exercise.KeysOf("graded/0"))
	if err != nil {
		return nil, err
	}
	return edit(files, exercise.Edit{Do: exercise.Insert, At: fmt.Sprintf("graded/%d", len(form.Graded)), Value: value})
}
