package api

import (
	"context"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/service/store"
)

func (s *service) marks(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "marks", Method: http.MethodGet, Path: "/api/marks", Summary: "Best marks: the class's for an instructor, one's own for a learner", Tags: []string{"marks"}}, s.getMarks)
}

func (s *service) getMarks(ctx context.Context, _ *struct{}) (*body[client.Marks], error) {
	p, class, err := s.asker(ctx)
	if err != nil {
		return nil, err
	}
	people, only := []store.Person{p}, p.ID
	if p.Role == store.Instructor {
		only = 0
		if people, err = s.Store.Learners(ctx, class.ID); err != nil {
			return nil, s.told(err, "")
		}
	}
	assignments, err := s.Store.Assignments(ctx, class.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	bests, err := s.Store.Bests(ctx, class.ID, only)
	if err != nil {
		return nil, s.told(err, "")
	}
	return &body[client.Marks]{grid(class.Name, people, assignments, bests)}, nil
}

func grid(class string, people []store.Person, assignments []store.Assignment, bests []store.Best) client.Marks {
	type cell struct{ assignment, person int64 }
	found := map[cell]store.Best{}
	for _, b := range bests {
		found[cell{b.AssignmentID, b.PersonID}] = b
	}
	out := client.Marks{Class: class, Exercises: []client.Summary{}, Rows: []client.MarkRow{}}
	for _, a := range assignments {
		out.Exercises = append(out.Exercises, summary(a, nil))
	}
	for _, p := range people {
		row := client.MarkRow{Person: asPerson(p, ""), Marks: []client.Mark{}}
		for _, a := range assignments {
			b := found[cell{a.ID, p.ID}]
			m := client.Mark{Handins: b.Handins, Handin: b.HandinID}
			if b.Graded > 0 {
				earned := number(b.Earned)
				m.Earned = &earned
			}
			row.Marks = append(row.Marks, m)
		}
		out.Rows = append(out.Rows, row)
	}
	return out
}
