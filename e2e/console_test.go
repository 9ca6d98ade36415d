// Package e2e tries the console as people do: in Chromium, against a real
// service with the demo course.
package e2e

import (
	"context"
	"errors"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/e2e/browser"
	"celandine/service/servicetest"
	"celandine/service/store"
)

// chromium is the one browser of all tests, started by the first that needs it; each test has pages of its own in it.
var chromium struct {
	sync.Mutex
	*browser.Browser
}

func TestMain(m *testing.M) {
	status := m.Run()
	if chromium.Browser != nil {
		chromium.Close()
	}
	os.Exit(status)
}

func open(t testing.TB) *browser.Page {
	t.Helper()
	p, err := started(t).Open()
	require.NoError(t, err)
	t.Cleanup(p.Close)
	t.Cleanup(func() {
		for _, c := range p.Complaints() {
			if _, expected := troubled.Load(p); !expected || !strings.Contains(c, "Failed to load resource") {
				t.Errorf("the browser's console: %s", c)
			}
		}
		if t.Failed() {
			keep(t, p)
		}
	})
	return p
}

// keep writes what a page of a failed test shows into .celandine/failed.
func keep(t testing.TB, p *browser.Page) {
	png, err := p.Picture()
	if err != nil {
		t.Logf("no picture of the page: %v", err)
		return
	}
	dir := filepath.Join(servicetest.Root(t), ".celandine", "failed")
	require.NoError(t, os.MkdirAll(dir, 0o755))
	path := filepath.Join(dir, strings.ReplaceAll(t.Name(), "/", "-")+".png")
	require.NoError(t, os.WriteFile(path, png, 0o644))
	t.Logf("the page as it was: %s", path)
}

// troubled are the pages that are meant to be refused something, which the browser's console tells.
var troubled sync.Map

func meetsTrouble(p *browser.Page) { troubled.Store(p, true) }

func started(t testing.TB) *browser.Browser {
	if _, err := os.Stat(filepath.Join(servicetest.Root(t), "web/dist/index.html")); err != nil {
		t.Skip("The console is not built; make build does it")
	}
	chromium.Lock()
	defer chromium.Unlock()
	if chromium.Browser != nil {
		return chromium.Browser
	}
	b, err := browser.Start(context.Background())
	if errors.Is(err, exec.ErrNotFound) {
		t.Skip("Chromium is not installed; as root: apt-get install -y --no-install-recommends chromium-headless-shell")
	}
	require.NoError(t, err)
	chromium.Browser = b
	return b
}

// look opens a page of the console, in light colours, as somebody of the demo course, and waits for words on it.
func look(t *testing.T, login, path, words string) (*servicetest.Service, *browser.Page) {
	t.Helper()
	s := servicetest.Start(t, true)
	return s, visit(t, s, login, path, words)
}

// visit is look at a service that runs already.
func visit(t *testing.T, s *servicetest.Service, login, path, words string) *browser.Page {
	t.Helper()
	p := open(t)
	require.NoError(t, p.Enter(s.URL, login, servicetest.Password, path, "light"))
	require.NoError(t, p.See(words))
	return p
}

const wrongMist = `PROGRAM mist_hold_in
LADDER
RUNG 'Mist' { [mist_on] -- [mist_off] | [mist_valve] } -- (mist_valve);
END_LADDER
END_PROGRAM
`

