// Package convert says a program in another language: ladder, block diagrams or structured text.
//
// [To] takes a text that is right and gives it in the language, with the same traces. Each body is read into networks of events, which
// belong to no language (plan.go), and written from them. What has to be held for later, since something between changes what it was made
// of, gets a name. What a language cannot say is told by its place. The package runs nothing, and knows of panels only their points.
package convert

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// To says a program in a language: ladder, fbd or st. Functions and blocks of one's own that the language cannot say stay as they are,
// with a warning for each; a program that it cannot say is an error, and then there is no text. Points are those of an exercise's panel.
func To(language string, f *source.File, points []check.Point) (string, source.List) {
	tree, problems := syntax.Parse(f)
	program, _ := check.Check([]*syntax.File{tree}, points)
	if problems.HasErrors() || program == nil {
		_, problems = check.Files([]*source.File{f}, points)
		return "", problems
	}
	c := &converter{file: f, tree: tree, program: program, language: language}
	c.know(points)
	text := c.text()
	if c.problems.HasErrors() {
		return "", c.problems
	}
	if again, problems := check.Files([]*source.File{source.NewFile(f.Name, text)}, points); again == nil {
		wrong := problems[slices.IndexFunc(problems, func(d source.Diagnostic) bool { return d.Severity == source.Error })]
		c.problems.Add(source.Internal, tree.Units[0].Name.Span, "Please report it with the program.",
			"This does not come out right in %s: %s In: %s", source.LanguageWord(language), wrong.Message, lineAt(wrong.Span))
		return "", c.problems
	}
	return text, c.problems
}

// lineAt is the text of the line on which something stands.
func lineAt(at source.Span) string {
	if at.File == nil {
		return ""
	}
	line, _ := at.File.Position(at.Start)
	return strings.TrimSpace(strings.Split(at.File.Text, "\n")[line-1])
}

type converter struct {
	file     *source.File
	tree     *syntax.File // as the checker saw it
	program  *check.Program
	language string
	points   []check.Point
	taken    map[string]bool // names that are given, in small letters
	located  map[string]bool // variables with addresses, where the text goes by addresses
	problems source.List
}

// know looks at what the text says before any body.
func (c *converter) know(points []check.Point) {
	c.points = points
	c.taken, c.located = map[string]bool{}, map[string]bool{}
	declared, wires, addresses := map[string]bool{}, map[string]bool{}, false
	names := func(set map[string]bool, list ...syntax.Name) {
		for _, n := range list {
			set[strings.ToLower(n.Text)] = true
		}
	}
	syntax.Walk(c.tree, func(node any) bool {
		switch n := node.(type) {
		case *syntax.Name:
			names(c.taken, *n)
		case *syntax.Unit:
			names(declared, n.Name)
		case *syntax.TypeDeclaration:
			names(declared, n.Name)
		case *syntax.EnumType:
			names(declared, n.Values...)
		case *syntax.Node:
			if n.Wire != nil {
				names(wires, *n.Wire)
			}
		case *syntax.Address:
			addresses = true
		case *syntax.Variable:
			names(declared, n.Names...)
			if n.Address != nil {
				names(c.located, n.Names...)
			}
		}
		return true
	})
	for name := range wires { // which has it no more, unless something else has it too
		if !declared[name] {
			delete(c.taken, name)
		}
	}
	for _, p := range points {
		c.taken[strings.ToLower(p.Name)] = true
		if addresses {
			c.located[strings.ToLower(p.Name)] = true
		}
	}
}

// own is the function of one's own that a call calls, or nil.
func (c *converter) own(e *syntax.Call) *syntax.Unit {
	for _, u := range c.tree.Units {
		if u.Kind == syntax.Function && strings.EqualFold(u.Name.Text, functionName(e)) {
			return u
		}
	}
	return nil
}

// text is the whole file with its bodies in the other language.
func (c *converter) text() string {
	var out strings.Builder
	from := 0
	for _, u := range c.tree.Units {
		b := &body{converter: c, unit: u, names: map[string]bool{}, gone: map[string]bool{}}
		text := b.text()
		if text == "" {
			continue
		}
		out.WriteString(b.head(from) + "\n" + text)
		from = u.Span.End - len("END_"+string(u.Kind))
	}
	out.WriteString(c.file.Text[from:])
	printed, problems := syntax.Parse(source.NewFile(c.file.Name, out.String()))
	if problems.HasErrors() {
		return out.String()
	}
	return syntax.Print(printed)
}

// endOfHead is where a unit's declarations end, with what is said behind them.
func (c *converter) endOfHead(u *syntax.Unit) int {
	end := u.Name.Span.End
	if u.Result != nil {
		end = u.Result.Place().End
	}
	for _, s := range u.Sections {
		end = max(end, s.Span.End)
	}
	return c.behind(end)
}

