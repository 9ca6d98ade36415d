package equivalence

import (
	"encoding/binary"
	"slices"
)

// A search goes level by level: the situations that so many events lead to. After each event both programs run on, and the next comes at the
// times that matter: in the next scans, and just before, at and just after every scan in which anything but an elapsed time changes in
// either. Still time is skipped.
type search struct {
	*both
	budget int
	states int
	seen   map[string]bool
	best   Result
}

// A moment is a situation between two scans that events may come into.
type moment struct {
	situation
	scan int
	pose string
}

// A node is a moment with one more event.
type node struct {
	moment *moment
	from   *node
	event  event
	again  bool // the event is a loss of supply
	inputs []int64
	writes []int // of this scan
	depth  int
}

const (
	maxWait    = 360_000 // scans without an event: an hour at 10 ms
	maxMoments = 60      // of one node
)

func (s *search) run() Result {
	s.seen = map[string]bool{}
	level := []*node{{moment: &moment{situation: s.keep()}, inputs: s.rest(), event: event{act{restart - 1, 0}, 0}}}
	for len(level) > 0 && s.best.Verdict != Differs {
		slices.SortStableFunc(level, func(a, b *node) int { return a.event.scan - b.event.scan })
		var next []*node
		for _, n := range level {
			if s.best.Verdict == Differs && n.event.scan >= s.best.Scan {
				break
			}
			if s.spent(s.budget) {
				return s.result()
			}
			if s.fresh(n) {
				next = append(next, s.follow(n)...)
			}
		}
		level = next
	}
	return s.result()
}

func (s *search) result() Result {
	s.best.States = s.states
	return s.best
}

// fresh reports whether a node is one that no other has come to yet.
func (s *search) fresh(n *node) bool {
	key := []byte(n.moment.pose)
	for _, v := range n.inputs {
		key = binary.AppendVarint(key, v)
	}
	key = binary.AppendVarint(key, int64(n.event.input))
	if n.again {
		key = append(key, 1)
	}
	for _, w := range n.writes {
		key = binary.AppendVarint(key, int64(w))
	}
	if s.seen[string(key)] {
		return false
	}
	s.seen[string(key)] = true
	s.states++
	return true
}

// follow lets both run on from a node and returns the nodes that one more event makes.
func (s *search) follow(n *node) (next []*node) {
	s.restore(n.moment.situation)
	if n.again {
		s.restart()
	}
	s.set(n.inputs)
	s.write(n.writes)
	next = s.more(next, n, &moment{n.moment.situation, n.event.scan, n.moment.pose}, true)
	been := map[string]bool{}
	for scan, moments := n.event.scan, 0; scan < n.event.scan+maxWait && moments < maxMoments && !s.spent(s.budget); {
		switch s.both.scan() {
		case faulted:
			return next
		case suspected:
			if s.convict(n, scan+1) {
				return next
			}
		}
		scan++
		pose := string(s.pose())
		if been[pose] {
			return next
		}
		been[pose] = true
		next = s.more(next, n, &moment{s.keep(), scan, pose}, false)
		moments++
		still, moving := s.still(maxWait)
		if still > 0 && !moving {
			return next
		}
		if still > 1 { // one is left, so that events come just before what ends the stillness
			if s.skip(still-1) == suspected && s.convict(n, scan+still-1) {
				return next
			}
			scan += still - 1
		}
	}
	return next
}

// more adds the nodes that one more event at a moment makes. At once with another event come only those behind it.
func (s *search) more(next []*node, n *node, at *moment, atOnce bool) []*node {
	if s.best.Verdict == Differs {
		return next // no longer script is looked for
	}
	add := func(a act, inputs []int64) {
		if atOnce && a.input <= n.event.input {
			return
		}
		one := &node{at, n, event{a, at.scan}, a.input == restart || atOnce && n.again, inputs, nil, n.depth + 1}
		if atOnce {
			one.writes = slices.Clone(n.writes)
		}
		if w := a.input - len(s.Inputs); w >= 0 {
			one.writes = append(one.writes, w)
		}
		next = append(next, one)
	}
	add(act{restart, 0}, n.inputs)
	for i, values := range s.choices {
		for _, v := range values {
			if v != n.inputs[i] {
				inputs := slices.Clone(n.inputs)
				inputs[i] = v
				add(act{i, v}, inputs)
			}
		}
	}
	for w := range s.Writes {
		add(act{len(s.Inputs) + w, 0}, n.inputs)
	}
	return next
}

// events lists a node's events in their order.
func (n *node) events() (list []event) {
	for ; n.from != nil; n = n.from {
		list = append(list, n.event)
	}
	slices.Reverse(list)
	return list
}

// convict looks into a suspicion after so many scans. Where it holds, it is the best so far.
func (s *search) convict(n *node, scans int) bool {
	r, differs := s.tellsApart(n.events(), scans)
	if !differs {
		s.follower.Forget()
		return false
	}
	if s.best.Verdict != Differs || r.Scan < s.best.Scan {
		s.best = r
	}
	return true
}
