package workshop

import (
	"fmt"

	"celandine/core/exercise"
)

// blank is an exercise in which nothing is said yet.
const blank = `format: celandine/exercise/1
name: %s
title: %s
period: 10ms
languages: [ladder, st]
panel:
  inputs: []
  outputs: []
graded: []
scenarios: []
`

// Blank is a folder to begin with: an exercise of that title, with no point and no scenario.
func Blank(title string) (exercise.Files, error) {
	name := exercise.NameFor(title)
	if name == "" {
		return nil, fmt.Errorf("a title needs at least one letter or digit; %q has none", title)
	}
	if len(name) > 60 {
		name = exercise.NameFor(name[:60])
	}
	return Retitled(exercise.Files{yamlName: fmt.Appendf(nil, blank, name, "x"), "brief.md": []byte("")}, name, title)
}

// Retitled is a folder under another name and title, every other byte as it was: what a copy begins with.
func Retitled(files exercise.Files, name, title string) (exercise.Files, error) {
	changed, err := edit(files, exercise.Edit{Do: exercise.Put, At: "name", Value: quote(name)},
		exercise.Edit{Do: exercise.Put, At: "title", Value: quote(title)})
	if err != nil {
		return nil, err
	}
	return after(files, changed), nil
}
