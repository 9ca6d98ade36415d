package machine

import (
	"bytes"
	"time"

	"celandine/core/check"
	"celandine/core/say"
	"celandine/core/signal"
)

// A Recorder keeps what watched values were, scan by scan. It appends to a column only when its value is not
// the one foreseen.
type Recorder struct {
	Trace *signal.Trace
	bits  []watched
	words []watchedWord
	texts []watched
	image []byte // of the bits, as they were recorded last
	left  *int   // of the changes that may still be recorded; nil: any number

	// Until something changes again there is nothing to record, if nothing was on a slope.
	last    *Machine
	changes int
	flat    bool
}

type watched struct {
	index  uint32
	column *signal.Column
	text   string // recorded last
}

// watchedWord is a word being recorded, with what it will be if nothing happens.
type watchedWord struct {
	watched
	foreseen int64
	slope    int64
}

// A Watch is values of a program to be recorded, found by their names once.
type Watch struct {
	code               *Code
	slots              []Slot
	bits, words, texts int // how many of each
	left               *int
}

// AtMost bounds what all runs together record: so many changes of values. Then a run ends in a fault.
func (w *Watch) AtMost(changes int) { w.left = &changes }

// Watch finds the values named; an unknown name is an error.
func (c *Code) Watch(names []string) (*Watch, error) {
	w := &Watch{code: c, slots: make([]Slot, len(names))}
	for i, name := range names {
		slot, ok := c.Slot(name)
		if !ok {
			return nil, say.Errorf("there is nothing named %s to watch", name)
		}
		w.slots[i] = slot
		switch slot.Type.Class {
		case check.Boolean:
			w.bits++
		case check.Text:
			w.texts++
		default:
			w.words++
		}
	}
	return w, nil
}

// Recorder returns a recorder of the values that has recorded nothing.
func (w *Watch) Recorder(period time.Duration) *Recorder {
	r := &Recorder{left: w.left, Trace: &signal.Trace{Period: period, Columns: make([]*signal.Column, len(w.slots))},
		bits: make([]watched, 0, w.bits), words: make([]watchedWord, 0, w.words), texts: make([]watched, 0, w.texts)}
	columns := signal.Columns(len(w.slots))
	for i, slot := range w.slots {
		one := watched{index: slot.index, column: &columns[i]}
		one.column.Name, one.column.Kind, one.column.Texts = slot.Name, slot.Type.Kind(), slot.Type.Values
		one.column.Named = slot.Type.Class == check.Enumeration
		r.Trace.Columns[i] = one.column
		switch slot.Type.Class {
		case check.Boolean:
			r.bits = append(r.bits, one)
		case check.Text:
			r.texts = append(r.texts, one)
		default:
			r.words = append(r.words, watchedWord{watched: one})
		}
	}
	return r
}

// Still returns a column that keeps the value that a name has now for ever.
func (m *Machine) Still(name string) (*signal.Column, error) {
	w, err := m.code.Watch([]string{name})
	if err != nil {
		return nil, err
	}
	r := w.Recorder(m.period)
	r.Record(m, 0)
	return r.Trace.Columns[0], nil
}

// Record notes the values at the end of a scan. Scans are recorded in order, from any one on.
func (r *Recorder) Record(m *Machine, scan int) {
	if r.flat && r.last == m && r.changes == m.changes {
		return
	}
	first, slopes := r.last == nil, int64(0)
	r.last, r.changes = m, m.changes
	if len(r.bits) > 0 {
		r.recordBits(m.bits[:m.code.live.bit], scan)
	}
	for i := range r.words {
		w := &r.words[i]
		v := m.words[w.index]
		if v != w.foreseen || first {
			w.slope = w.column.Append(scan, v)
			w.foreseen = v
			r.spend(1)
		}
		w.foreseen += w.slope
		slopes |= w.slope
	}
	for i := range r.texts {
		if w, text := &r.texts[i], m.texts[r.texts[i].index]; first || text != w.text {
			w.column.AppendText(scan, text)
			w.text = text
			r.spend(1 + len(text)/perChange)
		}
	}
	r.flat = slopes == 0
}

// perChange is how many bytes the record of a change takes.
const perChange = 24

func (r *Recorder) spend(changes int) {
	if r.left != nil {
		*r.left -= changes
	}
}

// full reports whether no more can be recorded.
func (r *Recorder) full() bool { return r.left != nil && *r.left < 0 }

// recordBits looks at each bit only when any has changed.
func (r *Recorder) recordBits(bits []byte, scan int) {
	first := r.image == nil
	if !first && bytes.Equal(bits, r.image) {
		return
	}
	for _, w := range r.bits {
		if first || bits[w.index] != r.image[w.index] {
			w.column.Append(scan, int64(bits[w.index]))
			r.spend(1)
		}
	}
	r.image = append(r.image[:0], bits...)
}
