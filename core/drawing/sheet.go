//go:build !editor

package drawing

import (
	"fmt"
	"strings"
)

// A Figure is a rung or a network as a picture of so many pixels, with its number and title.
type Figure struct {
	Title         string
	SVG           string
	width, height float64
}

// Figures are the rungs of a body as pictures.
func Figures(rungs []Rung) (list []Figure) {
	for i, r := range rungs {
		f := Figure{Title: numbered(i, r.Title), SVG: r.SVG(nil)}
		f.width, f.height = r.size(r.boundaries(nil))
		list = append(list, f)
	}
	return list
}

// NetworkFigures are the networks of a body as pictures.
func NetworkFigures(networks []Network) (list []Figure) {
	for i, n := range networks {
		f := Figure{Title: numbered(i, n.Title), SVG: n.SVG()}
		f.width, f.height = n.size()
		list = append(list, f)
	}
	return list
}

// numbered is "3  Mist until Off", of the rung or network that comes third.
func numbered(index int, title string) string {
	return strings.TrimRight(fmt.Sprintf("%d  %s", index+1, title), " ")
}

// headed is the room for a figure's title.
const headed = 26.0

// Sheet is one picture with figures below each other.
func Sheet(figures []Figure) string {
	p, body := &picture{}, &picture{}
	width, height := 0.0, 0.0
	for _, f := range figures {
		body.text(railLeft, height+headed-8, "start", f.Title)
		fmt.Fprintf(&body.b, "<g transform=\"translate(0 %.0f)\">\n%s</g>\n", height+headed, f.SVG)
		width, height = max(width, f.width, railLeft+letter*float64(length(f.Title)+1)), height+headed+f.height
	}
	p.begin(width, height)
	return p.b.String() + body.b.String() + "</svg>\n"
}
