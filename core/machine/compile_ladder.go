package machine

import (
	"slices"

	"celandine/core/check"
	"celandine/core/syntax"
)

// Power on its way through a rung is groups of operands: in each group one must
// be TRUE. No groups are the power rail. They are read before the next element
// writes anything, so that each element sees what the ones before it wrote.
type power [][]operand

func (c *compiler) rung(r *check.Rung) {
	bits, words, texts := c.usedBits, c.usedWords, c.usedTexts
	c.at = r.At
	c.series(r.Net, nil, false)
	c.usedBits, c.usedWords, c.usedTexts = bits, words, texts
}

// series compiles elements in order. wanted tells whether anything uses the
// power that comes out.
func (c *compiler) series(s *check.Series, p power, wanted bool) power {
	for i := 0; i < len(s.Elements); i++ {
		e := s.Elements[i]
		last := i+1 == len(s.Elements)
		if coil := c.coilBehind(s.Elements[i:], wanted); coil != nil {
			c.at = e.(*check.BlockBox).Call.At
			c.blockInto(e.(*check.BlockBox), p, coil)
			return nil
		}
		p = c.element(e, p, wanted || !last)
	}
	return p
}

// coilBehind returns the plain coil that ends a rung behind a standard block, whose
// instruction can write it.
func (c *compiler) coilBehind(rest []check.Element, wanted bool) *check.Coil {
	if len(rest) != 2 || wanted || !c.fused {
		return nil
	}
	box, ok := rest[0].(*check.BlockBox)
	coil, plain := rest[1].(*check.Coil)
	if !ok || !plain || coil.Kind != syntax.PlainCoil || !fusible(box) || !static(coil.Target) {
		return nil
	}
	return coil
}

// fusible reports whether power alone goes in and out of a standard block.
func fusible(b *check.BlockBox) bool {
	return b.In != nil && b.Call.Enable == nil && b.Call.ENO == nil && len(b.Call.Outputs) == 0 && b.Call.Instance.Type().Block.Unit == nil &&
		static(b.Call.Instance) && !looksBack(b.Call)
}

// static reports whether a reference's place is known beforehand.
func static(r *check.Ref) bool {
	for _, s := range r.Path {
		for _, x := range s.Index {
			if !isConst(x) {
				return false
			}
		}
	}
	return !r.Variable.InOut
}

func (c *compiler) element(e check.Element, p power, wanted bool) power {
	switch e := e.(type) {
	case *check.Series:
		return c.series(e, p, wanted)
	case *check.Parallel:
		return c.parallel(e, p, wanted)
	case *check.Contact:
		c.at = e.At
		return c.contact(e, p)
	case *check.Coil:
		c.at = e.At
		return c.coil(e, p, wanted)
	case *check.BlockBox:
		c.at = e.Call.At
		return c.blockBox(e, p)
	case *check.FunctionBox:
		c.at = e.At
		return c.functionBox(e, p)
	case *check.Share:
		p = c.single(c.settled(p))
		for _, a := range e.Assigns {
			c.assign(a.Target, a.Value)
		}
	}
	return p
}

// held is the conjunction of operands as one that later writes cannot change.
func (c *compiler) held(list []operand) operand { return c.keepBit(c.all(list, anywhere)) }

// settled is the power as one operand that later writes cannot change.
func (c *compiler) settled(p power) operand { return c.keepBit(c.network(p, anywhere)) }

// keepBit returns an operand that any number of readers may read: the one way to such. gate leaves
// alone what made it.
func (c *compiler) keepBit(o operand) operand {
	c.shared = c.here()
	if o == always || o == never || c.isScratch(o) {
		return o
	}
	at := c.scratchBit()
	c.emit(instruction{op: opCopy, a: at, b: uint32(o)})
	c.shared = c.here()
	return bit(at)
}

func (c *compiler) single(o operand) power { return c.powers.With(nil, c.alone.With(nil, o)) }

// follow extends the power by one more condition.
func (c *compiler) follow(p power, o operand) power { return c.powers.With(p, c.alone.With(nil, o)) }

// network compiles a product of sums; sum, a sum of products.
func (c *compiler) network(p power, t target) operand {
	kept := p
	if slices.ContainsFunc(p, passes) {
		kept = slices.DeleteFunc(slices.Clone(p), passes)
	}
	if len(kept) == 0 {
		return always
	}
	return c.chain(opProduct, kept, t)
}

