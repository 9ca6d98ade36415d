package e2e

import (
	"strconv"
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/e2e/browser"
)

const mistInBlocks = `PROGRAM mist_hold_in
FBD
NETWORK 'Mist until Off'
  wire any := OR(mist_on, mist_valve);
  AND(any, mist_off) => mist_valve;
END_FBD
END_PROGRAM
`

// A block diagram is drawn beside its text, its lines carry what is worked out, the same in ladder works beside it, and handed in it earns
// its mark and is drawn there.
func TestBlocks(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.Click("Blocks"))
	require.NoError(t, p.Until("the starter drawn", "document.querySelectorAll('[data-network] svg').length === 1"))
	require.NoError(t, p.Write(mistInBlocks))
	benchHas(t, p)
	require.NoError(t, p.Until("two boxes", "document.querySelectorAll('[data-network] .body').length === 2"))

	require.NoError(t, p.Click("The same in …"))
	require.NoError(t, p.Until("the same in ladder", "document.querySelector('[aria-label=\"The same in ladder\"] .rung')"))
	release, err := p.Hold("Mist ON")
	require.NoError(t, err)
	require.NoError(t, p.Click("One scan"))
	lit := "document.querySelectorAll('[data-network] .lit').length"
	require.NoError(t, p.Until("the valve's line carries TRUE", lit+" > 0"))
	require.NoError(t, release())
	require.NoError(t, p.Until("power in the ladder beside it", "document.querySelector('[aria-label=\"The same in ladder\"] .lit')"))
	picture(t, p, "blocks")
	accessible(t, p)

	require.NoError(t, p.ClickSelector("[aria-label='The same in'] [role=tab]:last-child"))
	require.NoError(t, p.Until("the same in text",
		"document.querySelector('[aria-label=\"The same in structured text\"] .cm-content')?.innerText.includes('(mist_on OR mist_valve)')"))

	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("10 of 10"))
	require.NoError(t, p.Until("the network of the hand-in", "document.querySelector('[aria-label=\"The program, drawn\"] svg.network')"))
}

