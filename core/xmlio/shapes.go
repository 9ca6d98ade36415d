package xmlio

import (
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/drawing"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A shape is an object that is written. Its outlets have numbers of their own, by which lines name them.
type shape struct {
	kind     kind
	id       int
	x, y     int
	operand  string
	negated  bool
	edge     syntax.ContactKind
	storage  syntax.CoilKind
	heading  string
	instance string
	ins      []socket
	outs     []socket
	memory   string
	wire     string
	bare     bool
}

// A socket is a pin, or the one place of an object that is no box. Outlet is its number where lines begin, from are those whose lines end.
type socket struct {
	name    string
	inOut   bool
	negated bool
	edge    syntax.ContactKind
	memory  string
	from    []int
	outlet  int
}

// A piece is a rung or network that is written.
type piece struct {
	title    string
	comments []string
	shapes   []*shape
	height   int
}

// A drawer makes the shapes of one unit.
type drawer struct {
	file    *syntax.File
	names   drawing.Names
	units   map[string]*unit
	comment func(from, to int) []string
	piece   *piece
	shapes  int
	outlets int
	places  map[int][2]int // of what stands in the text
	wires   map[string]int // outlets by the names of wires, in small letters
	called  map[string]*shape
	// declared are the types of variables, and of fields as type.field, in small letters.
	declared map[string]syntax.TypeExpr
}

func (d *drawer) begin(title string, comments []string) *piece {
	d.piece = &piece{title: title, comments: comments}
	d.wires, d.called = map[string]int{}, map[string]*shape{}
	return d.piece
}

func (d *drawer) shape(k kind, at source.Span) *shape {
	d.shapes++
	s := &shape{kind: k, id: d.shapes}
	if p, ok := d.places[at.Start]; ok {
		s.x, s.y = p[0], p[1]
	}
	d.piece.shapes = append(d.piece.shapes, s)
	return s
}

func (d *drawer) outlet() int {
	d.outlets++
	return d.outlets
}

// between makes a shape on a line, with the line in and the one out.
func (d *drawer) between(k kind, at source.Span, from []int) *shape {
	s := d.shape(k, at)
	s.ins = []socket{{from: from}}
	s.outs = []socket{{outlet: d.outlet()}}
	return s
}

// Steps of the grid on which a ladder is drawn, in the units of the format.
const (
	columnStep = 120
	rowStep    = 40
	letterStep = 8
	lineStep   = 16
)

// ladder makes a piece of each rung.
func (d *drawer) ladder(body *syntax.Ladder) (list []*piece) {
	drawn := drawing.Ladder(body, d.names)
	from := body.Span.Start
	for i, rung := range body.Rungs {
		d.places = map[int][2]int{}
		for _, item := range drawn[i].Items {
			d.places[item.Span.Start] = [2]int{columnStep * (item.Column + 1), rowStep * item.Row}
		}
		p := d.begin(rung.Title, d.comment(from, rung.Span.End))
		from = rung.Span.End
		left := d.shape(leftRail, source.Span{})
		left.outs = []socket{{outlet: d.outlet()}}
		ends := d.series(rung.Net, []int{left.outs[0].outlet})
		right := d.shape(rightRail, source.Span{})
		right.x, right.ins = columnStep*(drawn[i].Columns+1), []socket{{from: ends}}
		p.height = rowStep * (drawn[i].Rows + 1)
		list = append(list, p)
	}
	return d.ended(list, from, body.Span.End)
}

// ended adds what is said below the last piece.
func (d *drawer) ended(list []*piece, from, to int) []*piece {
	if rest := d.comment(from, to); len(rest) > 0 {
		if len(list) == 0 {
			list = append(list, &piece{})
		}
		last := list[len(list)-1]
		last.comments = append(last.comments, rest...)
	}
	return list
}

// series makes the shapes of elements that the power of some outlets reaches, and gives the outlets where they end.
func (d *drawer) series(s *syntax.Series, live []int) []int {
	for _, e := range s.Elements {
		live = d.element(e, live)
	}
	return live
}

func (d *drawer) element(e syntax.Element, live []int) []int {
	switch e := e.(type) {
	case *syntax.Series:
		return d.series(e, live)
	case *syntax.Parallel:
		var ends []int
		for _, branch := range e.Branches {
			for _, out := range d.series(branch, live) {
				if !slices.Contains(ends, out) {
					ends = append(ends, out)
				}
			}
		}
		return ends
	case *syntax.Contact:
		s := d.between(contactKind, e.Span, live)
		s.operand, s.negated, s.memory = words(e.Operand), e.Kind == syntax.ClosedContact, words(e.Memory)
		if !s.negated {
			s.edge = e.Kind
		}
		return []int{s.outs[0].outlet}
	case *syntax.Coil:
		s := d.between(coilKind, e.Span, live)
		s.mark(e)
		return []int{s.outs[0].outlet}
	case *syntax.Box:
		return d.box(e, live)
	}
	return live
}

// mark gives a shape what a coil writes, and how.
func (s *shape) mark(c *syntax.Coil) {
	s.operand, s.negated = words(c.Operand), s.negated != (c.Kind == syntax.NegatedCoil)
	switch c.Kind {
	case syntax.SetCoil, syntax.ResetCoil:
		s.storage = c.Kind
	case syntax.RisingCoil, syntax.FallingCoil:
		s.edge = syntax.ContactKind(c.Kind)
	}
}

func words(e syntax.Expr) string {
	if e == nil {
		return ""
	}
	return syntax.PrintExpression(e)
}

// box makes a block in a rung: power drives EN, or the first BOOL of an instance.
func (d *drawer) box(e *syntax.Box, live []int) []int {
	s, kind := d.block(e.Call)
	in, out := "EN", "ENO"
	if s.instance != "" && kind != nil && !e.EN && power(kind.inputs) != "" && power(kind.outputs) != "" {
		in, out = power(kind.inputs), power(kind.outputs)
	}
	s.ins = append(s.ins, socket{name: in, from: live})
	for i, a := range e.Call.Arguments {
		if a.Output {
			continue
		}
		one := socket{name: d.inputName(e.Call, kind, i), inOut: kind.takes(a)}
		if a.Value != nil {
			from := d.source(a.Value, a.Value.Place())
			from.x, from.y = max(s.x-columnStep/2, 0), s.y+rowStep*(i+1)/2
			one.from = []int{from.outs[0].outlet}
		}
		s.ins = append(s.ins, one)
	}
	ends := d.out(s, out)
	if s.instance == "" {
		result := d.out(s, resultName(kind))
		if d.gives(e) {
			ends = result
		}
		if e.Result != nil {
			d.beside(s, d.sink(&syntax.Coil{Operand: e.Result}, socket{from: []int{result}}, e.Result.Place()))
		}
	}
	d.outputs(s, e.Call)
	return []int{ends}
}

// gives reports a box whose result is the power out: a comparison, or a logic function of BOOLs.
func (d *drawer) gives(e *syntax.Box) bool {
	name := strings.ToUpper(words(e.Call.Callee))
	sign := syntax.SignOf(name)
	switch {
	case d.units[strings.ToLower(name)] != nil:
		return false
	case name != "NOT" && (sign == "" || syntax.Binds(sign) >= 4):
		return syntax.Binds(sign) == 4
	}
	if id, ok := e.Result.(*syntax.Identifier); ok {
		kind := d.names.Types[strings.ToLower(id.Text)]
		return kind == "" || strings.EqualFold(kind, "BOOL")
	}
	return true
}

// block makes the shape of a call, without its pins.
func (d *drawer) block(e *syntax.Call) (*shape, *unit) {
	s := d.shape(boxKind, e.Span)
	name := words(e.Callee)
	if kind := d.instanceType(e.Callee); kind != "" {
		s.heading, s.instance = kind, name
	} else {
		s.heading = name
	}
	if u := d.units[strings.ToLower(s.heading)]; u != nil {
		return s, u
	}
	return s, standard(s.heading)
}

// instanceType is the type of what is called, "" where that is a function.
func (d *drawer) instanceType(e syntax.Expr) string {
	if id, ok := e.(*syntax.Identifier); ok {
		if d.units[strings.ToLower(id.Text)] != nil {
			return ""
		}
		return d.names.Types[strings.ToLower(id.Text)]
	}
	if t, ok := d.typeOf(e).(*syntax.TypeName); ok {
		return t.Text
	}
	return "BLOCK"
}

// typeOf is the declared type of a part of a variable, as far as the unit tells.
func (d *drawer) typeOf(e syntax.Expr) syntax.TypeExpr {
	switch e := e.(type) {
	case *syntax.Identifier:
		return d.declared[strings.ToLower(e.Text)]
	case *syntax.Index:
		if t, ok := d.typeOf(e.Of).(*syntax.ArrayType); ok {
			return t.Element
		}
	case *syntax.Member:
		if t, ok := d.typeOf(e.Of).(*syntax.TypeName); ok {
			return d.declared[strings.ToLower(t.Text+"."+e.Field.Text)]
		}
	}
	return nil
}

// takes reports an argument for an in-out variable.
func (u *unit) takes(a syntax.Argument) bool {
	if u == nil || a.Name == nil {
		return false
	}
	p := u.find(u.inputs, a.Name.Text)
	return p != nil && p.inOut
}

// inputName is the name of the pin for the n-th argument of a call.
func (d *drawer) inputName(e *syntax.Call, kind *unit, n int) string {
	if a := e.Arguments[n]; a.Name != nil {
		return a.Name.Text
	}
	if kind != nil {
		if n < len(kind.inputs) {
			return kind.inputs[n].name
		}
		return ""
	}
	names := block.InputNames(strings.ToUpper(words(e.Callee)), len(e.Arguments))
	if n < len(names) {
		return names[n]
	}
	return ""
}

// resultName is the name of the pin at which a function's result comes out.
func resultName(u *unit) string {
	if u != nil && u.find(u.outputs, "OUT") != nil {
		return u.name
	}
	return "OUT"
}

// out is the outlet of a box with a name; it is there from now on.
func (d *drawer) out(s *shape, name string) int {
	for _, o := range s.outs {
		if strings.EqualFold(o.name, name) {
			return o.outlet
		}
	}
	s.outs = append(s.outs, socket{name: name, outlet: d.outlet()})
	return s.outs[len(s.outs)-1].outlet
}

// outputs leads the outputs that a call names to their variables.
func (d *drawer) outputs(s *shape, e *syntax.Call) {
	for _, a := range e.Arguments {
		if a.Output && a.Value != nil {
			d.beside(s, d.sink(&syntax.Coil{Operand: a.Value}, socket{from: []int{d.out(s, a.Name.Text)}}, a.Value.Place()))
		}
	}
}

func (d *drawer) source(e syntax.Expr, at source.Span) *shape {
	s := d.shape(sourceKind, at)
	s.operand, s.outs = words(e), []socket{{outlet: d.outlet()}}
	return s
}

// sink makes the shape of a target, to which what a socket has goes.
func (d *drawer) sink(to *syntax.Coil, in socket, at source.Span) *shape {
	s := d.shape(sinkKind, at)
	s.negated, s.edge, s.memory = in.negated, in.edge, in.memory
	s.mark(to)
	s.ins = []socket{{from: in.from}}
	return s
}

// beside gives a target that no drawing has a place for one at the box whose output goes there.
func (d *drawer) beside(box, target *shape) {
	if target.x == 0 && target.y == 0 {
		target.x, target.y = box.x+columnStep/2, box.y+rowStep*len(box.outs)/2
	}
}

// diagram makes a piece of each network.
func (d *drawer) diagram(body *syntax.Diagram) (list []*piece) {
	drawn := drawing.Networks(body, d.names)
	from := body.Span.Start
	for i, n := range body.Networks {
		d.places = map[int][2]int{}
		for _, w := range drawn[i].Words {
			d.places[w.Start] = [2]int{letterStep * w.X, lineStep * w.Y}
		}
		for _, b := range drawn[i].Boxes {
			d.places[b.Start] = [2]int{letterStep * b.X, lineStep * b.Y}
		}
		p := d.begin(n.Title, d.comment(from, n.Span.End))
		from = n.Span.End
		for _, node := range n.Nodes {
			d.node(node)
		}
		p.height = lineStep * (drawn[i].Height + 2)
		list = append(list, p)
	}
	return d.ended(list, from, body.Span.End)
}

func (d *drawer) node(n *syntax.Node) {
	if n.Wire != nil {
		d.wires[strings.ToLower(n.Wire.Text)] = d.named(n.Value, n.Wire.Text)
		return
	}
	in := d.pin(n.Value)
	if call, ok := n.Value.(*syntax.Call); ok && d.instanceType(call.Callee) != "" {
		return
	}
	if in.edge != "" && len(n.Targets) > 1 { // which is sensed once for all
		in = d.through("MOVE", in)
	}
	for _, t := range n.Targets {
		d.sink(t, in, t.Span)
	}
}

// named is the outlet of a value that has a name: of its box, or of a MOVE that stands for what is no box.
func (d *drawer) named(e syntax.Expr, name string) int {
	call, ok := e.(*syntax.Call)
	if !ok {
		call = &syntax.Call{Callee: named("MOVE"), Arguments: []syntax.Argument{{Value: e}}, Span: e.Place()}
	}
	s, out := d.call(call)
	s.wire, s.bare = name, !ok
	return out
}

// pin is what goes to a pin: from where, whether inverted, and which edge of it.
func (d *drawer) pin(e syntax.Expr) socket {
	switch e := e.(type) {
	case nil:
		return socket{}
	case *syntax.Inverted:
		in := d.pin(e.X)
		if in.negated || in.edge != "" {
			in = d.through("MOVE", in)
		}
		in.negated = true
		return in
	case *syntax.Contact:
		in := d.pin(e.Operand)
		if in.edge != "" {
			in = d.through("MOVE", in)
		}
		in.edge, in.memory = e.Kind, words(e.Memory)
		return in
	case *syntax.Call:
		_, out := d.call(e)
		return socket{from: []int{out}}
	case *syntax.Identifier:
		if out := d.wires[strings.ToLower(e.Text)]; out != 0 {
			return socket{from: []int{out}}
		}
	case *syntax.Member:
		if s := d.called[strings.ToLower(words(e.Of))]; s != nil && d.hasOutput(s, e.Field.Text) {
			return socket{from: []int{d.out(s, e.Field.Text)}}
		}
	}
	return socket{from: []int{d.source(e, e.Place()).outs[0].outlet}}
}

func (d *drawer) hasOutput(s *shape, name string) bool {
	u := d.units[strings.ToLower(s.heading)]
	if u == nil {
		u = standard(s.heading)
	}
	return u != nil && u.find(u.outputs, name) != nil
}

// through leads a pin through a box of its own.
func (d *drawer) through(function string, in socket) socket {
	in.name = "IN"
	s := d.shape(boxKind, source.Span{})
	s.heading, s.ins = function, []socket{in}
	return socket{from: []int{d.out(s, "OUT")}}
}

// call makes the box of a call, after what goes into it, and gives the outlet of its result.
func (d *drawer) call(e *syntax.Call) (*shape, int) {
	var ins []socket
	kind := d.units[strings.ToLower(words(e.Callee))]
	instance := d.instanceType(e.Callee)
	if instance != "" {
		if kind = d.units[strings.ToLower(instance)]; kind == nil {
			kind = standard(instance)
		}
	}
	for i, a := range e.Arguments {
		if a.Output {
			continue
		}
		in := d.pin(a.Value)
		in.name, in.inOut = d.inputName(e, kind, i), kind.takes(a)
		ins = append(ins, in)
	}
	s, _ := d.block(e)
	s.ins = ins
	out := 0
	if instance == "" {
		out = d.out(s, resultName(kind))
	} else {
		d.called[strings.ToLower(words(e.Callee))] = s
		for _, p := range kind.pinsOut() {
			d.out(s, p.name)
		}
	}
	d.outputs(s, e)
	return s, out
}

func (u *unit) pinsOut() []pin {
	if u == nil {
		return nil
	}
	return u.outputs
}
