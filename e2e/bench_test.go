package e2e

import (
	"encoding/json"
	"errors"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/e2e/browser"
	"celandine/folder"
	"celandine/service/servicetest"
)

const rightMist = `PROGRAM mist_hold_in
LADDER
RUNG 'Mist' { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);
END_LADDER
END_PROGRAM
`

// picture keeps what is seen where CELANDINE_PICTURES says.
func picture(t *testing.T, p *browser.Page, name string) {
	if dir := os.Getenv("CELANDINE_PICTURES"); dir != "" {
		png, err := p.Picture()
		require.NoError(t, err)
		require.NoError(t, os.WriteFile(filepath.Join(dir, name+".png"), png, 0o644))
	}
}

func onBench(t *testing.T, exercise, words, text string) *browser.Page {
	_, p := look(t, "liam", "#/exercise/"+exercise, words)
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.Write(text))
	benchHas(t, p)
	return p
}

// benchHas waits until the text that is written is on the bench.
func benchHas(t *testing.T, p *browser.Page) {
	t.Helper()
	require.NoError(t, p.Until("the text on the bench", "document.querySelector('[aria-label=Bench][data-current=true]')"))
}

// output is the word under a lamp or valve.
func output(t *testing.T, p *browser.Page, name string) string {
	lines, err := p.Lines("[data-output=" + name + "]")
	require.NoError(t, err)
	return strings.Join(lines, " ")
}

// A button is held while the mouse is, the valve holds itself, and the drawing shows where the power goes.
func TestBenchPressAndSee(t *testing.T) {
	t.Parallel()
	p := onBench(t, "mist-hold-in", "Wiring", rightMist)
	assert.Contains(t, output(t, p, "mist_valve"), "shut")
	assert.Contains(t, output(t, p, "mist_valve"), "FALSE")
	require.NoError(t, p.See("mist_off TRUE"), "normally closed: TRUE at rest")

	require.NoError(t, p.Click("Run"))
	require.NoError(t, p.See("Pause"))
	release, err := p.Hold("Mist ON")
	require.NoError(t, err)
	require.NoError(t, p.See("mist_on TRUE"))
	picture(t, p, "bench-pressed")
	require.NoError(t, release())
	require.NoError(t, p.See("mist_on FALSE"))
	assert.Contains(t, output(t, p, "mist_valve"), "open")
	held, err := browser.Evaluate[bool](p, `[...document.querySelectorAll('.rung g')].some((g) =>
		g.getAttribute('aria-label') === 'contact mist_valve, passes power')`)
	require.NoError(t, err)
	assert.True(t, held)

	// A broken wire stops it.
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] li:nth-child(2) .checkbox"))
	require.NoError(t, p.See("mist_off FALSE"))
	require.NoError(t, p.See("shut"))
	require.NoError(t, p.Click("Pause"))
}

// A pulse of one scan is marked, can be gone to, and the drawing shows that scan.
func TestBenchBackToAPulse(t *testing.T) {
	t.Parallel()
	p := onBench(t, "tray-pulses", "exactly one scan",
		"PROGRAM p\nLADDER\nRUNG 'Arrived' [P barrier] -- (tray_arrived);\nRUNG 'Gone' [N barrier] -- (tray_gone);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("Now: scan 10"))
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("Now: scan 20"))
	require.NoError(t, p.See("tray_arrived FALSE"))
	require.NoError(t, p.Until("the mark of a pulse", "document.querySelector('.pulse title')"))
	pulses, err := browser.Evaluate[string](p, `document.querySelector('.pulse title').textContent`)
	require.NoError(t, err)
	assert.Equal(t, "tray_arrived: TRUE for one scan, 11", pulses)
	require.NoError(t, p.Click("To the change of tray_arrived before"))
	require.NoError(t, p.See("Back: scan 12"))
	require.NoError(t, p.Click("One scan back"))
	require.NoError(t, p.See("Back: scan 11"))
	require.NoError(t, p.See("tray_arrived TRUE"))
	picture(t, p, "bench-back")
	require.NoError(t, p.ClickSelector("svg[role=slider]"))
	require.NoError(t, p.See("Now: scan 20"))
	require.NoError(t, p.Press(kb.ArrowLeft))
	require.NoError(t, p.See("Back: scan 19"))
	require.NoError(t, p.Click("To now"))
	require.NoError(t, p.See("Now: scan 20"))
}

