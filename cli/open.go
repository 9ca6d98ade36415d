package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"strings"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/core/xmlio"
	"celandine/folder"
)

// openSources reads program files.
func openSources(paths []string) ([]*source.File, error) {
	var list []*source.File
	for _, p := range paths {
		f, err := openSource(p)
		if err != nil {
			return nil, err
		}
		list = append(list, f)
	}
	return list, nil
}

// openSource reads a program file, or the program in an exchange file.
func openSource(path string) (*source.File, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, BrokenError(fmt.Errorf("cannot read the program: %w", err))
	}
	if info.IsDir() {
		return nil, misused("%s is a folder; name the program files in it", path)
	}
	limit := int64(syntax.MaxSize)
	if xmlio.Is(path) {
		limit = xmlio.MaxSize
	}
	if info.Size() > 16*limit {
		return nil, exit{Failed, fmt.Errorf("%s: error[too-large]: this file has %d KiB; the limit is %d KiB", path, info.Size()>>10, limit>>10)}
	}
	text, err := os.ReadFile(path)
	if err != nil {
		return nil, BrokenError(fmt.Errorf("cannot read the program: %w", err))
	}
	f := source.NewFile(path, string(text))
	if xmlio.Is(path) {
		return xmlio.Read(f), nil
	}
	return f, nil
}

// openFolder reads an exercise folder, or a zip of one, in which programs may be exchange files.
func openFolder(dir string) (exercise.Files, error) {
	files, err := folder.Open(dir)
	var missing *fs.PathError
	switch {
	case errors.As(err, &missing):
		return nil, BrokenError(err)
	case err != nil:
		return nil, misused("%v", err)
	}
	if problems := xmlio.InFolder(files); problems.HasErrors() {
		return nil, badExercise(dir, problems)
	}
	return files, nil
}

// openExercise reads a folder and makes it ready to grade; its problems are
// printed with the folder before each file's name.
func openExercise(dir string) (*grade.Grader, error) {
	files, err := openFolder(dir)
	if err != nil {
		return nil, err
	}
	e, problems := exercise.Read(files)
	if e == nil {
		return nil, badExercise(dir, problems)
	}
	g, problems := grade.Prepare(e)
	if g == nil {
		return nil, badExercise(dir, problems)
	}
	return g, nil
}

func badExercise(dir string, problems source.List) error {
	var lines []string
	for _, d := range problems {
		lines = append(lines, filepath.Join(dir, d.String()))
	}
	return exit{Failed, fmt.Errorf("the exercise has problems\n%s\n%s", strings.Join(lines, "\n"), problems.Summary())}
}
