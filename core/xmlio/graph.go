package xmlio

import (
	"cmp"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// kind is what an object of a drawing is.
type kind uint8

const (
	contactKind kind = iota + 1
	coilKind
	boxKind
	sourceKind   // a variable or constant from which a line goes
	sinkKind     // a variable to which a line goes
	leftRail     // from which power comes
	rightRail    // where rungs end
	connector    // a line that goes on
	continuation // at the object with the same name
)

var kinds = map[string]kind{"contact": contactKind, "coil": coilKind, "block": boxKind, "invariable": sourceKind, "datasource": sourceKind,
	"outvariable": sinkKind, "datasink": sinkKind, "leftpowerrail": leftRail, "rightpowerrail": rightRail, "connector": connector,
	"continuation": continuation}

// An object stands on a drawing.
type object struct {
	kind     kind
	at       *element
	number   int    // in the order of the file
	order    int    // in which it is worked out, where the file says so
	operand  string // of a contact, coil, source or sink; what a line is called that goes on
	negated  bool
	edge     syntax.ContactKind
	storage  syntax.CoilKind
	memory   string // of an edge
	heading  string // of a box: its function or its instance's type
	instance string
	ins      []*inlet
	outs     []*outlet
	x, y     float64
	wire     string // the name of the line from it
	bare     bool   // a MOVE that stands for its input alone
}

// An inlet is a place of an object where lines end.
type inlet struct {
	of      *object
	name    string
	negated bool
	edge    syntax.ContactKind
	memory  string
	inOut   bool
	at      *element
	from    []*outlet
}

// An outlet is a place of an object where a line begins.
type outlet struct {
	of      *object
	name    string
	negated bool
	number  int
	inOut   *inlet // the pin that goes in and out
	to      []*inlet
}

// A grapher reads the sheets of one body.
type grapher struct {
	*reader
	unit    *unit
	sheets  []*sheet
	outlets map[string]*outlet // by identifier
	all     []*object
	count   int
}

// throughVariable is the way out of a circle.
const throughVariable = "Lead it through a variable, which holds the value of the scan before."

// wrong tells of a drawing that cannot be.
func (g *grapher) wrong(at *element, hint, format string, args ...any) {
	g.report(source.WrongExchange, at, hint, g.unit.name+": "+format, args...)
}

// unread tells of something in a drawing that has no place in Celandine's language.
func (g *grapher) unread(at *element, hint, format string, args ...any) {
	g.unsupported(at, hint, g.unit.name+": "+format, args...)
}

// body writes the body of a unit in its language.
func (r *reader) body(u *unit) {
	content := r.content(u)
	if content == nil {
		return
	}
	g := &grapher{reader: r, unit: u, outlets: map[string]*outlet{}}
	switch kind := content.kind(); kind {
	case "st":
		r.text(content)
	case "ld", "fbd":
		g.read(content)
		if g.problems.HasErrors() {
			return
		}
		if kind == "ld" || g.hasPower() {
			g.ladder(content)
		} else {
			g.diagram(content)
		}
	case "sfc", "il":
		r.unsupported(content, "Write it as a ladder, a block diagram or structured text.", "The body of %s is in %s, which is not read.", u.name,
			strings.ToUpper(kind))
	default:
		r.unsupported(content, "Write it as a ladder, a block diagram or structured text.", "%s: %s is not read.", u.name, titled(content))
	}
}

// content is the element that says which language a body is in.
func (r *reader) content(u *unit) *element {
	if u.body == nil {
		r.report(source.WrongExchange, u.at, "Export the program with its body.", "%s has no body.", u.name)
		return nil
	}
	var found *element
	for _, c := range u.body.children {
		switch c.name {
		case "documentation", "adddata":
			continue
		}
		if found != nil {
			r.unsupported(c, "Export one body.", "A second body of %s is not read.", u.name)
			return nil
		}
		found = c
	}
	if found == nil {
		r.report(source.WrongExchange, u.body, "Export the program with its body.", "The body of %s is empty.", u.name)
	}
	return found
}

// text copies structured text, each line of which comes from its line of the file.
func (r *reader) text(e *element) {
	from := e
	for len(from.children) > 0 {
		from = from.children[0]
	}
	first, _ := r.file.Position(max(from.textAt, e.at.Start))
	lines := strings.Split(strings.ReplaceAll(string(e.text), "\r\n", "\n"), "\n")
	for i, words := range lines {
		if strings.TrimSpace(words) == "" && (i == 0 || i == len(lines)-1) {
			continue
		}
		r.mark(r.out.Len(), r.file.Offset(min(first+i, r.file.Lines()), 1))
		r.out.WriteString(strings.TrimRight(words, " \t\r") + "\n")
	}
}

// read takes the objects of a body and joins their lines.
func (g *grapher) read(body *element) {
	flat := &sheet{at: body}
	for _, c := range body.children {
		switch c.name {
		case "rung", "network":
			one := &sheet{at: c}
			if label := c.attribute("label"); label != "" {
				g.unread(c, "Draw what is jumped over with a contact before it.", "the label %s is not read.", label)
			}
			for _, inner := range c.children {
				g.object(inner, one)
			}
			one.name(one.notes)
			g.sheets = append(g.sheets, one)
		default:
			g.object(c, flat)
		}
	}
	if len(flat.objects)+len(flat.notes) > 0 {
		g.sheets = append(g.sheets, flat)
	}
	if len(g.all) > maxObjects {
		g.report(source.TooLarge, body, "Split it.", "The body of %s has more than %d objects.", g.unit.name, maxObjects)
		return
	}
	slices.SortStableFunc(g.sheets, func(a, b *sheet) int {
		return cmp.Compare(number(a.at, "evaluationorder"), number(b.at, "evaluationorder"))
	})
	g.connect()
}

func number(e *element, attribute string) int {
	n, _ := strconv.Atoi(e.attribute(attribute))
	return n
}

// object reads one element of a drawing.
func (g *grapher) object(e *element, s *sheet) {
	o := &object{kind: kinds[e.kind()], at: e, number: g.count, order: number(e, "executionorderid"), heading: e.attribute("typename"),
		instance: e.attribute("instancename"), negated: e.attribute("negated") == "true"}
	o.x, o.y = position(e)
	g.count++
	switch e.kind() {
	case "documentation", "adddata":
		return
	case "comment":
		words := e.words("content")
		if words == "" {
			words = strings.TrimSpace(string(e.text))
		}
		s.notes = append(s.notes, note{words, o.y})
		return
	case "inoutvariable":
		o.kind = sourceKind
		if in := e.child("connectionpointin"); in != nil && in.child("connection") != nil {
			o.kind = sinkKind
		}
	}
	if o.kind == 0 {
		g.undrawn(e)
		return
	}
	o.operand = e.attribute("operand", "identifier", "name")
	if words := e.words("variable"); words != "" {
		o.operand = words
	}
	if words := e.words("expression"); words != "" {
		o.operand = words
	}
	o.edge = g.edge(e)
	o.storage = g.storage(e)
	o.memory, o.wire, o.bare = ours(e)
	if o.kind == boxKind {
		g.box(o)
	} else {
		g.points(o, e)
	}
	s.objects = append(s.objects, o)
	g.all = append(g.all, o)
}

// undrawn tells of what has no place in a rung or network.
func (g *grapher) undrawn(e *element) {
	hint := "Draw it with contacts, coils and boxes."
	switch e.kind() {
	case "jump", "label":
		hint = "Draw what is jumped over with a contact before it."
	case "return":
		hint = "Draw what is left out with a contact before it."
	case "actionblock":
		hint = "Draw what the action does."
	}
	name := e.attribute("label", "targetlabel", "name")
	if name == "" {
		name = e.words("label")
	}
	g.unread(e, hint, "the %s is not read.", strings.TrimSpace(e.written()+" "+name))
}

func position(e *element) (x, y float64) {
	if at := e.child("position", "relposition"); at != nil {
		x, _ = strconv.ParseFloat(at.attribute("x"), 64)
		y, _ = strconv.ParseFloat(at.attribute("y"), 64)
	}
	return x, y
}

// The words of the format for edges and for storage.
var (
	edges    = map[string]syntax.ContactKind{"rising": syntax.RisingContact, "falling": syntax.FallingContact}
	storages = map[string]syntax.CoilKind{"set": syntax.SetCoil, "reset": syntax.ResetCoil}
)

// wordFor is the word of a kind in one of them; "" where it has none.
func wordFor[K comparable](words map[string]K, kind K) string {
	for word, k := range words {
		if k == kind {
			return word
		}
	}
	return ""
}

func (g *grapher) edge(e *element) syntax.ContactKind {
	switch words := strings.ToLower(e.attribute("edge")); words {
	case "", "none":
		return ""
	case "rising", "falling":
		return edges[words]
	default:
		g.report(source.WrongExchange, e, "Write rising or falling.", "There is no edge %q.", words)
		return ""
	}
}

func (g *grapher) storage(e *element) syntax.CoilKind {
	switch words := strings.ToLower(e.attribute("storage", "latch")); words {
	case "", "none":
		return ""
	case "set", "reset":
		return storages[words]
	default:
		g.report(source.WrongExchange, e, "Write set or reset.", "There is no storage %q.", words)
		return ""
	}
}

// ours is what Celandine itself says of an object beside what the standard has.
func ours(e *element) (memory, wire string, bare bool) {
	for _, c := range e.children {
		if c.name != "adddata" {
			continue
		}
		for _, one := range c.children {
			if one.attribute("name") == addedName && len(one.children) > 0 {
				said := one.children[0]
				return said.attribute("memory"), said.attribute("wire"), said.attribute("bare") == "true"
			}
		}
	}
	return "", "", false
}

// addedName is what the format's data of one's own has for a name where it is Celandine's.
const addedName = "celandine"

// points reads where the lines of an object other than a box begin and end.
func (g *grapher) points(o *object, e *element) {
	for _, c := range e.children {
		switch c.name {
		case "connectionpointin":
			o.ins = append(o.ins, &inlet{of: o, at: c})
		case "connectionpointout":
			g.outlet(o, c, c.attribute("formalparameter"), false)
		}
	}
	needs := 0
	switch o.kind {
	case contactKind, coilKind, sinkKind, connector, rightRail:
		needs = 1
	}
	for len(o.ins) < needs {
		o.ins = append(o.ins, &inlet{of: o, at: e})
	}
	if len(o.outs) == 0 && o.kind != sinkKind && o.kind != rightRail && o.kind != connector {
		g.outlet(o, e, "", false)
	}
}

// outlet adds a place where a line begins, under each identifier that lines may call it by.
func (g *grapher) outlet(o *object, e *element, name string, negated bool) *outlet {
	out := &outlet{of: o, name: name, negated: negated, number: g.count}
	g.count++
	o.outs = append(o.outs, out)
	if id := e.attribute("connectionpointoutid"); id != "" {
		g.identify("point "+id, out, e)
	}
	if id := o.at.attribute("localid"); id != "" {
		if len(o.outs) == 1 {
			g.identify("object "+id, out, o.at)
		}
		if o.kind == boxKind {
			g.identify("object "+id+" "+strings.ToLower(name), out, e)
		}
	}
	return out
}

func (g *grapher) identify(id string, out *outlet, at *element) {
	if g.outlets[id] != nil {
		g.wrong(at, "Export the program again.", "the number of this %s is given twice.", at.kind())
		return
	}
	g.outlets[id] = out
}

// box reads the pins of a block.
func (g *grapher) box(o *object) {
	if o.heading == "" {
		g.wrong(o.at, "Give it a typeName.", "this block has no type.")
	}
	for _, c := range o.at.children {
		for _, p := range c.children {
			if !strings.HasSuffix(p.name, "variable") {
				continue
			}
			name := p.attribute("formalparameter", "parametername")
			switch c.name {
			case "inputvariables", "inoutvariables":
				in := &inlet{of: o, name: name, negated: p.attribute("negated") == "true", edge: g.edge(p), inOut: c.name == "inoutvariables", at: p}
				in.memory, _, _ = ours(p)
				o.ins = append(o.ins, in)
				if out := p.child("connectionpointout"); out != nil {
					g.outlet(o, out, name, false).inOut = in
				}
			case "outputvariables":
				at := p
				if out := p.child("connectionpointout"); out != nil {
					at = out
				}
				g.outlet(o, at, name, p.attribute("negated") == "true")
			}
			if g.storage(p) != "" {
				g.unread(p, "Draw a coil.", "storage at a pin of %s is not read.", o.heading)
			}
		}
	}
}

// hasPower reports contacts, coils or rails, which make a body a ladder.
func (g *grapher) hasPower() bool {
	return slices.ContainsFunc(g.all, func(o *object) bool { return o.kind == contactKind || o.kind == coilKind || o.kind == leftRail })
}

// called names an object for a message.
func (o *object) called() string {
	switch {
	case o.instance != "":
		return o.instance
	case o.heading != "":
		return o.heading
	}
	return strings.TrimSpace(fmt.Sprintf("%s %s", o.at.kind(), o.operand))
}
