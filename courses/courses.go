// Package courses holds the demo course, so that the binary alone can show it.
package courses

import (
	"embed"
	"io/fs"
)

//go:embed all:glasshouse
var files embed.FS

// Glasshouse is the folder of the demo course: course.yaml, exercises, hand-ins, examples.
func Glasshouse() (fs.FS, error) { return fs.Sub(files, "glasshouse") }
