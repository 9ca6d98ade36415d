// Package block describes what is standard: the function blocks of IEC 61131-3, 2.5.2.3 with Celandine's own, the devices of a panel
// and the verbs of a script's steps.
//
// A description says all that other rooms ask: pins and what they are for, hidden state, the face on the bench, an example call,
// the rule in a line, the sentences that explain it. Nothing comes in; nothing is worked out here but what follows from a
// description. What a block does is code: that of the machine and, written apart, that of the observer; each stands in a table
// that a test walks to its end. A name that is not described is told as such: there is no block, device or verb by default.
package block

import (
	"slices"
	"strings"

	"celandine/core/signal"
)

// A Family is what blocks of one kind have in common.
type Family uint8

// The families.
const (
	Bistable Family = iota + 1
	Edge
	Counter
	Timer
)

// String names an instance of the family: timer_1.
func (f Family) String() string { return [...]string{"", "latch", "edge", "counter", "timer"}[f] }

// A Role is what a pin is for.
type Role uint8

// The roles.
const (
	Power   Role = iota + 1 // what power in a rung drives, or what comes out of it again
	Plain                   // any other BOOL
	Preset                  // what is timed or counted to
	Elapsed                 // how long a timer has run
	Count                   // where a counter stands
)

// A Pin is an input or output. Preset and Count of a counter are of the type that it counts in.
type Pin struct {
	Name string
	Kind signal.Kind
	Role Role
}

// A State is what an instance remembers beside its pins.
type State struct{ Bits, Words int }

// A Block is a standard function block.
type Block struct {
	Name    string
	Family  Family
	In, Out []Pin
	State   State
	Counts  []string // the types that a counter counts in; the first goes without saying: CTU is CTU_INT, of which there is none
	Says    string   // "on-delay timer"
	Rule    string   // in a line
	Tells   []Saying // why an output is as it is: the first that holds
	Waits   []Saying // what an output that is FALSE waits for besides: the first that holds, if any
	Turns   []Saying // what changed an output that keeps its value: the first that holds in the scan in which it changed, if any
}

// A Saying is a sentence about an instance at a scan, with the members that decide whether it holds.
//
// When holds words such as "Q" (it is TRUE), "never Q" (unchanged from the start), "wiped Q" (a restart put it back), "restarted" (in
// this very scan), "new CU" (it changed in this very scan), "S1 after R" (it changed later), "lately IN" (less than the preset ago), each
// turned over by a ! before it. In Say,
// {name} is the instance, {IN} a member's value, {since IN} since when it has that, {at Q} the scan in which it changed last, {now} the scan,
// {timing} since when time runs, {wiped Q} and {Wiped Q} the restart.
type Saying struct {
	When   []string
	Say    string // of a turn "" where what is told of the present says it
	Follow string // the input whose cause is worth following, or ""
	Cause  string // the member whose last change is the scan to look at, "before IN" the scan before that; "": the scan itself
}

// PowerIn is the input that power in a rung drives.
func (b *Block) PowerIn() Pin { return of(b.In, Power) }

// PowerOut is the output that is the power out.
func (b *Block) PowerOut() Pin { return of(b.Out, Power) }

// Preset is the input that is timed or counted to; its name is "" where there is none.
func (b *Block) Preset() Pin { return of(b.In, Preset) }

// Measure is what runs towards the preset: the elapsed time or the count; its name is "" where there is none.
func (b *Block) Measure() Pin {
	if p := of(b.Out, Elapsed); p.Name != "" {
		return p
	}
	return of(b.Out, Count)
}

func of(pins []Pin, r Role) Pin {
	for _, p := range pins {
		if p.Role == r {
			return p
		}
	}
	return Pin{}
}

// Pins lists inputs, then outputs.
func (b *Block) Pins() []Pin { return slices.Concat(b.In, b.Out) }

// Names are the block's own and, of a counter, those of its variants.
func (b *Block) Names() []string {
	names := []string{b.Name}
	for _, c := range b.Counts[min(1, len(b.Counts)):] {
		names = append(names, b.Name+"_"+c)
	}
	return names
}

// Example is what stands between the brackets of a call in structured text. In a rung power takes the place of the first input.
func (b *Block) Example() string { return arguments(b.In) }

// RungExample is the same for a rung, where power drives the first input.
func (b *Block) RungExample() string {
	return arguments(slices.DeleteFunc(slices.Clone(b.In), func(p Pin) bool { return p.Role == Power }))
}

func arguments(pins []Pin) string {
	given := make([]string, len(pins))
	for i, p := range pins {
		given[i] = p.Name + " := " + p.given()
	}
	return strings.Join(given, ", ")
}

// given is a value to begin with: a preset's, else "".
func (p Pin) given() string {
	if p.Role != Preset {
		return ""
	}
	return map[signal.Kind]string{signal.Time: "T#5s", signal.Int: "5"}[p.Kind]
}

// Given is the value that an example gives a pin; "" where it is left to who writes.
func (b *Block) Given(pin string) string {
	for _, p := range b.In {
		if p.Name == pin {
			return p.given()
		}
	}
	return ""
}

// All lists the standard blocks: latches, edges, counters, timers.
func All() []*Block {
	list := make([]*Block, len(standard))
	for i := range standard {
		list[i] = &standard[i]
	}
	return list
}

// Named finds a block by its name or that of a variant, in any case of letters, and the type that it counts in, "" where it counts
// nothing. It returns nil where there is none.
func Named(name string) (b *Block, counts string) {
	for i := range standard {
		b := &standard[i]
		if len(name) < len(b.Name) || !strings.EqualFold(name[:len(b.Name)], b.Name) {
			continue
		}
		variant := name[len(b.Name):]
		for n, c := range b.Counts {
			if n == 0 && variant == "" || n > 0 && variant != "" && variant[0] == '_' && strings.EqualFold(variant[1:], c) {
				return b, c
			}
		}
		if variant == "" {
			return b, ""
		}
	}
	return nil, ""
}
