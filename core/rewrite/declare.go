package rewrite

import (
	"errors"
	"strings"

	"celandine/core/say"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Variable is a declaration as a table shows it. Section is VAR, VAR_INPUT and so on; Description is the comment
// behind it.
type Variable struct {
	Name        string `json:"name"`
	Section     string `json:"section"`
	Type        string `json:"type"`
	Address     string `json:"address"`
	Initial     string `json:"initial"`
	Description string `json:"description"`
	Line        int    `json:"line"`
}

// Variables lists what a unit declares.
func (p *Program) Variables(unit int) []Variable {
	u, err := p.unit(unit)
	if err != nil {
		return nil
	}
	var list []Variable
	for _, s := range u.Sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				list = append(list, p.variable(s, v, n))
			}
		}
	}
	return list
}

func (p *Program) variable(s *syntax.Section, v *syntax.Variable, n syntax.Name) Variable {
	out := Variable{Name: n.Text, Section: s.Word, Type: v.Type.Place().Text()}
	if v.Address != nil {
		out.Address = v.Address.Text
	}
	if v.Initial != nil {
		out.Initial = v.Initial.Place().Text()
	}
	if c := p.commentBehind(v); c != nil {
		out.Description = plainComment(c.Text)
	}
	out.Line, _ = p.file.Position(n.Span.Start)
	return out
}

// endOfDeclaration returns the place behind a declaration's semicolon.
func (p *Program) endOfDeclaration(v *syntax.Variable) int {
	if n := strings.IndexByte(p.file.Text[v.Span.End:], ';'); n >= 0 && strings.TrimSpace(p.file.Text[v.Span.End:v.Span.End+n]) == "" {
		return v.Span.End + n + 1
	}
	return v.Span.End
}

// commentBehind returns the comment on the rest of a declaration's line, or nil.
func (p *Program) commentBehind(v *syntax.Variable) *syntax.Comment {
	end := p.endOfDeclaration(v)
	for i, c := range p.tree.Comments {
		if c.Span.Start >= end && strings.Trim(p.file.Text[end:c.Span.Start], " \t") == "" {
			return &p.tree.Comments[i]
		}
	}
	return nil
}

// legal reports what cannot be a name.
func legal(name string) error {
	switch {
	case !syntax.IsName(name) || strings.Contains(name, "__") || strings.HasSuffix(name, "_"):
		return say.Errorf("%q cannot be a name: write letters, digits and single underscores, beginning with a letter", name)
	case syntax.IsKeyword(name):
		return say.Errorf("%s is a word of the language and cannot be a name; write my_%s, for example", strings.ToUpper(name),
			strings.ToLower(name))
	case len(name) > syntax.MaxName:
		return say.Errorf("this name has %d letters; a name has at most %d", len(name), syntax.MaxName)
	}
	return nil
}

// String writes the declaration as a line of a section.
func (v Variable) String() string {
	text := v.Name
	if v.Address != "" {
		text += " AT " + v.Address
	}
	text += " : " + v.Type
	if v.Initial != "" {
		text += " := " + v.Initial
	}
	text += ";"
	if v.Description != "" {
		text += " // " + v.Description
	}
	return text
}

// valid reports what cannot be declared, by reading the declaration alone.
func (v Variable) valid() error {
	if err := legal(v.Name); err != nil {
		return err
	}
	if strings.ContainsAny(v.Description, "\r\n") {
		return errors.New("a description is one line")
	}
	tree, problems := syntax.Parse(source.NewFile("declaration", "PROGRAM p\n"+v.section()+"\n"+v.String()+"\nEND_VAR\nEND_PROGRAM\n"))
	if len(problems) > 0 {
		return say.Errorf("%s", strings.TrimSpace(problems[0].Message+" "+problems[0].Hint))
	}
	if len(tree.Units) != 1 || len(tree.Units[0].Sections) != 1 || len(tree.Units[0].Sections[0].Variables) != 1 {
		return errors.New("this is not one declaration")
	}
	return nil
}

func (v Variable) section() string {
	if v.Section == "" {
		return "VAR"
	}
	return v.Section
}

// Declare adds a variable to a unit. A name such as tray_{1..10} adds a numbered series, at one address after the other.
func (p *Program) Declare(unit int, v Variable) (Change, error) {
	u, err := p.unit(unit)
	if err != nil {
		return Change{}, err
	}
	series, err := source.SeriesOf(v.Name)
	if err != nil {
		return Change{}, err
	}
	var lines string
	for i := series.From; i <= series.To; i++ {
		one := v
		one.Name, one.Description, one.Address = series.Name(v.Name, i), series.Name(v.Description, i),
			source.AddressAfter(v.Address, i-series.From)
		if err := one.valid(); err != nil {
			return Change{}, err
		}
		if declares(u, one.Name) {
			return Change{}, say.Errorf("%s is declared already", one.Name)
		}
		lines += "  " + one.String() + "\n"
	}
	return Change{p.enter(u, v.section(), lines), Place{Unit: unit}}, nil
}

