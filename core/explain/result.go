package explain

import (
	"celandine/core/check"
	"celandine/core/signal"
)

// mostBack bounds how many scans are looked back for the change of a comparison's result.
const mostBack = 20_000

// datesResult finds since when a comparison has had its result: a number that changed on the same side of a limit is no cause. The element
// then speaks of the number that changed the result.
func (a *Asker) datesResult(e *Element, d *deed, x check.Expr) {
	op, ok := x.(*check.Op)
	if !ok || op.T != check.Bool || op.Y == nil || op.X.Type().Class == check.Boolean {
		return
	}
	now, known := a.compared(d, op, e.read)
	if !known {
		return
	}
	since := e.read
	for ; since > 0 && e.read-since < mostBack; since-- {
		if before, _ := a.compared(d, op, since-1); before != now {
			break
		}
	}
	e.Since = since
	check.Inspect(op, func(x check.Expr) bool {
		if ref, is := x.(*check.Ref); is {
			if name := d.values[ref].name; name != "" && a.trace.Column(name) != nil && a.since(name, since) == since {
				e.Name = name
			}
		}
		return true
	})
}

// compared works a comparison out from the values at the end of a scan.
func (a *Asker) compared(d *deed, op *check.Op, scan int) (result, known bool) {
	x, first := a.workedOut(d, op.X, scan)
	y, second := a.workedOut(d, op.Y, scan)
	switch op.Op {
	case check.Equal:
		result = x == y
	case check.NotEqual:
		result = x != y
	case check.Less:
		result = x < y
	case check.LessEqual:
		result = x <= y
	default:
		return false, false
	}
	return result, first && second
}

// workedOut is the value of a sum, product or conversion of recorded numbers at the end of a scan.
func (a *Asker) workedOut(d *deed, e check.Expr, scan int) (v float64, known bool) {
	switch e := e.(type) {
	case *check.Const:
		return numberOf(e.T.Kind(), e.Value), e.T.Kind() != signal.Text
	case *check.Ref:
		column := a.trace.Column(d.values[e].name)
		if column == nil || len(e.Path) > 0 && len(running(e)) > 0 || column.Kind == signal.Text {
			return 0, false
		}
		return numberOf(column.Kind, column.At(scan)), true
	case *check.Convert:
		if e.T.Kind() == signal.Time || e.X.Type().Kind() == signal.Time || e.T.IsInteger() && !e.X.Type().IsInteger() {
			return 0, false
		}
		return a.workedOut(d, e.X, scan)
	case *check.Op:
		if e.Y == nil {
			v, known = a.workedOut(d, e.X, scan)
			return -v, known && e.Op == check.Negate
		}
		x, first := a.workedOut(d, e.X, scan)
		y, second := a.workedOut(d, e.Y, scan)
		switch known = first && second; e.Op {
		case check.Add:
			return x + y, known
		case check.Sub:
			return x - y, known
		case check.Mul:
			return x * y, known
		case check.Div:
			return x / y, known && !e.T.IsInteger() && y != 0
		}
	}
	return 0, false
}

func numberOf(k signal.Kind, v int64) float64 {
	if k == signal.Real {
		return signal.RealOf(v)
	}
	return float64(v)
}
