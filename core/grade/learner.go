package grade

import (
	"encoding/json"
	"fmt"

	"celandine/core/exercise"
)

// Sees is how much of a result a learner sees.
type Sees string

// From marks alone to everything.
const (
	SeesMarks Sees = "marks" // what each scenario earned
	SeesFirst Sees = "first" // and the first difference of the shown scenarios, with no reason and no trace
	SeesShown Sees = "shown" // and all of the shown scenarios
	SeesAll   Sees = "all"
)

// Reveals tells whether a learner sees what a hand-in did in a scenario.
func (sees Sees) Reveals(s exercise.Scenario) bool {
	return sees == SeesAll || sees == SeesShown && s.Shown
}

// ForLearner takes out of a stored result what a learner may not see. Of a scenario that is not shown that is everything but
// its marks: no signal, no scan, no fault, no count of a rule that it broke. Nor is the revision's hash told, by which a guess
// at a script could be checked.
func ForLearner(result []byte, e *exercise.Exercise, sees Sees) (json.RawMessage, error) {
	if sees == SeesAll {
		return result, nil
	}
	shown := map[string]bool{}
	if e != nil && sees != SeesMarks {
		for _, s := range e.Scenarios {
			shown[s.Name] = s.Shown
		}
	}
	out, err := keepShown(result, e, shown, sees == SeesFirst)
	if err != nil {
		return nil, fmt.Errorf("reading a result: %w", err)
	}
	return out, nil
}

func keepShown(result []byte, e *exercise.Exercise, shown map[string]bool, firstOnly bool) (json.RawMessage, error) {
	var r struct {
		Engine      string                       `json:"engine,omitempty"`
		Handin      string                       `json:"handin,omitempty"`
		File        string                       `json:"file"`
		Earned      json.RawMessage              `json:"earned"`
		Points      json.RawMessage              `json:"points"`
		Scenarios   []map[string]json.RawMessage `json:"scenarios"`
		Findings    []Finding                    `json:"findings"`
		Diagnostics json.RawMessage              `json:"diagnostics"`
	}
	if err := json.Unmarshal(result, &r); err != nil {
		return nil, err
	}
	told := false
	for i, s := range r.Scenarios {
		var name string
		err := json.Unmarshal(s["name"], &name)
		if err != nil {
			return nil, err
		}
		if !shown[name] {
			r.Scenarios[i] = map[string]json.RawMessage{"name": s["name"], "earned": s["earned"], "points": s["points"],
				"signals": json.RawMessage("[]"), "hidden": json.RawMessage("true")}
			continue
		}
		if firstOnly {
			if s["signals"], told, err = keepFirst(s["signals"], told); err != nil {
				return nil, err
			}
		}
	}
	r.Findings = toldFindings(r.Findings, e, shown)
	return json.Marshal(r)
}

// toldFindings tells of a rule about what happens, unless it was broken where one may look, always the same, whether it was
// broken or not; what it takes off, 0 where it was not, is part of the marks.
func toldFindings(all []Finding, e *exercise.Exercise, shown map[string]bool) []Finding {
	told := []Finding{}
	broken := map[string]Finding{}
	for _, f := range all {
		if f.Scenario == "" || shown[f.Scenario] {
			told = append(told, f)
		}
		broken[f.Rule] = f
	}
	if e == nil {
		return told
	}
	for _, rule := range e.Rules {
		f := broken[ruleName(rule)]
		if rule.Kind != exercise.Chatter || f.Scenario != "" && shown[f.Scenario] {
			continue
		}
		f.Rule, f.Scenario = ruleName(rule), ""
		if f.Say = rule.Say; f.Say == "" {
			f.Say = fmt.Sprintf("%s may change at most %d times in %d scans, in scenarios that are not shown, too; a real output would wear out",
				rule.What, rule.AtMost, rule.Per)
		}
		told = append(told, f)
	}
	return told
}

// keepFirst leaves of a scenario's signals whether each is right; of the one that differs first, unless told already, the difference too.
func keepFirst(signals json.RawMessage, told bool) (json.RawMessage, bool, error) {
	var list []map[string]json.RawMessage
	if err := json.Unmarshal(signals, &list); err != nil {
		return nil, told, err
	}
	first, at := -1, 0
	for i, s := range list {
		var d struct{ Scan int }
		if s["difference"] == nil {
			continue
		}
		if err := json.Unmarshal(s["difference"], &d); err != nil {
			return nil, told, err
		}
		if first < 0 || d.Scan < at {
			first, at = i, d.Scan
		}
	}
	for i, s := range list {
		delete(s, "why")
		if i != first || told {
			delete(s, "difference")
		}
	}
	out, err := json.Marshal(list)
	return out, told || first >= 0, err
}
