// Package bridge is what the console asks of the core: check, format, draw, and a bench, each a call with JSON in and JSON out.
//
// In comes the name of a call and its argument; out comes its answer, or an error that a person can read. One [Page] serves
// one page of the console. [Calls] lists the calls with the types of what goes in and comes out; the console's types are made from
// it. The package adds nothing to the core, draws nothing and waits for nothing; cmd/celandine-wasm puts it into the browser.
package bridge

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"celandine/core/block"
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

// A Page holds one exercise's panel, the bench, and the text that was last read.
type Page struct {
	points   []check.Point
	inputs   map[string]exercise.Point
	panel    []exercise.Point // the inputs in their order
	tasks    []machine.Task
	period   time.Duration
	devices  map[string]explain.Device
	wires    []exercise.Point  // inputs and outputs
	labels   map[string]string // what each point is, by lower-case name
	graded   []exercise.Graded
	bench    *live.Bench
	broken   map[string][]int // the scans at which a wire broke and was mended
	states   map[string]int64
	expected *signal.Trace   // of a scenario being played
	beside   string          // what that is called: expected, or drawn
	sent     map[string]bool // the rungs whose geometry the page has
	file     *source.File    // the last text that was parsed, and its tree
	tree     *syntax.File
	told     source.List // of the text while it was parsed
	trial    *trial      // of an exercise's strength
}

// New returns a page with no panel.
func New() *Page {
	return &Page{period: 10 * time.Millisecond, inputs: map[string]exercise.Point{}, broken: map[string][]int{}, states: map[string]int64{},
		sent: map[string]bool{}, labels: map[string]string{}}
}

// A Call is something that the console may ask, with the types of its argument and its answer.
type Call struct {
	Name    string
	In, Out reflect.Type
	answer  func(p *Page, argument []byte) (any, error)
}

// nothing is the argument of a call that has none, and the answer of one that just does something.
type nothing struct{}

func call[In, Out any](name string, do func(*Page, In) (Out, error)) Call {
	return Call{name, reflect.TypeFor[In](), reflect.TypeFor[Out](), func(p *Page, argument []byte) (any, error) {
		var in In
		if err := json.Unmarshal(argument, &in); err != nil {
			return nil, fmt.Errorf("reading the call: %w", err)
		}
		return do(p, in)
	}}
}

var errNoBench = errors.New("there is no program on the bench yet")

// onBench is a call that needs a program on the bench.
func onBench[In, Out any](name string, do func(*Page, In) (Out, error)) Call {
	return call(name, func(p *Page, in In) (out Out, err error) {
		if p.bench == nil {
			return out, errNoBench
		}
		return do(p, in)
	})
}

var calls = slices.Concat(onWorkbench, inWorkshop, onStrength)

var onWorkbench = []Call{
	call("open", (*Page).open), call("check", (*Page).check), call("format", (*Page).format), call("grade", (*Page).grade),
	call("draw", (*Page).draw), call("amend", (*Page).amend), call("clip", (*Page).clip),
	call("names", (*Page).names), call("variables", (*Page).variables), call("blocks", (*Page).blocks),
	call("complete", (*Page).complete), call("describe", (*Page).describe), call("implied", (*Page).implied),
	call("start", (*Page).start), call("play", (*Page).play), call("replace", (*Page).replace),
	onBench("device", (*Page).device), onBench("do", (*Page).do), onBench("release", (*Page).release), onBench("run", (*Page).run),
	onBench("look", (*Page).look), onBench("back", (*Page).back), onBench("trace", (*Page).trace), onBench("next", (*Page).next),
	onBench("why", (*Page).why), onBench("script", (*Page).script), onBench("walk", (*Page).walk), onBench("words", (*Page).words),
	call("wiring", (*Page).wiring), call("convert", (*Page).convert),
}

// Calls lists what the console may ask.
func Calls() []Call { return slices.Clone(calls) }

// Call answers one call.
func (p *Page) Call(name string, argument []byte) ([]byte, error) {
	at := slices.IndexFunc(calls, func(c Call) bool { return c.Name == name })
	if at < 0 {
		return nil, fmt.Errorf("the core has no call %s", name)
	}
	var answer []byte
	err := mistake.Guard("answering the call "+name, func() error {
		given, err := calls[at].answer(p, argument)
		if err != nil {
			return err
		}
		answer, err = json.Marshal(given)
		return err
	})
	return answer, err
}

// parse reads a text. The last is kept, for one call after the other is about the same.
func (p *Page) parse(text string) (*source.File, *syntax.File) {
	if p.file == nil || p.file.Text != text {
		p.file = source.NewFile("program", text)
		p.tree, p.told = syntax.Parse(p.file)
	}
	return p.file, p.tree
}

func (p *Page) rewritten(text string) *rewrite.Program { return rewrite.Of(p.parse(text)) }

