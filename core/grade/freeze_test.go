package grade_test

import (
	"bytes"
	"maps"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/folder"
)

// Frozen, an exercise expects of every hand-in what it expected before, from tables; and says when its solution no longer does that.
func TestFreeze(t *testing.T) {
	dirs, err := filepath.Glob(filepath.Join(course, "exercises/*"))
	require.NoError(t, err)
	for _, dir := range dirs {
		name := filepath.Base(dir)
		t.Run(name, func(t *testing.T) {
			files, err := folder.Read(os.DirFS(filepath.Dir(dir)), name)
			require.NoError(t, err)
			g := grader(t, name)
			tables, err := g.Freeze(string(files["exercise.yaml"]))
			require.NoError(t, err)
			maps.Copy(files, tables)
			frozen := prepared(t, files)
			moved, err := frozen.Moved()
			require.NoError(t, err)
			assert.Empty(t, moved)
			again, err := frozen.Freeze(string(files["exercise.yaml"]))
			require.NoError(t, err)
			assert.NotContains(t, again, "exercise.yaml", "what is frozen stays as it is")
			for table, text := range again {
				assert.Equal(t, string(files[table]), string(text), table)
			}
			handins, err := filepath.Glob(filepath.Join(course, "handins", name, "*"))
			require.NoError(t, err)
			for _, h := range handins {
				assert.Equal(t, lost(gradeFile(t, g, h)), lost(gradeFile(t, frozen, h)), h)
			}
		})
	}
}

func prepared(t *testing.T, files exercise.Files) *grade.Grader {
	e, problems := exercise.Read(files)
	require.NotNil(t, e, "%v", problems)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, "%v", problems)
	return g
}

func TestMovedSolution(t *testing.T) {
	files, err := folder.Read(os.DirFS(filepath.Join(course, "exercises")), "mist-hold-in")
	require.NoError(t, err)
	tables, err := grader(t, "mist-hold-in").Freeze(string(files["exercise.yaml"]))
	require.NoError(t, err)
	maps.Copy(files, tables)
	for name, text := range files {
		if strings.HasPrefix(name, "solution.") {
			files[name] = bytes.ReplaceAll(text, []byte("[mist_off]"), []byte("[mist_off] -- [mist_on]"))
		}
	}
	moved, err := prepared(t, files).Moved()
	require.NoError(t, err)
	require.NotEmpty(t, moved)
	assert.Contains(t, moved[0].String(), "the solution's mist_valve is not that of expected/")
	assert.Contains(t, moved[0].String(), "Run freeze to take what the solution does now.")
}
