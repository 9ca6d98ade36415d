package explain

import (
	"fmt"
	"strings"

	"celandine/core/check"
	"celandine/core/source"
)

// pins tells of a node that is AND, OR or XOR at which inputs it had TRUE, or lacked it: ": AND had no TRUE on its second input". Of other
// nodes, and of text, it is "".
func (a *Asker) pins(d *deed) string {
	s, ok := d.place.(*check.Assign)
	if !ok || a.program.NetworkAt(s.At) == nil {
		return ""
	}
	d, value := latched(d, s.Value)
	if circled(s) {
		value = value.(*check.Op).X
	}
	if ref, read := value.(*check.Ref); read && ref.Variable.Made != nil && ref.Variable.Edge == nil {
		made := ref.Variable.Made
		if d = a.moment(d.scan).deedOf(made, d.within); d == nil {
			return ""
		}
		value = made.Value
	}
	op, ok := value.(*check.Op)
	if !ok || op.T != check.Bool || op.Y == nil {
		return ""
	}
	name, logic := map[check.Operator]string{check.And: "AND", check.Or: "OR", check.Xor: "XOR"}[op.Op]
	if !logic || !strings.HasPrefix(strings.ToUpper(op.At.Text()), name) {
		return ""
	}
	return ": " + name + hadAt(d, op)
}

// latched is the condition under which a node writes what stays the same, as (S shade) does, and where it was worked out. Of what is not
// latched it is what is written.
func latched(d *deed, written check.Expr) (*deed, check.Expr) {
	if _, always := written.(*check.Const); !always || d.parent == nil {
		return d, written
	}
	if s, ok := d.parent.place.(*check.If); ok {
		return d.parent, s.Arms[0].Condition
	}
	return d, written
}

// circled reports a target with a circle: /lamp.
func circled(s *check.Assign) bool {
	not, inverts := s.Value.(*check.Op)
	return inverts && not.Op == check.Not && not.At == s.At
}

// circle tells of a target that is inverted, or is "".
func (a *Asker) circle(d *deed) string {
	s, ok := d.place.(*check.Assign)
	if !ok || !circled(s) || a.program.NetworkAt(s.At) == nil {
		return ""
	}
	return fmt.Sprintf("; its target /%s is the opposite", s.Target.At.Text())
}

// hadAt is " had TRUE on its first input", of the inputs that made a logic function what it is.
func hadAt(d *deed, op *check.Op) string {
	inputs := inputsOf(op, op.At)
	seen, had := int64(1), " had TRUE on "
	if d.values[op].v == 0 && op.Op != check.Xor {
		seen, had = 0, " had no TRUE on "
	}
	var pins []int
	for i, x := range inputs {
		if d.values[x].v == seen {
			pins = append(pins, i)
		}
	}
	some, all := "any input", "every input"
	if len(inputs) == 2 {
		some, all = "either input", "both inputs"
	}
	switch {
	case len(pins) == 0:
		return " had no TRUE on " + some
	case len(pins) == len(inputs) && seen == 0:
		return had + some
	case len(pins) == len(inputs):
		return had + all
	case len(pins) == 1:
		circle := circleAt(inputs[pins[0]])
		if circle != "" {
			circle = ", " + circle
		}
		return had + "its " + ordinal(pins[0]+1) + " input" + circle
	}
	var words []string
	for _, n := range pins {
		word := ordinal(n + 1)
		if circle := circleAt(inputs[n]); circle != "" {
			word += " (" + circle + ")"
		}
		words = append(words, word)
	}
	last := len(words) - 1
	return had + "its " + strings.Join(words[:last], ", ") + " and " + words[last] + " inputs"
}

// circleAt is how an inverted input is written, or "".
func circleAt(x check.Expr) string {
	if not, ok := x.(*check.Op); ok && not.Op == check.Not {
		return not.At.Text()
	}
	return ""
}

// inputsOf takes a logic function of several inputs apart, which is a chain of operators at one place.
func inputsOf(op *check.Op, at source.Span) []check.Expr {
	if x, ok := op.X.(*check.Op); ok && x.Op == op.Op && x.At == at {
		return append(inputsOf(x, at), op.Y)
	}
	return []check.Expr{op.X, op.Y}
}

func ordinal(n int) string {
	words := []string{"first", "second", "third", "fourth", "fifth", "sixth", "seventh", "eighth", "ninth", "tenth"}
	if n <= len(words) {
		return words[n-1]
	}
	ending := "th"
	if n%100 < 11 || n%100 > 13 {
		switch n % 10 {
		case 1:
			ending = "st"
		case 2:
			ending = "nd"
		case 3:
			ending = "rd"
		}
	}
	return fmt.Sprint(n, ending)
}
