package drawing

import (
	"cmp"
	"slices"
)

// A network is laid out in layers: a box stands right of all from which it gets its values, targets in the last layer. A line that goes
// past a layer has a place of its own in it, like a box of one line. Within the layers things are put in an order in which few lines
// cross, then as high as they can stand with a line that goes straight. Between two layers lines change their height in a channel, each
// on a track of its own.

// A trail is a line from a port on, on its way through the layers.
type trail struct {
	from port
	at   []stop // in the layers behind that of from, in their order
}

// A stop is where a trail goes in a layer: to inputs, or on.
type stop struct {
	inputs []port  // of vertices, by the number of their input
	on     *vertex // or nil at the end
}

type layout struct {
	layers [][]*vertex
	trails []*trail
	out    Network
}

func (g *graph) layout(title string) Network {
	l := &layout{out: Network{Title: title, Boxes: []Box{}, Words: []Word{}, Names: []Word{}}}
	last := 0
	for _, v := range g.vertices {
		if !v.target {
			last = max(last, v.layer)
		}
	}
	for _, v := range g.vertices {
		if v.target { // behind all boxes
			v.layer = last + 1
		}
	}
	l.sort(g.vertices)
	l.lead(g.vertices)
	l.order()
	l.place()
	l.route()
	return l.out
}

// sort puts vertices into their layers.
func (l *layout) sort(vertices []*vertex) {
	for _, v := range vertices {
		for len(l.layers) <= v.layer {
			l.layers = append(l.layers, nil)
		}
		l.layers[v.layer] = append(l.layers[v.layer], v)
	}
}

// lead makes the trails from ports to inputs, with a place in each layer that they pass.
func (l *layout) lead(vertices []*vertex) {
	known := map[port]*trail{}
	for _, v := range vertices {
		for n, in := range v.ins {
			if in.from.of == nil {
				continue
			}
			t := known[in.from]
			if t == nil {
				t = &trail{from: in.from}
				known[in.from] = t
				l.trails = append(l.trails, t)
			}
			l.reach(t, v.layer)
			s := &t.at[v.layer-t.from.of.layer-1]
			s.inputs = append(s.inputs, port{v, n})
		}
	}
}

// reach lets a trail go as far as a layer.
func (l *layout) reach(t *trail, layer int) {
	for first := t.from.of.layer + 1; first+len(t.at) <= layer; {
		if len(t.at) > 0 {
			on := &vertex{layer: first + len(t.at) - 1}
			t.at[len(t.at)-1].on = on
			l.layers[on.layer] = append(l.layers[on.layer], on)
		}
		t.at = append(t.at, stop{})
	}
}

// An end is where a line enters or leaves a layer: at a vertex, so many lines below its top.
type end struct {
	v    *vertex
	line int
}

func (e end) y() int { return e.v.y + e.line }

// hop is what a trail does in one channel: from one end to others.
type hop struct {
	trail int
	from  end
	to    []end
}

// hops returns what goes through the channel behind a layer, in the order of the trails.
func (l *layout) hops(layer int) (list []hop) {
	for i, t := range l.trails {
		n := layer - t.from.of.layer
		if n < 0 || n >= len(t.at) {
			continue
		}
		h := hop{trail: i, from: end{t.from.of, t.from.of.line(t.from.n)}}
		if n > 0 {
			h.from = end{t.at[n-1].on, 0}
		}
		for _, in := range t.at[n].inputs {
			h.to = append(h.to, end{in.of, in.of.line(in.n)})
		}
		if on := t.at[n].on; on != nil {
			h.to = append(h.to, end{on, 0})
		}
		list = append(list, h)
	}
	return list
}

// line is how far below its top a vertex has a pin.
func (v *vertex) line(pin int) int {
	if v.heading == "" {
		return 0
	}
	return pin + 1
}

func (v *vertex) height() int {
	if v.heading == "" {
		return 1
	}
	return max(len(v.ins), len(v.outs)) + 2
}

// The search for an order is bounded: in how often it goes through the layers, and to networks that somebody could read.
const (
	sweeps       = 8
	mostArranged = 3000
)

