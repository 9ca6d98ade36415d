package syntax

import (
	"strings"

	"celandine/core/source"
)

// types reads the declarations after TYPE and its END_TYPE.
func (p *parser) types(start source.Span) []*TypeDeclaration {
	var list []*TypeDeclaration
	for p.token.Kind != EOF && !p.token.Is("END_TYPE") {
		if p.startsBody() {
			break
		}
		d := &TypeDeclaration{Span: p.token.Span}
		ok := p.try(func() {
			d.Name = p.name("a type's name")
			p.expect(Colon, "after the name")
			d.Type = p.typeExpr()
			if p.accept(Assign) {
				d.Initial = p.initial()
			}
			d.Span = d.Span.To(p.last)
			p.semicolon("this type")
		})
		if ok {
			list = append(list, d)
			continue
		}
		for p.token.Kind != EOF && !p.token.Is("END_TYPE") && !p.startsBody() && !p.accept(Semicolon) {
			p.advance()
		}
	}
	if !p.acceptWord("END_TYPE") {
		p.report(source.Syntax, start, "Write END_TYPE after the last type.", "TYPE has no END_TYPE.")
	}
	return list
}

func (p *parser) typeExpr() TypeExpr {
	start := p.token.Span
	p.deeper()
	defer func() { p.depth-- }()
	switch {
	case p.acceptWord("ARRAY"):
		return p.arrayType(start)
	case p.acceptWord("STRUCT"):
		return p.structType(start)
	case p.token.Kind == LParen:
		return p.enumType(start)
	}
	name := p.name("a type")
	switch strings.ToUpper(name.Text) {
	case "STRING":
		return p.stringType(start)
	case "POINTER", "REF_TO": // are not supported, which is told of their name; what they point to is read over
		if p.token.named("TO") || p.token.Is("TO") {
			p.advance()
		}
		if p.token.Kind == Ident {
			p.advance()
		}
	}
	if !p.accept(LParen) {
		t := p.nodes.types.New()
		t.Name = name
		return t
	}
	t := &SubrangeType{Base: name, Low: p.expression()}
	p.expect(Range, "between the least and the greatest value")
	t.High = p.expression()
	p.expect(RParen, "after the greatest value")
	t.Span = start.To(p.last)
	return t
}

func (p *parser) stringType(start source.Span) TypeExpr {
	t := &StringType{Span: start}
	closing := RBracket
	switch {
	case p.accept(LBracket):
	case p.accept(LParen):
		closing = RParen
	default:
		return t
	}
	t.Length = p.expression()
	p.expect(closing, "after the length")
	t.Span = start.To(p.last)
	return t
}

func (p *parser) arrayType(start source.Span) TypeExpr {
	t := &ArrayType{}
	p.expect(LBracket, "after ARRAY")
	for {
		low := p.expression()
		p.expect(Range, "between the first and the last index")
		t.Ranges = append(t.Ranges, Bounds{low, p.expression()})
		if !p.accept(Comma) {
			break
		}
	}
	p.expect(RBracket, "after the last index")
	p.expectWord("OF", "before the type of the elements")
	t.Element = p.typeExpr()
	t.Span = start.To(p.last)
	return t
}

func (p *parser) structType(start source.Span) TypeExpr {
	t := &StructType{}
	for p.token.Kind != EOF && !p.token.Is("END_STRUCT") {
		t.Fields = append(t.Fields, p.variable())
	}
	p.expectWord("END_STRUCT", "after the last field")
	t.Span = start.To(p.last)
	return t
}

func (p *parser) enumType(start source.Span) TypeExpr {
	t := &EnumType{}
	p.advance()
	for {
		t.Values = append(t.Values, p.name("a value's name"))
		if !p.accept(Comma) {
			break
		}
	}
	p.expect(RParen, "after the last value")
	t.Span = start.To(p.last)
	return t
}

// initial reads the value that a variable begins with: an expression,
// [1, 2(0)] for an array, (a := 1) for a structure.
func (p *parser) initial() Expr {
	start := p.token.Span
	switch {
	case p.token.Kind == LBracket:
		return p.arrayValue(start)
	case p.token.Kind == LParen && p.lookahead().Kind == Ident:
		if p.startsField() {
			return p.structValue(start)
		}
	}
	return p.expression()
}

// startsField reports whether ( name := follows.
func (p *parser) startsField() bool {
	return p.read(1).Kind == Assign
}

func (p *parser) arrayValue(start source.Span) Expr {
	v := &ArrayValue{}
	p.deeper()
	p.advance()
	for p.token.Kind != RBracket {
		item := ArrayItem{Value: p.initial()}
		if p.token.Kind == LParen {
			item.Count = item.Value
			p.advance()
			item.Value = p.initial()
			p.expect(RParen, "after the repeated value")
		}
		v.Items = append(v.Items, item)
		if !p.accept(Comma) {
			break
		}
	}
	p.expect(RBracket, "after the last value")
	p.depth--
	v.Span = start.To(p.last)
	return v
}

func (p *parser) structValue(start source.Span) Expr {
	v := &StructValue{}
	p.deeper()
	p.advance()
	for p.token.Kind != RParen {
		field := Argument{Span: p.token.Span}
		name := p.name("a field's name")
		field.Name = &name
		p.expect(Assign, "after the field's name")
		field.Value = p.initial()
		v.Fields = append(v.Fields, field)
		if !p.accept(Comma) {
			break
		}
	}
	p.expect(RParen, "after the last field")
	p.depth--
	v.Span = start.To(p.last)
	return v
}
