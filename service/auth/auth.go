// Package auth tells who is asking.
//
// A person is known by a session cookie (the console) or a bearer token (the
// command line). [Keeper.Load] is the middleware that finds the person and puts them in the
// request's context; [Person] reads them there. What a person may do is decided where it is done.
package auth

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/hex"
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
	p, err := k.store.Person(r.Context(), id)
	if err == nil && (p.DisabledAt != nil || k.sessions.GetString(r.Context(), "password") != stamp(p)) {
		return store.Person{}, store.ErrNotFound // disabled, or another password was chosen: the session is over
	}
	return p, err
}

// stamp tells one password from another without telling anything of it.
func stamp(p store.Person) string {
	h := sha256.Sum256([]byte(p.PasswordHash))
	return hex.EncodeToString(h[:8])
}

// SignIn begins a session under a new token.
func (k *Keeper) SignIn(ctx context.Context, login, password string) (store.Person, error) {
	p, err := k.verify(ctx, login, password)
	if err != nil {
		return p, err
	}
	return p, k.begin(ctx, p)
}

func (k *Keeper) begin(ctx context.Context, p store.Person) error {
	if err := k.sessions.RenewToken(ctx); err != nil {
		return err
	}
	k.sessions.Put(ctx, "person", p.ID)
	k.sessions.Put(ctx, "password", stamp(p))
	return nil
}

// Join lets a person choose a password with a one-time code, and signs them in.
func (k *Keeper) Join(ctx context.Context, code, password string) (store.Person, error) {
	hash, err := k.Hash(password)
	if err != nil {
		return store.Person{}, err
	}
	p, err := k.store.Join(ctx, Normal(code), hash)
	if err != nil {
		return p, err
	}
	return p, k.begin(ctx, p)
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
