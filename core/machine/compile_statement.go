package machine

import "celandine/core/check"

// block compiles statements; each gives its scratch back.
func (c *compiler) block(list []check.Statement) {
	for _, s := range list {
		bits, words, texts := c.usedBits, c.usedWords, c.usedTexts
		c.statement(s)
		c.usedBits, c.usedWords, c.usedTexts = bits, words, texts
		if c.tooLarge {
			return
		}
	}
}

func (c *compiler) statement(s check.Statement) {
	switch s := s.(type) {
	case *check.Assign:
		c.at = s.At
		c.assign(s.Target, s.Value)
	case *check.Call:
		c.at = s.At
		c.callStatement(s)
	case *check.Evaluate:
		c.at = s.At
		if call, ok := s.Value.(*check.Invoke); ok {
			c.invoke(call)
		}
	case *check.If:
		c.ifStatement(s)
	case *check.Case:
		c.caseStatement(s)
	case *check.For:
		c.forStatement(s)
	case *check.While:
		c.loop(func() {
			top := c.here()
			c.at = s.At
			exit := c.jumpUnless(c.bool(s.Condition, anywhere))
			c.block(s.Body)
			c.land(c.continues)
			c.at = s.At
			c.emit(instruction{op: opJump, a: top})
			c.land([]int{exit})
		})
	case *check.Repeat:
		c.loop(func() {
			top := c.here()
			c.block(s.Body)
			c.land(c.continues)
			c.at = s.At
			back := c.jumpUnless(c.bool(s.Until, anywhere))
			c.code.instructions[back].a = top
		})
	case *check.Jump:
		c.at = s.At
		j := c.emit(instruction{op: opJump})
		switch s.Word {
		case "EXIT":
			c.exits = append(c.exits, j)
		case "CONTINUE":
			c.continues = append(c.continues, j)
		default:
			c.returns = append(c.returns, j)
		}
	}
}

// loop compiles a loop with EXIT and CONTINUE of its own.
func (c *compiler) loop(body func()) {
	exits, continues := c.exits, c.continues
	c.exits, c.continues = nil, nil
	body()
	c.land(c.exits)
	c.exits, c.continues = exits, continues
}

func (c *compiler) callStatement(s *check.Call) {
	enable := always
	if s.Enable != nil {
		enable = c.held([]operand{c.bool(s.Enable, anywhere)})
	}
	c.enabled(enable, func() { c.call(s) })
	if s.ENO != nil {
		c.storeBit(c.locate(s.ENO), enable)
	}
}

// enabled compiles what runs only where the operand is TRUE.
func (c *compiler) enabled(enable operand, body func()) {
	if enable == always {
		body()
		return
	}
	skip := c.jumpUnless(enable)
	body()
	c.land([]int{skip})
}

func (c *compiler) ifStatement(s *check.If) {
	var ends []int
	for i, arm := range s.Arms {
		c.at = arm.Condition.Span()
		next := c.jumpUnless(c.bool(arm.Condition, anywhere))
		c.block(arm.Body)
		if i+1 < len(s.Arms) || s.Else != nil {
			ends = append(ends, c.emit(instruction{op: opJump}))
		}
		c.land([]int{next})
	}
	c.block(s.Else)
	c.land(ends)
}

func (c *compiler) caseStatement(s *check.Case) {
	c.at = s.At
	value := c.scratchWord()
	c.word(s.Value, into(value))
	flag := c.scratchBit()
	var ends []int
	for _, choice := range s.Choices {
		var hits []int
		for _, l := range choice.Labels {
			hits = append(hits, c.caseLabel(l, value, flag))
		}
		next := c.emit(instruction{op: opJump})
		c.land(hits)
		c.block(choice.Body)
		ends = append(ends, c.emit(instruction{op: opJump}))
		c.land([]int{next})
	}
	c.block(s.Else)
	c.land(ends)
}

// caseLabel jumps where the value is the label's.
func (c *compiler) caseLabel(l check.Label, value, flag uint32) int {
	if l.From == l.To {
		c.emit(instruction{op: opEqual, a: flag, b: value, c: c.constant(l.From), d: uint32(always)})
	} else {
		c.emit(instruction{op: opLessEqual, a: flag, b: c.constant(l.From), c: value, d: uint32(always)})
		c.emit(instruction{op: opLessEqual, a: flag, b: value, c: c.constant(l.To), d: uint32(bit(flag))})
	}
	return c.emit(instruction{op: opJumpIf, b: uint32(bit(flag))})
}

// forStatement evaluates the bounds once. The limit and the step lie in two
// words side by side.
func (c *compiler) forStatement(s *check.For) {
	c.at = s.At
	place := c.locate(s.Counter)
	counter := place.base.word
	if len(place.dynamic) > 0 || s.Counter.Type().Base != nil {
		counter = c.ownWords(1)
	}
	from := c.word(s.From, anywhere)
	limit := c.ownWords(2)
	c.word(s.To, into(limit))
	c.word(s.Step, into(limit+1))
	c.emit(instruction{op: opMove, a: counter, b: from})
	c.emit(instruction{op: opCheckStep, b: limit + 1})
	c.loop(func() {
		exit := c.emit(instruction{op: opForTest, n: countIndex(s.Counter.Type().Plain()), b: counter, c: limit})
		top := c.here()
		if counter != place.base.word {
			c.store(place, s.Counter.Type(), counter)
		}
		c.block(s.Body)
		c.land(c.continues)
		c.at = s.At
		c.emit(instruction{op: opForNext, n: countIndex(s.Counter.Type().Plain()), a: top, b: counter, c: limit})
		c.land([]int{exit})
	})
}
