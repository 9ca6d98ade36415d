package api

import (
	"context"
	"encoding/json"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/service/jobs"
)

func (s *service) keys(api huma.API) {
	huma.Register(api, huma.Operation{OperationID: "getKey", Method: http.MethodGet, Path: "/api/exercises/{name}/key",
		Summary: "Read an exercise's solutions, and what every scenario does with the first of them", Tags: []string{"exercises"}}, s.getKey)
}

// getKey shows an instructor what learners do not see: the solutions, every scenario's script, what is expected in it.
func (s *service) getKey(ctx context.Context, in *Named) (*body[client.Key], error) {
	if _, err := s.in(ctx, in.Class, teacher); err != nil {
		return nil, err
	}
	_, a, err := s.assigned(ctx, *in)
	if err != nil {
		return nil, err
	}
	g, err := s.Graders.Of(ctx, a.RevisionID)
	if err != nil {
		return nil, s.told(err, "")
	}
	out := client.Key{Revision: a.Revision.Number, Solutions: []client.Solution{}}
	for _, one := range g.Exercise.Solutions {
		out.Solutions = append(out.Solutions, client.Solution{File: one.Name, Language: one.Language(), Text: one.Text})
	}
	out.Result, out.Evidence, err = s.solved(ctx, g)
	return &body[client.Key]{out}, s.told(err, "")
}

// solved marks the first solution as if it had been handed in.
func (s *service) solved(ctx context.Context, g *grade.Grader) (result, evidence json.RawMessage, err error) {
	select {
	case s.recalls <- struct{}{}:
		defer func() { <-s.recalls }()
	case <-ctx.Done():
		return nil, nil, ctx.Err()
	}
	g = g.Programs()
	first := g.Exercise.Solutions[0]
	h := g.Read(first.Name, []*source.File{source.NewFile(first.Name, first.Text)})
	if err := h.Play(jobs.Limited(ctx, mostRecalled), grade.Every); err != nil {
		return nil, nil, err
	}
	h.Mark()
	if result, err = json.Marshal(h.Result); err != nil {
		return nil, nil, err
	}
	evidence, err = json.Marshal(h.Evidence)
	return result, evidence, err
}
