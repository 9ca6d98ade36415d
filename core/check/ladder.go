package check

import (
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

func (c *checker) series(s *syntax.Series) *Series {
	out := c.nodes.series.New()
	first := len(c.nodes.open)
	for _, e := range s.Elements {
		if typed := c.element(e); typed != nil {
			c.nodes.open = append(c.nodes.open, typed)
		}
	}
	out.Elements = c.nodes.elements.List(c.nodes.open[first:]...)
	c.nodes.open = c.nodes.open[:first]
	return out
}

func (c *checker) element(e syntax.Element) Element {
	switch e := e.(type) {
	case *syntax.Series:
		return c.series(e)
	case *syntax.Parallel:
		out := c.nodes.parallels.New()
		out.Branches = make([]*Series, 0, len(e.Branches))
		for _, branch := range e.Branches {
			out.Branches = append(out.Branches, c.series(branch))
		}
		return out
	case *syntax.Contact:
		return c.contact(e)
	case *syntax.Coil:
		return c.coil(e)
	case *syntax.Box:
		return c.box(e)
	}
	return nil
}

func (c *checker) contact(e *syntax.Contact) Element {
	edge := e.Kind == syntax.RisingContact || e.Kind == syntax.FallingContact
	if e.Operand == nil && !edge {
		c.report(source.Unnamed, e.Span, "Pick one, or delete the contact.", "This contact has no variable.")
		return nil
	}
	out := c.nodes.contacts.New()
	out.Kind, out.At = e.Kind, e.Span
	if e.Operand != nil {
		switch x := e.Operand.(type) {
		case *syntax.Identifier, *syntax.Member, *syntax.Address, *syntax.Index, *syntax.Binary, *syntax.Literal:
		case *syntax.Unary:
			c.report(source.WrongContact, e.Span, "Write [/"+x.X.Place().Text()+"] for a contact that passes power when the variable is FALSE.",
				"A contact holds one variable or a comparison.")
			return nil
		default:
			c.report(source.WrongContact, e.Span, "Write [x], or [x > 3].", "A contact holds one variable or a comparison.")
			return nil
		}
		if x, ok := e.Operand.(*syntax.Binary); ok && operators[x.Op] < Equal {
			c.report(source.WrongContact, e.Span, "Draw contacts in series for AND, and branches { a | b } for OR.",
				"A contact holds one variable or one comparison, not %s.", x.Op)
			return nil
		}
		if out.Operand = c.condition(e.Operand); out.Operand == nil {
			return nil
		}
	}
	c.warnContact(e, out)
	c.warnMark(e)
	switch {
	case e.Memory != nil && !edge:
		c.report(source.WrongContact, e.Span, "Write [P x @ m] or [N x @ m].", "Only an edge contact has a memory.")
	case e.Memory != nil:
		if out.Memory = c.target(e.Memory); out.Memory != nil {
			if out.Memory.Type().Plain() != Bool {
				c.report(source.WrongType, e.Memory.Place(), "", "An edge's memory is a BOOL; %s is %s %s.", out.Memory.Name(),
					article(out.Memory.Type().Name), out.Memory.Type().Name)
				return nil
			}
			c.remembers(out.Memory.Variable, useOf(out.Memory, e.Span))
		}
	case edge:
		out.Memory = c.memory(e.Span)
	}
	return out
}

func (c *checker) coil(e *syntax.Coil) Element {
	if e.Operand == nil {
		hint := "Pick one, or delete the coil."
		if mark := string(e.Kind); mark != "" && mark != "/" && c.find(mark) != nil {
			hint = "Write (" + strings.ToLower(mark) + ") for the variable " + c.find(mark).Name + ", or name what (" + mark + " …) writes."
		}
		c.report(source.Unnamed, e.Span, hint, "This coil has no variable.")
		return nil
	}
	target := c.target(e.Operand)
	if target == nil {
		return nil
	}
	if target.Type().Plain() != Bool {
		c.report(source.WrongType, e.Operand.Place(), "Use a box such as MOVE(value) => "+target.Name()+".", "A coil writes a BOOL; %s is %s %s.",
			target.Name(), article(target.Type().Name), target.Type().Name)
		return nil
	}
	c.writes(target.Variable, Wrote{use: useOf(target, e.Span), Coil: e.Kind, InRung: true,
		Conditional: e.Kind == syntax.SetCoil || e.Kind == syntax.ResetCoil})
	out := c.nodes.coils.New()
	out.Kind, out.Target, out.At = e.Kind, target, e.Span
	if e.Kind == syntax.RisingCoil || e.Kind == syntax.FallingCoil {
		out.Memory = c.memory(e.Span)
	}
	return out
}

// box checks a function or function block drawn in a rung.
func (c *checker) box(e *syntax.Box) Element {
	id, named := e.Call.Callee.(*syntax.Identifier)
	if named && c.find(id.Text) == nil {
		return c.functionBox(id, e)
	}
	callee := c.reference(e.Call.Callee)
	if callee == nil {
		return nil
	}
	if callee.Type().Class != Instance {
		c.report(source.WrongCall, e.Span, "Write ["+callee.Name()+"] for a contact or ("+callee.Name()+") for a coil.",
			"%s is %s %s and cannot be called.", callee.Name(), article(callee.Type().Name), callee.Type().Name)
		return nil
	}
	out := &BlockBox{}
	if !e.EN {
		out.In, out.Out = callee.Type().Block.PowerIn(), callee.Type().Block.PowerOut()
	}
	if out.Out == nil {
		out.In = nil // without a BOOL on both sides the power drives EN
	}
	if e.Result != nil {
		c.report(source.WrongCall, e.Result.Place(), "Write "+firstOf(callee.Type().Block.outputNames())+" => "+e.Result.Place().Text()+
			" inside the parentheses.", "A function block has no single result.")
	}
	if out.Call = c.blockCall(e.Call, out.In); out.Call == nil {
		return nil
	}
	if out.In == nil && out.Call.Enable != nil {
		c.report(source.WrongCall, e.Span, "", "EN is given twice.")
	}
	return out
}

// wholeBox is MOVE of an array or a structure.
func (c *checker) wholeBox(id *syntax.Identifier, e *syntax.Box, target *Ref) Element {
	value := c.valueFor(e.Call, target.Type())
	if value == nil {
		return nil
	}
	c.writes(target.Variable, Wrote{use: useOf(target, e.Span), Conditional: true})
	return &FunctionBox{Name: strings.ToUpper(id.Text), Value: value, Target: target, At: e.Span}
}

func (c *checker) functionBox(id *syntax.Identifier, e *syntax.Box) Element {
	var target *Ref
	var want *Type
	if e.Result != nil {
		if target = c.target(e.Result); target == nil {
			return nil
		}
		want = target.Type()
	}
	if target != nil && !want.IsSingle() && moved(e.Call) != e.Call {
		return c.wholeBox(id, e, target)
	}
	value, gate := c.function(id, e.Call, want)
	if value == nil {
		return nil
	}
	if target != nil {
		c.writes(target.Variable, Wrote{use: useOf(target, e.Span), Conditional: true})
		if value = c.convert(value, want); value == nil {
			return nil
		}
	} else if _, own := value.(*Invoke); !gate && !own {
		c.report(source.WrongCall, e.Span, "Write => and a variable after it.", "The result of %s goes nowhere.", strings.ToUpper(id.Text))
		return nil
	}
	return &FunctionBox{Name: strings.ToUpper(id.Text), Value: value, Target: target, Gate: gate, At: e.Span}
}
