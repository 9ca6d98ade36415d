// Package syntax turns program text into a tree.
//
// [Parse] reads declarations, structured text, ladder and block diagrams in one pass and goes
// on after a mistake, so that one reading reports every independent error. The tree keeps each
// node's [source.Span]; comments stand beside it. The text form is IEC 61131-3 structured text, and for
// ladder Celandine's own notation, in which -- joins in series and { a | b }
// in parallel.
//
// The package knows no names and no types: that is the check room's job.
package syntax

import "celandine/core/source"

// A File is one parsed text.
type File struct {
	Source   *source.File
	Types    []*TypeDeclaration
	Globals  []*Section // VAR_GLOBAL
	Units    []*Unit
	Comments []Comment
}

// A TypeDeclaration gives a type a name. Initial may be nil.
type TypeDeclaration struct {
	Name    Name
	Type    TypeExpr
	Initial Expr
	Span    source.Span
}

// UnitKind tells what a unit is.
type UnitKind string

// The kinds of unit, by their keyword.
const (
	Program       UnitKind = "PROGRAM"
	FunctionBlock UnitKind = "FUNCTION_BLOCK"
	Function      UnitKind = "FUNCTION"
)

// A Unit is a program, function block or function: declarations and a body.
type Unit struct {
	Kind     UnitKind
	Name     Name
	Result   TypeExpr // of a function
	Sections []*Section
	Body     Body
	Span     source.Span
}

// Inputs are the names of what goes into a unit, in the order in which they are declared: VAR_INPUT and VAR_IN_OUT.
func (u *Unit) Inputs() (names []string) {
	for _, s := range u.Sections {
		if s.Word != "VAR_INPUT" && s.Word != "VAR_IN_OUT" {
			continue
		}
		for _, v := range s.Variables {
			for _, n := range v.Names {
				names = append(names, n.Text)
			}
		}
	}
	return names
}

// A Name is an identifier at a place. Text is as written.
type Name struct {
	Text string
	Span source.Span
}

// A Section is one VAR … END_VAR. Word is the keyword that opens it.
type Section struct {
	Word      string
	Constant  bool
	Retain    bool
	Variables []*Variable
	Span      source.Span
}

// A Variable declares one or more names of one type. Type is never nil: where the text has none yet, it is a TypeName without text.
type Variable struct {
	Names   []Name
	Address *Address // AT, or nil
	Type    TypeExpr
	Initial Expr // or nil
	Span    source.Span
}

// A TypeExpr is a type where one is declared.
type TypeExpr interface{ Place() source.Span }

type (
	// TypeName names a type.
	TypeName struct{ Name }
	// StringType is STRING or STRING[n]; Length may be nil.
	StringType struct {
		Length Expr
		Span   source.Span
	}
	// SubrangeType is INT (0..100).
	SubrangeType struct {
		Base      Name
		Low, High Expr
		Span      source.Span
	}
	// EnumType is (idle, filling, done).
	EnumType struct {
		Values []Name
		Span   source.Span
	}
	// ArrayType is ARRAY [a..b, c..d] OF Element.
	ArrayType struct {
		Ranges  []Bounds
		Element TypeExpr
		Span    source.Span
	}
	// StructType is STRUCT … END_STRUCT.
	StructType struct {
		Fields []*Variable
		Span   source.Span
	}
)

// Bounds are the first and last index of one dimension.
type Bounds struct{ Low, High Expr }

// Place returns where the type stands.
func (t *TypeName) Place() source.Span { return t.Span }

// Place returns where the type stands.
func (t *StringType) Place() source.Span { return t.Span }

// Place returns where the type stands.
func (t *SubrangeType) Place() source.Span { return t.Span }

// Place returns where the type stands.
func (t *EnumType) Place() source.Span { return t.Span }

// Place returns where the type stands.
func (t *ArrayType) Place() source.Span { return t.Span }

// Place returns where the type stands.
func (t *StructType) Place() source.Span { return t.Span }

// A Body is a *Text, a *Ladder or a *Diagram.
type Body interface{ body() }

// Text is a body in structured text.
type Text struct{ Statements []Statement }

// Ladder is a body of rungs. Its span begins with LADDER and ends with END_LADDER.
type Ladder struct {
	Rungs []*Rung
	Span  source.Span
}

// LanguageOf is what a body is written in: ladder, fbd or st, as files end.
func LanguageOf(b Body) string {
	switch b.(type) {
	case *Ladder:
		return "ladder"
	case *Diagram:
		return "fbd"
	}
	return "st"
}

func (*Text) body()   {}
func (*Ladder) body() {}

// A Rung is one network from the power rail on the left.
type Rung struct {
	Title string
	Net   *Series
	Span  source.Span
}

// An Element is what stands in a rung.
type Element interface {
	Place() source.Span
	element()
}

// Series is elements one after the other; an empty one is a plain wire.
type Series struct {
	Elements []Element
	Span     source.Span
}

// Parallel is branches side by side, the upper first.
type Parallel struct {
	Branches []*Series
	Span     source.Span
}

// ContactKind is the mark inside a contact: "", "/", "P" or "N".
type ContactKind string

// The kinds of contact.
const (
	OpenContact    ContactKind = ""
	ClosedContact  ContactKind = "/"
	RisingContact  ContactKind = "P"
	FallingContact ContactKind = "N"
)

// A Contact passes power or not; as an argument of a block diagram it is an edge. Operand is nil where the drawing has none
// yet; for P and N that means the edge of the power itself. A comparison
// contact is an open one whose operand is a Binary.
type Contact struct {
	Kind    ContactKind
	Operand Expr
	Memory  Expr // after @, or nil
	Span    source.Span
}

