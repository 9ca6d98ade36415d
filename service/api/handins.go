package api

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/sse"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/core/syntax"
	"celandine/service/auth"
	"celandine/service/jobs"
	"celandine/service/store"
)

// Numbered is the path of an operation on a hand-in.
type Numbered struct {
	ID int64 `path:"id" minimum:"1" example:"7" doc:"The hand-in's number in the service."`
}

func (s *service) handins(api huma.API) {
	tags := []string{"hand-ins"}
	huma.Register(api, huma.Operation{OperationID: "handIn", Method: http.MethodPost, Path: "/api/exercises/{name}/handins",
		Summary: "Hand a program in", Tags: tags, DefaultStatus: http.StatusCreated, MaxBodyBytes: mostOfProgram}, s.handIn)
	huma.Register(api, huma.Operation{OperationID: "listHandins", Method: http.MethodGet, Path: "/api/exercises/{name}/handins",
		Summary: "List hand-ins: the class's for an instructor, one's own for a learner", Tags: tags}, s.listHandins)
	huma.Register(api, huma.Operation{OperationID: "getHandin", Method: http.MethodGet, Path: "/api/handins/{id}",
		Summary: "Read a hand-in and its mark", Tags: tags},
		func(ctx context.Context, in *Numbered) (*body[client.Handin], error) {
			p, h, err := s.visible(ctx, in.ID)
			if err != nil {
				return nil, err
			}
			out, err := s.wholeHandin(ctx, p, h)
			return &body[client.Handin]{out}, err
		})
	sse.Register(api, huma.Operation{OperationID: "watchHandin", Method: http.MethodGet, Path: "/api/handins/{id}/events",
		Summary: "Follow a hand-in until it is graded (server-sent events)", Tags: tags,
		Middlewares: s.beforehand(func(ctx context.Context, id int64) error { _, err := s.admits(ctx, id); return err }, "id")},
		map[string]any{"progress": client.Progress{}}, s.watchHandin)
}

// mostWaiting is how many hand-ins of one learner may wait for their marks: whoever hands in what is slow to grade waits for oneself.
const mostWaiting = 5

type handing struct {
	Named
	Key  string `header:"Idempotency-Key" maxLength:"200" example:"ana-mist-2" doc:"The same key gives the same hand-in, however often it is sent; another person's, or with another program, it is refused."`
	Body client.Program
}

func (s *service) handIn(ctx context.Context, in *handing) (*body[client.Handin], error) {
	at, a, err := s.assigned(ctx, in.Named)
	if err != nil {
		return nil, err
	}
	if err := asText(&in.Body); err != nil {
		return nil, err
	}
	if len(in.Body.Text) > syntax.MaxSize {
		return nil, tooLarge()
	}
	h := store.Handin{AssignmentID: a.ID, RevisionID: a.RevisionID, PersonID: at.ID, File: in.Body.File, Text: in.Body.Text,
		Key: store.KeyOf(in.Key)}
	before, err := s.Store.Sofar(ctx, h)
	if err != nil {
		return nil, s.told(err, "")
	}
	if before.Same != 0 {
		return s.same(ctx, at, h, before.Same)
	}
	taken := func(sofar store.Sofar) error { return s.taking(ctx, at, a, sofar) }
	if err := taken(before); err != nil {
		return nil, err
	}
	most := a.Attempts
	if at.teaches() {
		most = 0
	}
	h, err = s.record(ctx, h, a, most, taken)
	var no *problem
	switch {
	case errors.As(err, &no):
		return nil, err
	case errors.Is(err, store.ErrTaken):
		return s.again(ctx, at, h)
	case errors.Is(err, store.ErrRefused):
		return nil, taken(store.Sofar{Handins: most})
	case err != nil:
		return nil, s.told(err, "")
	}
	h.Person, h.Assignment = at.Person, a
	return &body[client.Handin]{asHandin(h, a.Revision)}, nil
}

// record stores a hand-in: with its mark where a core is free for it, else to be graded later.
func (s *service) record(ctx context.Context, h store.Handin, a store.Assignment, most int, taken func(store.Sofar) error) (store.Handin,
	error) {
	var r *store.Result
	var err error
	if !s.Queued {
		if r, err = s.Queue.AtOnce(ctx, h); err != nil {
			return h, err
		}
	}
	notice := store.Notice{Class: a.ClassID}
	if r == nil {
		h, err = s.Store.Record(ctx, h, most, taken)
	} else {
		h, err = s.Store.RecordGraded(ctx, h, *r, most)
		notice.Graded, notice.Earned, notice.Points = true, r.Earned, r.Points
	}
	if err == nil {
		notice.Handin = h.ID
		s.Store.Tell(notice)
	}
	return h, err
}

