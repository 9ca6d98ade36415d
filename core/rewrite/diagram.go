package rewrite

import (
	"errors"
	"slices"
	"strings"

	"celandine/core/say"
	"celandine/core/syntax"
)

// In a block diagram a Place's Rung is the number of the network, and its Path begins with the number of a node: alone it is what the node
// works out; what follows are the numbers of arguments, each within the call before it. An edge or an inverted value counts with the pin
// that it goes to. Targets of a node are numbered from [syntax.Targets] on.

// pinned is a pin that can be looked at and changed.
type pinned struct {
	network *syntax.Network
	node    *syntax.Node
	call    *syntax.Call // whose argument it is, or nil
	n       int          // the argument's or target's number
	value   *syntax.Expr // what is connected; nil of a target
	target  *syntax.Coil
}

func (p *Program) network(at Place) (*syntax.Network, error) {
	u, err := p.unit(at.Unit)
	if err != nil {
		return nil, err
	}
	d, ok := u.Body.(*syntax.Diagram)
	if !ok {
		return nil, say.Errorf("%s has no networks", u.Name.Text)
	}
	if at.Rung < 0 || at.Rung >= len(d.Networks) {
		return nil, errors.New("there is no such network any more")
	}
	return d.Networks[at.Rung], nil
}

// pin finds a place in its network.
func (p *Program) pin(at Place) (*pinned, error) {
	n, err := p.network(at)
	if err != nil {
		return nil, err
	}
	if len(at.Path) == 0 || at.Path[0] < 0 || at.Path[0] >= len(n.Nodes) {
		return nil, errGone
	}
	found := &pinned{network: n, node: n.Nodes[at.Path[0]]}
	found.value = &found.node.Value
	for i, step := range at.Path[1:] {
		if i == 0 && step >= syntax.Targets {
			return found.targeted(step-syntax.Targets, len(at.Path) == 2)
		}
		call := within(*found.value)
		if call == nil || step < 0 || step >= len(call.Arguments) {
			return nil, errGone
		}
		found.call, found.n, found.value = call, step, &call.Arguments[step].Value
	}
	return found, nil
}

func (f *pinned) targeted(n int, last bool) (*pinned, error) {
	if !last || n >= len(f.node.Targets) {
		return nil, errGone
	}
	f.n, f.value, f.target = n, nil, f.node.Targets[n]
	return f, nil
}

// within is the call that a pin's circle and edge stand around, or nil.
func within(e syntax.Expr) *syntax.Call {
	switch e := e.(type) {
	case *syntax.Call:
		return e
	case *syntax.Inverted:
		return within(e.X)
	case *syntax.Contact:
		return within(e.Operand)
	}
	return nil
}

// diagrammed writes one network anew. Comments inside it come to stand above it.
func (p *Program) diagrammed(n *syntax.Network, at Place) Change {
	var above strings.Builder
	for _, c := range p.tree.Comments {
		if c.Span.Start > n.Span.Start && c.Span.End <= n.Span.End {
			above.WriteString(c.Text + "\n")
		}
	}
	text := strings.TrimSuffix(syntax.PrintNetwork(n), "\n")
	return Change{p.splice(n.Span.Start, n.Span.End, above.String()+text), at}
}

// Connect gives a pin another value, by its text; an empty one leaves the pin open. A target takes a variable.
func (p *Program) Connect(at Place, text string) (Change, error) {
	f, err := p.pin(at)
	if err != nil {
		return Change{}, err
	}
	if f.target != nil {
		node, err := readNode("FALSE => " + text)
		if err != nil || len(node.Targets) != 1 {
			return Change{}, say.Errorf("%q is no place that takes a value; write a variable, (S x) or (R x)", text)
		}
		f.node.Targets[f.n] = node.Targets[0]
		return p.diagrammed(f.network, at), nil
	}
	if strings.TrimSpace(text) == "" {
		if f.call == nil {
			return Change{}, errors.New("a node needs a value; take the node away instead")
		}
		*f.value = nil
		return p.diagrammed(f.network, at), nil
	}
	node, err := readNode(text + " => x")
	if err != nil {
		return Change{}, say.Errorf("%q cannot be connected: write a variable, a number or a function", text)
	}
	*f.value = node.Value
	return p.diagrammed(f.network, at), nil
}

// readNode reads one node of a network.
func readNode(text string) (*syntax.Node, error) {
	try := Read("PROGRAM p\nFBD\nNETWORK ''\n" + text + ";\nEND_FBD\nEND_PROGRAM\n")
	n, err := try.network(Place{})
	if err != nil || len(n.Nodes) != 1 || len(try.problems) > 0 {
		return nil, errors.New("this is no node of a network")
	}
	return n.Nodes[0], nil
}

// Invert puts a circle on a pin or target, or takes it away.
func (p *Program) Invert(at Place) (Change, error) {
	f, err := p.pin(at)
	switch {
	case err != nil:
		return Change{}, err
	case f.target != nil:
		opposite := map[syntax.CoilKind]syntax.CoilKind{syntax.PlainCoil: syntax.NegatedCoil, syntax.NegatedCoil: syntax.PlainCoil,
			syntax.SetCoil: syntax.ResetCoil, syntax.ResetCoil: syntax.SetCoil}
		f.target.Kind = opposite[f.target.Kind]
		return p.diagrammed(f.network, at), nil
	case *f.value == nil:
		return Change{}, errors.New("nothing is connected here yet")
	}
	if circle, ok := (*f.value).(*syntax.Inverted); ok {
		*f.value = circle.X
	} else {
		*f.value = &syntax.Inverted{X: *f.value}
	}
	return p.diagrammed(f.network, at), nil
}

