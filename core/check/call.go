package check

import (
	"maps"
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/source"
	"celandine/core/syntax"
)

// functionCall checks name(arguments) where a value is needed.
func (c *checker) functionCall(e *syntax.Call, want *Type) Expr {
	id, ok := e.Callee.(*syntax.Identifier)
	if !ok {
		c.report(source.WrongCall, e.Callee.Place(), "", "This cannot be called.")
		return nil
	}
	if v := c.find(id.Text); v != nil && !(c.owner != nil && v == c.owner.Result) {
		if v.Type != nil && v.Type.Class == Instance {
			c.report(source.WrongCall, e.Span, "Call it on a line of its own, then read "+id.Text+"."+firstOf(v.Type.Block.outputNames())+".",
				"%s is a function block; its call has no value.", id.Text)
		} else {
			c.report(source.WrongCall, e.Span, "", "%s is a variable and cannot be called.", id.Text)
		}
		return nil
	}
	value, _ := c.function(id, e, want)
	return value
}

func firstOf(names []string) string {
	if len(names) == 0 {
		return "Q"
	}
	return names[0]
}

// function applies a function. Gate tells that it is a comparison or
// logic function on BOOL, whose result is the power out of a box.
func (c *checker) function(id *syntax.Identifier, e *syntax.Call, want *Type) (value Expr, gate bool) {
	if u := c.functions[lower(id.Text)]; u != nil {
		value = c.invoke(u, e)
		return value, false
	}
	name := strings.ToUpper(id.Text)
	if !IsFunction(name) {
		c.unknownFunction(id, name)
		return nil, false
	}
	arguments := c.positional(name, e)
	if arguments == nil {
		return nil, false
	}
	if from, to, ok := conversion(name); ok {
		return c.conversionCall(name, from, to, arguments, e), false
	}
	if f, ok := folding[name]; ok {
		return c.chain(name, f, arguments, e, want)
	}
	if s, ok := signatures[name]; ok {
		return c.apply(name, s, arguments, e, want), false
	}
	return c.special(name, arguments, e, want)
}

// special checks the functions that obey rules of their own.
func (c *checker) special(name string, arguments []syntax.Expr, e *syntax.Call, want *Type) (value Expr, gate bool) {
	switch name {
	case "MOVE":
		if c.count(name, arguments, 1, e) {
			return c.expression(arguments[0], want), false
		}
	case "NOT":
		if c.count(name, arguments, 1, e) {
			x := c.unary(&syntax.Unary{Op: "NOT", X: arguments[0], Span: e.Span}, want)
			return x, x != nil && x.Type() == Bool
		}
	case "SEL":
		if c.count(name, arguments, 3, e) {
			return c.selection(arguments, e, want), false
		}
	case "MUX":
		return c.multiplex(arguments, e, want), false
	case "LIMIT":
		if c.count(name, arguments, 3, e) {
			if x, _ := c.chain("MAX", folding["MAX"], arguments[:2], e, want); x != nil {
				if top := c.convert(c.expression(arguments[2], x.Type()), x.Type()); top != nil {
					return c.extreme(x, top, Minimum, e.Span), false
				}
			}
		}
	}
	return nil, false
}

// selection is SEL(g, x, y): x where g is FALSE, else y.
func (c *checker) selection(arguments []syntax.Expr, e *syntax.Call, want *Type) Expr {
	g := c.condition(arguments[0])
	x, y := c.pair(arguments[1], arguments[2], want)
	if g == nil || x == nil || y == nil {
		return nil
	}
	t := common(x.Type(), y.Type())
	if t == nil || !t.IsSingle() {
		c.report(source.WrongType, e.Span, "", "SEL cannot choose between %s and %s.", x.Type().Name, y.Type().Name)
		return nil
	}
	return &Choose{g, widen(y, t), widen(x, t), e.Span}
}

// plainFunctions are those that no table describes, since each is checked in its own way.
var plainFunctions = []string{"MOVE", "NOT", "SEL", "MUX", "LIMIT"}

// Functions lists the standard functions in alphabetical order, but for the conversions, of which there is one for each two types.
func Functions() []string {
	list := slices.Concat(plainFunctions, slices.Collect(maps.Keys(folding)), slices.Collect(maps.Keys(signatures)))
	slices.Sort(list)
	return list
}

