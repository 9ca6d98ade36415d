package exercise_test

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/signal"
)

const whole = `format: celandine/exercise/1
name: panel
title: Every device
panel:
  inputs:
    - {name: mist_on,  at: "%IX0.0", device: button}
    - {name: mist_off, at: "%IX0.1", device: button, contact: closed}
    - {name: heat,     at: "%IX0.2", device: switch}
    - {name: bed_temp, at: "%IW2", device: sensor, type: INT, initial: 215}
  outputs:
    - {name: mist_valve, at: "%QX0.0", device: valve}
graded:
  - {signal: mist_valve, slack: 2 scans}
scenarios:
  - name: one
    for: 1s
    steps:
STEPS
    expect: solution
`

func read(t *testing.T, steps ...string) (*exercise.Exercise, string) {
	t.Helper()
	text := strings.Replace(whole, "STEPS", "      - "+strings.Join(steps, "\n      - "), 1)
	e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(text), "brief.md": []byte("Do it."),
		"solution.st": []byte("PROGRAM p\nEND_PROGRAM")})
	var said []string
	for _, p := range problems {
		said = append(said, p.String())
	}
	return e, strings.Join(said, "\n")
}

// The wiring decides the bit; a time is seen by the first scan at or after it.
func TestStepsBecomeBits(t *testing.T) {
	for name, c := range map[string]struct {
		input string
		want  string // scan:value …
		steps []string
	}{
		"a button at rest": {"mist_on", "0:0", []string{"{at: 0s, press: mist_off}"}},
		"press and release": {"mist_on", "0:0 10:1 30:0",
			[]string{"{at: 100ms, press: mist_on}", "{at: 300ms, release: mist_on}"}},
		"a normally closed button": {"mist_off", "0:1 10:0 30:1",
			[]string{"{at: 100ms, press: mist_off}", "{at: 300ms, release: mist_off}"}},
		"between two scans: the later": {"mist_on", "0:0 11:1", []string{"{at: 101ms, press: mist_on}"}},
		"within one scan: never seen":  {"mist_on", "0:0", []string{"{at: 101ms, press: mist_on}", "{at: 109ms, release: mist_on}"}},
		"tap for one scan, three times": {"mist_on", "0:0 10:1 11:0 30:1 31:0 50:1 51:0",
			[]string{"{at: 100ms, tap: mist_on, for: 1 scan, every: 200ms, times: 3}"}},
		"by scan number": {"heat", "0:0 40:1 60:0",
			[]string{"{at: scan 40, switch_on: heat}", "{at: scan 60, switch_off: heat}"}},
		"a broken wire is FALSE": {"mist_off", "0:1 10:0 20:1",
			[]string{"{at: 100ms, break_wire: mist_off}", "{at: 200ms, mend_wire: mist_off}"}},
		"pressed while the wire is broken": {"mist_on", "0:0 30:1",
			[]string{"{at: 100ms, break_wire: mist_on}", "{at: 200ms, press: mist_on}", "{at: 300ms, mend_wire: mist_on}"}},
		"a sensor's number":          {"bed_temp", "0:215 10:260", []string{"{at: 100ms, set: {bed_temp: 260}}"}},
		"steps need not be in order": {"heat", "0:0 10:1 20:0", []string{"{at: 200ms, switch_off: heat}", "{at: 100ms, switch_on: heat}"}},
		"at scan 0":                  {"heat", "0:1", []string{"{at: 0s, switch_on: heat}"}},
	} {
		t.Run(name, func(t *testing.T) {
			e, problems := read(t, c.steps...)
			require.NotNil(t, e, problems)
			var got []string
			column := e.Scenarios[0].Script.Column(c.input)
			for _, change := range column.Changes(0, 100) {
				got = append(got, fmt.Sprintf("%d:%d", change.Scan, change.Value))
			}
			assert.Equal(t, c.want, strings.Join(got, " "))
		})
	}
}

