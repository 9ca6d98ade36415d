package release

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

// What the Makefile stamps is the version; without it something is said all the same.
func TestVersion(t *testing.T) {
	assert.NotEmpty(t, Version())
	defer func(was string) { stamp = was }(stamp)
	stamp = "v1.2.3"
	assert.Equal(t, "v1.2.3", Version())
}
