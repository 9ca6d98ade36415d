package equivalence_test

import (
	"flag"
	"fmt"
	"os"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"golang.org/x/tools/txtar"
	"pgregory.net/rapid"

	"celandine/core/check"
	"celandine/core/compare"
	"celandine/core/coretest"
	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/oracle"
	"celandine/core/signal"
	"celandine/core/source"
)

var update = flag.Bool("update", false, "write what the results are now")

const period = 10 * time.Millisecond

var panel = []exercise.Point{
	{Name: "mist_on", Type: "BOOL", Device: "button", Address: "%IX0.0"},
	{Name: "mist_off", Type: "BOOL", Device: "button", Address: "%IX0.1", Closed: true},
	{Name: "bed_temp", Type: "INT", Device: "sensor", Address: "%IW2", Initial: 215},
}

func compile(t require.TestingT, text string, panel []exercise.Point) *machine.Code {
	points := []check.Point{{Name: "mist_valve", Type: check.Bool, Address: "%QX0.0"}}
	for _, p := range panel {
		points = append(points, check.Point{Name: p.Name, Type: check.TypeNamed(p.Type), Address: p.Address, Input: true,
			Initial: p.Rest()})
	}
	program, problems := check.Files([]*source.File{source.NewFile("p", text)}, points)
	require.NotNil(t, program, problems)
	code, _ := machine.Compile(program)
	require.NotNil(t, code)
	return code
}

func pair(t require.TestingT, a, b string, slack int) equivalence.Pair {
	p := equivalence.Pair{A: compile(t, a, panel), B: compile(t, b, panel), Period: period,
		Compared: []equivalence.Compared{{A: "mist_valve", B: "mist_valve", Tolerance: compare.Tolerance{Slack: slack}}}}
	for _, point := range panel {
		if strings.Contains(a+b, point.Name) {
			p.Inputs = append(p.Inputs, point)
		}
	}
	return p
}

// Each archive holds two programs, the slack, and what the search comes to; -update writes that.
func TestResults(t *testing.T) {
	coretest.Each(t, "testdata/*.txtar", func(t *testing.T, c *coretest.Case) {
		var slack int
		_, err := fmt.Sscanf(c.Part("panel"), "slack %d", &slack)
		require.NoError(t, err)
		p := pair(t, c.Part("a"), c.Part("b"), slack)
		r, err := p.Search(20_000)
		require.NoError(t, err)
		got := fmt.Sprintf("%s\n", r.Verdict)
		if r.Verdict == equivalence.Differs {
			got = fmt.Sprintf("differs at scan %d, %d events\n", r.Scan, r.Events)
			for _, s := range exercise.StepsByHand(p.Inputs, r.Script, nil) {
				got += s.String() + "\n"
			}
			if r.Fault != nil {
				got += r.Fault.Message + "\n"
			}
		}
		if *update {
			c.Text.Files[len(c.Text.Files)-1].Data = []byte(got)
			require.NoError(t, os.WriteFile(c.Path, txtar.Format(c.Text), 0o644))
			return
		}
		assert.Equal(t, c.Part("result"), got)
		again, err := p.Search(20_000)
		require.NoError(t, err)
		assert.Equal(t, r.Scans, again.Scans, "it takes the same again")
	})
}

// plays tells whether two programs differ on a script of presses, to the scan.
func plays(t require.TestingT, p equivalence.Pair, script *signal.Trace) bool {
	a, err := p.A.Play(script, []string{"mist_valve"})
	require.NoError(t, err)
	b, err := p.B.Play(script, []string{"mist_valve"})
	require.NoError(t, err)
	_, differs := compare.Columns(a.Trace.Columns[0], b.Trace.Columns[0], script.Scans, compare.Tolerance{}, nil)
	return differs
}