// A change of the text keeps the values; one with errors leaves the old program running. Forces are in sight and let go together.
func TestBenchChangeAndForce(t *testing.T) {
	t.Parallel()
	p := onBench(t, "vent-settle-delay", "five seconds",
		"PROGRAM p\nVAR settle : TON; END_VAR\nLADDER\nRUNG 'Mist' [mist_switch] -- (mist_valve);\n"+
			"RUNG 'Vent' [mist_valve] -- settle(PT := T#5s) -- (vent);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	for range 3 {
		require.NoError(t, p.Click("scans"))
	}
	require.NoError(t, p.See("Now: scan 30"))
	face := "document.querySelector('.face').textContent"
	shown, err := browser.Evaluate[string](p, face)
	require.NoError(t, err)
	assert.Equal(t, "290 ms of 5 s", shown)
	// The text tells what a name is, and what it is now.
	require.NoError(t, p.Click("Text"))
	require.NoError(t, p.Hover(".cm-line:nth-child(5)", 0.16, 0.5))
	require.NoError(t, p.See("mist_valve : BOOL at %QX0.0, Bed 1 mist (valve). On the bench: TRUE"))
	require.NoError(t, p.Click("Both"))
	require.NoError(t, p.Click("Script"))
	require.NoError(t, p.Until("the script", "document.querySelector('textarea')?.value"))
	table, err := browser.Evaluate[string](p, "document.querySelector('textarea').value")
	require.NoError(t, err)
	assert.Equal(t, "scan,mist_switch\n0,0\n1,1\n30,1\n", table)
	require.NoError(t, p.Write("PROGRAM p\nVAR settle : TON; END_VAR\nLADDER\nRUNG 'Mist' [mist_switch] -- (mist_valve)\nEND_LADDER\n"+
		"END_PROGRAM\n"))
	require.NoError(t, p.See("the program before it goes on running"))
	require.NoError(t, p.Write("PROGRAM p\nVAR settle : TON; END_VAR\nLADDER\nRUNG 'Mist' [mist_switch] -- (mist_valve);\n"+
		"RUNG 'Vent' [mist_valve] -- settle(PT := T#1s) -- (vent);\nEND_LADDER\nEND_PROGRAM\n"))
	require.NoError(t, p.See("Now: scan 31"))
	shown, err = browser.Evaluate[string](p, face)
	require.NoError(t, err)
	assert.Equal(t, "300 ms of 1 s", shown, "the timer goes on")

	require.NoError(t, p.Click("Watch"))
	require.NoError(t, p.ClickSelector("section[aria-label='Watch list'] tbody tr:nth-child(3) button"))
	require.NoError(t, p.See("Forced: vent"))
	assert.Contains(t, output(t, p, "vent"), "runs")
	picture(t, p, "bench-forced")
	require.NoError(t, p.Click("Release all"))
	require.NoError(t, p.See("vent FALSE"))

	require.NoError(t, p.Click("Restart"))
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.ClickSelector("section[aria-label='Watch list'] tbody tr:nth-child(3) button:nth-of-type(3)"))
	require.NoError(t, p.See("Why vent was FALSE at scan 0"))
	require.NoError(t, p.See("vent never became TRUE"))
	picture(t, p, "bench-why")
}

