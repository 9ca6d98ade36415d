package exercise

import (
	"bytes"
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"unicode"

	"go.yaml.in/yaml/v3"
)

// valueOf reads a value of an edit, with its keys in their order.
func valueOf(text json.RawMessage) (*yaml.Node, error) {
	if len(text) == 0 {
		return &yaml.Node{Kind: yaml.ScalarNode, Tag: "!!null"}, nil
	}
	d := json.NewDecoder(bytes.NewReader(text))
	d.UseNumber()
	n, err := nextValue(d)
	if err != nil {
		return nil, fmt.Errorf("reading the value: %w", err)
	}
	return n, nil
}

func nextValue(d *json.Decoder) (*yaml.Node, error) {
	token, err := d.Token()
	if err != nil {
		return nil, err
	}
	n := &yaml.Node{Kind: yaml.ScalarNode}
	switch token := token.(type) {
	case json.Delim:
		n.Kind = map[json.Delim]yaml.Kind{'{': yaml.MappingNode, '[': yaml.SequenceNode}[token]
		for d.More() {
			item, err := nextValue(d) // of a mapping keys and values take turns
			if err != nil {
				return nil, err
			}
			n.Content = append(n.Content, item)
		}
		_, err = d.Token()
	case nil:
		n.Tag = "!!null"
	default:
		n.Value = fmt.Sprint(token)
	}
	return n, err
}

// value is a value as it stands behind the colon of a key that is so far from the start of its line.
func (w *written) value(n *yaml.Node, path []string, indent int, flow bool) string {
	if !flow && blockStyle(n, path) {
		return "\n" + strings.Repeat(" ", indent+2) + w.render(n, path, indent+2, false)
	}
	return " " + w.render(n, path, indent, flow)
}

// blockStyle tells what is written over several lines: lists of anything but single values, scenarios, and what holds such.
func blockStyle(n *yaml.Node, path []string) bool {
	switch n.Kind {
	case yaml.SequenceNode:
		return slices.ContainsFunc(n.Content, func(item *yaml.Node) bool { return item.Kind != yaml.ScalarNode })
	case yaml.MappingNode:
		return kindOf(path) == "scenarios/#" || kindOf(path) == "panel" ||
			slices.ContainsFunc(n.Content, func(item *yaml.Node) bool { return item.Kind != yaml.ScalarNode && blockStyle(item, nil) })
	}
	return false
}

// render writes a value whose first letter is so far from the start of its line.
func (w *written) render(n *yaml.Node, path []string, indent int, flow bool) string {
	blockwise := !flow && blockStyle(n, path)
	var parts []string
	switch n.Kind {
	case yaml.SequenceNode:
		for _, item := range n.Content {
			parts = append(parts, w.item(item, append(slices.Clone(path), "0"), indent, blockwise))
		}
		if !blockwise {
			return "[" + strings.Join(parts, ", ") + "]"
		}
	case yaml.MappingNode:
		for i := 0; i+1 < len(n.Content); i += 2 {
			key := n.Content[i].Value
			parts = append(parts, plain(key, !blockwise, true)+":"+w.value(n.Content[i+1], append(slices.Clone(path), key), indent, !blockwise))
		}
		if !blockwise {
			return "{" + strings.Join(parts, ", ") + "}"
		}
	default:
		if n.Tag == "!!null" {
			return "null"
		}
		return plain(n.Value, flow, inWords(path))
	}
	return strings.Join(parts, "\n"+strings.Repeat(" ", indent))
}

func (w *written) item(n *yaml.Node, path []string, indent int, blockwise bool) string {
	if blockwise {
		return "- " + w.render(n, path, indent+2, false)
	}
	return w.render(n, path, indent, true)
}

// inWords tells of a place where a text is meant, even one that looks like a number.
func inWords(path []string) bool {
	return len(path) > 0 && slices.Contains([]string{"name", "title", "topic", "label", "unit", "say"}, path[len(path)-1])
}

// plain writes a single value without quotation marks where it can stand so.
func plain(text string, flow, words bool) string {
	if strings.ContainsFunc(text, func(r rune) bool { return !unicode.IsPrint(r) }) { // some of them are line breaks to YAML
		return quoted(text)
	}
	form, pairs := "a: %s\n", 1
	if flow {
		form, pairs = "{a: %s, b: 1}", 2
	}
	var n yaml.Node
	if err := yaml.Unmarshal(fmt.Appendf(nil, form, text), &n); err == nil && n.Kind == yaml.DocumentNode {
		if m := n.Content[0]; m.Kind == yaml.MappingNode && len(m.Content) == 2*pairs && reads(m.Content[1], text, words) {
			return text
		}
	}
	return quoted(text)
}

// reads tells whether a value that was read is the text that was meant: no comment or number in its place, nothing that is none.
func reads(v *yaml.Node, text string, words bool) bool {
	kind := v.Tag == "!!str" || !words && v.Tag != "!!null"
	return v.Kind == yaml.ScalarNode && v.Style == 0 && v.Value == text && text != "" && kind && v.LineComment == "" && v.Anchor == ""
}

// quoted writes a text in quotation marks, with what cannot be seen as its number.
func quoted(text string) string {
	var b strings.Builder
	b.WriteByte('"')
	for _, r := range text {
		switch {
		case r == '"' || r == '\\':
			b.WriteByte('\\')
			b.WriteRune(r)
		case unicode.IsPrint(r):
			b.WriteRune(r)
		default:
			fmt.Fprintf(&b, `\U%08X`, r)
		}
	}
	b.WriteByte('"')
	return b.String()
}