func TestStepsOnVariables(t *testing.T) {
	e, problems := read(t, "{at: 100ms, force: {settle.Q: true, n: 4}}", "{at: scan 20, unforce: settle.Q}",
		"{at: 300ms, write: {n: 7}, every: 100ms, times: 2}")
	require.NotNil(t, e, problems)
	assert.Equal(t, "[{10 force settle.Q true} {10 force n 4} {20 unforce settle.Q } {30 write n 7} {40 write n 7}]",
		fmt.Sprint(e.Scenarios[0].Script.Acts))
}

// A series is as many points, at one address after the other.
func TestSeries(t *testing.T) {
	text := strings.Replace(whole, "    steps:\nSTEPS\n", "", 1)
	text = strings.Replace(text, `{name: heat,     at: "%IX0.2", device: switch}`,
		`{name: "tray_{1..8}", at: "%IX1.6", device: sensor, label: "Tray {n}"}`, 1)
	text = strings.Replace(text, `{name: bed_temp, at: "%IW2"`, `{name: "bed_{1..2}_temp", at: "%IW10"`, 1)
	e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(text), "brief.md": []byte("Do it."),
		"solution.st": []byte("PROGRAM p\nEND_PROGRAM")})
	require.NotNil(t, e, "%v", problems)
	var got []string
	for _, p := range e.Inputs[2:] {
		got = append(got, p.Name+" "+p.Address+" "+p.Label)
	}
	assert.Equal(t, []string{"tray_1 %IX1.6 Tray 1", "tray_2 %IX1.7 Tray 2", "tray_3 %IX2.0 Tray 3", "tray_4 %IX2.1 Tray 4",
		"tray_5 %IX2.2 Tray 5",
		"tray_6 %IX2.3 Tray 6", "tray_7 %IX2.4 Tray 7", "tray_8 %IX2.5 Tray 8", "bed_1_temp %IW10 bed_1_temp", "bed_2_temp %IW12 bed_2_temp"},
		got)
}

// Each problem names its line and the way out.
func TestProblems(t *testing.T) {
	for step, want := range map[string]string{
		"{at: 1, press: mist_on}":    `exercise.yaml:18:14: error[exercise]: at cannot be "1". Write it like 300ms, 1.5s or scan 400.`,
		"{at: 100ms, pres: mist_on}": "A step has no key pres. Did you mean press?",
		"{at: 100ms}":                "This step does nothing.",
		"{at: 100ms, press: heat}":   "heat is a switch; press is for a button. Write switch_on or switch_off.",
		"{at: 100ms, switch_on: mist_on}": "mist_on is a button; switch_on is for a switch. Write press, release or " +
			"tap.",
		"{at: 100ms, press: mist_valve}":                "mist_valve is an output; steps work the inputs.",
		"{at: 100ms, set: {bed_temp: warm}}":            `set of bed_temp: "warm" is not a whole number.`,
		"{at: 100ms, press: bed_temp}":                  "bed_temp is a sensor; press is for a button. Write set: {bed_temp: …}.",
		"{at: 100ms, press: mist_on, release: mist_on}": "A step does one thing; this one has press and release.",
		"{at: 100ms, press: mist_on, for: 3 scans}":     "Only tap has for.",
		"{at: 100ms, tap: mist_on, times: 3}":           "times needs every.",
		"{at: 990ms, tap: mist_on, for: 5 scans}":       "This tap lets go at scan 104; the scenario ends after scan 99.",
		"{at: 100ms, force: mist_valve}":                "force needs variables and their values. Write force: {settle.ET: T#2s}.",
		"{at: 100ms, tap: mist_on, for: 0 scans}":       "A tap of no scans is never seen. Write at least 1 scan.",
		"{at: 900ms, tap: mist_on}":                     "This tap lets go at scan 110; the scenario ends after scan 99.",
		"{at: 0s, tap: mist_on, for: 100ms, every: 50ms, times: 2}": "A tap of 10 scans is not let go before the next, 5 scans later. Make " +
			"every longer, or for shorter.",
		"{at: 100ms, set: {bed_temp: 40000}}": "set of bed_temp: 40000 does not fit INT. Write a number from -32768 to 32767, or " +
			"give the point a wider type.",
		"{at: 100ms, restart: again}":                  "restart cannot be \"again\"",
		"{press: mist_on}":                             "A step lacks the key at.",
		"[at, press]":                                  "A step must be a list of keys and values.",
		"{at: 100ms, press: mist_on, press: mist_off}": "The key press stands twice.",
	} {
		t.Run(step, func(t *testing.T) {
			e, problems := read(t, step)
			assert.Nil(t, e)
			assert.Contains(t, problems, want)
		})
	}
}

