package oracle

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"celandine/core/syntax"
)

// A family of types obeys the same rules.
type family int

const (
	boolFamily family = iota
	signedFamily
	unsignedFamily
	bitsFamily
	realFamily
	timeFamily
	textFamily
	enumFamily
	wholeFamily // an array, structure or instance
)

type typ struct {
	name      string
	family    family
	bits      int
	plain     *typ // of a subrange: the type without its limits
	from, to  int64
	length    int // of a text
	element   *typ
	low, high []int64
	fields    []*syntax.Variable
	block     string       // a standard block
	counts    *typ         // what a counter counts in
	unit      *syntax.Unit // a block of one's own
	initial   syntax.Expr
}

func elementary() map[string]*typ {
	m := map[string]*typ{}
	add := func(f family, bits int, names ...string) {
		for i, n := range names {
			m[lower(n)] = &typ{name: n, family: f, bits: bits << i}
		}
	}
	add(boolFamily, 1, "BOOL")
	add(signedFamily, 8, "SINT", "INT", "DINT", "LINT")
	add(unsignedFamily, 8, "USINT", "UINT", "UDINT", "ULINT")
	add(bitsFamily, 8, "BYTE", "WORD", "DWORD", "LWORD")
	add(realFamily, 32, "REAL", "LREAL")
	add(timeFamily, 64, "TIME")
	m["string"] = &typ{name: "STRING", family: textFamily, length: 80}
	for b, face := range pins {
		m[lower(b)] = &typ{name: b, family: wholeFamily, block: b}
		if !slices.ContainsFunc(face, func(p pin) bool { return p.typed == "" }) {
			continue // it counts nothing
		}
		m[lower(b)].counts = m["int"]
		for _, n := range []string{"DINT", "LINT", "UDINT", "ULINT"} {
			m[lower(b+"_"+n)] = &typ{name: b + "_" + n, family: wholeFamily, block: b, counts: m[lower(n)]}
		}
	}
	return m
}

// value is what an expression gives. A bare number has no type yet.
type value struct {
	t *typ
	i int64
	f float64
	s string
	c *cell // of a composition
}

// cell is a place that holds a value.
type cell struct {
	t        *typ
	i        int64
	f        float64
	s        string
	elements []*cell
	members  map[string]*cell // of a structure or a standard block
	hidden   map[string]int64 // of a standard block
	inner    *frame           // of a block of one's own
}

func (c *cell) value() value { return value{c.t, c.i, c.f, c.s, c} }

func (c *cell) number() int64 {
	if c.t.family == realFamily {
		if math.IsNaN(c.f) {
			return int64(math.Float64bits(math.NaN()))
		}
		return int64(math.Float64bits(c.f))
	}
	return c.i
}

// take makes the cell hold what another holds.
func (c *cell) take(from *cell) {
	c.i, c.f, c.s = from.i, from.f, from.s
	for n := range c.elements {
		c.elements[n].take(from.elements[n])
	}
	for n := range c.members {
		c.members[n].take(from.members[n])
	}
}

func (o *Interpreter) declareType(d *syntax.TypeDeclaration) {
	t := *o.typeOf(d.Type)
	t.name = d.Name.Text
	if d.Initial != nil {
		t.initial = d.Initial
	}
	if e, ok := d.Type.(*syntax.EnumType); ok {
		for n, v := range e.Values {
			o.enums[lower(v.Text)] = value{t: &t, i: int64(n)}
		}
	}
	o.types[lower(d.Name.Text)] = &t
}

func (o *Interpreter) typeOf(e syntax.TypeExpr) *typ {
	switch e := e.(type) {
	case *syntax.TypeName:
		if u := o.units[lower(e.Text)]; u != nil {
			return &typ{name: u.Name.Text, family: wholeFamily, unit: u}
		}
		return o.types[lower(e.Text)]
	case *syntax.StringType:
		t := *o.types["string"]
		if e.Length != nil {
			t.length = int(o.constant(e.Length))
		}
		return &t
	case *syntax.SubrangeType:
		t := *o.types[lower(e.Base.Text)]
		t.plain, t.from, t.to = o.types[lower(e.Base.Text)], o.constant(e.Low), o.constant(e.High)
		return &t
	case *syntax.EnumType:
		return &typ{family: enumFamily, bits: 16}
	case *syntax.ArrayType:
		t := &typ{family: wholeFamily, element: o.typeOf(e.Element)}
		for _, r := range e.Ranges {
			t.low, t.high = append(t.low, o.constant(r.Low)), append(t.high, o.constant(r.High))
		}
		return t
	case *syntax.StructType:
		return &typ{family: wholeFamily, fields: e.Fields}
	}
	unknown(e)
	return nil
}

func (o *Interpreter) constant(e syntax.Expr) int64 { return o.eval(&frame{}, e, nil).i }

// begin returns a new cell with its first value.
func (o *Interpreter) begin(t *typ, initial syntax.Expr) *cell {
	if initial == nil {
		initial = t.initial
	}
	c := &cell{t: t}
	switch {
	case t.element != nil:
		o.beginArray(c, initial)
	case t.unit != nil:
		c.inner = o.enter(t.unit)
		if s, ok := initial.(*syntax.StructValue); ok {
			for _, f := range s.Fields {
				m := c.inner.cells[lower(f.Name.Text)]
				m.take(o.begin(m.t, f.Value))
			}
		}
	case t.block != "":
		c.members, c.hidden = map[string]*cell{}, map[string]int64{}
		for _, p := range pins[t.block] {
			pt := t.counts
			if p.typed != "" {
				pt = o.types[p.typed]
			}
			c.members[p.name] = &cell{t: pt}
		}
	case t.fields != nil:
		c.members = map[string]*cell{}
		given := map[string]syntax.Expr{}
		if s, ok := initial.(*syntax.StructValue); ok {
			for _, f := range s.Fields {
				given[lower(f.Name.Text)] = f.Value
			}
		}
		for _, f := range t.fields {
			for _, n := range f.Names {
				one := f.Initial
				if g := given[lower(n.Text)]; g != nil {
					one = g
				}
				c.members[lower(n.Text)] = o.begin(o.typeOf(f.Type), one)
			}
		}
	default:
		if t.plain != nil && (t.from > 0 || t.to < 0) {
			c.i = t.from
		}
		if initial != nil {
			store(c, o.eval(&frame{}, initial, t))
		}
	}
	return c
}

