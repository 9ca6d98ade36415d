package syntax

import (
	"slices"
	"strings"
	"unicode/utf8"

	"celandine/core/source"
)

// A Draft is a text that is being written, with its tree. Where a change of the text lies in the rungs of a ladder, just those are read
// anew, and what stands behind them is moved: the tree of one text becomes that of the next. The zero Draft has no text yet.
type Draft struct {
	File *source.File
	Tree *File
	rest source.List // what was told of what stands in no rung, as it was found
}

// A Change is what a change of the text did to a draft's tree.
type Change struct {
	Whole bool         // all of it is new; else, where there is a unit, rungs of that one
	Unit  *Unit        // or nil; of its rungs those are the same that are as they were
	Shift source.Shift // of what stands behind them
}

// Write gives the draft another text.
func (d *Draft) Write(text string) Change {
	if d.File != nil && d.File.Text == text {
		return Change{}
	}
	if s, ok := d.stretch(text); ok {
		if change, ok := d.reread(s, text); ok {
			return change
		}
	}
	d.File = source.NewFile("program", text)
	d.Tree, d.rest = parse(d.File)
	return Change{Whole: true}
}

// Told is what there is to tell of the text, from its top to its end.
func (d *Draft) Told() source.List { return d.Tree.told(d.rest) }

// A stretch is some pieces of a unit's ladder: from first up to but without next.
type stretch struct {
	unit        *Unit
	ladder      *Ladder
	first, next int
}

// opening is how a rung begins. What stands before it does not depend on what follows it.
const opening = "RUNG"

// opens reports whether the word that a rung begins with stands at a place, also in any text that is the same up to another place.
func opens(text string, at, same int) bool {
	end := at + len(opening)
	if end >= same || !strings.EqualFold(text[at:end], opening) {
		return false
	}
	c := text[end]
	return c < utf8.RuneSelf && c != '#' && !isLetter(c) && !isDigit(c)
}

// stretch finds the pieces of one ladder in which a text differs from the draft's.
func (d *Draft) stretch(text string) (s stretch, ok bool) {
	if d.File == nil || len(text) > MaxSize {
		return s, false
	}
	old := d.File.Text
	same, alike := common(old, text)
	for _, s.unit = range d.Tree.Units {
		s.ladder, ok = s.unit.Body.(*Ladder)
		if !ok || len(s.ladder.pieces) == 0 {
			continue
		}
		s.first = -1
		for i, one := range s.ladder.pieces {
			if opens(old, one.from, same) {
				s.first = i
			}
		}
		s.next = slices.IndexFunc(s.ladder.pieces, func(one piece) bool { return one.from >= len(old)-alike })
		if s.first >= 0 && s.next > s.first {
			return s, true
		}
	}
	return s, false
}

// common counts the bytes with which two texts begin alike, and those with which what remains ends alike.
func common(a, b string) (same, alike int) {
	most := min(len(a), len(b))
	for same < most && a[same] == b[same] {
		same++
	}
	for alike < most-same && a[len(a)-1-alike] == b[len(b)-1-alike] {
		alike++
	}
	return same, alike
}

// reread reads pieces anew, as whoever reads the whole text does, until it comes to one that is as it was. Where it comes to none, what
// the draft had is lost.
func (d *Draft) reread(s stretch, text string) (Change, bool) {
	l, by := s.ladder, len(text)-len(d.File.Text)
	from := l.pieces[s.first].from
	d.File.Rewrite(text)
	var told source.List
	p := &parser{scanner: scanner{file: d.File, text: text, at: from, problems: &told}}
	fresh, next := p.rejoin(l.pieces[s.next:], by, "END_"+string(s.unit.Kind))
	if len(next) == 0 {
		return Change{}, false
	}
	change := Change{Unit: s.unit, Shift: source.Shift{From: next[0].from, By: by}}
	before := commentsBefore(d.Tree.Comments, from)
	behind := commentsBefore(d.Tree.Comments, next[0].from)
	d.move(change.Shift)
	comments := d.Tree.Comments
	d.Tree.Comments = append(append(comments[:before:before], p.scanner.comments...), comments[behind:]...)
	l.pieces = append(append(l.pieces[:s.first:s.first], fresh...), next...)
	l.Rungs = nil
	for _, one := range l.pieces {
		if one.rung != nil {
			l.Rungs = append(l.Rungs, one.rung)
		}
	}
	return change, true
}

func commentsBefore(list []Comment, at int) (n int) {
	for n < len(list) && list[n].Span.Start < at {
		n++
	}
	return n
}

// rejoin reads pieces until it stands where one of the following begins, which are as they were but for their places. It returns what it
// read, and which still follow: none where they cannot be as they were.
func (p *parser) rejoin(following []piece, by int, closing string) (fresh, next []piece) {
	p.advance()
	for {
		for len(following) > 0 && following[0].from+by < p.token.Span.Start {
			following = following[1:]
		}
		switch {
		case len(following) == 0 || p.waiting > 0:
			return nil, nil
		case following[0].from+by == p.token.Span.Start:
			return fresh, following
		case p.token.Kind == EOF || p.token.Is("END_LADDER") || p.token.Is(closing):
			return nil, nil
		}
		fresh = append(fresh, p.piece(closing))
	}
}
