// Package mutate makes, of a right program, the programs that differ from it by one mistake.
//
// In comes the text of a checked program with the panel's points; out come its [Mutant]s: each has the [Kind] of the mistake, what it is and
// where, in the words of an electrician, and the whole text with it. A mistake is one change of the tree (ladder.go, text.go, operand.go,
// regroup.go, block.go, declare.go, throughout.go), printed, and kept where the result is a program that checks and that is not the same text as
// another. The package runs nothing: whether a mutant does anything else than the program is not its business.
package mutate

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Mutant is a program with one mistake.
type Mutant struct {
	Kind  Kind
	What  string      // "the contact mist_off is inverted"
	Where string      // "rung 1", "line 7"; with the unit's name where there are several
	At    source.Span // in the right program
	Text  string
}

// String says the mistake and its place: "the contact mist_off is inverted (rung 1)".
func (m Mutant) String() string { return m.What + " (" + m.Where + ")" }

// MostMutants bounds how many are made of one program, and mostText how much text is printed for it: of a long program there are fewer.
const (
	MostMutants = 600
	mostText    = 20 << 20
)

// Of makes the mutants of a program that checks, in the order of its text; of one that does not, none. step is what a
// time must be off to be noticed: a scan where values are compared to the scan.
func Of(f *source.File, points []check.Point, step time.Duration) []Mutant {
	tree, problems := syntax.Parse(f)
	if problems.HasErrors() {
		return nil
	}
	if _, problems := check.Check([]*syntax.File{tree}, points); problems.HasErrors() {
		return nil
	}
	m := &maker{tree: tree, pieces: Pieces(tree), points: points, step: step, right: syntax.Print(tree), made: map[string]bool{}}
	m.declarations(tree.Globals)
	for _, u := range tree.Units {
		m.unit = u
		m.sections = append(append([]*syntax.Section{}, tree.Globals...), u.Sections...)
		m.declarations(u.Sections)
		switch body := u.Body.(type) {
		case *syntax.Ladder:
			m.ladder(body)
		case *syntax.Text:
			m.statements(&body.Statements)
		case *syntax.Diagram:
			m.diagram(body)
		}
		m.instances(u)
	}
	m.throughout()
	return m.list
}

// maker makes the mutants of one program: it changes the tree, prints it and takes the change back.
type maker struct {
	tree     *syntax.File
	pieces   []Piece
	points   []check.Point
	step     time.Duration
	right    string
	unit     *syntax.Unit
	sections []*syntax.Section // whose variables are in scope
	pins     bool              // in a block diagram
	network  *syntax.Network   // of it
	made     map[string]bool
	printed  int
	list     []Mutant
}

// try makes a mutant of a change that is already in the tree, and takes it back.
func (m *maker) try(kind Kind, at source.Span, undo func(), what string, args ...any) {
	if m.printed += len(m.right); m.printed > mostText {
		undo()
		return
	}
	text := syntax.Print(m.tree)
	undo()
	if text == m.right || m.made[text] || len(m.list) >= MostMutants {
		return
	}
	m.made[text] = true
	program, problems := check.Files([]*source.File{source.NewFile(m.tree.Source.Name, text)}, m.points)
	if program == nil || problems.HasErrors() {
		return
	}
	m.list = append(m.list, Mutant{kind, fmt.Sprintf(what, args...), m.where(at), at, text})
}

// put changes a value of the tree for a mutant.
func put[T any](m *maker, place *T, value T, kind Kind, at source.Span, what string, args ...any) {
	was := *place
	*place = value
	m.try(kind, at, func() { *place = was }, what, args...)
}

// changes are what a mutant changes at several places, and how to take it back.
type changes struct {
	undo []func()
	at   source.Span // the first
}

func change[T any](c *changes, place *T, value T, at source.Span) {
	was := *place
	*place = value
	c.undo = append(c.undo, func() { *place = was })
	if c.at.File == nil {
		c.at = at
	}
}

// back takes all of it back.
func (c *changes) back() {
	for _, undo := range slices.Backward(c.undo) {
		undo()
	}
}

func (m *maker) where(at source.Span) string {
	if p, ok := PieceAt(m.pieces, at); ok {
		return p.Where
	}
	line, _ := m.tree.Source.Position(at.Start)
	return fmt.Sprintf("line %d", line)
}

// typeOf is the declared type of a variable in scope, in capitals; "" where it is none by a mere name.
func (m *maker) typeOf(name string) string {
	for _, s := range m.sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if t, ok := v.Type.(*syntax.TypeName); ok && strings.EqualFold(n.Text, name) {
					return strings.ToUpper(t.Text)
				}
			}
		}
	}
	for _, p := range m.points {
		if strings.EqualFold(p.Name, name) && p.Type != nil {
			return strings.ToUpper(p.Type.Name)
		}
	}
	return ""
}

// others lists names that one could take for a name: the points of the same direction and type that stand next to it, or else variables of
// its type.
func (m *maker) others(name string) (list []string) {
	for i, p := range m.points {
		if !strings.EqualFold(p.Name, name) {
			continue
		}
		for _, step := range [2]int{1, -1} {
			for j := i + step; j >= 0 && j < len(m.points); j += step {
				if q := m.points[j]; q.Input == p.Input && q.Type == p.Type {
					list = append(list, q.Name)
					break
				}
			}
		}
		return list
	}
	if m.typeOf(name) != "BOOL" {
		return nil
	}
	for _, s := range m.sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if !strings.EqualFold(n.Text, name) && m.typeOf(n.Text) == "BOOL" && len(list) < 2 {
					list = append(list, n.Text)
				}
			}
		}
	}
	return list
}

// text writes an expression as it stands in the source.
func text(e syntax.Expr) string {
	if e == nil {
		return ""
	}
	return e.Place().Text()
}
