package api

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/mileusna/useragent"

	"celandine/client"
	"celandine/service/auth"
	"celandine/service/store"
)

type body[T any] struct{ Body T }

// from is what somebody sends to sign in, and by which browser.
type from[T any] struct {
	Agent string `header:"User-Agent" maxLength:"1000" example:"Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0" doc:"Names the session in the list of one's sign-ins."`
	Body  T
}

// cookied is an answer that sets cookies.
type cookied[T any] struct {
	SetCookie []http.Cookie `header:"Set-Cookie"`
	Body      T
}

// browser names a browser as a person knows it: Firefox on Windows.
func (f from[T]) browser() string {
	agent := useragent.Parse(f.Agent)
	switch {
	case agent.Name == "":
		return "a browser"
	case agent.OS == "":
		return agent.Name
	}
	return agent.Name + " on " + agent.OS
}

// OfSignIn is the path of an operation on a sign-in.
type OfSignIn struct {
	ID int64 `path:"signin" minimum:"1" example:"5" doc:"The sign-in's number."`
}

func (s *service) signIn(api huma.API) {
	tags := []string{"sign-in"}
	huma.Register(api, huma.Operation{OperationID: "signIn", Method: http.MethodPost, Path: "/api/session",
		Summary: "Sign in with a session cookie", Tags: tags, MaxBodyBytes: mostOfStrangers, Middlewares: huma.Middlewares{origin}},
		func(ctx context.Context, in *from[client.Credentials]) (*cookied[client.Person], error) {
			p, cookies, err := s.Auth.Begin(ctx, in.Body.Login, in.Body.Password, in.origin(ctx))
			if err != nil {
				return nil, s.notSignedIn(err)
			}
			return s.welcomed(ctx, p, cookies)
		})
	huma.Register(api, huma.Operation{OperationID: "join", Method: http.MethodPost, Path: "/api/join",
		Summary: "Choose a password with a join code, and sign in", Tags: tags, MaxBodyBytes: mostOfStrangers,
		Middlewares: huma.Middlewares{origin}},
		func(ctx context.Context, in *from[client.Joining]) (*cookied[client.Person], error) {
			p, cookies, err := s.Auth.Join(ctx, in.Body.Code, in.Body.Password, in.origin(ctx))
			if err != nil {
				return nil, s.told(err, "This code is not known, or was used already. Ask your instructor for a new one.")
			}
			return s.welcomed(ctx, p, cookies)
		})
	huma.Register(api, huma.Operation{OperationID: "signOut", Method: http.MethodDelete, Path: "/api/session",
		Summary: "Sign out: end the session or token that asks", Tags: tags, DefaultStatus: http.StatusNoContent,
		Middlewares: huma.Middlewares{origin}},
		func(ctx context.Context, _ *struct{}) (*struct {
			SetCookie http.Cookie `header:"Set-Cookie"`
		}, error) {
			gone, err := s.Auth.End(ctx, sentOf(ctx))
			return &struct {
				SetCookie http.Cookie `header:"Set-Cookie"`
			}{gone}, s.told(err, "")
		})
	huma.Register(api, huma.Operation{OperationID: "issueToken", Method: http.MethodPost, Path: "/api/tokens",
		Summary: "Get a token for the command line", Tags: tags, MaxBodyBytes: mostOfStrangers, Middlewares: huma.Middlewares{origin}},
		s.issueToken)
	huma.Register(api, huma.Operation{OperationID: "listSignIns", Method: http.MethodGet, Path: "/api/signins",
		Summary: "List one's own sessions and tokens, newest first", Tags: tags}, s.listSignIns)
	huma.Register(api, huma.Operation{OperationID: "endSignIn", Method: http.MethodDelete, Path: "/api/signins/{signin}",
		Summary: "End one of one's own sessions or tokens", Tags: tags, DefaultStatus: http.StatusNoContent}, s.endSignIn)
	huma.Register(api, huma.Operation{OperationID: "getSession", Method: http.MethodGet, Path: "/api/session",
		Summary: "Who is signed in, if anybody", Tags: tags},
		func(ctx context.Context, _ *struct{}) (*body[client.Session], error) {
			p, ok := auth.Person(ctx)
			if !ok {
				return &body[client.Session]{}, nil
			}
			who, err := s.person(ctx, p)
			if err != nil {
				return nil, err
			}
			return &body[client.Session]{client.Session{Person: &who.Body}}, nil
		})
	huma.Register(api, huma.Operation{OperationID: "me", Method: http.MethodGet, Path: "/api/me", Summary: "Who am I",
		Tags: []string{"sign-in"}},
		func(ctx context.Context, _ *struct{}) (*body[client.Person], error) {
			p, ok := auth.Person(ctx)
			if !ok {
				return nil, huma.Error401Unauthorized("Nobody is signed in.")
			}
			return s.person(ctx, p)
		})
}

