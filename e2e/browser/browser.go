// Package browser drives headless Chromium as a person would: it clicks what
// is seen, types with keys, and waits for words to appear.
package browser

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Patience is how long a page may take to show what is waited for.
const Patience = 15 * time.Second

// A Page is one tab.
type Page struct {
	ctx    context.Context
	cancel context.CancelFunc
}

// Open starts Chromium with one tab of 1280×800 and reduced motion.
func Open(parent context.Context) (*Page, error) {
	ctx, cancel := chromedp.NewContext(parent)
	p := &Page{ctx, cancel}
	if err := chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)); err != nil {
		cancel()
		return nil, fmt.Errorf("starting Chromium: %w", err)
	}
	return p, p.media("prefers-reduced-motion", "reduce")
}

// Another opens a second tab of the same browser.
func (p *Page) Another() (*Page, error) { return Open(p.ctx) }

// Close ends the browser.
func (p *Page) Close() { p.cancel() }

func (p *Page) media(name, value string) error {
	return chromedp.Do(p.ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: name, Value: value}}})
		return err
	}))
}

// Go opens an address.
func (p *Page) Go(url string) error { return chromedp.Do(p.ctx, chromedp.Navigate(url)) }

// Evaluate runs an expression in the page and returns its value.
func Evaluate[T any](p *Page, expression string) (T, error) {
	return chromedp.Run(p.ctx, chromedp.Evaluate[T](expression))
}

func quote(s string) string {
	text, _ := json.Marshal(s) // a string always marshals
	return string(text)
}

// Size makes the window as large as another screen.
func (p *Page) Size(width, height int) error {
	return chromedp.Do(p.ctx, chromedp.EmulateViewport(int64(width), int64(height)))
}

// Until waits for a condition of the page.
func (p *Page) Until(what, expression string) error {
	deadline := time.Now().Add(Patience)
	for {
		ok, err := Evaluate[bool](p, "!!("+expression+")")
		if err == nil && ok {
			return nil
		}
		if time.Now().After(deadline) {
			text, _ := p.Text()
			return errors.Join(fmt.Errorf("waited in vain for %s; the page shows:\n%s", what, text), err)
		}
		time.Sleep(30 * time.Millisecond)
	}
}

// See waits until the page shows some words.
func (p *Page) See(words string) error {
	return p.Until(fmt.Sprintf("%q", words), "document.body.innerText.includes("+quote(words)+")")
}

// Text returns what the page shows.
func (p *Page) Text() (string, error) { return Evaluate[string](p, "document.body.innerText") }

// find is an expression for the first visible element that a person would
// call by the name: a button, link, tab or field.
const find = `((name) => {
	const seen = (e) => e.getClientRects().length > 0
	const called = (e) => (e.getAttribute('aria-label') || e.innerText || '').trim()
	const all = [...document.querySelectorAll('button, a, summary, [role=tab], label, input, [aria-label]')].filter(seen)
	return all.find((e) => called(e) === name) || all.find((e) => called(e).startsWith(name)) || all.find((e) => called(e).includes(name))
})`

// Click presses the mouse on what has the name.
func (p *Page) Click(name string) error {
	element := find + "(" + quote(name) + ")"
	if err := p.Until("something named "+name, element+" && !"+element+".disabled"); err != nil {
		return err
	}
	return p.clickElement(element)
}

// ClickSelector presses the mouse on the first element of a CSS selector.
func (p *Page) ClickSelector(selector string) error {
	element := "document.querySelector(" + quote(selector) + ")"
	if err := p.Until(selector, element); err != nil {
		return err
	}
	return p.clickElement(element)
}

func (p *Page) clickElement(element string) error {
	// Where it is once it has stopped moving.
	at, err := Script[[]float64](p, `const e = `+element+`; e.scrollIntoView({block: 'nearest'})
		const middle = () => { const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] }
		for (let was = '', n = 0; n < 30; n++) { const is = middle().join(); if (is === was) break; was = is; await new Promise((r) => requestAnimationFrame(r)) }
		return middle()`)
	if err != nil {
		return err
	}
	return chromedp.Do(p.ctx, chromedp.MouseClickXY(at[0], at[1]))
}

// Hover moves the mouse to a share (0 to 1) of the first element's width and height.
func (p *Page) Hover(selector string, across, down float64) error {
	at, err := Evaluate[[]float64](p, fmt.Sprintf(`(() => { const e = document.querySelector(%s); e.scrollIntoView({block: 'nearest'}); const r = e.getBoundingClientRect(); return [r.x + r.width * %v, r.y + r.height * %v] })()`, quote(selector), across, down))
	if err != nil {
		return err
	}
	return chromedp.Do(p.ctx, chromedp.MouseEvent(chromedp.MouseMoved, at[0], at[1]))
}

