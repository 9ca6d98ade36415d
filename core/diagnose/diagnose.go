// Package diagnose names the mistake in a wrong hand-in, where it can be sure of it.
//
// In comes a [grade.Grader]; [New] makes the exercise's known mistakes: those that are kept in its folder, with the instructor's sentence,
// and the mutants of its solutions. Each is run through every scenario, and through the shortest scripts that tell them from the solution
// and from each other. [Known.Of] runs a hand-in through the same scripts. One that behaves as a right program does has no mistake. One
// that behaves like a single known mistake is called that. One that a wrong time or number explains is told both (fit.go). Where several
// mistakes behave alike, what is seen is told, and not one of them (symptom.go). A prediction is compared in the scenarios alone: it is
// what the program would do with that mistake in it. The same hand-in and exercise give the same answer on every machine.
package diagnose

import (
	"errors"
	"fmt"
	"path"
	"reflect"
	"regexp"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/compare"
	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/likeness"
	"celandine/core/machine"
	"celandine/core/mutate"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/strength"
	"celandine/core/syntax"
)

// Known is the known mistakes of an exercise. It is read-only once made.
type Known struct {
	asked      *grade.Grader // of hand-ins; another than the grader of programs where traces are predicted
	grader     *grade.Grader
	references map[string]*strength.Reference // of the solutions, by their files
	scripts    []*signal.Trace                // the scenarios', then those that tell mistakes apart
	right      []behaviour                    // of the solutions
	still      behaviour                      // of a program that does nothing
	mistakes   []known                        // that are neither right nor do nothing
	told       map[[2]*program]bool           // the pairs of programs that were searched
}

// A Mistake is what is wrong with a hand-in.
type Mistake struct {
	Key   string `json:"key"`   // the same for all that are told the same, in any language
	Title string `json:"title"` // "contact inverted"; of a program that is kept its name
	Words string `json:"words"` // "the contact mist_off is inverted (rung 1)", of the hand-in's own rung
	Says  string `json:"says"`  // the instructor's sentence, of one that is kept
	Hint  string `json:"hint"`  // what one who made it may look at
}

// known is one mistake.
type known struct {
	*program
	kept *Mistake // of one that stands in the exercise's folder
	made mutate.Mutant
}

// nothing is what a program does whose outputs never change: that has many reasons, and no name says which.
var nothing = Mistake{Key: "nothing", Title: "nothing happens", Words: "what is graded never changes",
	Hint: "Press and switch everything on the bench, and look where the power ends."}

// budget is how many scans the search for one mistake's script executes.
const budget = 4_000

// What is kept of one exercise: as many mistakes, and as many scripts that tell them apart; and how many that behave alike are looked at.
const (
	mostAlike    = 12
	mostMistakes = 400
	mostScripts  = 120
)

// passes bounds how often scripts are added that tell mistakes from each other.
const passes = 4

// New makes the known mistakes of an exercise.
func New(g *grade.Grader) (*Known, error) {
	k := &Known{asked: g, grader: g.Programs(), references: map[string]*strength.Reference{}, told: map[[2]*program]bool{}}
	g = k.grader
	for _, s := range g.Exercise.Scenarios {
		k.scripts = append(k.scripts, s.Script)
	}
	for _, s := range g.Exercise.Solutions {
		r, err := strength.ReferenceOf(g, source.NewFile(s.Name, s.Text))
		if err != nil {
			return nil, err
		}
		k.references[s.Name] = r
	}
	list, err := k.listed()
	if err != nil {
		return nil, err
	}
	right, still, err := k.rightAndStill()
	if err != nil {
		return nil, err
	}
	for pass := 0; ; pass++ {
		more, err := k.sort(right, still, list)
		if err != nil {
			return nil, err
		}
		if more == 0 || pass == passes {
			k.told = nil
			return k, nil
		}
	}
}

// Reference is the exercise's solution in a language, or where there is none its first.
func (k *Known) Reference(language string) *strength.Reference {
	return k.references[k.grader.Solution(language).Name]
}

// rightAndStill are the solutions, and a program that does nothing.
func (k *Known) rightAndStill() (right []*program, still *program, err error) {
	for _, s := range k.grader.Exercise.Solutions {
		one, err := k.read(source.NewFile(s.Name, s.Text), never)
		if err != nil {
			return nil, nil, err
		}
		right = append(right, one)
	}
	still, err = k.read(source.NewFile(grade.Empty, grade.EmptyFor(k.grader.Exercise)), never)
	return right, still, err
}

