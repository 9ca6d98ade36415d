package xmlio

import (
	"cmp"
	"math"
	"slices"
	"strings"
)

// A sheet is the objects of one rung or network, or of several that are still to be told apart.
type sheet struct {
	at       *element
	objects  []*object
	title    string
	comments []string
	notes    []note
}

// A note is words on a drawing.
type note struct {
	words string
	y     float64
}

// name takes the first line that is no comment for a title.
func (s *sheet) name(notes []note) {
	slices.SortStableFunc(notes, func(a, b note) int { return cmp.Compare(a.y, b.y) })
	for _, n := range notes {
		words := strings.TrimSpace(n.words)
		switch {
		case words == "":
		case s.title == "" && isTitle(words):
			s.title = words
		default:
			s.comments = append(s.comments, asComment(words))
		}
	}
	s.notes = nil
}

// isTitle reports words that can stand in the quotes of a title.
func isTitle(words string) bool {
	return len(words) <= 100 && !strings.ContainsAny(words, "'\n$") && !strings.HasPrefix(words, "//") && !strings.HasPrefix(words, "(*") &&
		!strings.HasPrefix(words, "/*")
}

// pieces are the rungs or networks of the body: as the file has them, or else what hangs together.
func (g *grapher) pieces() (list []*sheet) {
	for _, s := range g.sheets {
		if s.at.name == "rung" || s.at.name == "network" {
			list = append(list, s)
			continue
		}
		list = append(list, g.apart(s)...)
	}
	return list
}

// apart tells the rungs of one drawing apart: objects that lines join, and rails where each rung has its own.
func (g *grapher) apart(s *sheet) (list []*sheet) {
	rails := 0
	for _, o := range s.objects {
		if o.kind == leftRail {
			rails++
		}
	}
	group := map[*object]*object{}
	var first func(o *object) *object
	first = func(o *object) *object {
		if group[o] == nil || group[o] == o {
			return o
		}
		group[o] = first(group[o])
		return group[o]
	}
	for _, o := range s.objects {
		for _, in := range o.ins {
			for _, out := range in.from {
				if shared := out.of.kind == leftRail || o.kind == rightRail; !shared || rails > 1 {
					group[first(o)] = first(out.of)
				}
			}
		}
	}
	by := map[*object]*sheet{}
	for _, o := range s.objects {
		switch {
		case rails <= 1 && (o.kind == leftRail || o.kind == rightRail), o.kind == connector, o.kind == continuation,
			o.kind == sourceKind && len(o.outs[0].to) == 0:
			continue
		}
		one := by[first(o)]
		if one == nil {
			one = &sheet{at: o.at}
			by[first(o)] = one
			list = append(list, one)
		}
		one.objects = append(one.objects, o)
	}
	list = interleaved(list)
	slices.SortStableFunc(list, func(a, b *sheet) int {
		return cmp.Or(cmp.Compare(a.orders()[0], b.orders()[0]), cmp.Compare(a.top(), b.top()))
	})
	s.annotate(list)
	return list
}

// orders are the least and the greatest number in the order of working out.
func (s *sheet) orders() [2]int {
	least, greatest := math.MaxInt, 0
	for _, o := range s.objects {
		if o.order > 0 {
			least, greatest = min(least, o.order), max(greatest, o.order)
		}
	}
	return [2]int{least, greatest}
}

// interleaved joins networks whose objects are worked out in turns.
func interleaved(list []*sheet) (out []*sheet) {
	slices.SortStableFunc(list, func(a, b *sheet) int { return cmp.Compare(a.orders()[0], b.orders()[0]) })
	for _, s := range list {
		if n := len(out); n > 0 && s.orders()[0] < out[n-1].orders()[1] {
			out[n-1].objects = append(out[n-1].objects, s.objects...)
			continue
		}
		out = append(out, s)
	}
	return out
}

// top is how far down a sheet begins.
func (s *sheet) top() float64 {
	top := math.Inf(1)
	for _, o := range s.objects {
		if o.kind != leftRail && o.kind != rightRail {
			top = min(top, o.y)
		}
	}
	return top
}

// annotate gives each note to the piece that begins below it.
func (s *sheet) annotate(list []*sheet) {
	notes := map[*sheet][]note{}
	for _, n := range s.notes {
		var below *sheet
		for _, one := range list {
			if top := one.top(); top >= n.y && (below == nil || top < below.top()) {
				below = one
			}
		}
		if below == nil && len(list) > 0 {
			below = list[len(list)-1]
		}
		if below != nil {
			notes[below] = append(notes[below], n)
		}
	}
	for _, one := range list {
		one.name(notes[one])
	}
}
