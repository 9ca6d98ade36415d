package xmlio

import (
	"slices"
	"strings"
)

// connect joins the lines, and those that go on elsewhere.
func (g *grapher) connect() {
	for _, o := range g.all {
		for _, in := range o.ins {
			point := in.at
			if c := point.child("connectionpointin"); c != nil {
				point = c
			}
			for _, line := range point.children {
				if line.name == "connection" {
					g.lead(in, line)
				}
			}
		}
	}
	g.goOn()
	for _, o := range g.all {
		for _, in := range o.ins {
			if in.inOut && len(in.from) > 1 {
				g.wrong(in.at, "Draw one line.", "%s of %s goes in and out and takes one variable.", in.name, o.called())
			}
			for _, out := range in.from {
				out.to = append(out.to, in)
			}
		}
	}
}

func (g *grapher) lead(in *inlet, line *element) {
	id, what := "point "+line.attribute("refconnectionpointoutid"), line.attribute("refconnectionpointoutid")
	if local := line.attribute("reflocalid"); local != "" {
		id, what = "object "+local, local
		if name := strings.ToLower(line.attribute("formalparameter")); name != "" && g.outlets[id+" "+name] != nil {
			id += " " + name
		}
	}
	out := g.outlets[id]
	if out == nil {
		g.wrong(line, "Export the program again.", "a line comes from %s, which is not there.", what)
		return
	}
	if !slices.Contains(in.from, out) {
		in.from = append(in.from, out)
	}
}

// goOn puts in place of each continuation what its connector gets.
func (g *grapher) goOn() {
	f := &follower{grapher: g, ends: map[string]*object{}, known: map[*object][]*outlet{}, on: map[*object]bool{}}
	for _, o := range g.all {
		if o.kind == connector {
			f.ends[strings.ToLower(o.operand)] = o
		}
	}
	for _, o := range g.all {
		for _, in := range o.ins {
			in.from = f.all(in.from)
		}
	}
}

// A follower follows lines that go on elsewhere.
type follower struct {
	*grapher
	ends  map[string]*object    // connectors by name
	known map[*object][]*outlet // where the line of a connector begins
	on    map[*object]bool
}

// all are outlets with, in place of each continuation, those where its line begins; none stands twice.
func (f *follower) all(from []*outlet) (list []*outlet) {
	seen := map[*outlet]bool{}
	for _, out := range from {
		begins := []*outlet{out}
		if out.of.kind == continuation {
			begins = f.beginnings(out.of)
		}
		for _, one := range begins {
			if !seen[one] {
				seen[one] = true
				list = append(list, one)
			}
		}
	}
	return list
}

func (f *follower) beginnings(o *object) []*outlet {
	end := f.ends[strings.ToLower(o.operand)]
	switch {
	case end == nil:
		f.wrong(o.at, "Draw its connector.", "no line goes on as %s.", o.operand)
		return nil
	case f.on[end]:
		f.wrong(o.at, "Let it begin somewhere.", "the line %s goes round in a circle.", o.operand)
		return nil
	}
	if list, ok := f.known[end]; ok {
		return list
	}
	f.on[end] = true
	f.known[end] = f.all(end.ins[0].from)
	delete(f.on, end)
	return f.known[end]
}