// small writes a random program of one output, with a latch, an edge or a timer of some scans.
func small(t *rapid.T, label string) string {
	inputs := []string{"mist_on", "mist_off", "mist_valve", "m", "d.Q", "e.Q"}
	value := rapid.Custom(func(t *rapid.T) string {
		text := ""
		for i := range rapid.IntRange(1, 3).Draw(t, "length") {
			if i > 0 {
				text += rapid.SampledFrom([]string{" AND ", " OR ", " XOR "}).Draw(t, "operator")
			}
			text += rapid.SampledFrom([]string{"", "NOT "}).Draw(t, "sign") + rapid.SampledFrom(inputs).Draw(t, "operand")
		}
		return text
	})
	text := "PROGRAM p\nVAR m : BOOL; d : TON; e : R_TRIG; END_VAR\n"
	for range rapid.IntRange(1, 3).Draw(t, label) {
		v := value.Draw(t, "value")
		text += rapid.SampledFrom([]string{"m := " + v + ";\n", "mist_valve := " + v + ";\n", "d(IN := " + v + ", PT := T#30ms);\n",
			"e(CLK := " + v + ");\n"}).Draw(t, "statement")
	}
	return text + "END_PROGRAM\n"
}

// Where the search says that two programs are the same, no script of some scans tells them apart; where it finds a script, they differ on
// it, and on none of less events that a trial of all of them finds.
func TestTheSearchAgainstAllShortScripts(t *testing.T) {
	const scans = 6
	rapid.Check(t, func(t *rapid.T) {
		p := pair(t, small(t, "a"), small(t, "b"), 0)
		p.Inputs = panel[:2]
		r, err := p.Search(30_000)
		require.NoError(t, err)
		if r.Verdict == equivalence.Differs {
			require.True(t, plays(t, p, r.Script))
		}
		fewest := -1
		for n := range 1 << (2 * scans) { // both inputs in each scan
			script := &signal.Trace{Period: period, Scans: scans}
			events := 0
			for i, input := range p.Inputs {
				var changes []signal.Change
				was := input.Rest()
				for scan := range scans {
					now := int64(n >> (2*scan + i) & 1)
					if now != was {
						events++
					}
					was = now
					changes = append(changes, signal.Change{Scan: scan, Value: now})
				}
				script.Columns = append(script.Columns, signal.Steps(input.Name, signal.Bool, changes))
			}
			if (fewest < 0 || events < fewest) && plays(t, p, script) {
				fewest = events
			}
		}
		switch r.Verdict {
		case equivalence.Same:
			require.Negative(t, fewest, "they are said to be the same")
		case equivalence.Differs:
			require.True(t, fewest < 0 || r.Events <= fewest, "found with %d events, and there is one with %d", r.Events, fewest)
		}
	})
}

// Whatever two programs are, the search ends within its budget, or a little beyond, with a script on which they differ or with none.
func TestAnyTwoPrograms(t *testing.T) {
	for seed := range uint64(60) {
		a, b := oracle.Invent(seed), oracle.Invent(seed+1)
		pa, problems := check.Files([]*source.File{source.NewFile("a", a.Text())}, nil)
		require.NotNil(t, pa, problems)
		pb, problems := check.Files([]*source.File{source.NewFile("b", b.Text())}, nil)
		require.NotNil(t, pb, problems)
		ca, _ := machine.Compile(pa)
		cb, _ := machine.Compile(pb)
		p := equivalence.Pair{A: ca, B: cb, Period: period}
		for _, name := range ca.Inputs() {
			if kind, _ := ca.KindOf(name); kind == signal.Bool {
				p.Inputs = append(p.Inputs, exercise.Point{Name: name, Type: "BOOL", Device: "switch"})
			}
		}
		for _, name := range ca.Outputs() {
			if _, ok := cb.Slot(name); ok {
				p.Compared = append(p.Compared, equivalence.Compared{A: name, B: name})
			}
		}
		r, err := p.Search(4_000)
		require.NoError(t, err)
		assert.Less(t, r.Scans, 10_000, "seed %d", seed)
		if r.Verdict == equivalence.Differs {
			assert.NotNil(t, r.Script, "seed %d", seed)
		}
	}
}

