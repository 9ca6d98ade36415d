package e2e

import (
	"testing"

	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/require"
)

// Wires of a block diagram are drawn from pin to pin, by the mouse and by keys; what would not go together is told before one lets go, and is
// not drawn.
func TestDrawWires(t *testing.T) {
	t.Parallel()
	_, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.See("Now: scan 0"))
	require.NoError(t, p.Click("Blocks"))
	begins := "PROGRAM mist_hold_in\nVAR\n  n : INT;\n  lamp : BOOL;\nEND_VAR\nFBD\nNETWORK 'Mist until Off'\n" +
		"  OR(mist_on, mist_valve) => lamp;\n  AND(lamp, mist_off) => mist_valve;\n  ADD(n, 1) => n;\nEND_FBD\nEND_PROGRAM\n"
	require.NoError(t, p.Write(begins))
	require.NoError(t, p.Until("three boxes", "document.querySelectorAll('[data-network] .body').length === 3"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	text := func(what, has string) {
		t.Helper()
		require.NoError(t, p.Until(what, textHas(has)))
	}

	release, err := p.Drag("[data-output='2 ']", "[data-path='1.0']")
	require.NoError(t, err)
	require.NoError(t, p.See("INT and BOOL do not go together with AND."))
	picture(t, p, "wire-wrong")
	require.NoError(t, release())
	require.NoError(t, p.Until("it told again below", "document.querySelector('[role=alert]')?.innerText.includes('INT')"))
	text("nothing drawn", "AND(lamp, mist_off) => mist_valve;")

	require.NoError(t, p.Carry("[data-output='0 ']", "[data-path='1.0']"))
	text("the wire", "wire or_1 := OR(mist_on, mist_valve);")
	text("where it goes", "AND(or_1, mist_off) => mist_valve;")
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	text("as it was", "AND(lamp, mist_off) => mist_valve;")

	require.NoError(t, p.ClickSelector("[data-path='0']"))
	require.NoError(t, p.Press("w"))
	require.NoError(t, p.See("Wire from OR"))
	require.NoError(t, p.ClickSelector("[data-path='2.0']"))
	require.NoError(t, p.See("+ does not work on BOOL."))
	require.NoError(t, p.ClickSelector("[data-path='1.0']"))
	require.NoError(t, p.See("w draws it"))
	require.NoError(t, p.Press("w"))
	text("the wire by keys", "AND(or_1, mist_off) => mist_valve;")

	require.NoError(t, p.Carry("[aria-label=Names] li:nth-child(1) button", "[data-path='3.1']"))
	require.NoError(t, p.Until("the name that does not go there", textHas("ADD(n, mist_on)")))
	require.NoError(t, p.Press("z", chromedp.ModifierCtrl))
	require.NoError(t, p.ClickSelector("[data-path='3']"))
	require.NoError(t, p.Press("e"))
	require.NoError(t, p.Until("the field of EN", "document.activeElement?.getAttribute('aria-label') === 'Value'"))
	require.NoError(t, p.Type("mist_on"))
	require.NoError(t, p.Press(kb.Enter))
	text("EN", "ADD(EN := mist_on, IN1 := n, IN2 := 1) => n;")
	accessible(t, p)
}
