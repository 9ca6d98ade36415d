package syntax

import (
	"strings"

	"celandine/core/source"
)

// Print writes a file as canonical text: two spaces a level, one declaration or
// statement a line, keywords in capitals, comments kept beside what they stood
// beside. Printing what was printed changes nothing.
func Print(f *File) string {
	p := &printer{file: f.Source, comments: f.Comments}
	var parts []part
	for _, t := range f.Types {
		parts = append(parts, part{t.Span.Start, func() { p.typeDeclaration(t) }})
	}
	for _, s := range f.Globals {
		parts = append(parts, part{s.Span.Start, func() { p.section(s) }})
	}
	for _, u := range f.Units {
		parts = append(parts, part{u.Span.Start, func() { p.unit(u) }})
	}
	for i := range parts { // few, and nearly in order
		for j := i; j > 0 && parts[j].start < parts[j-1].start; j-- {
			parts[j], parts[j-1] = parts[j-1], parts[j]
		}
	}
	for i, one := range parts {
		if i > 0 {
			p.out.WriteByte('\n')
		}
		p.flush(one.start)
		one.print()
	}
	p.flush(len(f.Source.Text) + 1)
	return p.out.String()
}

// part is something at the outermost level, with where it stood.
type part struct {
	start int
	print func()
}

type printer struct {
	file     *source.File
	out      strings.Builder
	comments []Comment // not yet printed
	level    int
	end      int // in the source, of what was printed last
}

// line prints one line that ends, in the source, at end, and the comments that
// stood inside it or behind it on its last line.
func (p *printer) line(end int, words ...string) {
	p.out.WriteString(strings.Repeat("  ", p.level) + strings.Join(words, ""))
	p.end = end
	for len(p.comments) > 0 && (p.comments[0].Span.Start < end || p.sameLine(end, p.comments[0].Span.Start)) {
		c := p.comments[0]
		p.comments = p.comments[1:]
		p.out.WriteString(" " + c.Text)
		if strings.HasPrefix(c.Text, "//") {
			break
		}
	}
	p.out.WriteByte('\n')
	p.flush(end)
}

// sameLine reports whether nothing but what ends a line of code stands between
// two places on one line.
func (p *printer) sameLine(a, b int) bool {
	text := p.file.Text
	if a > b || b > len(text) || strings.Contains(text[a:b], "\n") {
		return false
	}
	switch strings.ToUpper(strings.Trim(text[a:b], " \t\r;:")) {
	case "", "THEN", "DO", "OF":
		return true
	}
	return false
}

// flush prints the comments before a place, each on a line of its own.
func (p *printer) flush(before int) {
	for len(p.comments) > 0 && p.comments[0].Span.Start < before {
		p.out.WriteString(strings.Repeat("  ", p.level) + p.comments[0].Text + "\n")
		p.comments = p.comments[1:]
	}
}

func (p *printer) indented(print func()) {
	p.level++
	print()
	p.level--
}

func (p *printer) typeDeclaration(t *TypeDeclaration) {
	p.line(p.end, "TYPE")
	p.indented(func() {
		words := t.Name.Text + " : " + p.typeExpr(t.Type)
		if t.Initial != nil {
			words += " := " + expression(t.Initial)
		}
		p.line(t.Span.End, words, ";")
	})
	p.line(t.Span.End, "END_TYPE")
}

func (p *printer) typeExpr(t TypeExpr) string {
	switch t := t.(type) {
	case *TypeName:
		return t.Text
	case *StringType:
		if t.Length == nil {
			return "STRING"
		}
		return "STRING[" + expression(t.Length) + "]"
	case *SubrangeType:
		return t.Base.Text + " (" + expression(t.Low) + ".." + expression(t.High) + ")"
	case *EnumType:
		return "(" + joinNames(t.Values) + ")"
	case *ArrayType:
		var ranges []string
		for _, r := range t.Ranges {
			ranges = append(ranges, expression(r.Low)+".."+expression(r.High))
		}
		return "ARRAY [" + strings.Join(ranges, ", ") + "] OF " + p.typeExpr(t.Element)
	case *StructType:
		var fields []string
		for _, f := range t.Fields {
			fields = append(fields, p.variable(f)+";")
		}
		return "STRUCT " + strings.Join(fields, " ") + " END_STRUCT"
	}
	return ""
}