// IsFunction reports whether a standard function has the name, in any case of letters.
func IsFunction(name string) bool {
	name = strings.ToUpper(name)
	if slices.Contains(Functions(), name) {
		return true
	}
	_, _, ok := conversion(name)
	return ok
}

func (c *checker) unknownFunction(id *syntax.Identifier, name string) {
	if BlockNamed(name) != nil || c.blocks[lower(name)] != nil {
		c.report(source.WrongCall, id.Span, "Declare an instance, for example my_"+strings.ToLower(name)+" : "+name+"; and call that.",
			"%s is a kind of block, not a block.", name)
		return
	}
	names := []string{"MOVE", "SEL", "LIMIT", "MUX"}
	for n := range signatures {
		names = append(names, n)
	}
	for _, u := range c.functions {
		names = append(names, u.tree.Name.Text)
	}
	for n := range folding {
		names = append(names, n)
	}
	hint := c.meant(id.Text, append(names, c.names()...))
	if hint == "" {
		hint = "Declare a block in VAR, for example " + id.Text + " : TON;"
	}
	c.report(source.Undeclared, id.Span, hint, "There is no function or block named %s.", id.Text)
}

// positional returns the values of a standard function's arguments in order, whether they are given by position or by
// the names that the standard has for them; nil means that a problem was reported.
func (c *checker) positional(name string, e *syntax.Call) []syntax.Expr {
	list := []syntax.Expr{}
	named := len(e.Arguments) > 0 && e.Arguments[0].Name != nil
	for _, a := range e.Arguments {
		switch {
		case a.Output:
			c.report(source.WrongCall, a.Span, "In a rung, write => after the parenthesis.", "%s has no output to name here.", name)
			return nil
		case a.Value == nil:
			c.report(source.Unnamed, a.Span, "Give it a variable or a number.", "This input of %s is empty.", name)
			return nil
		case named != (a.Name != nil):
			c.report(source.WrongCall, a.Span, "Name every input, or none.", "This call of %s names some of its inputs.", name)
			return nil
		}
		list = append(list, a.Value)
	}
	if named {
		return c.ordered(name, e)
	}
	return list
}

// ordered puts named arguments in the order of their function's inputs.
func (c *checker) ordered(name string, e *syntax.Call) []syntax.Expr {
	names := block.InputNames(name, len(e.Arguments))
	list := make([]syntax.Expr, len(names))
	for _, a := range e.Arguments {
		at := slices.IndexFunc(names, func(n string) bool { return strings.EqualFold(n, a.Name.Text) })
		switch {
		case at < 0:
			hint := "Its inputs are " + strings.Join(names, ", ") + "."
			if strings.EqualFold(a.Name.Text, "EN") {
				hint = "With EN it stands in a rung, or in a node of its own in a block diagram."
			}
			c.report(source.NoMember, a.Name.Span, hint, "%s has no input %s.", name, a.Name.Text)
			return nil
		case list[at] != nil:
			c.report(source.Duplicate, a.Name.Span, "Keep one of them.", "The input %s is given twice.", names[at])
			return nil
		}
		list[at] = a.Value
	}
	if len(e.Arguments) < len(names) {
		c.count(name, list[:len(e.Arguments)], len(names), e)
		return nil
	}
	return list
}

func (c *checker) count(name string, arguments []syntax.Expr, n int, e *syntax.Call) bool {
	if len(arguments) == n {
		return true
	}
	c.report(source.WrongCall, e.Span, "", "%s takes %s; this call has %d.", name, source.Plural(n, "input"), len(arguments))
	return false
}

type foldingFunction struct {
	sign       string
	compare    bool // yields BOOL, pair by pair
	extensible bool // takes more than two
}

// folding lists the functions that take two inputs or more.
var folding = map[string]foldingFunction{
	"ADD": {"+", false, true}, "MUL": {"*", false, true}, "SUB": {"-", false, false}, "DIV": {"/", false, false}, "MOD": {"MOD", false, false},
	"AND": {"AND", false, true}, "OR": {"OR", false, true}, "XOR": {"XOR", false, true}, "MAX": {"MAX", false, true},
	"MIN": {"MIN", false, true},
	"GT":  {">", true, true}, "GE": {">=", true, true}, "EXPT": {"**", false, false}, "EQ": {"=", true, true}, "LE": {"<=", true, true},
	"LT": {"<", true, true}, "NE": {"<>", true, false},
}

