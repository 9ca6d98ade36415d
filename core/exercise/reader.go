package exercise

import (
	"bytes"
	"errors"
	"fmt"
	"io"
	"path"
	"regexp"
	"sort"
	"strconv"
	"strings"
	"time"

	"go.yaml.in/yaml/v3"

	"celandine/core/signal"
	"celandine/core/source"
)

// Limits of one exercise folder.
const (
	MaxFile  = 1 << 20
	MaxFiles = 200
	MaxFor   = 24 * time.Hour // of one scenario
)

const yamlName = "exercise.yaml"

// Read turns a folder into an exercise. With errors in the list the exercise
// is nil.
func Read(files Files) (*Exercise, source.List) {
	e, problems := Draft(files)
	if problems.HasErrors() {
		return nil, problems
	}
	return e, problems
}

// usualPeriod is the time from scan to scan where an exercise says nothing.
const usualPeriod = 10 * time.Millisecond

type reader struct {
	files    Files
	file     *source.File // exercise.yaml
	exercise *Exercise
	problems source.List
}

// maxYAML is a hundred times what an exercise takes. Read, a file may take two hundred times its size.
const maxYAML = 256 << 10

// mostProblems are reported; a file that has more is no exercise.
const mostProblems = 200

// at reports a problem at a node of exercise.yaml.
func (r *reader) at(n *yaml.Node, hint, format string, args ...any) {
	if len(r.problems) >= mostProblems {
		return
	}
	r.problems.Add(source.WrongExercise, r.span(n), hint, format, args...)
}

// span is the place of a node: all of a plain value, the first letter of anything else.
func (r *reader) span(n *yaml.Node) source.Span {
	start := r.file.Offset(n.Line, n.Column)
	end := start + max(len(n.Value), 1)
	return source.Span{File: r.file, Start: start, End: min(end, len(r.file.Text))}
}

func (r *reader) inFile(name string, line int, hint, format string, args ...any) {
	f := source.NewFile(name, string(r.files[name]))
	start := f.Offset(line, 1)
	r.problems.Add(source.WrongExercise, source.Span{File: f, Start: start, End: start}, hint, format, args...)
}

func (r *reader) read() {
	text, ok := r.files[yamlName]
	r.file = source.NewFile(yamlName, string(text[:min(len(text), maxYAML)]))
	if !ok {
		r.problems.Add(source.WrongExercise, source.Span{File: r.file}, "An exercise is a folder with exercise.yaml, brief.md and a solution.",
			"There is no %s.", yamlName)
		return
	}
	if len(text) > maxYAML {
		r.problems.Add(source.WrongExercise, source.Span{File: source.NewFile(yamlName, "")},
			"Put long scripts and expected traces into tables: script: scripts/NAME.csv.", "%s is larger than 256 KiB.", yamlName)
		return
	}
	root, ok := r.parse(yamlName, text)
	if !ok {
		return
	}
	r.root(root)
	r.texts()
	if len(r.exercise.Scenarios) > 0 && r.exercise.Points() == 0 && !r.problems.HasErrors() {
		r.at(root, "Give at least one scenario points: 1.", "The scenarios' points add up to zero.")
	}
}

// slips are what people write that YAML does not take, and what to do.
var slips = []struct {
	line *regexp.Regexp
	hint string // VALUE is what the first group found
}{
	{regexp.MustCompile(`^ *(\t)`), "Indent with spaces: YAML takes no tabs."},
	{regexp.MustCompile("[:,\\[{] *([%@`][^\\s,}\\]]*)"), `Put the value into quotes: "VALUE".`},
	{regexp.MustCompile(`^[^:"'{\[]+: ([^"'{\[][^"']*: .*)`), `Put a text with a colon into quotes: "VALUE".`},
}

// slip tells what to do about a line of a text that is not YAML; "" where it is no common slip.
func slip(text []byte, line int) string {
	lines := strings.Split(string(text), "\n")
	if line < 1 || line > len(lines) {
		return ""
	}
	for _, s := range slips {
		if m := s.line.FindStringSubmatch(strings.TrimSuffix(lines[line-1], "\r")); m != nil {
			return strings.ReplaceAll(s.hint, "VALUE", m[1])
		}
	}
	return ""
}