// sort runs all that is known through the scripts so far, and drops what is right or does nothing. It adds scripts that tell mistakes from
// what is right and from each other, and returns how many it has added; with more scripts it has to be done again.
func (k *Known) sort(right []*program, still *program, list []known) (more int, err error) {
	before := len(k.scripts)
	k.right, k.mistakes = nil, nil
	alike := append(slices.Clone(right), still)
	for _, one := range alike {
		if err := k.play(one); err != nil {
			return 0, err
		}
	}
	for _, one := range right {
		k.right = append(k.right, one.shown)
	}
	k.still = still.shown
	for _, m := range list {
		if err := k.play(m.program); err != nil {
			return 0, err
		}
		if m.shown == nil {
			continue // a kept program that does not check is known by that alone
		}
		at := slices.IndexFunc(alike, func(o *program) bool { return k.same(o.shown, m.shown) })
		if at >= 0 {
			if err := k.tell(alike[at], m.program); err != nil {
				return 0, err
			}
		} else {
			alike = append(alike, m.program)
		}
		if at < 0 || at > len(right) {
			k.mistakes = append(k.mistakes, m)
		}
	}
	return len(k.scripts) - before, nil
}

// tell adds the shortest script that tells two programs from each other, where there is one.
func (k *Known) tell(a, b *program) error {
	pair := [2]*program{a, b}
	if k.told[pair] || len(k.scripts) >= mostScripts {
		return nil
	}
	k.told[pair] = true
	_, found, err := strength.Between(k.grader, k.reference(a), b.Handin, budget)
	if err != nil {
		return fmt.Errorf("looking for a difference of %s: %w", b.file.Name, err)
	}
	if found != nil && !slices.ContainsFunc(k.scripts, func(s *signal.Trace) bool { return reflect.DeepEqual(s, found.Script) }) {
		k.scripts = append(k.scripts, found.Script)
	}
	return nil
}

// reference is a program that another is compared with: of a solution with what else is right.
func (k *Known) reference(a *program) *strength.Reference {
	if r := k.references[a.file.Name]; r != nil && a.file.Text == k.grader.Solution(exercise.LanguageOf(a.file.Name)).Text {
		return r
	}
	return &strength.Reference{Handin: a.Handin}
}

// listed lists the known mistakes: those kept, then the mutants.
func (k *Known) listed() (list []known, err error) {
	e := k.grader.Exercise
	add := func(file, text string, kept *Mistake, made mutate.Mutant) {
		if err != nil || len(list) == mostMistakes {
			return
		}
		var p *program
		if p, err = k.read(source.NewFile(file, text), never); err == nil {
			list = append(list, known{p, kept, made})
		}
	}
	for _, s := range e.Mistakes {
		name := strings.TrimSuffix(path.Base(s.Name), path.Ext(s.Name))
		title := strings.ReplaceAll(name, "-", " ")
		add(s.Name, s.Text, &Mistake{Key: s.Name, Title: title, Words: title, Says: s.Said()}, mutate.Mutant{})
	}
	for _, s := range e.Solutions {
		for _, m := range mutate.Of(source.NewFile(s.Name, s.Text), grade.Points(e), strength.Step(k.grader)) {
			add(s.Name, m.Text, nil, m)
		}
	}
	return list, err
}

// Of tells what is wrong with a hand-in, where that is sure. stop may end it, with [machine.ErrStopped].
func (k *Known) Of(f *source.File, stop func() bool) (Mistake, bool, error) {
	if problems := k.asked.Check([]*source.File{f}); problems.HasErrors() {
		return unchecked(problems), true, nil
	}
	if k.asked.Exercise.Kind == exercise.Predict {
		return k.drawn(f)
	}
	mine, err := k.shows(f, stop)
	switch {
	case err != nil || mine.shown == nil:
		return Mistake{}, false, err
	case mine.whole() || slices.ContainsFunc(k.right, func(r behaviour) bool { return k.same(r, mine.shown) }):
		return Mistake{}, false, nil
	case k.same(k.still, mine.shown):
		return nothing, true, nil
	}
	alike, err := k.alikeTo(mine)
	if err != nil {
		return Mistake{}, false, err
	}
	if len(alike) > 0 && alike[0].kept != nil {
		return *alike[0].kept, true, nil
	}
	if m, ok, err := k.fit(mine, stop); err != nil || ok {
		return m, ok, err
	}
	if m, ok := k.single(f, alike); ok {
		return m, true, nil
	}
	m, ok := k.symptom(mine.shown)
	return m, ok, nil
}

