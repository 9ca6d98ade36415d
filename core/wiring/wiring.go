// Package wiring draws how a panel is wired.
//
// In come an exercise's points; out comes a picture that stands alone. It knows nothing of programs.
package wiring

import (
	"fmt"
	"html"
	"strings"

	"celandine/core/block"
	"celandine/core/exercise"
	"celandine/core/signal"
)

// The measures of a wiring plan, in pixels.
const (
	wiringWidth = 440
	wiringRow   = 48.0
	supplyAt    = 22.0
	contactAt   = 66.0
	terminalAt  = 232.0
	loadAt      = 300.0
	returnAt    = 418.0
)

// Picture draws how a panel is wired, as a picture that stands alone: the supply, each device with its contact as it rests, its
// terminal with address and name, and each output with its load. A device is in a group with its name as data-name; what it looks
// like when it is worked, and its wire when it is broken, are there too, not displayed.
func Picture(inputs, outputs []exercise.Point) string {
	p := &plan{y: 8}
	p.side(inputs, p.input, "Inputs", supplyAt)
	p.side(outputs, p.output, "Outputs", returnAt)
	return fmt.Sprintf(`<svg xmlns="http://www.w3.org/2000/svg" width="%d" height="%.0f" viewBox="0 0 %d %.0f" class="wiring" `+
		`font-family="sans-serif" font-size="12" fill="none" stroke="currentColor" stroke-width="1.6" role="img" `+
		"aria-label=\"Wiring\">\n%s</svg>\n",
		wiringWidth, p.y, wiringWidth, p.y, p.b.String())
}

type plan struct {
	b strings.Builder
	y float64
}

func (p *plan) add(format string, args ...any) { fmt.Fprintf(&p.b, format+"\n", args...) }

func (p *plan) text(x, y float64, more, words string) {
	p.add(`<text x="%.0f" y="%.0f" fill="currentColor" stroke="none"%s>%s</text>`, x, y, more, html.EscapeString(words))
}

// side draws the points of one side, along the rail of the supply or of its return.
func (p *plan) side(points []exercise.Point, one func(exercise.Point, float64), words string, rail float64) {
	top := p.y + 18
	p.text(supplyAt-12, p.y+12, ` font-weight="600"`, words)
	if rail == supplyAt {
		p.text(supplyAt+44, p.y+12, ` opacity="0.8"`, "supply +")
	} else {
		p.text(returnAt+12, p.y+12, ` opacity="0.8" text-anchor="end"`, "supply −")
	}
	p.y = top
	for _, w := range points {
		p.add(`<g data-name="%s" class="device"><title>%s</title>`, html.EscapeString(w.Name), html.EscapeString(says(w)))
		// A line is too thin for a finger.
		p.add(`<rect x="%.0f" y="%.0f" width="%.0f" height="%.0f" class="reach" stroke="none" pointer-events="all"/>`,
			supplyAt, p.y, returnAt-supplyAt, wiringRow)
		one(w, p.y+wiringRow/2+6)
		p.add(`</g>`)
		p.y += wiringRow
	}
	p.add(`<path d="M%.0f %.0fV%.0f" stroke-width="3"/>`, rail, top, p.y)
	p.y += 14
}

// says is a point in words.
func says(w exercise.Point) string {
	said := fmt.Sprintf("%s: %s at %s", w.Label, w.Device, w.Address)
	switch {
	case !isContact(w):
		return said
	case w.Closed:
		return said + ", normally closed: TRUE at rest"
	}
	return said + ", normally open: FALSE at rest"
}

// isContact reports whether a point is an on/off input, which has a contact.
func isContact(w exercise.Point) bool {
	d, _ := block.DeviceNamed(w.Device)
	return w.Kind() == signal.Bool && d.Picture != block.Lamp
}

// signal draws the wire between a device and its terminal, and where it breaks.
func (p *plan) signal(y, wireFrom, wireTo float64) {
	p.add(`<path d="M%.0f %.1fH%.0f" class="signal"/>`, wireFrom, y, wireTo)
	p.add(`<path d="M%.0f %.1fl-7 8m0 -8l7 8" class="broken" display="none" stroke-width="2"/>`, (wireFrom+wireTo)/2+4, y-4)
}

