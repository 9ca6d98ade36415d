package machine

import (
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/signal"
)

// lessons are what ordinary lessons do while nobody works an input.
var lessons = map[string]string{
	"hold-in":         "q := (a OR q) AND NOT b;",
	"blinker":         "t1(IN := NOT t2.Q, PT := T#500ms); t2(IN := t1.Q, PT := T#500ms); q := t1.Q;",
	"fast blinker":    "t1(IN := NOT t2.Q, PT := T#50ms); t2(IN := t1.Q, PT := T#30ms); q := t1.Q;",
	"slow blinker":    "t1(IN := NOT t2.Q, PT := T#2s); t2(IN := t1.Q, PT := T#2s); q := t1.Q;",
	"pulse blinker":   "t3(IN := NOT t3.Q, PT := T#330ms); IF NOT t3.Q THEN q := NOT q; END_IF;",
	"one timer":       "t1(IN := NOT t1.Q, PT := T#500ms); IF t1.Q THEN q := NOT q; END_IF;",
	"counted blinker": "t1(IN := NOT t2.Q, PT := T#500ms); t2(IN := t1.Q, PT := T#500ms); c1(CU := t1.Q, PV := 10000); n := c1.CV;",
	"ten blinks":      "t1(IN := NOT t2.Q, PT := T#100ms); t2(IN := t1.Q, PT := T#100ms); c1(CU := t1.Q, R := c1.Q, PV := 10); q := c1.CV > 5;",
	"two blinkers":    "t1(IN := NOT t1.Q, PT := T#100ms); t2(IN := NOT t2.Q, PT := T#220ms); IF t1.Q THEN q := NOT q; END_IF;",
	"a ramp":          "IF level < 1000 THEN level := level + 1; ELSE level := 0; END_IF;",
	"a ramp up and down": "IF up THEN level := level + 3; ELSE level := level - 3; END_IF;\n" +
		"IF level >= 999 THEN up := FALSE; ELSIF level <= 0 THEN up := TRUE; END_IF;",
	"a count every scan": "total := total + 1; q := total > 50000;",
	"a count that wraps": "small := small + 1; q := small < 0;",
	"PT - ET":            "t1(IN := TRUE, PT := T#1h); left := t1.PT - t1.ET;",
	"seconds":            "t1(IN := TRUE, PT := T#1h); n := TIME_TO_DINT(t1.ET) / 1000;",
	"seconds left":       "t1(IN := TRUE, PT := T#1h); n := TIME_TO_DINT(t1.PT - t1.ET) / 1000; q := n < 3300;",
	"a toggle":           "q := NOT q;",
	"a counted toggle":   "q := NOT q; c1(CU := q, PV := 10); IF q THEN total := total + 1; END_IF;",
	"a ring":             "i := (i + 1) MOD 8; ring[i] := total; total := ring[(i + 3) MOD 8] + 0;",
	"a sequence": "CASE step OF 0: t1(IN := TRUE, PT := T#3s); IF t1.Q THEN step := 1; t1(IN := FALSE); END_IF;\n" +
		"1: t1(IN := TRUE, PT := T#1s); IF t1.Q THEN step := 0; t1(IN := FALSE); END_IF; END_CASE; q := step = 1;",
	"time on":  "t4(IN := TRUE, PT := T#9m); q := t4.Q;",
	"far away": "big := big + 5; natural := natural + 2; q := natural > 60000;",
}

const lessonVariables = `VAR_INPUT a, b : BOOL; END_VAR
VAR_OUTPUT q : BOOL; END_VAR
VAR t1, t2 : TON; t3 : TP; t4 : TACC; c1 : CTU; up : BOOL := TRUE; level, small : INT; n, total : DINT; left : TIME; step, i : INT;
ring : ARRAY [0..7] OF DINT; big : LINT := 9223372036854775000; natural : ULINT; END_VAR
`

// tenMinutes at 10 ms, with one press of a button.
func tenMinutes() *signal.Trace {
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 60_000}
	script.Columns = append(script.Columns, signal.Steps("a", signal.Bool, []signal.Change{{Scan: 0}, {Scan: 700, Value: 1}, {Scan: 720}}))
	return script
}

