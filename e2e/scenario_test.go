package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/e2e/browser"
)

// script is the text of what stands in exercise.yaml, once it has come to hold something.
func script(t *testing.T, p *browser.Page, holds string) {
	t.Helper()
	const steps = "[...document.querySelectorAll('ol[aria-label=Steps] [data-at]')].map((e) => e.dataset.at.split('/').slice(-1) + ' ' + e.value)"
	require.NoError(t, p.Until("exercise.yaml with "+holds, steps+".join(', ').includes('"+holds+"')"))
}

// A script is changed in its diagram: an edge is dragged, moved by keys and typed; a stretch is chosen, and pressed; a check is made
// of one; all of it is taken back.
func TestAScenarioIsDrawn(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/workshop/nadia/fogger-run-on/scenarios", "Drag an edge to move it")
	script(t, p, "at 500ms, for 200ms, every , times , at 2s")
	require.NoError(t, p.Until("the solution's trace", "document.querySelector('[data-lane=\"fan does\"]')?.getAttribute('d')"))
	picture(t, p, "scenario")

	const first, second, third = "[data-edge='0-at-0']", "[data-edge='0-for-0']", "[data-edge='1-at-0']"
	require.NoError(t, p.Carry(second, third)) // the end of the tap, to where the next begins
	script(t, p, "at 500ms, for 1.5s")
	require.NoError(t, p.ClickSelector(first))
	require.NoError(t, p.Press(kb.ArrowRight))
	script(t, p, "at 510ms")
	require.NoError(t, p.Click("Undo"))
	script(t, p, "at 500ms, for 1.5s")
	require.NoError(t, p.Click("Undo"))
	script(t, p, "at 500ms, for 200ms")

	require.NoError(t, p.Carry("[data-edge='0-at-0']", "[data-edge='0-at-0']")) // a press that goes nowhere moves nothing
	script(t, p, "at 500ms, for 200ms")
	require.NoError(t, p.Carry("[data-name='fan']", "[data-edge='1-at-0']")) // over a lane, to where the off button is pressed
	require.NoError(t, p.See("Check: TRUE throughout"))
	require.NoError(t, p.Until("the stretch", "document.querySelector('[data-stretch]')"))
	require.NoError(t, p.Choose("Of", "fogger_on"))
	require.NoError(t, p.Set("to", "6s"))
	require.NoError(t, p.Set("from", "5s"))
	require.NoError(t, p.Click("Press for 1 scan"))
	script(t, p, "at 5s, for 1 scan")
	require.NoError(t, p.Click("Break the wire"))
	script(t, p, "at 5s, at 6s")
	require.NoError(t, p.Choose("Of", "fan"))
	require.NoError(t, p.Click("Check: TRUE throughout"))
	require.NoError(t, p.Click("Expected"))
	require.NoError(t, p.See("is TRUE throughout"))
	require.NoError(t, p.See("the solution does not pass"))
	require.NoError(t, p.Click("Take this check out"))
	require.NoError(t, p.See("Expected is what the solution does"))
	require.NoError(t, p.Choose("Of", ""))
	require.NoError(t, p.Click("Do not compare"))
	require.NoError(t, p.See("Not compared"))
	accessible(t, p)

	require.NoError(t, p.Click("Table"))
	require.NoError(t, p.Click("0: fogger_on in scan 0"))
	require.NoError(t, p.Until("the cell", "document.querySelector('[aria-label=\"1: fogger_on in scan 0\"]')"))
	accessible(t, p)
}

// What is pressed on the panel while it records is the script.
func TestAScriptIsRecorded(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/workshop/nadia/fogger-run-on/scenarios", "Drag an edge to move it")
	require.NoError(t, p.ClickSelector("[role=tab]:nth-child(3)"))
	require.NoError(t, p.ClickSelector("[data-record]"))
	require.NoError(t, p.Until("time goes on", "parseFloat(document.querySelector('[data-seconds]')?.innerText) > 0.2"))
	release, err := p.Hold("Fogger ON")
	require.NoError(t, err)
	require.NoError(t, p.Until("the fogger", "document.querySelector('[data-output=fogger]').innerText.includes('runs')"))
	require.NoError(t, release())
	require.NoError(t, p.Until("let go", "document.querySelector('[aria-label=Inputs]').innerText.includes('fogger_on FALSE')"))
	require.NoError(t, p.Click("Stop: this is the script"))
	require.NoError(t, p.ClickSelector("[role=tab]:nth-child(1)"))
	require.NoError(t, p.Until("one tap", "document.querySelectorAll('ol[aria-label=Steps] > li').length === 1"))
	require.NoError(t, p.See("press and let go of fogger_on"))
}

