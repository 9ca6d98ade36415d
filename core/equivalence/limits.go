package equivalence

import (
	"cmp"
	"maps"
	"math"
	"slices"
	"strconv"
	"strings"
	"time"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/machine"
	"celandine/core/signal"
)

// What a number at an input does changes where the programs compare it with something. So each input that is a number is given the values
// about those limits. A limit is carried back through the arithmetic between the input and the comparison: of level / 1000.0 > 0.8 it is
// 800.

// values lists the values that each input may take, that at rest first: both of a BOOL, and of a number those about its limits. partial
// tells that there are others that the programs could tell apart.
func (p Pair) values() (values [][]int64, partial bool) {
	f := &finder{flows: map[place][]check.Expr{}, limits: map[*check.Variable]map[float64]bool{}, numbers: map[float64]bool{},
		times: map[float64]bool{}, used: map[*check.Variable]int{}, plain: map[*check.Variable]int{}}
	for _, code := range [2]*machine.Code{p.A, p.B} {
		f.read(code.Program())
	}
	for _, input := range p.Inputs {
		list, all := f.valuesOf(input, [2]*check.Program{p.A.Program(), p.B.Program()})
		values = append(values, list)
		partial = partial || !all
	}
	return values, partial
}

// A finder finds the limits of the inputs of two programs.
type finder struct {
	flows   map[place][]check.Expr // what may be written there
	limits  map[*check.Variable]map[float64]bool
	numbers map[float64]bool // all that stand in the programs
	times   map[float64]bool // nanoseconds
	used    map[*check.Variable]int
	plain   map[*check.Variable]int // uses as one side of a comparison whose other is a constant
	via     []place                 // through which a limit is being carried
}

// A place is a variable, or a member of one.
type place struct {
	variable *check.Variable
	member   string
}

func placeOf(r *check.Ref) place {
	member := ""
	for _, s := range r.Path {
		switch {
		case s.Member == nil:
			member += "[]" // any element
		case s.Member.Variable != nil:
			return place{s.Member.Variable, ""}
		default:
			member += "." + strings.ToLower(s.Member.Name)
		}
	}
	return place{r.Variable.Storage(), member}
}

func (f *finder) read(p *check.Program) {
	type comparison struct{ x, y check.Expr }
	var compared []comparison
	f.initials(p.Variables)
	flow := func(to *check.Ref, from check.Expr) {
		if to != nil && from != nil {
			f.flows[placeOf(to)] = append(f.flows[placeOf(to)], from)
		}
	}
	enter := func(list []check.Binding) {
		for _, b := range list {
			switch {
			case b.Value == nil:
			case b.Variable != nil:
				f.flows[place{b.Variable, ""}] = append(f.flows[place{b.Variable, ""}], b.Value)
			case b.Member != nil && b.Member.Variable != nil:
				f.flows[place{b.Member.Variable, ""}] = append(f.flows[place{b.Member.Variable, ""}], b.Value)
			}
		}
	}
	p.Walk(func(node any) bool {
		switch n := node.(type) {
		case *check.Const:
			if n.T.Kind() == signal.Time {
				f.times[number(n)] = true
			} else if n.T.Kind() != signal.Bool && n.T.Kind() != signal.Text {
				f.numbers[number(n)] = true
			}
		case *check.Ref:
			f.used[n.Variable.Storage()]++
		case *check.Assign:
			flow(n.Target, n.Value)
		case *check.FunctionBox:
			flow(n.Target, n.Value)
		case *check.Invoke:
			f.initials(n.Unit.Variables)
			enter(n.Inputs)
		case *check.Call:
			if u := n.Instance.Type().Block.Unit; u != nil {
				f.initials(u.Variables)
			}
			enter(n.Inputs)
			for _, b := range n.Outputs {
				if b.Member != nil && b.Member.Variable != nil {
					flow(b.Target, &check.Ref{Variable: b.Member.Variable})
				}
			}
		case *check.BlockBox:
			enter(n.Call.Inputs)
		case *check.Case:
			for _, c := range n.Choices {
				for _, l := range c.Labels {
					compared = append(compared, comparison{n.Value, &check.Const{T: check.Lint, Value: l.From}},
						comparison{n.Value, &check.Const{T: check.Lint, Value: l.To}})
				}
			}
		case *check.Op:
			if n.Op == check.Equal || n.Op == check.NotEqual || n.Op == check.Less || n.Op == check.LessEqual {
				compared = append(compared, comparison{n.X, n.Y}, comparison{n.Y, n.X})
			}
		}
		return true
	})
	for _, c := range compared {
		if r, ok := c.x.(*check.Ref); ok && len(r.Path) == 0 {
			if _, constant := c.y.(*check.Const); constant {
				f.plain[r.Variable.Storage()]++
			}
		}
		for limit := range f.constants(c.y, 0) {
			f.carry(c.x, limit)
		}
	}
}

