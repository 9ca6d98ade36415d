// Package auth tells who is asking.
//
// A sign-in is a session, held by a cookie (the console), or a bearer token (the command line); both are a secret whose row the
// store keeps. [Sent] finds the secret that a request came with; whoever reads its row puts the admission into the context with
// [With], where [SignIn] and [Person] read it. What a person may do is decided where it is done.
package auth

import (
	"context"
	"crypto/rand"
	"errors"
	"net/http"
	"runtime"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"

	"celandine/service/store"
)

// How long a sign-in lasts.
const (
	SessionLife = 12 * time.Hour
	TokenLife   = 90 * 24 * time.Hour
)

// ErrWrongPassword is the answer to an unknown login too.
var ErrWrongPassword = errors.New("wrong login or password")

// A Keeper signs people in and out.
type Keeper struct {
	store  *store.Store
	secure bool
	cost   *argon2id.Params
	decoy  string // compared with where there is no such login, so that both take as long
	tried  *attempts
	turns  chan struct{} // a hash takes much memory and time, so that few are made at once
}

// Cost is what a password hash takes: 19 MiB, two passes.
var Cost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// New returns a keeper; where secure is true, browsers send its cookies over HTTPS only. From an address with more than so many
// wrong attempts lately, guesses at any login have to wait sooner.
func New(s *store.Store, cost *argon2id.Params, secure bool, wrong int) (*Keeper, error) {
	decoy, err := argon2id.CreateHash(rand.Text(), cost)
	if err != nil {
		return nil, err
	}
	return &Keeper{store: s, secure: secure, cost: cost, decoy: decoy, tried: newAttempts(wrong),
		turns: make(chan struct{}, runtime.GOMAXPROCS(0))}, nil
}

// turn waits until a hash may be made; the returned function ends it.
func (k *Keeper) turn(ctx context.Context) (func(), error) {
	select {
	case k.turns <- struct{}{}:
		return func() { <-k.turns }, nil
	case <-ctx.Done():
		return nil, ctx.Err() // whoever asked has gone
	}
}

// Hash returns what is kept of a password.
func Hash(password string, cost *argon2id.Params) (string, error) {
	return argon2id.CreateHash(password, cost)
}

type admissionKey struct{}

// With puts what a request was admitted to into its context.
func With(ctx context.Context, found *store.Admission) context.Context {
	return context.WithValue(ctx, admissionKey{}, found)
}

// Admission returns what a request was admitted to; nil for nobody.
func Admission(ctx context.Context) *store.Admission {
	found, _ := ctx.Value(admissionKey{}).(*store.Admission)
	return found
}

// SignIn returns the sign-in that a request came with; ok is false for nobody.
func SignIn(ctx context.Context) (in store.SignIn, ok bool) {
	found := Admission(ctx)
	if found == nil {
		return in, false
	}
	return found.SignIn, true
}

// Person returns who is asking; ok is false for nobody.
func Person(ctx context.Context) (p store.Person, ok bool) {
	in, ok := SignIn(ctx)
	return in.Person, ok
}

// cookie holds a session's secret.
const cookie = "celandine"

// Sent is the secret of the sign-in that a request came with, and of which kind it is; "" is none.
func Sent(r *http.Request) (kind, secret string) {
	if token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); ok {
		return store.Token, token
	}
	if held, err := r.Cookie(cookie); err == nil {
		return store.Session, held.Value
	}
	return "", ""
}

// cookies are what a browser is to hold once somebody has signed in: the session's secret, and what makes it familiar.
func (k *Keeper) cookies(secret string, p store.Person) []http.Cookie {
	return []http.Cookie{k.cookie(cookie, secret, SessionLife), k.cookie(familiarCookie, token(p), familiarLife)}
}

func (k *Keeper) cookie(name, value string, life time.Duration) http.Cookie {
	return http.Cookie{Name: name, Value: value, Path: "/", HttpOnly: true, Secure: k.secure, SameSite: http.SameSiteLaxMode,
		MaxAge: int(life.Seconds())}
}

