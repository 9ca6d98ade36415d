package auth

import (
	"context"
	"crypto/hmac"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"fmt"
	"math"
	"net/http"
	"strings"
	"sync"
	"time"

	"celandine/service/store"
)

// How guessing is slowed. What counts is the login, so that nobody behind a school's one address locks out the others there; a
// browser that has signed in to it before is counted by itself, so that neither can somebody who guesses at a pupil's login
// keep that pupil out of their own browser.
const (
	free      = 5                // wrong attempts before one has to wait
	delay     = time.Second      // before the next, doubled with each
	longest   = 5 * time.Minute  // that delays become: some 300 guesses a day
	forgotten = time.Hour        // after the last wrong attempt
	window    = 10 * time.Minute // in which an address is counted
	hotDelay  = 30 * time.Second // from the first wrong attempt on, where too many others were wrong from the same address
	mostTries = 100_000          // logins and addresses that are remembered
)

// ErrWait tells that too many attempts were wrong; the next may come after a while.
type ErrWait struct{ For time.Duration }

// Error says how long.
func (e ErrWait) Error() string {
	return fmt.Sprintf("too many wrong attempts; wait %d s", e.Seconds())
}

// Seconds is the while, rounded up.
func (e ErrWait) Seconds() int { return int(math.Ceil(e.For.Seconds())) }

// tries are the wrong attempts on one login, from one kind of browser, or from one address.
type tries struct {
	turn  chan struct{} // attempts come one after the other: what many at once would tell, each has to wait for
	wrong int
	last  time.Time
	until time.Time // before which no attempt is looked at
}

// attempts counts wrong attempts. Each process counts for itself.
type attempts struct {
	hot int // wrong ones from an address within the window, from which on its logins have one free attempt
	mu  sync.Mutex
	of  map[string]*tries
}

func newAttempts(hot int) *attempts { return &attempts{hot: hot, of: map[string]*tries{}} }

// at finds the tries of a key, which are forgotten some time after the last wrong one.
func (a *attempts) at(key string, now time.Time) *tries {
	a.mu.Lock()
	defer a.mu.Unlock()
	if t := a.of[key]; t != nil {
		return t
	}
	if len(a.of) >= mostTries {
		a.forget(now)
	}
	t := &tries{turn: make(chan struct{}, 1)}
	a.of[key] = t
	return t
}

// forget drops what is old, or, where nothing is, everything: memory is not a guesser's to fill.
func (a *attempts) forget(now time.Time) {
	for key, t := range a.of {
		if now.Sub(t.last) > forgotten {
			delete(a.of, key)
		}
	}
	if len(a.of) >= mostTries {
		clear(a.of)
	}
}

// attempt lets one attempt be made when it may be, and counts it where it was wrong.
func (a *attempts) attempt(ctx context.Context, login, address string, familiar bool, try func() error) error {
	key := "login " + strings.ToLower(login)
	if familiar {
		key = "familiar " + strings.ToLower(login)
	}
	now := time.Now()
	t := a.at(key, now)
	select {
	case t.turn <- struct{}{}:
		defer func() { <-t.turn }()
	case <-ctx.Done():
		return ctx.Err()
	}
	now = time.Now()
	if now.Before(t.until) {
		return ErrWait{t.until.Sub(now)}
	}
	err := try()
	switch {
	case err == nil:
		a.right(t)
	case errors.Is(err, ErrWrongPassword):
		hot := a.wrong(a.at("address "+address, now), window) > a.hot
		wrong := a.wrong(t, forgotten)
		t.until = t.last.Add(pause(wrong, hot && !familiar))
	}
	return err
}

func (a *attempts) right(t *tries) {
	a.mu.Lock()
	defer a.mu.Unlock()
	t.wrong, t.until = 0, time.Time{}
}

// wrong counts a wrong attempt among those that are not older than memory.
func (a *attempts) wrong(t *tries, memory time.Duration) int {
	a.mu.Lock()
	defer a.mu.Unlock()
	now := time.Now()
	if now.Sub(t.last) > memory {
		t.wrong = 0
	}
	t.wrong, t.last = t.wrong+1, now
	return t.wrong
}

// pause is how long one waits after so many wrong attempts.
func pause(wrong int, hot bool) time.Duration {
	switch {
	case hot:
		return min(hotDelay<<min(wrong-1, 10), longest)
	case wrong < free:
		return 0
	}
	return min(delay<<min(wrong-free, 20), longest)
}

// An Origin is where an attempt to sign in comes from.
type Origin struct {
	Address  string
	Browser  string // what the session will be known by
	Before   string // the secret of the session that the browser has, "" for none
	Familiar string // what a browser holds that has signed in before
}

// familiarCookie is held by a browser in which somebody has signed in.
const familiarCookie = "celandine-familiar"

// familiarLife is how long a browser stays familiar.
const familiarLife = 180 * 24 * time.Hour

// OriginOf is where a request comes from, which an address is known of.
func OriginOf(r *http.Request, address, browser string) Origin {
	o := Origin{Address: address, Browser: browser}
	if kind, secret := Sent(r); kind == store.Session {
		o.Before = secret
	}
	if c, err := r.Cookie(familiarCookie); err == nil {
		o.Familiar = c.Value
	}
	return o
}

// token is what a familiar browser holds of a person. It ends with their password, and tells nothing of it.
func token(p store.Person) string {
	mac := hmac.New(sha256.New, []byte(p.PasswordHash))
	fmt.Fprint(mac, "familiar ", p.ID)
	return hex.EncodeToString(mac.Sum(nil))
}

// knows tells whether a browser has been signed in to a person before.
func (o Origin) knows(p store.Person) bool {
	return p.PasswordHash != "" && hmac.Equal([]byte(o.Familiar), []byte(token(p)))
}
