package strength_test

import (
	"maps"
	"os"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/equivalence"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/mutate"
	"celandine/core/source"
	"celandine/core/strength"
	"celandine/core/workshop"
	"celandine/folder"
)

const exercises = "../../courses/glasshouse/exercises/"

func prepare(t *testing.T, files exercise.Files) *grade.Grader {
	t.Helper()
	e, problems := exercise.Read(files)
	require.NotNil(t, e, problems)
	g, problems := grade.Prepare(e)
	require.NotNil(t, g, problems)
	return g
}

func outcomes(t *testing.T, g *grade.Grader) (*strength.Trial, []strength.Outcome) {
	t.Helper()
	trial, err := strength.New(g)
	require.NoError(t, err)
	var list []strength.Outcome
	for n := range trial.Len() {
		o, err := trial.Try(n, equivalence.Budget/8)
		require.NoError(t, err)
		list = append(list, o)
	}
	return trial, list
}

// alone is an exercise with its first scenario alone, and no rules.
func alone(t *testing.T, files exercise.Files) exercise.Files {
	t.Helper()
	form, err := exercise.FormOf(string(files["exercise.yaml"]))
	require.NoError(t, err)
	var edits []exercise.Edit
	for n := len(form.Scenarios) - 1; n > 0; n-- {
		edits = append(edits, exercise.Edit{Do: exercise.Remove, At: "scenarios/" + string(rune('0'+n))})
	}
	if len(form.Rules) > 0 {
		edits = append(edits, exercise.Edit{Do: exercise.Remove, At: "rules"})
	}
	text, err := exercise.Rewrite(string(files["exercise.yaml"]), edits)
	require.NoError(t, err)
	out := maps.Clone(files)
	out["exercise.yaml"] = []byte(text)
	return out
}

// right lists the programs that earn full marks in a whole exercise with their pieces in another order, or a scan later.
func right(t *testing.T, files exercise.Files) (list []*source.File) {
	t.Helper()
	g := prepare(t, files).Programs()
	for _, s := range g.Exercise.Solutions {
		for _, m := range mutate.Right(source.NewFile(s.Name, s.Text), grade.Points(g.Exercise)) {
			f := source.NewFile(s.Name, m.Text)
			h, err := strength.Read(g, f)
			require.NoError(t, err)
			if h.Result.Earned == h.Result.Points {
				list = append(list, f)
			}
		}
	}
	return list
}

// What slips through is caught by the scenario that is offered for it, whatever the exercise; and no right program loses marks in it.
func TestTheScenarioOfferedCatchesIt(t *testing.T) {
	dirs, err := os.ReadDir(exercises)
	require.NoError(t, err)
	offered, tried := 0, 0
	for _, dir := range dirs {
		t.Run(dir.Name(), func(t *testing.T) {
			files, err := folder.Open(exercises + dir.Name())
			require.NoError(t, err)
			others := right(t, files)
			files = alone(t, files)
			_, list := outcomes(t, prepare(t, files))
			for _, o := range list {
				if o.Found == nil {
					continue
				}
				offered++
				changed, err := workshop.AddScenario(files, o.Found.Name, o.Found.Steps, o.Found.For)
				require.NoError(t, err)
				more := maps.Clone(files)
				maps.Copy(more, changed)
				g := prepare(t, more).Programs()
				h, err := strength.Read(g, source.NewFile(o.File, o.Text))
				require.NoError(t, err)
				assert.Less(t, h.Result.Earned, h.Result.Points, "%s\n%s", o.Mistake, o.Found.YAML())
				for _, f := range others {
					if f.Text == o.Text {
						continue // the whole exercise lets it slip through too
					}
					h, err := strength.Read(g, f)
					require.NoError(t, err)
					tried++
					assert.Equal(t, h.Result.Points, h.Result.Earned, "%s\n%s\n%s", o.Mistake, o.Found.YAML(), f.Text)
				}
			}
		})
	}
	assert.Greater(t, offered, 50)
	t.Logf("%d scenarios offered, tried %d times on right programs", offered, tried)
}

func TestSum(t *testing.T) {
	g := prepare(t, must(folder.Open(exercises+"mist-hold-in")))
	trial, err := strength.New(g)
	require.NoError(t, err)
	s := trial.Sum([]strength.Outcome{
		{Kind: "contact-inverted", Caught: []string{"stays on after release"}},
		{Kind: "contact-inverted", Caught: []string{"stays on after release", "stop wins over start"}},
		{Kind: "contact-inverted", Caught: []string{}, Rule: true},
		{Kind: "edge-left-out", Caught: []string{}, Verdict: equivalence.Differs},
		{Kind: "edge-left-out", Caught: []string{}, Verdict: equivalence.None},
		{Kind: "edge-left-out", Caught: []string{}, Verdict: equivalence.Same},
	})
	assert.Equal(t, 75, s.Percent)
	assert.Equal(t, [3]int{4, 3, 2}, [3]int{s.Mutants, s.Caught, s.Same})
	assert.Len(t, s.Slipped, 1)
	assert.Equal(t, strength.ByKind{Kind: "contact-inverted", Words: "contact inverted", Mutants: 3, Caught: 3}, s.Kinds[0])
	assert.Equal(t, strength.ByWhich{Scenario: "stays on after release", Caught: 2, Alone: 1}, s.Scenarios[0])
	assert.Equal(t, strength.ByWhich{Scenario: "", Caught: 1, Alone: 1}, s.Scenarios[len(s.Scenarios)-1])
}

func must(files exercise.Files, err error) exercise.Files {
	if err != nil {
		panic(err)
	}
	return files
}

func TestTheSameBytesAgain(t *testing.T) {
	g := prepare(t, must(folder.Open(exercises+"heater-trip")))
	_, a := outcomes(t, g)
	_, b := outcomes(t, g)
	assert.Equal(t, a, b)
}
