//go:build !editor

package drawing

import (
	"fmt"
	"html"
	"math"
	"strings"
)

// A State is how an element was at a scan: open, closed, TRUE or FALSE, since when, and whether it decided.
type State struct {
	Words   string // open since scan 30
	Passes  bool
	Decides bool
}

// The measures of a drawn rung, in pixels.
const (
	letter    = 7.6 // the width of a letter
	rowHeight = 46.0
	railLeft  = 14.0
	wireAbove = 26.0 // from a row's top to its wire
)

// SVG draws one rung as a picture that stands alone. state tells of an element by the byte at which its text begins; it may be nil.
func (r Rung) SVG(state map[int]State) string {
	p := &picture{state: state, x: r.boundaries(state)}
	right := p.x[r.Columns] + 10
	width, height := r.size(p.x)
	p.begin(width, height)
	p.line(railLeft, 4, railLeft, height-4, "3")
	p.line(right, 4, right, height-4, "3")
	p.line(railLeft, wireY(0), p.x[0], wireY(0), "")
	p.line(p.x[r.Columns], wireY(0), right, wireY(0), "")
	for _, w := range r.Wires {
		p.line(p.x[w.From], wireY(w.Row), p.x[w.To], wireY(w.Row), "")
	}
	for _, l := range r.Links {
		p.line(p.x[l.Boundary], wireY(l.FromRow), p.x[l.Boundary], wireY(l.ToRow), "")
	}
	for _, i := range r.Items {
		p.item(i)
	}
	p.b.WriteString("</svg>\n")
	return p.b.String()
}

// boundaries are where the columns begin and the last ends.
func (r Rung) boundaries(state map[int]State) []float64 {
	x := []float64{railLeft + 10}
	widths := columnWidths([]Rung{r})
	for _, i := range r.Items { // room for what is said below an element
		if s := state[i.Span.Start]; s.Decides && i.Kind != BoxItem {
			widths[i.Column] = max(widths[i.Column], length(s.Words)-1)
		}
	}
	for col, w := range widths {
		x = append(x, x[col]+float64(w+2)*letter)
	}
	return x
}

func (r Rung) size(x []float64) (width, height float64) {
	return x[r.Columns] + 10 + railLeft, float64(r.Rows)*rowHeight + 24
}

// begin writes the head of a picture of so many pixels.
func (p *picture) begin(width, height float64) {
	fmt.Fprintf(&p.b, `<svg xmlns="http://www.w3.org/2000/svg" width="%[1]g" height="%[2]g" viewBox="0 0 %[1]g %[2]g" `+
		`font-family="monospace" font-size="12.5" fill="none" stroke="#26241c" stroke-width="1.6">`+"\n",
		math.Round(width), math.Round(height))
}

func wireY(row int) float64 { return float64(row)*rowHeight + wireAbove }

type picture struct {
	b     strings.Builder
	x     []float64
	state map[int]State
}

func (p *picture) line(x1, y1, x2, y2 float64, width string) {
	extra := ""
	if width != "" {
		extra = fmt.Sprintf(` stroke-width="%s"`, width)
	}
	fmt.Fprintf(&p.b, `<path d="M%.1f %.1fL%.1f %.1f"%s/>`+"\n", x1, y1, x2, y2, extra)
}

func (p *picture) text(x, y float64, anchor, words string) {
	fmt.Fprintf(&p.b, `<text x="%.1f" y="%.1f" text-anchor="%s" fill="#26241c" stroke="none">%s</text>`+"\n", x, y, anchor,
		html.EscapeString(words))
}

func (p *picture) item(i Item) {
	from, to, y := p.x[i.Column], p.x[i.Column+1], wireY(i.Row)
	if i.Kind == BoxItem {
		p.box(i, from, to, y)
		return
	}
	middle := (from + to) / 2
	s, known := p.state[i.Span.Start]
	if known {
		p.ground(s, middle-16, y-13, 32, 26)
	}
	p.line(from, y, middle-9, y, "")
	p.line(middle+9, y, to, y, "")
	if i.Kind == CoilItem {
		fmt.Fprintf(&p.b, `<path d="M%.1f %.1fq-7 10 0 20M%.1f %.1fq7 10 0 20"/>`+"\n", middle-6, y-10, middle+6, y-10)
	} else {
		p.line(middle-6, y-9, middle-6, y+9, "2")
		p.line(middle+6, y-9, middle+6, y+9, "2")
	}
	if i.Mark != "" {
		p.text(middle, y+4, "middle", i.Mark)
	}
	label := i.Label
	if label == "" && !(i.Kind == ContactItem && (i.Mark == "P" || i.Mark == "N")) {
		label = "?"
	}
	p.text(middle, y-15, "middle", label)
	if known && s.Words != "" && s.Decides {
		fmt.Fprintf(&p.b, `<text x="%.1f" y="%.1f" text-anchor="middle" fill="#5d5846" stroke="none" font-size="10.5">%s</text>`+"\n", middle,
			y+20, html.EscapeString(s.Words))
	}
}

// ground marks an element: filled where it passes power, with a thick frame where it decided.
func (p *picture) ground(s State, x, y, w, h float64) {
	fill, frame := "#fffdf5", "#d9d4c3"
	if s.Passes {
		fill = "#ffe066"
	}
	width := 1.0
	if s.Decides {
		frame, width = "#8a3b00", 3
	}
	fmt.Fprintf(&p.b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="3" fill="%s" stroke="%s" stroke-width="%.0f"/>`+"\n", x, y, w, h,
		fill, frame, width)
}

func (p *picture) box(i Item, from, to, y float64) {
	pins := max(len(i.Inputs), len(i.Outputs))
	left, width := from+8, to-from-16
	top, height := y-18, float64(pins)*rowHeight/2+12
	p.line(from, y, left, y, "")
	p.line(left+width, y, to, y, "")
	if s, known := p.state[i.Span.Start]; known {
		p.ground(s, left, top, width, height)
	} else {
		fmt.Fprintf(&p.b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f"/>`+"\n", left, top, width, height)
	}
	p.text(left+width/2, top-3, "middle", i.heading())
	for n := range pins {
		at := y + 4 + float64(n)*rowHeight/2
		p.text(left+5, at, "start", pin(i.Inputs, n))
		p.text(left+width-5, at, "end", pin(i.Outputs, n))
	}
}
