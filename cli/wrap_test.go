package cli

import (
	"testing"

	"github.com/stretchr/testify/assert"
)

func TestWrap(t *testing.T) {
	long := "  Rung 1 had no power past [mist_on] (open from the start) and [mist_valve].\n"
	assert.Equal(t, "  Rung 1 had no power past [mist_on]\n    (open from the start) and\n    [mist_valve].\n", string(wrap([]byte(long), 40)))
	assert.Equal(t, long, string(wrap([]byte(long), 0)), "no terminal")
	assert.Equal(t, "short\n", string(wrap([]byte("short\n"), 40)))
	table := " hand-in                          marks                    \n"
	assert.Equal(t, table, string(wrap([]byte(table), 40)))
}
