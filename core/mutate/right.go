package mutate

import (
	"slices"
	"strings"
	"time"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Right lists programs that may be as right as one that checks: its pieces stand in another order, an output or an input goes through a bit
// first and comes a scan later, what wins over what is exchanged. Whether they are right depends on what is allowed, and where what is
// exchanged is exclusive they do the same; whoever asks finds out.
func Right(f *source.File, points []check.Point) []Mutant {
	var list []Mutant
	for _, m := range Of(f, points, time.Second) {
		if m.Kind == Order || m.Kind == Dominance || m.Kind == IfForElsif {
			list = append(list, m)
		}
	}
	tree, problems := syntax.Parse(f)
	if problems.HasErrors() {
		return list
	}
	m := &maker{tree: tree, points: points, right: syntax.Print(tree), made: map[string]bool{}}
	var inputs []string
	for _, p := range points {
		if !p.Input {
			m.late([]check.Point{p})
		} else if p.Type == check.Bool {
			inputs = append(inputs, p.Name)
			m.late([]check.Point{p})
		}
	}
	m.late(slices.DeleteFunc(slices.Clone(points), func(p check.Point) bool { return p.Input }))
	m.late(slices.DeleteFunc(slices.Clone(points), func(p check.Point) bool { return !slices.Contains(inputs, p.Name) }))
	return append(list, m.list...)
}

// late lets points, all inputs or all outputs, go through variables of their own, so that each comes a scan later.
func (m *maker) late(points []check.Point) {
	if len(points) == 0 {
		return
	}
	c := &changes{}
	names := []string{}
	for _, p := range points {
		if m.lateOne(c, p) {
			names = append(names, p.Name)
		}
	}
	if len(names) > 0 {
		come := "comes"
		if len(names) > 1 {
			come = "come"
		}
		m.try(Order, c.at, c.back, "%s %s a scan later", strings.Join(names, " and "), come)
	}
}

// lateOne does so with one point, where one program alone names it.
func (m *maker) lateOne(c *changes, p check.Point) bool {
	late := p.Name + "_late"
	var of *syntax.Unit
	for _, u := range m.tree.Units {
		if named(u.Body)[strings.ToLower(p.Name)] {
			if of != nil {
				return false
			}
			of = u
		}
	}
	if of == nil || of.Kind != syntax.Program || m.typeOf(late) != "" {
		return false
	}
	if _, ladder := of.Body.(*syntax.Ladder); ladder && p.Type != check.Bool {
		return false // a coil copies a BOOL
	}
	syntax.Walk(of.Body, func(node any) bool {
		if id, ok := node.(*syntax.Identifier); ok && strings.EqualFold(id.Text, p.Name) {
			change(c, &id.Text, late, id.Span)
		}
		return true
	})
	v := &syntax.Variable{Names: []syntax.Name{{Text: late}}, Type: &syntax.TypeName{Name: syntax.Name{Text: p.Type.Name}}}
	if p.Input && p.Initial != 0 {
		v.Initial = &syntax.Literal{Kind: syntax.Keyword, Text: "TRUE"}
	}
	change(c, &of.Sections, append(slices.Clone(of.Sections), &syntax.Section{Word: "VAR", Variables: []*syntax.Variable{v}}), of.Span)
	from, to := late, p.Name // an output is written first, an input is read last
	if p.Input {
		from, to = p.Name, late
	}
	m.copied(c, of, p, from, to)
	return true
}

// copied adds what copies a value: before everything else to an output, behind it from an input.
func (m *maker) copied(c *changes, u *syntax.Unit, p check.Point, from, to string) {
	at := u.Span
	coil := &syntax.Coil{Kind: syntax.PlainCoil, Operand: name(to, at), Span: at}
	switch body := u.Body.(type) {
	case *syntax.Text:
		var copies syntax.Statement = &syntax.Assignment{Target: name(to, at), Value: name(from, at), Span: at}
		change(c, &body.Statements, placed(body.Statements, copies, p.Input), at)
	case *syntax.Diagram:
		n := &syntax.Network{Nodes: []*syntax.Node{{Value: name(from, at), Targets: []*syntax.Coil{coil}, Span: at}}, Span: at}
		change(c, &body.Networks, placed(body.Networks, n, p.Input), at)
	case *syntax.Ladder:
		contact := &syntax.Contact{Kind: syntax.OpenContact, Operand: name(from, at), Span: at}
		r := &syntax.Rung{Net: &syntax.Series{Elements: []syntax.Element{contact, coil}, Span: at}, Span: at}
		change(c, &body.Rungs, placed(body.Rungs, r, p.Input), at)
	}
}

func placed[T any](list []T, one T, last bool) []T {
	if last {
		return append(slices.Clone(list), one)
	}
	return append([]T{one}, list...)
}
