package source

import (
	"strconv"
	"strings"
)

// NormalAddress returns the upper-case address with X for a bit: %I0.3 is %IX0.3.
func NormalAddress(text string) string {
	a := strings.ToUpper(text)
	if len(a) > 2 && a[2] >= '0' && a[2] <= '9' {
		a = a[:2] + "X" + a[2:]
	}
	return a
}

// A BitRange is the bits of an area that an address covers, counted from bit 0 of byte 0: From is in, To is out.
type BitRange struct {
	Area     byte // I, Q or M
	From, To int
}

// BitsAt returns the bits of a well-formed address. Numbers count bytes, whatever the size: %MW4 is the bytes 4 and 5.
func BitsAt(address string) BitRange {
	a := NormalAddress(address)
	bits := 1 << max(strings.IndexByte("X  BWDL", a[2]), 0)
	bytes, bit, _ := strings.Cut(a[3:], ".")
	n, _ := strconv.Atoi(bytes)
	b, _ := strconv.Atoi(bit)
	return BitRange{a[1], n*8 + b, n*8 + b + bits}
}

// Overlaps reports whether two ranges have bits in common.
func (r BitRange) Overlaps(o BitRange) bool {
	return r.Area == o.Area && r.From < o.To && o.From < r.To
}

// Overlap reports whether two well-formed addresses have bits in common.
func Overlap(a, b string) bool {
	return BitsAt(a).Overlaps(BitsAt(b))
}