func TestFolderProblems(t *testing.T) {
	good := exercise.Files{
		"exercise.yaml": []byte(strings.Replace(whole, "    steps:\nSTEPS\n", "", 1)), "brief.md": []byte("Do it."),
		"solution.st": []byte("PROGRAM p\nEND_PROGRAM"),
	}
	for name, c := range map[string]struct {
		change func(exercise.Files)
		want   string
	}{
		"nothing wrong":    {func(exercise.Files) {}, ""},
		"no exercise.yaml": {func(f exercise.Files) { delete(f, "exercise.yaml") }, "There is no exercise.yaml."},
		"no brief": {func(f exercise.Files) { delete(f, "brief.md") },
			"There is no brief.md. Write the task for the learner in brief.md."},
		"no solution": {func(f exercise.Files) { delete(f, "solution.st") },
			"There is no solution. Write solution.ladder, solution.fbd or solution.st."},
		"not YAML": {func(f exercise.Files) { f["exercise.yaml"] = []byte("format: [") }, "This is not YAML"},
		"a tab": {func(f exercise.Files) { replace(f, "  inputs:", "\tinputs:") },
			"This line is not YAML. Indent with spaces: YAML takes no tabs."},
		"an address without quotes": {func(f exercise.Files) { replace(f, `"%IX0.0"`, "%IX0.0") },
			`This line is not YAML. Put the value into quotes: "%IX0.0".`},
		"a colon without quotes": {func(f exercise.Files) { replace(f, "format:", "title: Vent: five seconds\nformat:") },
			`This line is not YAML. Put a text with a colon into quotes: "Vent: five seconds".`},
		"NC": {func(f exercise.Files) { replace(f, `at: "%IX0.0"`, `at: "%IX0.0", contact: NC`) },
			`contact cannot be "NC". Write contact: closed.`},
		"empty":    {func(f exercise.Files) { f["exercise.yaml"] = nil }, "exercise.yaml is empty."},
		"an alias": {func(f exercise.Files) { f["exercise.yaml"] = []byte("a: &a [1]\nb: *a\n") }, "more than 100,000 entries"},
		"points sum to zero": {func(f exercise.Files) { replace(f, "    for: 1s", "    points: 0\n    for: 1s") },
			"The scenarios' points add up to zero."},
		"a table is not there": {func(f exercise.Files) { replace(f, "expect: solution", "expect: {table: expected/one.csv}") },
			"There is no file expected/one.csv in the exercise."},
		"script and steps": {func(f exercise.Files) { replace(f, "    for: 1s", "    for: 1s\n    steps: []\n    script: x.csv") },
			"A scenario has steps or a script, not both."},
		"too many scans": {func(f exercise.Files) { replace(f, "panel:", "period: 1us\npanel:"); replace(f, "for: 1s", "for: 1m") },
			"This scenario has 60000000 scans; the limit is 20000000."},
		"a rule with no object": {func(f exercise.Files) { replace(f, "graded:", "rules:\n  - {deduct: 2}\ngraded:") },
			"This rule looks at nothing. Write require, forbid, warning or chatter."},
		"chatter without a rate": {func(f exercise.Files) { replace(f, "graded:", "rules:\n  - {chatter: mist_valve, deduct: 2}\ngraded:") },
			"chatter needs at_most. Add at_most: 4 per 1s."},
		"a rate of no length": {func(f exercise.Files) {
			replace(f, "graded:", "rules:\n  - {chatter: mist_valve, at_most: 4, deduct: 2}\ngraded:")
		}, `at_most cannot be "4". Write it like 4 per 1s.`},
		"a check of nothing": {func(f exercise.Files) { replace(f, "expect: solution", "expect:\n      - {signal: mist_valve}") },
			"This check expects nothing. Write is, rises or falls."},
		"a window beyond the end": {func(f exercise.Files) {
			replace(f, "expect: solution", "expect: solution\n    ignore: [{from: 500ms, to: 2s}]")
		}, "This window goes on to scan 199; the scenario ends after scan 99."},
		"a series upside down": {func(f exercise.Files) { replace(f, "name: heat", "name: 'tray_{9..2}'") },
			"The series tray_{9..2} is empty or too long."},
		"a series over another address": {func(f exercise.Files) { replace(f, "name: mist_on", "name: 'tray_{1..3}'") },
			"The address %IX0.1 is used already, at line 6."},
		"a task off the period": {func(f exercise.Files) { replace(f, "graded:", "tasks: [{program: p, every: 15ms}]\ngraded:") },
			"A task cannot run every 15ms. Write a multiple of 10ms, the period."},
		"a check beyond the end": {func(f exercise.Files) {
			replace(f, "expect: solution", "expect:\n      - {signal: mist_valve, is: false, to: 3s}")
		}, "This check goes on to scan 299; the scenario ends after scan 99."},
		"an unknown device": {func(f exercise.Files) { replace(f, "device: valve", "device: vale") },
			`device cannot be "vale". Did you mean valve?`},
		"a bad address":            {func(f exercise.Files) { replace(f, "%QX0.0", "%IX7.0") }, "%IX7.0 cannot be the address of this point."},
		"a name that is no name":   {func(f exercise.Files) { replace(f, "name: heat", "name: heat_") }, "heat_"},
		"a name twice":             {func(f exercise.Files) { replace(f, "name: heat", "name: mist_on") }, "mist_on"},
		"a value that is none":     {func(f exercise.Files) { replace(f, "initial: 215", "initial: warm") }, "warm"},
		"a type that there is not": {func(f exercise.Files) { replace(f, "type: INT", "type: INTEGER") }, "INTEGER"},
		"a slack that is none":     {func(f exercise.Files) { replace(f, "slack: 2 scans", "slack: some") }, "some"},
		"a weight of nothing":      {func(f exercise.Files) { replace(f, "slack: 2 scans", "weight: 0") }, "weight"},
		"two kinds of rule": {func(f exercise.Files) {
			replace(f, "graded:", "rules:\n  - {require: TON, forbid: TOF, deduct: 2}\ngraded:")
		}, "A rule looks at one thing; this one has require and forbid."},
		"a deduction that is none": {func(f exercise.Files) { replace(f, "graded:", "rules:\n  - {require: TON, deduct: some}\ngraded:") },
			"is not a number of points"},
		"a check of two kinds": {func(f exercise.Files) {
			replace(f, "expect: solution", "expect:\n      - {signal: mist_valve, is: true, rises: 1}")
		}, "A check expects a value or a number of edges, not both. Write two checks."},
		"an empty window": {func(f exercise.Files) {
			replace(f, "expect: solution", "expect: solution\n    ignore: [{from: 500ms, to: 500ms}]")
		}, "This window is empty. Write from before to."},
		"a task once and often": {func(f exercise.Files) {
			replace(f, "graded:", "tasks: [{program: p, every: 20ms, once: true}]\ngraded:")
		}, "A task runs once or every so often, not both. Keep one of them."},
		"two tasks of a program": {func(f exercise.Files) {
			replace(f, "graded:", "tasks: [{program: p}, {program: P, every: 3 scans}]\ngraded:")
		}, "The program P has two tasks. Keep one of them."},
		"a script that is not there": {func(f exercise.Files) { replace(f, "    for: 1s", "    for: 1s\n    script: scripts/one.csv") },
			"There is no file scripts/one.csv in the exercise."},
		"a script of no input": {func(f exercise.Files) {
			f["scripts/one.csv"] = []byte("scan,mist_onn\n0,1\n")
			replace(f, "    for: 1s", "    for: 1s\n    script: scripts/one.csv")
		}, "scripts/one.csv:1:1: error[exercise]: there is no input named mist_onn. Did you mean mist_on?."},
		"a script beyond the end": {func(f exercise.Files) {
			f["scripts/one.csv"] = []byte("scan,mist_on\n0,1\n500,0\n")
			replace(f, "    for: 1s", "    for: 1s\n    script: scripts/one.csv")
		}, "scripts/one.csv goes on to scan 500; the scenario ends after scan 99."},
		"graded twice": {func(f exercise.Files) { replace(f, "graded:\n", "graded:\n  - {signal: mist_valve}\n") },
			"mist_valve is graded twice."},
	} {
		t.Run(name, func(t *testing.T) {
			files := exercise.Files{}
			for k, v := range good {
				files[k] = v
			}
			c.change(files)
			e, problems := exercise.Read(files)
			if c.want == "" {
				require.NotNil(t, e, "%v", problems)
				return
			}
			require.Nil(t, e)
			var said strings.Builder
			for _, p := range problems {
				said.WriteString(p.String() + "\n")
			}
			assert.Contains(t, said.String(), c.want)
		})
	}
}

