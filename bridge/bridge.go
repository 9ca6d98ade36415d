// Package bridge is what the console asks of the core besides what [editor] answers: a bench, the workshop, strength, marks.
//
// In comes the name of a call and its argument; out comes its answer, or an error that a person can read. One [Page] serves one page of the
// console, and answers what the editor does, too. [Calls] lists the calls with the types of what goes in and comes out; the console's types
// are made from it. The package adds nothing to the core, draws nothing and waits for nothing; cmd/celandine-wasm puts it into the browser.
package bridge

import (
	"encoding/json"
	"errors"
	"fmt"
	"reflect"
	"slices"
	"strings"
	"time"

	"celandine/bridge/editor"
	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/grade"
	"celandine/core/live"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/wiring"
)

// A Page holds one exercise's panel, its editor, and the bench.
type Page struct {
	*editor.Page
	inputs   map[string]exercise.Point
	panel    []exercise.Point // the inputs in their order
	outputs  []exercise.Point
	period   time.Duration
	devices  map[string]explain.Device
	bench    *live.Bench
	broken   map[string][]int // the scans at which a wire broke and was mended
	states   map[string]int64
	expected *signal.Trace // of a scenario being played
	beside   string        // what that is called: expected, or drawn
	trial    *trial        // of an exercise's strength
}

// New returns a page with no panel.
func New() *Page {
	return &Page{Page: editor.New(), period: 10 * time.Millisecond, inputs: map[string]exercise.Point{}, broken: map[string][]int{},
		states: map[string]int64{}}
}

// A Call is something that the console may ask, with the types of its argument and its answer.
type Call = editor.Call[*Page]

// nothing is the argument of a call that has none, and the answer of one that just does something.
type nothing struct{}

// call makes a call of what answers it.
func call[In, Out any](name string, do func(*Page, In) (Out, error)) Call {
	return Call{Name: name, In: reflect.TypeFor[In](), Out: reflect.TypeFor[Out](), Answer: func(p *Page, argument []byte) ([]byte, error) {
		var in In
		if err := json.Unmarshal(argument, &in); err != nil {
			return nil, fmt.Errorf("reading the call: %w", err)
		}
		out, err := do(p, in)
		if err != nil {
			return nil, err
		}
		return json.Marshal(out)
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

// inEditor are the calls that the editor answers; here, too, an exercise is opened.
var inEditor = func() (list []Call) {
	for _, c := range editor.Calls() {
		if c.Name == "open" {
			list = append(list, call(c.Name, (*Page).open))
			continue
		}
		list = append(list, Call{Name: c.Name, In: c.In, Out: c.Out, Answer: func(p *Page, argument []byte) ([]byte, error) {
			return c.Answer(p.Page, argument)
		}})
	}
	return list
}()

var calls = slices.Concat(inEditor, onWorkbench, inWorkshop, onStrength)

var onWorkbench = []Call{
	call("grade", (*Page).grade), call("start", (*Page).start), call("play", (*Page).play), call("replace", (*Page).replace),
	onBench("device", (*Page).device), onBench("do", (*Page).do), onBench("release", (*Page).release), onBench("run", (*Page).run),
	onBench("look", (*Page).look), onBench("back", (*Page).back), onBench("trace", (*Page).trace), onBench("next", (*Page).next),
	onBench("why", (*Page).why), onBench("script", (*Page).script), onBench("walk", (*Page).walk), onBench("words", (*Page).words),
	call("wiring", (*Page).wiring), call("convert", (*Page).convert),
}

// Calls lists what the console may ask.
func Calls() []Call { return slices.Clone(calls) }

// Call answers one call.
func (p *Page) Call(name string, argument []byte) ([]byte, error) {
	return editor.Answer(calls, p, name, argument)
}

func (p *Page) open(in editor.Opening) (out editor.Opened, err error) {
	*p = *New()
	if p.period, err = signal.ParseTime(strings.ReplaceAll(in.Period, " ", "")); err != nil {
		return out, err
	}
	if out, err = p.Open(in); err != nil {
		return out, err
	}
	e := &exercise.Exercise{Inputs: wired(in.Inputs), Outputs: wired(in.Outputs)}
	p.Points, p.devices, p.panel, p.outputs = grade.Points(e), grade.Devices(e), e.Inputs, e.Outputs
	for _, one := range e.Inputs {
		p.inputs[strings.ToLower(one.Name)] = one
		p.states[strings.ToLower(one.Name)] = one.Initial
	}
	return out, nil
}

func wired(list []editor.Point) (points []exercise.Point) {
	for _, one := range list {
		points = append(points, exercise.Point{Name: one.Name, Address: one.At, Device: one.Device, Closed: one.Contact == "closed",
			Label: one.Label, Type: one.Type, Unit: one.Unit, Initial: one.Initial})
	}
	return points
}

// handin is a program with the whole folder of its exercise.
type handin struct {
	Files map[string][]byte `json:"files"`
	editor.Program
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

// wiring draws how the panel is wired.
func (p *Page) wiring(nothing) (picture, error) {
	return picture{wiring.Picture(p.panel, p.outputs)}, nil
}

// picture is a drawing as SVG.
type picture struct {
	SVG string `json:"svg"`
}
