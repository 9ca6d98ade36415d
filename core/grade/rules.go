package grade

import (
	"fmt"
	"strings"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/source"
	"celandine/core/syntax"
)

// elementKinds are what require and forbid may count besides blocks and functions.
var elementKinds = []string{
	"contact", "open contact", "closed contact", "rising contact", "falling contact", "comparison",
	"coil", "plain coil", "negated coil", "set coil", "reset coil", "rising coil", "falling coil",
	"branch", "rung", "if", "case", "for", "while", "repeat", "assignment",
}

// checkRules reports rules that look for what there cannot be.
func (g *Grader) checkRules(complain func(hint, format string, args ...any)) {
	for _, r := range g.Exercise.Rules {
		if r.Kind != exercise.Require && r.Kind != exercise.Forbid {
			continue
		}
		known := check.BlockNamed(r.What) != nil || check.IsFunction(r.What) || contains(elementKinds, strings.ToLower(r.What))
		if !known {
			complain(source.Meant(r.What, append([]string{"TON", "TOF", "TP", "TACC", "CTU", "CTD", "CTUD", "SR", "RS", "R_TRIG", "F_TRIG"}, elementKinds...)),
				"A rule counts %q, which is no block, function or element.", r.What)
		}
	}
}

// rules takes points off for the rules that a program breaks, never below zero.
func (g *Grader) rules(r *Result, program *check.Program, evidence []Evidence) {
	counts := census(program)
	for _, rule := range g.Exercise.Rules {
		say, broken := "", false
		switch rule.Kind {
		case exercise.Require:
			n := counts[strings.ToLower(rule.What)]
			broken = n < rule.AtLeast
			say = fmt.Sprintf("%d of %s, needed %d", n, rule.What, rule.AtLeast)
		case exercise.Forbid:
			n := counts[strings.ToLower(rule.What)]
			broken = n > rule.AtMost
			say = fmt.Sprintf("%d of %s, allowed %d", n, rule.What, rule.AtMost)
		case exercise.Warning:
			for _, d := range r.Diagnostics {
				if d.Code == rule.What && !broken {
					broken, say = true, d.Message
				}
			}
		case exercise.Chatter:
			say, broken = chatters(rule, evidence)
		}
		if !broken {
			continue
		}
		if rule.Say != "" {
			say = rule.Say
		}
		r.Findings = append(r.Findings, Finding{Rule: string(rule.Kind) + " " + rule.What, Deduct: rule.Deduct, Say: say})
		r.Earned = max(r.Earned-rule.Deduct, 0)
	}
}

// chatters finds the first place where a signal changes more often than a rule allows.
func chatters(rule exercise.Rule, evidence []Evidence) (say string, broken bool) {
	for _, e := range evidence {
		c := e.Actual.Column(rule.What)
		if c == nil {
			continue
		}
		changes := c.Changes(0, e.Actual.Scans)[1:]
		for i := 0; i+rule.AtMost < len(changes); i++ {
			if last := changes[i+rule.AtMost]; last.Scan-changes[i].Scan < rule.Per {
				return fmt.Sprintf("%s chatters: it changes %d times from scan %d to %d in scenario %q; a real output would wear out",
					rule.What, rule.AtMost+1, changes[i].Scan, last.Scan, e.Scenario), true
			}
		}
	}
	return "", false
}

// census counts the elements, blocks and functions of a program by lower-case
// name, once each in its functions and blocks as well.
func census(p *check.Program) map[string]int {
	c := &counter{counts: map[string]int{}, seen: map[*check.Unit]bool{}}
	for _, u := range p.Units {
		c.unit(u)
	}
	return c.counts
}

type counter struct {
	counts map[string]int
	seen   map[*check.Unit]bool
}

func (c *counter) one(names ...string) {
	for _, n := range names {
		c.counts[strings.ToLower(n)]++
	}
}

func (c *counter) unit(u *check.Unit) {
	if c.seen[u] {
		return
	}
	c.seen[u] = true
	c.statements(u.Statements)
	for _, r := range u.Rungs {
		c.one("rung")
		c.element(r.Net)
	}
}

func (c *counter) statements(list []check.Statement) {
	for _, s := range list {
		c.statement(s)
	}
}

func (c *counter) statement(s check.Statement) {
	switch s := s.(type) {
	case *check.Assign:
		c.one("assignment")
		c.expression(s.Value)
	case *check.Evaluate:
		c.expression(s.Value)
	case *check.Call:
		c.call(s)
	case *check.If:
		c.one("if")
		for _, arm := range s.Arms {
			c.expression(arm.Condition)
			c.statements(arm.Body)
		}
		c.statements(s.Else)
	case *check.Case:
		c.one("case")
		for _, choice := range s.Choices {
			c.statements(choice.Body)
		}
		c.statements(s.Else)
	case *check.For:
		c.one("for")
		c.statements(s.Body)
	case *check.While:
		c.one("while")
		c.statements(s.Body)
	case *check.Repeat:
		c.one("repeat")
		c.statements(s.Body)
	}
}

func (c *counter) call(s *check.Call) {
	block := s.Instance.Type().Block
	c.one(block.Name)
	if family := block.Family(); block.Unit == nil && family != block.Name {
		c.one(family) // CTU_DINT is a CTU
	}
	if block.Unit != nil {
		c.unit(block.Unit)
	}
	for _, i := range s.Inputs {
		c.expression(i.Value)
	}
}

func (c *counter) expression(e check.Expr) {
	switch e := e.(type) {
	case *check.Op:
		c.expression(e.X)
		c.expression(e.Y)
	case *check.Convert:
		c.expression(e.X)
	case *check.Choose:
		c.expression(e.If)
		c.expression(e.X)
		c.expression(e.Y)
	case *check.Apply:
		for _, x := range e.X {
			c.expression(x)
		}
	case *check.Invoke:
		c.one(e.Unit.Name)
		c.unit(e.Unit)
	}
}

var contactNames = map[syntax.ContactKind]string{
	syntax.OpenContact: "open contact", syntax.ClosedContact: "closed contact", syntax.RisingContact: "rising contact", syntax.FallingContact: "falling contact",
}

var coilNames = map[syntax.CoilKind]string{
	syntax.PlainCoil: "plain coil", syntax.NegatedCoil: "negated coil", syntax.SetCoil: "set coil", syntax.ResetCoil: "reset coil",
	syntax.RisingCoil: "rising coil", syntax.FallingCoil: "falling coil",
}

func (c *counter) element(e check.Element) {
	switch e := e.(type) {
	case *check.Series:
		for _, x := range e.Elements {
			c.element(x)
		}
	case *check.Parallel:
		c.one("branch")
		for _, b := range e.Branches {
			c.element(b)
		}
	case *check.Contact:
		if _, comparison := e.Operand.(*check.Op); comparison {
			c.one("comparison")
			return
		}
		c.one("contact", contactNames[e.Kind])
	case *check.Coil:
		c.one("coil", coilNames[e.Kind])
	case *check.BlockBox:
		c.call(e.Call)
	case *check.FunctionBox:
		c.one(e.Name)
		c.expression(e.Value)
	}
}