// A script, a table and tasks are taken from the folder as they stand.
func TestFolderIsReadWhole(t *testing.T) {
	f := exercise.Files{"brief.md": []byte("Do it."), "solution.st": []byte("PROGRAM p\nEND_PROGRAM"),
		"starter.st":      []byte("PROGRAM s\nEND_PROGRAM"),
		"scripts/one.csv": []byte("scan,mist_on\n0,0\n5,1\n"), "expected/one.csv": []byte("scan,mist_valve\n0,0\n5,1\n"),
		"exercise.yaml": []byte(strings.Replace(strings.Replace(whole, "    steps:\nSTEPS\n", "    script: scripts/one.csv\n", 1),
			"expect: solution", "expect: {table: expected/one.csv}\n    shown: true\n    points: 2.5\n    ignore: [{from: 500ms, to: 600ms}]", 1))}
	replace(f, "graded:\n", "tasks: [{program: p, every: 3 scans, priority: 2}, {program: begin, once: true}]\nrules:\n"+
		"  - {chatter: mist_valve, at_most: 4 per 1s, deduct: 2}\n  - {forbid: TON, at_most: 2, deduct: 0.5, say: Not so many.}\ngraded:\n"+
		"  - {block: TON, member: ET, within: 20ms, drift: 1 scan}\n  - {signal: settle.ET}\n")
	e, problems := exercise.Read(f)
	require.NotNil(t, e, "%v", problems)
	one := e.Scenarios[0]
	assert.Equal(t, "0:0 5:1", segments(one.Script.Column("mist_on")))
	assert.Equal(t, "0:1", segments(one.Script.Column("mist_off")), "an input without a column rests")
	assert.Equal(t, []exercise.Window{{From: 50, To: 60}}, one.Ignore)
	assert.Equal(t, "2.5", e.Points().String())
	assert.Equal(t, []byte("scan,mist_valve\n0,0\n5,1\n"), one.Expect.Table)
	assert.Equal(t, []exercise.Task{{Program: "p", Every: 3, Priority: 2}, {Program: "begin", Every: 1, Once: true}}, e.Tasks)
	assert.Equal(t, "by just this name: settle.ET; whatever its name: ET of a TON", e.Told())
	assert.Equal(t, "TON.ET", e.Graded[0].Name())
	assert.Equal(t, 4, e.Rules[0].AtMost)
	assert.Equal(t, 100, e.Rules[0].Per)
	assert.Equal(t, "st", e.Solutions[0].Language())
	assert.Len(t, e.Starters, 1)
	p, ok := e.Input("MIST_OFF")
	assert.True(t, ok && p.Closed)
}

