package grade_test

import (
	"encoding/json"
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/folder"
)

// FuzzWholeWay: no exercise and no hand-in makes reading, grading or explaining panic, and the same two give the same bytes. What is
// fuzzed is the exercise's YAML and the text that is handed in to it; the rest of the folder is the demo course's.
func FuzzWholeWay(f *testing.F) {
	folders := map[string]exercise.Files{}
	dirs, err := filepath.Glob(filepath.Join(course, "exercises/*"))
	require.NoError(f, err)
	for _, dir := range dirs {
		files, err := folder.Open(dir)
		require.NoError(f, err)
		name := filepath.Base(dir)
		folders[name] = files
		handins, err := filepath.Glob(filepath.Join(course, "handins", name, "*"))
		require.NoError(f, err)
		for _, h := range handins {
			text, err := os.ReadFile(h)
			require.NoError(f, err)
			f.Add(name, string(files["exercise.yaml"]), string(text))
		}
	}
	f.Fuzz(func(t *testing.T, name, yaml, text string) {
		files := exercise.Files{}
		for path, content := range folders[name] {
			files[path] = content
		}
		files["exercise.yaml"] = []byte(yaml)
		e, problems := exercise.Read(files)
		if e == nil {
			require.NotEmpty(t, problems)
			return
		}
		for _, s := range e.Scenarios {
			if s.Script == nil || s.Script.Scans > 100_000 {
				return // it would be right, and slow
			}
		}
		g, problems := grade.Prepare(e)
		if g == nil {
			require.NotEmpty(t, problems)
			return
		}
		first, _ := g.Grade("f.st", []*source.File{source.NewFile("f.st", text)})
		again, _ := g.Grade("f.st", []*source.File{source.NewFile("f.st", text)})
		one, err := json.Marshal(first)
		require.NoError(t, err)
		two, err := json.Marshal(again)
		require.NoError(t, err)
		require.Equal(t, string(one), string(two))
		assert.LessOrEqual(t, first.Earned, first.Points)
		for _, sees := range []grade.Sees{grade.SeesMarks, grade.SeesFirst, grade.SeesShown, grade.SeesAll} {
			_, err := grade.ForLearner(one, e, sees)
			require.NoError(t, err)
		}
		g.Missing([]*source.File{source.NewFile("f.st", text)})
	})
}