// The core in the browser marks as the service does, to the byte: every hand-in of the demo course, in all scenarios.
func TestBrowserMarksAsTheServiceDoes(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/exercise/mist-hold-in", "Wiring")
	const address = `performance.getEntriesByType('resource').map((e) => e.name).find((n) => /worker-.*\.js/.test(n))`
	require.NoError(t, p.Until("the script of the worker", address))
	_, err := browser.Script[bool](p, `
		const worker = new Worker(`+address+`, {type: 'module'})
		const waiting = new Map()
		worker.onmessage = (e) => waiting.get(e.data.id)?.(e.data.answer ?? e.data.problem)
		let last = 0
		window.marks = (argument) => new Promise((done) => { waiting.set(++last, done); worker.postMessage({id: last, call: 'grade', argument}) })
		return true`)
	require.NoError(t, err)
	root := filepath.Join(servicetest.Root(t), "courses/glasshouse")
	handins, err := filepath.Glob(filepath.Join(root, "handins/*/*"))
	require.NoError(t, err)
	require.NotEmpty(t, handins)
	for _, path := range handins {
		name := filepath.Base(filepath.Dir(path))
		text, err := os.ReadFile(path)
		require.NoError(t, err)
		files, err := folder.Open(filepath.Join(root, "exercises", name))
		require.NoError(t, err)
		e, problems := exercise.Read(files)
		require.Empty(t, problems)
		g, problems := grade.Prepare(e)
		require.Empty(t, problems)
		file := filepath.Base(path)
		result, _ := g.Grade(file, []*source.File{source.NewFile(file, string(text))})
		want, err := json.Marshal(result)
		require.NoError(t, err)
		argument, err := json.Marshal(map[string]any{"files": files, "file": file, "text": string(text)})
		require.NoError(t, err)
		quoted, err := json.Marshal(string(argument))
		require.NoError(t, err)
		got, err := browser.Script[string](p, "return await window.marks("+string(quoted)+")")
		require.NoError(t, err)
		assert.Equal(t, string(want), got, path)
	}
}

// The editor completes names, and offers ways out of an error: the name that was meant, or a declaration.
func TestEditorCompletesAndMends(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/vent-settle-delay", "five seconds")
	require.NoError(t, p.Write("PROGRAM p\nVAR settle : TON; END_VAR\nvent := mist_swi"))
	require.NoError(t, p.See("BOOL %IX0.4 Mist switch"))
	// A list that has just opened takes no click yet.
	require.NoError(t, p.Insist("the name taken", written+".endsWith('mist_switch')",
		func() error { return p.ClickSelector(".cm-tooltip-autocomplete li") }))
	require.NoError(t, p.Type(" AND settle."))
	require.NoError(t, p.See("of settle"))
	require.NoError(t, p.Press(kb.Escape))
	require.NoError(t, p.Type("Q AND ready;\nmist_valve := mist_swtch;\nEND_PROGRAM\n"))
	require.NoError(t, p.See("There is no variable named ready."))
	// The mouse rests on the error, and the way out is pressed; a check that comes in between closes the list, as for anybody.
	mend := func(line, action, want string) {
		t.Helper()
		require.NoError(t, p.Insist(want, written+".includes("+strconv.Quote(want)+")", func() error {
			if err := errors.Join(p.Hover("header", 0.5, 0.5), p.Hover(line+" .cm-lintRange", 0.5, 0.5)); err != nil {
				return err
			}
			_, err := browser.Script[bool](p, `const way = () => [...document.querySelectorAll('.cm-diagnosticAction')].find((b) => b.innerText === `+strconv.Quote(action)+`)
				for (const end = performance.now() + 3000; !way() && performance.now() < end; ) await new Promise((r) => setTimeout(r, 50))
				way()?.dispatchEvent(new MouseEvent('mousedown', {bubbles: true}))
				return true`)
			return err
		}))
	}
	mend(".cm-line:nth-child(4)", "Write mist_switch", "mist_valve := mist_switch;")
	require.NoError(t, p.See("1 error"))
	mend(".cm-line:nth-child(3)", "Declare it as BOOL", "ready : BOOL;")
	require.NoError(t, p.See("0 errors"))
	require.NoError(t, p.Write("PROGRAM p\nvent = mist_switch;\nmist_valve := mist_switch\nEND_PROGRAM\n"))
	require.NoError(t, p.See("2 errors"))
	mend(".cm-line:nth-child(3)", "Write ;", "mist_valve := mist_switch;")
	require.NoError(t, p.See("1 error"))
	mend(".cm-line:nth-child(2)", "Write :=", "vent := mist_switch;")
	require.NoError(t, p.See("0 errors"))
}