// A learner reads, writes, checks, hands in, and reads the diagram.
func TestLearnerFromBriefToMark(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	p := open(t)
	require.NoError(t, p.SignIn(s.URL, "liam", servicetest.Password))
	require.NoError(t, p.See("not yet tried"))
	require.NoError(t, p.Click("Hold the mist valve in"))
	require.NoError(t, p.See("stop wins"))
	require.NoError(t, p.See("normally closed: TRUE at rest"))

	// Check says what is wrong; the message leads to the place.
	require.NoError(t, p.Write(strings.Replace(wrongMist, "[mist_valve]", "[mist_valv]", 1)))
	require.NoError(t, p.Click("Check"))
	require.NoError(t, p.See("1 error, 0 warnings"))
	require.NoError(t, p.See("There is no variable named mist_valv. Did you mean mist_valve?"))
	require.NoError(t, p.Click("line 3"))
	line, err := browser.Evaluate[string](p, "document.querySelector('.cm-activeLine').innerText")
	require.NoError(t, err)
	assert.Contains(t, line, "mist_valv]")

	// With errors nothing is handed in.
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("Nothing was handed in."))

	require.NoError(t, p.Write(wrongMist))
	require.NoError(t, p.Click("Check"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("At scan 300 (3 s), mist_valve should be FALSE and was TRUE."))
	mark, err := p.Lines("[data-testid=mark]")
	require.NoError(t, err)
	assert.Equal(t, "0 of 10", mark[0])

	// The diagram: the cursor reads values, the keyboard steps, zoom reaches single scans.
	require.NoError(t, p.Hover("svg[role=presentation]", 0.8, 0.5))
	require.NoError(t, p.See("mist_valve expected\nFALSE"))
	require.NoError(t, p.See("mist_valve actual\nTRUE"))
	require.NoError(t, p.Click("First difference"))
	require.NoError(t, p.See("scan 300 (3 s)"))
	require.NoError(t, p.See("scan 290"))
	require.NoError(t, p.ClickSelector("[role=application]"))
	require.NoError(t, p.Press(kb.Home))
	require.NoError(t, p.See("scan 0 (0 s)"))
	require.NoError(t, p.Press(kb.ArrowRight))
	require.NoError(t, p.See("scan 1 (0.01 s)"))

	// A hidden scenario tells its mark only.
	require.NoError(t, p.Click("wire break stops the mist"))
	require.NoError(t, p.See("What this scenario does is not shown"))

	// Mended, it earns everything; the list remembers the best.
	require.NoError(t, p.Click("Back to"))
	require.NoError(t, p.See("Your hand-ins"))
	require.NoError(t, p.Write(strings.Replace(wrongMist, "{ [mist_on] -- [mist_off] | [mist_valve] }",
		"{ [mist_on] | [mist_valve] } -- [mist_off]", 1)))
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("Every graded signal was as expected."))
	require.NoError(t, p.Click("Celandine"))
	require.NoError(t, p.See("Count five trays"))
	require.NoError(t, p.See("10 of 10"))
}

// Typing goes on in one editor: the first key does not take the focus away.
func TestTypingKeepsTheFocus(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	p := open(t)
	require.NoError(t, p.SignIn(s.URL, "liam", servicetest.Password))
	require.NoError(t, p.Click("Set and reset the shade screen"))
	require.NoError(t, p.See("Shade OUT"))
	require.NoError(t, p.ClickSelector(".cm-content[contenteditable=true]"))
	require.NoError(t, p.Press(kb.End, chromedp.ModifierCtrl))
	for _, key := range "// fog" {
		require.NoError(t, p.Press(string(key)))
	}
	require.NoError(t, p.See("// fog"))
	focused, err := browser.Evaluate[bool](p, "document.querySelector('.cm-content').contains(document.activeElement)")
	require.NoError(t, err)
	assert.True(t, focused)
	// Another language is another text, and what was typed is kept.
	require.NoError(t, p.Click("Structured text"))
	require.NoError(t, p.See("shade_screen := shade_out;"))
	require.NoError(t, p.Click("Ladder"))
	require.NoError(t, p.See("// fog"))
}

func TestInstructorOpensAHandIn(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	p := open(t)
	require.NoError(t, p.SignIn(s.URL, "nadia", servicetest.Password))
	require.NoError(t, p.See("Liam Byrne"))
	require.NoError(t, p.Click("Hold the mist valve in"))
	require.NoError(t, p.See("Hand-ins, newest first"))
	require.NoError(t, p.Click("start-wins-over-stop.st"))
	require.NoError(t, p.See("Kemi Adeyemi, hand-in 1"))
	// An instructor sees every scenario; the first that lost marks is open.
	require.NoError(t, p.See("At scan 100 (1 s), mist_valve should be FALSE and was TRUE."))
	require.NoError(t, p.See("mist_valve := mist_on OR mist_valve AND mist_off;"))
	lanes, err := browser.Evaluate[[]string](p, "[...document.querySelectorAll('[data-lane]')].map((e) => e.dataset.lane)")
	require.NoError(t, err)
	assert.Equal(t, []string{"mist_on input", "mist_off input", "mist_valve expected", "mist_valve actual"}, lanes)
}

func TestWrongPasswordAndEndedSession(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	p := open(t)
	meetsTrouble(p)
	require.NoError(t, p.Go(s.URL))
	require.NoError(t, p.Fill("login", "ana"))
	require.NoError(t, p.Fill("password", "guess"))
	require.NoError(t, p.ClickSelector("form button"))
	require.NoError(t, p.See("The login or the password is wrong."))

	require.NoError(t, p.SignIn(s.URL, "ana", servicetest.Password))
	require.NoError(t, p.Click("Set and reset the shade screen"))
	require.NoError(t, p.See("Shade OUT"))
	require.NoError(t, p.Write("PROGRAM shade\nshade_lamp := shade_out;\nEND_PROGRAM\n"))
	_, err := s.Store.Pool.Exec(context.Background(), "DELETE FROM tokens")
	require.NoError(t, err)
	require.NoError(t, p.Click("Check"))
	require.NoError(t, p.See("Your session has ended."))
	require.NoError(t, p.Fill("login", "ana"))
	require.NoError(t, p.Fill("password", servicetest.Password))
	require.NoError(t, p.ClickSelector("form button"))
	// What was written is still there.
	require.NoError(t, p.See("shade_lamp := shade_out;"))
}

