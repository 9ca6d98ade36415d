package syntax

import "celandine/core/source"

// Diagram is a body in block diagram. Its span begins with FBD and ends with END_FBD.
type Diagram struct {
	Networks []*Network
	Span     source.Span
}

func (*Diagram) body() {}

// A Network is nodes that belong together, run as written.
type Network struct {
	Title string
	Nodes []*Node
	Span  source.Span
}

// A Node is one piece of a network: a value with a name of its own (Wire), a value that goes to targets, or a block that is called. In the
// arguments of its calls an [Inverted] and, for an edge, a [Contact] may stand.
type Node struct {
	Wire    *Name // or nil
	Value   Expr
	Targets []*Coil // plain, negated, set and reset
	Span    source.Span
}

// Targets is the first number of a node's targets, where an editor names a pin by the numbers of arguments.
const Targets = 1000

// Inverted is a pin with a circle: /x.
type Inverted struct {
	X    Expr
	Span source.Span
}

// Place returns where the expression stands.
func (e *Inverted) Place() source.Span { return e.Span }

// diagram reads the networks after FBD and its END_FBD.
func (p *parser) diagram(closing string) *Diagram {
	start := p.last
	d := &Diagram{}
	p.pins = true
	for p.token.Kind != EOF && !p.token.Is("END_FBD") && !p.token.Is(closing) {
		if !p.networkBegins() {
			p.try(func() {
				p.fail("Begin each network with NETWORK, and a title in quotes if you like.", "Expected NETWORK, found %s.", p.token.describe())
			})
			p.advance()
			p.toNetwork(closing)
			continue
		}
		d.Networks = append(d.Networks, p.network(closing))
	}
	p.pins = false
	if !p.acceptWord("END_FBD") {
		p.report(source.Syntax, start, "Write END_FBD after the last network.", "FBD has no END_FBD.")
	}
	d.Span = start.To(p.last)
	return d
}

// networkBegins reports the word NETWORK, which is a name everywhere else.
func (p *parser) networkBegins() bool { return p.token.named("NETWORK") }

// toNetwork gives up what is being read up to the next network or the end of the body.
func (p *parser) toNetwork(closing string) {
	for p.token.Kind != EOF && !p.networkBegins() && !p.token.Is("END_FBD") && !p.token.Is(closing) {
		p.advance()
	}
}

func (p *parser) network(closing string) *Network {
	n := &Network{Span: p.token.Span}
	p.advance()
	if p.token.Kind == Str {
		n.Title = p.token.Text[1 : len(p.token.Text)-1]
		p.advance()
	}
	for p.token.Kind != EOF && !p.networkBegins() && !p.token.Is("END_FBD") && !p.token.Is(closing) {
		node := &Node{Span: p.token.Span}
		if p.try(func() { p.node(node) }) {
			n.Nodes = append(n.Nodes, node)
			continue
		}
		for p.token.Kind != Semicolon && p.token.Kind != EOF && !p.networkBegins() && !p.token.Is("END_FBD") && !p.token.Is(closing) {
			p.advance()
		}
		p.accept(Semicolon)
	}
	n.Span = n.Span.To(p.last)
	return n
}

func (p *parser) node(n *Node) {
	if p.token.named("WIRE") && p.lookahead().Kind == Ident {
		p.advance()
		name := p.name("a name for the wire")
		n.Wire = &name
		if p.token.Kind != Assign {
			p.fail("Write wire "+name.Text+" := and what it comes from.", "Expected := after the wire's name, found %s.", p.token.describe())
		}
		p.advance()
	}
	n.Value = p.pin()
	if p.token.Kind == Assign {
		p.fail("Write "+n.Value.Place().Text()+" last: value => "+n.Value.Place().Text()+".", "In a block diagram values go from left to right.")
	}
	if p.accept(Output) {
		p.targets(n)
	}
	n.Span = n.Span.To(p.last)
	p.semicolon("this node")
}