func segments(c *signal.Column) string {
	var list []string
	for _, s := range c.Segments() {
		list = append(list, fmt.Sprintf("%d:%d", s.Scan, s.Value))
	}
	return strings.Join(list, " ")
}

// A point holds what its type does.
func TestPointsHoldTheirTypes(t *testing.T) {
	for typed, c := range map[string]struct{ good, bad string }{
		"BOOL": {"1", "2"}, "SINT": {"-128", "128"}, "INT": {"32767", "32768"}, "DINT": {"-2147483648", "2147483648"}, "USINT": {"255", "256"},
		"BYTE": {"255", "-1"},
		"UINT": {"65535", "65536"}, "WORD": {"65535", "-1"}, "UDINT": {"4294967295", "4294967296"},
		"LINT": {"9223372036854775807", "9223372036854775808"},
	} {
		for value, fits := range map[string]bool{c.good: true, c.bad: false} {
			f := exercise.Files{"exercise.yaml": []byte(strings.Replace(whole, "STEPS", "      - {at: 0s, set: {bed_temp: "+value+"}}", 1)),
				"brief.md": []byte("x"), "solution.st": []byte("PROGRAM p\nEND_PROGRAM")}
			address := map[string]string{"BOOL": "%IX2.0", "SINT": "%IB4", "USINT": "%IB4", "BYTE": "%IB4", "DINT": "%ID4", "UDINT": "%ID4",
				"LINT": "%IL4"}[typed]
			if address == "" {
				address = "%IW2"
			}
			replace(f, `at: "%IW2", device: sensor, type: INT, initial: 215`, `at: "`+address+`", device: sensor, type: `+typed)
			e, problems := exercise.Read(f)
			assert.Equal(t, fits, e != nil, "%s %s: %v", typed, value, problems)
		}
	}
}

