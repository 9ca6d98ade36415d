package machine

import (
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Asked is what an exercise asks of a program besides its points. The service, the command line and the browser compile by it, so that
// all say the same of a program.
type Asked struct {
	Languages []string // in which it may be written; none: any
	Tasks     []Task
}

// Compile compiles what a check gave, as it is asked. The code is nil where something is wrong; what was told comes first.
func (a Asked) Compile(program *check.Program, told source.List) (*check.Program, *Code, source.List) {
	if program == nil {
		return nil, nil, told
	}
	if told = append(told, a.otherLanguages(program)...); told.HasErrors() {
		return nil, nil, told
	}
	code, large := Compile(program)
	told = append(told, large...)
	if code == nil || len(a.Tasks) == 0 {
		return program, code, told
	}
	scheduled, err := code.Schedule(a.Tasks)
	if err != nil {
		told.Add(source.WrongTasks, program.Units[0].Tree.Name.Span, "Name the programs as the exercise does.",
			"The exercise runs its programs as tasks: %v.", err)
		return nil, nil, told
	}
	return program, scheduled, told
}

// otherLanguages tells of each unit that is written in another language than is asked.
func (a Asked) otherLanguages(program *check.Program) (problems source.List) {
	if len(a.Languages) == 0 {
		return nil
	}
	words := make([]string, len(a.Languages))
	for i, one := range a.Languages {
		words[i] = source.LanguageWord(one)
	}
	for _, u := range program.Units {
		if language := syntax.LanguageOf(u.Tree.Body); !slices.Contains(a.Languages, language) {
			problems.Add(source.WrongLanguage, u.Tree.Name.Span, "Write it in "+strings.Join(words, " or ")+".",
				"This exercise is not done in %s.", source.LanguageWord(language))
		}
	}
	return problems
}
