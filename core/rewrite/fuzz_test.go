package rewrite_test

import (
	"strings"
	"testing"

	"celandine/core/coretest"
	"celandine/core/rewrite"
)

// FuzzEdits: no sequence of edits of any text panics, and a refused one changes nothing. Each edit is four bytes: what, where
// twice, and with what.
func FuzzEdits(f *testing.F) {
	for _, c := range coretest.Cases(f, "../testdata/*/*.txtar") {
		f.Add(c.First(), []byte("\x00\x00\x00\x00\x01\x01\x00\x01\x02\x00\x01\x02\x05\x01\x01\x03\x09\x00\x00\x04"))
	}
	f.Add("PROGRAM p\nVAR t0 : END_VAR\nLADDER\nRUNG [a] -- (b);\nEND_LADDER\nEND_PROGRAM", []byte("\x09\x00\x00\x00\x0a\x00\x00\x01"))
	f.Add("PROGRAM p\nVAR t0, t1 : ARRAY [1..\nLADDER\nRUNG { [a] | -- (b);\nEND_PROGRAM", []byte("\x04\x00\x00\x00\x08\x00\x00\x01"))
	words := []string{"[a]", "(q)", "{ [a] | }", "t0(PT := T#5s)", "", "[", "x y", "RUNG [a] -- (b);", "IF", "P"}
	f.Fuzz(func(t *testing.T, text string, edits []byte) {
		for n := 0; n+3 < len(edits) && n < 60; n += 4 {
			what, first, second, with := edits[n], int(edits[n+1])%4, int(edits[n+2])%4, words[int(edits[n+3])%len(words)]
			p := rewrite.Read(text)
			at := rewrite.Place{Unit: int(edits[n+1]) / 4 % 3, Rung: first, Path: []int{second}}
			if edits[n+2] > 127 {
				at.Path = []int{second, first, int(edits[n+1]) % 3}
			}
			change, err := edit(p, what, at, first, second, with)
			if err != nil {
				continue
			}
			if change.Text != "" {
				text = change.Text
			}
		}
		p := rewrite.Read(text)
		p.Occurrences()
		for unit := range 3 {
			p.Variables(unit)
			p.Comments(unit)
		}
	})
}

func edit(p *rewrite.Program, what byte, at rewrite.Place, first, second int, with string) (rewrite.Change, error) {
	switch what % 14 {
	case 0:
		return p.Put(at, second, with)
	case 1:
		return p.Branch(at, second)
	case 2:
		return p.BranchBelow(at)
	case 3:
		return p.Remove(at, second)
	case 4:
		return p.InsertRung(at, with)
	case 5:
		return p.RemoveRung(at)
	case 6:
		return p.MoveRung(at, second)
	case 7:
		return p.Title(at, with)
	case 8:
		return p.Comment(at, with)
	case 9:
		return p.Declare(first, rewrite.Variable{Name: "v" + strings.Repeat("x", second), Section: "VAR", Type: "BOOL", Description: with})
	case 10:
		return p.Redeclare(first, rewrite.Variable{Name: "t0", Section: "VAR", Type: "TON"})
	case 11:
		return p.Undeclare(first, "t0")
	case 12:
		return p.Rename(first*40+second*7, with)
	}
	_, err := p.Elements(at, second)
	return rewrite.Change{}, err
}
