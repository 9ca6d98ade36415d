// Package real computes the transcendental functions of IEC 61131-3 to the same
// bits on every host.
//
// Go's own take a processor's instructions where there are some, and may join a
// product and a sum into one rounding, so that the last digit differs between machines. Here every
// product is rounded by itself (a conversion to float64 forbids joining), and only operations are used that
// IEEE 754 defines to the last bit. Errors stay below two units of the last place.
//
// The approximations are public ones: exponential and logarithm those of FreeBSD's msun (Sun Microsystems 1993, "Permission to use, copy,
// modify, and distribute this software is freely granted, provided that this notice is preserved"), the others those of
// the Cephes library (Stephen L. Moshier 1984–2000).
package real

import "math"

// Bits are the bits of a real. All that are not numbers have the same, since processors disagree about them.
func Bits(f float64) int64 {
	if f != f {
		return notANumber
	}
	return int64(math.Float64bits(f))
}

const notANumber = 0x7FF8000000000001

// times is a product that is rounded.
func times(x, y float64) float64 { return float64(x * y) }

// polynomial has the coefficient of the highest power first.
func polynomial(x float64, coefficients ...float64) float64 {
	sum := coefficients[0]
	for _, c := range coefficients[1:] {
		sum = times(sum, x) + c
	}
	return sum
}

// The natural logarithm of 2, in two parts that add up to more digits.
const (
	ln2High = 6.93147180369123816490e-01
	ln2Low  = 1.90821492927058770002e-10
)

// Exp is e to the power x.
func Exp(x float64) float64 {
	const overflow, underflow, nearZero = 7.09782712893383973096e+02, -7.45133219101941108420e+02, 1.0 / (1 << 28)
	switch {
	case x != x:
		return x
	case x > overflow:
		return math.Inf(1)
	case x < underflow:
		return 0
	case -nearZero < x && x < nearZero:
		return 1 + x
	}
	k := int(times(math.Log2E, x) + math.Copysign(0.5, x))
	high := x - times(float64(k), ln2High)
	low := times(float64(k), ln2Low)
	r := high - low
	t := times(r, r)
	c := r - times(t, polynomial(t, 4.13813679705723846039e-08, -1.65339022054652515390e-06, 6.61375632143793436117e-05,
		-2.77777777770155933842e-03, 1.66666666666666657415e-01))
	return math.Ldexp(1-((low-times(r, c)/(2-c))-high), k)
}

// Log is the natural logarithm.
func Log(x float64) float64 {
	switch {
	case x != x || math.IsInf(x, 1):
		return x
	case x < 0:
		return math.NaN()
	case x == 0:
		return math.Inf(-1)
	}
	f, exponent := math.Frexp(x)
	if f < math.Sqrt2/2 {
		f, exponent = f*2, exponent-1
	}
	f--
	k := float64(exponent)
	s := f / (2 + f)
	s2 := times(s, s)
	s4 := times(s2, s2)
	t1 := times(s2, polynomial(s4, 1.479819860511658591e-01, 1.818357216161805012e-01, 2.857142874366239149e-01, 6.666666666666735130e-01))
	t2 := times(s4, polynomial(s4, 1.531383769920937332e-01, 2.222219843214978396e-01, 3.999999999940941908e-01))
	half := times(0.5*f, f)
	return times(k, ln2High) - ((half - (times(s, half+(t1+t2)) + times(k, ln2Low))) - f)
}

// Log10 is the logarithm to the base 10.
func Log10(x float64) float64 { return times(Log(x), 1/math.Ln10) }

// Pow is x to the power y.
func Pow(x, y float64) float64 {
	if special, ok := specialPower(x, y); ok {
		return special
	}
	whole, part := math.Modf(math.Abs(y))
	if part != 0 && x < 0 {
		return math.NaN()
	}
	if whole >= 1<<63 {
		if x == -1 {
			return 1
		}
		return limit((math.Abs(x) < 1) == (y > 0))
	}
	result, exponent := 1.0, 0
	if part != 0 {
		if part > 0.5 {
			part, whole = part-1, whole+1
		}
		result = Exp(times(part, Log(x)))
	}
	result, exponent = square(x, int64(whole), result)
	if y < 0 {
		result, exponent = 1/result, -exponent
	}
	return math.Ldexp(result, exponent)
}

// square multiplies result by x to a whole power, by squaring; it keeps the power of two apart.
func square(x float64, power int64, result float64) (float64, int) {
	exponent := 0
	f, e := math.Frexp(x)
	for ; power != 0; power >>= 1 {
		if e < -1<<12 || e > 1<<12 { // beyond every float64 already
			return result, exponent + e
		}
		if power&1 == 1 {
			result = times(result, f)
			exponent += e
		}
		f, e = times(f, f), e<<1
		if f < 0.5 {
			f, e = f+f, e-1
		}
	}
	return result, exponent
}

func limit(small bool) float64 {
	if small {
		return 0
	}
	return math.Inf(1)
}

// specialPower gives the powers that IEEE 754 lists.
func specialPower(x, y float64) (float64, bool) {
	switch {
	case y == 0 || x == 1:
		return 1, true
	case y == 1:
		return x, true
	case x != x || y != y:
		return math.NaN(), true
	case x == 0 || math.IsInf(x, 0):
		v := limit((x == 0) == (y > 0))
		if math.Signbit(x) && odd(y) {
			v = -v
		}
		return v, true
	case math.IsInf(y, 0) && x == -1:
		return 1, true
	case math.IsInf(y, 0):
		return limit((math.Abs(x) < 1) == (y > 0)), true
	case y == 0.5:
		return math.Sqrt(x), true
	case y == -0.5:
		return 1 / math.Sqrt(x), true
	}
	return 0, false
}

func odd(y float64) bool {
	if math.Abs(y) >= 1<<53 {
		return false
	}
	whole, part := math.Modf(y)
	return part == 0 && int64(whole)&1 == 1
}
