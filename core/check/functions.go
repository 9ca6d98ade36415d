package check

import (
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// Function is a standard function that is no operator.
type Function uint8

// The functions. Those up to Truncate take and give reals or, for Absolute, any number.
const (
	Absolute Function = iota
	SquareRoot
	NaturalLog
	DecimalLog
	Exponential
	Sine
	Cosine
	Tangent
	ArcSine
	ArcCosine
	ArcTangent
	Truncate
	ShiftLeft
	ShiftRight
	RotateRight
	RotateLeft
	Minimum // of two
	Maximum
	TimeTimes // a TIME times an LREAL
	TimeBy    // a TIME divided by an LREAL
	Multiplex // the X that the first names, from 0
	Length
	Left
	Right
	Middle
	Concatenate
	InsertText
	DeleteText
	ReplaceText
	FindText
	ToText   // any single value as a STRING
	FromText // a STRING as the type T
)

// signature is what a function takes: classes of type by letter (r real, n any
// number, b bit string, i whole number, t text, * any), and what it gives: a
// letter for the type of the first, or a type.
type signature struct {
	function Function
	takes    string
	gives    *Type // nil: the type of the first
	more     bool  // the last may be repeated
}

var signatures = map[string]signature{
	"ABS": {Absolute, "n", nil, false}, "SQRT": {SquareRoot, "r", nil, false}, "LN": {NaturalLog, "r", nil, false},
	"LOG": {DecimalLog, "r", nil, false},
	"EXP": {Exponential, "r", nil, false}, "SIN": {Sine, "r", nil, false}, "COS": {Cosine, "r", nil, false}, "TAN": {Tangent, "r", nil, false},
	"ASIN": {ArcSine, "r", nil, false}, "ACOS": {ArcCosine, "r", nil, false}, "ATAN": {ArcTangent, "r", nil, false},
	"TRUNC": {Truncate, "r", Dint, false},
	"SHL":   {ShiftLeft, "bi", nil, false}, "SHR": {ShiftRight, "bi", nil, false}, "ROR": {RotateRight, "bi", nil, false},
	"ROL": {RotateLeft, "bi", nil, false},
	"LEN": {Length, "t", Int, false}, "LEFT": {Left, "ti", String, false}, "RIGHT": {Right, "ti", String, false},
	"MID":    {Middle, "tii", String, false},
	"CONCAT": {Concatenate, "tt", String, true}, "INSERT": {InsertText, "tti", String, false}, "DELETE": {DeleteText, "tii", String, false},
	"REPLACE": {ReplaceText, "ttii", String, false}, "FIND": {FindText, "tt", Int, false},
}

// apply checks the call of a function in signatures.
func (c *checker) apply(name string, s signature, arguments []syntax.Expr, e *syntax.Call, want *Type) Expr {
	if len(arguments) < len(s.takes) || len(arguments) > len(s.takes) && !s.more {
		c.count(name, arguments, len(s.takes), e)
		return nil
	}
	out := &Apply{Function: s.function, T: s.gives, At: e.Span}
	for i, a := range arguments {
		x := c.input(name, s.takes[min(i, len(s.takes)-1)], a, want)
		if x == nil {
			return nil
		}
		out.X = append(out.X, x)
	}
	if out.T == nil {
		out.T = out.X[0].Type().Plain()
	}
	return out
}

// input types one argument by the letter of its class.
func (c *checker) input(name string, class byte, e syntax.Expr, want *Type) Expr {
	switch class {
	case 'r':
		if want == nil || want.Class != Floating {
			want = Lreal
		}
		x := c.expression(e, want)
		if x != nil && x.Type().Class != Floating {
			return c.convert(x, want)
		}
		return x
	case 'i':
		return c.convert(c.expression(e, Lint), Lint)
	case 't':
		return c.convert(c.expression(e, String), String)
	}
	x := c.expression(e, want)
	if x == nil {
		return nil
	}
	t := x.Type()
	if class == 'n' && !t.IsInteger() && t.Class != Floating || class == 'b' && t.Class != BitString {
		what := map[byte]string{'n': "a number", 'b': "a bit string such as WORD"}[class]
		c.report(source.WrongType, e.Place(), "", "%s needs %s; this is %s %s.", name, what, article(t.Name), t.Name)
		return nil
	}
	return x
}

// multiplex is MUX(k, x0, x1, …).
func (c *checker) multiplex(arguments []syntax.Expr, e *syntax.Call, want *Type) Expr {
	if len(arguments) < 3 {
		c.report(source.WrongCall, e.Span, "", "MUX takes a number and at least two values.")
		return nil
	}
	k := c.convert(c.expression(arguments[0], Lint), Lint)
	x, y := c.pair(arguments[1], arguments[2], want)
	if k == nil || x == nil || y == nil {
		return nil
	}
	t := common(x.Type(), y.Type())
	out := &Apply{Function: Multiplex, T: t, X: []Expr{k}, At: e.Span}
	for _, a := range arguments[1:] {
		if t == nil {
			return nil
		}
		value := c.convert(c.expression(a, t), t)
		if value == nil {
			return nil
		}
		out.X = append(out.X, value)
	}
	return out
}

// invoke checks the call of a function of one's own.
func (c *checker) invoke(u *pending, e *syntax.Call) Expr {
	out := &Invoke{Unit: u.unit, At: e.Span}
	if c.unit != nil { // in a body; among declarations it is an error anyway
		c.unit.called(u.unit, e.Span)
	}
	c.program.functions[e] = u.unit
	given := map[*Variable]bool{}
	position := 0
	for _, a := range e.Arguments {
		v := c.parameter(u, a, &position)
		if v == nil || v.Type == nil {
			continue
		}
		if given[v] {
			c.report(source.WrongCall, a.Span, "", "%s is given twice.", v.Name)
		}
		given[v] = true
		c.bind(out, v, a)
	}
	for _, v := range u.unit.Inputs {
		if given[v] || v.Type == nil {
			continue
		}
		if v.InOut {
			c.report(source.WrongCall, e.Span, "Write "+v.Name+" := and a variable.", "%s needs a variable for %s, which is VAR_IN_OUT.",
				u.unit.Name, v.Name)
			continue
		}
		out.Inputs = append(out.Inputs, Binding{Variable: v}) // begins as declared
	}
	if u.unit.Result == nil || u.unit.Result.Type == nil {
		return nil
	}
	return out
}

// parameter finds which variable an argument means.
func (c *checker) parameter(u *pending, a syntax.Argument, position *int) *Variable {
	if a.Name == nil {
		if *position < 0 || *position >= len(u.unit.Inputs) {
			c.report(source.WrongCall, a.Span, "", "%s takes %s.", u.unit.Name, source.Plural(len(u.unit.Inputs), "input"))
			return nil
		}
		*position++
		return u.unit.Inputs[*position-1]
	}
	if *position > 0 {
		c.report(source.WrongCall, a.Span, "Name all of them, or none.", "Some inputs are named here and some are not.")
		return nil
	}
	*position = -1
	list := u.unit.Inputs
	if a.Output {
		list = u.unit.Outputs
	}
	var names []string
	for _, v := range list {
		if strings.EqualFold(v.Name, a.Name.Text) {
			return v
		}
		names = append(names, v.Name)
	}
	c.report(source.NoMember, a.Name.Span, c.meant(a.Name.Text, names), "%s has nothing named %s.", u.unit.Name, a.Name.Text)
	return nil
}

func (c *checker) bind(out *Invoke, v *Variable, a syntax.Argument) {
	switch {
	case a.Value == nil:
		c.report(source.Unnamed, a.Span, "Give it a variable or a value, or remove it.", "%s has nothing beside it.", v.Name)
	case v.Role == Output:
		if target := c.writeTarget(a.Value, v.Type); target != nil {
			out.Outputs = append(out.Outputs, Binding{Variable: v, Target: target})
		}
	case v.InOut:
		if target := c.inOut(a.Value, v.Type); target != nil {
			out.Inputs = append(out.Inputs, Binding{Variable: v, Target: target})
		}
	default:
		if x := c.valueFor(a.Value, v.Type); x != nil {
			out.Inputs = append(out.Inputs, Binding{Variable: v, Value: x})
		}
	}
}

// valueFor types a value that goes into a variable of the type, which may be a composition.
func (c *checker) valueFor(e syntax.Expr, t *Type) Expr {
	if !t.IsSingle() {
		ref := c.reference(moved(e))
		if ref == nil {
			return nil
		}
		c.reads(ref.Variable)
		if !same(ref.Type(), t) {
			c.report(source.WrongType, e.Place(), "", "This is %s %s; %s %s is needed here.", article(ref.Type().Name), ref.Type().Name,
				article(t.Name), t.Name)
			return nil
		}
		return ref
	}
	return c.convert(c.expression(e, t), t)
}

// moved is what MOVE passes on, and anything else as it is.
func moved(e syntax.Expr) syntax.Expr {
	if call, ok := e.(*syntax.Call); ok && len(call.Arguments) == 1 {
		if id, named := call.Callee.(*syntax.Identifier); named && strings.EqualFold(id.Text, "MOVE") {
			return call.Arguments[0].Value
		}
	}
	return e
}

// inOut resolves the caller's place for a VAR_IN_OUT: a block's memory as well.
func (c *checker) inOut(e syntax.Expr, t *Type) *Ref {
	var ref *Ref
	if t.Class == Instance {
		if ref = c.reference(e); ref != nil {
			c.reads(ref.Variable)
		}
	} else if ref = c.target(e); ref != nil {
		c.reads(ref.Variable)
		c.writes(ref.Variable, Wrote{use: useOf(ref, e.Place()), Conditional: true})
	}
	if ref == nil {
		return nil
	}
	if !same(ref.Type(), t) {
		c.report(source.WrongType, e.Place(), "A VAR_IN_OUT stands for a variable of just its type.", "%s is %s %s; %s %s is needed here.",
			ref.Name(), article(ref.Type().Name), ref.Type().Name, article(t.Name), t.Name)
		return nil
	}
	return ref
}
