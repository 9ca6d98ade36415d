package equivalence

import (
	"slices"
)

// An exhaustion looks at every state that both can reach together, scan by scan, with every combination of inputs. Where it comes to an
// end, and nothing that was not allowed had to be excused, the two are the same.
type exhaustion struct {
	*both
	budget       int
	combinations [][]int64 // of inputs, those at rest first
	seen         map[string]bool
	steps        []taken
	excused      bool
}

// taken is how a state was come to: from which, with which combination of inputs, and whether the supply was lost before.
type taken struct {
	from   int
	inputs int
	again  bool
}

// mostCombinations bounds the inputs of one scan.
const mostCombinations = 4096

// reached is a state that was come to, by its number; -1 is the beginning.
type reached struct {
	situation
	number int
}

func (p *exhaustion) run() Result {
	p.combinations = combine(p.choices)
	if p.partial || p.combinations == nil || len(p.Writes) > 0 {
		return Result{Verdict: None}
	}
	p.seen = map[string]bool{}
	frontier := []reached{{p.keep(), -1}}
	for depth := 1; len(frontier) > 0; depth++ {
		var next []reached
		for _, from := range frontier {
			more, ended := p.follow(from, depth)
			if ended != nil {
				ended.States = len(p.seen)
				return *ended
			}
			next = append(next, more...)
		}
		frontier = next
	}
	if p.excused {
		return Result{Verdict: None, States: len(p.seen)}
	}
	return Result{Verdict: Same, States: len(p.seen)}
}

// follow executes the scan after a state with every combination of inputs, with and without a loss of supply before it. It returns the
// states that nobody has come to yet, or what ends the proof.
func (p *exhaustion) follow(from reached, depth int) (next []reached, ended *Result) {
	for c := range p.combinations {
		for _, again := range [2]bool{false, true} {
			if p.spent(p.budget) {
				return nil, &Result{Verdict: None}
			}
			step := taken{from.number, c, again}
			switch p.step(from, step) {
			case faulted:
				continue
			case suspected:
				if r, differs := p.convict(step, depth); differs {
					return nil, &r
				}
			}
			p.set(p.combinations[0]) // so that only what is remembered tells states apart
			if pose := string(p.pose()); !p.seen[pose] {
				p.seen[pose] = true
				next = append(next, reached{p.keep(), len(p.steps)})
				p.steps = append(p.steps, step)
			}
		}
	}
	return next, nil
}

// step executes one scan from a state.
func (p *exhaustion) step(from reached, s taken) ended {
	p.restore(from.situation)
	if s.again {
		p.restart()
	}
	p.set(p.combinations[s.inputs])
	return p.both.scan()
}

// combine lists every combination of the inputs' values, that at rest first; nil where there are too many.
func combine(choices [][]int64) [][]int64 {
	list := [][]int64{{}}
	for _, values := range choices {
		var longer [][]int64
		for _, one := range list {
			for _, v := range values {
				longer = append(longer, append(slices.Clone(one), v))
			}
		}
		if list = longer; len(list) > mostCombinations {
			return nil
		}
	}
	return list
}

// convict plays the way to a suspected difference.
func (p *exhaustion) convict(last taken, scans int) (Result, bool) {
	way := []taken{last}
	for at := last.from; at >= 0; at = p.steps[at].from {
		way = append(way, p.steps[at])
	}
	slices.Reverse(way)
	var events []event
	inputs := p.combinations[0]
	for scan, step := range way {
		if step.again {
			events = append(events, event{act{restart, 0}, scan})
		}
		now := p.combinations[step.inputs]
		for i, v := range now {
			if v != inputs[i] {
				events = append(events, event{act{i, v}, scan})
			}
		}
		inputs = now
	}
	r, differs := p.tellsApart(events, scans)
	if !differs {
		p.follower.Forget()
		p.excused = true
		return Result{}, false
	}
	return p.shorten(r, events), true
}
