package xmlio

import (
	"encoding/xml"
	"strconv"
	"strings"
)

// A tag is an element that is written.
type tag struct {
	name       string
	attributes []string // names and values in turns
	children   []*tag
	text       string
	verbatim   bool // the text stands as it is, within CDATA
}

// el makes an element. Attributes are names and values in turns; one without a value is left out.
func el(name string, attributes ...string) *tag {
	t := &tag{name: name}
	for i := 0; i+1 < len(attributes); i += 2 {
		if attributes[i+1] != "" {
			t.attributes = append(t.attributes, attributes[i], attributes[i+1])
		}
	}
	return t
}

func (t *tag) add(children ...*tag) *tag {
	for _, c := range children {
		if c != nil {
			t.children = append(t.children, c)
		}
	}
	return t
}

func (t *tag) words(text string) *tag {
	t.text = text
	return t
}

func escaped(text string) string {
	var out strings.Builder
	_ = xml.EscapeText(&out, []byte(text)) // a Builder takes all
	return out.String()
}

func (t *tag) write(out *strings.Builder, indent string) {
	out.WriteString(indent + "<" + t.name)
	for i := 0; i < len(t.attributes); i += 2 {
		out.WriteString(" " + t.attributes[i] + `="` + escaped(t.attributes[i+1]) + `"`)
	}
	switch {
	case t.verbatim:
		out.WriteString("><![CDATA[" + strings.ReplaceAll(t.text, "]]>", "]]]]><![CDATA[>") + "]]></" + t.name + ">\n")
	case t.text != "":
		out.WriteString(">" + escaped(t.text) + "</" + t.name + ">\n")
	case len(t.children) == 0:
		out.WriteString("/>\n")
	default:
		out.WriteString(">\n")
		for _, c := range t.children {
			c.write(out, indent+"  ")
		}
		out.WriteString(indent + "</" + t.name + ">\n")
	}
}

func digits(n int) string { return strconv.Itoa(n) }

func yes(is bool) string {
	if is {
		return "true"
	}
	return ""
}
