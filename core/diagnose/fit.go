package diagnose

import (
	"slices"
	"strings"
	"time"

	"celandine/core/exercise"
	"celandine/core/mutate"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// mostFits bounds how many numbers of a hand-in are tried in the solution's places.
const mostFits = 80

// A figure is a time or a number that stands in a program.
type figure struct {
	value int64 // nanoseconds of a time
	timed bool
	at    source.Span
}

func (f figure) words() string {
	if f.timed {
		return signal.FormatClock(time.Duration(f.value))
	}
	return signal.Int.Format(f.value)
}

// in reports whether a figure stands in a list.
func (f figure) in(list []figure) bool {
	return slices.ContainsFunc(list, func(o figure) bool { return o.timed == f.timed && o.value == f.value })
}

// figures lists the times and whole numbers that stand in a program.
func figures(tree *syntax.File) (list []figure) {
	syntax.Walk(tree.Units, func(node any) bool {
		l, ok := node.(*syntax.Literal)
		if !ok {
			return true
		}
		if d, err := signal.ParseTime(strings.ToUpper(l.Text)); err == nil && strings.Contains(l.Text, "#") {
			list = append(list, figure{int64(d), true, l.Span})
		} else if v, err := signal.Int.Parse(l.Text); err == nil {
			list = append(list, figure{v, false, l.Span})
		}
		return true
	})
	return list
}

// fit tells the one time or number that is wrong in a hand-in: one that the solution lacks, in place of one that the hand-in lacks, where
// the solution with it does just what the hand-in does.
func (k *Known) fit(hand *program, stop func() bool) (Mistake, bool, error) {
	mine, _ := syntax.Parse(hand.file)
	have := figures(mine)
	type wrong struct{ is, asked figure }
	var found []wrong
	tried := 0
	for _, s := range ofLanguage(hand.file, k.grader.Exercise.Solutions, func(s exercise.Source) string { return s.Name }) {
		right := source.NewFile(s.Name, s.Text)
		tree, _ := syntax.Parse(right)
		asked := figures(tree)
		for _, want := range asked {
			for _, is := range have {
				own := is.timed == want.timed && !is.in(asked) && !want.in(have)
				if tried++; !own || tried > mostFits*len(have) || slices.ContainsFunc(found, func(w wrong) bool {
					return w.is.value == is.value && w.asked.value == want.value
				}) {
					continue
				}
				text := right.Text[:want.at.Start] + is.at.Text() + right.Text[want.at.End:]
				does, err := k.shows(source.NewFile(s.Name, text), stop)
				if err != nil {
					return Mistake{}, false, err
				}
				if does.shown == nil || !k.same(does.shown, hand.shown) {
					continue
				}
				apart, err := k.apart(does, hand)
				if err != nil {
					return Mistake{}, false, err
				}
				if apart {
					continue
				}
				found = append(found, wrong{is, want})
			}
		}
	}
	if len(found) != 1 {
		return Mistake{}, false, nil
	}
	is, asked := found[0].is, found[0].asked
	words := is.words() + " where " + asked.words() + " is asked"
	m := Mistake{Key: words, Title: "wrong number", Words: words + placeOf(mine, have, is), Hint: mutate.CountOff.Hint()}
	if is.timed {
		m.Title, m.Hint = "wrong time", mutate.PresetScan.Hint()
	}
	if is.value == 10*asked.value || asked.value == 10*is.value {
		kind := mutate.NumberScale
		if is.timed {
			kind = mutate.PresetScale
		}
		m.Title, m.Hint = kind.Words(), kind.Hint()
	}
	return m, true, nil
}

// placeOf says where a figure stands, where it stands once.
func placeOf(tree *syntax.File, all []figure, is figure) string {
	n := 0
	for _, f := range all {
		if f.timed == is.timed && f.value == is.value {
			n++
		}
	}
	if piece, ok := mutate.PieceAt(mutate.Pieces(tree), is.at); ok && n == 1 {
		return " (" + piece.Where + ")"
	}
	return ""
}
