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

// ForLearner takes out of a stored result and its evidence what a learner may
// not see: where the signals of a scenario that is not shown went wrong, and
// its traces. Marks and one's own faults stay.
func ForLearner(result, evidence []byte, e *exercise.Exercise, sees Sees) (shownResult, shownEvidence json.RawMessage, err error) {
	if sees == SeesAll {
		return result, evidence, nil
	}
	shown := map[string]bool{}
	if e != nil && sees != SeesMarks {
		for _, s := range e.Scenarios {
			shown[s.Name] = s.Shown
		}
	}
	if shownResult, err = keepShown(result, shown, sees == SeesFirst); err != nil {
		return nil, nil, fmt.Errorf("reading a result: %w", err)
	}
	if sees == SeesFirst {
		return shownResult, json.RawMessage("[]"), nil
	}
	var all []json.RawMessage
	if err := json.Unmarshal(evidence, &all); err != nil {
		return nil, nil, fmt.Errorf("reading traces: %w", err)
	}
	kept := []json.RawMessage{}
	for _, one := range all {
		var name struct{ Scenario string }
		if err := json.Unmarshal(one, &name); err != nil {
			return nil, nil, fmt.Errorf("reading traces: %w", err)
		}
		if shown[name.Scenario] {
			kept = append(kept, one)
		}
	}
	shownEvidence, err = json.Marshal(kept)
	return shownResult, shownEvidence, err
}

func keepShown(result []byte, shown map[string]bool, firstOnly bool) (json.RawMessage, error) {
	var r struct {
		Engine      string                       `json:"engine,omitempty"`
		Revision    string                       `json:"revision,omitempty"`
		Handin      string                       `json:"handin,omitempty"`
		File        string                       `json:"file"`
		Earned      json.RawMessage              `json:"earned"`
		Points      json.RawMessage              `json:"points"`
		Scenarios   []map[string]json.RawMessage `json:"scenarios"`
		Findings    json.RawMessage              `json:"findings"`
		Diagnostics json.RawMessage              `json:"diagnostics"`
	}
	if err := json.Unmarshal(result, &r); err != nil {
		return nil, err
	}
	told := false
	for _, s := range r.Scenarios {
		var name string
		err := json.Unmarshal(s["name"], &name)
		if err != nil {
			return nil, err
		}
		if !shown[name] {
			s["signals"] = json.RawMessage("[]")
			s["hidden"] = json.RawMessage("true")
			delete(s, "still") // that nothing may happen would tell of the script
			delete(s, "note")
			continue
		}
		if firstOnly {
			if s["signals"], told, err = keepFirst(s["signals"], told); err != nil {
				return nil, err
			}
		}
	}
	return json.Marshal(r)
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
