package release

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What the Makefile stamps is the version; without it something is said all the same.
func TestVersion(t *testing.T) {
	assert.NotEmpty(t, Version())
	defer func(was string) { stamp = was }(stamp)
	stamp = "1.2.3+c810b8a"
	assert.Equal(t, "1.2.3+c810b8a", Version())
	version, commit := Parts()
	assert.Equal(t, []string{"1.2.3", "c810b8a"}, []string{version, commit})
}
