package api

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	"net/http"
	"runtime"
	"strings"

	"github.com/danielgtaylor/huma/v2"
	"golang.org/x/sync/errgroup"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/mistake"
	"celandine/service/jobs"
	"celandine/service/store"
)

func (s *service) review(api huma.API) {
	tags := []string{"review"}
	huma.Register(api, huma.Operation{OperationID: "override", Method: http.MethodPut, Path: "/api/handins/{id}/override",
		Summary: "Give a mark by hand, with the reason", Tags: tags}, s.override)
	huma.Register(api, huma.Operation{OperationID: "takeBackOverride", Method: http.MethodDelete, Path: "/api/handins/{id}/override",
		Summary: "Take a mark given by hand back", Tags: tags, DefaultStatus: http.StatusNoContent}, s.takeBack)
	huma.Register(api, huma.Operation{OperationID: "comment", Method: http.MethodPost, Path: "/api/handins/{id}/comments",
		Summary: "Say something about a line of a hand-in, or all of it", Tags: tags, DefaultStatus: http.StatusCreated}, s.comment)
	huma.Register(api, huma.Operation{OperationID: "removeComment", Method: http.MethodDelete, Path: "/api/handins/{id}/comments/{comment}",
		Summary: "Take one's own comment back", Tags: tags, DefaultStatus: http.StatusNoContent}, s.removeComment)
	huma.Register(api, huma.Operation{OperationID: "regrade", Method: http.MethodPost, Path: "/api/classes/{class}/regrade",
		Summary: "Grade again: first a preview, then all of it or nothing", Tags: tags}, s.regrade)
}

