package rewrite

import (
	"errors"
	"fmt"
	"slices"
	"strings"

	"celandine/core/syntax"
)

// chunks divides a ladder into stretches, one a rung with the comments above it. What stands between LADDER and the
// first chunk, and behind the last, is none of them.
func (p *Program) chunks(l *syntax.Ladder) [][2]int {
	from := p.top(l)
	var list [][2]int
	for _, r := range l.Rungs {
		to := p.endOfLine(p.endOfRung(r))
		list = append(list, [2]int{from, to})
		from = to
	}
	return list
}

// top returns where a ladder's first chunk begins: behind the line with LADDER, or at once when that word is missing.
func (p *Program) top(l *syntax.Ladder) int {
	rest := p.file.Text[l.Span.Start:]
	if word := rest[:min(len("LADDER"), len(rest))]; !strings.EqualFold(word, "LADDER") {
		return l.Span.Start
	}
	return p.endOfLine(l.Span.Start + len("LADDER"))
}

func (p *Program) words(chunk [2]int) string { return p.file.Text[chunk[0]:chunk[1]] }

// arrange writes the rungs of a ladder in another order, or others.
func (p *Program) arrange(l *syntax.Ladder, list []string) string {
	start := p.top(l)
	end := start
	if old := p.chunks(l); len(old) > 0 {
		end = old[len(old)-1][1]
	}
	var b strings.Builder
	for _, words := range list {
		if before := b.String(); before != "" && !strings.HasSuffix(before, "\n") || before == "" && start > 0 && p.file.Text[start-1] != '\n' {
			b.WriteByte('\n')
		}
		b.WriteString(words)
	}
	if b.Len() > 0 && !strings.HasSuffix(b.String(), "\n") {
		b.WriteByte('\n')
	}
	return p.splice(start, end, b.String())
}

func (p *Program) rungTexts(unit int) (*syntax.Ladder, []string, error) {
	l, err := p.ladder(unit)
	if err != nil {
		return nil, nil, err
	}
	var list []string
	for i, c := range p.chunks(l) {
		if !p.onlyComments(c[0], l.Rungs[i].Span.Start) {
			return nil, nil, errors.New("mend the errors in the text of this ladder first; a rung of it cannot be read")
		}
		list = append(list, p.words(c))
	}
	return l, list, nil
}

// onlyComments reports whether nothing but comments and spaces stands between two places.
func (p *Program) onlyComments(start, end int) bool {
	for _, c := range p.tree.Comments {
		if c.Span.Start >= start && c.Span.End <= end {
			if strings.TrimSpace(p.file.Text[start:c.Span.Start]) != "" {
				return false
			}
			start = c.Span.End
		}
	}
	return strings.TrimSpace(p.file.Text[start:end]) == ""
}

// InsertRung puts a rung's text, as [Program.RungText] gives it, before the rung of that number; an empty text is an empty rung.
func (p *Program) InsertRung(at Place, text string) (Change, error) {
	l, list, err := p.rungTexts(at.Unit)
	if err != nil {
		return Change{}, err
	}
	if at.Rung < 0 || at.Rung > len(list) {
		return Change{}, errors.New("there is no such rung any more")
	}
	if text == "" {
		text = "RUNG;\n"
	}
	if err := oneRung(text); err != nil {
		return Change{}, err
	}
	return Change{p.arrange(l, slices.Insert(list, at.Rung, text)), Place{at.Unit, at.Rung, []int{0}}}, nil
}

func oneRung(text string) error {
	try := Read("PROGRAM p\nLADDER\n" + text + "\nEND_LADDER\nEND_PROGRAM\n")
	l, err := try.ladder(0)
	if err != nil || len(l.Rungs) != 1 {
		return errors.New("this is not the text of one rung")
	}
	return nil
}

// RungText returns a rung with the comments above it.
func (p *Program) RungText(at Place) (string, error) {
	_, list, err := p.rungTexts(at.Unit)
	if err != nil {
		return "", err
	}
	if at.Rung < 0 || at.Rung >= len(list) {
		return "", errors.New("there is no such rung any more")
	}
	return list[at.Rung], nil
}

// RemoveRung takes a rung out, with its comments.
func (p *Program) RemoveRung(at Place) (Change, error) {
	l, list, err := p.rungTexts(at.Unit)
	if err != nil {
		return Change{}, err
	}
	if at.Rung < 0 || at.Rung >= len(list) {
		return Change{}, errors.New("there is no such rung any more")
	}
	text := p.arrange(l, slices.Delete(list, at.Rung, at.Rung+1))
	return Change{text, Place{at.Unit, max(min(at.Rung, len(l.Rungs)-2), 0), []int{0}}}, nil
}

// MoveRung puts a rung where another stands, by their numbers.
func (p *Program) MoveRung(at Place, to int) (Change, error) {
	l, list, err := p.rungTexts(at.Unit)
	if err != nil {
		return Change{}, err
	}
	if at.Rung < 0 || at.Rung >= len(list) || to < 0 || to >= len(list) {
		return Change{}, errors.New("the rung is at the end already")
	}
	moved := list[at.Rung]
	list = slices.Insert(slices.Delete(list, at.Rung, at.Rung+1), to, moved)
	return Change{p.arrange(l, list), Place{at.Unit, to, []int{0}}}, nil
}

// Title names a rung; an empty title is none.
func (p *Program) Title(at Place, title string) (Change, error) {
	_, r, err := p.rung(at)
	if err != nil {
		return Change{}, err
	}
	if strings.ContainsAny(title, "'\n\r") {
		return Change{}, errors.New("a title is one line without the sign '")
	}
	r.Title = title
	return Change{p.rewritten(r), at}, nil
}

// Comment writes what is said above a rung in place of the comments there; an empty one removes them.
func (p *Program) Comment(at Place, words string) (Change, error) {
	l, r, err := p.rung(at)
	if err != nil {
		return Change{}, err
	}
	if _, _, err := p.rungTexts(at.Unit); err != nil {
		return Change{}, err
	}
	if strings.Contains(words, "*)") || strings.Contains(words, "(*") {
		return Change{}, fmt.Errorf("a comment cannot hold the signs %s and %s", "(*", "*)")
	}
	start := p.chunks(l)[at.Rung][0]
	var kept string
	if words = strings.TrimSpace(words); words != "" {
		kept = "(* " + words + " *)\n"
	}
	if start > 0 && p.file.Text[start-1] != '\n' {
		kept = "\n" + kept
	}
	return Change{p.splice(start, r.Span.Start, kept), at}, nil
}

// Comments returns what is said above each rung of a ladder.
func (p *Program) Comments(unit int) []string {
	l, err := p.ladder(unit)
	if err != nil {
		return nil
	}
	list := make([]string, len(l.Rungs))
	comments := p.tree.Comments
	for i, c := range p.chunks(l) {
		var words []string
		for len(comments) > 0 && comments[0].Span.Start < l.Rungs[i].Span.Start {
			if comments[0].Span.Start >= c[0] {
				words = append(words, plainComment(comments[0].Text))
			}
			comments = comments[1:]
		}
		list[i] = strings.Join(words, "\n")
	}
	return list
}

// plainComment takes the signs off a comment.
func plainComment(text string) string {
	for _, signs := range [][2]string{{"(*", "*)"}, {"/*", "*/"}, {"//", ""}} {
		if strings.HasPrefix(text, signs[0]) {
			return strings.TrimSpace(strings.TrimSuffix(strings.TrimPrefix(text, signs[0]), signs[1]))
		}
	}
	return text
}
