package grade

import (
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/observe"
	"celandine/core/prediction"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Verify tells whether an exercise tests what it means to. Errors are a solution that does not earn full marks, a starter that
// does, an empty program that earns anything, and a graded signal that never changes; warnings, what the scenarios leave
// untested and what the brief does not tell.
func (g *Grader) Verify() source.List {
	v := &verifier{Grader: g}
	v.solutions()
	v.starters()
	if !v.predicts() { // what is predicted stands in the program that is shown
		v.languages()
		v.brief()
	}
	v.signals()
	v.inputs()
	v.contacts()
	v.list.Sort()
	return v.list
}

type verifier struct {
	*Grader
	list source.List
}

func (v *verifier) fail(at source.Span, hint, format string, args ...any) {
	v.list.Add(source.Verify, at, hint, format, args...)
}

func (v *verifier) warn(at source.Span, hint, format string, args ...any) {
	v.list.Advise(source.Verify, at, hint, format, args...)
}

func fileOf(s exercise.Source) *source.File { return source.NewFile(s.Name, s.Text) }

func (v *verifier) solutions() {
	for _, s := range v.Exercise.Solutions {
		f := fileOf(s)
		r, _ := v.Programs().Grade(s.Name, []*source.File{f})
		switch {
		case r.Diagnostics.HasErrors():
			v.list = append(v.list, r.Diagnostics...)
		case r.Earned < r.Points:
			v.fail(source.Span{File: f}, "", "The solution earns %s of %s: %s.", r.Earned, r.Points, r.FirstLoss())
		}
		for _, d := range r.Diagnostics {
			if d.Severity == source.Warning && !v.predicts() { // there it may be the lesson
				v.list = append(v.list, d)
			}
		}
	}
}

// languages looks for those in which learners may write and there is no solution.
func (v *verifier) languages() {
	for _, language := range v.Exercise.Languages {
		found := false
		for _, s := range v.Exercise.Solutions {
			found = found || s.Language() == language
		}
		if !found {
			v.warn(source.Span{File: fileOf(v.Exercise.Solutions[0])}, "Add solution."+language+", or take "+language+" out of languages.",
				"There is no solution in %s, though learners may write it.", language)
		}
	}
}

// A Trial is what a program that comes with an exercise earns: a starter, or the empty program.
type Trial struct {
	Name   string
	Result *Result
}

// Empty is the name under which a program that does nothing is tried.
const Empty = "an empty program"

// Trials grades a program that does nothing and the starters: what they earn, they earn for nothing.
func (g *Grader) Trials() []Trial {
	r, _ := g.Grade(Empty, []*source.File{source.NewFile(Empty, EmptyFor(g.Exercise))})
	list := []Trial{{Empty, r}}
	for _, s := range g.Exercise.Starters {
		r, _ := g.Grade(s.Name, []*source.File{fileOf(s)})
		list = append(list, Trial{s.Name, r})
	}
	return list
}

// EmptyFor is the text of a program that does nothing, or of a prediction in which nothing happens, in a language that the exercise
// allows and with the programs that it runs.
func EmptyFor(e *exercise.Exercise) string {
	if e.Kind == exercise.Predict {
		return prediction.Of(e, nil).Still()
	}
	if slices.Contains(e.Languages, "st") {
		return Begun(e, "st")
	}
	return Begun(e, e.Languages[0])
}

// Begun is a text for a learner to begin with, where the exercise has no starter in a language: its programs, with nothing in them.
func Begun(e *exercise.Exercise, language string) string {
	if len(e.Tasks) == 0 {
		name := "mine"
		for slices.ContainsFunc(slices.Concat(e.Inputs, e.Outputs), func(p exercise.Point) bool { return strings.EqualFold(p.Name, name) }) {
			name += "_program"
		}
		return exercise.Empty(name, language)
	}
	text := ""
	for _, t := range e.Tasks {
		text += exercise.Empty(t.Program, language)
	}
	return text
}

// nothing is what does nothing: a program, or a prediction.
func (v *verifier) nothing() string {
	if v.predicts() {
		return "A prediction in which nothing happens"
	}
	return "A program that does nothing"
}

func (v *verifier) starters() {
	for _, t := range v.Trials() {
		f := source.NewFile("exercise.yaml", "")
		if t.Name != Empty {
			f = source.NewFile(t.Name, "")
		}
		switch r := t.Result; {
		case r.Earned >= r.Points:
			v.fail(source.Span{File: f}, "Take something out of it.", "The starter earns full marks already.")
		case t.Name == Empty && r.Earned > 0:
			v.fail(source.Span{File: f}, "", "%s earns %s of %s.", v.nothing(), r.Earned, r.Points)
		case 2*r.Earned >= r.Points:
			v.warn(source.Span{File: f}, "Take more out of it.", "The starter earns %s of %s already.", r.Earned, r.Points)
		}
	}
}

// brief looks for names that are graded and that the brief does not tell: a hand-in that calls them otherwise loses their marks.
func (v *verifier) brief() {
	for _, one := range v.Exercise.Named() {
		name, _, _ := strings.Cut(one.Signal, ".")
		if !mentioned(v.Exercise.Brief, name) {
			v.warn(one.At, "Tell it in the brief, or grade a block by its type: {block: TON, member: ET}.",
				"%s is graded by its name, and the brief does not mention %s.", one.Signal, name)
		}
	}
}

// mentioned reports whether a text has a name as a whole word.
func mentioned(text, name string) bool {
	word := func(b byte) bool {
		return b == '_' || 'a' <= b && b <= 'z' || 'A' <= b && b <= 'Z' || '0' <= b && b <= '9'
	}
	text, name = strings.ToLower(text), strings.ToLower(name)
	for at := 0; ; {
		i := strings.Index(text[at:], name)
		if i < 0 {
			return false
		}
		i += at
		end := i + len(name)
		if (i == 0 || !word(text[i-1])) && (end == len(text) || !word(text[end])) {
			return true
		}
		at = i + 1
	}
}

// FirstLoss says where the first marks went, or "" where none did.
func (r *Result) FirstLoss() string {
	for _, s := range r.Scenarios {
		if loss := s.Loss(); loss != "" {
			return s.Name + s.between() + loss
		}
	}
	for _, f := range r.Findings {
		return f.Say
	}
	return ""
}

// Loss says what went wrong first in a scenario, or "" where nothing did.
func (s Scenario) Loss() string {
	if s.Fault != nil {
		return s.Fault.Message
	}
	for _, signal := range s.Signals {
		if !signal.OK {
			return signal.Words()
		}
	}
	return s.Note
}

// between stands between a scenario's name and its loss.
func (s Scenario) between() string {
	if s.Fault == nil && slices.ContainsFunc(s.Signals, func(one Signal) bool { return !one.OK }) {
		return ", "
	}
	return ": "
}

// signals looks for graded signals that do not change where they are expected.
func (v *verifier) signals() {
	changes := map[string]bool{}
	compared := false
	for i, s := range v.Exercise.Scenarios {
		if s.Expect.Checks != nil {
			continue
		}
		compared = true
		var still []string
		for j, graded := range v.Exercise.Graded {
			c := v.expected[i].Columns[j]
			if c.Steady(s.Script.Scans) {
				still = append(still, graded.Name()+" ("+c.Format(c.At(0))+")")
			}
			if !c.Steady(s.Script.Scans) || !v.still[i][j] {
				changes[graded.Name()] = true
			}
		}
		switch n := len(still); {
		case v.predicts(): // what stays as it is may be just what is asked
		case n == len(v.Exercise.Graded):
			v.warn(s.At, "If it is there to show that nothing happens, all is well; else work an input that changes something.",
				"Scenario %q changes no graded signal.", s.Name)
		case n > 0:
			v.warn(s.At, "", "Scenario %q leaves untested, since constant throughout: %s.", s.Name, strings.Join(still, ", "))
		}
	}
	moves := false
	for i := range v.Exercise.Scenarios {
		moves = moves || !v.noneMoves(i)
	}
	if !moves {
		v.fail(v.Exercise.Scenarios[0].At, "Work an input that changes something graded.",
			"In no scenario does anything graded move, so that nobody can earn anything.")
	}
	for _, graded := range v.Exercise.Graded {
		if compared && !changes[graded.Name()] {
			v.fail(graded.At, "Add a scenario in which it changes, or do not grade it.",
				"%s is constant in every scenario: nobody can earn anything with it.", graded.Name())
		}
	}
}

func (v *verifier) inputs() {
	for _, p := range v.Exercise.Inputs {
		operated := false
		for _, s := range v.Exercise.Scenarios {
			operated = operated || !s.Script.Column(p.Name).Steady(s.Script.Scans)
		}
		if !operated {
			v.warn(p.At, "Work it in a scenario, or take it off the panel.", "No scenario works %s.", p.Name)
		}
	}
}

// seen notes which ways each contact was seen.
type seen struct{ open, closed map[*check.Contact]bool }

func (s *seen) Begin(any)                               {}
func (s *seen) End()                                    {}
func (s *seen) Wrote(string, source.Span, int64, int64) {}
func (s *seen) Value(check.Expr, string, int64)         {}

func (s *seen) Power(e check.Element, in, out bool) {
	if c, ok := e.(*check.Contact); ok && (in || c.Operand == nil) {
		s.closed[c] = s.closed[c] || out
		s.open[c] = s.open[c] || !out
	}
}

// contacts looks for contacts of a ladder solution that power met only open, or only closed.
func (v *verifier) contacts() {
	for _, s := range v.Exercise.Solutions {
		program, code, _ := v.compile([]*source.File{fileOf(s)})
		if code == nil || s.Language() != "ladder" {
			continue
		}
		w := &seen{map[*check.Contact]bool{}, map[*check.Contact]bool{}}
		for _, scenario := range v.Exercise.Scenarios {
			watch(code, scenario, w)
		}
		eachContact(program, func(c *check.Contact) {
			switch {
			case !w.open[c] && !w.closed[c]:
				v.warn(c.At, "", "In no scenario does power reach the contact %s.", c.At.Text())
			case !w.open[c]:
				v.warn(c.At, "Add a scenario in which only this contact stops the power.",
					"The contact %s is never seen open: without it a program would earn the same.", c.At.Text())
			case !w.closed[c]:
				v.warn(c.At, "", "The contact %s is never seen closed.", c.At.Text())
			}
		})
	}
}

func watch(code *machine.Code, s exercise.Scenario, w *seen) {
	var o *observe.Observer
	_ = code.Visit(s.Script, s.Script.Scans, func(m *machine.Machine) { // an error was told when it was graded
		if o == nil {
			o = observe.Of(m)
			o.Watch(w)
		} else {
			o.Follow(m)
		}
		o.Scan()
	})
}

func eachContact(p *check.Program, visit func(*check.Contact)) {
	var series func(*check.Series)
	series = func(s *check.Series) {
		for _, e := range s.Elements {
			switch e := e.(type) {
			case *check.Contact:
				if e.Kind == syntax.OpenContact || e.Kind == syntax.ClosedContact {
					visit(e)
				}
			case *check.Parallel:
				for _, b := range e.Branches {
					series(b)
				}
			}
		}
	}
	for _, u := range p.Units {
		for _, r := range u.Rungs {
			series(r.Net)
		}
	}
}
