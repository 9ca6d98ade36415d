package source

import (
	"regexp"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"
)

// Names and addresses are taken apart as these patterns say.
func TestSeriesAndAddressesAreTheirPatterns(t *testing.T) {
	series, address := regexp.MustCompile(`\{(\d{1,4})\.\.(\d{1,4})\}`), regexp.MustCompile(`^%[IQM]([XBWDL]?)(\d+)(\.[0-7])?$`)
	rapid.Check(t, func(t *rapid.T) {
		name := rapid.StringOfN(rapid.SampledFrom([]rune("a{{1..}}2345")), 0, 14, -1).Draw(t, "name")
		from, to, first, last, ok := numbers(name)
		if m := series.FindStringSubmatchIndex(name); m == nil {
			require.False(t, ok)
		} else {
			require.Equal(t, []any{m[0], m[1], name[m[2]:m[3]], name[m[4]:m[5]], true}, []any{from, to, first, last, ok})
		}
		text := rapid.StringOfN(rapid.SampledFrom([]rune("%IQMXBWDL0178..a")), 0, 6, -1).Draw(t, "address")
		size, number, bit, ok := partsOf("%" + text)
		m := address.FindStringSubmatch("%" + text)
		require.Equal(t, m != nil, ok, text)
		if ok {
			require.Equal(t, m[1:3], []string{size, number})
			require.Equal(t, m[3] != "", bit != "")
		}
	})
}
