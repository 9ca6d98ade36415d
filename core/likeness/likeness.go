// Package likeness tells whether two programs have the same logic but for names and order.
//
// In comes a syntax tree with the names that everybody has (the panel's points); out comes a fingerprint. Two programs have the same
// one when one becomes the other by other names for what they declare themselves, another order of rungs, statements and branches,
// other titles and comments. It says what is the same, never why.
//
// A declared name is known by where it stands: it begins as its type, and is refined round after round by the rungs and
// statements that it stands in, as one colours the nodes of a graph.
package likeness

import (
	"crypto/sha256"
	"encoding/hex"
	"reflect"
	"slices"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// Fingerprint returns the fingerprint of a file.
func Fingerprint(f *syntax.File, points []string) string {
	p := &printer{kept: map[string]bool{}, colours: map[string]string{}}
	for _, name := range points {
		p.kept[strings.ToLower(name)] = true
	}
	p.declare(f.Globals)
	for _, u := range f.Units {
		p.colours[strings.ToLower(u.Name.Text)] = string(u.Kind)
		p.declare(u.Sections)
		p.wires(u.Body)
	}
	var items []item
	for _, u := range f.Units {
		for _, node := range pieces(u.Body) {
			items = append(items, item{string(u.Kind), node, p.names(node)})
		}
	}
	for range rounds {
		p.refine(items)
	}
	return digest(p.all(items)...)
}

// rounds is how far from a name its surroundings tell it from others.
const rounds = 4

// item is a rung or a statement of a body's first level, whose order does not count.
type item struct {
	unit  string
	node  any
	names []string
}

func pieces(body syntax.Body) (list []any) {
	switch b := body.(type) {
	case *syntax.Text:
		for _, s := range b.Statements {
			list = append(list, s)
		}
	case *syntax.Ladder:
		for _, r := range b.Rungs {
			list = append(list, r.Net)
		}
	case *syntax.Diagram:
		for _, n := range b.Networks {
			for _, node := range n.Nodes {
				list = append(list, node)
			}
		}
	}
	return list
}

// wires gives the wires of a block diagram a colour: they are names of the program's own.
func (p *printer) wires(body syntax.Body) {
	for _, node := range pieces(body) {
		if n, ok := node.(*syntax.Node); ok && n.Wire != nil {
			p.colours[strings.ToLower(n.Wire.Text)] = "wire"
		}
	}
}

type printer struct {
	kept    map[string]bool
	colours map[string]string // of what the program declares, by lower-case name
	self    string            // the name whose surroundings are being looked at
}

func (p *printer) declare(sections []*syntax.Section) {
	for _, s := range sections {
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if name := strings.ToLower(n.Text); !p.kept[name] {
					p.colours[name] = digest(s.Word, p.write(v.Type), p.write(v.Initial))
				}
			}
		}
	}
}

// refine gives each name the colour of its surroundings.
func (p *printer) refine(items []item) {
	next := map[string]string{}
	for name, colour := range p.colours {
		around := []string{}
		for _, it := range items {
			if slices.Contains(it.names, name) {
				p.self = name
				around = append(around, digest(it.unit, p.write(it.node)))
			}
		}
		p.self = ""
		slices.Sort(around)
		next[name] = digest(append([]string{colour}, around...)...)
	}
	p.colours = next
}

func (p *printer) all(items []item) []string {
	list := []string{}
	for _, it := range items {
		list = append(list, digest(it.unit, p.write(it.node)))
	}
	slices.Sort(list)
	return list
}

func digest(parts ...string) string {
	sum := sha256.Sum256([]byte(strings.Join(parts, "\x00")))
	return hex.EncodeToString(sum[:12])
}

// names lists the declared names in a node, each once.
func (p *printer) names(node any) []string {
	var list []string
	syntax.Walk(node, func(n any) bool {
		if id, ok := n.(*syntax.Name); ok {
			name := strings.ToLower(id.Text)
			if _, ok := p.colours[name]; ok && !slices.Contains(list, name) {
				list = append(list, name)
			}
		}
		return true
	})
	return list
}