// alikeTo lists the known mistakes that a hand-in behaves like, and that no other script tells from it.
func (k *Known) alikeTo(mine *program) (alike []known, err error) {
	for _, m := range k.mistakes {
		if len(alike) == mostAlike || !k.same(m.shown, mine.shown) {
			continue
		}
		apart, err := k.apart(m.program, mine)
		if err != nil {
			return nil, err
		}
		if !apart {
			alike = append(alike, m)
		}
	}
	return alike, nil
}

// apart reports whether a script tells a hand-in from a program.
func (k *Known) apart(like, mine *program) (bool, error) {
	verdict, _, err := strength.Between(k.grader, &strength.Reference{Handin: like.Handin}, mine.Handin, budget)
	return verdict == equivalence.Differs, err
}

// single names the one mutant that a hand-in behaves like, of those in its own language where there is a solution in it; of several the one
// that is written as the hand-in is, or their kind, where that is the same of all.
func (k *Known) single(f *source.File, alike []known) (Mistake, bool) {
	own := ofLanguage(f, alike, func(m known) string { return m.file.Name })
	own = slices.DeleteFunc(slices.Clone(own), func(m known) bool { return m.made.Kind.IsFigure() }) // fit looks for those
	if written := k.asWritten(f, own); len(written) > 0 {
		own = written
	}
	if len(own) == 0 {
		return Mistake{}, false
	}
	kind := own[0].made.Kind
	if slices.ContainsFunc(own, func(m known) bool { return m.made.Kind != kind }) {
		return Mistake{}, false
	}
	m := Mistake{Key: string(kind), Title: kind.Words(), Words: kind.Words(), Hint: kind.Hint()}
	if len(own) == 1 {
		m.Key, m.Words = k.keyOf(alike), k.wordsFor(f, own[0])
	}
	return m, true
}

// asWritten lists those of some mutants that are the hand-in itself, but for names and order.
func (k *Known) asWritten(f *source.File, list []known) []known {
	names := []string{}
	for _, p := range grade.Points(k.grader.Exercise) {
		names = append(names, p.Name)
	}
	print := func(f *source.File) string {
		tree, _ := syntax.Parse(f)
		return likeness.Fingerprint(tree, names)
	}
	own := print(f)
	return slices.DeleteFunc(slices.Clone(list), func(m known) bool { return print(m.file) != own })
}

// ofLanguage is those of a list that are of a file's language, or all where there are none.
func ofLanguage[T any](f *source.File, list []T, file func(T) string) []T {
	own := slices.DeleteFunc(slices.Clone(list), func(one T) bool { return path.Ext(file(one)) != path.Ext(f.Name) })
	if len(own) == 0 {
		return list
	}
	return own
}

// keyOf is the same for all hand-ins that behave alike, in whatever language.
func (k *Known) keyOf(alike []known) string {
	return string(alike[0].made.Kind) + ": " + alike[0].made.What
}

// wordsFor says a mistake with the hand-in's own place. Where the hand-in lacks a name of the solution's the kind alone is said.
func (k *Known) wordsFor(f *source.File, m known) string {
	tree, _ := syntax.Parse(f)
	solution, _ := syntax.Parse(m.made.At.File)
	for _, name := range identifier.FindAllString(m.made.What, -1) {
		if mutate.Named(solution, name) && !mutate.Named(tree, name) && !k.isPoint(name) {
			return m.made.Kind.Words()
		}
	}
	if title := quoted.FindString(m.made.What); !strings.Contains(f.Text, strings.Trim(title, "“”")) {
		return m.made.Kind.Words()
	}
	piece, ok := mutate.PieceAt(mutate.Pieces(solution), m.made.At)
	if !ok {
		return m.made.What
	}
	var places []string
	for _, p := range mutate.Pieces(tree) {
		if meet(p.Writes, piece.Writes) {
			places = append(places, p.Where)
		}
	}
	if len(places) != 1 {
		return m.made.What
	}
	return m.made.What + " (" + places[0] + ")"
}

var (
	quoted     = regexp.MustCompile(`“[^”]*”`)
	identifier = regexp.MustCompile(`[A-Za-z_]\w*`)
)

func meet(a, b map[string]bool) bool {
	for name := range a {
		if b[name] {
			return true
		}
	}
	return false
}

