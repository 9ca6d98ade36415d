package workshop

import (
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"celandine/core/block"
	"celandine/core/exercise"
	"celandine/core/signal"
	"celandine/core/source"
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
	return scene{files, number, form.Scenarios[number], form.Scan()}, nil
}

// onSteps makes a change of a scenario's steps. A script that is a table becomes steps first.
func onSteps(files exercise.Files, scenario int, change func(scene) (exercise.Files, error)) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	if s.form.Script == "" {
		return change(s)
	}
	changed, err := Steps(files, scenario)
	if err != nil {
		return nil, err
	}
	if s, err = sceneOf(after(files, changed), scenario); err != nil {
		return nil, err
	}
	more, err := change(s)
	maps.Copy(changed, more)
	return changed, err
}

// after is a folder with files that changed, or, where they are nil, went.
func after(files, changed exercise.Files) exercise.Files {
	files = maps.Clone(files)
	maps.Copy(files, changed)
	maps.DeleteFunc(files, func(_ string, content []byte) bool { return content == nil })
	return files
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
	begins, place, value := s.scan(step), "for", s.span(to-s.scan(step)-edge.Turn*every, step.For)
	if edge.Moves == "for" {
		_ = json.Unmarshal(value, &step.For) // a text that was just written
	} else {
		begins = max(to-edge.Turn*every, 0)
		place, value = "at", s.moment(begins, step.At)
	}
	return edit(files, append(s.longEnough(s.end(begins, step)), s.put(value, "steps/%d/%s", edge.Step, place))...)
}

// AddStep puts a step into a script, behind those that come before it. A script that is a table becomes steps first.
func AddStep(files exercise.Files, scenario, scan int, step exercise.StepForm) (exercise.Files, error) {
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) { return s.add(Timed{scan, step}) })
}

// add puts steps in, each behind those that come before it; the scenario becomes longer where it must.
func (s scene) add(steps ...Timed) (exercise.Files, error) {
	for _, t := range steps {
		t.Step.At = exercise.Moment(t.Scan, s.period, "")
		changed, err := edit(s.files, append(s.longEnough(s.end(t.Scan, t.Step)), s.insert(t.Step))...)
		if err != nil {
			return nil, err
		}
		if s, err = sceneOf(changed, s.number); err != nil {
			return nil, err
		}
	}
	return exercise.Files{yamlName: s.files[yamlName]}, nil
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

// The deeds. Shift moves it by scans, Stretch makes it so many scans long and moves what comes after, Cut takes its steps out.
const (
	Shift   Reshaping = "shift"
	Stretch Reshaping = "stretch"
	Cut     Reshaping = "cut"
)

// Reshapings lists them.
func Reshapings() []string { return []string{string(Shift), string(Stretch), string(Cut)} }

// Reshape does something to the steps that begin in a stretch of scans: from is in, to is out.
func Reshape(files exercise.Files, scenario int, do Reshaping, from, to, by int) (exercise.Files, error) {
	if from >= to {
		return nil, errors.New("choose a stretch of the script first: drag over its time axis")
	}
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) { return s.reshaped(do, from, to, by) })
}

func (s scene) reshaped(do Reshaping, from, to, by int) (exercise.Files, error) {
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
	return edit(s.files, append(edits, s.longEnough(last)...)...)
}