// passes reports a group that is always TRUE.
func passes(group []operand) bool { return len(group) == 1 && group[0] == always }

func (c *compiler) sum(p power, t target) operand { return c.chain(opSum, p, t) }

// chain compiles groups with the fewest instructions: none, one for a common
// shape, or one that walks the contacts.
func (c *compiler) chain(many op, p power, t target) operand {
	if len(p) == 1 && len(p[0]) == 1 {
		return p[0][0]
	}
	at := c.bitAt(&t)
	if many == opSum {
		p = products(p, &many)
	}
	if many == opProduct && c.gate(p, at) {
		return bit(at)
	}
	short := shortChain(p)
	if many == opSum {
		short = shortSum(p)
	}
	if short.op != opEnd {
		short.a = at
		c.emit(short)
		return bit(at)
	}
	c.links(many, assigns, at, p)
	return bit(at)
}

// gate makes a comparison, or two pairs of contacts, just compiled look at the other contact in series, where
// there is one, and reports whether it did. Its licence: the last instruction's result has one reader, this product;
// whatever has more went through keepBit.
func (c *compiler) gate(p power, at uint32) bool {
	last := c.last()
	if last == nil || c.shared == c.here() || len(p) != 2 || len(p[0]) != 1 || len(p[1]) != 1 {
		return false
	}
	gate := last.gate()
	if gate == nil || operand(*gate) != always || !c.isScratch(bit(last.a)) {
		return false
	}
	other := p[0][0]
	switch bit(last.a) {
	case p[0][0]:
		other = p[1][0]
	case p[1][0]:
	default:
		return false
	}
	if other&^1 == bit(last.a) {
		return false
	}
	last.a, *gate = at, uint32(other)
	return true
}

// gate is the operand that an instruction's result must agree with, where it has one.
func (in *instruction) gate() *uint32 {
	switch in.op {
	case opEqual, opLess, opLessEqual:
		return &in.d
	case opAndOr:
		return &in.f
	}
	return nil
}

// shortSum returns the instruction for two pairs of contacts, without its destination, or one with opEnd.
func shortSum(p power) instruction {
	if len(p) != 2 || len(p[0]) != 2 || len(p[1]) != 2 {
		return instruction{}
	}
	return instruction{op: opAndOr, b: uint32(p[0][0]), c: uint32(p[0][1]), d: uint32(p[1][0]), e: uint32(p[1][1]), f: uint32(always)}
}

// products turns a sum of single contacts into a product with one group, which
// is the same and has instructions of its own.
func products(sum power, many *op) power {
	var group []operand
	for _, product := range sum {
		if len(product) != 1 {
			if len(sum) == 1 { // one product: its contacts in series
				*many = opProduct
				var p power
				for _, o := range product {
					p = append(p, []operand{o})
				}
				return p
			}
			return sum
		}
		group = append(group, product[0])
	}
	*many = opProduct
	return power{group}
}

// shortChain returns the instruction for a product of a common shape, without
// its destination, or one with opEnd.
func shortChain(p power) instruction {
	var o [4]uint32
	n, groups := 0, 0
	for _, group := range p {
		if len(group) > 1 {
			groups++
		}
		for _, x := range group {
			if n == len(o) {
				return instruction{}
			}
			o[n] = uint32(x)
			n++
		}
	}
	switch {
	case groups == 0 && n == 2:
		return instruction{op: opAnd, b: o[0], c: o[1]}
	case groups == 0 && n == 3:
		return instruction{op: opAnd3, b: o[0], c: o[1], d: o[2]}
	case groups == 0 && n == 4:
		return instruction{op: opAnd4, b: o[0], c: o[1], d: o[2], e: o[3]}
	case len(p) == 1 && n == 2:
		return instruction{op: opOr, b: o[0], c: o[1]}
	case len(p) == 1 && n == 3:
		return instruction{op: opOr3, b: o[0], c: o[1], d: o[2]}
	case len(p) == 2 && len(p[0]) == 2 && len(p[1]) == 1:
		return instruction{op: opOrAnd, b: o[0], c: o[1], d: o[2]}
	case len(p) == 2 && len(p[0]) == 1 && len(p[1]) == 2:
		return instruction{op: opOrAnd, b: o[1], c: o[2], d: o[0]}
	}
	return instruction{}
}

