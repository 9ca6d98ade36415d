package check

import (
	"math"
	"strings"

	"celandine/core/signal"
)

// Class groups the types that obey the same rules.
type Class uint8

// The classes of type.
const (
	Boolean Class = iota
	Signed
	Unsigned
	BitString
	Duration
	Instance // a function block's memory
)

// A Type is an elementary type or a function block. Elementary types are
// compared by pointer.
type Type struct {
	Name  string
	Class Class
	Bits  int    // of a number or bit string
	Block *Block // of an instance
}

// The elementary types.
var (
	Bool  = &Type{Name: "BOOL", Class: Boolean, Bits: 1}
	Sint  = &Type{Name: "SINT", Class: Signed, Bits: 8}
	Int   = &Type{Name: "INT", Class: Signed, Bits: 16}
	Dint  = &Type{Name: "DINT", Class: Signed, Bits: 32}
	Lint  = &Type{Name: "LINT", Class: Signed, Bits: 64}
	Usint = &Type{Name: "USINT", Class: Unsigned, Bits: 8}
	Uint  = &Type{Name: "UINT", Class: Unsigned, Bits: 16}
	Udint = &Type{Name: "UDINT", Class: Unsigned, Bits: 32}
	Ulint = &Type{Name: "ULINT", Class: Unsigned, Bits: 64}
	Byte  = &Type{Name: "BYTE", Class: BitString, Bits: 8}
	Word  = &Type{Name: "WORD", Class: BitString, Bits: 16}
	Dword = &Type{Name: "DWORD", Class: BitString, Bits: 32}
	Lword = &Type{Name: "LWORD", Class: BitString, Bits: 64}
	Time  = &Type{Name: "TIME", Class: Duration, Bits: 64}
)

var elementary = []*Type{Bool, Sint, Int, Dint, Lint, Usint, Uint, Udint, Ulint, Byte, Word, Dword, Lword, Time}

// TypeNamed returns the elementary type of that name, in any case, or nil.
func TypeNamed(name string) *Type {
	for _, t := range elementary {
		if strings.EqualFold(t.Name, name) {
			return t
		}
	}
	return nil
}

// Kind tells how a recorded value of the type is read.
func (t *Type) Kind() signal.Kind {
	switch t.Class {
	case Boolean:
		return signal.Bool
	case Duration:
		return signal.Time
	case Unsigned, BitString:
		if t.Bits == 64 {
			return signal.Uint
		}
	}
	return signal.Int
}

// Format writes a value of the type as people read it.
func (t *Type) Format(v int64) string { return t.Kind().Format(v) }

// IsInteger reports whether the type counts: signed or unsigned.
func (t *Type) IsInteger() bool { return t.Class == Signed || t.Class == Unsigned }

func (t *Type) isBits() bool { return t.Class == Boolean || t.Class == BitString }

// Range returns the least and the greatest value of an integer or bit string.
// The greatest ULINT does not fit an int64; it is told by unsigned64.
func (t *Type) Range() (least, greatest int64) {
	switch {
	case t.Class == Signed || t.Class == Duration:
		return -1 << (t.Bits - 1), 1<<(t.Bits-1) - 1
	case t.Bits == 64:
		return 0, math.MaxInt64
	}
	return 0, 1<<t.Bits - 1
}

func (t *Type) unsigned64() bool {
	return t.Bits == 64 && (t.Class == Unsigned || t.Class == BitString)
}

// Wrap cuts a value to the type as two's complement does.
func (t *Type) Wrap(v int64) int64 {
	shift := 64 - t.Bits
	switch t.Class {
	case Signed, Duration:
		return v << shift >> shift
	case Unsigned, BitString:
		return int64(uint64(v) << shift >> shift)
	}
	return v & 1
}

// widens reports whether every value of from is a value of to
// (IEC 61131-3, figure 11: implicit conversions).
func widens(from, to *Type) bool {
	if from == to {
		return true
	}
	switch {
	case from.Class == to.Class && from.Class != Duration && from.Class != Instance:
		return from.Bits <= to.Bits
	case from.Class == Unsigned && to.Class == Signed:
		return from.Bits < to.Bits
	}
	return false
}

// common returns the narrower of the two types that holds both, or nil.
func common(a, b *Type) *Type {
	switch {
	case widens(a, b):
		return b
	case widens(b, a):
		return a
	}
	for _, t := range elementary {
		if widens(a, t) && widens(b, t) {
			return t
		}
	}
	return nil
}