// chain applies an extensible function: ADD(a, b, c) is a + b + c, and
// GT(a, b, c) is a > b AND b > c.
func (c *checker) chain(name string, f foldingFunction, arguments []syntax.Expr, e *syntax.Call, want *Type) (value Expr, gate bool) {
	if len(arguments) < 2 || len(arguments) > 2 && !f.extensible {
		c.count(name, arguments, 2, e)
		return nil, false
	}
	if f.compare {
		want = nil
	}
	for i := 0; i+1 < len(arguments); i++ {
		x, y := c.pair(arguments[i], arguments[i+1], want)
		if x == nil || y == nil {
			return nil, false
		}
		if i > 0 && !f.compare {
			x = value
		}
		if written := writtenIn(x, nil); i > 0 && f.compare && len(written) > 0 {
			c.report(source.WrongCall, x.Span(), "Assign it to a variable first, and compare that.",
				"%s is compared with both its neighbours and would be worked out twice, and each time it changes %s.", x.Span().Text(),
				written[0].Name())
			return nil, false
		}
		step := c.step(f.sign, x, y, e.Span)
		if step == nil {
			return nil, false
		}
		if i > 0 && f.compare {
			step = fold(&Op{And, Bool, value, step, e.Span, false})
		}
		value = step
	}
	return value, value.Type() == Bool
}

func (c *checker) step(sign string, x, y Expr, at source.Span) Expr {
	switch sign {
	case "MAX":
		return c.extreme(x, y, Maximum, at)
	case "MIN":
		return c.extreme(x, y, Minimum, at)
	}
	return c.operation(sign, x, y, at, at)
}

// extreme is the lesser or the greater of two values.
func (c *checker) extreme(x, y Expr, f Function, at source.Span) Expr {
	t := common(x.Type(), y.Type())
	if t == nil || t == Bool || t.Class >= Enumeration {
		c.report(source.WrongType, at, "", "%s and %s cannot be compared.", x.Type().Name, y.Type().Name)
		return nil
	}
	return &Apply{f, t, []Expr{widen(x, t), widen(y, t)}, at}
}

// pair types two arguments as the operands of one operator.
func (c *checker) pair(a, b syntax.Expr, want *Type) (x, y Expr) {
	return c.operands(&syntax.Binary{Op: "+", X: a, Y: b}, want)
}

// conversion splits DINT_TO_INT.
func conversion(name string) (from, to *Type, ok bool) {
	a, b, found := strings.Cut(name, "_TO_")
	if !found {
		return nil, nil, false
	}
	from, to = TypeNamed(a), TypeNamed(b)
	return from, to, from != nil && to != nil && from != to
}

func (c *checker) conversionCall(name string, from, to *Type, arguments []syntax.Expr, e *syntax.Call) Expr {
	if !c.count(name, arguments, 1, e) {
		return nil
	}
	x := c.convert(c.expression(arguments[0], from), from)
	if x == nil {
		return nil
	}
	switch {
	case to.Class == Text:
		return &Apply{ToText, String, []Expr{x}, e.Span}
	case from.Class == Text:
		return &Apply{FromText, to, []Expr{x}, e.Span}
	}
	return fold(&Convert{to, x})
}

