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
	case *syntax.Inverted:
		return c.inverted(e)
	case *syntax.Contact:
		return c.edge(e)
	}
	if id, ok := e.(*syntax.Identifier); ok && c.find(id.Text) == nil {
		if k := c.enums[lower(id.Text)]; k != nil {
			return &Const{T: k.T, Value: k.Value, At: id.Span}
		}
	}
	switch e := e.(type) {
	case *syntax.ArrayValue, *syntax.StructValue:
		c.report(source.WrongPlace, e.Place(), "", "A list of values stands only where a variable is declared.")
		return nil
	}
	ref := c.reference(e)
	if ref == nil {
		return nil
	}
	if t := ref.Type(); t.Class == Instance {
		hint := ""
		if out := t.Block.outputNames(); len(out) > 0 {
			hint = "Write " + ref.Name() + "." + out[0] + ", for example."
		}
		c.report(source.WrongType, e.Place(), hint, "%s is a whole %s; name the value in it.", ref.Name(), t.Name)
		return nil
	}
	c.reads(ref.Variable)
	if v := ref.Variable; v.Constant && v.Type.IsSingle() {
		k := &Const{T: v.Type, Value: v.Type.Begin(), At: ref.At}
		if v.Initial != nil {
			k.Value, k.Text = v.Initial.Number, v.Initial.Text
		}
		return k
	}
	return ref
}

// reference resolves a name, member, element or address.
func (c *checker) reference(e syntax.Expr) *Ref {
	switch e := e.(type) {
	case *syntax.Identifier:
		if v := c.lookup(e.Name); v != nil {
			r := c.nodes.refs.New()
			r.Variable, r.At = v, e.Span
			return r
		}
	case *syntax.Address:
		if v := c.direct(e); v != nil {
			return &Ref{Variable: v, At: e.Span}
		}
	case *syntax.Member:
		return c.member(e)
	case *syntax.Index:
		return c.elementOf(e)
	case *syntax.Paren:
		return c.reference(e.X)
	default:
		c.report(source.WrongPlace, e.Place(), "", "A name is expected here, not a value.")
	}
	return nil
}

func (c *checker) member(e *syntax.Member) *Ref {
	of := c.reference(e.Of)
	if of == nil {
		return nil
	}
	t := of.Type()
	var members []*Member
	switch t.Class {
	case Structure:
		members = t.Members
	case Instance:
		members = t.Block.Members
	default:
		c.report(source.NoMember, e.Place(), "", "%s is %s %s and has nothing named %s in it.", of.Name(), article(t.Name), t.Name, e.Field.Text)
		return nil
	}
	m := memberNamed(members, e.Field.Text)
	if m == nil {
		c.noMember(t, e.Field.Text, e.Field.Span)
		return nil
	}
	if m.InOut {
		c.report(source.NoMember, e.Field.Span, "", "%s stands for the caller's variable; read that.", m.Name)
		return nil
	}
	ref := of.Select(m)
	ref.At = e.Place()
	return ref
}

func (c *checker) noMember(t *Type, name string, at source.Span) {
	var all []string
	if t.Class == Structure {
		for _, m := range t.Members {
			all = append(all, m.Name)
		}
	} else {
		all = append(t.Block.outputNames(), t.Block.inputNames()...)
	}
	hint := c.meant(name, all)
	if t.Class == Instance && t.Block.Unit != nil {
		for _, v := range t.Block.Unit.Variables {
			if strings.EqualFold(v.Name, name) {
				c.report(source.NoMember, at, "Make it a VAR_OUTPUT of "+t.Name+", or give its value to one.",
					"%s is inside %s and cannot be read from outside.", v.Name, t.Name)
				return
			}
		}
	}
	switch {
	case hint == "" && len(all) == 0:
		hint = "It has no inputs and no outputs."
	case hint == "":
		hint = "It has " + strings.Join(all, ", ") + "."
	}
	c.report(source.NoMember, at, hint, "A %s has nothing named %s.", t.Name, name)
}

