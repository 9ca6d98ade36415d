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
	shares := make([]*big.Rat, len(r.Scenarios))
	moved := false
	for i := range r.Scenarios {
		s := &r.Scenarios[i]
		s.Still = g.noneMoves(i)
		shares[i] = g.share(i, s)
		moved = moved || !s.Still && shares[i].Sign() > 0
	}
	sum, before := new(big.Rat), exercise.Marks(0)
	for i := range r.Scenarios {
		s := &r.Scenarios[i]
		if s.Still && !moved && shares[i].Sign() > 0 {
			shares[i], s.Note = new(big.Rat), noMoves
		}
		sum.Add(sum, shares[i])
		whole := rounded(sum)
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
func (g *Grader) share(i int, s *Scenario) *big.Rat {
	if s.Fault != nil || len(s.Signals) == 0 {
		return new(big.Rat)
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
	points := new(big.Rat).SetInt64(int64(s.Points))
	if moving == 0 {
		if lost > 0 {
			return new(big.Rat)
		}
		return points
	}
	share := big.NewRat(right, moving)
	share.Sub(share, big.NewRat(lost, all))
	if share.Sign() < 0 {
		return new(big.Rat)
	}
	return share.Mul(share, points)
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
