package grade

import (
	"fmt"
	"strings"

	"celandine/core/check"
	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

// A preparation holds an exercise against its solution: every name that it looks at must be there, and of a fitting type.
type preparation struct {
	*Grader
	program *check.Program
	code    *machine.Code
	names   []string // what each graded thing is in the solution
	list    source.List
}

func (p *preparation) complain(at source.Span, hint, format string, args ...any) {
	p.list.Add(source.WrongExercise, at, hint, format, args...)
}

// graded finds what is graded in the solution, and how it is compared.
func (p *preparation) graded() {
	for _, one := range p.Exercise.Graded {
		name := ""
		if list := wanted(one).In(p.code); len(list) > 0 {
			name = list[0]
		}
		p.names = append(p.names, name)
		if name == "" {
			p.lacks(one)
			p.tolerances, p.kinds = append(p.tolerances, compare.Tolerance{}), append(p.kinds, 0)
			continue
		}
		kind, _ := p.code.KindOf(name)
		t, err := toleranceOf(one, kind, p.Exercise)
		if err != nil {
			p.complain(one.WithinAt, "", "within of %s: %v.", one.Name(), err)
		}
		p.tolerances, p.kinds = append(p.tolerances, t), append(p.kinds, kind)
	}
}

func (p *preparation) lacks(one exercise.Graded) {
	if one.Block == "" {
		p.complain(one.At, source.Meant(one.Signal, p.code.Names()), "The solution has nothing named %s, which is graded.", one.Signal)
		return
	}
	if len(p.code.Instances(one.Block)) > 0 {
		p.complain(one.At, "", "A %s has no member %s.", one.Block, one.Member)
		return
	}
	var types []string
	for _, b := range check.Blocks() {
		types = append(types, b.Name)
	}
	hint := ""
	if check.BlockNamed(one.Block) == nil {
		hint = source.Meant(one.Block, types)
	}
	p.complain(one.At, hint, "The solution has no %s, whose %s is graded.", one.Block, one.Member)
}

// toleranceOf reads how a value of a kind is compared.
func toleranceOf(one exercise.Graded, kind signal.Kind, e *exercise.Exercise) (compare.Tolerance, error) {
	t := compare.Tolerance{Slack: one.Slack, Drift: one.Drift}
	if one.Within == "" {
		if kind == signal.Time && isElapsed(one.Name()) {
			t.Numeric, t.Within = true, int64(one.Slack)*int64(e.Period)
		}
		return t, nil
	}
	t.Numeric = true
	switch kind {
	case signal.Bool, signal.Text:
		return t, fmt.Errorf("it is %s, which has no distance; take within away", aKind(kind))
	case signal.Time:
		d, err := signal.ParseTime(one.Within)
		if err != nil || d < 0 {
			return t, fmt.Errorf("%q is not a time; write 20ms", one.Within)
		}
		t.Within = int64(d)
	case signal.Real:
		bits, err := signal.Real.Parse(one.Within)
		if t.WithinReal = signal.RealOf(bits); err != nil || !(t.WithinReal >= 0) {
			return t, fmt.Errorf("%q is not a number from 0 up; write 0.5", one.Within)
		}
	default:
		n, err := signal.Int.Parse(one.Within)
		if err != nil || n < 0 {
			return t, fmt.Errorf("%q is not a whole number from 0 up; write 2", one.Within)
		}
		t.Within = n
	}
	return t, nil
}

// isElapsed reports the elapsed time of a timer by its name.
func isElapsed(name string) bool {
	dot := strings.LastIndexByte(name, '.')
	return dot > 0 && strings.EqualFold(name[dot+1:], "ET")
}

// checks looks whether each check asks what its signal can answer.
func (p *preparation) checks() {
	for _, s := range p.Exercise.Scenarios {
		for _, c := range s.Expect.Checks {
			slot, ok := p.code.Slot(c.Signal)
			if !ok {
				p.complain(c.At, source.Meant(c.Signal, p.code.Names()), "The solution has nothing named %s, which a check of scenario %q looks at.",
					c.Signal, s.Name)
				continue
			}
			if (c.Rises >= 0 || c.Falls >= 0) && slot.Type.Plain() != check.Bool {
				p.complain(c.At, "Write is, or compare it in another scenario.", "%s is no BOOL; only a BOOL rises and falls.", c.Signal)
			}
			if c.Is != "" && slot.Type.Class != check.Text {
				if _, err := slot.Type.Parse(c.Is); err != nil {
					p.complain(c.IsAt, "", "%s cannot be %s: %v.", c.Signal, c.Is, err)
				}
			}
		}
	}
}

// scenarios records what is expected in each, and which of its parts are still.
func (p *preparation) scenarios() {
	for _, s := range p.Exercise.Scenarios {
		expected, err := p.expect(s)
		if err != nil {
			p.complain(s.At, "", "Scenario %q: %v.", s.Name, err)
			continue
		}
		p.scripts, p.expected = append(p.scripts, machine.ScriptOf(s.Script)), append(p.expected, expected)
		p.still = append(p.still, p.stillParts(s, expected))
	}
}

// expect returns the expected trace of a scenario, a column for each that is graded.
func (p *preparation) expect(s exercise.Scenario) (*signal.Trace, error) {
	if s.Expect.Table != nil {
		return p.fromTable(s)
	}
	run, err := p.code.Play(s.Script, p.names)
	if err != nil {
		return nil, err
	}
	if s.Shown {
		p.executed += run.Executed
	}
	if run.Fault != nil {
		return nil, fmt.Errorf("the solution stops with a fault at scan %d: %s", run.Fault.Scan, run.Fault.Message)
	}
	return run.Trace, nil
}

// fromTable reads the graded signals from a table; each must be there. Its columns are of the solution's kinds.
func (p *preparation) fromTable(s exercise.Scenario) (*signal.Trace, error) {
	inSolution := map[string]string{}
	for j, one := range p.Exercise.Graded {
		inSolution[strings.ToLower(one.Name())] = p.names[j]
	}
	t, problems := signal.ReadTable(s.Expect.Table, p.Exercise.Period, func(column string) (signal.Kind, error) {
		name, known := inSolution[strings.ToLower(column)]
		if !known {
			name = column
		}
		if kind, ok := p.code.KindOf(name); ok {
			return kind, nil
		}
		return 0, fmt.Errorf("there is nothing named %s. %s", column, source.Meant(column, p.code.Names()))
	})
	if len(problems) > 0 {
		return nil, fmt.Errorf("%s, line %d: %s", s.Expect.File, problems[0].Line, problems[0].Message)
	}
	if t.Scans > s.Script.Scans {
		return nil, fmt.Errorf("the expected table goes on to scan %d, beyond the scenario's last, %d", t.Scans-1, s.Script.Scans-1)
	}
	out := &signal.Trace{Period: t.Period, Scans: s.Script.Scans}
	for _, one := range p.Exercise.Graded {
		c := t.Column(one.Name())
		if c == nil {
			return nil, fmt.Errorf("the expected table has no column %s", one.Name())
		}
		out.Columns = append(out.Columns, c)
	}
	return out, nil
}

// stillParts tells of each part of a scenario whether a program that leaves everything at its initial value passes it.
func (p *preparation) stillParts(s exercise.Scenario, expected *signal.Trace) (still []bool) {
	start := p.code.Start(p.Exercise.Period)
	idle := func(name string) *signal.Column {
		c, _ := start.Still(name) // it is there
		return c
	}
	if s.Expect.Checks != nil {
		for _, c := range s.Expect.Checks {
			trace := &signal.Trace{Period: s.Script.Period, Scans: s.Script.Scans, Columns: []*signal.Column{idle(c.Signal)}}
			still = append(still, checkOne(c, p.code, trace).OK)
		}
		return still
	}
	want := compare.Expected{Columns: expected.Columns, Tolerances: p.tolerances, Scans: s.Script.Scans, Ignore: s.Ignore}
	for j, name := range p.names {
		still = append(still, want.Judge(j, idle(name), s.Script.Scans).Outcome == compare.Right)
	}
	return still
}
