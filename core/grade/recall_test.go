package grade_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"slices"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/source"
)

func goOn() bool { return false }

// eachHandin reads every hand-in of the demo course.
func eachHandin(t *testing.T, do func(t *testing.T, g *grade.Grader, file string, files []*source.File)) {
	all, err := filepath.Glob(filepath.Join(course, "handins/*/*"))
	require.NoError(t, err)
	require.Greater(t, len(all), 50)
	for _, path := range all {
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		name, file := filepath.Base(filepath.Dir(path)), filepath.Base(path)
		t.Run(name+"/"+file, func(t *testing.T) {
			do(t, grader(t, name), file, []*source.File{source.NewFile(file, string(text))})
		})
	}
}

// What is made again when somebody looks is what grading gave, though only marks and the traces of what went wrong were kept.
func TestRecall(t *testing.T) {
	eachHandin(t, func(t *testing.T, g *grade.Grader, file string, files []*source.File) {
		whole, evidence := g.Grade(file, files)
		h := g.Read(file, files)
		require.NoError(t, h.Play(goOn, grade.Every))
		h.Mark()
		result, kept := stored(t, h)
		explained, recalled, err := g.Recall(goOn, result, kept, file, files, grade.Every)
		require.NoError(t, err)
		assert.JSONEq(t, written(t, evidence), written(t, recalled))
		assert.Equal(t, written(t, whole), string(explained), "its reasons too, to the byte")
		if whole.Earned == whole.Points {
			assert.Empty(t, kept)
		}
	})
}

// Where running again takes too long, what was kept is shown, and the rest is empty.
func TestRecallGivesUp(t *testing.T) {
	g := grader(t, "mist-hold-in")
	files := []*source.File{source.NewFile("slow.st",
		"PROGRAM p\nVAR i, n : DINT; END_VAR\nFOR i := 1 TO 14000 DO n := n + i; END_FOR;\nmist_valve := mist_on;\nEND_PROGRAM\n")}
	h := g.Read("slow.st", files)
	require.NoError(t, h.Play(goOn, grade.Every))
	h.Mark()
	result, kept := stored(t, h)
	require.NotEmpty(t, kept)
	_, recalled, err := g.Recall(func() bool { return true }, result, kept, "slow.st", files, grade.Every)
	require.NoError(t, err)
	require.Len(t, recalled, len(g.Exercise.Scenarios))
	for _, e := range recalled {
		assert.NotZero(t, e.Expected.Scans)
		wrong := h.Result.Scenarios[indexOf(g.Exercise, e.Scenario)].Earned < g.Exercise.Scenarios[indexOf(g.Exercise, e.Scenario)].Points
		assert.Equal(t, wrong, e.Actual.Scans > 0, e.Scenario)
	}
}

// However much a hand-in's outputs change, little is kept of it; what is not is made again.
func TestKeepIsBounded(t *testing.T) {
	g := grader(t, "mist-hold-in")
	files := []*source.File{source.NewFile("chatter.st", "PROGRAM p\nVAR c, n : BOOL; END_VAR\nc := NOT c;\nmist_valve := c;\nEND_PROGRAM\n")}
	long := *g.Exercise
	long.Scenarios = slices.Clone(long.Scenarios)
	for i := range long.Scenarios {
		script := *long.Scenarios[i].Script
		script.Scans = 10_000
		long.Scenarios[i].Script = &script
	}
	g, problems := grade.Prepare(&long)
	require.Empty(t, problems)
	h := g.Read("chatter.st", files)
	require.NoError(t, h.Play(goOn, grade.Every))
	h.Mark()
	result, kept := stored(t, h)
	assert.Less(t, len(written(t, kept)), 100_000)
	_, recalled, err := g.Recall(goOn, result, kept, "chatter.st", files, grade.Every)
	require.NoError(t, err)
	assert.JSONEq(t, written(t, h.Evidence), written(t, recalled))
}

func indexOf(e *exercise.Exercise, scenario string) int {
	for i, s := range e.Scenarios {
		if s.Name == scenario {
			return i
		}
	}
	return -1
}

// stored is a marked hand-in as it comes back from where it was kept.
func stored(t *testing.T, h *grade.Handin) (json.RawMessage, []grade.Kept) {
	var kept []grade.Kept
	require.NoError(t, json.Unmarshal([]byte(written(t, h.Keep())), &kept))
	record, err := h.Record()
	require.NoError(t, err)
	return record, kept
}

func written(t *testing.T, v any) string {
	text, err := json.Marshal(v)
	require.NoError(t, err)
	return string(text)
}

// A run never executes more than is said beforehand of the program alone.
func TestLongest(t *testing.T) {
	bounded := 0
	eachHandin(t, func(t *testing.T, g *grade.Grader, file string, files []*source.File) {
		_, code, _ := grade.Compile(files, grade.Points(g.Exercise))
		if code == nil {
			return
		}
		for _, s := range g.Exercise.Scenarios {
			run, err := code.Step(s.Script, nil)
			require.NoError(t, err)
			most := code.Longest(s.Script.Scans)
			assert.LessOrEqual(t, run.Executed, most, s.Name)
			if most < machine.Budget*s.Script.Scans {
				bounded++
			}
		}
	})
	assert.Greater(t, bounded, 100, "most programs have no loop")
}