// blockCall checks the call of an instance. power tells that a rung's power
// drives the first BOOL input, which then may not be given.
func (c *checker) blockCall(e *syntax.Call, power *Member) *Call {
	callee := c.reference(e.Callee)
	if callee == nil {
		return nil
	}
	v := callee.Variable
	if callee.Type().Class != Instance {
		c.report(source.WrongCall, e.Callee.Place(), "", "%s is %s %s and cannot be called.", callee.Name(), article(callee.Type().Name),
			callee.Type().Name)
		return nil
	}
	if power != nil && Invokes(callee) { // a rung names the instance for its power in, its call and its power out
		c.report(source.WrongCall, e.Callee.Place(), "Assign the index to a variable first.",
			"%s chooses its instance by a function, which a rung would call more than once.", e.Callee.Place().Text())
		return nil
	}
	block := callee.Type().Block
	c.program.blocks[e] = block
	c.calls(v, useOf(callee, e.Span), c.nested > 0)
	if block.Unit != nil {
		c.unit.called(block.Unit, e.Span)
	}
	call := &Call{Instance: callee, At: e.Span}
	given := map[string]bool{}
	for _, a := range e.Arguments {
		if a.Name == nil {
			hint := "Write " + firstOf(block.inputNames()) + " := …"
			if x, ok := a.Value.(*syntax.Binary); ok && x.Op == "=" {
				hint = "Write := between an input and its value."
			}
			c.report(source.WrongCall, a.Span, hint, "The inputs of a function block are given by name.")
			continue
		}
		key := strings.ToUpper(a.Name.Text)
		if given[key] {
			c.report(source.WrongCall, a.Name.Span, "", "%s is given twice.", a.Name.Text)
		}
		given[key] = true
		if key == "PT" || key == "PV" {
			c.presets(v)
		}
		c.argument(call, block, power, a)
	}
	for _, m := range block.Members {
		if m.InOut && !given[strings.ToUpper(m.Name)] {
			c.report(source.WrongCall, e.Span, "Write "+m.Name+" := and a variable.", "%s needs a variable for %s, which is VAR_IN_OUT.",
				callee.Name(), m.Name)
		}
	}
	return call
}

func (c *checker) argument(call *Call, block *Block, power *Member, a syntax.Argument) {
	if a.Value == nil {
		c.report(source.Unnamed, a.Span, "Give it a variable or a value, or remove it.", "%s has nothing beside it.", a.Name.Text)
		return
	}
	switch name := strings.ToUpper(a.Name.Text); {
	case name == "EN" && !a.Output:
		call.Enable = c.condition(a.Value)
		return
	case name == "ENO" && a.Output:
		call.ENO = c.writeTarget(a.Value, Bool)
		return
	}
	m := block.Member(a.Name.Text)
	switch {
	case m != nil && m.InOut && !a.Output:
		if target := c.inOut(a.Value, m.Type); target != nil {
			call.Inputs = append(call.Inputs, Binding{Member: m, Target: target})
		}
	case m == nil || m.Output != a.Output:
		c.wrongMember(block, m, a)
	case m == power:
		c.report(source.WrongCall, a.Span, "Remove it, or write EN first so that the power drives EN.",
			"The power of the rung drives %s already.", m.Name)
	case a.Output:
		if target := c.writeTarget(a.Value, m.Type); target != nil {
			call.Outputs = append(call.Outputs, Binding{Member: m, Target: target})
		}
	default:
		if x := c.valueFor(a.Value, m.Type); x != nil {
			call.Inputs = append(call.Inputs, Binding{Member: m, Value: x})
		}
	}
}

func (c *checker) wrongMember(block *Block, m *Member, a syntax.Argument) {
	names := block.memberNames(a.Output)
	what, sign := "input", ":="
	if a.Output {
		what, sign = "output", "=>"
	}
	hint := c.meant(a.Name.Text, names)
	if hint == "" {
		hint = "Its " + what + "s are " + strings.Join(names, ", ") + "."
	}
	if m != nil {
		other := "=>"
		if a.Output {
			other = ":="
		}
		hint = "Write " + m.Name + " " + other + " …"
		c.report(source.NoMember, a.Name.Span, hint, "%s is not an %s of %s; %s does not fit it.", m.Name, what, block.Name, sign)
		return
	}
	c.report(source.NoMember, a.Name.Span, hint, "A %s has no %s named %s.", block.Name, what, a.Name.Text)
}

// writeTarget resolves a place that takes a value of type from.
func (c *checker) writeTarget(e syntax.Expr, from *Type) *Ref {
	target := c.target(e)
	if target == nil {
		return nil
	}
	if !widens(from, target.Type()) {
		c.report(source.WrongType, e.Place(), "", "%s is %s %s, but %s %s comes out here.", target.Name(), article(target.Type().Name),
			target.Type().Name, article(from.Name), from.Name)
		return nil
	}
	c.writes(target.Variable, Wrote{use: useOf(target, e.Place()), Conditional: c.nested > 0})
	return target
}
