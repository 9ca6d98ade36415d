package block

import (
	"slices"

	"celandine/core/signal"
)

// A Verb is what a step of a script does.
type Verb struct {
	Name   string
	Device string // the only device that it is for; "": any on/off input, or no device at all
	Does   Deed
	Says   string // what it does, in a line
}

// A Deed is what comes of a verb.
type Deed uint8

// The deeds.
const (
	TurnOn   Deed = iota + 1
	TurnOff       //
	TurnBoth      // on, and off again after the step's for
	Set           // inputs take values
	Break         // a wire
	Mend          // a wire
	Force         // variables keep values, whatever the program does
	Unforce       // one no longer
	Write         // variables take values once
	Restart       // loss of supply and its return
)

// verbs stand in the order in which messages and the schema list them.
var verbs = []Verb{
	{"press", "button", TurnOn, "Presses a button, which stays pressed."},
	{"release", "button", TurnOff, "Lets go of a button."},
	{"tap", "button", TurnBoth, "Presses a button and lets go of it."},
	{"switch_on", "switch", TurnOn, "Puts a switch on."},
	{"switch_off", "switch", TurnOff, "Puts a switch off."},
	{"set", "", Set, "Gives inputs values, as the device stands."},
	{"break_wire", "", Break, "Makes an on/off input FALSE, however its device stands."},
	{"mend_wire", "", Mend, "Ends break_wire."},
	{signal.Force, "", Force, "Holds variables at values, whatever the program writes."},
	{signal.Unforce, "", Unforce, "Ends the force of a variable."},
	{signal.Write, "", Write, "Gives variables values once."},
	{signal.Restart, "", Restart, "A loss of supply and its return."},
}

// Verbs lists the verbs of steps by name.
func Verbs() (list []string) {
	for _, v := range verbs {
		list = append(list, v.Name)
	}
	return list
}

// VerbNamed finds a verb, or tells that there is none.
func VerbNamed(name string) (Verb, bool) {
	at := slices.IndexFunc(verbs, func(v Verb) bool { return v.Name == name })
	if at < 0 {
		return Verb{}, false
	}
	return verbs[at], true
}

// VerbsFor lists the verbs that are for a device alone, as press, release and tap are for a button.
func VerbsFor(device string) (list []Verb) {
	for _, v := range verbs {
		if v.Device == device {
			list = append(list, v)
		}
	}
	return list
}

// VerbThat finds the verb for a device that does so much to it, or tells that there is none.
func VerbThat(does Deed, device string) (Verb, bool) {
	for _, v := range VerbsFor(device) {
		if v.Does == does {
			return v, true
		}
	}
	return Verb{}, false
}
