package rewrite

import (
	"errors"
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/say"
	"celandine/core/syntax"
)

var errRound = errors.New("this would go round in a circle; lead the value through a variable, which holds that of the scan before")

// Wire leads what comes out at one place of a network to another pin of it, whose circle stays. Of an instance the output says what comes
// out; what a function gives becomes a wire with a name, a variable or constant stands at both pins.
func (p *Program) Wire(from Place, output string, to Place) (Change, error) {
	if from.Unit != to.Unit || from.Rung != to.Rung {
		return Change{}, errors.New("a wire stays in its network; lead the value through a variable")
	}
	f, err := p.pin(from)
	if err != nil {
		return Change{}, err
	}
	t, err := p.pin(to)
	if err != nil {
		return Change{}, err
	}
	if t.target != nil { // what a target gets is the node's value
		t.value = &t.node.Value
	}
	w := &wiring{program: p, network: f.network, first: min(from.Path[0], to.Path[0])}
	what, err := w.source(f, output, to.Path[0] < from.Path[0], from.Path[0] == to.Path[0])
	if err != nil {
		return Change{}, err
	}
	if w.made != nil && holds(w.made.Value, t.value) {
		return Change{}, errRound
	}
	if circle, ok := (*t.value).(*syntax.Inverted); ok {
		circle.X = what
	} else {
		*t.value = what
	}
	path := slices.Clone(to.Path)
	if w.made != nil {
		f.network.Nodes = slices.Insert(f.network.Nodes, w.first, w.made)
		if !w.moved {
			path[0]++
		}
	}
	return p.diagrammed(f.network, Place{to.Unit, to.Rung, path}), nil
}

// wiring is a wire being drawn.
type wiring struct {
	program *Program
	network *syntax.Network
	first   int          // the node before which a new wire is made
	made    *syntax.Node // the new wire, or nil
	moved   bool         // it stood further down
}

// source is what another pin is connected to so that it gets what comes out at a place. Before tells that the other pin stands in a node
// before, within that it stands in the same one.
func (w *wiring) source(f *pinned, output string, before, within bool) (syntax.Expr, error) {
	switch {
	case f.target != nil:
		return f.target.Operand, nil
	case *f.value == nil:
		return nil, errors.New("nothing is connected here yet")
	}
	value := f.value
	if circle, ok := (*value).(*syntax.Inverted); ok {
		value = &circle.X
	}
	call, isCall := (*value).(*syntax.Call)
	_, isEdge := (*value).(*syntax.Contact)
	switch {
	case isCall && w.program.isInstance(call):
		return &syntax.Member{Of: call.Callee, Field: syntax.Name{Text: output}}, nil
	case !isCall && !isEdge:
		return *value, nil
	case f.node.Wire != nil && value == &f.node.Value:
		return w.known(f.node, before, within)
	case f.node.Wire == nil && f.call == nil && hasEN(*value):
		return nil, errors.New("this function runs only when its EN is TRUE; lead its value to a variable, and on from there")
	}
	name := w.fresh(*value)
	w.made = &syntax.Node{Wire: &name, Value: *value}
	*value = &syntax.Identifier{Name: name}
	if before {
		return &syntax.Identifier{Name: name}, w.early(w.made.Value, slices.Index(w.network.Nodes, f.node))
	}
	return &syntax.Identifier{Name: name}, nil
}

// known is a wire that has its name; where it is needed earlier, it moves.
func (w *wiring) known(n *syntax.Node, before, within bool) (syntax.Expr, error) {
	if within {
		return nil, errRound
	}
	if before {
		at := slices.Index(w.network.Nodes, n)
		if err := w.early(n.Value, at); err != nil {
			return nil, err
		}
		w.network.Nodes = slices.Delete(w.network.Nodes, at, at+1)
		w.made, w.moved = n, true
	}
	return &syntax.Identifier{Name: *n.Wire}, nil
}

// early reports whether a value can be worked out before the first node that needs it: it may need no wire that comes later.
func (w *wiring) early(value syntax.Expr, at int) error {
	for _, n := range w.network.Nodes[w.first:at] {
		if n.Wire != nil && names(value, n.Wire.Text) {
			return errRound
		}
	}
	return nil
}

// names reports an expression in which a name stands.
func names(e syntax.Expr, name string) (found bool) {
	syntax.Walk(e, func(node any) bool {
		id, ok := node.(*syntax.Identifier)
		found = found || ok && strings.EqualFold(id.Text, name)
		return true
	})
	return found
}

// holds reports an expression in which a pin stands.
func holds(e syntax.Expr, pin *syntax.Expr) bool {
	call := within(e)
	if call == nil {
		return false
	}
	for i := range call.Arguments {
		if v := &call.Arguments[i].Value; v == pin || *v != nil && holds(*v, pin) {
			return true
		}
	}
	return false
}

// fresh is a name for the wire of a value, after its function: or_1.
func (w *wiring) fresh(value syntax.Expr) syntax.Name {
	stem := "edge"
	if call := within(value); call != nil {
		stem = strings.ToLower(syntax.PrintExpression(call.Callee))
	}
	taken := map[string]bool{}
	syntax.Walk(w.program.tree, func(node any) bool {
		if n, ok := node.(*syntax.Name); ok {
			taken[strings.ToLower(n.Text)] = true
		}
		return true
	})
	for n := 1; ; n++ {
		if name := say.Textf("%s_%d", stem, n); !taken[name] {
			return syntax.Name{Text: name}
		}
	}
}

