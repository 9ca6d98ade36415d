package convert

import (
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/syntax"
)

// over is an expression with each value in it, but for the places that it writes, in place of what f makes of it.
func over(e syntax.Expr, f func(syntax.Expr) syntax.Expr) syntax.Expr {
	switch e := e.(type) {
	case *syntax.Index:
		at := make([]syntax.Expr, len(e.At))
		for i, x := range e.At {
			at[i] = f(x)
		}
		return &syntax.Index{Of: over(e.Of, f), At: at, Span: e.Span}
	case *syntax.Member:
		return &syntax.Member{Of: over(e.Of, f), Field: e.Field}
	case *syntax.Paren:
		return &syntax.Paren{X: f(e.X), Span: e.Span}
	case *syntax.Unary:
		return &syntax.Unary{Op: e.Op, X: f(e.X), Span: e.Span}
	case *syntax.Inverted:
		return &syntax.Inverted{X: f(e.X), Span: e.Span}
	case *syntax.Binary:
		return &syntax.Binary{Op: e.Op, X: f(e.X), Y: f(e.Y), Span: e.Span}
	case *syntax.Contact:
		return &syntax.Contact{Kind: e.Kind, Operand: f(e.Operand), Memory: e.Memory, Span: e.Span}
	case *syntax.Call:
		return &syntax.Call{Callee: e.Callee, Arguments: arguments(e.Arguments, f), Span: e.Span}
	}
	return e
}

func arguments(list []syntax.Argument, f func(syntax.Expr) syntax.Expr) []syntax.Argument {
	out := slices.Clone(list)
	for i, a := range list {
		if !a.Output && a.Value != nil {
			out[i].Value = f(a.Value)
		}
	}
	return out
}

// each visits an expression and all that stand in it, but not what its values are made of, the outer before the inner.
func each(e syntax.Expr, visit func(syntax.Expr)) {
	if e == nil {
		return
	}
	visit(e)
	over(e, func(x syntax.Expr) syntax.Expr { each(x, visit); return x })
	if call, ok := e.(*syntax.Call); ok {
		for _, a := range call.Arguments {
			if a.Output {
				each(a.Value, visit)
			}
		}
	}
	if c, ok := e.(*syntax.Contact); ok && c.Memory != nil {
		each(c.Memory, visit)
	}
}

func name(text string) syntax.Expr { return &syntax.Identifier{Name: syntax.Name{Text: text}} }

func member(of syntax.Expr, field string) syntax.Expr {
	return &syntax.Member{Of: of, Field: syntax.Name{Text: field}}
}

func truth(on string) syntax.Expr { return &syntax.Literal{Kind: syntax.Keyword, Text: on} }

func isTrue(e syntax.Expr) bool { return isLiteral(e, "TRUE") }

func isLiteral(e syntax.Expr, text string) bool {
	l, ok := inner(e).(*syntax.Literal)
	return ok && strings.EqualFold(l.Text, text)
}

// inner is what stands in parentheses, or in a value that is worked out where it is used.
func inner(e syntax.Expr) syntax.Expr {
	switch x := e.(type) {
	case *syntax.Paren:
		return inner(x.X)
	case *value:
		if !x.held {
			return inner(x.expr)
		}
	}
	return e
}

func binary(op string, x, y syntax.Expr) syntax.Expr { return &syntax.Binary{Op: op, X: x, Y: y} }

// both is x AND y, where TRUE adds nothing.
func both(x, y syntax.Expr) syntax.Expr {
	switch {
	case x == nil || isTrue(x):
		return y
	case y == nil || isTrue(y):
		return x
	}
	return binary("AND", x, y)
}

func not(x syntax.Expr) syntax.Expr { return &syntax.Unary{Op: "NOT", X: x} }

// call is a function, and what goes in, by position.
func call(function string, in ...syntax.Expr) *syntax.Call {
	c := &syntax.Call{Callee: name(function)}
	for _, x := range in {
		c.Arguments = append(c.Arguments, syntax.Argument{Value: x})
	}
	return c
}

func inputOf(name string, v syntax.Expr) syntax.Argument {
	return syntax.Argument{Name: &syntax.Name{Text: name}, Value: v}
}

func outputOf(name string, to syntax.Expr) syntax.Argument {
	return syntax.Argument{Name: &syntax.Name{Text: name}, Value: to, Output: true}
}

// operator is the sign and the operands of an expression that an operator or its function makes; "" where there is none.
func operator(e syntax.Expr) (sign string, operands []syntax.Expr) {
	switch e := inner(e).(type) {
	case *syntax.Binary:
		return e.Op, []syntax.Expr{e.X, e.Y}
	case *syntax.Call:
		sign = syntax.SignOf(functionName(e))
		if sign == "" || len(e.Arguments) < 2 || syntax.Binds(sign) == 4 && len(e.Arguments) > 2 {
			return "", nil
		}
		for _, a := range ordered(e) {
			operands = append(operands, a.Value)
		}
		return sign, operands
	}
	return "", nil
}

