package workshop

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/exercise"
	"celandine/core/rewrite"
	"celandine/core/source"
	"celandine/core/syntax"
)

// RungText is a rung or network of a solution, which a starter keeps or leaves out.
type RungText struct {
	Unit  int    `json:"unit"`
	Rung  int    `json:"rung"`
	Title string `json:"title"`
	Text  string `json:"text"`
}

// Rungs lists the rungs and networks of a program, in the order of the text.
func Rungs(text string) []RungText {
	list := []RungText{}
	tree, _ := syntax.Parse(source.NewFile("solution", text))
	for n, u := range tree.Units {
		switch body := u.Body.(type) {
		case *syntax.Ladder:
			for i, r := range body.Rungs {
				list = append(list, RungText{n, i, r.Title, r.Span.Text()})
			}
		case *syntax.Diagram:
			for i, one := range body.Networks {
				list = append(list, RungText{n, i, one.Title, one.Span.Text()})
			}
		}
	}
	return list
}

// Starter makes a starter of a solution: the same program without some of its rungs or networks, or, in structured text, without its
// statements.
// Declarations stay, and comments that belong to a rung go with it.
func Starter(files exercise.Files, language string, without []RungText) (exercise.Files, error) {
	solution, ok := files["solution."+language]
	if !ok {
		return nil, fmt.Errorf("there is no solution in this language to make a starter of")
	}
	text := string(solution)
	if language == "st" {
		text = withoutStatements(text)
	}
	slices.SortFunc(without, func(a, b RungText) int { return b.Unit*10_000 + b.Rung - a.Unit*10_000 - a.Rung })
	for _, r := range without {
		change, err := rewrite.Read(text).RemoveRung(rewrite.Place{Unit: r.Unit, Rung: r.Rung})
		if err != nil {
			return nil, fmt.Errorf("rung %d: %w", r.Rung+1, err)
		}
		text = change.Text
	}
	return exercise.Files{"starter." + language: []byte(text)}, nil
}

// withoutStatements empties every program written as text.
func withoutStatements(text string) string {
	tree, _ := syntax.Parse(source.NewFile("solution", text))
	for _, u := range slices.Backward(tree.Units) {
		if _, written := u.Body.(*syntax.Text); !written || u.Kind != syntax.Program {
			continue
		}
		from := u.Name.Span.End
		if n := len(u.Sections); n > 0 {
			from = u.Sections[n-1].Span.End
		}
		text = text[:from] + "\n(* your program *)\n" + text[u.Span.End-len("END_PROGRAM"):]
	}
	return text
}

// Sentence writes what a learner is told of a known mistake: the first comment of its program.
func Sentence(files exercise.Files, file, says string) (exercise.Files, error) {
	text, ok := files[file]
	if !ok {
		return nil, errGone
	}
	says = strings.Join(strings.Fields(strings.NewReplacer("(*", "(", "*)", ")").Replace(says)), " ")
	rest := string(text)
	if old := (exercise.Source{Name: file, Text: rest}).Said(); old != "" {
		rest = strings.TrimLeft(rest, " \t\r\n")
		if strings.HasPrefix(rest, "//") {
			_, rest, _ = strings.Cut(rest, "\n")
		} else {
			_, rest, _ = strings.Cut(rest, "*)")
			rest = strings.TrimPrefix(rest, "\n")
		}
	}
	if says != "" {
		rest = "(* " + says + " *)\n" + rest
	}
	return exercise.Files{file: []byte(rest)}, nil
}

// Begun is the text that a program of the exercise begins with, in a language: with nothing in it yet.
func Begun(files exercise.Files, language string) string {
	form, _ := exercise.FormOf(string(files[yamlName])) // what is no YAML has no name
	name := strings.ReplaceAll(form.Name, "-", "_")
	if name == "" || name[0] >= '0' && name[0] <= '9' {
		name = "exercise_" + name
	}
	if rows(form, name) > 0 { // a point's name means the point
		name += "_program"
	}
	return exercise.Empty(name, language)
}
