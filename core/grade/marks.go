package grade

import (
	"math/big"

	"celandine/core/exercise"
)

// noMoves is why a scenario in which everything was right may earn nothing.
const noMoves = "Nothing may happen here. It counts only where something was earned in a scenario in which something happens."

// marks gives each scenario what its parts earn, and the hand-in their sum.
//
// A part is still when a program that does nothing passes it, else it moves. A scenario's points are shared by weight among its
// moving parts; a still part that is wrong takes away its own share of all parts, never below zero. A scenario in which no part
// moves is whole or nothing, and counts only where a moving part earned something. Shares are exact; the sum is rounded once,
// and what the scenarios show adds up to it.
func (g *Grader) marks(r *Result) {
	shares := make([]earned, len(r.Scenarios))
	moved := false
	for i := range r.Scenarios {
		s := &r.Scenarios[i]
		s.Still = g.noneMoves(i)
		shares[i] = g.share(i, s)
		moved = moved || !s.Still && !shares[i].none()
	}
	sum, before := earned{}, exercise.Marks(0)
	for i := range r.Scenarios {
		s := &r.Scenarios[i]
		if s.Still && !moved && !shares[i].none() {
			shares[i], s.Note = earned{}, noMoves
		}
		sum.add(shares[i])
		whole := sum.rounded()
		s.Earned, before = whole-before, whole
	}
	r.Earned = before
}

func (g *Grader) noneMoves(i int) bool {
	if g.Exercise.Scenarios[i].Expect.Erratic != "" {
		return false
	}
	for _, still := range g.still[i] {
		if !still {
			return false
		}
	}
	return true
}

// share is what a scenario earns, in hundredths of a point.
func (g *Grader) share(i int, s *Scenario) earned {
	if s.Fault != nil || len(s.Signals) == 0 {
		return earned{}
	}
	var all, moving, right, lost int64
	for j, part := range s.Signals {
		w := g.weight(i, j)
		all += w
		switch {
		case part.Still && !part.OK:
			lost += w
		case !part.Still:
			moving += w
			if part.OK {
				right += w
			}
		}
	}
	switch {
	case lost == 0 && right == moving:
		return earned{whole: int64(s.Points)}
	case moving == 0:
		return earned{}
	}
	share := big.NewRat(right, moving)
	share.Sub(share, big.NewRat(lost, all))
	if share.Sign() <= 0 || s.Points == 0 {
		return earned{}
	}
	return earned{part: share.Mul(share, new(big.Rat).SetInt64(int64(s.Points)))}
}

// earned is hundredths of a point, exactly: most are whole, and the rest is a fraction of any size.
type earned struct {
	whole int64
	part  *big.Rat // nil: none
}

func (e earned) none() bool { return e.whole == 0 && e.part == nil }

func (e *earned) add(o earned) {
	e.whole += o.whole
	switch {
	case o.part == nil:
	case e.part == nil:
		e.part = new(big.Rat).Set(o.part)
	default:
		e.part.Add(e.part, o.part)
	}
}

func (e earned) rounded() exercise.Marks {
	if e.part == nil {
		return exercise.Marks(e.whole)
	}
	return exercise.Marks(e.whole) + rounded(e.part)
}

// weight of a part: a check counts as much as any other. That a trace is erratic is one part.
func (g *Grader) weight(i, j int) int64 {
	if g.Exercise.Scenarios[i].Expect.Checks != nil {
		return 1
	}
	return int64(g.Exercise.Graded[j].Weight)
}

// rounded is a number from 0 up to the nearest hundredth, halves upwards.
func rounded(x *big.Rat) exercise.Marks {
	twice := new(big.Int).Mul(x.Num(), big.NewInt(2))
	twice.Add(twice, x.Denom())
	return exercise.Marks(twice.Div(twice, new(big.Int).Mul(x.Denom(), big.NewInt(2))).Int64())
}
