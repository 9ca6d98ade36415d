package machine

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/check"
	"celandine/core/coretest"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// generator writes random programs with timers, counters, edges, latches,
// conditions, loops and blocks of one's own.
type generator struct {
	t *rapid.T
}

func (g *generator) pick(list ...string) string { return rapid.SampledFrom(list).Draw(g.t, "pick") }

func (g *generator) bool(depth int) string {
	if depth == 0 {
		return g.pick("a", "b", "x", "y", "t1.Q", "t2.Q", "t3.Q", "t4.Q", "c1.Q", "e1.Q", "s1.Q1", "o1.q", "TRUE")
	}
	switch rapid.IntRange(0, 6).Draw(g.t, "bool") {
	case 0:
		return "(" + g.bool(depth-1) + " AND " + g.bool(depth-1) + ")"
	case 1:
		return "(" + g.bool(depth-1) + " OR NOT " + g.bool(depth-1) + ")"
	case 2:
		return "(" + g.bool(depth-1) + " XOR " + g.bool(depth-1) + ")"
	case 3:
		return "(" + g.int() + g.pick(" > ", " <= ", " = ", " <> ") + g.int() + ")"
	case 4:
		return "(" + g.pick("t1", "t2", "t3", "t4") + ".ET" + g.pick(" > ", " >= ", " = ", " < ", " <> ") + g.pick("T#30ms", "T#75ms", "T#0s",
			"T#200ms") + ")"
	}
	return g.bool(0)
}

func (g *generator) int() string {
	return g.pick("n", "k", "3", "0", "c1.CV", "c2.CV", "(n + 1)", "list[2]", "list[(k MOD 3 + 3) MOD 3]")
}

func (g *generator) time() string { return g.pick("T#50ms", "T#200ms", "T#1s", "T#15ms", "T#0s", "pt") }

func (g *generator) statement(depth int) string {
	choice := rapid.IntRange(0, 15).Draw(g.t, "statement")
	if depth == 0 && choice > 11 {
		choice -= 8
	}
	switch choice {
	case 0, 1:
		return g.pick("x", "y", "q") + " := " + g.bool(2) + ";"
	case 2:
		return g.pick("n", "k") + " := " + g.pick("n", "k", "n + 1", "k - 2", "c1.CV", "list[1]", "ABS(n)") + ";"
	case 3, 4, 5:
		return g.pick("t1", "t2", "t3") + "(IN := " + g.bool(1) + ", PT := " + g.time() + ");"
	case 6:
		return "t4(IN := " + g.bool(1) + ", R := " + g.bool(1) + ", PT := " + g.time() + ");"
	case 7:
		return "c1(CU := " + g.bool(1) + ", R := " + g.bool(0) + ", PV := 3);"
	case 8:
		return "c2(CU := " + g.bool(0) + ", CD := " + g.bool(0) + ", LD := " + g.bool(0) + ", PV := 2);"
	case 9:
		return "e1(CLK := " + g.bool(1) + ");"
	case 10:
		return "s1(S1 := " + g.bool(0) + ", R := " + g.bool(0) + ");"
	case 11:
		return g.pick("o1(in := "+g.bool(1)+");", "list[(n MOD 3 + 3) MOD 3] := k;", "pt := "+g.pick("T#100ms", "T#40ms", "t1.ET")+";")
	case 12, 13:
		return "IF " + g.bool(1) + " THEN " + g.block(depth-1) + " ELSE " + g.block(depth-1) + " END_IF;"
	case 14:
		return "CASE n OF 0..2: " + g.block(depth-1) + " 5: " + g.block(depth-1) + " ELSE " + g.block(depth-1) + " END_CASE;"
	}
	return "FOR i := 1 TO 3 DO " + g.block(depth-1) + " END_FOR;"
}

func (g *generator) block(depth int) string {
	var list []string
	for range rapid.IntRange(1, 3).Draw(g.t, "length") {
		list = append(list, g.statement(max(depth, 0)))
	}
	return strings.Join(list, " ")
}

