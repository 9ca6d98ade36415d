// Package browser drives headless Chromium as a person would: it clicks what
// is seen, types with keys, and waits for words to appear.
package browser

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/chromedp/cdproto/cdp"
	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"
)

// Patience is how long a page may take to show what is waited for: what takes a moment here takes long on a
// machine ten times slower that others use as well.
const Patience = 2 * time.Minute

// A Browser is one Chromium. Its pages share nothing: each has cookies and a storage of its own.
type Browser struct {
	ctx    context.Context
	cancel context.CancelFunc
}

// A Page is one tab.
type Page struct {
	ctx        context.Context
	cancel     context.CancelFunc
	mu         sync.Mutex
	complaints []string
}

// Start starts Chromium with a profile that goes with it.
func Start(parent context.Context) (*Browser, error) {
	profile := filepath.Join(os.TempDir(), profiles+strconv.Itoa(os.Getpid()))
	sweep()
	options := []chromedp.ExecAllocatorOption{chromedp.Flag("user-data-dir", profile), chromedp.Env("TMPDIR=" + profile)}
	if shell, err := exec.LookPath("chromium-headless-shell"); err == nil { // the same without its windows: a quarter less work
		options = append(options, chromedp.ExecPath(shell))
	}
	ctx, cancel := chromedp.NewContext(parent, chromedp.WithAllocatorOptions(options...))
	b := &Browser{ctx, func() {
		cancel()
		_ = os.RemoveAll(profile) // what stays is swept by the next
	}}
	if err := chromedp.Do(ctx); err != nil {
		b.Close()
		return nil, fmt.Errorf("starting Chromium: %w", err)
	}
	return b, nil
}

const profiles = "celandine-browser-"

// sweep takes away the profiles of processes that were killed.
func sweep() {
	left, _ := filepath.Glob(filepath.Join(os.TempDir(), profiles+"*")) // the pattern is right
	for _, profile := range left {
		pid, err := strconv.Atoi(strings.TrimPrefix(filepath.Base(profile), profiles))
		if err == nil && syscall.Kill(pid, 0) == syscall.ESRCH {
			_ = os.RemoveAll(profile)
		}
	}
}

// Close ends the browser and all its pages.
func (b *Browser) Close() { b.cancel() }

// Open opens a page of 1280×800 and reduced motion, as in a browser of its own.
func (b *Browser) Open() (*Page, error) { return open(b.ctx, chromedp.WithNewBrowserContext()) }

// Another opens a second tab beside the first: the two share cookies and storage.
func (p *Page) Another() (*Page, error) { return open(p.ctx) }

func open(parent context.Context, options ...chromedp.ContextOption) (*Page, error) {
	ctx, cancel := chromedp.NewContext(parent, options...)
	p := &Page{ctx: ctx, cancel: cancel}
	err := firstError(
		func() error { return chromedp.Listen(ctx, p.hear) },
		func() error { return call(p, log.Enable, cdp.Empty{}) },
		func() error { return chromedp.Do(ctx, chromedp.EmulateViewport(1280, 800)) },
		func() error { return p.media("prefers-reduced-motion", "reduce") },
		// Several pages are worked at once; each is to believe that it is the one in front.
		func() error {
			return call(p, emulation.SetFocusEmulationEnabled, emulation.SetFocusEmulationEnabledParams{Enabled: true})
		},
	)
	if err != nil {
		cancel()
		return nil, fmt.Errorf("opening a page: %w", err)
	}
	return p, nil
}

