package exercise

import (
	"fmt"
	"strings"

	"go.yaml.in/yaml/v3"

	"celandine/core/source"
)

// CourseFormat is the first line of every course.yaml.
const CourseFormat = "celandine/course/1"

const courseName = "course.yaml"

// A Course is exercises in the order in which they are taught, in sections. Its folder holds course.yaml and each exercise below
// exercises/NAME.
type Course struct {
	Name     string
	Title    string
	Sections []Section
}

// A Section is some of a course's exercises under a title.
type Section struct {
	Title     string
	Exercises []string // names
}

// Exercises lists the names of all exercises in their order.
func (c Course) Exercises() (names []string) {
	for _, s := range c.Sections {
		names = append(names, s.Exercises...)
	}
	return names
}

// ReadCourse reads the text of course.yaml. With errors in the list the course is not to be used.
func ReadCourse(text []byte) (Course, source.List) {
	var c Course
	r := &reader{files: Files{courseName: text}, file: source.NewFile(courseName, string(text)), exercise: &Exercise{}}
	if len(text) > maxYAML {
		r.inFile(courseName, 1, "", "%s is larger than 256 KiB.", courseName)
		return c, r.problems
	}
	root, ok := r.parse(courseName, text)
	if !ok {
		return c, r.problems
	}
	seen := map[string]bool{}
	r.mapping(root, "The course",
		field{"format", true, func(v *yaml.Node) { r.oneOf(v, "format", CourseFormat) }},
		field{"name", true, func(v *yaml.Node) { c.Name = r.named(v) }},
		field{"title", true, func(v *yaml.Node) { c.Title = r.text(v, "title") }},
		field{"sections", true, func(v *yaml.Node) {
			r.list(v, "sections", func(item *yaml.Node) { c.Sections = append(c.Sections, r.section(item, seen)) })
		}},
	)
	r.problems.Sort()
	return c, r.problems
}

// named reads the name of an exercise or a course.
func (r *reader) named(n *yaml.Node) string {
	name := r.text(n, "name")
	if !exerciseName.MatchString(name) || len(name) > 60 {
		r.at(n, "Write small letters, digits and single hyphens, at most 60, like mist-hold-in.", "name cannot be %q.", name)
	}
	return name
}

func (r *reader) section(n *yaml.Node, seen map[string]bool) (s Section) {
	r.mapping(n, "A section",
		field{"title", true, func(v *yaml.Node) { s.Title = r.text(v, "title") }},
		field{"exercises", true, func(v *yaml.Node) {
			r.list(v, "exercises", func(item *yaml.Node) {
				name := r.named(item)
				if seen[name] {
					r.at(item, "Keep one of them.", "The exercise %s stands twice in the course.", name)
				}
				seen[name] = true
				s.Exercises = append(s.Exercises, name)
			})
		}},
	)
	return s
}

// Text writes the course as course.yaml.
func (c Course) Text() []byte {
	var b strings.Builder
	fmt.Fprintf(&b, "format: %s\nname: %s\ntitle: %s\nsections:", CourseFormat, c.Name, plain(c.Title, false, true))
	if len(c.Sections) == 0 {
		b.WriteString(" []")
	}
	b.WriteString("\n")
	for _, s := range c.Sections {
		fmt.Fprintf(&b, "  - title: %s\n    exercises: [%s]\n", plain(s.Title, false, true), strings.Join(s.Exercises, ", "))
	}
	return []byte(b.String())
}

// Parts takes a course's folder apart: its exercises' folders by name. A file that belongs to neither is left out.
func (f Files) Parts() (course []byte, exercises map[string]Files) {
	exercises = map[string]Files{}
	for path, content := range f {
		rest, inside := strings.CutPrefix(path, "exercises/")
		name, file, deep := strings.Cut(rest, "/")
		if !inside || !deep {
			continue
		}
		if exercises[name] == nil {
			exercises[name] = Files{}
		}
		exercises[name][file] = content
	}
	return f[courseName], exercises
}

// Whole puts a course's folder together again.
func Whole(course []byte, exercises map[string]Files) Files {
	f := Files{courseName: course}
	for name, files := range exercises {
		for file, content := range files {
			f["exercises/"+name+"/"+file] = content
		}
	}
	return f
}
