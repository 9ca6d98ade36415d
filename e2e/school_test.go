package e2e

import (
	"archive/zip"
	"bytes"
	"encoding/base64"
	"fmt"
	"path/filepath"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/e2e/browser"
	"celandine/folder"
	"celandine/service/servicetest"
)

// A class list is looked at, mended, enrolled; a newcomer joins with the code and stands in the grid.
func TestEnrolAndJoinInTheConsole(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/people", "Enrol a class list")
	list := func(text string) {
		require.NoError(t, p.ClickSelector("textarea[aria-label='Class list']"))
		require.NoError(t, p.Set("Class list", text))
		require.NoError(t, p.Click("Look at it"))
	}
	list("login,name\nnoor,Noor Aziz\nNoor,Noor Again\n")
	require.NoError(t, p.See("noor stands in line 2 already."))
	require.NoError(t, p.See("Nothing was enrolled."))
	picture(t, p, "people-wrong")
	list("login,name\nnoor,Noor Aziz\nana,Ana Kovač\n")
	require.NoError(t, p.See("1 new to the class, 1 in it already."))
	require.NoError(t, p.Click("Enrol 1"))
	require.NoError(t, p.See("They are shown this once."))
	picture(t, p, "people-codes")
	text, err := p.Text()
	require.NoError(t, err)
	code := regexp.MustCompile(`[a-z2-7]{4}-[a-z2-7]{4}-[a-z2-7]{4}`).FindString(text)
	require.NotEmpty(t, code)

	other := open(t)
	require.NoError(t, other.Go(s.URL+"/#/join"))
	require.NoError(t, other.See("Join your class"))
	accessible(t, other)
	require.NoError(t, other.Fill("code", code))
	require.NoError(t, other.Fill("password", "sunflowers grow"))
	require.NoError(t, other.ClickSelector("form button"))
	require.NoError(t, other.See("You have handed in nothing yet."))
	require.NoError(t, other.Click("My marks"))
	require.NoError(t, other.See("Of each exercise the best hand-in counts."))
	require.NoError(t, p.Click("Marks"))
	require.NoError(t, p.See("44 graded"))
	require.NoError(t, p.See("Noor Aziz"))
}

// Terms are set in the class's own time; a timed exercise waits for Start; the log says who set it.
func TestTermsInTheConsole(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/assignments", "Europe/Zagreb")
	require.NoError(t, p.Click("Change Hold the mist valve in"))
	require.NoError(t, p.Until("the form", "document.querySelector('form[aria-label^=Terms]')"))
	_, err := browser.Script[bool](p, `const set = (words, value) => { const f = [...document.querySelectorAll('form[aria-label^=Terms] label')].find((l) => l.innerText.startsWith(words)).querySelector('input'); f.value = value; f.dispatchEvent(new Event('input', {bubbles: true})) }
		set('Due', '2032-03-28T18:00'); set('Hand-ins', '3'); set('Minutes', '5'); return true`)
	require.NoError(t, err)
	picture(t, p, "assignments")
	require.NoError(t, p.Click("Save"))
	require.NoError(t, p.See("28 Mar 2032, 18:00"))
	require.NoError(t, p.See("5 min from Start"))
	require.NoError(t, p.Click("Log"))
	require.NoError(t, p.See("change assignment: mist-hold-in"))
	picture(t, p, "log")

	learner := visit(t, s, "liam", "#/exercise/mist-hold-in", "from then on you have 5 minutes")
	require.NoError(t, learner.Click("Start"))
	require.NoError(t, learner.See("Wiring"))
	require.NoError(t, learner.See("3 hand-ins left"))
	require.NoError(t, learner.See("left"))
	picture(t, learner, "timed")
}

