// Package check gives names and types to a syntax tree.
//
// [Check] takes parsed files and the points of a panel and returns a typed [Program], in which every name is a [Variable],
// every expression has a [Type], conversions are explicit and constants are folded; or the list of what is wrong. It also finds
// what is legal but seldom meant, and says so as warnings. It runs nothing.
package check

import (
	"slices"
	"strings"

	"celandine/core/source"
	"celandine/core/syntax"
)

// A Point is an input or output of a panel, in scope in every program.
type Point struct {
	Name    string
	Type    *Type
	Address string // %IX0.0, or ""
	Input   bool
	Initial int64 // what an input shows at rest
	Label   string
}

// Role tells who may write a variable.
type Role uint8

// The roles.
const (
	Local Role = iota
	Input
	Output
	System // FIRST_SCAN
)

// A Variable is a named place. Two names on one address share one Variable's
// storage: Same is the first of them.
type Variable struct {
	Name     string
	Type     *Type
	Role     Role
	Address  string
	Initial  *Value // or nil: the type's own
	Constant bool
	Point    bool        // of the panel
	Unit     string      // the program that declares it, "" for points and globals
	Owner    *Unit       // the function or function block whose every instance has one, else nil
	InOut    bool        // stands for the caller's variable
	Temp     bool        // begins anew at every call
	Retain   bool        // keeps its value over a restart
	Same     *Variable   // whose storage this name shares, or nil
	Span     source.Span // of the declaration; nowhere for points
	Hidden   bool        // an edge contact's or coil's own memory, or what a block diagram holds in between
	Made     *Assign     // of what a block diagram holds in between: what gives it its value, or of an edge its operand's
	Edge     *Contact    // of such a one that is an edge: what is sensed
	uses     usage
}

// Storage returns the variable that owns the bits.
func (v *Variable) Storage() *Variable {
	if v.Same != nil {
		return v.Same
	}
	return v
}

// A Program is everything that runs: its variables, and the bodies in order.
type Program struct {
	Variables []*Variable // of programs, the panel and VAR_GLOBAL
	Units     []*Unit     // the programs
	networks  []*Network
	wires     []*Variable // of block diagrams
	blocks    map[*syntax.Call]*Block
	functions map[*syntax.Call]*Unit
}

// BlockCalled returns the block of which a call of the text calls an instance, or nil.
func (p *Program) BlockCalled(call *syntax.Call) *Block { return p.blocks[call] }

// FunctionCalled returns the function of one's own that a call of the text calls, or nil.
func (p *Program) FunctionCalled(call *syntax.Call) *Unit { return p.functions[call] }

// Inputs returns the variables that the world writes.
func (p *Program) Inputs() []*Variable { return p.withRole(Input) }

// Outputs returns the variables that the world reads.
func (p *Program) Outputs() []*Variable { return p.withRole(Output) }

// Temporaries returns a program's VAR_TEMP, which begin anew in each scan.
func (p *Program) Temporaries(u *Unit) (list []*Variable) {
	for _, v := range p.Variables {
		if v.Temp && v.Unit == u.Name {
			list = append(list, v)
		}
	}
	return list
}

func (p *Program) withRole(role Role) []*Variable {
	var list []*Variable
	for _, v := range p.Variables {
		if v.Role == role && v.Same == nil {
			list = append(list, v)
		}
	}
	return list
}

// A Unit is a PROGRAM, FUNCTION_BLOCK or FUNCTION: statements, or rungs.
type Unit struct {
	Kind       syntax.UnitKind
	Name       string
	Variables  []*Variable // of a function or function block, in order
	Inputs     []*Variable // of a function, VAR_IN_OUT among them
	Outputs    []*Variable // of a function
	Result     *Variable   // of a function
	Statements []Statement
	Rungs      []*Rung
	Tree       *syntax.Unit
	calls      []unitCall
}

// unitCall is where a unit calls another, the last time.
type unitCall struct {
	unit *Unit
	at   source.Span
}

func (u *Unit) called(callee *Unit, at source.Span) {
	n := slices.IndexFunc(u.calls, func(c unitCall) bool { return c.unit == callee })
	if n < 0 {
		u.calls = append(u.calls, unitCall{callee, at})
		return
	}
	u.calls[n].at = at
}

// An Expr is a typed expression.
type Expr interface {
	Type() *Type
	Span() source.Span
}

