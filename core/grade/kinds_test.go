package grade_test

import (
	"fmt"
	"math"
	"runtime"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/signal"
	"celandine/core/source"
)

func columnOf(k signal.Kind, values ...any) *signal.Column {
	c := &signal.Column{Name: "s", Kind: k}
	for scan, v := range values {
		switch v := v.(type) {
		case string:
			c.AppendText(scan, v)
		case float64:
			c.Append(scan, int64(math.Float64bits(v)))
		case int:
			c.Append(scan, int64(v))
		case uint64:
			c.Append(scan, int64(v))
		}
	}
	return c
}

// Each kind of value is compared as what it is.
func TestCompareByKind(t *testing.T) {
	const most = math.MaxInt64
	negativeZero := math.Copysign(0, -1)
	numeric := func(within int64) compare.Tolerance { return compare.Tolerance{Numeric: true, Within: within} }
	for name, c := range map[string]struct {
		expected, actual *signal.Column
		tolerance        compare.Tolerance
		scans            int
		want             int // -1: the same
	}{
		"zero and negative zero are one number": {columnOf(signal.Real, 0.0, 1.5), columnOf(signal.Real, negativeZero, 1.5), compare.Tolerance{},
			2, -1},
		"no number is no number": {columnOf(signal.Real, 1.0, math.NaN()), columnOf(signal.Real, 1.0, math.NaN()),
			compare.Tolerance{}, 2, -1},
		"reals a little apart": {columnOf(signal.Real, 1.0, 2.0), columnOf(signal.Real, 1.0, 2.0000001), compare.Tolerance{}, 2,
			1},
		"reals within": {columnOf(signal.Real, -1.0, 2.0), columnOf(signal.Real, -1.4, 2.4),
			compare.Tolerance{Numeric: true, WithinReal: 0.5}, 2, -1},
		"reals beyond": {columnOf(signal.Real, -1.0, 2.0), columnOf(signal.Real, -1.4, 2.6),
			compare.Tolerance{Numeric: true, WithinReal: 0.5}, 2, 1},
		"no number is far from all": {columnOf(signal.Real, 1.0, 1.0), columnOf(signal.Real, 1.0, math.NaN()),
			compare.Tolerance{Numeric: true, WithinReal: 1e300}, 2, 1},
		"a whole number as a real": {columnOf(signal.Int, 3, 4), columnOf(signal.Real, 3.0, 4.0), compare.Tolerance{}, 2, -1},
		"texts by their letters": {columnOf(signal.Text, "mist", "fog"), columnOf(signal.Text, "mist", "fog"),
			compare.Tolerance{}, 2, -1},
		"texts in another order of first sight": {columnOf(signal.Text, "a", "b", "a"), columnOf(signal.Text, "b", "a", "b"),
			compare.Tolerance{}, 3, 0},
		"the same places and other texts": {columnOf(signal.Text, "on", "off"), columnOf(signal.Text, "on", "out"), compare.Tolerance{}, 2,
			1},
		"as far apart as whole numbers can be": {columnOf(signal.Int, 0, most), columnOf(signal.Int, 0, -most), numeric(most), 2, 1},
		"unsigned numbers beyond the signed": {columnOf(signal.Uint, 0, uint64(1)<<63+5), columnOf(signal.Uint, 0, uint64(1)<<63+3),
			numeric(2), 2, -1},
		"a negative number is no unsigned one": {columnOf(signal.Uint, 0, ^uint64(0)), columnOf(signal.Int, 0, -1), numeric(5), 2, 1},
		"times in nanoseconds":                 {columnOf(signal.Time, 0, 1_000_000), columnOf(signal.Time, 0, 1_000_001), numeric(0), 2, 1},
		"a scan late at the start": {columnOf(signal.Int, 215, 215, 215), columnOf(signal.Int, 0, 215, 215),
			compare.Tolerance{Slack: 1}, 3, -1},
		"two late at the start with one of slack": {columnOf(signal.Int, 215, 215, 215, 215, 215), columnOf(signal.Int, 0, 0, 215, 215, 215),
			compare.Tolerance{Slack: 1}, 5, 0},
		"a rise that the end cuts off":         {scans("00000011"), scans("00000000"), compare.Tolerance{Slack: 2}, 8, -1},
		"a rise that the end does not cut off": {scans("00000111"), scans("00000000"), compare.Tolerance{Slack: 2}, 8, 5},
		"a pulse is missing at the very end":   {scans("00000010"), scans("00000000"), compare.Tolerance{Slack: 2}, 8, 6},
		"a blinker that drifts a scan a turn": {scans("0011001100110011"), scans("0011100011100011"), compare.Tolerance{Slack: 1, Drift: 1},
			16, -1},
		"a blinker that drifts two scans a turn": {scans("00110011001100110000"), scans("00111100001111000011"),
			compare.Tolerance{Slack: 1, Drift: 1}, 20, 4},
		"counting in every scan, two scans late": {columnOf(signal.Int, 0, 1, 2, 3, 4, 5, 6, 7, 8),
			columnOf(signal.Int, 0, 0, 0, 1, 2, 3, 4, 5, 6), compare.Tolerance{Slack: 2}, 9, -1},
		"counting in every scan, three scans late": {columnOf(signal.Int, 0, 1, 2, 3, 4, 5, 6, 7, 8),
			columnOf(signal.Int, 0, 0, 0, 0, 1, 2, 3, 4, 5), compare.Tolerance{Slack: 2}, 9, 1},
		"counting by two": {columnOf(signal.Int, 0, 1, 2, 3, 4), columnOf(signal.Int, 0, 2, 4, 6, 8), compare.Tolerance{Slack: 2}, 5, 1},
	} {
		t.Run(name, func(t *testing.T) {
			scan, differs := compare.Columns(c.expected, c.actual, c.scans, c.tolerance, nil)
			if !differs {
				scan = -1
			}
			assert.Equal(t, c.want, scan)
		})
	}
}