// taking tells why a hand-in is not taken from a person who has handed in so much, or nil.
func (s *service) taking(ctx context.Context, at here, a store.Assignment, sofar store.Sofar) error {
	later := func(code, say, after string) error {
		return huma.ErrorWithHeaders(coded(http.StatusTooManyRequests, code, say), http.Header{"Retry-After": {after}})
	}
	switch {
	case at.teaches():
		return nil // an instructor tries an exercise whenever they like
	case sofar.Waiting >= mostWaiting:
		return later("too-many-waiting", fmt.Sprintf("%d of your hand-ins wait for their marks. Hand in again when those have come.",
			mostWaiting), "2")
	case s.HandIns > 0 && sofar.LastHour >= s.HandIns:
		return later("too-many", fmt.Sprintf("You have handed in %d times within an hour, which is as often as is taken. Try the program on "+
			"the bench, and hand in again later.", sofar.LastHour), "300")
	}
	if r := a.Rules(at.Class.Zone()).Taking(time.Now(), auth.Admission(ctx).Begun, sofar.Handins); r != nil {
		return refused(r)
	}
	return nil
}

// again answers a hand-in whose key was used meanwhile.
func (s *service) again(ctx context.Context, at here, h store.Handin) (*body[client.Handin], error) {
	before, err := s.Store.Sofar(ctx, h)
	if err == nil && before.Same == 0 {
		err = store.ErrDown // who used it has taken it back: their hand-in failed
	}
	if err != nil {
		return nil, s.told(err, "")
	}
	return s.same(ctx, at, h, before.Same)
}

// same answers a hand-in whose key was used before: with that hand-in, if it is the same.
func (s *service) same(ctx context.Context, at here, h store.Handin, id int64) (*body[client.Handin], error) {
	stored, err := s.Store.Handin(ctx, id)
	if err != nil {
		return nil, s.told(err, "")
	}
	if stored.PersonID != at.ID || stored.AssignmentID != h.AssignmentID || stored.File != h.File || stored.Text != h.Text {
		return nil, coded(http.StatusConflict, "key",
			"This Idempotency-Key was used for another hand-in. Nothing was stored; send a key of its own with each.")
	}
	revision, err := s.Store.Revision(ctx, stored.RevisionID)
	return &body[client.Handin]{asHandin(stored, revision)}, s.told(err, "")
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
	if out.Look, out.Looking, err = s.looked(ctx, at, h); err != nil {
		return out, s.told(err, "")
	}
	out.Result, out.Evidence, err = s.recalled(ctx, at, h)
	if err != nil {
		return out, s.told(err, "")
	}
	g, err := s.Graders.Of(ctx, h.Result.RevisionID)
	if err == nil {
		out.Programs = predicted(g.Exercise)
	}
	return out, s.told(err, "")
}

// mostRecalled is how many million instructions are spent on showing what a hand-in did: some tens of milliseconds.
const mostRecalled = 20

// recalled is the result and the traces of a hand-in as far as a person may see them: what was not kept is made again. Of
// scenarios that they may not see nothing is run.
func (s *service) recalled(ctx context.Context, at here, h store.Handin) (result, evidence json.RawMessage, err error) {
	sees := grade.Sees(h.Assignment.Sees)
	if at.teaches() {
		sees = grade.SeesAll
	}
	g, err := s.Graders.Of(ctx, h.Result.RevisionID)
	if err != nil {
		return nil, nil, err
	}
	var kept []grade.Kept
	if h.Result.Kept != nil {
		if err := json.Unmarshal(h.Result.Kept, &kept); err != nil {
			return nil, nil, fmt.Errorf("reading traces: %w", err)
		}
	}
	select {
	case s.recalls <- struct{}{}:
		defer func() { <-s.recalls }()
	case <-ctx.Done():
		return nil, nil, ctx.Err()
	}
	result, list, err := g.Recall(jobs.Limited(ctx, mostRecalled), json.RawMessage(h.Result.Result), kept, h.File,
		[]*source.File{source.NewFile(h.File, h.Text)}, sees.Reveals)
	if err != nil {
		return nil, nil, err
	}
	if result, err = grade.ForLearner(result, g.Exercise, sees); err != nil {
		return nil, nil, err
	}
	evidence, err = json.Marshal(list)
	return result, evidence, err
}

// reviewed adds what counts of a mark, what an instructor said and, for an instructor, the neighbours in the queue.
func (s *service) reviewed(ctx context.Context, at here, h store.Handin, out *client.Handin) error {
	terms := h.Assignment.Rules(at.Class.Zone())
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

// pause waits until something may have changed, and returns what was told of, if anything was; false tells that the watcher has
// gone, or the service goes.
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
	woken, done := s.Hub.Wait(handinKey(in.ID))
	defer done()
	for {
		ctx := store.Within(ctx, soon)
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
