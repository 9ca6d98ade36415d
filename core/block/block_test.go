package block_test

import (
	"regexp"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/block"
)

// A description is whole: what leads power and what explains it are there, and its sentences speak of its own pins.
func TestBlocksAreWhole(t *testing.T) {
	for _, b := range block.All() {
		t.Run(b.Name, func(t *testing.T) {
			assert.Equal(t, b.In[0], b.PowerIn(), "power drives the first input")
			assert.Equal(t, b.Out[0], b.PowerOut())
			assert.NotEmpty(t, b.Says)
			assert.NotEmpty(t, b.Rule)
			measured := b.Family == block.Timer || b.Family == block.Counter
			assert.Equal(t, measured, b.Preset().Name != "", "a timer and a counter have a preset")
			assert.Equal(t, measured, b.Measure().Name != "")
			assert.Equal(t, b.Family == block.Counter, len(b.Counts) > 0)
			require.NotEmpty(t, b.Tells)
			assert.Empty(t, b.Tells[len(b.Tells)-1].When, "the last saying holds where no other does")
			for _, s := range append(b.Tells, b.Waits...) {
				speaksOfItsPins(t, b, s)
			}
		})
	}
}

var place = regexp.MustCompile(`\{[^}]*\}`)

func speaksOfItsPins(t *testing.T, b *block.Block, s block.Saying) {
	pins := map[string]bool{}
	for _, p := range b.Pins() {
		pins[p.Name] = true
	}
	words := strings.Join(s.When, " ") + " " + s.Follow + " " + s.Cause
	for _, p := range place.FindAllString(s.Say, -1) {
		words += " " + strings.Trim(p, "{}")
	}
	for _, w := range strings.Fields(strings.ReplaceAll(words, "!", "")) {
		if w != strings.ToUpper(w) {
			continue // a word of the sayings' own
		}
		assert.True(t, pins[w], "%q speaks of %s", s.Say, w)
	}
	assert.Contains(t, append([]string{""}, names(b.In)...), s.Follow, "only an input has a cause")
}

func names(pins []block.Pin) (list []string) {
	for _, p := range pins {
		list = append(list, p.Name)
	}
	return list
}

func TestNamed(t *testing.T) {
	for name, want := range map[string]struct{ block, counts string }{
		"TON": {"TON", ""}, "r_trig": {"R_TRIG", ""}, "CTU": {"CTU", "INT"}, "ctud_ulint": {"CTUD", "ULINT"},
		"TON_INT": {}, "CTU_REAL": {}, "CTU_INT": {}, "R": {}, "": {},
	} {
		b, counts := block.Named(name)
		if want.block == "" {
			assert.Nil(t, b, name)
			continue
		}
		require.NotNil(t, b, name)
		assert.Equal(t, want.block, b.Name)
		assert.Equal(t, want.counts, counts)
	}
}

func TestExample(t *testing.T) {
	for name, want := range map[string]struct{ text, rung string }{
		"TON": {"IN := , PT := T#5s", "PT := T#5s"}, "CTUD": {"CU := , CD := , R := , LD := , PV := 5", "CD := , R := , LD := , PV := 5"},
		"R_TRIG": {"CLK := ", ""},
	} {
		b, _ := block.Named(name)
		assert.Equal(t, want.text, b.Example(), name)
		assert.Equal(t, want.rung, b.RungExample(), name)
	}
}

// Each verb can be found by what it does, and each device that is worked by a verb of its own can be worked both ways.
func TestVerbsAndDevices(t *testing.T) {
	devices := append(block.InputDevices(), block.OutputDevices()...)
	for _, name := range block.Verbs() {
		v, ok := block.VerbNamed(name)
		require.True(t, ok, name)
		assert.NotZero(t, v.Does, name)
		assert.NotEmpty(t, v.Says, name)
		if v.Device != "" {
			assert.Contains(t, devices, v.Device, name)
		}
	}
	for _, name := range block.InputDevices() {
		d, ok := block.DeviceNamed(name)
		require.True(t, ok, name)
		assert.NotEmpty(t, d.On.Rests+d.On.Changed+d.Off.Rests+d.Off.Changed, name)
		_, on := block.VerbThat(block.TurnOn, name)
		_, off := block.VerbThat(block.TurnOff, name)
		assert.Equal(t, on, off, name)
	}
	for _, name := range devices {
		d, ok := block.DeviceNamed(name)
		assert.True(t, ok && d.Picture != "" && d.On.Rests != "" && d.Off.Rests != "", name)
	}
	_, ok := block.DeviceNamed("klaxon")
	assert.False(t, ok)
	_, ok = block.VerbNamed("kick")
	assert.False(t, ok)
}
