package convert

import (
	"regexp"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// readText takes each statement for a network, or all that stand below one comment, which is their title.
func (b *body) readText(t *syntax.Text) {
	from := b.endOfHead(b.unit)
	titled := false
	for _, s := range t.Statements {
		at := syntax.PlaceOf(s)
		comments := b.commentsBefore(from, at.Start)
		var n *network
		if titled && len(comments) == 0 {
			n = b.networks[len(b.networks)-1]
			end := b.behind(at.End)
			n.comments = append(n.comments, b.commentsBefore(from, end)...)
			from = end
		} else {
			n = b.begin(at, "", &from)
			if above := len(comments); above > 0 {
				if n.title, titled = title(comments[above-1]); titled {
					n.comments = append(n.comments[:above-1:above-1], n.comments[above:]...)
				}
			}
		}
		(&textReader{b, n}).statement(s, nil)
	}
	b.comments = b.commentsBefore(from, b.unit.Span.End)
}

var untitled = regexp.MustCompile(`^Network \d+$`)

// title is the title that a comment gives to what stands below it, and whether it gives one or says that there is none.
func title(comment string) (string, bool) {
	words, ok := strings.CutPrefix(comment, "//")
	if !ok || strings.ContainsAny(words, "'$") {
		return "", false
	}
	if words = strings.TrimSpace(words); untitled.MatchString(words) {
		return "", true
	}
	return words, words != ""
}

type textReader struct {
	*body
	*network
}

func (r *textReader) statements(list []syntax.Statement, enable syntax.Expr) {
	for _, s := range list {
		r.statement(s, enable)
	}
}

// statement happens in every scan, or only where enable is TRUE.
func (r *textReader) statement(s syntax.Statement, enable syntax.Expr) {
	switch s := s.(type) {
	case *syntax.Assignment:
		r.assignment(s, enable)
	case *syntax.CallStatement:
		r.called(s, enable)
	case *syntax.If:
		r.choose(s, enable)
	case *syntax.Case:
		r.selected(s, enable)
	case *syntax.For, *syntax.While, *syntax.Repeat:
		r.cannot(firstWord(syntax.PlaceOf(s)), "Write what it does for each as a line of its own, or leave it in structured text.",
			"A loop cannot be drawn.")
	case *syntax.Jump:
		r.cannot(s.Span, "Put what comes after it under a condition.", "%s cannot be drawn.", s.Word)
	}
}

func firstWord(at source.Span) source.Span {
	if end := strings.IndexAny(at.Text(), " \t\r\n"); end > 0 {
		at.End = at.Start + end
	}
	return at
}

func (r *textReader) assignment(s *syntax.Assignment, enable syntax.Expr) {
	target := &syntax.Coil{Operand: s.Target, Span: s.Span}
	e := &event{enable: enable, value: s.Value, targets: []*syntax.Coil{target}, bool: r.isBool(s.Target), at: s.Span}
	if e.bool && enable != nil && steady(s.Target) {
		switch {
		case isLiteral(s.Value, "TRUE"):
			target.Kind, e.value, e.enable = syntax.SetCoil, enable, nil
		case isLiteral(s.Value, "FALSE"):
			target.Kind, e.value, e.enable = syntax.ResetCoil, enable, nil
		}
	}
	r.do(e)
}

// steady reports a place whose index, if there is one, is always the same.
func steady(e syntax.Expr) bool {
	switch e := e.(type) {
	case *syntax.Index:
		for _, x := range e.At {
			if _, fixed := x.(*syntax.Literal); !fixed {
				return false
			}
		}
		return steady(e.Of)
	case *syntax.Member:
		return steady(e.Of)
	}
	return true
}

func (r *textReader) called(s *syntax.CallStatement, enable syntax.Expr) {
	block := r.program.BlockCalled(s.Call)
	if block == nil {
		if enable != nil {
			kind := syntax.PrintType(r.own(s.Call).Result)
			target := &syntax.Coil{Operand: name(r.temporary("result", kind))}
			r.do(&event{enable: enable, value: s.Call, targets: []*syntax.Coil{target}, bool: strings.EqualFold(kind, "BOOL"), at: s.Span})
			return
		}
		r.do(&event{value: s.Call, at: s.Span})
		return
	}
	e := &event{block: block, at: s.Span}
	list := s.Call.Arguments
	e.enable, list = without(list, "EN", false)
	e.eno, list = without(list, "ENO", true)
	e.call = &syntax.Call{Callee: s.Call.Callee, Arguments: list}
	switch {
	case enable == nil:
	case e.enable != nil && e.eno != nil:
		r.cannot(s.Span, "Leave EN out where an IF stands around it.", "A call with EN and ENO under a condition cannot be drawn.")
	default:
		e.enable = both(enable, e.enable)
	}
	r.do(e)
}

// choose is IF: each arm happens where its condition is TRUE and those before it were not. A condition is worked out before what it
// governs.
func (r *textReader) choose(s *syntax.If, enable syntax.Expr) {
	rest := enable
	for i, arm := range s.Arms {
		if i > 0 && r.faulty(arm.Condition) {
			r.cannot(arm.Condition.Place(), "Work it out before the IF.",
				"This condition is only worked out where those before it are FALSE; drawn, it always is.")
			return
		}
		condition := r.condition(arm.Condition)
		r.statements(arm.Body, r.keep(conjoin(rest, condition)))
		rest = r.keep(conjoin(rest, not(condition)))
	}
	r.statements(s.Else, rest)
}

func conjoin(a, b syntax.Expr) syntax.Expr {
	if a == nil {
		return b
	}
	return binary("AND", a, b)
}

// condition is worked out where it stands.
func (r *textReader) condition(e syntax.Expr) syntax.Expr {
	if r.changes(e)["*"] {
		return r.sense(e)
	}
	return r.keep(e)
}

// selected is CASE: each choice is a comparison.
func (r *textReader) selected(s *syntax.Case, enable syntax.Expr) {
	if r.faulty(s.Value) {
		r.cannot(s.Value.Place(), "Assign it to a variable before the CASE.", "This value would be worked out for each label.")
		return
	}
	rest := enable
	for _, choice := range s.Choices {
		var meets syntax.Expr
		for _, l := range choice.Labels {
			one := binary("=", s.Value, l.From)
			if l.To != nil {
				one = binary("AND", binary(">=", s.Value, l.From), binary("<=", s.Value, l.To))
			}
			if meets == nil {
				meets = one
			} else {
				meets = binary("OR", meets, one)
			}
		}
		condition := r.keep(meets)
		r.statements(choice.Body, r.keep(conjoin(rest, condition)))
		rest = r.keep(conjoin(rest, not(condition)))
	}
	r.statements(s.Else, rest)
}
