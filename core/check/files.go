package check

import (
	"celandine/core/source"
	"celandine/core/syntax"
)

// Files parses and checks the files of one program. Where the text could not be
// read, its names are looked at all the same, but for the lines that are told of already, so that every
// mistake is told and none that follows from another.
func Files(files []*source.File, points []Point) (*Program, source.List) {
	var trees []*syntax.File
	var problems source.List
	for _, f := range files {
		tree, list := syntax.Parse(f)
		trees = append(trees, tree)
		problems = append(problems, list...)
	}
	program, names := Check(trees, points)
	return together(program, problems, names)
}

// together is what is told of a text and of its names. With errors in the text there is no program.
func together(program *Program, text, names source.List) (*Program, source.List) {
	if !text.HasErrors() {
		return program, append(text, names...)
	}
	return nil, independent(text, names)
}

// independent adds to what was wrong with the text what else is wrong.
func independent(text, names source.List) source.List {
	type line struct {
		file   *source.File
		number int
	}
	told := map[line]bool{}
	at := func(d source.Diagnostic) line {
		if d.Span.File == nil {
			return line{}
		}
		number, _ := d.Span.File.Position(d.Span.Start)
		return line{d.Span.File, number}
	}
	for _, d := range text {
		told[at(d)] = true
	}
	for _, d := range names {
		if d.Severity == source.Error && d.Code != source.NoProgram && !told[at(d)] {
			text = append(text, d)
		}
	}
	text.Sort()
	return text
}
