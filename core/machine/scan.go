package machine

import (
	"slices"
	"time"

	"celandine/core/check"
	"celandine/core/source"
)

// Budget is the number of instructions that one scan may execute.
const Budget = 100_000

// RunBudget is the number of instructions that a whole run may execute, so that a program that
// spends its budget in every scan of a long scenario ends as well.
const RunBudget = 200_000_000

// A Machine is a program at work. The zero Machine is not usable; see [Code.Start].
type Machine struct {
	code   *Code
	period time.Duration
	scan   int // the next to be executed
	bits   []byte
	words  []int64
	texts  []string
	memory memory // the bits and words again
	alone  alone
	forces []force
	fuel   int // instructions left in this scan
	used   int // instructions executed in scans that are over

	tracked *tracks // nil: the code is executed as it stands
	ran     int     // scans since then
	patient int     // after so many it is cut, if it can be
	whole   bool    // it is never cut
	changes int     // how often something in memory may have changed
}

// Start returns a machine before its first scan.
func (c *Code) Start(period time.Duration) *Machine {
	m := &Machine{period: period}
	m.load(c)
	return m
}

// load gives the machine the code and memory as it is before the first scan.
func (m *Machine) load(c *Code) {
	m.code = c
	m.bits, m.words, m.texts = slices.Clone(c.start.bits), slices.Clone(c.start.words), slices.Clone(c.start.texts)
	m.memory = memoryOf(c, m.bits, m.words)
	m.patient = settled
	m.untrack()
}

// A Fault ended a run. The scan in which it happened has no place in the trace.
type Fault struct {
	Scan    int
	Code    string // divide, endless-loop, step, index, range, too-long
	Message string
	Span    source.Span
}

// Used returns the number of instructions executed in scans that are over.
func (m *Machine) Used() int { return m.used }

// Scans returns the number of scans executed.
func (m *Machine) Scans() int { return m.scan }

// Read returns the present value of a slot.
func (m *Machine) Read(s Slot) int64 {
	switch s.Type.Class {
	case check.Boolean:
		return int64(m.bits[s.index])
	case check.Text:
		return 0
	}
	return m.words[s.index]
}

// ReadText returns the present value of a slot that is a text.
func (m *Machine) ReadText(s Slot) string { return m.texts[s.index] }

// Write sets a value once; the logic may overwrite it in the next scan.
func (m *Machine) Write(s Slot, v int64) {
	if !s.bit || m.bits[s.index] != byte(v&1) {
		m.write(s, v)
	}
}

func (m *Machine) write(s Slot, v int64) {
	m.changes++
	if m.tracked != nil {
		m.touch(s, v)
	}
	if s.bit {
		put(m.bits, s.index, byte(v&1))
		return
	}
	m.writeWord(s, v)
}

func (m *Machine) writeWord(s Slot, v int64) {
	if s.Type.Class != check.Text { // a text is not written from outside
		m.words[s.index] = s.Type.Wrap(v)
	}
}

type force struct {
	slot  Slot
	value int64
}

// Force holds a value against the logic until Release: it is applied again
// after every write and before publication.
func (m *Machine) Force(s Slot, v int64) {
	m.Release(s)
	m.untrack()
	m.unfuse()
	m.forces = append(m.forces, force{s, v})
	m.Write(s, v)
}

// unfuse goes on with code in which every write stands alone. Its state lies where the
// state of the fused code lies.
func (m *Machine) unfuse() {
	if m.code.unfused {
		return
	}
	code, _ := compileProgram(m.code.program, false)
	if code == nil {
		return // too large only without fusing: the fused code forces but for a block's own power
	}
	code.tasks = m.code.tasksOf(code)
	live, bits, words, texts := m.code.live, m.bits, m.words, m.texts
	m.load(code)
	copy(m.bits, bits[:live.bit])
	copy(m.words, words[:live.word])
	copy(m.texts, texts[:live.text])
}

// Release ends a force; the value stays until something writes it.
func (m *Machine) Release(s Slot) {
	for i, f := range m.forces {
		if f.slot.index == s.index && (f.slot.Type.Class == check.Boolean) == (s.Type.Class == check.Boolean) {
			m.forces = append(m.forces[:i], m.forces[i+1:]...)
			return
		}
	}
}

func (m *Machine) applyForces() {
	for _, f := range m.forces {
		m.Write(f.slot, f.value)
	}
}

// Scan executes one scan, with the input image as it stands: the tasks that are due.
func (m *Machine) Scan() *Fault {
	if m.used > RunBudget {
		return m.fault(m.code.tasks[0].start, tooLong)
	}
	now := int64(m.scan) * int64(m.period)
	if m.tracked != nil {
		m.tracked.scan(m, now)
		return nil
	}
	m.fuel = Budget
	first := m.first()
	for i := range m.code.tasks {
		t := &m.code.tasks[i]
		if !t.due(m.scan, first) {
			continue
		}
		if pc, why := m.execute(t.start, now); why != Finished {
			return m.fault(pc, why)
		}
	}
	m.used += Budget - m.fuel
	if first {
		put(m.bits, m.code.firstScan, 0)
	}
	m.scan++
	m.changes++
	if m.ran++; m.ran == m.patient {
		m.track()
	}
	return nil
}

// forced executes one program an instruction at a time, since a force wins over every single write.
func (m *Machine) forced(pc int, now int64) (int, Cause) {
	m.applyForces()
	for ; m.fuel > 0; m.fuel-- {
		var why Cause
		if pc, why = m.single(pc, now); why != OutOfFuel {
			return pc, why
		}
		m.applyForces()
	}
	return pc, OutOfFuel
}

func (m *Machine) fault(pc int, why Cause) *Fault { return FaultOf(m.scan, why, m.code.spans[pc]) }

// FaultOf tells why a scan ended at a place.
func FaultOf(scan int, why Cause, at source.Span) *Fault {
	f := &Fault{Scan: scan, Span: at}
	switch why {
	case Divided:
		f.Code, f.Message = "divide", "This divides by zero."
	case ZeroStep:
		f.Code, f.Message = "step", "This FOR has a step of zero, so it would never end."
	case Outside:
		f.Code, f.Message = "index", "This index is outside the array."
	case NoInput:
		f.Code, f.Message = "index", "MUX has no input of this number; they count from 0."
	case Beyond:
		f.Code, f.Message = "range", "This value is outside the limits of its type."
	case tooLong:
		f.Code = "too-long"
		f.Message = "This run executed more than 200,000,000 instructions. Do less in each scan: a long loop can be spread over many scans."
	case tooMuch:
		f.Code = "too-much"
		f.Message = "What is watched changes more often than can be recorded. Let it change less often: not in every scan of a long run."
	default:
		f.Code = "endless-loop"
		f.Message = "This scan executed more than 100,000 instructions: an endless loop. A loop cannot wait for an input; inputs change only " +
			"between scans."
	}
	return f
}

// Forced lists the names that forces hold, in the order in which they began.
func (m *Machine) Forced() []string {
	names := make([]string, len(m.forces))
	for i, f := range m.forces {
		names[i] = f.slot.Name
	}
	return names
}
