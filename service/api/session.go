package api

import (
	"context"
	"errors"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"

	"celandine/client"
	"celandine/service/auth"
	"celandine/service/store"
)

type body[T any] struct{ Body T }

func (s *service) signIn(api huma.API) {
	limited := huma.Middlewares{s.limited()}
	huma.Register(api, huma.Operation{OperationID: "signIn", Method: http.MethodPost, Path: "/api/session", Summary: "Sign in with a session cookie", Tags: []string{"sign-in"}, Middlewares: limited},
		func(ctx context.Context, in *body[client.Credentials]) (*body[client.Person], error) {
			p, err := s.Auth.SignIn(ctx, in.Body.Login, in.Body.Password)
			if err != nil {
				return nil, s.notSignedIn(err)
			}
			return s.person(ctx, p)
		})
	huma.Register(api, huma.Operation{OperationID: "join", Method: http.MethodPost, Path: "/api/join", Summary: "Choose a password with a join code, and sign in", Tags: []string{"sign-in"}, Middlewares: limited},
		func(ctx context.Context, in *body[client.Joining]) (*body[client.Person], error) {
			p, err := s.Auth.Join(ctx, in.Body.Code, in.Body.Password)
			if err != nil {
				return nil, s.told(err, "This code is not known, or was used already. Ask your instructor for a new one.")
			}
			return s.person(ctx, p)
		})
	huma.Register(api, huma.Operation{OperationID: "signOut", Method: http.MethodDelete, Path: "/api/session", Summary: "Sign out", Tags: []string{"sign-in"}, DefaultStatus: http.StatusNoContent},
		func(ctx context.Context, _ *struct{}) (*struct{}, error) {
			return nil, s.told(s.Auth.SignOut(ctx), "")
		})
	huma.Register(api, huma.Operation{OperationID: "issueToken", Method: http.MethodPost, Path: "/api/tokens", Summary: "Get a token for the command line", Tags: []string{"sign-in"}, Middlewares: limited},
		func(ctx context.Context, in *body[client.Credentials]) (*body[client.Token], error) {
			token, p, err := s.Auth.Issue(ctx, in.Body.Login, in.Body.Password)
			if err != nil {
				return nil, s.notSignedIn(err)
			}
			who, err := s.person(ctx, p)
			if err != nil {
				return nil, err
			}
			return &body[client.Token]{client.Token{Token: token, Expires: time.Now().Add(auth.TokenLife), Person: who.Body}}, nil
		})
	huma.Register(api, huma.Operation{OperationID: "me", Method: http.MethodGet, Path: "/api/me", Summary: "Who am I", Tags: []string{"sign-in"}},
		func(ctx context.Context, _ *struct{}) (*body[client.Person], error) {
			p, ok := auth.Person(ctx)
			if !ok {
				return nil, huma.Error401Unauthorized("Nobody is signed in.")
			}
			return s.person(ctx, p)
		})
}

func (s *service) notSignedIn(err error) error {
	if errors.Is(err, auth.ErrWrongPassword) {
		return huma.Error401Unauthorized("The login or the password is wrong.")
	}
	return s.told(err, "")
}

func (s *service) person(ctx context.Context, p store.Person) (*body[client.Person], error) {
	classes, err := s.Store.Classes(ctx, p.ID)
	if err != nil {
		return nil, s.told(err, "")
	}
	out := asPerson(p)
	for _, c := range classes {
		out.Classes = append(out.Classes, asClass(c))
	}
	if len(classes) > 0 {
		out.Class = classes[0].Name
	}
	return &body[client.Person]{out}, nil
}

func asPerson(p store.Person) client.Person {
	return client.Person{Login: p.Login, Name: p.Name, Role: p.Role}
}
