package drawing

import (
	"slices"

	"celandine/core/syntax"
)

// A Break is where a wide rung leaves a line at the right and goes on below, at the left.
type Break struct {
	Row     int `json:"row"`
	NextRow int `json:"nextRow"`
}

// A Spot is where a cursor can stand: on an element, or on the wire at the end of a series, where another would go.
// Path names the place in the rung's tree: the element's number in the series, or, into a branch, that number, the branch's
// number and the number in its series. Go leads to the spots on the left, the right, above and below, -1 where there is none.
type Spot struct {
	Path []int  `json:"path"`
	Item int    `json:"item"` // -1 on a wire
	Row  int    `json:"row"`
	From int    `json:"from"` // boundary
	To   int    `json:"to"`   // boundary
	Go   [4]int `json:"go"`
}

// Sketch lays out one rung to be drawn on: with room before its last coils, folded where it is wider than most columns,
// and with its spots.
func Sketch(r *syntax.Rung, names Names, most int) Rung {
	rung := blank(r.Title, 0)
	g := &grid{rung: &rung, names: names, start: r.Span.Start}
	head, tail := splitTail(r.Net.Elements)
	lines := fold(head, measure(tail)+1, max(most, 2))
	for _, line := range lines {
		rung.Columns = max(rung.Columns, measure(line))
	}
	rung.Columns = max(rung.Columns, measure(lines[len(lines)-1])+1+measure(tail))
	row, done := 0, 0
	for i, line := range lines {
		end, rows := g.at(done).series(line, row, 0)
		done += len(line)
		if i < len(lines)-1 {
			g.wire(row, end, rung.Columns)
			rung.Breaks = append(rung.Breaks, Break{row, row + rows})
			row += rows
			continue
		}
		start := rung.Columns - measure(tail)
		g.wire(row, end, start)
		rung.Spots = append(rung.Spots, Spot{Path: []int{done}, Item: -1, Row: row, From: end, To: start})
		_, tailRows := g.at(done).series(tail, row, start)
		row += max(rows, tailRows)
	}
	if len(tail) > 0 {
		rung.Spots = append(rung.Spots, Spot{Path: []int{len(r.Net.Elements)}, Item: -1, Row: lastLine(rung), From: rung.Columns,
			To: rung.Columns})
	}
	rung.Rows = row
	rung.Spots = append(itemSpots(rung.Items), rung.Spots...)
	link(rung)
	return rung
}

func lastLine(r Rung) int {
	if len(r.Breaks) == 0 {
		return 0
	}
	return r.Breaks[len(r.Breaks)-1].NextRow
}

// fold divides elements into lines of at most so many columns; the last leaves room for what ends the rung.
func fold(elements []syntax.Element, ending, most int) [][]syntax.Element {
	lines := [][]syntax.Element{nil}
	width := 0
	for _, e := range elements {
		n := measure([]syntax.Element{e})
		if width > 0 && width+n > most {
			lines, width = append(lines, nil), 0
		}
		lines[len(lines)-1] = append(lines[len(lines)-1], e)
		width += n
	}
	if width > 0 && width+ending > most && len(lines[len(lines)-1]) > 0 {
		lines = append(lines, nil)
	}
	return lines
}

func itemSpots(items []Item) []Spot {
	spots := make([]Spot, len(items))
	for i, item := range items {
		spots[i] = Spot{Path: item.Path, Item: i, Row: item.Row, From: item.Column, To: item.Column + 1}
	}
	return spots
}

// link finds the neighbours of every spot.
func link(r Rung) {
	for i := range r.Spots {
		for way := range r.Spots[i].Go {
			r.Spots[i].Go[way] = neighbour(r, i, way)
		}
	}
}

// The ways in Spot.Go.
const (
	leftward = iota
	rightward
	upward
	downward
)

// neighbour returns the nearest spot in a direction; what lies askew counts as farther. At the end of a folded line the way
// goes on in the next.
func neighbour(r Rung, from, way int) int {
	best, least := -1, 0
	at := r.Spots[from]
	for i, s := range r.Spots {
		across, down := s.middle()-at.middle(), s.Row-at.Row
		lines := r.lineOf(s.Row) - r.lineOf(at.Row)
		cost := 0
		switch way {
		case leftward, rightward:
			if way == leftward {
				across, lines = -across, -lines
			}
			if lines < 0 || lines > 1 || lines == 0 && across <= 0 || i == from {
				continue
			}
			cost = 10*across + 12*cell*abs(down)
			if s.Item < 0 && down != 0 { // the end of another branch is seldom meant
				cost += 15 * cell
			}
			if lines == 1 {
				cost = 10_000_000 + across + 1000*abs(s.Row-r.firstRow(s.Row))
			}
		default:
			if way == upward {
				down = -down
			}
			if down <= 0 {
				continue
			}
			cost = 2*abs(across) + 3*cell*down
		}
		if best < 0 || cost < least {
			best, least = i, cost
		}
	}
	return best
}

// cell is half a column's width, in the parts in which middle counts.
const cell = 8

// middle is where a spot has its middle. Where two series end at one boundary, the outer one's end lies farther to the right.
func (s Spot) middle() int {
	if s.From == s.To {
		return cell*(s.From+s.To) - min(len(s.Path)/2, cell-1)
	}
	return cell * (s.From + s.To)
}

// lineOf is the number of the folded line in which a row lies.
func (r Rung) lineOf(row int) int {
	n, _ := slices.BinarySearchFunc(r.Breaks, row, func(b Break, row int) int {
		if b.NextRow <= row {
			return -1
		}
		return 1
	})
	return n
}

// firstRow is the first row of the folded line in which a row lies.
func (r Rung) firstRow(row int) int {
	if n := r.lineOf(row); n > 0 {
		return r.Breaks[n-1].NextRow
	}
	return 0
}

func abs(n int) int { return max(n, -n) }
