// Package auth tells who is asking.
//
// A sign-in is a session, held by a cookie (the console), or a bearer token (the command line); both are a secret whose row the
// store keeps. [Keeper.Load] is the middleware that finds the sign-in of a request and puts it in the context; [SignIn] and [Person] read it
// there. What a person may do is decided where it is done.
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

// New returns a keeper whose sessions live in the database; where secure is true, browsers send them over HTTPS only. down answers a
// request whose session could not be read.
func New(s *store.Store, cost *argon2id.Params, secure bool, down func(http.ResponseWriter, *http.Request, error)) (*Keeper, error) {
	kept := pgxstore.NewWithCleanupInterval(s.Pool, 10*time.Minute)
	sessions := scs.New()
	sessions.Store = kept
	sessions.Lifetime = SessionLife
	sessions.HashTokenInStore = true
	sessions.Cookie.Name = "celandine"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.Secure = secure
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

type signInKey struct{}

// SignIn returns the sign-in that a request came with; ok is false for nobody.
func SignIn(ctx context.Context) (in store.SignIn, ok bool) {
	in, ok = ctx.Value(signInKey{}).(store.SignIn)
	return in, ok
}

// Person returns who is asking; ok is false for nobody.
func Person(ctx context.Context) (p store.Person, ok bool) {
	in, ok := SignIn(ctx)
	return in.Person, ok
}

// Load finds the person of each request. down answers when the database cannot be asked.
func (k *Keeper) Load(down func(http.ResponseWriter, *http.Request, error)) func(http.Handler) http.Handler {
	return func(next http.Handler) http.Handler {
		return k.sessions.LoadAndSave(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			in, err := k.signIn(r)
			switch {
			case err == nil:
				r = r.WithContext(context.WithValue(r.Context(), signInKey{}, in))
			case !errors.Is(err, store.ErrNotFound):
				down(w, r, err)
				return
			}
			next.ServeHTTP(w, r)
		}))
	}
}

// secret is where a session keeps that of its sign-in.
const secret = "secret"

func (k *Keeper) signIn(r *http.Request) (store.SignIn, error) {
	if token, ok := strings.CutPrefix(r.Header.Get("Authorization"), "Bearer "); ok {
		return k.store.SignedIn(r.Context(), store.Token, token)
	}
	held := k.sessions.GetString(r.Context(), secret)
	if held == "" {
		return store.SignIn{}, store.ErrNotFound
	}
	return k.store.SignedIn(r.Context(), store.Session, held)
}

// Begin signs a person in with a session under a new cookie; browser is what they will know it by.
func (k *Keeper) Begin(ctx context.Context, login, password, browser string) (store.Person, error) {
	p, err := k.verify(ctx, login, password)
	if err != nil {
		return p, err
	}
	return p, k.begin(ctx, p, browser)
}

func (k *Keeper) begin(ctx context.Context, p store.Person, browser string) error {
	if before := k.sessions.GetString(ctx, secret); before != "" {
		if err := k.store.EndSecret(ctx, before); err != nil {
			return err
		}
	}
	if err := k.sessions.RenewToken(ctx); err != nil {
		return err
	}
	held := rand.Text()
	k.sessions.Put(ctx, secret, held)
	return k.store.BeginSignIn(ctx, held, store.SignIn{PersonID: p.ID, Kind: store.Session, Name: browser, Scope: store.ScopeAll, ExpiresAt: time.Now().Add(SessionLife)})
}

// Join lets a person choose a password with a one-time code, and signs them in.
func (k *Keeper) Join(ctx context.Context, code, password, browser string) (store.Person, error) {
	hash, err := k.Hash(password)
	if err != nil {
		return store.Person{}, err
	}
	p, err := k.store.Join(ctx, Normal(code), hash)
	if err != nil {
		return p, err
	}
	return p, k.begin(ctx, p, browser)
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

// End ends the sign-in that a request came with, and its cookie.
func (k *Keeper) End(ctx context.Context) error {
	if in, ok := SignIn(ctx); ok {
		if err := k.store.EndSignIn(ctx, in.PersonID, in.ID); err != nil && !errors.Is(err, store.ErrNotFound) {
			return err
		}
	}
	return k.sessions.Destroy(ctx)
}

// Wish is what a token is to be.
type Wish struct {
	Name  string // what its person will know it by
	Scope string // of store.ScopeRead …
	Life  time.Duration
}

// Issue gives a token for the command line. It is shown once.
func (k *Keeper) Issue(ctx context.Context, login, password string, w Wish) (token string, in store.SignIn, err error) {
	p, err := k.verify(ctx, login, password)
	if err != nil {
		return "", in, err
	}
	token = "cel_" + rand.Text()
	in = store.SignIn{PersonID: p.ID, Kind: store.Token, Name: w.Name, Scope: w.Scope, ExpiresAt: time.Now().Add(w.Life)}
	err = k.store.BeginSignIn(ctx, token, in)
	in.Person = p
	return token, in, err
}

func (k *Keeper) verify(ctx context.Context, login, password string) (store.Person, error) {
	p, err := k.store.PersonByLogin(ctx, login)
	hash := p.PasswordHash
	if errors.Is(err, store.ErrNotFound) || err == nil && (hash == "" || p.DisabledAt != nil) {
		hash, err = k.decoy, store.ErrNotFound
	} else if err != nil {
		return p, err
	}
	match, wrong := argon2id.ComparePasswordAndHash(password, hash)
	if wrong != nil || !match || err != nil {
		return store.Person{}, ErrWrongPassword
	}
	return p, nil
}