// A page opened before the mark is there shows it when it comes.
func TestMarkComesByItself(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	ctx := context.Background()
	// A hand-in with no job: nothing grades it until the test does.
	s.Exec(t, `INSERT INTO handins (id, assignment_id, revision_id, person_id, number, file, text)
		SELECT 1000, assignment_id, revision_id, person_id, 50, file, text FROM handins WHERE id = 3`)
	s.Exec(t, "INSERT INTO waiting (handin_id, assignment_id, person_id) SELECT id, assignment_id, person_id FROM handins WHERE id = 1000")
	p := open(t)
	require.NoError(t, p.SignIn(s.URL, "ana", servicetest.Password))
	require.NoError(t, p.Go(s.URL+"/#/handin/1000"))
	require.NoError(t, p.See("This hand-in is being graded."))
	h, err := s.Store.Handin(ctx, 3)
	require.NoError(t, err)
	r := *h.Result
	r.HandinID = 1000
	require.NoError(t, s.Store.SaveResult(ctx, r, func(store.Tx) error { return nil }))
	require.NoError(t, p.See("At scan 300 (3 s)"))
}

// axe-core finds nothing wrong with any page, in light and dark.
func TestPagesAreAccessible(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	for _, page := range []struct{ login, path, words, click string }{
		{"ana", "#/", "Count five trays", ""},
		{"ana", "#/exercise/mist-hold-in", "Wiring", ""},
		{"ana", "#/exercise/vent-settle-delay", "five seconds", "This scan"},
		{"ana", "#/exercise/vent-settle-delay", "five seconds", "Wires"},
		{"ana", "#/exercise/vent-settle-delay", "five seconds", "Addresses"},
		{"ana", "#/exercise/vent-settle-delay/worksheet", "What should happen", ""},
		{"nadia", "#/exercise/vent-settle-delay", "five seconds", "Solution"},
		{"nadia", "#/exercise/vent-settle-delay", "five seconds", "Scenarios"},
		{"ana", "#/exercise/mist-hold-in", "Wiring", "Keys"},
		{"ana", "#/exercise/mist-hold-in", "Wiring", "Block"},
		{"ana", "#/exercise/mist-hold-in", "Wiring", "Variables"},
		{"ana", "#/handin/3", "First difference", "Step by step"},
		{"nadia", "#/", "Liam Byrne", ""},
		{"nadia", "#/exercise/mist-hold-in/handins", "Kemi Adeyemi", ""},
		{"nadia", "#/people", "Enrol a class list", ""},
		{"nadia", "#/assignments", "Europe/Zagreb", "Change Hold the mist valve in"},
		{"nadia", "#/insight/mist-hold-in", "Where it first goes wrong", ""},
		{"nadia", "#/log", "newest first", ""},
		{"nadia", "#/handin/3", "Mark by hand", "Mark by hand"},
		{"ana", "#/marks", "Of each exercise", ""},
	} {
		t.Run(page.login+page.path+page.click, func(t *testing.T) {
			t.Parallel()
			p := open(t)
			for _, look := range []string{"light", "dark"} {
				require.NoError(t, p.Enter(s.URL, page.login, servicetest.Password, page.path, look))
				require.NoError(t, p.See(page.words))
				if strings.Contains(page.path, "#/exercise/") && strings.Count(page.path, "/") == 2 {
					require.NoError(t, p.See("Now: scan 0"))
				}
				if page.click != "" {
					require.NoError(t, p.Click(page.click))
				}
				picture(t, p, strings.NewReplacer("#/", "", "/", "-").Replace(page.login+page.path)+"-"+look)
				accessible(t, p)
			}
		})
	}
}

// accessible holds that axe finds nothing wrong with the page as it stands.
func accessible(t *testing.T, p *browser.Page) {
	t.Helper()
	axe, err := os.ReadFile(filepath.Join(servicetest.Root(t), "web/node_modules/axe-core/axe.min.js"))
	require.NoError(t, err)
	violations, err := p.Violations(string(axe))
	require.NoError(t, err)
	assert.Empty(t, violations, strings.Join(violations, "\n"))
}

func program(text string) client.Program { return client.Program{File: "mine.st", Text: text} }
