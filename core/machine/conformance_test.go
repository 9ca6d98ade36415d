package machine_test

import (
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/archive"
	"celandine/core/check"
	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// TestConformance plays each archive's script and compares every scan with its
// expected table; a value holds until a later row changes it, except a TIME, which is compared in the rows alone.
func TestConformance(t *testing.T) {
	archive.Each(t, "conformance", func(t *testing.T, a *archive.Archive) {
		want := a.Table(t, "trace")
		var watch []string
		for _, c := range want.Columns {
			watch = append(watch, c.Name)
		}
		run, err := a.Code.Play(a.Script, watch)
		require.NoError(t, err)
		checkFault(t, run, strings.TrimSpace(a.Part("fault")))
		compare(t, run.Trace, want, a.Part("trace"))
	})
}

func checkFault(t *testing.T, run *machine.Run, want string) {
	if want == "" {
		require.Nil(t, run.Fault)
		return
	}
	require.NotNil(t, run.Fault)
	line, column := run.Fault.Span.File.Position(run.Fault.Span.Start)
	assert.Contains(t, fmt.Sprintf("scan %d at %d:%d: %s", run.Fault.Scan, line, column, run.Fault.Message), want)
	assert.Equal(t, run.Fault.Scan, run.Trace.Scans)
}

func compare(t *testing.T, got, want *signal.Trace, table string) {
	rows := map[int]bool{}
	for _, line := range strings.Split(table, "\n")[1:] {
		var scan int
		if n, _ := fmt.Sscanf(line, "%d,", &scan); n == 1 {
			rows[scan] = true
		}
	}
	for i, c := range want.Columns {
		for scan := 0; scan < got.Scans; scan++ {
			if c.Kind == signal.Time && !rows[scan] {
				continue
			}
			assert.Equal(t, c.Kind.Format(c.At(scan)), c.Kind.Format(got.Columns[i].At(scan)), "%s at scan %d", c.Name, scan)
		}
	}
}

func compile(t testing.TB, text string, points []check.Point) *machine.Code {
	t.Helper()
	file, problems := syntax.Parse(source.NewFile("program", text))
	require.Empty(t, problems)
	program, problems := check.Check([]*syntax.File{file}, points)
	require.NotNil(t, program, "%v", problems)
	code, problems := machine.Compile(program)
	require.NotNil(t, code, "%v", problems)
	return code
}

// A force holds against every write of a scan, and one on an input holds its image.
func TestForceWinsOverEveryWrite(t *testing.T) {
	code := compile(t, `PROGRAM p
VAR_INPUT a : BOOL; END_VAR
VAR_OUTPUT fan, seen : BOOL; END_VAR
LADDER
RUNG [a] -- (fan) -- [fan] -- (seen);
END_LADDER
END_PROGRAM`, nil)
	m := code.Start(10 * time.Millisecond)
	fan, _ := code.Slot("fan")
	seen, _ := code.Slot("seen")
	a, _ := code.Slot("a")
	m.Write(a, 1)
	m.Force(fan, 0)
	require.Nil(t, m.Scan())
	assert.Equal(t, int64(0), m.Read(fan))
	assert.Equal(t, int64(0), m.Read(seen), "the contact behind the coil sees the force")
	m.Release(fan)
	require.Nil(t, m.Scan())
	assert.Equal(t, int64(1), m.Read(fan))
	assert.Equal(t, int64(1), m.Read(seen))
}

// A force on a block's input or output stands between the power and the block,
// though one instruction does all three otherwise; what ran before is kept.
func TestForceInsideABlock(t *testing.T) {
	code := compile(t, `PROGRAM p
VAR_INPUT a : BOOL; END_VAR
VAR_OUTPUT vent : BOOL; END_VAR
VAR settle : TON; runs : DINT; END_VAR
LADDER
RUNG [a] -- settle(PT := T#30ms) -- (vent);
RUNG ADD(runs, 1) => runs;
END_LADDER
END_PROGRAM`, nil)
	slot := func(name string) machine.Slot {
		s, ok := code.Slot(name)
		require.True(t, ok, name)
		return s
	}
	m := code.Start(10 * time.Millisecond)
	m.Write(slot("a"), 1)
	for range 10 {
		require.Nil(t, m.Scan())
	}
	require.Equal(t, int64(1), m.Read(slot("vent")))
	m.Force(slot("settle.IN"), 0)
	require.Nil(t, m.Scan())
	assert.Equal(t, int64(0), m.Read(slot("vent")))
	assert.Equal(t, int64(11), m.Read(slot("runs")))
	m.Release(slot("settle.IN"))
	m.Force(slot("settle.Q"), 1)
	require.Nil(t, m.Scan())
	assert.Equal(t, int64(1), m.Read(slot("vent")))
}

// A program that works hard in every scan ends by the budget of the whole run.
func TestRunBudget(t *testing.T) {
	code := compile(t, "PROGRAM p\nVAR_OUTPUT n : DINT; END_VAR\nVAR i : INT; END_VAR\nFOR i := 1 TO 30000 DO n := n + 1; END_FOR;\n"+
		"END_PROGRAM", nil)
	run, err := code.Play(&signal.Trace{Period: time.Millisecond, Scans: signal.MaxScans}, []string{"n"})
	require.NoError(t, err)
	require.NotNil(t, run.Fault)
	assert.Equal(t, "too-long", run.Fault.Code)
	assert.Less(t, run.Fault.Scan, 20_000)
}

// A restored snapshot goes on exactly as the original did.
func TestSnapshotRestores(t *testing.T) {
	code := compile(t, `PROGRAM p
VAR_OUTPUT n : DINT; q : BOOL; END_VAR
VAR t1 : TON; END_VAR
n := n + 1;
t1(IN := n > 3, PT := T#50ms);
q := t1.Q;
END_PROGRAM`, nil)
	m := code.Start(10 * time.Millisecond)
	n, _ := code.Slot("n")
	q, _ := code.Slot("q")
	for range 5 {
		require.Nil(t, m.Scan())
	}
	s := m.Snapshot()
	state := func() (list []int64) {
		for range 10 {
			require.Nil(t, m.Scan())
			list = append(list, m.Read(n), m.Read(q))
		}
		return list
	}
	first := state()
	m.Restore(s)
	assert.Equal(t, first, state())
}

// A scan allocates nothing.
func TestScanAllocatesNothing(t *testing.T) {
	code := compile(t, `PROGRAM p
VAR a, b, c : BOOL; n : INT; t1 : TON; c1 : CTU; END_VAR
LADDER
RUNG { [a] | [b] } -- [/c] -- (a);
RUNG [a] -- t1(PT := T#1s) -- (b);
RUNG [P b] -- c1(PV := 3) -- (c);
RUNG ADD(n, 1) => n;
END_LADDER
END_PROGRAM`, nil)
	m := code.Start(10 * time.Millisecond)
	assert.Zero(t, testing.AllocsPerRun(100, func() { m.Scan() }))
}