type (
	// Const is a value known before the run; Text is that of a Text.
	Const struct {
		T     *Type
		Value int64
		Text  string
		At    source.Span
	}
	// Ref reads or writes a variable, or what Path selects in it.
	Ref struct {
		Variable *Variable
		Path     []Selector
		At       source.Span
	}
	// Selector is one step into a composition: a member, or the element of an
	// array that Index (a LINT for each dimension) names. Type is what it arrives at.
	Selector struct {
		Member *Member
		Index  []Expr
		Type   *Type
	}
	// Op applies an operator to operands of one type; the result is of type T. The operand that was written on the left
	// is worked out first.
	Op struct {
		Op     Operator
		T      *Type
		X, Y   Expr // Y is nil for Not and Negate
		At     source.Span
		Turned bool // written as y > x or y >= x
	}
	// Choose is X where If is TRUE, else Y. Both are worked out, Y first, as SEL has it.
	Choose struct {
		If, X, Y Expr
		At       source.Span
	}
	// Apply calls a standard function that is no operator.
	Apply struct {
		Function Function
		T        *Type
		X        []Expr
		At       source.Span
	}
	// Invoke calls a function of one's own. Inputs has a value for every input.
	Invoke struct {
		Unit    *Unit
		Inputs  []Binding
		Outputs []Binding
		At      source.Span
	}
	// Convert is X as another type.
	Convert struct {
		T *Type
		X Expr
	}
)

// Operator is what an Op does.
type Operator uint8

// The operators.
const (
	Not Operator = iota
	Negate
	And
	Or
	Xor
	Add
	Sub
	Mul
	Div
	Mod
	Power
	Equal
	NotEqual
	Less
	LessEqual
)

func (e *Const) Type() *Type   { return e.T }
func (e *Op) Type() *Type      { return e.T }
func (e *Choose) Type() *Type  { return e.X.Type() }
func (e *Convert) Type() *Type { return e.T }
func (e *Apply) Type() *Type   { return e.T }
func (e *Invoke) Type() *Type  { return e.Unit.Result.Type }

// Type returns the type of what the reference arrives at.
func (e *Ref) Type() *Type {
	if len(e.Path) > 0 {
		return e.Path[len(e.Path)-1].Type
	}
	return e.Variable.Type
}

// Member returns the member that the reference ends in, or nil.
func (e *Ref) Member() *Member {
	if len(e.Path) > 0 {
		return e.Path[len(e.Path)-1].Member
	}
	return nil
}

// Select returns the reference to a member of what this one arrives at.
func (e *Ref) Select(m *Member) *Ref {
	path := append(e.Path[:len(e.Path):len(e.Path)], Selector{Member: m, Type: m.Type})
	return &Ref{e.Variable, path, e.At}
}

// Name returns the name as a watch list has it: settle.ET, trays[3].
func (e *Ref) Name() string {
	name := e.Variable.Name
	for _, s := range e.Path {
		if s.Member != nil {
			name += "." + s.Member.Name
			continue
		}
		words := make([]string, len(s.Index))
		for i, x := range s.Index {
			words[i] = x.Span().Text()
			if k, ok := x.(*Const); ok {
				words[i] = k.T.Format(k.Value)
			}
		}
		name += "[" + strings.Join(words, ", ") + "]"
	}
	return name
}

func (e *Const) Span() source.Span   { return e.At }
func (e *Ref) Span() source.Span     { return e.At }
func (e *Op) Span() source.Span      { return e.At }
func (e *Choose) Span() source.Span  { return e.At }
func (e *Convert) Span() source.Span { return e.X.Span() }
func (e *Apply) Span() source.Span   { return e.At }
func (e *Invoke) Span() source.Span  { return e.At }

// A Statement is a typed statement.
type Statement interface{ statement() }

