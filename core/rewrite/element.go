package rewrite

import (
	"errors"
	"slices"
	"strings"

	"celandine/core/say"
	"celandine/core/source"
	"celandine/core/syntax"
)

// Put puts elements, given as the ladder notation has them, in the place of so many that stand there.
func (p *Program) Put(at Place, count int, notation string) (Change, error) {
	elements, err := read(notation)
	if err != nil {
		return Change{}, err
	}
	return p.alter(at, func(s *syntax.Series, n int) ([]int, error) {
		if n+count > len(s.Elements) || count < 0 {
			return nil, errGone
		}
		s.Elements = slices.Replace(s.Elements, n, n+count, elements...)
		return at.Path, nil
	})
}

// Branch opens a branch below so many elements. Below a parallel it is one branch more.
func (p *Program) Branch(at Place, count int) (Change, error) {
	return p.alter(at, func(s *syntax.Series, n int) ([]int, error) {
		if n+count > len(s.Elements) || count < 0 {
			return nil, errGone
		}
		if around, ok := one(s.Elements[n : n+count]).(*syntax.Parallel); ok {
			around.Branches = append(around.Branches, &syntax.Series{})
			return append(slices.Clone(at.Path), len(around.Branches)-1, 0), nil
		}
		above := &syntax.Series{Elements: slices.Clone(s.Elements[n : n+count])}
		s.Elements = slices.Replace(s.Elements, n, n+count, syntax.Element(&syntax.Parallel{Branches: []*syntax.Series{above, {}}}))
		return append(slices.Clone(at.Path), 1, 0), nil
	})
}

// BranchBelow opens a branch below the one in which a place is.
func (p *Program) BranchBelow(at Place) (Change, error) {
	if len(at.Path) < 3 {
		return p.Branch(at, 1)
	}
	outer := Place{at.Unit, at.Rung, at.Path[:len(at.Path)-2]}
	return p.alter(outer, func(s *syntax.Series, n int) ([]int, error) {
		if n >= len(s.Elements) {
			return nil, errGone
		}
		around, ok := s.Elements[n].(*syntax.Parallel)
		below := at.Path[len(at.Path)-2] + 1
		if !ok || below > len(around.Branches) {
			return nil, errGone
		}
		around.Branches = slices.Insert(around.Branches, below, &syntax.Series{})
		return append(slices.Clone(outer.Path), below, 0), nil
	})
}

// Remove takes so many elements out; at the end of an empty branch it takes the branch. A parallel of one branch is none.
func (p *Program) Remove(at Place, count int) (Change, error) {
	_, r, err := p.rung(at)
	if err != nil {
		return Change{}, err
	}
	s, n, err := locate(r.Net, at.Path)
	if err != nil {
		return Change{}, err
	}
	if n < len(s.Elements) || len(s.Elements) > 0 || len(at.Path) < 3 {
		return p.Put(at, min(max(count, 1), len(s.Elements)-n), "")
	}
	outer := Place{at.Unit, at.Rung, at.Path[:len(at.Path)-2]}
	return p.alter(outer, func(s *syntax.Series, n int) ([]int, error) {
		around := s.Elements[n].(*syntax.Parallel)
		branch := at.Path[len(at.Path)-2]
		around.Branches = slices.Delete(around.Branches, branch, branch+1)
		if len(around.Branches) == 1 {
			s.Elements = slices.Replace(s.Elements, n, n+1, around.Branches[0].Elements...)
			return outer.Path, nil
		}
		return append(slices.Clone(outer.Path), max(branch-1, 0), 0), nil
	})
}

// Elements returns so many elements as text, to be put somewhere else.
func (p *Program) Elements(at Place, count int) (string, error) {
	_, r, err := p.rung(at)
	if err != nil {
		return "", err
	}
	s, n, err := locate(r.Net, at.Path)
	if err != nil {
		return "", err
	}
	if n+count > len(s.Elements) || count < 0 {
		return "", errGone
	}
	return syntax.PrintElements(s.Elements[n : n+count]), nil
}

// alter changes the tree of a rung and writes the rung anew. change returns the path at which to go on.
func (p *Program) alter(at Place, change func(s *syntax.Series, n int) ([]int, error)) (Change, error) {
	_, r, err := p.rung(at)
	if err != nil {
		return Change{}, err
	}
	s, n, err := locate(r.Net, at.Path)
	if err != nil {
		return Change{}, err
	}
	path, err := change(s, n)
	if err != nil {
		return Change{}, err
	}
	return Change{p.rewritten(r), Place{at.Unit, at.Rung, path}}, nil
}

// rewritten writes one rung anew. Comments inside it come to stand above it.
func (p *Program) rewritten(r *syntax.Rung) string {
	var above strings.Builder
	for _, c := range p.tree.Comments {
		if c.Span.Start > r.Span.Start && c.Span.End <= r.Span.End {
			above.WriteString(c.Text + "\n")
		}
	}
	text := strings.TrimSuffix(syntax.PrintRung(r), "\n")
	return p.splice(r.Span.Start, p.endOfRung(r), above.String()+text)
}

// endOfRung returns the place behind a rung's semicolon.
func (p *Program) endOfRung(r *syntax.Rung) int {
	if rest := strings.TrimLeft(p.file.Text[r.Span.End:], " \t\r\n"); strings.HasPrefix(rest, ";") {
		return len(p.file.Text) - len(rest) + 1
	}
	return r.Span.End
}

var errGone = errors.New("there is nothing at this place any more")

func one(elements []syntax.Element) syntax.Element {
	if len(elements) != 1 {
		return nil
	}
	return elements[0]
}

// locate walks a path to its series; n is the number in it, which may be one beyond the last.
func locate(s *syntax.Series, path []int) (*syntax.Series, int, error) {
	for len(path) > 2 {
		if path[0] < 0 || path[0] >= len(s.Elements) {
			return nil, 0, errGone
		}
		around, ok := s.Elements[path[0]].(*syntax.Parallel)
		if !ok || path[1] < 0 || path[1] >= len(around.Branches) {
			return nil, 0, errGone
		}
		s, path = around.Branches[path[1]], path[2:]
	}
	if len(path) != 1 || path[0] < 0 || path[0] > len(s.Elements) {
		return nil, 0, errGone
	}
	return s, path[0], nil
}

// read parses elements on their own.
func read(notation string) ([]syntax.Element, error) {
	tree, problems := syntax.Parse(source.NewFile("elements", "PROGRAM p LADDER RUNG "+notation+"\n; END_LADDER END_PROGRAM"))
	if len(problems) > 0 {
		d := problems[0]
		return nil, say.Errorf("%s", strings.TrimSpace(d.Message+" "+d.Hint))
	}
	body, ok := tree.Units[0].Body.(*syntax.Ladder)
	if !ok || len(tree.Units) != 1 || len(body.Rungs) != 1 || body.Rungs[0].Title != "" || len(tree.Comments) > 0 {
		return nil, errors.New("only elements of one rung can stand here")
	}
	return body.Rungs[0].Net.Elements, nil
}
