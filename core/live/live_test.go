package live_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/check"
	"celandine/core/live"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
)

const mist = `PROGRAM p
VAR_INPUT mist_on, mist_off : BOOL; END_VAR
VAR_OUTPUT mist_valve, pulse : BOOL; END_VAR
VAR settle : TON; presses : INT; END_VAR
LADDER
RUNG { [mist_on] | [mist_valve] } -- [/mist_off] -- (mist_valve);
RUNG [P mist_on] -- { (pulse) | ADD(presses, 1) => presses };
RUNG [mist_valve] -- settle(PT := T#5s);
END_LADDER
END_PROGRAM
`

func build(t *testing.T, text string) (*check.Program, *machine.Code) {
	program, problems := check.Files([]*source.File{source.NewFile("p", text)}, nil)
	require.NotNil(t, program, "%v", problems)
	code, _ := machine.Compile(program)
	require.NotNil(t, code)
	return program, code
}

func bench(t *testing.T, text string) *live.Bench {
	program, code := build(t, text)
	b, err := live.New(program, code, 10*time.Millisecond, nil)
	require.NoError(t, err)
	return b
}

func value(t *testing.T, b *live.Bench, name string, scan int) int64 {
	v, _, ok := b.Value(name, scan)
	require.True(t, ok, "%s at %d", name, scan)
	return v
}

// A press of one scan is there to be looked at, whenever.
func TestEveryScanIsThere(t *testing.T) {
	b := bench(t, mist)
	b.Run(300)
	require.NoError(t, b.Do(signal.Write, "mist_on", 1))
	b.Run(1)
	require.NoError(t, b.Do(signal.Write, "mist_on", 0))
	b.Run(700)
	assert.Equal(t, []int64{0, 1, 0}, []int64{value(t, b, "pulse", 299), value(t, b, "pulse", 300), value(t, b, "pulse", 301)})
	assert.Equal(t, int64(1), value(t, b, "mist_valve", 1000))
	assert.Equal(t, int64(5e9), value(t, b, "settle.ET", 900))
}

// Looking at a scan again shows the power that there was.
func TestLookAtAnyScan(t *testing.T) {
	b := bench(t, mist)
	on := func(v int64) { require.NoError(t, b.Do(signal.Write, "mist_on", v)) }
	b.Run(5)
	on(1)
	b.Run(1)
	on(0)
	b.Run(600)
	passes := func(scan, at int) bool {
		flows, _ := b.Look(scan)
		return flows[at].Out
	}
	assert.True(t, passes(5, 0), "mist_on at its scan")
	assert.False(t, passes(6, 0))
	assert.True(t, passes(6, 1), "held in")
	assert.True(t, passes(5, 4), "the edge, for one scan")
	assert.False(t, passes(6, 4))
	assert.True(t, passes(550, 1))
	flows, lines := b.Look(606)
	assert.Empty(t, flows, "a scan that is not there yet")
	assert.Empty(t, lines)
}

func TestReplaceKeepsValues(t *testing.T) {
	b := bench(t, mist)
	require.NoError(t, b.Do(signal.Write, "mist_on", 1))
	b.Run(50)
	program, code := build(t, mist+"// the same, and more\n")
	require.NoError(t, b.Replace(program, code))
	b.Run(10)
	assert.Equal(t, 50, b.First())
	assert.Equal(t, int64(1), value(t, b, "presses", 59))
	assert.Equal(t, int64(590e6), value(t, b, "settle.ET", 59))
	flows, _ := b.Look(55)
	assert.NotEmpty(t, flows)
	_, err := b.Why("mist_valve", 55)
	assert.ErrorContains(t, err, "was changed at scan 50")
}