func (s *service) override(ctx context.Context, in *struct {
	Numbered
	Body client.Overruling
}) (*body[client.Handin], error) {
	at, h, err := s.reviewable(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	earned := exercise.Marks(math.Round(in.Body.Earned * 100))
	if err := s.Store.Overrule(ctx, at.ID, at.Class.ID, h.ID, &store.Override{Earned: earned, Reason: in.Body.Reason}); err != nil {
		return nil, s.told(err, "")
	}
	out, err := s.wholeHandin(ctx, at, h)
	return &body[client.Handin]{out}, err
}

func (s *service) takeBack(ctx context.Context, in *Numbered) (*struct{}, error) {
	at, h, err := s.reviewable(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return nil, s.told(s.Store.Overrule(ctx, at.ID, at.Class.ID, h.ID, nil), "Hand-in %d has no mark given by hand.", h.ID)
}

func asComment(c store.Comment, in []rungAt) client.Comment {
	return client.Comment{ID: c.ID, Line: c.Line, Rung: rungOf(in, c.Line), Text: c.Text, By: c.By.Name, At: c.CreatedAt}
}

func (s *service) comment(ctx context.Context, in *struct {
	Numbered
	Body client.Remark
}) (*body[client.Comment], error) {
	at, h, err := s.reviewable(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	drawn := rungs(h.File, h.Text)
	line, err := lineOf(in.Body, h, drawn)
	if err != nil {
		return nil, err
	}
	c, err := s.Store.Say(ctx, store.Comment{HandinID: h.ID, ByID: at.ID, Line: line, Text: in.Body.Text})
	c.By = at.Person
	return &body[client.Comment]{asComment(c, drawn)}, s.told(err, "")
}

// lineOf is the line that a remark is about: the one it names, or where the rung that it names begins.
func lineOf(r client.Remark, h store.Handin, drawn []rungAt) (int, error) {
	if r.Rung == 0 {
		if lines := source.NewFile(h.File, h.Text).Lines(); r.Line > lines {
			return 0, coded(http.StatusUnprocessableEntity, "line", fmt.Sprintf("The hand-in has %d lines.", lines))
		}
		return r.Line, nil
	}
	lines := linesOf(drawn, r.Rung)
	switch {
	case r.Line != 0:
		return 0, coded(http.StatusUnprocessableEntity, "line", "Say the line or the rung, not both.")
	case len(lines) == 0:
		return 0, coded(http.StatusUnprocessableEntity, "rung", fmt.Sprintf("The hand-in has no rung %d; it has %d in all.", r.Rung, len(drawn)))
	case len(lines) > 1:
		return 0, coded(http.StatusUnprocessableEntity, "rung",
			fmt.Sprintf("%d programs of the hand-in have a rung %d. Say the line: %s.", len(lines), r.Rung, strings.Trim(fmt.Sprint(lines), "[]")))
	}
	return lines[0], nil
}

func (s *service) removeComment(ctx context.Context, in *struct {
	Numbered
	Comment int64 `path:"comment" minimum:"1" example:"5"`
}) (*struct{}, error) {
	at, h, err := s.reviewable(ctx, in.ID)
	if err != nil {
		return nil, err
	}
	return nil, s.told(s.Store.Unsay(ctx, at.ID, h.ID, in.Comment), "There is no comment %d of yours.", in.Comment)
}

// regrade grades hand-ins again. The preview's key names all that it would store; what is stored is exactly that, or nothing.
func (s *service) regrade(ctx context.Context, in *struct {
	OfClass
	Body client.Regrading
}) (*body[client.Regraded], error) {
	h, a, err := s.assignment(ctx, OfAssignment{in.OfClass, in.Body.Exercise})
	if err != nil {
		return nil, err
	}
	number := in.Body.Revision
	if number == 0 {
		number = a.Revision.Number
	}
	revision, err := s.Store.RevisionOf(ctx, a.Revision.ExerciseID, number)
	if err != nil {
		return nil, s.told(err, "%s has no revision %d.", a.Exercise, number)
	}
	g, err := jobs.Prepare(exercise.Files(revision.Files))
	if err != nil {
		return nil, badExercise(err)
	}
	var some []int64
	if in.Body.Handin != 0 {
		some = []int64{in.Body.Handin}
	}
	list, err := s.Store.Graded(ctx, a.ID, some...)
	if err == nil && in.Body.Handin != 0 && len(list) == 0 {
		err = store.ErrNotFound
	}
	if err != nil {
		return nil, s.told(err, "There is no graded hand-in %d to this exercise.", in.Body.Handin)
	}
	out, old, results, err := gradeAgain(ctx, g, revision, list, s.Noticed)
	if err != nil {
		return nil, s.told(err, "")
	}
	if in.Body.Apply == "" {
		return &body[client.Regraded]{out}, nil
	}
	if in.Body.Apply != out.Key {
		return nil, coded(http.StatusConflict, "preview-old", "Something has changed since this preview. Look at a new one; nothing was stored.")
	}
	subject := fmt.Sprintf("%s, revision %d", a.Exercise, revision.Number)
	if in.Body.Handin != 0 {
		subject = fmt.Sprintf("hand-in %d, %s", in.Body.Handin, subject)
	}
	if err := s.Store.Regrade(ctx, h.ID, h.Class.ID, subject, old, results); err != nil {
		if errors.Is(err, store.ErrNewer) {
			return nil, coded(http.StatusConflict, "preview-old", "Something has changed since this preview. Look at a new one; nothing was stored.")
		}
		return nil, s.told(err, "")
	}
	out.Applied = true
	return &body[client.Regraded]{out}, nil
}

func gradeAgain(ctx context.Context, g *grade.Grader, revision store.Revision, list []store.Handin,
	noticed func(*mistake.Mistake)) (client.Regraded, map[int64]exercise.Marks, []store.Result, error) {
	out := client.Regraded{Revision: revision.Number, Graded: len(list), Changes: []client.Change{}}
	results := make([]store.Result, len(list))
	stop := func() bool { return ctx.Err() != nil } // nobody waits any more
	var workers errgroup.Group
	workers.SetLimit(runtime.GOMAXPROCS(0))
	for i, h := range list {
		workers.Go(func() error {
			if stop() {
				return ctx.Err()
			}
			h.RevisionID = revision.ID
			marked, err := jobs.Graded(g, stop, h, noticed)
			if err == nil {
				results[i], err = jobs.Stored(h, marked)
			}
			return errors.Join(err, ctx.Err())
		})
	}
	if err := workers.Wait(); err != nil {
		return out, nil, nil, err
	}
	old := map[int64]exercise.Marks{}
	key := sha256.New()
	fmt.Fprintln(key, "revision", revision.ID)
	for i, h := range list {
		r := results[i]
		old[h.ID] = h.Result.Earned
		fmt.Fprintln(key, h.ID, h.Result.Earned, r.Earned)
		if r.Earned != h.Result.Earned {
			out.Changes = append(out.Changes, client.Change{Handin: h.ID, Number: h.Number, Person: h.Person.Name, Before: number(h.Result.Earned),
				After: number(r.Earned)})
		}
	}
	out.Key = hex.EncodeToString(key.Sum(nil)[:12])
	return out, old, results, nil
}
