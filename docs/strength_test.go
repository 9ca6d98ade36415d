package docs_test

import (
	"flag"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/strength"
	"celandine/folder"
)

var update = flag.Bool("update", false, "write the table of strength.md anew")

// least is the strength that every exercise of the demo course has.
const least = 95

// shipped are the exercises of the demo course, in the order of their names.
func shipped(t *testing.T) (list []*grade.Grader) {
	t.Helper()
	dirs, err := filepath.Glob("../courses/glasshouse/exercises/*")
	require.NoError(t, err)
	for _, dir := range dirs {
		files, err := folder.Open(dir)
		require.NoError(t, err)
		e, problems := exercise.Read(files)
		require.NotNil(t, e, problems)
		g, problems := grade.Prepare(e)
		require.NotNil(t, g, problems)
		list = append(list, g.Programs())
	}
	return list
}

// The table of strength.md is what is so; -update writes them.
func TestStrength(t *testing.T) {
	page, err := os.ReadFile("strength.md")
	require.NoError(t, err)
	text := string(page)
	exercises := ""
	for _, g := range shipped(t) {
		trial, err := strength.New(g)
		require.NoError(t, err)
		var outcomes []strength.Outcome
		for n := range trial.Len() {
			o, err := trial.Try(n, equivalence.Budget)
			require.NoError(t, err)
			outcomes = append(outcomes, o)
		}
		s := trial.Sum(outcomes)
		assert.GreaterOrEqual(t, s.Percent, least, g.Exercise.Name)
		exercises += fmt.Sprintf("| %s | %d | %d | %d | %d %% |\n", g.Exercise.Name, s.Mutants, s.Caught, s.Same, s.Percent)
	}
	text = between(t, text, "| exercise | wrong programs |", exercises)
	if *update {
		require.NoError(t, os.WriteFile("strength.md", []byte(text), 0o644))
		return
	}
	assert.Equal(t, string(page), text, "go test ./docs -run Strength -update")
}

// between puts rows into the table that begins with a head.
func between(t *testing.T, text, head, rows string) string {
	t.Helper()
	lines := strings.SplitAfter(text, "\n")
	from := slices.IndexFunc(lines, func(l string) bool { return strings.HasPrefix(l, head) }) + 2
	require.Greater(t, from, 1, head)
	to := from
	for to < len(lines) && strings.HasPrefix(lines[to], "|") {
		to++
	}
	return strings.Join(lines[:from], "") + rows + strings.Join(lines[to:], "")
}
