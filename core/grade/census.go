package grade

import (
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/syntax"
)

// elementKinds are what require and forbid may count besides blocks and functions.
var elementKinds = []string{
	"contact", "open contact", "closed contact", "rising contact", "falling contact", "comparison",
	"coil", "plain coil", "negated coil", "set coil", "reset coil", "rising coil", "falling coil",
	"branch", "rung", "if", "case", "for", "while", "repeat", "assignment", "own function block", "own function",
}

// Elements lists what a rule may count besides blocks and functions.
func Elements() []string { return slices.Clone(elementKinds) }

// A census counts what a program is made of, by lower-case name: elements, blocks and functions, once each in its functions and
// blocks as well. It goes by the text, in which ADD(x, 1) is a function and x + 1 is not.
type census struct {
	counts  map[string]int
	units   map[string]bool // functions and blocks of one's own that are called
	program *check.Program
	seen    map[*syntax.Unit]bool
}

func censusOf(p *check.Program) *census {
	c := &census{counts: map[string]int{}, units: map[string]bool{}, program: p, seen: map[*syntax.Unit]bool{}}
	for _, u := range p.Units {
		c.count(u)
	}
	return c
}

func (c *census) one(names ...string) {
	for _, n := range names {
		c.counts[strings.ToLower(n)]++
	}
}

// count goes through a unit once, and then through those that it calls.
func (c *census) count(u *check.Unit) {
	if c.seen[u.Tree] {
		return
	}
	c.seen[u.Tree] = true
	switch body := u.Tree.Body.(type) {
	case *syntax.Text:
		c.statements(body.Statements)
	case *syntax.Ladder:
		for _, r := range body.Rungs {
			c.one("rung")
			c.element(r.Net)
		}
	case *syntax.Diagram:
		for _, n := range body.Networks {
			for _, node := range n.Nodes {
				c.expressions(node.Value)
				for _, t := range node.Targets {
					c.expressions(t.Operand)
				}
			}
		}
	}
}

func (c *census) own(u *check.Unit) {
	kind := "own function"
	if u.Kind == syntax.FunctionBlock {
		kind = "own function block"
	}
	c.one(kind, u.Name)
	c.units[strings.ToLower(u.Name)] = true
	c.count(u)
}

func (c *census) statements(list []syntax.Statement) {
	for _, s := range list {
		c.statement(s)
	}
}

func (c *census) statement(s syntax.Statement) {
	switch s := s.(type) {
	case *syntax.Assignment:
		c.one("assignment")
		c.expressions(s.Target, s.Value)
	case *syntax.CallStatement:
		c.call(s.Call)
	case *syntax.If:
		c.one("if")
		for _, arm := range s.Arms {
			c.expressions(arm.Condition)
			c.statements(arm.Body)
		}
		c.statements(s.Else)
	case *syntax.Case:
		c.one("case")
		c.expressions(s.Value)
		for _, choice := range s.Choices {
			c.statements(choice.Body)
		}
		c.statements(s.Else)
	case *syntax.For:
		c.one("for")
		c.expressions(s.From, s.To, s.Step)
		c.statements(s.Body)
	case *syntax.While:
		c.one("while")
		c.expressions(s.Condition)
		c.statements(s.Body)
	case *syntax.Repeat:
		c.one("repeat")
		c.statements(s.Body)
		c.expressions(s.Until)
	}
}

func (c *census) expressions(list ...syntax.Expr) {
	for _, e := range list {
		switch e := e.(type) {
		case *syntax.Paren:
			c.expressions(e.X)
		case *syntax.Unary:
			c.expressions(e.X)
		case *syntax.Binary:
			switch e.Op {
			case "=", "<>", "<", "<=", ">", ">=":
				c.one("comparison")
			}
			c.expressions(e.X, e.Y)
		case *syntax.Member:
			c.expressions(e.Of)
		case *syntax.Index:
			c.expressions(append(e.At, e.Of)...)
		case *syntax.Call:
			c.call(e)
		case *syntax.Inverted:
			c.expressions(e.X)
		case *syntax.Contact:
			c.expressions(e.Operand)
		}
	}
}

// call counts a block by its type, and a function by its name.
func (c *census) call(call *syntax.Call) {
	for _, a := range call.Arguments {
		c.expressions(a.Value)
	}
	if block := c.program.BlockCalled(call); block != nil {
		if block.Unit != nil {
			c.own(block.Unit)
			return
		}
		c.one(block.Name)
		if family := block.Kind(); family != block.Name {
			c.one(family) // CTU_DINT is a CTU
		}
		return
	}
	if own := c.program.FunctionCalled(call); own != nil {
		c.own(own)
	} else if id, ok := call.Callee.(*syntax.Identifier); ok {
		c.one(id.Text)
	}
}

var contactNames = map[syntax.ContactKind]string{
	syntax.OpenContact: "open contact", syntax.ClosedContact: "closed contact", syntax.RisingContact: "rising contact",
	syntax.FallingContact: "falling contact",
}

var coilNames = map[syntax.CoilKind]string{
	syntax.PlainCoil: "plain coil", syntax.NegatedCoil: "negated coil", syntax.SetCoil: "set coil", syntax.ResetCoil: "reset coil",
	syntax.RisingCoil: "rising coil", syntax.FallingCoil: "falling coil",
}

func (c *census) element(e syntax.Element) {
	switch e := e.(type) {
	case *syntax.Series:
		for _, x := range e.Elements {
			c.element(x)
		}
	case *syntax.Parallel:
		c.one("branch")
		for _, b := range e.Branches {
			c.element(b)
		}
	case *syntax.Contact:
		c.expressions(e.Operand)
		if _, compares := e.Operand.(*syntax.Binary); !compares {
			c.one("contact", contactNames[e.Kind])
		}
	case *syntax.Coil:
		c.one("coil", coilNames[e.Kind])
		c.expressions(e.Operand)
	case *syntax.Box:
		c.call(e.Call)
	}
}