type requestKey struct{}

// origin keeps the request for those operations that ask where it came from.
func origin(ctx huma.Context, next func(huma.Context)) {
	r, _ := humachi.Unwrap(ctx)
	next(huma.WithValue(ctx, requestKey{}, r))
}

// sentOf is the secret that a request came with.
func sentOf(ctx context.Context) string {
	_, secret := auth.Sent(ctx.Value(requestKey{}).(*http.Request))
	return secret
}

func (f from[T]) origin(ctx context.Context) auth.Origin {
	return auth.OriginOf(ctx.Value(requestKey{}).(*http.Request), middleware.GetClientIP(ctx), f.browser())
}

func (s *service) welcomed(ctx context.Context, p store.Person, cookies []http.Cookie) (*cookied[client.Person], error) {
	who, err := s.person(ctx, p)
	if err != nil {
		return nil, err
	}
	return &cookied[client.Person]{cookies, who.Body}, nil
}

func (s *service) issueToken(ctx context.Context, in *from[client.TokenWish]) (*body[client.Token], error) {
	w := auth.Wish{Name: in.Body.Name, Scope: in.Body.Scope, Life: time.Duration(in.Body.Days) * 24 * time.Hour}
	token, given, err := s.Auth.Issue(ctx, in.Body.Login, in.Body.Password, in.origin(ctx), w)
	if err != nil {
		return nil, s.notSignedIn(err)
	}
	who, err := s.person(ctx, given.Person)
	if err != nil {
		return nil, err
	}
	return &body[client.Token]{client.Token{Token: token, Scope: given.Scope, Expires: given.ExpiresAt, Person: who.Body}}, nil
}

func (s *service) listSignIns(ctx context.Context, _ *struct{}) (*body[[]client.SignIn], error) {
	p, err := s.signedIn(ctx)
	if err != nil {
		return nil, err
	}
	asking, _ := auth.SignIn(ctx)
	list, err := s.Store.SignIns(ctx, p.ID)
	return listed(s, list, err, func(in store.SignIn) client.SignIn {
		return client.SignIn{ID: in.ID, Kind: in.Kind, Name: in.Name, Scope: in.Scope, Began: in.CreatedAt, Used: in.UsedAt,
			Expires: in.ExpiresAt, This: in.ID == asking.ID}
	})
}

func (s *service) endSignIn(ctx context.Context, in *OfSignIn) (*struct{}, error) {
	p, err := s.signedIn(ctx)
	if err != nil {
		return nil, err
	}
	return nil, s.told(s.Store.EndSignIn(ctx, p.ID, in.ID), "There is no sign-in %d of yours. It may have ended already.", in.ID)
}

func (s *service) notSignedIn(err error) error {
	if errors.Is(err, auth.ErrWrongPassword) {
		return huma.Error401Unauthorized("The login or the password is wrong.")
	}
	var wait auth.ErrWait
	if errors.As(err, &wait) {
		return huma.ErrorWithHeaders(coded(http.StatusTooManyRequests, "wait",
			fmt.Sprintf("Too many wrong attempts for this login. Wait %d s, then try again.", wait.Seconds())),
			http.Header{"Retry-After": {fmt.Sprint(wait.Seconds())}})
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
