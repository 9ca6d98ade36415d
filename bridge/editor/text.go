package editor

import (
	"strings"

	"celandine/core/check"
	"celandine/core/rewrite"
	"celandine/core/source"
	"celandine/core/syntax"
)

// amending is a program with the changes to make in it, one after the other.
type amending struct {
	sketch
	Steps []rewrite.Step `json:"steps"`
}

// amended is the text after the changes, where to go on, and how it is drawn.
type amended struct {
	rewrite.Change
	Drawn drawn `json:"drawn"`
}

// amend changes a program step by step and draws what comes of it. A name is given another only where no mistake comes of it.
func (p *Page) amend(in amending) (amended, error) {
	change, err := rewrite.Read(in.Text).Apply(in.Steps)
	if err != nil {
		return amended{}, err
	}
	if change.At.Path == nil {
		change.At.Path = []int{} // no element: the changes were to the whole
	}
	in.sketch.Text = change.Text
	return amended{change, p.drawn(in.sketch)}, nil
}

// cut is a stretch of a rung's elements, or, without a path, a rung.
type cut struct {
	Program
	At    rewrite.Place `json:"at"`
	Count int           `json:"count"`
}

// clip returns the text of elements or of a rung.
func (p *Page) clip(in cut) (out Written, err error) {
	if len(in.At.Path) == 0 {
		out.Text, err = rewrite.Read(in.Text).RungText(in.At)
	} else {
		out.Text, err = rewrite.Read(in.Text).Elements(in.At, in.Count)
	}
	return out, err
}

// namePlace is where a name stands; lines and columns count from 1, in characters.
type namePlace struct {
	Name   string      `json:"name"`
	Use    rewrite.Use `json:"use"`
	Line   int         `json:"line"`
	Column int         `json:"column"`
	End    int         `json:"end"` // column
	Offset int         `json:"offset"`
	Words  string      `json:"words"` // the line
}

func placeOf(o rewrite.Occurrence) namePlace {
	f := o.Span.File
	line, column := f.Position(o.Span.Start)
	_, end := f.Position(o.Span.End)
	return namePlace{o.Name, o.Use, line, column, end, o.Span.Start, strings.TrimSpace(f.Line(line))}
}

// position is a place in a text; line and column count from 1, in characters.
type position struct {
	Program
	Line   int `json:"line"`
	Column int `json:"column"`
}

// names lists every place of the name that stands at a line and column.
func (p *Page) names(in position) ([]namePlace, error) {
	offset := source.NewFile(in.File, in.Text).Offset(in.Line, in.Column)
	list := []namePlace{}
	for _, o := range rewrite.Read(in.Text).At(offset) {
		list = append(list, placeOf(o))
	}
	return list, nil
}

// listed is a row of the table: a declaration, or a point of the panel, with the places where it is used.
type listed struct {
	rewrite.Variable
	Unit   int         `json:"unit"` // -1: a point
	Places []namePlace `json:"places"`
}

// variables lists what each unit declares, and the panel's points.
func (p *Page) variables(in Program) ([]listed, error) {
	f, tree := parse(in.Text)
	rewritten := rewrite.Of(f, tree)
	type owned struct {
		unit int
		name string
	}
	used := map[owned][]namePlace{}
	for _, o := range rewritten.Occurrences() {
		key := owned{o.Unit, strings.ToLower(o.Name)}
		used[key] = append(used[key], placeOf(o))
	}
	list := []listed{}
	add := func(v rewrite.Variable, unit int) {
		list = append(list, listed{v, unit, append([]namePlace{}, used[owned{unit, strings.ToLower(v.Name)}]...)})
	}
	for n := range tree.Units {
		for _, v := range rewritten.Variables(n) {
			add(v, n)
		}
	}
	for _, point := range p.Points {
		label := p.labels[strings.ToLower(point.Name)]
		add(rewrite.Variable{Name: point.Name, Section: "panel", Type: point.Type.Name, Address: point.Address, Description: label}, -1)
	}
	return list, nil
}

type pin struct {
	Name   string `json:"name"`
	Type   string `json:"type"`
	Output bool   `json:"output"`
	// Value is what is given to it at first.
	Value string `json:"value,omitempty"`
}

// box is something that can be drawn as one: a function block, or a function.
type box struct {
	Name    string `json:"name"`
	Purpose string `json:"purpose"`
	Pins    []pin  `json:"pins"`
	// Power is the input that power drives; EN where the first input is no BOOL.
	Power    string `json:"power"`
	Function bool   `json:"function"`
	// Stem begins the names of instances: timer_1.
	Stem string `json:"stem,omitempty"`
}

// blocks lists the boxes that a text can use, its own first.
func (p *Page) blocks(in Program) ([]box, error) {
	_, tree := parse(in.Text)
	list := []box{}
	for _, u := range tree.Units {
		if u.Kind == syntax.FunctionBlock {
			list = append(list, ownBlock(u))
		}
	}
	for _, b := range check.Blocks() {
		one := box{Name: b.Name, Purpose: b.Purpose, Power: b.PowerIn().Name, Stem: b.Standard.Family.String(), Pins: []pin{}}
		for _, m := range b.Members {
			one.Pins = append(one.Pins, pin{m.Name, m.Type.Name, m.Output, b.Standard.Given(m.Name)})
		}
		list = append(list, one)
	}
	return append(list, functions...), nil
}

func ownBlock(u *syntax.Unit) box {
	b := box{Name: u.Name.Text, Purpose: "block of your own", Power: "EN", Stem: strings.ToLower(u.Name.Text), Pins: []pin{}}
	for _, s := range u.Sections {
		if s.Word != "VAR_INPUT" && s.Word != "VAR_OUTPUT" && s.Word != "VAR_IN_OUT" {
			continue
		}
		for _, v := range s.Variables {
			for _, n := range v.Names {
				b.Pins = append(b.Pins, pin{Name: n.Text, Type: v.Type.Place().Text(), Output: s.Word == "VAR_OUTPUT"})
			}
		}
	}
	if len(b.Pins) > 0 && !b.Pins[0].Output && strings.EqualFold(b.Pins[0].Type, "BOOL") {
		b.Power = b.Pins[0].Name
	}
	return b
}

// functions are those that a rung has use for; the text knows more.
var functions = func() []box {
	var list []box
	for _, f := range []struct{ name, purpose, gives string }{
		{"MOVE", "copy a value", "value"}, {"ADD", "sum", "value"}, {"SUB", "difference", "value"}, {"MUL", "product", "value"},
		{"DIV", "quotient", "value"}, {"MOD", "remainder", "value"},
		{"SEL", "one of two, by a BOOL", "value"}, {"MAX", "the greater", "value"}, {"MIN", "the lesser", "value"},
		{"LIMIT", "kept between two", "value"},
		{"GT", "greater than", ""}, {"GE", "at least", ""}, {"LT", "less than", ""}, {"LE", "at most", ""}, {"EQ", "equal", ""},
		{"NE", "not equal", ""},
	} {
		b := box{Name: f.name, Purpose: f.purpose, Power: "EN", Function: true}
		inputs := map[string][]string{"MOVE": {"IN"}, "SEL": {"G", "IN0", "IN1"}, "LIMIT": {"MN", "IN", "MX"}}[f.name]
		if inputs == nil {
			inputs = []string{"IN1", "IN2"}
		}
		for _, name := range inputs {
			b.Pins = append(b.Pins, pin{Name: name})
		}
		if f.gives != "" {
			b.Pins = append(b.Pins, pin{Name: f.gives, Output: true})
		}
		list = append(list, b)
	}
	return list
}()
