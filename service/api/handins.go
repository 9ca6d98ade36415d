package api

import (
	"context"
	"encoding/json"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/syntax"
	"celandine/service/store"
)

type numbered struct {
	ID int64 `path:"id" minimum:"1" example:"7" doc:"The hand-in's number in the service."`
}

func (s *service) handins(api huma.API) {
	tags := []string{"hand-ins"}
	huma.Register(api, huma.Operation{OperationID: "handIn", Method: http.MethodPost, Path: "/api/exercises/{name}/handins", Summary: "Hand a program in", Tags: tags, DefaultStatus: http.StatusCreated, MaxBodyBytes: 2 << 20}, s.handIn)
	huma.Register(api, huma.Operation{OperationID: "listHandins", Method: http.MethodGet, Path: "/api/exercises/{name}/handins", Summary: "List hand-ins: the class's for an instructor, one's own for a learner", Tags: tags}, s.listHandins)
	huma.Register(api, huma.Operation{OperationID: "getHandin", Method: http.MethodGet, Path: "/api/handins/{id}", Summary: "Read a hand-in and its mark", Tags: tags},
		func(ctx context.Context, in *numbered) (*body[client.Handin], error) {
			p, h, err := s.visible(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			out, err := s.wholeHandin(ctx, p, h)
			return &body[client.Handin]{out}, err
		})
	sse.Register(api, huma.Operation{OperationID: "watchHandin", Method: http.MethodGet, Path: "/api/handins/{id}/events", Summary: "Follow a hand-in until it is graded (server-sent events)", Tags: tags},
		map[string]any{"progress": client.Progress{}}, s.watchHandin)
}

type handing struct {
	Named
	Key  string `header:"Idempotency-Key" maxLength:"200" doc:"The same key gives the same hand-in, however often it is sent."`
	Body client.Program
}

func (s *service) handIn(ctx context.Context, in *handing) (*body[client.Handin], error) {
	p, a, err := s.assigned(ctx, in.Name)
	if err != nil {
		return nil, err
	}
	if len(in.Body.Text) > syntax.MaxSize {
		return nil, tooLarge()
	}
	h := store.Handin{AssignmentID: a.ID, RevisionID: a.RevisionID, PersonID: p.ID, File: in.Body.File, Text: in.Body.Text}
	if in.Key != "" {
		h.Key = &in.Key
	}
	h, err = s.Store.Record(ctx, h)
	if err != nil {
		return nil, s.told(err, "")
	}
	h.Person, h.Assignment = p, a
	return &body[client.Handin]{asHandin(h, a.Revision)}, nil
}

func tooLarge() error {
	return huma.NewError(http.StatusRequestEntityTooLarge, "This program is larger than 256 KiB. Remove what is not needed, then try again.")
}

func (s *service) listHandins(ctx context.Context, in *Named) (*body[[]client.Handin], error) {
	p, a, err := s.assigned(ctx, in.Name)
	if err != nil {
		return nil, err
	}
	own := p.ID
	if p.Role == store.Instructor {
		own = 0
	}
	list, err := s.Store.Handins(ctx, a.ID, own)
	if err != nil {
		return nil, s.told(err, "")
	}
	out := []client.Handin{}
	for _, h := range list {
		c := asHandin(h, a.Revision)
		c.Text = ""
		out = append(out, c)
	}
	return &body[[]client.Handin]{out}, nil
}

// visible finds a hand-in that the asker may see: one's own, or one of the
// class for its instructor. Others do not exist for the asker.
func (s *service) visible(ctx context.Context, id int64) (store.Person, store.Handin, error) {
	p, class, err := s.asker(ctx)
	if err != nil {
		return p, store.Handin{}, err
	}
	h, err := s.Store.Handin(ctx, id)
	mine := h.PersonID == p.ID || p.Role == store.Instructor && h.Assignment.ClassID == class.ID
	if err == nil && !mine {
		err = store.ErrNotFound
	}
	return p, h, s.told(err, "There is no hand-in %d of yours.", id)
}

func asHandin(h store.Handin, r store.Revision) client.Handin {
	out := client.Handin{
		ID: h.ID, Number: h.Number, Exercise: h.Assignment.Exercise, Title: r.Title, Person: asPerson(h.Person, ""), File: h.File, Text: h.Text,
		HandedIn: h.CreatedAt, State: client.Waiting, Points: number(r.Points),
	}
	if h.Result != nil {
		earned := number(h.Result.Earned)
		out.State, out.Earned, out.Points = client.Done, &earned, number(h.Result.Points)
	}
	return out
}

// wholeHandin adds the result and the traces, as far as the asker may see them.
func (s *service) wholeHandin(ctx context.Context, p store.Person, h store.Handin) (client.Handin, error) {
	revision, err := s.Store.Revision(ctx, h.RevisionID)
	if err != nil {
		return client.Handin{}, s.told(err, "")
	}
	out := asHandin(h, revision)
	if h.Result == nil {
		return out, nil
	}
	if p.Role == store.Instructor {
		out.Result, out.Evidence = json.RawMessage(h.Result.Result), json.RawMessage(h.Result.Evidence)
		return out, nil
	}
	e, _ := exercise.Read(exercise.Files(revision.Files))
	out.Result, out.Evidence, err = grade.ForLearner(h.Result.Result, h.Result.Evidence, e)
	return out, s.told(err, "")
}

// lookAgain is how often a watcher looks for itself, should a notice be lost.
const lookAgain = 3 * time.Second

func (s *service) watchHandin(ctx context.Context, in *numbered, send sse.Sender) {
	woken, done := s.Hub.Wait(in.ID)
	defer done()
	for {
		_, h, err := s.visible(ctx, in.ID)
		if err != nil {
			return // the connection ends; the page asks again and is told why
		}
		state := asHandin(h, store.Revision{})
		if send.Data(client.Progress{State: state.State, Earned: state.Earned, Points: state.Points}) != nil || state.State == client.Done {
			return
		}
		select {
		case <-ctx.Done():
			return
		case <-woken:
		case <-time.After(lookAgain):
		}
	}
}
