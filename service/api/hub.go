package api

import (
	"sync"

	"celandine/service/store"
)

// A Hub wakes open pages when a hand-in has been graded, by whichever process.
type Hub struct {
	mu      sync.Mutex
	waiting map[int64]map[chan store.Notice]bool
}

// everything is the number under which those wait who want to know of every hand-in.
const everything = 0

// NewHub returns a hub with nobody waiting.
func NewHub() *Hub { return &Hub{waiting: map[int64]map[chan store.Notice]bool{}} }

// Graded wakes whoever waits for the hand-in.
func (h *Hub) Graded(n store.Notice) {
	h.mu.Lock()
	defer h.mu.Unlock()
	for _, of := range []int64{n.Handin, everything} {
		for c := range h.waiting[of] {
			select {
			case c <- n:
			default: // woken already
			}
		}
	}
}

// WaitAll returns a channel that is sent to when any hand-in is graded, and what ends the waiting.
func (h *Hub) WaitAll() (woken <-chan store.Notice, done func()) { return h.Wait(everything) }

// Wait returns a channel that is sent to when the hand-in is graded, and what
// ends the waiting.
func (h *Hub) Wait(handin int64) (woken <-chan store.Notice, done func()) {
	c := make(chan store.Notice, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.waiting[handin] == nil {
		h.waiting[handin] = map[chan store.Notice]bool{}
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
