package workshop

import (
	"fmt"
	"path"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

// A Judgement is what an exercise does and is worth as it stands. Traces are there as soon as the solution can be run; marks, and what
// is left untested, once the whole is an exercise that could be handed to a class.
type Judgement struct {
	Ready    bool      `json:"ready"`
	Points   string    `json:"points"`
	Problems []Problem `json:"problems"`
	Scenes   []Scene   `json:"scenes"`
	Variants []Variant `json:"variants"`
	Signals  []Signal  `json:"signals"` // of the solution: what could be graded
	Untold   []Untold  `json:"untold"`
}

// Scene is what the solution does in a scenario.
type Scene struct {
	Scenario int           `json:"scenario"`
	Does     *signal.Trace `json:"does"` // outputs, and what is graded
	// Expected is what is graded, as a hand-in is compared with it; it has no signals where checks are, or where it is not ready.
	Expected *signal.Trace `json:"expected"`
	Was      *signal.Trace `json:"was"`   // what the solution did before it was changed; the same signals as does
	Moved    []Moved       `json:"moved"` // where the two part, or the solution and the table
	Fault    string        `json:"fault"`
	Parts    []Part        `json:"parts"`
}

// Moved is the first scan from which a graded signal is no longer what it was.
type Moved struct {
	Signal string `json:"signal"`
	Scan   int    `json:"scan"`
}

// Part is a part of a scenario: a graded signal, or a check.
type Part struct {
	Signal string `json:"signal"`
	OK     bool   `json:"ok"` // of the solution
	Still  bool   `json:"still"`
}

// Variant is a program that comes with the exercise, and what it earns.
type Variant struct {
	File   string        `json:"file"`
	What   string        `json:"what"` // solution, starter, empty, mistake
	Says   string        `json:"says"` // the sentence that a learner is told
	Earned string        `json:"earned"`
	Full   bool          `json:"full"`
	Scenes []VariantMark `json:"scenes"`
	Errors string        `json:"errors"` // the first error of a program that does not run
}

// VariantMark is what a program earns in one scenario, and what went wrong first.
type VariantMark struct {
	Earned string `json:"earned"`
	Full   bool   `json:"full"`
	Loss   string `json:"loss"`
}

// Signal is a value of the solution, and whether, and by which item of the list, it is graded.
type Signal struct {
	Name   string `json:"name"`
	Type   string `json:"type"`
	Output bool   `json:"output"`
	Block  string `json:"block"` // the type of the block whose member it is
	Member string `json:"member"`
	Graded int    `json:"graded"` // the number of the item; -1: it is not
}

// Judge runs the solution and everything else that comes with the exercise. before is the solution's text when the instructor last
// agreed with what it does, or "".
func Judge(files exercise.Files, before string) Judgement {
	out := Judgement{Problems: []Problem{}, Scenes: []Scene{}, Variants: []Variant{}, Signals: []Signal{}, Untold: []Untold{}, Points: "0"}
	e, problems := exercise.Draft(files)
	out.Points = e.Points().String()
	if len(e.Solutions) == 0 {
		return out
	}
	solution := e.Solutions[0]
	code, _ := grade.CompileFor(e, []*source.File{source.NewFile(solution.Name, solution.Text)})
	if code != nil {
		out.Signals = signalsOf(e, code)
		scripts := Of(files).Scripts
		out.Scenes = scenesOf(e, scripts, code)
		out.was(e, scripts, solution.Name, before)
	}
	out.Untold = untold(e)
	if problems.HasErrors() {
		return out
	}
	g, wrong := grade.Prepare(e)
	places := exercise.PlacesIn(string(files[yamlName]))
	if g == nil {
		out.Problems = problemsOf(wrong, places)
		return out
	}
	out.Ready = len(e.Scenarios) > 0
	if out.Ready {
		out.judged(g, places)
	}
	return out
}

// judged adds what needs a whole exercise.
func (j *Judgement) judged(g *grade.Grader, places exercise.Places) {
	j.Problems = problemsOf(g.Verify(), places)
	e, programs := g.Exercise, g.Programs()
	for _, s := range e.Solutions {
		r, evidence := programs.Grade(s.Name, []*source.File{source.NewFile(s.Name, s.Text)})
		j.Variants = append(j.Variants, variant(s.Name, "solution", "", r))
		for n := range j.Scenes {
			if s.Name == e.Solutions[0].Name {
				j.Scenes[n].marked(r.Scenarios[n], evidence[n].Expected)
				if e.Scenarios[n].Expect.Table != nil {
					j.Scenes[n].compared(evidence[n].Expected)
				}
			}
		}
	}
	for _, t := range g.Trials() {
		what := "starter"
		if t.Name == grade.Empty {
			what = "empty"
		}
		j.Variants = append(j.Variants, variant(t.Name, what, "", t.Result))
	}
	for _, m := range e.Mistakes {
		r, _ := programs.Grade(m.Name, []*source.File{source.NewFile(m.Name, m.Text)})
		j.Variants = append(j.Variants, variant(m.Name, "mistake", m.Said(), r))
	}
}

func (s *Scene) marked(mark grade.Scenario, expected *signal.Trace) {
	s.Expected = expected
	for _, one := range mark.Signals {
		s.Parts = append(s.Parts, Part{one.Signal, one.OK, one.Still})
	}
}

func variant(file, what, says string, r *grade.Result) Variant {
	v := Variant{File: file, What: what, Says: says, Earned: r.Earned.String(), Full: r.Earned == r.Points, Scenes: []VariantMark{}}
	for _, d := range r.Diagnostics {
		if d.Severity == source.Error && v.Errors == "" {
			v.Errors = d.String()
		}
	}
	for _, s := range r.Scenarios {
		v.Scenes = append(v.Scenes, VariantMark{s.Earned.String(), s.Earned == s.Points, s.Loss()})
	}
	return v
}

// signalsOf lists what of a solution could be graded: outputs first, then the rest in alphabetical order.
func signalsOf(e *exercise.Exercise, code *machine.Code) []Signal {
	list := []Signal{}
	isInput := func(name string) bool { _, ok := e.Input(name); return ok }
	gradedAt := func(names ...string) int {
		return slices.IndexFunc(e.Graded, func(g exercise.Graded) bool {
			return slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, g.Name()) })
		})
	}
	for _, p := range e.Outputs {
		list = append(list, Signal{Name: p.Name, Type: p.Type, Output: true, Graded: gradedAt(p.Name)})
	}
	outputs := len(list)
	for _, name := range code.Names() {
		if isInput(name) || slices.ContainsFunc(list[:outputs], func(s Signal) bool { return strings.EqualFold(s.Name, name) }) {
			continue
		}
		kind, _ := code.KindOf(name)
		one := Signal{Name: name, Type: kind.String()}
		if instance, member, inside := cutLast(name); inside {
			one.Block, one.Member = blockOf(code, instance), member
		}
		names := []string{name}
		if one.Block != "" {
			names = append(names, one.Block+"."+one.Member)
		}
		one.Graded = gradedAt(names...)
		list = append(list, one)
	}
	return list
}

