package block

import "celandine/core/signal"

func in(name string) Pin        { return Pin{name, signal.Bool, Plain} }
func out(name string) Pin       { return Pin{name, signal.Bool, Plain} }
func power(name string) Pin     { return Pin{name, signal.Bool, Power} }
func pt() Pin                   { return Pin{"PT", signal.Time, Preset} }
func et() Pin                   { return Pin{"ET", signal.Time, Elapsed} }
func pv() Pin                   { return Pin{"PV", signal.Int, Preset} }
func cv() Pin                   { return Pin{"CV", signal.Int, Count} }
func when(w ...string) []string { return w }

// counted are the types in which counters count.
func counted() []string { return []string{"INT", "DINT", "LINT", "UDINT", "ULINT"} }

// standard are the blocks of IEC 61131-3, tables 43 to 46, and TACC, Celandine's own accumulating timer.
var standard = []Block{
	{
		Name: "SR", Family: Bistable, Says: "latch, set wins", Rule: "set wins",
		In:    []Pin{power("S1"), in("R")},
		Out:   []Pin{power("Q1")},
		Tells: latch("S1", "R"),
		Turns: latched("S1", "R"),
	},
	{
		Name: "RS", Family: Bistable, Says: "latch, reset wins", Rule: "reset wins",
		In:    []Pin{power("S"), in("R1")},
		Out:   []Pin{power("Q1")},
		Tells: latch("S", "R1"),
		Turns: latched("S", "R1"),
	},
	{
		Name: "R_TRIG", Family: Edge, Says: "rising edge", Rule: "TRUE for the scan in which CLK rises; in scan 0 too when CLK is TRUE",
		In:    []Pin{power("CLK")},
		Out:   []Pin{power("Q")},
		State: State{Bits: 1}, // CLK at the last call
		Tells: []Saying{
			{When: when("Q", "restarted"), Say: "{name} saw CLK TRUE in {now}, the first scan after a restart.", Follow: "CLK"},
			{When: when("Q"), Say: "{name} saw CLK go TRUE in {now}.", Follow: "CLK"},
			{Say: "{name} saw no rising edge in {now}: CLK has been {CLK} {since CLK}."},
		},
	},
	{
		Name: "F_TRIG", Family: Edge, Says: "falling edge", Rule: "TRUE for the scan in which CLK falls; in scan 0 too when CLK is FALSE",
		In:    []Pin{power("CLK")},
		Out:   []Pin{power("Q")},
		State: State{Bits: 1}, // NOT CLK at the last call
		Tells: []Saying{
			{When: when("Q"), Say: "{name} saw CLK go FALSE in {now}.", Follow: "CLK"},
			{Say: "{name} saw no falling edge in {now}: CLK has been {CLK} {since CLK}."},
		},
	},
	{
		Name: "CTU", Family: Counter, Counts: counted(), Says: "up counter", Rule: "counts rising edges of CU; R wins; Q from PV on",
		In:    []Pin{power("CU"), in("R"), pv()},
		Out:   []Pin{power("Q"), cv()},
		State: State{Bits: 1}, // CU at the last call
		Tells: counting(holds("R", "R holds it at zero."), neverReset()),
		Turns: []Saying{{When: when("R"), Follow: "R"}, {Follow: "CU"}},
	},
	{
		Name: "CTD", Family: Counter, Counts: counted(), Says: "down counter", Rule: "LD loads PV and wins; counts down; Q at 0 and below",
		In:    []Pin{power("CD"), in("LD"), pv()},
		Out:   []Pin{power("Q"), cv()},
		State: State{Bits: 1}, // CD at the last call
		Tells: counting(holds("LD", "LD loads it.")),
		Turns: []Saying{{When: when("LD"), Follow: "LD"}, {Follow: "CD"}},
	},
	{
		Name: "CTUD", Family: Counter, Counts: counted(), Says: "up and down counter", Rule: "both edges in one scan change nothing",
		In:    []Pin{power("CU"), in("CD"), in("R"), in("LD"), pv()},
		Out:   []Pin{power("QU"), out("QD"), cv()},
		State: State{Bits: 2}, // CU and CD at the last call
		Tells: counting(holds("R", "R holds it at zero."), holds("LD", "LD loads it."), neverReset()),
		Turns: []Saying{{When: when("R"), Follow: "R"}, {When: when("LD"), Follow: "LD"}, {When: when("CU", "new CU"), Follow: "CU"},
			{Follow: "CD"}},
	},
	{
		Name: "TON", Family: Timer, Says: "on-delay timer", Rule: "Q from the scan in which ET reaches PT; IN FALSE clears both",
		In:    []Pin{power("IN"), pt()},
		Out:   []Pin{power("Q"), et()},
		State: State{Bits: 1, Words: 1}, // the phase, and since when
		Tells: []Saying{
			{When: when("!IN"), Say: "The timer {name} is not timing: its input has been FALSE {since IN}.", Follow: "IN"},
			{When: when("Q"), Say: "The timer {name} reached its {PT} in {at Q}.", Follow: "IN"},
			{Say: "The timer {name} has run {ET} of {PT}, {timing}.", Follow: "IN"},
		},
		Waits: []Saying{{When: when("!Q", "!IN", "lately IN"), Say: delay}, {When: when("!Q", "IN")}},
	},
	{
		Name: "TOF", Family: Timer, Says: "off-delay timer", Rule: "Q with IN, and for PT after it",
		In:    []Pin{power("IN"), pt()},
		Out:   []Pin{power("Q"), et()},
		State: State{Bits: 1, Words: 1}, // the phase, and since when
		Tells: []Saying{
			{When: when("IN"), Say: "The off-delay {name} is on as long as its input is TRUE, as it has been {since IN}.", Follow: "IN"},
			{When: when("Q"), Say: "The off-delay {name} stays on for {PT} after its input: {ET} have run, {since IN}.", Follow: "IN",
				Cause: "before IN"},
			{When: when("never Q"), Say: "The off-delay {name} has never had its input TRUE.", Follow: "IN"},
			{When: when("wiped Q"), Say: "{Wiped Q} ended the off-delay {name}; its input has been FALSE {since IN}.", Follow: "IN"},
			{Say: "The off-delay {name} went off in {at Q}, {PT} after its input.", Follow: "IN", Cause: "IN"},
		},
	},
	{
		Name: "TP", Family: Timer, Says: "pulse timer", Rule: "Q for PT from the rising edge, whatever IN does",
		In:    []Pin{power("IN"), pt()},
		Out:   []Pin{power("Q"), et()},
		State: State{Bits: 1, Words: 1}, // the phase, and since when
		Tells: []Saying{
			{When: when("Q"), Say: "The pulse of {name} has run {ET} of {PT}, {since Q}.", Follow: "IN", Cause: "Q"},
			{When: when("never Q"), Say: "{name} has given no pulse: its input has been FALSE {since IN}.", Follow: "IN"},
			{When: when("wiped Q"), Say: "{Wiped Q} ended the pulse of {name}; its input has been FALSE {since IN}.", Follow: "IN"},
			{When: when("IN"), Say: "The pulse of {name} ended in {at Q}; while its input stays TRUE there is no other."},
			{Say: "The pulse of {name} ended in {at Q}; its input is FALSE, and only a new one would start another."},
		},
	},
	{
		Name: "TACC", Family: Timer, Says: "accumulating timer", Rule: "ET runs while IN is TRUE and is kept when it drops; R clears",
		In:    []Pin{power("IN"), in("R"), pt()},
		Out:   []Pin{power("Q"), et()},
		State: State{Bits: 1, Words: 1}, // IN at the last call, and its time
		Tells: []Saying{
			{When: when("R"), Say: "The timer {name} is held at zero by R.", Follow: "R"},
			{When: when("Q", "never R"), Say: "The timer {name} has added up its {PT} in {at Q}; its R has been FALSE from the start.", Follow: "IN",
				Cause: "Q"},
			{When: when("Q"), Say: "The timer {name} has added up its {PT} in {at Q}.", Follow: "IN", Cause: "Q"},
			{When: when("IN"), Say: "The timer {name} has added up {ET} of {PT} and is running, {since IN}.", Follow: "IN"},
			{Say: "The timer {name} has added up {ET} of {PT}; its input has been FALSE {since IN}.", Follow: "IN"},
		},
		Waits: []Saying{{When: when("!Q", "!IN"), Say: delay}},
	},
}

