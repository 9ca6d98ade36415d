package machine

import (
	"strings"

	"celandine/core/say"
	"celandine/core/source"
)

// A Wanted is something to be found in a program: by its name, or as a member of an instance of a block, whatever the program calls it.
type Wanted struct {
	Name   string
	Block  string // TON, in place of a name
	Member string // ET
}

// mostInstances bounds the instances among which the one that matches best is looked for.
const mostInstances = 64

// In lists what it can be in a program; none where the program lacks it.
func (w Wanted) In(code *Code) (names []string) {
	if w.Block == "" {
		if _, ok := code.Slot(w.Name); ok {
			return []string{w.Name}
		}
		return nil
	}
	for _, instance := range code.Instances(w.Block) {
		if name := instance + "." + w.Member; len(names) < mostInstances {
			if _, ok := code.Slot(name); ok {
				names = append(names, name)
			}
		}
	}
	return names
}

// Lacking tells that a program lacks it.
func (w Wanted) Lacking(code *Code) string {
	if w.Block != "" {
		return say.Textf("the program has no %s, whose %s is graded; declare one, with any name", w.Block, w.Member)
	}
	message := say.Textf("the program has nothing named %s", w.Name)
	if hint := source.Meant(w.Name, code.Names()); hint != "" {
		return message + "; " + strings.ToLower(hint[:1]) + hint[1:]
	}
	if instance, _, ok := strings.Cut(w.Name, "."); ok {
		return message + say.Textf("; declare a block named %s", instance)
	}
	return message
}

// Lacking tells of each of several that a program lacks.
func (c *Code) Lacking(list []Wanted) (told []string) {
	for _, w := range list {
		if len(w.In(c)) == 0 {
			told = append(told, w.Lacking(c))
		}
	}
	return told
}
