package exercise

import (
	"fmt"
	"sort"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"celandine/core/block"
	"celandine/core/signal"
	"celandine/core/source"
)

func (r *reader) scenario(n *yaml.Node) {
	s := Scenario{Points: 100, At: r.span(n)}
	var length, steps, script, expect, ignore *yaml.Node
	r.mapping(n, "A scenario",
		field{"name", true, func(v *yaml.Node) { s.Name = r.text(v, "name") }},
		field{"points", false, func(v *yaml.Node) {
			m, err := ParseMarks(r.text(v, "points"))
			if err != nil {
				r.at(v, "", "%v.", err)
			}
			s.Points = m
		}},
		field{"shown", false, func(v *yaml.Node) { s.Shown = r.truth(v, "shown"); s.Hides = !s.Shown }},
		field{"by_hand", false, func(v *yaml.Node) { s.ByHand = r.truth(v, "by_hand") }},
		field{"predict", false, func(v *yaml.Node) { s.Practice = r.truth(v, "predict") }},
		field{"for", true, func(v *yaml.Node) { length = v }},
		field{"steps", false, func(v *yaml.Node) { steps = v }},
		field{"script", false, func(v *yaml.Node) { script = v }},
		field{"expect", true, func(v *yaml.Node) { expect = v }},
		field{"ignore", false, func(v *yaml.Node) { ignore = v }},
	)
	for _, other := range r.exercise.Scenarios {
		if other.Name == s.Name {
			r.at(n, "Give each scenario its own name.", "There are two scenarios named %q.", s.Name)
		}
	}
	if length == nil {
		return
	}
	scans := r.scans(length, "for")
	if scans < 1 {
		r.at(length, "", "A scenario lasts at least one scan.")
	}
	if scans > signal.MaxScans {
		r.at(length, "Make the scenario shorter, or the period longer.", "This scenario has %d scans; the limit is %d.", scans, signal.MaxScans)
		return
	}
	if expect != nil {
		s.Expect = r.expectation(expect, scans)
	}
	if ignore != nil {
		r.list(ignore, "ignore", func(item *yaml.Node) { s.Ignore = append(s.Ignore, r.window(item, scans)) })
	}
	switch {
	case steps != nil && script != nil:
		r.at(script, "Keep one of them.", "A scenario has steps or a script, not both.")
	case script != nil:
		s.Script = r.script(script, scans)
	default:
		s.Script, s.Edges = r.steps(steps, scans)
	}
	r.exercise.Scenarios = append(r.exercise.Scenarios, s)
}

func (r *reader) expectation(n *yaml.Node, scans int) (e Expectation) {
	e.At = r.span(n)
	switch n.Kind {
	case yaml.ScalarNode:
		r.oneOf(n, "expect", "solution")
	case yaml.MappingNode:
		r.mapping(n, "expect",
			field{"table", false, func(v *yaml.Node) {
				name := r.text(v, "table")
				if r.fileNamed(v, name) {
					r.table(name, nil) // for its mistakes; what its columns are is known with the solution
					e.Table, e.File = r.files[name], name
				}
			}},
			field{"erratic", false, func(v *yaml.Node) { e.Erratic = strings.TrimSpace(r.text(v, "erratic")) }},
		)
		if len(n.Content) != 2 {
			r.at(n, "Write expect: {table: expected/NAME.csv}, or in a prediction expect: {erratic: …}.", "expect has one key.")
		}
	case yaml.SequenceNode:
		e.Checks = []Check{}
		r.list(n, "expect", func(item *yaml.Node) { e.Checks = append(e.Checks, r.check(item, scans)) })
		if len(e.Checks) == 0 {
			r.at(n, "Write expect: solution, or at least one check.", "This list of checks is empty.")
		}
	}
	return e
}

// window reads {from, to}; a window without to goes on to the end.
func (r *reader) window(n *yaml.Node, scans int) Window {
	w := Window{To: scans}
	r.mapping(n, "A window",
		field{"from", true, func(v *yaml.Node) { w.From = r.moment(v) }},
		field{"to", false, func(v *yaml.Node) { w.To = r.moment(v) }},
	)
	r.fits(n, w, scans, "This window")
	return w
}

