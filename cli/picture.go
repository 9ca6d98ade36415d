package cli

import (
	"fmt"
	"image"
	"image/color"
	"image/draw"
	"image/png"
	"io"
	"math"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
	"golang.org/x/image/math/fixed"
	"golang.org/x/image/vector"

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
	picture *image.RGBA
	face    font.Face
}

// writePNG draws the timing diagram that svg writes.
func writePNG(w io.Writer, t *signal.Trace, _ bool) error {
	d := drawing.Timing(t, 1000)
	parsed, err := opentype.Parse(goregular.TTF)
	if err != nil {
		return fmt.Errorf("reading the font: %w", err)
	}
	face, err := opentype.NewFace(parsed, &opentype.FaceOptions{Size: 9.5, DPI: 96, Hinting: font.HintingFull})
	if err != nil {
		return fmt.Errorf("reading the font: %w", err)
	}
	b := brush{image.NewRGBA(image.Rect(0, 0, d.Width, d.Height)), face}
	draw.Draw(b.picture, b.picture.Bounds(), image.NewUniform(paper), image.Point{}, draw.Src)
	bottom := float64(d.Height) - 28
	for _, tick := range d.Ticks {
		b.line(rule, 1, drawing.Point{X: tick.X, Y: 6}, drawing.Point{X: tick.X, Y: bottom})
		b.write(tick.X, bottom+18, tick.Text, 0.5)
	}
	for _, l := range d.Lanes {
		b.write(float64(d.Left)-10, l.Top+23, l.Name, 1)
		b.line(gold, 2, l.Points...)
		for _, v := range l.Labels {
			b.write(v.X, l.Top+22, v.Text, 0)
		}
	}
	return png.Encode(w, b.picture)
}

// line draws straight strokes from point to point, of a width in pixels, each a little longer than it is so that corners close.
func (b brush) line(c color.Color, width float64, points ...drawing.Point) {
	r := vector.NewRasterizer(b.picture.Bounds().Dx(), b.picture.Bounds().Dy())
	for i := 1; i < len(points); i++ {
		p, q := points[i-1], points[i]
		length := math.Hypot(q.X-p.X, q.Y-p.Y)
		if length == 0 {
			continue
		}
		alongX, alongY := (q.X-p.X)/length*width/2, (q.Y-p.Y)/length*width/2
		corner := func(at drawing.Point, along, across float64) (x, y float32) {
			return float32(at.X + along*alongX - across*alongY), float32(at.Y + along*alongY + across*alongX)
		}
		r.MoveTo(corner(p, -1, -1))
		r.LineTo(corner(q, 1, -1))
		r.LineTo(corner(q, 1, 1))
		r.LineTo(corner(p, -1, 1))
		r.ClosePath()
	}
	r.Draw(b.picture, b.picture.Bounds(), image.NewUniform(c), image.Point{})
}

// write puts words at a place; align is 0 to begin there, 0.5 to centre, 1 to end.
func (b brush) write(x, y float64, words string, align float64) {
	d := font.Drawer{Dst: b.picture, Src: image.NewUniform(ink), Face: b.face}
	width := float64(d.MeasureString(words)) / 64
	d.Dot = fixed.Point26_6{X: fixed.Int26_6((x - align*width) * 64), Y: fixed.Int26_6(y * 64)}
	d.DrawString(words)
}