// Through the review queue by keys: the next hand-in, a mark by hand with its reason, a comment on a line, which the learner reads.
func TestReviewInTheConsole(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/handin/3", "Mark by hand")
	require.NoError(t, p.Until("the program drawn", "document.querySelector('[aria-label=\"The program, drawn\"] svg')"))
	assert.Empty(t, outOfView(t, p, `[aria-label="The program, drawn"] svg`, ".cm-editor", ".why", "[data-lane='mist_valve actual']",
		"[data-testid=mark]"), "program, reason and trace in one view")
	require.NoError(t, p.Until("line numbers beside their lines", `document.fonts.status === 'loaded' && (() => {
			const tops = (selector) => [...document.querySelectorAll(selector)].map((e) => Math.round(e.getBoundingClientRect().top))
			const lines = tops('.cm-line'), numbers = tops('.cm-lineNumbers .cm-gutterElement').slice(-lines.length)
			return lines.length > 3 && lines.every((y, n) => Math.abs(y - numbers[n]) < 2)
		})()`))
	require.NoError(t, p.Press("j"))
	require.NoError(t, p.Until("the next hand-in", "location.hash.startsWith('#/handin/') && location.hash !== '#/handin/3'"))
	require.NoError(t, p.Until("it to be shown", "document.querySelector('h1') && !document.querySelector('h1').innerText.startsWith('Ana')"))
	require.NoError(t, p.Press("k"))
	require.NoError(t, p.Until("the hand-in before", "location.hash === '#/handin/3'"))
	require.NoError(t, p.See("Ana Kovač, hand-in"))
	require.NoError(t, p.Set("Comment", "Look at the branch.")) // begun before the mark: it stays where the page is fetched anew
	require.NoError(t, p.Press("m"))
	require.NoError(t, p.Until("the form", "document.querySelector('input[minlength=\"3\"]')"))
	require.NoError(t, p.ClickSelector("input[minlength='3']"))
	require.NoError(t, p.Type("The sensor was broken."))
	picture(t, p, "review")
	require.NoError(t, p.Click("Give this mark"))
	require.NoError(t, p.See("Mark given by hand, by Nadia Brandt"))
	require.NoError(t, p.Click("Say"))
	require.NoError(t, p.See("Look at the branch. — Nadia Brandt"))
	require.NoError(t, p.Click("Grade again"))
	require.NoError(t, p.See("1 hand-in by revision 1: no mark changes."))

	learner := visit(t, s, "ana", "#/handin/3", "The sensor was broken.")
	require.NoError(t, learner.See("Look at the branch."))
	require.NoError(t, learner.Look(s.URL, "#/marks", "light"))
	require.NoError(t, learner.See("given by hand"))
	text, err := learner.Text()
	require.NoError(t, err)
	assert.NotContains(t, text, "Mark by hand")
}

// The grid follows hand-ins as they are graded; insight tells what is common, and grading again changes nothing that is right.
func TestGridAndInsight(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/", "44 graded")
	picture(t, p, "grid")
	liam := s.As(t, "liam")
	_, err := liam.HandIn(t.Context(), "vent-interlock",
		program("PROGRAM p\nheater := heat_switch AND NOT vent_switch;\nroof_vent := vent_switch AND NOT heat_switch;\nEND_PROGRAM\n"), "")
	require.NoError(t, err)
	require.NoError(t, p.See("45 graded"))
	require.NoError(t, p.Until("the mark in the grid",
		`document.querySelector("[aria-label='Liam Byrne, Heater and roof vent never together: 10 of 10']")`))
	// By keys from cell to cell, with what first went wrong.
	_, err = browser.Evaluate[bool](p, "(document.querySelector('[data-cell=\"0,0\"]').focus(), true)")
	require.NoError(t, err)
	press(t, p, kb.ArrowRight)
	require.NoError(t, p.See("Ana Kovač, Hold the mist valve in: 0 of 10. In “stays on after release”, "+
		"at scan 300 (3 s), mist_valve should be FALSE"))
	// Sorted by what somebody has in all, and only those whom something is missing of.
	first := func(name string) {
		t.Helper()
		require.NoError(t, p.Until(name, "document.querySelector('tbody th').innerText === "+strconv.Quote(name)))
	}
	first("Ana Kovač")
	require.NoError(t, p.Click("Total"))
	first("Elif Aydın")
	require.NoError(t, p.Click("Late"))
	require.NoError(t, p.See("0 of 12"))
	require.NoError(t, p.Look(s.URL, "#/insight/mist-hold-in", "light"))
	require.NoError(t, p.See("Where it first goes wrong"))
	require.NoError(t, p.Until("where it goes wrong, drawn", "document.querySelector('[aria-label=\"1 first differ at scan 300\"]')"))
	picture(t, p, "insight")
	require.NoError(t, p.Click("See what would change"))
	require.NoError(t, p.See("no mark changes"))
}

