package auth_test

import (
	"context"
	"errors"
	"net/http"
	"net/http/httptest"
	"sync"
	"testing"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service/auth"
	"celandine/service/servicetest"
	"celandine/service/store"
)

var cheap = &argon2id.Params{Memory: 64, Iterations: 1, Parallelism: 1, SaltLength: 8, KeyLength: 16}

const password = "glasshouse"

// keeper is a keeper of a store in which ana has a password.
func keeper(t *testing.T, wrong int) (*auth.Keeper, *store.Store, store.Person) {
	s, err := store.Open(t.Context(), servicetest.Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	_, err = s.Migrate(t.Context())
	require.NoError(t, err)
	hash, err := auth.Hash(password, cheap)
	require.NoError(t, err)
	ana, err := s.SavePerson(t.Context(), store.Person{Login: "ana", Name: "Ana", Role: store.Learner, PasswordHash: hash})
	require.NoError(t, err)
	k, err := auth.New(s, cheap, true, wrong)
	require.NoError(t, err)
	return k, s, ana
}

// admitted tells whether a secret opens anything.
func admitted(t *testing.T, s *store.Store, kind, secret string) bool {
	_, err := s.Admit(t.Context(), kind, secret, store.Place{})
	if err != nil {
		require.ErrorIs(t, err, store.ErrNotFound)
	}
	return err == nil
}

// A session's secret is in a cookie that scripts cannot read and that goes over HTTPS alone; signing in again in the same browser ends the
// session before, and signing out ends it.
func TestSessions(t *testing.T) {
	k, s, ana := keeper(t, 10)
	p, cookies, err := k.Begin(t.Context(), "ANA", password, auth.Origin{Address: "a", Browser: "Firefox"})
	require.NoError(t, err)
	assert.Equal(t, ana.ID, p.ID)
	for _, c := range cookies {
		assert.True(t, c.HttpOnly && c.Secure && c.Path == "/" && c.SameSite == http.SameSiteLaxMode && c.MaxAge > 0, c.Name)
	}
	first := cookies[0].Value
	assert.True(t, admitted(t, s, store.Session, first))
	assert.False(t, admitted(t, s, store.Token, first), "a session's secret is no token")

	_, cookies, err = k.Begin(t.Context(), "ana", password, auth.Origin{Address: "a", Before: first})
	require.NoError(t, err)
	assert.False(t, admitted(t, s, store.Session, first))
	gone, err := k.End(t.Context(), cookies[0].Value)
	require.NoError(t, err)
	assert.Negative(t, gone.MaxAge)
	assert.False(t, admitted(t, s, store.Session, cookies[0].Value))
	_, err = k.End(t.Context(), "")
	assert.NoError(t, err, "who has no session can sign out")
}

func TestTokens(t *testing.T) {
	k, s, _ := keeper(t, 10)
	token, in, err := k.Issue(t.Context(), "ana", password, auth.Origin{Address: "a"},
		auth.Wish{Name: "script", Scope: store.ScopeRead, Life: time.Hour})
	require.NoError(t, err)
	assert.Equal(t, "ana", in.Person.Login)
	assert.True(t, admitted(t, s, store.Token, token))
	over, _, err := k.Issue(t.Context(), "ana", password, auth.Origin{Address: "a"},
		auth.Wish{Name: "late", Scope: store.ScopeRead, Life: -time.Hour})
	require.NoError(t, err)
	assert.False(t, admitted(t, s, store.Token, over), "it has expired")
}

// A wrong password, an unknown login, one without a password and one that is disabled are answered alike.
func TestWhoIsRefused(t *testing.T) {
	k, s, ana := keeper(t, 100)
	_, err := s.SavePerson(t.Context(), store.Person{Login: "ben", Name: "Ben", Role: store.Learner})
	require.NoError(t, err)
	from := auth.Origin{Address: "a"}
	for login, with := range map[string]string{"ana": "greenhouse", "nobody": password, "ben": ""} {
		_, _, err := k.Begin(t.Context(), login, with, from)
		assert.ErrorIs(t, err, auth.ErrWrongPassword, login)
	}
	require.NoError(t, s.Disable(t.Context(), ana.ID, ana, true))
	_, _, err = k.Begin(t.Context(), "ana", password, from)
	assert.ErrorIs(t, err, auth.ErrWrongPassword)
}

// Guesses have to wait, whatever comes after; a browser in which the person has signed in before does not wait for another's guesses.
func TestGuessesWait(t *testing.T) {
	k, _, ana := keeper(t, 100)
	_, cookies, err := k.Begin(t.Context(), "ana", password, auth.Origin{Address: "home"})
	require.NoError(t, err)
	r := httptest.NewRequest(http.MethodPost, "/", nil)
	for _, c := range cookies {
		r.AddCookie(&c)
	}
	home := auth.OriginOf(r, "home", "Firefox")
	var wait auth.ErrWait
	for n := 0; ; n++ {
		require.Less(t, n, 50, "guesses never have to wait")
		_, _, err := k.Begin(t.Context(), "ana", "guess", auth.Origin{Address: "elsewhere"})
		if errors.As(err, &wait) {
			break
		}
		require.ErrorIs(t, err, auth.ErrWrongPassword)
	}
	assert.Positive(t, wait.Seconds())
	assert.ErrorContains(t, wait, "too many wrong attempts; wait ")
	_, _, err = k.Begin(t.Context(), "ana", password, auth.Origin{Address: "elsewhere"})
	assert.ErrorAs(t, err, &wait, "not even the right one is looked at")
	p, _, err := k.Begin(t.Context(), "ana", password, home)
	require.NoError(t, err)
	assert.Equal(t, ana.ID, p.ID)
}

// A join code is for one person, once, and chooses the password.
func TestJoin(t *testing.T) {
	k, s, _ := keeper(t, 10)
	teacher, err := s.SavePerson(t.Context(), store.Person{Login: "nadia", Name: "Nadia", Role: store.Instructor})
	require.NoError(t, err)
	_, err = s.SavePerson(t.Context(), store.Person{Login: "ben", Name: "Ben", Role: store.Learner})
	require.NoError(t, err)
	code := auth.NewCode()
	ben, err := s.PersonByLogin(t.Context(), "ben")
	require.NoError(t, err)
	require.NoError(t, s.IssueCode(t.Context(), teacher.ID, 0, ben, auth.Normal(code), time.Now().Add(time.Hour)))
	p, _, err := k.Join(t.Context(), code, "a new one", auth.Origin{Address: "a"})
	require.NoError(t, err)
	assert.Equal(t, "ben", p.Login)
	_, _, err = k.Begin(t.Context(), "ben", "a new one", auth.Origin{Address: "a"})
	require.NoError(t, err)
	_, _, err = k.Join(t.Context(), code, "another", auth.Origin{Address: "a"})
	assert.ErrorIs(t, err, store.ErrNotFound)
}

// Right attempts at once all succeed; one whose asker has gone is given up.
func TestManyAtOnce(t *testing.T) {
	k, _, _ := keeper(t, 10)
	var group sync.WaitGroup
	for range 20 {
		group.Go(func() {
			_, _, err := k.Begin(context.Background(), "ana", password, auth.Origin{Address: "a"})
			assert.NoError(t, err)
		})
	}
	group.Wait()
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	_, _, err := k.Begin(gone, "ana", password, auth.Origin{Address: "a"})
	assert.ErrorIs(t, err, context.Canceled)
}

func TestSent(t *testing.T) {
	for name, c := range map[string]struct{ header, cookie, kind, secret string }{
		"nothing":                 {},
		"a token":                 {header: "Bearer cel_x", kind: store.Token, secret: "cel_x"},
		"a session":               {cookie: "s", kind: store.Session, secret: "s"},
		"a token goes first":      {header: "Bearer cel_x", cookie: "s", kind: store.Token, secret: "cel_x"},
		"another scheme":          {header: "Basic abc"},
		"another scheme, session": {header: "Basic abc", cookie: "s", kind: store.Session, secret: "s"},
	} {
		r := httptest.NewRequest(http.MethodGet, "/", nil)
		if c.header != "" {
			r.Header.Set("Authorization", c.header)
		}
		if c.cookie != "" {
			r.AddCookie(&http.Cookie{Name: "celandine", Value: c.cookie})
		}
		kind, secret := auth.Sent(r)
		assert.Equal(t, c.kind, kind, name)
		assert.Equal(t, c.secret, secret, name)
	}
}

func TestContext(t *testing.T) {
	_, ok := auth.Person(t.Context())
	assert.False(t, ok)
	ctx := auth.With(t.Context(), &store.Admission{SignIn: store.SignIn{ID: 3, Person: store.Person{Login: "ana"}}})
	p, ok := auth.Person(ctx)
	assert.True(t, ok && p.Login == "ana")
}