// Walked through step by step, a line of a block diagram carries something once its node has had its turn.
func TestWalkInBlocks(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.Click("Blocks"))
	require.NoError(t, p.Write("PROGRAM mist_hold_in\nVAR\n  early, late : BOOL;\nEND_VAR\nFBD\nNETWORK\n  NOT(mist_on) => early;\n"+
		"  NOT(AND(early, late)) => late;\n  AND(late, mist_on) => mist_valve;\nEND_FBD\nEND_PROGRAM\n"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	benchHas(t, p)
	require.NoError(t, p.Click("One scan"))
	lit := "document.querySelectorAll('[data-network] .lit').length"
	require.NoError(t, p.Until("power", lit+" > 2"))
	require.NoError(t, p.Click("This scan"))
	require.NoError(t, p.Until("nothing yet", lit+" === 0"))
	require.NoError(t, p.Click("Step"))
	require.NoError(t, p.Until("the first node", lit+" === 1"))
	require.NoError(t, p.Until("the cursor with it", "document.querySelector('[data-cursor]')?.dataset.path === '0'"))
}

// Text with a loop says why it cannot be drawn, and where; the bench goes on.
func TestWhatCannotBeDrawn(t *testing.T) {
	t.Parallel()
	p := onBench(t, "mist-hold-in", "Wiring", rightMist)
	require.NoError(t, p.Click("Structured text"))
	require.NoError(t, p.Write("PROGRAM mist_hold_in\nVAR i : INT; END_VAR\nFOR i := 1 TO 3 DO\n  mist_valve := mist_on;\nEND_FOR;\n"+
		"END_PROGRAM\n"))
	benchHas(t, p)
	require.NoError(t, p.Click("The same in …"))
	require.NoError(t, p.See("Line 3: A loop cannot be drawn."))
	has, err := browser.Evaluate[bool](p, "!!document.querySelector('.cm-content')")
	require.NoError(t, err)
	assert.True(t, has, "the text stays in sight")
}

// One problem in three languages: a press works in all three.
func TestThreeLanguages(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/languages", "One problem, three languages")
	require.NoError(t, p.Until("blocks beside the ladder", "document.querySelector('[aria-label=\"In blocks\"] .network')"))
	release, err := p.Hold("Mist ON")
	require.NoError(t, err)
	require.NoError(t, p.Click("One scan"))
	require.NoError(t, p.See("Scan 1"))
	for place, sign := range map[string]string{
		"In ladder": ".rung g[aria-label=\"coil mist_valve, gets power\"]", "In blocks": ".network .lit path", "In structured text": ".cm-line",
	} {
		require.NoError(t, p.Until("the valve on "+place, "document.querySelector('[aria-label=\""+place+"\"] "+sign+"')"))
	}
	require.NoError(t, p.See("mist_valve TRUE"))
	require.NoError(t, release())
	accessible(t, p)
}

// A block diagram is drawn with keys alone: a function before a pin, a name on the pin that is open, a circle, another place, a timer, a
// network with a title; each change can be taken back.
func TestDrawBlocks(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.Click("Blocks"))
	text := func(what, has string) {
		t.Helper()
		require.NoError(t, p.Until(what, "document.querySelector('.cm-content')?.innerText.includes("+strconv.Quote(has)+")"))
	}
	field := func(label, typed string) {
		t.Helper()
		require.NoError(t, p.Until("the field "+label, "document.activeElement?.getAttribute('aria-label') === "+strconv.Quote(label)))
		require.NoError(t, p.Type(typed))
		require.NoError(t, p.Press(kb.Enter))
	}
	press := func(key string) {
		t.Helper()
		require.NoError(t, p.Until("the keys to be the drawing's", "document.activeElement?.classList.contains('blocks')"))
		require.NoError(t, p.Press(key))
	}
	require.NoError(t, p.ClickSelector("[data-path='0']"))
	press("b")
	field("Function or block", "OR")
	field("Value", "mist_valve")
	text("the latch", "OR(mist_on, mist_valve) => mist_valve;")
	require.NoError(t, p.ClickSelector("[data-path='0']"))
	press("b")
	field("Function or block", "and")
	field("Value", "mist_off")
	text("stop in series", "AND(OR(mist_on, mist_valve), mist_off) => mist_valve;")
	require.NoError(t, p.See("Network 1 of 1, Mist until Off: value mist_off"))

	press("+")
	require.NoError(t, p.Until("the field of the new pin", "document.activeElement?.getAttribute('aria-label') === 'Value'"))
	require.NoError(t, p.Press(kb.Escape))
	press("m")
	field("Value", "ist_on")
	text("a name begun by its first letter", "AND(OR(mist_on, mist_valve), mist_off, mist_on) => mist_valve;")
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	text("two inputs again", "AND(OR(mist_on, mist_valve), mist_off) => mist_valve;")
	require.NoError(t, p.ClickSelector("[data-path='0.1']"))

	press("/")
	text("the circle", "AND(OR(mist_on, mist_valve), /mist_off) => mist_valve;")
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	text("no circle", "AND(OR(mist_on, mist_valve), mist_off) => mist_valve;")
	press("r")
	press("t")
	field("Title", "Lamp")
	text("a second network", "NETWORK 'Lamp'")
	press("l")
	field("Line", "mist_valve => lamp")
	text("its line", "mist_valve => lamp;")
	accessible(t, p)
	picture(t, p, "blocks-drawn")
	require.NoError(t, p.Click("Remove"))
	require.NoError(t, p.Until("the line gone", "!document.querySelector('.cm-content').innerText.includes('lamp;')"))
	require.NoError(t, p.Click("Remove"))
	require.NoError(t, p.Until("the network gone", "document.querySelectorAll('[data-network]').length === 1"))
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("10 of 10"))
}
