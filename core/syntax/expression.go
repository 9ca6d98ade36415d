package syntax

import "celandine/core/source"

// level is how tightly an operator binds, and how it is written; 0 where the token is none.
func level(t Token) (level int, op string) {
	switch t.Kind {
	case Keyword:
		op = t.Word
	case Amp:
		op = "AND"
	case Less, LessEq, Greater, GreaterEq, Equal, NotEqual, Plus, Minus, Star, Slash:
		op = t.Text
	case Power:
		op = "**"
	}
	if level = Binds(op); level == 0 {
		op = ""
	}
	return level, op
}

// Binds tells how tightly an operator of structured text binds, from 1 to 7 (IEC 61131-3, table 71); 0 where it is none.
func Binds(operator string) int {
	switch operator {
	case "OR":
		return 1
	case "XOR":
		return 2
	case "AND":
		return 3
	case "<", "<=", ">", ">=", "=", "<>":
		return 4
	case "+", "-":
		return 5
	case "*", "/", "MOD":
		return 6
	case "**":
		return 7
	}
	return 0
}

func (p *parser) expression() Expr { return p.binary(1) }

// binary reads operators of at least the given level; all are left-associative.
func (p *parser) binary(lowest int) Expr {
	x := p.unary()
	for {
		p.orSign()
		n, op := level(p.token)
		if n < lowest {
			return x
		}
		span := p.token.Span
		p.advance()
		y := p.binary(n + 1)
		x = &Binary{op, x, y, span, x.Place().To(y.Place())}
	}
}

// orSign takes | and || between two values, which other languages have, for OR.
func (p *parser) orSign() {
	if p.token.Kind != Bar || !p.barMeansOr {
		return
	}
	span := p.token.Span
	if next := p.lookahead(); next.Kind == Bar && next.Span.Start == span.End {
		p.advance()
		span = span.To(p.token.Span)
	}
	p.report(source.WrongSign, span, "Write OR.", "The sign %s has no meaning here.", span.Text())
	p.token = Token{Kind: Keyword, Text: "OR", Word: "OR", Span: span}
}

func (p *parser) unary() Expr {
	start := p.token.Span
	op := ""
	switch {
	case p.token.Is("NOT"):
		op = "NOT"
	case p.token.Kind == Minus:
		op = "-"
	case p.token.Kind == Plus:
		op = "+"
	default:
		return p.primary()
	}
	p.advance()
	p.deeper()
	x := p.unary()
	p.depth--
	return &Unary{Op: op, X: x, Span: start.To(x.Place())}
}

func (p *parser) primary() Expr {
	t := p.token
	switch t.Kind {
	case Int, Real, Typed, Str:
		p.advance()
		return &Literal{t.Kind, t.Text, t.Span}
	case AddressToken:
		return p.address()
	case LParen:
		p.deeper()
		p.advance()
		x := p.expression()
		p.close(RParen, t.Span)
		p.depth--
		return &Paren{x, t.Span.To(p.last)}
	case Keyword:
		if t.Word == "TRUE" || t.Word == "FALSE" {
			p.advance()
			return &Literal{Keyword, t.Word, t.Span}
		}
		return p.keywordCall()
	case Ident:
		return p.selected()
	case Assign:
		p.fail("To compare, write =.", ":= gives a value; it does not compare.")
	}
	p.fail("", "Expected a value here, found %s.", t.describe())
	return nil
}

// keywordCall reads AND(a, b), whose name is also an operator.
func (p *parser) keywordCall() Expr {
	t := p.token
	if n, _ := level(t); (n > 0 || t.Word == "NOT") && p.lookahead().Kind == LParen {
		p.advance()
		return p.call(&Identifier{Name{t.Word, t.Span}})
	}
	p.fail("", "Expected a value here, found %s.", t.describe())
	return nil
}

func (p *parser) address() *Address {
	a := &Address{p.token.Word, p.token.Span}
	p.advance()
	return a
}

// selected reads a name with what is selected from it: a.b[i](x).
func (p *parser) selected() Expr {
	id := p.nodes.identifiers.New()
	id.Name = p.name("a name")
	var x Expr = id
	for {
		switch p.token.Kind {
		case Dot:
			p.advance()
			x = &Member{x, p.name("a name after the dot")}
		case LBracket:
			p.deeper()
			p.advance()
			index := &Index{Of: x}
			p.plainly(func() {
				index.At = []Expr{p.expression()}
				for p.accept(Comma) {
					index.At = append(index.At, p.expression())
				}
			})
			p.expect(RBracket, "after the index")
			p.depth--
			index.Span = x.Place().To(p.last)
			x = index
		case LParen:
			return p.call(x)
		default:
			return x
		}
	}
}

func (p *parser) call(callee Expr) *Call {
	c := &Call{Callee: callee}
	p.deeper()
	opened := p.token.Span
	p.expect(LParen, "after the name")
	for p.token.Kind != RParen || p.pins && len(c.Arguments) > 0 { // AND(a, ) has a second pin
		c.Arguments = append(c.Arguments, p.argument())
		if !p.accept(Comma) {
			break
		}
	}
	p.close(RParen, opened)
	p.depth--
	c.Span = callee.Place().To(p.last)
	return c
}

func (p *parser) argument() Argument {
	start := p.token.Span
	if p.token.Kind == Ident {
		switch next := p.lookahead().Kind; next {
		case Assign, Output:
			n := p.name("an input")
			p.advance()
			a := Argument{Name: &n, Output: next == Output}
			if p.token.Kind != Comma && p.token.Kind != RParen {
				a.Value = p.pinOr()
			}
			a.Span = start.To(p.last)
			return a
		}
	}
	if p.pins && (p.token.Kind == Comma || p.token.Kind == RParen) {
		return Argument{Span: start} // nothing is connected yet
	}
	x := p.pinOr()
	return Argument{Value: x, Span: start.To(p.last)}
}