// graded is an exercise of one scenario, with what is graded put in.
func gradedExercise(t *testing.T, graded, steps, length, solution string) *grade.Grader {
	t.Helper()
	yaml := "format: celandine/exercise/1\nname: k\ntitle: K\npanel:\n  inputs:\n    - {name: a, at: \"%IX0.0\", device: button}\n" +
		"    - {name: n, at: \"%IW2\", device: sensor, type: INT}\n" +
		"  outputs:\n    - {name: fan, at: \"%QX0.0\", device: fan}\ngraded:\n" + graded +
		"scenarios:\n  - name: one\n    points: 10\n    for: " + length + "\n    steps:\n" + steps + "    expect: solution\n"
	e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(yaml), "brief.md": []byte("x"), "solution.st": []byte(solution)})
	require.NotNil(t, e, "%v", problems)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, "%v", problems)
	return g
}

const press = "      - {at: 500ms, press: a}\n      - {at: 1s, release: a}\n"

// Values of every kind can be graded by their names, and the mark says both in their own words.
func TestGradeEveryKind(t *testing.T) {
	for name, c := range map[string]struct{ typed, right, same, wrong, says string }{
		"enumerations go by name": {"ph : (idle, run)", "IF a THEN ph := run; ELSE ph := idle; END_IF;", "", "", ""},
		"reals": {"ph : REAL", "IF a THEN ph := 1.5; ELSE ph := 0.0; END_IF;", "IF a THEN ph := 1.5; ELSE ph := -0.0; END_IF;",
			"IF a THEN ph := 1.25; END_IF;", "scan 50: ph expected 1.5, was 1.25"},
		"texts": {"ph : STRING", "IF a THEN ph := 'on'; ELSE ph := 'off'; END_IF;", "ph := SEL(a, 'off', 'on');", "ph := 'off';",
			"scan 50: ph expected on, was off"},
		"a wider whole number": {"ph : DINT", "IF a THEN ph := 7; ELSE ph := 0; END_IF;", "ph := SEL(a, 0, 7);", "ph := SEL(a, 0, 70);",
			"scan 50: ph expected 7, was 70"},
	} {
		t.Run(name, func(t *testing.T) {
			program := func(body string) string { return "PROGRAM p\nVAR " + c.typed + "; END_VAR\n" + body + "\nEND_PROGRAM" }
			g := gradedExercise(t, "  - {signal: ph}\n", press, "2s", program(c.right))
			if c.same == "" { // the same names in another order
				r := gradeText(g, "PROGRAM p\nVAR ph : (run, idle) := idle; END_VAR\nIF a THEN ph := run; ELSE ph := idle; END_IF;\nEND_PROGRAM")
				assert.Equal(t, "10", r.Earned.String())
				r = gradeText(g, "PROGRAM p\nVAR ph : (idle, walk); END_VAR\nIF a THEN ph := walk; ELSE ph := idle; END_IF;\nEND_PROGRAM")
				assert.Equal(t, "scan 50: ph expected run, was walk", r.Scenarios[0].Signals[0].Words())
				return
			}
			assert.Equal(t, "10", gradeText(g, program(c.same)).Earned.String())
			r := gradeText(g, program(c.wrong))
			assert.Equal(t, "0", r.Earned.String())
			assert.Equal(t, c.says, r.Scenarios[0].Signals[0].Words())
		})
	}
	g := gradedExercise(t, "  - {signal: ph}\n", press, "2s", "PROGRAM p\nVAR ph : INT; END_VAR\nph := SEL(a, 0, 7);\nEND_PROGRAM")
	r := gradeText(g, "PROGRAM p\nVAR ph : BOOL; END_VAR\nph := a;\nEND_PROGRAM")
	assert.Equal(t, "ph is a BOOL in the program; a whole number is graded", r.Scenarios[0].Signals[0].Words())
}

