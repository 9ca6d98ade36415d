package machine

import (
	"slices"
	"sort"
	"strconv"
	"strings"

	"celandine/core/check"
	"celandine/core/signal"
)

func equalFold(a, b string) bool { return strings.EqualFold(a, b) }

// A Slot is where a named single value lives.
type Slot struct{ *slot }

type slot struct {
	Name  string // as declared
	Type  *check.Type
	Input bool
	Point bool
	bit   bool // it lies in the bits
	index uint32
}

// root is a variable that names begin with.
type root struct {
	variable *check.Variable
	at       extent
}

// names lists what a root is known by: its name, program.name, and its address.
func (r root) names() (list []string) {
	v := r.variable
	if v.Name != "" {
		list = append(list, v.Name)
		if v.Unit != "" {
			list = append(list, v.Unit+"."+v.Name)
		}
	}
	if v.Address != "" {
		list = append(list, v.Address)
	}
	return list
}

// root makes a variable known. Of several with a name the first has it.
func (c *Code) root(v *check.Variable, at extent) {
	switch {
	case v.Hidden && v.Role != check.System:
		return
	case v.Role == check.Input && v.Same == nil:
		c.inputs = append(c.inputs, v.Name)
	case v.Role == check.Output && v.Same == nil:
		c.outputs = append(c.outputs, v.Name)
	}
	r := root{v, at}
	c.roots = append(c.roots, r)
	key := strings.ToLower(v.Name)
	if _, taken := c.named[key]; !taken && key != "" {
		c.named[key] = len(c.roots) - 1
		c.names = listed(c.names, v.Name, v.Type)
		return
	}
	for _, name := range r.names() {
		if own, _ := c.find(name); own.variable == v {
			c.names = listed(c.names, name, v.Type)
			return
		}
	}
}

// find is what has a name, in any case of letters.
func (c *Code) find(name string) (root, bool) {
	if n, ok := c.named[strings.ToLower(name)]; ok {
		return c.roots[n], true
	}
	unit, own, full := strings.Cut(name, ".")
	of := func(r root) bool { return full && r.variable.Unit != "" && equalFold(r.variable.Unit, unit) }
	if n, ok := c.named[strings.ToLower(own)]; ok && of(c.roots[n]) {
		return c.roots[n], true // most names are one program's alone
	}
	for _, r := range c.roots {
		if v := r.variable; v.Address != "" && equalFold(v.Address, name) || of(r) && equalFold(v.Name, own) {
			return r, true
		}
	}
	return root{}, false
}

// listedElements is how many elements of an array have their names listed.
const listedElements = 16

// listed adds the names of the single values in a type to names.
func listed(names []string, name string, t *check.Type) []string {
	switch t.Class {
	case check.Array:
		if len(t.Bounds) == 1 {
			for n := t.Bounds[0].Low; n <= t.Bounds[0].High && n < t.Bounds[0].Low+listedElements; n++ {
				names = listed(names, name+"["+strconv.FormatInt(n, 10)+"]", t.Element)
			}
		}
	case check.Structure:
		for _, m := range t.Members {
			names = listed(names, name+"."+m.Name, m.Type)
		}
	case check.Instance:
		for _, m := range t.Block.Members {
			if !m.InOut {
				names = listed(names, name+"."+m.Name, m.Type)
			}
		}
	default:
		return append(names, name)
	}
	return names
}

// Slot finds a value by the name that a watch list uses: mist_valve,
// settle.ET, trays[3], or program.name where programs share names. Inside a function block of one's own its
// internal variables are found too.
func (c *Code) Slot(name string) (Slot, bool) {
	first, rest := cutPath(name)
	r, ok := c.find(first)
	if !ok && strings.HasPrefix(rest, ".") { // program.name, or an address with a dot
		second, further := cutPath(rest[1:])
		if r, ok = c.find(first + "." + second); ok {
			first, rest = first+"."+second, further
		}
	}
	if !ok {
		return Slot{}, false
	}
	s := slot{Name: r.variable.Name, Type: r.variable.Type, Input: r.variable.Role == check.Input, Point: r.variable.Point}
	if !equalFold(first, s.Name) {
		s.Name = first
	}
	return c.walk(s, r.at, rest)
}

// cutPath splits settle.ET into settle and .ET, trays[3].x into trays and [3].x.
func cutPath(name string) (first, rest string) {
	for i := 1; i < len(name); i++ {
		if name[i] == '.' || name[i] == '[' {
			return name[:i], name[i:]
		}
	}
	return name, ""
}

// walk follows .member and [index] to a single value.
func (c *Code) walk(s slot, at extent, rest string) (Slot, bool) {
	for rest != "" {
		var ok bool
		if rest[0] == '.' {
			var field string
			field, rest = cutPath(rest[1:])
			s, at, ok = c.step(s, at, field)
		} else {
			var inside string
			inside, rest, ok = strings.Cut(rest[1:], "]")
			if ok {
				s, at, ok = c.elementSlot(s, at, inside)
			}
		}
		if !ok {
			return Slot{}, false
		}
		s.Input, s.Point = false, false
	}
	switch s.Type.Class {
	case check.Boolean:
		s.index, s.bit = at.bit, true
	case check.Text:
		s.index = at.text
	default:
		s.index = at.word
	}
	return Slot{&s}, s.Type.IsSingle()
}

