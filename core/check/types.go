package check

import (
	"math"
	"slices"
	"strings"

	"celandine/core/say"
	"celandine/core/signal"
)

// Class groups the types that obey the same rules.
type Class uint8

// The classes of type. Those up to Enumeration are single values.
const (
	Boolean Class = iota
	Signed
	Unsigned
	BitString
	Floating
	Duration
	Text
	Enumeration
	Array
	Structure
	Instance // a function block's memory
)

// A Type is elementary or declared. Types are compared by pointer; see [Type.Plain] for subranges.
type Type struct {
	Name    string
	Class   Class
	Bits    int       // of a number or bit string
	Length  int       // of a Text, in characters
	Base    *Type     // of a subrange: the type whose values these are
	Low     int64     // of a subrange
	High    int64     // of a subrange
	Values  []string  // of an enumeration
	Element *Type     // of an array
	Bounds  []Bounds  // of an array
	Members []*Member // of a structure
	Block   *Block    // of an instance
	Initial *Value    // that the declaration gives, or nil
}

// Bounds are the first and last index of one dimension of an array.
type Bounds struct{ Low, High int64 }

// Count returns the number of elements of an array.
func (t *Type) Count() int64 {
	n := int64(1)
	for _, b := range t.Bounds {
		n *= b.High - b.Low + 1
	}
	return n
}

// Plain returns the type without its limits: INT for INT (0..100).
func (t *Type) Plain() *Type {
	if t.Base != nil {
		return t.Base
	}
	return t
}

// IsSingle reports whether a value of the type is one value, not a composition.
func (t *Type) IsSingle() bool { return t.Class <= Enumeration }

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
	Real  = &Type{Name: "REAL", Class: Floating, Bits: 32}
	Lreal = &Type{Name: "LREAL", Class: Floating, Bits: 64}
	Time  = &Type{Name: "TIME", Class: Duration, Bits: 64}
	// String is a text of the usual length; STRING[n] is a type of its own.
	String = &Type{Name: "STRING", Class: Text, Length: 80}
)

var elementary = []*Type{Bool, Sint, Int, Dint, Lint, Usint, Uint, Udint, Ulint, Byte, Word, Dword, Lword, Real, Lreal, Time, String}

// Elementary lists the types that need no declaration, always in the same order.
func Elementary() []*Type { return elementary }

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
	case Floating:
		return signal.Real
	case Text, Enumeration:
		return signal.Text
	case Unsigned, BitString:
		if t.Bits == 64 {
			return signal.Uint
		}
	}
	return signal.Int
}

// Format writes a value of the type as people read it.
func (t *Type) Format(v int64) string {
	if t.Class == Enumeration && v >= 0 && v < int64(len(t.Values)) {
		return t.Values[v]
	}
	return t.Kind().Format(v)
}

// Parse reads a single value of the type, but a text, as people write it; of an enumeration its name.
func (t *Type) Parse(text string) (int64, error) {
	if t.Class != Enumeration {
		return t.Kind().Parse(text)
	}
	for i, name := range t.Values {
		if strings.EqualFold(name, text) {
			return int64(i), nil
		}
	}
	return 0, say.Errorf("%q is none of %s", text, strings.Join(t.Values, ", "))
}

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
	case Boolean:
		return v & 1
	case Floating:
		return roundReal(t, v)
	}
	return v
}

// widens reports whether every value of from is a value of to
// (IEC 61131-3, figure 11: implicit conversions). Limits of a subrange and the length of a text are
// looked at when the program runs.
func widens(from, to *Type) bool {
	from, to = from.Plain(), to.Plain()
	if from == to {
		return true
	}
	switch {
	case from.Class == Text || from.Class >= Duration && from.Class != Text:
		return from.Class == Text && to.Class == Text
	case from.Class == to.Class:
		return from.Bits <= to.Bits
	case from.Class == Unsigned && to.Class == Signed:
		return from.Bits < to.Bits
	case from.IsInteger() && to.Class == Floating:
		return from.Bits <= to.Bits/2
	}
	return false
}

// same reports whether two types are one: arrays and texts are by what they hold, whatever declares them, all others by their declaration.
func same(a, b *Type) bool {
	switch {
	case a == b:
		return true
	case a.Class == Array && b.Class == Array:
		return slices.Equal(a.Bounds, b.Bounds) && same(a.Element, b.Element)
	}
	return a.Class == Text && b.Class == Text && a.Length == b.Length
}

// common returns the narrower of the two types that holds both, or nil.
func common(a, b *Type) *Type {
	a, b = a.Plain(), b.Plain()
	switch {
	case widens(a, b):
		return b
	case widens(b, a):
		return a
	}
	for _, t := range elementary {
		if t.Class <= Floating && widens(a, t) && widens(b, t) {
			return t
		}
	}
	return nil
}

// IsUnsigned64 tells of a type whose values use all 64 bits and have no sign.
func (t *Type) IsUnsigned64() bool {
	return t.Bits == 64 && (t.Class == Unsigned || t.Class == BitString)
}

// Fit shortens a text to what a variable of the type holds.
func (t *Type) Fit(s string) string {
	if len(s) > t.Length {
		return s[:t.Length]
	}
	return s
}
