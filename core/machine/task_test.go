package machine_test

import (
	"fmt"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/machine"
	"celandine/core/signal"
)

const twoPrograms = `VAR_GLOBAL order : INT; END_VAR
PROGRAM fast
VAR_EXTERNAL order : INT; END_VAR
VAR_OUTPUT fast_runs, fast_saw : INT; END_VAR
fast_runs := fast_runs + 1; fast_saw := order; order := 1;
END_PROGRAM
PROGRAM slow
VAR_EXTERNAL order : INT; END_VAR
VAR_OUTPUT slow_runs, slow_saw : INT; END_VAR
slow_runs := slow_runs + 1; slow_saw := order; order := 2;
END_PROGRAM
PROGRAM setup
VAR_EXTERNAL order : INT; END_VAR
VAR_OUTPUT setup_runs : INT; END_VAR
setup_runs := setup_runs + 1; order := 9;
END_PROGRAM`

// A slow task sees fewer scans; the lower priority number runs first; a once-task runs in scan 0 before the others.
func TestTasks(t *testing.T) {
	code, err := compile(t, twoPrograms, nil).Schedule([]machine.Task{
		{Program: "fast", Every: 1, Priority: 5}, {Program: "slow", Every: 4, Priority: 1}, {Program: "setup", Once: true, Priority: 9},
	})
	require.NoError(t, err)
	run, err := code.Play(&signal.Trace{Period: 10 * time.Millisecond, Scans: 10},
		[]string{"fast_runs", "slow_runs", "setup_runs", "slow_saw", "fast_saw"})
	require.NoError(t, err)
	at := func(name string, scan int) int64 { return run.Trace.Column(name).At(scan) }
	assert.Equal(t, []int64{10, 3, 1}, []int64{at("fast_runs", 9), at("slow_runs", 9), at("setup_runs", 9)})
	assert.Equal(t, []int64{9, 2, 1, 1}, []int64{at("slow_saw", 0), at("fast_saw", 0), at("fast_saw", 1), at("slow_saw", 4)})
}

func TestTaskProblems(t *testing.T) {
	code := compile(t, twoPrograms, nil)
	for _, c := range []struct {
		tasks []machine.Task
		want  string
	}{
		{[]machine.Task{{Program: "fats", Every: 1}}, "there is no program named fats to run as a task. Did you mean fast?"},
		{[]machine.Task{{Program: "fast"}}, "the task of fast must run every scan or more seldom; every is 0"},
		{[]machine.Task{{Program: "fast", Every: 1}, {Program: "slow", Every: 2}}, "the program setup belongs to no task and would never run"},
	} {
		_, err := code.Schedule(c.tasks)
		assert.EqualError(t, err, c.want)
	}
}

// Replacing the program keeps the values of names whose type is unchanged.
func TestReplaceKeepsValues(t *testing.T) {
	head := "PROGRAM p\nVAR_OUTPUT n : INT; q : BOOL; END_VAR\n"
	first := compile(t, head+"VAR t : TON; gone : DINT; other : INT; END_VAR\nn := n + 1; gone := 3; other := 7;\n"+
		"t(IN := TRUE, PT := T#100ms); q := t.Q;\nEND_PROGRAM", nil)
	second := compile(t, head+"VAR other : DINT; t : TON; fresh : INT := 5; END_VAR\nn := n + 10; other := other + fresh;\n"+
		"t(IN := TRUE, PT := T#100ms); q := t.Q;\nEND_PROGRAM", nil)
	m := first.Start(10 * time.Millisecond)
	for range 5 {
		require.Nil(t, m.Scan())
	}
	m.Replace(second)
	read := func(name string) int64 {
		slot, ok := second.Slot(name)
		require.True(t, ok)
		return m.Read(slot)
	}
	require.Nil(t, m.Scan())
	assert.Equal(t, int64(15), read("n"))
	assert.Equal(t, int64(5), read("other"), "its type has changed, so it began anew")
	assert.Equal(t, int64(50*time.Millisecond), read("t.ET"), "the timer ran on")
	for range 5 {
		require.Nil(t, m.Scan())
	}
	assert.Equal(t, int64(1), read("q"))
	assert.Equal(t, 11, m.Scans())
}

// A type of the same name that holds the same is the same, and what is of it keeps its value; one that holds something else is
// another, and begins anew.
func TestReplaceKeepsWhatHasTheSameType(t *testing.T) {
	const program = "PROGRAM p\nVAR_OUTPUT out : DINT; END_VAR\nVAR kept : kind; END_VAR\n%s\nEND_PROGRAM"
	for name, c := range map[string]struct{ before, set, after, read string }{
		"the same structure": {"STRUCT a : INT; b : BOOL; END_STRUCT", "kept.a := 7;", "STRUCT a : INT; b : BOOL; END_STRUCT", "out := kept.a;"},
		"the same range":     {"INT(0..9)", "kept := 7;", "INT(0..9)", "out := kept;"},
		"the same array":     {"ARRAY[0..1] OF INT", "kept[0] := 7;", "ARRAY[0..1] OF INT", "out := kept[0];"},
		"a member more":      {"STRUCT a : INT; END_STRUCT", "kept.a := 7;", "STRUCT a : INT; b : INT; END_STRUCT", "out := kept.a;"},
		"another member":     {"STRUCT a : INT; END_STRUCT", "kept.a := 7;", "STRUCT b : INT; END_STRUCT", "out := kept.b;"},
		"a wider member":     {"STRUCT a : INT; END_STRUCT", "kept.a := 7;", "STRUCT a : DINT; END_STRUCT", "out := kept.a;"},
		"another base":       {"INT(0..9)", "kept := 7;", "DINT(0..9)", "out := kept;"},
		"without a sign":     {"INT(0..9)", "kept := 7;", "UINT(0..9)", "out := kept;"},
		"a longer array":     {"ARRAY[0..1] OF INT", "kept[0] := 7;", "ARRAY[0..2] OF INT", "out := kept[0];"},
		"an array of other":  {"ARRAY[0..1] OF INT", "kept[0] := 7;", "ARRAY[0..1] OF DINT", "out := kept[0];"},
	} {
		t.Run(name, func(t *testing.T) {
			first := compile(t, "TYPE kind : "+c.before+"; END_TYPE\n"+fmt.Sprintf(program, c.set), nil)
			second := compile(t, "TYPE kind : "+c.after+"; END_TYPE\n"+fmt.Sprintf(program, c.read), nil)
			m := first.Start(10 * time.Millisecond)
			require.Nil(t, m.Scan())
			m.Replace(second)
			require.Nil(t, m.Scan())
			slot, ok := second.Slot("out")
			require.True(t, ok)
			want := int64(0)
			if c.before == c.after {
				want = 7
			}
			assert.Equal(t, want, m.Read(slot))
		})
	}
}
