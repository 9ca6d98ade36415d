package exercise

import (
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"celandine/core/source"
)

// A Kind is what is handed in.
type Kind string

// The kinds of exercise.
const (
	Write   Kind = "write"   // a program
	Predict Kind = "predict" // what the program that is shown will do
)

// TraceFile ends the name of a file that holds a prediction, and is its language.
const TraceFile = "trace"

// mostDrawn bounds the scans of what is drawn by hand.
const mostDrawn = 10_000

// predicting holds an exercise in which traces are predicted to what can be predicted: a program that is shown, scripts that are shown, and
// what has a name.
func (r *reader) predicting(root *yaml.Node) {
	e := r.exercise
	if e.Kind != Predict {
		r.notPredicting(root)
		return
	}
	for _, key := range []string{"languages", "rules"} {
		if at := keyAt(root, key); at >= 0 {
			r.at(root.Content[at], "Take it away.", "Where a trace is predicted nothing is programmed; there are no %s.", key)
		}
	}
	e.Languages = []string{TraceFile}
	for _, g := range e.Graded {
		if g.Block != "" {
			r.problems.Add(source.WrongExercise, g.At, "Write signal: and the name that it has in the program.",
				"What is predicted has a name in the program that is shown; %s means any block of that type.", g.Name())
		}
	}
	asked := false
	for i := range e.Scenarios {
		s := &e.Scenarios[i]
		asked = asked || s.ByHand
		r.predicted(s)
		s.Shown = true
	}
	if reasons := child(root, "reasons"); reasons != nil && !asked {
		r.problems.Advise(source.WrongExercise, r.span(reasons), "Write by_hand: true in a scenario whose trace may be erratic.",
			"Nobody is asked for these reasons.")
	}
}

// notPredicting reports what is there for predictions alone.
func (r *reader) notPredicting(root *yaml.Node) {
	hint := "Write kind: predict, or take it away."
	if reasons := child(root, "reasons"); reasons != nil {
		r.at(reasons, hint, "Reasons are chosen from where a trace is predicted.")
	}
	for _, s := range r.exercise.Scenarios {
		if s.ByHand || s.Expect.Erratic != "" {
			r.problems.Add(source.WrongExercise, s.At, hint, "Scenario %q is one of an exercise in which a trace is predicted.", s.Name)
		}
		if s.Practice && !s.Shown {
			r.problems.Add(source.WrongExercise, s.At, "Write shown: true.",
				"Scenario %q is to be predicted, so that learners see its script; it cannot be hidden.", s.Name)
		}
	}
}

// predicted holds one scenario to what can be predicted.
func (r *reader) predicted(s *Scenario) {
	wrong := func(at source.Span, hint, format string, args ...any) {
		r.problems.Add(source.WrongExercise, at, hint, format, args...)
	}
	if strings.TrimSpace(s.Name) == "" || strings.ContainsAny(s.Name, "\r\n") {
		wrong(s.At, "", "A scenario that is predicted is named in one line.")
	}
	if s.Hides {
		wrong(s.At, "Take shown: false away.", "Whoever predicts scenario %q has to see its script.", s.Name)
	}
	if s.Practice {
		wrong(s.At, "Take predict: true away.", "Scenario %q is predicted as it is.", s.Name)
	}
	if s.Expect.Checks != nil {
		wrong(s.Expect.At, "Write expect: solution.", "A drawn trace is compared with a trace, not with checks.")
	}
	if s.Script != nil && s.Script.Scans > mostDrawn {
		wrong(s.At, "Make the scenario shorter, or the period longer.", "Nobody draws %d scans; the limit is %d.", s.Script.Scans, mostDrawn)
	}
	reason := s.Expect.Erratic
	switch {
	case reason != "" && !s.ByHand:
		wrong(s.Expect.At, "Add by_hand: true to the scenario.", "What is exact to the scan is never erratic.")
	case reason != "" && !slices.ContainsFunc(r.exercise.Reasons, func(known string) bool { return strings.EqualFold(known, reason) }):
		wrong(s.Expect.At, source.Meant(reason, r.exercise.Reasons), "%q is none of the reasons to choose from.", reason)
	}
	if s.ByHand && len(r.exercise.Reasons) < 2 {
		wrong(s.At, "List at least two under reasons:.", "Scenario %q may be called erratic, and there are no reasons to choose from.", s.Name)
	}
}

// reasons reads what may be chosen where somebody says that a trace is erratic.
func (r *reader) reasons(n *yaml.Node) {
	r.list(n, "reasons", func(item *yaml.Node) {
		reason := strings.TrimSpace(r.text(item, "A reason"))
		switch {
		case reason == "" || strings.Contains(reason, "\n"):
			r.at(item, "", "A reason is one line of words.")
		case slices.ContainsFunc(r.exercise.Reasons, func(other string) bool { return strings.EqualFold(other, reason) }):
			r.at(item, "Keep one of them.", "This reason stands twice.")
		}
		r.exercise.Reasons = append(r.exercise.Reasons, reason)
	})
}

// begun reports starters, which an exercise in which traces are predicted has no use for. Its known mistakes are programs: what somebody
// takes the one that is shown for.
func (r *reader) begun() {
	if r.exercise.Kind != Predict {
		return
	}
	for _, s := range r.exercise.Starters {
		r.inFile(s.Name, 1, "Take it out of the folder.", "Where a trace is predicted nobody writes a program that %s could begin.", s.Name)
	}
}