// Type writes text where the focus is.
func (p *Page) Type(text string) error {
	return chromedp.Do(p.ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, input.InsertText, input.InsertTextParams{Text: text})
		return err
	}))
}

// Press presses one key, such as "\r" or kb.ArrowLeft. Like a real key, it writes nothing where the page has another use for it.
func (p *Page) Press(key string, modifiers ...chromedp.Modifier) error {
	events := kb.Encode([]rune(key)[0])
	down, up := events[0], events[len(events)-1]
	for _, m := range modifiers {
		down.Modifiers |= int64(m)
		up.Modifiers |= int64(m)
	}
	if len(events) == 3 && down.Modifiers&^int64(chromedp.ModifierShift) == 0 {
		down.Type, down.Text, down.UnmodifiedText = input.DispatchKeyEventTypeKeyDown, events[1].Text, events[1].UnmodifiedText
	}
	return chromedp.Do(p.ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		for _, event := range []*input.DispatchKeyEventParams{down, up} {
			if _, err := cdp.Call(ctx, t, input.DispatchKeyEvent, *event); err != nil {
				return err
			}
		}
		return nil
	}))
}

// Fill replaces what stands in the field of that name.
func (p *Page) Fill(name, text string) error {
	if err := p.ClickSelector("input[name=" + name + "]"); err != nil {
		return err
	}
	if err := p.Press("a", chromedp.ModifierCtrl); err != nil {
		return err
	}
	return p.Type(text)
}

// Write replaces the text of the program editor.
func (p *Page) Write(text string) error {
	// While the page still fills, what stands above the editor may push it from under the mouse: then again, as a person would.
	for range 20 {
		if err := p.ClickSelector(".cm-content[contenteditable=true]"); err != nil {
			return err
		}
		if ok, err := Evaluate[bool](p, "document.activeElement?.matches('.cm-content')"); err != nil || ok {
			break
		}
	}
	if err := p.Press("a", chromedp.ModifierCtrl); err != nil {
		return err
	}
	return p.Type(text)
}

// SignIn opens the console and signs a person in.
func (p *Page) SignIn(address, login, password string) error {
	return firstError(
		func() error { return p.Go(address) },
		func() error { return p.See("Sign in") },
		func() error { return p.Fill("login", login) },
		func() error { return p.Fill("password", password) },
		func() error { return p.ClickSelector("form button") },
		func() error { return p.See("Sign out") },
	)
}

func firstError(steps ...func() error) error {
	for _, step := range steps {
		if err := step(); err != nil {
			return err
		}
	}
	return nil
}

// Picture returns what is seen as a PNG, once the fonts are there.
func (p *Page) Picture() ([]byte, error) {
	if _, err := chromedp.Run(p.ctx, chromedp.Evaluate[bool]("document.fonts.ready.then(() => new Promise((r) => requestAnimationFrame(() => requestAnimationFrame(() => r(true)))))",
		awaitPromise)); err != nil {
		return nil, err
	}
	return chromedp.Run(p.ctx, chromedp.CaptureScreenshot())
}

func awaitPromise(p *runtime.EvaluateParams) { p.AwaitPromise = new(true) }

// Script runs an async function's body and returns what it returns.
func Script[T any](p *Page, body string) (T, error) {
	return chromedp.Run(p.ctx, chromedp.Evaluate[T]("(async () => {"+body+"})()", awaitPromise))
}

// Violations returns what axe-core finds wrong with the page, one line each;
// axe is its source text.
func (p *Page) Violations(axe string) ([]string, error) {
	if _, err := chromedp.Run(p.ctx, chromedp.Evaluate[chromedp.Void](axe)); err != nil {
		return nil, err
	}
	return Script[[]string](p, `const r = await axe.run(document); if (!r.passes.length) throw new Error('axe checked nothing'); return r.violations.flatMap((v) => v.nodes.map((n) => v.id + ': ' + n.target.join(' ') + ' ' + (n.failureSummary || '').replaceAll('\n', ' ')))`)
}

// Lines returns the words of the elements of a selector.
func (p *Page) Lines(selector string) ([]string, error) {
	text, err := Evaluate[string](p, `[...document.querySelectorAll(`+quote(selector)+`)].map((e) => e.innerText).join('\u0001')`)
	return strings.Split(text, "\x01"), err
}

// Look opens a page of the console in light or dark colours.
func (p *Page) Look(address, path, look string) error {
	return firstError(
		func() error {
			_, err := Evaluate[bool](p, "localStorage.setItem('celandine.look', "+quote(look)+"), true")
			return err
		},
		func() error { return p.Go(address + "/" + path) },
		func() error { return chromedp.Do(p.ctx, chromedp.Reload()) },
	)
}

