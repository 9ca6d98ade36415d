package syntax

import (
	"strings"

	"celandine/core/source"
)

// ladder reads the rungs after LADDER and its END_LADDER.
func (p *parser) ladder(closing string) *Ladder {
	start := p.last
	l := p.rungs(closing)
	if !p.acceptWord("END_LADDER") {
		p.report(source.Syntax, start, "Write END_LADDER after the last rung.", "LADDER has no END_LADDER.")
	}
	l.Span = start.To(p.last)
	return l
}

// rungOutside tells of a rung where there is no LADDER.
func (p *parser) rungOutside() {
	p.report(source.Syntax, p.token.Span, "Write LADDER before the first rung and END_LADDER after the last.",
		"A RUNG stands between LADDER and END_LADDER.")
}

func (p *parser) rungs(closing string) *Ladder {
	l := &Ladder{}
	start := p.token.Span
	for p.token.Kind != EOF && !p.token.Is("END_LADDER") && !p.token.Is(closing) {
		if r := p.rungOr(closing); r != nil {
			l.Rungs = append(l.Rungs, r)
		}
	}
	l.Span = start.To(p.last)
	return l
}

// rungOr reads a rung; it is nil where something else stands there.
func (p *parser) rungOr(closing string) (read *Rung) {
	if p.token.Is("RUNG") {
		r := p.nodes.rungs.New()
		r.Span = p.token.Span
		if p.try(func() { p.rung(r) }) {
			read = r
		}
	} else {
		p.try(func() {
			p.fail("Begin each rung with RUNG, and a title in quotes if you like.", "Expected RUNG, found %s.", p.token.describe())
		})
		p.advance()
	}
	if read == nil {
		p.skipTo("RUNG", "END_LADDER", closing)
	}
	return read
}

func (p *parser) rung(r *Rung) {
	p.advance()
	if p.token.Kind == Str {
		r.Title = p.token.Text[1 : len(p.token.Text)-1]
		p.advance()
	}
	r.Net = p.series()
	r.Span = r.Span.To(p.last)
	if p.token.Kind == RBrace || p.token.Kind == Bar {
		p.fail("Open the branches with {, or remove this.", "%s closes no branch.", p.token.describe())
	}
	if p.startsElement() {
		p.fail("Write -- between two elements in series.", "Expected -- before %s.", p.token.describe())
	}
	if p.accept(Semicolon) {
		return
	}
	p.report(source.NoSemicolon, p.last, "Write ; after "+p.last.Text()+".", "The ; at the end of this rung is missing.")
	p.skipTo("RUNG", "END_LADDER", "END_PROGRAM")
}

func (p *parser) startsElement() bool {
	switch p.token.Kind {
	case LBracket, LParen, LBrace, Ident:
		return true
	}
	return p.token.Kind == Keyword && p.keywordFunction()
}

// keywordFunction reports whether the keyword is an operator that can also be
// drawn as a box: AND, OR, XOR, NOT, MOD.
func (p *parser) keywordFunction() bool {
	n, _ := level(p.token)
	return n > 0 || p.token.Is("NOT")
}

func (p *parser) series() *Series {
	s := p.nodes.series.New()
	s.Span = source.Span{File: p.scanner.file, Start: p.token.Span.Start, End: p.token.Span.Start}
	if !p.startsElement() && p.token.Kind != Wire {
		return s
	}
	p.accept(Wire) // a branch may begin with a piece of wire
	first := len(p.nodes.open)
	for p.startsElement() {
		e := p.element()
		p.nodes.open = append(p.nodes.open, e)
		if !p.accept(Wire) && !p.singleMinus() {
			break
		}
	}
	s.Elements = p.nodes.elements.List(p.nodes.open[first:]...)
	p.nodes.open = p.nodes.open[:first]
	s.Span = s.Span.To(p.last)
	return s
}

// singleMinus takes a - between two elements for --.
func (p *parser) singleMinus() bool {
	if p.token.Kind != Minus {
		return false
	}
	switch p.lookahead().Kind {
	case LBracket, LParen, LBrace, Ident, Keyword:
		p.report(source.Syntax, p.token.Span, "Write --.", "Two elements in series are joined by two signs, --.")
		p.advance()
		return true
	}
	return false
}

func (p *parser) element() Element {
	switch p.token.Kind {
	case LBracket:
		return p.contact()
	case LParen:
		return p.coil()
	case LBrace:
		return p.parallel()
	}
	return p.box()
}