// Of ten minutes fewer scans than two in a hundred are executed, and it is all the same.
func TestLessonsAreSkipped(t *testing.T) {
	for name, body := range lessons {
		t.Run(name, func(t *testing.T) {
			text := "PROGRAM p\n" + lessonVariables + body + "\nEND_PROGRAM"
			skippingIsStepping(t, text, tenMinutes())
			run, err := compileText(t, text).Play(tenMinutes(), nil)
			require.NoError(t, err)
			t.Logf("%d scans", run.Scanned)
			assert.Less(t, run.Scanned, 1200)
		})
	}
}

// even writes random programs whose values mostly move evenly, or come back, in types of every size, with scripts in which little happens.
type even struct{ generator }

const evenVariables = `VAR_INPUT a, b : BOOL; END_VAR
VAR_OUTPUT q, r : BOOL; END_VAR
VAR si : SINT; us : USINT := 250; i, j : INT; ui : UINT; d, e : DINT; l : LINT := 9223372036854775000; ul, um : ULINT := 5; w : WORD;
left, t : TIME; short : INT (0..40); ring : ARRAY [0..4] OF DINT; on : ARRAY [0..4] OF BOOL; x : REAL; s : STRING; mode : (quiet, busy, late);
t1 : TON; t2 : TOF; t3 : TP; t4 : TACC; c1 : CTU; c2 : CTD; c3 : CTUD; c4 : CTU_ULINT; e1 : R_TRIG; END_VAR
`

func (g *even) number() string {
	return g.pick("si", "us", "i", "j", "ui", "d", "e", "l", "ul", "um", "short")
}

func (g *even) step() string { return g.pick("1", "2", "3", "5", "7", "100") }

func (g *even) dint() string {
	switch rapid.IntRange(0, 11).Draw(g.t, "dint") {
	case 0:
		return "TIME_TO_DINT(" + g.pick("t1.ET", "t2.ET", "t3.ET", "t4.ET", "t1.PT - t1.ET", "left") + ")"
	case 1:
		return "(" + g.pick("d", "e", "i") + g.pick(" / ", " MOD ") + g.pick("2", "-3", "7", "100", "-1", "1000") + ")"
	case 2:
		return "(" + g.dint() + g.pick(" + ", " - ", " * ") + g.pick("3", "-2", "d", "e", "i") + ")"
	case 3:
		return "ABS(" + g.pick("d", "e", "-d") + ")"
	case 4:
		return g.pick("MIN", "MAX") + "(" + g.pick("d", "e") + ", " + g.pick("e", "500", "i") + ")"
	case 5:
		return "SEL(" + g.condition() + ", d, " + g.pick("e", "7") + ")"
	case 6:
		return "LIMIT(-100, d, " + g.pick("100", "e") + ")"
	case 7:
		return "ring[" + g.pick("2", "ABS(d) MOD 5", "i MOD 5") + "]"
	case 8:
		return g.pick("UINT_TO_DINT(ui)", "USINT_TO_DINT(us)", "LINT_TO_DINT(l)", "ULINT_TO_DINT(ul)", "WORD_TO_DINT(w)", "REAL_TO_DINT(x)",
			"LEN(s)", "MUX(i, d, e, 5)", "BOOL_TO_DINT(q)")
	}
	return g.pick("d", "e", "1", "-4", "c1.CV", "c3.CV")
}

