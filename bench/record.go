package main

import (
	"encoding/json"
	"fmt"
	"maps"
	"os"
	"slices"
)

// The ratios that were found last, of which less is better, stand in recorded.json.
const recorded = "recorded.json"

// tries is how often a ratio is measured before it counts as worse: a neighbour may take the machine for a while.
const tries = 3

// compare measures again, with fewer rounds, and tells of each ratio that is twice what was recorded.
func compare() error {
	text, err := os.ReadFile(recorded)
	if err != nil {
		return fmt.Errorf("reading what was recorded: %w", err)
	}
	var before map[string]float64
	if err := json.Unmarshal(text, &before); err != nil {
		return fmt.Errorf("reading %s: %w", recorded, err)
	}
	t := &table{effort: 0.1, ratios: map[string]float64{}, quiet: true}
	for range tries {
		t.compared()
		if len(worse(before, t.ratios)) == 0 {
			fmt.Printf("%d ratios are no worse than twice what was recorded\n", len(t.ratios))
			return nil
		}
	}
	for _, name := range worse(before, t.ratios) {
		fmt.Fprintf(os.Stderr, "%s: %.3g, recorded %.3g\n", name, t.ratios[name], before[name])
	}
	return fmt.Errorf("something got slower. If it has to, say so: cd bench && go run . --record")
}

// worse lists the ratios that are twice what was recorded, or were not recorded.
func worse(before, now map[string]float64) (names []string) {
	for _, name := range slices.Sorted(maps.Keys(now)) {
		if was, known := before[name]; !known || now[name] > 2*was {
			names = append(names, name)
		}
	}
	return names
}

func write(ratios map[string]float64) error {
	text, err := json.MarshalIndent(ratios, "", "  ")
	if err != nil {
		return err
	}
	return os.WriteFile(recorded, append(text, '\n'), 0o644)
}