// Begin signs a person in with a session under a new cookie; the one before ends.
func (k *Keeper) Begin(ctx context.Context, login, password string, from Origin) (store.Person, []http.Cookie, error) {
	p, err := k.verify(ctx, login, password, from)
	if err != nil {
		return p, nil, err
	}
	return k.begin(ctx, p, from)
}

func (k *Keeper) begin(ctx context.Context, p store.Person, from Origin) (store.Person, []http.Cookie, error) {
	if from.Before != "" {
		if err := k.store.EndSecret(ctx, from.Before); err != nil {
			return p, nil, err
		}
	}
	secret := rand.Text()
	in := store.SignIn{PersonID: p.ID, Kind: store.Session, Name: from.Browser, Scope: store.ScopeAll, ExpiresAt: time.Now().Add(SessionLife)}
	return p, k.cookies(secret, p), k.store.BeginSignIn(ctx, secret, in)
}

// Join lets a person choose a password with a one-time code, and signs them in. A code that is not known costs no hash; it is
// too long to be guessed, so that nobody has to wait.
func (k *Keeper) Join(ctx context.Context, code, password string, from Origin) (store.Person, []http.Cookie, error) {
	if err := k.store.Joinable(ctx, Normal(code)); err != nil {
		return store.Person{}, nil, err
	}
	done, err := k.turn(ctx)
	if err != nil {
		return store.Person{}, nil, err
	}
	hash, err := Hash(password, k.cost)
	done()
	if err != nil {
		return store.Person{}, nil, err
	}
	p, err := k.store.Join(ctx, Normal(code), hash)
	if err != nil {
		return p, nil, err
	}
	return k.begin(ctx, p, from)
}

// JoinLife is how long a join code can be used.
const JoinLife = 30 * 24 * time.Hour

// NewCode makes a join code: twelve letters and digits that are not taken for each other, 60 bits.
func NewCode() string {
	letters := strings.ToLower(rand.Text())[:12]
	return letters[:4] + "-" + letters[4:8] + "-" + letters[8:]
}

// Normal is a join code as it is kept, however it was typed.
func Normal(code string) string {
	return strings.NewReplacer("-", "", " ", "", "0", "o", "1", "l").Replace(strings.ToLower(code))
}

// End ends the sign-in of a secret, and gives the cookie that takes the place of its own.
func (k *Keeper) End(ctx context.Context, secret string) (http.Cookie, error) {
	gone := k.cookie(cookie, "", 0)
	gone.MaxAge = -1
	if secret == "" {
		return gone, nil
	}
	return gone, k.store.EndSecret(ctx, secret)
}

// Wish is what a token is to be.
type Wish struct {
	Name  string // what its person will know it by
	Scope string // of store.ScopeRead …
	Life  time.Duration
}

// Issue gives a token for the command line. It is shown once.
func (k *Keeper) Issue(ctx context.Context, login, password string, from Origin, w Wish) (token string, in store.SignIn, err error) {
	p, err := k.verify(ctx, login, password, from)
	if err != nil {
		return "", in, err
	}
	token = "cel_" + rand.Text()
	in = store.SignIn{PersonID: p.ID, Kind: store.Token, Name: w.Name, Scope: w.Scope, ExpiresAt: time.Now().Add(w.Life)}
	err = k.store.BeginSignIn(ctx, token, in)
	in.Person = p
	return token, in, err
}

// verify finds the person of a login and a password, when an attempt may be made: see [ErrWait].
func (k *Keeper) verify(ctx context.Context, login, password string, from Origin) (store.Person, error) {
	p, err := k.store.PersonByLogin(ctx, login)
	hash, there := p.PasswordHash, true
	switch {
	case errors.Is(err, store.ErrNotFound), err == nil && (hash == "" || p.DisabledAt != nil):
		hash, there = k.decoy, false
	case err != nil:
		return p, err
	}
	err = k.tried.attempt(ctx, login, from.Address, from.knows(p), func() error {
		done, err := k.turn(ctx)
		if err != nil {
			return err
		}
		defer done()
		match, err := argon2id.ComparePasswordAndHash(password, hash)
		if err != nil || !match || !there {
			return ErrWrongPassword
		}
		return nil
	})
	if err != nil {
		return store.Person{}, err
	}
	return p, nil
}
