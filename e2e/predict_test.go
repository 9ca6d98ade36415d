package e2e

import (
	"fmt"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/e2e/browser"
	"celandine/service/servicetest"
)

// reads waits until the cursor of a timing diagram that is drawn reads so.
func reads(t *testing.T, p *browser.Page, words string) {
	t.Helper()
	require.NoError(t, p.Until("the cursor to read "+words, "document.querySelector('[data-testid=reading]')?.innerText.includes('"+words+"')"))
}

// pressed presses keys one after the other on the diagram.
func pressed(t *testing.T, p *browser.Page, keys ...string) {
	t.Helper()
	for _, key := range keys {
		require.NoError(t, p.Press(key))
	}
}

// A learner draws what a program will do, by mouse and by keys, calls a trace erratic, and sees where it first parts from what happens,
// and plays that beside the drawing. Nothing runs before that.
func TestATraceIsPredicted(t *testing.T) {
	t.Parallel()
	s, p := look(t, "liam", "#/exercise/predict-toggle", "Every scan counts.")
	lane := func(scan float64) float64 { return (scan + 0.5) / 24 }
	require.NoError(t, p.See("Nothing is drawn yet"))
	require.NoError(t, p.Draw("[data-field=bench_lamp]", lane(8), lane(11))) // four scans, by mouse
	reads(t, p, "scan 11 (0.11 s): lamp_button TRUE, bench_power TRUE, bench_lamp TRUE")
	require.NoError(t, p.Draw("[data-field=bench_lamp]", lane(9), lane(9))) // a press turns it, up to its next change
	reads(t, p, "scan 9 (0.09 s): lamp_button TRUE, bench_power TRUE, bench_lamp FALSE")
	require.NoError(t, p.Click("Undo"))
	reads(t, p, "bench_lamp TRUE")
	require.NoError(t, p.Click("Redo"))
	reads(t, p, "bench_lamp FALSE")
	_, err := browser.Evaluate[bool](p, "document.querySelector('[role=application]').focus(), true")
	require.NoError(t, err)
	pressed(t, p, kb.ArrowRight, "p", kb.ArrowRight, " ") // one scan at 10; from 12 on
	reads(t, p, "scan 12 (0.12 s): lamp_button TRUE, bench_power TRUE, bench_lamp TRUE")
	accessible(t, p)
	picture(t, p, "predict")

	require.NoError(t, p.Click("pressed by hand"))
	require.NoError(t, p.Click("No, it is erratic"))
	require.NoError(t, p.Choose("Why it is erratic", "The press lasts an odd or an even number of scans"))
	accessible(t, p)
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("Nothing was drawn here.")) // of what was left out
	require.NoError(t, p.Until("the mark", "document.querySelector('[data-testid=mark]').innerText.startsWith('6')"))
	list, err := s.As(t, "liam").Handins(t.Context(), "predict-toggle", client.Wanted{})
	require.NoError(t, err)
	require.Len(t, list, 1)
	whole, err := s.As(t, "liam").Handin(t.Context(), list[0].ID)
	require.NoError(t, err)
	assert.Contains(t, whole.Text, "# held for exactly five scans\nscan,bench_lamp\n0,0\n8,1\n9,0\n10,1\n11,0\n12,1\n")
}

// What is drawn is kept as it is drawn, and there again on another day.
func TestADrawingIsKept(t *testing.T) {
	t.Parallel()
	s, p := look(t, "liam", "#/exercise/predict-two-coils", "A change may be 2 scans off.")
	require.NoError(t, p.Draw("[data-field=fan]", 20.5/100, 69.5/100))
	require.NoError(t, p.Until("it to be kept", "document.querySelector('[data-kept=service]')"))
	other := visit(t, s, "liam", "#/exercise/predict-two-coils", "A change may be 2 scans off.")
	const drawn = "document.querySelector('[data-lane=\"fan drawn\"]')?.getAttribute('d').split('L').length > 4"
	require.NoError(t, other.Until("what was drawn", drawn))
}

// By finger, on a phone.
func TestATraceIsPredictedByTouch(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/predict-one-pulse", "Every scan counts.")
	require.NoError(t, p.Size(390, 800))
	require.NoError(t, p.DrawByTouch("[data-field=chime]", 5.5/30, 8.5/30))
	require.NoError(t, p.Until("a change", "document.querySelectorAll('[data-change^=\"chime \"]').length === 2"))
	accessible(t, p)
	picture(t, p, "predict-phone")
}

