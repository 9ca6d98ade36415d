package check

import (
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
		return &Const{Bool, v, l.Span}
	case syntax.Int:
		return c.integer(l.Text, l.Span, want, false)
	case syntax.Typed:
		return c.typedLiteral(l)
	}
	what := "A number with a fraction"
	if l.Kind == syntax.Str {
		what = "A text"
	}
	c.report("unsupported", l.Span, "", "%s is not yet supported.", what)
	return nil
}

func (c *checker) integer(text string, at source.Span, want *Type, negative bool) Expr {
	magnitude, ok := parseInteger(text)
	if !ok {
		c.report("literal", at, "Write it like 12, 1_000, 16#FF or 2#1010; at most 64 bits.", "%s is not a whole number.", text)
		return nil
	}
	if negative && magnitude > 1<<63 {
		c.report("range", at, "", "-%s is less than the least LINT.", text)
		return nil
	}
	v := int64(magnitude)
	if negative {
		v = -v
	}
	if want != nil && want.Class == Boolean && !negative && magnitude <= 1 {
		return &Const{Bool, v, at}
	}
	if want != nil && (want.IsInteger() || want.Class == BitString) {
		if fits(want, magnitude, negative) {
			return &Const{want, v, at}
		}
		if negative {
			text = "-" + text
		}
		c.report("range", at, "", "%s does not fit %s, which holds %s.", text, want.Name, rangeOf(want))
		return nil
	}
	for _, t := range []*Type{Int, Dint, Lint, Ulint} {
		if fits(t, magnitude, negative) {
			return &Const{t, v, at}
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
			c.report("literal", l.Span, "", "%s.", err)
			return nil
		}
		return &Const{Time, int64(d), l.Span}
	case "REAL", "LREAL", "STRING", "D", "DATE", "TOD", "DT":
		c.report("unsupported", l.Span, "", "The literal %s is not yet supported.", l.Text)
		return nil
	}
	t := TypeNamed(prefix)
	if t == nil {
		c.report("type", l.Span, source.Meant(prefix, []string{"T", "TIME", "INT", "DINT", "BOOL", "UINT", "WORD"}), "There is no type named %s.", prefix)
		return nil
	}
	if t == Bool {
		switch strings.ToUpper(rest) {
		case "TRUE", "1":
			return &Const{Bool, 1, l.Span}
		case "FALSE", "0":
			return &Const{Bool, 0, l.Span}
		}
		c.report("literal", l.Span, "Write BOOL#1 or BOOL#0.", "%s is not a BOOL.", l.Text)
		return nil
	}
	negative := strings.HasPrefix(rest, "-")
	return c.integer(strings.TrimLeft(rest, "+-"), l.Span, t, negative)
}
