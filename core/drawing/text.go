//go:build !editor

package drawing

import (
	"fmt"
	"strings"
)

// Text draws rungs with box characters, one below the other.
func Text(rungs []Rung) string {
	var b strings.Builder
	widths := columnWidths(rungs)
	for i, r := range rungs {
		fmt.Fprintf(&b, "%s\n%s\n", numbered(i, r.Title), drawRung(r, widths))
	}
	return b.String()
}

// columnWidths returns the characters that each column needs, over all rungs.
func columnWidths(rungs []Rung) []int {
	var widths []int
	for _, r := range rungs {
		for len(widths) < r.Columns {
			widths = append(widths, 5)
		}
		for _, i := range r.Items {
			widths[i.Column] = max(widths[i.Column], i.width())
		}
	}
	return widths
}

func (i Item) width() int {
	if i.Kind != BoxItem {
		return max(length(i.Label), 3+len(i.Mark)) + 2
	}
	left, right := longest(i.Inputs), longest(i.Outputs)
	return max(left+right+2, length(i.heading())+2) + 4
}

func (i Item) heading() string {
	if i.Type == "" {
		return i.Label
	}
	return i.Label + " " + i.Type
}

func longest(list []string) int {
	n := 0
	for _, s := range list {
		n = max(n, length(s))
	}
	return n
}

// The directions in which a wire leaves a character.
const (
	up = 1 << iota
	down
	left
	right
)

var joints = map[int]rune{
	left | right: '─', left: '─', right: '─', up | down: '│', up: '│', down: '│',
	down | right: '┌', down | left: '┐', up | right: '└', up | left: '┘',
	up | down | right: '├', up | down | left: '┤', down | left | right: '┬', up | left | right: '┴', up | down | left | right: '┼',
}

// canvas is characters, and wires that merge where they meet.
type canvas struct {
	text  [][]rune
	wires [][]int
	x     []int // the character column of each boundary
}

func drawRung(r Rung, widths []int) string {
	c := &canvas{x: []int{2}}
	for col := 0; col < r.Columns; col++ {
		c.x = append(c.x, c.x[col]+widths[col]+1)
	}
	lines, width := 2*r.Rows+1, c.x[r.Columns]+3
	blank := blankCanvas(width, lines)
	c.text, c.wires = blank.text, blank.wires
	for line := range lines { // the power rails
		c.text[line][0], c.text[line][width-1] = '║', '║'
	}
	c.run(1, 0, c.x[0])
	c.run(1, c.x[r.Columns], width-1)
	for _, w := range r.Wires {
		c.run(line(w.Row), c.x[w.From], c.x[w.To])
	}
	for _, l := range r.Links {
		c.drop(c.x[l.Boundary], line(l.FromRow), line(l.ToRow))
	}
	for _, i := range r.Items {
		c.item(i)
	}
	return c.String()
}

// line returns the text line of a row's wire; labels stand on the line above.
func line(row int) int { return 2*row + 1 }

func (c *canvas) run(line, from, to int) {
	for x := from; x < to; x++ {
		c.wires[line][x] |= right
		c.wires[line][x+1] |= left
	}
}

func (c *canvas) drop(x, from, to int) {
	for y := from; y < to; y++ {
		c.wires[y][x] |= down
		c.wires[y+1][x] |= up
	}
}

func (c *canvas) write(line, x int, s string) {
	for _, r := range s {
		c.text[line][x] = r
		x++
	}
}

func (c *canvas) item(i Item) {
	from, to := c.x[i.Column], c.x[i.Column+1]
	wire := line(i.Row)
	if i.Kind == BoxItem {
		c.box(i, from, to)
		return
	}
	c.run(wire, from, to)
	symbol := "┤" + pad(i.Mark) + "├"
	if i.Kind == CoilItem {
		symbol = "(" + pad(i.Mark) + ")"
	}
	middle := from + (to-from)/2
	c.write(wire, middle-length(symbol)/2, symbol)
	label := i.Label
	if label == "" && !(i.Kind == ContactItem && (i.Mark == "P" || i.Mark == "N")) {
		label = "?"
	}
	c.write(wire-1, middle-length(label)/2, label)
}

func pad(mark string) string {
	if mark == "" {
		return " "
	}
	return mark
}

// box draws the frame from the label line down, with a pin on each line.
func (c *canvas) box(i Item, from, to int) {
	wire := line(i.Row)
	c.run(wire, from, from+1)
	c.run(wire, to-1, to)
	l, r := from+1, to-1
	inner := r - l - 1
	heading := i.heading()
	c.write(wire-1, l, "┌ "+heading+" "+strings.Repeat("─", inner-length(heading)-2)+"┐")
	pins := max(len(i.Inputs), len(i.Outputs))
	for n := range pins {
		in, out := pin(i.Inputs, n), pin(i.Outputs, n)
		c.write(wire+n, l, "│"+in+strings.Repeat(" ", inner-length(in)-length(out))+out+"│")
	}
	c.write(wire+pins, l, "└"+strings.Repeat("─", inner)+"┘")
}

func pin(list []string, n int) string {
	if n < len(list) {
		return list[n]
	}
	return ""
}

func (c *canvas) String() string {
	var b strings.Builder
	for y := range c.text {
		var row strings.Builder
		for x, r := range c.text[y] {
			switch {
			case r != 0:
				row.WriteRune(r)
			case c.wires[y][x] != 0:
				row.WriteRune(joints[c.wires[y][x]])
			default:
				row.WriteByte(' ')
			}
		}
		b.WriteString(strings.TrimRight(row.String(), " ") + "\n")
	}
	return b.String()
}
