package workshop

import (
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"
	"time"

	"celandine/core/exercise"
)

// errGone tells of a place that an earlier change has taken away.
var errGone = errors.New("it is not there any more")

// scene is one scenario of a form, with the period that its moments are read by.
type scene struct {
	files  exercise.Files
	number int
	form   exercise.ScenarioForm
	period time.Duration
}

func sceneOf(files exercise.Files, number int) (scene, error) {
	form, err := exercise.FormOf(string(files[yamlName]))
	if err != nil {
		return scene{}, err
	}
	if number < 0 || number >= len(form.Scenarios) {
		return scene{}, errGone
	}
	e, _ := exercise.Draft(files)
	return scene{files, number, form.Scenarios[number], e.Period}, nil
}

// at is the place of something in the scenario.
func (s scene) at(format string, args ...any) string {
	return fmt.Sprintf("scenarios/%d/", s.number) + fmt.Sprintf(format, args...)
}

func (s scene) put(value json.RawMessage, format string, args ...any) exercise.Edit {
	return exercise.Edit{Do: exercise.Put, At: s.at(format, args...), Value: value}
}

// scan is when a step begins; what cannot be read begins at once.
func (s scene) scan(step exercise.StepForm) int {
	scan, _ := exercise.MomentOf(step.At, s.period)
	return scan
}

// length is how long the scenario is.
func (s scene) length() int {
	scans, _ := exercise.LengthOf(s.form.For, s.period)
	return scans
}

// moment and span write what a step, a window or a scenario says of its time, as it was written before.
func (s scene) moment(scan int, before string) json.RawMessage {
	return quote(exercise.Moment(max(scan, 0), s.period, before))
}

func (s scene) span(scans int, before string) json.RawMessage {
	return quote(exercise.Length(max(scans, 1), s.period, before))
}

// longEnough makes the scenario last until behind a scan.
func (s scene) longEnough(scan int) []exercise.Edit {
	if s.length() > scan {
		return nil
	}
	return []exercise.Edit{s.put(s.span(scan+1, s.form.For), "for")}
}

// MoveEdge brings an edge of a script to another scan: the step begins then, or, where its end was taken, lasts until then. A
// repeated step moves as a whole. The scenario becomes longer where it must.
func MoveEdge(files exercise.Files, scenario int, edge exercise.Edge, to int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	if edge.Step < 0 || edge.Step >= len(s.form.Steps) {
		return nil, errGone
	}
	step := s.form.Steps[edge.Step]
	every, _ := exercise.LengthOf(step.Every, s.period)
	begin := s.scan(step) + edge.Turn*every
	edits := s.longEnough(to)
	if edge.Moves == "for" {
		return edit(files, append(edits, s.put(s.span(to-begin, step.For), "steps/%d/for", edge.Step))...)
	}
	return edit(files, append(edits, s.put(s.moment(to-edge.Turn*every, step.At), "steps/%d/at", edge.Step))...)
}

// AddStep puts a step into a script, behind those that come before it. A script that is a table becomes steps first.
func AddStep(files exercise.Files, scenario, scan int, step exercise.StepForm) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	step.At = exercise.Moment(scan, s.period, "")
	hold, _ := exercise.LengthOf(step.For, s.period)
	return edit(files, append(s.longEnough(scan+hold), s.insert(step))...)
}

// insert puts a step behind all that do not come after it.
func (s scene) insert(step exercise.StepForm) exercise.Edit {
	at := 0
	for i, other := range s.form.Steps {
		if s.scan(other) <= s.scan(step) {
			at = i + 1
		}
	}
	return exercise.Edit{Do: exercise.Insert, At: s.at("steps/%d", at), Value: asValue(step)}
}

// asValue writes a step as it stands in exercise.yaml.
func asValue(s exercise.StepForm) json.RawMessage {
	what := quote(s.Object)
	if len(s.Values) > 0 {
		var parts []string
		for _, v := range s.Values {
			parts = append(parts, string(quote(v.Name))+":"+string(quote(v.Value)))
		}
		what = json.RawMessage("{" + strings.Join(parts, ",") + "}")
	}
	fields := map[string]any{"at": s.At, s.Verb: what}
	for key, text := range map[string]string{"for": s.For, "every": s.Every, "times": s.Times} {
		if text != "" {
			fields[key] = text
		}
	}
	value, _ := ordered(fields, exercise.KeysOf("scenarios/0/steps/0")) // texts can always be written
	return value
}

