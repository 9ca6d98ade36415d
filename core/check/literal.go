package check

import (
	"math"
	"strconv"
	"strings"

	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// literal gives a written value its type: the one wanted where the value fits
// it, else the smallest of INT, DINT, LINT and ULINT that holds it.
func (c *checker) literal(l *syntax.Literal, want *Type) Expr {
	switch l.Kind {
	case syntax.Keyword:
		v := int64(0)
		if l.Text == "TRUE" {
			v = 1
		}
		return &Const{T: Bool, Value: v, At: l.Span}
	case syntax.Int:
		return c.integer(l.Text, l.Span, want, false)
	case syntax.Typed:
		return c.typedLiteral(l)
	}
	if l.Kind == syntax.Str {
		return &Const{T: String, Text: c.text(l), At: l.Span}
	}
	t := Lreal
	if want != nil && want.Class == Floating {
		t = want.Plain()
	}
	return c.real(l.Text, l.Span, t)
}

func (c *checker) real(text string, at source.Span, t *Type) Expr {
	f, err := strconv.ParseFloat(strings.ReplaceAll(text, "_", ""), t.Bits)
	if err != nil {
		c.report(source.OutOfRange, at, "", "%s does not fit %s.", text, t.Name)
		return nil
	}
	return &Const{T: t, Value: int64(math.Float64bits(f)), At: at}
}

// text undoes the $ signs of a text in quotes (IEC 61131-3, table 6).
func (c *checker) text(l *syntax.Literal) string {
	in := l.Text[1 : len(l.Text)-1]
	var out strings.Builder
	for i := 0; i < len(in); i++ {
		if in[i] != '$' || i+1 == len(in) {
			out.WriteByte(in[i])
			continue
		}
		i++
		switch in[i] {
		case 'N', 'n', 'L', 'l':
			out.WriteByte('\n')
		case 'R', 'r':
			out.WriteByte('\r')
		case 'T', 't':
			out.WriteByte('\t')
		case 'P', 'p':
			out.WriteByte('\f')
		case '$', '\'', '"':
			out.WriteByte(in[i])
		default:
			if i+1 < len(in) {
				if n, err := strconv.ParseUint(in[i:i+2], 16, 8); err == nil {
					out.WriteByte(byte(n))
					i++
					continue
				}
			}
			c.report(source.WrongLiteral, l.Span, "Write $$ for a dollar sign; $N is a new line.", "$%c has no meaning in a text.", in[i])
		}
	}
	return out.String()
}

func (c *checker) integer(text string, at source.Span, want *Type, negative bool) Expr {
	magnitude, ok := parseInteger(text)
	if !ok {
		c.report(source.WrongLiteral, at, "Write it like 12, 1_000, 16#FF or 2#1010; at most 64 bits.", "%s is not a whole number.", text)
		return nil
	}
	if negative && magnitude > 1<<63 {
		c.report(source.OutOfRange, at, "", "-%s is less than the least LINT.", text)
		return nil
	}
	v := int64(magnitude)
	if negative {
		v = -v
	}
	if want != nil {
		want = want.Plain()
	}
	if want != nil && want.Class == Floating {
		f := float64(magnitude)
		if negative {
			f = -f
		}
		return &Const{T: want, Value: want.Wrap(int64(math.Float64bits(f))), At: at}
	}
	if want != nil && want.Class == Boolean && !negative && magnitude <= 1 {
		return &Const{T: Bool, Value: v, At: at}
	}
	if want != nil && (want.IsInteger() || want.Class == BitString) {
		if fits(want, magnitude, negative) {
			return &Const{T: want, Value: v, At: at}
		}
		if negative {
			text = "-" + text
		}
		c.report(source.OutOfRange, at, "", "%s does not fit %s, which holds %s.", text, want.Name, rangeOf(want))
		return nil
	}
	for _, t := range []*Type{Int, Dint, Lint, Ulint} {
		if fits(t, magnitude, negative) {
			return &Const{T: t, Value: v, At: at}
		}
	}
	return nil
}

func fits(t *Type, magnitude uint64, negative bool) bool {
	least, greatest := t.Range()
	switch {
	case negative:
		return magnitude == 0 || least < 0 && magnitude <= uint64(-least)
	case t.unsigned64():
		return true
	}
	return magnitude <= uint64(greatest)
}

func rangeOf(t *Type) string {
	least, greatest := t.Range()
	top := strconv.FormatInt(greatest, 10)
	if t.unsigned64() {
		top = "18446744073709551615"
	}
	return strconv.FormatInt(least, 10) + " to " + top
}

// parseInteger reads 12, 1_000, 16#FF, 8#17, 2#1010.
func parseInteger(text string) (uint64, bool) {
	base := 10
	digits := strings.ReplaceAll(text, "_", "")
	if prefix, rest, based := strings.Cut(digits, "#"); based {
		switch prefix {
		case "2", "8", "16":
			base, _ = strconv.Atoi(prefix)
			digits = rest
		default:
			return 0, false
		}
	}
	n, err := strconv.ParseUint(digits, base, 64)
	return n, err == nil
}

// typedLiteral reads INT#5, BOOL#1 and T#5s.
func (c *checker) typedLiteral(l *syntax.Literal) Expr {
	prefix, rest, _ := strings.Cut(l.Text, "#")
	switch strings.ToUpper(prefix) {
	case "T", "TIME":
		d, err := signal.ParseTime(l.Text)
		if err != nil {
			c.report(source.WrongLiteral, l.Span, "", "%s.", err)
			return nil
		}
		return &Const{T: Time, Value: int64(d), At: l.Span}
	case "REAL", "LREAL":
		return c.real(rest, l.Span, TypeNamed(prefix))
	case "D", "DATE", "TOD", "DT", "LTIME":
		c.report(source.Unsupported, l.Span, "", "The literal %s is not supported; times are written T#5s.", l.Text)
		return nil
	}
	if d := c.types[lower(prefix)]; d != nil {
		return c.enumLiteral(c.declared(d), rest, l.Span)
	}
	t := TypeNamed(prefix)
	if t == nil || t == String {
		c.report(source.WrongType, l.Span, c.meant(prefix, []string{"T", "TIME", "INT", "DINT", "BOOL", "UINT", "WORD"}),
			"There is no type named %s.", prefix)
		return nil
	}
	if t == Bool {
		switch strings.ToUpper(rest) {
		case "TRUE", "1":
			return &Const{T: Bool, Value: 1, At: l.Span}
		case "FALSE", "0":
			return &Const{T: Bool, Value: 0, At: l.Span}
		}
		c.report(source.WrongLiteral, l.Span, "Write BOOL#1 or BOOL#0.", "%s is not a BOOL.", l.Text)
		return nil
	}
	negative := strings.HasPrefix(rest, "-")
	return c.integer(strings.TrimLeft(rest, "+-"), l.Span, t, negative)
}

// enumLiteral reads state#idle.
func (c *checker) enumLiteral(t *Type, name string, at source.Span) Expr {
	if t == nil {
		return nil
	}
	for i, v := range t.Values {
		if strings.EqualFold(v, name) {
			return &Const{T: t, Value: int64(i), At: at}
		}
	}
	c.report(source.Undeclared, at, c.meant(name, t.Values), "%s has no value named %s.", t.Name, name)
	return nil
}
