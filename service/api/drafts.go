package api

import (
	"context"
	"errors"
	"net/http"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/core/syntax"
	"celandine/service/store"
)

func (s *service) drafts(api huma.API) {
	tags := []string{"exercises"}
	huma.Register(api, huma.Operation{OperationID: "listDrafts", Method: http.MethodGet, Path: "/api/exercises/{name}/drafts",
		Summary: "Read one's own drafts for an exercise", Tags: tags}, s.listDrafts)
	huma.Register(api, huma.Operation{OperationID: "saveDraft", Method: http.MethodPut, Path: "/api/exercises/{name}/drafts/{language}",
		Summary: "Save one's own draft over the version one knows", Tags: tags, MaxBodyBytes: 2 << 20}, s.saveDraft)
}

func (s *service) listDrafts(ctx context.Context, in *Named) (*body[[]client.Draft], error) {
	p, a, _, err := s.opened(ctx, *in)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Drafts(ctx, a.ID, p.ID)
	return listed(s, list, err, asDraft)
}

func asDraft(d store.Draft) client.Draft {
	return client.Draft{Language: d.Language, Text: d.Text, Version: d.Version, Saved: d.SavedAt}
}

type saving struct {
	Named
	Language string `path:"language" enum:"ladder,fbd,st,trace" example:"ladder"`
	Body     client.DraftText
}

func (s *service) saveDraft(ctx context.Context, in *saving) (*body[client.Draft], error) {
	p, a, _, err := s.opened(ctx, in.Named)
	if err != nil {
		return nil, err
	}
	if len(in.Body.Text) > syntax.MaxSize {
		return nil, tooLarge()
	}
	d, err := s.Store.SaveDraft(ctx, store.Draft{AssignmentID: a.ID, PersonID: p.ID, Language: in.Language, Text: in.Body.Text,
		Version: in.Body.Version})
	if errors.Is(err, store.ErrNewer) {
		return nil, huma.Error409Conflict("This draft was changed from elsewhere. Read it, then choose.")
	}
	if err != nil {
		return nil, s.told(err, "")
	}
	return &body[client.Draft]{asDraft(d)}, nil
}
