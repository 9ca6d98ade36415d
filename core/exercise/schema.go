package exercise

import (
	"encoding/json"
	"maps"

	"celandine/core/block"
	"celandine/core/source"
)

// shape is a JSON Schema, or a part of one.
type shape map[string]any

// key is one key of a mapping, with what it means.
type key struct {
	name     string
	required bool
	means    string
	shape    shape
}

func text(extra ...shape) shape { return with(shape{"type": "string"}, extra) }

func with(s shape, extra []shape) shape {
	for _, e := range extra {
		maps.Copy(s, e)
	}
	return s
}

func words(list ...string) shape { return shape{"enum": list} }

func pattern(p string) shape { return shape{"pattern": p} }

func whole(least, greatest int) shape {
	return shape{"type": "integer", "minimum": least, "maximum": greatest}
}

func listOf(s shape) shape { return shape{"type": "array", "items": s} }

// mappingOf is an object with these keys and no others.
func mappingOf(keys ...key) shape {
	properties, required := shape{}, []string{}
	for _, k := range keys {
		s := maps.Clone(k.shape)
		if k.means != "" {
			s["description"] = k.means
		}
		properties[k.name] = s
		if k.required {
			required = append(required, k.name)
		}
	}
	return shape{"type": "object", "properties": properties, "required": required, "additionalProperties": false}
}

var (
	moment = text(pattern(`^(scan \d+|(T#|TIME#)?[0-9.]+(ns|us|ms|s|m|h|d)([0-9.]+(ns|us|ms|s|m|h|d))*)$`))
	length = text(pattern(`^(\d+ scans?|(T#|TIME#)?[0-9.]+(ns|us|ms|s|m|h|d)([0-9.]+(ns|us|ms|s|m|h|d))*)$`))
	marks  = shape{"type": "number", "minimum": 0}
	scalar = shape{"type": []string{"string", "number", "boolean"}}
	values = shape{"type": "object", "additionalProperties": scalar, "minProperties": 1}
	truth  = shape{"type": "boolean"}
)

// Schema returns the JSON Schema (draft 2020-12) of exercise.yaml, from the same lists of words that the reader goes by.
func Schema() ([]byte, error) {
	s := mappingOf(
		key{"format", true, "The first line of every exercise.", words(Format)},
		key{"name", true, "The exercise's name, as the folder's.", text(pattern(exerciseName.String()))},
		key{"title", true, "What learners see in their list.", text()},
		key{"topic", false, "The lesson that it belongs to.", text()},
		key{"kind", false, "What is handed in: a program, or what the program that is shown will do.", words(string(Write), string(Predict))},
		key{"reasons", false, "Of a prediction: what may be chosen where a trace is called erratic.", listOf(text())},
		key{"period", false, "The time from scan to scan; 10ms where it is left out.", length},
		key{"languages", false, "The languages in which it may be written; ladder and structured text where it is left out.",
			listOf(words(Languages()...))},
		key{"panel", true, "The devices and where they are wired.", mappingOf(
			key{"picture", false, "A picture of the folder on which the devices stand.", text()},
			key{"inputs", true, "", listOf(pointShape("I", block.InputDevices()))},
			key{"outputs", true, "", listOf(pointShape("Q", block.OutputDevices()))},
		)},
		key{"graded", true, "What is compared in every scenario.", listOf(gradedShape())},
		key{"scenarios", true, "The scripted runs.", listOf(scenarioShape())},
		key{"rules", false, "What points are taken off for.", listOf(ruleShape())},
		key{"tasks", false, "Which program runs how often; every scan where there are none.", listOf(taskShape())},
	)
	s["$schema"] = "https://json-schema.org/draft/2020-12/schema"
	s["title"] = "Celandine exercise"
	return json.MarshalIndent(s, "", "  ")
}

func pointShape(area string, devices []string) shape {
	return mappingOf(
		key{"name", true, "Letters, digits and single underscores; tray_{1..10} is a series.", text(pattern(`^[A-Za-z][A-Za-z0-9_{}.]*$`))},
		key{"at", true, "The address; a series goes on from it.", text(pattern(`^%` + area + `[XBWDL]?\d{1,5}(\.[0-7])?$`))},
		key{"device", true, "What is wired there.", words(devices...)},
		key{"contact", false, "open, or closed where the bit is TRUE at rest.", words("open", "closed")},
		key{"label", false, "What is written on it; {n} is the number in a series.", text()},
		key{"type", false, "BOOL where it is left out.", words(PointTypes()...)},
		key{"unit", false, "What one step of the number is.", text()},
		key{"initial", false, "The device's state before anything is touched.", scalar},
		key{"place", false, "Where the device stands on the panel: percent from the left, and from the top.",
			shape{"type": "array", "items": whole(0, 100), "minItems": 2, "maxItems": 2}},
	)
}

