package differ

import (
	"math"
	"slices"
	"strconv"
	"strings"

	"celandine/core/machine"
	"celandine/core/signal"
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
			values = append(values, around(rest, literals))
			partial = partial || !known(input.Name)
		default:
			values = append(values, []int64{rest})
			partial = true
		}
	}
	return values, partial
}

// mostValues bounds the values of one number.
const mostValues = 40

// around lists a value at rest and those about some numbers.
func around(rest int64, numbers []int64) []int64 {
	list := []int64{rest}
	for _, n := range numbers {
		for _, v := range [3]int64{n - 1, n, n + 1} {
			if !slices.Contains(list, v) && len(list) < mostValues {
				list = append(list, v)
			}
		}
	}
	return list
}

// numbersIn lists the whole numbers that stand in programs, with either sign, and tells of which inputs they are all that matters: those
// that are only compared with numbers.
func numbersIn(codes ...*machine.Code) (numbers []int64, known func(name string) bool) {
	seen, used, compared := map[int64]bool{}, map[string]int{}, map[string]int{}
	for _, code := range codes {
		for _, u := range code.Program().Units {
			syntax.Walk(u.Tree, func(node any) bool {
				switch n := node.(type) {
				case *syntax.Literal:
					if v, err := strconv.ParseInt(strings.ReplaceAll(n.Text, "_", ""), 10, 64); err == nil && v < math.MaxInt32 {
						seen[v], seen[-v] = true, true
					}
				case *syntax.Identifier:
					used[strings.ToLower(n.Text)]++
				case *syntax.Binary:
					if name, ok := heldToNumber(n); ok {
						compared[name]++
					}
				}
				return true
			})
		}
	}
	for n := range seen {
		numbers = append(numbers, n)
	}
	slices.Sort(numbers)
	return numbers, func(name string) bool { return used[strings.ToLower(name)] == compared[strings.ToLower(name)] }
}

// heldToNumber tells of a comparison of a name with a written number.
func heldToNumber(b *syntax.Binary) (name string, ok bool) {
	if !slices.Contains([]string{"<", ">", "<=", ">=", "=", "<>"}, b.Op) {
		return "", false
	}
	for _, sides := range [2][2]syntax.Expr{{b.X, b.Y}, {b.Y, b.X}} {
		id, named := sides[0].(*syntax.Identifier)
		if named && written(sides[1]) {
			return strings.ToLower(id.Text), true
		}
	}
	return "", false
}

func written(e syntax.Expr) bool {
	switch e := e.(type) {
	case *syntax.Unary:
		return e.Op == "-" && written(e.X)
	case *syntax.Paren:
		return written(e.X)
	}
	_, ok := e.(*syntax.Literal)
	return ok
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
