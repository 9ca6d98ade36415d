// Package diagnose tells which known mistake a wrong hand-in behaves like.
//
// In comes a [grade.Grader]; [New] makes the exercise's known mistakes: those that are kept in its folder, with the instructor's sentence,
// and the mutants of its solutions. Each is run through every scenario, and through the shortest scripts that tell them from the solution.
// [Known.Of] runs a hand-in through the same scripts: where what is graded is in all of them what a known mistake shows, within what the
// exercise allows, the hand-in behaves like it. A prediction is held to the scenarios alone: it is what the program would do with that
// mistake in it. Nothing is guessed from a text. The same hand-in and exercise give the same answer on every host.
package diagnose

import (
	"errors"
	"fmt"
	"path"
	"reflect"
	"slices"
	"strings"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/mutate"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/strength"
)

// Known is the known mistakes of an exercise. It is read-only once made.
type Known struct {
	asked    *grade.Grader // of hand-ins; another than the grader of programs where traces are predicted
	grader   *grade.Grader
	scripts  []*signal.Trace
	right    behaviour
	mistakes []known
	told     map[[2]string]bool // the pairs of programs that were searched
}

// A Mistake is what a hand-in behaves like.
type Mistake struct {
	Key   string `json:"key"`   // the same for all that behave alike, in any language
	Title string `json:"title"` // "contact inverted"; of a program that is kept its name
	Words string `json:"words"` // "the contact mist_off is inverted (rung 1)"
	Says  string `json:"says"`  // the instructor's sentence, of one that is kept
	Hint  string `json:"hint"`  // what one who made it may look at
}

// known is one mistake, with what it shows on each script.
type known struct {
	Mistake
	file  string
	text  string
	rank  int // of its kind
	shown behaviour
}

// nothing is what a program does whose outputs never change: that has many reasons, and no name says which.
var nothing = Mistake{Key: "nothing", Title: "nothing happens", Words: "what is graded never changes",
	Hint: "Press and switch everything on the bench, and look where the power ends."}

// budget is how many scans the search for one mistake's script executes.
const budget = 4_000

// What is kept of one exercise: as many mistakes, and as many scripts that tell them apart.
const (
	mostMistakes = 400
	mostScripts  = 120
)

// passes bounds how often scripts are added that tell mistakes from each other.
const passes = 4

// New makes the known mistakes of an exercise.
func New(g *grade.Grader) (*Known, error) {
	k := &Known{asked: g, grader: g.Programs(), told: map[[2]string]bool{}}
	g = k.grader
	for _, s := range g.Exercise.Scenarios {
		k.scripts = append(k.scripts, s.Script)
	}
	list := k.listed()
	var right []known
	for _, s := range g.Exercise.Solutions {
		right = append(right, known{file: s.Name, text: s.Text})
	}
	still := known{Mistake: nothing, file: grade.Empty, text: grade.EmptyFor(g.Exercise)}
	for pass := 0; ; pass++ {
		more, err := k.sort(list, right, still)
		if err != nil {
			return nil, err
		}
		if more == 0 || pass == passes {
			k.told = nil
			return k, nil
		}
	}
}

// sort runs all that is known through the scripts so far, and groups what shows the same. It adds scripts that tell mistakes from the
// solution and from each other, and returns how many it has added; with more scripts it has to be done again.
func (k *Known) sort(list, right []known, still known) (more int, err error) {
	before := len(k.scripts)
	all := slices.Concat(right, []known{still}, list)
	for i := range all {
		if all[i].shown, err = k.shows(source.NewFile(all[i].file, all[i].text), func() bool { return false }); err != nil {
			return 0, err
		}
	}
	right, list = all[:len(right)], all[len(right)+1:]
	k.right = right[0].shown
	k.mistakes = []known{all[len(right)]}
	for _, m := range list {
		if m.shown == nil {
			continue // a kept program that does not check is known by that alone
		}
		of := append(slices.Clone(right), k.mistakes...)
		at := slices.IndexFunc(of, func(o known) bool { return k.same(o.shown, m.shown) })
		if at >= 0 {
			if err := k.tell(of[at], m); err != nil {
				return 0, err
			}
			if at <= len(right) {
				continue // nothing tells it from what is right, or from what does nothing
			}
			m.Key = of[at].Key
		}
		k.mistakes = append(k.mistakes, m)
	}
	return len(k.scripts) - before, nil
}

// tell adds the shortest script that tells two programs from each other, where there is one.
func (k *Known) tell(a, b known) error {
	pair := [2]string{a.text, b.text}
	if k.told[pair] || len(k.scripts) >= mostScripts {
		return nil
	}
	k.told[pair] = true
	var both [2]*grade.Handin
	for i, one := range []known{a, b} {
		h, err := strength.Read(k.grader, source.NewFile(one.file, one.text))
		if err != nil {
			return err
		}
		both[i] = h
	}
	_, found, err := strength.Between(k.grader, both[0], both[1], budget)
	if err != nil {
		return fmt.Errorf("looking for a difference of %s: %w", b.Words, err)
	}
	if found != nil && !slices.ContainsFunc(k.scripts, func(s *signal.Trace) bool { return reflect.DeepEqual(s, found.Script) }) {
		k.scripts = append(k.scripts, found.Script)
	}
	return nil
}

