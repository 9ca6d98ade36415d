package xmlio

import ()

// drawn is a body of pieces: in the standard's form each piece by itself, in the one before all below each other.
func (w *writer) drawn(language, unit string, pieces []*piece) *tag {
	if w.form == Earlier {
		one := el(language)
		y, id := 0, 0
		for _, p := range pieces {
			for _, s := range p.shapes {
				id = max(id, s.id)
			}
		}
		outlets := outletsOf(pieces)
		for _, p := range pieces {
			for _, words := range p.notes() {
				id++
				one.add(el("comment", "localId", digits(id), "height", digits(lineStep), "width", digits(letterStep*len(words))).add(
					el("position", "x", "0", "y", digits(y)), el("content").add(xhtml(words))))
				y += lineStep
			}
			for _, s := range p.shapes {
				one.add(s.earlier(y, outlets))
			}
			y += p.height + lineStep
		}
		return one
	}
	one := el("BodyContent", "xsi:type", language)
	for i, p := range pieces {
		r := el(unit, "evaluationOrder", digits(i+1))
		for _, words := range p.notes() {
			r.add(el("CommonObject", "xsi:type", "Comment").add(el("Content").words(words)))
		}
		for _, s := range p.shapes {
			r.add(s.standard())
		}
		one.add(r)
	}
	return one
}

// notes are the title and the comments of a piece.
func (p *piece) notes() (list []string) {
	if p.title != "" {
		list = append(list, p.title)
	}
	return append(list, p.comments...)
}

// outletsOf finds the shape and the pin of each outlet.
func outletsOf(pieces []*piece) map[int][2]string {
	of := map[int][2]string{}
	for _, p := range pieces {
		for _, s := range p.shapes {
			for _, o := range s.outs {
				of[o.outlet] = [2]string{digits(s.id), o.name}
			}
		}
	}
	return of
}

// added is what the format has no words for: the memory of an edge, and the name of a wire.
func added(name, data, memory, wire string, bare bool) *tag {
	if memory == "" && wire == "" {
		return nil
	}
	one := el("edge", "memory", memory)
	if wire != "" {
		one = el("wire", "wire", wire, "bare", yes(bare))
	}
	one.attributes = append([]string{"xmlns", ""}, one.attributes...)
	return el(name).add(el(data, "name", addedName, "handleUnknown", "discard").add(one))
}

// standard is a shape in the standard's form.
func (s *shape) standard() *tag {
	one := s.frame()
	one.add(added("AddData", "Data", s.memory, s.wire, s.bare), el("RelPosition", "x", digits(s.x), "y", digits(s.y)))
	if s.kind == boxKind {
		return one.add(s.pins("InputVariables", "InputVariable", false, true), s.pins("InoutVariables", "InoutVariable", true, true),
			s.pins("OutputVariables", "OutputVariable", false, false))
	}
	for _, in := range s.ins {
		one.add(in.lines())
	}
	for _, o := range s.outs {
		one.add(o.begins())
	}
	return one
}

// frame is the element of a shape with what its attributes say.
func (s *shape) frame() *tag {
	object := func(group, kind string, more ...string) *tag {
		return el(group, append([]string{"xsi:type", kind}, more...)...)
	}
	negated, edge, latch := yes(s.negated), wordFor(edges, s.edge), wordFor(storages, s.storage)
	switch s.kind {
	case leftRail:
		return object("LdObject", "LeftPowerRail")
	case rightRail:
		return object("LdObject", "RightPowerRail")
	case contactKind:
		return object("LdObject", "Contact", "operand", s.operand, "negated", negated, "edge", edge)
	case coilKind:
		return object("LdObject", "Coil", "operand", s.operand, "negated", negated, "edge", edge, "latch", latch)
	case sourceKind:
		return object("FbdObject", "DataSource", "identifier", s.operand)
	case sinkKind:
		return object("FbdObject", "DataSink", "identifier", s.operand, "negated", negated, "edge", edge, "latch", latch)
	}
	return object("FbdObject", "Block", "typeName", s.heading, "instanceName", s.instance)
}