func (g *generator) contact() string {
	return g.pick("[a]", "[/b]", "[x]", "[/y]", "[P a]", "[N y]", "[P]", "[N]", "[P b @ spare]", "[n > 2]", "[k = n]", "[c1.CV <> 2]",
		"[t1.ET >= T#60ms]",
		"{ [a] | [y] -- [/x] }", "{ [x] | }", "{ [a] -- [x] | [/b] -- [y] }", "{ [a] | [b] | [q] }", "{ [n > 1] -- [a] | [x] }",
		"[a] -- [/b] -- [x]")
}

func (g *generator) rung() string {
	middle := g.pick("t1(PT := T#100ms)", "t2(PT := T#70ms)", "t3(PT := T#120ms)", "t4(R := b, PT := T#90ms)", "c1(PV := 2)",
		"c1(R := x, PV := n)",
		"c1(R := c1.Q, PV := 3)", "c2(CD := a, LD := y, PV := 2)", "e1()", "s1(R := b)", "o1()", "[b]", "(y)", "ADD(n, 1) => n", "GT(k, n)",
		"MOVE(c1.CV) => k")
	coil := g.pick("(x)", "(/y)", "(S q)", "(R q)", "(P x)", "(N y)", "{ (x) | [a] -- (S y) }", "{ (x) | [/x] -- (S q) | (R y) }",
		"{ (q) | [b] -- (R q) }",
		"{ (x) | t1(PT := T#30ms) -- (y) }", "{ (x) | [P x] -- (q) }", "(x) -- (y)")
	return "RUNG " + g.contact() + " -- " + g.contact() + " -- " + middle + " -- " + coil + ";"
}

const declarations = `VAR_INPUT a, b : BOOL; END_VAR
VAR_OUTPUT q : BOOL; END_VAR
VAR RETAIN k : INT; END_VAR
VAR x, y, spare : BOOL; n, i : INT; pt : TIME := T#80ms; list : ARRAY [0..2] OF INT := [1, 2, 3];
t1 : TON; t2 : TOF; t3 : TP; t4 : TACC; c1 : CTU; c2 : CTUD; e1 : R_TRIG; s1 : SR; o1 : own; END_VAR
`

func (g *generator) program() string {
	text := "FUNCTION_BLOCK own\nVAR_INPUT in : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nVAR t : TON; m : BOOL; END_VAR\n" +
		"t(IN := in, PT := T#110ms);\nq := t.Q AND NOT m;\nm := in;\nEND_FUNCTION_BLOCK\nPROGRAM p\n" + declarations
	if rapid.Bool().Draw(g.t, "ladder") {
		text += "LADDER\n"
		for range rapid.IntRange(1, 6).Draw(g.t, "rungs") {
			text += g.rung() + "\n"
		}
		return text + "END_LADDER\nEND_PROGRAM"
	}
	for range rapid.IntRange(1, 8).Draw(g.t, "statements") {
		text += g.statement(2) + "\n"
	}
	return text + "END_PROGRAM"
}

// randomScript presses two buttons now and then over a second or two.
func randomScript(t *rapid.T, period time.Duration) *signal.Trace {
	script := &signal.Trace{Period: period, Scans: rapid.IntRange(1, 300).Draw(t, "scans")}
	for _, name := range []string{"a", "b"} {
		values := []signal.Change{{Scan: 0, Value: rapid.Int64Range(0, 1).Draw(t, "start")}}
		for at := 0; ; {
			at += rapid.IntRange(1, 80).Draw(t, "wait")
			if at >= script.Scans {
				break
			}
			values = append(values, signal.Change{Scan: at, Value: 1 - values[len(values)-1].Value})
		}
		script.Columns = append(script.Columns, signal.Steps(name, signal.Bool, values))
	}
	if rapid.IntRange(0, 3).Draw(t, "restarts") == 0 {
		script.Acts = append(script.Acts, signal.Act{Scan: rapid.IntRange(0, script.Scans-1).Draw(t, "restart"), Verb: signal.Restart})
	}
	return script
}

func compileText(t require.TestingT, text string) *Code {
	code, _ := compileBoth(t, text)
	return code
}

