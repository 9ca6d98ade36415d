package assist

import (
	"strings"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/syntax"
)

// A Kind tells what an offer is.
type Kind string

// The kinds of offer.
const (
	Variable Kind = "variable"
	Property Kind = "property" // a member, or an input that a call can be given
	Function Kind = "function" // a call
	Type     Kind = "type"
	Value    Kind = "constant" // of an enumeration
	Word     Kind = "keyword"
)

// Kinds lists them.
func Kinds() []string {
	return []string{string(Variable), string(Property), string(Function), string(Type), string(Value), string(Word)}
}

// An Offer is something that could stand at the cursor.
type Offer struct {
	Label  string `json:"label"`
	Kind   Kind   `json:"kind"`
	Detail string `json:"detail,omitempty"`
	Insert string `json:"insert,omitempty"` // what is written, where it is more than the label
	First  bool   `json:"first,omitempty"`  // it stands before the others
}

// A Completion is what could stand at the cursor, in place of the letters from a place on.
type Completion struct {
	From   int     // offset
	Offers []Offer // none: nothing can be said
}

// Complete offers what could stand at an offset.
func (t Text) Complete(offset int) Completion {
	before := t.File.Text[:offset]
	from := offset - len(written(before))
	out := Completion{From: from}
	before = before[:from]
	u := t.unitAt(offset)
	switch {
	case inRemark(before) || from < offset && before != "" && strings.ContainsAny(before[from-1:], "%#"):
	case owner(before) != "":
		p := strings.TrimSuffix(owner(before), ".")
		for _, m := range t.behind(u, p) {
			out.Offers = append(out.Offers, Offer{Label: m.text, Kind: Property, Detail: m.typeText() + " of " + p})
		}
	case t.declares(u, from):
		if colon := strings.LastIndexByte(before, ':'); colon > strings.LastIndexByte(before, ';') {
			out.Offers = t.types()
		}
	default:
		out.Offers = t.statement(u, before)
	}
	return out
}

// inRemark reports whether the text so far ends within a comment or a text in quotes.
func inRemark(before string) bool {
	line := before[strings.LastIndexByte(before, '\n')+1:]
	return strings.LastIndex(before, "(*") > strings.LastIndex(before, "*)") || strings.LastIndex(before, "/*") > strings.LastIndex(before,
		"*/") ||
		strings.Contains(line, "//") || strings.Count(line, "'")%2 == 1
}

// declares reports whether an offset lies among declarations.
func (t Text) declares(u *syntax.Unit, offset int) bool {
	sections := t.Tree.Globals
	if u != nil {
		sections = append(u.Sections[:len(u.Sections):len(u.Sections)], sections...)
	}
	for _, s := range sections {
		if offset > s.Span.Start && offset < s.Span.End {
			return true
		}
	}
	return false
}

// statement offers what a body can have behind the text so far.
func (t Text) statement(u *syntax.Unit, before string) (list []Offer) {
	if u == nil {
		return wordsOf("PROGRAM", "FUNCTION_BLOCK", "FUNCTION", "TYPE", "VAR_GLOBAL")
	}
	open, callee := opened(before)
	ladder := isLadder(u)
	if callee != "" {
		list = append(list, t.arguments(u, callee, before[open:])...)
	}
	for _, n := range t.scope(u) {
		list = append(list, Offer{Label: n.text, Kind: Variable, Detail: strings.TrimSpace(n.typeText() + " " + n.detail), First: true})
	}
	if ladder && open >= 0 && callee == "" { // within a contact or coil there are names alone
		return list
	}
	list = append(list, t.values()...)
	list = append(list, t.calls(u, ladder)...)
	if ladder {
		return append(list, wordsOf("RUNG", "END_LADDER", "TRUE", "FALSE")...)
	}
	return append(list, wordsOf(syntax.Keywords()...)...)
}

// opened finds the bracket that is open at the end of the text so far, and the name before it where it is a call's; -1 is none.
func opened(before string) (at int, callee string) {
	depth := 0
	for i := len(before) - 1; i >= 0 && before[i] != ';'; i-- {
		switch before[i] {
		case ')', ']':
			depth++
		case '(', '[':
			if depth--; depth < 0 {
				return i, called(before[:i])
			}
		}
	}
	return -1, ""
}

// arguments offers what a call has not been given yet.
func (t Text) arguments(u *syntax.Unit, callee, given string) (list []Offer) {
	for _, m := range t.callee(u, callee) {
		sign := " := "
		if m.output {
			sign = " => "
		}
		if !gives(given, m.text) {
			list = append(list, Offer{Label: m.text, Kind: Property, Detail: m.typeText() + " of " + callee, Insert: m.text + sign, First: true})
		}
	}
	return list
}

// values are those of the enumerations that the text declares.
func (t Text) values() (list []Offer) {
	for _, d := range t.Tree.Types {
		if e, ok := d.Type.(*syntax.EnumType); ok {
			for _, v := range e.Values {
				list = append(list, Offer{Label: v.Text, Kind: Value, Detail: d.Name.Text})
			}
		}
	}
	return list
}

// calls offers a call of each instance, and of each function.
func (t Text) calls(u *syntax.Unit, ladder bool) (list []Offer) {
	for _, n := range t.scope(u) {
		given, is := t.example(n, ladder)
		if is {
			list = append(list, Offer{Label: n.text + "(…)", Kind: Function, Detail: "call the " + t.purpose(n.typeText()),
				Insert: n.text + "(" + given + ")"})
		}
	}
	for _, own := range t.Tree.Units {
		if own.Kind == syntax.Function {
			list = append(list, Offer{Label: own.Name.Text, Kind: Function, Detail: "function of your own",
				Insert: own.Name.Text + "(" + inputsOf(faceOf(own)) + ")"})
		}
	}
	for _, f := range check.Functions() {
		list = append(list, Offer{Label: f, Kind: Function, Insert: f + "("})
	}
	return list
}

// example is what stands between the brackets of a call of an instance; in a rung power drives the first input.
func (t Text) example(n name, ladder bool) (string, bool) {
	if b, _ := block.Named(n.typeText()); b != nil {
		if ladder {
			return b.RungExample(), true
		}
		return b.Example(), true
	}
	own := t.ownBlock(n.typeText())
	if own == nil {
		return "", false
	}
	face := faceOf(own)
	if ladder && len(face) > 0 && strings.EqualFold(face[0].typeText(), "BOOL") {
		face = face[1:]
	}
	return inputsOf(face), true
}

func inputsOf(face []name) string {
	var given []string
	for _, n := range face {
		if !n.output {
			given = append(given, n.text+" := ")
		}
	}
	return strings.Join(given, ", ")
}

func isLadder(u *syntax.Unit) bool {
	_, is := u.Body.(*syntax.Ladder)
	return is
}

func wordsOf(words ...string) (list []Offer) {
	for _, w := range words {
		list = append(list, Offer{Label: w, Kind: Word})
	}
	return list
}