func joinNames(names []Name) string {
	words := make([]string, len(names))
	for i, n := range names {
		words[i] = n.Text
	}
	return strings.Join(words, ", ")
}

func (p *printer) variable(v *Variable) string {
	text := joinNames(v.Names)
	if v.Address != nil {
		text += " AT " + v.Address.Text
	}
	text += " : " + p.typeExpr(v.Type)
	if v.Initial != nil {
		text += " := " + expression(v.Initial)
	}
	return text
}

func (p *printer) section(s *Section) {
	words := s.Word
	if s.Constant {
		words += " CONSTANT"
	}
	if s.Retain {
		words += " RETAIN"
	}
	p.line(s.Span.Start+len(s.Word), words)
	p.indented(func() {
		for _, v := range s.Variables {
			p.flush(v.Span.Start)
			p.line(v.Span.End, p.variable(v), ";")
		}
		p.flush(s.Span.End)
	})
	p.line(s.Span.End, "END_VAR")
}

func (p *printer) unit(u *Unit) {
	words := string(u.Kind) + " " + u.Name.Text
	if u.Result != nil {
		words += " : " + p.typeExpr(u.Result)
	}
	p.line(u.Name.Span.End, words)
	for _, s := range u.Sections {
		p.flush(s.Span.Start)
		p.section(s)
	}
	closing := "END_" + string(u.Kind)
	switch body := u.Body.(type) {
	case *Ladder:
		p.line(p.end, "LADDER")
		for _, r := range body.Rungs {
			p.flush(r.Span.Start)
			p.rung(r)
		}
		p.flush(u.Span.End)
		p.line(p.end, "END_LADDER")
	case *Diagram:
		p.line(p.end, "FBD")
		for _, n := range body.Networks {
			p.flush(n.Span.Start)
			p.network(n)
		}
		p.flush(u.Span.End)
		p.line(p.end, "END_FBD")
	case *Text:
		p.statements(body.Statements)
		p.flush(u.Span.End)
	}
	p.line(u.Span.End, closing)
}

func (p *printer) rung(r *Rung) {
	words := "RUNG"
	if r.Title != "" {
		words += " '" + r.Title + "'"
	}
	net := series(r.Net)
	if net != "" && r.Title != "" {
		p.out.WriteString(strings.Repeat("  ", p.level) + words + "\n")
		p.indented(func() { p.line(r.Span.End, net, ";") })
		return
	}
	if net != "" {
		words += " " + net
	}
	p.line(r.Span.End, words, ";")
}

// PrintRung writes one rung as canonical text, without the comments in it.
func PrintRung(r *Rung) string {
	p := &printer{}
	p.rung(r)
	return p.out.String()
}

// PrintNetwork writes one network of a block diagram as canonical text, without the comments in it.
func PrintNetwork(n *Network) string {
	p := &printer{file: &source.File{}}
	p.network(n)
	return p.out.String()
}

// PrintStatement writes one statement as canonical text, without the comments in it.
func PrintStatement(s Statement) string {
	p := &printer{file: &source.File{}}
	p.statement(s)
	return p.out.String()
}

// PrintExpression writes an expression as canonical text.
func PrintExpression(e Expr) string { return expression(e) }

// PrintType writes a type as canonical text.
func PrintType(t TypeExpr) string { return (&printer{}).typeExpr(t) }

// PrintElements writes elements in series as canonical text.
func PrintElements(list []Element) string { return series(&Series{Elements: list}) }

func series(s *Series) string {
	words := make([]string, len(s.Elements))
	for i, e := range s.Elements {
		words[i] = element(e)
	}
	return strings.Join(words, " -- ")
}

// named writes what a contact or coil holds; a name that in capitals is a mark, in small letters.
func named(e Expr) string {
	switch text := expression(e); text {
	case "P", "N", "S", "R":
		return strings.ToLower(text)
	default:
		return text
	}
}

