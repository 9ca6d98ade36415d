package api_test

import (
	"path/filepath"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/folder"
	"celandine/service/servicetest"
)

// looked waits until a hand-in was looked at closer.
func looked(t *testing.T, by *client.Client, id int64) *client.Look {
	t.Helper()
	var look *client.Look
	require.Eventually(t, func() bool {
		h, err := by.Handin(ctx, id)
		look = h.Look
		return err == nil && look != nil
	}, servicetest.Patience, servicetest.Moment)
	return look
}

const noHold = "PROGRAM mine\nmist_valve := mist_on AND mist_off;\nEND_PROGRAM\n"

func TestAWrongHandinIsNamed(t *testing.T) {
	s := servicetest.Start(t, true, servicetest.Looking)
	id := handIn(t, s.As(t, "liam"), "mist-hold-in", noHold, "").ID
	look := looked(t, s.As(t, "nadia"), id)
	require.NotNil(t, look.Mistake)
	assert.Contains(t, look.Mistake.Words, "mist_valve is left out (line 2)")
	assert.NotEmpty(t, look.Mistake.Hint)
	assert.Equal(t, "differs", look.Verdict)
	require.NotNil(t, look.Difference)
	assert.Equal(t, "scan 1: mist_valve expected TRUE, was FALSE", look.Difference.Say)
	assert.Equal(t, []string{"0 s: press mist_on", "10 ms: release mist_on"}, look.Difference.Steps)
	assert.Contains(t, look.Difference.YAML, "{at: scan 1, release: mist_on}")
}

// A program with full marks that still differs: it stops only when the stop button was let go again after some time.
const stillWrong = `PROGRAM mine
VAR long : TON; END_VAR
mist_valve := (mist_on OR mist_valve) AND mist_off;
long(IN := mist_valve, PT := T#20s);
IF long.Q THEN mist_valve := FALSE; END_IF;
END_PROGRAM
`

func TestFullMarksThatStillDiffer(t *testing.T) {
	s := servicetest.Start(t, true, servicetest.Looking)
	id := handIn(t, s.As(t, "liam"), "mist-hold-in", stillWrong, "").ID
	nadia := s.As(t, "nadia")
	h, err := nadia.Handin(ctx, id)
	require.NoError(t, err)
	require.Equal(t, h.Points, *h.Earned)
	look := looked(t, nadia, id)
	assert.Nil(t, look.Mistake)
	assert.Equal(t, "differs", look.Verdict)
	require.NotNil(t, look.Difference)
	assert.Equal(t, 2000, look.Difference.Scan)
	assert.Equal(t, []string{"0 s: press mist_on"}, look.Difference.Steps)

	right := handIn(t, s.As(t, "kemi"), "mist-hold-in", rightMist, "").ID
	assert.Equal(t, "same", looked(t, nadia, right).Verdict)
}

// A learner reads the instructor's sentence, and the script, only where the assignment says so; and never more than that.
func TestWhatLearnersAreToldOfALook(t *testing.T) {
	s := servicetest.Start(t, true, servicetest.Looking)
	nadia, liam := s.As(t, "nadia"), s.As(t, "liam")
	id := handIn(t, liam, "mist-hold-in", "PROGRAM p\nmist_valve := mist_on OR mist_valve AND mist_off;\nEND_PROGRAM\n", "").ID
	whole := looked(t, nadia, id)
	require.NotEmpty(t, whole.Mistake.Says)
	list, err := nadia.Assignments(ctx, 1)
	require.NoError(t, err)
	for _, c := range []struct{ mistake, difference bool }{{false, false}, {true, false}, {false, true}, {true, true}} {
		for _, a := range list {
			if a.Name == "mist-hold-in" {
				a.TellMistake, a.TellDifference = c.mistake, c.difference
				_, err := nadia.Assign(ctx, 1, a.Name, a.Terms)
				require.NoError(t, err)
			}
		}
		h, err := liam.Handin(ctx, id)
		require.NoError(t, err)
		if !c.mistake && !c.difference {
			assert.Nil(t, h.Look)
			continue
		}
		require.NotNil(t, h.Look)
		assert.Empty(t, h.Look.Verdict)
		assert.Equal(t, c.mistake, h.Look.Mistake != nil)
		if c.mistake {
			assert.Equal(t, client.KnownMistake{Says: whole.Mistake.Says}, *h.Look.Mistake)
		}
		assert.Equal(t, c.difference, h.Look.Difference != nil)
		if c.difference {
			assert.Empty(t, h.Look.Difference.YAML)
			assert.Equal(t, whole.Difference.Steps, h.Look.Difference.Steps)
		}
	}
}

