package machine

// The standard blocks, along lines: each as its instruction or routine executes it.

func (f *foresight) bit(at uint32) bool { return f.m.bits[at] != 0 }

// block follows any block but those with an instruction of their own.
func (f *foresight) block(in *instruction) {
	if along := routines[in.f].along; along != nil {
		along(f, in)
	}
}

// preset follows the loading of a timer's preset and returns it, zero where it is less.
func (f *foresight) preset(in *instruction) line {
	pt := f.line(in.c)
	f.becomes(in.b+wordPT, pt)
	if f.less(pt, still(0)) {
		return still(0)
	}
	return pt
}

// begins follows a timer that starts now.
func (f *foresight) begins(in *instruction) line {
	f.becomes(in.b+wordStart, f.now)
	return f.now
}

// runs follows a timer that runs since a start and reports whether it reaches its preset.
func (f *foresight) runs(in *instruction, since, pt line) (reached bool) {
	elapsed := f.now.minus(since)
	reached = !f.less(elapsed, pt)
	if reached {
		elapsed = pt
	}
	f.becomes(in.b+wordET, elapsed)
	return reached
}

func (f *foresight) caps(in *instruction, pt line) {
	f.becomes(in.b+wordET, f.lesser(f.line(in.b+wordET), pt))
}

func (f *foresight) resets(in *instruction) { f.becomes(in.b+wordET, line{}) }

func (f *foresight) onDelay(in *instruction) {
	pt, phase := f.preset(in), f.m.bits[in.a+timerPhase]
	since := f.line(in.b + wordStart)
	switch {
	case !f.bit(in.d):
		f.resets(in)
	case phase == over:
		f.caps(in, pt)
	case phase == idle:
		since = f.begins(in)
		fallthrough
	default:
		f.runs(in, since, pt)
	}
}

func (f *foresight) offDelay(in *instruction) {
	pt, phase := f.preset(in), f.m.bits[in.a+timerPhase]
	since := f.line(in.b + wordStart)
	switch {
	case f.bit(in.d):
		f.resets(in)
	case phase == idle || phase == over:
		f.caps(in, pt)
	case phase == held:
		since = f.begins(in)
		fallthrough
	default:
		f.runs(in, since, pt)
	}
}

func (f *foresight) pulse(in *instruction) {
	pt, phase, on := f.preset(in), f.m.bits[in.a+timerPhase], f.bit(in.d)
	since := f.line(in.b + wordStart)
	if phase == idle && on {
		phase, since = running, f.begins(in)
	}
	switch {
	case phase == running:
		if f.runs(in, since, pt) && !on {
			f.resets(in)
		}
	case phase == over:
		if f.caps(in, pt); !on {
			f.resets(in)
		}
	}
}

func (f *foresight) accumulate(in *instruction) {
	pt, elapsed := f.preset(in), f.line(in.b+wordET)
	if f.bit(in.a+timerPhase) && f.bit(in.d) {
		elapsed = elapsed.plus(f.now.minus(f.line(in.b + wordStart)))
	}
	elapsed = f.lesser(elapsed, pt)
	if f.bit(in.a + timerR) {
		elapsed = line{}
	}
	f.less(elapsed, pt)
	f.becomes(in.b+wordET, elapsed)
	f.begins(in)
}

// The counters. What resets or loads one goes before what it counts.

func (f *foresight) countUp(in *instruction, reset bool) {
	up := counted(f.m.bits[in.d], f.m.bits[in.a+upWas])
	f.counts(in, line{}, reset, up, false)
}

func (f *foresight) countDown(in *instruction) {
	down := counted(f.m.bits[in.d], f.m.bits[in.a+downWas])
	f.counts(in, f.line(in.c), f.bit(in.a+downLoad), false, down)
}

func (f *foresight) countBoth(in *instruction) {
	up := counted(f.m.bits[in.d], f.m.bits[in.a+bothUp])
	down := counted(f.m.bits[in.a+bothCD], f.m.bits[in.a+bothDown])
	loaded, sets := f.line(in.c), f.bit(in.a+bothLD)
	if f.bit(in.a + bothR) {
		loaded, sets = line{}, true
	}
	f.counts(in, loaded, sets, up && !down, down && !up)
}

// counts follows a counter that is set to what is loaded, or counts up or down within its type.
func (f *foresight) counts(in *instruction, loaded line, sets, up, down bool) {
	pv, cv := f.line(in.c), f.line(in.b+wordCV)
	least, greatest := still(limits[in.n][0]), still(limits[in.n][1])
	if in.n == countsUlint {
		f.natural(cv, pv)
	}
	switch {
	case sets:
		cv = loaded
	case up:
		if f.same(cv, greatest); cv.at != greatest.at {
			cv.at++
		}
	case down:
		if f.same(cv, least); cv.at != least.at {
			cv.at--
		}
	}
	f.less(cv, pv)       // Q
	f.less(still(0), cv) // or QD
	f.becomes(in.b+wordPV, pv)
	f.becomes(in.b+wordCV, cv)
}