// What is typed before the core has come is completed once it is there, in the view that stood from the start.
func TestCompletionWaitsForTheCore(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	to, err := url.Parse(s.URL)
	require.NoError(t, err)
	release := make(chan struct{})
	proxy := httputil.NewSingleHostReverseProxy(to)
	slow := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, ".wasm") {
			<-release
		}
		proxy.ServeHTTP(w, r)
	}))
	t.Cleanup(slow.Close)
	letThrough := sync.OnceFunc(func() { close(release) })
	t.Cleanup(letThrough)

	p := open(t)
	require.NoError(t, p.Enter(slow.URL, "liam", servicetest.Password, "#/exercise/vent-settle-delay", "light"))
	require.NoError(t, p.See("Loading…"))
	require.NoError(t, p.Write("PROGRAM p\nVAR settle : TON; END_VAR\nvent := mist_swi"))
	require.NoError(t, p.Until("the letters", written+".endsWith('mist_swi')"))
	letThrough()
	require.NoError(t, p.See("BOOL %IX0.4 Mist switch"))
}

// A core that stops is started again; the learner is told, and the bench goes on from the beginning.
func TestAStoppedCoreIsStartedAgain(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	p := open(t)
	require.NoError(t, p.Before(`window.workers = []
		window.Worker = class extends Worker { constructor(...a) { super(...a); workers.push(this) } }`))
	require.NoError(t, p.Enter(s.URL, "liam", servicetest.Password, "#/exercise/mist-hold-in", "light"))
	require.NoError(t, p.See("Wiring"))
	require.NoError(t, p.Write(rightMist))
	require.NoError(t, p.Click("One scan"))
	require.NoError(t, p.See("Now: scan 1"))
	_, err := browser.Evaluate[bool](p, `workers.forEach((w) => w.onmessage({data: {now: 'stopped'}})) ?? true`)
	require.NoError(t, err)
	require.NoError(t, p.See("were started again"))
	require.NoError(t, p.See("Now: scan 0"))
	picture(t, p, "bench-restarted")
	require.NoError(t, p.Click("One scan"))
	require.NoError(t, p.See("Now: scan 1"))
	require.NoError(t, p.Write(strings.Replace(rightMist, "[mist_off]", "[mist_of]", 1)))
	require.NoError(t, p.See("There is no variable named mist_of."))
}

// On the result page the reason stands beside the difference; each step leads to its scan and draws its rung.
func TestReasonsLeadToTheirScans(t *testing.T) {
	t.Parallel()
	_, p := look(t, "ana", "#/handin/3", "had power through [mist_valve] (closed since scan 10, 100 ms)")
	require.NoError(t, p.Click("Step by step"))
	require.NoError(t, p.See("closed since 10"))
	deciding, err := browser.Evaluate[string](p, `document.querySelector('.ground.decides').closest('g').getAttribute('aria-label')`)
	require.NoError(t, err)
	assert.Equal(t, "contact mist_valve, passes power", deciding)
	require.NoError(t, p.Click("mist_on TRUE, scan 10"))
	require.NoError(t, p.See("scan 10 (100 ms)"))
}

// Errors show as they are written, with no service asked.
func TestErrorsShowAsTheyAreWritten(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.Write(strings.Replace(rightMist, "[mist_off]", "[mist_of]", 1)))
	require.NoError(t, p.See("There is no variable named mist_of. Did you mean mist_off?"))
	require.NoError(t, p.Write("PROGRAM p\nmist_valve:=(mist_on OR mist_valve)AND mist_off;\nEND_PROGRAM\n"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	require.NoError(t, p.Click("Format"))
	require.NoError(t, p.See("mist_valve := (mist_on OR mist_valve) AND mist_off;"))
}

// On a phone the page fits, and a button can be pressed.
func TestBenchOnAPhone(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.Write(rightMist))
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.Size(390, 844))
	require.NoError(t, p.Click("Panel"))
	require.NoError(t, p.See("mist_off TRUE"))
	wide, err := browser.Evaluate[int](p, "document.documentElement.scrollWidth")
	require.NoError(t, err)
	assert.LessOrEqual(t, wide, 390)
	require.NoError(t, p.Click("Run"))
	release, err := p.Hold("Mist ON")
	require.NoError(t, err)
	require.NoError(t, p.See("mist_valve TRUE"))
	require.NoError(t, release())
	require.NoError(t, p.See("mist_on FALSE"))
	assert.Contains(t, output(t, p, "mist_valve"), "open")
	picture(t, p, "phone")
}