type (
	// Assign writes Value to Target.
	Assign struct {
		Target *Ref
		Value  Expr
		At     source.Span
	}
	// Call runs a function block instance once. Inputs left out keep their
	// values. Enable, where it is not nil, is EN; ENO, where it is not nil, takes ENO.
	Call struct {
		Instance *Ref
		Inputs   []Binding
		Outputs  []Binding
		Enable   Expr
		ENO      *Ref
		At       source.Span
	}
	// If runs the first arm whose condition is TRUE.
	If struct {
		Arms []Arm
		Else []Statement
		At   source.Span
	}
	// Arm is one IF or ELSIF.
	Arm struct {
		Condition Expr
		Body      []Statement
	}
	// Case runs the choice that has the value.
	Case struct {
		Value   Expr
		Choices []Choice
		Else    []Statement
		At      source.Span
	}
	// Choice is what Case runs for some values.
	Choice struct {
		Labels []Label
		Body   []Statement
	}
	// Label is the values From … To.
	Label struct{ From, To int64 }
	// For counts from From to To by Step.
	For struct {
		Counter        *Ref
		From, To, Step Expr
		Body           []Statement
		At             source.Span
	}
	// While tests before each turn.
	While struct {
		Condition Expr
		Body      []Statement
		At        source.Span
	}
	// Repeat tests after each turn.
	Repeat struct {
		Body  []Statement
		Until Expr
		At    source.Span
	}
	// Evaluate calls a function of one's own for what it does besides.
	Evaluate struct {
		Value Expr
		At    source.Span
	}
	// Jump is EXIT, CONTINUE or RETURN.
	Jump struct {
		Word string
		At   source.Span
	}
)

// A Binding ties a block's member, or a function's variable, to a value going
// in or a place going out. An in-out has its caller's place as Target.
type Binding struct {
	Member   *Member
	Variable *Variable // of a function of one's own
	Value    Expr      // of an input
	Target   *Ref      // of an output or in-out
}

func (*Assign) statement()   {}
func (*Call) statement()     {}
func (*If) statement()       {}
func (*Case) statement()     {}
func (*For) statement()      {}
func (*While) statement()    {}
func (*Repeat) statement()   {}
func (*Jump) statement()     {}
func (*Evaluate) statement() {}

// A Network is one of a block diagram's.
type Network struct {
	Title  string
	Number int // from 1 in its body
	At     source.Span
}

// WireAt returns what a block diagram holds under the name that stands at a place, or nil.
func (p *Program) WireAt(at source.Span) *Variable {
	for _, v := range p.wires {
		if v.Span == at {
			return v
		}
	}
	return nil
}

// NetworkAt returns the network of a block diagram in which a place stands, or nil.
func (p *Program) NetworkAt(at source.Span) *Network {
	for _, n := range p.networks {
		if n.At.File == at.File && n.At.Start <= at.Start && at.End <= n.At.End {
			return n
		}
	}
	return nil
}

// A Rung is one typed network.
type Rung struct {
	Title  string
	Number int // from 1 in its program
	Net    *Series
	At     source.Span
}

// An Element stands in a rung.
type Element interface{ element() }

type (
	// Series passes power through each element in turn.
	Series struct{ Elements []Element }
	// Parallel passes power if any branch does; all branches run, the upper first.
	Parallel struct{ Branches []*Series }
	// Contact passes power by its operand. For an edge with no operand the
	// power itself is sensed. Memory is set for edges.
	Contact struct {
		Kind    syntax.ContactKind
		Operand Expr
		Memory  *Ref
		At      source.Span
	}
	// Coil writes the power. Memory is set for edges.
	Coil struct {
		Kind   syntax.CoilKind
		Target *Ref
		Memory *Ref
		At     source.Span
	}
	// BlockBox calls an instance. Power drives In, or EN where In is nil;
	// Out, or ENO where Out is nil, is the power out.
	BlockBox struct {
		Call *Call
		In   *Member
		Out  *Member
	}
	// FunctionBox computes Value when it has power and writes it to Target,
	// which may be nil. The power out is the power in; where Gate is set, the BOOL Value decides as well.
	FunctionBox struct {
		Name   string
		Value  Expr
		Target *Ref
		Gate   bool
		At     source.Span
	}
)

// Share brings variables up to one that was just written and lies on the same bits. Power passes through it.
type Share struct{ Assigns []*Assign }

func (*Share) element()       {}
func (*Series) element()      {}
func (*Parallel) element()    {}
func (*Contact) element()     {}
func (*Coil) element()        {}
func (*BlockBox) element()    {}
func (*FunctionBox) element() {}

// PlaceOf is where a rung or statement stands, with all that is in it; of anything else it is no place.
func PlaceOf(place any) source.Span {
	switch s := place.(type) {
	case *Rung:
		return s.At
	case *Assign:
		return s.At
	case *Call:
		return s.At
	case *Evaluate:
		return s.At
	case *Jump:
		return s.At
	case *If:
		return s.At
	case *Case:
		return s.At
	case *For:
		return s.At
	case *While:
		return s.At
	case *Repeat:
		return s.At
	}
	return source.Span{}
}