func cutLast(name string) (instance, member string, inside bool) {
	dot := strings.LastIndexByte(name, '.')
	if dot < 0 {
		return name, "", false
	}
	return name[:dot], name[dot+1:], true
}

// blockOf is the type of a standard block's instance, or "".
func blockOf(code *machine.Code, instance string) string {
	for _, b := range check.Blocks() {
		if slices.ContainsFunc(code.Instances(b.Name), func(n string) bool { return strings.EqualFold(n, instance) }) {
			return b.Name
		}
	}
	return ""
}

// scenesOf plays the solution through every scenario that can be read.
func scenesOf(e *exercise.Exercise, scripts []Scripted, code *machine.Code) []Scene {
	scenes := []Scene{}
	for _, s := range scripts {
		scene := Scene{Scenario: s.Scenario, Moved: []Moved{}, Parts: []Part{}}
		scene.Expected, scene.Was = &signal.Trace{Period: e.Period}, &signal.Trace{Period: e.Period}
		scene.Does, scene.Fault = played(code, s.Inputs, shown(e, code))
		scenes = append(scenes, scene)
	}
	return scenes
}

// shown are the names whose traces are drawn: outputs, and what is graded.
func shown(e *exercise.Exercise, code *machine.Code) (names []string) {
	add := func(name string) {
		if _, known := code.KindOf(name); known && !slices.ContainsFunc(names, func(n string) bool { return strings.EqualFold(n, name) }) {
			names = append(names, name)
		}
	}
	for _, p := range e.Outputs {
		add(p.Name)
	}
	for _, g := range e.Graded {
		add(g.Signal)
		for _, instance := range code.Instances(g.Block) {
			add(instance + "." + g.Member)
		}
	}
	return names
}

func played(code *machine.Code, script *signal.Trace, names []string) (*signal.Trace, string) {
	run, err := code.Play(script, names)
	switch {
	case err != nil:
		return &signal.Trace{Period: script.Period}, err.Error()
	case run.Fault != nil:
		return run.Trace, fmt.Sprintf("The solution stops at scan %d: %s", run.Fault.Scan, run.Fault.Message)
	}
	return run.Trace, ""
}

// was tells in each scene where the solution does something else than it did before.
func (j *Judgement) was(e *exercise.Exercise, scripts []Scripted, file, before string) {
	if before == "" {
		return
	}
	old, _ := grade.CompileFor(e, []*source.File{source.NewFile(file, before)})
	if old == nil {
		return
	}
	for n := range j.Scenes {
		then, _ := played(old, scripts[n].Inputs, shown(e, old))
		j.Scenes[n].compared(then)
	}
}

// compared notes what was before, and where what is now parts from it.
func (s *Scene) compared(then *signal.Trace) {
	s.Was, s.Moved = then, []Moved{}
	for _, c := range s.Does.Columns {
		old := then.Column(c.Name)
		if old == nil || old.Kind != c.Kind {
			continue
		}
		if scan, differs := compare.Columns(old, c, s.Does.Scans, compare.Tolerance{}, nil); differs {
			s.Moved = append(s.Moved, Moved{c.Name, scan})
		}
	}
}

// Try marks a program that does not come with the exercise, as a hand-in would be.
func Try(files exercise.Files, file, text string) (Variant, error) {
	e, problems := exercise.Read(files)
	if e == nil {
		return Variant{}, fmt.Errorf("mend this first: %s", problems[0])
	}
	g, problems := grade.Prepare(e)
	if g == nil {
		return Variant{}, fmt.Errorf("mend this first: %s", problems[0])
	}
	if path.Ext(file) != "."+exercise.TraceFile {
		g = g.Programs()
	}
	r, _ := g.Grade(file, []*source.File{source.NewFile(file, text)})
	return variant(file, "own", "", r), nil
}
