package grade

import (
	"fmt"
	"slices"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/prediction"
	"celandine/core/signal"
	"celandine/core/source"
)

// In an exercise of the kind [exercise.Predict] a hand-in is no program but what somebody says that the exercise's own will do. It is held
// to what that program does as the trace of a program would be, and the reason for a difference is the program's own.

func (g *Grader) predicts() bool { return g.Exercise.Kind == exercise.Predict }

// Sheet is what is asked where a trace is predicted.
func (g *Grader) Sheet() prediction.Sheet { return prediction.Of(g.Exercise, g.kinds) }

// Kinds tells of each thing that is graded what kind of value it has.
func (g *Grader) Kinds() []signal.Kind { return g.kinds }

// Programs is a grader of programs by what the exercise expects. It is the grader itself, unless traces are predicted: then it marks
// programs by the same scripts, as if the one that is shown had been the task.
func (g *Grader) Programs() *Grader {
	if !g.predicts() {
		return g
	}
	programs, e := *g, *g.Exercise
	e.Kind, e.Languages = exercise.Write, exercise.Languages()
	e.Scenarios = slices.Clone(e.Scenarios)
	for i := range e.Scenarios {
		e.Scenarios[i].Expect.Erratic, e.Scenarios[i].ByHand = "", false
	}
	programs.Exercise = &e
	return &programs
}

// readDrawn reads a hand-in that is a prediction. The program that runs is the exercise's own, so that differences have reasons.
func (h *Handin) readDrawn(f *source.File) source.List {
	drawn, problems := h.grader.Sheet().Read(f)
	if !problems.HasErrors() {
		h.drawn = drawn
		h.program, h.code, _ = h.grader.compile([]*source.File{fileOf(h.grader.Exercise.Solutions[0])})
	}
	return problems
}

// playDrawn takes what was drawn for what was done.
func (h *Handin) playDrawn(which func(exercise.Scenario) bool) {
	for i, d := range h.drawn {
		switch {
		case !which(h.grader.Exercise.Scenarios[i]):
		case d.Trace != nil:
			h.runs[i] = played{run: &machine.Run{Trace: d.Trace}}
		default:
			h.runs[i] = played{erratic: d.Erratic}
		}
	}
}

// erratically holds a call that a trace is erratic, or the drawing of one that is, to what the exercise says of it.
func (g *Grader) erratically(i int, p played) (list []Signal) {
	s := g.Exercise.Scenarios[i]
	if s.Expect.Erratic != "" {
		one := Signal{Signal: "predictable or erratic", OK: p.erratic == s.Expect.Erratic}
		switch {
		case p.erratic == "":
			one.Missing = "nobody can tell what happens here: " + g.sways[i].String()
		case !one.OK:
			one.Missing = "it is erratic, but for another reason than that one"
		}
		return []Signal{one}
	}
	for j, graded := range g.Exercise.Graded {
		list = append(list, Signal{Signal: graded.Name(), Still: g.still[i][j],
			Missing: graded.Name() + " can be told: it goes the same way whether what the hand does comes a scan sooner or later"})
	}
	return list
}

// nothingDrawn is why a scenario of which nothing is said earns nothing.
const nothingDrawn = "Nothing was drawn here."

// A sway is one change of an input that, a scan sooner or later, lets a signal go another way.
type sway struct {
	does   string // release lamp_button
	scan   int    // of the change in the script
	by     int    // scans
	signal string
	at     int // the first scan at which the signal differs
}

func (s *sway) String() string {
	when := "later"
	if s.by < 0 {
		when = "sooner"
	}
	return fmt.Sprintf("with %q a scan %s, at scan %d, %s goes another way from scan %d on", s.does, when, s.scan+s.by, s.signal, s.at)
}

// mostSwayed bounds the changes of a script that are tried a scan sooner and later.
const mostSwayed = 200

// predictions holds an exercise in which traces are predicted to what can be drawn, and what is said of its hands to what they do.
func (p *preparation) predictions() {
	if !p.predicts() {
		return
	}
	for j, one := range p.Exercise.Graded {
		if p.names[j] != "" && !prediction.Draws(p.kinds[j]) {
			p.complain(one.At, "Ask for something that is on or off, or for a whole number.", "%s is %s, which is not drawn by hand.", one.Name(),
				aKind(p.kinds[j]))
		}
	}
	p.sways = make([]*sway, len(p.Exercise.Scenarios))
	for i, s := range p.Exercise.Scenarios {
		if !s.ByHand || p.list.HasErrors() {
			continue
		}
		found, err := p.swayed(s)
		switch {
		case err != nil:
			p.complain(s.At, "", "Scenario %q: %v.", s.Name, err)
		case found != nil && s.Expect.Erratic == "":
			p.complain(s.Expect.At, "Write expect: {erratic: …} with one of the reasons.", "Nobody can predict scenario %q: %v.", s.Name, found)
		case found == nil && s.Expect.Erratic != "":
			p.complain(s.Expect.At, "Write expect: solution, or let a press last a few scans.",
				"Scenario %q is not erratic: what is graded goes the same way with each change a scan sooner or later.", s.Name)
		}
		p.sways[i] = found
	}
}

// swayed looks for a change of an input that makes a difference when it comes a scan sooner or later, beyond that scan itself.
func (p *preparation) swayed(s exercise.Scenario) (*sway, error) {
	does, err := p.code.Play(s.Script, p.names)
	if err != nil {
		return nil, err
	}
	tried := 0
	for n, c := range s.Script.Columns {
		changes := c.Changes(0, s.Script.Scans)
		for at := 1; at < len(changes) && tried < mostSwayed; at++ {
			tried++
			for _, by := range []int{1, -1} {
				moved := movedBy(changes, at, by, s.Script.Scans)
				if moved == nil {
					continue
				}
				script := *s.Script
				script.Columns = slices.Clone(script.Columns)
				script.Columns[n] = signal.Steps(c.Name, c.Kind, moved)
				name, scan, err := p.parts(&script, does.Trace)
				if err != nil {
					return nil, err
				}
				if name != "" {
					return &sway{p.deed(c.Name, changes[at].Value), changes[at].Scan, by, name, scan}, nil
				}
			}
		}
	}
	return nil, nil
}

// movedBy moves one change by so many scans, where it stays between its neighbours.
func movedBy(changes []signal.Change, at, by, scans int) []signal.Change {
	to := changes[at].Scan + by
	if to <= changes[at-1].Scan || to >= scans || at+1 < len(changes) && to >= changes[at+1].Scan {
		return nil
	}
	moved := slices.Clone(changes)
	moved[at].Scan = to
	return moved
}

// parts plays a script that differs by a scan from another, and tells which graded signal goes another way, by more than that scan; ""
// where none does.
func (p *preparation) parts(script, does *signal.Trace) (name string, scan int, err error) {
	run, err := p.code.Play(script, p.names)
	if err != nil {
		return "", 0, err
	}
	for j := range p.names {
		t := p.tolerances[j]
		t.Slack++
		if scan, differs := compare.Columns(does.Columns[j], run.Trace.Columns[j], script.Scans, t, nil); differs {
			return p.names[j], scan, nil
		}
	}
	return "", 0, nil
}

// deed is what somebody does to an input to give it a value, in words.
func (p *preparation) deed(input string, value int64) string {
	point, _ := p.Exercise.Input(input)
	return point.StepTo(point.Bit(value)).Words()
}
