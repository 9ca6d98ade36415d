//go:build !editor

package drawing

import (
	"fmt"
	"html"
	"slices"
	"strings"
	"time"

	"celandine/core/signal"
)

// A Diagram is the geometry of a timing diagram, in pixels from the top left.
type Diagram struct {
	Width, Height int
	Left          int // where scan 0 begins
	Lanes         []Lane
	Ticks         []Tick
	Grid          []float64 // where each scan begins, when they are far enough apart
	bottom        float64
}

// A Lane is one signal. Points is its line; Labels are values written into it.
type Lane struct {
	Name   string
	Top    float64
	Points []Point
	Labels []Label
	Bool   bool
	Beside []Point   // the expected line, where there is one
	Shades []Stretch // where the two differ
}

// A Stretch runs from left to right.
type Stretch struct{ From, To float64 }

// A Point is a corner of a line.
type Point struct{ X, Y float64 }

// A Label is a value at a place.
type Label struct {
	X    float64
	Text string
}

// A Tick is a mark on the time axis.
type Tick struct {
	X    float64
	Text string
}

const (
	laneHeight = 34.0
	laneTop    = 8.0  // free above a line
	lineHeight = 18.0 // from low to high
	axisHeight = 28.0
)

// Timing lays a trace out over a width in pixels.
func Timing(t *signal.Trace, width int) Diagram {
	return Compared(t, nil, 0, t.Scans, width)
}

// closeScans is how far apart, in pixels, scans must be for each to be marked.
const closeScans = 7.0

// Compared lays out the scans of a trace from one up to but without another, with the columns that are expected, by their
// names, on the same axis: where the two differ is shaded.
func Compared(t *signal.Trace, expected *signal.Trace, from, to, width int) Diagram {
	d := Diagram{Width: width, Left: 30}
	for _, c := range t.Columns {
		d.Left = max(d.Left, 24+8*length(c.Name))
	}
	scans := max(to-from, 1)
	scale := float64(width-d.Left-30) / float64(scans)
	x := func(scan int) float64 { return float64(d.Left) + float64(scan-from)*scale }
	for i, c := range t.Columns {
		var other *signal.Column
		if expected != nil {
			other = expected.Column(c.Name)
		}
		d.Lanes = append(d.Lanes, lane(c, other, from, from+scans, float64(i)*laneHeight+8, x))
	}
	d.bottom = float64(len(t.Columns))*laneHeight + 12
	d.Height = int(d.bottom + axisHeight)
	every := tickEvery(t, scans)
	for scan := (from + every - 1) / every * every; scan <= from+scans; scan += every {
		d.Ticks = append(d.Ticks, Tick{x(scan), signal.FormatClock(t.Time(scan))})
	}
	if scale >= closeScans {
		for scan := from; scan <= from+scans; scan++ {
			d.Grid = append(d.Grid, x(scan))
		}
	}
	return d
}

// tickEvery picks a round number of scans that gives about eight ticks.
func tickEvery(t *signal.Trace, scans int) int {
	for _, d := range []time.Duration{t.Period, 2 * t.Period, 5 * t.Period, 10 * t.Period, 50 * time.Millisecond, 100 * time.Millisecond,
		200 * time.Millisecond,
		500 * time.Millisecond, time.Second, 2 * time.Second, 5 * time.Second, 10 * time.Second, 30 * time.Second, time.Minute, 5 * time.Minute,
		10 * time.Minute, time.Hour} {
		if n := int(d / t.Period); n > 0 && scans/n <= 10 {
			return n
		}
	}
	return max(scans/8, 1)
}

func lane(c, expected *signal.Column, from, to int, top float64, x func(int) float64) Lane {
	l := Lane{Name: c.Name, Top: top, Bool: c.Kind == signal.Bool}
	c = c.Clip(from, to)
	low, high := bounds(c, to)
	if expected != nil {
		expected = expected.Clip(from, to)
		other, above := bounds(expected, to)
		low, high = min(low, other), max(high, above)
	}
	y := func(v int64) float64 {
		if high == low {
			return top + laneTop + lineHeight
		}
		return top + laneTop + lineHeight*(1-float64(v-low)/float64(high-low))
	}
	l.Points = points(c, to, x, y)
	segments := c.Segments()
	for i, s := range segments {
		end := ends(segments, i, to)
		if !l.Bool && s.Slope == 0 && x(end)-x(s.Scan) > float64(8*length(c.Kind.Format(s.Value))) {
			l.Labels = append(l.Labels, Label{x(s.Scan) + 4, c.Kind.Format(s.Value)})
		}
	}
	if expected != nil {
		l.Beside = points(expected, to, x, y)
		l.Shades = differences(c, expected, to, x)
	}
	return l
}

