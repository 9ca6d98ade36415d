package mistake_test

import (
	"errors"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/mistake"
)

func TestGuard(t *testing.T) {
	none := errors.New("none")
	assert.NoError(t, mistake.Guard("resting", func() error { return nil }))
	assert.Equal(t, none, mistake.Guard("resting", func() error { return none }))
	var m *mistake.Mistake
	require.ErrorAs(t, mistake.Guard("counting trays", func() error { return []error{}[1] }), &m)
	assert.Contains(t, m.Error(), "Celandine made a mistake while counting trays")
	assert.Contains(t, string(m.Stack), "mistake_test.go")
}
