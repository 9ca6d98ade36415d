package api

import (
	"context"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/service/store"
)

// stuck lets administrators see and free hand-ins that wait for a mark that nobody works on.
func (s *service) stuck(api huma.API) {
	tags := []string{"hand-ins"}
	huma.Register(api, huma.Operation{OperationID: "listStuck", Method: http.MethodGet, Path: "/api/stuck",
		Summary: "List hand-ins that wait for a mark that nobody works on (administrators)", Tags: tags},
		func(ctx context.Context, _ *struct{}) (*body[[]client.Stuck], error) {
			list, err := s.findStuck(ctx)
			if err != nil {
				return nil, err
			}
			return listed(s, list, nil, func(st store.Stuck) client.Stuck {
				return client.Stuck{ID: st.ID, Exercise: st.Exercise, Class: st.Class, Login: st.Login, HandedIn: st.Since}
			})
		})
	huma.Register(api, huma.Operation{OperationID: "requeueStuck", Method: http.MethodPost, Path: "/api/stuck",
		Summary: "Queue stuck hand-ins again (administrators)", Tags: tags},
		func(ctx context.Context, _ *struct{}) (*body[client.Requeued], error) {
			list, err := s.findStuck(ctx)
			if err != nil || len(list) == 0 {
				return &body[client.Requeued]{}, err
			}
			var ids []int64
			for _, one := range list {
				ids = append(ids, one.ID)
			}
			n, err := s.Store.Requeue(ctx, ids)
			return &body[client.Requeued]{client.Requeued{Queued: n}}, s.told(err, "")
		})
}

// How long a hand-in may be without a job, and how many are told of at once.
const (
	stuckAfter = 5 * time.Second
	mostStuck  = 1_000
)

func (s *service) findStuck(ctx context.Context) ([]store.Stuck, error) {
	if _, err := s.govern(ctx); err != nil {
		return nil, err
	}
	list, err := s.Store.Stuck(ctx, stuckAfter, true, mostStuck)
	return list, s.told(err, "")
}