func TestForcesAreInSightAndLetGo(t *testing.T) {
	b := bench(t, mist)
	require.NoError(t, b.Do(signal.Force, "mist_valve", 1))
	b.Run(3)
	assert.Equal(t, []string{"mist_valve"}, b.Forced())
	require.NoError(t, b.Do(signal.Write, "mist_off", 1))
	b.Run(3)
	assert.Equal(t, int64(1), value(t, b, "mist_valve", 5))
	require.NoError(t, b.Release())
	b.Run(1)
	assert.Empty(t, b.Forced())
	assert.Equal(t, int64(0), value(t, b, "mist_valve", 6))
	assert.ErrorContains(t, b.Do(signal.Force, "mist_vale", 1), "Did you mean mist_valve?")
}

// What was done by hand, as a script, does the same again.
func TestScriptDoesTheSame(t *testing.T) {
	b := bench(t, mist)
	for i := range 40 {
		require.NoError(t, b.Do(signal.Write, "mist_on", int64(i/3%2)))
		require.NoError(t, b.Do(signal.Write, "mist_off", int64(i/7%2)))
		if i == 20 {
			require.NoError(t, b.Do(signal.Write, "presses", 100))
		}
		b.Run(i % 5)
	}
	_, code := build(t, mist)
	run, err := code.Play(b.Script(), code.Names())
	require.NoError(t, err)
	for i, c := range run.Trace.Columns {
		assert.Equal(t, c.Changes(0, b.Scans()), b.Trace().Columns[i].Changes(0, b.Scans()), c.Name)
	}
	why, err := b.Why("mist_valve", b.Scans()-1)
	require.NoError(t, err)
	assert.NotEmpty(t, why.Short)
}

// A script that is played does on the bench what it does in a run.
func TestPlayAScript(t *testing.T) {
	_, code := build(t, mist)
	script := &signal.Trace{Period: 10 * time.Millisecond, Scans: 600,
		Acts: []signal.Act{{Scan: 300, Verb: signal.Force, Name: "presses", Value: "9"}, {Scan: 400, Verb: signal.Unforce, Name: "presses"}}}
	script.Columns = append(script.Columns, signal.Steps("mist_on", signal.Bool, []signal.Change{{Scan: 0}, {Scan: 20, Value: 1}, {Scan: 30}}),
		signal.Steps("mist_off", signal.Bool, []signal.Change{{Scan: 0, Value: 1}, {Scan: 5}, {Scan: 500, Value: 1}}))
	run, err := code.Play(script, code.Names())
	require.NoError(t, err)
	b := bench(t, mist)
	b.Play(script)
	for range 10 {
		b.Run(70)
	}
	for i, c := range run.Trace.Columns {
		assert.Equal(t, c.Changes(0, 600), b.Trace().Columns[i].Changes(0, 600), c.Name)
	}
	flows, _ := b.Look(450)
	assert.NotEmpty(t, flows)
}

func TestAFaultStopsTheBench(t *testing.T) {
	b := bench(t, "PROGRAM p\nVAR_INPUT n : INT := 1; END_VAR\nVAR_OUTPUT q : INT; END_VAR\nq := 10 / n;\nEND_PROGRAM\n")
	b.Run(5)
	require.NoError(t, b.Do(signal.Write, "n", 0))
	b.Run(5)
	require.NotNil(t, b.Fault())
	assert.Equal(t, "divide", b.Fault().Code)
	assert.Equal(t, 5, b.Scans())
}

// Going on from an earlier scan is as if what came after it had never been: played again, the script gives the same.
func TestGoOnFromAnEarlierScan(t *testing.T) {
	rapid.Check(t, func(r *rapid.T) {
		b := bench(t, mist)
		work := func() {
			for range rapid.IntRange(1, 12).Draw(r, "presses") {
				name := rapid.SampledFrom([]string{"mist_on", "mist_off"}).Draw(r, "name")
				require.NoError(t, b.Do(signal.Write, name, int64(rapid.IntRange(0, 1).Draw(r, "bit"))))
				b.Run(rapid.IntRange(1, 90).Draw(r, "scans"))
			}
		}
		work()
		to := rapid.IntRange(0, b.Scans()-1).Draw(r, "to")
		require.NoError(t, b.Back(to))
		require.Equal(t, to+1, b.Scans())
		work()
		_, code := build(t, mist)
		run, err := code.Play(b.Script(), code.Names())
		require.NoError(t, err)
		for i, c := range run.Trace.Columns {
			require.Equal(t, c.Changes(0, b.Scans()), b.Trace().Columns[i].Changes(0, b.Scans()), c.Name)
		}
	})
}

