package grade

import (
	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
)

// Code is the compiled program, nil where it has errors.
func (h *Handin) Code() *machine.Code { return h.code }

// Graded tells of each thing that is graded what it is in a hand-in that has played every scenario, the one that matches best over all of
// them; "" where the program lacks it or has it of a kind that is not to be compared.
func (h *Handin) Graded() []string {
	g := h.grader
	names := h.choose(Every)
	for j, name := range names {
		if name == "" {
			continue
		}
		if kind, _ := h.code.KindOf(name); !compare.Kindred(g.kinds[j], kind) {
			names[j] = ""
		}
	}
	return names
}

// Tolerances tells of each thing that is graded how far it may be from what is expected.
func (g *Grader) Tolerances() []compare.Tolerance { return g.tolerances }

// Solution is the exercise's solution in a language, or where there is none its first.
func (g *Grader) Solution(language string) exercise.Source {
	for _, s := range g.Exercise.Solutions {
		if s.Language() == language {
			return s
		}
	}
	return g.Exercise.Solutions[0]
}
