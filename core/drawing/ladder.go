// Package drawing lays out what is shown: ladders on a grid, block diagrams in layers, and timing
// diagrams on an axis, and writes them as text or SVG.
//
// [Ladder] turns a parsed body into [Rung] geometry: elements in cells, wires along rows,
// links between rows. [Sketch] does so for one rung being drawn: it folds a wide one and adds the [Spot]s at which a
// cursor can stand. Nothing here knows types or values, so that a drawing in progress with
// unnamed elements draws as well. [Networks] puts the boxes of a block diagram into layers and leads lines between them. [Timing] turns a trace into lanes of points.
package drawing

import (
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Rung is the geometry of one rung on a grid of cells. Columns have
// boundaries 0 … Columns; boundary 0 is the left power rail.
type Rung struct {
	Title   string  `json:"title"`
	Columns int     `json:"columns"`
	Rows    int     `json:"rows"`
	Items   []Item  `json:"items"`
	Wires   []Wire  `json:"wires"`
	Links   []Link  `json:"links"`
	Breaks  []Break `json:"breaks"`
	Spots   []Spot  `json:"spots"`
}

// ItemKind tells how an item is drawn.
type ItemKind string

// The kinds of item.
const (
	ContactItem ItemKind = "contact"
	CoilItem    ItemKind = "coil"
	BoxItem     ItemKind = "box"
)

// An Item is an element in a cell. Power enters and leaves in its first row.
type Item struct {
	Kind    ItemKind    `json:"kind"`
	Row     int         `json:"row"`
	Column  int         `json:"column"`
	Rows    int         `json:"rows"`
	Mark    string      `json:"mark"`  // inside a contact or coil: "", "/", "P", "N", "S", "R"
	Label   string      `json:"label"` // the variable, comparison or instance; "" while unnamed
	Type    string      `json:"type"`  // of a box, where the text names it
	Inputs  []string    `json:"inputs"`
	Outputs []string    `json:"outputs"`
	Measure string      `json:"measure,omitempty"` // of a timer or counter: what its face shows, and
	Preset  string      `json:"preset,omitempty"`  // what it runs towards
	Span    source.Span `json:"-"`
	Start   int         `json:"start"` // of its text, from the start of the rung's
	End     int         `json:"end"`
	Path    []int       `json:"-"` // to the element; see [Spot]
}

// A Wire runs along a row between two boundaries.
type Wire struct {
	Row  int `json:"row"`
	From int `json:"from"`
	To   int `json:"to"`
}

// A Link joins rows at a boundary.
type Link struct {
	Boundary int `json:"boundary"`
	FromRow  int `json:"fromRow"`
	ToRow    int `json:"toRow"`
}

// Ladder lays out the rungs of a body.
func Ladder(body *syntax.Ladder, names Names) []Rung {
	columns := 1
	for _, r := range body.Rungs {
		columns = max(columns, measure(r.Net.Elements))
	}
	var rungs []Rung
	for _, r := range body.Rungs {
		rung := blank(r.Title, columns)
		(&grid{rung: &rung, names: names, start: r.Span.Start}).whole(r.Net, columns)
		rungs = append(rungs, rung)
	}
	return rungs
}

// blank is a rung with nothing in it.
func blank(title string, columns int) Rung {
	return Rung{Title: title, Columns: columns, Items: []Item{}, Wires: []Wire{}, Links: []Link{}, Breaks: []Break{}, Spots: []Spot{}}
}

// whole places a rung from the left rail, with its last coils at the right.
func (g *grid) whole(s *syntax.Series, columns int) {
	head, tail := splitTail(s.Elements)
	end, rows := g.series(head, 0, 0)
	start := columns - measure(tail)
	g.wire(0, end, start)
	_, tailRows := g.at(len(head)).series(tail, 0, start)
	g.rung.Rows, g.rung.Spots = max(rows, tailRows), nil
}

// Names is what a drawing knows of the names in a unit: the type of each variable by lower-case name, and where power enters
// and leaves the blocks of the file's own, by lower-case type. The zero Names knows none.
type Names struct {
	Types map[string]string
	Pins  map[string][2]string
	order bool // the boxes of a diagram have their number
}

// NamesOf lists what a unit of a file declares.
func NamesOf(f *syntax.File, u *syntax.Unit) Names {
	names := Names{Types: map[string]string{}, Pins: map[string][2]string{}}
	for _, s := range u.Sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if t, ok := v.Type.(*syntax.TypeName); ok {
					names.Types[strings.ToLower(n.Text)] = t.Text
				}
			}
		}
	}
	for _, own := range f.Units {
		in, out := firstBool(own, "VAR_INPUT"), firstBool(own, "VAR_OUTPUT")
		if own.Kind == syntax.FunctionBlock && in != "" && out != "" {
			names.Pins[strings.ToLower(own.Name.Text)] = [2]string{in, out}
		}
	}
	return names
}

func firstBool(u *syntax.Unit, word string) string {
	for _, s := range u.Sections {
		if s.Word != word {
			continue
		}
		for _, v := range s.Variables {
			if t, ok := v.Type.(*syntax.TypeName); ok && strings.EqualFold(t.Text, "BOOL") {
				return v.Names[0].Text
			}
		}
	}
	return ""
}

// A grid places elements; several place into one rung, each at its own path.
type grid struct {
	rung  *Rung
	names Names
	path  []int // of the series being placed
	first int   // the place in the series of the first element given
	start int   // of the rung's text
}

