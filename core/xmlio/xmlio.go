// Package xmlio reads and writes programs in the exchange format of IEC 61131-10.
//
// [Read] takes an XML file in the standard's namespace, or in that of the widely written form that came before it, and gives the program as
// text in Celandine's own notation, with where in the file each part of it comes from. Declarations and structured text are copied
// (declare.go); what is drawn is read as a graph of objects (graph.go) and lines (lines.go), told apart where the file does not
// (pieces.go). From that come networks (network.go), or rungs: wires between nodes (rung.go, power.go), made series and branches
// (reduce.go). What cannot be said is an error with its name and place; nothing is left out in silence.
//
// [Write] takes a text that can be parsed and gives it as XML, always the same, with places from the drawing room: shapes in either of two
// forms (write.go, shapes.go, objects.go).
//
// The package checks no types and runs nothing. It was written from the standard's structure alone.
package xmlio

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/source"
	"celandine/core/syntax"
)

// The namespaces that are read. Of the earlier one only the beginning counts, since it ends with a year or a number.
const (
	namespace = "www.iec.ch/public/TC65SC65BWG7TF10"
	earlier   = "http://www.plcopen.org/xml/tc6"
)

// Is reports whether a file's name is that of an exchange file.
func Is(name string) bool { return strings.HasSuffix(strings.ToLower(name), ".xml") }

// Read says in Celandine's notation what an exchange file holds. The text that it gives has the file's name, its places are those of the
// file, and what there is to say of it is told with it; with an error in that there is no text.
func Read(f *source.File) *source.File {
	root, problems := elements(f)
	if root == nil {
		return source.NewFileFrom(f, "", nil, problems)
	}
	r := &reader{file: f, own: map[string]*unit{}, told: map[*element]bool{}}
	r.project(root)
	r.problems.Sort()
	if r.problems.HasErrors() {
		return source.NewFileFrom(f, "", nil, r.problems)
	}
	return source.NewFileFrom(f, r.out.String(), r.origins, r.problems)
}

type reader struct {
	file     *source.File
	problems source.List
	out      strings.Builder
	origins  []source.Origin
	own      map[string]*unit // by name in small letters
	order    []*unit
	tasks    []string
	told     map[*element]bool // of which values it is known that they are none
}

// A unit is a program, function block or function on its way.
type unit struct {
	kind    syntax.UnitKind
	name    string
	at      *element
	result  string
	parts   []*element // lists of variables
	body    *element
	inputs  []pin
	outputs []pin
	added   []string // variables that the body needs besides, each as name : TYPE
	taken   map[string]bool
	numbers map[string]int    // behind the names that are there already
	types   map[string]string // of variables, by name in small letters
}

// A pin is an input or output of a unit.
type pin struct {
	name  string
	kind  string // its type in capitals
	inOut bool
}

// power is the first BOOL of some pins, or "".
func power(pins []pin) string {
	for _, p := range pins {
		if p.kind == "BOOL" && !p.inOut {
			return p.name
		}
	}
	return ""
}

// standard is a standard function block as a unit, or nil.
func standard(kind string) *unit {
	b, counts := block.Named(strings.ToUpper(kind))
	if b == nil {
		return nil
	}
	pins := func(list []block.Pin) (out []pin) {
		for _, p := range list {
			kind := strings.ToUpper(p.Kind.String())
			if kind == "INT" && counts != "" {
				kind = counts
			}
			out = append(out, pin{name: p.Name, kind: kind})
		}
		return out
	}
	return &unit{kind: syntax.FunctionBlock, name: b.Name, inputs: pins(b.In), outputs: pins(b.Out)}
}

// called is the unit of the file, or the standard block, that has a name; nil where it is a standard function or unknown.
func (r *reader) called(name string) *unit {
	if u := r.own[strings.ToLower(name)]; u != nil {
		return u
	}
	return standard(name)
}

func (r *reader) report(code source.Code, at *element, hint, format string, args ...any) {
	r.problems.Add(code, at.at, hint, format, args...)
}

