package exercise

import (
	"encoding/json"
	"errors"
	"fmt"
	"regexp"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"celandine/core/block"
)

// Doing is what an [Edit] does.
type Doing string

// The deeds. Put writes the value of a key, and of a key that is not there yet makes one; of an item of a list it writes a new
// text in its place. Insert puts an item before the one that stands at the place, or at the list's end.
const (
	Put    Doing = "put"
	Insert Doing = "insert"
	Remove Doing = "remove"
	Move   Doing = "move"
)

// Doings lists them.
func Doings() []string { return []string{string(Put), string(Insert), string(Remove), string(Move)} }

// An Edit changes exercise.yaml at one place.
type Edit struct {
	Do    Doing           `json:"do"`
	At    string          `json:"at"`              // scenarios/0/steps/2/at
	Value json.RawMessage `json:"value,omitempty"` // of put and insert, as JSON
	To    int             `json:"to,omitempty"`    // of move: the number that the item has then
}

// Rewrite changes a text of exercise.yaml by edits, one after the other, and leaves every other byte as it is: spaces, comments, the
// order of keys. It changes nothing where one of them cannot be done.
func Rewrite(text string, edits []Edit) (string, error) {
	for _, e := range edits {
		next, err := rewrite(text, e)
		if err != nil {
			return "", fmt.Errorf("%s %s: %w", e.Do, e.At, err)
		}
		text = next
	}
	return text, nil
}

func rewrite(text string, e Edit) (string, error) {
	w, err := readWritten(text)
	if err != nil {
		return "", err
	}
	path := strings.Split(e.At, "/")
	var next string
	switch e.Do {
	case Put, Insert:
		value, err := valueOf(e.Value)
		if err != nil {
			return "", err
		}
		if e.Do == Put {
			next, err = w.put(path, value)
		} else {
			next, err = w.insert(path, value)
		}
		if err != nil {
			return "", err
		}
	case Remove:
		next, err = w.remove(path)
	case Move:
		next, err = w.move(path, e.To)
	default:
		return "", fmt.Errorf("there is no such edit; write %s, %s, %s or %s", Put, Insert, Remove, Move)
	}
	if err != nil {
		return "", err
	}
	return next, w.holds(next, e, path)
}

// holds makes sure that a changed text says what the edit means, and nothing else.
func (w *written) holds(next string, e Edit, path []string) error {
	if next == w.text() {
		return nil
	}
	after, err := readWritten(next)
	if err != nil {
		return errOtherwise
	}
	meant, err := readWritten(w.text())
	if err != nil {
		return err
	}
	meant.mean(e, path)
	if !alike(meant.root, after.root) {
		return errOtherwise
	}
	return nil
}

// mean makes the edit in the tree alone.
func (w *written) mean(e Edit, path []string) {
	last := path[len(path)-1]
	nodes, _ := w.trail(path[:len(path)-1])
	parent := nodes[len(nodes)-1]
	value, _ := valueOf(e.Value)
	for _, missing := range path[len(nodes)-1 : len(path)-1] { // what put makes on the way
		made := &yaml.Node{Kind: yaml.MappingNode}
		parent.Content = append(parent.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: missing}, made)
		parent = made
	}
	i, _ := strconv.Atoi(last)
	switch {
	case e.Do == Insert:
		parent.Kind = yaml.SequenceNode // nothing, before
		parent.Content = slices.Insert(parent.Content, min(i, len(parent.Content)), value)
	case e.Do == Move:
		item := parent.Content[i]
		parent.Content = slices.Insert(slices.Delete(parent.Content, i, i+1), e.To, item)
	case parent.Kind == yaml.SequenceNode && e.Do == Remove:
		parent.Content = slices.Delete(parent.Content, i, i+1)
	case parent.Kind == yaml.SequenceNode:
		parent.Content[i] = value
	case e.Do == Remove:
		at := keyAt(parent, last)
		parent.Content = slices.Delete(parent.Content, at, at+2)
	case keyAt(parent, last) >= 0:
		parent.Content[keyAt(parent, last)+1] = value
	default:
		parent.Content = append(parent.Content, &yaml.Node{Kind: yaml.ScalarNode, Value: last}, value)
	}
}

