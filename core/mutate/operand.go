package mutate

import (
	"regexp"
	"slices"
	"strconv"
	"strings"
	"time"

	"celandine/core/block"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// operand makes the mistakes in a value that is read.
func (m *maker) operand(e *syntax.Expr) {
	switch x := (*e).(type) {
	case *syntax.Identifier:
		m.identifier(e, x)
	case *syntax.Member:
		m.member(e, x)
	case *syntax.Index:
		for i := range x.At {
			m.operand(&x.At[i])
		}
	case *syntax.Literal:
		m.literal(e, x)
	case *syntax.Unary:
		if x.Op == "NOT" {
			put(m, e, x.X, Inverted, x.Span, "%s is read without its NOT", text(x.X))
		}
		if x.Op == "-" {
			put(m, e, x.X, Operator, x.Span, "%s has lost its minus", text(x.X))
		}
		m.operand(&x.X)
	case *syntax.Binary:
		m.binary(e, x)
	case *syntax.Paren:
		m.operand(&x.X)
	case *syntax.Call:
		m.call(x)
		m.pinOut(e, x)
		m.regroupPins(e, x)
	case *syntax.Inverted:
		put(m, e, x.X, Inverted, x.Span, "%s is read without its circle", text(x.X))
		m.operand(&x.X)
	case *syntax.Contact:
		m.edge(e, x)
	}
}

func (m *maker) identifier(e *syntax.Expr, x *syntax.Identifier) {
	for _, other := range m.others(x.Text) {
		put(m, e, name(other, x.Span), m.otherKind(x.Text), x.Span, "%s is read in place of %s", other, x.Text)
	}
}

func (m *maker) otherKind(name string) Kind {
	for _, p := range m.points {
		if strings.EqualFold(p.Name, name) {
			return map[bool]Kind{true: OtherInput, false: OtherOutput}[p.Input]
		}
	}
	return OtherVariable
}

func name(text string, at source.Span) syntax.Expr {
	return &syntax.Identifier{Name: syntax.Name{Text: text, Span: at}}
}

// member reads another member of a block in an output's place: another output, or the input that drives it.
func (m *maker) member(e *syntax.Expr, x *syntax.Member) {
	id, ok := x.Of.(*syntax.Identifier)
	if !ok {
		return
	}
	b, _ := block.Named(m.typeOf(id.Text))
	if b == nil || !slices.ContainsFunc(b.Out, func(p block.Pin) bool {
		return p.Kind == signal.Bool && strings.EqualFold(p.Name,
			x.Field.Text)
	}) {
		return
	}
	if b.Name == "CTU" {
		put(m, e, equalTo(id, b, x.Field.Span), DoneAsEqual, x.Place(), "%s is done only while it stands at its preset", id.Text)
	}
	for _, p := range b.Out {
		if p.Kind == signal.Bool && !strings.EqualFold(p.Name, x.Field.Text) {
			other := syntax.Expr(&syntax.Member{Of: x.Of, Field: syntax.Name{Text: p.Name, Span: x.Field.Span}})
			put(m, e, other, OtherVariable, x.Place(), "%s.%s is read in place of %s", id.Text, p.Name, text(x))
		}
	}
	if strings.EqualFold(x.Field.Text, b.PowerOut().Name) {
		in := syntax.Expr(&syntax.Member{Of: x.Of, Field: syntax.Name{Text: b.PowerIn().Name, Span: x.Field.Span}})
		if b.Family == block.Edge {
			put(m, e, in, EdgeOut, x.Place(), "%s senses no edge", id.Text)
		} else {
			put(m, e, in, InputForOutput, x.Place(), "what goes into %s is read in place of what comes out", id.Text)
		}
	}
}

// equalTo is (count.CV = count.PV).
func equalTo(instance *syntax.Identifier, b *block.Block, at source.Span) syntax.Expr {
	member := func(p block.Pin) syntax.Expr {
		return &syntax.Member{Of: instance, Field: syntax.Name{Text: p.Name, Span: at}}
	}
	return &syntax.Paren{X: &syntax.Binary{Op: "=", X: member(b.Measure()), Y: member(b.Preset()), OpSpan: at, Span: at}, Span: at}
}

var number = regexp.MustCompile(`^(?:\w+#)?\d[\d_]*$`)

func (m *maker) literal(e *syntax.Expr, x *syntax.Literal) {
	put := func(to string, kind Kind, what string) {
		put(m, e, syntax.Expr(&syntax.Literal{Kind: x.Kind, Text: to, Span: x.Span}), kind, x.Span, what, x.Text, to)
	}
	upper := strings.ToUpper(x.Text)
	switch prefix, digits, typed := strings.Cut(upper, "#"); {
	case upper == "TRUE":
		put("FALSE", Inverted, "%[1]s is %[2]s")
	case upper == "FALSE":
		put("TRUE", Inverted, "%[1]s is %[2]s")
	case prefix == "T" || prefix == "TIME":
		m.duration(upper, put)
	case !typed && strings.ContainsAny(upper, ".E"):
		if v, err := strconv.ParseFloat(strings.ReplaceAll(upper, "_", ""), 64); err == nil {
			put(real(v*10), NumberScale, "%[2]s stands in place of %[1]s")
			put(real(v/10), NumberScale, "%[2]s stands in place of %[1]s")
		}
	case number.MatchString(x.Text) && typed:
		whole(prefix+"#", digits, put)
	case number.MatchString(x.Text):
		whole("", upper, put)
	}
}

// whole makes the mistakes in a whole number: one off, ten times off.
func whole(prefix, digits string, put func(to string, kind Kind, what string)) {
	v, err := strconv.ParseInt(strings.ReplaceAll(digits, "_", ""), 10, 64)
	if err != nil {
		return
	}
	for _, to := range []int64{v + 1, v - 1} {
		put(prefix+strconv.FormatInt(to, 10), CountOff, "%[2]s stands in place of %[1]s")
	}
	if v >= 10 {
		for _, to := range []int64{v / 10, v * 10} {
			put(prefix+strconv.FormatInt(to, 10), NumberScale, "%[2]s stands in place of %[1]s")
		}
	}
}

func real(v float64) string {
	text := strconv.FormatFloat(v, 'f', -1, 64)
	if !strings.Contains(text, ".") {
		text += ".0"
	}
	return text
}

func (m *maker) duration(text string, put func(to string, kind Kind, what string)) {
	d, err := signal.ParseTime(text)
	if err != nil || d <= 0 {
		return
	}
	for _, to := range []time.Duration{d * 10, d / 10} {
		put(signal.FormatTime(to), PresetScale, "the time is %[2]s in place of %[1]s")
	}
	for _, to := range []time.Duration{d + m.step, d - m.step} {
		put(signal.FormatTime(to), PresetScan, "the time is %[2]s in place of %[1]s")
	}
}

// others of an operator are what one could write in its place.
var operators = map[string][]string{
	"AND": {"OR"}, "&": {"OR"}, "OR": {"AND"}, "XOR": {"OR", "="}, "<": {"<=", ">"}, "<=": {"<", ">="}, ">": {">=", "<"}, ">=": {">",
		"<=", "="}, "=": {"<>", ">="}, "<>": {"="},
	"+": {"-"}, "-": {"+"}, "*": {"/"}, "/": {"*"}, "MOD": {"/"}, "**": {"*"},
}

func (m *maker) binary(e *syntax.Expr, x *syntax.Binary) {
	if isAnd(x.Op) {
		m.regroupText(e, x)
	}
	logic := x.Op == "AND" || x.Op == "OR" || x.Op == "XOR" || x.Op == "&"
	for _, op := range operators[x.Op] {
		kind := Comparison
		if logic || strings.Contains("+-**/MOD", x.Op) {
			kind = Operator
		}
		put(m, &x.Op, op, kind, x.OpSpan, "%s stands in place of %s", op, x.Op)
	}
	if logic {
		put(m, e, x.Y, OperandOut, x.X.Place(), "%s is left out", text(x.X))
		put(m, e, x.X, OperandOut, x.Y.Place(), "%s is left out", text(x.Y))
		m.invert(&x.X)
		m.invert(&x.Y)
	} else if x.Op == "-" || x.Op == "/" {
		was := *x
		x.X, x.Y = x.Y, x.X
		m.try(InputsCrossed, x.Span, func() { *x = was }, "%s and %s are exchanged", text(was.X), text(was.Y))
	}
	m.operand(&x.X)
	m.operand(&x.Y)
}

// invert reads a plain value inverted.
func (m *maker) invert(e *syntax.Expr) {
	switch (*e).(type) {
	case *syntax.Identifier, *syntax.Member, *syntax.Index:
		put(m, e, m.not(*e), Inverted, (*e).Place(), "%s is inverted", text(*e))
	}
}

// target makes the mistakes in a place that is written.
func (m *maker) target(e *syntax.Expr) {
	id, ok := (*e).(*syntax.Identifier)
	if !ok {
		return
	}
	for _, other := range m.others(id.Text) {
		put(m, e, name(other, id.Span), m.otherKind(id.Text), id.Span, "%s is written in place of %s", other, id.Text)
	}
}