// Choose picks a value of the list of that label.
func (p *Page) Choose(label, value string) error {
	list := "[...document.querySelectorAll('select')].find((s) => (s.getAttribute('aria-label') ?? s.closest('label')?.innerText ?? '').startsWith(" + quote(label) + "))"
	if err := p.Until("a list "+label, list); err != nil {
		return err
	}
	_, err := Evaluate[bool](p, "((s) => { s.value = "+quote(value)+"; return s.dispatchEvent(new Event('change', {bubbles: true})) })("+list+")")
	return err
}

// Hold presses the mouse on what has the name and keeps it down until the returned function lets go.
func (p *Page) Hold(name string) (release func() error, err error) {
	element := find + "(" + quote(name) + ")"
	if err := p.Until("something named "+name, element); err != nil {
		return nil, err
	}
	at, err := Evaluate[[]float64](p, `(() => { const e = `+element+`; e.scrollIntoView({block: 'nearest'}); const r = e.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`)
	if err != nil {
		return nil, err
	}
	mouse := func(kind input.DispatchMouseEventType) error {
		return chromedp.Do(p.ctx, chromedp.MouseEvent(kind, at[0], at[1], chromedp.Button("left")))
	}
	return func() error { return mouse(chromedp.MouseReleased) }, mouse(chromedp.MousePressed)
}

// Carry presses the mouse on one element, moves it to another and lets go there.
func (p *Page) Carry(from, to string) error {
	mouse := func(kind input.DispatchMouseEventType) func(x, y float64) error {
		return func(x, y float64) error {
			return chromedp.Do(p.ctx, chromedp.MouseEvent(kind, x, y, chromedp.Button("left")))
		}
	}
	return p.carry(from, to, mouse(chromedp.MousePressed), mouse(chromedp.MouseMoved), mouse(chromedp.MouseReleased))
}

// CarryByTouch does the same with a finger.
func (p *Page) CarryByTouch(from, to string) error {
	return p.carry(from, to, p.finger(input.DispatchTouchEventTypeTouchStart), p.finger(input.DispatchTouchEventTypeTouchMove), p.lift)
}

// Touch presses a finger on the first element of a CSS selector.
func (p *Page) Touch(selector string) error {
	at, err := p.middle(selector)
	if err != nil {
		return err
	}
	return firstError(
		func() error { return p.finger(input.DispatchTouchEventTypeTouchStart)(at[0], at[1]) },
		func() error { return p.lift(at[0], at[1]) },
	)
}

func (p *Page) finger(kind input.DispatchTouchEventType) func(x, y float64) error {
	return func(x, y float64) error {
		return p.touch(input.DispatchTouchEventParams{Type: kind, TouchPoints: []*input.TouchPoint{{X: x, Y: y}}})
	}
}

func (p *Page) lift(_, _ float64) error {
	return p.touch(input.DispatchTouchEventParams{Type: input.DispatchTouchEventTypeTouchEnd, TouchPoints: []*input.TouchPoint{}})
}

func (p *Page) touch(event input.DispatchTouchEventParams) error {
	return chromedp.Do(p.ctx, chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, input.DispatchTouchEvent, event)
		return err
	}))
}

// middle finds the middle of the first element of a CSS selector.
func (p *Page) middle(selector string) ([]float64, error) {
	element := "document.querySelector(" + quote(selector) + ")"
	if err := p.Until(selector, element); err != nil {
		return nil, err
	}
	return Evaluate[[]float64](p, `(() => { const r = `+element+`.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2] })()`)
}

func (p *Page) carry(from, to string, down, move, up func(x, y float64) error) error {
	a, err := p.middle(from)
	if err != nil {
		return err
	}
	b, err := p.middle(to)
	if err != nil {
		return err
	}
	return firstError(
		func() error { return down(a[0], a[1]) },
		func() error { return move((a[0]+b[0])/2, (a[1]+b[1])/2) },
		func() error { return move(b[0], b[1]) },
		func() error { return up(b[0], b[1]) },
	)
}

// Set replaces what stands in the field of that label and leaves it.
func (p *Page) Set(label, text string) error {
	field := "[...document.querySelectorAll('input, textarea')].find((e) => (e.getAttribute('aria-label') ?? e.closest('label')?.innerText ?? '').trim() === " + quote(label) + ")"
	return firstError(
		func() error { return p.Until("a field "+label, field) },
		func() error { return p.clickElement(field) },
		func() error { return p.Press("a", chromedp.ModifierCtrl) },
		func() error { return p.Type(text) },
		func() error { return p.Press(kb.Tab) },
	)
}
