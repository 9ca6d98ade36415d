package coretest

import (
	"math/rand/v2"
	"time"

	"celandine/core/oracle"
	"celandine/core/signal"
)

// Invented gives a random program with a script that works its inputs, quickly in some and slowly in others; the same seed gives
// the same.
func Invented(seed uint64) (text string, script *signal.Trace) {
	r := rand.New(rand.NewPCG(seed, 3))
	script = &signal.Trace{Period: 10 * time.Millisecond, Scans: 120}
	bools, number := oracle.Inputs()
	pace := 1 + r.IntN(40)
	for _, name := range append(bools, number) {
		kind, values := signal.Bool, 2
		if name == number {
			kind, values = signal.Int, 9
		}
		var changes []signal.Change
		for at := 0; at < script.Scans; at += 1 + r.IntN(pace) {
			changes = append(changes, signal.Change{Scan: at, Value: int64(r.IntN(values))})
		}
		script.Columns = append(script.Columns, signal.Steps(name, kind, changes))
	}
	return oracle.Invent(seed).Text(), script
}