// fits reports a window that is empty or goes beyond the scenario.
func (r *reader) fits(n *yaml.Node, w Window, scans int, what string) {
	switch {
	case w.To > scans:
		r.at(n, "Make the scenario longer, or end it earlier here.", "%s goes on to scan %d; the scenario ends after scan %d.", what, w.To-1,
			scans-1)
	case w.From >= w.To:
		r.at(n, "Write from before to.", "%s is empty.", what)
	}
}

// fileNamed reports whether the folder has a file that the YAML names.
func (r *reader) fileNamed(n *yaml.Node, name string) bool {
	_, ok := r.files[name]
	if !ok {
		var names []string
		for f := range r.files {
			names = append(names, f)
		}
		r.at(n, source.Meant(name, names), "There is no file %s in the exercise.", name)
	}
	return ok
}

func (r *reader) table(name string, kindOf func(string) (signal.Kind, error)) *signal.Trace {
	t, problems := signal.ReadTable(r.files[name], r.exercise.Period, kindOf)
	for _, p := range problems {
		r.inFile(name, p.Line, "", "%s.", p.Message)
	}
	return t
}

// script reads a scan table of inputs; the columns are bits, as wired.
func (r *reader) script(n *yaml.Node, scans int) *signal.Trace {
	name := r.text(n, "script")
	if !r.fileNamed(n, name) {
		return nil
	}
	t := r.table(name, func(column string) (signal.Kind, error) {
		p, ok := r.exercise.Input(column)
		if !ok {
			return 0, fmt.Errorf("there is no input named %s. %s", column, source.Meant(column, r.exercise.inputNames()))
		}
		return p.Kind(), nil
	})
	if t == nil {
		return nil
	}
	if t.Scans > scans {
		r.at(n, "Make the scenario longer, or end the table earlier.", "%s goes on to scan %d; the scenario ends after scan %d.", name, t.Scans-1,
			scans-1)
	}
	t.Scans = scans
	for _, p := range r.exercise.Inputs {
		if t.Column(p.Name) == nil {
			t.Columns = append(t.Columns, signal.Steps(p.Name, p.Kind(), []signal.Change{{Value: p.Rest()}}))
		}
	}
	return t
}

// change is what a step does to one device at a scan, or to a variable.
type change struct {
	scan   int
	input  int // index of the input
	state  int64
	broken *bool // set by break_wire and mend_wire
	act    *signal.Act
	moves  string // of a step, the moment that this is at: "at", or "for" where it lets go
}

// An Edge is where a step works an input: in a timing diagram, what can be taken hold of to move the step.
type Edge struct {
	Step  int    `json:"step"`
	Turn  int    `json:"turn"` // of a step that is repeated, from 0
	Input string `json:"input"`
	Scan  int    `json:"scan"`
	State int64  `json:"state"` // of the device from then on
	Moves string `json:"moves"` // the step's key that says when: at, or of a tap that lets go for
}

// steps turns device steps into input columns, and tells where each works an input.
func (r *reader) steps(n *yaml.Node, scans int) (*signal.Trace, []Edge) {
	var changes []change
	var edges []Edge
	step := 0
	if n != nil {
		r.list(n, "steps", func(item *yaml.Node) {
			made := r.step(item, scans)
			edges = append(edges, r.edges(step, made)...)
			changes = append(changes, made...)
			step++
		})
	}
	sort.SliceStable(changes, func(i, j int) bool { return changes[i].scan < changes[j].scan })
	return r.columns(changes, scans), edges
}

// edges are where the changes of a step are, one after the other.
func (r *reader) edges(step int, changes []change) (list []Edge) {
	turns := map[string]int{}
	for _, c := range changes {
		if c.act != nil {
			continue
		}
		name := r.exercise.Inputs[c.input].Name
		list = append(list, Edge{step, turns[name+c.moves], name, c.scan, c.state, c.moves})
		turns[name+c.moves]++
	}
	return list
}