func (k *Known) isPoint(name string) bool {
	return slices.ContainsFunc(grade.Points(k.grader.Exercise), func(p check.Point) bool { return strings.EqualFold(p.Name, name) })
}

// unchecked names a hand-in that does not check after its first error.
func unchecked(problems source.List) Mistake {
	at := slices.IndexFunc(problems, func(d source.Diagnostic) bool { return d.Severity == source.Error })
	d := problems[at]
	return Mistake{Key: "error: " + string(d.Code), Title: "it does not check: " + string(d.Code), Words: d.Message, Hint: d.Hint}
}

// A program is one that was read against the exercise, with what it shows of what is graded, script by script.
type program struct {
	*grade.Handin
	file  *source.File
	names []string  // of what is graded; "" where the program lacks it
	shown behaviour // nil where the program does not check, or lacks what a script writes
}

// A behaviour is what a program shows of what is graded, script by script.
type behaviour []*machine.Run

func never() bool { return false }

// read marks a program; stop may end it, with [machine.ErrStopped], and so it may end what is then played on it.
func (k *Known) read(f *source.File, stop func() bool) (*program, error) {
	h, err := strength.ReadUntil(k.grader, f, stop)
	if err != nil {
		return nil, err
	}
	p := &program{Handin: h, file: f}
	if h.Code() != nil {
		p.names, p.shown = h.Graded(), behaviour{}
	}
	return p, nil
}

// shows reads a program and plays every script on it.
func (k *Known) shows(f *source.File, stop func() bool) (*program, error) {
	p, err := k.read(f, stop)
	if err == nil {
		err = k.play(p)
	}
	return p, err
}

// whole reports whether a program has full marks in every scenario.
func (p *program) whole() bool {
	return !slices.ContainsFunc(p.Result.Scenarios, func(s grade.Scenario) bool { return s.Earned < s.Points })
}

// play plays the scripts on a program that it has not played yet. What is graded has a column each, with no segments where the program
// lacks it.
func (k *Known) play(p *program) error {
	watch := slices.DeleteFunc(slices.Clone(p.names), func(name string) bool { return name == "" })
	for p.shown != nil && len(p.shown) < len(k.scripts) {
		run, err := p.Code().Play(k.scripts[len(p.shown)], watch)
		if errors.Is(err, machine.ErrStopped) {
			return err
		}
		if err != nil {
			p.shown = nil
			return nil
		}
		columns := []*signal.Column{}
		for _, name := range p.names {
			column := &signal.Column{}
			if name != "" {
				column = run.Trace.Column(name)
			}
			columns = append(columns, column)
		}
		p.shown = append(p.shown, &machine.Run{Trace: &signal.Trace{Scans: run.Trace.Scans, Columns: columns}, Fault: run.Fault})
	}
	return nil
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
		return !slices.ContainsFunc(scripts, func(i int) bool { return !k.alike(i, b[i].Trace, h.Drawn()[i].Trace) })
	}
	if slices.ContainsFunc(k.right, does) { // whatever is wrong, it is not what was drawn
		return Mistake{}, false, nil
	}
	alike := slices.DeleteFunc(slices.Clone(k.mistakes), func(m known) bool { return !does(m.shown) })
	if len(alike) > 0 && alike[0].kept != nil {
		return *alike[0].kept, true, nil
	}
	m, ok := k.single(source.NewFile(k.grader.Exercise.Solutions[0].Name, k.grader.Exercise.Solutions[0].Text), alike)
	return m, ok, nil
}

// same reports whether two programs show the same of what is graded, on every script, within what the exercise allows.
func (k *Known) same(a, b behaviour) bool {
	if len(a) != len(b) {
		return false
	}
	for i := range a {
		if !k.alike(i, a[i].Trace, b[i].Trace) {
			return false
		}
	}
	return true
}

// alike reports whether of two traces of a script the second is allowed where the first is expected.
func (k *Known) alike(script int, x, y *signal.Trace) bool {
	if x.Scans != y.Scans {
		return false // one of them ends in a fault
	}
	e := compare.Expected{Columns: x.Columns, Tolerances: k.grader.Tolerances(), Scans: x.Scans}
	if list := k.grader.Exercise.Scenarios; script < len(list) {
		e.Ignore = list[script].Ignore
	}
	for j := range x.Columns {
		if x.Columns[j].Empty() != y.Columns[j].Empty() {
			return false
		}
	}
	return e.Allows(y.Columns, y.Scans)
}