func compileBoth(t require.TestingT, text string) (*Code, *check.Program) {
	tree, problems := syntax.Parse(source.NewFile("p", text))
	require.Empty(t, problems, text)
	program, problems := check.Check([]*syntax.File{tree}, nil)
	require.NotNil(t, program, "%v\n%s", problems, text)
	code, problems := Compile(program)
	require.NotNil(t, code, "%v", problems)
	return code, program
}

// Skipping gives the trace, the fault and the final state that executing every scan gives.
func TestSkippingIsStepping(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := (&generator{t: t}).program()
		skippingIsStepping(t, text, randomScript(t, rapid.SampledFrom([]time.Duration{10 * time.Millisecond, 7 * time.Millisecond}).Draw(t,
			"period")))
	})
}

func skippingIsStepping(t require.TestingT, text string, script *signal.Trace) {
	skippedIsStepped(t, compileText(t, text), script, text)
}

func skippedIsStepped(t require.TestingT, code *Code, script *signal.Trace, text string) {
	watch, err := code.Watch(code.Names())
	require.NoError(t, err)
	stepped, first, err := watch.play(ScriptOf(script), (*player).step)
	require.NoError(t, err)
	skipped, second, err := watch.play(ScriptOf(script), (*player).skip)
	require.NoError(t, err)
	require.Equal(t, stepped.Fault, skipped.Fault, text)
	for i, c := range stepped.Trace.Columns {
		other := skipped.Trace.Columns[i]
		require.Equal(t, c.Segments(), other.Segments(), "%s in\n%s", c.Name, text)
		require.Equal(t, c.Texts, other.Texts, c.Name)
		for scan := range stepped.Trace.Scans {
			if c.At(scan) != other.At(scan) {
				require.Equal(t, c.At(scan), other.At(scan), "%s at %d in\n%s", c.Name, scan, text)
			}
		}
	}
	if stepped.Fault == nil {
		require.Equal(t, first.Snapshot(), second.Snapshot(), text)
	}
}

// Played in part, a script stops at the scan asked for, wherever skipping would have led, in the state that stepping has there.
func TestPlayedInPart(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		code := compileText(t, (&generator{t: t}).program())
		script := randomScript(t, 10*time.Millisecond)
		scan := rapid.IntRange(0, script.Scans-1).Draw(t, "scan")
		m, fault, err := code.Before(script, scan)
		require.NoError(t, err)
		if fault != nil {
			return
		}
		require.Equal(t, scan, m.Scans())
		p, err := code.player(ScriptOf(script), &Recorder{})
		require.NoError(t, err)
		p.scans = scan
		require.Nil(t, p.step())
		p.set(scan)
		require.Equal(t, p.m.Snapshot(), m.Snapshot())
	})
}

// An hour with a long timer and a threshold on its way.
func TestAnHourOfATimer(t *testing.T) {
	code := compileText(t, "PROGRAM p\nVAR_INPUT a : BOOL; END_VAR\nVAR_OUTPUT q, late : BOOL; END_VAR\nVAR t : TON; END_VAR\n"+
		"t(IN := a, PT := T#50m);\nq := t.Q;\nlate := t.ET > T#40m;\nEND_PROGRAM")
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 360_000}
	script.Columns = append(script.Columns, signal.Steps("a", signal.Bool, []signal.Change{{Scan: 0, Value: 0}, {Scan: 100, Value: 1}}))
	run, err := code.Play(script, []string{"q", "late", "t.ET"})
	require.NoError(t, err)
	columns := run.Trace.Columns
	require.Equal(t, "q [{0 0 0} {300100 1 0}]", fmt.Sprint(columns[0].Name, " ", columns[0].Segments()))
	require.Equal(t, "late [{0 0 0} {240101 1 0}]", fmt.Sprint(columns[1].Name, " ", columns[1].Segments()))
	require.Len(t, columns[2].Segments(), 3)
}

// Skipping is stepping for programs of every shape, few of which ever stand still.
func TestSkippingIsSteppingForEveryShape(t *testing.T) {
	for seed := range uint64(1000) {
		text, script := coretest.Invented(seed)
		skippingIsStepping(t, text, script)
	}
}