// targets reads x, /x, (S x), or several of them in { a | b }.
func (p *parser) targets(n *Node) {
	opened := p.token.Span
	if !p.accept(LBrace) {
		n.Targets = append(n.Targets, p.drivenBy())
		return
	}
	n.Targets = append(n.Targets, p.drivenBy())
	for p.accept(Bar) {
		n.Targets = append(n.Targets, p.drivenBy())
	}
	p.close(RBrace, opened)
}

func (p *parser) drivenBy() *Coil {
	start := p.token.Span
	if p.token.Kind == LParen {
		c := p.coil().(*Coil)
		if c.Operand == nil || c.Kind != SetCoil && c.Kind != ResetCoil {
			p.giveUp(c.Span, "Write x, /x, (S x) or (R x).", "A target in a block diagram has no such mark.")
		}
		return c
	}
	c := &Coil{}
	if p.accept(Slash) {
		c.Kind = NegatedCoil
	}
	switch p.token.Kind {
	case AddressToken:
		c.Operand = p.address()
	case Ident:
		c.Operand = p.selected()
	default:
		p.fail("Write a variable after =>.", "Expected a variable, found %s.", p.token.describe())
	}
	c.Span = start.To(p.last)
	return c
}

// pin reads what can be connected to an input: a constant, a variable, a wire, an edge, a call, or one of these inverted.
func (p *parser) pin() Expr {
	start := p.token.Span
	switch p.token.Kind {
	case Slash:
		p.advance()
		p.deeper()
		x := p.pin()
		p.depth--
		return &Inverted{X: x, Span: start.To(x.Place())}
	case LBracket:
		c := p.contact().(*Contact)
		if c.Operand == nil || c.Kind != RisingContact && c.Kind != FallingContact {
			p.giveUp(c.Span, "Write [P x] or [N x] for an edge, and x alone for its value.", "In a block diagram only an edge stands in brackets.")
		}
		return c
	case Minus, Plus:
		return p.unary()
	}
	x := p.primary()
	p.inPlaceOf()
	return x
}

// giveUp reports what was read already, and gives the node up.
func (p *parser) giveUp(at source.Span, hint, message string) {
	p.report(source.Syntax, at, hint, "%s", message)
	panic(failed{})
}

// BoxOf is the function that stands for an operator of structured text, ADD for +.
func BoxOf(operator string) string { return boxes[operator] }

// SignOf is the operator of structured text that a function stands for, + for ADD, or "".
func SignOf(function string) string {
	for sign, name := range boxes {
		if name == function {
			return sign
		}
	}
	return ""
}

// boxes are the functions that stand for the operators of structured text.
var boxes = map[string]string{"AND": "AND", "OR": "OR", "XOR": "XOR", "MOD": "MOD", "+": "ADD", "-": "SUB", "*": "MUL", "/": "DIV",
	"**": "EXPT", "=": "EQ", "<>": "NE", "<": "LT", "<=": "LE", ">": "GT", ">=": "GE"}

// inPlaceOf tells of an operator between two pins, which a block diagram has as a function.
func (p *parser) inPlaceOf() {
	if p.token.Kind == Minus && p.lookahead().Kind == Greater {
		p.fail("Write =>.", "-> is no sign of a block diagram.")
	}
	if n, op := level(p.token); n > 0 {
		p.fail("Write "+boxes[op]+"(…, …).", "A block diagram has the function %s for the sign %s.", boxes[op], p.token.describe())
	}
}

// pinOr reads a pin in a block diagram, and an expression elsewhere. An index is an expression everywhere.
func (p *parser) pinOr() Expr {
	if p.pins {
		return p.pin()
	}
	return p.expression()
}

// plainly reads something as structured text has it, also in a block diagram.
func (p *parser) plainly(read func()) {
	pins := p.pins
	p.pins = false
	defer func() { p.pins = pins }()
	read()
}
