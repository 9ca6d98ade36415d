package exercise

import (
	"strings"

	"go.yaml.in/yaml/v3"
)

func (r *reader) task(n *yaml.Node) {
	t := Task{Every: 1}
	var every *yaml.Node
	r.mapping(n, "A task",
		field{"program", true, func(v *yaml.Node) { t.Program = r.text(v, "program") }},
		field{"every", false, func(v *yaml.Node) { every = v }},
		field{"priority", false, func(v *yaml.Node) { t.Priority = r.whole(v, "priority", 0, 1000) }},
		field{"once", false, func(v *yaml.Node) { t.Once = r.truth(v, "once") }},
	)
	switch {
	case every != nil && t.Once:
		r.at(every, "Keep one of them.", "A task runs once or every so often, not both.")
	case every != nil:
		t.Every = r.multiple(every)
	}
	for _, other := range r.exercise.Tasks {
		if strings.EqualFold(other.Program, t.Program) {
			r.at(n, "Keep one of them.", "The program %s has two tasks.", t.Program)
		}
	}
	r.exercise.Tasks = append(r.exercise.Tasks, t)
}

// multiple reads how often a task runs, which is a multiple of the period.
func (r *reader) multiple(n *yaml.Node) int {
	if strings.Contains(n.Value, "scan") {
		return max(r.scans(n, "every"), 1)
	}
	d := r.duration(n, "every")
	if d%r.exercise.Period != 0 {
		r.at(n, "Write a multiple of "+r.exercise.Period.String()+", the period.", "A task cannot run every %s.", n.Value)
	}
	return max(int(d/r.exercise.Period), 1)
}
