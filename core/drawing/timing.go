package drawing

import (
	"fmt"
	"html"
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
	bottom        float64
}

// A Lane is one signal. Points is its line; Labels are values written into it.
type Lane struct {
	Name   string
	Top    float64
	Points []Point
	Labels []Label
	Bool   bool
}

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
	d := Diagram{Width: width, Left: 30}
	for _, c := range t.Columns {
		d.Left = max(d.Left, 24+8*length(c.Name))
	}
	scans := max(t.Scans, 1)
	scale := float64(width-d.Left-16) / float64(scans)
	x := func(scan int) float64 { return float64(d.Left) + float64(scan)*scale }
	for i, c := range t.Columns {
		d.Lanes = append(d.Lanes, lane(c, scans, float64(i)*laneHeight+8, x))
	}
	d.bottom = float64(len(t.Columns))*laneHeight + 12
	d.Height = int(d.bottom + axisHeight)
	for scan, every := 0, tickEvery(t, scans); scan <= scans; scan += every {
		d.Ticks = append(d.Ticks, Tick{x(scan), signal.FormatClock(t.Time(scan))})
	}
	return d
}

// tickEvery picks a round number of scans that gives about eight ticks.
func tickEvery(t *signal.Trace, scans int) int {
	for _, d := range []time.Duration{t.Period, 2 * t.Period, 5 * t.Period, 10 * t.Period, 50 * time.Millisecond, 100 * time.Millisecond, 200 * time.Millisecond,
		500 * time.Millisecond, time.Second, 2 * time.Second, 5 * time.Second, 10 * time.Second, 30 * time.Second, time.Minute, 5 * time.Minute, 10 * time.Minute, time.Hour} {
		if n := int(d / t.Period); n > 0 && scans/n <= 10 {
			return n
		}
	}
	return max(scans/8, 1)
}

func lane(c *signal.Column, scans int, top float64, x func(int) float64) Lane {
	l := Lane{Name: c.Name, Top: top, Bool: c.Kind == signal.Bool}
	low, high := bounds(c, scans)
	y := func(v int64) float64 {
		if high == low {
			return top + laneTop + lineHeight
		}
		return top + laneTop + lineHeight*(1-float64(v-low)/float64(high-low))
	}
	for i, s := range c.Segments {
		end := scans
		if i+1 < len(c.Segments) {
			end = min(end, c.Segments[i+1].Scan)
		}
		if s.Scan >= end {
			continue
		}
		l.Points = append(l.Points, Point{x(s.Scan), y(s.Value)}, Point{x(end), y(s.Value + s.Slope*int64(end-s.Scan-1))})
		if !l.Bool && s.Slope == 0 && x(end)-x(s.Scan) > float64(8*length(c.Kind.Format(s.Value))) {
			l.Labels = append(l.Labels, Label{x(s.Scan) + 4, c.Kind.Format(s.Value)})
		}
	}
	return l
}

func bounds(c *signal.Column, scans int) (low, high int64) {
	if c.Kind == signal.Bool {
		return 0, 1
	}
	low, high = c.At(0), c.At(0)
	for i, s := range c.Segments {
		end := scans
		if i+1 < len(c.Segments) {
			end = c.Segments[i+1].Scan
		}
		last := s.Value + s.Slope*int64(max(end-s.Scan-1, 0))
		low, high = min(low, s.Value, last), max(high, s.Value, last)
	}
	return low, high
}

// SVG writes the diagram as a picture that stands alone, on a light ground.
func (d Diagram) SVG() string {
	var b strings.Builder
	fmt.Fprintf(&b, `<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%d" viewBox="0 0 %d %d" font-family="sans-serif" font-size="13">`+"\n", d.Width, d.Height, d.Width, d.Height)
	b.WriteString(`<rect width="100%" height="100%" fill="#fffdf5"/>` + "\n")
	for _, t := range d.Ticks {
		fmt.Fprintf(&b, `<path d="M%.1f 6V%.1f" stroke="#d9d4c3"/><text x="%.1f" y="%.1f" text-anchor="middle" fill="#5d5846">%s</text>`+"\n", t.X, d.bottom, t.X, d.bottom+18, html.EscapeString(t.Text))
	}
	for _, l := range d.Lanes {
		fmt.Fprintf(&b, `<text x="%d" y="%.1f" text-anchor="end" fill="#26241c">%s</text>`+"\n", d.Left-10, l.Top+laneTop+lineHeight-3, html.EscapeString(l.Name))
		fmt.Fprintf(&b, `<path d="%s" fill="none" stroke="#8a6d00" stroke-width="2"/>`+"\n", path(l.Points))
		for _, v := range l.Labels {
			fmt.Fprintf(&b, `<text x="%.1f" y="%.1f" fill="#26241c" font-size="11">%s</text>`+"\n", v.X, l.Top+laneTop+lineHeight-4, html.EscapeString(v.Text))
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
