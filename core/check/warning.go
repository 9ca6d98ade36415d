package check

import (
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// usage is where a variable is read, written, called and remembered with.
type usage struct {
	initial bool
	reads   int
	writes  []Wrote
	calls   []source.Span
	edges   []source.Span
}

// Wrote is one place that writes a variable.
type Wrote struct {
	At          source.Span
	Coil        syntax.CoilKind
	InRung      bool
	Conditional bool // not in every scan
}

func (u *usage) read()                   { u.reads++ }
func (u *usage) write(w Wrote)           { u.writes = append(u.writes, w) }
func (u *usage) remember(at source.Span) { u.edges = append(u.edges, at) }

func (u *usage) call(at source.Span, conditional bool) {
	u.reads++
	if !conditional {
		u.calls = append(u.calls, at)
	}
}

// shared is the usage of a place under all its names.
func (c *checker) shared() map[*Variable]*usage {
	all := map[*Variable]*usage{}
	for _, v := range c.program.Variables {
		s := v.Storage()
		u := all[s]
		if u == nil {
			u = &usage{}
			all[s] = u
		}
		u.initial = u.initial || v.uses.initial
		u.reads += v.uses.reads
		u.writes = append(u.writes, v.uses.writes...)
		u.calls = append(u.calls, v.uses.calls...)
		u.edges = append(u.edges, v.uses.edges...)
	}
	return all
}

// warn tells what is legal and seldom meant.
func (c *checker) warn() {
	all := c.shared()
	for _, v := range c.program.Variables {
		if v.Same != nil || v.Hidden {
			continue
		}
		u := all[v]
		c.warnWriters(v, u)
		c.warnLatch(v, u)
		c.warnCalls(v, u)
		c.warnUnused(v, u)
	}
}

func (c *checker) warning(code source.WarningCode, at source.Span, hint, format string, args ...any) {
	c.problems.Add(source.Warning, string(code), at, hint, format, args...)
}

// places returns "lines 4 and 7".
func places(spans []source.Span) string {
	lines := make([]string, len(spans))
	for i, s := range spans {
		lines[i] = lineOf(s)
	}
	if len(lines) == 1 {
		return "line " + lines[0]
	}
	return "lines " + strings.Join(lines[:len(lines)-1], ", ") + " and " + lines[len(lines)-1]
}

func (c *checker) warnWriters(v *Variable, u *usage) {
	var every []source.Span
	for _, w := range u.writes {
		if !w.Conditional && w.Coil != syntax.RisingCoil && w.Coil != syntax.FallingCoil {
			every = append(every, w.At)
		}
	}
	if len(every) < 2 {
		return
	}
	c.warning(source.TwoCoils, every[len(every)-1], "Join the conditions in one place: branches in one rung, or OR in one assignment.",
		"%s is written in every scan at %s; only the last one counts.", v.Name, places(every))
}

func (c *checker) warnLatch(v *Variable, u *usage) {
	var set, reset []source.Span
	others := false
	for _, w := range u.writes {
		switch {
		case w.InRung && w.Coil == syntax.SetCoil:
			set = append(set, w.At)
		case w.InRung && w.Coil == syntax.ResetCoil:
			reset = append(reset, w.At)
		default:
			others = true
		}
	}
	switch {
	case others:
	case len(set) > 0 && len(reset) == 0:
		c.warning(source.SetWithoutReset, set[0], "Add (R "+v.Name+") where it should go off; check that the reset names the same variable.", "%s is set at %s and never reset: once on, it stays on.", v.Name, places(set))
	case len(reset) > 0 && len(set) == 0 && !u.initial:
		c.warning(source.ResetWithoutSet, reset[0], "Add (S "+v.Name+") where it should go on; check that the set names the same variable.", "%s is reset at %s and never set: it is never on.", v.Name, places(reset))
	}
}

func (c *checker) warnCalls(v *Variable, u *usage) {
	if len(u.calls) > 1 {
		c.warning(source.CalledTwice, u.calls[1], "Declare a second instance; each has its own memory.", "%s is called twice in a scan, at %s.", v.Name, places(u.calls))
	}
	if len(u.edges) > 1 {
		c.warning(source.SharedEdge, u.edges[1], "Give each edge its own memory, or leave @ "+v.Name+" out.", "%s remembers for more than one edge, at %s; the second misses what the first has seen.", v.Name, places(u.edges))
	}
}

func (c *checker) warnUnused(v *Variable, u *usage) {
	written := len(u.writes)+len(u.edges) > 0
	switch {
	case v.Type.Class == Instance && u.reads == 0:
		c.warning(source.Unused, v.Span, "Call it, or remove it.", "%s is declared and never called.", v.Name)
	case !v.Type.IsSingle() || v.Role == Input || v.Constant:
	case v.Role == Output && !written:
		at := v.Span
		if v.Point { // declared by the panel, not by this text
			at = c.program.Units[0].Tree.Name.Span
		}
		c.warning(source.NeverWritten, at, "Write it with a coil or :=.", "The output %s is never written.", v.Name)
	case v.Role == Output:
	case u.reads == 0 && !written:
		c.warning(source.Unused, v.Span, "Remove it, or use it.", "%s is declared and never used.", v.Name)
	case u.reads == 0 && len(u.edges) == 0:
		c.warning(source.NeverRead, v.Span, "Read it somewhere, or remove it.", "%s is written and never read.", v.Name)
	case !written && !u.initial:
		c.warning(source.NeverWritten, v.Span, "Write it, or give it an initial value.", "%s is read and never written, so it is always %s.", v.Name, v.Type.Format(v.Type.Begin()))
	}
}

// warnConditions tells of conditions that cannot decide anything.
func (c *checker) warnConditions(tree *syntax.If, typed *If) {
	seen := map[string]source.Span{}
	for i, arm := range typed.Arms {
		at := tree.Arms[i].Condition.Place()
		if k, ok := arm.Condition.(*Const); ok {
			c.warning(source.ConstantCondition, at, "Remove the IF, or test a variable.", "This condition is always %s.", Bool.Format(k.Value))
		}
		words := strings.ToLower(strings.Join(strings.Fields(at.Text()), " "))
		if first, twice := seen[words]; twice {
			c.warning(source.SameCondition, at, "Test something else here, or remove this part.", "This condition is that of line %s, so this part never runs.", lineOf(first))
		}
		seen[words] = at
	}
}

// warnContact tells of a contact that is always open or always closed.
func (c *checker) warnContact(e *syntax.Contact, typed *Contact) {
	k, ok := typed.Operand.(*Const)
	if !ok || typed.Memory != nil {
		return
	}
	if passes := (k.Value != 0) != (e.Kind == syntax.ClosedContact); passes {
		c.warning(source.AlwaysClosed, e.Span, "Remove it, or name a variable.", "This contact always passes power.")
	} else {
		c.warning(source.AlwaysOpen, e.Span, "Name a variable; nothing behind it ever gets power.", "This contact never passes power.")
	}
}
