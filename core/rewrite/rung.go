package rewrite

import (
	"errors"
	"slices"
	"strings"

	"celandine/core/say"
	"celandine/core/syntax"
)

// A sheet is a body of rungs or of networks.
type sheet struct {
	word  string // that opens it
	start int
	parts [][2]int // where each begins and ends
}

func (p *Program) sheet(unit int) (*sheet, error) {
	u, err := p.unit(unit)
	if err != nil {
		return nil, err
	}
	switch body := u.Body.(type) {
	case *syntax.Ladder:
		s := &sheet{word: "LADDER", start: body.Span.Start}
		for _, r := range body.Rungs {
			s.parts = append(s.parts, [2]int{r.Span.Start, p.endOfRung(r)})
		}
		return s, nil
	case *syntax.Diagram:
		s := &sheet{word: "FBD", start: body.Span.Start}
		for _, n := range body.Networks {
			s.parts = append(s.parts, [2]int{n.Span.Start, n.Span.End})
		}
		return s, nil
	}
	return nil, say.Errorf("%s is written as text and has neither rungs nor networks", u.Name.Text)
}

// part is what its parts are called.
func (s *sheet) part() string {
	if s.word == "FBD" {
		return "network"
	}
	return "rung"
}

// chunks divides a body into stretches, one a part with the comments above it. What stands between the word that opens it and the
// first chunk, and behind the last, is none of them.
func (p *Program) chunks(s *sheet) [][2]int {
	from := p.top(s)
	var list [][2]int
	for _, one := range s.parts {
		to := p.endOfLine(one[1])
		list = append(list, [2]int{from, to})
		from = to
	}
	return list
}

// top returns where a body's first chunk begins: behind the line with the word that opens it, or at once when that is missing.
func (p *Program) top(s *sheet) int {
	rest := p.file.Text[s.start:]
	if word := rest[:min(len(s.word), len(rest))]; !strings.EqualFold(word, s.word) {
		return s.start
	}
	return p.endOfLine(s.start + len(s.word))
}

func (p *Program) words(chunk [2]int) string { return p.file.Text[chunk[0]:chunk[1]] }

// arrange writes the parts of a body in another order, or others.
func (p *Program) arrange(s *sheet, list []string) string {
	start := p.top(s)
	end := start
	if old := p.chunks(s); len(old) > 0 {
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

// texts are a body's parts, each with the comments above it.
func (p *Program) texts(unit int) (*sheet, []string, error) {
	s, err := p.sheet(unit)
	if err != nil {
		return nil, nil, err
	}
	var list []string
	for i, c := range p.chunks(s) {
		if !p.onlyComments(c[0], s.parts[i][0]) {
			body := map[string]string{"LADDER": "this ladder", "FBD": "this block diagram"}[s.word]
			return nil, nil, say.Errorf("mend the errors in the text of %s first; a %s of it cannot be read", body, s.part())
		}
		list = append(list, p.words(c))
	}
	return s, list, nil
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

// InsertRung puts a rung's or network's text, as [Program.RungText] gives it, before that of that number; an empty text is an empty one.
func (p *Program) InsertRung(at Place, text string) (Change, error) {
	s, list, err := p.texts(at.Unit)
	if err != nil {
		return Change{}, err
	}
	if at.Rung < 0 || at.Rung > len(list) {
		return Change{}, s.gone()
	}
	if text == "" {
		text = map[string]string{"LADDER": "RUNG;\n", "FBD": "NETWORK\n"}[s.word]
	}
	try := Read("PROGRAM p\n" + s.word + "\n" + text + "\nEND_" + s.word + "\nEND_PROGRAM\n")
	if read, err := try.sheet(0); err != nil || len(read.parts) != 1 {
		return Change{}, say.Errorf("this is not the text of one %s", s.part())
	}
	return Change{p.arrange(s, slices.Insert(list, at.Rung, text)), Place{at.Unit, at.Rung, []int{0}}}, nil
}

func (s *sheet) gone() error { return say.Errorf("there is no such %s any more", s.part()) }

// RungText returns a rung or network with the comments above it.
func (p *Program) RungText(at Place) (string, error) {
	s, list, err := p.texts(at.Unit)
	if err != nil {
		return "", err
	}
	if at.Rung < 0 || at.Rung >= len(list) {
		return "", s.gone()
	}
	return list[at.Rung], nil
}

// RemoveRung takes a rung or network out, with its comments.
func (p *Program) RemoveRung(at Place) (Change, error) {
	s, list, err := p.texts(at.Unit)
	if err != nil {
		return Change{}, err
	}
	if at.Rung < 0 || at.Rung >= len(list) {
		return Change{}, s.gone()
	}
	text := p.arrange(s, slices.Delete(list, at.Rung, at.Rung+1))
	return Change{text, Place{at.Unit, max(min(at.Rung, len(s.parts)-2), 0), []int{0}}}, nil
}

// MoveRung puts a rung or network where another stands, by their numbers.
func (p *Program) MoveRung(at Place, to int) (Change, error) {
	s, list, err := p.texts(at.Unit)
	if err != nil {
		return Change{}, err
	}
	if at.Rung < 0 || at.Rung >= len(list) || to < 0 || to >= len(list) {
		return Change{}, say.Errorf("the %s is at the end already", s.part())
	}
	moved := list[at.Rung]
	list = slices.Insert(slices.Delete(list, at.Rung, at.Rung+1), to, moved)
	return Change{p.arrange(s, list), Place{at.Unit, to, []int{0}}}, nil
}

// Title names a rung or network; an empty title is none.
func (p *Program) Title(at Place, title string) (Change, error) {
	if strings.ContainsAny(title, "'\n\r") {
		return Change{}, errors.New("a title is one line without the sign '")
	}
	if n, err := p.network(at); err == nil {
		n.Title = title
		return p.diagrammed(n, at), nil
	}
	_, r, err := p.rung(at)
	if err != nil {
		return Change{}, err
	}
	r.Title = title
	return Change{p.rewritten(r), at}, nil
}

// Comment writes what is said above a rung or network in place of the comments there; an empty one removes them.
func (p *Program) Comment(at Place, words string) (Change, error) {
	s, list, err := p.texts(at.Unit)
	if err != nil {
		return Change{}, err
	}
	if at.Rung < 0 || at.Rung >= len(list) {
		return Change{}, s.gone()
	}
	if strings.Contains(words, "*)") || strings.Contains(words, "(*") {
		return Change{}, say.Errorf("a comment cannot hold the signs %s and %s", "(*", "*)")
	}
	start := p.chunks(s)[at.Rung][0]
	var kept string
	if words = strings.TrimSpace(words); words != "" {
		kept = "(* " + words + " *)\n"
	}
	if start > 0 && p.file.Text[start-1] != '\n' {
		kept = "\n" + kept
	}
	return Change{p.splice(start, s.parts[at.Rung][0], kept), at}, nil
}

// Comments returns what is said above each rung or network of a body.
func (p *Program) Comments(unit int) []string {
	s, err := p.sheet(unit)
	if err != nil {
		return nil
	}
	list := make([]string, len(s.parts))
	comments := p.tree.Comments
	for i, c := range p.chunks(s) {
		var words []string
		for len(comments) > 0 && comments[0].Span.Start < s.parts[i][0] {
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