// Reshaping is what is done to a stretch of a script.
type Reshaping string

// The deeds. Shift moves it by scans, Stretch makes it so many scans long and moves what comes after, Cut takes its steps out,
// Copy puts them a second time, beginning at a scan.
const (
	Shift   Reshaping = "shift"
	Stretch Reshaping = "stretch"
	Cut     Reshaping = "cut"
	Copy    Reshaping = "copy"
)

// Reshapings lists them.
func Reshapings() []string {
	return []string{string(Shift), string(Stretch), string(Cut), string(Copy)}
}

// Reshape does something to the steps that begin in a stretch of scans: from is in, to is out.
func Reshape(files exercise.Files, scenario int, do Reshaping, from, to, by int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	if from >= to {
		return nil, errors.New("choose a stretch of the script first: drag over its time axis")
	}
	var edits []exercise.Edit
	last := 0
	for i, step := range slices.Backward(s.form.Steps) {
		scan := s.scan(step)
		inside := scan >= from && scan < to
		switch {
		case inside && do == Cut:
			edits = append(edits, exercise.Edit{Do: exercise.Remove, At: s.at("steps/%d", i)})
		case inside && do == Shift:
			scan += by
			edits = append(edits, s.put(s.moment(scan, step.At), "steps/%d/at", i))
		case inside && do == Stretch:
			edits = append(edits, s.stretched(i, from, to-from, by)...)
			scan = from + (scan-from)*by/(to-from)
		case scan >= to && do == Stretch:
			scan += by - (to - from)
			edits = append(edits, s.put(s.moment(scan, step.At), "steps/%d/at", i))
		}
		last = max(last, s.end(scan, step))
	}
	if do == Copy {
		return s.copied(from, to, by)
	}
	return edit(files, append(edits, s.longEnough(last)...)...)
}

// end is the last scan at which a step that begins at a scan does anything.
func (s scene) end(scan int, step exercise.StepForm) int {
	hold, _ := exercise.LengthOf(step.For, s.period)
	every, _ := exercise.LengthOf(step.Every, s.period)
	times := 1
	_, _ = fmt.Sscan(step.Times, &times) // what is no number is once
	return scan + hold + every*(times-1)
}

// stretched are the edits by which a step takes part in a stretch that becomes longer or shorter.
func (s scene) stretched(i, from, was, becomes int) []exercise.Edit {
	step := s.form.Steps[i]
	edits := []exercise.Edit{s.put(s.moment(from+(s.scan(step)-from)*becomes/was, step.At), "steps/%d/at", i)}
	for key, text := range map[string]string{"for": step.For, "every": step.Every} {
		if scans, ok := exercise.LengthOf(text, s.period); ok && text != "" {
			edits = append(edits, s.put(s.span(scans*becomes/was, text), "steps/%d/%s", i, key))
		}
	}
	return edits
}

// copied puts the steps of a stretch a second time, so that it begins at a scan.
func (s scene) copied(from, to, at int) (exercise.Files, error) {
	files := s.files
	for _, step := range s.form.Steps {
		scan := s.scan(step)
		if scan < from || scan >= to {
			continue
		}
		changed, err := AddStep(files, s.number, at+scan-from, step)
		if err != nil {
			return nil, err
		}
		files = exercise.Files{yamlName: changed[yamlName]}
	}
	return exercise.Files{yamlName: files[yamlName]}, nil
}

// Ramp lets a number go from one value to another in even steps, one every so many scans.
func Ramp(files exercise.Files, scenario int, input string, from, to, every int, least, greatest int64) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	if every < 1 || to <= from {
		return nil, errors.New("a ramp needs an end behind its beginning, and a step every so many scans")
	}
	if (to-from)/every > 200 {
		return nil, fmt.Errorf("a ramp of %d steps is too fine; make a step every %d scans", (to-from)/every, (to-from)/200+1)
	}
	files = exercise.Files{yamlName: s.files[yamlName]}
	for scan := from; scan <= to; scan += every {
		value := least + (greatest-least)*int64(scan-from)/int64(to-from)
		step := exercise.StepForm{Verb: "set", Values: []exercise.ValueForm{{Name: input, Value: fmt.Sprint(value)}}}
		if files, err = AddStep(files, scenario, scan, step); err != nil {
			return nil, err
		}
	}
	return files, nil
}