// behind is where the comments end that stand behind something on its line.
func (c *converter) behind(end int) int {
	for _, one := range c.tree.Comments {
		if one.Span.Start >= end && strings.Trim(c.file.Text[end:one.Span.Start], " \t;") == "" {
			end = one.Span.End
		}
	}
	return end
}

// text is a unit's body in the language, with the variables that it needs besides before it; "" where it stays as it is.
func (b *body) text() string {
	if syntax.LanguageOf(b.unit.Body) == b.language {
		return ""
	}
	b.read()
	if len(b.refused) == 0 {
		b.temporaries()
		for _, n := range b.networks {
			b.settle(n)
		}
		text := b.write()
		if len(b.refused) == 0 {
			return text
		}
	}
	b.refuse(b.unit, b.refused)
	return ""
}

// refuse tells why a unit stays as it is: an error of a program, and of what programs use a warning.
func (c *converter) refuse(u *syntax.Unit, refused source.List) {
	for _, d := range refused {
		if u.Kind != syntax.Program {
			d.Severity = source.Warning
			d.Hint = fmt.Sprintf("%s stays in %s.", u.Name.Text, source.LanguageWord(syntax.LanguageOf(u.Body)))
		}
		c.problems = append(c.problems, d)
	}
}

// A body is one unit on its way.
type body struct {
	*converter
	unit     *syntax.Unit
	networks []*network
	comments []string        // below the last network
	gone     map[string]bool // temporary variables that are values now, in small letters
	added    []string        // variables, each as name : TYPE
	held     []string        // temporary ones
	names    map[string]bool
	titled   bool // a comment begins a network
	refused  source.List
}

// cannot tells what the other language has no way to say.
func (b *body) cannot(at source.Span, hint, format string, args ...any) {
	b.refused.Add(source.NotSayable, at, hint, format, args...)
}

// fresh is a name that nothing has yet, as near as possible to the one that is wanted.
func (b *body) fresh(wanted string) string {
	name := wanted
	for n := 2; b.taken[strings.ToLower(name)] || b.names[strings.ToLower(name)]; n++ {
		name = fmt.Sprintf("%s_%d", wanted, n)
	}
	b.names[strings.ToLower(name)] = true
	return name
}

// declare makes a variable of the unit that keeps its value from scan to scan.
func (b *body) declare(wanted, kind string) string {
	name := b.fresh(wanted)
	b.added = append(b.added, name+" : "+kind)
	return name
}

// temporary makes a variable of the unit for what is held for later in the same scan.
func (b *body) temporary(wanted, kind string) string {
	name := b.fresh(wanted)
	b.held = append(b.held, name+" : "+kind)
	return name
}

func (b *body) read() {
	switch written := b.unit.Body.(type) {
	case *syntax.Ladder:
		b.readLadder(written)
	case *syntax.Diagram:
		b.readDiagram(written)
	case *syntax.Text:
		b.readText(written)
	}
}

func (b *body) write() string {
	var text string
	switch b.language {
	case "ladder":
		text = "LADDER\n" + b.eachNetwork(b.rung) + "END_LADDER\n"
	case "fbd":
		text = "FBD\n" + b.eachNetwork(b.diagramNetwork) + "END_FBD\n"
	default:
		text = b.eachNetwork(b.statements)
	}
	return section("VAR", b.added) + section("VAR_TEMP", b.held) + text
}

func section(word string, variables []string) string {
	if len(variables) == 0 {
		return ""
	}
	return word + " " + strings.Join(variables, "; ") + "; END_VAR\n"
}

func (b *body) eachNetwork(write func(*network) string) string {
	var out strings.Builder
	for _, n := range b.networks {
		for _, words := range n.comments {
			out.WriteString(words + "\n")
		}
		out.WriteString(write(n))
	}
	for _, words := range b.comments {
		out.WriteString(words + "\n")
	}
	return out.String()
}

// commentsBefore takes the comments of the body that stand before a place and were not taken yet.
func (b *body) commentsBefore(from, to int) (list []string) {
	for _, one := range b.tree.Comments {
		if from <= one.Span.Start && one.Span.Start < to {
			list = append(list, one.Text)
		}
	}
	return list
}

// begin opens a network for what stands at a place, with the comments from where the last one ended.
func (b *body) begin(at source.Span, title string, from *int) *network {
	end := b.behind(at.End)
	n := &network{title: title, at: at, comments: b.commentsBefore(*from, end)}
	*from = end
	b.networks = append(b.networks, n)
	return n
}

// isBool reports whether a place takes a BOOL.
func (b *body) isBool(e syntax.Expr) bool { return b.typeName(e) == "BOOL" }

func without(list []syntax.Argument, name string, output bool) (syntax.Expr, []syntax.Argument) {
	i := slices.IndexFunc(list, func(a syntax.Argument) bool {
		return a.Name != nil && a.Output == output && strings.EqualFold(a.Name.Text, name)
	})
	if i < 0 {
		return nil, list
	}
	return list[i].Value, slices.Delete(slices.Clone(list), i, i+1)
}