// unsupported tells of something that has no place in Celandine's language.
func (r *reader) unsupported(at *element, hint, format string, args ...any) {
	r.report(source.Unsupported, at, hint, format, args...)
}

// write adds lines of text that come from an element.
func (r *reader) write(at *element, format string, args ...any) {
	for _, words := range strings.Split(strings.TrimSuffix(fmt.Sprintf(format, args...), "\n"), "\n") {
		r.mark(r.out.Len(), at.at.Start)
		r.out.WriteString(words + "\n")
	}
}

// mark says where in the file what stands at a place of the text comes from.
func (r *reader) mark(at, from int) { r.origins = append(r.origins, source.Origin{At: at, From: from}) }

var identifier = regexp.MustCompile(`^[A-Za-z_][A-Za-z0-9_]*$`)

// name is an attribute that has to be a name.
func (r *reader) name(at *element, attributes ...string) string {
	name := at.attribute(attributes...)
	if !identifier.MatchString(name) {
		legal := strings.Trim(regexp.MustCompile(`[^A-Za-z0-9]+`).ReplaceAllString(name, "_"), "_")
		hint := "Give it a name of letters, digits and single underscores."
		if identifier.MatchString(legal) {
			hint = "Write " + legal + "."
		}
		r.report(source.WrongName, at, hint, "%q is no name.", name)
		return "unnamed"
	}
	return name
}

// expression reads a value as structured text has it; nil with a problem where it is none.
func (r *reader) expression(text string, at *element) syntax.Expr {
	f := source.NewFile("", "PROGRAM p\nv := "+text+"\n;\nEND_PROGRAM")
	tree, problems := syntax.Parse(f)
	if len(problems) == 0 && len(tree.Units) == 1 && len(tree.Comments) == 0 && len(tree.Types)+len(tree.Globals) == 0 {
		if body, ok := tree.Units[0].Body.(*syntax.Text); ok && len(body.Statements) == 1 {
			return body.Statements[0].(*syntax.Assignment).Value
		}
	}
	why := "It is no single value."
	if len(problems) > 0 {
		why = problems[0].Message
	}
	if r.told[at] {
		return nil
	}
	r.told[at] = true
	r.report(source.WrongExchange, at, "Write a variable, a constant or an expression of structured text.", "%q cannot be read: %s", text, why)
	return nil
}

// place is an expression that can be written to.
func (r *reader) place(text string, at *element) syntax.Expr {
	e := r.expression(text, at)
	switch e.(type) {
	case nil, *syntax.Identifier, *syntax.Member, *syntax.Index, *syntax.Address:
		return e
	}
	r.report(source.WrongExchange, at, "Write a variable.", "%q is no variable.", text)
	return nil
}

// fresh is a name that the unit does not have yet.
func (u *unit) fresh(wanted string) string {
	name := wanted
	for u.taken[strings.ToLower(name)] {
		u.numbers[wanted]++
		name = fmt.Sprintf("%s_%d", wanted, u.numbers[wanted]+1)
	}
	u.taken[strings.ToLower(name)] = true
	return name
}

// declare adds a variable that the unit needs besides.
func (u *unit) declare(wanted, kind string) string {
	name := u.fresh(wanted)
	u.added = append(u.added, name+" : "+kind)
	return name
}

func (u *unit) find(pins []pin, name string) *pin {
	i := slices.IndexFunc(pins, func(p pin) bool { return strings.EqualFold(p.name, name) })
	if i < 0 {
		return nil
	}
	return &pins[i]
}

// Named is a program that was read as a text of its own: the name ends as the language of its first program does, and what was told of it
// stands before it as comments.
func Named(f *source.File) (name, text string) {
	language := "st"
	tree, _ := syntax.Parse(f)
	for _, u := range tree.Units {
		if u.Kind == syntax.Program {
			language = syntax.LanguageOf(u.Body)
			break
		}
	}
	for _, d := range f.Told() {
		text += asComment(strings.TrimSpace(d.Message+" "+d.Hint)) + "\n"
	}
	return f.Name[:len(f.Name)-len(".xml")] + "." + language, text + f.Text
}
