package api

import (
	"celandine/core/source"
	"celandine/core/syntax"
)

// A rungAt is where a rung of a program stands. Rungs are numbered in each program of the text, as explanations number them.
type rungAt struct{ number, from, to int } // lines

// rungs finds those of a text, as far as it can be read.
func rungs(file, text string) []rungAt {
	f := source.NewFile(file, text)
	tree, _ := syntax.Parse(f)
	var list []rungAt
	for _, u := range tree.Units {
		ladder, ok := u.Body.(*syntax.Ladder)
		if !ok {
			continue
		}
		for i, r := range ladder.Rungs {
			from, _ := f.Position(r.Span.Start)
			to, _ := f.Position(r.Span.End)
			list = append(list, rungAt{i + 1, from, to})
		}
	}
	return list
}

// rungOf is the number of the rung that a line is part of; 0 is none.
func rungOf(list []rungAt, line int) int {
	for _, r := range list {
		if r.from <= line && line <= r.to {
			return r.number
		}
	}
	return 0
}

// linesOf are the lines at which the rungs of a number begin: one in each program that is drawn.
func linesOf(list []rungAt, number int) (lines []int) {
	for _, r := range list {
		if r.number == number {
			lines = append(lines, r.from)
		}
	}
	return lines
}
