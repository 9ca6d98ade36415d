package check

import (
	"slices"
	"strings"

	"celandine/core/block"
	"celandine/core/signal"
)

// A Block is the face of a function block: what goes in and what comes out.
type Block struct {
	Name    string
	Purpose string // "on-delay timer"
	Members []*Member
	// Count is the type that a counter counts in, else nil.
	Count *Type
	// Unit is the declaration of a block of one's own, else nil.
	Unit *Unit
	// Standard is the description of a standard block, else nil.
	Standard *block.Block
}

// A Member is an input or output of a block, or a field of a structure.
type Member struct {
	Name   string
	Type   *Type
	Output bool
	InOut  bool
	// Variable is the variable of a block of one's own that the member is.
	Variable *Variable
	Initial  *Value // of a structure's field
}

// Kind is the standard block's name without the type of a counter variant, CTU for CTU_DINT, or the name of a block of one's own.
func (b *Block) Kind() string {
	if b.Standard != nil {
		return b.Standard.Name
	}
	return b.Name
}

// Member returns the input or output of that name, in any case, or nil.
func (b *Block) Member(name string) *Member { return memberNamed(b.Members, name) }

func memberNamed(list []*Member, name string) *Member {
	for _, m := range list {
		if strings.EqualFold(m.Name, name) {
			return m
		}
	}
	return nil
}

// PowerIn returns the first BOOL input, which power in a rung drives.
func (b *Block) PowerIn() *Member { return b.firstBool(false) }

// PowerOut returns the first BOOL output, which is the power out.
func (b *Block) PowerOut() *Member { return b.firstBool(true) }

func (b *Block) firstBool(output bool) *Member {
	for _, m := range b.Members {
		if m.Output == output && !m.InOut && m.Type == Bool {
			return m
		}
	}
	return nil
}

func (b *Block) memberNames(outputs bool) []string {
	var names []string
	for _, m := range b.Members {
		if m.Output == outputs {
			names = append(names, m.Name)
		}
	}
	return names
}

// standard are the types of the standard function blocks and their variants, by name.
var standard = func() map[string]*Type {
	types := map[string]*Type{}
	for _, b := range block.All() {
		for _, name := range b.Names() {
			_, counts := block.Named(name)
			types[name] = &Type{Name: name, Class: Instance, Block: faceOf(b, name, TypeNamed(counts))}
		}
	}
	return types
}()

func faceOf(b *block.Block, name string, count *Type) *Block {
	face := &Block{Name: name, Purpose: b.Says, Standard: b, Count: count}
	for i, p := range b.Pins() {
		t := map[signal.Kind]*Type{signal.Bool: Bool, signal.Time: Time, signal.Int: count}[p.Kind]
		face.Members = append(face.Members, &Member{Name: p.Name, Type: t, Output: i >= len(b.In)})
	}
	return face
}

// Blocks lists the standard function blocks by name.
func Blocks() []*Block {
	var list []*Block
	for _, t := range standard {
		list = append(list, t.Block)
	}
	slices.SortFunc(list, func(a, b *Block) int { return strings.Compare(a.Name, b.Name) })
	return list
}

// BlockNamed returns the type of the standard function block, in any case of
// letters, or nil.
func BlockNamed(name string) *Type { return standard[strings.ToUpper(name)] }

func (b *Block) inputNames() []string  { return b.memberNames(false) }
func (b *Block) outputNames() []string { return b.memberNames(true) }
