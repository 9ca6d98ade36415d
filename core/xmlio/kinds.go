package xmlio

import "strings"

// kindOf is the type of what comes out of an outlet, as far as the declarations tell.
func (g *grapher) kindOf(out *outlet) string {
	if kind := g.kindFrom(out, map[*object]bool{}); kind != "" {
		return kind
	}
	g.wrong(out.of.at, "Lead it to a variable first.", "of what type the result of %s is cannot be told.", out.of.called())
	return "BOOL"
}

// results are the types of what those functions give whose inputs do not tell.
var results = map[string]string{"GT": "BOOL", "GE": "BOOL", "EQ": "BOOL", "LE": "BOOL", "LT": "BOOL", "NE": "BOOL", "LEN": "INT",
	"FIND": "INT", "TRUNC": "DINT", "LEFT": "STRING", "RIGHT": "STRING", "MID": "STRING", "CONCAT": "STRING", "INSERT": "STRING", "DELETE": "STRING",
	"REPLACE": "STRING"}

func (g *grapher) kindFrom(out *outlet, seen map[*object]bool) string {
	o := out.of
	switch {
	case o.kind == sourceKind:
		return g.unit.types[strings.ToLower(o.operand)]
	case o.kind != boxKind || g.isENO(out):
		return "BOOL"
	}
	if u := g.called(o.heading); u != nil {
		if p := u.find(u.outputs, out.name); p != nil {
			return p.kind
		}
		return u.result
	}
	name := strings.ToUpper(o.heading)
	if _, to, ok := strings.Cut(name, "_TO_"); ok {
		return to
	}
	if kind := results[name]; kind != "" || seen[o] {
		return kind
	}
	seen[o] = true
	for _, in := range o.ins {
		switch strings.ToUpper(in.name) {
		case "EN", "G", "K":
			continue
		}
		for _, from := range in.from {
			if kind := g.kindFrom(from, seen); kind != "" {
				return kind
			}
		}
	}
	return ""
}
