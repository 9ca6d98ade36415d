package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/syntax"
	"celandine/service/rules"
	"celandine/service/store"
)

// Numbered is the path of an operation on a hand-in.
type Numbered struct {
	ID int64 `path:"id" minimum:"1" example:"7" doc:"The hand-in's number in the service."`
}

func (s *service) handins(api huma.API) {
	tags := []string{"hand-ins"}
	huma.Register(api, huma.Operation{OperationID: "handIn", Method: http.MethodPost, Path: "/api/exercises/{name}/handins", Summary: "Hand a program in", Tags: tags, DefaultStatus: http.StatusCreated, MaxBodyBytes: 2 << 20}, s.handIn)
	huma.Register(api, huma.Operation{OperationID: "listHandins", Method: http.MethodGet, Path: "/api/exercises/{name}/handins", Summary: "List hand-ins: the class's for an instructor, one's own for a learner", Tags: tags}, s.listHandins)
	huma.Register(api, huma.Operation{OperationID: "getHandin", Method: http.MethodGet, Path: "/api/handins/{id}", Summary: "Read a hand-in and its mark", Tags: tags},
		func(ctx context.Context, in *Numbered) (*body[client.Handin], error) {
			p, h, err := s.visible(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			out, err := s.wholeHandin(ctx, p, h)
			return &body[client.Handin]{out}, err
		})
	sse.Register(api, huma.Operation{OperationID: "watchHandin", Method: http.MethodGet, Path: "/api/handins/{id}/events", Summary: "Follow a hand-in until it is graded (server-sent events)", Tags: tags,
		Middlewares: admitted(func(ctx context.Context, id int64) error { _, err := s.admits(ctx, id); return err }, "id")},
		map[string]any{"progress": client.Progress{}}, s.watchHandin)
}

// mostWaiting is how many hand-ins of one learner may wait for their marks: whoever hands in what is slow to grade waits for oneself.
const mostWaiting = 5

var errWaiting = errors.New("too many hand-ins wait")

type handing struct {
	Named
	Key  string `header:"Idempotency-Key" maxLength:"200" example:"ana-mist-2" doc:"The same key gives the same hand-in, however often it is sent."`
	Body client.Program
}

func (s *service) handIn(ctx context.Context, in *handing) (*body[client.Handin], error) {
	at, a, err := s.assigned(ctx, in.Named)
	if err != nil {
		return nil, err
	}
	if len(in.Body.Text) > syntax.MaxSize {
		return nil, tooLarge()
	}
	var begun *time.Time
	if a.Minutes > 0 {
		if begun, err = s.Store.Begun(ctx, a.ID, at.ID); err != nil {
			return nil, s.told(err, "")
		}
	}
	h := store.Handin{AssignmentID: a.ID, RevisionID: a.RevisionID, PersonID: at.ID, File: in.Body.File, Text: in.Body.Text}
	if in.Key != "" {
		h.Key = &in.Key
	}
	h, err = s.Store.Record(ctx, h, func(sofar store.Sofar) error {
		if at.teaches() {
			return nil // an instructor tries an exercise whenever they like
		}
		if sofar.Waiting >= mostWaiting {
			return errWaiting
		}
		if r := a.Terms(at.Class.Zone()).Taking(time.Now(), begun, sofar.Handins); r != nil {
			return r
		}
		return nil
	})
	var no *rules.Refusal
	switch {
	case errors.As(err, &no):
		return nil, refused(no)
	case errors.Is(err, errWaiting):
		return nil, huma.ErrorWithHeaders(coded(http.StatusTooManyRequests, "too-many-waiting",
			fmt.Sprintf("%d of your hand-ins wait for their marks. Hand in again when those have come.", mostWaiting)), http.Header{"Retry-After": {"2"}})
	}
	if err != nil {
		return nil, s.told(err, "")
	}
	h.Person, h.Assignment = at.Person, a
	return &body[client.Handin]{asHandin(h, a.Revision)}, nil
}

func tooLarge() error {
	return huma.NewError(http.StatusRequestEntityTooLarge, "This program is larger than 256 KiB. Remove what is not needed, then try again.")
}

func (s *service) listHandins(ctx context.Context, in *struct {
	Named
	Paged
	Person string `query:"person" maxLength:"63" example:"ana" doc:"Only this login's."`
	State  string `query:"state" enum:"waiting,graded" doc:"Only those that wait for their mark, or those that have it."`
}) (*body[client.Page[client.Handin]], error) {
	at, a, err := s.assigned(ctx, in.Named)
	if err != nil {
		return nil, err
	}
	w := store.Wanted{Limit: in.Limit}
	if w.Before, err = in.number(); err != nil {
		return nil, err
	}
	if in.State != "" {
		waiting := in.State == client.Waiting
		w.Waiting = &waiting
	}
	if !at.teaches() {
		w.Person = at.ID
	} else if in.Person != "" {
		of, err := s.Store.PersonByLogin(ctx, in.Person)
		if err != nil {
			return nil, s.told(err, "Nobody has the login %s.", in.Person)
		}
		w.Person = of.ID
	}
	list, err := s.Store.Handins(ctx, a.ID, w)
	as := func(h store.Handin) client.Handin { return asHandin(h, a.Revision) }
	return paged(s, in.Paged, list, err, as, func(h store.Handin) string { return nextNumber(h.ID) })
}

func asHandin(h store.Handin, r store.Revision) client.Handin {
	out := client.Handin{
		ID: h.ID, Number: h.Number, Exercise: h.Assignment.Exercise, Title: r.Title, Person: asPerson(h.Person), File: h.File, Text: h.Text,
		HandedIn: h.CreatedAt, State: client.Waiting, Points: number(r.Points),
	}
	if h.Result != nil {
		earned := number(h.Result.Earned)
		out.State, out.Earned, out.Points = client.Done, &earned, number(h.Result.Points)
	}
	return out
}

// wholeHandin adds the result, the traces and what was said, as far as the person may see them.
func (s *service) wholeHandin(ctx context.Context, at here, h store.Handin) (client.Handin, error) {
	revision, err := s.Store.Revision(ctx, h.RevisionID)
	if err != nil {
		return client.Handin{}, s.told(err, "")
	}
	out := asHandin(h, revision)
	if err := s.reviewed(ctx, at, h, &out); err != nil || h.Result == nil {
		return out, err
	}
	if h.Result.RevisionID != h.RevisionID {
		if revision, err = s.Store.Revision(ctx, h.Result.RevisionID); err != nil {
			return out, s.told(err, "")
		}
	}
	out.Revision = revision.Number
	sees := grade.Sees(h.Assignment.Sees)
	if at.teaches() {
		sees = grade.SeesAll
	}
	e, _ := exercise.Read(exercise.Files(revision.Files))
	out.Result, out.Evidence, err = grade.ForLearner(h.Result.Result, h.Result.Evidence, e, sees)
	return out, s.told(err, "")
}

// reviewed adds what counts of a mark, what an instructor said and, for an instructor, the neighbours in the queue.
func (s *service) reviewed(ctx context.Context, at here, h store.Handin, out *client.Handin) error {
	terms := h.Assignment.Terms(at.Class.Zone())
	out.Late = terms.DaysLate(h.CreatedAt)
	if h.Result != nil {
		counted := number(terms.Counted(h.Result.Earned, h.CreatedAt))
		out.Counted = &counted
	}
	o, err := s.Store.OverrideOf(ctx, h.ID)
	if err == nil {
		earned := number(o.Earned)
		out.Counted, out.Override = &earned, &client.Override{Earned: earned, Reason: o.Reason, By: o.By.Name, At: o.CreatedAt}
	} else if !errors.Is(err, store.ErrNotFound) {
		return s.told(err, "")
	}
	comments, err := s.Store.Comments(ctx, h.ID)
	if err != nil {
		return s.told(err, "")
	}
	if len(comments) > 0 {
		drawn := rungs(h.File, h.Text)
		for _, c := range comments {
			out.Comments = append(out.Comments, asComment(c, drawn))
		}
	}
	if at.teaches() {
		out.Before, out.After, err = s.Store.Neighbours(ctx, h)
	}
	return s.told(err, "")
}

// lookAgain is how often a watcher looks for itself, should a notice be lost.
const lookAgain = 3 * time.Second

// pause waits until something may have changed, and returns what was told of, if anything was; false tells that the watcher has gone, or the service goes.
func (s *service) pause(ctx context.Context, woken <-chan store.Notice) (told *store.Notice, stays bool) {
	select {
	case <-ctx.Done():
		return nil, false
	case <-s.Ending:
		return nil, false
	case n := <-woken:
		return &n, true
	case <-time.After(lookAgain):
		return nil, true
	}
}

func (s *service) watchHandin(ctx context.Context, in *Numbered, send sse.Sender) {
	woken, done := s.Hub.Wait(in.ID)
	defer done()
	for {
		r, err := s.Store.Mark(ctx, in.ID)
		if err != nil {
			return // the connection ends; the page asks again and is told why
		}
		if r != nil {
			_ = send.Data(graded(r.Earned, r.Points)) // whoever asked has gone
			return
		}
		if send.Data(client.Progress{State: client.Waiting}) != nil {
			return
		}
		told, stays := s.pause(ctx, woken)
		if told != nil {
			_ = send.Data(graded(told.Earned, told.Points))
		}
		if told != nil || !stays {
			return
		}
	}
}

func graded(marks, points exercise.Marks) client.Progress {
	earned := number(marks)
	return client.Progress{State: client.Done, Earned: &earned, Points: number(points)}
}