var span = reflect.TypeFor[source.Span]()

// write spells a node without places, with the colours of names, and with what has no order in one order.
func (p *printer) write(node any) string {
	if node == nil {
		return "-"
	}
	return p.spell(reflect.ValueOf(node))
}

func (p *printer) spell(v reflect.Value) string {
	switch v.Kind() {
	case reflect.Invalid:
		return "-"
	case reflect.Interface, reflect.Pointer:
		if v.IsNil() {
			return "-"
		}
		return p.spell(v.Elem())
	case reflect.Slice:
		parts := p.each(v)
		return "[" + strings.Join(parts, " ") + "]"
	case reflect.Struct:
		return p.structure(v)
	case reflect.Bool:
		if v.Bool() {
			return "1"
		}
		return "0"
	case reflect.String:
		return strings.ToLower(v.String())
	default:
		return v.String()
	}
}

func (p *printer) each(v reflect.Value) []string {
	parts := make([]string, v.Len())
	for i := range parts {
		parts[i] = p.spell(v.Index(i))
	}
	return parts
}

func (p *printer) structure(v reflect.Value) string {
	switch n := v.Interface().(type) {
	case source.Span:
		return ""
	case syntax.Name:
		return p.name(n.Text)
	case syntax.Paren:
		return p.write(n.X)
	case syntax.Member:
		return p.write(n.Of) + "." + strings.ToLower(n.Field.Text)
	case syntax.Literal:
		return strings.ToLower(strings.ReplaceAll(n.Text, "_", ""))
	case syntax.Binary:
		return p.binary(&n)
	case syntax.Call:
		return p.call(&n)
	case syntax.Parallel:
		branches := p.each(v.FieldByName("Branches"))
		slices.Sort(branches)
		return "{" + strings.Join(branches, "|") + "}"
	}
	parts := []string{v.Type().Name()}
	for i := range v.NumField() {
		if v.Field(i).Type() != span {
			parts = append(parts, p.spell(v.Field(i)))
		}
	}
	return "(" + strings.Join(parts, " ") + ")"
}

// chained operators take their operands in any order and any brackets; symmetric ones have two, in either order.
var (
	chained   = map[string]bool{"AND": true, "OR": true, "XOR": true, "&": true, "+": true, "*": true}
	symmetric = map[string]bool{"=": true, "<>": true}
)

func (p *printer) binary(b *syntax.Binary) string {
	operands := []string{p.write(b.X), p.write(b.Y)}
	if chained[b.Op] {
		operands = p.chain(b.Op, b.Y, p.chain(b.Op, b.X, nil))
	}
	if chained[b.Op] || symmetric[b.Op] {
		slices.Sort(operands)
	}
	return "(" + b.Op + " " + strings.Join(operands, " ") + ")"
}

// chain lists the operands of a AND b AND c, however it is bracketed.
func (p *printer) chain(op string, e syntax.Expr, list []string) []string {
	for {
		paren, ok := e.(*syntax.Paren)
		if !ok {
			break
		}
		e = paren.X
	}
	if b, ok := e.(*syntax.Binary); ok && b.Op == op {
		return p.chain(op, b.Y, p.chain(op, b.X, list))
	}
	return append(list, p.write(e))
}

// call spells a call; the inputs of AND(a, b) have no order.
func (p *printer) call(c *syntax.Call) string {
	list := p.each(reflect.ValueOf(c.Arguments))
	if id, ok := c.Callee.(*syntax.Identifier); ok && unordered[strings.ToUpper(id.Text)] {
		slices.Sort(list)
	}
	return "(" + p.write(c.Callee) + " " + strings.Join(list, " ") + ")"
}

// unordered functions take their inputs in any order.
var unordered = map[string]bool{"AND": true, "OR": true, "XOR": true, "ADD": true, "MUL": true, "MAX": true, "MIN": true, "EQ": true, "NE": true}

func (p *printer) name(text string) string {
	name := strings.ToLower(text)
	if name == p.self {
		return "<self>"
	}
	if colour, ok := p.colours[name]; ok {
		return "<" + colour + ">"
	}
	return name
}
