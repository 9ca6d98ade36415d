package check

import (
	"slices"
	"strings"
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

// Family returns the name without the type of a counter variant: CTU for CTU_DINT.
func (b *Block) Family() string {
	family, _, _ := strings.Cut(b.Name, "_")
	if family == "R" || family == "F" {
		return b.Name
	}
	return family
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

// standard lists the standard function blocks (IEC 61131-3, tables 43 to 46)
// and TACC, Celandine's own accumulating timer.
var standard = func() map[string]*Type {
	types := map[string]*Type{}
	add := func(name, purpose string, count *Type, members ...*Member) {
		types[name] = &Type{Name: name, Class: Instance, Block: &Block{Name: name, Purpose: purpose, Members: members, Count: count}}
	}
	in := func(name string, t *Type) *Member { return &Member{Name: name, Type: t} }
	out := func(name string, t *Type) *Member { return &Member{Name: name, Type: t, Output: true} }
	add("SR", "latch, set wins", nil, in("S1", Bool), in("R", Bool), out("Q1", Bool))
	add("RS", "latch, reset wins", nil, in("S", Bool), in("R1", Bool), out("Q1", Bool))
	add("R_TRIG", "rising edge", nil, in("CLK", Bool), out("Q", Bool))
	add("F_TRIG", "falling edge", nil, in("CLK", Bool), out("Q", Bool))
	for name, purpose := range map[string]string{"TON": "on-delay timer", "TOF": "off-delay timer", "TP": "pulse timer"} {
		add(name, purpose, nil, in("IN", Bool), in("PT", Time), out("Q", Bool), out("ET", Time))
	}
	add("TACC", "accumulating timer", nil, in("IN", Bool), in("R", Bool), in("PT", Time), out("Q", Bool), out("ET", Time))
	for _, count := range []*Type{Int, Dint, Lint, Udint, Ulint} {
		suffix := ""
		if count != Int {
			suffix = "_" + count.Name
		}
		add("CTU"+suffix, "up counter", count, in("CU", Bool), in("R", Bool), in("PV", count), out("Q", Bool), out("CV", count))
		add("CTD"+suffix, "down counter", count, in("CD", Bool), in("LD", Bool), in("PV", count), out("Q", Bool), out("CV", count))
		add("CTUD"+suffix, "up and down counter", count, in("CU", Bool), in("CD", Bool), in("R", Bool), in("LD", Bool), in("PV", count),
			out("QU", Bool), out("QD", Bool), out("CV", count))
	}
	return types
}()

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
