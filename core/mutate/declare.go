package mutate

import (
	"slices"
	"strings"

	"celandine/core/syntax"
)

// instead are the blocks that are taken for one another, with the kind of mistake.
var instead = map[string]struct {
	kind   Kind
	others []string
}{
	"TON":    {OtherTimer, []string{"TOF", "TP", "TACC"}},
	"TOF":    {OtherTimer, []string{"TON", "TP"}},
	"TP":     {OtherTimer, []string{"TON", "TOF"}},
	"TACC":   {OtherTimer, []string{"TON"}},
	"CTU":    {OtherCounter, []string{"CTD"}},
	"CTD":    {OtherCounter, []string{"CTU"}},
	"R_TRIG": {EdgeOther, []string{"F_TRIG"}},
	"F_TRIG": {EdgeOther, []string{"R_TRIG"}},
	"SR":     {Dominance, []string{"RS"}},
	"RS":     {Dominance, []string{"SR"}},
}

// pins of a block become those of another that is taken for it; "" goes unconnected.
var pins = map[string]map[string]string{
	"CTU CTD":  {"CU": "CD", "R": "LD"},
	"CTD CTU":  {"CD": "CU", "LD": "R"},
	"TACC TON": {"R": ""},
	"SR RS":    {"S1": "S", "R": "R1"},
	"RS SR":    {"S": "S1", "R1": "R"},
}

// declarations makes the mistakes in what is declared.
func (m *maker) declarations(sections []*syntax.Section) {
	for _, s := range sections {
		if s.Retain {
			put(m, &s.Retain, false, RetainOut, s.Span, "RETAIN is left out")
		}
		for _, v := range s.Variables {
			if v.Initial != nil {
				m.operand(&v.Initial)
				put(m, &v.Initial, nil, InitialOut, v.Span, "the first value of %s is left out", v.Names[0].Text)
			}
			if t, ok := v.Type.(*syntax.TypeName); ok {
				m.blocks(s, v, t)
			}
		}
	}
}

// blocks declares each name of a block's type with another's.
func (m *maker) blocks(s *syntax.Section, v *syntax.Variable, t *syntax.TypeName) {
	for _, other := range instead[strings.ToUpper(t.Text)].others {
		for i, n := range v.Names {
			m.retype(s, v, i, n, t, other)
		}
	}
}

func (m *maker) retype(s *syntax.Section, v *syntax.Variable, i int, n syntax.Name, t *syntax.TypeName, other string) {
	own, rest := *v, *v
	own.Names = []syntax.Name{n}
	own.Type = &syntax.TypeName{Name: syntax.Name{Text: other, Span: t.Span}}
	rest.Names = slices.Delete(slices.Clone(v.Names), i, i+1)
	list := slices.Clone(s.Variables)
	at := slices.Index(list, v)
	list[at] = &own
	if len(rest.Names) > 0 {
		list = slices.Insert(list, at, &rest)
	}
	c := &changes{}
	change(c, &s.Variables, list, n.Span)
	m.rename(c, n.Text, pins[strings.ToUpper(t.Text)+" "+other])
	m.try(instead[strings.ToUpper(t.Text)].kind, n.Span, c.back, "%s is a %s in place of a %s", n.Text, other, strings.ToUpper(t.Text))
}

// rename gives the pins of an instance other names, wherever it is called or read.
func (m *maker) rename(c *changes, instance string, to map[string]string) {
	of := func(e syntax.Expr) bool {
		id, ok := e.(*syntax.Identifier)
		return ok && strings.EqualFold(id.Text, instance)
	}
	m.walk(func(node any) bool {
		switch n := node.(type) {
		case *syntax.Call:
			if of(n.Callee) {
				change(c, &n.Arguments, repinned(n.Arguments, to), n.Span)
			}
		case *syntax.Member:
			if name, ok := to[strings.ToUpper(n.Field.Text)]; ok && name != "" && of(n.Of) {
				change(c, &n.Field.Text, name, n.Field.Span)
			}
		}
		return true
	})
}

func repinned(arguments []syntax.Argument, to map[string]string) (list []syntax.Argument) {
	for _, a := range arguments {
		if a.Name == nil {
			list = append(list, a)
			continue
		}
		name, ok := to[strings.ToUpper(a.Name.Text)]
		switch {
		case ok && name == "":
			continue
		case ok:
			a.Name = &syntax.Name{Text: name, Span: a.Name.Span}
		}
		list = append(list, a)
	}
	return list
}
