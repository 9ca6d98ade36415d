package xmlio

import (
	"maps"
	"path"
	"slices"

	"celandine/core/exercise"
	"celandine/core/source"
)

// InFolder puts, in an exercise's folder, the program that each exchange file holds in place of the file: solution.ladder for solution.xml.
// What cannot be read stays, and is told.
func InFolder(files exercise.Files) (problems source.List) {
	for _, p := range slices.Sorted(maps.Keys(files)) {
		if !Is(p) || p != "solution.xml" && p != "starter.xml" && path.Dir(p) != "mistakes" {
			continue
		}
		f := Read(source.NewFile(p, string(files[p])))
		if f.Told().HasErrors() {
			problems = append(problems, f.Told()...)
			continue
		}
		name, text := Named(f)
		if _, there := files[name]; there {
			problems.Add(source.Duplicate, source.Span{File: f}, "Keep one of them.", "There is a %s already.", name)
			continue
		}
		delete(files, p)
		files[name] = []byte(text)
	}
	return problems
}