// A block of one's own shows the power of the instance that was called, each its own.
func TestInsideEachInstance(t *testing.T) {
	b := bench(t, `FUNCTION_BLOCK bed
VAR_INPUT on : BOOL; END_VAR
VAR_OUTPUT valve : BOOL; END_VAR
LADDER
RUNG [on] -- (valve);
END_LADDER
END_FUNCTION_BLOCK
PROGRAM p
VAR_INPUT mist_on : BOOL; END_VAR
VAR one, two : bed; END_VAR
one(on := mist_on);
two(on := NOT mist_on);
END_PROGRAM
`)
	require.NoError(t, b.Do(signal.Write, "mist_on", 1))
	b.Run(2)
	assert.Equal(t, map[string][]string{"bed": {"one", "two"}}, b.Instances())
	power := map[string]bool{}
	flows, _ := b.Look(1)
	for _, f := range flows {
		power[f.Instance] = f.Out
	}
	assert.Equal(t, map[string]bool{"one": true, "two": false}, power)
}

// The lines of a block diagram carry what was worked out in the scan, in a block of one's own for each instance.
func TestWhatLinesCarry(t *testing.T) {
	const text = `FUNCTION_BLOCK bed
VAR_INPUT on : BOOL; END_VAR
VAR_OUTPUT valve : BOOL; END_VAR
FBD
NETWORK NOT(on) => valve;
END_FBD
END_FUNCTION_BLOCK
PROGRAM p
VAR_INPUT mist_on : BOOL; END_VAR
VAR one, two : bed; n : INT; t : TON; d : TIME; END_VAR
FBD
NETWORK
  one(on := mist_on);
  two(on := /mist_on);
  wire more := ADD(n, 2);
  more => n;
  SEL([P mist_on], T#1s, T#1500ms) => d;
END_FBD
END_PROGRAM
`
	b := bench(t, text)
	require.NoError(t, b.Do(signal.Write, "mist_on", 1))
	b.Run(2)
	_, lines := b.Look(1)
	said := map[string]string{}
	for _, l := range lines {
		said[strings.TrimPrefix(l.Instance+" "+text[l.Start:l.End], " ")] = l.Value
	}
	assert.Equal(t, map[string]string{"one NOT(on)": "FALSE", "one on": "TRUE", "two NOT(on)": "TRUE", "two on": "FALSE", "mist_on": "TRUE",
		"/mist_on": "FALSE", "ADD(n, 2)": "4", "n": "2", "2": "2", "more": "4", "[P mist_on]": "FALSE",
		"SEL([P mist_on], T#1s, T#1500ms)": "1 s", "T#1s": "1 s", "T#1500ms": "1.5 s"}, said)
}

// Words have the names of their bits, and what lies across them.
func TestWords(t *testing.T) {
	b := bench(t, "PROGRAM p\nVAR on AT %IX0.1 : BOOL; level AT %IW2 : INT; lamp AT %QX1.7 : BOOL; "+
		"far AT %MD6 : DINT; bit AT %MX6.3 : BOOL;\nEND_VAR\n"+
		"lamp := on AND bit;\nfar := level;\nEND_PROGRAM\n")
	var got []string
	for _, w := range b.Words() {
		line := w.Address
		for n, name := range w.Bits {
			if name != "" {
				line += fmt.Sprint(" ", n, "=", name)
			}
		}
		for _, v := range w.Wide {
			line += fmt.Sprint(" ", v.Name, v.From, "+", v.Size)
		}
		got = append(got, line)
	}
	assert.Equal(t, []string{"%IW0 1=on", "%IW2 level0+16", "%QW0 15=lamp", "%MW6 3=bit far0+32", "%MW8 far-16+32"}, got)
}