// initials takes the first values of variables for what may be written to them.
func (f *finder) initials(list []*check.Variable) {
	for _, v := range list {
		if i := v.Initial; v.Role == check.Local && i != nil && v.Type != nil && v.Type.IsSingle() && v.Type.Kind() != signal.Text {
			at := place{v.Storage(), ""}
			f.flows[at] = append(f.flows[at], &check.Const{T: v.Type, Value: v.Initial.Number})
		}
	}
}

func number(c *check.Const) float64 {
	switch c.T.Kind() {
	case signal.Real:
		return signal.RealOf(c.Value)
	case signal.Uint:
		return float64(uint64(c.Value))
	}
	return float64(c.Value)
}

// What is looked at to find the limits is bounded.
const (
	deepest       = 12
	mostConstants = 12
	mostLimits    = 60 // of one input
)

// constants lists what an expression may be as far as that is made of constants.
func (f *finder) constants(e check.Expr, depth int) map[float64]bool {
	found := map[float64]bool{}
	if depth > deepest {
		return found
	}
	of := func(x check.Expr) []float64 { return slices.Sorted(maps.Keys(f.constants(x, depth+1))) }
	add := func(list ...float64) {
		for _, v := range list {
			if len(found) < mostConstants && !math.IsNaN(v) && !math.IsInf(v, 0) {
				found[v] = true
			}
		}
	}
	switch e := e.(type) {
	case *check.Const:
		add(number(e))
	case *check.Ref:
		for _, from := range f.flows[placeOf(e)] {
			if _, op := from.(*check.Op); !op { // a number that counts on is no constant
				add(of(from)...)
			}
		}
	case *check.Convert:
		for _, v := range of(e.X) {
			add(converted(v, e.X.Type(), e.T))
		}
	case *check.Choose:
		add(of(e.X)...)
		add(of(e.Y)...)
	case *check.Op:
		if e.Y == nil {
			for _, v := range of(e.X) {
				add(-v)
			}
			break
		}
		for _, x := range of(e.X) {
			for _, y := range of(e.Y) {
				switch e.Op {
				case check.Add:
					add(x + y)
				case check.Sub:
					add(x - y)
				case check.Mul:
					add(x * y)
				case check.Div:
					add(x / y)
				}
			}
		}
	}
	return found
}

// converted is a value as another type: a TIME is counted in nanoseconds here, and is milliseconds as a number.
func converted(v float64, from, to *check.Type) float64 {
	switch was, is := from.Kind() == signal.Time, to.Kind() == signal.Time; {
	case was && !is:
		return v / float64(time.Millisecond)
	case is && !was:
		return v * float64(time.Millisecond)
	}
	return v
}

// carry looks for the inputs that an expression is made of, and what they are where it is at a limit.
func (f *finder) carry(e check.Expr, limit float64) {
	if math.IsNaN(limit) || math.IsInf(limit, 0) || len(f.via) > deepest {
		return
	}
	switch e := e.(type) {
	case *check.Ref:
		f.through(placeOf(e), limit)
	case *check.Convert:
		f.carry(e.X, converted(limit, e.T, e.X.Type()))
	case *check.Choose:
		f.carry(e.X, limit)
		f.carry(e.Y, limit)
	case *check.Invoke:
		f.through(place{e.Unit.Result, ""}, limit)
	case *check.Op:
		f.operator(e, limit)
	case *check.Apply:
		f.function(e, limit)
	}
}

func (f *finder) through(at place, limit float64) {
	if at.variable.Role == check.Input {
		if f.limits[at.variable] == nil {
			f.limits[at.variable] = map[float64]bool{}
		}
		if list := f.limits[at.variable]; len(list) < mostLimits {
			list[limit] = true
		}
		return
	}
	if slices.Contains(f.via, at) {
		return
	}
	f.via = append(f.via, at)
	for _, from := range f.flows[at] {
		f.carry(from, limit)
	}
	f.via = f.via[:len(f.via)-1]
}

