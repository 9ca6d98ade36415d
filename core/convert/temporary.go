package convert

import (
	"slices"
	"strings"

	"celandine/core/syntax"
)

// What one language holds in a VAR_TEMP, another may hold in a wire or in power that branches: a temporary variable that is written once
// and read only behind that, in the same network, is a value with a name.

// temporaries finds those variables of the unit, and takes them out of the networks and of the declarations.
func (b *body) temporaries() {
	for _, s := range b.unit.Sections {
		if s.Word != "VAR_TEMP" {
			continue
		}
		for _, v := range s.Variables {
			for _, n := range v.Names {
				if v.Initial == nil && b.becomesValue(n.Text, syntax.PrintType(v.Type)) {
					b.gone[strings.ToLower(n.Text)] = true
					delete(b.taken, strings.ToLower(n.Text))
				}
			}
		}
	}
}

// becomesValue takes the one event that writes a variable for a value, if all that reads it comes behind it.
func (b *body) becomesValue(text, kind string) bool {
	at := slices.IndexFunc(b.networks, func(n *network) bool { return len(n.mentions(text)) > 0 })
	if at < 0 {
		return false
	}
	n := b.networks[at]
	if slices.ContainsFunc(b.networks[at+1:], func(n *network) bool { return len(n.mentions(text)) > 0 }) {
		return false
	}
	mentions := n.mentions(text)
	first := mentions[0]
	e := n.events[first]
	if len(e.targets) != 1 || e.enable != nil || e.targets[0].Kind != syntax.PlainCoil {
		return false
	}
	if !isName(e.targets[0].Operand, text) || mentioned(e.value, text, map[*value]bool{}) {
		return false
	}
	for _, i := range mentions[1:] {
		if n.events[i].alters(text) {
			return false
		}
	}
	b.take(n, first, text, kind)
	return true
}

func isName(e syntax.Expr, text string) bool {
	id, ok := e.(*syntax.Identifier)
	return ok && strings.EqualFold(id.Text, text)
}

// mentioned reports a variable in an expression or in the values in it, of which seen are those that were looked at before.
func mentioned(e syntax.Expr, text string, seen map[*value]bool) (found bool) {
	each(e, func(x syntax.Expr) {
		if v, ok := x.(*value); ok && !seen[v] {
			seen[v] = true
			found = found || mentioned(v.expr, text, seen)
		}
		found = found || isName(root(x), text)
	})
	return found
}

// mentions are the events that have to do with a variable.
func (n *network) mentions(text string) (list []int) {
	for i, e := range n.events {
		seen := map[*value]bool{}
		if e.alters(text) || slices.ContainsFunc(e.expressions(), func(x syntax.Expr) bool { return mentioned(x, text, seen) }) {
			list = append(list, i)
		}
	}
	return list
}

// alters reports an event that may write a variable.
func (e *event) alters(text string) bool {
	if e.eno != nil && isName(root(e.eno), text) {
		return true
	}
	for _, t := range e.targets {
		if isName(root(t.Operand), text) {
			return true
		}
	}
	found := false
	for _, x := range e.expressions() {
		each(x, func(x syntax.Expr) {
			switch x := x.(type) {
			case *syntax.Contact:
				found = found || x.Memory != nil && isName(root(x.Memory), text)
			case *syntax.Call: // to a block or a function of one's own something may go in and out
				own := !isStandard(x)
				if x == e.call {
					own = e.block.Unit != nil
				}
				for _, a := range x.Arguments {
					found = found || a.Value != nil && isName(root(a.Value), text) && (a.Output || own)
				}
			}
		})
	}
	return found
}

func isStandard(c *syntax.Call) bool {
	return syntax.SignOf(functionName(c)) != "" || functionName(c) == "MOVE"
}

// take makes a value of what an event writes, and of every later mention.
func (b *body) take(n *network, first int, text, kind string) {
	e := n.events[first]
	v := &value{expr: e.value, name: text, kind: strings.ToUpper(kind), made: first}
	if v.kind != "BOOL" {
		v.kind = kind
	}
	var with func(e syntax.Expr) syntax.Expr
	with = func(e syntax.Expr) syntax.Expr {
		if isName(e, text) {
			return v
		}
		return over(e, with)
	}
	n.events = slices.Delete(n.events, first, first+1)
	for _, e := range n.events[first:] {
		e.replace(with)
	}
	at := len(n.values)
	for i, other := range slices.Backward(n.values) {
		if other.made > first {
			other.made--
			other.expr = with(other.expr)
			at = i
		}
	}
	n.values = slices.Insert(n.values, at, v)
}

// replace puts other expressions in place of an event's.
func (e *event) replace(with func(syntax.Expr) syntax.Expr) {
	if e.enable != nil {
		e.enable = with(e.enable)
	}
	if e.value != nil {
		e.value = with(e.value)
	}
	for _, t := range e.targets {
		t.Operand = over(t.Operand, with)
	}
	if e.call != nil {
		e.call = with(e.call).(*syntax.Call)
	}
}

// head is a unit's declarations without the temporary variables that are values now.
func (b *body) head(from int) string {
	var out strings.Builder
	for _, s := range b.unit.Sections {
		if s.Word != "VAR_TEMP" {
			continue
		}
		left := slices.DeleteFunc(slices.Clone(s.Variables), func(v *syntax.Variable) bool {
			return !slices.ContainsFunc(v.Names, func(n syntax.Name) bool { return !b.gone[strings.ToLower(n.Text)] })
		})
		if len(left) == len(s.Variables) {
			continue
		}
		out.WriteString(b.file.Text[from:s.Span.Start])
		from = s.Span.End
		if len(left) > 0 {
			out.WriteString("VAR_TEMP\n")
			for _, v := range left {
				out.WriteString(v.Span.Text() + ";\n")
			}
			out.WriteString("END_VAR")
		}
	}
	return out.String() + b.file.Text[from:b.endOfHead(b.unit)]
}
