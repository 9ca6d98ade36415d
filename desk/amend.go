package desk

import (
	"strings"

	"celandine/core/check"
	"celandine/core/rewrite"
	"celandine/core/source"
	"celandine/core/syntax"
)

// amend changes a program step by step and draws what comes of it. A name is given another only where no mistake comes of it.
func (d *Desk) amend(argument []byte) (any, error) {
	in, err := read[struct {
		sketch
		Steps []rewrite.Step
	}](argument)
	if err != nil {
		return nil, err
	}
	change, err := d.rewritten(in.Text).Apply(in.Steps)
	if err != nil {
		return nil, err
	}
	in.sketch.Text = change.Text
	return struct {
		rewrite.Change
		Drawn drawn `json:"drawn"`
	}{change, d.drawn(in.sketch)}, nil
}

// clip returns the text of elements or, without a path, of a rung.
func (d *Desk) clip(argument []byte) (any, error) {
	in, err := read[struct {
		program
		At    rewrite.Place
		Count int
	}](argument)
	if err != nil {
		return nil, err
	}
	p := d.rewritten(in.Text)
	text := ""
	if len(in.At.Path) == 0 {
		text, err = p.RungText(in.At)
	} else {
		text, err = p.Elements(in.At, in.Count)
	}
	return struct {
		Text string `json:"text"`
	}{text}, err
}

// place is where a name stands; lines and columns count from 1, in characters.
type place struct {
	Name   string      `json:"name"`
	Use    rewrite.Use `json:"use"`
	Line   int         `json:"line"`
	Column int         `json:"column"`
	End    int         `json:"end"` // column
	Offset int         `json:"offset"`
	Words  string      `json:"words"` // the line
}

func placeOf(o rewrite.Occurrence) place {
	f := o.Span.File
	line, column := f.Position(o.Span.Start)
	_, end := f.Position(o.Span.End)
	return place{o.Name, o.Use, line, column, end, o.Span.Start, strings.TrimSpace(f.Line(line))}
}

// names lists every place of the name that stands at a line and column.
func (d *Desk) names(argument []byte) (any, error) {
	in, err := read[struct {
		program
		Line, Column int
	}](argument)
	if err != nil {
		return nil, err
	}
	offset := source.NewFile(in.File, in.Text).Offset(in.Line, in.Column)
	list := []place{}
	for _, o := range d.rewritten(in.Text).At(offset) {
		list = append(list, placeOf(o))
	}
	return list, nil
}

// variable is a row of the table: a declaration, or a point of the panel, with the places where it is used.
type variable struct {
	rewrite.Variable
	Unit   int     `json:"unit"` // -1: a point
	Places []place `json:"places"`
}

// variables lists what each unit declares, and the panel's points.
func (d *Desk) variables(argument []byte) (any, error) {
	in, err := read[program](argument)
	if err != nil {
		return nil, err
	}
	f, tree := d.parse(in.Text)
	p := rewrite.Of(f, tree)
	type owned struct {
		unit int
		name string
	}
	used := map[owned][]place{}
	for _, o := range p.Occurrences() {
		key := owned{o.Unit, strings.ToLower(o.Name)}
		used[key] = append(used[key], placeOf(o))
	}
	list := []variable{}
	for n := range tree.Units {
		for _, v := range p.Variables(n) {
			list = append(list, variable{v, n, used[owned{n, strings.ToLower(v.Name)}]})
		}
	}
	for _, point := range d.points {
		v := rewrite.Variable{Name: point.Name, Section: "panel", Type: point.Type.Name, Address: point.Address, Description: d.labels[strings.ToLower(point.Name)]}
		list = append(list, variable{v, -1, append([]place{}, used[owned{-1, strings.ToLower(point.Name)}]...)})
	}
	return list, nil
}

type pin struct {
	Name   string `json:"name"`
	Type   string `json:"type"`
	Output bool   `json:"output"`
}

// block is something that can be drawn as a box: a function block, or a function.
type block struct {
	Name    string `json:"name"`
	Purpose string `json:"purpose"`
	Pins    []pin  `json:"pins"`
	// Power is the input that power drives; EN where the first input is no BOOL.
	Power    string `json:"power"`
	Function bool   `json:"function"`
}

// blocks lists the boxes that a text can use, its own first.
func (d *Desk) blocks(argument []byte) (any, error) {
	in, err := read[program](argument)
	if err != nil {
		return nil, err
	}
	_, tree := d.parse(in.Text)
	list := []block{}
	for _, u := range tree.Units {
		if u.Kind == syntax.FunctionBlock {
			list = append(list, ownBlock(u))
		}
	}
	for _, b := range check.Blocks() {
		one := block{Name: b.Name, Purpose: b.Purpose, Power: b.PowerIn().Name}
		for _, m := range b.Members {
			one.Pins = append(one.Pins, pin{m.Name, m.Type.Name, m.Output})
		}
		list = append(list, one)
	}
	return append(list, functions...), nil
}

func ownBlock(u *syntax.Unit) block {
	b := block{Name: u.Name.Text, Purpose: "block of your own", Power: "EN"}
	for _, s := range u.Sections {
		if s.Word != "VAR_INPUT" && s.Word != "VAR_OUTPUT" && s.Word != "VAR_IN_OUT" {
			continue
		}
		for _, v := range s.Variables {
			for _, n := range v.Names {
				b.Pins = append(b.Pins, pin{n.Text, v.Type.Place().Text(), s.Word == "VAR_OUTPUT"})
			}
		}
	}
	if len(b.Pins) > 0 && !b.Pins[0].Output && strings.EqualFold(b.Pins[0].Type, "BOOL") {
		b.Power = b.Pins[0].Name
	}
	return b
}

// functions are those that a rung has use for; the text knows more.
var functions = func() []block {
	var list []block
	for _, f := range []struct{ name, purpose, gives string }{
		{"MOVE", "copy a value", "value"}, {"ADD", "sum", "value"}, {"SUB", "difference", "value"}, {"MUL", "product", "value"}, {"DIV", "quotient", "value"}, {"MOD", "remainder", "value"},
		{"SEL", "one of two, by a BOOL", "value"}, {"MAX", "the greater", "value"}, {"MIN", "the lesser", "value"}, {"LIMIT", "kept between two", "value"},
		{"GT", "greater than", ""}, {"GE", "at least", ""}, {"LT", "less than", ""}, {"LE", "at most", ""}, {"EQ", "equal", ""}, {"NE", "not equal", ""},
	} {
		b := block{Name: f.name, Purpose: f.purpose, Power: "EN", Function: true}
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
