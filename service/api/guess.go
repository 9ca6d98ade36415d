package api

import (
	"net/http"
	"net/netip"
	"runtime"
	"time"

	"github.com/danielgtaylor/huma/v2"
	"github.com/danielgtaylor/huma/v2/adapters/humachi"
	"github.com/go-chi/chi/v5/middleware"
	"github.com/go-chi/httprate"
)

// knowsSource notes where each request comes from: its own address, or what one of the proxies says.
func knowsSource(proxies []netip.Prefix) func(http.Handler) http.Handler {
	if len(proxies) == 0 {
		return middleware.ClientIPFromRemoteAddr
	}
	var prefixes []string
	for _, p := range proxies {
		prefixes = append(prefixes, p.String())
	}
	said := middleware.ClientIPFromXFF(prefixes...)
	return func(next http.Handler) http.Handler {
		direct, through := middleware.ClientIPFromRemoteAddr(next), said(next)
		return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
			if from, err := netip.ParseAddrPort(r.RemoteAddr); err == nil && among(proxies, from.Addr()) {
				through.ServeHTTP(w, r)
				return
			}
			direct.ServeHTTP(w, r)
		})
	}
}

func among(prefixes []netip.Prefix, a netip.Addr) bool {
	for _, p := range prefixes {
		if p.Contains(a.Unmap()) {
			return true
		}
	}
	return false
}

// guesses counts wrong passwords and codes, by where they come from. A whole class may sign in from one address at once; whoever guesses from there is
// stopped after a few. Each process counts for itself.
type guesses struct {
	most  int // a minute
	wrong httprate.LimitCounter
	turns chan struct{} // a hash takes much memory and time, so that few are made at once
}

func newGuesses(most int) *guesses {
	return &guesses{most, httprate.NewLocalLimitCounter(time.Minute), make(chan struct{}, runtime.GOMAXPROCS(0))}
}

// often tells whether too many from there were wrong in the last minute.
func (g *guesses) often(from string) bool {
	now := time.Now().UTC()
	window := now.Truncate(time.Minute)
	these, before, err := g.wrong.Get(from, window, window.Add(-time.Minute))
	passed := now.Sub(window).Minutes()
	return err == nil && float64(before)*(1-passed)+float64(these) >= float64(g.most)
}

// limited refuses attempts after too many wrong ones.
func (g *guesses) limited(ctx huma.Context, next func(huma.Context)) {
	r, w := humachi.Unwrap(ctx)
	select {
	case g.turns <- struct{}{}:
		defer func() { <-g.turns }()
	case <-ctx.Context().Done():
		return // whoever asked has gone
	}
	from := middleware.GetClientIP(r.Context())
	if g.often(from) {
		w.Header().Set("Retry-After", "60")
		Problem(w, http.StatusTooManyRequests, "Too many wrong attempts from here. Wait a minute, then try again.")
		return
	}
	next(ctx)
	if status := ctx.Status(); status == http.StatusUnauthorized || status == http.StatusNotFound {
		_ = g.wrong.Increment(from, time.Now().UTC().Truncate(time.Minute)) // a count in memory does not fail
	}
}
