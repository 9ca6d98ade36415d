// Package courses holds the demo course, so that the binary alone can show it, and the lessons that an exercise can begin with.
package courses

import (
	"embed"
	"fmt"
	"io/fs"

	"go.yaml.in/yaml/v3"
)

//go:embed all:glasshouse
var files embed.FS

//go:embed lessons.yaml
var lessons []byte

// Glasshouse is the folder of the demo course: course.yaml, exercises, hand-ins, examples.
func Glasshouse() (fs.FS, error) { return fs.Sub(files, "glasshouse") }

// A Lesson is what is taught, what a script must pin down of it, and the exercise of the demo course that one can begin with.
type Lesson struct{ Name, Title, Behaviour, Exercise string }

// Lessons lists them in the order in which they are taught.
func Lessons() (list []Lesson, err error) {
	if err := yaml.Unmarshal(lessons, &list); err != nil {
		return nil, fmt.Errorf("reading the lessons: %w", err)
	}
	return list, nil
}
