package observe

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// alongside runs the code and the observer on the same script and compares every single
// value of the programs after every scan.
func alongside(t require.TestingT, text string, script *signal.Trace) {
	code, program := compile(t, text)
	along(t, text, script, code, program, func(*machine.Machine) {})
}

func along(t require.TestingT, text string, script *signal.Trace, code *machine.Code, program *check.Program,
	prepare func(*machine.Machine)) {
	m := code.Start(script.Period)
	prepare(m)
	o := New(program, script.Period)
	for scan := range script.Scans {
		for _, c := range script.Columns {
			slot, ok := code.Slot(c.Name)
			require.True(t, ok)
			m.Write(slot, c.At(scan))
			for _, v := range program.Variables {
				if strings.EqualFold(v.Name, c.Name) {
					o.Set(v, c.At(scan))
				}
			}
		}
		if want := o.Scan(); !sameFault(t, want, m.Scan(), text) {
			return
		}
		for _, v := range program.Variables {
			compareCells(t, code, m, o.roots[v.Storage()], v.Name, scan, text)
		}
	}
}

func compile(t require.TestingT, text string) (*machine.Code, *check.Program) {
	tree, problems := syntax.Parse(source.NewFile("p", text))
	require.Empty(t, problems, text)
	program, problems := check.Check([]*syntax.File{tree}, nil)
	require.NotNil(t, program, "%v\n%s", problems, text)
	code, problems := machine.Compile(program)
	require.NotNil(t, code, "%v", problems)
	return code, program
}

// sameFault requires that two ends of a scan are alike, and reports whether there was none.
func sameFault(t require.TestingT, want, got *machine.Fault, text string) bool {
	if want != nil && got != nil && want.Code == "endless-loop" {
		got.Span = want.Span // the two count instructions each in its own way
	}
	require.Equal(t, want, got, text)
	return want == nil
}

func compareCells(t require.TestingT, code *machine.Code, m *machine.Machine, c *cell, name string, scan int, text string) {
	for _, sub := range c.members {
		for member, found := range c.members {
			if found == sub {
				compareCells(t, code, m, sub, name+"."+member.Name, scan, text)
			}
		}
	}
	for v, sub := range c.own {
		if !v.Hidden {
			compareCells(t, code, m, sub, name+"."+v.Name, scan, text)
		}
	}
	slot, ok := code.Slot(name)
	if !ok || !c.typed.IsSingle() {
		return
	}
	if c.typed.Class == check.Text {
		require.Equal(t, c.text, m.ReadText(slot), "%s at scan %d of\n%s", name, scan, text)
		return
	}
	require.Equal(t, c.number, m.Read(slot), "%s at scan %d of\n%s", name, scan, text)
}

func TestCodeDoesWhatTheTreeSays(t *testing.T) {
	for seed := range uint64(500) {
		text, script := coretest.Invented(seed)
		alongside(t, text, script)
	}
}

// A force on a variable that nothing uses changes nothing, though the code is then executed one instruction
// at a time and without fusing.
func TestAnIdleForceChangesNothing(t *testing.T) {
	for seed := range uint64(200) {
		text, script := coretest.Invented(seed)
		text = strings.Replace(text, "  x, y, z,", "  alone, x, y, z,", 1)
		code, program := compile(t, text)
		along(t, text, script, code, program, func(m *machine.Machine) {
			slot, ok := code.Slot("alone")
			require.True(t, ok)
			m.Force(slot, 0)
		})
	}
}

// The conformance archive, on the tree.
func TestObserverConforms(t *testing.T) {
	coretest.Each(t, "../testdata/conformance/*.txtar", func(t *testing.T, c *coretest.Case) {
		code, _ := compile(t, c.First())
		script, problems := signal.ReadTable([]byte(c.Second()), 10*time.Millisecond, func(name string) (signal.Kind, error) {
			kind, _ := code.KindOf(name)
			return kind, nil
		})
		require.Empty(t, problems)
		script.Scans = 20
		alongside(t, c.First(), script)
	})
}

// told keeps what a watcher is told of power.
type told struct{ power []bool }

func (*told) Begin(any)                               {}
func (*told) End()                                    {}
func (*told) Value(check.Expr, string, int64)         {}
func (*told) Wrote(string, source.Span, int64, int64) {}
func (w *told) Power(_ check.Element, in, out bool)   { w.power = append(w.power, in, out) }

// The observer tells where power goes.
func TestObserverTellsPower(t *testing.T) {
	_, program := compile(t, "PROGRAM p\nVAR_INPUT a, b : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nLADDER\nRUNG [a] -- [/b] -- (q);\n"+
		"END_LADDER\nEND_PROGRAM")
	o := New(program, time.Millisecond)
	w := &told{}
	o.Watch(w)
	for _, v := range program.Variables {
		if v.Name == "a" || v.Name == "b" {
			o.Set(v, 1)
		}
	}
	require.Nil(t, o.Scan())
	require.Equal(t, []bool{true, true, true, false, false, false}, w.power)
}

// An observer that takes over a machine's state in the middle of a run does what the machine does next.
func TestObserverFollowsAMachine(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		seed := rapid.Uint64().Draw(t, "seed")
		text, script := coretest.Invented(seed)
		code, program := compile(t, text)
		m, fault, err := code.Before(script, rapid.IntRange(0, script.Scans-1).Draw(t, "scan"))
		require.NoError(t, err)
		if fault != nil {
			return
		}
		o := Of(m)
		if !sameFault(t, o.Scan(), m.Scan(), text) {
			return
		}
		for _, v := range program.Variables {
			compareCells(t, code, m, o.roots[v.Storage()], v.Name, m.Scans()-1, text)
		}
		o.Follow(m)
		if !sameFault(t, o.Scan(), m.Scan(), text) {
			return
		}
		for _, v := range program.Variables {
			compareCells(t, code, m, o.roots[v.Storage()], v.Name, m.Scans()-1, text)
		}
	})
}