// columns lets the wiring decide the bits.
func (r *reader) columns(changes []change, scans int) *signal.Trace {
	t := &signal.Trace{Period: r.exercise.Period, Scans: scans}
	for _, c := range changes {
		if c.act != nil {
			t.Acts = append(t.Acts, *c.act)
		}
	}
	for i, p := range r.exercise.Inputs {
		state, broken := p.Initial, false
		values := []signal.Change{{Scan: 0, Value: p.Rest()}}
		for _, c := range changes {
			if c.input != i || c.act != nil {
				continue
			}
			if c.broken != nil {
				broken = *c.broken
			} else {
				state = c.state
			}
			bit := p.Bit(state)
			if broken {
				bit = 0
			}
			values = append(values, signal.Change{Scan: c.scan, Value: bit})
		}
		t.Columns = append(t.Columns, signal.Steps(p.Name, p.Kind(), values))
	}
	return t
}

// stepTimes is when, how long and how often.
type stepTimes struct {
	at, hold, every, times int
}

// TapLength is how long a tap holds its button where it does not say.
const TapLength = 200 * time.Millisecond

func (r *reader) step(n *yaml.Node, scans int) []change {
	when := stepTimes{hold: 0, times: 1}
	var verb block.Verb
	var object *yaml.Node
	var repeat, hold *yaml.Node
	fields := []field{
		{"at", true, func(v *yaml.Node) { when.at = r.moment(v) }},
		{"for", false, func(v *yaml.Node) { when.hold = r.scans(v, "for"); hold = v }},
		{"every", false, func(v *yaml.Node) { when.every = r.scans(v, "every"); repeat = v }},
		{"times", false, func(v *yaml.Node) { when.times = r.whole(v, "times", 1, 10_000); repeat = v }},
	}
	take := func(word string) func(*yaml.Node) {
		return func(v *yaml.Node) {
			if object != nil {
				r.at(v, "Write one step a line.", "A step does one thing; this one has %s and %s.", verb.Name, word)
			}
			verb, _ = block.VerbNamed(word)
			object = v
		}
	}
	for _, word := range block.Verbs() {
		fields = append(fields, field{word, false, take(word)})
	}
	r.mapping(n, "A step", fields...)
	if object == nil {
		r.at(n, "Write one of "+strings.Join(block.Verbs(), ", ")+".", "This step does nothing.")
		return nil
	}
	if hold != nil && verb.Does != block.TurnBoth {
		r.at(hold, "Write tap, or a release of its own.", "Only tap has for.")
	}
	if when.times > 1 && when.every == 0 {
		r.at(repeat, "Add every: 500ms.", "times needs every.")
	}
	if verb.Does == block.TurnBoth && !r.tap(n, hold, &when) {
		return nil
	}
	last := when.at + (when.times-1)*when.every + when.hold
	if last >= scans {
		what := "This step is at scan %d"
		if when.hold > 0 {
			what = "This tap lets go at scan %d"
		}
		r.at(n, "Make the scenario longer, or the step earlier.", what+"; the scenario ends after scan %d.", last, scans-1)
		return nil
	}
	var list []change
	for i := range when.times {
		moment := when
		moment.at += i * when.every
		list = append(list, r.act(verb, object, moment)...)
		if len(list) == 0 {
			return nil // told once
		}
	}
	return list
}

// tap looks how long a tap is held: for at least a scan, and let go before the next.
func (r *reader) tap(n, hold *yaml.Node, when *stepTimes) bool {
	if hold == nil {
		when.hold, hold = max(r.scanAt(TapLength), 1), n
	}
	switch {
	case when.hold < 1:
		r.at(hold, "Write at least 1 scan.", "A tap of no scans is never seen.")
	case when.times > 1 && when.hold >= when.every && when.every > 0:
		r.at(hold, "Make every longer, or for shorter.", "A tap of %s is not let go before the next, %s later.", source.Plural(when.hold, "scan"),
			source.Plural(when.every, "scan"))
	default:
		return true
	}
	return false
}

// moment reads "scan 400" or a time.
func (r *reader) moment(n *yaml.Node) int {
	text := r.text(n, "at")
	if v, ok := MomentOf(text, r.exercise.Period); ok {
		return v
	}
	r.at(n, "Write it like 300ms, 1.5s or scan 400.", "at cannot be %q.", text)
	return 0
}

