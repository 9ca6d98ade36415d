package syntax

import (
	"strings"

	"celandine/core/source"
)

// statements reads up to one of the closing keywords (or another that closes
// what stands around them), and leaves it in place.
func (p *parser) statements(closing ...string) []Statement {
	return p.statementsUntil(func() bool { return p.closes(closing) })
}

func (p *parser) statementsUntil(done func() bool) []Statement {
	p.deeper()
	defer func() { p.depth-- }()
	var list []Statement
	for p.token.Kind != EOF && !done() {
		if p.accept(Semicolon) { // an empty statement
			continue
		}
		start := p.token.Span
		var s Statement
		if p.try(func() { s = p.statement() }) {
			list = append(list, s)
			continue
		}
		p.skipStatement(start)
	}
	return list
}

// closes reports whether the token ends a list of statements: a keyword asked
// for, or one that can only end something further out.
func (p *parser) closes(closing []string) bool {
	p.otherElsif()
	if p.token.Kind != Keyword {
		return false
	}
	for _, w := range closing {
		if p.token.Word == w {
			return true
		}
	}
	switch p.token.Word {
	case "END_PROGRAM", "END_FUNCTION", "END_FUNCTION_BLOCK", "END_IF", "END_CASE", "END_FOR", "END_WHILE", "END_REPEAT",
		"ELSE", "ELSIF", "UNTIL", "PROGRAM", "FUNCTION", "FUNCTION_BLOCK":
		// At the outermost level a stray END_IF closes nothing.
		return p.depth > 1 || strings.Contains(p.token.Word, "PROGRAM") || strings.Contains(p.token.Word, "FUNCTION")
	}
	return false
}

// otherElsif takes what other languages write for ELSIF as that.
func (p *parser) otherElsif() {
	if !p.token.named("ELSEIF") && !p.token.named("ELIF") {
		return
	}
	switch p.lookahead().Kind {
	case Assign, Dot, LBracket: // a name
		return
	}
	p.report(source.Elsif, p.token.Span, "Write ELSIF.", "%s is not a word of the language.", p.token.Text)
	p.token = Token{Kind: Keyword, Text: "ELSIF", Word: "ELSIF", Span: p.token.Span}
}

// skipStatement goes past the ; that ends a failed statement, or stops before
// a keyword that begins or ends one.
func (p *parser) skipStatement(start source.Span) {
	if p.token.Span == start && p.token.Kind != EOF {
		p.advance()
	}
	for p.token.Kind != EOF {
		if p.accept(Semicolon) {
			return
		}
		if p.token.Kind == Keyword {
			switch p.token.Word {
			case "IF", "CASE", "FOR", "WHILE", "REPEAT", "EXIT", "CONTINUE", "RETURN", "END_IF", "END_CASE", "END_FOR", "END_WHILE",
				"END_REPEAT", "END_PROGRAM", "END_FUNCTION", "END_FUNCTION_BLOCK", "ELSE", "ELSIF", "UNTIL", "RUNG", "END_LADDER":
				return
			}
		}
		p.advance()
	}
}

func (p *parser) statement() Statement {
	start := p.token.Span
	if p.token.Kind == Keyword {
		switch p.token.Word {
		case "IF":
			return p.ifStatement()
		case "CASE":
			return p.caseStatement()
		case "FOR":
			return p.forStatement()
		case "WHILE":
			return p.whileStatement()
		case "REPEAT":
			return p.repeatStatement()
		case "EXIT", "CONTINUE", "RETURN":
			word := p.token.Word
			p.advance()
			p.semicolon(word)
			return &Jump{word, start}
		case "VAR", "VAR_INPUT", "VAR_OUTPUT", "VAR_TEMP":
			p.report(source.Syntax, start, "Move it above the first statement.", "Variables are declared before the statements.")
			p.section()
			panic(failed{})
		case "RUNG":
			p.rungOutside()
			p.skipTo("END_LADDER", "END_PROGRAM", "END_FUNCTION", "END_FUNCTION_BLOCK")
			p.acceptWord("END_LADDER")
			panic(failed{})
		case "END_IF", "END_CASE", "END_FOR", "END_WHILE", "END_REPEAT", "ELSE", "ELSIF", "THEN", "DO", "UNTIL":
			p.fail("Remove it, or write what it belongs to.", "%s has nothing to belong to here.", p.token.Word)
		}
	}
	if p.token.Kind != Ident && p.token.Kind != AddressToken {
		p.fail("", "Expected a statement, found %s.", p.token.describe())
	}
	return p.assignmentOrCall()
}

func (p *parser) assignmentOrCall() Statement {
	var target Expr
	if p.token.Kind == AddressToken {
		target = p.address()
	} else {
		target = p.selected()
	}
	start := target.Place()
	if call, ok := target.(*Call); ok && p.token.Kind != Assign {
		p.semicolon("this call")
		return &CallStatement{call, start}
	}
	switch p.token.Kind {
	case Assign:
		p.advance()
	case Equal:
		p.report(source.Assignment, p.token.Span, "Write := instead.", "= compares; it gives %s no value.", start.Text())
		p.advance()
	case Colon:
		p.fail("Write := with no space between, and declare variables above in VAR … END_VAR.", "A lone : cannot stand here.")
	case Minus:
		if id, ok := target.(*Identifier); ok && p.lookahead().Kind == Ident {
			p.fail("Write "+id.Text+"_"+p.lookahead().Text+", for example.", "A name has no minus in it.")
		}
		p.fail("Write name := value; or instance(IN := value);", "Expected := after %s, found -.", start.Text())
	case Ident:
		if word := strings.ToUpper(start.Text()); word == "GOTO" || word == "JMP" {
			p.giveUp(start, "Use IF, or a loop with EXIT.", "Jumps are not supported.")
		}
		p.fail("A name is written without spaces; a value is given with :=.", "Expected := after %s, found %s.", start.Text(), p.token.describe())
	default:
		p.fail("Write name := value; or instance(IN := value);", "Expected := after %s, found %s.", start.Text(), p.token.describe())
	}
	value := p.expression()
	if p.token.Kind == Assign || p.token.Kind == Equal {
		p.fail("Write one assignment a line.", "One statement gives one variable a value.")
	}
	s := &Assignment{target, value, start.To(value.Place())}
	p.semicolon("this assignment")
	return s
}