// hear keeps what the browser's console complains of.
func (p *Page) hear(event any) {
	said := ""
	switch event := event.(type) {
	case *log.EventEntryAdded:
		if event.Entry.Level == "error" {
			said = event.Entry.Text + " " + event.Entry.URL
		}
	case *runtime.EventExceptionThrown:
		said = event.ExceptionDetails.Text
		if e := event.ExceptionDetails.Exception; e != nil {
			said += " " + e.Description
		}
	case *runtime.EventConsoleAPICalled:
		if event.Type == "error" {
			said = "console.error"
			for _, a := range event.Args {
				said += " " + a.Description + string(a.Value)
			}
		}
	}
	if said != "" {
		p.mu.Lock()
		p.complaints = append(p.complaints, said)
		p.mu.Unlock()
	}
}

// Complaints are the errors in the browser's console so far.
func (p *Page) Complaints() []string {
	p.mu.Lock()
	defer p.mu.Unlock()
	return slices.Clone(p.complaints)
}

// Close closes the page.
func (p *Page) Close() { p.cancel() }

func (p *Page) media(name, value string) error {
	return call(p, emulation.SetEmulatedMedia, emulation.SetEmulatedMediaParams{Features: []*emulation.MediaFeature{{Name: name,
		Value: value}}})
}

// call gives the page's target one of the protocol's commands.
func call[P, R any](p *Page, command cdp.Command[P, R], params P) error {
	return p.do(chromedp.Func(func(ctx context.Context, t *chromedp.Target) error {
		_, err := cdp.Call(ctx, t, command, params)
		return err
	}))
}

// run does something in the page, and waits no longer for its answer than Patience.
func run[T any](p *Page, action chromedp.Action[T]) (T, error) {
	ctx, cancel := context.WithTimeout(p.ctx, Patience)
	defer cancel()
	v, err := chromedp.Run(ctx, action)
	if errors.Is(err, context.DeadlineExceeded) {
		err = fmt.Errorf("the page did not answer in %v: %w", Patience, err)
	}
	return v, err
}

func (p *Page) do(actions ...chromedp.Action[chromedp.Void]) error {
	_, err := run(p, chromedp.Steps(actions...))
	return err
}

// Go opens an address.
func (p *Page) Go(url string) error { return p.do(chromedp.Navigate(url)) }

// Before runs a script in each page that is opened from now on, before its own.
func (p *Page) Before(script string) error {
	return call(p, page.AddScriptToEvaluateOnNewDocument, page.AddScriptToEvaluateOnNewDocumentParams{Source: script})
}

// Block keeps what is at addresses like these from being fetched, and lets all others through again.
func (p *Page) Block(addresses ...string) error {
	var list []*network.BlockPattern
	for _, a := range addresses {
		list = append(list, &network.BlockPattern{URLPattern: a, Block: true})
	}
	return firstError(
		func() error { return call(p, network.Enable, network.EnableParams{}) },
		func() error { return call(p, network.SetBlockedURLs, network.SetBlockedURLsParams{URLPatterns: list}) },
	)
}

// Evaluate runs an expression in the page and returns its value.
func Evaluate[T any](p *Page, expression string) (T, error) {
	return run(p, chromedp.Evaluate[T](expression))
}

func quote(s string) string {
	text, _ := json.Marshal(s) // a string always marshals
	return string(text)
}

// Size makes the window as large as another screen.
func (p *Page) Size(width, height int) error {
	return p.do(chromedp.EmulateViewport(int64(width), int64(height)))
}

// Until waits for a condition of the page, looked at in the page: a wait is one call, not one each time.
func (p *Page) Until(what, expression string) error {
	deadline := time.Now().Add(Patience)
	for {
		ok, err := Script[bool](p, `const holds = () => !!(`+expression+`)
			const end = performance.now() + 2000
			if (holds()) return true
			while (performance.now() < end) { await new Promise((r) => setTimeout(r, 50)); if (holds()) return true }
			return false`)
		if err == nil && ok {
			return nil
		}
		if err := p.waited(deadline, what, err); err != nil {
			return err
		}
	}
}

