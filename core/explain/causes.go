package explain

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/source"
)

// causes lists what decided the value that a deed wrote to a name: the elements on the power's way to it, or the conditions under
// which its statement ran and what it read. reached tells whether power reached it.
func (a *Asker) causes(d *deed, name string) (list []Element, reached bool) {
	target := d.wroteAt(name)
	if list, ok := a.throughCall(d, name); ok {
		return list, true
	}
	rung, ok := d.place.(*check.Rung)
	if !ok {
		return a.conditions(d, name), true
	}
	list, reached = a.leading(d, rung.Net, target)
	if box := boxAt(rung.Net, target); box != nil && box.Target != nil && reached {
		list = append(list, a.leaves(d, box.Value, true)...)
	}
	return list, reached
}

// throughCall lists what decided a value that went into a block or a function of one's own, or came out of one, in a deed.
func (a *Asker) throughCall(d *deed, name string) ([]Element, bool) {
	target := d.wroteAt(name)
	for _, call := range callsOf(d.place) {
		if call.At != target {
			continue
		}
		instance := d.named(call.Instance)
		for _, in := range call.Inputs {
			if in.Value != nil && strings.EqualFold(name, instance+"."+in.Member.Name) {
				return append(a.governing(d), a.leaves(d, in.Value, true)...), true
			}
		}
		for _, out := range call.Outputs {
			if strings.EqualFold(name, d.written(out.Target, name)) {
				from := instance + "." + out.Member.Name
				return append(a.governing(d), a.cameOut(d, call.At, from)), true
			}
		}
	}
	for _, invoked := range slices.Backward(d.calls) { // the last gave the value
		e, prefix := invoked.call, invoked.prefix
		for _, in := range e.Inputs {
			if in.Value != nil && strings.EqualFold(name, prefix+in.Variable.Name) {
				return a.leaves(d, in.Value, true), true
			}
		}
		for _, out := range e.Outputs {
			if strings.EqualFold(name, d.written(out.Target, name)) {
				return append(a.governing(d), a.cameOut(d, e.At, prefix+out.Variable.Name)), true
			}
		}
	}
	return nil, false
}

// alsoPowers tells of a value that goes into a block by one of its inputs and decides the power that goes into it as well.
func (a *Asker) alsoPowers(d *deed, rung *check.Rung, target source.Span, inputs []Element) string {
	way, _ := a.leading(d, rung.Net, target)
	for _, in := range inputs {
		for _, e := range way {
			if in.Decides && in.Name != "" && strings.EqualFold(in.Name, e.Name) {
				return fmt.Sprintf("%s stands on the power's way into that block, too", e.Text)
			}
		}
	}
	return ""
}

// written is the name that a deed wrote through a reference; a caller's variable is taken at the word of what was written there.
func (d *deed) written(r *check.Ref, name string) string {
	if r.Variable.InOut {
		return ""
	}
	return d.named(r)
}

// cameOut is an output of a block or function, as an element that decides.
func (a *Asker) cameOut(d *deed, at source.Span, name string) Element {
	e := Element{Text: shown(name), State: a.word(name, d.scan), Start: at.Start, End: at.End, Decides: true, passed: true}
	a.dates(&e, d, name)
	return e
}

// governing lists the conditions under which the statement of a deed ran.
func (a *Asker) governing(d *deed) (list []Element) {
	for up, below := d.parent, d; up != nil && up.within == d.within; up, below = up.parent, up {
		switch s := up.place.(type) {
		case *check.If:
			list = append(a.arm(up, s, below.place), list...)
		case *check.Case:
			list = append(a.leaves(up, s.Value, true), list...)
		}
	}
	return list
}

// callsOf lists the blocks that a rung or statement calls.
func callsOf(place any) (list []*check.Call) {
	switch p := place.(type) {
	case *check.Call:
		return []*check.Call{p}
	case *check.Rung:
		eachElement(p.Net, func(e check.Element) {
			if box, ok := e.(*check.BlockBox); ok {
				list = append(list, box.Call)
			}
		})
	}
	return list
}

func eachElement(s *check.Series, visit func(check.Element)) {
	for _, e := range s.Elements {
		visit(e)
		if p, ok := e.(*check.Parallel); ok {
			for _, b := range p.Branches {
				eachElement(b, visit)
			}
		}
	}
}

// boxAt returns the function drawn at a place of a rung, or nil.
func boxAt(s *check.Series, at source.Span) (found *check.FunctionBox) {
	eachElement(s, func(e check.Element) {
		if box, ok := e.(*check.FunctionBox); ok && box.At == at {
			found = box
		}
	})
	return found
}

// knows notes what the rungs and statements of a function of one's own belong to.
func (a *Asker) knows(u *check.Unit) {
	if a.known[u] {
		return
	}
	a.known[u] = true
	for _, r := range u.Rungs {
		a.functions[r] = u
	}
	a.knowsAll(u, u.Statements)
}

func (a *Asker) knowsAll(u *check.Unit, list []check.Statement) {
	for _, s := range list {
		a.functions[s] = u
		switch s := s.(type) {
		case *check.If:
			for _, arm := range s.Arms {
				a.knowsAll(u, arm.Body)
			}
			a.knowsAll(u, s.Else)
		case *check.Case:
			for _, choice := range s.Choices {
				a.knowsAll(u, choice.Body)
			}
			a.knowsAll(u, s.Else)
		case *check.For:
			a.knowsAll(u, s.Body)
		case *check.While:
			a.knowsAll(u, s.Body)
		case *check.Repeat:
			a.knowsAll(u, s.Body)
		}
	}
}

// latest is the name, of those that an expression reads, whose value came last.
func (a *Asker) latest(d *deed, e check.Expr) string {
	var names []string
	check.Inspect(e, func(x check.Expr) bool {
		ref, is := x.(*check.Ref)
		if !is {
			return true
		}
		if ref.Variable.Hidden {
			return false
		}
		if name := d.values[x].name; name != "" && !slices.Contains(names, name) {
			names = append(names, name)
		}
		return false
	})
	best, since := "", -1
	for _, name := range names {
		if s := a.since(name, d.scan); s > since {
			best, since = name, s
		}
	}
	return best
}