func (p *parser) parallel() Element {
	start := p.token.Span
	p.deeper()
	p.advance()
	e := p.nodes.parallels.New()
	e.Branches = append(make([]*Series, 0, 2), p.series())
	for p.accept(Bar) {
		e.Branches = append(e.Branches, p.series())
	}
	p.close(RBrace, start)
	p.depth--
	e.Span = start.To(p.last)
	return e
}

func (p *parser) contact() Element {
	c := p.nodes.contacts.New()
	c.Span = p.token.Span
	opened := p.token.Span
	p.advance()
	switch {
	case p.accept(Slash):
		c.Kind = ClosedContact
	case p.edgeMark("P"):
		c.Kind = RisingContact
	case p.edgeMark("N"):
		c.Kind = FallingContact
	}
	if p.token.Kind != RBracket && p.token.Kind != At {
		c.Operand = p.pinOr()
	}
	if p.accept(At) {
		c.Memory = p.selected()
	}
	if p.token.Kind == Assign || p.token.Kind == Output {
		p.fail("Write [x] to test a variable, and (x) to write it.", "A contact reads; it gives no value.")
	}
	p.close(RBracket, opened)
	c.Span = c.Span.To(p.last)
	return c
}

// edgeMark takes the letter of an edge when it is a mark and not a name: a capital,
// followed by a name, an address, @ or the closing bracket.
func (p *parser) edgeMark(letter string) bool {
	if !p.token.named(letter) {
		return false
	}
	if p.smallMark("[") {
		return false
	}
	switch next := p.lookahead(); next.Kind {
	case Ident, AddressToken, At, RBracket:
		p.advance()
		return true
	case Keyword: // AND( and the like, which is no sign in a block diagram
		if p.pins {
			p.advance()
		}
		return p.pins
	}
	return false
}

// smallMark reports a mark in small letters, which is a name; before another name it was meant as the mark.
func (p *parser) smallMark(open string) bool {
	mark := strings.ToUpper(p.token.Text)
	if p.token.Text == mark {
		return false
	}
	if next := p.lookahead().Kind; next == Ident || next == AddressToken {
		p.fail("Write "+open+mark+" … with a capital letter for an edge or for storage.",
			"%s in small letters is a name, and two names stand here.", p.token.Text)
	}
	return true
}

func (p *parser) coil() Element {
	c := p.nodes.coils.New()
	c.Span = p.token.Span
	p.advance()
	if p.accept(Slash) {
		c.Kind = NegatedCoil
	} else if p.token.Kind == Ident {
		switch kind := CoilKind(strings.ToUpper(p.token.Text)); kind {
		case SetCoil, ResetCoil, RisingCoil, FallingCoil:
			if p.smallMark("(") {
				break
			}
			if next := p.lookahead().Kind; next == Ident || next == AddressToken || next == RParen {
				c.Kind = kind
				p.advance()
			}
		}
	}
	if p.token.Kind == AddressToken {
		c.Operand = p.address()
	} else if p.token.Kind != RParen {
		c.Operand = p.selected()
	}
	if p.token.Kind != RParen {
		p.fail("Write (x), (/x), (S x), (R x), (P x) or (N x).", "Expected ) to close the coil, found %s.", p.token.describe())
	}
	p.advance()
	c.Span = c.Span.To(p.last)
	return c
}

func (p *parser) box() Element {
	start := p.token.Span
	b := &Box{}
	var callee Expr
	if p.token.Kind == Keyword {
		callee = &Identifier{Name{p.token.Word, start}}
		p.advance()
		b.Call = p.call(callee)
	} else {
		x := p.selected()
		call, ok := x.(*Call)
		if !ok {
			p.fail("Write ["+x.Place().Text()+"] for a contact, ("+x.Place().Text()+") for a coil, or "+x.Place().Text()+"(…) for a block.",
				"A bare name cannot stand in a rung.")
		}
		b.Call = call
	}
	if len(b.Call.Arguments) > 0 {
		first := b.Call.Arguments[0]
		if id, ok := first.Value.(*Identifier); ok && first.Name == nil && strings.EqualFold(id.Text, "EN") {
			b.EN = true
			b.Call.Arguments = b.Call.Arguments[1:]
		}
	}
	if p.accept(Output) {
		if p.token.Kind == AddressToken {
			b.Result = p.address()
		} else {
			b.Result = p.selected()
		}
	}
	b.Span = start.To(p.last)
	return b
}