// A number that climbs is compared while it climbs, whatever its kind and in however small steps: a program that does nothing, or climbs
// twice as fast, is wrong; one that is a scan late is right.
func TestClimbsAreCompared(t *testing.T) {
	for name, c := range map[string]struct{ typed, body, within string }{
		"a REAL in every scan":      {"REAL", "level := level + STEP * 0.1;", "0.15"},
		"an LREAL in every scan":    {"LREAL", "level := level + STEP * 0.1;", "0.15"},
		"an INT in every scan":      {"INT", "level := level + STEP;", "2"},
		"a ULINT in every scan":     {"ULINT", "level := level + STEP;", "1"},
		"an INT in every third":     {"INT", "n := (n + 1) MOD 3; IF n = 0 THEN level := level + STEP; END_IF;", "2"},
		"a REAL in every fourth":    {"REAL", "n := (n + 1) MOD 4; IF n = 0 THEN level := level + STEP; END_IF;", "0.5"},
		"an INT in uneven steps":    {"INT", "n := n + STEP; level := n * 10 / 3;", "4"},
		"a REAL that falls":         {"REAL", "level := level - STEP * 0.25;", "0.3"},
		"a REAL of a swelling step": {"REAL", "IF level < 1000.0 THEN level := level + STEP * (0.1 + level / 20.0); END_IF;", "1"},
	} {
		t.Run(name, func(t *testing.T) {
			program := func(step, more string) string {
				return "PROGRAM p\nVAR n : INT; late, level : " + c.typed + "; END_VAR\n" + strings.ReplaceAll(c.body, "STEP", step) + more +
					"\nfan := TRUE;\nEND_PROGRAM"
			}
			g := gradedExercise(t, "  - {signal: level, within: "+c.within+"}\n", press, "1500ms", program("1", ""))
			part := func(text string) grade.Signal { return gradeText(g, text).Scenarios[0].Signals[0] }
			assert.False(t, part("PROGRAM p\nVAR level : "+c.typed+"; END_VAR\nfan := level > 3;\nEND_PROGRAM").OK, "nothing")
			assert.False(t, part(program("2", "")).OK, "twice as fast")
			assert.True(t, part(program("1", "")).OK)
			assert.False(t, part(program("1", "")).Still)
		})
	}
}

