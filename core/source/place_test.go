package source_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/source"
)

func TestSpans(t *testing.T) {
	f, other := source.NewFile("a.st", "x := y;"), source.NewFile("b.st", "z")
	x, y := source.Span{File: f, Start: 0, End: 1}, source.Span{File: f, Start: 5, End: 6}
	assert.Equal(t, "x := y", x.To(y).Text())
	assert.Equal(t, "y", y.To(x).Text(), "what lies before is no end")
	assert.Equal(t, "x", x.To(source.Span{File: other, End: 1}).Text())
	assert.Equal(t, "y", source.Span{}.To(y).Text())
	empty := source.Span{File: f, Start: 3, End: 3}
	assert.Equal(t, source.Span{File: f, Start: 3, End: 3}, empty.To(source.Span{File: f, Start: 1, End: 3}),
		"an end at one's own start is one")
	assert.Equal(t, source.Span{File: f, Start: 3, End: 5}, source.Span{File: f, Start: 3, End: 5}.To(source.Span{File: f, Start: 3, End: 5}))
	ends := source.Span{File: f, Start: 3, End: 5}
	assert.Equal(t, 3, ends.To(source.Span{File: f, Start: 0, End: 3}).End, "it ends where the other does, if that is not before it begins")
	assert.Equal(t, "", source.Span{}.Text())
	assert.Equal(t, "-", source.Span{}.String())
	assert.Equal(t, "a.st:1:6", y.String())
}

// %MW4 is the bytes 4 and 5; areas have nothing in common.
func TestAddresses(t *testing.T) {
	for address, want := range map[string]string{
		"%ix0.3": "I 3-4", "%I1.0": "I 8-9", "%QB2": "Q 16-24", "%MW4": "M 32-48", "%MD4": "M 32-64", "%ML1": "M 8-72", "%MX7.7": "M 63-64",
	} {
		b := source.BitsAt(address)
		assert.Equal(t, want, fmt.Sprintf("%c %d-%d", b.Area, b.From, b.To), address)
	}
	for _, c := range []struct {
		a, b string
		want bool
	}{
		{"%MW0", "%MX0.1", true}, {"%MW0", "%MX1.7", true}, {"%MW0", "%MX2.0", false}, {"%MW0", "%MW1", true}, {"%MW0", "%MW2", false},
		{"%MB1", "%MW0", true}, {"%MB2", "%MW0", false}, {"%IW0", "%QW0", false}, {"%MD0", "%MB3", true},
		{"%MD0", "%MB4", false}, {"%mx0.0", "%M0.0", true},
	} {
		assert.Equal(t, c.want, source.Overlap(c.a, c.b), "%s %s", c.a, c.b)
		assert.Equal(t, c.want, source.Overlap(c.b, c.a), "%s %s", c.b, c.a)
	}
}

func TestAddressAfter(t *testing.T) {
	for _, c := range []struct {
		first string
		n     int
		want  string
	}{
		{"%IX0.6", 1, "%IX0.7"}, {"%IX0.6", 2, "%IX1.0"}, {"%IX0.6", 10, "%IX2.0"}, {"%i0.7", 1, "%I1.0"},
		{"%IW4", 1, "%IW6"}, {"%QB4", 3, "%QB7"},
		{"%MD4", 2, "%MD12"}, {"%ML8", 1, "%ML16"}, {"%I4", 2, "%I6"}, {"%IX0.6", 0, "%IX0.6"}, {"here", 3, "here"},
	} {
		assert.Equal(t, c.want, source.AddressAfter(c.first, c.n), "%s + %d", c.first, c.n)
	}
}

func TestSeries(t *testing.T) {
	for name, want := range map[string]source.Series{
		"tray": {}, "tray_{1..8}": {1, 8, true}, "t{3..3}_on": {3, 3, true}, "{0..255}": {0, 255, true}, "tray_{a..b}": {}, "tray_{1..8": {},
	} {
		s, err := source.SeriesOf(name)
		require.NoError(t, err)
		assert.Equal(t, want, s, name)
	}
	for _, name := range []string{"tray_{9..2}", "tray_{0..256}"} {
		_, err := source.SeriesOf(name)
		assert.EqualError(t, err, "the series "+name+" is empty or too long")
	}
	s, _ := source.SeriesOf("tray_{1..8}")
	assert.Equal(t, "tray_3", s.Name("tray_{1..8}", 3))
	assert.Equal(t, "Tray 3 of {m}", s.Name("Tray {n} of {m}", 3))
	assert.Equal(t, "Tray {n}", source.Series{}.Name("Tray {n}", 3))
}
