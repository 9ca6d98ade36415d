package strength

import (
	"slices"

	"celandine/core/mutate"
)

// A Strength is how many mutants the scenarios catch.
type Strength struct {
	Percent   int       `json:"percent"` // of those that count, rounded down
	Mutants   int       `json:"mutants"` // that count
	Caught    int       `json:"caught"`
	Same      int       `json:"same"` // that no script tells from the solution; they do not count
	Kinds     []ByKind  `json:"kinds"`
	Scenarios []ByWhich `json:"scenarios"`
	Slipped   []Outcome `json:"slipped"`
	Unfair    []Unfair  `json:"unfair"`
}

// Unfair is a scenario that takes marks off a right program, so that it catches nothing.
type Unfair struct {
	Scenario string `json:"scenario"`
	File     string `json:"file"`  // a solution
	Where    string `json:"where"` // what is different in the right program: start comes a scan later
}

// Words says it in a sentence.
func (u Unfair) Words() string {
	return "The scenario “" + u.Scenario + "” takes marks off a program that may be right: " + u.File + ", where " + u.Where +
		". If that is not meant, move its events apart, or away from the moment in which a time ends."
}

// ByKind counts the mutants of one kind.
type ByKind struct {
	Kind    mutate.Kind `json:"kind"`
	Words   string      `json:"words"`
	Mutants int         `json:"mutants"`
	Caught  int         `json:"caught"`
}

// ByWhich counts what one scenario catches, or the rules.
type ByWhich struct {
	Scenario string `json:"scenario"` // "" of the rules
	Caught   int    `json:"caught"`
	Alone    int    `json:"alone"` // that nothing else catches
}

// Sum counts outcomes.
func (t *Trial) Sum(outcomes []Outcome) Strength {
	s := Strength{Kinds: []ByKind{}, Slipped: []Outcome{}, Unfair: t.unfair()}
	kinds := map[mutate.Kind]*ByKind{}
	for _, k := range mutate.Kinds() {
		kinds[k] = &ByKind{Kind: k, Words: k.Words()}
	}
	for _, one := range t.grader.Exercise.Scenarios {
		s.Scenarios = append(s.Scenarios, ByWhich{Scenario: one.Name})
	}
	rules := ByWhich{}
	for _, o := range outcomes {
		if !o.Counts() {
			s.Same++
			continue
		}
		s.Mutants++
		kinds[o.Kind].Mutants++
		if o.Slipped() {
			s.Slipped = append(s.Slipped, o)
			continue
		}
		s.Caught++
		kinds[o.Kind].Caught++
		ways := len(o.Caught)
		if o.Rule {
			ways++
			rules.add(ways)
		}
		for i := range s.Scenarios {
			if slices.Contains(o.Caught, s.Scenarios[i].Scenario) {
				s.Scenarios[i].add(ways)
			}
		}
	}
	if rules.Caught > 0 {
		s.Scenarios = append(s.Scenarios, rules)
	}
	for _, k := range mutate.Kinds() {
		if kinds[k].Mutants > 0 {
			s.Kinds = append(s.Kinds, *kinds[k])
		}
	}
	if s.Mutants > 0 {
		s.Percent = 100 * s.Caught / s.Mutants
	}
	return s
}

func (b *ByWhich) add(ways int) {
	b.Caught++
	if ways == 1 {
		b.Alone++
	}
}

// unfair lists the scenarios that take marks off a right program, each with the first such program.
func (t *Trial) unfair() []Unfair {
	list := []Unfair{}
	for i, scenario := range t.grader.Exercise.Scenarios {
		for _, s := range t.grader.Exercise.Solutions {
			if where := t.solutions[s.Name].unfair[i]; where != "" {
				list = append(list, Unfair{scenario.Name, s.Name, where})
				break
			}
		}
	}
	return list
}
