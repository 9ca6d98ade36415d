package grade_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
)

// foretold is an exercise in which a lamp without an edge is predicted, pressed exactly and by hand, and a lamp that follows its button.
const foretold = `format: celandine/exercise/1
name: foretold
title: Foretold
kind: predict
reasons: [Odd or even, Two coils]
panel:
  inputs: [{name: a, at: "%IX0.0", device: button}]
  outputs: [{name: lamp, at: "%QX0.0", device: lamp}, {name: follows, at: "%QX0.1", device: lamp}]
graded: GRADED
scenarios:
  - {name: exact, points: 4, for: 20 scans, steps: [{at: scan 5, tap: a, for: 3 scans}], expect: solution}
  - {name: by hand, points: 4, by_hand: true, for: 100 scans, steps: [{at: scan 20, tap: a, for: 30 scans}], expect: EXPECT}
`

func foretell(graded, expect string) (*grade.Grader, string) {
	yaml := strings.NewReplacer("GRADED", graded, "EXPECT", expect).Replace(foretold)
	e, problems := exercise.Read(exercise.Files{"exercise.yaml": []byte(yaml), "brief.md": []byte("x"),
		"solution.st": []byte("PROGRAM p\nVAR t : TON; END_VAR\nlamp := a XOR lamp;\nfollows := a;\nt(IN := a, PT := T#100ms);\nEND_PROGRAM")})
	var g *grade.Grader
	if e != nil {
		g, problems = grade.Prepare(e)
	}
	var said []string
	for _, p := range problems {
		said = append(said, p.String())
	}
	return g, strings.Join(said, "\n")
}

func TestPredictionsAreMarked(t *testing.T) {
	const exact = "# exact\nscan,lamp\n0,0\n5,1\n6,0\n7,1\n"
	for name, c := range map[string]struct{ text, earned, loss string }{
		"right":          {exact + "# by hand\nerratic: odd or even\n", "8", ""},
		"another reason": {exact + "# by hand\nerratic: Two coils\n", "4", "by hand, it is erratic, but for another reason than that one"},
		"drawn though erratic": {exact + "# by hand\nscan,lamp\n0,0\n20,1\n", "4",
			`by hand, nobody can tell what happens here: with "press a" a scan later, at scan 21, lamp goes another way from scan 49 on`},
		"nothing is said": {exact, "4", "by hand: Nothing was drawn here."},
		"it changes once": {"# exact\nscan,lamp\n0,0\n5,1\n# by hand\nerratic: Odd or even\n", "4",
			"exact, scan 6: lamp is FALSE, and was drawn TRUE"},
		"a program is no prediction": {"PROGRAM p\nlamp := a XOR lamp;\nEND_PROGRAM\n", "0", ""},
	} {
		t.Run(name, func(t *testing.T) {
			g, problems := foretell("[{signal: lamp}]", "{erratic: Odd or even}")
			require.NotNil(t, g, problems)
			r, evidence := g.Grade("mine.trace", []*source.File{source.NewFile("mine.trace", c.text)})
			assert.Equal(t, c.earned, r.Earned.String())
			assert.Equal(t, c.loss, r.FirstLoss())
			assert.Len(t, evidence, 2)
		})
	}
}

// What a hand does the same way each time can be told, whatever somebody calls it.
func TestAPredictableTraceIsNotErratic(t *testing.T) {
	g, problems := foretell("[{signal: follows}]", "solution")
	require.NotNil(t, g, problems)
	r, _ := g.Grade("mine.trace", []*source.File{source.NewFile("mine.trace", "# by hand\nerratic: Two coils\n")})
	assert.Zero(t, r.Earned)
	assert.Contains(t, r.Scenarios[1].Signals[0].Words(), "follows can be told: it goes the same way")
	r, _ = g.Grade("mine.trace", []*source.File{source.NewFile("mine.trace", "# by hand\nscan,follows\n0,0\n21,1\n49,0\n")})
	assert.Equal(t, "4", r.Earned.String(), "a scan sooner or later is within the slack")
}

// Of a difference the reason is the program's own.
func TestThePredictedProgramHasItsReason(t *testing.T) {
	g, problems := foretell("[{signal: follows}]", "solution")
	require.NotNil(t, g, problems)
	r, _ := g.Grade("mine.trace", []*source.File{source.NewFile("mine.trace", "# exact\nscan,follows\n0,0\n")})
	why := r.Scenarios[0].Signals[0].Why
	require.NotNil(t, why)
	assert.Equal(t, "solution.st", why.Steps[0].Place.File)
	assert.Contains(t, strings.Join(why.Short, " "), "a became TRUE in scan 5 (50 ms)")
}

func TestWhatIsSaidOfHandsHolds(t *testing.T) {
	for name, c := range map[string]struct{ graded, expect, want string }{
		"erratic, and called predictable": {"[{signal: lamp}]", "solution",
			`Nobody can predict scenario "by hand": with "press a" a scan later, at scan 21, lamp goes another way from scan 49 on.`},
		"predictable, and called erratic": {"[{signal: follows}]", "{erratic: Odd or even}", `Scenario "by hand" is not erratic`},
		"a time is not drawn":             {"[{signal: t.ET}]", "solution", "t.ET is a TIME, which is not drawn by hand."},
	} {
		t.Run(name, func(t *testing.T) {
			g, problems := foretell(c.graded, c.expect)
			assert.Nil(t, g)
			assert.Contains(t, problems, c.want)
		})
	}
}

// Programs are marked by the same scripts; nothing is erratic to them.
func TestProgramsOfAPrediction(t *testing.T) {
	g, problems := foretell("[{signal: lamp}]", "{erratic: Odd or even}")
	require.NotNil(t, g, problems)
	shown := g.Exercise.Solutions[0]
	r, _ := g.Programs().Grade(shown.Name, []*source.File{source.NewFile(shown.Name, shown.Text)})
	assert.Equal(t, r.Points, r.Earned)
	r, _ = g.Programs().Grade("p.st", []*source.File{source.NewFile("p.st", "PROGRAM p\nlamp := a;\nEND_PROGRAM")})
	assert.Zero(t, r.Earned)
}
