package e2e

import (
	"bytes"
	"encoding/json"
	"regexp"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/e2e/browser"
	"celandine/service/servicetest"
)

// spot is a CSS selector for a place in a rung at which the cursor can stand.
func spot(rung, n int) string {
	return "[data-rung='" + strconv.Itoa(rung) + "'] [data-spot='" + strconv.Itoa(n) + "']"
}

func joint(rung int, at string) string {
	return "[data-rung='" + strconv.Itoa(rung) + "'] [data-joint='" + at + "']"
}

// outOfView tells which of these parts are not to be seen without scrolling.
func outOfView(t *testing.T, p *browser.Page, parts ...string) []string {
	t.Helper()
	list, err := json.Marshal(parts)
	require.NoError(t, err)
	out, err := browser.Script[[]string](p, `const out = `+string(list)+`.filter((s) => {
			const r = document.querySelector(s)?.getBoundingClientRect()
			return !r || r.top < 0 || r.top > innerHeight - 20 || r.right > innerWidth + 1
		})
		if (document.documentElement.scrollHeight > innerHeight) out.push('the page scrolls')
		return out`)
	require.NoError(t, err)
	return out
}

// The whole workbench is in view at once, whatever is in it: nothing is reached by scrolling the page.
func TestWorkbenchFitsTheWindow(t *testing.T) {
	t.Parallel()
	p := onBench(t, "mist-hold-in", "Wiring", "PROGRAM p\nLADDER\n"+
		strings.Repeat("RUNG [mist_on] -- (mist_valve);\n", 8)+"END_LADDER\nEND_PROGRAM\n")
	out := func() []string {
		return outOfView(t, p, `[aria-label="The task"]`, "[aria-label=Ladder]", ".cm-editor", "[aria-label=Outputs]", "[aria-label=Trace]",
			"[data-run]", "[data-kept]", "[role=toolbar]")
	}
	assert.Empty(t, out())
	// The names and keys of the tools stand in one row, and the errors in the bar beneath.
	require.NoError(t, p.Write("PROGRAM p\nLADDER\nRUNG [mist_onn] -- (mist_valve);\n"+
		"RUNG [mist_of] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n"))
	require.NoError(t, p.See("line 3 · There is no variable named mist_onn."))
	require.NoError(t, p.Click("All 2"))
	require.NoError(t, p.See("There is no variable named mist_of."))
	assert.Empty(t, out())
	// A pane is made larger by its edge, and is so again on the next visit; the task is folded away.
	width := `document.querySelector('[aria-label="The task"]').getBoundingClientRect().width`
	before, err := browser.Evaluate[float64](p, width)
	require.NoError(t, err)
	_, err = browser.Evaluate[bool](p, `(document.querySelector('[aria-label="Between task and program"]').focus(), true)`)
	require.NoError(t, err)
	for range 3 {
		require.NoError(t, p.Press(kb.ArrowRight))
	}
	require.NoError(t, p.Until("a wider task", width+" > "+strconv.FormatFloat(before+20, 'f', 0, 64)))
	require.NoError(t, p.Click("Task"))
	require.NoError(t, p.Until("the task folded", `!document.querySelector('[aria-label="The task"]')?.checkVisibility()`))
	require.NoError(t, p.Click("Task"))
	require.NoError(t, p.Until("the task unfolded", `document.querySelector('[aria-label="The task"]')?.checkVisibility()`))
}

// hand counts what somebody does.
type hand struct {
	t    *testing.T
	p    *browser.Page
	acts int
}

func (h *hand) click(name string) {
	h.t.Helper()
	h.acts++
	require.NoError(h.t, h.p.Click(name))
}

func (h *hand) press(selector string) {
	h.t.Helper()
	h.acts++
	require.NoError(h.t, h.p.ClickSelector(selector))
}

func (h *hand) keys(keys ...string) {
	h.t.Helper()
	h.acts += len(keys)
	press(h.t, h.p, keys...)
}

const held = "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n"

// Hold-in with a stop, by mouse alone: at most twelve acts.
func TestHoldInByMouseAlone(t *testing.T) {
	t.Parallel()
	h := &hand{t: t, p: drawn(t, "mist-hold-in", "Wiring", noRung)}
	h.click("Contact")
	h.click("mist_on\n%IX0.0")
	h.click("Contact")
	h.click("mist_off\n%IX0.1")
	h.click("Coil")
	h.click("mist_valve\n%QX0.0")
	h.press(spot(0, 0))
	h.click("Branch")
	h.click("mist_valve\n%QX0.0")
	becomes(t, h.p, held)
	assert.LessOrEqual(t, h.acts, 12)
}

