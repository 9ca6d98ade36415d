package pool_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"celandine/core/pool"
)

// What is given out stays apart, however much is appended to it.
func TestNothingIsGivenOutTwice(t *testing.T) {
	var p pool.Pool[int]
	seen := map[*int]bool{}
	for n := range 1000 {
		one := p.New()
		assert.Zero(t, *one)
		assert.False(t, seen[one])
		seen[one] = true
		*one = n
		list := p.List(n, n+1)
		_ = append(list, -1)
		assert.Equal(t, []int{n, n + 1}, list)
	}
	assert.Nil(t, p.List())
	assert.Len(t, p.List(make([]int, 5000)...), 5000)
}