func declares(u *syntax.Unit, name string) bool {
	for _, s := range u.Sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if strings.EqualFold(n.Text, name) {
					return true
				}
			}
		}
	}
	return false
}

// enter writes lines at the end of the unit's section of that word, or into a new one.
func (p *Program) enter(u *syntax.Unit, word, lines string) string {
	at := u.Name.Span.End
	if u.Result != nil {
		at = u.Result.Place().End
	}
	for _, s := range u.Sections {
		at = s.Span.End
		closing := s.Span.End - len("END_VAR")
		if s.Word != word || s.Constant || s.Retain || !strings.EqualFold(p.file.Text[closing:s.Span.End], "END_VAR") {
			continue
		}
		end := closing
		for end > 0 && strings.IndexByte(" \t\r\n", p.file.Text[end-1]) >= 0 {
			end--
		}
		return p.splice(end, closing, "\n"+lines)
	}
	end := p.endOfLine(at)
	before := ""
	if p.file.Text[end-1] != '\n' {
		before = "\n"
	}
	return p.splice(end, end, before+word+"\n"+lines+"END_VAR\n")
}

// find returns a unit's declaration of a name.
func (p *Program) find(unit int, name string) (*syntax.Section, *syntax.Variable, int, error) {
	u, err := p.unit(unit)
	if err != nil {
		return nil, nil, 0, err
	}
	for _, s := range u.Sections {
		for _, v := range s.Variables {
			for i, n := range v.Names {
				if strings.EqualFold(n.Text, name) {
					return s, v, i, nil
				}
			}
		}
	}
	return nil, nil, 0, say.Errorf("%s does not declare %s", u.Name.Text, name)
}

// Redeclare changes the type, address, initial value or description of a variable; its name and section stay.
func (p *Program) Redeclare(unit int, v Variable) (Change, error) {
	s, old, n, err := p.find(unit, v.Name)
	if err != nil {
		return Change{}, err
	}
	v.Name, v.Section = old.Names[n].Text, s.Word
	if err := v.valid(); err != nil {
		return Change{}, err
	}
	words := v.String()
	start, end := old.Span.Start, p.endOfDeclaration(old)
	if c := p.commentBehind(old); c != nil {
		end = c.Span.End
	}
	if len(old.Names) > 1 { // the others keep theirs
		words = p.without(old, n) + "\n  " + words
	}
	if strings.Contains(words, "//") && p.endOfLine(end) == end {
		words += "\n  "
	}
	return Change{p.splice(start, end, words), Place{Unit: unit}}, nil
}

// without writes a declaration of several names without one of them.
func (p *Program) without(v *syntax.Variable, n int) string {
	var names []string
	for i, name := range v.Names {
		if i != n {
			names = append(names, name.Text)
		}
	}
	last := v.Names[len(v.Names)-1].Span.End
	return strings.Join(names, ", ") + p.file.Text[last:p.endOfDeclaration(v)]
}

// Undeclare removes a variable's declaration.
func (p *Program) Undeclare(unit int, name string) (Change, error) {
	s, v, n, err := p.find(unit, name)
	if err != nil {
		return Change{}, err
	}
	if len(v.Names) > 1 {
		return Change{p.splice(v.Span.Start, p.endOfDeclaration(v), p.without(v, n)), Place{Unit: unit}}, nil
	}
	start, end := v.Span.Start, p.endOfDeclaration(v)
	if c := p.commentBehind(v); c != nil {
		end = c.Span.End
	}
	if len(s.Variables) == 1 { // the section would be empty
		start, end = s.Span.Start, s.Span.End
	}
	if line := p.startOfLine(start); strings.TrimSpace(p.file.Text[line:start]) == "" {
		start, end = line, p.endOfLine(end)
	}
	return Change{p.splice(start, end, ""), Place{Unit: unit}}, nil
}

// Rename gives the name at an offset another one, wherever it stands.
func (p *Program) Rename(offset int, to string) (Change, error) {
	if err := legal(to); err != nil {
		return Change{}, err
	}
	switch to {
	case "P", "N", "S", "R": // in capitals these are marks of contacts and coils
		to = strings.ToLower(to)
	}
	list := p.At(offset)
	if len(list) == 0 {
		return Change{}, errors.New("there is no name here")
	}
	declared := false
	for _, o := range list {
		declared = declared || o.Use == Declares
	}
	if !declared {
		return Change{}, say.Errorf("%s is not declared in this text, so it cannot be given another name here", list[0].Name)
	}
	for _, o := range p.Occurrences() {
		if strings.EqualFold(o.Name, to) && !strings.EqualFold(o.Name, list[0].Name) &&
			(o.Unit == list[0].Unit || o.In == list[0].Unit || list[0].Unit == outside) {
			return Change{}, say.Errorf("the name %s is used already", to)
		}
	}
	var b strings.Builder
	from := 0
	for _, o := range list {
		b.WriteString(p.file.Text[from:o.Span.Start] + to)
		from = o.Span.End
	}
	b.WriteString(p.file.Text[from:])
	return Change{Text: b.String()}, nil
}
