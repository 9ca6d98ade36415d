package check

import (
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// A Value is what a variable begins with: one value, or a composition.
type Value struct {
	Number   int64
	Text     string
	Elements []*Value          // of an array, in order; nil elements begin as their type does
	Members  map[string]*Value // of a structure or instance, by lower-case name
}

// Begin returns the number that a single value of the type begins with: zero,
// the first enumeration value, or the lower limit of a subrange that excludes zero.
func (t *Type) Begin() int64 {
	if t.Initial != nil {
		return t.Initial.Number
	}
	if t.Base != nil && (t.Low > 0 || t.High < 0) {
		return t.Low
	}
	return 0
}

// initial reads the value after := in a declaration.
func (c *checker) initial(e syntax.Expr, t *Type) *Value {
	switch {
	case t.Class == Array:
		return c.arrayValue(e, t)
	case t.Class == Structure:
		return c.memberValues(e, t, t.Members)
	case t.Class == Instance:
		if t.Block.Unit != nil {
			return c.memberValues(e, t, t.Block.Members)
		}
		c.report(source.WrongInitial, e.Place(), "Give its inputs where it is called.", "A %s has no initial value.", t.Name)
		return nil
	}
	x := c.convert(c.expression(e, t), t)
	if x == nil {
		return nil
	}
	k, ok := x.(*Const)
	if !ok {
		c.report(source.WrongInitial, e.Place(), "Write a constant here, and assign the rest in the body.",
			"An initial value must be known before the run.")
		return nil
	}
	if !c.within(k, t) {
		return nil
	}
	return &Value{Number: k.Value, Text: k.Text}
}

// within reports a constant outside its subrange.
func (c *checker) within(k *Const, t *Type) bool {
	if t.Base == nil || k.Value >= t.Low && k.Value <= t.High {
		return true
	}
	c.report(source.OutOfRange, k.At, "", "%s is outside %s, which goes from %d to %d.", k.T.Format(k.Value), t.Name, t.Low, t.High)
	return false
}

func (c *checker) arrayValue(e syntax.Expr, t *Type) *Value {
	list, ok := e.(*syntax.ArrayValue)
	if !ok {
		c.report(source.WrongInitial, e.Place(), "Write the values in brackets, as in [1, 2, 8(0)].", "An array begins with a list of values.")
		return nil
	}
	v := &Value{}
	for _, item := range list.Items {
		count := int64(1)
		if item.Count != nil {
			count, ok = c.constant(item.Count, Lint)
			if !ok || count < 0 {
				return nil
			}
		}
		one := c.initial(item.Value, t.Element)
		if int64(len(v.Elements))+count > t.Count() {
			c.report(source.WrongInitial, item.Value.Place(), "", "These are more values than %s has elements, %d.", t.Name, t.Count())
			return nil
		}
		for range count {
			v.Elements = append(v.Elements, one)
		}
	}
	return v
}

func (c *checker) memberValues(e syntax.Expr, t *Type, members []*Member) *Value {
	list, ok := e.(*syntax.StructValue)
	if !ok {
		c.report(source.WrongInitial, e.Place(), "Write the fields in parentheses, as in (level := 1).", "A %s begins with a list of fields.",
			t.Name)
		return nil
	}
	v := &Value{Members: map[string]*Value{}}
	for _, f := range list.Fields {
		m := memberNamed(members, f.Name.Text)
		if m == nil {
			c.noMember(t, f.Name.Text, f.Name.Span)
			continue
		}
		v.Members[lower(m.Name)] = c.initial(f.Value, m.Type)
	}
	return v
}

// Of returns the initial value that a composition gives one of its members, or otherwise where it gives none. v may be nil.
func (v *Value) Of(member string, otherwise *Value) *Value {
	if v != nil {
		for name, value := range v.Members {
			if strings.EqualFold(name, member) && value != nil {
				return value
			}
		}
	}
	return otherwise
}
