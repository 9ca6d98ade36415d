package machine

import (
	"math"
	"strconv"
	"strings"

	"celandine/core/check"
	"celandine/core/real"
)

// apply executes a standard function that is no operator. A function may have any number of arguments and an instruction has seven
// fields, so where they lie stands in the code's list of operands, and behind them the index of the type: ABS of a SINT wraps
// elsewhere than that of a LINT. What each operand counts in, bits, words or texts, follows from the type.
func (m *Machine) apply(in *instruction) Cause {
	x := m.code.operands[in.b : in.b+in.c]
	t := elementary[m.code.operands[in.b+in.c]]
	switch f := check.Function(in.n); {
	case f <= check.Truncate:
		m.words[in.a] = numeric(f, t, m.words[x[0]])
	case f <= check.RotateLeft:
		m.words[in.a] = shift(f, t, m.words[x[0]], m.words[x[1]])
	case f == check.Minimum || f == check.Maximum:
		m.extreme(f, in, t, x)
	case f == check.TimeTimes || f == check.TimeBy:
		m.words[in.a] = timeBy(f, m.words[x[0]], math.Float64frombits(uint64(m.words[x[1]])))
	case f == check.Multiplex:
		return m.multiplex(in, t, x)
	default:
		return m.textFunction(f, in, t, x)
	}
	return Finished
}

// numeric works on one number. Reals are rounded to their type.
func numeric(f check.Function, t *check.Type, v int64) int64 {
	if t.Class != check.Floating { // only ABS takes whole numbers
		if v < 0 && t.Class == check.Signed {
			return t.Wrap(-v)
		}
		return v
	}
	x := math.Float64frombits(uint64(v))
	if f == check.Truncate {
		return check.RealToInteger(check.Dint, math.Trunc(x))
	}
	return t.Wrap(int64(math.Float64bits(realFunction(f, x))))
}

func realFunction(f check.Function, x float64) float64 {
	switch f {
	case check.Absolute:
		return math.Abs(x)
	case check.SquareRoot:
		return math.Sqrt(x)
	case check.NaturalLog:
		return real.Log(x)
	case check.DecimalLog:
		return real.Log10(x)
	case check.Exponential:
		return real.Exp(x)
	case check.Sine:
		return real.Sin(x)
	case check.Cosine:
		return real.Cos(x)
	case check.Tangent:
		return real.Tan(x)
	case check.ArcSine:
		return real.Asin(x)
	case check.ArcCosine:
		return real.Acos(x)
	}
	return real.Atan(x)
}

// shift moves the bits of a bit string; a negative number moves nothing.
func shift(f check.Function, t *check.Type, v, n int64) int64 {
	if n < 0 {
		n = 0
	}
	bits := int64(t.Bits)
	u := uint64(v)
	switch f {
	case check.ShiftLeft:
		return t.Wrap(int64(u << uint64(n)))
	case check.ShiftRight:
		return t.Wrap(int64(u >> uint64(n)))
	case check.RotateRight:
		n = bits - n%bits
	}
	n %= bits
	return t.Wrap(int64(u<<uint64(n) | u>>uint64(bits-n)))
}

// extreme keeps the lesser or the greater of two values; of two that are alike or no numbers, a MIN the second and a MAX the first.
func (m *Machine) extreme(f check.Function, in *instruction, t *check.Type, x []operand) {
	if t.Class == check.Text {
		if m.texts[in.a] = m.texts[x[0]]; (m.texts[x[0]] < m.texts[x[1]]) == (f == check.Maximum) {
			m.texts[in.a] = m.texts[x[1]]
		}
		return
	}
	a, b := m.words[x[0]], m.words[x[1]]
	if less := check.Operate(check.Less, t, a, b) != 0; less == (f == check.Maximum) {
		a = b
	}
	m.words[in.a] = a
}

func timeBy(f check.Function, t int64, x float64) int64 {
	if f == check.TimeTimes {
		return check.RealToInteger(check.Time, float64(t)*x)
	}
	return check.RealToInteger(check.Time, float64(t)/x)
}

func (m *Machine) multiplex(in *instruction, t *check.Type, x []operand) Cause {
	k := m.words[x[0]]
	if k < 0 || k >= int64(len(x)-1) {
		return NoInput
	}
	from := x[k+1]
	switch t.Class {
	case check.Boolean:
		put(m.bits, in.a, from.read(m.bits))
	case check.Text:
		m.texts[in.a] = m.texts[from]
	default:
		m.words[in.a] = m.words[from]
	}
	return Finished
}

// textFunction works on texts. Positions count from 1 (IEC 61131-3, table 34); what lies
// outside a text is left out.
func (m *Machine) textFunction(f check.Function, in *instruction, t *check.Type, x []operand) Cause {
	text := func(i int) string { return m.texts[x[i]] }
	number := func(i int) int { return int(min(max(m.words[x[i]], 0), 1<<20)) }
	switch f {
	case check.Length:
		m.words[in.a] = int64(len(text(0)))
	case check.FindText:
		m.words[in.a] = int64(strings.Index(text(0), text(1)) + 1)
	case check.FromText:
		m.fromText(in.a, t, text(0))
	case check.ToText:
		m.texts[in.a] = m.toText(t, x[0])
	case check.Left:
		m.texts[in.a] = cut(text(0), number(1))
	case check.Right:
		s := text(0)
		m.texts[in.a] = s[max(len(s)-number(1), 0):]
	case check.Middle:
		m.texts[in.a] = cut(after(text(0), number(2)-1), number(1))
	case check.Concatenate:
		parts := make([]string, len(x))
		for i := range x {
			parts[i] = text(i)
		}
		m.texts[in.a] = cut(strings.Join(parts, ""), longestText)
	case check.InsertText:
		s := text(0)
		m.texts[in.a] = cut(cut(s, number(2))+text(1)+after(s, number(2)), longestText)
	case check.DeleteText:
		s := text(0)
		m.texts[in.a] = cut(s, max(number(2)-1, 0)) + after(s, max(number(2)-1, 0)+number(1))
	case check.ReplaceText:
		s, from := text(0), max(number(3)-1, 0)
		m.texts[in.a] = cut(cut(s, from)+text(1)+after(s, from+number(2)), longestText)
	}
	return Finished
}

// longestText is the most that a text on the way holds.
const longestText = 1_000

func after(s string, n int) string { return s[min(max(n, 0), len(s)):] }

func (m *Machine) toText(t *check.Type, from operand) string {
	switch t.Class {
	case check.Boolean:
		return t.Format(int64(m.bits[from]))
	case check.Text:
		return m.texts[from]
	}
	return t.Format(m.words[from])
}

// fromText reads a value; what is none becomes zero.
func (m *Machine) fromText(at uint32, t *check.Type, text string) {
	text = strings.TrimSpace(text)
	v, err := t.Kind().Parse(text)
	if err != nil && (t.IsInteger() || t.Class == check.BitString) {
		f, _ := strconv.ParseFloat(text, 64) // 0 where it is none
		v = check.RealToInteger(check.Lint, f)
	}
	if t.Class == check.Boolean {
		put(m.bits, at, byte(v&1))
		return
	}
	m.words[at] = t.Wrap(v)
}
