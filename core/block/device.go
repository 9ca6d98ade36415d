package block

// A Device is what can be wired to a point.
type Device struct {
	Name    string
	Picture Picture
	On, Off Doing // by whether somebody has worked it, or the program has switched it on
}

// A Picture is how a bench shows a device.
type Picture string

// The pictures.
const (
	Button Picture = "button" // it is pressed, and comes back by itself
	Toggle Picture = "toggle" // it stays where it is put
	Slider Picture = "slider" // it gives a number, or is on or off
	Lamp   Picture = "lamp"   // an output of any kind
)

// A Doing is what is said of a device: how it stands, and what became of it.
type Doing struct{ Rests, Changed string }

var inputs = []Device{
	{"button", Button, Doing{"is held pressed", "was pressed"}, Doing{"is not pressed", "was released"}},
	{"switch", Toggle, Doing{"is on", "was switched on"}, Doing{"is off", "was switched off"}},
	{"sensor", Slider, Doing{"is on", "came on"}, Doing{"is off", "went off"}},
}

// outputs stand or run by themselves, so nothing is said of what became of them.
var outputs = []Device{
	output("valve", "open", "shut"),
	output("motor", "runs", "stands"),
	output("heater", "heats", "off"),
	output("buzzer", "sounds", "silent"),
	output("indicator", "lit", "dark"),
	output("lamp", "lit", "dark"),
	output("fan", "runs", "stands"),
	output("pump", "runs", "stands"),
	output("screen", "out", "in"),
	output("counter", "on", "off"),
}

func output(name, on, off string) Device {
	return Device{name, Lamp, Doing{Rests: on}, Doing{Rests: off}}
}

// InputDevices lists the devices of inputs by name.
func InputDevices() []string { return names(inputs) }

// OutputDevices lists the devices of outputs by name.
func OutputDevices() []string { return names(outputs) }

func names(devices []Device) (list []string) {
	for _, d := range devices {
		list = append(list, d.Name)
	}
	return list
}

// DeviceNamed finds a device, or tells that there is none.
func DeviceNamed(name string) (Device, bool) {
	for _, list := range [][]Device{inputs, outputs} {
		for _, d := range list {
			if d.Name == name {
				return d, true
			}
		}
	}
	return Device{}, false
}
