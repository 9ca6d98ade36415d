package syntax

import (
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/pool"
	"celandine/core/source"
)

// Limits that keep a hostile text from costing more than an honest one.
const (
	MaxSize  = 256 << 10 // bytes of one program
	MaxName  = 128       // letters of a name
	MaxDepth = 100       // nested parentheses, branches or statements
)

// Parse reads one text. The file it returns is never nil; with errors in the
// list it holds what could be read. What was told of the text before stands in the list, too.
func Parse(file *source.File) (*File, source.List) {
	problems := slices.Clone(file.Told())
	if problems.HasErrors() {
		return &File{Source: file}, problems
	}
	if len(file.Text) > MaxSize {
		problems.Add(source.TooLarge, source.Span{File: file}, "Split it, or remove what is not needed.",
			"This program has %d KiB; the limit is %d KiB.", (len(file.Text)+1023)>>10, MaxSize>>10)
		return &File{Source: file}, problems
	}
	p := &parser{scanner: scanner{file: file, text: file.Text, problems: &problems}}
	p.advance()
	f := &File{Source: file}
	for p.token.Kind != EOF {
		p.declaration(f)
	}
	f.Comments = p.scanner.comments
	problems.Sort()
	return f, problems
}

type parser struct {
	nodes   nodes
	scanner scanner
	token   Token
	ahead   [2]Token    // read but not yet taken
	waiting int         // of them
	last    source.Span // of the token before
	depth   int
	over    bool // nothing more is read or reported
	// barMeansOr is set in structured text, where | is no branch.
	barMeansOr bool
	pins       bool // in a block diagram: the arguments of a call are pins
}

// nodes are where the nodes of which a long program has many come from.
type nodes struct {
	variables   pool.Pool[Variable]
	types       pool.Pool[TypeName]
	identifiers pool.Pool[Identifier]
	rungs       pool.Pool[Rung]
	series      pool.Pool[Series]
	parallels   pool.Pool[Parallel]
	contacts    pool.Pool[Contact]
	coils       pool.Pool[Coil]
	names       pool.Pool[Name]
	elements    pool.Pool[Element]
	open        []Element // of the series being read, each behind the one that it stands in
}

// failed unwinds to the nearest place from which reading can go on.
type failed struct{}

func (p *parser) advance() {
	p.last = p.token.Span
	if p.over {
		p.token = Token{Kind: EOF, Span: p.scanner.span(len(p.scanner.text))}
		return
	}
	p.token = p.taken()
	if len(p.token.Text) == len("END") && p.token.named("END") {
		p.joinEnd()
	}
}

// taken takes the next token.
func (p *parser) taken() (t Token) {
	if p.waiting == 0 {
		return p.scanner.next()
	}
	t, p.ahead[0] = p.ahead[0], p.ahead[1]
	p.waiting--
	return t
}

// joinEnd takes END IF, in two words, as END_IF.
func (p *parser) joinEnd() {
	next := p.lookahead()
	word, ends := "END_"+next.Word, next.Kind == Keyword || next.named("LADDER") || next.named("FBD")
	if next.Kind != Keyword {
		word = "END_" + strings.ToUpper(next.Text)
	}
	if !ends || keywords[word] == "" && word != "END_LADDER" && word != "END_FBD" ||
		strings.Contains(p.scanner.text[p.token.Span.End:next.Span.Start], "\n") {
		return
	}
	at := p.token.Span.To(next.Span)
	p.report(source.Syntax, at, "Write "+word+".", "%s is one word.", word)
	p.taken()
	p.token = Token{Kind: Keyword, Text: word, Word: word, Span: at}
}

func (p *parser) lookahead() *Token { return p.read(0) }

// read returns a token that comes later: of those behind the present one the first or the second.
func (p *parser) read(later int) *Token {
	for p.waiting <= later {
		p.ahead[p.waiting] = p.scanner.next()
		p.waiting++
	}
	return &p.ahead[later]
}

