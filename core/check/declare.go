package check

import (
	"strings"

	"celandine/core/say"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Limits of what one program may declare.
const (
	maxElements = 100_000 // of one array
	maxString   = 1_000
	maxCells    = 1_000_000 // single values in all, and texts as many as they are long
	bytesOfCell = 8
)

func lower(name string) string { return strings.ToLower(name) }

// declaredType is a TYPE that is looked at when it is first used.
type declaredType struct {
	tree  *syntax.TypeDeclaration
	typed *Type
	busy  bool
}

// typeOf resolves a type where one is declared; nil after a report.
func (c *checker) typeOf(e syntax.TypeExpr) *Type {
	switch e := e.(type) {
	case nil:
		return nil
	case *syntax.TypeName:
		if e.Text == "" {
			return nil // told already: there is none yet
		}
		return c.typeNamed(e)
	case *syntax.StringType:
		return c.stringType(e)
	case *syntax.SubrangeType:
		return c.subrange(e)
	case *syntax.EnumType:
		return c.enumeration(e)
	case *syntax.ArrayType:
		return c.arrayType(e)
	case *syntax.StructType:
		return c.structure(e)
	}
	return nil
}

func (c *checker) typeNamed(n *syntax.TypeName) *Type {
	if t := TypeNamed(n.Text); t != nil {
		return t
	}
	if t := BlockNamed(n.Text); t != nil {
		return t
	}
	if d := c.types[lower(n.Text)]; d != nil {
		return c.declared(d)
	}
	if u := c.blocks[lower(n.Text)]; u != nil {
		return c.blockType(u, n.Span)
	}
	if instead := unsupported[strings.ToUpper(n.Text)]; instead != "" {
		c.report(source.Unsupported, n.Span, instead, "The type %s is not supported.", strings.ToUpper(n.Text))
		return nil
	}
	hint := c.meant(n.Text, c.typeNames())
	if hint == "" {
		hint = "The usual ones are BOOL, INT, DINT and TIME, and the blocks TON, TOF, TP, CTU, CTD, R_TRIG."
	}
	c.report(source.WrongType, n.Span, hint, "There is no type named %s.", n.Text)
	return nil
}

// unsupported are the standard's types that there are not here, with what to use.
var unsupported = map[string]string{
	"DATE": noDate, "LDATE": noDate, "TIME_OF_DAY": noDate, "TOD": noDate, "LTOD": noDate, "DATE_AND_TIME": noDate, "DT": noDate,
	"LDT":   noDate,
	"LTIME": "Use TIME; it counts nanoseconds.", "WSTRING": "Use STRING.", "CHAR": "Use STRING[1].", "WCHAR": "Use STRING[1].",
	"POINTER": noPointer, "REF_TO": noPointer,
}

const (
	noDate    = "A program knows no clock. Use TIME for a duration, or INT."
	noPointer = "Use VAR_IN_OUT, or an array and an index."
)

func (c *checker) typeNames() []string {
	var names []string
	for _, t := range elementary {
		names = append(names, t.Name)
	}
	for name := range standard {
		names = append(names, name)
	}
	for _, d := range c.types {
		names = append(names, d.tree.Name.Text)
	}
	for _, u := range c.blocks {
		names = append(names, u.tree.Name.Text)
	}
	return names
}

func (c *checker) declared(d *declaredType) *Type {
	if d.typed != nil {
		return d.typed
	}
	if d.busy {
		c.report(source.Recursion, d.tree.Name.Span, "", "The type %s contains itself.", d.tree.Name.Text)
		return nil
	}
	d.busy = true
	t := c.typeOf(d.tree.Type)
	d.busy = false
	if t == nil {
		return nil
	}
	if _, alias := d.tree.Type.(*syntax.TypeName); !alias || d.tree.Initial != nil {
		own := *t
		own.Name = d.tree.Name.Text
		if t.Class == Enumeration {
			c.enumNames(&own)
		} else if alias && t.IsSingle() && own.Base == nil {
			own.Base, own.Low, own.High = t, -1<<63, 1<<63-1 // the same values, beginning elsewhere
		}
		t = &own
	}
	if d.tree.Initial != nil {
		t.Initial = c.initial(d.tree.Initial, t)
	}
	d.typed = t
	return t
}

func (c *checker) stringType(e *syntax.StringType) *Type {
	if e.Length == nil {
		return String
	}
	n, ok := c.constant(e.Length, Lint)
	if !ok {
		return nil
	}
	if n < 1 || n > maxString {
		c.report(source.TooLarge, e.Span, "", "A STRING holds 1 to %d characters.", maxString)
		return nil
	}
	return &Type{Name: say.Textf("STRING[%d]", n), Class: Text, Length: int(n)}
}

func (c *checker) subrange(e *syntax.SubrangeType) *Type {
	base := c.typeNamed(&syntax.TypeName{Name: e.Base})
	if base == nil {
		return nil
	}
	if !base.IsInteger() {
		c.report(source.WrongType, e.Base.Span, "", "Only whole numbers have a subrange; %s is none.", base.Name)
		return nil
	}
	low, ok1 := c.constant(e.Low, base)
	high, ok2 := c.constant(e.High, base)
	if !ok1 || !ok2 {
		return nil
	}
	if low > high {
		c.report(source.OutOfRange, e.Span, "Write the lesser value first.", "This range is empty.")
		return nil
	}
	return &Type{Name: say.Textf("%s (%d..%d)", base.Name, low, high), Class: base.Class, Bits: base.Bits, Base: base, Low: low, High: high}
}

func (c *checker) enumeration(e *syntax.EnumType) *Type {
	t := &Type{Name: "(" + e.Values[0].Text + ", …)", Class: Enumeration, Bits: 16}
	for _, v := range e.Values {
		if old := c.enums[lower(v.Text)]; old != nil {
			c.report(source.Duplicate, v.Span, "Give one of them another name.", "%s is a value of an enumeration already.", v.Text)
			continue
		}
		t.Values = append(t.Values, v.Text)
	}
	c.enumNames(t)
	return t
}

// enumNames makes the values known by their names alone.
func (c *checker) enumNames(t *Type) {
	for i, name := range t.Values {
		c.enums[lower(name)] = &Const{T: t, Value: int64(i)}
	}
}

func (c *checker) arrayType(e *syntax.ArrayType) *Type {
	element := c.typeOf(e.Element)
	t := &Type{Class: Array, Element: element}
	var words []string
	for _, r := range e.Ranges {
		low, ok1 := c.constant(r.Low, Lint)
		high, ok2 := c.constant(r.High, Lint)
		if !ok1 || !ok2 {
			return nil
		}
		if low > high || uint64(high-low) >= maxElements { // the difference of any two fits into 64 bits without a sign
			c.report(source.OutOfRange, r.Low.Place().To(r.High.Place()),
				say.Textf("Write the first index, then the last; at most %d elements.", maxElements), "An array cannot go from %d to %d.", low, high)
			return nil
		}
		t.Bounds = append(t.Bounds, Bounds{low, high})
		words = append(words, say.Textf("%d..%d", low, high))
		if t.Count() > maxElements {
			c.report(source.TooLarge, e.Span, "", "This array has %d elements; the limit is %d.", t.Count(), maxElements)
			return nil
		}
	}
	if element == nil {
		return nil
	}
	t.Name = "ARRAY [" + strings.Join(words, ", ") + "] OF " + element.Name
	if n := c.cellsOf(t); n > maxCells {
		c.report(source.TooLarge, e.Span, "", "This array holds more than %d values, which is what a program may hold.", maxCells)
		return nil
	}
	return t
}

// cellsOf counts the single values in a type; of one that holds more than a program may, maxCells + 1.
func (c *checker) cellsOf(t *Type) (n int64) {
	switch {
	case t.Class == Text:
		return int64(1 + t.Length/bytesOfCell)
	case t.IsSingle():
		return 1
	}
	if n, known := c.counted[t]; known {
		return n
	}
	add := func(more int64) { n = min(n+more, maxCells+1) } // each is at most maxCells + 1
	switch t.Class {
	case Array:
		add(t.Count() * c.cellsOf(t.Element)) // at most maxElements times maxCells + 1
	case Structure:
		for _, m := range t.Members {
			add(c.cellsOf(m.Type))
		}
	case Instance:
		add(8)
		if t.Block.Unit == nil {
			break
		}
		for _, v := range t.Block.Unit.Variables {
			if v.Type != nil {
				add(c.cellsOf(v.Type))
			}
		}
	}
	c.counted[t] = n
	return n
}

func (c *checker) structure(e *syntax.StructType) *Type {
	t := &Type{Name: "STRUCT", Class: Structure}
	for _, f := range e.Fields {
		ft := c.typeOf(f.Type)
		if ft == nil {
			continue
		}
		if ft.Class == Instance {
			c.report(source.WrongType, f.Type.Place(), "Declare the block in VAR.", "A structure cannot hold a function block.")
			continue
		}
		var initial *Value
		if f.Initial != nil {
			initial = c.initial(f.Initial, ft)
		}
		for _, n := range f.Names {
			if memberNamed(t.Members, n.Text) != nil {
				c.report(source.Duplicate, n.Span, "Give one of them another name.", "The field %s stands twice.", n.Text)
			}
			t.Members = append(t.Members, &Member{Name: n.Text, Type: ft, Initial: initial})
		}
	}
	return t
}

// A pending unit is a function or function block; its face is made when first used.
type pending struct {
	tree  *syntax.Unit
	unit  *Unit
	typed *Type // of a function block
	scope map[string]*Variable
	busy  bool
	faced bool
}

// face declares a unit's variables.
func (c *checker) face(u *pending) bool {
	if u.faced {
		return true
	}
	if u.busy {
		return false
	}
	u.busy = true
	scope, name, owner := c.scope, c.unitName, c.owner
	u.scope = map[string]*Variable{}
	c.scope, c.unitName, c.owner = u.scope, u.tree.Name.Text, u.unit
	if u.tree.Kind == syntax.Function {
		c.result(u)
	}
	for _, s := range u.tree.Sections {
		c.section(s)
	}
	c.scope, c.unitName, c.owner = scope, name, owner
	u.busy, u.faced = false, true
	return true
}

// result declares the variable named like the function, which it returns.
func (c *checker) result(u *pending) {
	if u.tree.Result == nil {
		c.report(source.WrongType, u.tree.Name.Span, "Write, for example, FUNCTION "+u.tree.Name.Text+" : INT.", "The function %s has no type.",
			u.tree.Name.Text)
	}
	t := c.typeOf(u.tree.Result)
	if t != nil && !t.IsSingle() {
		c.report(source.WrongType, u.tree.Result.Place(), "Give the rest through VAR_OUTPUT.", "A function returns a single value.")
		t = nil
	}
	v := &Variable{Name: u.tree.Name.Text, Type: t, Owner: u.unit, Temp: true, Unit: u.tree.Name.Text, Span: u.tree.Name.Span}
	u.unit.Result = v
	u.unit.Variables = append(u.unit.Variables, v)
	u.scope[lower(v.Name)] = v
}

// blockType returns the type of a function block of one's own.
func (c *checker) blockType(u *pending, at source.Span) *Type {
	if u.typed == nil {
		u.typed = &Type{Name: u.tree.Name.Text, Class: Instance, Block: &Block{Name: u.tree.Name.Text, Purpose: "function block", Unit: u.unit}}
	}
	if !c.face(u) {
		c.report(source.Recursion, at, "A block may hold other blocks, but not itself.", "The function block %s contains itself.",
			u.tree.Name.Text)
		return nil
	}
	if u.typed.Block.Members == nil {
		for _, v := range u.unit.Variables {
			if v.Type != nil && (v.Role == Input || v.Role == Output || v.InOut) {
				u.typed.Block.Members = append(u.typed.Block.Members,
					&Member{Name: v.Name, Type: v.Type, Output: v.Role == Output, InOut: v.InOut, Variable: v})
			}
		}
	}
	return u.typed
}