// CoilKind is the mark inside a coil: "", "/", "S", "R", "P" or "N".
type CoilKind string

// The kinds of coil.
const (
	PlainCoil   CoilKind = ""
	NegatedCoil CoilKind = "/"
	SetCoil     CoilKind = "S"
	ResetCoil   CoilKind = "R"
	RisingCoil  CoilKind = "P"
	FallingCoil CoilKind = "N"
)

// A Coil writes the power that reaches it. Operand is nil where the drawing
// has none yet.
type Coil struct {
	Kind    CoilKind
	Operand Expr
	Span    source.Span
}

// A Box is a function or function block drawn in a rung. Result is what
// follows => and may be nil. EN tells that power drives EN.
type Box struct {
	Call   *Call
	EN     bool
	Result Expr
	Span   source.Span
}

func (*Series) element()   {}
func (*Parallel) element() {}
func (*Contact) element()  {}
func (*Coil) element()     {}
func (*Box) element()      {}

// Place returns where the element stands.
func (e *Series) Place() source.Span { return e.Span }

// Place returns where the element stands.
func (e *Parallel) Place() source.Span { return e.Span }

// Place returns where the element stands.
func (e *Contact) Place() source.Span { return e.Span }

// Place returns where the element stands.
func (e *Coil) Place() source.Span { return e.Span }

// Place returns where the element stands.
func (e *Box) Place() source.Span { return e.Span }

// A Statement is one of the statements of structured text.
type Statement interface{ statement() }

type (
	// Assignment is Target := Value.
	Assignment struct {
		Target Expr
		Value  Expr
		Span   source.Span
	}
	// CallStatement calls a function block instance.
	CallStatement struct {
		Call *Call
		Span source.Span
	}
	// If has one condition and list more than the ELSE; Else may be nil.
	If struct {
		Arms []Arm
		Else []Statement
		Span source.Span
	}
	// Arm is IF or ELSIF with what it governs.
	Arm struct {
		Condition Expr
		Body      []Statement
	}
	// Case chooses by value.
	Case struct {
		Value   Expr
		Choices []Choice
		Else    []Statement
		Span    source.Span
	}
	// Choice is one line of a Case.
	Choice struct {
		Labels []Label
		Body   []Statement
	}
	// Label is a value, or a range when To is set.
	Label struct{ From, To Expr }
	// For counts; Step may be nil.
	For struct {
		Counter        Expr
		From, To, Step Expr
		Body           []Statement
		Span           source.Span
	}
	// While tests before each turn.
	While struct {
		Condition Expr
		Body      []Statement
		Span      source.Span
	}
	// Repeat tests after each turn.
	Repeat struct {
		Body  []Statement
		Until Expr
		Span  source.Span
	}
	// Jump is EXIT, CONTINUE or RETURN.
	Jump struct {
		Word string
		Span source.Span
	}
)

func (*Assignment) statement()    {}
func (*CallStatement) statement() {}
func (*If) statement()            {}
func (*Case) statement()          {}
func (*For) statement()           {}
func (*While) statement()         {}
func (*Repeat) statement()        {}
func (*Jump) statement()          {}

// An Expr has a value, or names a place.
type Expr interface{ Place() source.Span }

type (
	// Identifier is a bare name.
	Identifier struct{ Name }
	// Member is a name inside another, such as settle.ET.
	Member struct {
		Of    Expr
		Field Name
	}
	// Index is an element of an array.
	Index struct {
		Of   Expr
		At   []Expr
		Span source.Span
	}
	// Address is a direct address such as %IX0.3.
	Address struct {
		Text string
		Span source.Span
	}
	// Literal is a written value; Kind is the token's.
	Literal struct {
		Kind Kind
		Text string
		Span source.Span
	}
	// Unary is NOT x, -x or +x.
	Unary struct {
		Op   string
		X    Expr
		Span source.Span
	}
	// Binary is x op y; Op is upper case.
	Binary struct {
		Op     string
		X, Y   Expr
		OpSpan source.Span
		Span   source.Span
	}
	// Paren keeps the parentheses that a person wrote.
	Paren struct {
		X    Expr
		Span source.Span
	}
	// ArrayValue is [1, 2(0)], where an array begins.
	ArrayValue struct {
		Items []ArrayItem
		Span  source.Span
	}
	// StructValue is (a := 1), where a structure begins.
	StructValue struct {
		Fields []Argument
		Span   source.Span
	}
	// Call is name(arguments).
	Call struct {
		Callee    Expr
		Arguments []Argument
		Span      source.Span
	}
)

// An Argument is by position (no Name), an input (Name := Value), or an
// output (Name => Value). Value is nil where the drawing has none yet.
type Argument struct {
	Name   *Name
	Output bool
	Value  Expr
	Span   source.Span
}

// Place returns where the expression stands.
func (e *Identifier) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *Member) Place() source.Span { return e.Of.Place().To(e.Field.Span) }

// Place returns where the expression stands.
func (e *Index) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *Address) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *Literal) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *Unary) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *Binary) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *Paren) Place() source.Span { return e.Span }

// An ArrayItem is a value, Count times; Count may be nil.
type ArrayItem struct {
	Count Expr
	Value Expr
}

// Place returns where the expression stands.
func (e *ArrayValue) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *StructValue) Place() source.Span { return e.Span }

// Place returns where the expression stands.
func (e *Call) Place() source.Span { return e.Span }