// A block is graded whatever its name and wherever it is declared; of several, the one that is right.
func TestGradeBlocksByType(t *testing.T) {
	g := gradedExercise(t, "  - {signal: fan}\n  - {block: TON, member: ET}\n", press, "2s",
		"PROGRAM p\nVAR t : TON; END_VAR\nt(IN := a, PT := T#300ms, Q => fan);\nEND_PROGRAM")
	for name, c := range map[string]struct{ text, want string }{
		"another name": {"PROGRAM p\nVAR delay : TON; END_VAR\ndelay(IN := a, PT := T#300ms, Q => fan);\nEND_PROGRAM",
			"10 delay.ET"},
		"the second of two": {"PROGRAM p\nVAR idle, delay : TON; END_VAR\nidle(IN := NOT a, PT := T#1s);\n" +
			"delay(IN := a, PT := T#300ms, Q => fan);\nEND_PROGRAM", "10 delay.ET"},
		"inside a block of one's own": {"FUNCTION_BLOCK f\nVAR_INPUT i : BOOL; END_VAR\nVAR_OUTPUT q : BOOL; END_VAR\nVAR t : TON; END_VAR\n" +
			"t(IN := i, PT := T#300ms, Q => q);\nEND_FUNCTION_BLOCK\nPROGRAM p\nVAR b : f; END_VAR\nb(i := a, q => fan);\nEND_PROGRAM", "10 b.t.ET"},
		"in an array": {"PROGRAM p\nVAR t : ARRAY [1..2] OF TON; END_VAR\nt[2](IN := a, PT := T#300ms, Q => fan);\nEND_PROGRAM",
			"10 t[2].ET"},
		"none": {"PROGRAM p\nfan := a;\nEND_PROGRAM",
			"0 TON.ET the program has no TON, whose ET is graded; declare one, with any name"},
		"one with another preset": {"PROGRAM p\nVAR x : TON; END_VAR\nx(IN := a, PT := T#400ms, Q => fan);\nEND_PROGRAM",
			"0 x.ET scan 83: x.ET expected T#300ms, was T#330ms"},
		"a scan late is within slack": {"PROGRAM p\nVAR t : TON; b : BOOL; END_VAR\nt(IN := b, PT := T#300ms, Q => fan);\nb := a;\nEND_PROGRAM",
			"10 t.ET"},
		"three scans late is not right": {"PROGRAM p\nVAR t : TON; b, c, d : BOOL; END_VAR\nt(IN := b, PT := T#300ms, Q => fan);\nb := c;\n" +
			"c := d;\nd := a;\nEND_PROGRAM", "0 t.ET scan 53: t.ET expected T#30ms, was T#0s"},
	} {
		t.Run(name, func(t *testing.T) {
			r := gradeText(g, c.text)
			part := r.Scenarios[0].Signals[1]
			got := r.Earned.String() + " " + part.Signal
			if !part.OK {
				got += " " + part.Words()
			}
			assert.Equal(t, c.want, got)
			assert.Equal(t, "TON.ET", part.Of)
		})
	}
	assert.Equal(t, []string{"the program has no TON, whose ET is graded; declare one, with any name"},
		g.Missing([]*source.File{source.NewFile("p.st", "PROGRAM p\nfan := a;\nEND_PROGRAM")}))
}