var yamlLine = regexp.MustCompile(`line (\d+): (.*)`)

func (r *reader) parse(name string, text []byte) (*yaml.Node, bool) {
	var document yaml.Node
	err := yaml.NewDecoder(bytes.NewReader(text)).Decode(&document)
	if errors.Is(err, io.EOF) {
		r.inFile(name, 1, "Write at least one line.", "%s is empty.", name)
		return nil, false
	}
	if err != nil {
		line, message := 1, err.Error()
		if m := yamlLine.FindStringSubmatch(message); m != nil {
			line, _ = strconv.Atoi(m[1])
			message = m[2]
		}
		if hint := slip(text, line); hint != "" {
			r.inFile(name, line, hint, "This line is not YAML.")
			return nil, false
		}
		r.inFile(name, line, "Check the indentation, the colons and the brackets here and on the line above.", "This is not YAML: %s.", message)
		return nil, false
	}
	if countNodes(&document) > 100_000 {
		r.inFile(name, 1, "", "%s has more than 100,000 entries.", name)
		return nil, false
	}
	return document.Content[0], true
}

// countNodes refuses aliases, which could make a small text endless, by counting them as too many.
func countNodes(n *yaml.Node) int {
	if n.Kind == yaml.AliasNode {
		return 1 << 20
	}
	sum := 1
	for _, c := range n.Content {
		sum += countNodes(c)
	}
	return sum
}

// field is what may stand in a mapping.
type field struct {
	key      string
	required bool
	read     func(value *yaml.Node)
}

// mapping reads a mapping strictly: unknown and missing keys are told.
func (r *reader) mapping(n *yaml.Node, what string, fields ...field) {
	if n.Kind != yaml.MappingNode {
		r.at(n, "Write it as key: value lines.", "%s must be a list of keys and values.", what)
		return
	}
	keys := make([]string, len(fields))
	for i, f := range fields {
		keys[i] = f.key
	}
	seen := map[string]bool{}
	for i := 0; i+1 < len(n.Content); i += 2 {
		key, value := n.Content[i], n.Content[i+1]
		if seen[key.Value] {
			r.at(key, "Keep one of them.", "The key %s stands twice.", key.Value)
			continue
		}
		seen[key.Value] = true
		known := false
		for _, f := range fields {
			if f.key == key.Value {
				f.read(value)
				known = true
			}
		}
		if !known {
			hint := source.Meant(key.Value, keys)
			if hint == "" {
				hint = "Known here: " + strings.Join(keys, ", ") + "."
			}
			r.at(key, hint, "%s has no key %s.", what, key.Value)
		}
	}
	for _, f := range fields {
		if f.required && !seen[f.key] {
			r.at(n, "Add "+f.key+": …", "%s lacks the key %s.", what, f.key)
		}
	}
}

func (r *reader) list(n *yaml.Node, what string, item func(*yaml.Node)) {
	if n.Kind != yaml.SequenceNode {
		r.at(n, "Begin each with - on a line of its own.", "%s must be a list.", what)
		return
	}
	for _, c := range n.Content {
		item(c)
	}
}

func (r *reader) text(n *yaml.Node, what string) string {
	if n.Kind != yaml.ScalarNode {
		r.at(n, "", "%s must be a single value.", what)
		return ""
	}
	return n.Value
}

func (r *reader) oneOf(n *yaml.Node, what string, words ...string) string {
	v := r.text(n, what)
	for _, w := range words {
		if v == w {
			return v
		}
	}
	hint := source.Meant(v, words)
	if hint == "" {
		hint = "Write one of " + strings.Join(words, ", ") + "."
	}
	r.at(n, hint, "%s cannot be %q.", what, v)
	return ""
}

func (r *reader) whole(n *yaml.Node, what string, least, greatest int) int {
	v, err := strconv.Atoi(r.text(n, what))
	if err != nil || v < least || v > greatest {
		r.at(n, fmt.Sprintf("Write a whole number from %d to %d.", least, greatest), "%s cannot be %q.", what, n.Value)
		return least
	}
	return v
}

func (r *reader) truth(n *yaml.Node, what string) bool {
	return r.oneOf(n, what, "true", "false") == "true"
}

