package e2e

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/e2e/browser"
)

const noRung = "PROGRAM p\nLADDER\nEND_LADDER\nEND_PROGRAM\n"

// drawn opens an exercise with a text, and stands in its drawing.
func drawn(t *testing.T, exercise, words, text string) *browser.Page {
	_, p := look(t, "liam", "#/exercise/"+exercise, words)
	require.NoError(t, p.Write(text))
	require.NoError(t, p.Until("the drawing", fmt.Sprintf(
		"document.querySelector('.ladder') && document.querySelectorAll('[data-rung]').length === %d", strings.Count(text, "RUNG"))))
	require.NoError(t, p.ClickSelector(".ladder"))
	return p
}

// press presses keys one after the other; words longer than a key are typed.
func press(t *testing.T, p *browser.Page, keys ...string) {
	t.Helper()
	for _, key := range keys {
		if len([]rune(key)) > 1 {
			require.NoError(t, p.Type(key))
		} else {
			require.NoError(t, p.Press(key))
		}
	}
}

// written is the program text in the editor, without the values beside it.
const written = "[...document.querySelectorAll('.cm-line')].map((l) => [...l.childNodes].filter((n) => " +
	"!n.classList?.contains('cm-beside')).map((n) => n.textContent).join('')).join('\\n')"

// becomes waits for the program text.
func becomes(t *testing.T, p *browser.Page, want string) {
	t.Helper()
	assert.NoError(t, p.Until("the text\n"+want, written+" === "+strconv.Quote(want)))
}