func TestInsightGroupsByMistake(t *testing.T) {
	s := servicetest.Start(t, true, servicetest.Looking)
	// The rest of the course is not waited for.
	s.Exec(t, `DELETE FROM unlooked u USING handins h, assignments a
		WHERE u.handin_id = h.id AND h.assignment_id = a.id AND a.exercise <> 'mist-hold-in'`)
	s.Exec(t, "UPDATE revisions SET strength = 100 WHERE strength IS NULL")
	nadia := s.As(t, "nadia")
	handIn(t, s.As(t, "liam"), "mist-hold-in", "PROGRAM p\nmist_valve := mist_on;\nEND_PROGRAM\n", "1")
	handIn(t, s.As(t, "liam"), "mist-hold-in", noHold, "2")
	handIn(t, s.As(t, "liam"), "mist-hold-in", strings.ReplaceAll(noHold, "mine", "again"), "3")
	var i client.Insight
	require.Eventually(t, func() bool {
		var err error
		i, err = nadia.Insight(ctx, 1, "mist-hold-in")
		return err == nil && i.Looking == 0
	}, servicetest.Patience, servicetest.Moment)
	var group client.MistakeGroup
	for _, m := range i.Mistakes {
		for _, h := range m.Handins {
			if h.Person == "Liam Byrne" {
				group = m
				assert.Equal(t, 2, h.Since)
			}
		}
	}
	require.NotEmpty(t, group.Key)
	names := []string{}
	for _, h := range group.Handins {
		names = append(names, h.Person)
	}
	assert.Contains(t, names, "Chiara Vitale", "in ladder, and alike")
	assert.GreaterOrEqual(t, group.Ever, len(names))

	n, err := nadia.Hint(ctx, 1, "mist-hold-in", client.Hinting{Mistake: group.Key, Text: "Look at the hold-in."})
	require.NoError(t, err)
	assert.Equal(t, len(names), n.Told)
	for _, h := range group.Handins {
		whole, err := nadia.Handin(ctx, h.ID)
		require.NoError(t, err)
		require.Len(t, whole.Comments, 1)
		assert.Equal(t, "Look at the hold-in.", whole.Comments[0].Text)
	}
	_, err = nadia.Hint(ctx, 1, "mist-hold-in", client.Hinting{Mistake: "none such", Text: "?"})
	require.ErrorContains(t, err, "No hand-in that counts behaves like this mistake.")
}

// A hand-in that is graded again is looked at again.
func TestGradedAgainIsLookedAtAgain(t *testing.T) {
	s := servicetest.Start(t, true, servicetest.Looking)
	nadia := s.As(t, "nadia")
	id := handIn(t, s.As(t, "liam"), "mist-hold-in", noHold, "").ID
	looked(t, nadia, id)
	s.Exec(t, "UPDATE looks SET words = 'an older look'")
	preview, err := nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in"})
	require.NoError(t, err)
	_, err = nadia.Regrade(ctx, 1, client.Regrading{Exercise: "mist-hold-in", Apply: preview.Key})
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		h, err := nadia.Handin(ctx, id)
		return err == nil && h.Look != nil && h.Look.Mistake != nil && h.Look.Mistake.Words != "an older look"
	}, servicetest.Patience, servicetest.Moment)
}

// A published revision has its strength after a while, though hand-ins wait to be looked at.
func TestTheLibraryTellsTheStrength(t *testing.T) {
	s := servicetest.Start(t, true, servicetest.Looking)
	nadia := s.As(t, "nadia")
	files, err := folder.Open(filepath.Join(servicetest.Root(t), "courses/glasshouse/exercises/mist-hold-in"))
	require.NoError(t, err)
	files["brief.md"] = append(files["brief.md"], " Begin.\n"...)
	_, err = nadia.Push(ctx, "mist-hold-in", client.Folder{Files: files})
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		list, err := nadia.Library(ctx)
		for _, e := range list {
			if e.Name == "mist-hold-in" && e.Strength != nil {
				return assert.Equal(t, 100, *e.Strength)
			}
		}
		return assert.NoError(t, err) && false
	}, servicetest.Patience, servicetest.Moment)
}
