package bridge

import (
	"errors"
	"fmt"
	"strings"

	"celandine/bridge/editor"
	"celandine/core/convert"
	"celandine/core/source"
)

// converting is a program that is wanted in another language.
type converting struct {
	editor.Program
	Language string `json:"language"`
}

// converted is the program in the language, and what stays as it was.
type converted struct {
	Text string   `json:"text"`
	Told []string `json:"told"`
}

// convert says a program in another language, or why that cannot be.
func (p *Page) convert(in converting) (converted, error) {
	text, problems := convert.To(in.Language, source.NewFile(in.File, in.Text), p.Points)
	out := converted{Text: text, Told: []string{}}
	for _, d := range problems {
		if problems.HasErrors() == (d.Severity == source.Error) {
			line, _ := d.Span.File.Position(d.Span.Start)
			out.Told = append(out.Told, strings.TrimSpace(fmt.Sprintf("Line %d: %s %s", line, d.Message, d.Hint)))
		}
	}
	if problems.HasErrors() {
		return converted{}, errors.New(strings.Join(out.Told, " "))
	}
	return out, nil
}