// at returns a grid that goes on in the same series with its n-th element.
func (g *grid) at(n int) *grid {
	next := *g
	next.first = n
	return &next
}

// inside returns a grid for a branch of the n-th element.
func (g *grid) inside(n, branch int) *grid {
	next := *g
	next.path, next.first = append(slices.Clone(g.path), n, branch), 0
	return &next
}

func (g *grid) wire(row, from, to int) {
	if to > from {
		g.rung.Wires = append(g.rung.Wires, Wire{row, from, to})
	}
}

// series places elements from a cell on; it returns the boundary where it
// ends and the rows it needs.
func (g *grid) series(elements []syntax.Element, row, column int) (end, rows int) {
	rows = 1
	for i, e := range elements {
		var n int
		column, n = g.element(e, g.first+i, row, column)
		rows = max(rows, n)
	}
	return column, rows
}

// element places the n-th element of the series.
func (g *grid) element(e syntax.Element, n, row, column int) (end, rows int) {
	item := Item{Row: row, Column: column, Rows: 1, Inputs: []string{}, Outputs: []string{}, Span: e.Place(),
		Path: append(slices.Clone(g.path), n)}
	item.Start, item.End = item.Span.Start-g.start, item.Span.End-g.start
	switch e := e.(type) {
	case *syntax.Parallel:
		return g.parallel(e, n, row, column)
	case *syntax.Contact:
		item.Kind, item.Mark, item.Label = ContactItem, string(e.Kind), words(e.Operand)
		if e.Memory != nil {
			item.Label += " @ " + words(e.Memory)
		}
	case *syntax.Coil:
		item.Kind, item.Mark, item.Label = CoilItem, string(e.Kind), words(e.Operand)
	case *syntax.Box:
		g.box(&item, e)
	}
	g.rung.Items = append(g.rung.Items, item)
	return column + 1, item.Rows
}

func words(e syntax.Expr) string {
	if e == nil {
		return ""
	}
	return e.Place().Text()
}

func (g *grid) box(item *Item, e *syntax.Box) {
	item.Kind, item.Label = BoxItem, words(e.Call.Callee)
	item.Type = g.names.Types[strings.ToLower(item.Label)]
	in, out := "EN", "ENO"
	if b, _ := block.Named(item.Type); b != nil {
		item.Measure, item.Preset = b.Measure().Name, b.Preset().Name
		if !e.EN {
			in, out = b.PowerIn().Name, b.PowerOut().Name
		}
	}
	if pins, ok := g.names.Pins[strings.ToLower(item.Type)]; ok && !e.EN {
		in, out = pins[0], pins[1]
	}
	item.Inputs, item.Outputs = []string{in}, []string{out}
	for _, a := range e.Call.Arguments {
		value := words(a.Value)
		if a.Name != nil {
			value = strings.TrimSpace(a.Name.Text + " " + value)
		}
		if a.Output {
			item.Outputs = append(item.Outputs, words(a.Value)+" "+a.Name.Text)
		} else {
			item.Inputs = append(item.Inputs, value)
		}
	}
	if e.Result != nil {
		item.Outputs = append(item.Outputs, words(e.Result))
	}
	// Two text lines a row: the frame and the pins.
	pins := max(len(item.Inputs), len(item.Outputs))
	item.Rows = (pins + 2 + 1) / 2
}

func (g *grid) parallel(e *syntax.Parallel, n, row, column int) (end, rows int) {
	type branch struct {
		row, end int
		path     []int // of what would come last in it
	}
	var branches []branch
	end, next := column+1, row
	for i, b := range e.Branches {
		into := g.inside(n, i)
		stop, rows := into.series(b.Elements, next, column)
		branches = append(branches, branch{next, stop, append(into.path, len(b.Elements))})
		end = max(end, stop)
		next += rows
	}
	for _, b := range branches {
		g.wire(b.row, b.end, end)
		g.rung.Spots = append(g.rung.Spots, Spot{Path: b.path, Item: -1, Row: b.row, From: b.end, To: end})
	}
	if last := branches[len(branches)-1].row; last > row {
		g.rung.Links = append(g.rung.Links, Link{column, row, last}, Link{end, row, last})
	}
	return end, next - row
}

// splitTail returns the elements before the coils that end a rung, and those
// coils, which stand below each other in the last columns.
func splitTail(elements []syntax.Element) (head, tail []syntax.Element) {
	cut := len(elements)
	for cut > 0 && onlyCoils(elements[cut-1]) {
		cut--
	}
	return elements[:cut], elements[cut:]
}

func onlyCoils(e syntax.Element) bool {
	switch e := e.(type) {
	case *syntax.Coil:
		return true
	case *syntax.Parallel:
		for _, b := range e.Branches {
			for _, x := range b.Elements {
				if !onlyCoils(x) {
					return false
				}
			}
		}
		return true
	}
	return false
}

// measure counts the columns that elements in series need.
func measure(elements []syntax.Element) int {
	sum := 0
	for _, e := range elements {
		width := 1
		switch e := e.(type) {
		case *syntax.Series:
			width = measure(e.Elements)
		case *syntax.Parallel:
			for _, b := range e.Branches {
				width = max(width, measure(b.Elements))
			}
		}
		sum += width
	}
	return sum
}
