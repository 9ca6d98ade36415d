// Package editor is what the console asks of the core with every key: what is wrong with a text, how it is drawn, what could stand at the
// cursor, and the text after a change of its drawing. Each is a call with JSON in and JSON out.
//
// In comes the name of a call and its argument; out comes its answer, or an error that a person can read. One [Page] serves one page of the
// console. It knows an exercise by its panel alone and runs nothing, so that it is small: what is a room's that reads exercises, runs
// programs or marks them, package bridge asks. cmd/celandine-editor puts it into the browser, where it answers the first key.
package editor

import (
	"reflect"
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/say"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/mistake"
)

// A Page holds one exercise's panel, and the text that was last read.
type Page struct {
	Points []check.Point // of the panel; what they are at rest makes no difference here
	asked  machine.Asked // by the exercise
	wires  []Point
	labels map[string]string // what each point is, by lower-case name
	graded []machine.Wanted
	sent   map[string]bool // the rungs whose geometry the page has
}

// New returns a page with no panel.
func New() *Page {
	return &Page{sent: map[string]bool{}, labels: map[string]string{}}
}

// A Call is something that the console may ask of a page, with the types of its argument and its answer.
type Call[P any] struct {
	Name    string
	In, Out reflect.Type
	Answer  func(page P, argument []byte) ([]byte, error)
}

// Answer answers one of some calls.
func Answer[P any](calls []Call[P], page P, name string, argument []byte) (answer []byte, err error) {
	at := slices.IndexFunc(calls, func(c Call[P]) bool { return c.Name == name })
	if at < 0 {
		return nil, say.Errorf("the core has no call %s", name)
	}
	err = mistake.Guard("answering the call "+name, func() (err error) {
		answer, err = calls[at].Answer(page, argument)
		return err
	})
	return answer, err
}

// keyed is a call that reads its argument and writes its answer without looking at types, since a key waits for it.
type keyed struct {
	name    string
	in, out reflect.Type
	argued  func() any // a pointer to an argument that is zero
	read    func(r *reader, argument any)
	do      func(page *Page, argument any) (answer any, err error)
	write   func(text []byte, answer any) []byte
}

// call has as little as possible that is there once for each type.
func call[In, Out any](name string, do func(*Page, In) (Out, error), read func(*reader, *In), write func([]byte, *Out) []byte) keyed {
	return keyed{name, reflect.TypeFor[In](), reflect.TypeFor[Out](), func() any { return new(In) },
		func(r *reader, argument any) { read(r, argument.(*In)) },
		func(p *Page, argument any) (any, error) {
			out, err := do(p, *argument.(*In))
			return &out, err
		},
		func(text []byte, answer any) []byte { return write(text, answer.(*Out)) }}
}

// argument reads one from its text.
func (k keyed) argument(text []byte) (any, error) {
	in := k.argued()
	err := (&reader{text: text}).whole(func(r *reader) { k.read(r, in) })
	return in, err
}

func (k keyed) answer(p *Page, argument []byte) ([]byte, error) {
	in, err := k.argument(argument)
	if err != nil {
		return nil, say.Errorf("reading the call: %v", err)
	}
	out, err := k.do(p, in)
	if err != nil {
		return nil, err
	}
	return k.write(nil, out), nil
}

var calls = []keyed{
	call("open", (*Page).Open, readOpening, writeOpened),
	call("check", (*Page).check, readProgram, writeChecked),
	call("format", (*Page).format, readProgram, writeWritten),
	call("draw", (*Page).draw, readSketch, writeDrawn),
	call("amend", (*Page).amend, readAmending, writeAmended),
	call("clip", (*Page).clip, readCut, writeWritten),
	call("names", (*Page).names, readPosition, writeListNamePlace),
	call("variables", (*Page).variables, readProgram, writeListListed),
	call("blocks", (*Page).blocks, readProgram, writeListBox),
	call("complete", (*Page).complete, readPosition, writeCompletion),
	call("describe", (*Page).describe, readPosition, writeDescription),
	call("implied", (*Page).implied, readNaming, writeListString),
}

