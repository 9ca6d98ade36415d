package signal

import (
	"math"
	"math/bits"
	"strconv"
	"strings"
	"time"

	"celandine/core/say"
)

var timeUnits = []struct {
	name string
	size time.Duration
}{
	{"d", 24 * time.Hour}, {"h", time.Hour}, {"m", time.Minute}, {"s", time.Second},
	{"ms", time.Millisecond}, {"us", time.Microsecond}, {"ns", time.Nanosecond},
}

// FormatTime writes a TIME as T#1m30s500ms.
func FormatTime(d time.Duration) string { return "T#" + formatSpan(d) }

// FormatClock writes an instant or a length for people: 4.12 s, 250 ms, 1 min 30 s.
func FormatClock(d time.Duration) string {
	if d < 0 {
		return "-" + clock(-uint64(d)) // the least of all has no opposite among the signed
	}
	return clock(uint64(d))
}

func clock(d uint64) string {
	switch {
	case d >= uint64(time.Minute):
		text := say.Textf("%d min", d/uint64(time.Minute))
		if rest := d % uint64(time.Minute); rest > 0 {
			text += " " + clock(rest)
		}
		return text
	case d >= uint64(time.Second) || d == 0:
		return decimal(d, uint64(time.Second)) + " s"
	}
	return decimal(d, uint64(time.Millisecond)) + " ms"
}

// decimal writes a length in a unit with just the digits it has: 1.59, where a float would have 1.5899999999999999.
func decimal(d, unit uint64) string {
	text := strconv.FormatUint(d/unit, 10)
	if rest := d % unit; rest > 0 {
		text += "." + strings.TrimRight(strconv.FormatUint(unit+rest, 10)[1:], "0")
	}
	return text
}

func formatSpan(d time.Duration) string {
	if d == 0 {
		return "0s"
	}
	var b strings.Builder
	left := uint64(d)
	if d < 0 {
		b.WriteByte('-')
		left = -left
	}
	for _, u := range timeUnits {
		if n := left / uint64(u.size); n > 0 {
			b.WriteString(say.Textf("%d%s", n, u.name))
			left %= uint64(u.size)
		}
	}
	return b.String()
}

// ParseTime reads a TIME literal (T#1m30s500ms, TIME#-1.5s). Units go from
// large to small, each at most once, and only the last may have a fraction
// (IEC 61131-3, table 8). A bare 1m30s, as exercises write it, is read too.
func ParseTime(text string) (time.Duration, error) {
	rest := strings.ToLower(text)
	for _, prefix := range []string{"t#", "time#"} {
		if strings.HasPrefix(rest, prefix) {
			rest = rest[len(prefix):]
			break
		}
	}
	negative := strings.HasPrefix(rest, "-")
	rest = strings.TrimLeft(rest, "+-")
	if rest == "" {
		return 0, say.Errorf("%q has no length; write a time like 1m30s or 500ms", text)
	}
	var total float64
	var whole uint64
	unit := -1
	for rest != "" {
		number, name, tail := splitTime(rest)
		next := unitNamed(name)
		switch {
		case number == "" || next < 0:
			return 0, say.Errorf("%q is not a time; write it like 1m30s or 500ms, with the units d h m s ms us ns", text)
		case next <= unit:
			return 0, say.Errorf("%q has its units out of order; write d h m s ms us ns from left to right, each once", text)
		case strings.Contains(number, ".") && tail != "":
			return 0, say.Errorf("%q has a fraction before its last unit", text)
		}
		n, err := strconv.ParseFloat(number, 64)
		if err != nil {
			return 0, say.Errorf("%q is not a time", text)
		}
		size := uint64(timeUnits[next].size)
		total += n * float64(size)
		if total > math.MaxInt64 {
			return 0, say.Errorf("%q is longer than the longest TIME, T#106751d23h47m16s", text)
		}
		integer, fraction, _ := strings.Cut(number, ".")
		i, _ := strconv.ParseUint(integer, 10, 64)
		whole += i*size + fractionOf(fraction, size)
		unit, rest = next, tail
	}
	if whole > math.MaxInt64 {
		return 0, say.Errorf("%q is longer than the longest TIME, T#106751d23h47m16s", text)
	}
	if negative {
		return -time.Duration(whole), nil
	}
	return time.Duration(whole), nil
}

// fractionOf returns the part of a unit that the digits after a point name,
// cut (not rounded) to nanoseconds.
func fractionOf(digits string, size uint64) uint64 {
	if len(digits) > 15 {
		digits = digits[:15]
	}
	n, _ := strconv.ParseUint("0"+digits, 10, 64)
	high, low := bits.Mul64(n, size)
	part, _ := bits.Div64(high, low, pow10(len(digits)))
	return part
}

func pow10(n int) uint64 {
	p := uint64(1)
	for range n {
		p *= 10
	}
	return p
}

func splitTime(text string) (number, unit, rest string) {
	i := 0
	for i < len(text) && (text[i] >= '0' && text[i] <= '9' || text[i] == '.' || text[i] == '_') {
		i++
	}
	j := i
	for j < len(text) && text[j] >= 'a' && text[j] <= 'z' {
		j++
	}
	rest = strings.TrimPrefix(text[j:], "_")
	return strings.ReplaceAll(text[:i], "_", ""), text[i:j], rest
}

func unitNamed(name string) int {
	for i, u := range timeUnits {
		if u.name == name {
			return i
		}
	}
	return -1
}