// point, gradedName and task are an exercise's as the service's own description of itself has them.
type point struct {
	Name    string `json:"name"`
	At      string `json:"at"`
	Device  string `json:"device"`
	Contact string `json:"contact"`
	Label   string `json:"label"`
	Type    string `json:"type"`
	Unit    string `json:"unit,omitempty"`
	Initial int64  `json:"initial,omitempty"`
}

type gradedName struct {
	Signal string `json:"signal"`
	Block  string `json:"block,omitempty"`
	Member string `json:"member,omitempty"`
}

// opening is the exercise that a page is about.
type opening struct {
	Period  string         `json:"period"`
	Inputs  []point        `json:"inputs"`
	Outputs []point        `json:"outputs"`
	Graded  []gradedName   `json:"graded"`
	Tasks   []machine.Task `json:"tasks"`
}

// device is how a kind of device is shown on the bench, and what is said of it.
type device struct {
	Picture block.Picture `json:"picture"`
	On      string        `json:"on"`
	Off     string        `json:"off"`
}

// opened describes the kinds of device on the panel.
type opened struct {
	Devices map[string]device `json:"devices"`
}

func (p *Page) open(in opening) (out opened, err error) {
	*p = *New()
	if p.period, err = signal.ParseTime(strings.ReplaceAll(in.Period, " ", "")); err != nil {
		return out, err
	}
	out.Devices = map[string]device{}
	for _, one := range slices.Concat(in.Inputs, in.Outputs) {
		if check.TypeNamed(one.Type) == nil {
			return out, fmt.Errorf("the point %s cannot be a %q; write BOOL, INT, DINT or TIME", one.Name, one.Type)
		}
		kind, known := block.DeviceNamed(one.Device)
		if !known {
			return out, fmt.Errorf("the point %s has the device %q, which there is not", one.Name, one.Device)
		}
		out.Devices[kind.Name] = device{kind.Picture, kind.On.Rests, kind.Off.Rests}
	}
	e := &exercise.Exercise{Inputs: p.wired(in.Inputs), Outputs: p.wired(in.Outputs)}
	p.points, p.devices, p.tasks = grade.Points(e), grade.Devices(e), in.Tasks
	p.panel, p.wires = e.Inputs, slices.Concat(e.Inputs, e.Outputs)
	for _, one := range e.Inputs {
		p.inputs[strings.ToLower(one.Name)] = one
		p.states[strings.ToLower(one.Name)] = one.Initial
	}
	for _, g := range in.Graded {
		p.graded = append(p.graded, exercise.Graded{Signal: g.Signal, Block: g.Block, Member: g.Member})
	}
	return out, nil
}

func (p *Page) wired(list []point) (points []exercise.Point) {
	for _, one := range list {
		p.labels[strings.ToLower(one.Name)] = one.Label
		points = append(points, exercise.Point{Name: one.Name, Address: one.At, Device: one.Device, Closed: one.Contact == "closed",
			Label: one.Label, Type: one.Type, Unit: one.Unit, Initial: one.Initial})
	}
	return points
}

// program is a text and its file's name, whose ending tells the language.
type program struct {
	File string `json:"file"`
	Text string `json:"text"`
}

// checked is what is wrong with a text, and where in its rungs.
type checked struct {
	Diagnostics source.List `json:"diagnostics"`
	Summary     string      `json:"summary"`
	Missing     []string    `json:"missing"`
	Marks       []mark      `json:"marks"`
	Fixes       [][]fix     `json:"fixes"` // of each diagnostic
}

func (p *Page) check(in program) (checked, error) {
	_, code, problems := p.compile(in)
	out := checked{append(source.List{}, problems...), problems.Summary(), []string{}, p.marks(in.Text, problems), p.fixes(in.Text, problems)}
	if code == nil {
		return out, nil
	}
	out.Missing = append(out.Missing, grade.LackingOf(p.graded, code)...)
	return out, nil
}

func (p *Page) compile(in program) (*check.Program, *machine.Code, source.List) {
	file, tree := p.parse(in.Text)
	file.Name = in.File // by which messages call it
	program, code, problems := grade.CompileTrees([]*syntax.File{tree}, slices.Clone(p.told), p.points)
	if code == nil || len(p.tasks) == 0 {
		return program, code, problems
	}
	scheduled, err := code.Schedule(p.tasks)
	if err != nil {
		problems.Add(source.WrongTasks, program.Units[0].Tree.Name.Span, "Name the programs as the exercise does.",
			"The exercise runs its programs as tasks: %v.", err)
		return nil, nil, problems
	}
	return program, scheduled, problems
}

// written is a text that the core has made.
type written struct {
	Text string `json:"text"`
}

func (p *Page) format(in program) (written, error) {
	tree, problems := syntax.Parse(source.NewFile(in.File, in.Text))
	if problems.HasErrors() {
		return written{}, fmt.Errorf("mend the errors first: %s", problems[0].Message)
	}
	return written{syntax.Print(tree)}, nil
}

// handin is a program with the whole folder of its exercise.
type handin struct {
	Files map[string][]byte `json:"files"`
	program
}

// grade marks a hand-in as the service does.
func (p *Page) grade(in handin) (*grade.Result, error) {
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