// element resolves an element of an array.
func (c *checker) elementOf(e *syntax.Index) *Ref {
	of := c.reference(e.Of)
	var index []Expr
	for _, x := range e.At {
		index = append(index, c.convert(c.expression(x, Lint), Lint))
	}
	if of == nil {
		return nil
	}
	t := of.Type()
	if t.Class != Array {
		c.report(source.WrongIndex, e.Span, "", "%s is %s %s, not an array.", of.Name(), article(t.Name), t.Name)
		return nil
	}
	if len(index) != len(t.Bounds) {
		c.report(source.WrongIndex, e.Span, "", "%s has %s; %d given here.", of.Name(), source.Plural(len(t.Bounds), "index"), len(index))
		return nil
	}
	for i, x := range index {
		if x == nil {
			return nil
		}
		if k, ok := x.(*Const); ok && (k.Value < t.Bounds[i].Low || k.Value > t.Bounds[i].High) {
			c.report(source.WrongIndex, e.At[i].Place(), "", "%s goes from %d to %d; %d is outside.", of.Name(), t.Bounds[i].Low, t.Bounds[i].High,
				k.Value)
			return nil
		}
	}
	path := append(of.Path[:len(of.Path):len(of.Path)], Selector{Index: index, Type: t.Element})
	return &Ref{of.Variable, path, e.Span}
}

// target resolves a place that may be written.
func (c *checker) target(e syntax.Expr) *Ref {
	ref := c.reference(e)
	if ref == nil {
		return nil
	}
	v, m := ref.Variable, ref.Member()
	if m != nil && (m.Name == "PT" || m.Name == "PV") {
		c.presets(v)
	}
	switch {
	case v.Role == Input && v.Owner != nil:
		c.report(source.WriteInput, e.Place(), "Copy it into a variable declared in VAR, and change that.",
			"%s is an input and keeps its caller's value.", v.Name)
		return nil
	case v.Role == Input && !v.Hidden:
		c.report(source.WriteInput, e.Place(), "Only the panel writes inputs. Write an output, or a variable declared in VAR.",
			"%s is an input and cannot be written.", v.Name)
		return nil
	case v.Role == System || v.Constant:
		c.report(source.WriteConstant, e.Place(), "", "%s cannot be written.", v.Name)
		return nil
	case m != nil && m.Output && owns(ref):
		c.report(source.WriteOutput, e.Place(), "Only the block itself writes it.", "%s is an output of %s and cannot be written.", ref.Name(),
			v.Name)
		return nil
	case ref.Type().Class == Instance:
		c.report(source.WrongPlace, e.Place(), "Call it: "+v.Name+"(…);", "%s is a %s and cannot be given a value.", v.Name, ref.Type().Name)
		return nil
	}
	return ref
}

// owns reports whether the reference ends in a member of a block.
func owns(ref *Ref) bool {
	t := ref.Variable.Type
	if n := len(ref.Path); n > 1 {
		t = ref.Path[n-2].Type
	}
	return t.Class == Instance
}