func (f *finder) operator(e *check.Op, limit float64) {
	if e.Y == nil {
		if e.Op == check.Negate {
			f.carry(e.X, -limit)
		}
		return
	}
	for c := range f.constants(e.Y, 0) {
		switch e.Op {
		case check.Add:
			f.carry(e.X, limit-c)
		case check.Sub:
			f.carry(e.X, limit+c)
		case check.Mul:
			f.carry(e.X, limit/c)
		case check.Div:
			f.carry(e.X, limit*c)
		case check.Mod:
			f.carry(e.X, limit)
			f.carry(e.X, limit+c)
		case check.Power:
			f.carry(e.X, math.Pow(limit, 1/c))
		}
	}
	for c := range f.constants(e.X, 0) {
		switch e.Op {
		case check.Add:
			f.carry(e.Y, limit-c)
		case check.Sub:
			f.carry(e.Y, c-limit)
		case check.Mul:
			f.carry(e.Y, limit/c)
		case check.Div:
			f.carry(e.Y, c/limit)
		}
	}
}

func (f *finder) function(e *check.Apply, limit float64) {
	switch e.Function {
	case check.Absolute:
		f.carry(e.X[0], limit)
		f.carry(e.X[0], -limit)
	case check.SquareRoot:
		f.carry(e.X[0], limit*limit)
	case check.NaturalLog:
		f.carry(e.X[0], math.Exp(limit))
	case check.DecimalLog:
		f.carry(e.X[0], math.Pow(10, limit))
	case check.Exponential:
		f.carry(e.X[0], math.Log(limit))
	case check.Truncate:
		f.carry(e.X[0], limit)
	case check.Minimum, check.Maximum:
		f.carry(e.X[0], limit)
		f.carry(e.X[1], limit)
	case check.Multiplex:
		for _, x := range e.X[1:] {
			f.carry(x, limit)
		}
	case check.ShiftLeft, check.ShiftRight, check.TimeTimes, check.TimeBy:
		for c := range f.constants(e.X[1], 0) {
			switch e.Function {
			case check.ShiftLeft:
				f.carry(e.X[0], limit/math.Exp2(c))
			case check.ShiftRight:
				f.carry(e.X[0], limit*math.Exp2(c))
			case check.TimeTimes:
				f.carry(e.X[0], limit/c)
			case check.TimeBy:
				f.carry(e.X[0], limit*c)
			}
		}
	}
}

// mostValues bounds the values of one number.
const mostValues = 40

// valuesOf lists the values of an input, that at rest first; all tells that the programs cannot tell any other from each of these.
func (f *finder) valuesOf(input exercise.Point, programs [2]*check.Program) (list []int64, all bool) {
	rest := input.Rest()
	if input.Kind() == signal.Bool {
		return []int64{rest, 1 - rest}, true
	}
	limits, all := map[float64]bool{}, true
	for _, p := range programs {
		for _, v := range p.Inputs() {
			if !strings.EqualFold(v.Name, input.Name) {
				continue
			}
			maps.Copy(limits, f.limits[v.Storage()])
			all = all && f.used[v.Storage()] == f.plain[v.Storage()]
		}
	}
	list = []int64{rest}
	add := func(limits map[float64]bool) (room bool) {
		least, greatest := input.Limits()
		for _, limit := range slices.SortedFunc(maps.Keys(limits), nearest) {
			for _, v := range about(input.Kind(), limit) {
				switch {
				case input.Kind() != signal.Real && (v < least || v > greatest) || slices.Contains(list, v):
				case len(list) == mostValues:
					return false
				default:
					list = append(list, v)
				}
			}
		}
		return true
	}
	all = add(limits) && all
	others := f.numbers // what a limit could not be carried back from may be one of these
	if input.Kind() == signal.Time {
		others = f.times
	}
	add(others)
	return list, all
}

// nearest sorts numbers by their distance from zero.
func nearest(a, b float64) int {
	return cmp.Or(cmp.Compare(math.Abs(a), math.Abs(b)), cmp.Compare(a, b))
}

// about lists the values at a limit and on either side of it.
func about(kind signal.Kind, limit float64) (list []int64) {
	if kind == signal.Real { // numbers that are easily read first
		for _, v := range [...]float64{short(limit + 1), short(limit - 1), short(limit), limit,
			float64(math.Nextafter32(float32(limit), math.MaxFloat32)), float64(math.Nextafter32(float32(limit), -math.MaxFloat32))} {
			list = append(list, int64(math.Float64bits(v)))
		}
		return list
	}
	if math.Abs(limit) > math.MaxInt64/2 {
		return nil
	}
	below, above := int64(math.Floor(limit)), int64(math.Ceil(limit))
	if kind == signal.Time {
		ms := int64(time.Millisecond)
		return []int64{below - ms, below, below + ms}
	}
	return slices.Compact([]int64{below - 1, below, above, above + 1})
}

// short is a number of at most six digits near another.
func short(v float64) float64 {
	near, err := strconv.ParseFloat(strconv.FormatFloat(v, 'g', 6, 64), 64)
	if err != nil {
		return v
	}
	return near
}