// The same by keyboard alone, a name counting as one: at most twenty.
func TestHoldInByKeysAlone(t *testing.T) {
	t.Parallel()
	h := &hand{t: t, p: drawn(t, "mist-hold-in", "Wiring", noRung)}
	h.keys("c", "mist_on", kb.Enter, "c", "mist_off", kb.Enter, "o", "mist_valve", kb.Enter, kb.Home, "p", "mist_valve", kb.Enter)
	becomes(t, h.p, held)
	assert.LessOrEqual(t, h.acts, 20)
}

// In the path of a branch letters are a name, even where they are keys of tools elsewhere; with Alt they are the tool.
func TestLettersInANewPathAreAName(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", "PROGRAM p\nLADDER\nRUNG [mist_on] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	press(t, p, "p", kb.Escape)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | } -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	press(t, p, "m")
	require.NoError(t, p.Until("the name begun", "document.activeElement?.value === 'm'"))
	press(t, p, "ist_off", kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_off] } -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	require.NoError(t, p.See("Rung 1 of 1: open contact mist_on"))
	press(t, p, kb.ArrowDown)
	require.NoError(t, p.See("Rung 1 of 1: wire"))
	require.NoError(t, p.Press("o", chromedp.ModifierAlt))
	require.NoError(t, p.Until("the field", "document.activeElement?.getAttribute('role') === 'combobox'"))
	press(t, p, "mist_valve", kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | (mist_valve) } -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
}

// A name is written where its element stands, with what fits beneath it.
func TestNamesAreWrittenInPlace(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", held)
	require.NoError(t, p.ClickSelector(spot(0, 2)))
	press(t, p, kb.Enter)
	require.NoError(t, p.Until("the field over its element", `(() => {
		const f = document.querySelector('[aria-label=Writing]')?.getBoundingClientRect()
		const c = document.querySelector('[data-cursor]')?.getBoundingClientRect()
		return f && c && f.left < c.right && c.left < f.right && Math.abs(f.top - c.top) < 20 })()`))
	picture(t, p, "name-in-place")
}

// An element is moved by the mouse, a copy with Ctrl; a wire from one point to another is a branch.
func TestElementsAndWiresAreDragged(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", "PROGRAM p\nLADDER\nRUNG [mist_off] -- [mist_on] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Carry(spot(0, 0), spot(0, 3)))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Carry(joint(0, "|0"), joint(0, "|1")))
	require.NoError(t, p.See("Later"))
	press(t, p, "mist_valve", kb.Enter)
	becomes(t, p, held)
	// A name carried onto an element is its name.
	require.NoError(t, p.Carry("ul[aria-label=Names] li:nth-child(1) button", spot(0, 3)))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_on);\nEND_LADDER\nEND_PROGRAM\n")
}

// A block whose name cannot be is told why, and is not put in.
func TestBlockSaysWhatIsWrongWithItsName(t *testing.T) {
	t.Parallel()
	p := drawn(t, "vent-settle-delay", "five seconds", "PROGRAM p\nLADDER\nRUNG [mist_switch] -- (vent);\nEND_LADDER\nEND_PROGRAM\n")
	press(t, p, kb.ArrowRight, "b")
	require.NoError(t, p.Until("the kinds with their pictures", "document.querySelectorAll('[aria-label=Blocks] button').length > 10"))
	press(t, p, "TON", kb.Enter)
	require.NoError(t, p.Until("its name", "document.activeElement?.value === 'timer_1'"))
	press(t, p, "vent", kb.Enter)
	require.NoError(t, p.See("vent is declared already, as BOOL; take another name."))
	require.NoError(t, p.Press("a", chromedp.ModifierCtrl))
	press(t, p, "settle", kb.Enter)
	becomes(t, p, "PROGRAM p\nVAR\n  settle : TON;\nEND_VAR\nLADDER\n"+
		"RUNG [mist_switch] -- settle(PT := T#5s) -- (vent);\nEND_LADDER\nEND_PROGRAM\n")
}