// Insist does something again and again until a condition of the page holds, as one does who sees that the page has not taken it.
func (p *Page) Insist(what, expression string, act func() error) error {
	deadline := time.Now().Add(Patience)
	for {
		ok, err := Evaluate[bool](p, "!!("+expression+")")
		if err == nil && ok {
			return nil
		}
		if err = act(); err != nil {
			return err
		}
		if err := p.waited(deadline, what, err); err != nil {
			return err
		}
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

// named is an expression for what has the name and can be pressed.
func named(name string) string {
	return "((e) => e && !e.disabled ? e : null)(" + find + "(" + quote(name) + "))"
}

func selected(selector string) string { return "document.querySelector(" + quote(selector) + ")" }

// Click presses the mouse on what has the name.
func (p *Page) Click(name string) error { return p.click("something named "+name, named(name)) }

// ClickSelector presses the mouse on the first element of a CSS selector.
func (p *Page) ClickSelector(selector string) error { return p.click(selector, selected(selector)) }

func (p *Page) click(what, element string) error {
	return p.strike(what, element, press{true, func(x, y float64) error { return p.do(chromedp.MouseClickXY(x, y)) }, nothing})
}

// aim waits until an element stands still in view with nothing above it, and returns a place on it: at a share (0 to 1) of its
// width and height.
func (p *Page) aim(what, element string, across, down float64) (x, y float64, err error) {
	deadline := time.Now().Add(Patience)
	for {
		at, err := Script[[]float64](p, fmt.Sprintf(`const frame = () => new Promise((r) => requestAnimationFrame(r))
			const e = %s
			if (!e) return []
			e.scrollIntoView({block: 'nearest', inline: 'nearest'})
			const place = () => { const r = e.getBoundingClientRect(); return [r.x + r.width * %v, r.y + r.height * %v] }
			const was = place(); await frame(); await frame(); const is = place()
			const hit = document.elementFromPoint(...is)
			return was.join() === is.join() && hit && (e.contains(hit) || %s(e, hit)) ? is : []`, element, across, down, beside))
		if err == nil && len(at) == 2 {
			return at[0], at[1], nil
		}
		if err := p.waited(deadline, what+" to stand still in view", err); err != nil {
			return 0, 0, err
		}
	}
}

// beside tells whether what stands around an element may be pressed for it: around what is drawn, and the label of a field to be ticked.
// Anything else gets nothing of such a press, which happens where the page moves under it.
const beside = `((e, hit) => e instanceof SVGElement ? hit.contains(e) : e.matches('input') && (e.closest('label')?.contains(hit) ?? false))`

// guard makes the page drop presses that land beside an element. struck ends that, and tells whether one has landed on it:
// whether it was pressed, and where it is still there and the press was whole, also let go on it.
const (
	guard = `const e = %s
		if (!e) return false
		const kinds = ['pointerdown', 'mousedown', 'touchstart', 'pointerup', 'mouseup', 'touchend', 'click', 'dblclick']
		const on = (event) => event.composedPath().includes(e) || event.target instanceof Node && %s(e, event.target)
		let pressed = null, clicked = false
		const look = (event) => {
			if (pressed === null && (event.type === 'pointerdown' || event.type === 'touchstart')) pressed = on(event)
			if (event.type === 'click') clicked ||= on(event)
			if (!pressed) { event.stopImmediatePropagation(); event.preventDefault() }
		}
		for (const kind of kinds) window.addEventListener(kind, look, {capture: true, passive: false})
		window.struck = async (whole) => {
			const done = () => pressed === false || (pressed && (!whole || clicked || !e.isConnected))
			for (const end = performance.now() + 10000; !done() && performance.now() < end; ) await new Promise((r) => setTimeout(r, 10))
			for (const kind of kinds) window.removeEventListener(kind, look, {capture: true})
			return pressed === true && done()
		}
		return true`
	struck = `return await window.struck(%v)`
)

// A press is what a finger or the mouse does at a place, and what takes it back where it missed; a whole one lets go by itself.
type press struct {
	whole      bool
	down, lift func(x, y float64) error
}

// strike presses on the middle of an element.
func (p *Page) strike(what, element string, press press) error {
	return p.strikeAt(what, element, 0.5, press)
}

// strikeAt presses on an element at a share of its width: again where the page has moved it from under the finger in between, so that nothing else is ever pressed.
func (p *Page) strikeAt(what, element string, across float64, press press) error {
	deadline := time.Now().Add(Patience)
	for {
		x, y, err := p.aim(what, element, across, 0.5)
		if err != nil {
			return err
		}
		there, err := Script[bool](p, fmt.Sprintf(guard, element, beside))
		if err == nil && there {
			if err := press.down(x, y); err != nil {
				return err
			}
			on, err := Script[bool](p, fmt.Sprintf(struck, press.whole))
			if err != nil || on { // no answer: what was pressed has led to another page
				return nil
			}
			if err := press.lift(x, y); err != nil {
				return err
			}
		}
		if err := p.waited(deadline, "a press on "+what, err); err != nil {
			return err
		}
	}
}

func nothing(_, _ float64) error { return nil }

// waited returns nil after a moment, or once the deadline is over, what was waited for in vain.
func (p *Page) waited(deadline time.Time, what string, err error) error {
	if time.Now().Before(deadline) {
		time.Sleep(30 * time.Millisecond)
		return nil
	}
	text, _ := p.Text()
	return errors.Join(fmt.Errorf("waited in vain for %s; the page shows:\n%s", what, text), err)
}

// Hover moves the mouse to a share (0 to 1) of the first element's width and height.
func (p *Page) Hover(selector string, across, down float64) error {
	deadline := time.Now().Add(Patience)
	for {
		x, y, err := p.aim(selector, selected(selector), across, down)
		if err != nil {
			return err
		}
		if err := p.do(chromedp.MouseEvent(chromedp.MouseMoved, x, y)); err != nil {
			return err
		}
		over, err := Evaluate[bool](p, selected(selector)+"?.matches(':hover')")
		if err == nil && over {
			return nil
		}
		if err := p.waited(deadline, "the mouse above "+selector, err); err != nil {
			return err
		}
	}
}

// Type writes text where the focus is, once there is something to write in.
func (p *Page) Type(text string) error {
	if err := p.Until("a place to write "+quote(text),
		"document.activeElement?.matches('input, textarea, [contenteditable=true]')"); err != nil {
		return err
	}
	return call(p, input.InsertText, input.InsertTextParams{Text: text})
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
	return firstError(
		func() error { return call(p, input.DispatchKeyEvent, *down) },
		func() error { return call(p, input.DispatchKeyEvent, *up) },
	)
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

// Write replaces the text of the program editor. Where the page puts another in its place while it is pressed, that one is.
func (p *Page) Write(text string) error {
	deadline := time.Now().Add(Patience)
	for {
		if err := p.ClickSelector(".cm-content[contenteditable=true]"); err != nil {
			return err
		}
		there, err := Evaluate[bool](p, "document.activeElement?.matches('.cm-content') === true")
		if err == nil && there {
			break
		}
		if err := p.waited(deadline, "the cursor in the text", err); err != nil {
			return err
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
	if _, err := run(p, chromedp.Evaluate[bool]("document.fonts.ready.then(() => new Promise((r) => requestAnimationFrame(() "+
		"=> requestAnimationFrame(() => r(true)))))",
		awaitPromise)); err != nil {
		return nil, err
	}
	return run(p, chromedp.CaptureScreenshot())
}

// PDF is the page as it is printed.
func (p *Page) PDF() ([]byte, error) {
	return run(p, func(ctx context.Context, t *chromedp.Target) ([]byte, error) {
		done, err := cdp.Call(ctx, t, page.PrintToPDF, page.PrintToPDFParams{PreferCSSPageSize: new(true)})
		return done.Data, err
	})
}

// Menu opens the menu of what a selector finds, as the right button of the mouse does.
func (p *Page) Menu(selector string) error {
	return p.strike(selector, selected(selector), press{false, func(x, y float64) error {
		return p.do(chromedp.MouseClickXY(x, y, chromedp.Button("right")))
	}, nothing})
}

func awaitPromise(p *runtime.EvaluateParams) { p.AwaitPromise = new(true) }

// Script runs an async function's body and returns what it returns.
func Script[T any](p *Page, body string) (T, error) {
	return run(p, chromedp.Evaluate[T]("(async () => {"+body+"})()", awaitPromise))
}

// Violations returns what axe-core finds wrong with the page, one line each;
// axe is its source text.
func (p *Page) Violations(axe string) ([]string, error) {
	if _, err := run(p, chromedp.Evaluate[chromedp.Void](axe)); err != nil {
		return nil, err
	}
	return Script[[]string](p, `const still = Promise.all(document.getAnimations().map((a) => a.finished.catch(() => {})))
		await Promise.race([still, new Promise((r) => setTimeout(r, 2000))]) // a colour that still changes is not checked
		const r = await axe.run(document); if (!r.passes.length) throw new Error('axe checked nothing'); return r.violations.flatMap((v) => v.nodes.map((n) => v.id + ': ' + n.target.join(' ') + ' ' + (n.failureSummary || '').replaceAll('\n', ' ')))`)
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
		// A still thing of the same place between the two: the page is then loaded once, with all that it needs.
		func() error { return p.Go(address + still) },
		func() error { return p.Go(address + "/" + path) },
	)
}

// still is what the service serves that runs nothing.
const still = "/celandine.svg"

// Enter opens a page of the console as somebody who has signed in, without the page for that.
func (p *Page) Enter(address, login, password, path, look string) error {
	return firstError(
		func() error { return p.Go(address + still) },
		func() error {
			credentials, _ := json.Marshal(map[string]string{"login": login, "password": password}) // strings always marshal
			_, err := Script[bool](p, `const answer = await fetch('/api/session', {method: 'POST', headers: {'Content-Type': 'application/json'}, body: `+quote(string(credentials))+`})
				if (!answer.ok) throw new Error('signing in: ' + await answer.text())
				return true`)
			return err
		},
		func() error { return p.Look(address, path, look) },
	)
}

// Choose picks a value of the list of that label.
func (p *Page) Choose(label, value string) error {
	list := "[...document.querySelectorAll('select')].find((s) => (s.getAttribute('aria-label') ?? s.closest('label')?.innerText ?? " +
		"'').startsWith(" + quote(label) + "))"
	if err := p.Until("a list "+label, list); err != nil {
		return err
	}
	_, err := Evaluate[bool](p, "((s) => { s.value = "+quote(value)+"; return s.dispatchEvent(new Event('change', {bubbles: true})) })("+list+
		")")
	return err
}

// Hold presses the mouse on what has the name and keeps it down until the returned function lets go.
func (p *Page) Hold(name string) (release func() error, err error) {
	var x, y float64
	down := func(atX, atY float64) error {
		x, y = atX, atY
		return p.mouse(chromedp.MousePressed)(x, y)
	}
	err = p.strike("something named "+name, named(name), press{false, down, p.mouse(chromedp.MouseReleased)})
	return func() error { return p.mouse(chromedp.MouseReleased)(x, y) }, err
}

func (p *Page) mouse(kind input.DispatchMouseEventType) func(x, y float64) error {
	return func(x, y float64) error {
		return p.do(chromedp.MouseEvent(kind, x, y, chromedp.Button("left")))
	}
}

// Carry presses the mouse on one element, moves it to another and lets go there.
func (p *Page) Carry(from, to string) error {
	return p.carry(from, to, p.mouse(chromedp.MousePressed), p.mouse(chromedp.MouseMoved), p.mouse(chromedp.MouseReleased))
}

// Drag presses the mouse on one element, moves it to another and keeps it down until the returned function lets go.
func (p *Page) Drag(from, to string) (release func() error, err error) {
	var lastX, lastY float64
	move := func(x, y float64) error {
		lastX, lastY = x, y
		return p.mouse(chromedp.MouseMoved)(x, y)
	}
	err = p.carry(from, to, p.mouse(chromedp.MousePressed), move, nothing)
	return func() error { return p.mouse(chromedp.MouseReleased)(lastX, lastY) }, err
}

// CarryByTouch does the same as Carry with a finger.
func (p *Page) CarryByTouch(from, to string) error {
	return p.carry(from, to, p.finger(input.DispatchTouchEventTypeTouchStart), p.finger(input.DispatchTouchEventTypeTouchMove), p.lift)
}

// Draw presses the mouse on an element at one share (0 to 1) of its width, moves to another and lets go there.
func (p *Page) Draw(selector string, from, to float64) error {
	return p.draw(selector, from, to, p.mouse(chromedp.MousePressed), p.mouse(chromedp.MouseMoved), p.mouse(chromedp.MouseReleased))
}

// DrawByTouch does the same with a finger.
func (p *Page) DrawByTouch(selector string, from, to float64) error {
	return p.draw(selector, from, to, p.finger(input.DispatchTouchEventTypeTouchStart), p.finger(input.DispatchTouchEventTypeTouchMove), p.lift)
}

func (p *Page) draw(selector string, from, to float64, down, move, up func(x, y float64) error) error {
	if err := p.strikeAt(selector, selected(selector), from, press{false, down, up}); err != nil {
		return err
	}
	x, y, err := p.aim(selector, selected(selector), to, 0.5)
	if err != nil {
		return err
	}
	return firstError(func() error { return move(x, y) }, func() error { return up(x, y) })
}

// Touch presses a finger on the first element of a CSS selector.
func (p *Page) Touch(selector string) error {
	tap := func(x, y float64) error {
		return firstError(
			func() error { return p.finger(input.DispatchTouchEventTypeTouchStart)(x, y) },
			func() error { return p.lift(x, y) },
		)
	}
	return p.strike(selector, selected(selector), press{false, tap, nothing})
}

// Rest puts a finger on the first element of a CSS selector and leaves it there until the returned function lifts it.
func (p *Page) Rest(selector string) (lift func() error, err error) {
	err = p.strike(selector, selected(selector), press{false, p.finger(input.DispatchTouchEventTypeTouchStart), p.lift})
	return func() error { return p.lift(0, 0) }, err
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
	return call(p, input.DispatchTouchEvent, event)
}

// carry looks where to only once it has hold of what it carries: that may make room for it.
func (p *Page) carry(from, to string, down, move, up func(x, y float64) error) error {
	var fromX, fromY float64
	take := func(x, y float64) error {
		fromX, fromY = x, y
		return down(x, y)
	}
	err := p.strike(from, selected(from), press{false, take, up})
	if err != nil {
		return err
	}
	x, y, err := p.aim(to, selected(to), 0.5, 0.5)
	if err != nil {
		return err
	}
	return firstError(
		func() error { return move((fromX+x)/2, (fromY+y)/2) },
		func() error { return move(x, y) },
		func() error { return up(x, y) },
	)
}

// Set replaces what stands in the field of that label and leaves it.
func (p *Page) Set(label, text string) error {
	field := "[...document.querySelectorAll('input, textarea')].find((e) => (e.getAttribute('aria-label') ?? e.closest('label')?.innerText " +
		"?? '').trim() === " + quote(label) + ")"
	return firstError(
		func() error { return p.click("a field "+label, field) },
		func() error { return p.Press("a", chromedp.ModifierCtrl) },
		func() error { return p.Type(text) },
		func() error { return p.Press(kb.Tab) },
	)
}
