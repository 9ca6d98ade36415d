package machine

import "celandine/core/check"

// A location is where a value lies: a base, and for elements whose index is
// known only when the program runs, ordinals to add.
type location struct {
	base    extent
	dynamic []ordinal
}

// An ordinal is a word that counts elements of a size; count is how many there are.
type ordinal struct {
	word  uint32
	size  extent
	count uint32
}

// locate finds what a reference names. Its indexes are compiled here, once.
func (c *compiler) locate(r *check.Ref) location {
	var l location
	switch v := r.Variable; {
	case v.InOut:
		l = c.inouts[v]
		l.dynamic = l.dynamic[:len(l.dynamic):len(l.dynamic)]
	case v.Owner != nil:
		c.sizes.unit(v.Owner)
		l.base = c.frame.plus(c.sizes.offsets[v])
	default:
		l.base = c.places[v.Storage()]
	}
	t := r.Variable.Type
	for _, s := range r.Path {
		if s.Member != nil {
			l.base = l.base.plus(c.sizes.member(t, s.Member))
		} else {
			c.indexed(&l, t, s.Index)
		}
		t = s.Type
	}
	return l
}

// indexed adds an array's element to a location.
func (c *compiler) indexed(l *location, t *check.Type, index []check.Expr) {
	size := c.sizes.of(t.Element)
	known, ordinalWord := int64(0), uint32(0)
	fixed := true
	for _, x := range index {
		if _, ok := x.(*check.Const); !ok {
			fixed = false
		}
	}
	for i, x := range index {
		b := t.Bounds[i]
		count := b.High - b.Low + 1
		if fixed {
			known = known*count + x.(*check.Const).Value - b.Low
			continue
		}
		w := c.word(x, anywhere)
		at := c.scratchWord()
		whole := c.at
		c.at = x.Span()
		c.emit(instruction{op: opOrdinal, a: at, b: w, c: c.constantPair(b.Low, count)})
		c.at = whole
		if i > 0 {
			c.emit(instruction{op: opMul, a: ordinalWord, b: ordinalWord, c: c.constant(count)})
			c.emit(instruction{op: opAdd, a: at, b: at, c: ordinalWord})
		}
		ordinalWord = at
	}
	if fixed {
		l.base = l.base.plus(size.times(uint32(known)))
		return
	}
	l.dynamic = append(l.dynamic, ordinal{ordinalWord, size, uint32(t.Count())})
}

// constantPair returns the first of two constants side by side.
func (c *compiler) constantPair(a, b int64) uint32 {
	at := c.ownWords(2)
	c.code.start.words[at], c.code.start.words[at+1] = a, b
	return at
}

// ownWords takes words that are nobody else's.
func (c *compiler) ownWords(n int) uint32 {
	at := uint32(len(c.code.start.words))
	c.code.start.words = append(c.code.start.words, make([]int64, n)...)
	return at
}

// offset compiles the sum of a location's ordinals in one of the memories, bits counted in pairs.
func (c *compiler) offset(l location, of func(extent) uint32) uint32 {
	sum := uint32(0)
	for i, o := range l.dynamic {
		w := o.word
		if of(o.size) != 1 {
			w = c.scratchWord()
			c.emit(instruction{op: opMul, a: w, b: o.word, c: c.constant(int64(of(o.size)))})
		}
		if i > 0 {
			both := c.scratchWord()
			c.emit(instruction{op: opAdd, a: both, b: sum, c: w})
			w = both
		}
		sum = w
	}
	return sum
}

func bitOf(e extent) uint32   { return e.bit }
func pairsOf(e extent) uint32 { return e.bit / pair }
func wordOf(e extent) uint32  { return e.word }
func textOf(e extent) uint32  { return e.text }

// A bank is one of the memories: how to find a place in it, in what it counts, and how to work on it.
type bank struct {
	of, count         func(extent) uint32
	unit              uint32
	load, store, copy op
}

var (
	bitBank  = bank{bitOf, pairsOf, pair, opLoadBit, opStoreBit, opCopyBits}
	wordBank = bank{wordOf, wordOf, 1, opLoadWord, opStoreWord, opCopyWords}
	textBank = bank{textOf, textOf, 1, opLoadText, opStoreText, opCopyTexts}
)

// bankOf returns where values of a single type lie.
func bankOf(t *check.Type) bank {
	switch t.Class {
	case check.Boolean:
		return bitBank
	case check.Text:
		return textBank
	}
	return wordBank
}

// load returns the index of a single value: its own, or scratch for an element.
func (c *compiler) load(r *check.Ref, t target) uint32 {
	l := c.locate(r)
	b := bankOf(r.Type())
	if len(l.dynamic) == 0 {
		return b.of(l.base)
	}
	offset := c.offset(l, b.count)
	var at uint32
	switch b.load {
	case opLoadBit:
		at = c.bitAt(&t)
	case opLoadText:
		at = c.textAt(&t)
	default:
		at = c.wordAt(&t)
	}
	c.emit(instruction{op: b.load, a: at, b: b.of(l.base), c: offset})
	return at
}

// store writes a single value from an index to a location.
func (c *compiler) store(l location, t *check.Type, from uint32) {
	if t.Base != nil {
		c.emit(instruction{op: opCheckRange, b: from, c: c.constantPair(t.Low, t.High)})
	}
	b := bankOf(t)
	if len(l.dynamic) > 0 {
		c.emit(instruction{op: b.store, n: uint16(t.Length), a: b.of(l.base), b: from, c: c.offset(l, b.count)})
		return
	}
	if at := b.of(l.base); at != from || t.Class == check.Text {
		move := opMove
		if t.Class == check.Text {
			move = opMoveText
		}
		c.emit(instruction{op: move, n: uint16(t.Length), a: at, b: from})
	}
}