// While it runs, a press on an input's contact works its device; the menu forces, watches and tells why.
func TestLivingDrawingIsWorkedByHand(t *testing.T) {
	t.Parallel()
	p := onBench(t, "mist-hold-in", "Wiring", held)
	require.NoError(t, p.Click("Run"))
	require.NoError(t, p.See("Pause"))
	require.NoError(t, p.ClickSelector(spot(0, 0)))
	require.NoError(t, p.See("mist_valve TRUE"))
	require.NoError(t, p.See("mist_on FALSE"))
	require.NoError(t, p.Click("Pause"))
	require.NoError(t, p.Menu(spot(0, 3)))
	require.NoError(t, p.See("Where it is used"))
	picture(t, p, "element-menu")
	accessible(t, p)
	require.NoError(t, p.Click("Why is it TRUE?"))
	require.NoError(t, p.See("Why mist_valve was TRUE at scan"))
	require.NoError(t, p.Menu(spot(0, 3)))
	require.NoError(t, p.Click("Force off"))
	require.NoError(t, p.See("Forced: mist_valve"))
	require.NoError(t, p.See("mist_valve FALSE"))
	require.NoError(t, p.Click("Release all"))
	require.NoError(t, p.ClickSelector(spot(0, 0)))
	require.NoError(t, p.Press(kb.F10, chromedp.ModifierShift))
	require.NoError(t, p.Until("the menu by keys", "document.activeElement?.getAttribute('role') === 'menuitem'"))
	require.NoError(t, p.Press(kb.Escape))
	require.NoError(t, p.Until("the keys back at the drawing", "document.activeElement?.matches('.ladder')"))
	lift, err := p.Rest(spot(0, 3))
	require.NoError(t, err)
	require.NoError(t, p.See("Where it is used"))
	require.NoError(t, lift())
}

// Step by step through the scan in which a pulse comes: what the edge remembers, what is written, power as far as one has come.
func TestWalkThroughAScan(t *testing.T) {
	t.Parallel()
	p := onBench(t, "tray-pulses", "exactly one scan", pulses)
	require.NoError(t, p.ClickSelector("ul[aria-label=Inputs] .toggle"))
	require.NoError(t, p.Click("One scan"))
	require.NoError(t, p.See("Now: scan 1"))
	require.NoError(t, p.Click("This scan"))
	require.NoError(t, p.See("Step 1 of 6 in scan 1"))
	require.NoError(t, p.See("The edge remembers FALSE, barrier is TRUE now: a rising edge, so there is power for this one scan. "+
		"It now remembers TRUE."))
	powered := "[...document.querySelectorAll('.ladder .rung g')].filter((g) => /gets power$/.test(g.getAttribute('aria-label'))).length"
	require.NoError(t, p.Until("no power yet", powered+" === 0"))
	require.NoError(t, p.Click("Step"))
	require.NoError(t, p.Click("Step"))
	require.NoError(t, p.See("Step 3 of 6 in scan 1: tray_arrived FALSE → TRUE"))
	require.NoError(t, p.Until("power at the coil", powered+" === 1"))
	require.NoError(t, p.See("Rung 1 of 2, Arrived: coil tray_arrived"))
	picture(t, p, "walk")
	require.NoError(t, p.Click("Leave the scan"))
	require.NoError(t, p.See("Walk through this scan"))
}

// The panel as it is wired: a press moves the contact, and current flows.
func TestWiringIsAlive(t *testing.T) {
	t.Parallel()
	p := onBench(t, "mist-hold-in", "Wiring", held)
	require.NoError(t, p.Click("Wires"))
	require.NoError(t, p.Until("the stop's contact closed at rest", "document.querySelector('[data-name=mist_off].live')"))
	require.NoError(t, p.Click("Run"))
	require.NoError(t, p.ClickSelector("[aria-label=Panel] [data-name=mist_on] .reach"))
	require.NoError(t, p.Until("the valve with current, in the task's drawing too",
		"document.querySelectorAll('[data-name=mist_valve].live').length === 2"))
	require.NoError(t, p.Until("the button back at rest", "document.querySelector('[data-name=mist_on]:not(.live)')"))
	picture(t, p, "wiring")
}

// By address: the words with their bits, and the names on them.
func TestByAddress(t *testing.T) {
	t.Parallel()
	p := onBench(t, "mist-hold-in", "Wiring", "PROGRAM p\nVAR count AT %MW4 : INT; END_VAR\nLADDER\n"+
		"RUNG [P mist_on] -- ADD(count, 5) => count;\n"+
		"END_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Click("Addresses"))
	require.NoError(t, p.See("%MW4"))
	require.NoError(t, p.Click("Run"))
	require.NoError(t, p.See("Pause"))
	require.NoError(t, p.ClickSelector(spot(0, 0)))
	require.NoError(t, p.Until("the bits of five", `[...document.querySelectorAll('[aria-label="By address"] tr')].some((r) =>
		r.innerText.includes('%MW4') && [...r.querySelectorAll('.bit')].map((b) => b.innerText).join('').endsWith('00000101'))`))
	require.NoError(t, p.See("%IX0.1 mist_off"))
}

// An instructor sees the solution and every scenario with what is expected, and plays it on the bench.
func TestInstructorSeesTheKey(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.Click("Solution"))
	require.NoError(t, p.Until("the solution drawn", "document.querySelector('[aria-label=\"Rung 1 of the solution\"] svg')"))
	picture(t, p, "key-solution")
	require.NoError(t, p.Click("Scenarios"))
	require.NoError(t, p.Click("wire break stops the mist"))
	require.NoError(t, p.Until("what is expected", "document.querySelector('[data-lane=\"mist_valve expected\"]')"))
	picture(t, p, "key-scenarios")
	require.NoError(t, p.Click("Solution"))
	require.NoError(t, p.Click("Write it into the program"))
	require.NoError(t, p.Click("Scenarios"))
	require.NoError(t, p.Click("Play it on the bench"))
	require.NoError(t, p.See("mist_valve expected"))
	require.NoError(t, p.See("the scenario ends"))
}

