package machine

import (
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// plain are declarations of what the loop executes by itself.
var plain = strings.NewReplacer(" t3 : TP; t4 : TACC;", "", " c2 : CTUD; e1 : R_TRIG; s1 : SR; o1 : own;", "").Replace(declarations)

// rungs writes random programs that can be cut: several writers of a bit and of a number, edges, latches, blocks called twice, conditions.
type rungs struct{ generator }

func (g *rungs) either() string {
	if rapid.Bool().Draw(g.t, "text") {
		return g.statements()
	}
	return g.program()
}

func (g *rungs) program() string {
	text := "PROGRAM p\n" + plain + "LADDER\n"
	for range rapid.IntRange(3, 9).Draw(g.t, "rungs") {
		text += "RUNG " + g.contact() + " -- " + g.contact() + " -- " + g.middle() + " -- " + g.coil() + ";\n"
	}
	return text + "END_LADDER\nEND_PROGRAM"
}

func (g *rungs) middle() string {
	return g.pick("t1(PT := T#100ms)", "t1(PT := pt)", "t2(PT := T#70ms)", "c1(PV := 2)", "c1(R := x, PV := n)", "c1(R := c1.Q, PV := 3)",
		"[b]", "[/q]", "(y)", "ADD(n, 1) => n", "ADD(n, k) => k", "MOVE(c1.CV) => k", "MOVE(2) => n", "MOVE(t1.ET) => pt", "GT(k, n)")
}

func (g *rungs) coil() string {
	return g.pick("(x)", "(/y)", "(S q)", "(R q)", "(P x)", "(N y)", "{ (x) | [a] -- (S y) }", "{ (x) | [/x] -- (S q) | (R y) }",
		"{ (x) | t1(PT := T#30ms) -- (y) }", "{ (x) | [P x] -- (q) }", "(x) -- (y)", "(S x)", "(R x)")
}

func (g *rungs) statements() string {
	text := "PROGRAM p\n" + plain
	for range rapid.IntRange(4, 9).Draw(g.t, "statements") {
		value := g.pick("a", "x AND b", "y OR a", "t1.Q", "NOT q", "n > 3", "k = n", "x")
		text += g.pick("x := "+value+";", "y := "+value+";", "q := "+value+";", "n := n + 1;", "k := n;",
			"IF "+value+" THEN x := y; END_IF;", "IF "+value+" THEN n := n + 1; ELSE n := k; END_IF;", "IF "+value+" THEN RETURN; END_IF;",
			"t1(IN := "+value+", PT := pt);", "t2(IN := "+value+", PT := T#50ms);", "c1(CU := "+value+", PV := 3);") + "\n"
	}
	return text + "END_PROGRAM"
}

// A program that is cut leaves in memory what one leaves that is not, in every scan, whatever is done to it from outside.
func TestCutIsWhole(t *testing.T) {
	cut := 0
	rapid.Check(t, func(t *rapid.T) {
		text := (&rungs{generator{t}}).either()
		code := compileText(t, text)
		whole, other := code.Start(10*time.Millisecond), code.Start(10*time.Millisecond)
		kept := whole.Snapshot()
		for scan := range 150 {
			disturbed(t, code, &kept, whole, other)
			whole.untrack()
			if other.tracked == nil {
				other.patient = other.ran + 1
			} else {
				cut++
			}
			require.Nil(t, whole.Scan())
			require.Nil(t, other.Scan())
			require.Equal(t, whole.Snapshot(), other.Snapshot(), "scan %d of\n%s", scan, text)
		}
	})
	assert.Greater(t, cut, 1000, "scans of programs that were cut")
}

// disturbed does now and then to two machines what somebody may do from outside.
func disturbed(t *rapid.T, code *Code, kept *Snapshot, machines ...*Machine) {
	what := rapid.IntRange(0, 100).Draw(t, "what")
	on := func(name string, do func(*Machine, Slot)) {
		slot, ok := code.Slot(name)
		require.True(t, ok)
		for _, m := range machines {
			do(m, slot)
		}
	}
	write := func(m *Machine, s Slot) { m.Write(s, 1-m.Read(s)) }
	switch {
	case what < 12:
		on("a", write)
	case what < 24:
		on("b", write)
	case what == 90:
		on("x", write)
	case what == 91:
		on("n", write)
	case what == 92:
		on("t1.ET", func(m *Machine, s Slot) { m.Write(s, int64(20*time.Millisecond)) })
	case what == 93:
		on("y", func(m *Machine, s Slot) { m.Force(s, 1) })
	case what == 94:
		on("y", (*Machine).Release)
	case what == 95:
		on("a", func(m *Machine, _ Slot) { m.Restart() })
	case what == 96:
		*kept = machines[0].Snapshot()
	case what == 97:
		on("a", func(m *Machine, _ Slot) { m.Restore(*kept) })
	}
}

// A script that is played and skipped by a program that is cut as soon as it can be gives what stepping through it gives.
func TestCutProgramsAreSkipped(t *testing.T) {
	cut := 0
	rapid.Check(t, func(t *rapid.T) {
		text := (&rungs{generator{t}}).either()
		code := compileText(t, text)
		watch, err := code.Watch(code.Names())
		require.NoError(t, err)
		script := ScriptOf(randomScript(t, 10*time.Millisecond))
		stepped, whole, err := watch.play(script, (*player).step)
		require.NoError(t, err)
		skipped, other, err := watch.play(script, func(p *player) *Fault {
			p.m.patient = 1
			fault := p.skip()
			if p.m.tracked != nil {
				cut++
			}
			return fault
		})
		require.NoError(t, err)
		for i, c := range stepped.Trace.Columns {
			require.Equal(t, c.Segments(), skipped.Trace.Columns[i].Segments(), "%s in\n%s", c.Name, text)
		}
		require.Equal(t, whole.Snapshot(), other.Snapshot(), text)
	})
	assert.Positive(t, cut, "programs that were cut at the end")
}

// What changes in every scan is executed as it stands; what rests is not executed.
func TestOnlyWhatRestsIsCut(t *testing.T) {
	busy := "VAR n : ARRAY [1..9] OF DINT; END_VAR\n" + strings.Repeat("n[1] := n[1] + 1; n[2] := n[1] + n[2]; n[3] := n[2] + n[1];\n", 4)
	for name, c := range map[string]struct {
		text string
		cut  bool
	}{
		"rungs":     {plain + "x := a; y := x OR b; q := y AND NOT a; t1(IN := a, PT := T#5s);", true},
		"busy":      {busy, false},
		"short":     {plain + "x := a; y := b;", false},
		"a loop":    {plain + "x := a; y := b; q := x; FOR i := 1 TO 3 DO n := n + i; END_FOR;", false},
		"seldom":    {plain + "x := a; y := b; q := x; n := n / 2;", false},
		"a jump on": {plain + "x := a; IF x THEN RETURN; END_IF; y := b; q := x; n := k;", false},
	} {
		code := compileText(t, "PROGRAM p\n"+c.text+"\nEND_PROGRAM")
		m := code.Start(time.Millisecond)
		for range settled + 2*window {
			require.Nil(t, m.Scan())
		}
		assert.Equal(t, c.cut, m.tracked != nil, name)
		if !c.cut {
			continue
		}
		before := m.Used()
		require.Nil(t, m.Scan())
		assert.Equal(t, before, m.Used(), "nothing is executed")
	}
}

// A program of many rungs has stretches of several.
func TestManyRungsAreCut(t *testing.T) {
	text := "PROGRAM p\nVAR_INPUT a : BOOL; END_VAR\nVAR b : ARRAY [0..300] OF BOOL; END_VAR\nb[0] := a;\n"
	for n := range 300 {
		text += "b[" + strconv.Itoa(n+1) + "] := NOT b[" + strconv.Itoa(n) + "];\n"
	}
	code := compileText(t, text+"END_PROGRAM")
	m := code.Start(time.Millisecond)
	a, _ := code.Slot("a")
	last, _ := code.Slot("b[300]")
	for scan := range 2 * settled {
		m.Write(a, int64(scan/50%2))
		require.Nil(t, m.Scan())
		require.Equal(t, m.Read(a), m.Read(last))
	}
	require.NotNil(t, m.tracked)
}
