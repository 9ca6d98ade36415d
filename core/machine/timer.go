package machine

// The bits of a timer and, counted from its first word, its words.
const (
	timerIN    = 0
	timerQ     = wayOut
	timerPhase = 4
	timerR     = 6 // of TACC alone

	wordPT    = 0
	wordET    = 1
	wordStart = 2
)

// The phases of TON, TOF and TP.
const (
	idle byte = iota
	running
	over // TON: Q; TOF: the tail has ended; TP: the pulse has ended, IN is still TRUE
	held // TOF: IN is TRUE
)

const (
	timerBits  = 6 // that all have
	timerWords = 3
)

// A timerFace is a timer's memory.
type timerFace struct {
	bits  *[timerBits]byte
	words *[timerWords]int64
}

func (t timerFace) in() bool        { return t.bits[timerIN] != 0 }
func (t timerFace) phase() *byte    { return &t.bits[timerPhase] }
func (t timerFace) elapsed() *int64 { return &t.words[wordET] }
func (t timerFace) start() *int64   { return &t.words[wordStart] }
func (t timerFace) preset() int64   { return max(t.words[wordPT], 0) }

func (i instance) timer() timerFace {
	return timerFace{(*[timerBits]byte)(i.bits), (*[timerWords]int64)(i.words)}
}

// turn writes Q and the phase.
func (t timerFace) turn(q, phase byte) {
	t.bits[timerQ], t.bits[timerQ+1], t.bits[timerPhase] = q, q^1, phase
}

// begin starts a timer that is in a phase before it runs.
func (t timerFace) begin(before byte, now int64) {
	if t.bits[timerPhase] == before {
		t.bits[timerPhase], t.words[wordStart] = running, now
	}
}

// run brings the elapsed time up to now and reports whether it has reached the preset.
func (t timerFace) run(now int64) bool {
	pt := t.preset()
	t.words[wordET] = min(now-t.words[wordStart], pt)
	return t.words[wordET] == pt
}

// cap keeps the elapsed time of a timer that has ended at or below its preset.
func (t timerFace) cap() { t.words[wordET] = min(t.words[wordET], t.preset()) }

// pulse is TP: Q for PT from the rising edge, whatever IN does.
func pulse(i instance) {
	t, now := i.timer(), i.now
	if *t.phase() == idle && t.in() {
		t.turn(1, running)
		*t.start() = now
	}
	if *t.phase() == running && t.run(now) {
		t.turn(0, over)
	}
	if *t.phase() == over {
		t.cap()
		if !t.in() {
			*t.phase(), *t.elapsed() = idle, 0
		}
	}
}

// accumulate is TACC: the time between two calls counts when IN is TRUE at
// both. The phase is IN at the last call, the start is its time.
func accumulate(i instance) {
	t, now := i.timer(), i.now
	if *t.phase() != 0 && t.in() {
		*t.elapsed() += now - *t.start()
	}
	t.cap()
	if i.bits[timerR] != 0 {
		*t.elapsed() = 0
	}
	t.turn(truth(*t.elapsed() >= t.preset()), t.bits[timerIN])
	*t.start() = now
}