func (p *parser) report(code source.Code, span source.Span, hint, format string, args ...any) {
	if !p.over {
		p.scanner.problems.Add(code, span, hint, format, args...)
	}
}

// fail reports what was expected and gives this statement, rung or declaration up.
func (p *parser) fail(hint, format string, args ...any) {
	if p.token.Kind != Bad { // the scanner has told already
		p.report(source.Syntax, p.token.Span, hint, format, args...)
	}
	panic(failed{})
}

// try runs read and reports whether it came to its end.
func (p *parser) try(read func()) (ok bool) {
	depth, elements := p.depth, len(p.nodes.open)
	defer func() {
		if r := recover(); r != nil {
			if _, mine := r.(failed); !mine {
				panic(r)
			}
			p.depth, p.nodes.open = depth, p.nodes.open[:elements]
		}
	}()
	read()
	return true
}

// deeper guards against a text that nests without end.
func (p *parser) deeper() {
	p.depth++
	if p.depth > MaxDepth {
		p.report(source.TooDeep, p.token.Span, "Split it into smaller parts.", "This is nested more than %d deep.", MaxDepth)
		p.over, p.waiting, p.scanner.at = true, 0, len(p.scanner.text)
		p.advance()
		panic(failed{})
	}
}

func (p *parser) accept(kind Kind) bool {
	if p.token.Kind != kind {
		return false
	}
	p.advance()
	return true
}

func (p *parser) acceptWord(word string) bool {
	if !p.token.Is(word) {
		return false
	}
	p.advance()
	return true
}

func (p *parser) expect(kind Kind, after string) {
	if !p.accept(kind) {
		p.fail("", "Expected %s %s, found %s.", kind, after, p.token.describe())
	}
}

// close expects a closing sign, and says where the one that it closes was opened.
func (p *parser) close(kind Kind, opened source.Span) {
	if p.accept(kind) {
		return
	}
	if p.token.Kind != Bad {
		p.report(source.Syntax, opened, "Write "+kind.String()+" where it ends.", "This %s is never closed: %s stands where %s should.",
			opened.Text(), p.token.describe(), kind)
	}
	panic(failed{})
}

func (p *parser) expectWord(word, where string) {
	if !p.acceptWord(word) {
		p.fail("", "Expected %s %s, found %s.", word, where, p.token.describe())
	}
}

func (p *parser) name(what string) Name {
	if p.token.Kind == Keyword {
		p.fail("Choose another name, for example my_"+strings.ToLower(p.token.Text)+".", "%s is a word of the language and cannot be %s.",
			p.token.Word, what)
	}
	if p.token.Kind != Ident {
		p.fail("", "Expected %s, found %s.", what, p.token.describe())
	}
	n := Name{p.token.Text, p.token.Span}
	p.advance()
	return n
}

// skipTo leaves the parser at one of the keywords, or at the end.
func (p *parser) skipTo(words ...string) {
	for p.token.Kind != EOF {
		for _, w := range words {
			if p.token.Is(w) {
				return
			}
		}
		p.advance()
	}
}

// declaration reads one TYPE, VAR_GLOBAL, FUNCTION, FUNCTION_BLOCK or PROGRAM.
func (p *parser) declaration(f *File) {
	start := p.token.Span
	switch {
	case p.token.Is("VAR_GLOBAL"):
		f.Globals = append(f.Globals, p.section())
		return
	case p.acceptWord("TYPE"):
		f.Types = append(f.Types, p.types(start)...)
		return
	}
	for _, kind := range []UnitKind{Program, FunctionBlock, Function} {
		if p.acceptWord(string(kind)) {
			f.Units = append(f.Units, p.unitOf(kind, start))
			return
		}
	}
	p.report(source.Syntax, p.token.Span, "Begin with PROGRAM name, and close with END_PROGRAM.", "Expected PROGRAM, found %s.",
		p.token.describe())
	p.advance()
	p.skipTo("PROGRAM", "FUNCTION_BLOCK", "FUNCTION", "TYPE", "VAR_GLOBAL")
}

