package e2e

import (
	"fmt"
	"strconv"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"

	"celandine/e2e/browser"
	"celandine/service/servicetest"
)

// longProgram has 300 rungs of four contacts, a branch and a coil.
func longProgram() string {
	var b strings.Builder
	b.WriteString("PROGRAM p\nVAR\n")
	for n := range 300 {
		fmt.Fprintf(&b, "  tray_%d : BOOL;\n", n)
	}
	b.WriteString("END_VAR\nLADDER\n")
	for n := range 300 {
		fmt.Fprintf(&b, "RUNG 'Tray %d' { [mist_on] | [tray_%d] } -- [mist_off] -- [/tray_%d] -- (tray_%d);\n", n, n, (n+7)%300, n)
	}
	b.WriteString("RUNG [tray_1] -- (mist_valve);\nEND_LADDER\nEND_PROGRAM\n")
	return b.String()
}

// BenchmarkLongProgram measures a program of 300 rungs in Chromium, drawing and text both shown: what the page's own thread
// works from a key press, or a turn of the wheel, until the next frame is laid out, in ms: script, style and layout, forced by
// asking for a size. The median, the least and the 19th of 20 are told; the frames themselves come every 16.7 ms. "edit" draws
// a branch and takes it out again, until it stands in the drawing, the core's answer from its worker included; "blocked" is the
// longest time that the page could do nothing else meanwhile. "ready" is the first answer of a core that is loaded anew, "check" a check by
// a core that has warmed up.
func BenchmarkLongProgram(b *testing.B) {
	s := servicetest.Start(b, true)
	p := open(b)
	require.NoError(b, p.Enter(s.URL, "liam", servicetest.Password, "#/exercise/mist-hold-in", "light"))
	require.NoError(b, p.See("Wiring"))
	require.NoError(b, p.Write(longProgram()))
	require.NoError(b, p.See("0 errors"))
	require.NoError(b, p.ClickSelector(".ladder"))
	prepare := `
		const box = document.querySelector('.ladder'), text = document.querySelector('.cm-scroller')
		const key = (k) => box.dispatchEvent(new KeyboardEvent('keydown', {key: k, bubbles: true, cancelable: true}))
		const quiet = () => new Promise((r) => requestAnimationFrame(() => setTimeout(r, 0)))
		const laid = async (work) => { await quiet(); const t = performance.now(); work(); await Promise.resolve(); await Promise.resolve(); box.getBoundingClientRect(); document.body.offsetHeight; return performance.now() - t }
		const times = []
		const another = () => {
			const worker = new Worker(performance.getEntriesByType('resource').map((e) => e.name).find((n) => n.includes('worker')), {type: 'module', name: 'editor'})
			return {
				ask: (call, argument) => new Promise((done) => { worker.onmessage = (e) => e.data.id && done(e); worker.postMessage({id: 1, call, argument: JSON.stringify(argument)}) }),
				end: () => worker.terminate(),
			}
		}
		`
	for name, body := range map[string]string{
		"cursor": `box.focus(); for (let n = 0; n < 200; n++) times.push(await laid(() => key(n % 3 ? 'ArrowRight' : 'ArrowDown')))`,
		"scroll": `for (let n = 0; n < 200; n++) times.push(await laid(() => { box.scrollTop += 90; box.dispatchEvent(new Event('scroll')) }))`,
		"text":   `text.scrollTop = 8000; await quiet(); document.querySelector('.cm-content').focus(); for (let n = 0; n < 60; n++) times.push(await laid(() => document.execCommand('insertText', false, ' ')))`,
		"edit": `let drawn = false; new MutationObserver(() => (drawn = true)).observe(box, {subtree: true, childList: true})
			for (let n = 0; n < 40; n++) {
				box.focus()
				drawn = false
				const t = performance.now()
				key(n % 2 ? 'Delete' : 'p')
				while (!drawn && performance.now() - t < 1000) await new Promise((r) => setTimeout(r, 0))
				times.push(performance.now() - t)
				await quiet()
			}`,
		"blocked": `let last = performance.now(), gap = 0, on = true
			const c = new MessageChannel(); c.port1.onmessage = () => { const now = performance.now(); gap = Math.max(gap, now - last); last = now; if (on) c.port2.postMessage(0) }
			c.port2.postMessage(0)
			for (let n = 0; n < 40; n++) {
				box.focus()
				await new Promise((r) => setTimeout(r, 60))
				gap = 0
				key(n % 2 ? 'Delete' : 'p')
				await new Promise((r) => setTimeout(r, 60))
				times.push(gap)
			}
			on = false`,
		"ready": `for (let n = 0; n < 20; n++) {
				const t = performance.now(), core = another()
				await core.ask('format', {file: 'p', text: 'PROGRAM p END_PROGRAM'})
				times.push(performance.now() - t)
				core.end()
			}`,
		"check": `const core = another(), long = ` + strconv.Quote(strings.Replace(longProgram(), "VAR\n", "VAR mist_on, mist_off, mist_valve : BOOL;\n", 1)) + `
			for (let n = 0; n < 200; n++) {
				const changed = long.replace('[tray_1]', '[tray_' + (n + 2) + ']'), t = performance.now()
				await core.ask('check', {file: 'p', text: changed})
				if (n >= 50) times.push(performance.now() - t)
			}
			core.end()`,
	} {
		b.Run(name, func(b *testing.B) {
			var all []float64
			for b.Loop() {
				times, err := browser.Script[[]float64](p, prepare+body+"\nreturn times.sort((a, b) => a - b)")
				require.NoError(b, err)
				all = times
			}
			b.ReportMetric(0, "ns/op")
			b.ReportMetric(all[0], "ms-least")
			b.ReportMetric(all[len(all)/2], "ms-median")
			b.ReportMetric(all[len(all)*19/20], "ms-19of20")
		})
	}
}