// order puts the vertices of each layer into an order in which few lines cross.
func (l *layout) order() {
	count := 0
	for _, layer := range l.layers {
		count += len(layer)
	}
	if count > mostArranged {
		return
	}
	best, least := l.snapshot(), l.crossings()
	for n := 0; n < sweeps && least > 0; n++ {
		for layer := range len(l.layers) - 1 {
			if n%2 == 0 {
				l.rearrange(layer+1, layer, forward)
			} else {
				l.rearrange(len(l.layers)-2-layer, len(l.layers)-2-layer, backward)
			}
		}
		if crossed := l.crossings(); crossed < least {
			best, least = l.snapshot(), crossed
		}
	}
	l.layers = best
}

func (l *layout) snapshot() [][]*vertex {
	list := make([][]*vertex, len(l.layers))
	for i := range l.layers {
		list[i] = slices.Clone(l.layers[i])
	}
	return list
}

// forward and backward tell of a hop which end is put into order, by which others.
func forward(from, to end) (end, end)  { return to, from }
func backward(from, to end) (end, end) { return from, to }

// rearrange sorts a layer by the middle of what its vertices are connected with through a channel. What is not connected stays.
func (l *layout) rearrange(layer, channel int, way func(from, to end) (end, end)) {
	places := l.places()
	sum, count := map[*vertex]float64{}, map[*vertex]float64{}
	for _, h := range l.hops(channel) {
		for _, to := range h.to {
			mine, other := way(h.from, to)
			sum[mine.v] += places.of(other) - float64(mine.line)/100
			count[mine.v]++
		}
	}
	for _, v := range l.layers[layer] {
		if count[v] == 0 {
			sum[v], count[v] = float64(places[v]), 1
		}
	}
	slices.SortStableFunc(l.layers[layer], func(a, b *vertex) int { return cmp.Compare(sum[a]/count[a], sum[b]/count[b]) })
}

// places is the place of each vertex in its layer.
type places map[*vertex]int

func (l *layout) places() places {
	p := places{}
	for _, layer := range l.layers {
		for i, v := range layer {
			p[v] = i
		}
	}
	return p
}

// of is where an end stands: a pin between its vertex and the next.
func (p places) of(e end) float64 { return float64(p[e.v]) + float64(e.line)/100 }

// crossings counts the lines that cross.
func (l *layout) crossings() (n int) {
	p := l.places()
	for layer := range l.layers {
		type edge struct{ from, to float64 }
		var edges []edge
		for _, h := range l.hops(layer) {
			for _, to := range h.to {
				edges = append(edges, edge{p.of(h.from), p.of(to)})
			}
		}
		for i, a := range edges {
			for _, b := range edges[i+1:] {
				if (a.from-b.from)*(a.to-b.to) < 0 {
					n++
				}
			}
		}
	}
	return n
}

// place gives each vertex its height: below the one before it, where its first line goes straight if that can be, and so that
// no line arrives at the height at which another one leaves.
func (l *layout) place() {
	for layer, list := range l.layers {
		leaving := map[int]end{} // by line
		source := map[end]end{}
		if layer > 0 {
			for _, h := range l.hops(layer - 1) {
				leaving[h.from.y()] = h.from
				for _, to := range h.to {
					source[to] = h.from
				}
			}
		}
		next := 0
		for _, v := range list {
			y := next
			for _, e := range v.arrivals() {
				if from, ok := source[e]; ok {
					y = max(next, from.y()-e.line)
					break
				}
			}
			for meets(v.arrivals(), y, leaving, source) {
				y++
			}
			v.y, next = y, y+v.height()
			l.out.Height = max(l.out.Height, next)
		}
	}
}

// arrivals are the ends at which lines can arrive.
func (v *vertex) arrivals() (list []end) {
	if v.heading == "" {
		return []end{{v, 0}}
	}
	for n := range v.ins {
		list = append(list, end{v, v.line(n)})
	}
	return list
}

// meets reports whether a line would arrive at a height at which another one leaves: the two would run into each other.
func meets(arrivals []end, y int, leaving map[int]end, source map[end]end) bool {
	return slices.ContainsFunc(arrivals, func(e end) bool {
		from, arrives := source[e]
		other, leaves := leaving[y+e.line]
		return arrives && leaves && other != from
	})
}