func (c *compiler) storeBit(l location, o operand) {
	if len(l.dynamic) == 0 {
		if o != bit(l.base.bit) {
			c.emit(instruction{op: opCopy, a: l.base.bit, b: uint32(o)})
		}
		return
	}
	at := c.scratchBit()
	c.emit(instruction{op: opCopy, a: at, b: uint32(o)})
	c.emit(instruction{op: opStoreBit, a: l.base.bit, b: at, c: c.offset(l, pairsOf)})
}

// direct returns a place that one instruction can read and write; for an element it is
// scratch, loaded here and put back by storeBack.
func (c *compiler) direct(r *check.Ref) (place location, original *location) {
	l := c.locate(r)
	if len(l.dynamic) == 0 {
		return l, nil
	}
	at := c.scratchBit()
	c.emit(instruction{op: opLoadBit, a: at, b: l.base.bit, c: c.offset(l, pairsOf)})
	kept := l
	return location{base: extent{bit: at}}, &kept
}

func (c *compiler) storeBack(place location, original *location) {
	if original != nil {
		c.storeBit(*original, bit(place.base.bit))
	}
}

// assign writes a value to what a reference names.
func (c *compiler) assign(r *check.Ref, value check.Expr) {
	l := c.locate(r)
	c.assignTo(l, r.Type(), value)
}

func (c *compiler) assignTo(l location, t *check.Type, value check.Expr) {
	if !t.IsSingle() {
		c.copy(l, c.locate(value.(*check.Ref)), t)
		return
	}
	plain := len(l.dynamic) == 0 && (t.Base == nil || value.Type() == t || isConst(value))
	switch {
	case t.Class == check.Boolean && plain:
		c.bool(value, into(l.base.bit))
	case t.Class == check.Boolean:
		c.storeBit(l, c.bool(value, anywhere))
	case t.Class == check.Text:
		c.store(l, t, c.text(value, anywhere))
	case plain:
		c.word(value, into(l.base.word))
	default:
		c.store(l, t, c.word(value, anywhere))
	}
}

func isConst(e check.Expr) bool {
	_, ok := e.(*check.Const)
	return ok
}

// copy writes a whole array or structure. An element of an array that is itself a
// composition is copied wherever its index leads.
func (c *compiler) copy(to, from location, t *check.Type) {
	size := c.sizes.of(t)
	for _, bank := range []bank{bitBank, wordBank, textBank} {
		n := bank.of(size)
		if n == 0 {
			continue
		}
		if len(to.dynamic)+len(from.dynamic) == 0 {
			c.emit(instruction{op: bank.copy, a: bank.of(to.base), b: bank.of(from.base), c: n})
			continue
		}
		// One by one through memory of its own, so that overlapping is harmless.
		zero := c.constant(0)
		read, write := zero, zero
		if len(from.dynamic) > 0 {
			read = c.offset(from, bank.count)
		}
		if len(to.dynamic) > 0 {
			write = c.offset(to, bank.count)
		}
		buffer := c.own(bank.copy, n)
		for i := uint32(0); i < n; i += bank.unit {
			c.emit(instruction{op: bank.load, a: buffer + i, b: bank.of(from.base) + i, c: read})
		}
		for i := uint32(0); i < n; i += bank.unit {
			c.emit(instruction{op: bank.store, n: 1<<16 - 1, a: bank.of(to.base) + i, b: buffer + i, c: write})
		}
	}
}

// own takes n places that are nobody else's in the memory of a copy.
func (c *compiler) own(kind op, n uint32) uint32 {
	start := &c.code.start
	end := start.end()
	switch kind {
	case opCopyBits:
		start.bits = unset(start.bits, n)
		return end.bit
	case opCopyTexts:
		start.texts = append(start.texts, make([]string, n)...)
		return end.text
	}
	return c.ownWords(int(n))
}

func (c *compiler) textAt(t *target) uint32 {
	if !t.given {
		*t = into(c.scratchText())
	}
	return t.index
}

// text compiles a text expression.
func (c *compiler) text(e check.Expr, t target) uint32 {
	at := c.textOperand(e, t)
	if t.given && at != t.index {
		c.emit(instruction{op: opMoveText, n: 1<<16 - 1, a: t.index, b: at})
		return t.index
	}
	return at
}

// texts compiles two texts as pair does two words.
func (c *compiler) texts(x, y check.Expr, turned bool) (uint32, uint32) {
	if turned && (check.Invokes(x) || check.Invokes(y)) {
		b, a := c.texts(y, x, false)
		return a, b
	}
	if check.Invokes(y) {
		return c.text(x, into(c.scratchText())), c.text(y, anywhere)
	}
	return c.text(x, anywhere), c.text(y, anywhere)
}

func (c *compiler) textOperand(e check.Expr, t target) uint32 {
	switch e := e.(type) {
	case *check.Const:
		at, ok := c.literals[e.Text]
		if !ok {
			at = uint32(len(c.code.start.texts))
			c.code.start.texts = append(c.code.start.texts, e.Text)
			c.literals[e.Text] = at
		}
		return at
	case *check.Ref:
		return c.load(e, t)
	case *check.Choose:
		c.choose(e, into(c.textAt(&t)))
		return t.index
	case *check.Apply:
		return c.apply(e, t)
	case *check.Invoke:
		return c.invoke(e).text
	}
	return 0
}