// From the result a scenario goes to the bench, with what was expected beneath what is, and stops where it first went wrong;
// mended, it is played again.
func TestPlayAScenarioOnTheBench(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.Write(wrongMist))
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("At scan 300 (3 s), mist_valve should be FALSE and was TRUE."))
	require.NoError(t, p.Click("Play it on the bench"))
	require.NoError(t, p.See("Stopped at scan 300"))
	require.NoError(t, p.See("mist_valve expected"))
	require.NoError(t, p.See("mist_valve TRUE"))
	picture(t, p, "bench-play")
	require.NoError(t, p.Write(rightMist))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	require.NoError(t, p.Click("Play “stays on after release”"))
	require.NoError(t, p.Until("the scenario playing", "!document.body.innerText.includes('Stopped at')"))
	require.NoError(t, p.See("Stopped at scan 300"))
	assert.Contains(t, output(t, p, "mist_valve"), "shut")
}

// Two tabs on one exercise are noticed, and neither text is lost.
func TestTwoTabsAreNoticed(t *testing.T) {
	t.Parallel()
	s, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.Write(rightMist))
	other, err := p.Another()
	require.NoError(t, err)
	defer other.Close()
	require.NoError(t, other.Go(s.URL))
	require.NoError(t, other.See("Sign out"))
	require.NoError(t, other.Look(s.URL, "#/exercise/mist-hold-in", "light"))
	require.NoError(t, other.See("Wiring"))
	require.NoError(t, other.Write("PROGRAM other\nEND_PROGRAM\n"))
	require.NoError(t, p.See("open in another tab"))
	require.NoError(t, p.Click("Take that text"))
	require.NoError(t, p.See("PROGRAM other"))
}

const pulses = "PROGRAM p\nLADDER\nRUNG 'Arrived' [P barrier] -- (tray_arrived);\nRUNG 'Gone' [N barrier] -- (tray_gone);\nEND_LADDER\n" +
	"END_PROGRAM\n"

// Two programs on the same inputs, with and without the edge: both drawings are alive, and where they first differ is told.
func TestSideBySide(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/tray-pulses", "exactly one scan")
	require.NoError(t, p.Write(strings.Replace(pulses, "[P barrier]", "[barrier]", 1)))
	benchHas(t, p)
	require.NoError(t, p.Click("Beside"))
	require.NoError(t, p.Choose("Side by side with", "this program as it is now"))
	require.NoError(t, p.See("No difference in what is shown so far."))
	require.NoError(t, p.Write(pulses))
	require.NoError(t, p.Click("Restart"))
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("The two first differ at scan 2 here."))
	require.NoError(t, p.Click("Go there"))
	require.NoError(t, p.See("Back: scan 2"))
	passes, err := browser.Evaluate[[]string](p, `[...document.querySelectorAll('[aria-label="The other program"] .rung g, .ladder .rung g')]
		.map((g) => g.getAttribute('aria-label')).filter((l) => /tray_arrived/.test(l))`)
	require.NoError(t, err)
	assert.ElementsMatch(t, []string{"coil tray_arrived, gets power", "coil tray_arrived, gets no power"}, passes)
	picture(t, p, "side-by-side")
}