// end takes the END_… of a statement, and the ; behind it.
func (p *parser) end(word string, start source.Span) source.Span {
	if !p.acceptWord(word) {
		p.report(source.Syntax, start, "Write "+word+"; at its end.", "This %s has no %s.", start.Text(), word)
		return start.To(p.last)
	}
	span := start.To(p.last)
	if p.token.Kind != Semicolon && p.sameLine() {
		p.fail("", "Expected ; after %s, found %s.", word, p.token.describe())
	}
	if !p.accept(Semicolon) {
		p.report(source.NoSemicolon, p.last, "Write ; after "+word+".", "The ; after %s is missing.", word)
	}
	return span
}

func (p *parser) condition(then string) Expr {
	x := p.expression()
	if p.token.Kind == Assign {
		p.report(source.Assignment, p.token.Span, "Write = instead.", ":= gives a value; a condition compares with =.")
		p.advance()
		sign := p.last
		y := p.binary(1)
		x = &Binary{"=", x, y, sign, x.Place().To(y.Place())}
	}
	if !p.acceptWord(then) {
		p.report(source.Syntax, p.last, "Write "+then+" after the condition.", "Expected %s after the condition, found %s.", then,
			p.token.describe())
		if p.token.Kind != Ident { // else a statement begins: only the word was left out
			for p.token.Kind != EOF && !p.token.Is(then) && p.token.Kind != Semicolon && p.sameLine() {
				p.advance()
			}
			p.acceptWord(then)
		}
	}
	return x
}

func (p *parser) ifStatement() Statement {
	s := &If{Span: p.token.Span}
	start := p.token.Span
	for first := true; first || p.token.Is("ELSIF"); first = false {
		p.advance()
		var arm Arm
		arm.Condition = p.condition("THEN")
		arm.Body = p.statements("ELSIF", "ELSE", "END_IF")
		s.Arms = append(s.Arms, arm)
	}
	if p.acceptWord("ELSE") {
		elseIf := p.last.To(p.token.Span)
		inner := p.token.Is("IF")
		s.Else = append([]Statement{}, p.statements("END_IF")...)
		if inner && !p.token.Is("END_IF") {
			p.report(source.Elsif, elseIf, "Write ELSIF in one word, or give the inner IF its own END_IF;.",
				"ELSE IF opens a second IF, which has no END_IF.")
			s.Span = start.To(p.last)
			return s
		}
	}
	s.Span = p.end("END_IF", start)
	return s
}

func (p *parser) caseStatement() Statement {
	s := &Case{Span: p.token.Span}
	start := p.token.Span
	p.advance()
	s.Value = p.condition("OF")
	for p.token.Kind != EOF && !p.closes([]string{"END_CASE", "ELSE"}) {
		var c Choice
		for {
			l := Label{From: p.binary(5)}
			if p.accept(Range) {
				l.To = p.binary(5)
			}
			c.Labels = append(c.Labels, l)
			if !p.accept(Comma) {
				break
			}
		}
		if !p.accept(Colon) {
			p.report(source.Syntax, p.last, "Write : after "+p.last.Text()+".", "The : after this value is missing.")
		}
		c.Body = p.statementsUntil(func() bool { return p.closes([]string{"ELSE", "END_CASE"}) || p.startsLabel() })
		s.Choices = append(s.Choices, c)
	}
	if p.acceptWord("ELSE") {
		s.Else = append([]Statement{}, p.statements("END_CASE")...)
	}
	s.Span = p.end("END_CASE", start)
	return s
}

func (p *parser) startsLabel() bool {
	switch p.token.Kind {
	case Int, Minus, Typed:
		return true
	case Ident:
		switch p.lookahead().Kind {
		case Colon, Comma, Range:
			return true
		}
	case Keyword:
		return p.token.Word == "TRUE" || p.token.Word == "FALSE"
	}
	return false
}

func (p *parser) forStatement() Statement {
	s := &For{Span: p.token.Span}
	start := p.token.Span
	p.advance()
	s.Counter = p.selected()
	p.expect(Assign, "after the counter")
	s.From = p.expression()
	p.expectWord("TO", "after the first value")
	s.To = p.expression()
	if p.acceptWord("BY") {
		s.Step = p.expression()
	}
	p.expectWord("DO", "after the last value")
	s.Body = p.statements("END_FOR")
	s.Span = p.end("END_FOR", start)
	return s
}

func (p *parser) whileStatement() Statement {
	s := &While{Span: p.token.Span}
	start := p.token.Span
	p.advance()
	s.Condition = p.condition("DO")
	s.Body = p.statements("END_WHILE")
	s.Span = p.end("END_WHILE", start)
	return s
}

func (p *parser) repeatStatement() Statement {
	s := &Repeat{Span: p.token.Span}
	start := p.token.Span
	p.advance()
	s.Body = p.statements("UNTIL")
	p.expectWord("UNTIL", "before the condition that ends the loop")
	s.Until = p.expression()
	p.accept(Semicolon)
	s.Span = p.end("END_REPEAT", start)
	return s
}