func (p *parser) unitOf(kind UnitKind, start source.Span) *Unit {
	u := &Unit{Kind: kind, Name: Name{string(kind), start}}
	closing := "END_" + string(kind)
	p.try(func() {
		u.Name = p.name("the name of this " + string(kind))
		if p.accept(Colon) {
			u.Result = p.typeExpr()
		}
		p.accept(Semicolon)
	})
	for p.token.Kind == Keyword && strings.HasPrefix(p.token.Word, "VAR") {
		u.Sections = append(u.Sections, p.section())
	}
	u.Body = p.body(closing)
	if !p.acceptWord(closing) {
		p.report(source.Syntax, u.Name.Span, "Write "+closing+" at its end.", "This %s has no %s.", kind, closing)
		p.skipTo("PROGRAM", "FUNCTION_BLOCK", "FUNCTION", "TYPE", "VAR_GLOBAL")
	}
	u.Span = start.To(p.last)
	return u
}

func (p *parser) section() *Section {
	s := &Section{Word: p.token.Word, Span: p.token.Span}
	p.advance()
	for {
		switch {
		case p.acceptWord("CONSTANT"):
			s.Constant = true
			continue
		case p.acceptWord("RETAIN"):
			s.Retain = true
			continue
		}
		break
	}
	for p.token.Kind != EOF && !p.token.Is("END_VAR") {
		if p.startsBody() {
			p.report(source.Syntax, s.Span, "Write END_VAR after the last variable.", "%s has no END_VAR.", s.Word)
			return s
		}
		v := p.nodes.variables.New()
		ok := p.try(func() { p.variableInto(v) })
		if len(v.Names) > 0 { // a name is known though the rest may be wrong
			if v.Type == nil {
				v.Type = &TypeName{Name{Span: v.Names[len(v.Names)-1].Span}}
			}
			s.Variables = append(s.Variables, v)
		}
		if !ok {
			p.skipDeclaration()
		}
	}
	p.acceptWord("END_VAR")
	s.Span = s.Span.To(p.last)
	return s
}

// startsBody reports whether the token can stand in a body or open another
// section, but not in a list of variables. A keyword before a colon was meant as a name.
func (p *parser) startsBody() bool {
	if p.token.Kind != Keyword || p.lookahead().Kind == Colon {
		return false
	}
	switch p.token.Word {
	case "LADDER", "IF", "CASE", "FOR", "WHILE", "REPEAT", "RUNG", "PROGRAM", "END_PROGRAM", "END_FUNCTION", "END_FUNCTION_BLOCK":
		return true
	}
	return strings.HasPrefix(p.token.Word, "VAR")
}

func (p *parser) skipDeclaration() {
	for p.token.Kind != EOF && !p.token.Is("END_VAR") && !p.startsBody() {
		if p.accept(Semicolon) {
			return
		}
		p.advance()
	}
}

func (p *parser) variable() *Variable {
	v := &Variable{}
	p.variableInto(v)
	return v
}

// variableInto reads a declaration; when it fails, v holds what could be read.
func (p *parser) variableInto(v *Variable) {
	v.Span = p.token.Span
	v.Names = p.nodes.names.List(p.variableName())
	for p.accept(Comma) {
		v.Names = append(v.Names, p.variableName())
	}
	if p.acceptWord("AT") {
		if p.token.Kind != AddressToken {
			p.fail("Write it like %IX0.3 (input), %QX0.3 (output) or %MW4 (memory).", "Expected an address after AT, found %s.", p.token.describe())
		}
		v.Address = p.address()
	}
	if p.token.Kind == Assign || p.token.Kind == Semicolon {
		p.fail("Write, for example, "+v.Names[0].Text+" : BOOL;", "The type of %s is missing.", v.Names[0].Text)
	}
	if p.missingColon() {
		name := v.Names[len(v.Names)-1].Text
		p.report(source.Syntax, p.token.Span, "Write "+name+" : "+p.token.Text+";", "The : between %s and its type %s is missing.", name,
			p.token.Text)
	} else {
		p.expect(Colon, "after the name")
	}
	v.Type = p.typeExpr()
	if p.token.Kind == Equal {
		p.fail("Write := for an initial value.", "= compares; it does not give a value.")
	}
	if p.accept(Assign) {
		v.Initial = p.initial()
	}
	v.Span = v.Span.To(p.last)
	p.semicolon("this declaration")
}

