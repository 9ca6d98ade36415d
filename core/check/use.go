package check

// What becomes of a variable is noted at the variable, for the warnings.

func (c *checker) reads(v *Variable)             { v.uses.reads++ }
func (c *checker) writes(v *Variable, w Wrote)   { v.uses.writes = append(v.uses.writes, w) }
func (c *checker) remembers(v *Variable, at use) { v.uses.edges = append(v.uses.edges, at) }
func (c *checker) presets(v *Variable)           { v.uses.preset = true }

// calls notes a call; one that is not made in every scan counts for no second one.
func (c *checker) calls(v *Variable, at use, conditional bool) {
	v.uses.called = true
	if !conditional {
		v.uses.calls = append(v.uses.calls, at)
	}
}

// makes adds a variable to the program, or to the function or block that is being checked.
func (c *checker) makes(v *Variable) {
	if c.owner != nil {
		c.owner.Variables = append(c.owner.Variables, v)
		return
	}
	c.program.Variables = append(c.program.Variables, v)
}
