// Package desk is what the console asks of the core: check, format, draw, and a bench, each a call with JSON in and JSON out.
//
// In comes the name of a call and its argument; out comes its answer, or an error that a person can read. One [Desk] serves
// one page. It adds nothing to the core, draws nothing and waits for nothing; cmd/celandine-wasm puts it into the browser.
package desk

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"time"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/grade"
	"celandine/core/live"
	"celandine/core/machine"
	"celandine/core/rewrite"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/mistake"
)

// A Desk holds one exercise's panel and the bench.
type Desk struct {
	points   []check.Point
	inputs   map[string]exercise.Point
	panel    []exercise.Point // the inputs in their order
	tasks    []machine.Task
	period   time.Duration
	devices  map[string]explain.Device
	labels   map[string]string // what each point is, by lower-case name
	graded   []exercise.Graded
	bench    *live.Bench
	broken   map[string][]int // the scans at which a wire broke and was mended
	states   map[string]int64
	expected *signal.Trace   // of a scenario being played
	sent     map[string]bool // the rungs whose geometry the page has
	file     *source.File    // the last text that was parsed, and its tree
	tree     *syntax.File
}

// New returns a desk with no panel.
func New() *Desk {
	return &Desk{period: 10 * time.Millisecond, inputs: map[string]exercise.Point{}, broken: map[string][]int{}, states: map[string]int64{}, sent: map[string]bool{}, labels: map[string]string{}}
}

// Call answers one call.
func (d *Desk) Call(name string, argument []byte) ([]byte, error) {
	calls := map[string]func([]byte) (any, error){
		"open": d.open, "check": d.check, "format": d.format, "draw": d.draw, "grade": d.grade,
		"amend": d.amend, "clip": d.clip, "names": d.names, "variables": d.variables, "blocks": d.blocks,
		"start": d.start, "play": d.play, "replace": d.replace, "device": d.device, "do": d.do, "release": d.release,
		"run": d.run, "look": d.look, "trace": d.trace, "next": d.next, "why": d.why, "script": d.script, "back": d.back,
	}
	call := calls[name]
	if call == nil {
		return nil, fmt.Errorf("the core has no call %s", name)
	}
	var answer []byte
	err := mistake.Guard("answering the call "+name, func() error {
		given, err := call(argument)
		if err != nil {
			return err
		}
		answer, err = json.Marshal(given)
		return err
	})
	return answer, err
}

func read[T any](argument []byte) (in T, err error) {
	if err := json.Unmarshal(argument, &in); err != nil {
		return in, fmt.Errorf("reading the call: %w", err)
	}
	return in, nil
}

// parse reads a text. The last is kept, for one call after the other is about the same.
func (d *Desk) parse(text string) (*source.File, *syntax.File) {
	if d.file == nil || d.file.Text != text {
		d.file = source.NewFile("program", text)
		d.tree, _ = syntax.Parse(d.file)
	}
	return d.file, d.tree
}

func (d *Desk) rewritten(text string) *rewrite.Program { return rewrite.Of(d.parse(text)) }

type point struct {
	Name, At, Device, Contact, Label, Type string
	Initial                                int64
}

func (d *Desk) open(argument []byte) (any, error) {
	in, err := read[struct {
		Period          string
		Inputs, Outputs []point
		Graded          []struct{ Signal, Block, Member string }
		Tasks           []machine.Task
	}](argument)
	if err != nil {
		return nil, err
	}
	*d = *New()
	if d.period, err = signal.ParseTime(strings.ReplaceAll(in.Period, " ", "")); err != nil {
		return nil, err
	}
	for _, p := range slices.Concat(in.Inputs, in.Outputs) {
		if check.TypeNamed(p.Type) == nil {
			return nil, fmt.Errorf("the point %s cannot be a %q; write BOOL, INT, DINT or TIME", p.Name, p.Type)
		}
	}
	e := &exercise.Exercise{}
	take := func(list []point) (out []exercise.Point) {
		for _, p := range list {
			d.labels[strings.ToLower(p.Name)] = p.Label
			out = append(out, exercise.Point{Name: p.Name, Address: p.At, Device: p.Device, Closed: p.Contact == "closed", Label: p.Label, Type: p.Type, Initial: p.Initial})
		}
		return out
	}
	e.Inputs, e.Outputs = take(in.Inputs), take(in.Outputs)
	d.points, d.devices, d.tasks = grade.Points(e), grade.Devices(e), in.Tasks
	d.panel = e.Inputs
	for _, p := range e.Inputs {
		d.inputs[strings.ToLower(p.Name)] = p
		d.states[strings.ToLower(p.Name)] = p.Initial
	}
	for _, g := range in.Graded {
		d.graded = append(d.graded, exercise.Graded{Signal: g.Signal, Block: g.Block, Member: g.Member})
	}
	return struct{}{}, nil
}

type program struct{ File, Text string }

type checked struct {
	Diagnostics source.List `json:"diagnostics"`
	Summary     string      `json:"summary"`
	Missing     []string    `json:"missing"`
	Marks       []mark      `json:"marks"`
}

func (d *Desk) check(argument []byte) (any, error) {
	in, err := read[program](argument)
	if err != nil {
		return nil, err
	}
	_, code, problems := d.compile(in)
	out := checked{append(source.List{}, problems...), problems.Summary(), []string{}, d.marks(in.Text, problems)}
	if code == nil {
		return out, nil
	}
	out.Missing = append(out.Missing, grade.LackingOf(d.graded, code)...)
	return out, nil
}

func (d *Desk) compile(in program) (*check.Program, *machine.Code, source.List) {
	program, code, problems := grade.Compile([]*source.File{source.NewFile(in.File, in.Text)}, d.points)
	if code == nil || len(d.tasks) == 0 {
		return program, code, problems
	}
	scheduled, err := code.Schedule(d.tasks)
	if err != nil {
		problems.Add(source.Error, "tasks", program.Units[0].Tree.Name.Span, "Name the programs as the exercise does.", "The exercise runs its programs as tasks: %v.", err)
		return nil, nil, problems
	}
	return program, scheduled, problems
}

func (d *Desk) format(argument []byte) (any, error) {
	in, err := read[program](argument)
	if err != nil {
		return nil, err
	}
	tree, problems := syntax.Parse(source.NewFile(in.File, in.Text))
	if problems.HasErrors() {
		return nil, fmt.Errorf("mend the errors first: %s", problems[0].Message)
	}
	return struct {
		Text string `json:"text"`
	}{syntax.Print(tree)}, nil
}

// grade marks a hand-in against a whole exercise folder, as the service does.
func (d *Desk) grade(argument []byte) (any, error) {
	in, err := read[struct {
		Files map[string][]byte
		program
	}](argument)
	if err != nil {
		return nil, err
	}
	e, problems := exercise.Read(in.Files)
	if e == nil {
		return nil, fmt.Errorf("%v", problems[0])
	}
	g, problems := grade.Prepare(e)
	if g == nil {
		return nil, fmt.Errorf("%v", problems[0])
	}
	r, _ := g.Grade(in.File, []*source.File{source.NewFile(in.File, in.Text)})
	return r, nil
}
