package check

import (
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// expression gives e a type. A bare number takes the type wanted, which may be nil. The result
// is nil when a problem was reported.
func (c *checker) expression(e syntax.Expr, want *Type) Expr {
	switch e := e.(type) {
	case *syntax.Literal:
		return c.literal(e, want)
	case *syntax.Paren:
		return c.expression(e.X, want)
	case *syntax.Unary:
		return c.unary(e, want)
	case *syntax.Binary:
		return c.binary(e, want)
	case *syntax.Call:
		return c.functionCall(e, want)
	}
	ref := c.reference(e)
	if ref == nil {
		return nil
	}
	if ref.Type().Class == Instance {
		c.report("type", e.Place(), "Write "+ref.Name()+"."+ref.Type().Block.PowerOut().Name+", for example.",
			"%s is a whole %s; name the value in it.", ref.Name(), ref.Type().Name)
		return nil
	}
	ref.Variable.uses.read()
	if ref.Variable.Constant {
		return &Const{ref.Variable.Type, ref.Variable.Initial, ref.At}
	}
	return ref
}

// reference resolves a name, member or address.
func (c *checker) reference(e syntax.Expr) *Ref {
	switch e := e.(type) {
	case *syntax.Identifier:
		if v := c.lookup(e.Name); v != nil {
			return &Ref{Variable: v, At: e.Span}
		}
	case *syntax.Address:
		if v := c.direct(e); v != nil {
			return &Ref{Variable: v, At: e.Span}
		}
	case *syntax.Member:
		return c.member(e)
	case *syntax.Index:
		c.report("unsupported", e.Span, "", "ARRAY is not yet supported.")
	case *syntax.Paren:
		return c.reference(e.X)
	default:
		c.report("place", e.Place(), "", "A name is expected here, not a value.")
	}
	return nil
}

func (c *checker) member(e *syntax.Member) *Ref {
	of := c.reference(e.Of)
	if of == nil {
		return nil
	}
	t := of.Type()
	if t.Class != Instance {
		c.report("member", e.Place(), "", "%s is a %s and has nothing named %s in it.", of.Name(), t.Name, e.Field.Text)
		return nil
	}
	m := t.Block.Member(e.Field.Text)
	if m == nil {
		all := append(t.Block.memberNames(true), t.Block.memberNames(false)...)
		hint := source.Meant(e.Field.Text, all)
		if hint == "" {
			hint = "It has " + strings.Join(all, ", ") + "."
		}
		c.report("member", e.Field.Span, hint, "A %s has nothing named %s.", t.Name, e.Field.Text)
		return nil
	}
	return &Ref{of.Variable, m, e.Place()}
}

// target resolves a place that may be written.
func (c *checker) target(e syntax.Expr) *Ref {
	ref := c.reference(e)
	if ref == nil {
		return nil
	}
	v := ref.Variable
	switch {
	case v.Role == Input && !v.Hidden:
		c.report("write-input", e.Place(), "Only the panel writes inputs. Write an output, or a variable declared in VAR.", "%s is an input and cannot be written.", v.Name)
		return nil
	case v.Role == System || v.Constant:
		c.report("write-constant", e.Place(), "", "%s cannot be written.", v.Name)
		return nil
	case ref.Member != nil && ref.Member.Output:
		c.report("write-output", e.Place(), "Only the block itself writes it.", "%s is an output of %s and cannot be written.", ref.Name(), v.Name)
		return nil
	case ref.Type().Class == Instance:
		c.report("place", e.Place(), "Call it: "+v.Name+"(…);", "%s is a %s and cannot be given a value.", v.Name, v.Type.Name)
		return nil
	}
	return ref
}

// untyped reports whether e is made of bare numbers only.
func untyped(e syntax.Expr) bool {
	switch e := e.(type) {
	case *syntax.Literal:
		return e.Kind == syntax.Int
	case *syntax.Paren:
		return untyped(e.X)
	case *syntax.Unary:
		return e.Op != "NOT" && untyped(e.X)
	case *syntax.Binary:
		switch e.Op {
		case "+", "-", "*", "/", "MOD":
			return untyped(e.X) && untyped(e.Y)
		}
	}
	return false
}

func (c *checker) unary(e *syntax.Unary, want *Type) Expr {
	if l, ok := e.X.(*syntax.Literal); ok && e.Op == "-" && l.Kind == syntax.Int {
		return c.integer(l.Text, e.Span, want, true)
	}
	x := c.expression(e.X, want)
	if x == nil {
		return nil
	}
	switch t := x.Type(); {
	case e.Op == "NOT" && !t.isBits():
		c.report("type", e.X.Place(), "", "NOT turns a BOOL or a bit string around; this is a %s.", t.Name)
	case e.Op == "NOT":
		return fold(&Op{Not, t, x, nil, e.Span})
	case t.Class != Signed && t.Class != Duration:
		c.report("type", e.X.Place(), "", "%s needs a signed number or a TIME; this is a %s.", e.Op, t.Name)
	case e.Op == "+":
		return x
	default:
		return fold(&Op{Negate, t, x, nil, e.Span})
	}
	return nil
}

var operators = map[string]Operator{
	"AND": And, "OR": Or, "XOR": Xor, "+": Add, "-": Sub, "*": Mul, "/": Div, "MOD": Mod,
	"=": Equal, "<>": NotEqual, "<": Less, "<=": LessEqual, ">": Less, ">=": LessEqual,
}

func (c *checker) binary(e *syntax.Binary, want *Type) Expr {
	op, known := operators[e.Op]
	if !known {
		c.report("unsupported", e.OpSpan, "", "The operator %s is not yet supported.", e.Op)
		return nil
	}
	if op >= Equal {
		want = nil
	}
	x, y := c.operands(e, want)
	if x == nil || y == nil {
		return nil
	}
	return c.operation(e.Op, x, y, e.OpSpan, e.Place())
}

// operands types both sides; a bare number takes the type of the other side.
func (c *checker) operands(e *syntax.Binary, want *Type) (x, y Expr) {
	switch {
	case untyped(e.X) && !untyped(e.Y):
		if y = c.expression(e.Y, want); y != nil {
			x = c.expression(e.X, numberBeside(y.Type()))
		}
	case untyped(e.Y) && !untyped(e.X):
		if x = c.expression(e.X, want); x != nil {
			y = c.expression(e.Y, numberBeside(x.Type()))
		}
	default:
		x, y = c.expression(e.X, want), c.expression(e.Y, want)
	}
	return x, y
}

func numberBeside(t *Type) *Type {
	if t == Time {
		return nil
	}
	return t
}

// operation applies a binary operator to typed operands.
func (c *checker) operation(sign string, x, y Expr, opSpan, at source.Span) Expr {
	op := operators[sign]
	if sign == ">" || sign == ">=" {
		x, y = y, x
	}
	if e, done := c.timeOperation(op, x, y, at); done {
		return e
	}
	t := common(x.Type(), y.Type())
	if t == nil {
		c.report("type", at, conversionHint(y.Type(), x.Type()), "%s and %s do not go together with %s.", x.Type().Name, y.Type().Name, sign)
		return nil
	}
	legal, result := false, t
	switch op {
	case And, Or, Xor:
		legal = t.isBits()
	case Add, Sub:
		legal = t.IsInteger() || t == Time
	case Mul, Div, Mod:
		legal = t.IsInteger()
	case Equal, NotEqual:
		legal, result = true, Bool
	case Less, LessEqual:
		legal, result = t != Bool, Bool
	}
	if !legal {
		hint := ""
		if t == Bool {
			hint = "Join BOOLs with AND, OR, XOR and NOT."
		} else if op <= Xor {
			hint = "AND, OR and XOR join BOOLs or bit strings; compare numbers first, as in a > 3 AND b > 3."
		}
		c.report("type", at, hint, "%s does not work on %s.", sign, t.Name)
		return nil
	}
	if k, ok := y.(*Const); ok && k.Value == 0 && (op == Div || op == Mod) {
		c.report("divide", opSpan, "", "This divides by zero.")
		return nil
	}
	return fold(&Op{op, result, widen(x, t), widen(y, t), at})
}

// timeOperation handles TIME * number and TIME / number (IEC 61131-3, table 35).
func (c *checker) timeOperation(op Operator, x, y Expr, at source.Span) (Expr, bool) {
	if op != Mul && op != Div {
		return nil, false
	}
	if op == Mul && y.Type() == Time && x.Type().IsInteger() {
		x, y = y, x
	}
	if x.Type() != Time || !y.Type().IsInteger() {
		return nil, false
	}
	if k, ok := y.(*Const); ok && k.Value == 0 && op == Div {
		c.report("divide", at, "", "This divides by zero.")
		return nil, true
	}
	return fold(&Op{op, Time, x, fold(&Convert{Lint, y}), at}), true
}

func conversionHint(from, to *Type) string {
	if from.Class == Instance || to.Class == Instance {
		return ""
	}
	return "Write " + from.Name + "_TO_" + to.Name + "(…) to convert."
}

func widen(x Expr, t *Type) Expr {
	if x.Type() == t {
		return x
	}
	return fold(&Convert{t, x})
}

// convert makes x a value of type t where that loses nothing, else reports it.
func (c *checker) convert(x Expr, t *Type) Expr {
	if x == nil || t == nil {
		return nil
	}
	from := x.Type()
	if widens(from, t) {
		return widen(x, t)
	}
	hint := conversionHint(from, t)
	if t == Bool && from.IsInteger() {
		hint = "Compare it, as in x > 0."
	}
	if t == Time {
		hint = "Write a TIME with its unit, as in T#5s or T#500ms."
	}
	c.report("type", x.Span(), hint, "This is %s %s; %s %s is needed here.", article(from.Name), from.Name, article(t.Name), t.Name)
	return nil
}

func article(name string) string {
	if strings.ContainsRune("AEIOaeio", rune(name[0])) {
		return "an"
	}
	return "a"
}

// condition is an expression that must be a BOOL.
func (c *checker) condition(e syntax.Expr) Expr { return c.convert(c.expression(e, Bool), Bool) }
