package exercise_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/exercise"
	"celandine/core/signal"
)

var inputs = []exercise.Point{
	{Name: "mist_on", Device: "button", Type: "BOOL"},
	{Name: "mist_off", Device: "button", Type: "BOOL", Closed: true},
	{Name: "heat", Device: "switch", Type: "BOOL"},
	{Name: "bed_temp", Device: "sensor", Type: "INT", Initial: 215},
	{Name: "free", Type: "BOOL"},
}

func table(t *testing.T, trace *signal.Trace) string {
	var b strings.Builder
	require.NoError(t, signal.WriteTable(&b, trace, false))
	return b.String()
}

// Steps need no exercise: a list, or a mapping with period and length.
func TestScripts(t *testing.T) {
	for name, c := range map[string]struct {
		text  string
		scans int
		want  string
	}{
		"a list lasts a second longer": {"- {at: 100ms, press: mist_on}\n- {at: 200ms, release: mist_on}", 120,
			"scan,mist_on,mist_off,heat,bed_temp,free\n0,0,1,0,215,0\n10,1,1,0,215,0\n20,0,1,0,215,0\n"},
		"a mapping says how long": {"period: 20ms\nfor: 1s\nsteps:\n- {at: 100ms, switch_on: heat}", 50,
			"scan,mist_on,mist_off,heat,bed_temp,free\n0,0,1,0,215,0\n5,0,1,1,215,0\n"},
		"an input with no device takes every verb": {"- {at: scan 1, press: free}\n- {at: scan 2, switch_off: free}\n" +
			"- {at: scan 3, tap: free, for: 2 scans}", 105,
			"scan,mist_on,mist_off,heat,bed_temp,free\n0,0,1,0,215,0\n1,0,1,0,215,1\n2,0,1,0,215,0\n3,0,1,0,215,1\n5,0,1,0,215,0\n"},
		"no steps":                       {"steps: []", 100, "scan,mist_on,mist_off,heat,bed_temp,free\n0,0,1,0,215,0\n"},
		"a restart makes it longer, too": {"- {at: scan 7, restart: true}", 107, "scan,mist_on,mist_off,heat,bed_temp,free\n0,0,1,0,215,0\n"},
	} {
		t.Run(name, func(t *testing.T) {
			trace, problems := exercise.ReadScript("s.yaml", []byte(c.text), inputs, 10*time.Millisecond, 0)
			require.Empty(t, problems)
			assert.Equal(t, c.scans, trace.Scans)
			assert.True(t, strings.HasPrefix(table(t, trace), c.want), table(t, trace)) // the last row tells the last scan
		})
	}
}

func TestScriptsOfALength(t *testing.T) {
	trace, problems := exercise.ReadScript("s.yaml", []byte("for: 9s\nsteps:\n- {at: 1s, press: mist_on}"), inputs, 10*time.Millisecond,
		2*time.Second)
	require.Empty(t, problems)
	assert.Equal(t, 200, trace.Scans, "what is asked for goes before what the script says")
}

func TestScriptProblems(t *testing.T) {
	for text, want := range map[string]string{
		"- {at: 1s, press: mist_of}":              "s.yaml:1:19: error[exercise]: There is no input named mist_of. Did you mean mist_off?",
		"- {at: 1s, kick: mist_on}":               "A step has no key kick.",
		"period: never\nsteps: []":                `period cannot be "never"`,
		"steps: [":                                "This is not YAML",
		"for: 1s\nsteps:\n- {at: 3s, unforce: a}": "This step is at scan 300; the scenario ends after scan 99.",
		"for: 1s":                      "The script lacks the key steps.",
		"- {at: 100h, press: mist_on}": `at cannot be "100h"`,
	} {
		trace, problems := exercise.ReadScript("s.yaml", []byte(text), inputs, 10*time.Millisecond, 0)
		assert.Nil(t, trace, text)
		if assert.NotEmpty(t, problems, text) {
			assert.Contains(t, fmt.Sprint(problems), want)
		}
	}
}

// What was done by hand, written as steps, does the same again.
func TestByHandComesBack(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		script := &signal.Trace{Period: 10 * time.Millisecond, Scans: rapid.IntRange(1, 60).Draw(r, "scans")}
		for _, p := range inputs {
			changes := []signal.Change{{Scan: 0, Value: p.Rest()}}
			for scan := 1; scan < script.Scans; scan += rapid.IntRange(1, 20).Draw(r, "wait") {
				value := rapid.Int64Range(0, 1).Draw(r, p.Name)
				if p.Kind() != signal.Bool {
					value = rapid.Int64Range(-40, 400).Draw(r, p.Name)
				}
				changes = append(changes, signal.Change{Scan: scan, Value: value})
			}
			script.Columns = append(script.Columns, signal.Steps(p.Name, p.Kind(), changes))
		}
		if rapid.Bool().Draw(r, "acts") {
			script.Acts = []signal.Act{{Scan: 0, Verb: signal.Force, Name: "fan", Value: "TRUE"},
				{Scan: script.Scans - 1, Verb: signal.Unforce, Name: "fan"}, {Scan: script.Scans - 1, Verb: signal.Restart}}
		}
		scenario := exercise.ByHand(inputs, script, nil)
		_, steps, _ := strings.Cut(scenario, "    steps:\n")
		steps, _, _ = strings.Cut(steps, "    expect:")
		if steps == "" {
			steps = "[]"
		}
		again, problems := exercise.ReadScript("s.yaml", []byte(steps), inputs, script.Period, time.Duration(script.Scans)*script.Period)
		require.Empty(r, problems, scenario)
		for _, c := range script.Columns {
			for scan := range script.Scans {
				require.Equal(r, c.At(scan), again.Column(c.Name).At(scan), "%s at scan %d of\n%s", c.Name, scan, scenario)
			}
		}
		require.Equal(r, len(script.Acts), len(again.Acts))
	})
}

// A wire that broke and was mended is a step of its own; what was done with the device meanwhile shows when it is mended.
func TestByHandWithBrokenWires(t *testing.T) {
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 40, Columns: []*signal.Column{
		signal.Steps("mist_off", signal.Bool, []signal.Change{{Scan: 0, Value: 1}, {Scan: 5, Value: 0}, {Scan: 20, Value: 1}})}}
	scenario := exercise.ByHand(inputs, script, map[string][]int{"mist_off": {5, 20}})
	assert.Contains(t, scenario, "{at: scan 5, break_wire: mist_off}\n      - {at: scan 20, mend_wire: mist_off}\n")
	assert.NotContains(t, scenario, "press")
	assert.True(t, exercise.IsBroken([]int{5, 20}, 5))
	assert.False(t, exercise.IsBroken([]int{5, 20}, 20))
	assert.True(t, exercise.IsBroken([]int{5, 20, 30}, 31))
	assert.False(t, exercise.IsBroken(nil, 3))
}