// A change of the solution moves an edge: both are shown, and the instructor says which holds.
func TestTheSolutionMoves(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/workshop/nadia/fogger-run-on/programs", "Known mistakes")
	require.NoError(t, p.Until("the judgement", "document.querySelector('[data-summary^=\"0 errors\"]')"))
	require.NoError(t, p.Until("agreed", "document.querySelector('[data-settled=yes]')"))
	require.NoError(t, p.Write("PROGRAM fogger_run_on\nVAR tail : TOF; END_VAR\nLADDER\n"+
		"RUNG { [fogger_on] | [fogger] } -- [fogger_off] -- (fogger);\nRUNG [fogger] -- tail(PT := T#2s) -- (fan);\nEND_LADDER\nEND_PROGRAM\n"))
	require.NoError(t, p.Click("4 Scenarios"))
	require.NoError(t, p.See("the solution moved"))
	require.NoError(t, p.Click("Expected"))
	require.NoError(t, p.See("from 4 s on. Which holds?"))
	require.NoError(t, p.Until("what it was", "document.querySelector('[data-lane=\"fan was\"]')"))
	picture(t, p, "moved")
	accessible(t, p)
	require.NoError(t, p.Click("What it did before: pin that"))
	require.NoError(t, p.See("expected/the-fan-runs-on-after-the-fogger.csv"))
	require.NoError(t, p.Click("6 Try it"))
	require.NoError(t, p.See("it should be whole"))
	require.NoError(t, p.See("The fan stops with the fogger: nothing lets it run on."))
	require.NoError(t, p.Click("4 Scenarios"))
	require.NoError(t, p.Click("a new press in the tail"))
	require.NoError(t, p.Click("Expected"))
	require.NoError(t, p.Click("What it does now"))
	require.NoError(t, p.See("Expected is what the solution does"))
}

// Two instructors write one exercise: what they change in different files comes together; of the same, each is told and chooses.
func TestTwoWriteAtOnce(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/workshop/nadia/fogger-run-on", "Fogger ON")
	other := visit(t, s, "rosa", "#/workshop/nadia/fogger-run-on", "Fogger ON")
	meetsTrouble(p) // the browser tells of each refused saving
	meetsTrouble(other)
	require.NoError(t, other.Set("Title", "Rosa's title"))
	require.NoError(t, other.Until("saved", "document.querySelector('[data-kept=service]')"))
	require.NoError(t, p.Click("2 Brief"))
	require.NoError(t, p.ClickSelector(".cm-content"))
	require.NoError(t, p.Type("Nadia's word. "))
	require.NoError(t, p.See("Rosa Lindner has changed this exercise, too. Both changes are in it now."))
	require.NoError(t, p.Until("rosa's title", "document.querySelector('[aria-label=Title]').value === \"Rosa's title\""))
	require.NoError(t, p.Until("saved", "document.querySelector('[data-kept=service]')"))

	require.NoError(t, other.Set("Title", "Rosa again"))
	require.NoError(t, other.See("Nadia Brandt has changed this exercise, too."))
	require.NoError(t, other.Until("saved", "document.querySelector('[data-kept=service]')"))
	require.NoError(t, p.Set("Title", "Nadia's title"))
	require.NoError(t, p.See("Rosa Lindner has changed the same part"))
	require.NoError(t, p.Click("Take theirs"))
	require.NoError(t, p.Until("rosa's", "document.querySelector('[aria-label=Title]').value === 'Rosa again'"))
	require.NoError(t, p.Click("Undo"))
	require.NoError(t, p.Until("nadia's, nothing is lost", "document.querySelector('[aria-label=Title]').value === \"Nadia's title\""))
	require.NoError(t, p.Until("saved", "document.querySelector('[data-kept=service]')"))
}