// A hold-in is drawn with keys alone: rung, contacts, branch, coil, each named as it is placed.
func TestDrawByKeys(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", noRung)
	require.NoError(t, p.See("There is no rung yet."))
	press(t, p, "r")
	require.NoError(t, p.See("Rung 1 of 1: empty"))
	press(t, p, "c", "mist_on", kb.Enter)
	require.NoError(t, p.See("Rung 1 of 1: wire"))
	press(t, p, "c", "mist_off", kb.Enter, "o", "mist_v", kb.ArrowDown, kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	press(t, p, kb.Home)
	require.NoError(t, p.See("open contact mist_on"))
	press(t, p, "p")
	picture(t, p, "drawing-branch")
	press(t, p, "mist_valve", kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.See("0 errors, 0 warnings"))
	picture(t, p, "drawing-hold-in")

	// Another kind in place; taken back, and made again.
	press(t, p, kb.ArrowRight)
	require.NoError(t, p.See("open contact mist_off"))
	press(t, p, "/")
	require.NoError(t, p.See("closed contact mist_off"))
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	require.NoError(t, p.See("open contact mist_off"))
	require.NoError(t, p.Press("y", chromedp.ModifierCtrl))
	require.NoError(t, p.See("closed contact mist_off"))
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
}

// First the whole shape, then the names, one after the other; a new name is offered for declaration with the type of its place.
func TestDrawFirstNameAfter(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", "PROGRAM p\nLADDER\nRUNG 'Mist';\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Click("Keys"))
	require.NoError(t, p.Click("Ask for the name as soon"))
	require.NoError(t, p.ClickSelector(".ladder"))
	press(t, p, "c", "c", "o")
	require.NoError(t, p.See("Without a name: contact in rung 1, contact in rung 1, coil in rung 1"))
	require.NoError(t, p.See("This contact has no variable."))
	picture(t, p, "drawing-unnamed")
	press(t, p, "n", "mist_on", kb.Tab, "ready", kb.Tab, "mist_valve", kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG 'Mist'\n  [mist_on] -- [ready] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	press(t, p, kb.Home, kb.ArrowRight, kb.Enter, kb.Enter)
	require.NoError(t, p.See("ready is new here."))
	press(t, p, "d")
	becomes(t, p, "PROGRAM p\nVAR\n  ready : BOOL;\nEND_VAR\nLADDER\nRUNG 'Mist'\n  [mist_on] -- [ready] -- (mist_valve);\nEND_LADDER\n"+
		"END_PROGRAM\n")
	require.NoError(t, p.See("0 errors"))
}

// Keys that come faster than the core answers are taken in their order: what is typed for a name whose field is not open yet
// stands in it, and is no command.
func TestDrawFasterThanTheCore(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", noRung)
	require.NoError(t, p.Click("Keys"))
	require.NoError(t, p.Click("Ask for the name as soon"))
	require.NoError(t, p.ClickSelector(".ladder"))
	at := func(keys ...string) {
		list, err := json.Marshal(keys)
		require.NoError(t, err)
		_, err = browser.Evaluate[bool](p, `(() => { const box = document.querySelector('.ladder'); box.focus()
			for (const key of `+string(list)+`) box.dispatchEvent(new KeyboardEvent('keydown',
				{key, bubbles: true, cancelable: true})); return true })()`)
		require.NoError(t, err)
	}
	// All in one go: no answer of the core comes between. The first contact makes its rung.
	at("c", "c", "o", "n", "m", "i", "s", "t", "_", "o")
	require.NoError(t, p.Until("the field", "document.activeElement?.value === 'mist_o'"))
	press(t, p, "n", kb.Tab, "mist_off", kb.Tab, "mist_valve", kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	at("Home", "/", "Enter", "h", "e", "a", "t", "Backspace", "d", "Enter")
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [/head] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	// Taken back, and changed at once: the change is of what stands there then.
	_, err := browser.Evaluate[bool](p, `(() => { const box = document.querySelector('.ladder'); box.focus()
		box.dispatchEvent(new KeyboardEvent('keydown', {key: 'z', ctrlKey: true, bubbles: true, cancelable: true}))
		box.dispatchEvent(new KeyboardEvent('keydown', {key: 'Home', bubbles: true, cancelable: true}))
		return box.dispatchEvent(new KeyboardEvent('keydown', {key: '/', bubbles: true, cancelable: true})) })()`)
	require.NoError(t, err)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
}

// A block asks for its pins and declares its instance; a rung is copied, moved, given a title and a comment.
func TestDrawBlocksAndRungs(t *testing.T) {
	t.Parallel()
	p := drawn(t, "vent-settle-delay", "five seconds",
		"PROGRAM p\nLADDER\nRUNG [mist_switch] -- (mist_valve);\nRUNG [mist_valve] -- (vent);\nEND_LADDER\nEND_PROGRAM\n")
	press(t, p, kb.ArrowDown, kb.Home, kb.ArrowRight, "b")
	require.NoError(t, p.Until("the list of blocks", "document.querySelector('[aria-label=Blocks] button')"))
	press(t, p, "on-delay", kb.Enter)
	require.NoError(t, p.See("Its name"))
	picture(t, p, "drawing-block")
	press(t, p, kb.Enter)
	becomes(t, p, "PROGRAM p\nVAR\n  timer_1 : TON;\nEND_VAR\nLADDER\nRUNG [mist_switch] -- (mist_valve);\n"+
		"RUNG [mist_valve] -- timer_1(PT := T#5s) -- (vent);\nEND_LADDER\nEND_PROGRAM\n")
	press(t, p, "t", "Vent", kb.Enter, "m", "After settling.", kb.Enter)
	require.NoError(t, p.See("After settling."))
	require.NoError(t, p.Press("d", chromedp.ModifierCtrl))
	require.NoError(t, p.See("Rung 3 of 3, Vent"))
	require.NoError(t, p.Press(kb.ArrowUp, chromedp.ModifierAlt))
	require.NoError(t, p.See("Rung 2 of 3, Vent"))
	require.NoError(t, p.Press("x", chromedp.ModifierCtrl))
	require.NoError(t, p.See("Rung 2 of 3, Vent: block timer_1 TON"))
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	press(t, p, kb.Delete)
	// What was chosen with Shift is copied into another rung.
	require.NoError(t, p.Press(kb.Home, chromedp.ModifierCtrl))
	require.NoError(t, p.Press(kb.ArrowRight, chromedp.ModifierShift))
	require.NoError(t, p.See("2 elements chosen"))
	require.NoError(t, p.Press("c", chromedp.ModifierCtrl))
}

// By mouse and by finger: a press chooses, a name is carried to an element, a tool into a rung; both views follow each other.
func TestDrawByMouse(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", "PROGRAM p\nLADDER\nRUNG [] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.See("Without a name"))
	require.NoError(t, p.Carry("ul[aria-label=Names] li:nth-child(1) button", "[data-rung='0'] [data-spot='0']"))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Carry("[role=toolbar] button:nth-child(1)", "[data-rung='0'] [data-spot='2']"))
	require.NoError(t, p.See("Later"))
	press(t, p, "mist_off", kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.ClickSelector("[data-rung='0'] [data-spot='0']"))
	require.NoError(t, p.Click("Branch"))
	require.NoError(t, p.Click("mist_valve\n%QX0.0"))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Write(wrongMist))
	require.NoError(t, p.Until("the drawing to follow", "[...document.querySelectorAll('.ladder .rung g')].length === 4"))
	// Undoing goes on across both.
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG { [mist_on] | } -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
}