// The class by mistake: who made which, a word to all of them; the shortest script that shows it, played beside the solution.
func TestHandinsByMistake(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true, servicetest.Looking)
	p := visit(t, s, "nadia", "#/insight/mist-hold-in", "By mistake")
	nadia := s.As(t, "nadia")
	require.Eventually(t, func() bool {
		i, err := nadia.Insight(t.Context(), 1, "mist-hold-in")
		return err == nil && i.Looking == 0
	}, servicetest.Patience, servicetest.Moment)
	require.NoError(t, p.Go(s.URL+"/#/marks"))
	require.NoError(t, p.Go(s.URL+"/#/insight/mist-hold-in"))
	require.NoError(t, p.See("the branch [mist_valve] is left out (rung 1)"))
	require.NoError(t, p.See("While both buttons are pressed the mist has to be off: stop wins over start."))
	require.NoError(t, p.ClickSelector("[data-mistake='branch left out'] button"))
	require.NoError(t, p.Until("a hint to begin with", "document.querySelector('form textarea')?.value.startsWith('Look at what keeps')"))
	accessible(t, p)
	picture(t, p, "by-mistake")
	require.NoError(t, p.Click("Say it to one"))
	require.NoError(t, p.See("Said to 1."))
	require.NoError(t, p.ClickSelector("[data-mistake='branch left out'] a"))
	require.NoError(t, p.See("Look at what keeps the output on"))
	require.NoError(t, p.See("Behaves like: the branch [mist_valve] is left out (rung 1)"))
	require.NoError(t, p.See("0 s: press mist_on, 10 ms: release mist_on. scan 1: mist_valve expected TRUE, was FALSE"))
	require.NoError(t, p.Click("Play it beside the solution"))
	require.NoError(t, p.Until("both behind the scan that differs",
		"document.querySelector('[data-playing=\"2\"]')?.innerText.includes('mist_valve other')"))
	accessible(t, p)
	picture(t, p, "beside-the-solution")
	require.NoError(t, p.Click("One scan"))
	require.NoError(t, p.Until("a scan more of both", "document.querySelector('[data-playing=\"3\"]')"))
}

// What slips through the scenarios of a draft stands where it is tried, with the scenario that catches it.
func TestTheScenarioThatIsMissing(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/workshop/nadia/fogger-run-on/try", "Strength")
	require.NoError(t, p.Until("the strength", "document.querySelector('[data-strength]')"))
	require.NoError(t, p.See("the contact fogger_off stands in the branch [fogger] alone (rung 1), in solution.ladder"))
	accessible(t, p)
	picture(t, p, "strength")
	require.NoError(t, p.Click("Add this scenario"))
	require.NoError(t, p.Until("all caught", "document.querySelector('[data-strength=\"100\"]') && !document.querySelector('[data-slipped]')"))
	require.NoError(t, p.Until("it among the scenarios", "document.querySelector('[aria-label=\"Caught by scenario\"]').innerText.includes('another case of fogger')"))
	require.NoError(t, p.Click("Undo"))
	require.NoError(t, p.Until("it slips through again", "document.querySelector('[data-strength]') && document.querySelector('[data-slipped]')"))
}

// What is said of a rung stands at the rung, for the learner as well.
func TestCommentOnARung(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/handin/3", "Mark by hand")
	require.NoError(t, p.Until("the program drawn", "document.querySelector('[aria-label=\"The program, drawn\"] svg')"))
	require.NoError(t, p.Click("Comment on rung 1 Mist"))
	require.NoError(t, p.Type("Stop must stand in series with both."))
	picture(t, p, "comment-rung")
	require.NoError(t, p.Click("Say it"))
	require.NoError(t, p.See("rung 1, line 3"))
	learner := visit(t, s, "ana", "#/handin/3", "What was handed in")
	require.NoError(t, learner.Until("it at the rung",
		"document.querySelector('[aria-label=\"The program, drawn\"]')?.innerText.includes('Stop must stand in series with both. — Nadia "+
			"Brandt')"))
	picture(t, learner, "commented-rung")
	accessible(t, learner)
}

