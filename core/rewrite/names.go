package rewrite

import (
	"sort"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// Use tells what is done with a name where it stands.
type Use string

// The uses of a name.
const (
	Declares Use = "declares"
	Reads    Use = "reads"
	Writes   Use = "writes"
	Calls    Use = "calls" // a block
)

// An Occurrence is one place where a name stands. Unit is the unit it belongs to, by number, or -1: a global, a type, a unit or
// a point of the panel. A member of a block of one's own belongs to that block.
type Occurrence struct {
	Name string
	Unit int
	In   int // the unit in whose text it stands, or -1
	Use  Use
	Span source.Span
}

// Occurrences lists every place at which a name of the program stands, in the order of the text.
func (p *Program) Occurrences() []Occurrence {
	w := &walker{program: p}
	w.declarations()
	for i, u := range p.tree.Units {
		w.unit(i, u)
	}
	sort.SliceStable(w.found, func(a, b int) bool { return w.found[a].Span.Start < w.found[b].Span.Start })
	return w.found
}

// RenamePoint gives a point of the panel another name wherever a program uses it, declared there or not.
func (p *Program) RenamePoint(from, to string) string {
	var b strings.Builder
	behind := 0
	for _, o := range p.Occurrences() {
		if !strings.EqualFold(o.Name, from) || o.Unit >= 0 && p.tree.Units[o.Unit].Kind != syntax.Program {
			continue
		}
		b.WriteString(p.file.Text[behind:o.Span.Start] + to)
		behind = o.Span.End
	}
	b.WriteString(p.file.Text[behind:])
	return b.String()
}

// At returns every place at which the name that stands at an offset stands.
func (p *Program) At(offset int) []Occurrence {
	all := p.Occurrences()
	for _, o := range all {
		if offset >= o.Span.Start && offset <= o.Span.End {
			return same(all, o)
		}
	}
	return nil
}

func same(all []Occurrence, one Occurrence) (list []Occurrence) {
	for _, o := range all {
		if o.Unit == one.Unit && strings.EqualFold(o.Name, one.Name) {
			list = append(list, o)
		}
	}
	return list
}

const outside = -1

type walker struct {
	program *Program
	found   []Occurrence
	in      int
	names   []map[string]string // of each unit, by lower-case name: the type's name, or ""
	wires   map[string]bool     // of the network being walked, by lower-case name
}

func (w *walker) add(n syntax.Name, owner int, use Use) {
	if n.Span.File != nil && n.Text != "" {
		w.found = append(w.found, Occurrence{n.Text, owner, w.in, use, n.Span})
	}
}

// declarations notes what each unit declares, so that a name can be told from its like in another unit.
func (w *walker) declarations() {
	for _, u := range w.program.tree.Units {
		names := map[string]string{}
		for _, s := range u.Sections {
			if s.Word == "VAR_EXTERNAL" {
				continue // the name is the global's
			}
			for _, v := range s.Variables {
				for _, n := range v.Names {
					names[strings.ToLower(n.Text)] = typeName(v.Type)
				}
			}
		}
		w.names = append(w.names, names)
	}
	w.in = outside
	for _, t := range w.program.tree.Types {
		w.add(t.Name, outside, Declares)
		w.typeExpr(t.Type)
	}
	for _, s := range w.program.tree.Globals {
		w.section(s, outside)
	}
}

func typeName(t syntax.TypeExpr) string {
	switch t := t.(type) {
	case *syntax.TypeName:
		return strings.ToLower(t.Text)
	case *syntax.ArrayType:
		return typeName(t.Element)
	}
	return ""
}

func (w *walker) section(s *syntax.Section, owner int) {
	if s.Word == "VAR_EXTERNAL" {
		owner = outside
	}
	for _, v := range s.Variables {
		for _, n := range v.Names {
			w.add(n, owner, Declares)
		}
		w.typeExpr(v.Type)
		w.read(v.Initial)
	}
}

func (w *walker) typeExpr(t syntax.TypeExpr) {
	switch t := t.(type) {
	case *syntax.TypeName:
		w.add(t.Name, outside, Reads)
	case *syntax.ArrayType:
		for _, b := range t.Ranges {
			w.read(b.Low)
			w.read(b.High)
		}
		w.typeExpr(t.Element)
	case *syntax.SubrangeType:
		w.read(t.Low)
		w.read(t.High)
	case *syntax.EnumType:
		for _, n := range t.Values {
			w.add(n, outside, Declares)
		}
	case *syntax.StructType:
		for _, f := range t.Fields {
			w.typeExpr(f.Type)
		}
	}
}

func (w *walker) unit(i int, u *syntax.Unit) {
	w.in = i
	w.add(u.Name, outside, Declares)
	if u.Result != nil {
		w.typeExpr(u.Result)
	}
	for _, s := range u.Sections {
		w.section(s, i)
	}
	switch body := u.Body.(type) {
	case *syntax.Ladder:
		for _, r := range body.Rungs {
			w.series(r.Net)
		}
	case *syntax.Text:
		w.statements(body.Statements)
	case *syntax.Diagram:
		for _, n := range body.Networks {
			w.network(n)
		}
	}
}

// network walks through the nodes of a block diagram; its wires are names of its own.
func (w *walker) network(n *syntax.Network) {
	w.wires = map[string]bool{}
	for _, node := range n.Nodes {
		w.read(node.Value)
		for _, t := range node.Targets {
			w.expr(t.Operand, Writes)
		}
		if node.Wire != nil {
			w.wires[strings.ToLower(node.Wire.Text)] = true
		}
	}
	w.wires = nil
}

// owner is the unit that declares a name as it is seen in the unit being walked.
func (w *walker) owner(name string) int {
	if w.in >= 0 {
		if _, ok := w.names[w.in][strings.ToLower(name)]; ok {
			return w.in
		}
	}
	return outside
}

// blockNamed is the number of the block of one's own, or -1.
func (w *walker) blockNamed(name string) int {
	for i, u := range w.program.tree.Units {
		if u.Kind != syntax.Program && strings.EqualFold(u.Name.Text, name) {
			return i
		}
	}
	return outside
}

// blockOf is the block of one's own that an expression is an instance of, or -1.
func (w *walker) blockOf(e syntax.Expr) int {
	switch e := e.(type) {
	case *syntax.Identifier:
		if w.in >= 0 {
			return w.blockNamed(w.names[w.in][strings.ToLower(e.Text)])
		}
	case *syntax.Index:
		return w.blockOf(e.Of)
	case *syntax.Member:
		if b := w.blockOf(e.Of); b >= 0 {
			return w.blockNamed(w.names[b][strings.ToLower(e.Field.Text)])
		}
	}
	return outside
}

func (w *walker) series(s *syntax.Series) {
	for _, e := range s.Elements {
		switch e := e.(type) {
		case *syntax.Parallel:
			for _, b := range e.Branches {
				w.series(b)
			}
		case *syntax.Contact:
			w.read(e.Operand)
			w.expr(e.Memory, Writes)
		case *syntax.Coil:
			w.expr(e.Operand, Writes)
		case *syntax.Box:
			w.call(e.Call)
			w.expr(e.Result, Writes)
		}
	}
}

func (w *walker) read(e syntax.Expr) { w.expr(e, Reads) }

func (w *walker) expr(e syntax.Expr, use Use) {
	switch e := e.(type) {
	case nil:
	case *syntax.Identifier:
		if !w.wires[strings.ToLower(e.Text)] {
			w.add(e.Name, w.owner(e.Text), use)
		}
	case *syntax.Inverted:
		w.read(e.X)
	case *syntax.Contact:
		w.read(e.Operand)
		w.expr(e.Memory, Writes)
	case *syntax.Member:
		w.expr(e.Of, use)
		if b := w.blockOf(e.Of); b >= 0 {
			w.add(e.Field, b, use)
		}
	case *syntax.Index:
		w.expr(e.Of, use)
		for _, x := range e.At {
			w.read(x)
		}
	case *syntax.Unary:
		w.read(e.X)
	case *syntax.Binary:
		w.read(e.X)
		w.read(e.Y)
	case *syntax.Paren:
		w.read(e.X)
	case *syntax.ArrayValue:
		for _, item := range e.Items {
			w.read(item.Count)
			w.read(item.Value)
		}
	case *syntax.StructValue:
		for _, f := range e.Fields {
			w.read(f.Value)
		}
	case *syntax.Call:
		w.call(e)
	}
}

func (w *walker) call(c *syntax.Call) {
	w.expr(c.Callee, Calls)
	block := w.blockOf(c.Callee)
	if id, ok := c.Callee.(*syntax.Identifier); ok && block < 0 {
		block = w.blockNamed(id.Text)
	}
	for _, a := range c.Arguments {
		use := Reads
		if a.Output {
			use = Writes
		}
		if a.Name != nil && block >= 0 {
			w.add(*a.Name, block, Reads)
		}
		w.expr(a.Value, use)
	}
}

func (w *walker) statements(list []syntax.Statement) {
	for _, s := range list {
		w.statement(s)
	}
}

func (w *walker) statement(s syntax.Statement) {
	switch s := s.(type) {
	case *syntax.Assignment:
		w.expr(s.Target, Writes)
		w.read(s.Value)
	case *syntax.CallStatement:
		w.call(s.Call)
	case *syntax.If:
		for _, arm := range s.Arms {
			w.read(arm.Condition)
			w.statements(arm.Body)
		}
		w.statements(s.Else)
	case *syntax.Case:
		w.read(s.Value)
		for _, c := range s.Choices {
			for _, l := range c.Labels {
				w.read(l.From)
				w.read(l.To)
			}
			w.statements(c.Body)
		}
		w.statements(s.Else)
	case *syntax.For:
		w.expr(s.Counter, Writes)
		w.read(s.From)
		w.read(s.To)
		w.read(s.Step)
		w.statements(s.Body)
	case *syntax.While:
		w.read(s.Condition)
		w.statements(s.Body)
	case *syntax.Repeat:
		w.statements(s.Body)
		w.read(s.Until)
	}
}
