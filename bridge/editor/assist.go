package editor

import (
	"strings"

	"celandine/core/assist"
	"celandine/core/rewrite"
	"celandine/core/source"
)

// assisted is a text as the room that helps to write it takes it.
func (p *Page) assisted(text string) assist.Text {
	t := assist.Text{}
	t.File, t.Tree = parse(text)
	for _, one := range p.wires {
		t.Points = append(t.Points, assist.Point{Name: one.Name, Type: one.Type, Address: one.At, Label: one.Label, Device: one.Device,
			Closed: one.Contact == "closed"})
	}
	return t
}

// completion is what could stand at a place, instead of the letters from a column on.
type completion struct {
	From   int            `json:"from"` // column
	Offers []assist.Offer `json:"offers"`
}

// complete offers what could stand at a line and column.
func (p *Page) complete(in position) (completion, error) {
	t := p.assisted(in.Text)
	c := t.Complete(t.File.Offset(in.Line, in.Column))
	_, from := t.File.Position(c.From)
	return completion{from, append([]assist.Offer{}, c.Offers...)}, nil
}

// description is what a name is; Words is "" where there is nothing to say.
type description struct {
	Name  string `json:"name"`
	Words string `json:"words"`
	From  int    `json:"from"` // column
}

// describe tells what stands at a line and column.
func (p *Page) describe(in position) (description, error) {
	t := p.assisted(in.Text)
	d := t.Describe(t.File.Offset(in.Line, in.Column))
	_, from := t.File.Position(d.From)
	return description{d.Name, d.Words, from}, nil
}

// end is a place in the text; line and column count from 1.
type end struct {
	Line   int `json:"line"`
	Column int `json:"column"`
}

// fix is a way out of an error: what to write in place of a stretch.
type fix struct {
	Name   string `json:"name"`
	From   end    `json:"from"`
	To     end    `json:"to"`
	Insert string `json:"insert"`
}

// mostFixed is for how many errors the ways out are worked out: nobody reads more at once.
const mostFixed = 100

// fixes lists the ways out of each of the errors, in their order.
func (p *Page) fixes(text string, problems source.List) [][]fix {
	t := p.assisted(text)
	at := func(offset int) end {
		line, column := t.File.Position(offset)
		return end{line, column}
	}
	all := [][]fix{}
	for n, d := range problems {
		list := []fix{}
		if n < mostFixed {
			for _, f := range t.Fixes(d) {
				list = append(list, fix{f.Name, at(f.From), at(f.To), f.Insert})
			}
		}
		all = append(all, list)
	}
	return all
}

// naming is a program and a name in it that is not declared.
type naming struct {
	Program
	Name string `json:"name"`
}

// implied lists the types that the first place of a name implies.
func (p *Page) implied(in naming) ([]string, error) {
	t := p.assisted(in.Text)
	for _, o := range rewrite.Read(in.Text).Occurrences() {
		if strings.EqualFold(o.Name, in.Name) {
			return t.Implied(o.Span.Start, o.Span.End), nil
		}
	}
	return []string{"BOOL"}, nil
}
