package machine_test

import (
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