func (c *compiler) links(many op, action uint16, at uint32, p power) {
	first := uint32(len(c.code.links))
	for _, group := range p {
		for i, o := range group {
			c.code.links = append(c.code.links, linkOf(o, i+1 == len(group)))
		}
	}
	c.emit(instruction{op: many, n: action, a: at, b: first, c: uint32(len(c.code.links))})
}

// reads reports whether an element only reads: a contact with no named memory
// that does not sense the power itself, or a network of such.
func reads(e check.Element) bool {
	switch e := e.(type) {
	case *check.Contact:
		return e.Operand != nil && !check.Invokes(e.Operand) && (e.Memory == nil || e.Memory.Variable.Hidden)
	case *check.Series:
		for _, x := range e.Elements {
			if !reads(x) {
				return false
			}
		}
		return true
	case *check.Parallel:
		for _, b := range e.Branches {
			if !reads(b) {
				return false
			}
		}
		return true
	}
	return false
}

func (c *compiler) parallel(e *check.Parallel, p power, wanted bool) power {
	if reads(e) {
		return c.branches(e, p)
	}
	branches := e.Branches
	in, coil := operand(0), c.leadingCoil(branches, wanted)
	if coil != nil {
		c.at = coil.At
		c.writeCoil(coil, c.locate(coil.Target).base.bit, p)
		in, branches = bit(c.locate(coil.Target).base.bit), branches[1:]
	} else {
		in = c.settled(p)
	}
	var out []operand
	for _, b := range branches {
		branch := c.series(b, c.single(in), wanted)
		if wanted {
			out = append(out, c.settled(branch))
		}
	}
	if !wanted {
		return nil
	}
	return power{out}
}

// leadingCoil returns the plain coil that is the whole upper branch where its bit can stand for the power in the
// branches below it, which must not write it.
func (c *compiler) leadingCoil(branches []*check.Series, wanted bool) *check.Coil {
	if wanted || !c.fused || len(branches[0].Elements) != 1 {
		return nil
	}
	coil, ok := branches[0].Elements[0].(*check.Coil)
	if !ok || coil.Kind != syntax.PlainCoil || !static(coil.Target) {
		return nil
	}
	for _, b := range branches[1:] {
		for _, e := range b.Elements {
			if other, ok := e.(*check.Coil); ok && static(other.Target) && other.Memory == nil &&
				other.Target.Variable.Storage() != coil.Target.Variable.Storage() {
				continue
			}
			if !reads(e) {
				return nil
			}
		}
	}
	return coil
}

// branches compiles branches that only read: a sum of contacts, or of contacts
// in series, needs no place for each branch.
func (c *compiler) branches(e *check.Parallel, p power) power {
	var sum power // of products
	var contacts []operand
	wire := false
	for _, b := range e.Branches {
		branch := c.series(b, nil, true)
		wire = wire || len(branch) == 0
		var product []operand
		for _, group := range branch {
			product = append(product, c.any(group, anywhere))
		}
		sum = append(sum, product)
		if len(product) == 1 {
			contacts = append(contacts, product[0])
		}
	}
	if wire { // it passes whatever comes; the other branches are read all the same, for an index may be out of bounds
		return p
	}
	if len(contacts) == len(sum) {
		return c.powers.With(p, contacts)
	}
	return c.follow(p, c.sum(sum, anywhere))
}

func (c *compiler) contact(e *check.Contact, p power) power {
	if e.Memory == nil {
		if check.Invokes(e.Operand) {
			p = c.single(c.settled(p))
		}
		o := c.bool(e.Operand, anywhere)
		if e.Kind == syntax.ClosedContact {
			o = o.inverted()
		}
		return c.follow(p, o)
	}
	edge := opRise
	if e.Kind == syntax.FallingContact {
		edge = opFall
	}
	if !e.Memory.Variable.Hidden || e.Operand == nil {
		p = c.single(c.settled(p))
	}
	sensed := operand(0)
	if e.Operand != nil {
		sensed = c.bool(e.Operand, anywhere)
	} else {
		sensed = p[0][0]
	}
	at := c.scratchBit()
	memory, original := c.direct(e.Memory)
	c.emit(instruction{op: edge, a: at, b: uint32(sensed), c: memory.base.bit})
	c.storeBack(memory, original)
	if e.Operand == nil {
		return c.single(bit(at))
	}
	return c.follow(p, bit(at))
}

