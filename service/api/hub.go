package api

import "sync"

// A Hub wakes open pages when a hand-in has been graded, by whichever process.
type Hub struct {
	mu      sync.Mutex
	waiting map[int64]map[chan struct{}]bool
}

// everything is the number under which those wait who want to know of every hand-in.
const everything = 0

// NewHub returns a hub with nobody waiting.
func NewHub() *Hub { return &Hub{waiting: map[int64]map[chan struct{}]bool{}} }

// Graded wakes whoever waits for the hand-in.
func (h *Hub) Graded(handin int64) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, of := range []int64{handin, everything} {
		for c := range h.waiting[of] {
			select {
			case c <- struct{}{}:
			default: // woken already
			}
		}
	}
}

// WaitAll returns a channel that is sent to when any hand-in is graded, and what ends the waiting.
func (h *Hub) WaitAll() (woken <-chan struct{}, done func()) { return h.Wait(everything) }

// Wait returns a channel that is sent to when the hand-in is graded, and what
// ends the waiting.
func (h *Hub) Wait(handin int64) (woken <-chan struct{}, done func()) {
	c := make(chan struct{}, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.waiting[handin] == nil {
		h.waiting[handin] = map[chan struct{}]bool{}
	}
	h.waiting[handin][c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.waiting[handin], c)
		if len(h.waiting[handin]) == 0 {
			delete(h.waiting, handin)
		}
	}
}
