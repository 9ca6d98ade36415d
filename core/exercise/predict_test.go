package exercise_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
)

const foretold = `format: celandine/exercise/1
name: foretold
title: Foretold
kind: predict
reasons: [The press is too long, Two coils write the lamp]
panel:
  inputs: [{name: button, at: "%IX0.0", device: button}]
  outputs: [{name: lamp, at: "%QX0.0", device: lamp}]
graded: [{signal: lamp}]
scenarios:
  - name: exact
    for: 1s
    expect: solution
  - name: by hand
    by_hand: true
    for: 1s
    expect: {erratic: The press is too long}
`

func TestAPredictionIsRead(t *testing.T) {
	e, problems := readFiles(foretold, nil)
	require.NotNil(t, e, problems)
	require.Empty(t, problems)
	assert.Equal(t, []string{exercise.TraceFile}, e.Languages)
	assert.True(t, e.Scenarios[0].Shown, "whoever predicts sees the script")
	assert.True(t, e.Scenarios[1].ByHand)
	assert.Equal(t, "The press is too long", e.Scenarios[1].Expect.Erratic)
}

// Each mistake is told where it stands, and how it is mended.
func TestWhatCannotBePredicted(t *testing.T) {
	const ladder = "PROGRAM p\nLADDER\nEND_LADDER\nEND_PROGRAM\n"
	for name, c := range map[string]struct {
		old, new string
		files    exercise.Files
		want     string
	}{
		"a kind that is none": {old: "kind: predict", new: "kind: predicts",
			want: "kind cannot be \"predicts\". Did you mean predict?"},
		"languages": {old: "kind: predict", new: "kind: predict\nlanguages: [st]",
			want: "5:1: error[exercise]: Where a trace is predicted nothing is programmed"},
		"rules": {old: "graded:", new: "rules: [{require: TON, deduct: 1}]\ngraded:",
			want: "there are no rules"},
		"a block by its type": {old: "{signal: lamp}", new: "{block: TON, member: Q}",
			want: "TON.Q means any block of that type. Write signal:"},
		"hidden": {old: "for: 1s", new: "shown: false\n    for: 1s",
			want: `Whoever predicts scenario "exact" has to see its script.`},
		"practice": {old: "for: 1s", new: "predict: true\n    for: 1s",
			want: `Scenario "exact" is predicted as it is.`},
		"checks": {old: "expect: solution", new: "expect: [{signal: lamp, rises: 1}]",
			want: "compared with a trace, not with checks."},
		"too long": {old: "for: 1s", new: "for: 2m",
			want: "Nobody draws 12000 scans; the limit is 10000."},
		"exact and erratic": {old: "    by_hand: true\n",
			want: "What is exact to the scan is never erratic. Add by_hand: true"},
		"another reason": {old: "erratic: The press is too long", new: "erratic: The press is too lang",
			want: "Did you mean The press is too long?"},
		"one reason": {old: ", Two coils write the lamp",
			want: "and there are no reasons to choose from. List at least two"},
		"a reason twice": {old: "Two coils write the lamp", new: "the press is too long",
			want: "This reason stands twice."},
		"erratic and a table": {old: "{erratic: ", new: "{table: t.csv, erratic: ",
			want: "expect has one key."},
		"a starter": {files: exercise.Files{"starter.ladder": []byte(ladder)},
			want: "starter.ladder:1:1: error[exercise]: Where a trace"},
		"two lines of name": {old: "name: exact", new: `name: "exact\nly"`,
			want: "A scenario that is predicted is named in one line."},
		"reasons in vain": {old: "by_hand: true", new: "by_hand: false",
			want: "warning[exercise]: Nobody is asked for these reasons."},
		"no prediction": {old: "kind: predict\n",
			want: "Reasons are chosen from where a trace is predicted. Write kind: predict"},
	} {
		t.Run(name, func(t *testing.T) {
			_, problems := readFiles(strings.Replace(foretold, c.old, c.new, 1), c.files)
			assert.Contains(t, problems, c.want)
		})
	}
}

// Any exercise can ask for a prediction before the first run, of a scenario that learners see.
func TestPracticeIsShown(t *testing.T) {
	text := strings.Replace(whole, "    steps:\nSTEPS\n", "    predict: true\n", 1)
	_, problems := readFiles(text, nil)
	assert.Contains(t, problems, `Scenario "one" is to be predicted, so that learners see its script; it cannot be hidden. Write shown: true.`)
	e, problems := readFiles(strings.Replace(text, "predict: true", "predict: true\n    shown: true", 1), nil)
	require.NotNil(t, e, problems)
	assert.True(t, e.Scenarios[0].Practice)
}

func readFiles(yaml string, more exercise.Files) (*exercise.Exercise, string) {
	files := exercise.Files{"exercise.yaml": []byte(yaml), "brief.md": []byte("Draw."), "solution.st": []byte("PROGRAM p\nEND_PROGRAM")}
	for path, content := range more {
		files[path] = content
	}
	e, problems := exercise.Read(files)
	var said []string
	for _, p := range problems {
		said = append(said, p.String())
	}
	return e, strings.Join(said, "\n")
}
