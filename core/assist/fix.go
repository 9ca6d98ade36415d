package assist

import (
	"strings"

	"celandine/core/rewrite"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Fix is a way out of an error: what to write in place of a stretch of the text.
type Fix struct {
	Name     string
	From, To int // offsets
	Insert   string
}

// Fixes lists the ways out of an error.
func (t Text) Fixes(d source.Diagnostic) (list []Fix) {
	from, to := d.Span.Start, min(d.Span.End, len(t.File.Text))
	there := t.File.Text[min(from, to):to]
	if meant := source.MeantIn(d.Hint); meant != "" {
		list = append(list, Fix{"Write " + meant, from, to, meant})
	}
	switch {
	case d.Code == source.NoSemicolon:
		list = append(list, Fix{"Write ;", to, to, ";"})
	case d.Code == source.Assignment && there == "=":
		list = append(list, Fix{"Write :=", from, to, ":="})
	case d.Code == source.Assignment && there == ":=":
		list = append(list, Fix{"Write =", from, to, "="})
	case d.Code == source.Undeclared && isName(there):
		list = append(list, t.declarations(there, from, to)...)
	}
	return list
}

// declarations are the ways to declare a name, with the types that its place implies.
func (t Text) declarations(named string, from, to int) (list []Fix) {
	unit := -1
	for n, u := range t.Tree.Units {
		if u.Span.Start <= from {
			unit = n
		}
	}
	if unit < 0 {
		return nil
	}
	for _, typed := range t.Implied(from, to) {
		change, err := rewrite.Of(t.File, t.Tree).Declare(unit, rewrite.Variable{Name: named, Type: typed})
		if err != nil {
			continue // such a name cannot be declared
		}
		list = append(list, difference("Declare it as "+typed, t.File.Text, change.Text))
	}
	return list
}

// difference is the one change that makes a text of another.
func difference(name, before, after string) Fix {
	from := 0
	for from < len(before) && from < len(after) && before[from] == after[from] {
		from++
	}
	same := 0
	for same < len(before)-from && same < len(after)-from && before[len(before)-1-same] == after[len(after)-1-same] {
		same++
	}
	return Fix{name, from, len(before) - same, after[from : len(after)-same]}
}

// Implied lists the types that a name's place implies: one that is called is a block, a contact or coil is a BOOL, what stands beside a
// number counts, what stands beside a time is one.
func (t Text) Implied(from, to int) []string {
	before, after := t.File.Text[max(0, from-40):from], t.File.Text[to:min(len(t.File.Text), to+40)]
	switch {
	case strings.HasPrefix(strings.TrimLeft(after, " \t"), "("):
		return t.callable()
	case timed(after) || presets(before):
		return []string{"TIME"}
	case counted(after) || counts(before):
		return []string{"INT", "DINT", "REAL"}
	case inContact(before) && closes(after):
		return []string{"BOOL"}
	}
	return []string{"BOOL", "INT"}
}

// callable lists the blocks that a beginner calls first, and one's own.
func (t Text) callable() []string {
	list := []string{"TON", "CTU"}
	for _, u := range t.Tree.Units {
		if u.Kind == syntax.FunctionBlock {
			list = append(list, u.Name.Text)
		}
	}
	return list
}
