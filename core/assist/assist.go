// Package assist helps whoever writes a program: what could stand at the cursor ([Text.Complete]), what a name is ([Text.Describe]),
// and the ways out of an error ([Text.Fixes]).
//
// In comes a text as far as it is written, with its tree and the panel's points; most of the time it has errors, so everything here
// goes by the tree and by the letters before the cursor, and none of it by the check. Out come offers, words and changes of the
// text. What the blocks, functions and types are is asked of the rooms that know them. It changes nothing itself.
package assist

import (
	"strings"

	"celandine/core/block"
	"celandine/core/check"
	"celandine/core/source"
	"celandine/core/syntax"
)

// A Point is a wire of the panel, in scope everywhere.
type Point struct {
	Name, Type, Address, Label, Device string
	Closed                             bool
}

// A Text is what has been written so far.
type Text struct {
	File   *source.File
	Tree   *syntax.File
	Points []Point
}

// A name is something that can be written at a place: a variable, a point, a member.
type name struct {
	text   string
	typed  syntax.TypeExpr // nil: plain says what it is
	plain  string
	output bool   // of a block
	detail string // of a point
}

// typeText is the type as it is written.
func (n name) typeText() string {
	if n.typed != nil {
		return n.typed.Place().Text()
	}
	return n.plain
}

// unitAt is the unit in which an offset lies: the last that begins before it.
func (t Text) unitAt(offset int) *syntax.Unit {
	var found *syntax.Unit
	for _, u := range t.Tree.Units {
		if u.Span.Start <= offset {
			found = u
		}
	}
	return found
}

// scope lists the names that a unit can use, its own first.
func (t Text) scope(u *syntax.Unit) (list []name) {
	sections := t.Tree.Globals
	if u != nil {
		sections = append(u.Sections[:len(u.Sections):len(u.Sections)], sections...)
	}
	for _, s := range sections {
		list = append(list, declared(s.Variables)...)
	}
	for _, p := range t.Points {
		list = append(list, name{text: p.Name, plain: p.Type, detail: strings.TrimSpace(p.Address + " " + p.Label)})
	}
	return append(list, name{text: "FIRST_SCAN", plain: "BOOL", detail: "TRUE in the first scan"})
}

func declared(variables []*syntax.Variable) (list []name) {
	for _, v := range variables {
		for _, n := range v.Names {
			list = append(list, name{text: n.Text, typed: v.Type})
		}
	}
	return list
}

func find(list []name, text string) (name, bool) {
	for _, n := range list {
		if strings.EqualFold(n.text, text) {
			return n, true
		}
	}
	return name{}, false
}

// mostAliases bounds how far names of types are followed; a type may be named by way of itself.
const mostAliases = 20

// members lists what stands behind a name's point: the pins of a block, the fields of a structure; of an array those of an element.
func (t Text) members(n name, indexed bool) []name {
	e, plain := n.typed, n.plain
	for range mostAliases {
		switch typed := e.(type) {
		case *syntax.ArrayType:
			if !indexed {
				return nil
			}
			e, indexed = typed.Element, false
			continue
		case *syntax.StructType:
			return declared(typed.Fields)
		case *syntax.TypeName:
			plain = typed.Text
		}
		if b, counts := block.Named(plain); b != nil {
			return pins(b, counts)
		}
		if u := t.ownBlock(plain); u != nil {
			return faceOf(u)
		}
		if e = t.declaredType(plain); e == nil {
			return nil
		}
	}
	return nil
}

func pins(b *block.Block, counts string) (list []name) {
	for i, p := range b.Pins() {
		n := name{text: p.Name, plain: p.Kind.String(), output: i >= len(b.In)}
		if p.Role == block.Preset && counts != "" || p.Role == block.Count {
			n.plain = counts
		}
		list = append(list, n)
	}
	return list
}

func (t Text) ownBlock(named string) *syntax.Unit {
	for _, u := range t.Tree.Units {
		if u.Kind == syntax.FunctionBlock && strings.EqualFold(u.Name.Text, named) {
			return u
		}
	}
	return nil
}

// faceOf lists the inputs and outputs of a block or function of one's own.
func faceOf(u *syntax.Unit) (list []name) {
	for _, s := range u.Sections {
		if s.Word != "VAR_INPUT" && s.Word != "VAR_OUTPUT" && s.Word != "VAR_IN_OUT" {
			continue
		}
		for _, n := range declared(s.Variables) {
			n.output = s.Word == "VAR_OUTPUT"
			list = append(list, n)
		}
	}
	return list
}

func (t Text) declaredType(named string) syntax.TypeExpr {
	for _, d := range t.Tree.Types {
		if strings.EqualFold(d.Name.Text, named) {
			return d.Type
		}
	}
	return nil
}

// callee is what a name of a function, or an instance's, calls: its inputs and outputs; nil where it calls nothing.
func (t Text) callee(u *syntax.Unit, path string) []name {
	for _, own := range t.Tree.Units {
		if own.Kind == syntax.Function && strings.EqualFold(own.Name.Text, path) {
			return faceOf(own)
		}
	}
	return t.behind(u, path)
}

// behind lists the members of what a path such as racks[2].settle names.
func (t Text) behind(u *syntax.Unit, path string) []name {
	names := t.scope(u)
	for path != "" {
		part, indexed, rest, ok := first(path)
		if !ok {
			return nil
		}
		n, ok := find(names, part)
		if !ok {
			return nil
		}
		names, path = t.members(n, indexed), rest
	}
	return names
}

// purpose is what a type is, in words; "" where there is nothing to say.
func (t Text) purpose(typed string) string {
	if b, _ := block.Named(typed); b != nil {
		return b.Says
	}
	if t.ownBlock(typed) != nil {
		return "block of your own"
	}
	return ""
}

// types lists what can be declared, the usual first.
func (t Text) types() (list []Offer) {
	for _, e := range check.Elementary() {
		list = append(list, Offer{Label: e.Name, Kind: Type})
	}
	for _, b := range check.Blocks() {
		list = append(list, Offer{Label: b.Name, Kind: Type, Detail: b.Purpose})
	}
	for _, u := range t.Tree.Units {
		if u.Kind == syntax.FunctionBlock {
			list = append(list, Offer{Label: u.Name.Text, Kind: Type, Detail: t.purpose(u.Name.Text)})
		}
	}
	for _, d := range t.Tree.Types {
		list = append(list, Offer{Label: d.Name.Text, Kind: Type, Detail: "type of your own"})
	}
	return list
}