// Every part of the workshop, the library and the courses are read on a phone, in dark colours, and by a screen reader.
func TestTheWorkshopOnAPhone(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/exercises", "Let the fogger run on")
	accessible(t, p)
	require.NoError(t, p.Size(390, 844))
	for _, c := range [][2]string{
		{"#/exercises", "Let the fogger run on"}, {"#/courses", "Glasshouse controls"}, {"#/courses/nadia/glasshouse-controls", "Copy to a class"},
		{"#/workshop/nadia/fogger-run-on/points", "Arrange the devices"}, {"#/workshop/nadia/fogger-run-on/brief", "What it does not tell"},
		{"#/workshop/nadia/fogger-run-on/programs", "Known mistakes"}, {"#/workshop/nadia/fogger-run-on/scenarios", "Choose a stretch"},
		{"#/workshop/nadia/fogger-run-on/marks", "Inside the solution"}, {"#/workshop/nadia/fogger-run-on/try", "An empty program"},
		{"#/workshop/nadia/fogger-run-on/publish", "Everything is new"},
	} {
		require.NoError(t, p.Look(s.URL, c[0], "dark"))
		require.NoError(t, p.See(c[1]), c[0])
		wide, err := browser.Evaluate[int](p, "document.documentElement.scrollWidth")
		require.NoError(t, err)
		assert.LessOrEqual(t, wide, 390, c[0])
		accessible(t, p)
	}
	require.NoError(t, p.Size(1280, 800))
	require.NoError(t, p.Look(s.URL, "#/workshop/nadia/bed-temperature/scenarios", "light"))
	require.NoError(t, p.Click("Table"))
	require.NoError(t, p.Until("a diagram and a table that are whole", "[...document.querySelectorAll('section[aria-label^=Scenario] svg, "+
		"section[aria-label^=Scenario] table')].filter((e) => e.closest('[role=application], [role=region]')).every((e) => "+
		"e.getBoundingClientRect().height <= e.parentElement.clientHeight + 1) && document.querySelectorAll('tbody tr').length === 6"))
}

// A course is made, filled, put in order by keys, copied to a class and taken out as it went in.
func TestACourseIsMade(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/courses", "Glasshouse controls")
	require.NoError(t, p.Set("Title", "Timers alone"))
	require.NoError(t, p.ClickSelector("form[aria-label='New course'] button"))
	require.NoError(t, p.See("Copy to a class"))
	require.NoError(t, p.Set("New section", "First"))
	require.NoError(t, p.ClickSelector("form[aria-label='New section'] button"))
	for _, name := range []string{"vent-settle-delay", "fan-overrun"} {
		require.NoError(t, p.Choose("Exercise for First", name))
		require.NoError(t, p.Click("Put it in"))
		require.NoError(t, p.Until(name, "document.querySelector('a[href$=\"/"+name+"\"]')"))
	}
	require.NoError(t, p.Click("Move fan-overrun up"))
	require.NoError(t, p.Until("saved", "[...document.querySelectorAll('[role=status]')].some((e) => e.innerText === 'Saved')"))
	c, err := s.As(t, "nadia").Course(t.Context(), "nadia", "timers-alone")
	require.NoError(t, err)
	require.Len(t, c.Sections, 1)
	assert.Equal(t, []string{"fan-overrun", "vent-settle-delay"}, c.Sections[0].Exercises)
	require.NoError(t, p.Click("Copy"))
	require.NoError(t, p.See("has the course. Its exercises are hidden until you assign them."))
	packed, err := s.As(t, "nadia").CourseZip(t.Context(), "nadia", "timers-alone")
	require.NoError(t, err)
	again, err := s.As(t, "rosa").ImportCourse(t.Context(), packed)
	require.NoError(t, err)
	assert.Equal(t, c.Sections, again.Sections)
	packedAgain, err := s.As(t, "rosa").CourseZip(t.Context(), "rosa", "timers-alone")
	require.NoError(t, err)
	assert.Equal(t, packed, packedAgain, "byte for byte")
}