func element(e Element) string {
	switch e := e.(type) {
	case *Series:
		return series(e)
	case *Parallel:
		text := "{"
		for i, b := range e.Branches {
			if i > 0 {
				text += " |"
			}
			if words := series(b); words != "" {
				text += " " + words
			}
		}
		return text + " }"
	case *Contact:
		text := string(e.Kind)
		if e.Operand != nil {
			if len(text) > 0 && text != "/" {
				text += " "
			}
			text += named(e.Operand)
		}
		if e.Memory != nil {
			text += " @ " + expression(e.Memory)
		}
		return "[" + text + "]"
	case *Coil:
		text := string(e.Kind)
		if e.Operand != nil {
			if len(text) > 0 && text != "/" {
				text += " "
			}
			text += named(e.Operand)
		}
		return "(" + text + ")"
	case *Box:
		list := e.Call.Arguments
		text := expression(e.Call.Callee) + "("
		if e.EN {
			text += "EN"
			if len(list) > 0 {
				text += ", "
			}
		}
		text += arguments(list) + ")"
		if e.Result != nil {
			text += " => " + expression(e.Result)
		}
		return text
	}
	return ""
}

func (p *printer) network(n *Network) {
	words := "NETWORK"
	if n.Title != "" || beginsWithText(n) {
		words += " '" + n.Title + "'"
	}
	p.line(n.Span.Start+len("NETWORK"), words)
	p.indented(func() {
		for _, node := range n.Nodes {
			p.flush(node.Span.Start)
			p.line(node.Span.End, nodeText(node), ";")
		}
		p.flush(n.Span.End)
	})
}

// beginsWithText reports a network whose first value would be taken for its title.
func beginsWithText(n *Network) bool {
	if len(n.Nodes) == 0 || n.Nodes[0].Wire != nil {
		return false
	}
	l, ok := n.Nodes[0].Value.(*Literal)
	return ok && l.Kind == Str
}

func nodeText(n *Node) string {
	text := expression(n.Value)
	if n.Wire != nil {
		text = "wire " + n.Wire.Text + " := " + text
	}
	targets := make([]string, len(n.Targets))
	for i, t := range n.Targets {
		if targets[i] = element(t); t.Kind == PlainCoil || t.Kind == NegatedCoil {
			targets[i] = string(t.Kind) + expression(t.Operand)
		}
	}
	switch len(targets) {
	case 0:
		return text
	case 1:
		return text + " => " + targets[0]
	}
	return text + " => { " + strings.Join(targets, " | ") + " }"
}

func (p *printer) statements(list []Statement) {
	for _, s := range list {
		p.flush(PlaceOf(s).Start)
		p.statement(s)
	}
}

func (p *printer) inside(list []Statement) { p.indented(func() { p.statements(list) }) }

// PlaceOf returns where a statement stands.
func PlaceOf(s Statement) source.Span {
	switch s := s.(type) {
	case *Assignment:
		return s.Span
	case *CallStatement:
		return s.Span
	case *If:
		return s.Span
	case *Case:
		return s.Span
	case *For:
		return s.Span
	case *While:
		return s.Span
	case *Repeat:
		return s.Span
	case *Jump:
		return s.Span
	}
	return source.Span{}
}

func (p *printer) statement(s Statement) {
	switch s := s.(type) {
	case *Assignment:
		p.line(s.Span.End, expression(s.Target), " := ", expression(s.Value), ";")
	case *CallStatement:
		p.line(s.Call.Span.End, expression(s.Call), ";")
	case *Jump:
		p.line(s.Span.End, s.Word, ";")
	case *If:
		for i, arm := range s.Arms {
			word := "IF "
			if i > 0 {
				word = "ELSIF "
				p.closing(arm.Condition.Place().Start)
			}
			p.line(arm.Condition.Place().End, word, expression(arm.Condition), " THEN")
			p.inside(arm.Body)
		}
		p.otherwise(s.Else)
		p.closing(s.Span.End)
		p.line(s.Span.End, "END_IF;")
	case *Case:
		p.caseStatement(s)
	case *For:
		words := "FOR " + expression(s.Counter) + " := " + expression(s.From) + " TO " + expression(s.To)
		last := s.To
		if s.Step != nil {
			words += " BY " + expression(s.Step)
			last = s.Step
		}
		p.line(last.Place().End, words, " DO")
		p.inside(s.Body)
		p.closing(s.Span.End)
		p.line(s.Span.End, "END_FOR;")
	case *While:
		p.line(s.Condition.Place().End, "WHILE ", expression(s.Condition), " DO")
		p.inside(s.Body)
		p.closing(s.Span.End)
		p.line(s.Span.End, "END_WHILE;")
	case *Repeat:
		p.line(s.Span.Start, "REPEAT")
		p.inside(s.Body)
		p.closing(s.Until.Place().Start)
		p.line(s.Until.Place().End, "UNTIL ", expression(s.Until))
		p.line(s.Span.End, "END_REPEAT;")
	}
}

