package workshop

import (
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strings"

	"celandine/core/exercise"
	"celandine/core/rewrite"
	"celandine/core/source"
)

// AddPoint puts a point at the end of the inputs or outputs, under a name that nothing has and at the next address: a bit, or, of
// another type, a word.
func AddPoint(files exercise.Files, input bool, kind string) (exercise.Files, error) {
	e, _ := exercise.Draft(files)
	list, area, stem, row := e.Outputs, "Q", "output", exercise.PointForm{Device: "lamp"}
	others := e.Inputs
	if input {
		list, others, area, stem, row.Device = e.Inputs, e.Outputs, "I", "input", "button"
	}
	fields := map[string]any{"name": freeName(stem, append(others, list...)), "at": freeAddress(area, kind, list)}
	if kind != "BOOL" {
		fields["type"] = kind
		row.Device = map[bool]string{true: "sensor", false: "indicator"}[input]
	}
	fields["device"] = row.Device
	value, err := ordered(fields, exercise.KeysOf("panel/inputs/0"))
	if err != nil {
		return nil, err
	}
	at := fmt.Sprintf("panel/%ss/%d", stem, rowsOf(files, input))
	return edit(files, exercise.Edit{Do: exercise.Insert, At: at, Value: value})
}

// ordered writes a mapping with its keys in their order.
func ordered(fields map[string]any, order []string) (json.RawMessage, error) {
	var parts []string
	for _, key := range order {
		value, there := fields[key]
		if !there {
			continue
		}
		text, err := json.Marshal(value)
		if err != nil {
			return nil, fmt.Errorf("writing %s: %w", key, err)
		}
		parts = append(parts, fmt.Sprintf("%q:%s", key, text))
	}
	return json.RawMessage("{" + strings.Join(parts, ",") + "}"), nil
}

func rowsOf(files exercise.Files, input bool) int {
	form, _ := exercise.FormOf(string(files[yamlName])) // what is no YAML has no rows
	if input {
		return len(form.Panel.Inputs)
	}
	return len(form.Panel.Outputs)
}

func freeName(stem string, points []exercise.Point) string {
	for n := 1; ; n++ {
		name := fmt.Sprintf("%s_%d", stem, n)
		taken := false
		for _, p := range points {
			taken = taken || strings.EqualFold(p.Name, name)
		}
		if !taken {
			return name
		}
	}
}

// sizes are the letters of an address by how many bytes a value of the type takes; a bit has none.
var sizes = map[string]struct {
	letter string
	bytes  int
}{
	"SINT": {"B", 1}, "USINT": {"B", 1}, "BYTE": {"B", 1}, "INT": {"W", 2}, "UINT": {"W", 2}, "WORD": {"W", 2},
	"DINT": {"D", 4}, "UDINT": {"D", 4}, "DWORD": {"D", 4}, "LINT": {"L", 8}, "TIME": {"L", 8},
}

// freeAddress is the first address behind all others of an area, and on no bits that another has.
func freeAddress(area, kind string, points []exercise.Point) string {
	size, word := sizes[kind]
	address := "%" + area + "X0.0"
	if word {
		address = "%" + area + size.letter + "0"
	}
	for n := len(points) - 1; n >= 0; n-- { // a bit goes on behind the last bit
		isBit := strings.Contains(points[n].Address, ".")
		if next := source.AddressAfter(points[n].Address, 1); isBit == !word && next != points[n].Address { // else it is no address
			address = next
			break
		}
	}
	for range 8 * (len(points) + 1) { // no more can be taken
		if !overlaps(address, points) {
			break
		}
		address = source.AddressAfter(address, 1)
	}
	return address
}

func overlaps(address string, points []exercise.Point) bool {
	for _, p := range points {
		if p.Address == address || exercise.IsAddress(p.Address) && source.Overlap(p.Address, address) {
			return true
		}
	}
	return false
}

var pointName = regexp.MustCompile(`^[A-Za-z][A-Za-z0-9_]*$`)