// Insert puts a function between a pin and what is connected to it, and goes on at the function's first pin that is open.
func (p *Program) Insert(at Place, function string, inputs int) (Change, error) {
	f, err := p.pin(at)
	if err != nil {
		return Change{}, err
	}
	if f.target != nil { // before a target stands the node's value
		at = Place{at.Unit, at.Rung, at.Path[:1]}
		f.value = &f.node.Value
	}
	if _, err := readNode(function + "() => x"); err != nil {
		return Change{}, say.Errorf("%q is no function", function)
	}
	box := &syntax.Call{Callee: &syntax.Identifier{Name: syntax.Name{Text: function}}, Arguments: []syntax.Argument{{Value: *f.value}}}
	for len(box.Arguments) < inputs {
		box.Arguments = append(box.Arguments, syntax.Argument{})
	}
	*f.value = box
	open := slices.IndexFunc(box.Arguments, func(a syntax.Argument) bool { return a.Value == nil })
	return p.diagrammed(f.network, Place{at.Unit, at.Rung, append(slices.Clone(at.Path), max(open, 0))}), nil
}

// More gives a function one more input, where it takes several.
func (p *Program) More(at Place) (Change, error) {
	f, err := p.pin(at)
	if err != nil {
		return Change{}, err
	}
	path := slices.Clone(at.Path)
	call := f.call
	if f.value != nil && within(*f.value) != nil {
		call = within(*f.value)
	} else if call != nil {
		path = path[:len(path)-1]
	}
	if call == nil || !extensible(call) {
		return Change{}, errors.New("only AND, OR, XOR, ADD, MUL, MIN, MAX and MUX take more inputs")
	}
	call.Arguments = append(call.Arguments, syntax.Argument{})
	return p.diagrammed(f.network, Place{at.Unit, at.Rung, append(path, len(call.Arguments)-1)}), nil
}

func extensible(c *syntax.Call) bool {
	id, ok := c.Callee.(*syntax.Identifier)
	positional := len(c.Arguments) == 0 || c.Arguments[0].Name == nil
	return ok && positional && slices.Contains([]string{"AND", "OR", "XOR", "ADD", "MUL", "MIN", "MAX", "MUX"}, strings.ToUpper(id.Text))
}

// Take takes away what stands at a place: of a function what is connected to its first pin stays; an open pin that is one too many
// goes, and so does a target that has others beside it; else the node.
func (p *Program) Take(at Place) (Change, error) {
	f, err := p.pin(at)
	if err != nil {
		return Change{}, err
	}
	first := Place{at.Unit, at.Rung, at.Path[:1]}
	switch {
	case f.target != nil && len(f.node.Targets) > 1:
		f.node.Targets = slices.Delete(f.node.Targets, f.n, f.n+1)
		return p.diagrammed(f.network, first), nil
	case f.target == nil && *f.value == nil && extensible(f.call) && len(f.call.Arguments) > 2:
		f.call.Arguments = slices.Delete(f.call.Arguments, f.n, f.n+1)
		return p.diagrammed(f.network, Place{at.Unit, at.Rung, at.Path[:len(at.Path)-1]}), nil
	case f.target == nil && f.unwraps():
		return p.diagrammed(f.network, at), nil
	case f.target == nil && f.call != nil:
		*f.value = nil
		return p.diagrammed(f.network, at), nil
	}
	f.network.Nodes = slices.DeleteFunc(f.network.Nodes, func(n *syntax.Node) bool { return n == f.node })
	return p.diagrammed(f.network, Place{at.Unit, at.Rung, []int{max(at.Path[0]-1, 0)}}), nil
}

// unwraps puts what is connected to a function's first pin in its place, and reports whether there was one.
func (f *pinned) unwraps() bool {
	call := within(*f.value)
	if call == nil || len(call.Arguments) == 0 || call.Arguments[0].Name != nil || call.Arguments[0].Value == nil {
		return false
	}
	*f.value = call.Arguments[0].Value
	return true
}

// Node puts a node at the end of a network, by its text.
func (p *Program) Node(at Place, text string) (Change, error) {
	n, err := p.network(at)
	if err != nil {
		return Change{}, err
	}
	node, err := readNode(text)
	if err != nil {
		return Change{}, err
	}
	n.Nodes = append(n.Nodes, node)
	return p.diagrammed(n, Place{at.Unit, at.Rung, []int{len(n.Nodes) - 1}}), nil
}

// Target gives a node another target, a variable, (S x) or (R x).
func (p *Program) Target(at Place, text string) (Change, error) {
	f, err := p.pin(at)
	if err != nil {
		return Change{}, err
	}
	node, err := readNode("FALSE => " + text)
	if err != nil {
		return Change{}, say.Errorf("%q is no place that takes a value; write a variable, (S x) or (R x)", text)
	}
	if f.node.Wire != nil { // a wire goes on in a node of its own
		from := &syntax.Identifier{Name: *f.node.Wire}
		f.network.Nodes = slices.Insert(f.network.Nodes, at.Path[0]+1, &syntax.Node{Value: from, Targets: node.Targets})
		return p.diagrammed(f.network, Place{at.Unit, at.Rung, []int{at.Path[0] + 1, syntax.Targets}}), nil
	}
	f.node.Targets = append(f.node.Targets, node.Targets...)
	return p.diagrammed(f.network, Place{at.Unit, at.Rung, []int{at.Path[0], syntax.Targets + len(f.node.Targets) - 1}}), nil
}