// closing prints the comments that stand before the end of a statement's part.
func (p *printer) closing(before int) {
	p.indented(func() { p.flush(before) })
}

func (p *printer) otherwise(list []Statement) {
	if list == nil {
		return
	}
	p.line(p.end, "ELSE")
	p.inside(list)
}

func (p *printer) caseStatement(s *Case) {
	p.line(s.Value.Place().End, "CASE ", expression(s.Value), " OF")
	p.indented(func() {
		for _, c := range s.Choices {
			var labels []string
			end := 0
			for _, l := range c.Labels {
				text := expression(l.From)
				end = l.From.Place().End
				if l.To != nil {
					text += ".." + expression(l.To)
					end = l.To.Place().End
				}
				labels = append(labels, text)
			}
			p.flush(c.Labels[0].From.Place().Start)
			p.line(end, strings.Join(labels, ", "), ":")
			p.inside(c.Body)
		}
	})
	p.otherwise(s.Else)
	p.closing(s.Span.End)
	p.line(s.Span.End, "END_CASE;")
}

// expression writes an expression on one line; the parentheses that a person
// wrote are part of the tree.
func expression(e Expr) string {
	switch e := e.(type) {
	case *Identifier:
		return e.Text
	case *Member:
		return expression(e.Of) + "." + e.Field.Text
	case *Index:
		words := make([]string, len(e.At))
		for i, x := range e.At {
			words[i] = expression(x)
		}
		return expression(e.Of) + "[" + strings.Join(words, ", ") + "]"
	case *Address:
		return e.Text
	case *Literal:
		return e.Text
	case *Unary:
		if e.Op == "NOT" {
			return "NOT " + expression(e.X)
		}
		inner := expression(e.X)
		if strings.HasPrefix(inner, "-") {
			inner = " " + inner // two minus signs are a wire
		}
		return e.Op + inner
	case *Binary:
		return expression(e.X) + " " + e.Op + " " + expression(e.Y)
	case *Paren:
		return "(" + expression(e.X) + ")"
	case *Call:
		return expression(e.Callee) + "(" + arguments(e.Arguments) + ")"
	case *Inverted:
		return "/" + expression(e.X)
	case *Contact:
		return element(e)
	case *ArrayValue:
		words := make([]string, len(e.Items))
		for i, item := range e.Items {
			words[i] = expression(item.Value)
			if item.Count != nil {
				words[i] = expression(item.Count) + "(" + words[i] + ")"
			}
		}
		return "[" + strings.Join(words, ", ") + "]"
	case *StructValue:
		return "(" + arguments(e.Fields) + ")"
	}
	return ""
}

func arguments(list []Argument) string {
	words := make([]string, len(list))
	for i, a := range list {
		switch {
		case a.Name == nil && a.Value == nil: // an input of a block diagram with nothing connected
		case a.Name == nil:
			words[i] = expression(a.Value)
		case a.Output:
			words[i] = a.Name.Text + " => "
		default:
			words[i] = a.Name.Text + " := "
		}
		if a.Name != nil {
			if a.Value != nil {
				words[i] += expression(a.Value)
			}
			words[i] = strings.TrimRight(words[i], " ")
		}
	}
	return strings.Join(words, ", ")
}
