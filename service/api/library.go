package api

import (
	"context"
	"net/http"
	"strings"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/service/store"
)

// OfOwner is the path of an operation on somebody's exercise.
type OfOwner struct {
	Owner    string `path:"owner" maxLength:"63" example:"nadia" doc:"The owner's login."`
	Exercise string `path:"exercise" maxLength:"100" example:"mist-hold-in" doc:"The exercise's name, which is its own among the owner's."`
}

// OfShare is the path of an operation on somebody's share.
type OfShare struct {
	OfOwner
	Login string `path:"login" maxLength:"63" example:"petra" doc:"Whom it is shared with."`
}

func (s *service) library(api huma.API) {
	tags := []string{"library"}
	add := func(id, method, path, summary string) huma.Operation {
		return huma.Operation{OperationID: id, Method: method, Path: "/api/library" + path, Summary: summary, Tags: tags}
	}
	huma.Register(api, add("listLibrary", http.MethodGet, "",
		"List the exercises that one owns or that are shared with one; an administrator's are all"), s.listLibrary)
	huma.Register(api, add("readFolder", http.MethodGet, "/{owner}/{exercise}",
		"Read the folder of an exercise: its owner, whom it is shared with, and who teaches a class that works on it"), s.readFolder)
	huma.Register(api, add("listShares", http.MethodGet, "/{owner}/{exercise}/shares", "List whom one's exercise is shared with"),
		s.listShares)
	huma.Register(api, add("share", http.MethodPut, "/{owner}/{exercise}/shares/{login}",
		"Let another instructor read one's exercise, or change it"), s.share)
	op := add("endShare", http.MethodDelete, "/{owner}/{exercise}/shares/{login}", "Take a share back")
	op.DefaultStatus = http.StatusNoContent
	huma.Register(api, op, s.endShare)
}

func (s *service) listLibrary(ctx context.Context, _ *struct{}) (*body[[]client.Owned], error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Library(ctx, whose(p))
	return listed(s, list, err, func(e store.LibraryEntry) client.Owned {
		return client.Owned{Owner: e.Owner, OwnerName: e.OwnerName, Name: e.Name, Title: e.Title, Topic: e.Topic, Languages: e.Languages,
			Points: number(e.Points), Revision: e.Revision, Note: e.Note, Strength: e.Strength, Changed: e.Changed, Writing: e.Writing, May: e.May, Shared: e.Shared,
			Withdrawn: e.WithdrawnAt != nil, Classes: strings.FieldsFunc(e.Classes, func(r rune) bool { return r == '\n' })}
	})
}

// whose is the person whose things one may see; 0 is everybody.
func whose(p store.Person) int64 {
	if p.Role == store.Administrator {
		return 0
	}
	return p.ID
}

func (s *service) readFolder(ctx context.Context, in *OfOwner) (*body[client.Folder], error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return nil, err
	}
	r, err := s.Store.Readable(ctx, p, in.Owner, in.Exercise)
	return &body[client.Folder]{client.Folder{Files: r.Files}},
		s.told(err, "There is no exercise %s of %s that you may read.", in.Exercise, in.Owner)
}

// owned finds an exercise of one's own; an administrator's are all.
func (s *service) owned(ctx context.Context, in OfOwner) (store.Person, store.Exercise, error) {
	p, err := s.instructs(ctx)
	if err != nil {
		return p, store.Exercise{}, err
	}
	owner, err := s.Store.PersonByLogin(ctx, in.Owner)
	if err == nil && owner.ID != p.ID && p.Role != store.Administrator {
		err = store.ErrNotFound
	}
	var e store.Exercise
	if err == nil {
		e, err = s.Store.ExerciseOf(ctx, owner.ID, in.Exercise)
	}
	return p, e, s.told(err, "There is no exercise %s of yours.", in.Exercise)
}

func asShare(sh store.Share) client.Share {
	return client.Share{Login: sh.Person.Login, Name: sh.Person.Name, May: sh.May}
}

func (s *service) listShares(ctx context.Context, in *OfOwner) (*body[[]client.Share], error) {
	_, e, err := s.owned(ctx, *in)
	if err != nil {
		return nil, err
	}
	list, err := s.Store.Shares(ctx, e.ID)
	return listed(s, list, err, asShare)
}

func (s *service) share(ctx context.Context, in *struct {
	OfShare
	Body client.Sharing
}) (*body[client.Share], error) {
	p, e, err := s.owned(ctx, in.OfOwner)
	if err != nil {
		return nil, err
	}
	with, err := s.Store.PersonByLogin(ctx, in.Login)
	if err == nil && with.Role == store.Learner {
		err = store.ErrNotFound
	}
	switch {
	case err != nil:
		return nil, s.told(err, "No instructor has the login %s.", in.Login)
	case with.ID == e.OwnerID:
		return nil, coded(http.StatusConflict, "oneself", e.Name+" is "+with.Name+"'s own already.")
	}
	err = s.Store.Share(ctx, p.ID, e, with, in.Body.May)
	return &body[client.Share]{asShare(store.Share{Person: with, May: in.Body.May})}, s.told(err, "")
}

func (s *service) endShare(ctx context.Context, in *OfShare) (*struct{}, error) {
	p, e, err := s.owned(ctx, in.OfOwner)
	if err != nil {
		return nil, err
	}
	with, err := s.Store.PersonByLogin(ctx, in.Login)
	if err == nil {
		err = s.Store.Share(ctx, p.ID, e, with, "")
	}
	return nil, s.told(err, "%s is not shared with %s.", e.Name, in.Login)
}

// instructs admits an instructor, of whatever class, or an administrator.
func (s *service) instructs(ctx context.Context) (store.Person, error) {
	p, err := s.signedIn(ctx)
	if err == nil && !teaches(p) {
		err = huma.Error403Forbidden("Only an instructor can do this.")
	}
	return p, err
}
