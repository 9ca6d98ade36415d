package api

import (
	"context"
	"errors"
	"net/http"
	"slices"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/service/store"
)

// OfAssignment is the path of an operation on a class's exercise.
type OfAssignment struct {
	OfClass
	Name string `path:"name" maxLength:"100" example:"mist-hold-in" doc:"The exercise's name."`
}

func (s *service) assignments(api huma.API) {
	tags := []string{"assignments"}
	huma.Register(api, huma.Operation{OperationID: "listAssignments", Method: http.MethodGet, Path: "/api/classes/{class}/assignments",
		Summary: "List a class's exercises with their terms", Tags: tags}, s.listAssignments)
	huma.Register(api, huma.Operation{OperationID: "changeAssignment", Method: http.MethodPut, Path: "/api/classes/{class}/assignments/{name}",
		Summary: "Change an assignment's terms", Tags: tags}, s.changeAssignment)
	huma.Register(api, huma.Operation{OperationID: "takeExercises", Method: http.MethodPost, Path: "/api/classes/{class}/assignments",
		Summary: "Let a class work on exercises of another that one teaches, all of them or none", Tags: tags}, s.takeExercises)
	huma.Register(api, huma.Operation{OperationID: "start", Method: http.MethodPost, Path: "/api/exercises/{name}/start",
		Summary: "Begin a timed exercise; beginning again changes nothing", Tags: tags}, s.start)
}

func asAssignment(a store.Assignment) client.Assignment {
	return client.Assignment{Name: a.Exercise, Title: a.Revision.Title, Points: number(a.Revision.Points), Revision: a.Revision.Number,
		Terms: a.Terms}
}

func (s *service) listAssignments(ctx context.Context, in *OfClass) (*body[[]client.Assignment], error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.AllAssignments(ctx, h.Class.ID)
	return listed(s, list, err, asAssignment)
}

func (s *service) changeAssignment(ctx context.Context, in *struct {
	OfAssignment
	Body client.Terms
}) (*body[client.Assignment], error) {
	h, a, err := s.assignment(ctx, in.OfAssignment)
	if err != nil {
		return nil, err
	}
	if problem := amiss(in.Body); problem != "" {
		return nil, coded(http.StatusUnprocessableEntity, "terms", problem)
	}
	a.Terms = in.Body
	return &body[client.Assignment]{asAssignment(a)}, s.told(s.Store.ChangeAssignment(ctx, h.ID, a), "")
}

func (s *service) takeExercises(ctx context.Context, in *struct {
	OfClass
	Body client.Taking
}) (*body[[]client.Assignment], error) {
	to, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return nil, err
	}
	from, err := s.in(ctx, in.Body.From, teacher)
	if err != nil {
		return nil, err
	}
	names := slices.Clone(in.Body.Exercises)
	slices.Sort(names)
	err = s.Store.Take(ctx, to.ID, from.Class.ID, to.Class.ID, slices.Compact(names))
	if errors.Is(err, store.ErrTaken) {
		return nil, coded(http.StatusConflict, "assigned", "The class has one of these exercises already. Nothing was changed.")
	}
	if err != nil {
		return nil, s.told(err, "%s has not all of these exercises. Nothing was changed.", from.Class.Name)
	}
	return s.listAssignments(ctx, &in.OfClass)
}

// assignment finds an exercise of a class that one teaches.
func (s *service) assignment(ctx context.Context, in OfAssignment) (here, store.Assignment, error) {
	h, err := s.in(ctx, in.ID, teacher)
	if err != nil {
		return h, store.Assignment{}, err
	}
	a, err := s.Store.AnyAssignment(ctx, h.Class.ID, in.Name)
	return h, a, s.told(err, "There is no exercise named %s in this class.", in.Name)
}

// amiss tells what in the terms contradicts itself.
func amiss(t client.Terms) string {
	switch {
	case t.Due != nil && t.Opens != nil && !t.Due.After(*t.Opens):
		return "It is due before it opens."
	case t.Late != client.LateNone && t.Due == nil:
		return "A rule for late hand-ins needs a due time."
	case t.Late == client.LateUntil && t.LateUntil == nil:
		return "Say until when late hand-ins are taken."
	case t.LateUntil != nil && t.Late == client.LateNone:
		return "A time for late hand-ins needs a rule for them: until, or percent."
	case t.LateUntil != nil && !t.LateUntil.After(*t.Due):
		return "Late hand-ins end before the exercise is due."
	case t.Late == client.LatePercent && t.LatePercent == 0:
		return "Say how many percent a late day costs."
	}
	return ""
}

func (s *service) start(ctx context.Context, in *Named) (*body[client.Summary], error) {
	h, a, err := s.assigned(ctx, *in)
	if err != nil {
		return nil, err
	}
	if a.Minutes == 0 {
		return nil, coded(http.StatusConflict, "not-timed", "This exercise is not timed; just begin.")
	}
	begun, err := s.Store.Begin(ctx, a.ID, h.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	attempts, err := s.Store.Attempts(ctx, h.Class, h.ID, a.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	return &body[client.Summary]{summary(h, a, standings(h.Class, []store.Assignment{a}, attempts)[place{a.ID, h.ID}], &begun)}, nil
}
