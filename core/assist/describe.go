package assist

import (
	"strings"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/say"
	"celandine/core/syntax"
)

// A Description is what a name in the text is. Words is "" where there is nothing to say.
type Description struct {
	Name     string
	Words    string
	From, To int // offsets
}

// Describe tells what the name at an offset is.
func (t Text) Describe(offset int) (d Description) {
	start := strings.LastIndexByte(t.File.Text[:offset], '\n') + 1
	end := len(t.File.Text)
	if n := strings.IndexByte(t.File.Text[offset:], '\n'); n >= 0 {
		end = offset + n
	}
	for _, at := range paths(t.File.Text[start:end]) {
		from, to := start+at[0], start+at[1]
		if offset < from || offset > to || inRemark(t.File.Text[:from]) {
			continue
		}
		d = Description{Name: t.File.Text[from:to], From: from, To: to}
		d.Words = t.words(t.unitAt(offset), d.Name)
	}
	return d
}

func (t Text) words(u *syntax.Unit, written string) string {
	for _, p := range t.Points {
		if strings.EqualFold(p.Name, written) {
			return p.words()
		}
	}
	owner, member, hasMember := cutLast(written)
	if hasMember {
		if m, ok := find(t.behind(u, owner), member); ok {
			return say.Textf("%s : %s, of the %s %s", written, m.typeText(), t.kindOf(u, owner), owner)
		}
		return ""
	}
	if n, ok := find(t.scope(u), written); ok {
		return strings.TrimSuffix(say.Textf("%s : %s, %s", n.text, n.typeText(), t.purpose(n.typeText())+n.detail), ", ")
	}
	if b, _ := block.Named(written); b != nil {
		return say.Textf("%s, %s: %s → %s. %s", strings.ToUpper(written), b.Says, list(b.In), list(b.Out), upper(b.Rule))
	}
	if own := t.ownBlock(written); own != nil {
		return say.Textf("%s, block of your own: %s", own.Name.Text, inputsOf(faceOf(own)))
	}
	if check.IsFunction(written) {
		return strings.ToUpper(written) + ", a standard function"
	}
	return ""
}

func (p Point) words() string {
	wired := p.Device
	if p.Closed {
		wired += ", normally closed"
	}
	return say.Textf("%s : %s at %s, %s (%s)", p.Name, p.Type, p.Address, p.Label, wired)
}

// kindOf is what a path's end is: its block's purpose, or its type.
func (t Text) kindOf(u *syntax.Unit, path string) string {
	owner, last, deep := cutLast(path)
	names := t.scope(u)
	if deep {
		names = t.behind(u, owner)
	}
	bare, _, _ := strings.Cut(last, "[")
	n, _ := find(names, bare)
	if p := t.purpose(n.typeText()); p != "" {
		return p
	}
	return n.typeText()
}

func cutLast(path string) (before, after string, found bool) {
	at := strings.LastIndexByte(path, '.')
	if at < 0 {
		return "", path, false
	}
	return path[:at], path[at+1:], true
}

func list(pins []block.Pin) string {
	var names []string
	for _, p := range pins {
		names = append(names, p.Name)
	}
	return strings.Join(names, ", ")
}

func upper(s string) string { return strings.ToUpper(s[:1]) + s[1:] }
