package block

import "celandine/core/say"

// formal lists the names of the standard functions' inputs (IEC 61131-3, tables 28 to 36) that are not IN, or IN1, IN2 …
var formal = map[string][]string{
	"SHL": {"IN", "N"}, "SHR": {"IN", "N"}, "ROL": {"IN", "N"}, "ROR": {"IN", "N"}, "SEL": {"G", "IN0", "IN1"}, "LIMIT": {"MN", "IN", "MX"},
	"LEFT": {"IN", "L"}, "RIGHT": {"IN", "L"}, "MID": {"IN", "L", "P"}, "INSERT": {"IN1", "IN2", "P"}, "DELETE": {"IN", "L", "P"},
	"REPLACE": {"IN1", "IN2", "L", "P"}, "FIND": {"IN1", "IN2"},
}

// InputNames are the standard's names of a function's inputs, of which a call gives so many.
func InputNames(function string, given int) []string {
	if names, ok := formal[function]; ok {
		return names
	}
	if given == 1 {
		return []string{"IN"}
	}
	var names []string
	first := 1
	if function == "MUX" {
		names, first = []string{"K"}, 0
	}
	for n := first; len(names) < given; n++ {
		names = append(names, say.Textf("IN%d", n))
	}
	return names
}
