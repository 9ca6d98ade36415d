package docs_test

import (
	"flag"
	"fmt"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/compare"
	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/mutate"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/strength"
	"celandine/folder"
)

var update = flag.Bool("update", false, "write the tables of strength.md anew")

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

// The tables of strength.md are what is so; -update writes them.
func TestStrength(t *testing.T) {
	page, err := os.ReadFile("strength.md")
	require.NoError(t, err)
	text := string(page)
	exercises, searches := "", ""
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
		searches += searched(t, g)
	}
	text = between(t, text, "| exercise | wrong programs |", exercises)
	text = between(t, text, "| exercise | found by search |", searches)
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

// random is how many scans random scripts have at least, for a search may need but a few.
const random = 2_000

// searched looks for every mistake in a solution by the search, and by random scripts of as many scans.
func searched(t *testing.T, g *grade.Grader) string {
	var bySearch, byRandom []int // events
	all, most := 0, 0
	for _, s := range g.Exercise.Solutions {
		right, err := strength.ReferenceOf(g, source.NewFile(s.Name, s.Text))
		require.NoError(t, err)
		for i, m := range mutate.Of(source.NewFile(s.Name, s.Text), grade.Points(g.Exercise), 3*g.Exercise.Period) {
			wrong, err := strength.Read(g, source.NewFile(s.Name, m.Text))
			require.NoError(t, err)
			p, whole, err := strength.PairOf(g, right, wrong)
			require.NoError(t, err)
			r, err := p.Search(equivalence.Budget / 4)
			require.NoError(t, err)
			if r.Verdict == equivalence.Same || !whole {
				continue
			}
			all++
			if r.Verdict == equivalence.Differs {
				bySearch, most = append(bySearch, r.Events), max(most, r.Scans)
			}
			if events, ok := guessed(t, p, max(r.Scans, random), uint64(i)); ok {
				byRandom = append(byRandom, events)
			}
		}
	}
	return fmt.Sprintf("| %s | %d of %d | %d of %d | %s | %s | %d |\n", g.Exercise.Name, len(bySearch), all, len(byRandom), all,
		median(bySearch),
		median(byRandom), most)
}

func median(list []int) string {
	if len(list) == 0 {
		return "–"
	}
	slices.Sort(list)
	return fmt.Sprint(list[len(list)/2])
}

// guessed plays random scripts, of as many scans in all, and counts the events up to the first difference.
func guessed(t *testing.T, p equivalence.Pair, scans int, seed uint64) (events int, found bool) {
	r := rand.New(rand.NewPCG(seed, 17))
	names := [2][]string{}
	for _, c := range p.Compared {
		names[0], names[1] = append(names[0], c.A), append(names[1], c.B)
	}
	for played := 0; played < scans; played += 500 {
		script := &signal.Trace{Period: p.Period, Scans: min(500, scans-played)}
		pace := []int{2, 20, 200}[r.IntN(3)]
		for _, input := range p.Inputs {
			changes := []signal.Change{{Scan: 0, Value: input.Rest()}}
			for at := r.IntN(pace); at < script.Scans; at += 1 + r.IntN(pace) {
				v := int64(r.IntN(2))
				if input.Kind() != signal.Bool {
					v = int64(r.IntN(2000) - 1000)
				}
				changes = append(changes, signal.Change{Scan: at, Value: v})
			}
			script.Columns = append(script.Columns, signal.Steps(input.Name, input.Kind(), changes))
		}
		a, err := p.A.Play(script, names[0])
		require.NoError(t, err)
		b, err := p.B.Play(script, names[1])
		require.NoError(t, err)
		end := min(a.Trace.Scans, b.Trace.Scans)
		first := end
		for i, c := range p.Compared {
			if scan, differs := compare.Columns(a.Trace.Columns[i], b.Trace.Columns[i], end, c.Tolerance, nil); differs {
				first = min(first, scan)
			}
		}
		if first == end && a.Trace.Scans == b.Trace.Scans {
			continue
		}
		for _, c := range script.Columns {
			events += len(c.Changes(0, first+1)) - 1
		}
		return events, true
	}
	return 0, false
}