// end is the last scan at which a step that begins at a scan does anything.
func (s scene) end(scan int, step exercise.StepForm) int {
	hold, _ := exercise.LengthOf(step.For, s.period)
	if verb, _ := block.VerbNamed(step.Verb); verb.Does == block.TurnBoth && step.For == "" {
		hold, _ = exercise.LengthOf(exercise.TapLength.String(), s.period)
	}
	every, _ := exercise.LengthOf(step.Every, s.period)
	times, err := strconv.Atoi(step.Times)
	if err != nil {
		times = 1
	}
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

// Timed is a step with the scan at which it begins, counted from the beginning of the stretch that it was taken from.
type Timed struct {
	Scan int               `json:"scan"`
	Step exercise.StepForm `json:"step"`
}

// Taken are the steps that begin in a stretch of scans, to be put somewhere else: from is in, to is out.
func Taken(files exercise.Files, scenario, from, to int) ([]Timed, error) {
	list := []Timed{}
	_, err := onSteps(files, scenario, func(s scene) (exercise.Files, error) {
		for _, step := range s.form.Steps {
			if scan := s.scan(step); scan >= from && scan < to {
				list = append(list, Timed{scan - from, step})
			}
		}
		return nil, nil
	})
	return list, err
}

// Paste puts steps that were taken, so that their stretch begins at a scan.
func Paste(files exercise.Files, scenario int, steps []Timed, at int) (exercise.Files, error) {
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) {
		var again []Timed
		for _, t := range steps {
			again = append(again, Timed{at + t.Scan, t.Step})
		}
		return s.add(again...)
	})
}

// Ramp lets a number go from one value to another in even steps, one every so many scans.
func Ramp(files exercise.Files, scenario int, input string, from, to, every int, least, greatest int64) (exercise.Files, error) {
	if every < 1 || to <= from {
		return nil, errors.New("a ramp needs an end behind its beginning, and a step every so many scans")
	}
	if (to-from)/every > mostInRamp {
		return nil, fmt.Errorf("a ramp of %d steps is too fine; make a step every %d scans", (to-from)/every, (to-from)/mostInRamp+1)
	}
	var steps []Timed
	for scan := from; scan <= to; scan += every {
		value := least + (greatest-least)*int64(scan-from)/int64(to-from)
		steps = append(steps, Timed{scan, set(input, fmt.Sprint(value))})
	}
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) { return s.add(steps...) })
}

// mostInRamp is as many steps as somebody would read in a list.
const mostInRamp = 200

func set(input, value string) exercise.StepForm {
	return exercise.StepForm{Verb: "set", Values: []exercise.ValueForm{{Name: input, Value: value}}}
}

// Work works an input's device for a stretch of scans, from in and to out, by the verbs that there are for it: a button is pressed and
// let go, a switch is on. A number has a value from then on.
func Work(files exercise.Files, scenario int, input string, from, to int, value string) (exercise.Files, error) {
	p, err := inputNamed(files, input)
	if err != nil {
		return nil, err
	}
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) {
		if p.Kind() != signal.Bool {
			return s.add(Timed{from, set(p.Name, value)})
		}
		if tap, ok := block.VerbThat(block.TurnBoth, p.Device); ok {
			held := exercise.Length(to-from, s.period, "")
			return s.add(Timed{from, exercise.StepForm{Verb: tap.Name, Object: p.Name, For: held}})
		}
		return s.add(Timed{from, p.StepTo(1)}, Timed{to, p.StepTo(0)})
	})
}

// Repeat taps a button so often within a stretch, held for half of the time from one to the next.
func Repeat(files exercise.Files, scenario int, input string, from, to, times int) (exercise.Files, error) {
	p, err := inputNamed(files, input)
	if err != nil {
		return nil, err
	}
	if times < 1 || (to-from)/times < 2 {
		return nil, fmt.Errorf("%s are too few to tap %d times: each takes two at least", source.Plural(to-from, "scan"), times)
	}
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) {
		every := (to - from) / times
		return s.add(Timed{from, exercise.StepForm{Verb: "tap", Object: p.Name, For: exercise.Length(every/2, s.period, ""),
			Every: exercise.Length(every, s.period, ""), Times: fmt.Sprint(times)}})
	})
}

// BreakWire breaks an input's wire for a stretch; one that goes on to the end is not mended.
func BreakWire(files exercise.Files, scenario int, input string, from, to int) (exercise.Files, error) {
	p, err := inputNamed(files, input)
	if err != nil {
		return nil, err
	}
	return onSteps(files, scenario, func(s scene) (exercise.Files, error) {
		steps := []Timed{{from, exercise.StepForm{Verb: "break_wire", Object: p.Name}}}
		if to < s.length() {
			steps = append(steps, Timed{to, exercise.StepForm{Verb: "mend_wire", Object: p.Name}})
		}
		return s.add(steps...)
	})
}