// One sees what acts for one, and ends it; the other browser is out at its next step.
func TestSignInsInTheConsole(t *testing.T) {
	t.Parallel()
	s, p := look(t, "ana", "#/", "Hold the mist valve in")
	other := open(t)
	meetsTrouble(other)
	require.NoError(t, other.SignIn(s.URL, "ana", servicetest.Password))
	require.NoError(t, p.Look(s.URL, "#/signins", "light"))
	require.NoError(t, p.See("Chrome on Linux"))
	require.NoError(t, p.See("this one"))
	picture(t, p, "sign-ins")
	accessible(t, p)
	_, err := browser.Script[bool](p, `const rows = [...document.querySelectorAll('tbody tr')].filter((r) => r.innerText.includes('Chrome') &&
		!r.innerText.includes('this one')); rows[0].querySelector('button').click(); return rows.length === 1`)
	require.NoError(t, err)
	require.NoError(t, p.Until("one browser", "[...document.querySelectorAll('tbody tr')].filter((r) => "+
		"r.innerText.includes('Chrome')).length === 1"))
	require.NoError(t, other.Click("My marks"))
	require.NoError(t, other.See("Your session has ended."))
}

// An administrator adds somebody, finds them, gives them another code and disables them; they make a first class of their own.
func TestEverybodyInTheConsole(t *testing.T) {
	t.Parallel()
	s, p := look(t, "rosa", "#/everybody", "All who sign in here")
	require.NoError(t, p.Until("everybody", "document.querySelectorAll('tbody tr').length > 10"))
	require.NoError(t, p.Set("Login", "viktor"))
	require.NoError(t, p.Set("Name", "Viktor Novak"))
	require.NoError(t, p.Click("Add"))
	require.NoError(t, p.See("They are shown this once."))
	picture(t, p, "everybody")
	accessible(t, p)
	code, err := browser.Script[string](p, `return document.querySelector('[aria-label="Join codes"] .select-all').innerText`)
	require.NoError(t, err)

	viktor := open(t)
	meetsTrouble(viktor)
	require.NoError(t, viktor.Go(s.URL+"/#/join?code="+code))
	require.NoError(t, viktor.See("Join your class"))
	require.NoError(t, viktor.Fill("password", "sunflowers grow"))
	require.NoError(t, viktor.ClickSelector("form button"))
	require.NoError(t, viktor.See("You are in no class yet."))
	require.NoError(t, viktor.Click("Make one"))
	require.NoError(t, viktor.Set("Name", "Potting line"))
	require.NoError(t, viktor.Set("Time zone", "Europe/Zagreb"))
	picture(t, viktor, "class-new")
	accessible(t, viktor)
	require.NoError(t, viktor.Click("Make the class"))
	require.NoError(t, viktor.See("Enrol a class list"))
	require.NoError(t, viktor.Click("Class"))
	require.NoError(t, viktor.See("Make another class"))
	require.NoError(t, viktor.Set("Time zone", "Atlantis"))
	require.NoError(t, viktor.Click("Save"))
	require.NoError(t, viktor.See("There is no time zone Atlantis."))

	require.NoError(t, p.Set("Find by login or name", "novak"))
	require.NoError(t, p.Until("one found", "document.querySelectorAll('.table-sm tbody tr').length > 0 && "+
		"[...document.querySelectorAll('th[scope=row]')].every((r) => r.innerText.includes('Novak'))"))
	_, err = browser.Script[bool](p, `window.confirm = () => true; return true`)
	require.NoError(t, err)
	require.NoError(t, p.Click("Disable Viktor Novak"))
	require.NoError(t, p.Until("that it is done", "document.querySelector('[aria-label=\"Enable Viktor Novak\"]')"))
	require.NoError(t, viktor.Click("People"))
	require.NoError(t, viktor.See("Your session has ended."))
}

// A long list comes in pages, and can be narrowed to one learner.
func TestHandinsOfALearner(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/exercise/mist-hold-in/handins", "Hand-ins, newest first")
	s.Exec(t, `INSERT INTO handins (assignment_id, revision_id, person_id, number, file, text)
		SELECT assignment_id, revision_id, person_id, 100 + n, 'again.st', 'PROGRAM p' FROM handins, generate_series(1, 120) n WHERE id = 3`)
	require.NoError(t, p.Look(s.URL, "#/exercise/mist-hold-in/handins", "light"))
	require.NoError(t, p.Until("a page", "document.querySelectorAll('tbody tr').length === 100"))
	require.NoError(t, p.Click("Older"))
	require.NoError(t, p.Until("all", "document.querySelectorAll('tbody tr').length === 126"))
	require.NoError(t, p.Choose("Learner", "ben"))
	require.NoError(t, p.Until("Ben's", "[...document.querySelectorAll('tbody tr')].every((r) => r.innerText.includes('Ben'))"))
}