// alike compares what two trees say; the order of keys says nothing, nor does a list that is empty rather than left out.
func alike(a, b *yaml.Node) bool {
	if len(a.Content) == 0 && len(b.Content) == 0 && a.Kind != b.Kind {
		return a.Value == "" && b.Value == "" || a.Tag == "!!null" || b.Tag == "!!null"
	}
	if a.Kind != b.Kind || a.Value != b.Value || len(a.Content) != len(b.Content) {
		return false
	}
	for i := range a.Content {
		switch {
		case a.Kind != yaml.MappingNode:
			if !alike(a.Content[i], b.Content[i]) {
				return false
			}
		case i%2 == 0:
			other := child(b, a.Content[i].Value)
			if other == nil || !alike(a.Content[i+1], other) {
				return false
			}
		}
	}
	return true
}

// put writes a value at a place; keys on the way there that are missing are made.
func (w *written) put(path []string, value *yaml.Node) (string, error) {
	nodes, err := w.trail(path)
	if err != nil {
		return w.add(path, nodes, value)
	}
	old, flow := nodes[len(nodes)-1], inFlow(nodes[:len(nodes)-1])
	if alike(old, value) && old.Kind == value.Kind {
		return w.text(), nil
	}
	start, end := w.start(old), w.end(old)
	key := w.keyOf(nodes)
	switch {
	case key == nil:
		return w.splice(start, end, w.render(value, path, w.indent(start), flow)), nil
	case start == end: // key: and nothing
		end = w.behindColon(key)
	case w.oneLine(key, old) && (flow || !blockStyle(value, path)): // the spaces between them stay
		return w.splice(start, end, w.render(value, path, 0, flow)), nil
	}
	return w.splice(w.behindColon(key), end, w.value(value, path, w.indent(w.start(key)), flow)), nil
}

// oneLine tells whether a value begins on the line of its key.
func (w *written) oneLine(key, value *yaml.Node) bool {
	return w.startOfLine(w.start(key)) == w.startOfLine(w.start(value))
}

// keyOf is the key whose value the last of the nodes is, or nil of an item.
func (w *written) keyOf(nodes []*yaml.Node) *yaml.Node {
	if len(nodes) < 2 {
		return nil
	}
	parent, last := nodes[len(nodes)-2], nodes[len(nodes)-1]
	if at := slices.Index(parent.Content, last); parent.Kind == yaml.MappingNode && at > 0 {
		return parent.Content[at-1]
	}
	return nil
}

// add makes the key that a path ends in; nodes are what there is on the way.
func (w *written) add(path []string, nodes []*yaml.Node, value *yaml.Node) (string, error) {
	parent, known := nodes[len(nodes)-1], len(nodes)-1
	for i := len(path) - 1; i > known; i-- {
		value = &yaml.Node{Kind: yaml.MappingNode, Content: []*yaml.Node{{Kind: yaml.ScalarNode, Value: path[i]}, value}}
	}
	key := path[known]
	if parent.Kind != yaml.MappingNode || len(parent.Content) == 0 {
		return "", fmt.Errorf("exercise.yaml has nothing at %s", strings.Join(path[:known+1], "/"))
	}
	before := w.predecessor(parent, path[:known], key)
	if inFlow(nodes) {
		return w.splice(w.end(before), w.end(before), ", "+key+":"+w.value(value, path[:known+1], 0, true)), nil
	}
	indent := w.indent(w.start(parent.Content[0]))
	return w.newLine(w.end(before), strings.Repeat(" ", indent)+key+":"+w.value(value, path[:known+1], indent, false)), nil
}

// newLine puts a line below the one in which at lies.
func (w *written) newLine(at int, line string) string {
	end := w.endOfLine(at)
	return w.splice(end, end, "\n"+line)
}

// predecessor is the value of the key after which a new one belongs.
func (w *written) predecessor(parent *yaml.Node, path []string, key string) *yaml.Node {
	order := KeysOf(strings.Join(path, "/"))
	last := parent.Content[len(parent.Content)-1]
	for i := slices.Index(order, key) - 1; i >= 0; i-- {
		if found := child(parent, order[i]); found != nil {
			return w.orKey(parent, found)
		}
	}
	return w.orKey(parent, last)
}

