package rewrite

import "celandine/core/say"

// A Do is the kind of a change.
type Do string

// Dos lists the kinds of change.
func Dos() []string {
	return []string{"put", "branch", "branch below", "remove", "insert rung", "remove rung", "move rung", "title", "comment", "connect",
		"invert", "insert", "more", "take", "node", "target", "wire", "enable", "enable out", "declare", "redeclare", "undeclare", "rename"}
}

// A Step is one change, as an editor asks for it. Which fields count depends on what is done.
type Step struct {
	Do       Do       `json:"do"`
	At       Place    `json:"at,omitzero"`
	From     Place    `json:"from,omitzero"`   // of a wire
	Count    int      `json:"count,omitempty"` // elements, or inputs of a function
	Text     string   `json:"text,omitempty"`  // elements, a rung, a title, a comment, a name, a pin's value, a node, a function, an output
	To       int      `json:"to,omitempty"`    // a rung's new number
	Offset   int      `json:"offset,omitempty"`
	Variable Variable `json:"variable,omitzero"`
}

// Apply makes changes one after the other; with an error it makes none. The place is the last that an element or rung was changed at.
func (p *Program) Apply(steps []Step) (Change, error) {
	out := Change{Text: p.file.Text}
	for n, s := range steps {
		if n > 0 {
			p = Read(out.Text)
		}
		change, err := p.apply(s)
		if err != nil {
			return Change{}, err
		}
		if change.At.Path == nil {
			change.At = out.At
		}
		out = change
	}
	return out, nil
}

func (p *Program) apply(s Step) (Change, error) {
	switch s.Do {
	case "put":
		return p.Put(s.At, s.Count, s.Text)
	case "branch":
		return p.Branch(s.At, s.Count)
	case "branch below":
		return p.BranchBelow(s.At)
	case "remove":
		return p.Remove(s.At, s.Count)
	case "insert rung":
		return p.InsertRung(s.At, s.Text)
	case "remove rung":
		return p.RemoveRung(s.At)
	case "move rung":
		return p.MoveRung(s.At, s.To)
	case "title":
		return p.Title(s.At, s.Text)
	case "comment":
		return p.Comment(s.At, s.Text)
	case "connect":
		return p.Connect(s.At, s.Text)
	case "invert":
		return p.Invert(s.At)
	case "insert":
		return p.Insert(s.At, s.Text, s.Count)
	case "more":
		return p.More(s.At)
	case "take":
		return p.Take(s.At)
	case "node":
		return p.Node(s.At, s.Text)
	case "target":
		return p.Target(s.At, s.Text)
	case "wire":
		return p.Wire(s.From, s.Text, s.At)
	case "enable":
		return p.Enable(s.At)
	case "enable out":
		return p.EnableOut(s.At, s.Text)
	case "declare":
		return p.Declare(s.At.Unit, s.Variable)
	case "redeclare":
		return p.Redeclare(s.At.Unit, s.Variable)
	case "undeclare":
		return p.Undeclare(s.At.Unit, s.Variable.Name)
	case "rename":
		return p.Rename(s.Offset, s.Text)
	}
	return Change{}, say.Errorf("an editor cannot %q", s.Do)
}
