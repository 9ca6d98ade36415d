package machine

// Longest is how many instructions a run of so many scans executes at most, whatever its inputs do: each at most once a scan
// where nothing jumps back, else what a scan and a run may execute. It depends on the program alone, so that who waits as long
// learns nothing of the inputs.
func (c *Code) Longest(scans int) int {
	scan := 0
	for pc := range c.instructions {
		in := &c.instructions[pc]
		scan += 1 + c.effort(in)
		if scan >= Budget || jumpsBack(pc, in) {
			scan = Budget
			break
		}
	}
	if scan*scans > RunBudget || scans > RunBudget { // the second: lest the product overflow
		return RunBudget + Budget
	}
	return scan * scans
}

// jumpsBack reports an instruction after which one may run again that stands before it.
func jumpsBack(pc int, in *instruction) bool {
	switch in.op {
	case opJump, opJumpIf, opJumpUnless, opUnlessRise, opForTest, opForNext:
		return int(in.a) <= pc
	}
	return false
}
