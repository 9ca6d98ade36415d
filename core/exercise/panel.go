package exercise

import (
	"fmt"
	"regexp"
	"slices"
	"strings"

	"go.yaml.in/yaml/v3"

	"celandine/core/block"
	"celandine/core/signal"
	"celandine/core/source"
)

var pointAddress = regexp.MustCompile(`^%[IQM]([XBWDL]?)(\d{1,5})(\.[0-7])?$`)

// IsAddress tells whether a text is an address that a point may have.
func IsAddress(text string) bool { return pointAddress.MatchString(text) }

func (r *reader) panel(n *yaml.Node) {
	taken := map[string]*yaml.Node{}
	r.mapping(n, "panel",
		field{"picture", false, func(v *yaml.Node) {
			r.exercise.Picture = r.text(v, "picture")
			if r.fileNamed(v, r.exercise.Picture) && !IsPicture(r.exercise.Picture) {
				r.at(v, "Take a PNG, JPEG, GIF or WebP below pictures.", "%s is no picture that a page can show.", r.exercise.Picture)
			}
		}},
		field{"inputs", true, func(v *yaml.Node) {
			r.list(v, "inputs", func(item *yaml.Node) {
				r.exercise.Inputs = append(r.exercise.Inputs, r.points(item, "I", block.InputDevices(), taken)...)
			})
		}},
		field{"outputs", true, func(v *yaml.Node) {
			r.list(v, "outputs", func(item *yaml.Node) {
				r.exercise.Outputs = append(r.exercise.Outputs, r.points(item, "Q", block.OutputDevices(), taken)...)
			})
		}},
	)
}

var pointName = regexp.MustCompile(`^[A-Za-z]([A-Za-z0-9]|_[A-Za-z0-9])*$`)

// points reads one point, or a numbered series of them.
func (r *reader) points(n *yaml.Node, area string, devices []string, taken map[string]*yaml.Node) []Point {
	p := Point{Type: "BOOL", At: r.span(n)}
	var initial, name, address *yaml.Node
	r.mapping(n, "A point",
		field{"name", true, func(v *yaml.Node) {
			p.Name, name = r.text(v, "name"), v
			if series, _ := source.SeriesOf(p.Name); !pointName.MatchString(series.Name(p.Name, 1)) {
				r.at(v, "Write letters, digits and single underscores, beginning with a letter; a series like tray_{1..10}.",
					"A point cannot be named %q.", p.Name)
			}
		}},
		field{"at", true, func(v *yaml.Node) {
			p.Address, address = strings.ToUpper(r.text(v, "at")), v
			if !pointAddress.MatchString(p.Address) || string(p.Address[1]) != area {
				r.at(v, "Write %"+area+"X0.0 for a bit, %"+area+"W2 for a word; a bit runs from 0 to 7.", "%s cannot be the address of this point.",
					v.Value)
			}
		}},
		field{"device", true, func(v *yaml.Node) { p.Device = r.oneOf(v, "device", devices...) }},
		field{"contact", false, func(v *yaml.Node) { p.Closed = r.contact(v) }},
		field{"label", false, func(v *yaml.Node) { p.Label = r.text(v, "label") }},
		field{"type", false, func(v *yaml.Node) {
			p.Type = strings.ToUpper(r.text(v, "type"))
			if _, ok := pointTypes[p.Type]; !ok {
				r.at(v, "Write BOOL, INT, DINT or TIME.", "A point cannot be a %s.", v.Value)
			}
		}},
		field{"unit", false, func(v *yaml.Node) { p.Unit = r.text(v, "unit") }},
		field{"initial", false, func(v *yaml.Node) { initial = v }},
		field{"place", false, func(v *yaml.Node) { p.Place = r.place(v) }},
	)
	if p.Label == "" {
		p.Label = p.Name // of a series, its numbers too
	}
	if initial != nil {
		p.Initial = r.value(initial, p, "initial")
	}
	if p.Closed && p.Kind() != signal.Bool {
		r.at(n, "Remove contact, or make it a BOOL.", "Only an on/off point has a contact.")
	}
	if p.Name == "" {
		return nil
	}
	list := r.numbered(name, p) // a point with a problem is known all the same
	for _, one := range list {
		r.once(taken, strings.ToLower(one.Name), name, "The name "+one.Name)
		if address != nil {
			r.once(taken, one.Address, address, "The address "+one.Address)
			r.apart(one, address)
		}
	}
	return list
}

// place reads where a device stands on the panel: [30, 60].
func (r *reader) place(n *yaml.Node) (at []int) {
	r.list(n, "place", func(item *yaml.Node) { at = append(at, r.whole(item, "place", 0, 100)) })
	if len(at) != 2 {
		r.at(n, "Write it like [30, 60]: percent from the left, and from the top.", "A place is two numbers.")
		return nil
	}
	return at
}