// What an exercise asks must make sense; its mistakes stand where they are made.
func TestPrepareTellsWhatMakesNoSense(t *testing.T) {
	for name, c := range map[string]struct{ graded, expect, rules, want string }{
		"within of a BOOL": {"{signal: fan, within: 2}", "solution", "",
			`exercise.yaml:9:27: error[exercise]: within of fan: it is a BOOL, which has no distance; take within away.`},
		"a time for a whole number": {"{signal: n, within: 20ms}", "solution", "",
			`within of n: "20ms" is not a whole number from 0 up; write 2.`},
		"a number for a time":       {"{block: TON, member: ET, within: 2}", "solution", "", `within of TON.ET: "2" is not a time; write 20ms.`},
		"a block that is not there": {"{block: TOF, member: ET}", "solution", "", "The solution has no TOF, whose ET is graded."},
		"a block that is none": {"{block: TONN, member: ET}", "solution", "",
			"The solution has no TONN, whose ET is graded. Did you mean TON?"},
		"a member that is not there": {"{block: TON, member: CV}", "solution", "", "A TON has no member CV."},
		"a number does not rise": {"{signal: fan}", "[{signal: n, rises: 1}]", "",
			"exercise.yaml:16:23: error[exercise]: n is no BOOL; only a BOOL rises and falls."},
		"a value of another kind": {"{signal: fan}", "[{signal: n, is: warm}]", "", `n cannot be warm: "warm" is not a whole number.`},
		"a warning that is none": {"{signal: fan}", "solution", "{warning: two-coil, deduct: 1}",
			"exercise.yaml:17:19: error[exercise]: A rule names the warning \"two-coil\", which there is not. Did you mean two-coils?"},
		"chatter of nothing": {"{signal: fan}", "solution", "{chatter: fun, at_most: 4 per 1s, deduct: 1}",
			"The solution has nothing named fun, whose changes a rule counts. Did you mean fan?"},
		"nothing graded":           {"{weight: 2}", "solution", "", "Nothing is graded here."},
		"a block without a member": {"{block: TON}", "solution", "", "A graded block needs the member that is compared."},
	} {
		t.Run(name, func(t *testing.T) {
			yaml := "format: celandine/exercise/1\nname: k\ntitle: K\npanel:\n  inputs:\n    - {name: a, at: \"%IX0.0\", device: button}\n" +
				"  outputs: [{name: fan, at: \"%QX0.0\", device: fan}]\ngraded:\n  - " + c.graded +
				"\nscenarios:\n  - name: one\n    points: 10\n    for: 2s\n    steps:\n      - {at: 1s, press: a}\n    expect: " + c.expect +
				"\nrules: [" + c.rules + "]\n"
			e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(yaml), "brief.md": []byte("x"),
				"solution.st": []byte("PROGRAM p\nVAR t : TON; n : INT; END_VAR\n" +
					"t(IN := a, PT := T#300ms, Q => fan);\nn := SEL(a, 0, 1);\nEND_PROGRAM")})
			if e != nil {
				_, problems = grade.Prepare(e)
			}
			require.NotEmpty(t, problems)
			assert.Contains(t, problems[0].String(), c.want)
		})
	}
}

// A day of a running timer is graded in the time and memory of what happens in it.
func TestADayIsGradedAtOnce(t *testing.T) {
	g := gradedExercise(t, "  - {signal: fan}\n  - {block: TON, member: ET}\n", "      - {at: 1s, press: a}\n", "24h",
		"PROGRAM p\nVAR t : TON; END_VAR\nt(IN := a, PT := T#30h, Q => fan);\nfan := t.ET > T#20h;\nEND_PROGRAM")
	for name, text := range map[string]string{
		"right":    "PROGRAM p\nVAR t : TON; END_VAR\nt(IN := a, PT := T#30h);\nfan := t.ET > T#20h;\nEND_PROGRAM",
		"too slow": "PROGRAM p\nVAR t : TON; END_VAR\nt(IN := a, PT := T#30h);\nfan := t.ET > T#21h;\nEND_PROGRAM",
	} {
		var before, after runtime.MemStats
		least := uint64(math.MaxUint64)
		for range 3 {
			runtime.ReadMemStats(&before)
			r := gradeText(g, text)
			runtime.ReadMemStats(&after)
			least = min(least, after.TotalAlloc-before.TotalAlloc)
			assert.Equal(t, map[string]string{"right": "10", "too slow": "5"}[name], r.Earned.String())
		}
		assert.Less(t, least, uint64(20<<20), name)
	}
}

