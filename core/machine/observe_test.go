package machine

import (
	"math/rand/v2"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"

	"celandine/core/check"
	"celandine/core/oracle"
	"celandine/core/signal"
	"celandine/core/source"
)

// alongside runs the code and the observer on the same script and compares every single
// value of the programs after every scan.
func alongside(t require.TestingT, text string, script *signal.Trace) {
	code, program := compileBoth(t, text)
	along(t, text, script, code, program, func(*Machine) {})
}

func along(t require.TestingT, text string, script *signal.Trace, code *Code, program *check.Program, prepare func(*Machine)) {
	events, err := code.events(script)
	require.NoError(t, err)
	p := &player{m: code.Start(script.Period), recorder: &Recorder{}, events: events}
	prepare(p.m)
	o := NewObserver(program, script.Period)
	for scan := range script.Scans {
		for _, c := range script.Columns {
			for _, v := range program.Variables {
				if equalFold(v.Name, c.Name) {
					o.Set(v, c.At(scan))
				}
			}
		}
		if want := o.Scan(); !sameFault(t, want, p.one(scan), text) {
			return
		}
		for _, v := range program.Variables {
			compareCells(t, code, p.m, o.roots[v.Storage()], v.Name, scan, text)
		}
	}
}

// sameFault requires that two ends of a scan are alike, and reports whether there was none.
func sameFault(t require.TestingT, want, got *Fault, text string) bool {
	if want != nil && got != nil && want.Code == "endless-loop" {
		got.Span = want.Span // the two count instructions each in its own way
	}
	require.Equal(t, want, got, text)
	return want == nil
}

func compareCells(t require.TestingT, code *Code, m *Machine, c *cell, name string, scan int, text string) {
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
		text := oracle.Invent(seed).Text()
		alongside(t, text, inventedScript(seed))
	}
}

// inventedScript works the inputs of an invented program, quickly in some and slowly in others.
func inventedScript(seed uint64) *signal.Trace {
	r := rand.New(rand.NewPCG(seed, 3))
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 120}
	bools, number := oracle.Inputs()
	pace := 1 + r.IntN(40)
	for _, name := range append(bools, number) {
		kind, values := signal.Bool, 2
		if name == number {
			kind, values = signal.Int, 9
		}
		var changes []signal.Change
		for at := 0; at < script.Scans; at += 1 + r.IntN(pace) {
			changes = append(changes, signal.Change{Scan: at, Value: int64(r.IntN(values))})
		}
		script.Columns = append(script.Columns, signal.Steps(name, kind, changes))
	}
	return script
}

// Skipping is stepping for programs of every shape, few of which ever stand still.
func TestSkippingIsSteppingForEveryShape(t *testing.T) {
	for seed := range uint64(1000) {
		text := oracle.Invent(seed).Text()
		skippingIsStepping(t, text, inventedScript(seed))
	}
}

// A force on a variable that nothing uses changes nothing, though the code is then executed one instruction
// at a time and without fusing.
func TestAnIdleForceChangesNothing(t *testing.T) {
	for seed := range uint64(200) {
		text := strings.Replace(oracle.Invent(seed).Text(), "  x, y, z,", "  alone, x, y, z,", 1)
		code, program := compileBoth(t, text)
		along(t, text, inventedScript(seed), code, program, func(m *Machine) {
			slot, ok := code.Slot("alone")
			require.True(t, ok)
			m.Force(slot, 0)
		})
	}
}

// The conformance archive, on the tree.
func TestObserverConforms(t *testing.T) {
	files, err := filepath.Glob("../testdata/conformance/*.txtar")
	require.NoError(t, err)
	require.NotEmpty(t, files)
	for _, name := range files {
		t.Run(filepath.Base(name), func(t *testing.T) {
			text, err := os.ReadFile(name)
			require.NoError(t, err)
			archive := txtar.Parse(text)
			code := compileText(t, string(archive.Files[0].Data))
			script, problems := signal.ReadTable(archive.Files[1].Data, 10*time.Millisecond, func(name string) (signal.Kind, error) {
				kind, _ := code.KindOf(name)
				return kind, nil
			})
			require.Empty(t, problems)
			script.Scans = 20
			alongside(t, string(archive.Files[0].Data), script)
		})
	}
}

// told keeps what a watcher is told of power.
type told struct{ power []bool }

func (*told) Begin(any)                             {}
func (*told) End()                                  {}
func (*told) Value(check.Expr, string, int64)       {}
func (*told) Wrote(string, source.Span, int64)      {}
func (w *told) Power(_ check.Element, in, out bool) { w.power = append(w.power, in, out) }

// The observer tells where power goes.
func TestObserverTellsPower(t *testing.T) {
	_, program := compileBoth(t, "PROGRAM p\nVAR_INPUT a, b : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nLADDER\nRUNG [a] -- [/b] -- (q);\nEND_LADDER\nEND_PROGRAM")
	o := NewObserver(program, time.Millisecond)
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
		text, script := oracle.Invent(seed).Text(), inventedScript(seed)
		code, program := compileBoth(t, text)
		m, fault, err := code.Before(script, rapid.IntRange(0, script.Scans-1).Draw(t, "scan"))
		require.NoError(t, err)
		if fault != nil {
			return
		}
		o := m.Observe()
		if !sameFault(t, o.Scan(), m.Scan(), text) {
			return
		}
		for _, v := range program.Variables {
			compareCells(t, code, m, o.roots[v.Storage()], v.Name, m.scan-1, text)
		}
		o.Follow(m)
		if !sameFault(t, o.Scan(), m.Scan(), text) {
			return
		}
		for _, v := range program.Variables {
			compareCells(t, code, m, o.roots[v.Storage()], v.Name, m.scan-1, text)
		}
	})
}
