// Package auth tells who is asking.
//
// A person is known by a session cookie (the console) or a bearer token (the
// command line). [Keeper.Load] is the middleware that finds the person and puts them in the
// request's context; [Person] reads them there. What a person may do is decided where it is done.
package auth

import (
	"context"
	"crypto/rand"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/alexedwards/scs/pgxstore"
	"github.com/alexedwards/scs/v2"

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
	sessions *scs.SessionManager
	store    *store.Store
	stop     func()
	cost     *argon2id.Params
	decoy    string // compared with where there is no such login, so that both take as long
}

// Cost is what a password hash takes: 19 MiB, two passes.
var Cost = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// New returns a keeper whose sessions live in the database. down answers a
// request whose session could not be read.
func New(s *store.Store, cost *argon2id.Params, down func(http.ResponseWriter, *http.Request, error)) (*Keeper, error) {
	kept := pgxstore.NewWithCleanupInterval(s.Pool, 10*time.Minute)
	sessions := scs.New()
	sessions.Store = kept
	sessions.Lifetime = SessionLife
	sessions.Cookie.Name = "celandine"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	sessions.ErrorFunc = down
	decoy, err := argon2id.CreateHash(rand.Text(), cost)
	if err != nil {
		return nil, err
	}
	return &Keeper{sessions: sessions, store: s, stop: kept.StopCleanup, cost: cost, decoy: decoy}, nil
}

// Close ends the clean-up of old sessions.
func (k *Keeper) Close() { k.stop() }

// Hash returns what is kept of a password.
func (k *Keeper) Hash(password string) (string, error) { return argon2id.CreateHash(password, k.cost) }

type personKey struct{}

// Person returns who is asking; ok is false for nobody.
func Person(ctx context.Context) (p store.Person, ok bool) {
	p, ok = ctx.Value(personKey{}).(store.Person)
	return p, ok
}

// Load finds the person of each request. down answers when the database cannot be asked.
func (k *Keeper) Load(down func(http.ResponseWriter, *http.Request, error)) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return k.sessions.LoadAndSave(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			p, err := k.person(r)
			switch {
			case err == nil:
				r = r.WithContext(context.WithValue(r.Context(), personKey{}, p))
			case !errors.Is(err, store.ErrNotFound):
				down(w, r, err)
				return
			}
			next.ServeHTTP(w, r)
		}))
	}
}

func (k *Keeper) person(r *http.Request) (store.Person, error) {
	if token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); ok {
		return k.store.PersonByToken(r.Context(), token)
	}
	id := k.sessions.GetInt64(r.Context(), "person")
	if id == 0 {
		return store.Person{}, store.ErrNotFound
	}
	return k.store.Person(r.Context(), id)
}

// SignIn begins a session under a new token.
func (k *Keeper) SignIn(ctx context.Context, login, password string) (store.Person, error) {
	p, err := k.verify(ctx, login, password)
	if err != nil {
		return p, err
	}
	if err := k.sessions.RenewToken(ctx); err != nil {
		return p, err
	}
	k.sessions.Put(ctx, "person", p.ID)
	return p, nil
}

// SignOut ends the session.
func (k *Keeper) SignOut(ctx context.Context) error { return k.sessions.Destroy(ctx) }

// Issue gives a token for the command line. It is shown once.
func (k *Keeper) Issue(ctx context.Context, login, password string) (token string, p store.Person, err error) {
	if p, err = k.verify(ctx, login, password); err != nil {
		return "", p, err
	}
	token = "cel_" + rand.Text()
	return token, p, k.store.SaveToken(ctx, token, p.ID, time.Now().Add(TokenLife))
}

func (k *Keeper) verify(ctx context.Context, login, password string) (store.Person, error) {
	p, err := k.store.PersonByLogin(ctx, login)
	hash := p.PasswordHash
	if errors.Is(err, store.ErrNotFound) {
		hash = k.decoy
	} else if err != nil {
		return p, err
	}
	match, wrong := argon2id.ComparePasswordAndHash(password, hash)
	if wrong != nil || !match || err != nil {
		return store.Person{}, ErrWrongPassword
	}
	return p, nil
}