// Rename gives a point another name wherever it stands: in the panel, in scripts and expectations, in what is graded, in every program
// and in the brief. It returns the files that changed.
func Rename(files exercise.Files, at, to string) (exercise.Files, error) {
	text := string(files[yamlName])
	form, err := exercise.FormOf(text)
	if err != nil {
		return nil, err
	}
	from := rowAt(form, at).Name
	if from == "" {
		return nil, errors.New("there is no such point any more")
	}
	changed, err := edit(files, exercise.Edit{Do: exercise.Put, At: at + "/name", Value: quote(to)})
	if err != nil || !pointName.MatchString(from) || !pointName.MatchString(to) || rows(form, from) > 1 ||
		rows(form, to) > 0 && !strings.EqualFold(from, to) {
		return changed, err // a series, a name that is none yet, or another's: nothing else can mean it
	}
	after, err := exercise.Rewrite(string(changed[yamlName]), mentions(form, from, to))
	if err != nil {
		return nil, err
	}
	changed[yamlName] = []byte(after)
	for _, name := range programs(files) {
		keep(changed, files, name, rewrite.Read(string(files[name])).RenamePoint(from, to))
	}
	for name := range files {
		if strings.HasSuffix(name, ".csv") {
			head, rest, _ := strings.Cut(string(files[name]), "\n")
			keep(changed, files, name, word(from).ReplaceAllString(head, to)+"\n"+rest)
		}
	}
	keep(changed, files, "brief.md", word(from).ReplaceAllString(string(files["brief.md"]), to))
	return changed, nil
}

func keep(changed, files exercise.Files, name, text string) {
	if string(files[name]) != text {
		changed[name] = []byte(text)
	}
}

func word(name string) *regexp.Regexp {
	return regexp.MustCompile(`(?i)\b` + regexp.QuoteMeta(name) + `\b`)
}

func quote(text string) json.RawMessage {
	quoted, _ := json.Marshal(text) // a string can always be written
	return quoted
}

// rowAt is the row of a place such as panel/inputs/2.
func rowAt(form exercise.Form, at string) exercise.PointForm {
	for beginning, rows := range map[string][]exercise.PointForm{"panel/inputs/": form.Panel.Inputs, "panel/outputs/": form.Panel.Outputs} {
		if n, ok := numberIn(at, beginning); ok && n < len(rows) {
			return rows[n]
		}
	}
	return exercise.PointForm{}
}

// rows counts the points of a name: where two have it, what means it cannot be told.
func rows(form exercise.Form, name string) (n int) {
	for _, p := range slices.Concat(form.Panel.Inputs, form.Panel.Outputs) {
		if strings.EqualFold(p.Name, name) {
			n++
		}
	}
	return n
}

// mentions are the edits that give a point another name in everything but the panel.
func mentions(form exercise.Form, from, to string) (edits []exercise.Edit) {
	put := func(value string, format string, args ...any) {
		if strings.EqualFold(value, from) {
			edits = append(edits, exercise.Edit{Do: exercise.Put, At: fmt.Sprintf(format, args...), Value: quote(to)})
		}
	}
	for i, g := range form.Graded {
		put(g.Signal, "graded/%d/signal", i)
	}
	for i, r := range form.Rules {
		put(r.Chatter, "rules/%d/chatter", i)
	}
	for i, s := range form.Scenarios {
		for j, c := range s.Expect.Checks {
			put(c.Signal, "scenarios/%d/expect/%d/signal", i, j)
		}
		for j, step := range s.Steps {
			put(step.Object, "scenarios/%d/steps/%d/%s", i, j, step.Verb)
			if values, there := renamed(step, from, to); there {
				edits = append(edits, exercise.Edit{Do: exercise.Put, At: fmt.Sprintf("scenarios/%d/steps/%d/%s", i, j, step.Verb), Value: values})
			}
		}
	}
	return edits
}

// renamed are a step's values with one of their names changed.
func renamed(step exercise.StepForm, from, to string) (json.RawMessage, bool) {
	var parts []string
	there := false
	for _, v := range step.Values {
		name := v.Name
		if strings.EqualFold(name, from) {
			name, there = to, true
		}
		parts = append(parts, string(quote(name))+":"+string(quote(v.Value)))
	}
	return json.RawMessage("{" + strings.Join(parts, ",") + "}"), there
}