// ends is the scan at which one of a column's segments ends.
func ends(segments []signal.Segment, i, to int) int {
	if i+1 < len(segments) {
		return min(to, segments[i+1].Scan)
	}
	return to
}

func points(c *signal.Column, to int, x func(int) float64, y func(int64) float64) (list []Point) {
	segments := c.Segments()
	for i, s := range segments {
		end := ends(segments, i, to)
		list = append(list, Point{x(s.Scan), y(s.Value)}, Point{x(end), y(s.Value + s.Slope*int64(end-s.Scan-1))})
	}
	return list
}

// differences lists where two columns are not the same, to within their segments.
func differences(a, b *signal.Column, to int, x func(int) float64) (list []Stretch) {
	var marks []int
	for _, c := range []*signal.Column{a, b} {
		for _, s := range c.Segments() {
			marks = append(marks, s.Scan)
		}
	}
	slices.Sort(marks)
	marks = append(slices.Compact(marks), to)
	for i, scan := range marks[:len(marks)-1] {
		end := marks[i+1]
		if a.At(scan) == b.At(scan) && a.At(end-1) == b.At(end-1) {
			continue
		}
		if n := len(list); n > 0 && list[n-1].To == x(scan) {
			list[n-1].To = x(end)
		} else {
			list = append(list, Stretch{x(scan), x(end)})
		}
	}
	return list
}

func bounds(c *signal.Column, to int) (low, high int64) {
	segments := c.Segments()
	if c.Kind == signal.Bool || len(segments) == 0 {
		return 0, 1
	}
	low, high = segments[0].Value, segments[0].Value
	for i, s := range segments {
		last := s.Value + s.Slope*int64(max(ends(segments, i, to)-s.Scan-1, 0))
		low, high = min(low, s.Value, last), max(high, s.Value, last)
	}
	return low, high
}

// SVG writes the diagram as a picture that stands alone, on a light ground.
func (d Diagram) SVG() string {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d" `+
		`font-family="sans-serif" font-size="13">`+"\n", d.Width, d.Height, d.Width, d.Height)
	b.WriteString(`<rect width="100%" height="100%" fill="#fffdf5"/>` + "\n")
	for _, t := range d.Ticks {
		fmt.Fprintf(&b, `<path d="M%.1f 6V%.1f" stroke="#d9d4c3"/><text x="%.1f" y="%.1f" text-anchor="middle" fill="#5d5846">%s</text>`+"\n",
			t.X, d.bottom, t.X, d.bottom+18, html.EscapeString(t.Text))
	}
	for _, at := range d.Grid {
		fmt.Fprintf(&b, `<path d="M%.1f 6V%.1f" stroke="#ece8da" stroke-width="1"/>`+"\n", at, d.bottom)
	}
	for _, l := range d.Lanes {
		for _, s := range l.Shades {
			fmt.Fprintf(&b, `<rect x="%.1f" y="%.1f" width="%.1f" height="%.1f" fill="#f4c7b8"/>`+"\n", s.From, l.Top+laneTop-4, max(s.To-s.From, 2),
				lineHeight+8)
		}
		if l.Beside != nil {
			fmt.Fprintf(&b, `<path d="%s" fill="none" stroke="#3d4f8a" stroke-width="2" stroke-dasharray="5 4"/>`+"\n", path(l.Beside))
		}
		fmt.Fprintf(&b, `<text x="%d" y="%.1f" text-anchor="end" fill="#26241c">%s</text>`+"\n", d.Left-10, l.Top+laneTop+lineHeight-3,
			html.EscapeString(l.Name))
		fmt.Fprintf(&b, `<path d="%s" fill="none" stroke="#8a6d00" stroke-width="2"/>`+"\n", path(l.Points))
		for _, v := range l.Labels {
			fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" fill="#26241c" font-size="11">%s</text>`+"\n", v.X, l.Top+laneTop+lineHeight-4,
				html.EscapeString(v.Text))
		}
	}
	b.WriteString("</svg>\n")
	return b.String()
}

func path(points []Point) string {
	var b strings.Builder
	for i, p := range points {
		word := "L"
		if i == 0 {
			word = "M"
		}
		fmt.Fprintf(&b, "%s%.1f %.1f", word, p.X, p.Y)
	}
	return b.String()
}
