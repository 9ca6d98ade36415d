package strength

import (
	"fmt"
	"slices"

	"celandine/core/equivalence"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/mutate"
	"celandine/core/source"
)

// A Reference is a right program, with others that are as right: with their pieces in another order, or a scan later. A script on which
// one of these would lose marks tells nobody anything.
type Reference struct {
	*grade.Handin
	others []*machine.Code
	unfair []string // of each scenario: what is different in one of the others that loses marks in it; else ""
}

// rightBudget is how many scans are searched for a difference between a right program and one that may be as right.
const rightBudget = 3_000

// ReferenceOf marks a right program and finds the others.
func ReferenceOf(g *grade.Grader, f *source.File) (*Reference, error) {
	h, err := Read(g, f)
	if err != nil {
		return nil, fmt.Errorf("running %s: %w", f.Name, err)
	}
	r := &Reference{Handin: h, unfair: make([]string, len(g.Exercise.Scenarios))}
	for _, m := range mutate.Right(f, grade.Points(g.Exercise)) {
		other, err := Read(g, source.NewFile(f.Name, m.Text))
		if err != nil {
			return nil, fmt.Errorf("running %s where %s: %w", f.Name, m.What, err)
		}
		right, err := asRight(g, h, other, true)
		if err != nil {
			return nil, fmt.Errorf("comparing %s where %s: %w", f.Name, m.What, err)
		}
		if !right {
			continue
		}
		r.others = append(r.others, other.Code())
		for i, s := range other.Result.Scenarios {
			if s.Earned < s.Points && r.unfair[i] == "" {
				r.unfair[i] = m.What
			}
		}
	}
	return r, nil
}

// asRight reports whether no fair script, and no scenario that is one, tells a program from a right one. Of one whose pieces stand in
// another order a value that shows for no longer than the slack does not count.
func asRight(g *grade.Grader, right, other *grade.Handin, lasting bool) (bool, error) {
	if right.Code() == nil || other.Code() == nil || !slices.Equal(right.Graded(), other.Graded()) {
		return false, nil
	}
	pair, _, err := PairOf(g, &Reference{Handin: right}, other)
	if err != nil {
		return false, err
	}
	pair.Lasting = lasting
	found, err := pair.Search(rightBudget)
	if err != nil || found.Verdict == equivalence.Differs {
		return false, err
	}
	for i, s := range g.Exercise.Scenarios {
		if other.Result.Scenarios[i].Earned == other.Result.Scenarios[i].Points {
			continue
		}
		if apart, err := pair.TellsApart(s.Script); err != nil || apart {
			return false, err
		}
	}
	return true, nil
}