// The table of variables: a series in one go, a description written once, another name wherever it stands, where it is used.
func TestVariableTable(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", "PROGRAM p\nVAR\n  ready : BOOL;\nEND_VAR\nLADDER\nRUNG [ready] -- (mist_valve);\n"+
		"RUNG [mist_on] -- (ready);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Click("Variables"))
	require.NoError(t, p.ClickSelector("form[aria-label='New variable'] input"))
	press(t, p, "tray_{1..3}", kb.Enter)
	require.NoError(t, p.Until("the series", "document.querySelector(\"[aria-label='Name of tray_3']\")"))
	require.NoError(t, p.Set("Name of ready", "may_mist"))
	require.NoError(t, p.Until("another name", "document.querySelector(\"[aria-label='Name of may_mist']\")"))
	require.NoError(t, p.Set("Description of may_mist", "All is well"))
	require.NoError(t, p.Until("the description",
		"document.querySelector(\"[aria-label='Description of may_mist']\").value === 'All is well'"))
	require.NoError(t, p.Click("Where may_mist is used"))
	require.NoError(t, p.See("writes: RUNG [mist_on] -- (may_mist);"))
	picture(t, p, "variables")
	require.NoError(t, p.Click("Both"))
	becomes(t, p, "PROGRAM p\nVAR\n  may_mist : BOOL; // All is well\n  tray_1 : BOOL;\n  tray_2 : BOOL;\n  tray_3 : BOOL;\nEND_VAR\n"+
		"LADDER\nRUNG [may_mist] -- (mist_valve);\nRUNG [mist_on] -- (may_mist);\nEND_LADDER\nEND_PROGRAM\n")
}

// In the text, the name at the cursor: its declaration, all its places, another name everywhere.
func TestNamesInTheText(t *testing.T) {
	t.Parallel()
	p := drawn(t, "vent-settle-delay", "five seconds", "PROGRAM p\nEND_PROGRAM\n")
	require.NoError(t, p.Click("Structured text"))
	require.NoError(t, p.Write("PROGRAM p\nVAR settle : TON; END_VAR\nmist_valve := mist_switch;\nsettle(IN := mist_valve, PT := T#5s);\n"+
		"vent := settle.Q"))
	press(t, p, kb.ArrowLeft, kb.ArrowLeft, kb.ArrowLeft)
	require.NoError(t, p.See("Declared in line 2"))
	require.NoError(t, p.Press(kb.F2))
	require.NoError(t, p.See("Rename everywhere"))
	require.NoError(t, p.Press("a", chromedp.ModifierCtrl))
	press(t, p, "mist_valve", kb.Enter)
	require.NoError(t, p.See("The name mist_valve is used already."))
	require.NoError(t, p.Press("a", chromedp.ModifierCtrl))
	press(t, p, "airing", kb.Enter)
	require.NoError(t, p.Click("Stands in 3 places"))
	require.NoError(t, p.See("calls: airing(IN := mist_valve, PT := T#5s);"))
	require.NoError(t, p.Click("line 2"))
	becomes(t, p, "PROGRAM p\nVAR airing : TON; END_VAR\nmist_valve := mist_switch;\nairing(IN := mist_valve, PT := T#5s);\nvent := airing.Q")
}

// With a finger: a press chooses, a tool and a name are carried into the rung.
func TestDrawByTouch(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", "PROGRAM p\nLADDER\nRUNG [] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.See("Without a name"))
	require.NoError(t, p.CarryByTouch("ul[aria-label=Names] li:nth-child(1) button", "[data-rung='0'] [data-spot='0']"))
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	require.NoError(t, p.Touch("[data-rung='0'] [data-spot='2']"))
	require.NoError(t, p.See("coil mist_valve"))
	require.NoError(t, p.CarryByTouch("[role=toolbar] button:nth-child(1)", "[data-rung='0'] [data-spot='1']"))
	require.NoError(t, p.Until("the field", "document.activeElement?.getAttribute('role') === 'combobox'"))
	press(t, p, "mist_off", kb.Enter)
	becomes(t, p, "PROGRAM p\nLADDER\nRUNG [mist_on] -- [mist_off] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
}