const delay = "From when it is TRUE it takes {PT}"

const stands = "The counter {name} stands at {CV}, its preset is {PV}"

func holds(input, does string) Saying {
	return Saying{When: when(input), Say: stands + "; " + does, Follow: input}
}

// neverReset says of a counter that has counted what else has not happened to it.
func neverReset() Saying {
	return Saying{When: when("!never CV", "!wiped CV", "!R", "never R"),
		Say: stands + "; it changed last in {at CV}, and its R has been FALSE from the start."}
}

// counting puts what is particular to a counter before what all counters say.
func counting(particular ...Saying) []Saying {
	return append(particular,
		Saying{When: when("wiped CV"), Say: stands + ": {wiped CV} set it back."},
		Saying{When: when("never CV"), Say: stands + "; it has not counted yet."},
		Saying{Say: stands + "; it changed last in {at CV}."},
	)
}

// latch says why a latch is as it is that nothing but a restart has changed.
func latch(set, reset string) []Saying {
	return []Saying{
		{When: when("wiped Q1"), Say: "{Wiped Q1} reset {name}; " + set + " has been FALSE {since " + set + "}.", Follow: set},
		{When: when("Q1"), Say: "{name} has been set, {since Q1}.", Follow: set},
		{When: when(reset), Say: "{name} has never been set: " + reset + " is TRUE, {since " + reset + "}.", Follow: reset},
		{Say: "{name} has never been set: " + set + " has been FALSE {since " + set + "}.", Follow: set},
	}
}

// latched says what set or reset a latch, in the scan in which it happened.
func latched(set, reset string) []Saying {
	return []Saying{
		{When: when("Q1"), Say: "{name} was set in {now}: " + set + " was TRUE.", Follow: set},
		{When: when(reset, "!"+set, set+" after "+reset),
			Say: "{name} was reset in {now}: " + set + " went FALSE while " + reset + " was TRUE.", Follow: set},
		{Say: "{name} was reset in {now}: " + reset + " was TRUE.", Follow: reset},
	}
}
