// Package rewrite changes a program's text at one place and leaves every other byte as it was.
//
// In come a text ([Read]) and what to do at a [Place]: put elements into a rung ([Program.Put]), take them out, open a branch, add,
// move or copy rungs, declare a variable or change its declaration, give a name another one wherever it stands ([Program.Rename]). Out
// comes a [Change]: the new text and the place at which to go on. A text with errors elsewhere can be changed all the same.
//
// The package tells too where every name is written and read ([Program.Occurrences]). It draws nothing, keeps no history, and leaves
// types and warnings to the check room.
package rewrite

import (
	"errors"
	"strings"

	"celandine/core/say"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Place is an element of a rung, or the end of a series of elements: Unit and Rung count from 0, Path as a drawing's spot does. A Place
// without Path is the rung.
type Place struct {
	Unit int   `json:"unit"`
	Rung int   `json:"rung"`
	Path []int `json:"path"`
}

// A Change is a whole new text, and the place at which to go on.
type Change struct {
	Text string `json:"text"`
	At   Place  `json:"at"`
}

// A Program is a text that can be changed. Each change is made to the text as it was read.
type Program struct {
	file     *source.File
	tree     *syntax.File
	problems source.List // of reading it
}

// Read parses a text; what cannot be read is left alone.
func Read(text string) *Program {
	f := source.NewFile("program", text)
	tree, problems := syntax.Parse(f)
	return &Program{f, tree, problems}
}

// Of takes a text that is parsed already.
func Of(f *source.File, tree *syntax.File) *Program { return &Program{file: f, tree: tree} }

// splice replaces a stretch of the text.
func (p *Program) splice(start, end int, with string) string {
	return p.file.Text[:start] + with + p.file.Text[end:]
}

func (p *Program) unit(n int) (*syntax.Unit, error) {
	if n < 0 || n >= len(p.tree.Units) {
		return nil, errors.New("there is no such program in the text any more")
	}
	return p.tree.Units[n], nil
}

func (p *Program) ladder(unit int) (*syntax.Ladder, error) {
	u, err := p.unit(unit)
	if err != nil {
		return nil, err
	}
	l, ok := u.Body.(*syntax.Ladder)
	if !ok {
		return nil, say.Errorf("%s is written as text and has no rungs", u.Name.Text)
	}
	return l, nil
}

func (p *Program) rung(at Place) (*syntax.Ladder, *syntax.Rung, error) {
	l, err := p.ladder(at.Unit)
	if err != nil {
		return nil, nil, err
	}
	if at.Rung < 0 || at.Rung >= len(l.Rungs) {
		return nil, nil, errors.New("there is no such rung any more")
	}
	return l, l.Rungs[at.Rung], nil
}

// endOfLine returns where the line ends on which nothing but spaces and a comment follows; otherwise at itself.
func (p *Program) endOfLine(at int) int {
	text := p.file.Text
	rest, _, found := strings.Cut(text[at:], "\n")
	words := strings.TrimSpace(rest)
	if words != "" && !strings.HasPrefix(words, "//") && !p.commentFrom(at+strings.Index(rest, words), at+len(rest)) {
		return at
	}
	if found {
		return at + len(rest) + 1
	}
	return len(text)
}

// commentFrom reports whether one comment fills the text between two places, but for spaces behind it.
func (p *Program) commentFrom(start, end int) bool {
	for _, c := range p.tree.Comments {
		if c.Span.Start == start {
			return c.Span.End <= end && strings.TrimSpace(p.file.Text[c.Span.End:end]) == ""
		}
	}
	return false
}

// startOfLine returns where the line of a place begins.
func (p *Program) startOfLine(at int) int { return strings.LastIndexByte(p.file.Text[:at], '\n') + 1 }
