package machine

// The bits of a timer and, counted from its first word, its words.
const (
	timerIN    = 0
	timerQ     = 1
	timerR     = 2
	timerPhase = 3

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

// timerFace loads a preset that the call gave as a constant, and returns the
// timer's bits.
func timerFace(in *instruction, bits []byte, words []int64) []byte {
	if in.c != 0 {
		words[in.b+wordPT] = words[in.c-1]
	}
	return bits[in.a : in.a+4]
}

func preset(w []int64) int64 { return max(w[wordPT], 0) }

// onDelay is TON (IEC 61131-3, table 46): Q stays from the scan in which ET
// reaches PT until IN drops.
func onDelay(f []byte, words []int64, in *instruction, now int64) {
	w := words[in.b : in.b+3]
	if f[timerIN] == 0 {
		f[timerQ], f[timerPhase], w[wordET] = 0, idle, 0
		return
	}
	if f[timerPhase] == idle {
		f[timerPhase], w[wordStart] = running, now
	}
	if f[timerPhase] == running {
		w[wordET] = min(now-w[wordStart], preset(w))
		if w[wordET] == preset(w) {
			f[timerPhase], f[timerQ] = over, 1
		}
		return
	}
	w[wordET] = min(w[wordET], preset(w))
}

// offDelay is TOF: Q at once with IN, and for PT after it.
func offDelay(f []byte, words []int64, in *instruction, now int64) {
	w := words[in.b : in.b+3]
	if f[timerIN] != 0 {
		f[timerQ], f[timerPhase], w[wordET] = 1, held, 0
		return
	}
	if f[timerPhase] == held {
		f[timerPhase], w[wordStart] = running, now
	}
	switch f[timerPhase] {
	case running:
		w[wordET] = min(now-w[wordStart], preset(w))
		if w[wordET] == preset(w) {
			f[timerPhase], f[timerQ] = over, 0
		}
	case over:
		w[wordET] = min(w[wordET], preset(w))
	}
}

// pulse is TP: Q for PT from the rising edge, whatever IN does.
func pulse(f []byte, words []int64, in *instruction, now int64) {
	w := words[in.b : in.b+3]
	if f[timerPhase] == idle && f[timerIN] != 0 {
		f[timerPhase], f[timerQ], w[wordStart] = running, 1, now
	}
	if f[timerPhase] == running {
		w[wordET] = min(now-w[wordStart], preset(w))
		if w[wordET] == preset(w) {
			f[timerPhase], f[timerQ] = over, 0
		}
	}
	if f[timerPhase] == over {
		w[wordET] = min(w[wordET], preset(w))
		if f[timerIN] == 0 {
			f[timerPhase], w[wordET] = idle, 0
		}
	}
}

// accumulate is TACC: the time between two calls counts when IN is TRUE at
// both. The phase bit is IN at the last call, the start is its time.
func accumulate(f []byte, words []int64, in *instruction, now int64) {
	w := words[in.b : in.b+3]
	if f[timerPhase] != 0 && f[timerIN] != 0 {
		w[wordET] += now - w[wordStart]
	}
	w[wordET] = min(w[wordET], preset(w))
	if f[timerR] != 0 {
		w[wordET] = 0
	}
	f[timerPhase], w[wordStart] = f[timerIN], now
	f[timerQ] = truth(w[wordET] >= preset(w))
}