func (o *Interpreter) beginArray(c *cell, initial syntax.Expr) {
	count := int64(1)
	for d := range c.t.low {
		count *= c.t.high[d] - c.t.low[d] + 1
	}
	var values []syntax.Expr
	if a, ok := initial.(*syntax.ArrayValue); ok {
		for _, item := range a.Items {
			n := int64(1)
			if item.Count != nil {
				n = o.constant(item.Count)
			}
			for range n {
				values = append(values, item.Value)
			}
		}
	}
	for n := range count {
		var one syntax.Expr
		if n < int64(len(values)) {
			one = values[n]
		}
		c.elements = append(c.elements, o.begin(c.t.element, one))
	}
}

// store writes a value to a cell, which turns it into its own type.
func store(c *cell, v value) {
	if c.t.family == wholeFamily {
		c.take(v.c)
		return
	}
	v = as(v, c.t)
	if c.t.plain != nil && (v.i < c.t.from || v.i > c.t.to) {
		fail("range")
	}
	if c.t.family == textFamily && len(v.s) > c.t.length {
		v.s = v.s[:c.t.length]
	}
	c.i, c.f, c.s = v.i, v.f, v.s
}

// as widens a value, or gives a bare number its type.
func as(v value, t *typ) value {
	if t == nil || v.t != nil && v.t.family == t.family && v.t.bits == t.bits {
		return v
	}
	out := value{t: t, i: v.i, f: v.f, s: v.s, c: v.c}
	if t.family == realFamily && (v.t == nil || v.t.family != realFamily) {
		out.f = float64(v.i)
		if v.t == nil && v.f != 0 {
			out.f = v.f
		}
	}
	if t.family == realFamily {
		out.f = rounded(t, out.f)
	}
	return out
}

// wrap cuts a whole number to its type, as two's complement does.
func wrap(t *typ, i int64) int64 {
	switch {
	case t.bits == 64 || t.family == enumFamily || t.family == boolFamily:
		return i
	case t.family == signedFamily:
		i &= 1<<t.bits - 1
		if i >= 1<<(t.bits-1) {
			i -= 1 << t.bits
		}
		return i
	}
	return i & (1<<t.bits - 1)
}

func truth(b bool) int64 {
	if b {
		return 1
	}
	return 0
}

func (o *Interpreter) boolean(b bool) value { return value{t: o.types["bool"], i: truth(b)} }

func (o *Interpreter) literal(l *syntax.Literal, want *typ) value {
	switch l.Kind {
	case syntax.Keyword:
		return o.boolean(l.Text == "TRUE")
	case syntax.Int:
		v := value{i: whole(l.Text)}
		if want != nil && (want.family <= realFamily) {
			return as(v, want)
		}
		return v
	case syntax.Real:
		f, _ := strconv.ParseFloat(strings.ReplaceAll(l.Text, "_", ""), 64)
		v := value{f: f}
		if want != nil && want.family == realFamily {
			return as(v, want)
		}
		return as(v, o.types["lreal"])
	case syntax.Str:
		return value{t: o.types["string"], s: strings.NewReplacer("$$", "$", "$'", "'", "$N", "\n").Replace(l.Text[1 : len(l.Text)-1])}
	}
	prefix, rest, _ := strings.Cut(l.Text, "#")
	switch prefix = lower(prefix); prefix {
	case "t", "time":
		return value{t: o.types["time"], i: duration(rest)}
	case "bool":
		return o.boolean(rest == "1" || strings.EqualFold(rest, "TRUE"))
	case "real", "lreal":
		f, _ := strconv.ParseFloat(rest, 64)
		return as(value{f: f}, o.types[prefix])
	}
	if v, ok := o.enums[lower(rest)]; ok {
		return v
	}
	negative := strings.HasPrefix(rest, "-")
	i := whole(strings.TrimPrefix(rest, "-"))
	if negative {
		i = -i
	}
	return value{t: o.types[prefix], i: i}
}

func whole(text string) int64 {
	text = strings.ReplaceAll(text, "_", "")
	base := 10
	if b, rest, ok := strings.Cut(text, "#"); ok {
		base, _ = strconv.Atoi(b)
		text = rest
	}
	u, _ := strconv.ParseUint(text, base, 64)
	return int64(u)
}

// duration reads 1m30s500ms, whole units only.
func duration(text string) int64 {
	negative := strings.HasPrefix(text, "-")
	text = strings.TrimPrefix(lower(text), "-")
	units := map[string]float64{"d": 86400e9, "h": 3600e9, "m": 60e9, "s": 1e9, "ms": 1e6, "us": 1e3, "ns": 1}
	total := 0.0
	for text != "" {
		n := strings.IndexFunc(text, func(r rune) bool { return r >= 'a' })
		number, _ := strconv.ParseFloat(text[:n], 64)
		text = text[n:]
		n = strings.IndexFunc(text, func(r rune) bool { return r < 'a' })
		if n < 0 {
			n = len(text)
		}
		total += number * units[text[:n]]
		text = text[n:]
	}
	if negative {
		total = -total
	}
	return int64(total)
}
