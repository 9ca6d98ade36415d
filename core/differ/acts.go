package differ

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"celandine/core/machine"
	"celandine/core/signal"
	"celandine/core/source"
	"celandine/core/syntax"
)

// An act is what may be done at once: an input takes a value; where input is restart, the supply is lost and returns; and a number beyond
// the inputs' is that of a value to be written.
type act struct {
	input int
	value int64
}

const restart = -1

// choices lists the values that each input may take: both of a BOOL, and of a number those on either side of, and at, what the programs
// compare it with. partial tells that there are others that the programs could tell apart.
func (p Pair) choices() (values [][]int64, partial bool) {
	literals, known := numbersIn(p.A, p.B)
	for _, input := range p.Inputs {
		rest := input.Rest()
		switch input.Kind() {
		case signal.Bool:
			values = append(values, []int64{rest, 1 - rest})
		case signal.Int, signal.Uint:
			list, all := around(rest, literals)
			values = append(values, list)
			partial = partial || !all || !known(input.Name)
		default:
			values = append(values, []int64{rest})
			partial = true
		}
	}
	return values, partial
}

// mostValues bounds the values of one number.
const mostValues = 40

// around lists a value at rest and those about some numbers; all tells that there was room for every one.
func around(rest int64, numbers []int64) (list []int64, all bool) {
	list = []int64{rest}
	for _, n := range numbers {
		for _, v := range [3]int64{n - 1, n, n + 1} {
			if slices.Contains(list, v) {
				continue
			}
			if len(list) == mostValues {
				return list, false
			}
			list = append(list, v)
		}
	}
	return list, true
}

// numbersIn lists the whole numbers that stand in programs and their blocks, with either sign, and tells of which inputs they are all that
// matters: those that are only compared with such numbers, under their own name.
func numbersIn(codes ...*machine.Code) (numbers []int64, known func(name string) bool) {
	seen, used, compared := map[int64]bool{}, map[string]int{}, map[string]int{}
	named := true // no input is read by its address
	visit := func(node any) bool {
		switch n := node.(type) {
		case *syntax.Literal:
			if v, ok := whole(n); ok {
				seen[v], seen[-v] = true, true
			}
		case *syntax.Address:
			named = false
		case *syntax.Identifier:
			used[strings.ToLower(n.Text)]++
		case *syntax.Binary:
			if name, ok := heldToNumber(n); ok {
				compared[name]++
			}
		}
		return true
	}
	read := map[*source.File]bool{}
	for _, code := range codes {
		for _, u := range code.Program().Units {
			if f := u.Tree.Name.Span.File; !read[f] {
				read[f] = true
				tree, _ := syntax.Parse(f) // it was checked
				syntax.Walk(tree.Units, visit)
			}
		}
	}
	for n := range seen {
		numbers = append(numbers, n)
	}
	slices.Sort(numbers)
	return numbers, func(name string) bool {
		return named && used[strings.ToLower(name)] == compared[strings.ToLower(name)]
	}
}

// heldToNumber tells of a comparison of a name with a written whole number.
func heldToNumber(b *syntax.Binary) (name string, ok bool) {
	if !slices.Contains([]string{"<", ">", "<=", ">=", "=", "<>"}, b.Op) {
		return "", false
	}
	for _, sides := range [2][2]syntax.Expr{{b.X, b.Y}, {b.Y, b.X}} {
		id, named := sides[0].(*syntax.Identifier)
		if _, number := whole(sides[1]); named && number {
			return strings.ToLower(id.Text), true
		}
	}
	return "", false
}

// whole reads a written whole number, or one with its sign turned over.
func whole(e syntax.Expr) (v int64, ok bool) {
	switch e := e.(type) {
	case *syntax.Unary:
		v, ok = whole(e.X)
		return -v, ok && e.Op == "-"
	case *syntax.Paren:
		return whole(e.X)
	case *syntax.Literal:
		v, err := strconv.ParseInt(strings.ReplaceAll(e.Text, "_", ""), 10, 64)
		return v, err == nil && v < math.MaxInt32
	}
	return 0, false
}

// script writes events as a script of so many scans.
func (p Pair) script(events []event, scans int) *signal.Trace {
	t := &signal.Trace{Period: p.Period, Scans: scans}
	for i, input := range p.Inputs {
		values := []signal.Change{{Scan: 0, Value: input.Rest()}}
		for _, e := range events {
			if e.input == i {
				values = append(values, signal.Change{Scan: e.scan, Value: e.value})
			}
		}
		t.Columns = append(t.Columns, signal.Steps(input.Name, input.Kind(), values))
	}
	for _, e := range events {
		switch write := e.input - len(p.Inputs); {
		case e.input == restart:
			t.Acts = append(t.Acts, signal.Act{Scan: e.scan, Verb: signal.Restart})
		case write >= 0:
			t.Acts = append(t.Acts, signal.Act{Scan: e.scan, Verb: signal.Write, Name: p.Writes[write].Name, Value: p.Writes[write].Value})
		}
	}
	return t
}

// An event is an act and the scan that sees it first.
type event struct {
	act
	scan int
}
