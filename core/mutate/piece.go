package mutate

import (
	"fmt"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// A Piece is a rung, a network or a statement of a program.
type Piece struct {
	Where  string // "rung 2", "network 1", "line 7"; with the unit's name where there are several
	At     source.Span
	Writes map[string]bool // variables, in small letters
}

// Pieces lists the pieces of a program; of statements each at its depth, the outer before the inner.
func Pieces(tree *syntax.File) (list []Piece) {
	for _, u := range tree.Units {
		of := ""
		if len(tree.Units) > 1 {
			of = " of " + u.Name.Text
		}
		switch body := u.Body.(type) {
		case *syntax.Ladder:
			for i, r := range body.Rungs {
				list = append(list, Piece{fmt.Sprintf("rung %d%s", i+1, of), r.Span, written(r)})
			}
		case *syntax.Diagram:
			for i, n := range body.Networks {
				writes := written(n)
				for _, node := range n.Nodes {
					for _, t := range node.Targets {
						for name := range named(t.Operand) {
							writes[name] = true
						}
					}
				}
				list = append(list, Piece{fmt.Sprintf("network %d%s", i+1, of), n.Span, writes})
			}
		case *syntax.Text:
			list = append(list, statementsIn(tree.Source, body.Statements)...)
		}
	}
	return list
}

func statementsIn(f *source.File, list []syntax.Statement) (pieces []Piece) {
	for _, s := range list {
		at := syntax.PlaceOf(s)
		line, _ := f.Position(at.Start)
		piece := Piece{fmt.Sprintf("line %d", line), at, map[string]bool{}}
		switch s := s.(type) {
		case *syntax.Assignment, *syntax.CallStatement:
			piece.Writes = written(s)
		}
		pieces = append(pieces, piece)
		switch s := s.(type) {
		case *syntax.If:
			for _, arm := range s.Arms {
				pieces = append(pieces, statementsIn(f, arm.Body)...)
			}
			pieces = append(pieces, statementsIn(f, s.Else)...)
		case *syntax.Case:
			for _, c := range s.Choices {
				pieces = append(pieces, statementsIn(f, c.Body)...)
			}
			pieces = append(pieces, statementsIn(f, s.Else)...)
		case *syntax.For:
			pieces = append(pieces, statementsIn(f, s.Body)...)
		case *syntax.While:
			pieces = append(pieces, statementsIn(f, s.Body)...)
		case *syntax.Repeat:
			pieces = append(pieces, statementsIn(f, s.Body)...)
		}
	}
	return pieces
}

// PieceAt returns the innermost piece in which a place stands.
func PieceAt(pieces []Piece, at source.Span) (found Piece, ok bool) {
	for _, p := range pieces {
		if p.At.Start <= at.Start && at.End <= p.At.End {
			found, ok = p, true
		}
	}
	return found, ok
}

// Named reports whether a name stands anywhere in a program.
func Named(tree *syntax.File, name string) bool {
	for _, u := range tree.Units {
		if named(u.Body)[strings.ToLower(name)] {
			return true
		}
	}
	return false
}