// A program that holds much, or does much in each scan, is searched for as long as any other, and no longer.
func TestLargeProgramsEnd(t *testing.T) {
	for name, body := range map[string]string{
		"much memory": "VAR a : ARRAY [0..90000] OF LINT; n : DINT; END_VAR\na[n MOD 90000] := n;\nn := n + 1;\n",
		"much work":   "VAR i, n : DINT; END_VAR\nFOR i := 1 TO 20000 DO n := n + i; END_FOR;\n",
	} {
		t.Run(name, func(t *testing.T) {
			text := "PROGRAM p\n" + body + "mist_valve := mist_on AND mist_off AND n >= 0;\nEND_PROGRAM\n"
			p := pair(t, text, strings.Replace(text, "mist_valve :=", "mist_valve := NOT", 1)+"\n", 2)
			r, err := p.Search(equivalence.Budget)
			require.NoError(t, err)
			assert.Equal(t, equivalence.Differs, r.Verdict)
			p = pair(t, text, text, 2)
			r, err = p.Search(20_000)
			require.NoError(t, err)
			assert.Equal(t, equivalence.None, r.Verdict)
			assert.Less(t, r.Scans, 80_000)
		})
	}
}

// What only shows when a variable is written from outside is found where that may be.
func TestWhatMayBeWritten(t *testing.T) {
	const once = "PROGRAM p\nVAR limit : INT := 5; n : INT; END_VAR\nIF mist_on THEN n := n + 1; END_IF;\nmist_valve := n > limit;\nEND_PROGRAM\n"
	always := strings.Replace(once, "IF mist_on", "limit := 5;\nIF mist_on", 1)
	p := pair(t, once, always, 0)
	r, err := p.Search(5_000)
	require.NoError(t, err)
	assert.Equal(t, equivalence.None, r.Verdict)
	p.Writes = []signal.Act{{Verb: signal.Write, Name: "limit", Value: "1"}, {Verb: signal.Write, Name: "nothing", Value: "1"}}
	r, err = p.Search(5_000)
	require.NoError(t, err)
	require.Equal(t, equivalence.Differs, r.Verdict)
	assert.Equal(t, 2, r.Events)
	assert.Equal(t, "limit", r.Script.Acts[0].Name)
}

// A lock of ten buttons that five of them open in their order, and that a wrong one starts over, is found.
func TestALockOfTenButtons(t *testing.T) {
	lock := "PROGRAM p\nVAR step : INT; e : ARRAY [0..9] OF R_TRIG; any : BOOL; END_VAR\n"
	var inputs []exercise.Point
	for i := range 10 {
		inputs = append(inputs, exercise.Point{Name: fmt.Sprintf("b%d", i), Type: "BOOL", Device: "button", Address: fmt.Sprintf("%%IX1%d.0", i)})
		lock += fmt.Sprintf("e[%d](CLK := b%d);\nany := any OR e[%d].Q;\n", i, i, i)
	}
	lock += "IF any THEN\nCASE step OF\n"
	for i, b := range []int{1, 6, 3, 8, 5} {
		lock += fmt.Sprintf("%d: IF e[%d].Q THEN step := %d; ELSE step := 0; END_IF;\n", i, b, i+1)
	}
	lock += "END_CASE;\nEND_IF;\nany := FALSE;\nmist_valve := step = 5;\nEND_PROGRAM\n"
	p := equivalence.Pair{Period: period,
		Compared: []equivalence.Compared{{A: "mist_valve", B: "mist_valve", Tolerance: compare.Tolerance{Slack: 2}}}}
	p.Inputs, p.A, p.B = inputs, compile(t, lock, inputs), compile(t, "PROGRAM p\nmist_valve := FALSE;\nEND_PROGRAM\n", inputs)
	r, err := p.Search(equivalence.Budget)
	require.NoError(t, err)
	assert.Equal(t, equivalence.Differs, r.Verdict)
}