func (g *even) condition() string {
	switch rapid.IntRange(0, 8).Draw(g.t, "condition") {
	case 0:
		n := g.number()
		limit := map[string]string{"si": "100", "us": "200", "short": "20"}[n]
		if limit == "" {
			limit = g.pick("20", "300", "2000")
		}
		return n + g.pick(" < ", " > ", " >= ", " <= ", " = ", " <> ") + limit
	case 1:
		return "d " + g.pick("<", ">=", "=") + " " + g.dint()
	case 2:
		return g.pick("t1", "t2", "t3", "t4") + ".ET" + g.pick(" > ", " >= ", " = ", " < ", " <> ") + g.pick("T#30ms", "T#75ms", "left", "t1.ET")
	case 3:
		return "ul " + g.pick("<", ">=", "=") + " um"
	case 4:
		return "NOT " + g.pick("a", "q", "r", "t1.Q", "c3.QD", "on[2]")
	}
	return g.pick("a", "b", "q", "r", "t1.Q", "t2.Q", "t3.Q", "t4.Q", "c1.Q", "c2.Q", "c3.QU", "c3.QD", "c4.Q", "e1.Q", "on[1]", "TRUE", "NOT t1.Q", "NOT t3.Q")
}

func (g *even) time() string {
	return g.pick("T#50ms", "T#200ms", "T#1s", "T#15ms", "T#0s", "left", "t1.ET", "T#1h", "T#-1s")
}

func (g *even) assignment() string {
	switch rapid.IntRange(0, 15).Draw(g.t, "assignment") {
	case 0, 1, 2, 3:
		n := g.number()
		return n + " := " + n + g.pick(" + ", " - ", " + ") + g.step() + ";"
	case 4, 5:
		return g.pick("d", "e") + " := " + g.dint() + ";"
	case 6:
		return "i := DINT_TO_INT(" + g.dint() + ");"
	case 7:
		return "ui := ui " + g.pick("* 3", "- 9", "/ 2", "+ 5000") + ";"
	case 8:
		return "left := " + g.pick("t1.PT - t1.ET", "DINT_TO_TIME(d)", "left + T#7ms", "t4.ET", "T#40ms") + ";"
	case 9:
		return "ring[" + g.pick("1", "ABS(e) MOD 5", "2") + "] := " + g.dint() + ";"
	case 10:
		return g.pick("on[ABS(d) MOD 5] := q;", "w := INT_TO_WORD(i);", "w := w OR WORD#16#21;", "x := x + 0.5;", "x := DINT_TO_REAL(d) / 8.0;",
			"s := DINT_TO_STRING(e);", "IF q THEN s := 'on'; ELSE s := ''; END_IF;", "um := ul + 7;", "mode := busy; IF r THEN mode := late; END_IF;",
			"ring[3] := ring[2];")
	}
	return g.pick("q", "r") + " := " + g.condition() + ";"
}

func (g *even) call() string {
	switch rapid.IntRange(0, 8).Draw(g.t, "call") {
	case 0, 1, 2:
		return g.pick("t1", "t2", "t3") + "(IN := " + g.condition() + ", PT := " + g.time() + ");"
	case 3:
		return "t4(IN := " + g.condition() + ", R := " + g.condition() + ", PT := " + g.time() + ");"
	case 4:
		return "c1(CU := " + g.condition() + ", R := " + g.condition() + ", PV := " + g.pick("3", "i", "50") + ");"
	case 5:
		return "c2(CD := " + g.condition() + ", LD := " + g.condition() + ", PV := " + g.pick("9", "i") + ");"
	case 6:
		return "c3(CU := " + g.condition() + ", CD := " + g.condition() + ", R := c3.QU, LD := FALSE, PV := 6);"
	case 7:
		return "c4(CU := " + g.condition() + ", R := " + g.condition() + ", PV := " + g.pick("4", "ul") + ");"
	}
	return "e1(CLK := " + g.condition() + ");"
}

func (g *even) body() string {
	var text strings.Builder
	for range rapid.IntRange(1, 6).Draw(g.t, "statements") {
		switch rapid.IntRange(0, 5).Draw(g.t, "kind") {
		case 0, 1:
			text.WriteString(g.call())
		case 2:
			text.WriteString("IF " + g.condition() + " THEN " + g.assignment() + " ELSE " + g.assignment() + " END_IF;")
		default:
			text.WriteString(g.assignment())
		}
		text.WriteString("\n")
	}
	return text.String()
}

