// Screenshots remakes docs/screenshots from the demo data: pages in headless
// Chromium at 1280×800. It takes the service's address and the folder to write to.
package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"

	"github.com/chromedp/chromedp/kb"

	"celandine/e2e/browser"
)

func main() {
	if len(os.Args) != 3 {
		fmt.Fprintln(os.Stderr, "usage: screenshots ADDRESS FOLDER")
		os.Exit(2)
	}
	if err := run(os.Args[1], os.Args[2]); err != nil {
		fmt.Fprintln(os.Stderr, "screenshots:", err)
		os.Exit(1)
	}
}

// shot is one picture: who looks, where, and what is done before.
type shot struct {
	name  string
	login string
	path  string
	dark  bool
	steps func(p *browser.Page) error
}

var shots = []shot{
	{"beside", "nadia", "#/handin/3", false, func(p *browser.Page) error {
		return steps(p.See("Behaves like"), p.Click("Play it beside the solution"), p.Until("both", "document.querySelector('[data-playing] svg')"),
			p.See("mist_valve other"))
	}},
	{"bench", "liam", "#/exercise/vent-settle-delay", false, func(p *browser.Page) error {
		return steps(
			p.See("five seconds"),
			p.Write("PROGRAM vent_settle\nVAR settle : TON; END_VAR\nLADDER\nRUNG 'Mist' [mist_switch] -- (mist_valve);\n"+
				"RUNG 'Vent' [mist_valve] -- settle(PT := T#5s) -- (vent);\nEND_LADDER\nEND_PROGRAM\n"),
			p.See("Now: scan 0"), p.Until("the timer on the bench", "document.querySelector('.face')"), p.Click("scans"),
			p.ClickSelector("ul[aria-label=Inputs] .toggle"), again(20, func() error { return p.Click("scans") }), p.See("Now: scan 210"),
		)
	}},
	{"editor", "liam", "#/exercise/vent-settle-delay", false, func(p *browser.Page) error {
		return steps(
			p.See("five seconds"), p.Click("Structured text"),
			p.Write("PROGRAM vent_settle\nVAR settle : TON; END_VAR\nmist_valve := mist_swtch;\nsettle(IN := mist_valve, PT := T#5s);\n"+
				"vent := settle.Q AND ready;\nEND_PROGRAM\n"),
			p.See("2 errors"), p.Until("the mark", "document.querySelector('.cm-lintRange')"), p.Hover(".cm-lintRange", 0.5, 0.5),
			p.See("Write mist_switch"),
		)
	}},
	{"drawing", "liam", "#/exercise/mist-hold-in", false, func(p *browser.Page) error {
		return steps(
			p.See("Now: scan 0"),
			p.Write("PROGRAM mist_hold_in\nLADDER\nRUNG 'Mist until Off'\n  { [mist_on] | [mist_valve] } -- [mist_off] -- (mist_valve);\n"+
				"RUNG 'Lamp for the doorway'\n  [mist_valve];\nEND_LADDER\nEND_PROGRAM\n"),
			p.Until("the drawing", "document.querySelectorAll('[data-rung]').length === 2"), p.ClickSelector("[data-rung='1'] [data-spot='1']"),
			p.Press("o"), p.Type("mist"), p.Until("the names", "document.querySelector('[role=option]')"),
		)
	}},
	{"why", "ana", "#/handin/3", false, func(p *browser.Page) error {
		return steps(p.See("had power through"), p.Click("Step by step"), p.See("closed since 10"))
	}},
	{"class", "nadia", "#/", false, func(p *browser.Page) error { return p.See("Liam Byrne") }},
	{"review", "nadia", "#/handin/3", true, func(p *browser.Page) error {
		return steps(p.See("Mark by hand"), p.Until("the program drawn", "document.querySelector('[aria-label=\"The program, drawn\"] svg')"),
			p.Click("Mark by hand"), p.Click("Comment on rung 1 Mist"), p.Type("Stop must stand in series with both branches."))
	}},
	{"insight", "nadia", "#/insight/mist-hold-in", true, func(p *browser.Page) error {
		return steps(p.See("Where it first goes wrong"), p.See("start wins over stop"), p.Until("it whole", "document.querySelector('[data-looking=\"0\"]')"))
	}},
	{"walk", "liam", "#/exercise/tray-counter", false, func(p *browser.Page) error {
		return steps(
			p.See("Wiring"),
			p.Write("PROGRAM trays\nVAR arrived : BOOL; n : CTU; END_VAR\nLADDER\nRUNG 'Arrived' [P tray_seen] -- (arrived);\n"+
				"RUNG 'Full' [arrived] -- n(R := rack_taken, PV := 5) -- (rack_full);\nEND_LADDER\nEND_PROGRAM\n"),
			p.Until("the counter on the bench", "document.querySelector('.face')"), p.Click("One scan"),
			p.ClickSelector("ul[aria-label=Inputs] .toggle"), p.Click("One scan"), p.Click("This scan"),
			again(4, func() error { return p.Click("Step") }), p.See("Step 5 of"),
		)
	}},
	{"library", "nadia", "#/exercises", false, func(p *browser.Page) error { return p.See("Let the fogger run on") }},
	{"blocks", "liam", "#/exercise/vent-settle-delay", false, func(p *browser.Page) error {
		return steps(
			p.See("five seconds"), p.Click("Blocks"),
			p.Write("PROGRAM vent_settle\nVAR settle : TON; days : CTU; more : INT; END_VAR\nFBD\nNETWORK 'Mist'\n  mist_switch => mist_valve;\n"+
				"NETWORK 'Vent after settling'\n  settle(IN := mist_valve, PT := T#5s);\n  settle.Q => vent;\n"+
				"NETWORK 'How often'\n  days(CU := vent, R := FIRST_SCAN, PV := 20);\n  ADD(days.CV, 1) => more;\nEND_FBD\nEND_PROGRAM\n"),
			p.See("Now: scan 0"), p.Until("both on the bench", "document.querySelectorAll('.face').length === 2"), p.Click("The same in …"),
			p.Until("the same in ladder", "document.querySelector('[aria-label=\"The same in ladder\"] .rung')"),
			p.ClickSelector("ul[aria-label=Inputs] .toggle"), again(21, func() error { return p.Click("scans") }), p.See("Now: scan 210"),
			p.ClickSelector("[data-network='1'] [data-path='0.0']"), p.Press(kb.Enter),
			p.Until("the field", "document.querySelector('form input[list]')"),
		)
	}},
	{"languages", "ana", "#/languages", false, func(p *browser.Page) error {
		return steps(p.See("Which one when"), p.Until("blocks", "document.querySelector('[aria-label=\"In blocks\"] .network')"),
			p.Click("Mist ON"), again(120, func() error { return p.Click("One scan") }), p.See("Scan 120"))
	}},
	{"scenario", "nadia", "#/workshop/nadia/fogger-run-on/scenarios", false, func(p *browser.Page) error {
		return steps(p.See("Drag an edge"), p.Until("the trace", "document.querySelector('[data-lane=\"fan does\"]')?.getAttribute('d')"),
			p.Click("Choose a stretch"), p.Set("to", "6s"), p.Set("from", "5.5s"), p.Click("Press for 1 scan"), p.See("Undo"))
	}},
	{"predict", "dmitri", "#/handin/41", false, func(p *browser.Page) error {
		return steps(p.See("At scan 6 (60 ms), chime is FALSE; TRUE was drawn."), p.Click("First difference"),
			p.Until("the rungs", "document.querySelector('[aria-label=\"The program\"] svg')"))
	}},
	{"try", "nadia", "#/workshop/nadia/fogger-run-on/try", false, func(p *browser.Page) error {
		return steps(p.See("An empty program"), p.Until("the strength", "document.querySelector('[data-strength]')"))
	}},
}

// steps returns the first error; each step has waited for what it needs.
func steps(errs ...error) error {
	for _, err := range errs {
		if err != nil {
			return err
		}
	}
	return nil
}

// again does something several times.
func again(times int, do func() error) error {
	for range times {
		if err := do(); err != nil {
			return err
		}
	}
	return nil
}

func run(address, folder string) error {
	b, err := browser.Start(context.Background())
	if err != nil {
		return err
	}
	defer b.Close()
	for _, s := range shots {
		if err := take(b, address, folder, s); err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
	}
	return nil
}

func take(b *browser.Browser, address, folder string, s shot) error {
	p, err := b.Open()
	if err != nil {
		return err
	}
	defer p.Close()
	look := "light"
	if s.dark {
		look = "dark"
	}
	if err := p.Enter(address, s.login, "glasshouse", s.path, look); err != nil {
		return err
	}
	if err := s.steps(p); err != nil {
		return err
	}
	png, err := p.Picture()
	if err != nil {
		return err
	}
	return os.WriteFile(filepath.Join(folder, s.name+".png"), png, 0o644)
}
