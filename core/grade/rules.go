package grade

import (
	"fmt"
	"slices"
	"strings"

	"celandine/core/check"
	"celandine/core/exercise"
	"celandine/core/signal"
	"celandine/core/source"
)

// rules reports rules that look for what there cannot be.
func (p *preparation) rules() {
	own := censusOf(p.program).units
	for _, r := range p.Exercise.Rules {
		switch r.Kind {
		case exercise.Require, exercise.Forbid:
			known := check.BlockNamed(r.What) != nil || check.IsFunction(r.What) || slices.Contains(elementKinds, strings.ToLower(r.What)) ||
				own[strings.ToLower(r.What)]
			if known {
				continue
			}
			words := append([]string{}, elementKinds...)
			for _, b := range check.Blocks() {
				words = append(words, b.Name)
			}
			for name := range own {
				words = append(words, name)
			}
			slices.Sort(words)
			p.complain(r.At, source.Meant(r.What, words),
				"A rule counts %q, which is no block, function or element, and no block or function of the solution's own.", r.What)
		case exercise.Warning:
			var words []string
			for _, code := range source.WarningCodes() {
				words = append(words, string(code))
			}
			if !slices.Contains(words, r.What) {
				p.complain(r.At, source.Meant(r.What, words), "A rule names the warning %q, which there is not.", r.What)
			}
		case exercise.Chatter:
			if _, ok := p.code.Slot(r.What); !ok {
				p.complain(r.At, source.Meant(r.What, p.code.Names()), "The solution has nothing named %s, whose changes a rule counts.", r.What)
			}
		}
	}
}

// rules takes points off for the rules that a program breaks, never below zero.
func (g *Grader) rules(r *Result, program *check.Program, runs []played) {
	if len(g.Exercise.Rules) == 0 {
		return
	}
	counts := censusOf(program).counts
	for _, rule := range g.Exercise.Rules {
		say, broken, scenario := "", false, ""
		switch rule.Kind {
		case exercise.Require:
			n := counts[strings.ToLower(rule.What)]
			broken = n < rule.AtLeast
			say = fmt.Sprintf("%d of %s, needed %d", n, rule.What, rule.AtLeast)
		case exercise.Forbid:
			n := counts[strings.ToLower(rule.What)]
			broken = n > rule.AtMost
			say = fmt.Sprintf("%d of %s, allowed %d", n, rule.What, rule.AtMost)
		case exercise.Warning:
			for _, d := range r.Diagnostics {
				if string(d.Code) == rule.What && !broken {
					broken, say = true, d.Message
				}
			}
		case exercise.Chatter:
			say, scenario = g.chatters(rule, runs)
			broken = scenario != ""
		}
		if !broken {
			continue
		}
		if rule.Say != "" {
			say = rule.Say
		}
		r.Findings = append(r.Findings, Finding{Rule: ruleName(rule), Deduct: rule.Deduct, Say: say, Scenario: scenario})
		r.Earned = max(r.Earned-rule.Deduct, 0)
	}
}

// ruleName is what a finding calls a rule.
func ruleName(r exercise.Rule) string { return string(r.Kind) + " " + r.What }

// chatters finds the first place where a signal changes more often than a rule allows: in a scenario that is shown, if there is
// one, since only that can be told to the learner. The scenario is "" where there is none.
func (g *Grader) chatters(rule exercise.Rule, runs []played) (say, scenario string) {
	for _, shown := range []bool{true, false} {
		for i, p := range runs {
			s := g.Exercise.Scenarios[i]
			if s.Shown != shown || p.run == nil {
				continue
			}
			if from, to, often := chattersIn(p.run.Trace, rule); often {
				return fmt.Sprintf("%s chatters: it changes %d times from scan %d to %d in scenario %q; a real output would wear out", rule.What,
					rule.AtMost+1, from, to, s.Name), s.Name
			}
		}
	}
	return "", ""
}

func chattersIn(t *signal.Trace, rule exercise.Rule) (from, to int, often bool) {
	c := t.Column(rule.What)
	if c == nil {
		return 0, 0, false
	}
	changes := changesOf(c, t.Scans, rule.AtMost+1)
	for k := 0; k+rule.AtMost < len(changes); k++ {
		if last := changes[k+rule.AtMost]; last-changes[k] < rule.Per {
			return changes[k], last, true
		}
	}
	return 0, 0, false
}

// changesOf lists the scans in which a column changes; of a slope, which changes in every scan, the first and the last so many, since
// those between them are no closer to each other.
func changesOf(c *signal.Column, scans, most int) (list []int) {
	for i, m := range c.Moves(0, scans) {
		for n := 0; n < m.Count && i > 0; n++ {
			if n == most && m.Count > 2*most {
				n = m.Count - most
			}
			list = append(list, m.Scan+n)
		}
	}
	return list
}
