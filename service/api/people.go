package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/service/auth"
	"celandine/service/roster"
	"celandine/service/store"
)

// OfLogin is the path of an operation on a person.
type OfLogin struct {
	Login string `path:"login" maxLength:"63" example:"ana"`
}

func (s *service) people(api huma.API) {
	tags := []string{"people"}
	huma.Register(api, huma.Operation{OperationID: "listPeople", Method: http.MethodGet, Path: "/api/people",
		Summary: "List everybody, by login (administrators)", Tags: tags}, s.listPeople)
	huma.Register(api, huma.Operation{OperationID: "addPerson", Method: http.MethodPost, Path: "/api/people",
		Summary: "Add somebody, with a join code (administrators)", Tags: tags}, s.addPerson)
	huma.Register(api, huma.Operation{OperationID: "disablePerson", Method: http.MethodPut, Path: "/api/people/{login}/ability",
		Summary: "End or restore somebody's sign-in (administrators); nobody is deleted", Tags: tags}, s.disablePerson)
	huma.Register(api, huma.Operation{OperationID: "issueCodeTo", Method: http.MethodPost, Path: "/api/people/{login}/code",
		Summary: "Give somebody a new join code, to choose a new password with (administrators)", Tags: tags}, s.issueCodeTo)
}

func (s *service) issueCodeTo(ctx context.Context, in *OfLogin) (*body[client.JoinCode], error) {
	by, p, err := s.governed(ctx, in.Login)
	if err != nil {
		return nil, err
	}
	return s.newCode(ctx, by.ID, 0, p)
}

// governed finds somebody for an administrator.
func (s *service) governed(ctx context.Context, login string) (by, p store.Person, err error) {
	if by, err = s.govern(ctx); err != nil {
		return by, p, err
	}
	p, err = s.Store.PersonByLogin(ctx, login)
	return by, p, s.told(err, "Nobody has the login %s.", login)
}

// newCode gives a person a new join code, in place of any before.
func (s *service) newCode(ctx context.Context, by, class int64, p store.Person) (*body[client.JoinCode], error) {
	out := client.JoinCode{Login: p.Login, Name: p.Name, Code: auth.NewCode(), Expires: time.Now().Add(auth.JoinLife)}
	return &body[client.JoinCode]{out}, s.told(s.Store.IssueCode(ctx, by, class, p, auth.Normal(out.Code), out.Expires), "")
}

func (s *service) listPeople(ctx context.Context, in *struct {
	Paged
	With string `query:"with" maxLength:"100" example:"kov" doc:"Only whose login or name contains this."`
}) (*body[client.Page[client.Member]], error) {
	if _, err := s.govern(ctx); err != nil {
		return nil, err
	}
	list, err := s.Store.People(ctx, in.With, in.After, in.Limit)
	return paged(s, in.Paged, list, err, asMember, func(p store.Person) string { return p.Login })
}

func (s *service) addPerson(ctx context.Context, in *body[client.NewPerson]) (*body[client.JoinCode], error) {
	by, err := s.govern(ctx)
	if err != nil {
		return nil, err
	}
	if problem := roster.Login(in.Body.Login); problem != "" {
		return nil, coded(http.StatusUnprocessableEntity, "login", problem)
	}
	out := client.JoinCode{Login: in.Body.Login, Name: in.Body.Name, Code: auth.NewCode(), Expires: time.Now().Add(auth.JoinLife)}
	_, err = s.Store.AddPerson(ctx, by.ID, store.Person{Login: in.Body.Login, Name: in.Body.Name, Role: in.Body.Role}, auth.Normal(out.Code),
		out.Expires)
	if errors.Is(err, store.ErrTaken) {
		return nil, coded(http.StatusConflict, "login-taken", "Somebody has the login "+in.Body.Login+" already.")
	}
	return &body[client.JoinCode]{out}, s.told(err, "")
}

func (s *service) disablePerson(ctx context.Context, in *struct {
	OfLogin
	Body client.Ability
}) (*body[client.Member], error) {
	by, p, err := s.governed(ctx, in.Login)
	if err != nil {
		return nil, err
	}
	if p.ID == by.ID {
		return nil, coded(http.StatusConflict, "oneself", "One cannot disable oneself; another administrator can.")
	}
	if err := s.Store.Disable(ctx, by.ID, p, in.Body.Disabled); err != nil {
		return nil, s.told(err, "")
	}
	out := asMember(p)
	out.Disabled = in.Body.Disabled
	return &body[client.Member]{out}, nil
}
