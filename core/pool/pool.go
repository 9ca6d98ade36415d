// Package pool gives out values of one kind from blocks, so that a tree of thousands of nodes takes tens of allocations.
//
// What comes in is nothing; what goes out are zero values, never given out twice. A block lives as long as anything in it does.
package pool

// A Pool gives out values. The zero Pool is ready.
type Pool[T any] struct {
	free  []T
	taken int // since the start: the next block is as large
}

// Blocks are as large as all before them, so that a small tree takes little room, within these limits.
const (
	smallest = 4
	largest  = 256
)

// New returns a zero value.
func (p *Pool[T]) New() *T { return &p.take(1)[0] }

// List returns a copy of a list that nothing can be appended to in place; of an empty one nil.
func (p *Pool[T]) List(list ...T) []T {
	if len(list) == 0 {
		return nil
	}
	out := p.take(len(list))
	copy(out, list)
	return out
}

// With returns a copy of a list with one more behind it.
func (p *Pool[T]) With(list []T, one T) []T {
	out := p.take(len(list) + 1)
	out[copy(out, list)] = one
	return out
}

func (p *Pool[T]) take(n int) []T {
	if len(p.free) < n {
		p.free = make([]T, max(n, min(max(p.taken, smallest), largest)))
	}
	out := p.free[:n:n]
	p.free = p.free[n:]
	p.taken += n
	return out
}
