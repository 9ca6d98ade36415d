package exercise

import (
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"celandine/core/signal"
	"celandine/core/source"
)

// RuleKind tells what a rule looks at.
type RuleKind string

// The kinds of rule.
const (
	Require RuleKind = "require" // so many of an element or block
	Forbid  RuleKind = "forbid"  // no more than so many
	Warning RuleKind = "warning" // a warning of the check
	Chatter RuleKind = "chatter" // a signal that changes too often
)

// A Rule takes points off.
type Rule struct {
	Kind    RuleKind
	What    string // TON, set coil, two-coils, mist_valve
	AtLeast int    // of Require
	AtMost  int    // of Forbid and Chatter
	Per     int    // scans, of Chatter
	Deduct  Marks
	Say     string
	At      source.Span // of What
}

func (r *reader) rule(n *yaml.Node) {
	rule := Rule{AtLeast: 1}
	var most *yaml.Node
	take := func(kind RuleKind) func(*yaml.Node) {
		return func(v *yaml.Node) {
			if rule.Kind != "" {
				r.at(v, "Write one rule a line.", "A rule looks at one thing; this one has %s and %s.", rule.Kind, kind)
			}
			rule.Kind, rule.What, rule.At = kind, r.text(v, string(kind)), r.span(v)
		}
	}
	r.mapping(n, "A rule",
		field{"require", false, take(Require)}, field{"forbid", false, take(Forbid)}, field{"warning", false, take(Warning)},
		field{"chatter", false, take(Chatter)},
		field{"at_least", false, func(v *yaml.Node) { rule.AtLeast = r.whole(v, "at_least", 1, 10_000) }},
		field{"at_most", false, func(v *yaml.Node) { most = v }},
		field{"deduct", true, func(v *yaml.Node) {
			m, err := ParseMarks(r.text(v, "deduct"))
			if err != nil {
				r.at(v, "", "%v.", err)
			}
			rule.Deduct = m
		}},
		field{"say", false, func(v *yaml.Node) { rule.Say = r.text(v, "say") }},
	)
	switch {
	case rule.Kind == "":
		r.at(n, "Write require, forbid, warning or chatter.", "This rule looks at nothing.")
	case rule.Kind == Chatter && most == nil:
		r.at(n, "Add at_most: 4 per 1s.", "chatter needs at_most.")
	case rule.Kind == Chatter:
		rule.AtMost, rule.Per = r.rate(most)
	case most != nil:
		rule.AtMost = r.whole(most, "at_most", 0, 10_000)
	}
	r.exercise.Rules = append(r.exercise.Rules, rule)
}

// rate reads "4 per 1s".
func (r *reader) rate(n *yaml.Node) (most, per int) {
	count, length, ok := strings.Cut(r.text(n, "at_most"), " per ")
	most, err := strconv.Atoi(strings.TrimSpace(count))
	d, wrong := signal.ParseTime(strings.TrimSpace(length))
	if !ok || err != nil || most < 0 || wrong != nil || d <= 0 {
		r.at(n, "Write it like 4 per 1s.", "at_most cannot be %q.", n.Value)
		return 0, 1
	}
	return most, max(r.scanAt(d), 1)
}

// A Check is one thing expected of a signal: a value throughout a window, or a
// number of edges. Windows are half-open: From is in, To is out.
type Check struct {
	Signal string
	Window
	Is    string      // a value as people write it, "" where edges are counted
	Rises int         // -1: not counted
	Falls int         // -1: not counted
	Line  int         // in exercise.yaml
	At    source.Span // of Signal
	IsAt  source.Span // of Is
}

func (r *reader) check(n *yaml.Node, scans int) Check {
	c := Check{Window: Window{To: scans}, Rises: -1, Falls: -1, Line: n.Line}
	r.mapping(n, "A check",
		field{"signal", true, func(v *yaml.Node) { c.Signal, c.At = r.text(v, "signal"), r.span(v) }},
		field{"from", false, func(v *yaml.Node) { c.From = r.moment(v) }},
		field{"to", false, func(v *yaml.Node) { c.To = r.moment(v) }},
		field{"is", false, func(v *yaml.Node) { c.Is, c.IsAt = r.text(v, "is"), r.span(v) }},
		field{"rises", false, func(v *yaml.Node) { c.Rises = r.whole(v, "rises", 0, 1_000_000) }},
		field{"falls", false, func(v *yaml.Node) { c.Falls = r.whole(v, "falls", 0, 1_000_000) }},
	)
	switch {
	case c.Is == "" && c.Rises < 0 && c.Falls < 0:
		r.at(n, "Write is, rises or falls.", "This check expects nothing.")
	case c.Is != "" && (c.Rises >= 0 || c.Falls >= 0):
		r.at(n, "Write two checks.", "A check expects a value or a number of edges, not both.")
	default:
		r.fits(n, c.Window, scans, "This check")
	}
	return c
}
