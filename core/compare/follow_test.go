package compare_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/core/compare"
	"celandine/core/signal"
)

// follow gives a follower two lists of values and returns the first scan at which it suspects something, or -1. Both stay what they are at
// the end for long.
func follow(t compare.Tolerance, kind signal.Kind, expected, actual []int64) int {
	f := compare.NewFollower([]compare.Tolerance{t}, []signal.Kind{kind}, []int64{0})
	last := len(expected) - 1
	for scan := range len(expected) + 20 {
		if f.Step(expected[min(scan, last):][:1], actual[min(scan, last):][:1]) >= 0 {
			return scan
		}
	}
	return -1
}

func TestWhatAFollowerSuspects(t *testing.T) {
	for name, c := range map[string]struct {
		slack, drift     int
		expected, actual []int64
		scan             int
	}{
		"the same":                         {0, 0, []int64{0, 1, 1, 0}, []int64{0, 1, 1, 0}, -1},
		"a scan later":                     {0, 0, []int64{0, 1, 1, 1}, []int64{0, 0, 1, 1}, 2},
		"a scan later within the slack":    {1, 0, []int64{0, 1, 1, 1, 0, 0}, []int64{0, 0, 1, 1, 1, 0}, -1},
		"a scan earlier within the slack":  {1, 0, []int64{0, 0, 1, 1, 1, 0}, []int64{0, 1, 1, 1, 0, 0}, -1},
		"a pulse that is missing":          {2, 0, []int64{0, 1, 0, 0, 0, 0, 0, 0}, []int64{0, 0, 0, 0, 0, 0, 0, 0}, 4},
		"a pulse too many":                 {2, 0, []int64{0, 0, 0, 0, 0, 0, 0, 0}, []int64{0, 1, 0, 0, 0, 0, 0, 0}, 4},
		"later by more each time":          {0, 0, []int64{0, 1, 0, 1, 0, 0, 0, 0}, []int64{0, 0, 1, 0, 0, 1, 0, 0}, 2},
		"later by more each time, allowed": {1, 1, []int64{0, 1, 1, 1, 0, 0, 0, 1, 1, 1, 1}, []int64{0, 0, 1, 1, 1, 1, 0, 0, 0, 0, 1}, -1},
	} {
		t.Run(name, func(t *testing.T) {
			assert.Equal(t, c.scan, follow(compare.Tolerance{Slack: c.slack, Drift: c.drift}, signal.Bool, c.expected, c.actual))
		})
	}
}

// tail is how long the last value stays: longer than any slack here.
const tail = 160

// column is values as they would be recorded, the last for long.
func column(kind signal.Kind, values []int64) *signal.Column {
	c := &signal.Column{Name: "x", Kind: kind}
	for scan, v := range append(values, make([]int64, tail)...) {
		if scan >= len(values) {
			v = values[len(values)-1]
		}
		c.Append(scan, v)
	}
	return c
}

// What differs is suspected, whatever it is; what is suspected need not differ.
func TestAFollowerMissesNothing(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		n := rapid.IntRange(1, 25).Draw(t, "scans")
		highest := rapid.SampledFrom([]int64{1, 1, 3}).Draw(t, "highest")
		values := rapid.SliceOfN(rapid.Int64Range(0, highest), n, n)
		tolerance := compare.Tolerance{Slack: rapid.SampledFrom([]int{0, 1, 2, 3, 70}).Draw(t, "slack"), Drift: rapid.IntRange(0, 2).Draw(t, "drift")}
		kind := signal.Bool
		if highest > 1 {
			kind = signal.Int
			tolerance.Numeric = rapid.Bool().Draw(t, "by distance")
			tolerance.Within = rapid.Int64Range(0, 1).Draw(t, "within")
		}
		expected, actual := values.Draw(t, "expected"), values.Draw(t, "actual")
		_, differs := compare.Columns(column(kind, expected), column(kind, actual), n+tail, tolerance, nil)
		f := compare.NewFollower([]compare.Tolerance{tolerance}, []signal.Kind{kind}, []int64{0})
		suspects := false
		for scan := range n + tail {
			at := min(scan, n-1)
			suspects = f.Step(expected[at:at+1], actual[at:at+1]) >= 0 || suspects
		}
		require.True(t, !differs || suspects, "differs, and nothing was suspected")
	})
}

func TestSkippingIsSteppingForAFollower(t *testing.T) {
	tolerance := compare.Tolerance{Slack: 3}
	for _, n := range []int{1, 2, 3, 4} {
		stepped := compare.NewFollower([]compare.Tolerance{tolerance}, []signal.Kind{signal.Bool}, []int64{0})
		skipped := stepped.Copy()
		stepped.Step([]int64{1}, []int64{0})
		skipped.Step([]int64{1}, []int64{0})
		suspect := -1
		for range n {
			suspect = max(suspect, stepped.Step([]int64{1}, []int64{0}))
		}
		assert.Equal(t, suspect, skipped.Skip(n, []int64{1}, []int64{0}), "%d scans", n)
		assert.Equal(t, stepped.Pose(nil), skipped.Pose(nil), "%d scans", n)
	}
}