// act returns the changes of one step at one moment.
func (r *reader) act(verb block.Verb, object *yaml.Node, when stepTimes) []change {
	switch verb.Does {
	case block.Set:
		return r.set(object, when.at)
	case block.Force, block.Write:
		return r.assign(verb.Name, object, when.at)
	case block.Restart:
		r.truth(object, verb.Name)
		return []change{{scan: when.at, act: &signal.Act{Scan: when.at, Verb: verb.Name}}}
	case block.Unforce:
		return []change{{scan: when.at, act: &signal.Act{Scan: when.at, Verb: verb.Name, Name: r.text(object, verb.Name)}}}
	}
	i, ok := r.inputNamed(object)
	if !ok || !r.suits(verb, object, r.exercise.Inputs[i]) {
		return nil
	}
	return worked(verb, i, when)
}

// worked is what a verb makes of an input's device or wire.
func worked(verb block.Verb, input int, when stepTimes) []change {
	on := change{scan: when.at, input: input, state: 1, moves: "at"}
	off := change{scan: when.at + when.hold, input: input, moves: "at"}
	wire := func(broken bool) []change {
		return []change{{scan: when.at, input: input, broken: &broken, moves: "at"}}
	}
	switch verb.Does {
	case block.TurnOn:
		return []change{on}
	case block.TurnOff:
		return []change{off}
	case block.TurnBoth:
		off.moves = "for"
		return []change{on, off}
	case block.Break:
		return wire(true)
	case block.Mend:
		return wire(false)
	}
	panic("exercise: the verb " + verb.Name + " does what no step does")
}

func (r *reader) inputNamed(n *yaml.Node) (int, bool) {
	name := r.text(n, "The step")
	for i, p := range r.exercise.Inputs {
		if strings.EqualFold(p.Name, name) {
			return i, true
		}
	}
	hint := source.Meant(name, r.exercise.inputNames())
	for _, p := range r.exercise.Outputs {
		if strings.EqualFold(p.Name, name) {
			hint = name + " is an output; steps work the inputs."
		}
	}
	r.at(n, hint, "There is no input named %s.", name)
	return 0, false
}

// suits reports a verb that the device cannot do.
func (r *reader) suits(verb block.Verb, n *yaml.Node, p Point) bool {
	switch {
	case verb.Device != "" && p.Device != "" && p.Device != verb.Device:
		r.at(n, verbsHint(p), "%s is a %s; %s is for a %s.", p.Name, p.Device, verb.Name, verb.Device)
		return false
	case p.Kind() != signal.Bool:
		r.at(n, "Write set: {"+p.Name+": 0}.", "%s is not an on/off input.", p.Name)
		return false
	}
	return true
}

// verbsHint tells what can be done with a device: "Write press, release or tap."
func verbsHint(p Point) string {
	var words []string
	for _, v := range block.VerbsFor(p.Device) {
		words = append(words, v.Name)
	}
	last := len(words) - 1
	switch {
	case last < 0:
		return "Write set: {" + p.Name + ": …}."
	case last == 0:
		return "Write " + words[0] + "."
	}
	return "Write " + strings.Join(words[:last], ", ") + " or " + words[last] + "."
}

// assign reads {name: value} of a variable, which is looked for when there is a program.
func (r *reader) assign(verb string, n *yaml.Node, scan int) []change {
	if n.Kind != yaml.MappingNode || len(n.Content) == 0 {
		r.at(n, "Write "+verb+": {settle.ET: T#2s}.", "%s needs variables and their values.", verb)
		return nil
	}
	var list []change
	for i := 0; i+1 < len(n.Content); i += 2 {
		act := signal.Act{Scan: scan, Verb: verb, Name: r.text(n.Content[i], verb), Value: r.text(n.Content[i+1], verb)}
		list = append(list, change{scan: scan, act: &act})
	}
	return list
}

func (r *reader) set(n *yaml.Node, scan int) []change {
	if n.Kind != yaml.MappingNode || len(n.Content) == 0 {
		r.at(n, "Write set: {bed_temp: 260}.", "set needs inputs and their values.")
		return nil
	}
	var list []change
	for i := 0; i+1 < len(n.Content); i += 2 {
		input, ok := r.inputNamed(n.Content[i])
		if !ok {
			continue
		}
		p := r.exercise.Inputs[input]
		list = append(list, change{scan: scan, input: input, state: r.value(n.Content[i+1], p, "set"), moves: "at"})
	}
	return list
}
