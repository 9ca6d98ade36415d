package drawing

import (
	"cmp"
	"slices"
	"strings"
	"unicode/utf8"

	"celandine/core/block"
)

// A route is a hop that is being drawn: between which heights it changes, and on which track.
type route struct {
	hop
	top, bottom int
	track       int // from 1; 0 where it goes straight
}

// route gives everything its place across, and draws the lines.
func (l *layout) route() {
	l.out.Lines = make([]Line, len(l.trails))
	for i, t := range l.trails {
		l.out.Lines[i].From = t.from.of.outs[t.from.n].value
	}
	leaves := map[end]int{} // where, across
	x := 0
	for n, layer := range l.layers {
		channel := x
		if n > 0 {
			routes, tracks := l.tracks(n - 1)
			x += 2*tracks + 2 + wordsBeside(layer)
			for _, r := range routes {
				l.draw(r, channel, x, leaves)
			}
		} else {
			x += wordsBeside(layer)
		}
		right := x
		for _, v := range layer {
			right = max(right, l.stand(v, x, leaves))
		}
		x = right
	}
	l.out.Width = x
	for i := range l.out.Lines {
		l.out.Lines[i].Forks = forks(l.out.Lines[i].Pieces)
	}
}

// wordsBeside is the room for the words beside the inputs of a layer.
func wordsBeside(layer []*vertex) (room int) {
	for _, v := range layer {
		for _, in := range v.ins {
			if in.word != "" {
				room = max(room, length(in.word)+2)
			}
		}
	}
	return room
}

// tracks gives each hop through a channel a track, so that few lines cross and none lie on each other, and returns how many there are.
func (l *layout) tracks(layer int) (list []route, most int) {
	for _, h := range l.hops(layer) {
		r := route{hop: h, top: h.from.y(), bottom: h.from.y()}
		for _, to := range h.to {
			r.top, r.bottom = min(r.top, to.y()), max(r.bottom, to.y())
		}
		list = append(list, r)
	}
	slices.SortStableFunc(list, sooner)
	for i := range list {
		if list[i].top == list[i].bottom {
			continue
		}
		list[i].track = 1
		for _, other := range list[:i] {
			if other.top <= list[i].bottom && list[i].top <= other.bottom {
				list[i].track = max(list[i].track, other.track+1)
			}
		}
		most = max(most, list[i].track)
	}
	return list, most
}

// sooner compares hops by where they turn: what goes up before what goes down, the former the sooner the higher it begins, the latter the
// lower it begins.
func sooner(a, b route) int {
	switch {
	case a.goesDown() && b.goesDown():
		return cmp.Compare(b.from.y(), a.from.y())
	case a.goesDown():
		return 1
	case b.goesDown():
		return -1
	}
	return cmp.Compare(a.from.y(), b.from.y())
}

func (r route) goesDown() bool { return r.bottom > r.from.y() }

// draw adds the pieces of a hop to its line.
func (l *layout) draw(r route, channel, x int, leaves map[end]int) {
	y := r.from.y()
	line := &l.out.Lines[r.trail].Pieces
	turn := leaves[r.from]
	if r.track > 0 {
		turn = channel + 2*r.track - 1
		*line = append(*line, Piece{leaves[r.from], y, turn, y}, Piece{turn, r.top, turn, r.bottom})
	}
	for _, to := range r.to {
		*line = append(*line, Piece{turn, to.y(), x, to.y()})
	}
}

// stand puts a vertex where it belongs, notes where its lines leave it, and returns how far it reaches across.
func (l *layout) stand(v *vertex, x int, leaves map[end]int) (right int) {
	switch {
	case v.heading != "":
		right = l.box(v, x)
	case v.target:
		l.out.Words = append(l.out.Words, Word{X: x + 2, Y: v.y, Text: v.word, Inverted: v.circle, Target: true, Start: v.at.Start, End: v.at.End,
			Path: v.path})
		return x + 2 + length(v.word)
	case v.word != "":
		l.out.Words = append(l.out.Words, Word{X: x, Y: v.y, Text: v.word, Start: v.at.Start, End: v.at.End, Path: v.path})
		right = x + length(v.word) + 2
	default: // a line goes past
		leaves[end{v, 0}] = x
		return x + 1
	}
	edge := right - 1
	for n, out := range v.outs {
		e := end{v, v.line(n)}
		leaves[e] = edge
		if label := strings.Join(out.labels, ", "); label != "" {
			l.out.Names = append(l.out.Names, Word{X: edge + 2, Y: e.y(), Text: label, Path: []int{}})
			right = max(right, edge+length(label)+4)
		}
	}
	return right
}

// box adds a box with the words beside its inputs, and returns how far it reaches.
func (l *layout) box(v *vertex, x int) int {
	b := Box{X: x, Y: v.y, Height: v.height(), Heading: v.heading, Instance: v.instance, Kind: v.kind, Start: v.at.Start, End: v.at.End,
		Path: v.path, Inputs: []Pin{}, Outputs: []Pin{}}
	if timed, _ := block.Named(v.kind); timed != nil {
		b.Measure, b.Preset = timed.Measure().Name, timed.Preset().Name
	}
	left, right := 0, 0
	for n, in := range v.ins {
		b.Inputs = append(b.Inputs, in.Pin)
		left = max(left, length(in.Name))
		if in.word != "" {
			y := v.y + v.line(n)
			beside := Word{X: x - 2 - length(in.word), Y: y, Text: in.word, Start: in.at.Start, End: in.at.End, Path: in.Path}
			l.out.Words = append(l.out.Words, beside)
			from := Value{in.word, in.at.Start, in.at.End}
			l.out.Lines = append(l.out.Lines, Line{From: from, Pieces: []Piece{{x - 1, y, x, y}}})
		}
	}
	for _, out := range v.outs {
		b.Outputs = append(b.Outputs, Pin{Name: out.name, Path: []int{}})
		right = max(right, length(out.name))
	}
	b.Width = max(left+right+1, length(v.heading)+2) + 2
	l.out.Boxes = append(l.out.Boxes, b)
	return x + b.Width
}

func length(s string) int { return utf8.RuneCountInString(s) }