// From an earlier scan the bench goes on, and what came after it is forgotten.
func TestGoOnFromAnEarlierScan(t *testing.T) {
	t.Parallel()
	p := onBench(t, "tray-pulses", "exactly one scan", pulses)
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("Now: scan 20"))
	require.NoError(t, p.Click("To the change of barrier before"))
	require.NoError(t, p.See("Back: scan 11"))
	require.NoError(t, p.Click("One scan back"))
	require.NoError(t, p.See("Back: scan 10"))
	require.NoError(t, p.Click("Go on from here"))
	require.NoError(t, p.See("Now: scan 10"))
	require.NoError(t, p.See("barrier FALSE"), "the barrier is as it was then")
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("Now: scan 20"))
	seen, err := browser.Evaluate[bool](p, "!!document.querySelector('.pulse title')")
	require.NoError(t, err)
	assert.False(t, seen, "the tray never came")
}

// Values stand beside the statements, inside one's own blocks for the instance that is chosen.
func TestInsideOwnBlocks(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.Click("Structured text"))
	require.NoError(t, p.Write("FUNCTION_BLOCK watch\nVAR_INPUT on : BOOL; END_VAR\nVAR_OUTPUT seen : BOOL; END_VAR\nseen := on;\n"+
		"END_FUNCTION_BLOCK\nPROGRAM p\nVAR first, second : watch; END_VAR\nfirst(on := mist_on);\nsecond(on := mist_off);\n"+
		"mist_valve := first.seen;\nEND_PROGRAM\n"))
	require.NoError(t, p.See("Now: scan 0"))
	beside := func(line int, want string) {
		t.Helper()
		require.NoError(t, p.Until(want, "document.querySelector('.cm-line:nth-child("+strconv.Itoa(line)+") .cm-beside')?.textContent === "+
			strconv.Quote(want)))
	}
	beside(4, "seen FALSE  on FALSE")
	beside(9, "mist_off TRUE")
	require.NoError(t, p.Choose("Inside watch", "second"))
	beside(4, "seen TRUE  on TRUE")
	picture(t, p, "inside-block")
}

// A watched value is written and forced; what is watched is chosen by name.
func TestWatchList(t *testing.T) {
	t.Parallel()
	p := onBench(t, "vent-settle-delay", "five seconds",
		"PROGRAM p\nVAR settle : TON; END_VAR\nLADDER\nRUNG 'Mist' [mist_switch] -- (mist_valve);\n"+
			"RUNG 'Vent' [mist_valve] -- settle(PT := T#5s) -- (vent);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Click("Watch"))
	require.NoError(t, p.ClickSelector("section[aria-label='Watch list'] form input, section[aria-label='Watch list'] input[list]"))
	require.NoError(t, p.Type("settle.ET"))
	require.NoError(t, p.Press(kb.Enter))
	require.NoError(t, p.Until("the row", "[...document.querySelectorAll(\"section[aria-label='Watch list'] tbody tr\")].some((r) => "+
		"r.innerText.includes('settle.ET'))"))
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.Until("the time", "document.querySelector(\"section[aria-label='Watch list'] tbody\").innerText.includes('90 ms')"))
}

// With the supply off and on again, what is RETAIN stays, all else begins anew, and the scenario written from it says so.
func TestSupplyOffAndOn(t *testing.T) {
	t.Parallel()
	p := onBench(t, "tray-pulses", "exactly one scan", "PROGRAM p\nVAR RETAIN kept : CTU; END_VAR\nVAR lost : CTU; END_VAR\nLADDER\n"+
		"RUNG 'Kept' [barrier] -- kept(R := FALSE, PV := 1) -- (tray_arrived);\n"+
		"RUNG 'Lost' [barrier] -- lost(R := FALSE, PV := 1) -- (tray_gone);\nEND_LADDER\nEND_PROGRAM\n")
	for range 2 { // on, and off again
		require.NoError(t, p.Click("scans"))
		require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	}
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("Now: scan 30"))
	require.NoError(t, p.See("tray_gone TRUE"))
	require.NoError(t, p.Click("Supply off and on"))
	require.NoError(t, p.See("Now: scan 31"), "it is seen at once")
	require.NoError(t, p.See("tray_arrived TRUE"))
	require.NoError(t, p.See("tray_gone FALSE"))
	picture(t, p, "supply")
	require.NoError(t, p.Click("Script"))
	require.NoError(t, p.Until("the restart in the scenario",
		"document.querySelector('[aria-label=Scenario]')?.value.includes('restart: true')"))
}
