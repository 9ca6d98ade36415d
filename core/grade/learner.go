package grade

import (
	"encoding/json"
	"fmt"

	"celandine/core/exercise"
)

// ForLearner takes out of a stored result and its evidence what a learner may
// not see: where the signals of a scenario that is not shown went wrong, and
// its traces. Marks and one's own faults stay.
func ForLearner(result, evidence []byte, e *exercise.Exercise) (shownResult, shownEvidence json.RawMessage, err error) {
	shown := map[string]bool{}
	if e != nil {
		for _, s := range e.Scenarios {
			shown[s.Name] = s.Shown
		}
	}
	if shownResult, err = keepShown(result, shown); err != nil {
		return nil, nil, fmt.Errorf("reading a result: %w", err)
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

func keepShown(result []byte, shown map[string]bool) (json.RawMessage, error) {
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
	for _, s := range r.Scenarios {
		var name string
		if err := json.Unmarshal(s["name"], &name); err != nil {
			return nil, err
		}
		if !shown[name] {
			s["signals"] = json.RawMessage("[]")
			s["hidden"] = json.RawMessage("true")
		}
	}
	return json.Marshal(r)
}