func BenchmarkADay(b *testing.B) {
	t := &testing.T{}
	g := gradedExercise(t, "  - {signal: fan}\n  - {block: TON, member: ET}\n", "      - {at: 1s, press: a}\n", "24h",
		"PROGRAM p\nVAR t : TON; END_VAR\nt(IN := a, PT := T#30h, Q => fan);\nfan := t.ET > T#20h;\nEND_PROGRAM")
	for b.Loop() {
		gradeText(g, "PROGRAM p\nVAR t : TON; END_VAR\nt(IN := a, PT := T#30h);\nfan := t.ET > T#21h;\nEND_PROGRAM")
	}
}

// A rule that counts changes has nothing to count in a run that a fault ends in its first scan.
func TestFaultInTheFirstScan(t *testing.T) {
	g := ruledGrader(t, "solution", "{chatter: fan, at_most: 4 per 1s, deduct: 4}")
	r := gradeText(g, "PROGRAM p\nVAR n : INT; END_VAR\nn := 1 / n;\nfan := a;\nEND_PROGRAM")
	assert.Equal(t, "0", r.Earned.String())
	assert.Equal(t, 0, r.Scenarios[0].Fault.Scan)
}

// Marks are shared exactly and rounded once; what is shown adds up.
func TestMarksAddUp(t *testing.T) {
	scenario := func(n int) string {
		return fmt.Sprintf("  - name: s%d\n    points: 1\n    for: 2s\n    steps:\n%s    expect: solution\n", n, press)
	}
	yaml := "format: celandine/exercise/1\nname: k\ntitle: K\npanel:\n  inputs: [{name: a, at: \"%IX0.0\", device: button}]\n  outputs:\n" +
		"    - {name: x, at: \"%QX0.0\", device: fan}\n    - {name: y, at: \"%QX0.1\", device: fan}\n" +
		"    - {name: z, at: \"%QX0.2\", device: fan}\n" +
		"graded: [{signal: x}, {signal: y}, {signal: z}]\nscenarios:\n" + scenario(1) + scenario(2) + scenario(3) +
		"  - {name: nothing, points: 2, for: 1s, expect: solution}\n"
	e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(yaml), "brief.md": []byte("x"),
		"solution.st": []byte("PROGRAM p\nx := a; y := a; z := a;\nEND_PROGRAM")})
	require.NotNil(t, e, "%v", problems)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, "%v", problems)
	for body, want := range map[string]string{
		"x := a; y := a; z := a;":     "5 = 1 1 1 2",
		"x := a;":                     "3 = 0.33 0.34 0.33 2",
		"x := a; y := a;":             "4 = 0.67 0.66 0.67 2",
		"":                            "0 = 0 0 0 0", // nothing happens where nothing may, and that alone earns nothing
		"x := a; y := a; z := NOT a;": "2 = 0.67 0.66 0.67 0",
		"x := NOT a;":                 "0 = 0 0 0 0",
	} {
		r := gradeText(g, "PROGRAM p\n"+body+"\nEND_PROGRAM")
		got := r.Earned.String() + " ="
		for _, s := range r.Scenarios {
			got += " " + s.Earned.String()
		}
		assert.Equal(t, want, got, body)
		assert.True(t, r.Scenarios[3].Still)
		assert.Equal(t, body == "", strings.HasPrefix(r.Scenarios[3].Note, "Nothing may happen here"), body)
	}
}

// Edges are counted in every scan of a window, its first as well, and TRUE in scan 0 is a rise.
func TestEdgesOfAWindow(t *testing.T) {
	for _, c := range []struct {
		values       string
		from, to     int
		rises, falls int
	}{
		{"1100", 0, 4, 1, 1}, {"0011", 2, 4, 1, 0}, {"0011", 3, 4, 0, 0}, {"0110", 0, 3, 1, 0}, {"0110", 3, 4, 0, 1}, {"0000", 0, 4, 0, 0},
		{"1010", 1, 4, 1, 2}, {"1", 0, 0, 0, 0},
	} {
		rises, falls := scans(c.values).Edges(c.from, c.to)
		assert.Equal(t, []int{c.rises, c.falls}, []int{rises, falls}, "%v", c)
	}
}
