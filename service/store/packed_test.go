package store_test

import (
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"celandine/service/store"
)

// What is packed comes back to the byte, and a usual result takes a fraction.
func TestPacked(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.SliceOf(rapid.Byte()).Draw(t, "text")
		if len(text) == 0 {
			return
		}
		packed, err := store.Packed(text).Value()
		require.NoError(t, err)
		var back store.Packed
		require.NoError(t, back.Scan(packed))
		require.Equal(t, text, []byte(back))
	})
	usual := strings.Repeat(`{"name":"stays on","earned":4,"points":4,"signals":[{"signal":"mist_valve","still":false,"ok":true}]},`, 5)
	packed, err := store.Packed(usual).Value()
	require.NoError(t, err)
	assert.Less(t, len(packed.([]byte)), len(usual)/5)
}

// What the first version with packing has written is read for ever.
func TestPackedLongAgo(t *testing.T) {
	const long = `{"engine":"celandine/3","earned":4,"findings":[],"diagnostics":[]}`
	for name, was := range map[string][]byte{
		"as it is":                         append([]byte{0}, long...),
		"by the dictionary of packed1.txt": {1, 0xc2, 0x99, 0xb0, 0x91, 0x12, 0x1c, 0x7e, 0x13, 0x00, 0x01, 0x00, 0x00, 0xff, 0xff},
	} {
		var back store.Packed
		require.NoError(t, back.Scan(was), name)
		assert.Equal(t, long, string(back), name)
	}
	var back store.Packed
	assert.Error(t, back.Scan([]byte{9, 1, 2}), "a way that is not known")
	require.NoError(t, back.Scan(nil))
	assert.Nil(t, back)
}
