package editor

import (
	"hash/fnv"
	"maps"
	"slices"
	"strconv"
	"strings"

	"celandine/core/drawing"
	"celandine/core/rewrite"
	"celandine/core/source"
	"celandine/core/syntax"
)

// sketch is what a page asks of the drawing: a program's text, and how many columns a rung may have.
type sketch struct {
	Program
	Columns int `json:"columns"`
}

// rung is a rung's place in the text. Key names its geometry, which is sent once.
type rung struct {
	Unit    int    `json:"unit"`
	Number  int    `json:"number"` // in its unit
	Key     string `json:"key"`
	Line    int    `json:"line"`
	Start   int    `json:"start"`
	End     int    `json:"end"`
	Comment string `json:"comment,omitempty"`
}

type unit struct {
	Name    string `json:"name"`
	Kind    string `json:"kind"`
	Ladder  bool   `json:"ladder"`
	Diagram bool   `json:"diagram"`
	Line    int    `json:"line"`
}

// drawn is a whole program's drawing; Fresh and Laid hold the geometry that the page does not have yet, of rungs and of networks, whose
// places in the text are from their own start on.
type drawn struct {
	Units    []unit                     `json:"units"`
	Rungs    []rung                     `json:"rungs"`
	Networks []rung                     `json:"networks"`
	Fresh    map[string]drawing.Rung    `json:"fresh"`
	Laid     map[string]drawing.Network `json:"laid"`
}

// draw lays out the ladders and block diagrams of a text as far as it can be read.
func (p *Page) draw(in sketch) (drawn, error) { return p.drawn(in), nil }

func (p *Page) drawn(in sketch) drawn {
	f, tree := parse(in.Text)
	out := drawn{Units: []unit{}, Rungs: []rung{}, Networks: []rung{}, Fresh: map[string]drawing.Rung{}, Laid: map[string]drawing.Network{}}
	program := rewrite.Of(f, tree)
	for n, u := range tree.Units {
		body, ladder := u.Body.(*syntax.Ladder)
		diagram, blocks := u.Body.(*syntax.Diagram)
		line, _ := f.Position(u.Span.Start)
		out.Units = append(out.Units, unit{u.Name.Text, string(u.Kind), ladder, blocks, line})
		if blocks {
			p.networks(&out, n, diagram, drawing.NamesOf(tree, u), program.Comments(n))
		}
		if !ladder {
			continue
		}
		names := drawing.NamesOf(tree, u)
		comments := program.Comments(n)
		for i, r := range body.Rungs {
			line, _ := f.Position(r.Span.Start)
			one := rung{n, i, keyOf(r, names, in.Columns), line, r.Span.Start, r.Span.End, comments[i]}
			out.Rungs = append(out.Rungs, one)
			if !p.sent[one.Key] {
				p.sent[one.Key] = true
				out.Fresh[one.Key] = drawing.Sketch(r, names, in.Columns)
			}
		}
	}
	return out
}

// networks lays out a body's block diagrams, where the page does not have them.
func (p *Page) networks(out *drawn, unit int, body *syntax.Diagram, names drawing.Names, comments []string) {
	types := typesIn(names)
	for i, n := range body.Networks {
		line, _ := n.Span.File.Position(n.Span.Start)
		hash := fnv.New64a()
		hash.Write([]byte("network " + types + " " + n.Span.Text()))
		one := rung{unit, i, strconv.FormatUint(hash.Sum64(), 36), line, n.Span.Start, n.Span.End, comments[i]}
		out.Networks = append(out.Networks, one)
		if !p.sent[one.Key] {
			p.sent[one.Key] = true
			out.Laid[one.Key] = drawing.Networks(&syntax.Diagram{Networks: body.Networks[i : i+1]}, names)[0].From(-n.Span.Start)
		}
	}
}

// typesIn is what a unit declares, in words: what the geometry of its networks depends on.
func typesIn(names drawing.Names) string {
	var b strings.Builder
	for _, name := range slices.Sorted(maps.Keys(names.Types)) {
		b.WriteString(name + ":" + names.Types[name] + " ")
	}
	for _, name := range slices.Sorted(maps.Keys(names.Pins)) {
		b.WriteString(name + "," + names.Pins[name][0] + "," + names.Pins[name][1] + " ")
	}
	return b.String()
}

// keyOf tells one geometry from another: the rung's text, the width and the types of its blocks.
func keyOf(r *syntax.Rung, names drawing.Names, columns int) string {
	var types strings.Builder
	for _, b := range boxes(r.Net, nil) {
		if id, ok := b.Call.Callee.(*syntax.Identifier); ok {
			t := names.Types[strings.ToLower(id.Text)]
			pins := names.Pins[strings.ToLower(t)]
			types.WriteString(t + " " + pins[0] + " " + pins[1] + " ")
		}
	}
	hash := fnv.New64a()
	hash.Write([]byte(strconv.Itoa(columns) + " " + types.String() + " " + r.Span.Text()))
	return strconv.FormatUint(hash.Sum64(), 36)
}

func boxes(s *syntax.Series, list []*syntax.Box) []*syntax.Box {
	for _, e := range s.Elements {
		switch e := e.(type) {
		case *syntax.Box:
			list = append(list, e)
		case *syntax.Parallel:
			for _, b := range e.Branches {
				list = boxes(b, list)
			}
		}
	}
	return list
}

// mark is a diagnostic at a rung; Start is its place from the rung's own start on.
type mark struct {
	Unit     int             `json:"unit"`
	Number   int             `json:"number"`
	Start    int             `json:"start"`
	Severity source.Severity `json:"severity"`
	Words    string          `json:"words"`
}

// marks finds the rungs that diagnostics are about.
func (p *Page) marks(text string, problems source.List) []mark {
	list := []mark{}
	if len(problems) == 0 {
		return list
	}
	_, tree := parse(text)
	for n, u := range tree.Units {
		body, ok := u.Body.(*syntax.Ladder)
		if !ok {
			continue
		}
		for i, r := range body.Rungs {
			for _, d := range problems {
				if d.Span.Start >= r.Span.Start && d.Span.Start < r.Span.End {
					list = append(list, mark{n, i, d.Span.Start - r.Span.Start, d.Severity, strings.TrimSpace(d.Message + " " + d.Hint)})
				}
			}
		}
	}
	return list
}