// quietly is a script of some thousand scans with a handful of events.
func (g *even) quietly() *signal.Trace {
	period := rapid.SampledFrom([]time.Duration{10 * time.Millisecond, 7 * time.Millisecond, 500 * time.Millisecond}).Draw(g.t, "period")
	script := &signal.Trace{Period: period, Scans: rapid.IntRange(1, 4000).Draw(g.t, "scans")}
	for _, name := range []string{"a", "b"} {
		values := []signal.Change{{Scan: 0, Value: rapid.Int64Range(0, 1).Draw(g.t, "start")}}
		for at := rapid.IntRange(1, 2000).Draw(g.t, "wait"); at < script.Scans; at += rapid.IntRange(1, 2000).Draw(g.t, "wait") {
			values = append(values, signal.Change{Scan: at, Value: 1 - values[len(values)-1].Value})
		}
		script.Columns = append(script.Columns, signal.Steps(name, signal.Bool, values))
	}
	for at := 0; rapid.IntRange(0, 4).Draw(g.t, "act") == 0; {
		at += rapid.IntRange(0, 1500).Draw(g.t, "at")
		if at >= script.Scans {
			break
		}
		act := rapid.SampledFrom([]signal.Act{{Verb: signal.Restart}, {Verb: signal.Force, Name: "d", Value: "3"}, {Verb: signal.Unforce, Name: "d"},
			{Verb: signal.Write, Name: "i", Value: "-9"}, {Verb: signal.Force, Name: "q", Value: "TRUE"},
			{Verb: signal.Write, Name: "left", Value: "T#3s"}, {Verb: signal.Force, Name: "t1.ET", Value: "T#10ms"},
			{Verb: signal.Write, Name: "t4.ET", Value: "T#1s"}, {Verb: signal.Force, Name: "c1.CV", Value: "2"}}).Draw(g.t, "verb")
		act.Scan = at
		script.Acts = append(script.Acts, act)
	}
	return script
}

// What moves evenly or comes back gives, skipped, the trace, fault and final state of stepping.
func TestSkippingWhatIsEven(t *testing.T) {
	scans, executed := 0, 0
	rapid.Check(t, func(t *rapid.T) {
		g := &even{generator{t}}
		text := "PROGRAM p\n" + evenVariables + g.body() + "END_PROGRAM"
		code := compileText(t, text)
		if rapid.IntRange(0, 3).Draw(t, "tasks") == 0 {
			shared := "VAR_EXTERNAL d, e : DINT; q, r : BOOL; END_VAR"
			text = strings.Replace(text, "d, e : DINT; ", "", 1)
			text = "VAR_GLOBAL d, e : DINT; q, r : BOOL; END_VAR\n" + strings.Replace(text, "VAR_OUTPUT q, r : BOOL; END_VAR", shared, 1) +
				"\nPROGRAM slow\n" + shared + "\n" + g.pick("q := NOT q;", "d := d + 1;", "e := d / 3;") + "\nEND_PROGRAM"
			scheduled, err := compileText(t, text).Schedule([]Task{{Program: "p", Every: rapid.IntRange(1, 3).Draw(t, "every")},
				{Program: "slow", Every: rapid.IntRange(1, 20).Draw(t, "slow"), Priority: 2}})
			require.NoError(t, err)
			code = scheduled
		}
		script := g.quietly()
		skippedIsStepped(t, code, script, text)
		run, err := code.Play(script, nil)
		require.NoError(t, err)
		scans, executed = scans+run.Trace.Scans, executed+run.Scanned
	})
	t.Logf("%d of %d scans executed", executed, scans)
	assert.Less(t, executed, scans/2)
}

// A timer whose elapsed time is forced runs on unseen, and ends.
func TestForcedElapsedTimeIsNotStill(t *testing.T) {
	text := "PROGRAM p\n" + lessonVariables + "t1(IN := a, PT := T#1s); q := t1.Q;\nEND_PROGRAM"
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 300}
	script.Columns = append(script.Columns, signal.Steps("a", signal.Bool, []signal.Change{{Scan: 0, Value: 1}}))
	script.Acts = []signal.Act{{Scan: 5, Verb: signal.Force, Name: "t1.ET", Value: "T#10ms"}}
	skippingIsStepping(t, text, script)
}