func (s *shape) pins(list, name string, inOut, in bool) *tag {
	all := el(list)
	if in {
		for _, p := range s.ins {
			if p.inOut != inOut {
				continue
			}
			one := el(name, "parameterName", p.name, "negated", yes(p.negated), "edge", wordFor(edges, p.edge))
			all.add(one.add(added("AddData", "Data", p.memory, "", false), p.lines()))
		}
		return some(all)
	}
	for _, p := range s.outs {
		all.add(el(name, "parameterName", p.name).add(p.begins()))
	}
	return some(all)
}

// some is an element that holds something, or nil.
func some(t *tag) *tag {
	if len(t.children) == 0 {
		return nil
	}
	return t
}

func (p socket) lines() *tag {
	point := el("ConnectionPointIn")
	for _, from := range p.from {
		point.add(el("Connection", "refConnectionPointOutId", digits(from)))
	}
	return point
}

func (p socket) begins() *tag {
	return el("ConnectionPointOut", "connectionPointOutId", digits(p.outlet))
}

// earlier is a shape in the form before the standard, so far down.
func (s *shape) earlier(y int, outlets map[int][2]string) *tag {
	names := map[kind]string{leftRail: "leftPowerRail", rightRail: "rightPowerRail", contactKind: "contact", coilKind: "coil",
		boxKind: "block", sourceKind: "inVariable", sinkKind: "outVariable"}
	one := el(names[s.kind], "localId", digits(s.id))
	rail := s.kind == leftRail || s.kind == rightRail
	if !rail {
		one.attributes = append(one.attributes, "executionOrderId", digits(s.id))
	}
	if s.kind == boxKind {
		one.attributes = append(one.attributes, el("", "typeName", s.heading, "instanceName", s.instance).attributes...)
	} else {
		marks := el("", "negated", yes(s.negated), "edge", wordFor(edges, s.edge), "storage", wordFor(storages, s.storage))
		one.attributes = append(one.attributes, marks.attributes...)
	}
	one.add(el("position", "x", digits(s.x), "y", digits(y+s.y)))
	if s.kind == boxKind {
		one.add(s.earlierPins("inputVariables", false, outlets), s.earlierPins("inOutVariables", true, outlets), s.earlierOuts())
		return one.add(added("addData", "data", s.memory, s.wire, s.bare))
	}
	for _, in := range s.ins {
		one.add(in.earlier(outlets))
	}
	for range s.outs {
		out := el("connectionPointOut")
		if s.kind == leftRail {
			out = el("connectionPointOut", "formalParameter", "none")
		}
		one.add(out)
	}
	switch s.kind {
	case contactKind, coilKind:
		one.add(el("variable").words(s.operand))
	case sourceKind, sinkKind:
		one.add(el("expression").words(s.operand))
	}
	return one.add(added("addData", "data", s.memory, s.wire, s.bare))
}

func (s *shape) earlierPins(list string, inOut bool, outlets map[int][2]string) *tag {
	all := el(list)
	for _, p := range s.ins {
		if p.inOut == inOut {
			one := el("variable", "formalParameter", p.name, "negated", yes(p.negated), "edge", wordFor(edges, p.edge)).add(p.earlier(outlets))
			all.add(one.add(added("addData", "data", p.memory, "", false)))
		}
	}
	return all
}

func (s *shape) earlierOuts() *tag {
	all := el("outputVariables")
	for _, p := range s.outs {
		all.add(el("variable", "formalParameter", p.name).add(el("connectionPointOut")))
	}
	return all
}

func (p socket) earlier(outlets map[int][2]string) *tag {
	point := el("connectionPointIn")
	for _, from := range p.from {
		of := outlets[from]
		point.add(el("connection", "refLocalId", of[0], "formalParameter", of[1]))
	}
	return point
}