// isInstance reports a call of a declared instance, which is no function.
func (p *Program) isInstance(call *syntax.Call) bool {
	id, ok := call.Callee.(*syntax.Identifier)
	if !ok {
		return true
	}
	for _, u := range p.tree.Units {
		for _, s := range u.Sections {
			for _, v := range s.Variables {
				if slices.ContainsFunc(v.Names, func(n syntax.Name) bool { return strings.EqualFold(n.Text, id.Text) }) {
					return true
				}
			}
		}
	}
	return false
}

func hasEN(e syntax.Expr) bool {
	call := within(e)
	return call != nil && enabling(call) >= 0
}

// enabling is the number of the argument EN, or -1.
func enabling(call *syntax.Call) int { return argument(call, "EN", false) }

func argument(call *syntax.Call, name string, output bool) int {
	return slices.IndexFunc(call.Arguments, func(a syntax.Argument) bool {
		return a.Name != nil && a.Output == output && strings.EqualFold(a.Name.Text, name)
	})
}

// Enable gives the function or block at a place an EN, which is open, or takes it away with its ENO.
func (p *Program) Enable(at Place) (Change, error) {
	call, f, err := p.enabled(at)
	if err != nil {
		return Change{}, err
	}
	at.Path = at.Path[:1]
	if n := enabling(call); n >= 0 {
		call.Arguments = slices.Delete(call.Arguments, n, n+1)
		if n := argument(call, "ENO", true); n >= 0 {
			call.Arguments = slices.Delete(call.Arguments, n, n+1)
		}
		p.byPosition(call)
		return p.diagrammed(f.network, at), nil
	}
	names := p.inputNames(call)
	for i := range call.Arguments {
		if call.Arguments[i].Name == nil && i < len(names) {
			call.Arguments[i].Name = &syntax.Name{Text: names[i]}
		}
	}
	call.Arguments = slices.Insert(call.Arguments, 0, syntax.Argument{Name: &syntax.Name{Text: "EN"}})
	return p.diagrammed(f.network, Place{at.Unit, at.Rung, []int{at.Path[0], 0}}), nil
}

// byPosition takes the names of a function's inputs away, where they stand in their order.
func (p *Program) byPosition(call *syntax.Call) {
	names := p.inputNames(call)
	for i, a := range call.Arguments {
		if p.isInstance(call) || a.Name == nil || a.Output || i >= len(names) || !strings.EqualFold(a.Name.Text, names[i]) {
			return
		}
	}
	for i := range call.Arguments {
		call.Arguments[i].Name = nil
	}
}

// EnableOut says which variable the ENO of the function or block at a place goes to; an empty name takes it away.
func (p *Program) EnableOut(at Place, variable string) (Change, error) {
	call, f, err := p.enabled(at)
	if err != nil {
		return Change{}, err
	}
	if enabling(call) < 0 {
		return Change{}, errors.New("ENO goes with EN; give it an EN first")
	}
	if n := argument(call, "ENO", true); n >= 0 {
		call.Arguments = slices.Delete(call.Arguments, n, n+1)
	}
	if variable = strings.TrimSpace(variable); variable != "" {
		node, err := readNode("FALSE => " + variable)
		if err != nil || len(node.Targets) != 1 || node.Targets[0].Kind != syntax.PlainCoil {
			return Change{}, say.Errorf("%q is no variable", variable)
		}
		eno := syntax.Argument{Name: &syntax.Name{Text: "ENO"}, Output: true, Value: node.Targets[0].Operand}
		call.Arguments = append(call.Arguments, eno)
	}
	return p.diagrammed(f.network, Place{at.Unit, at.Rung, at.Path[:1]}), nil
}

// enabled is the call that can have an EN: that of a node of its own, at one of whose pins the place may be.
func (p *Program) enabled(at Place) (*syntax.Call, *pinned, error) {
	f, err := p.pin(at)
	if err != nil {
		return nil, nil, err
	}
	call, ok := f.node.Value.(*syntax.Call)
	inner := f.call
	if f.value != nil && within(*f.value) != nil {
		inner = within(*f.value)
	}
	switch {
	case !ok || inner != nil && inner != call:
		return nil, nil, errors.New("a function with EN stands in a line of its own and goes to a variable")
	case f.node.Wire != nil:
		return nil, nil, errors.New("a wire has a value in every scan; let the function go to a variable, then give it an EN")
	}
	return call, f, nil
}

// inputNames are the names of what goes into a function, which a call beside EN needs.
func (p *Program) inputNames(call *syntax.Call) []string {
	name := syntax.PrintExpression(call.Callee)
	for _, u := range p.tree.Units {
		if u.Kind == syntax.Function && strings.EqualFold(u.Name.Text, name) {
			return u.Inputs()
		}
	}
	return block.InputNames(strings.ToUpper(name), len(call.Arguments))
}
