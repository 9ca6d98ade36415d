package convert

import (
	"strings"

	"celandine/core/check"
	"celandine/core/syntax"
)

// typeName is the type of a variable or of a part of one, as it is declared, in capitals; "" where it has no name.
func (b *body) typeName(e syntax.Expr) string {
	if a, ok := e.(*syntax.Address); ok {
		return addressType(a.Text)
	}
	t, ok := b.typeOf(e).(*syntax.TypeName)
	if !ok {
		return ""
	}
	return strings.ToUpper(t.Text)
}

// declaredAs is the type of a variable or of a part of one, as a declaration has it.
func (b *body) declaredAs(e syntax.Expr) string {
	if a, ok := e.(*syntax.Address); ok {
		return addressType(a.Text)
	}
	if t := b.typeOf(e); t != nil {
		return syntax.PrintType(t)
	}
	return "BOOL"
}

// addressType is the type of a direct address: of bits where no size is written.
func addressType(text string) string {
	types := map[byte]string{'B': "BYTE", 'W': "WORD", 'D': "DWORD", 'L': "LWORD"}
	if t := types[strings.ToUpper(text)[2]]; t != "" {
		return t
	}
	return "BOOL"
}

func (b *body) typeOf(e syntax.Expr) syntax.TypeExpr {
	switch e := inner(e).(type) {
	case *syntax.Identifier:
		return b.declaredType(e.Text)
	case *syntax.Index:
		if t, ok := b.typeOf(e.Of).(*syntax.ArrayType); ok {
			return b.meant(t.Element)
		}
	case *syntax.Member:
		return b.memberType(b.typeOf(e.Of), e.Field.Text)
	}
	return nil
}

func typeNamed(text string) syntax.TypeExpr { return &syntax.TypeName{Name: syntax.Name{Text: text}} }

// declaredType is that of a name, as the unit sees it.
func (b *body) declaredType(text string) syntax.TypeExpr {
	if t := b.sectionsType(b.unit.Sections, text); t != nil {
		return t
	}
	if strings.EqualFold(b.unit.Name.Text, text) && b.unit.Result != nil {
		return b.meant(b.unit.Result)
	}
	if t := b.sectionsType(b.tree.Globals, text); t != nil {
		return t
	}
	for _, p := range b.points {
		if strings.EqualFold(p.Name, text) {
			return typeNamed(p.Type.Name)
		}
	}
	return nil
}

func (b *body) sectionsType(list []*syntax.Section, text string) syntax.TypeExpr {
	for _, s := range list {
		if t := b.variablesType(s.Variables, text); t != nil {
			return t
		}
	}
	return nil
}

func (b *body) variablesType(list []*syntax.Variable, text string) syntax.TypeExpr {
	for _, v := range list {
		for _, n := range v.Names {
			if strings.EqualFold(n.Text, text) {
				return b.meant(v.Type)
			}
		}
	}
	return nil
}

// meant is what a type's name stands for, where the text declares it, and of a part of a type what it is part of.
func (b *body) meant(t syntax.TypeExpr) syntax.TypeExpr {
	switch t := t.(type) {
	case *syntax.SubrangeType:
		return &syntax.TypeName{Name: t.Base}
	case *syntax.TypeName:
		for _, d := range b.tree.Types {
			if strings.EqualFold(d.Name.Text, t.Text) {
				if _, listed := d.Type.(*syntax.EnumType); listed {
					return t
				}
				return b.meant(d.Type)
			}
		}
	}
	return t
}

func (b *body) memberType(of syntax.TypeExpr, field string) syntax.TypeExpr {
	switch of := of.(type) {
	case *syntax.StructType:
		return b.variablesType(of.Fields, field)
	case *syntax.TypeName:
		if t := check.BlockNamed(of.Text); t != nil {
			if m := t.Block.Member(field); m != nil {
				return typeNamed(m.Type.Name)
			}
			return nil
		}
		for _, u := range b.tree.Units {
			if u.Kind == syntax.FunctionBlock && strings.EqualFold(u.Name.Text, of.Text) {
				return b.sectionsType(u.Sections, field)
			}
		}
	}
	return nil
}

// hidden reports a function whose name a variable has, so that it cannot be called.
func (b *body) hidden(function string) bool { return b.declaredType(function) != nil }