// variableName reads a name and tells the legal spelling of one with a space.
func (p *parser) variableName() Name {
	n := p.name("a variable's name")
	if p.token.Kind == Minus && p.lookahead().Kind == Ident {
		return p.withMinus(n)
	}
	if p.token.Kind != Ident || p.missingColon() {
		return n
	}
	parts := []string{n.Text}
	for (p.token.Kind == Ident || p.token.Kind == Int) && !p.missingColon() {
		parts = append(parts, p.token.Text)
		n.Span = n.Span.To(p.token.Span)
		p.advance()
	}
	n.Text = strings.Join(parts, "_")
	p.report(source.WrongName, n.Span, "Write "+n.Text+".", "A name has no space in it.")
	return n
}

// withMinus reads the rest of a name like fan-valve and tells the legal spelling.
func (p *parser) withMinus(n Name) Name {
	for p.token.Kind == Minus && p.lookahead().Kind == Ident {
		p.advance()
		n.Text += "_" + p.token.Text
		n.Span = n.Span.To(p.token.Span)
		p.advance()
	}
	p.report(source.WrongName, n.Span, "Write "+n.Text+".", "A name has no minus in it.")
	return n
}

// typeWords are, beside the standard blocks, types that a beginner declares with; one of them behind a name is the type, not part of
// the name.
var typeWords = map[string]bool{"BOOL": true, "INT": true, "DINT": true, "UINT": true, "REAL": true, "LREAL": true, "TIME": true,
	"WORD": true, "BYTE": true, "STRING": true}

// missingColon reports a type where the : before it was left out.
func (p *parser) missingColon() bool {
	if p.token.Kind != Ident {
		return false
	}
	if next := p.lookahead().Kind; next != Semicolon && next != Assign {
		return false
	}
	block, _ := block.Named(p.token.Text)
	return block != nil || typeWords[strings.ToUpper(p.token.Text)]
}

// semicolon takes the ; that ends something. Where it is missing but the next
// line begins something new, it says so and reading goes on.
func (p *parser) semicolon(what string) {
	if p.accept(Semicolon) {
		return
	}
	end := source.Span{File: p.scanner.file, Start: max(p.last.End-1, p.last.Start), End: p.last.End}
	p.report(source.NoSemicolon, end, "Write ; after "+p.last.Text()+".", "The ; at the end of %s is missing.", what)
	if p.sameLine() {
		panic(failed{})
	}
}

// sameLine reports whether the token stands on the line of the one before.
func (p *parser) sameLine() bool {
	if p.token.Kind == EOF || p.token.Kind == Keyword {
		return false
	}
	return !strings.Contains(p.scanner.text[p.last.End:p.token.Span.Start], "\n")
}

func (p *parser) body(closing string) Body {
	if p.acceptWord("FBD") {
		return p.diagram(closing)
	}
	if p.acceptWord("LADDER") {
		return p.ladder(closing)
	}
	if p.token.Is("RUNG") {
		p.rungOutside()
		l := p.rungs(closing)
		p.acceptWord("END_LADDER")
		return l
	}
	p.barMeansOr = true
	t := &Text{Statements: p.statements(closing)}
	p.barMeansOr = false
	return t
}