// inARow reports an operator whose function takes more than two: AND(a, b, c) for a AND b AND c.
func inARow(op string) bool { return strings.Contains(" AND OR XOR + * ", " "+op+" ") }

func functionName(c *syntax.Call) string {
	id, ok := c.Callee.(*syntax.Identifier)
	if !ok {
		return ""
	}
	return strings.ToUpper(id.Text)
}

// reads returns the names that expressions read, in small letters, also in the values in them that are not held.
func (c *converter) reads(list ...syntax.Expr) touched {
	set := touched{}
	var nested func(*value)
	nested = func(v *value) {
		if !v.held {
			c.gather(set, v.expr, nested)
		}
	}
	for _, e := range list {
		c.gather(set, e, nested)
	}
	return set
}

// gather adds the names that an expression reads, and tells of each value in it.
func (c *converter) gather(set touched, e syntax.Expr, nested func(*value)) {
	if e == nil {
		return
	}
	c.touch(set, root(e))
	over(e, func(x syntax.Expr) syntax.Expr { c.gather(set, x, nested); return x })
	switch x := e.(type) {
	case *value:
		nested(x)
	case *syntax.Contact:
		c.gather(set, x.Memory, nested)
	case *syntax.Call:
		if c.own(x) != nil {
			set["*"] = true
		}
		for _, a := range x.Arguments {
			if a.Output {
				c.gather(set, a.Value, nested)
			}
		}
	}
}

// root is the variable that a selection begins with.
func root(e syntax.Expr) syntax.Expr {
	switch x := e.(type) {
	case *syntax.Member:
		return root(x.Of)
	case *syntax.Index:
		return root(x.Of)
	}
	return e
}

// touched is names of variables; % is all that have addresses, * is any.
type touched map[string]bool

func (c *converter) touch(set touched, e syntax.Expr) {
	switch e := e.(type) {
	case *syntax.Address:
		set["%"] = true
	case *syntax.Identifier:
		name := strings.ToLower(e.Text)
		if c.located[name] {
			name = "%"
		}
		set[name] = true
	}
}

func (t touched) meets(other touched) bool {
	if len(t) == 0 || len(other) == 0 {
		return false
	}
	if t["*"] || other["*"] {
		return true
	}
	for name := range t {
		if other[name] {
			return true
		}
	}
	return false
}

// simple reports a value that may be read as often as one likes.
func simple(e syntax.Expr) bool {
	switch e := inner(e).(type) {
	case *syntax.Identifier, *syntax.Literal, *syntax.Address:
		return true
	case *value:
		return true
	case *syntax.Member:
		return simple(e.Of)
	case *syntax.Unary:
		return e.Op == "NOT" && simple(e.X)
	case *syntax.Inverted:
		return simple(e.X)
	}
	return false
}

// sensed are the edges in an expression, the inner before the outer, as they are written.
func sensed(e syntax.Expr) (list []*syntax.Contact) {
	over(e, func(x syntax.Expr) syntax.Expr { list = append(list, sensed(x)...); return x })
	switch x := e.(type) {
	case *syntax.Contact:
		list = append(list, x)
	case *value:
		if !x.held {
			list = append(list, sensed(x.expr)...)
		}
	}
	return list
}

// faulty reports an expression that may end the run, or that does something besides, so that it matters whether it is worked out.
func (c *converter) faulty(e syntax.Expr) (found bool) {
	each(e, func(x syntax.Expr) {
		switch x := x.(type) {
		case *syntax.Index:
			for _, at := range x.At {
				if _, fixed := inner(at).(*syntax.Literal); !fixed {
					found = true
				}
			}
		case *syntax.Binary:
			found = found || x.Op == "/" || x.Op == "MOD" || x.Op == "**"
		case *syntax.Call:
			switch functionName(x) {
			case "DIV", "MOD", "EXPT", "MUX":
				found = true
			default:
				found = found || c.own(x) != nil
			}
		}
	})
	return found
}

// ordered are a call's inputs in the order of the function's own.
func ordered(e *syntax.Call) []syntax.Argument {
	if len(e.Arguments) == 0 || e.Arguments[0].Name == nil {
		return e.Arguments
	}
	names := block.InputNames(functionName(e), len(e.Arguments))
	list := slices.Clone(e.Arguments)
	at := func(a syntax.Argument) int {
		return slices.IndexFunc(names, func(n string) bool { return strings.EqualFold(n, a.Name.Text) })
	}
	slices.SortStableFunc(list, func(a, b syntax.Argument) int { return at(a) - at(b) })
	return list
}