var pageOfPDF = regexp.MustCompile(`/Type\s*/Page\b`)

// On paper: a worksheet, a result and a class list are whole, on A4, without what can only be pressed.
func TestPrinted(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	for _, sheet := range []struct {
		login, path, words string
		most               int
	}{
		{"ana", "#/exercise/mist-hold-in/worksheet", "What should happen", 2},
		{"ana", "#/handin/3", "First difference", 3},
		{"nadia", "#/", "Liam Byrne", 2},
	} {
		t.Run(sheet.path, func(t *testing.T) {
			p := visit(t, s, sheet.login, sheet.path, sheet.words)
			if strings.HasSuffix(sheet.path, "worksheet") {
				require.NoError(t, p.Until("the wiring drawn", "document.querySelector('svg.wiring')"))
			}
			pdf, err := p.PDF()
			require.NoError(t, err)
			require.True(t, bytes.HasPrefix(pdf, []byte("%PDF")))
			pages := len(pageOfPDF.FindAll(pdf, -1))
			assert.LessOrEqual(t, pages, sheet.most)
			assert.Positive(t, pages)
			assert.Regexp(t, `/MediaBox ?\[ ?0 0 59[45]\S* 84[12]`, string(pdf), "A4")
		})
	}
}

// What a page needs before the core and its fonts is little, and no page waits for the parts of another.
func TestFirstLoadIsSmall(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	for path, words := range map[string]string{"#/": "Count five trays", "#/exercise/mist-hold-in": "Wiring"} {
		p := visit(t, s, "liam", path, words)
		got, err := browser.Script[int](p, `const ahead = performance.getEntriesByName('celandine.ahead')[0]?.startTime ?? Infinity // of other pages, when this one has time
			const all = performance.getEntriesByType('resource').filter((r) => /\.(js|css)$/.test(r.name) && r.startTime < ahead)
			if (!all.length || all.some((r) => !r.transferSize)) throw new Error('nothing was measured')
			return all.reduce((sum, r) => sum + r.transferSize, 0)`)
		require.NoError(t, err)
		assert.Less(t, got, 300_000, path)
	}
}

// A part of the console that cannot be fetched says so, and is there once it can be.
func TestPageThatCannotBeFetched(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true)
	p := open(t)
	meetsTrouble(p)
	require.NoError(t, p.Block("http://*:*/assets/MyMarksPage*"))
	require.NoError(t, p.Enter(s.URL, "liam", servicetest.Password, "#/", "light"))
	require.NoError(t, p.See("Count five trays"))
	require.NoError(t, p.Click("My marks"))
	require.NoError(t, p.See("This page could not be fetched"))
	require.NoError(t, p.Block())
	require.NoError(t, p.Click("Load it again"))
	require.NoError(t, p.Until("the marks", "document.querySelector('h1')?.innerText === 'My marks'"))
}

// Where a page cannot be fetched anew, it says so, and what is being written in it stays.
func TestWritingStaysWhereFetchingFails(t *testing.T) {
	t.Parallel()
	_, p := look(t, "nadia", "#/handin/3", "Mark by hand")
	meetsTrouble(p)
	require.NoError(t, p.Set("Comment", "Look at the branch."))
	require.NoError(t, p.Press("m"))
	require.NoError(t, p.Until("the form", "document.querySelector('input[minlength=\"3\"]')"))
	require.NoError(t, p.ClickSelector("input[minlength='3']"))
	require.NoError(t, p.Type("The sensor was broken."))
	require.NoError(t, p.Block("http://*:*/api/handins/3"))
	require.NoError(t, p.Click("Give this mark"))
	require.NoError(t, p.Until("what is wrong", "document.querySelector('main [role=alert]')?.innerText"))
	kept, err := browser.Evaluate[string](p, "document.querySelector('[aria-label=Comment]').value")
	require.NoError(t, err)
	assert.Equal(t, "Look at the branch.", kept)
}