// Calls lists what the console may ask.
func Calls() (list []Call[*Page]) {
	for _, c := range calls {
		list = append(list, Call[*Page]{c.name, c.in, c.out, c.answer})
	}
	return list
}

// Call answers one call.
func (p *Page) Call(name string, argument []byte) ([]byte, error) {
	return Answer(Calls(), p, name, argument)
}

// parse reads a text.
func parse(text string) (*source.File, *syntax.File) {
	f := source.NewFile("", text)
	tree, _ := syntax.Parse(f)
	return f, tree
}

// Point and gradedName are an exercise's as the service's own description of itself has them.
type Point struct {
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

// Opening is the exercise that a page is about.
type Opening struct {
	Period  string         `json:"period"`
	Inputs  []Point        `json:"inputs"`
	Outputs []Point        `json:"outputs"`
	Graded  []gradedName   `json:"graded"`
	Tasks   []machine.Task `json:"tasks"`
	// Languages are those in which the exercise is done; none: any.
	Languages []string `json:"languages"`
}

// device is how a kind of device is shown on the bench, and what is said of it.
type device struct {
	Picture block.Picture `json:"picture"`
	On      string        `json:"on"`
	Off     string        `json:"off"`
}

// Opened describes the kinds of device on the panel.
type Opened struct {
	Devices map[string]device `json:"devices"`
}

// Open begins with an exercise.
func (p *Page) Open(in Opening) (out Opened, err error) {
	*p = *New()
	out.Devices = map[string]device{}
	for n, one := range slices.Concat(in.Inputs, in.Outputs) {
		typed := check.TypeNamed(one.Type)
		if typed == nil {
			return out, say.Errorf("the point %s cannot be a %q; write BOOL, INT, DINT or TIME", one.Name, one.Type)
		}
		kind, known := block.DeviceNamed(one.Device)
		if !known {
			return out, say.Errorf("the point %s has the device %q, which there is not", one.Name, one.Device)
		}
		out.Devices[kind.Name] = device{kind.Picture, kind.On.Rests, kind.Off.Rests}
		p.labels[strings.ToLower(one.Name)] = one.Label
		p.wires = append(p.wires, one)
		p.Points = append(p.Points, check.Point{Name: one.Name, Type: typed, Address: one.At, Input: n < len(in.Inputs), Label: one.Label})
	}
	p.asked = machine.Asked{Languages: in.Languages, Tasks: in.Tasks}
	for _, g := range in.Graded {
		p.graded = append(p.graded, machine.Wanted{Name: g.Signal, Block: g.Block, Member: g.Member})
	}
	return out, nil
}

// A Program is a text and its file's name, whose ending tells the language.
type Program struct {
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

func (p *Page) check(in Program) (checked, error) {
	_, code, problems := p.asked.Compile(check.Files([]*source.File{source.NewFile(in.File, in.Text)}, p.Points))
	out := checked{append(source.List{}, problems...), problems.Summary(), []string{}, p.marks(in.Text, problems),
		p.fixes(in.Text, problems)}
	if code == nil {
		return out, nil
	}
	out.Missing = append(out.Missing, code.Lacking(p.graded)...)
	return out, nil
}

// Compile checks and compiles a program for the exercise, in whatever language; without its code there are errors.
func (p *Page) Compile(in Program) (*check.Program, *machine.Code, source.List) {
	return machine.Asked{Tasks: p.asked.Tasks}.Compile(check.Files([]*source.File{source.NewFile(in.File, in.Text)}, p.Points))
}

// Written is a text that the core has made.
type Written struct {
	Text string `json:"text"`
}

func (p *Page) format(in Program) (Written, error) {
	tree, problems := syntax.Parse(source.NewFile(in.File, in.Text))
	if problems.HasErrors() {
		return Written{}, say.Errorf("mend the errors first: %s", problems[0].Message)
	}
	return Written{syntax.Print(tree)}, nil
}
