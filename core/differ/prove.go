package differ

import (
	"slices"
)

// A proof looks at every state that both can reach together, scan by scan, with every combination of inputs.
type proof struct {
	*both
	budget int
	seen   map[string]bool
	steps  []taken
}

// taken is how a state was come to: from which, with which combination of inputs, and whether the supply was lost before.
type taken struct {
	from   int
	inputs int
	again  bool
}

// mostCombinations bounds the inputs of one scan.
const mostCombinations = 4096

func (p *proof) run() Result {
	choices, partial := p.choices()
	combinations := combine(choices)
	if partial || combinations == nil {
		return Result{Verdict: None}
	}
	p.seen = map[string]bool{}
	frontier := []situation{p.keep()}
	numbers := []int{-1}
	rest := combinations[0]
	for depth := 0; len(frontier) > 0; depth++ {
		var next []situation
		var named []int
		for i, from := range frontier {
			for c, inputs := range combinations {
				for _, again := range [2]bool{false, true} {
					if p.both.scans > p.budget {
						return Result{Verdict: None, States: len(p.seen)}
					}
					p.restore(from)
					if again {
						p.restart()
					}
					p.set(inputs)
					step := taken{numbers[i], c, again}
					switch p.both.scan() {
					case faulted:
						continue
					case suspected:
						if r, differs := p.convict(step, depth+1, combinations); differs {
							return r
						}
					}
					p.set(rest) // so that only what is remembered tells states apart
					pose := string(p.pose())
					if p.seen[pose] {
						continue
					}
					p.seen[pose] = true
					next, named = append(next, p.keep()), append(named, len(p.steps))
					p.steps = append(p.steps, step)
				}
			}
		}
		frontier, numbers = next, named
	}
	return Result{Verdict: Same, States: len(p.seen)}
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
func (p *proof) convict(last taken, scans int, combinations [][]int64) (Result, bool) {
	way := []taken{last}
	for at := last.from; at >= 0; at = p.steps[at].from {
		way = append(way, p.steps[at])
	}
	slices.Reverse(way)
	var events []event
	inputs := combinations[0]
	for scan, step := range way {
		if step.again {
			events = append(events, event{act{restart, 0}, scan})
		}
		now := combinations[step.inputs]
		for i, v := range now {
			if v != inputs[i] {
				events = append(events, event{act{i, v}, scan})
			}
		}
		inputs = now
	}
	r, differs := p.judge(events, scans)
	if !differs {
		p.follower.Forget()
		return Result{}, false
	}
	r.States = len(p.seen)
	return r, true
}