func gradedShape() shape {
	return mappingOf(
		key{"signal", false, "A point, a variable, or a member such as settle.ET.", text()},
		key{"block", false, "In place of signal: the type of a block, TON; the hand-in's instance is meant, whatever its name.", text()},
		key{"member", false, "Of block: what of it is compared, ET.", text()},
		key{"weight", false, "Its share of a scenario's points.", whole(1, 1000)},
		key{"slack", false, "How far a change may be off: 1 scan, 20ms; 2 scans where it is left out.", length},
		key{"drift", false, "How much further a change may be off than the one before it: 1 scan.", length},
		key{"within", false, "How far a number or a time may be off.", shape{"type": []string{"string", "number"}}},
	)
}

func scenarioShape() shape {
	window := mappingOf(key{"from", true, "", moment}, key{"to", false, "", moment})
	expect := shape{"oneOf": []shape{
		words("solution"),
		mappingOf(key{"table", true, "A scan table in the folder.", text()}),
		mappingOf(key{"erratic", true, "Of a prediction by hand: which of the reasons keeps anybody from telling.", text()}),
		shape{"type": "array", "minItems": 1, "items": checkShape()},
	}}
	return mappingOf(
		key{"name", true, "What it shows, in words.", text()},
		key{"points", false, "1 where it is left out.", marks},
		key{"shown", false, "Whether learners see its script and traces.", truth},
		key{"by_hand", false, "Of a prediction: a hand works the inputs, each change a scan sooner or later.", truth},
		key{"predict", false, "Whether learners may predict it before their first run, without marks.", truth},
		key{"for", true, "How long it lasts.", length},
		key{"steps", false, "What is done to the devices.", listOf(stepShape())},
		key{"script", false, "A scan table of the inputs, in place of steps.", text()},
		key{"expect", true, "The solution's own trace, a table, a list of checks, or that it is erratic.", expect},
		key{"ignore", false, "Windows that are not compared.", listOf(window)},
	)
}

func stepShape() shape {
	keys := []key{
		{"at", true, "scan 40, 100ms or 1.5s.", moment},
		{"for", false, "Of tap: how long it is pressed.", length},
		{"every", false, "Repeat it this often …", length},
		{"times", false, "… this many times.", whole(1, 10_000)},
	}
	for _, name := range block.Verbs() {
		verb, _ := block.VerbNamed(name)
		s := text()
		switch verb.Does {
		case block.Set, block.Force, block.Write:
			s = values
		case block.Restart:
			s = truth
		}
		keys = append(keys, key{name, false, verb.Says, s})
	}
	return mappingOf(keys...)
}

func checkShape() shape {
	return mappingOf(
		key{"signal", true, "", text()}, key{"from", false, "", moment}, key{"to", false, "", moment},
		key{"is", false, "The value throughout.", scalar},
		key{"rises", false, "How often it becomes TRUE.", whole(0, 1_000_000)},
		key{"falls", false, "How often it becomes FALSE.", whole(0, 1_000_000)},
	)
}

func ruleShape() shape {
	return mappingOf(
		key{"require", false, "A block, function or element that must be there.", text()}, key{"forbid", false, "One that must not.", text()},
		key{"warning", false, "The code of a warning.", words(warningCodes()...)},
		key{"chatter", false, "A signal that may not change too often.", text()},
		key{"at_least", false, "Of require.", whole(1, 10_000)},
		key{"at_most", false, "Of forbid a number, of chatter 4 per 1s.", shape{"type": []string{"string", "integer"}}},
		key{"deduct", true, "The points taken off.", marks}, key{"say", false, "What the learner reads.", text()},
	)
}

func warningCodes() (list []string) {
	for _, code := range source.WarningCodes() {
		list = append(list, string(code))
	}
	return list
}

func taskShape() shape {
	return mappingOf(
		key{"program", true, "", text()}, key{"every", false, "A multiple of the period.", length},
		key{"priority", false, "Of those due, the lowest runs first.", whole(0, 1000)},
		key{"once", false, "Only in the first scan, before the others.", truth},
	)
}
