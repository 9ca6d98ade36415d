package api

import (
	"context"
	"fmt"
	"sync"
	"time"

	"golang.org/x/sync/singleflight"

	"celandine/client"
	"celandine/service/store"
)

// How many event streams there may be at once: a page has one.
const (
	streamsOfOne = 12
	streamsOfAll = 2_000
)

// restBetween is how long a class's progress, once counted, is told to all who watch the class.
const restBetween = time.Second

// A Hub wakes open pages when something has become of a hand-in, by whichever process. What is counted for a class is counted
// once for all its watchers.
type Hub struct {
	mu       sync.Mutex
	waiting  map[string]map[chan store.Notice]bool
	open     map[int64]int // streams, by person
	all      int
	once     singleflight.Group
	progress map[int64]counted
}

// counted is a class's progress, and when it was counted.
type counted struct {
	client.ClassProgress
	at time.Time
}

// NewHub returns a hub with nobody waiting.
func NewHub() *Hub {
	return &Hub{waiting: map[string]map[chan store.Notice]bool{}, open: map[int64]int{}, progress: map[int64]counted{}}
}

// What one may wait for.
func handinKey(id int64) string { return fmt.Sprint("hand-in ", id) }
func classKey(id int64) string  { return fmt.Sprint("class ", id) }

// Told wakes whoever waits for the hand-in's mark, and whoever watches its class.
func (h *Hub) Told(n store.Notice) {
	h.mu.Lock()
	defer h.mu.Unlock()
	keys := []string{classKey(n.Class)}
	if n.Graded {
		keys = append(keys, handinKey(n.Handin))
	}
	for _, of := range keys {
		for c := range h.waiting[of] {
			select {
			case c <- n:
			default: // woken already
			}
		}
	}
}

// Wait returns a channel that is sent to when something is told of what is waited for, and what
// ends the waiting.
func (h *Hub) Wait(of string) (woken <-chan store.Notice, done func()) {
	c := make(chan store.Notice, 1)
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.waiting[of] == nil {
		h.waiting[of] = map[chan store.Notice]bool{}
	}
	h.waiting[of][c] = true
	return c, func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		delete(h.waiting[of], c)
		if len(h.waiting[of]) == 0 {
			delete(h.waiting, of)
		}
	}
}

// enter lets a person have one more stream, if there are not too many.
func (h *Hub) enter(person int64) (leave func(), ok bool) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.open[person] >= streamsOfOne || h.all >= streamsOfAll {
		return nil, false
	}
	h.open[person]++
	h.all++
	return func() {
		h.mu.Lock()
		defer h.mu.Unlock()
		h.all--
		if h.open[person]--; h.open[person] == 0 {
			delete(h.open, person)
		}
	}, true
}

// classProgress counts a class's hand-ins, or says what was counted a moment ago.
func (h *Hub) classProgress(ctx context.Context, s *store.Store, class int64) (client.ClassProgress, error) {
	h.mu.Lock()
	last, ok := h.progress[class]
	h.mu.Unlock()
	if ok && time.Since(last.at) < restBetween {
		return last.ClassProgress, nil
	}
	made, err, _ := h.once.Do(classKey(class), func() (any, error) {
		at := time.Now()
		graded, waiting, err := s.ClassProgress(store.Within(context.WithoutCancel(ctx), soon), class)
		now := client.ClassProgress{Graded: graded, Waiting: waiting}
		if err == nil {
			h.mu.Lock()
			h.progress[class] = counted{now, at}
			h.mu.Unlock()
		}
		return now, err
	})
	return made.(client.ClassProgress), err
}