// A new class takes exercises from another; one comes as a zip, whose mistakes are told with their places.
func TestExercisesForANewClass(t *testing.T) {
	t.Parallel()
	s, p := look(t, "nadia", "#/class", "Make another class")
	meetsTrouble(p)
	autumn, err := s.As(t, "nadia").MakeClass(t.Context(), client.ClassSettings{Name: "Autumn"})
	require.NoError(t, err)
	require.NoError(t, p.Look(s.URL, "#/assignments", "light"))
	require.NoError(t, p.Choose("Class", fmt.Sprint(autumn.ID)))
	require.NoError(t, p.See("Nobody is enrolled yet: enrol a class list."))
	picture(t, p, "empty-class")
	require.NoError(t, p.Click("take some from another class"))
	require.NoError(t, p.See("No exercise yet."))
	require.NoError(t, p.Click("Hold the mist valve in"))
	require.NoError(t, p.Click("Count five trays into the rack"))
	picture(t, p, "add-exercises")
	accessible(t, p)
	require.NoError(t, p.Click("Take 2"))
	require.NoError(t, p.See("2 exercises were taken."))
	require.NoError(t, p.Until("two exercises", "document.querySelectorAll('tbody tr').length === 2"))
	upload := func(name, yaml string) {
		_, err := browser.Script[bool](p, `const zip = Uint8Array.from(atob('`+zipOf(t, name, yaml)+
			`'), (c) => c.charCodeAt(0)); const all = new DataTransfer(); all.items.add(new File([zip], 'exercise.zip'))
			const f = document.querySelector('[aria-label="Exercise file"]'); f.files = all.files
			f.dispatchEvent(new Event('change', {bubbles: true})); return true`)
		require.NoError(t, err)
	}
	upload("vent-interlock", "topc: outputs")
	require.NoError(t, p.See("The exercise has problems; nothing was stored."))
	require.NoError(t, p.See("Did you mean topic?"))
	upload("vent-interlock", "")
	require.NoError(t, p.See("vent-interlock is stored as revision 1."))
}

// zipOf packs a folder of the course, with a line more in its exercise.yaml, in base64.
func zipOf(t *testing.T, exercise, line string) string {
	files, err := folder.Open(filepath.Join(servicetest.Root(t), "courses/glasshouse/exercises", exercise))
	require.NoError(t, err)
	if line != "" {
		files["exercise.yaml"] = append(files["exercise.yaml"], []byte("\n"+line+"\n")...)
	}
	var packed bytes.Buffer
	archive := zip.NewWriter(&packed)
	for name, text := range files {
		w, err := archive.Create(name)
		require.NoError(t, err)
		_, err = w.Write(text)
		require.NoError(t, err)
	}
	require.NoError(t, archive.Close())
	return base64.StdEncoding.EncodeToString(packed.Bytes())
}

// Every page of the school fits a phone, its tables scrolling in themselves, and passes axe in dark colours too.
func TestSchoolOnAPhone(t *testing.T) {
	t.Parallel()
	s, p := look(t, "rosa", "#/", "44 graded")
	require.NoError(t, p.Size(390, 844))
	for path, words := range map[string]string{
		"#/": "44 graded", "#/assignments": "Add one from a file", "#/people": "Enrol a class list", "#/class": "Make another class",
		"#/log":       "It cannot be changed.",
		"#/everybody": "All who sign in here", "#/signins": "Your sign-ins", "#/handin/3": "What was handed in",
		"#/insight/mist-hold-in": "Grade again", "#/exercise/mist-hold-in/handins": "Kemi Adeyemi",
	} {
		require.NoError(t, p.Look(s.URL, path, "dark"))
		require.NoError(t, p.See(words), path)
		if path == "#/handin/3" {
			require.NoError(t, p.Until("the program drawn", "document.querySelector('[aria-label=\"The program, drawn\"] svg')"))
		}
		wide, err := browser.Evaluate[int](p, "document.documentElement.scrollWidth")
		require.NoError(t, err)
		assert.LessOrEqual(t, wide, 390, path)
		accessible(t, p)
		picture(t, p, "phone"+strings.NewReplacer("#", "", "/", "-").Replace(path))
	}
}