// orKey is a value, or its key where the value is nothing.
func (w *written) orKey(parent, value *yaml.Node) *yaml.Node {
	if w.start(value) == w.end(value) {
		return parent.Content[slices.Index(parent.Content, value)-1]
	}
	return value
}

// insert puts an item into a list.
func (w *written) insert(path []string, value *yaml.Node) (string, error) {
	at, err := strconv.Atoi(path[len(path)-1])
	if err != nil || at < 0 {
		return "", errors.New("the place of an item ends in its number")
	}
	of := path[:len(path)-1]
	nodes, err := w.trail(of)
	if err != nil { // the list is made with its first item
		return w.put(of, &yaml.Node{Kind: yaml.SequenceNode, Content: []*yaml.Node{value}})
	}
	list := nodes[len(nodes)-1]
	at = min(at, len(list.Content))
	flow := inFlow(nodes[:len(nodes)-1])
	switch {
	case list.Kind != yaml.SequenceNode && list.Tag != "!!null":
		return "", fmt.Errorf("%s is no list", strings.Join(of, "/"))
	case len(list.Content) == 0:
		return w.put(of, &yaml.Node{Kind: yaml.SequenceNode, Content: []*yaml.Node{value}})
	case flow || list.Style&yaml.FlowStyle != 0:
		text := w.render(value, path, 0, true)
		if at < len(list.Content) {
			return w.splice(w.start(list.Content[at]), w.start(list.Content[at]), text+", "), nil
		}
		return w.splice(w.end(list.Content[at-1]), w.end(list.Content[at-1]), ", "+text), nil
	}
	dash, err := w.dash(list.Content[0])
	if err != nil {
		return "", err
	}
	indent := w.indent(dash)
	line := strings.Repeat(" ", indent) + "- " + w.render(value, path, indent+2, false)
	if at == len(list.Content) {
		return w.newLine(w.end(list.Content[at-1]), line), nil
	}
	start, _, err := w.lines(list, at)
	return w.splice(start, start, line+"\n"), err
}

// remove takes a key with its value, or an item, out.
func (w *written) remove(path []string) (string, error) {
	nodes, err := w.trail(path)
	if err != nil || len(nodes) < 2 {
		return w.text(), err
	}
	parent, last := nodes[len(nodes)-2], nodes[len(nodes)-1]
	n := slices.Index(parent.Content, last)
	if parent.Kind == yaml.SequenceNode {
		return w.removeItem(parent, n, path, inFlow(nodes[:len(nodes)-1]))
	}
	return w.removeKey(parent, n-1, inFlow(nodes[:len(nodes)-1]))
}

func (w *written) removeItem(list *yaml.Node, n int, path []string, flow bool) (string, error) {
	switch {
	case len(list.Content) == 1:
		return w.put(path[:len(path)-1], &yaml.Node{Kind: yaml.SequenceNode})
	case flow && n+1 < len(list.Content):
		return w.splice(w.start(list.Content[n]), w.start(list.Content[n+1]), ""), nil
	case flow:
		return w.splice(w.end(list.Content[n-1]), w.end(list.Content[n]), ""), nil
	}
	start, end, err := w.lines(list, n)
	return w.splice(start, end, ""), err
}

// removeKey takes the key at a place of a mapping's content, and its value, out.
func (w *written) removeKey(parent *yaml.Node, n int, flow bool) (string, error) {
	key, value := parent.Content[n], parent.Content[n+1]
	first := strings.TrimSpace(w.text()[w.startOfLine(w.start(key)):w.start(key)]) == ""
	switch {
	case len(parent.Content) == 2:
		return "", errors.New("it is the only key there")
	case !flow && first:
		return w.splice(w.startOfLine(w.start(key)), w.afterLine(max(w.end(value), w.behindColon(key))), ""), nil
	case n+2 < len(parent.Content): // brackets, or the line of a dash: the next key comes into its place
		return w.splice(w.start(key), w.start(parent.Content[n+2]), ""), nil
	case flow:
		return w.splice(w.end(w.orKey(parent, parent.Content[n-1])), w.end(value), ""), nil
	}
	return "", errOtherwise
}