// listed lists the known mistakes: those kept, then the mutants.
func (k *Known) listed() (list []known) {
	e := k.grader.Exercise
	for _, s := range e.Mistakes {
		name := strings.TrimSuffix(path.Base(s.Name), path.Ext(s.Name))
		title := strings.ReplaceAll(name, "-", " ")
		list = append(list, known{Mistake: Mistake{Key: s.Name, Title: title, Words: title, Says: s.Said()}, file: s.Name, text: s.Text})
	}
	var mutants []known
	rank := mutate.Kinds()
	for _, s := range e.Solutions {
		for _, m := range mutate.Of(source.NewFile(s.Name, s.Text), grade.Points(e), strength.Step(k.grader)) {
			mistake := Mistake{Key: string(m.Kind) + ": " + m.What, Title: m.Kind.Words(), Words: m.String(), Hint: m.Kind.Hint()}
			mutants = append(mutants, known{Mistake: mistake, file: s.Name, text: m.Text, rank: slices.Index(rank, m.Kind)})
		}
	}
	// Of mistakes that behave alike the one that is said first comes first.
	slices.SortStableFunc(mutants, func(a, b known) int { return a.rank - b.rank })
	list = append(list, mutants...)
	return list[:min(len(list), mostMistakes)]
}

// Of tells which known mistake a hand-in behaves like, if any: of several that behave alike one in its own language. stop may end it, with
// [machine.ErrStopped].
func (k *Known) Of(f *source.File, stop func() bool) (Mistake, bool, error) {
	if problems := k.asked.Check([]*source.File{f}); problems.HasErrors() {
		return unchecked(problems), true, nil
	}
	if k.asked.Exercise.Kind == exercise.Predict {
		return k.drawn(f)
	}
	shown, err := k.shows(f, stop)
	if err != nil || shown == nil {
		return Mistake{}, false, err
	}
	at := slices.IndexFunc(k.mistakes, func(m known) bool { return k.same(m.shown, shown) })
	if at < 0 {
		return Mistake{}, false, nil
	}
	found := k.mistakes[at]
	for _, m := range k.mistakes[at:] {
		if m.Key == found.Key && found.Says == "" && path.Ext(m.file) == path.Ext(f.Name) {
			found = m
			break
		}
	}
	return found.Mistake, true, nil
}

// unchecked names a hand-in that does not check after its first error.
func unchecked(problems source.List) Mistake {
	at := slices.IndexFunc(problems, func(d source.Diagnostic) bool { return d.Severity == source.Error })
	d := problems[at]
	return Mistake{Key: "error: " + string(d.Code), Title: "it does not check: " + string(d.Code), Words: d.Message, Hint: d.Hint}
}

// A behaviour is what a program shows of what is graded, script by script. It is nil where the program does not check.
type behaviour []*machine.Run

// shows plays every script on a program. What is graded has a column each, with no segments where the program lacks it.
func (k *Known) shows(f *source.File, stop func() bool) (behaviour, error) {
	h, err := strength.ReadUntil(k.grader, f, stop)
	if err != nil || h.Code() == nil {
		return nil, err
	}
	names := h.Graded()
	watch := slices.DeleteFunc(slices.Clone(names), func(name string) bool { return name == "" })
	var list behaviour
	for _, script := range k.scripts {
		run, err := h.Code().Play(script, watch)
		if errors.Is(err, machine.ErrStopped) {
			return nil, err
		}
		if err != nil {
			return nil, nil // a script writes what the program does not have
		}
		columns := []*signal.Column{}
		for _, name := range names {
			column := &signal.Column{}
			if name != "" {
				column = run.Trace.Column(name)
			}
			columns = append(columns, column)
		}
		list = append(list, &machine.Run{Trace: &signal.Trace{Scans: run.Trace.Scans, Columns: columns}, Fault: run.Fault})
	}
	return list, nil
}

// drawn tells which known mistake in the program that is shown would let it do what was drawn of it.
func (k *Known) drawn(f *source.File) (Mistake, bool, error) {
	h := k.asked.Read(f.Name, []*source.File{f})
	var scripts []int
	for i, d := range h.Drawn() {
		switch erratic := k.asked.Exercise.Scenarios[i].Expect.Erratic; {
		case d.Trace != nil && erratic == "":
			scripts = append(scripts, i)
		case d.Trace == nil && (erratic == "" || d.Erratic != erratic):
			return Mistake{}, false, nil // more than a misread program
		}
	}
	does := func(b behaviour) bool {
		return !slices.ContainsFunc(scripts, func(i int) bool { return !k.alike(b[i].Trace, h.Drawn()[i].Trace) })
	}
	if does(k.right) { // whatever is wrong, it is not what was drawn
		return Mistake{}, false, nil
	}
	for _, m := range k.mistakes[1:] { // the first is that nothing happens
		if does(m.shown) {
			return m.Mistake, true, nil
		}
	}
	return Mistake{}, false, nil
}

// same reports whether two programs show the same of what is graded, on every script, within what the exercise allows.
func (k *Known) same(a, b behaviour) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if !k.alike(a[i].Trace, b[i].Trace) {
			return false
		}
	}
	return true
}

// alike reports whether two traces of what is graded are the same within what the exercise allows.
func (k *Known) alike(x, y *signal.Trace) bool {
	if x.Scans != y.Scans {
		return false // one of them ends in a fault
	}
	for j, t := range k.grader.Tolerances() {
		if first, second := x.Columns[j].Empty(), y.Columns[j].Empty(); first || second {
			if first != second {
				return false
			}
			continue
		}
		if _, differs := compare.Columns(x.Columns[j], y.Columns[j], x.Scans, t, nil); differs {
			return false
		}
	}
	return true
}
