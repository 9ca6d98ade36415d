package real

import (
	"math"
	"math/bits"
)

// A quarter of π in three parts, so that taking multiples of it away keeps every digit.
const (
	quarter1 = 7.85398125648498535156e-1
	quarter2 = 3.77489470793079817668e-8
	quarter3 = 2.69515142907905952645e-15
)

// octant returns in which eighth of the circle x, which is not negative, lies, and how far it is from the nearest even one.
func octant(x float64) (uint64, float64) {
	if x >= 1<<29 {
		return reduce(x)
	}
	j := uint64(times(x, 4/math.Pi))
	if j&1 == 1 {
		j++
	}
	y := float64(j)
	return j & 7, ((x - times(y, quarter1)) - times(y, quarter2)) - times(y, quarter3)
}

func sine(z float64) float64 {
	zz := times(z, z)
	return z + times(times(z, zz), polynomial(zz, 1.58962301576546568060e-10, -2.50507477628578072866e-8, 2.75573136213857245213e-6,
		-1.98412698295895385996e-4, 8.33333333332211858878e-3, -1.66666666666666307295e-1))
}

func cosine(z float64) float64 {
	zz := times(z, z)
	return 1 - times(0.5, zz) + times(times(zz, zz),
		polynomial(zz, -1.13585365213876817300e-11, 2.08757008419747316778e-9, -2.75573141792967388112e-7,
			2.48015872888517045348e-5, -1.38888888888730564116e-3, 4.16666666666665929218e-2))
}

// Sin is the sine of an angle in radians.
func Sin(x float64) float64 {
	if x == 0 || x != x || math.IsInf(x, 0) {
		return x - x + math.Copysign(0, x) // itself or not a number
	}
	j, z := octant(math.Abs(x))
	y := sine(z)
	if j&3 == 2 {
		y = cosine(z)
	}
	if (j > 3) != (x < 0) {
		return -y
	}
	return y
}

// Cos is the cosine of an angle in radians.
func Cos(x float64) float64 {
	if x != x || math.IsInf(x, 0) {
		return math.NaN()
	}
	j, z := octant(math.Abs(x))
	y := cosine(z)
	if j&3 == 2 {
		y = sine(z)
	}
	if j == 2 || j == 4 {
		return -y
	}
	return y
}

// Tan is the tangent of an angle in radians.
func Tan(x float64) float64 {
	if x == 0 || x != x || math.IsInf(x, 0) {
		return x - x + math.Copysign(0, x)
	}
	j, z := octant(math.Abs(x))
	y, zz := z, times(z, z)
	if zz > 1e-14 {
		above := polynomial(zz, -1.30936939181383777646e4, 1.15351664838587416140e6, -1.79565251976484877988e7)
		below := polynomial(zz, 1, 1.36812963470692954678e4, -1.32089234440210967447e6, 2.50083801823357915839e7, -5.38695755929454629881e7)
		y = z + times(z, times(zz, above)/below)
	}
	if j&2 == 2 {
		y = -1 / y
	}
	return math.Copysign(1, x) * y
}

// Atan is the angle in radians whose tangent is x.
func Atan(x float64) float64 {
	if x == 0 {
		return x
	}
	return math.Copysign(arc(math.Abs(x)), x)
}

// Asin is the angle whose sine is x; it is not a number beyond −1 to 1.
func Asin(x float64) float64 {
	a := math.Abs(x)
	if x == 0 {
		return x
	}
	if !(a <= 1) {
		return math.NaN()
	}
	other := math.Sqrt(1 - times(a, a))
	if a > 0.7 {
		return math.Copysign(math.Pi/2-arc(other/a), x)
	}
	return math.Copysign(arc(a/other), x)
}

// Acos is the angle whose cosine is x; it is not a number beyond −1 to 1.
func Acos(x float64) float64 { return math.Pi/2 - Asin(x) }

// arc is the arc tangent of what is not negative.
func arc(x float64) float64 {
	const more = 6.123233995736765886130e-17 // π/2 has this much more than a float64 holds
	switch {
	case x <= 0.66:
		return smallArc(x)
	case x > 2.41421356237309504880: // the tangent of 3π/8
		return math.Pi/2 - smallArc(1/x) + more
	}
	return math.Pi/4 + smallArc((x-1)/(x+1)) + 0.5*more
}

func smallArc(x float64) float64 {
	z := times(x, x)
	above := polynomial(z, -8.750608600031904122785e-01, -1.615753718733365076637e+01, -7.500855792314704667340e+01,
		-1.228866684490136173410e+02, -6.485021904942025371773e+01)
	below := polynomial(z, 1, 2.485846490142306297962e+01, 1.650270098316988542046e+02, 4.328810604912902668951e+02,
		4.853903996359136964868e+02, 1.945506571482613964425e+02)
	return times(x, times(z, above)/below) + x
}

const (
	mantissa = 52
	bias     = 1023
)

// reduce does what octant does for large angles, after Payne and Hanek: it multiplies by as many binary digits of
// 4/π as matter, in whole numbers.
func reduce(x float64) (uint64, float64) {
	ix := math.Float64bits(x)
	exponent := int(ix>>mantissa&0x7FF) - bias - mantissa
	ix = ix&(1<<mantissa-1) | 1<<mantissa
	digit, shift := uint(exponent+61)/64, uint(exponent+61)%64
	part := func(i uint) uint64 { return fourOverPi[digit+i]<<shift | fourOverPi[digit+i+1]>>(64-shift) }
	high2, _ := bits.Mul64(part(2), ix)
	high1, low1 := bits.Mul64(part(1), ix)
	low, carry := bits.Add64(low1, high2, 0)
	high, _ := bits.Add64(part(0)*ix, high1, carry)
	j := high >> 61
	high = high<<3 | low>>61
	zeros := uint(bits.LeadingZeros64(high))
	high = high<<(zeros+1) | low>>(64-(zeros+1))
	z := math.Float64frombits(high>>(64-mantissa) | uint64(bias-(zeros+1))<<mantissa)
	if j&1 == 1 {
		j, z = (j+1)&7, z-1
	}
	return j, times(z, math.Pi/4)
}

// fourOverPi holds the binary digits of 4/π: a whole one, then 1216 of the fraction.
var fourOverPi = [...]uint64{
	0x0000000000000001, 0x45f306dc9c882a53, 0xf84eafa3ea69bb81, 0xb6c52b3278872083, 0xfca2c757bd778ac3, 0x6e48dc74849ba5c0, 0x0c925dd413a32439,
	0xfc3bd63962534e7d, 0xd1046bea5d768909, 0xd338e04d68befc82, 0x7323ac7306a673e9, 0x3908bf177bf25076, 0x3ff12fffbc0b301f, 0xde5e2316b414da3e,
	0xda6cfd9e4f96136e, 0x9e8c7ecd3cbfd45a, 0xea4f758fd7cbe2f6, 0x7a0e73ef14a525d4, 0xd7f6bf623f1aba10, 0xac06608df8f6d757,
}
