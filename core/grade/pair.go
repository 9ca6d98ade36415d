package grade

import (
	"celandine/core/compare"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/source"
)

// Code compiles a program as a hand-in to the exercise; nil where it has errors.
func (g *Grader) Code(files []*source.File) *machine.Code {
	_, code, _ := g.compile(files)
	return code
}

// Graded tells of each thing that is graded what it is in a program that was read, the one that matches best over all scenarios; "" where
// the program lacks it or has it of a kind that is not to be compared.
func (h *Handin) Graded() ([]string, error) {
	if h.runs == nil {
		if err := h.Play(func() bool { return false }, Every); err != nil {
			return nil, err
		}
	}
	g := h.grader
	names := g.choose(h.code, h.runs, Every)
	for j, name := range names {
		if name == "" {
			continue
		}
		if kind, _ := h.code.KindOf(name); !kindred(g.expected[0].Columns[j].Kind, kind) && g.Exercise.Scenarios[0].Expect.Checks == nil {
			names[j] = ""
		}
	}
	return names, nil
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
