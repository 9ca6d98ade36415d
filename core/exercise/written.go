package exercise

import (
	"errors"
	"fmt"
	"slices"
	"strconv"
	"strings"

	"go.yaml.in/yaml/v3"

	"celandine/core/source"
)

// written is an exercise.yaml with its tree: it knows where in the text each node begins and ends.
type written struct {
	file *source.File
	root *yaml.Node
}

// errOtherwise tells of a text that is legal, but that nothing here knows how to change.
var errOtherwise = errors.New("this place of exercise.yaml is written in a way that can only be changed by hand")

func readWritten(text string) (*written, error) {
	r := &reader{files: Files{}, file: source.NewFile(yamlName, text)}
	root, ok := r.parse(yamlName, []byte(text))
	if !ok {
		return nil, fmt.Errorf("%s", r.problems[0])
	}
	return &written{r.file, root}, nil
}

func (w *written) text() string { return w.file.Text }

func (w *written) start(n *yaml.Node) int { return w.file.Offset(n.Line, n.Column) }

// end is where the text of a node ends: behind its last letter, bracket or item.
func (w *written) end(n *yaml.Node) int {
	switch {
	case n.Kind == yaml.ScalarNode:
		return w.endOfScalar(n)
	case n.Style&yaml.FlowStyle != 0:
		return w.endOfBrackets(w.start(n))
	case len(n.Content) == 0:
		return w.start(n)
	}
	last := n.Content[len(n.Content)-1]
	if w.start(last) == w.end(last) && n.Kind == yaml.MappingNode { // key: and nothing
		return w.behindColon(n.Content[len(n.Content)-2])
	}
	return w.end(last)
}

// behindColon is where the value of a key may begin.
func (w *written) behindColon(key *yaml.Node) int {
	at := w.end(key)
	return at + strings.IndexByte(w.text()[at:], ':') + 1
}

func (w *written) endOfScalar(n *yaml.Node) int {
	start, text := w.start(n), w.text()
	switch {
	case n.Style&(yaml.DoubleQuotedStyle|yaml.SingleQuotedStyle) != 0:
		return w.endOfQuoted(start)
	case n.Style&(yaml.LiteralStyle|yaml.FoldedStyle) != 0:
		return w.endOfBlockText(start)
	case strings.HasPrefix(text[start:], n.Value):
		return start + len(n.Value)
	}
	// A plain text over several lines: each break of its words stands for any white space.
	at := start
	for _, word := range strings.Fields(n.Value) {
		for at < len(text) && strings.ContainsRune(" \t\r\n", rune(text[at])) {
			at++
		}
		if !strings.HasPrefix(text[at:], word) {
			return start
		}
		at += len(word)
	}
	return at
}

// endOfQuoted is behind the quotation mark that ends what begins with one.
func (w *written) endOfQuoted(start int) int {
	text := w.text()
	mark := text[start]
	for at := start + 1; at < len(text); at++ {
		switch {
		case text[at] == '\\' && mark == '"':
			at++
		case text[at] == mark && mark == '\'' && at+1 < len(text) && text[at+1] == mark:
			at++
		case text[at] == mark:
			return at + 1
		}
	}
	return len(text)
}

// endOfBlockText is behind the last line of a text that | or > begins.
func (w *written) endOfBlockText(start int) int {
	end := w.endOfLine(start)
	indent := -1
	for at := end + 1; at < len(w.text()); at = w.endOfLine(at) + 1 {
		line := w.text()[at:w.endOfLine(at)]
		blank := len(line) - len(strings.TrimLeft(line, " "))
		switch {
		case strings.TrimSpace(line) == "":
			continue
		case indent < 0:
			indent = blank
		}
		if blank < indent || blank == 0 {
			break
		}
		end = w.endOfLine(at)
	}
	return end
}

