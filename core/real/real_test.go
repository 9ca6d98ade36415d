package real_test

import (
	"fmt"
	"hash/fnv"
	"math"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/real"
)

var functions = []struct {
	name      string
	ours, std func(float64) float64
}{
	{"exp", real.Exp, math.Exp}, {"log", real.Log, math.Log}, {"log10", real.Log10, math.Log10},
	{"sin", real.Sin, math.Sin}, {"cos", real.Cos, math.Cos}, {"tan", real.Tan, math.Tan},
	{"asin", real.Asin, math.Asin}, {"acos", real.Acos, math.Acos}, {"atan", real.Atan, math.Atan},
}

// near reports whether two reals differ by a few units of the last place at most.
func near(a, b float64) bool {
	if a != a || b != b {
		return a != a && b != b
	}
	return a == b || math.Abs(a-b) <= 1e-15*max(math.Abs(a), math.Abs(b)) || math.Abs(a-b) < 1e-15
}

func TestNearTheStandardLibrary(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		x := rapid.OneOf(rapid.Float64(), rapid.Float64Range(-10, 10), rapid.Float64Range(-1, 1)).Draw(t, "x")
		for _, f := range functions {
			require.True(t, near(f.std(x), f.ours(x)), "%s(%v): %v, not %v", f.name, x, f.ours(x), f.std(x))
		}
		y := rapid.OneOf(rapid.Float64Range(-20, 20), rapid.Map(rapid.IntRange(-30, 30), func(n int) float64 { return float64(n) })).Draw(t, "y")
		require.True(t, near(math.Pow(x, y), real.Pow(x, y)), "%v to the power %v: %v, not %v", x, y, real.Pow(x, y), math.Pow(x, y))
	})
}

func TestSpecialValues(t *testing.T) {
	special := []float64{0, math.Copysign(0, -1), 1, -1, 0.5, -0.5, 2, -2, 3, math.Inf(1), math.Inf(-1), math.NaN(), 1e300, -1e300, math.Pi,
		1 << 40}
	for _, x := range special {
		for _, f := range functions {
			assert.True(t, near(f.std(x), f.ours(x)), "%s(%v): %v, not %v", f.name, x, f.ours(x), f.std(x))
		}
		for _, y := range special {
			assert.True(t, near(math.Pow(x, y), real.Pow(x, y)), "%v to the power %v: %v, not %v", x, y, real.Pow(x, y), math.Pow(x, y))
		}
	}
}

// The bits of many values, pinned: they must be these on every host.
func TestTheSameBitsEverywhere(t *testing.T) {
	hash := fnv.New64()
	for i := range 4000 {
		x := (float64(i) - 2000) / 37
		for _, f := range functions {
			fmt.Fprintf(hash, "%x ", real.Bits(f.ours(x)))
		}
		fmt.Fprintf(hash, "%x ", real.Bits(real.Pow(math.Abs(x), x/9)))
	}
	assert.Equal(t, uint64(0x2d24f2060cc44465), hash.Sum64())
}