func (p *plan) input(w exercise.Point, y float64) {
	p.add(`<path d="M%.0f %.1fH%.0f" class="supply"/>`, supplyAt, y, contactAt)
	end := contactAt + 30
	if !isContact(w) {
		p.add(`<rect x="%.0f" y="%.1f" width="40" height="22" rx="3"/>`, contactAt, y-11)
		p.text(contactAt+20, y+4, ` text-anchor="middle" font-size="10"`, unitOf(w))
		end = contactAt + 40
	} else {
		p.contact(w, y)
	}
	p.signal(y, end, terminalAt-5)
	p.add(`<circle cx="%.0f" cy="%.1f" r="5"/>`, terminalAt, y)
	p.text(end+10, y-8, ` font-size="11.5"`, w.Label)
	p.text(terminalAt+14, y-1, ` font-family="monospace" font-weight="600"`, w.Name)
	p.text(terminalAt+14, y+13, ` font-family="monospace" font-size="11" opacity="0.85"`, w.Address)
}

func unitOf(w exercise.Point) string {
	if w.Unit == "" {
		return "123"
	}
	return w.Unit
}

// contact draws the contact of a device, at rest and worked, with what works it above.
func (p *plan) contact(w exercise.Point, y float64) {
	a, b := contactAt, contactAt+30
	open := fmt.Sprintf(`<path d="M%.0f %.1fL%.0f %.1f" stroke-width="2"/>`, a, y, b-3, y-13)
	shut := fmt.Sprintf(`<path d="M%.0f %.1fH%.0f" stroke-width="2"/>`, a, y, b)
	stem := y - 8
	if w.Closed { // its blade rests against a stop, and leaves it when worked
		p.add(`<path d="M%.0f %.1fv-10"/>`, b, y)
		shut = fmt.Sprintf(`<path d="M%.0f %.1fL%.0f %.1f" stroke-width="2"/>`, a, y, b+1, y-8)
		open = fmt.Sprintf(`<path d="M%.0f %.1fL%.0f %.1f" stroke-width="2"/>`, a, y, b-5, y-17)
		open, shut = shut, open
	}
	p.add(`<g class="rest">%s</g><g class="worked" display="none">%s</g>`, open, shut)
	middle := (a + b) / 2
	d, _ := block.DeviceNamed(w.Device)
	p.add(`<path d="M%.0f %.1fV%.1f" stroke-dasharray="2 2"/>`, middle, stem, y-19)
	switch {
	case d.Picture == block.Slider:
		p.add(`<path d="M%.0f %.1fl6 5l-6 5l-6 -5z" transform="translate(0 -10)"/>`, middle, y-19)
	case d.Picture == block.Button:
		p.add(`<path d="M%.0f %.1fv-4h14v4"/>`, middle-7, y-16)
	default:
		p.add(`<path d="M%.0f %.1fh8l-4 4h6"/>`, middle-8, y-23)
	}
}

// circled are the loads drawn as a circle, with the letter in it.
var circled = map[string]string{"motor": "M", "fan": "M", "pump": "M"}

func (p *plan) output(w exercise.Point, y float64) {
	at := supplyAt + 4
	p.add(`<circle cx="%.0f" cy="%.1f" r="5"/>`, at, y)
	p.text(at+10, y-7, ` font-family="monospace" font-weight="600"`, w.Name)
	p.text(at+10, y+15, ` font-family="monospace" font-size="11" opacity="0.85"`, w.Address)
	p.signal(y, at+5, loadAt)
	p.add(`<path d="M%.0f %.1fH%.0f" class="signal"/>`, loadAt+56, y, returnAt)
	letter, round := circled[w.Device]
	switch {
	case w.Device == "lamp" || w.Device == "indicator":
		p.add(`<g class="load"><path d="M%.0f %.1fh17m22 0h17"/><circle cx="%.0f" cy="%.1f" r="11"/>`+
			`<path d="M%.1f %.1fl15.600 15.600m0 -15.600l-15.600 15.600"/></g>`,
			loadAt, y, loadAt+28, y, loadAt+20.2, y-7.8)
	case round:
		p.add(`<g class="load"><path d="M%.0f %.1fh17m22 0h17"/><circle cx="%.0f" cy="%.1f" r="11"/></g>`, loadAt, y, loadAt+28, y)
		p.text(loadAt+28, y+4, ` text-anchor="middle" font-size="11"`, letter)
	default:
		p.add(`<g class="load"><rect x="%.0f" y="%.1f" width="56" height="20"/></g>`, loadAt, y-10)
		p.text(loadAt+28, y+4, ` text-anchor="middle" font-size="10.5"`, w.Device)
	}
	p.text(loadAt+28, y-14, ` text-anchor="middle" font-size="11.5"`, w.Label)
}