// Record makes what was done by hand a scenario's script, in place of the one it had. Steps come in times rather than scans.
func Record(files exercise.Files, scenario int, steps []exercise.StepForm, scans int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	var values []string
	for _, step := range s.taps(steps) {
		values = append(values, string(asValue(step)))
	}
	edits := []exercise.Edit{s.put(s.span(scans, ""), "for")}
	if s.form.Script != "" {
		edits = append(edits, exercise.Edit{Do: exercise.Remove, At: s.at("script")})
	}
	return edit(files, append(edits, s.put(json.RawMessage("["+strings.Join(values, ",")+"]"), "steps"))...)
}

// taps writes a press with its release as one step, and every moment as a time.
func (s scene) taps(steps []exercise.StepForm) (list []exercise.StepForm) {
	gone := map[int]bool{}
	for i, step := range steps {
		if gone[i] {
			continue
		}
		scan := s.scan(step)
		step.At = exercise.Moment(scan, s.period, "")
		if step.Verb == "press" {
			let := slices.IndexFunc(steps[i+1:], func(o exercise.StepForm) bool { return o.Object == step.Object })
			if let >= 0 && steps[i+1+let].Verb == "release" {
				gone[i+1+let] = true
				step.Verb, step.For = "tap", exercise.Length(s.scan(steps[i+1+let])-scan, s.period, "")
			}
		}
		list = append(list, step)
	}
	return list
}

// Row is a scan at which something is done, with what each input shows from then on.
type Row struct {
	Scan   int      `json:"scan"`
	Time   string   `json:"time"`
	Values []string `json:"values"` // of each input of the panel, in their order
	Now    []bool   `json:"now"`    // whether it changes here
}

// mostRows bounds the table of a script.
const mostRows = 2000

// Rows is a script as a scan table.
func Rows(files exercise.Files, scenario int) ([]Row, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	at := slices.IndexFunc(Of(files).Scripts, func(one Scripted) bool { return one.Scenario == scenario })
	if at < 0 {
		return []Row{}, nil
	}
	trace := Of(files).Scripts[at].Inputs
	scans := map[int]bool{0: true}
	for _, c := range trace.Columns {
		for _, change := range c.Changes(0, trace.Scans) {
			scans[change.Scan] = true
		}
	}
	var order []int
	for scan := range scans {
		order = append(order, scan)
	}
	sort.Ints(order)
	rows := []Row{}
	for _, scan := range order[:min(len(order), mostRows)] {
		row := Row{Scan: scan, Time: exercise.Moment(scan, s.period, "")}
		for _, c := range trace.Columns {
			row.Values = append(row.Values, c.Format(c.At(scan)))
			row.Now = append(row.Now, scan == 0 || c.At(scan) != c.At(scan-1))
		}
		rows = append(rows, row)
	}
	return rows, nil
}

// CopyScenario puts a copy of a scenario behind it, under a name that is still free.
func CopyScenario(files exercise.Files, scenario int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	form, err := exercise.FormOf(string(files[yamlName]))
	if err != nil {
		return nil, err
	}
	name := s.form.Name + ", again"
	for n := 2; slices.ContainsFunc(form.Scenarios, func(o exercise.ScenarioForm) bool { return o.Name == name }); n++ {
		name = fmt.Sprintf("%s, again %d", s.form.Name, n)
	}
	text, err := exercise.Duplicate(string(files[yamlName]), fmt.Sprintf("scenarios/%d", scenario))
	if err != nil {
		return nil, err
	}
	return edit(exercise.Files{yamlName: []byte(text)}, exercise.Edit{Do: exercise.Put, At: fmt.Sprintf("scenarios/%d/name", scenario+1), Value: quote(name)})
}

// Steps writes a script that is a table as steps; the table goes where nothing else names it.
func Steps(files exercise.Files, scenario int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	e, _ := exercise.Draft(files)
	at := slices.IndexFunc(Of(files).Scripts, func(one Scripted) bool { return one.Scenario == scenario })
	if at < 0 || s.form.Script == "" {
		return nil, errors.New("its script is no table that can be read")
	}
	script := Of(files).Scripts[at].Inputs
	changed, err := Record(files, scenario, exercise.StepsByHand(e.Inputs, script, nil), script.Scans)
	if err == nil && !named(changed, s.form.Script) {
		changed[s.form.Script] = nil
	}
	return changed, err
}
