package drawing

import (
	"slices"
	"strconv"
	"strings"

	"celandine/core/block"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Network is the geometry of one network of a block diagram: characters across, lines down.
type Network struct {
	Title  string `json:"title"`
	Width  int    `json:"width"`
	Height int    `json:"height"`
	Boxes  []Box  `json:"boxes"`
	Words  []Word `json:"words"`
	Names  []Word `json:"names"` // of wires, on their lines
	Lines  []Line `json:"lines"`
}

// A Box is a function or an instance, with its frame. Its first pin stands one line below its top.
type Box struct {
	X        int    `json:"x"`
	Y        int    `json:"y"`
	Width    int    `json:"width"`
	Height   int    `json:"height"`
	Heading  string `json:"heading"`
	Instance string `json:"instance"` // that is called; "" of a function
	Kind     string `json:"kind"`     // the instance's type
	Measure  string `json:"measure"`  // of a timer or counter: what its face shows, and
	Preset   string `json:"preset"`   // what it runs towards
	Start    int    `json:"start"`    // where it stands in the text
	End      int    `json:"end"`
	Path     []int  `json:"path"` // where it stands for an editor: the node, and the arguments within
	Inputs   []Pin  `json:"inputs"`
	Outputs  []Pin  `json:"outputs"`
}

// A Pin of a box. A circle stands before it where it is inverted.
type Pin struct {
	Name     string `json:"name"`
	Inverted bool   `json:"inverted"`
	Open     bool   `json:"open"` // nothing is connected
	Path     []int  `json:"path"` // of an input
}

// A Word is a constant or variable beside an input, a target, or the name of a wire.
type Word struct {
	X        int    `json:"x"`
	Y        int    `json:"y"`
	Text     string `json:"text"`
	Inverted bool   `json:"inverted"` // a target with a circle before it
	Target   bool   `json:"target"`
	Start    int    `json:"start"` // where it stands in the text; both 0 of a wire's name
	End      int    `json:"end"`
	Path     []int  `json:"path"`
}

// A Line is one value on its way: level and upright pieces, which all belong together.
type Line struct {
	From   Value   `json:"from"`
	Pieces []Piece `json:"pieces"`
	Forks  []Fork  `json:"forks"`
}

// A Value is what a line carries: a variable or a constant by its name, or what the function gives that stands in the text.
type Value struct {
	Name  string `json:"name"`
	Start int    `json:"start"`
	End   int    `json:"end"`
}

// A Piece goes from left to right, or from top to bottom.
type Piece struct {
	X1 int `json:"x1"`
	Y1 int `json:"y1"`
	X2 int `json:"x2"`
	Y2 int `json:"y2"`
}

// A Fork is where a line goes more than two ways.
type Fork struct {
	X    int `json:"x"`
	Y    int `json:"y"`
	Ways int `json:"ways"`
}

// forks lists a line's forks; they are all on its upright pieces.
func forks(line []Piece) []Fork {
	list := []Fork{}
	level := map[[2]int]int{} // ends of level pieces
	for _, p := range line {
		if p.X1 != p.X2 {
			level[[2]int{p.X1, p.Y1}]++
			level[[2]int{p.X2, p.Y2}]++
		}
	}
	for _, p := range line {
		for y := p.Y1; p.X1 == p.X2 && y <= p.Y2; y++ {
			ways := level[[2]int{p.X1, y}] + 1
			if y > p.Y1 && y < p.Y2 {
				ways++
			}
			if ways > 2 {
				list = append(list, Fork{p.X1, y, ways})
			}
		}
	}
	return list
}

// Networks lays out the networks of a body: values go from left to right, targets stand at the right.
func Networks(body *syntax.Diagram, names Names) []Network {
	list := []Network{}
	for _, n := range body.Networks {
		g := &graph{names: names, wires: map[string]port{}, instances: map[string]*vertex{}}
		for number, node := range n.Nodes {
			g.node(node, number)
		}
		list = append(list, g.layout(n.Title))
	}
	return list
}

// From is the network with its places in the text so much further on.
func (n Network) From(by int) Network {
	for i := range n.Boxes {
		n.Boxes[i].Start, n.Boxes[i].End = n.Boxes[i].Start+by, n.Boxes[i].End+by
	}
	for i := range n.Words {
		n.Words[i].Start, n.Words[i].End = n.Words[i].Start+by, n.Words[i].End+by
	}
	for i := range n.Lines {
		n.Lines[i].From.Start, n.Lines[i].From.End = n.Lines[i].From.Start+by, n.Lines[i].From.End+by
	}
	return n
}

// NumberedNetworks has before each heading the number of the box in the order in which they are worked out.
func NumberedNetworks(body *syntax.Diagram, names Names) []Network {
	names.order = true
	return Networks(body, names)
}

// A graph is a network as what goes where.
type graph struct {
	names     Names
	vertices  []*vertex
	wires     map[string]port    // by lower-case name
	instances map[string]*vertex // called before, by lower-case name
	boxes     int
}

// A vertex is a box, a word that stands alone, or a place through which a line goes past the boxes of a layer.
type vertex struct {
	heading  string // of a box
	instance string // that the box calls, and its type
	kind     string
	word     string // of what is no box
	circle   bool   // before a target
	target   bool
	at       source.Span
	path     []int
	ins      []input
	outs     []output
	layer    int
	y        int
}

// An input has a word beside it, or gets its value from a port.
type input struct {
	Pin
	word string
	at   source.Span
	from port
}

type output struct {
	name   string
	value  Value
	labels []string // of the wires that begin here
}

// A port is an output of a vertex; the zero port is none.
type port struct {
	of *vertex
	n  int
}

func (g *graph) add(v *vertex) *vertex {
	for _, in := range v.ins {
		if in.from.of != nil {
			v.layer = max(v.layer, in.from.of.layer+1)
		}
	}
	if v.heading != "" {
		g.boxes++
		if g.names.order {
			v.heading = strconv.Itoa(g.boxes) + ": " + v.heading
		}
	}
	g.vertices = append(g.vertices, v)
	return v
}

func (g *graph) node(n *syntax.Node, number int) {
	path := []int{number}
	in := g.input("", n.Value, path)
	if n.Wire == nil && len(n.Targets) == 0 {
		return
	}
	from := in.from
	if from.of == nil || in.Inverted { // what is no box
		at := n.Value.Place()
		v := &vertex{word: in.word, at: at, path: path, outs: []output{{value: Value{in.word, at.Start, at.End}}}}
		if from.of != nil || in.Inverted { // a value that is inverted and nothing else
			v.heading, v.word, v.outs[0].value.Name = "NOT", "", ""
			in.Inverted, in.Name = false, ""
			v.ins = []input{in}
		}
		from = port{g.add(v), 0}
	}
	if n.Wire != nil {
		out := &from.of.outs[from.n]
		out.labels = append(out.labels, n.Wire.Text)
		g.wires[strings.ToLower(n.Wire.Text)] = from
	}
	for i, t := range n.Targets {
		g.target(t, from, []int{number, syntax.Targets + i})
	}
}

func (g *graph) target(t *syntax.Coil, from port, path []int) {
	v := &vertex{target: true, path: path, word: words(t.Operand), at: t.Span, circle: t.Kind == syntax.NegatedCoil}
	v.ins = []input{{from: from}}
	if t.Kind == syntax.SetCoil || t.Kind == syntax.ResetCoil {
		v.word = "(" + string(t.Kind) + " " + v.word + ")"
	}
	g.add(v)
}

// input is what is connected to a pin.
func (g *graph) input(name string, e syntax.Expr, path []int) input {
	in := input{Pin: Pin{Name: name, Open: e == nil, Path: path}}
	if e == nil {
		return in
	}
	switch e := e.(type) {
	case *syntax.Inverted:
		in = g.input(name, e.X, path)
		in.Inverted = !in.Inverted
		return in
	case *syntax.Contact:
		given := output{value: Value{"", e.Span.Start, e.Span.End}}
		edge := &vertex{heading: string(e.Kind), at: e.Span, path: path, ins: []input{g.input("", e.Operand, path)}, outs: []output{given}}
		if e.Memory != nil {
			edge.heading += " @ " + words(e.Memory)
		}
		in.from = port{g.add(edge), 0}
	case *syntax.Call:
		in.from = g.call(e, path)
	case *syntax.Identifier:
		in.from = g.wires[strings.ToLower(e.Text)]
	case *syntax.Member:
		in.from = g.member(e)
	}
	if in.from.of == nil {
		in.word, in.at = words(e), e.Place()
	}
	return in
}

// call adds a box, and returns the port of its result.
func (g *graph) call(e *syntax.Call, path []int) port {
	name := words(e.Callee)
	v := &vertex{heading: name, at: e.Span, path: path}
	kind := g.names.Types[strings.ToLower(name)]
	if kind == "" {
		at := worked(e).Place()
		v.outs = []output{{value: Value{"", at.Start, at.End}}} // the result of a function
	} else {
		v.heading += " " + kind
		v.instance, v.kind = name, kind
	}
	if b, _ := block.Named(kind); b != nil {
		for _, p := range b.Out {
			v.out(p.Name)
		}
	}
	for i, a := range e.Arguments {
		pin := ""
		if a.Name != nil {
			pin = a.Name.Text
		}
		if a.Output {
			v.out(pin)
		} else {
			v.ins = append(v.ins, g.input(pin, a.Value, append(slices.Clone(path), i)))
		}
	}
	g.add(v)
	for i, a := range e.Arguments {
		if a.Output && a.Name != nil && a.Value != nil {
			to := &syntax.Coil{Operand: a.Value, Span: a.Value.Place()}
			g.target(to, port{v, v.out(a.Name.Text)}, append(slices.Clone(path), i))
		}
	}
	if kind != "" {
		g.instances[strings.ToLower(name)] = v
	}
	return port{v, 0}
}

// worked is what is worked out for a call: MOVE passes on what it gets.
func worked(e *syntax.Call) syntax.Expr {
	if strings.EqualFold(words(e.Callee), "MOVE") && len(e.Arguments) == 1 && e.Arguments[0].Value != nil {
		return e.Arguments[0].Value
	}
	return e
}

// out returns the number of an output by its name; it is there from now on.
func (v *vertex) out(name string) int {
	n := slices.IndexFunc(v.outs, func(o output) bool { return strings.EqualFold(o.name, name) })
	if n < 0 {
		v.outs = append(v.outs, output{name: name, value: Value{Name: v.instance + "." + name}})
		n = len(v.outs) - 1
	}
	return n
}

// member is the output of an instance that was called before in the network.
func (g *graph) member(e *syntax.Member) port {
	id, ok := e.Of.(*syntax.Identifier)
	if !ok {
		return port{}
	}
	v := g.instances[strings.ToLower(id.Text)]
	if v == nil {
		return port{}
	}
	name := e.Field.Text
	if slices.ContainsFunc(v.ins, func(in input) bool { return strings.EqualFold(in.Name, name) }) {
		return port{} // an input that is read
	}
	return port{v, v.out(name)}
}