func (c *compiler) coil(e *check.Coil, p power, wanted bool) power {
	if wanted {
		p = c.single(c.settled(p))
	}
	place, original := c.direct(e.Target)
	c.writeCoil(e, place.base.bit, p)
	c.storeBack(place, original)
	return p
}

func (c *compiler) writeCoil(e *check.Coil, at uint32, p power) {
	long := len(p) > 1 || len(p) == 1 && len(p[0]) > 1
	switch e.Kind {
	case syntax.PlainCoil:
		if o := c.network(p, into(at)); o != bit(at) {
			c.emit(instruction{op: opCopy, a: at, b: uint32(o)})
		}
		return
	case syntax.SetCoil, syntax.ResetCoil:
		one, two, action := opSet, opSetAnd, sets
		if e.Kind == syntax.ResetCoil {
			one, two, action = opReset, opResetAnd, resets
		}
		if len(p) == 2 && len(p[0]) == 1 && len(p[1]) == 1 {
			c.emit(instruction{op: two, a: at, b: uint32(p[0][0]), c: uint32(p[1][0])})
		} else if long {
			c.links(opProduct, action, at, p)
		} else {
			c.emit(instruction{op: one, a: at, b: uint32(c.network(p, anywhere))})
		}
		return
	}
	o := uint32(c.network(p, anywhere))
	switch e.Kind {
	case syntax.NegatedCoil:
		c.emit(instruction{op: opCopy, a: at, b: o ^ 1})
	case syntax.RisingCoil:
		c.emit(instruction{op: opRise, a: at, b: o, c: c.locate(e.Memory).base.bit})
	case syntax.FallingCoil:
		c.emit(instruction{op: opFall, a: at, b: o, c: c.locate(e.Memory).base.bit})
	}
}

func (c *compiler) blockBox(e *check.BlockBox, p power) power {
	if e.In == nil {
		enable := c.settled(p)
		c.enabled(enable, func() { c.call(e.Call) })
		if e.Call.ENO != nil {
			c.storeBit(c.locate(e.Call.ENO), enable)
		}
		return c.single(enable)
	}
	switch {
	case c.fused && fusible(e):
		c.blockInto(e, p, nil)
	case e.Call.Enable != nil || looksBack(e.Call): // the power goes in with the other inputs, if they do
		call := c.hoisted(e.Call)
		power := c.aside(check.Bool, func(l location) { c.storeBit(l, c.settled(p)) })
		call.Inputs = append(call.Inputs, check.Binding{Member: e.In, Value: power})
		c.callStatement(call)
	default:
		c.drive(e, p)
		c.callStatement(e.Call)
	}
	return c.single(bit(c.load(e.Call.Instance.Select(e.Out), anywhere)))
}

// drive writes the power to a block's first input.
func (c *compiler) drive(e *check.BlockBox, p power) {
	in := c.locate(e.Call.Instance.Select(e.In))
	if len(in.dynamic) > 0 {
		c.storeBit(in, c.settled(p))
	} else if o := c.network(p, into(in.base.bit)); o != bit(in.base.bit) {
		c.emit(instruction{op: opCopy, a: in.base.bit, b: uint32(o)})
	}
}

// blockInto compiles a standard block whose instruction takes the power and, where there is a
// coil, hands its own on.
func (c *compiler) blockInto(e *check.BlockBox, p power, coil *check.Coil) {
	at := c.locate(e.Call.Instance).base
	o := c.network(p, into(at.bit))
	c.call(e.Call)
	block := &c.code.instructions[len(c.code.instructions)-1]
	if o != bit(at.bit) {
		block.d = uint32(o)
	}
	if coil != nil {
		block.e = c.locate(coil.Target).base.bit
	}
}

func (c *compiler) functionBox(e *check.FunctionBox, p power) power {
	enable := c.settled(p)
	if !e.Gate {
		c.enabled(enable, func() {
			if e.Target != nil {
				c.assign(e.Target, e.Value)
			} else if call, ok := e.Value.(*check.Invoke); ok {
				c.invoke(call)
			}
		})
		return c.single(enable)
	}
	at := c.scratchBit()
	c.emit(instruction{op: opCopy, a: at, b: uint32(never)})
	c.enabled(enable, func() {
		c.bool(e.Value, into(at))
		if e.Target != nil {
			c.storeBit(c.locate(e.Target), bit(at))
		}
	})
	return c.single(bit(at))
}
