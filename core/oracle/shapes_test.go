package oracle_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"celandine/core/syntax"
)

// shapes counts what random programs are made of: each element of a rung by what stands before it and how deep in branches, each
// statement and each operator.
type shapes map[string]int

// demand asks for so many of every shape that there can be.
func (s shapes) demand(t *testing.T, least int) {
	for _, before := range append([]string{"the start"}, elementKinds...) {
		for _, kind := range elementKinds {
			assert.GreaterOrEqual(t, s[kind+" after "+before], least, "%s after %s", kind, before)
		}
	}
	for _, kind := range elementKinds {
		for depth := range 3 {
			assert.GreaterOrEqual(t, s[fmt.Sprint(kind, " at depth ", depth)], least, "%s at depth %d", kind, depth)
		}
		assert.GreaterOrEqual(t, s[kind+" at the end"], least, "%s at the end", kind)
	}
	for _, shape := range []string{"an empty branch", "a plain wire beside branches", "if", "elsif", "else", "case", "for", "while", "repeat",
		"EXIT", "CONTINUE", "RETURN",
		"=", "<>", "<", "<=", ">", ">=", "+", "-", "*", "/", "MOD", "AND", "OR", "XOR", "NOT"} {
		assert.GreaterOrEqual(t, s[shape], least, shape)
	}
}

var elementKinds = []string{"open contact", "closed contact", "comparison", "edge of a name", "edge of the power", "edge with a memory",
	"edge of the power with a memory",
	"plain coil", "negated coil", "set coil", "reset coil", "edge coil", "branches", "standard block", "own block", "block with EN",
	"deciding function", "function"}

func kindOf(e syntax.Element) string {
	switch e := e.(type) {
	case *syntax.Parallel:
		return "branches"
	case *syntax.Coil:
		return map[syntax.CoilKind]string{syntax.PlainCoil: "plain coil", syntax.NegatedCoil: "negated coil", syntax.SetCoil: "set coil",
			syntax.ResetCoil: "reset coil", syntax.RisingCoil: "edge coil", syntax.FallingCoil: "edge coil"}[e.Kind]
	case *syntax.Contact:
		_, compares := e.Operand.(*syntax.Binary)
		switch {
		case e.Kind == syntax.ClosedContact:
			return "closed contact"
		case compares:
			return "comparison"
		case e.Kind == syntax.OpenContact:
			return "open contact"
		case e.Operand == nil && e.Memory != nil:
			return "edge of the power with a memory"
		case e.Operand == nil:
			return "edge of the power"
		case e.Memory != nil:
			return "edge with a memory"
		}
		return "edge of a name"
	case *syntax.Box:
		callee := e.Call.Callee
		if element, ok := callee.(*syntax.Index); ok {
			callee = element.Of
		}
		name := callee.(*syntax.Identifier).Text
		switch {
		case e.EN:
			return "block with EN"
		case name == "o1" || name == "o2" || name == "v1" || name == "group":
			return "own block"
		case len(name) == 2 && name != "GT" && name != "GE" && name != "EQ" && name != "LE" && name != "LT" && name != "NE" && name != "OR":
			return "standard block"
		}
		switch name {
		case "GT", "GE", "EQ", "LE", "LT", "NE", "AND", "OR", "XOR", "NOT":
			return "deciding function"
		}
	}
	return "function"
}

func (s shapes) count(f *syntax.File) {
	for _, u := range f.Units {
		switch b := u.Body.(type) {
		case *syntax.Text:
			s.statements(b.Statements)
		case *syntax.Ladder:
			for _, r := range b.Rungs {
				s.series(r.Net, 0)
			}
		}
	}
}

func (s shapes) series(net *syntax.Series, depth int) {
	before := "the start"
	if len(net.Elements) == 0 {
		s["an empty branch"]++
	}
	for i, e := range net.Elements {
		kind := kindOf(e)
		s[kind+" after "+before]++
		s[fmt.Sprint(kind, " at depth ", depth)]++
		if i+1 == len(net.Elements) {
			s[kind+" at the end"]++
		}
		before = kind
		switch e := e.(type) {
		case *syntax.Parallel:
			for _, b := range e.Branches {
				if len(b.Elements) == 0 {
					s["a plain wire beside branches"]++
				}
				s.series(b, depth+1)
			}
		case *syntax.Contact:
			if e.Operand != nil {
				s.expression(e.Operand)
			}
		}
	}
}

func (s shapes) statements(list []syntax.Statement) {
	for _, st := range list {
		switch st := st.(type) {
		case *syntax.Assignment:
			s.expression(st.Value)
		case *syntax.If:
			s["if"]++
			for i, arm := range st.Arms {
				if i > 0 {
					s["elsif"]++
				}
				s.expression(arm.Condition)
				s.statements(arm.Body)
			}
			if st.Else != nil {
				s["else"]++
			}
			s.statements(st.Else)
		case *syntax.Case:
			s["case"]++
			for _, c := range st.Choices {
				s.statements(c.Body)
			}
			s.statements(st.Else)
		case *syntax.For:
			s["for"]++
			s.statements(st.Body)
		case *syntax.While:
			s["while"]++
			s.statements(st.Body)
		case *syntax.Repeat:
			s["repeat"]++
			s.statements(st.Body)
		case *syntax.Jump:
			s[st.Word]++
		}
	}
}

func (s shapes) expression(e syntax.Expr) {
	switch e := e.(type) {
	case *syntax.Paren:
		s.expression(e.X)
	case *syntax.Unary:
		s[e.Op]++
		s.expression(e.X)
	case *syntax.Binary:
		s[e.Op]++
		s.expression(e.X)
		s.expression(e.Y)
	}
}