// endOfBrackets is behind the bracket that closes the one at start.
func (w *written) endOfBrackets(start int) int {
	text, depth, begins := w.text(), 0, true
	for at := start; at < len(text); at++ {
		switch c := text[at]; {
		case (c == '"' || c == '\'') && begins:
			at = w.endOfQuoted(at) - 1
		case c == '#' && at > 0 && strings.IndexByte(" \t\n", text[at-1]) >= 0:
			at = w.endOfLine(at) - 1
			continue
		case c == '[' || c == '{':
			depth++
		case c == ']' || c == '}':
			if depth--; depth == 0 {
				return at + 1
			}
		}
		if strings.IndexByte(" \t\r\n", text[at]) < 0 {
			begins = strings.IndexByte("[{,:", text[at]) >= 0
		}
	}
	return len(text)
}

func (w *written) startOfLine(at int) int { return strings.LastIndexByte(w.text()[:at], '\n') + 1 }

// endOfLine is at the line feed, or the end of the text.
func (w *written) endOfLine(at int) int {
	if n := strings.IndexByte(w.text()[at:], '\n'); n >= 0 {
		return at + n
	}
	return len(w.text())
}

// afterLine is where the next line begins.
func (w *written) afterLine(at int) int { return min(w.endOfLine(at)+1, len(w.text())) }

// indent is how far a place is from the start of its line.
func (w *written) indent(at int) int { return at - w.startOfLine(at) }

// lines is a node of a block list, from the comments that stand above it to the end of its last line.
func (w *written) lines(list *yaml.Node, n int) (start, end int, err error) {
	dash, err := w.dash(list.Content[n])
	if err != nil {
		return 0, 0, err
	}
	start, end = w.startOfLine(dash), w.afterLine(w.end(list.Content[n]))
	for start > 0 {
		above := w.startOfLine(start - 1)
		line := w.text()[above : start-1]
		if !strings.HasPrefix(strings.TrimLeft(line, " "), "#") || len(line)-len(strings.TrimLeft(line, " ")) != w.indent(dash) {
			break
		}
		start = above
	}
	return start, end, nil
}

// dash is where the dash of a block list's item stands.
func (w *written) dash(item *yaml.Node) (int, error) {
	at := strings.LastIndexByte(w.text()[:w.start(item)], '-')
	if at < 0 || strings.TrimSpace(w.text()[at+1:w.start(item)]) != "" || strings.TrimSpace(w.text()[w.startOfLine(at):at]) != "" {
		return 0, errOtherwise
	}
	return at, nil
}

// splice returns the text with a stretch of it replaced.
func (w *written) splice(start, end int, with string) string {
	return w.text()[:start] + with + w.text()[end:]
}

// trail is the way to a node: itself last, the document's root first.
func (w *written) trail(path []string) (nodes []*yaml.Node, err error) {
	nodes = []*yaml.Node{w.root}
	for i, step := range path {
		next := child(nodes[i], step)
		if next == nil {
			return nodes, fmt.Errorf("exercise.yaml has nothing at %s", strings.Join(path[:i+1], "/"))
		}
		nodes = append(nodes, next)
	}
	return nodes, nil
}

// child is the value of a key, or the item of a number.
func child(n *yaml.Node, step string) *yaml.Node {
	switch n.Kind {
	case yaml.MappingNode:
		if at := keyAt(n, step); at >= 0 {
			return n.Content[at+1]
		}
	case yaml.SequenceNode:
		if i, err := strconv.Atoi(step); err == nil && i >= 0 && i < len(n.Content) {
			return n.Content[i]
		}
	}
	return nil
}

// keyAt is where in a mapping's content a key stands, or -1.
func keyAt(n *yaml.Node, key string) int {
	for i := 0; i+1 < len(n.Content); i += 2 {
		if n.Content[i].Value == key {
			return i
		}
	}
	return -1
}

// inFlow tells whether one of the nodes is written in brackets.
func inFlow(nodes []*yaml.Node) bool {
	return slices.ContainsFunc(nodes, func(n *yaml.Node) bool { return n.Style&yaml.FlowStyle != 0 })
}
