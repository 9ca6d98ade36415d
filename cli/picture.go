package cli

import (
	"image/color"
	"io"

	"gonum.org/v1/plot/font"
	"gonum.org/v1/plot/font/liberation"
	"gonum.org/v1/plot/vg"
	"gonum.org/v1/plot/vg/vgimg"

	"celandine/core/drawing"
	"celandine/core/signal"
)

var (
	paper = color.RGBA{0xff, 0xfd, 0xf5, 0xff}
	rule  = color.RGBA{0xd9, 0xd4, 0xc3, 0xff}
	ink   = color.RGBA{0x26, 0x24, 0x1c, 0xff}
	gold  = color.RGBA{0x8a, 0x6d, 0x00, 0xff}
)

// brush draws on a picture whose pixels count from the top left.
type brush struct {
	canvas vg.Canvas
	height float64
	face   font.Face
}

// writePNG draws the timing diagram that svg writes.
func writePNG(w io.Writer, t *signal.Trace, _ bool) error {
	d := drawing.Timing(t, 1000)
	const dots = 96
	points := func(pixels float64) vg.Length { return vg.Length(pixels) * 72 / dots }
	c := vgimg.NewWith(vgimg.UseWH(points(float64(d.Width)), points(float64(d.Height))), vgimg.UseDPI(dots), vgimg.UseBackgroundColor(paper))
	b := brush{canvas: c, height: float64(d.Height), face: font.NewCache(liberation.Collection()).Lookup(font.Font{Typeface: "Liberation", Variant: "Sans"}, 9.5)}
	bottom := float64(d.Height) - 28
	for _, tick := range d.Ticks {
		b.line(rule, 1, drawing.Point{X: tick.X, Y: 6}, drawing.Point{X: tick.X, Y: bottom})
		b.write(tick.X, bottom+18, tick.Text, -0.5)
	}
	for _, l := range d.Lanes {
		b.write(float64(d.Left)-10, l.Top+23, l.Name, -1)
		b.line(gold, 2, l.Points...)
		for _, v := range l.Labels {
			b.write(v.X, l.Top+22, v.Text, 0)
		}
	}
	_, err := vgimg.PngCanvas{Canvas: c}.WriteTo(w)
	return err
}

func (b brush) at(p drawing.Point) vg.Point {
	return vg.Point{X: vg.Length(p.X) * 0.75, Y: vg.Length(b.height-p.Y) * 0.75}
}

func (b brush) line(c color.Color, width float64, points ...drawing.Point) {
	var path vg.Path
	for i, p := range points {
		if i == 0 {
			path.Move(b.at(p))
		} else {
			path.Line(b.at(p))
		}
	}
	b.canvas.SetColor(c)
	b.canvas.SetLineWidth(vg.Length(width) * 0.75)
	b.canvas.Stroke(path)
}

// write puts words at a place; align is 0 to begin there, -0.5 to centre, -1 to end.
func (b brush) write(x, y float64, words string, align float64) {
	b.canvas.SetColor(ink)
	at := b.at(drawing.Point{X: x, Y: y})
	at.X += b.face.Width(words) * vg.Length(align)
	b.canvas.FillString(b.face, at, words)
}
