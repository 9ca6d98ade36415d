package grade

import (
	"errors"
	"strings"

	"celandine/core/exercise"
	"celandine/core/explain"
	"celandine/core/machine"
	"celandine/core/source"
)

// explain adds to each signal of a scenario that was not as expected why it was what it was at its first difference. Where all
// was as expected nothing is run again. The error is [machine.ErrStopped].
func (h *Handin) explain(mark *Scenario, scenario int) error {
	s := h.grader.Exercise.Scenarios[scenario]
	var asker *explain.Asker
	for i := range mark.Signals {
		signal := &mark.Signals[i]
		if signal.OK || signal.Difference == nil {
			continue
		}
		if asker == nil {
			var err error
			if asker, err = explain.New(h.program, h.code, s.Script, Devices(h.grader.Exercise)); errors.Is(err, machine.ErrStopped) {
				return err
			} else if err != nil {
				return nil // told as the scenario's fault
			}
		}
		why, err := h.why(asker, signal, i, scenario)
		if errors.Is(err, machine.ErrStopped) {
			return err
		}
		signal.Why = why // nil where there is nothing to tell
	}
	return nil
}

// why explains a first difference. Where the value should have changed in that scan and did not, the reason begins with what was done then.
func (h *Handin) why(asker *explain.Asker, s *Signal, n, scenario int) (*explain.Why, error) {
	scan := s.Difference.Scan
	if scenario := h.grader.Exercise.Scenarios[scenario]; scan == 0 || scenario.Expect.Checks != nil {
		return asker.Why(s.Signal, scan)
	}
	want := h.grader.expected[scenario].Columns[n]
	got := h.runs[scenario].run.Trace.Column(s.Signal)
	if want.At(scan) == want.At(scan-1) || got.At(scan) != got.At(scan-1) {
		return asker.Why(s.Signal, scan)
	}
	return asker.WhyNot(s.Signal, scan, h.grader.tolerances[n].Slack)
}

// Ask runs a hand-in through a scenario and returns an asker of what it did, or what is wrong with the hand-in.
func (g *Grader) Ask(files []*source.File, s exercise.Scenario) (*explain.Asker, source.List, error) {
	program, code, problems := g.compile(files)
	if code == nil {
		return nil, problems, nil
	}
	asker, err := explain.New(program, code, s.Script, Devices(g.Exercise))
	return asker, problems, err
}

// Devices returns what is wired to an exercise's inputs, by their names in small letters.
func Devices(e *exercise.Exercise) map[string]explain.Device {
	devices := map[string]explain.Device{}
	for _, p := range e.Inputs {
		devices[strings.ToLower(p.Name)] = explain.Device{Label: p.Label, Kind: p.Device, Closed: p.Closed}
	}
	return devices
}
