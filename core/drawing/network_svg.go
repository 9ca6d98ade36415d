//go:build !editor

package drawing

import "fmt"

// lineStep is from one line of a network to the next, in pixels.
const lineStep = 19.0

// SVG draws a network as a picture that stands alone. A dot is where a line forks; lines that cross have none.
func (n Network) SVG() string {
	p := &picture{}
	p.begin(n.size())
	for _, l := range n.Lines {
		p.signal(l)
	}
	for _, b := range n.Boxes {
		p.function(b)
	}
	for _, w := range n.Words {
		p.text(across(w.X), along(w.Y)+4, "start", w.Text)
		if w.Inverted {
			p.circle(across(w.X)-letter, along(w.Y))
		}
	}
	for _, w := range n.Names {
		p.text(across(w.X), along(w.Y)-4, "start", w.Text)
	}
	p.b.WriteString("</svg>\n")
	return p.b.String()
}

func (n Network) size() (width, height float64) { return across(n.Width + 1), along(n.Height) }

// across and along are where a character and a line have their middle, in pixels.
func across(x int) float64 { return float64(x)*letter + 8 }
func along(y int) float64  { return float64(y)*lineStep + 14 }

// signal draws a line and a dot at each of its forks.
func (p *picture) signal(l Line) {
	for _, piece := range l.Pieces {
		p.line(across(piece.X1), along(piece.Y1), across(piece.X2), along(piece.Y2), "")
	}
	for _, f := range l.Forks {
		fmt.Fprintf(&p.b, `<circle cx="%.1f" cy="%.1f" r="3" fill="#26241c"/>`+"\n", across(f.X), along(f.Y))
	}
}

func (p *picture) circle(x, y float64) {
	fmt.Fprintf(&p.b, `<circle cx="%.1f" cy="%.1f" r="4.5" fill="#ffffff"/>`+"\n", x, y)
}

// function draws a box with its heading and pins.
func (p *picture) function(b Box) {
	left, top := across(b.X), along(b.Y)-9
	right, bottom := across(b.X+b.Width-1), along(b.Y+b.Height-1)-4
	fmt.Fprintf(&p.b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" rx="2" fill="#fffdf5"/>`+"\n", left, top, right-left, bottom-top)
	p.text((left+right)/2, along(b.Y)+4, "middle", b.Heading)
	for n, in := range b.Inputs {
		y := along(b.Y + 1 + n)
		p.text(left+4, y+4, "start", in.Name)
		if in.Inverted {
			p.circle(left-4.5, y)
		}
	}
	for n, out := range b.Outputs {
		p.text(right-4, along(b.Y+1+n)+4, "end", out.Name)
	}
}
