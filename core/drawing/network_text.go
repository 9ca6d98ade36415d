//go:build !editor

package drawing

import (
	"fmt"
	"strings"
)

// NetworksText draws networks with box characters, one below the other. Where lines cross stands ┼, where one forks to all sides ╋.
func NetworksText(list []Network) string {
	var b strings.Builder
	for i, n := range list {
		fmt.Fprintf(&b, "%s\n%s\n", numbered(i, n.Title), n.text())
	}
	return b.String()
}

func (n Network) text() string {
	c := blankCanvas(n.Width+1, n.Height)
	for _, l := range n.Lines {
		c.line(l)
	}
	for _, b := range n.Boxes {
		c.frame(b)
	}
	for _, w := range n.Words {
		c.write(w.Y, w.X, w.Text)
		if w.Inverted {
			c.write(w.Y, w.X-2, circle)
		}
	}
	for _, w := range n.Names {
		c.write(w.Y, w.X, w.Text)
	}
	return c.String()
}

// circle inverts a value.
const circle = "o"

func blankCanvas(width, lines int) *canvas {
	c := &canvas{}
	for range lines {
		c.text = append(c.text, make([]rune, width))
		c.wires = append(c.wires, make([]int, width))
	}
	return c
}

// line draws one value on its way.
func (c *canvas) line(l Line) {
	for _, p := range l.Pieces {
		if p.Y1 == p.Y2 {
			c.run(p.Y1, p.X1, p.X2)
		} else {
			c.drop(p.X1, p.Y1, p.Y2)
		}
	}
	for _, f := range l.Forks {
		if f.Ways == 4 {
			c.text[f.Y][f.X] = '╋'
		}
	}
}

// frame draws a box, with its heading in the upper edge.
func (c *canvas) frame(b Box) {
	inner := b.Width - 2
	c.write(b.Y, b.X, "┌ "+b.Heading+" "+strings.Repeat("─", inner-length(b.Heading)-2)+"┐")
	for n := range b.Height - 2 {
		in, out := nameOf(b.Inputs, n), nameOf(b.Outputs, n)
		c.write(b.Y+1+n, b.X, "│"+in+strings.Repeat(" ", inner-length(in)-length(out))+out+"│")
		if n < len(b.Inputs) && b.Inputs[n].Inverted {
			c.write(b.Y+1+n, b.X-1, circle)
		}
	}
	c.write(b.Y+b.Height-1, b.X, "└"+strings.Repeat("─", inner)+"┘")
}

func nameOf(pins []Pin, n int) string {
	if n < len(pins) {
		return pins[n].Name
	}
	return ""
}