func (r *reader) duration(n *yaml.Node, what string) time.Duration {
	d, err := signal.ParseTime(r.text(n, what))
	if err != nil || d <= 0 {
		r.at(n, "Write it like 10ms, 1.5s or 1m30s.", "%s cannot be %q.", what, n.Value)
		return 0
	}
	return d
}

// scans reads a length: "3 scans", or a time, rounded up to whole scans.
func (r *reader) scans(n *yaml.Node, what string) int {
	text := r.text(n, what)
	if v, ok := LengthOf(text, r.exercise.Period); ok {
		return v
	}
	r.at(n, "Write it like 3 scans, 200ms or 1.5s.", "%s cannot be %q.", what, text)
	return 0
}

// scanAt returns the first scan that starts at or after a time.
func (r *reader) scanAt(d time.Duration) int {
	return int((d + r.exercise.Period - 1) / r.exercise.Period)
}

var exerciseName = regexp.MustCompile(`^[a-z0-9]+(-[a-z0-9]+)*$`)

func (r *reader) root(n *yaml.Node) {
	e := r.exercise
	e.Period, e.Kind = usualPeriod, Write
	var panel, graded, scenarios, rules, tasks *yaml.Node
	r.mapping(n, "The exercise",
		field{"format", true, func(v *yaml.Node) { r.oneOf(v, "format", Format) }},
		field{"name", true, func(v *yaml.Node) { e.Name = r.named(v) }},
		field{"title", true, func(v *yaml.Node) { e.Title = r.text(v, "title") }},
		field{"topic", false, func(v *yaml.Node) { e.Topic = r.text(v, "topic") }},
		field{"kind", false, func(v *yaml.Node) { e.Kind = Kind(r.oneOf(v, "kind", string(Write), string(Predict))) }},
		field{"reasons", false, r.reasons},
		field{"period", false, func(v *yaml.Node) {
			if d := r.duration(v, "period"); d > 0 {
				e.Period = d
			}
		}},
		field{"languages", false, func(v *yaml.Node) {
			r.list(v, "languages", func(item *yaml.Node) { e.Languages = append(e.Languages, r.oneOf(item, "A language", Languages()...)) })
		}},
		field{"panel", true, func(v *yaml.Node) { panel = v }},
		field{"graded", true, func(v *yaml.Node) { graded = v }},
		field{"scenarios", true, func(v *yaml.Node) { scenarios = v }},
		field{"rules", false, func(v *yaml.Node) { rules = v }},
		field{"tasks", false, func(v *yaml.Node) { tasks = v }},
	)
	if e.Languages == nil {
		e.Languages = []string{"ladder", "st"}
	}
	// Steps need the points and the period, whatever order the keys are in.
	if panel != nil {
		r.panel(panel)
	}
	if graded != nil {
		r.list(graded, "graded", r.graded)
	}
	if scenarios != nil {
		r.list(scenarios, "scenarios", r.scenario)
	}
	if rules != nil {
		r.list(rules, "rules", r.rule)
	}
	if tasks != nil {
		r.list(tasks, "tasks", r.task)
	}
	r.predicting(n)
}

func (r *reader) texts() {
	e := r.exercise
	brief, ok := r.files["brief.md"]
	if !ok {
		r.problems.Add(source.WrongExercise, source.Span{File: source.NewFile("brief.md", "")}, "Write the task for the learner in brief.md.",
			"There is no brief.md.")
	}
	e.Brief = string(brief)
	paths := make([]string, 0, len(r.files))
	for p := range r.files {
		paths = append(paths, p)
	}
	sort.Strings(paths)
	for _, p := range paths {
		language := LanguageOf(p)
		if language == "" {
			continue
		}
		one := Source{p, string(r.files[p])}
		switch {
		case path.Dir(p) == "mistakes":
			e.Mistakes = append(e.Mistakes, one)
		case p == "solution."+language:
			e.Solutions = append(e.Solutions, one)
		case p == "starter."+language:
			e.Starters = append(e.Starters, one)
		}
	}
	inOrder(e.Solutions)
	inOrder(e.Starters)
	r.begun()
	if len(e.Solutions) == 0 {
		r.problems.Add(source.WrongExercise, source.Span{File: source.NewFile("solution.st", "")},
			"Write solution.ladder, solution.fbd or solution.st.", "There is no solution.")
	}
}