// inputNamed finds an input of the panel.
func inputNamed(files exercise.Files, name string) (exercise.Point, error) {
	e, _ := exercise.Draft(files)
	p, ok := e.Input(name)
	if !ok {
		var names []string
		for _, one := range e.Inputs {
			names = append(names, one.Name)
		}
		return p, fmt.Errorf("there is no input named %s. %s", name, source.Meant(name, names))
	}
	return p, nil
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
	changed, err := edit(files, append(edits, s.put(json.RawMessage("["+strings.Join(values, ",")+"]"), "steps"))...)
	return withoutTable(changed, s.form.Script), err
}

// withoutTable takes a table out that nothing names any more.
func withoutTable(changed exercise.Files, table string) exercise.Files {
	if changed != nil && table != "" && !strings.Contains(string(changed[yamlName]), table) {
		changed[table] = nil
	}
	return changed
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
	rows := []Row{}
	trace := scriptOf(files, scenario)
	if trace == nil {
		return rows, nil
	}
	scans := trace.StepScans()
	for _, scan := range scans[:min(len(scans), mostRows)] {
		row := Row{Scan: scan, Time: exercise.Moment(scan, s.period, "")}
		for _, c := range trace.Columns {
			row.Values = append(row.Values, c.Format(c.At(scan)))
			row.Now = append(row.Now, scan == 0 || c.At(scan) != c.At(scan-1))
		}
		if slices.Contains(row.Now, true) {
			rows = append(rows, row)
		}
	}
	return rows, nil
}

// scriptOf is what is done to the inputs in a scenario, as far as it can be read; nil is nothing.
func scriptOf(files exercise.Files, scenario int) *signal.Trace {
	for _, one := range Of(files).Scripts {
		if one.Scenario == scenario {
			return one.Inputs
		}
	}
	return nil
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
	named := exercise.Edit{Do: exercise.Put, At: fmt.Sprintf("scenarios/%d/name", scenario+1), Value: quote(name)}
	return edit(exercise.Files{yamlName: []byte(text)}, named)
}

// Steps writes a script that is a table as steps; the table goes where nothing else names it.
func Steps(files exercise.Files, scenario int) (exercise.Files, error) {
	s, err := sceneOf(files, scenario)
	if err != nil {
		return nil, err
	}
	script := scriptOf(files, scenario)
	if script == nil || s.form.Script == "" {
		return nil, errors.New("its script is no table that can be read")
	}
	e, _ := exercise.Draft(files)
	return Record(files, scenario, exercise.StepsByHand(e.Inputs, script, nil), script.Scans)
}

// AddScenario adds a scenario of steps, of so many scans, behind the others; its name is made one that there is not yet.
func AddScenario(files exercise.Files, name string, steps []exercise.StepForm, scans int) (exercise.Files, error) {
	form, err := exercise.FormOf(string(files[yamlName]))
	if err != nil {
		return nil, err
	}
	wanted := name
	for n := 2; slices.ContainsFunc(form.Scenarios, func(o exercise.ScenarioForm) bool { return o.Name == name }); n++ {
		name = fmt.Sprintf("%s, %d", wanted, n)
	}
	at := len(form.Scenarios)
	value := fmt.Sprintf(`{"name": %s, "points": 1, "for": "1s", "steps": [], "expect": "solution"}`, quote(name))
	begun, err := edit(files, exercise.Edit{Do: exercise.Insert, At: fmt.Sprintf("scenarios/%d", at), Value: json.RawMessage(value)})
	if err != nil {
		return nil, err
	}
	next := maps.Clone(files)
	maps.Copy(next, begun)
	return Record(next, at, steps, scans)
}