// untyped reports whether e is made of bare numbers only.
func untyped(e syntax.Expr) bool {
	switch e := e.(type) {
	case *syntax.Literal:
		return e.Kind == syntax.Int || e.Kind == syntax.Real
	case *syntax.Paren:
		return untyped(e.X)
	case *syntax.Unary:
		return e.Op != "NOT" && untyped(e.X)
	case *syntax.Binary:
		switch e.Op {
		case "+", "-", "*", "/", "MOD", "**":
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
		c.report(source.WrongType, e.X.Place(), "", "NOT turns a BOOL or a bit string around; this is a %s.", t.Name)
	case e.Op == "NOT":
		return fold(&Op{Not, t.Plain(), x, nil, e.Span, false})
	case t.Class != Signed && t.Class != Duration && t.Class != Floating:
		c.report(source.WrongType, e.X.Place(), "", "%s needs a signed number or a TIME; this is %s %s.", e.Op, article(t.Name), t.Name)
	case e.Op == "+":
		return x
	default:
		return fold(&Op{Negate, t.Plain(), x, nil, e.Span, false})
	}
	return nil
}

var operators = map[string]Operator{
	"AND": And, "OR": Or, "XOR": Xor, "+": Add, "-": Sub, "*": Mul, "/": Div, "MOD": Mod, "**": Power,
	"=": Equal, "<>": NotEqual, "<": Less, "<=": LessEqual, ">": Less, ">=": LessEqual,
}

func (c *checker) binary(e *syntax.Binary, want *Type) Expr {
	if operators[e.Op] >= Equal {
		want = nil
	}
	c.warnPower(e)
	if c.wholeBlock(e.Op, e.X) || c.wholeBlock(e.Op, e.Y) {
		return nil
	}
	x, y := c.operands(e, want)
	if x == nil || y == nil {
		return nil
	}
	return c.operation(e.Op, x, y, e.OpSpan, e.Place())
}

// wholeBlock reports a block where a comparison or sum needs a number in it.
func (c *checker) wholeBlock(op string, e syntax.Expr) bool {
	id, ok := e.(*syntax.Identifier)
	if !ok || operators[op] < Add {
		return false
	}
	v := c.find(id.Text)
	if v == nil || v.Type == nil || v.Type.Class != Instance {
		return false
	}
	for _, m := range v.Type.Block.Members {
		if m.Output && m.Type.IsSingle() && m.Type != Bool {
			c.report(source.WrongType, e.Place(), "Write "+v.Name+"."+m.Name+".", "%s is a whole %s; %s needs a number in it.", v.Name, v.Type.Name,
				op)
			return true
		}
	}
	return false
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
	if t.Plain() == Time {
		return nil
	}
	return t
}

// operation applies a binary operator to typed operands.
func (c *checker) operation(sign string, x, y Expr, opSpan, at source.Span) Expr {
	op := operators[sign]
	turned := sign == ">" || sign == ">="
	if turned {
		x, y = y, x
	}
	if e, done := c.timeOperation(op, x, y, at); done {
		return e
	}
	t := common(x.Type(), y.Type())
	if t == nil {
		c.report(source.WrongType, at, conversionHint(y.Type(), x.Type()), "%s and %s do not go together with %s.", x.Type().Name, y.Type().Name,
			sign)
		return nil
	}
	legal, result := false, t
	switch op {
	case And, Or, Xor:
		legal = t.isBits()
	case Add, Sub:
		legal = t.IsInteger() || t == Time || t.Class == Floating
	case Mul, Div, Power:
		legal = t.IsInteger() || t.Class == Floating
	case Mod:
		legal = t.IsInteger()
	case Equal, NotEqual:
		legal, result = t.IsSingle(), Bool
	case Less, LessEqual:
		legal, result = t.IsSingle() && t != Bool && t.Class != Enumeration, Bool
	}
	if !legal {
		hint := ""
		if t == Bool {
			hint = "Join BOOLs with AND, OR, XOR and NOT."
		} else if op <= Xor {
			hint = "AND, OR and XOR join BOOLs or bit strings; compare numbers first, as in a > 3 AND b > 3."
		}
		c.report(source.WrongType, at, hint, "%s does not work on %s.", sign, t.Name)
		return nil
	}
	if k, ok := y.(*Const); ok && k.Value == 0 && (op == Div || op == Mod) && t.Class != Floating {
		c.report(source.Divide, opSpan, "", "This divides by zero.")
		return nil
	}
	return fold(&Op{op, result, widen(x, t), widen(y, t), at, turned})
}

// timeOperation handles TIME * number and TIME / number (IEC 61131-3, table 35).
func (c *checker) timeOperation(op Operator, x, y Expr, at source.Span) (Expr, bool) {
	if op != Mul && op != Div {
		return nil, false
	}
	turned := op == Mul && y.Type().Plain() == Time && x.Type().Plain() != Time
	if turned {
		x, y = y, x
	}
	if x.Type().Plain() == Time && y.Type().Class == Floating {
		f := TimeTimes
		if op == Div {
			f = TimeBy
		}
		return &Apply{f, Time, []Expr{x, widen(y, Lreal)}, at}, true
	}
	if x.Type().Plain() != Time || !y.Type().IsInteger() {
		return nil, false
	}
	if k, ok := y.(*Const); ok && k.Value == 0 && op == Div {
		c.report(source.Divide, at, "", "This divides by zero.")
		return nil, true
	}
	return fold(&Op{op, Time, x, fold(&Convert{Lint, y}), at, turned}), true
}

func conversionHint(from, to *Type) string {
	if from.Class >= Enumeration || to.Class >= Enumeration {
		return ""
	}
	return "Write " + from.Name + "_TO_" + to.Name + "(…) to convert."
}

func widen(x Expr, t *Type) Expr {
	if x.Type().Plain() == t.Plain() || t.Class == Text {
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
		if k, ok := x.(*Const); ok && !c.within(k, t) {
			return nil
		}
		return widen(x, t)
	}
	hint := conversionHint(from, t)
	if t == Bool && from.IsInteger() {
		hint = "Compare it, as in x > 0."
	}
	if t == Time {
		hint = "Write a TIME with its unit, as in T#5s or T#500ms."
	}
	c.report(source.WrongType, x.Span(), hint, "This is %s %s; %s %s is needed here.", article(from.Name), from.Name, article(t.Name), t.Name)
	return nil
}

func article(name string) string {
	if strings.ContainsRune("AEIOaeio", rune(name[0])) || strings.HasPrefix(name, "LR") { // an LREAL
		return "an"
	}
	return "a"
}

// condition is an expression that must be a BOOL.
func (c *checker) condition(e syntax.Expr) Expr { return c.convert(c.expression(e, Bool), Bool) }
