// Package folder reads exercise folders from disk, or from a zip of one.
//
// In comes a path, or a file system and a folder in it; out come the files as bytes, which core/exercise makes an exercise
// of. Hidden files are left out. It looks at no content.
package folder

import (
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"strings"

	"celandine/core/exercise"
)

// Open reads the exercise at a path: a folder, or a .zip.
func Open(name string) (exercise.Files, error) {
	name = filepath.Clean(name) // a / at its end is no other folder
	return Read(os.DirFS(filepath.Dir(name)), filepath.Base(name))
}

// Read reads the exercise at a path of a file system.
func Read(system fs.FS, name string) (exercise.Files, error) {
	info, err := fs.Stat(system, name)
	if err != nil {
		return nil, fmt.Errorf("cannot read the exercise: %w", err)
	}
	if info.IsDir() {
		return readAll(system, name)
	}
	if !strings.EqualFold(path.Ext(name), ".zip") {
		return nil, fmt.Errorf("%s is not a folder; an exercise is a folder with exercise.yaml in it, or a .zip of one", name)
	}
	if info.Size() > exercise.MaxZip {
		return nil, fmt.Errorf("%s: %w", name, exercise.ErrLarge)
	}
	archive, err := fs.ReadFile(system, name)
	if err != nil {
		return nil, fmt.Errorf("cannot read the exercise: %w", err)
	}
	files, err := exercise.Unzip(archive)
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	return files, nil
}

func readAll(system fs.FS, dir string) (exercise.Files, error) {
	files := exercise.Files{}
	err := fs.WalkDir(system, dir, func(name string, d fs.DirEntry, err error) error {
		switch {
		case err != nil:
			return err
		case strings.HasPrefix(d.Name(), ".") && name != dir && d.IsDir():
			return fs.SkipDir
		case strings.HasPrefix(d.Name(), ".") || !d.Type().IsRegular():
			return nil
		}
		info, err := d.Info()
		if err != nil {
			return err
		}
		relative := strings.TrimPrefix(name, dir+"/")
		if info.Size() > exercise.MaxFile {
			return fmt.Errorf("%s: %w", relative, exercise.ErrLarge)
		}
		text, err := fs.ReadFile(system, name)
		if err != nil {
			return err
		}
		return files.Add(relative, text)
	})
	if err != nil {
		return nil, fmt.Errorf("cannot read the exercise: %w", err)
	}
	return files, nil
}
