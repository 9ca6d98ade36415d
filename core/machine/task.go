package machine

import (
	"slices"

	"celandine/core/check"
	"celandine/core/say"
	"celandine/core/source"
)

// A Task runs a program every so many scans. Of the tasks due in a scan the one with the lowest
// Priority runs first; equals run in the order given. A Once task runs in scan 0 and in the scan of a restart, before the others.
type Task struct {
	Program  string `json:"program"`
	Every    int    `json:"every"` // scans, at least 1
	Priority int    `json:"priority"`
	Once     bool   `json:"once"`
}

// entry is where a program's instructions begin.
type entry struct {
	name  string
	start int
}

type scheduled struct {
	start int
	every int
	once  bool
}

// due reports whether a task runs in a scan; first tells that it is the first since the supply came.
func (t *scheduled) due(scan int, first bool) bool {
	if t.once {
		return first
	}
	return t.every == 1 || scan%t.every == 0
}

// everyScan runs the programs in every scan, in the order in which they stand.
func (c *Code) everyScan() {
	for _, e := range c.entries {
		c.tasks = append(c.tasks, scheduled{start: e.start, every: 1})
	}
}

// Schedule returns the same program with its programs run by tasks. Every program must have one.
func (c *Code) Schedule(tasks []Task) (*Code, error) {
	order := slices.Clone(tasks)
	slices.SortStableFunc(order, func(a, b Task) int {
		if a.Once != b.Once {
			if a.Once {
				return -1
			}
			return 1
		}
		return a.Priority - b.Priority
	})
	out := *c
	out.tasks = nil
	named := map[string]bool{}
	for _, t := range order {
		e, ok := c.entry(t.Program)
		if !ok {
			return nil, say.Errorf("there is no program named %s to run as a task. %s", t.Program, source.Meant(t.Program, c.entryNames()))
		}
		if !t.Once && t.Every < 1 {
			return nil, say.Errorf("the task of %s must run every scan or more seldom; every is %d", t.Program, t.Every)
		}
		named[e.name] = true
		out.tasks = append(out.tasks, scheduled{e.start, t.Every, t.Once})
	}
	for _, e := range c.entries {
		if !named[e.name] {
			return nil, say.Errorf("the program %s belongs to no task and would never run", e.name)
		}
	}
	return &out, nil
}

func (c *Code) entry(name string) (entry, bool) {
	for _, e := range c.entries {
		if equalFold(e.name, name) {
			return e, true
		}
	}
	return entry{}, false
}

// tasksOf returns the schedule for other code of the same program.
func (c *Code) tasksOf(other *Code) []scheduled {
	tasks := slices.Clone(c.tasks)
	for i := range tasks {
		for n, e := range c.entries {
			if e.start == tasks[i].start {
				tasks[i].start = other.entries[n].start
				break
			}
		}
	}
	return tasks
}

func (c *Code) entryNames() []string {
	var names []string
	for _, e := range c.entries {
		names = append(names, e.name)
	}
	return names
}

// Replace goes on with another program: values whose name and type are in both
// are kept, timers and counters with their whole state, and the rest begins as declared. The memory of an edge is kept
// where the edge is written the same. Forces stay on the names that there still are.
func (m *Machine) Replace(code *Code) {
	next := code.Start(m.period)
	next.scan = m.scan
	if m.scan > 0 {
		put(next.bits, code.firstScan, 0)
	}
	for _, r := range code.roots {
		for _, name := range r.names() {
			if own, _ := code.find(name); own.variable == r.variable {
				next.keep(r, m, name)
			}
		}
	}
	before := m.code.edges()
	for key, at := range code.edges() {
		if old, ok := before[key]; ok {
			copy(next.bits[at:at+pair], m.bits[old:])
		}
	}
	forces := m.forces
	*m = *next
	for _, f := range forces {
		if slot, ok := code.Slot(f.slot.Name); ok && slot.Type.Kind() == f.slot.Type.Kind() {
			m.Force(slot, f.value)
		}
	}
}

// keep takes over a variable's value from what has a name in another machine, if that is of its type.
func (m *Machine) keep(r root, from *Machine, name string) {
	old, ok := from.code.find(name)
	if !ok || !alike(old.variable.Type, r.variable.Type) {
		return
	}
	size := m.code.sizes.of(r.variable.Type)
	copy(m.bits[r.at.bit:r.at.bit+size.bit], from.bits[old.at.bit:])
	copy(m.words[r.at.word:r.at.word+size.word], from.words[old.at.word:])
	copy(m.texts[r.at.text:r.at.text+size.text], from.texts[old.at.text:])
}

// edgeKey names the hidden memory of an edge: the text of its contact or coil, and which of the same it is.
type edgeKey struct {
	unit, text string
	nth        int
}

func (c *Code) edges() map[edgeKey]uint32 {
	found, count := map[edgeKey]uint32{}, map[edgeKey]int{}
	for _, v := range c.program.Variables {
		if !v.Hidden || v.Role == check.System {
			continue
		}
		key := edgeKey{unit: v.Unit, text: v.Span.Text()}
		count[key]++
		found[edgeKey{v.Unit, key.text, count[key]}] = c.places[v].bit
	}
	return found
}