func TestMarks(t *testing.T) {
	for text, want := range map[string]string{"4": "4", "1.5": "1.5", "0.33": "0.33", "0": "0", "2.10": "2.1"} {
		m, err := exercise.ParseMarks(text)
		require.NoError(t, err)
		assert.Equal(t, want, m.String())
		back, err := json.Marshal(m)
		require.NoError(t, err)
		var again exercise.Marks
		require.NoError(t, json.Unmarshal(back, &again))
		assert.Equal(t, m, again)
	}
	for _, text := range []string{"-1", "0.333", "some", "", "1000001", "NaN"} {
		_, err := exercise.ParseMarks(text)
		assert.ErrorContains(t, err, "is not a number of points", text)
	}
}

func TestNameFor(t *testing.T) {
	for words, want := range map[string]string{"Stays on, after release!": "stays-on-after-release", "Überlauf 2": "berlauf-2", "…": ""} {
		assert.Equal(t, want, exercise.NameFor(words))
	}
}

func replace(f exercise.Files, old, new string) {
	f["exercise.yaml"] = []byte(strings.Replace(string(f["exercise.yaml"]), old, new, 1))
}

func FuzzRead(f *testing.F) {
	f.Add(strings.Replace(whole, "STEPS", "      - {at: 100ms, press: mist_on}", 1))
	f.Fuzz(func(t *testing.T, text string) {
		e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(text), "brief.md": []byte("x"), "solution.st": []byte("")})
		if e == nil {
			assert.True(t, problems.HasErrors())
		}
	})
}

// A file that is wrong all over is told two hundred times, and no more.
func TestProblemsEnd(t *testing.T) {
	text := strings.Replace(whole, "STEPS", strings.Repeat("      - {press: mist_on}\n", 300), 1)
	_, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(text), "brief.md": []byte("x"), "solution.st": []byte("")})
	assert.Len(t, problems, 200)
}