func (c *Code) step(s slot, at extent, field string) (slot, extent, bool) {
	t := s.Type
	if t.Class == check.Instance && t.Block.Unit != nil {
		c.sizes.unit(t.Block.Unit)
		for _, v := range t.Block.Unit.Variables {
			if equalFold(v.Name, field) && !v.InOut && !v.Hidden {
				s.Name, s.Type = s.Name+"."+v.Name, v.Type
				return s, at.plus(c.sizes.offsets[v]), true
			}
		}
		return s, at, false
	}
	members := t.Members
	if t.Class == check.Instance {
		members = t.Block.Members
	}
	for _, m := range members {
		if equalFold(m.Name, field) {
			s.Name, s.Type = s.Name+"."+m.Name, m.Type
			return s, at.plus(c.sizes.member(t, m)), true
		}
	}
	return s, at, false
}

func (c *Code) elementSlot(s slot, at extent, inside string) (slot, extent, bool) {
	t := s.Type
	parts := strings.Split(inside, ",")
	if t.Class != check.Array || len(parts) != len(t.Bounds) {
		return s, at, false
	}
	ordinal := int64(0)
	for i, p := range parts {
		n, err := strconv.ParseInt(strings.TrimSpace(p), 10, 64)
		b := t.Bounds[i]
		if err != nil || n < b.Low || n > b.High {
			return s, at, false
		}
		ordinal = ordinal*(b.High-b.Low+1) + n - b.Low
	}
	s.Name, s.Type = s.Name+"["+inside+"]", t.Element
	return s, at.plus(c.sizes.of(t.Element).times(uint32(ordinal))), true
}

// Cells is how many values a program holds: BOOLs, numbers, texts, and what its blocks remember.
func (c *Code) Cells() int { return int(c.live.bit/pair + c.live.word + c.live.text) }

// Names lists the names of the values, the elements of long arrays but in
// part, in alphabetical order.
func (c *Code) Names() []string { return c.names }

// mostNames bounds AllNames.
const mostNames = 20_000

// AllNames lists the names of Names, and those of the internal variables of blocks of one's own, instance by instance.
func (c *Code) AllNames() []string {
	names := slices.Clone(c.names)
	for _, v := range c.program.Variables {
		if v.Same == nil && !v.Hidden {
			names = c.internal(names, c.nameOf(v), v.Type)
		}
	}
	return names
}

// internal adds the internal variables of the instances in a type.
func (c *Code) internal(names []string, name string, t *check.Type) []string {
	switch {
	case len(names) > mostNames:
	case t.Class == check.Array && len(t.Bounds) == 1 && holdsInstance(t.Element):
		for n := t.Bounds[0].Low; n <= t.Bounds[0].High && n < t.Bounds[0].Low+listedElements; n++ {
			names = c.internal(names, name+"["+strconv.FormatInt(n, 10)+"]", t.Element)
		}
	case t.Class == check.Instance && t.Block.Unit != nil:
		for _, v := range t.Block.Unit.Variables {
			if v.Hidden || v.InOut {
				continue
			}
			inner := name + "." + v.Name
			if v.Role == check.Local {
				names = listed(names, inner, v.Type)
			}
			names = c.internal(names, inner, v.Type)
		}
	}
	return names
}

// nameOf is the name under which a variable is found: with its program's where programs share it.
func (c *Code) nameOf(v *check.Variable) string {
	if r, ok := c.find(v.Name); ok && r.variable == v {
		return v.Name
	}
	return v.Unit + "." + v.Name
}

// Instances lists the instances of a block, standard or one's own, by its name or, of counters, its family's, in the order of
// declaration, wherever they are: in arrays and in blocks of one's own as well.
func (c *Code) Instances(block string) (names []string) {
	for _, v := range c.program.Variables {
		if v.Same != nil {
			continue
		}
		names = instancesIn(names, c.nameOf(v), v.Type, block)
	}
	return names
}

func instancesIn(names []string, name string, t *check.Type, block string) []string {
	switch t.Class {
	case check.Array:
		if !holdsInstance(t.Element) || len(t.Bounds) > 1 {
			return names
		}
		for n := t.Bounds[0].Low; n <= t.Bounds[0].High; n++ {
			names = instancesIn(names, name+"["+strconv.FormatInt(n, 10)+"]", t.Element, block)
		}
	case check.Instance:
		if equalFold(t.Block.Name, block) || equalFold(t.Block.Kind(), block) {
			names = append(names, name)
		}
		if t.Block.Unit == nil {
			return names
		}
		for _, v := range t.Block.Unit.Variables {
			if !v.InOut {
				names = instancesIn(names, name+"."+v.Name, v.Type, block)
			}
		}
	}
	return names
}

func holdsInstance(t *check.Type) bool {
	return t.Class == check.Instance || t.Class == check.Array && holdsInstance(t.Element)
}

// Inputs lists the names of the inputs in the order of declaration.
func (c *Code) Inputs() []string { return c.inputs }

// Outputs lists the names of the outputs in the order of declaration.
func (c *Code) Outputs() []string { return c.outputs }

func (c *Code) sortNames() { sort.Strings(c.names) }

// KindOf returns the kind of a named value, for reading scan tables.
func (c *Code) KindOf(name string) (signal.Kind, bool) {
	s, ok := c.Slot(name)
	if !ok {
		return 0, false
	}
	return s.Type.Kind(), true
}