// Duplicate puts a copy of an item of a list behind it, as it is written, without the comments above it.
func Duplicate(text, at string) (string, error) {
	w, err := readWritten(text)
	if err != nil {
		return "", err
	}
	nodes, err := w.trail(strings.Split(at, "/"))
	if err != nil {
		return "", err
	}
	list, item := nodes[len(nodes)-2], nodes[len(nodes)-1]
	if list.Kind != yaml.SequenceNode || inFlow(nodes[:len(nodes)-1]) {
		return "", errOtherwise
	}
	dash, err := w.dash(item)
	if err != nil {
		return "", err
	}
	return w.newLine(w.end(item), strings.TrimSuffix(text[w.startOfLine(dash):w.afterLine(w.end(item))], "\n")), nil
}

// move brings an item of a list to another number.
func (w *written) move(path []string, to int) (string, error) {
	nodes, err := w.trail(path)
	if err != nil || len(nodes) < 2 {
		return "", err
	}
	list := nodes[len(nodes)-2]
	from := slices.Index(list.Content, nodes[len(nodes)-1])
	switch {
	case list.Kind != yaml.SequenceNode || to < 0 || to >= len(list.Content):
		return "", fmt.Errorf("there is no place %d to move it to", to)
	case from == to:
		return w.text(), nil
	case inFlow(nodes[:len(nodes)-1]):
		return w.moveInBrackets(list, from, to), nil
	}
	start, end, err := w.lines(list, from)
	if err != nil {
		return "", err
	}
	there, behind, err := w.lines(list, to)
	if err != nil {
		return "", err
	}
	lines := strings.TrimSuffix(w.text()[start:end], "\n") + "\n"
	if to < from {
		return w.text()[:there] + lines + w.text()[there:start] + w.text()[end:], nil
	}
	between := w.text()[end:behind]
	if !strings.HasSuffix(between, "\n") {
		between += "\n"
	}
	return w.text()[:start] + between + lines + w.text()[behind:], nil
}

func (w *written) moveInBrackets(list *yaml.Node, from, to int) string {
	texts := make([]string, len(list.Content))
	for i, item := range list.Content {
		texts[i] = w.text()[w.start(item):w.end(item)]
	}
	item := texts[from]
	texts = slices.Insert(slices.Delete(texts, from, from+1), to, item)
	out, last := "", 0
	for i, item := range list.Content {
		out += w.text()[last:w.start(item)] + texts[i]
		last = w.end(item)
	}
	return out + w.text()[last:]
}

var number = regexp.MustCompile(`^\d+$`)

// kindOf is a path with its numbers left out: scenarios/#/steps/#.
func kindOf(path []string) string {
	words := slices.Clone(path)
	for i, word := range words {
		if number.MatchString(word) {
			words[i] = "#"
		}
	}
	return strings.Join(words, "/")
}

// KeysOf is the order in which keys are written at a place such as scenarios/0/steps/2.
func KeysOf(place string) []string { return keyOrder[kindOf(strings.Split(place, "/"))] }

// keyOrder says at each kind of place in which order keys are written.
var keyOrder = func() map[string][]string {
	point := []string{"name", "at", "device", "contact", "type", "unit", "initial", "label", "place"}
	return map[string][]string{
		"": {"format", "name", "title", "topic", "kind", "period", "languages", "reasons", "panel", "graded", "scenarios", "rules",
			"tasks"},
		"panel":                {"picture", "inputs", "outputs"},
		"panel/inputs/#":       point,
		"panel/outputs/#":      point,
		"graded/#":             {"signal", "block", "member", "weight", "slack", "drift", "within"},
		"scenarios/#":          {"name", "points", "shown", "predict", "by_hand", "for", "ignore", "steps", "script", "expect"},
		"scenarios/#/ignore/#": {"from", "to"},
		"scenarios/#/expect/#": {"signal", "from", "to", "is", "rises", "falls"},
		"scenarios/#/expect":   {"table", "erratic"},
		"scenarios/#/steps/#":  slices.Concat([]string{"at"}, block.Verbs(), []string{"for", "every", "times"}),
		"rules/#":              {"require", "forbid", "warning", "chatter", "at_least", "at_most", "deduct", "say"},
		"tasks/#":              {"program", "every", "priority", "once"},
	}
}()