// numbered returns the points of a series, at one address after the other, or just the one.
func (r *reader) numbered(n *yaml.Node, p Point) []Point {
	series, err := source.SeriesOf(p.Name)
	if err != nil {
		r.at(n, "Write it like tray_{1..10}, with at most 256 points.", "The series %s is empty or too long.", p.Name)
		return nil
	}
	if series.Numbered && !strings.Contains(p.Label, "{") {
		p.Label += " {n}" // Tray becomes Tray 1, Tray 2 …
	}
	if series.Numbered && p.Place != nil {
		r.at(n, "Write the points one by one to place them, or take place out.", "The points of a series stand in a row; they have no place.")
	}
	var list []Point
	for i := series.From; i <= series.To; i++ {
		one := p
		one.Name, one.Label = series.Name(p.Name, i), series.Name(p.Label, i)
		one.Address = source.AddressAfter(p.Address, i-series.From)
		list = append(list, one)
	}
	return list
}

// apart reports a point whose address has bits in common with an earlier point's.
func (r *reader) apart(p Point, n *yaml.Node) {
	for _, other := range slices.Concat(r.exercise.Inputs, r.exercise.Outputs) {
		if other.Address != p.Address && IsAddress(p.Address) && IsAddress(other.Address) &&
			source.Overlap(other.Address, p.Address) {
			r.at(n, "Bit addresses are byte.bit; %IW2 covers the bytes 2 and 3. Give each point its own.", "%s lies on the same bits as %s of %s.",
				p.Address, other.Address, other.Name)
			return
		}
	}
}

// once reports a name or address that an earlier point has.
func (r *reader) once(taken map[string]*yaml.Node, key string, n *yaml.Node, what string) {
	if old := taken[key]; old != nil {
		r.at(n, "Give each point its own.", "%s is used already, at line %d.", what, old.Line)
		return
	}
	taken[key] = n
}

// value reads what a point can show: true, 215, T#5s.
func (r *reader) value(n *yaml.Node, p Point, what string) int64 {
	v, err := p.Kind().Parse(r.text(n, what))
	if err != nil {
		r.at(n, "", "%s of %s: %v.", what, p.Name, err)
	} else if least, greatest := p.Limits(); v < least || v > greatest {
		r.at(n, fmt.Sprintf("Write a number from %d to %d, or give the point a wider type.", least, greatest), "%s of %s: %d does not fit %s.",
			what, p.Name, v, p.Type)
	}
	return v
}

func (r *reader) graded(n *yaml.Node) {
	g := Graded{Weight: 1, Slack: DefaultSlack, At: r.span(n)}
	r.mapping(n, "A graded signal",
		field{"signal", false, func(v *yaml.Node) { g.Signal, g.At = r.text(v, "signal"), r.span(v) }},
		field{"block", false, func(v *yaml.Node) { g.Block, g.At = strings.ToUpper(r.text(v, "block")), r.span(v) }},
		field{"member", false, func(v *yaml.Node) { g.Member = strings.ToUpper(r.text(v, "member")) }},
		field{"weight", false, func(v *yaml.Node) { g.Weight = r.whole(v, "weight", 1, 1000) }},
		field{"slack", false, func(v *yaml.Node) { g.Slack = r.scans(v, "slack") }},
		field{"drift", false, func(v *yaml.Node) { g.Drift = r.scans(v, "drift") }},
		field{"within", false, func(v *yaml.Node) { g.Within, g.WithinAt = r.text(v, "within"), r.span(v) }},
	)
	switch {
	case g.Signal == "" && g.Block == "":
		r.at(n, "Write signal: mist_valve, or block: TON with member: ET.", "Nothing is graded here.")
	case g.Signal != "" && g.Block != "":
		r.at(n, "Keep one of them.", "A graded signal is meant by its name or by its block's type, not both.")
	case g.Block != "" && g.Member == "":
		r.at(n, "Write member: ET, for example.", "A graded block needs the member that is compared.")
	case g.Block == "" && g.Member != "":
		r.at(n, "Write signal: name."+g.Member+", or block: TON.", "member belongs to block.")
	}
	for _, other := range r.exercise.Graded {
		if strings.EqualFold(other.Name(), g.Name()) {
			r.at(n, "Keep one of them.", "%s is graded twice.", g.Name())
		}
	}
	r.exercise.Graded = append(r.exercise.Graded, g)
}

// contact reports whether a device is wired normally closed.
func (r *reader) contact(n *yaml.Node) bool {
	if word, ok := map[string]string{"NC": "closed", "NO": "open"}[strings.ToUpper(n.Value)]; ok {
		r.at(n, fmt.Sprintf("Write contact: %s.", word), "contact cannot be %q.", n.Value)
		return word == "closed"
	}
	return r.oneOf(n, "contact", "open", "closed") == "closed"
}