// Where the program does something else than was drawn: the first difference, why, and both on the bench.
func TestAPredictionIsReviewed(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true, servicetest.Looking)
	p := open(t)
	list, err := s.As(t, "dmitri").Handins(t.Context(), "predict-one-pulse", client.Wanted{})
	require.NoError(t, err)
	require.Len(t, list, 1)
	require.NoError(t, p.Enter(s.URL, "dmitri", servicetest.Password, fmt.Sprintf("#/handin/%d", list[0].ID), "light"))
	require.NoError(t, p.See("At scan 6 (60 ms), chime is FALSE; TRUE was drawn."))
	require.NoError(t, p.See("had no power past [P mist_on]"))
	accessible(t, p)
	require.NoError(t, p.Click("Play it beside the drawing"))
	require.NoError(t, p.Until("the bench at the first difference",
		"document.querySelector('[data-playing=\"7\"]')?.innerText.includes('chime drawn')"))
	accessible(t, p)
	picture(t, p, "predict-beside")
	require.NoError(t, p.Click("One scan"))
	require.NoError(t, p.Until("a scan more", "document.querySelector('[data-playing=\"8\"]')"))
	teacher := visit(t, s, "nadia", fmt.Sprintf("#/handin/%d", list[0].ID), "chime is FALSE; TRUE was drawn.")
	require.Eventually(t, func() bool {
		i, err := s.As(t, "nadia").Insight(t.Context(), 1, "predict-one-pulse")
		return err == nil && i.Looking == 0
	}, servicetest.Patience, servicetest.Moment)
	require.NoError(t, teacher.See("Drawn as if: the contact P mist_on senses no edge (rung 1)"))
}

// Any exercise may ask for a prediction before the first run; it costs nothing, and is not asked for twice.
func TestPracticeBeforeTheFirstRun(t *testing.T) {
	t.Parallel()
	s, p := look(t, "liam", "#/exercise/horn-pulse", "no mark comes of it")
	require.NoError(t, p.Draw("[data-field=horn]", 100.5/1200, 299.5/1200))
	require.NoError(t, p.Choose("Speed", "ten times"))
	accessible(t, p)
	picture(t, p, "practice")
	require.NoError(t, p.Click("Run it and see"))
	require.NoError(t, p.See("In “a short press and a long one” they part at scan"))
	require.NoError(t, p.Click("Look at it"))
	require.NoError(t, p.Go(s.URL+"/#/"))
	require.NoError(t, p.See("not yet tried"))
	require.NoError(t, p.Go(s.URL+"/#/exercise/horn-pulse"))
	require.NoError(t, p.Until("the trace in place of the question", "document.querySelector('[aria-label=\"Bench\"] [role=tab][aria-selected=true]')?.innerText === 'Trace'"))
}

// An instructor makes a program into something to be predicted, and is told what does not hold.
func TestAPredictionIsMade(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/workshop/nadia/predict-toggle/scenarios", "a hand works it")
	require.NoError(t, p.Click("pressed by hand"))
	require.NoError(t, p.Click("Expected"))
	require.NoError(t, p.Choose("What is expected of a prediction", ""))
	require.NoError(t, p.See("Nobody can predict scenario"))
	require.NoError(t, p.Click("Undo"))
	require.NoError(t, p.Click("What is graded"))
	require.NoError(t, p.Set("Another reason", "The lamp is broken"))
	require.NoError(t, p.Click("Add"))
	require.NoError(t, p.Until("four reasons and one", "document.querySelectorAll('ul[aria-label=Reasons] li').length === 5"))
	accessible(t, p)
	require.NoError(t, p.Click("Try it"))
	require.NoError(t, p.Click("Begin"))
	require.NoError(t, p.Draw("[data-field=bench_lamp]", 8.5/24, 12.5/24))
	require.NoError(t, p.Click("What does it earn?"))
	require.NoError(t, p.See("scan 9: bench_lamp is FALSE, and was drawn TRUE"))
	accessible(t, p)
	require.NoError(t, p.Click("Programs"))
	require.NoError(t, p.Click("write a program"))
	require.NoError(t, p.See("Ladder"))
	require.NoError(t, p.Click("Scenarios"))
	require.NoError(t, p.Click("pressed by hand"))
	require.NoError(t, p.See("is one of an exercise in which a trace is predicted"))
	assert.NoError(t, p.Click("Undo"))
}
