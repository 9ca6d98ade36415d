package e2e

import (
	"context"
	"io"
	"log"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"sync/atomic"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/e2e/browser"
	"celandine/service/servicetest"
)

const saved = "document.querySelector('[data-kept=service]')"

// What is written is kept by the service a moment later, and stands there in another browser.
func TestDraftFollowsThePerson(t *testing.T) {
	t.Parallel()
	s, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	meetsTrouble(p)
	require.NoError(t, p.Write(rightMist))
	require.NoError(t, p.Until("the draft saved", saved))

	elsewhere := visit(t, s, "liam", "#/exercise/mist-hold-in", "RUNG 'Mist' { [mist_on] | [mist_valve] }")
	require.NoError(t, elsewhere.Write(wrongMist))
	require.NoError(t, elsewhere.Until("the draft saved", saved))

	// The first goes on writing, knowing nothing of it: it is told, and nothing is lost.
	require.NoError(t, p.Write("PROGRAM mine\nEND_PROGRAM\n"))
	require.NoError(t, p.See("open in another browser, where the text has been changed"))
	require.NoError(t, p.Click("Keep this one"))
	require.NoError(t, p.Until("the draft saved", saved))
	list, err := s.As(t, "liam").Drafts(context.Background(), "mist-hold-in")
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, client.Draft{Language: "ladder", Text: "PROGRAM mine\nEND_PROGRAM\n", Version: 3, Saved: list[0].Saved}, list[0])
}

// While the service is gone one goes on writing and pressing; when it is back, it has the text.
func TestWritingGoesOnWithoutTheService(t *testing.T) {
	t.Parallel()
	s, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	meetsTrouble(p)
	require.NoError(t, p.See("Now: scan 0"))
	s.Stop(t)
	require.NoError(t, p.Write(rightMist))
	require.NoError(t, p.See("the service does not answer just now"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("Now: scan 10"))
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("Your text is kept here"))
	s.Run(t)
	require.NoError(t, p.Until("the draft saved", saved))
	list, err := s.As(t, "liam").Drafts(context.Background(), "mist-hold-in")
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, rightMist, list[0].Text)
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("10 of 10"))
}

// Beginning again can be taken back.
func TestStartOverIsUndone(t *testing.T) {
	t.Parallel()
	p := drawn(t, "mist-hold-in", "Wiring", rightMist)
	require.NoError(t, p.Click("Start over"))
	require.NoError(t, p.Until("the starter", "!document.querySelector('.cm-content').innerText.includes('[mist_off]')"))
	require.NoError(t, p.Click("Undo"))
	becomes(t, p, rightMist)
}

// proxied is a page, and the address of a proxy before a service, which answers some requests by itself.
func proxied(t *testing.T, s *servicetest.Service, answers func(http.ResponseWriter, *http.Request) bool) (p *browser.Page,
	address string) {
	to, err := url.Parse(s.URL)
	require.NoError(t, err)
	through := httputil.NewSingleHostReverseProxy(to)
	through.ErrorLog = log.New(io.Discard, "", 0) // pages that close leave requests behind
	proxy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if !answers(w, r) {
			through.ServeHTTP(w, r)
		}
	}))
	t.Cleanup(proxy.Close)
	p = open(t)
	t.Cleanup(p.Close) // before the proxy, which waits for what is open
	return p, proxy.URL
}

// A page that is opened while the database is away says so, and goes on by itself.
func TestPageOpenedInTrouble(t *testing.T) {
	t.Parallel()
	var away atomic.Bool
	p, address := proxied(t, servicetest.Start(t, true), func(w http.ResponseWriter, r *http.Request) bool {
		if !away.Load() || r.URL.Path != "/api/session" {
			return false
		}
		w.Header().Set("Content-Type", "application/problem+json")
		w.WriteHeader(http.StatusServiceUnavailable)
		_, _ = io.WriteString(w, `{"status": 503, "detail": "The database does not answer just now."}`)
		return true
	})
	meetsTrouble(p)
	require.NoError(t, p.Enter(address, "liam", servicetest.Password, "#/", "light"))
	require.NoError(t, p.See("Hold the mist valve in"))
	away.Store(true)
	require.NoError(t, p.Look(address, "#/", "light"))
	require.NoError(t, p.See("The database does not answer just now. This page goes on by itself."))
	picture(t, p, "page-in-trouble")
	text, err := p.Text()
	require.NoError(t, err)
	assert.NotContains(t, text, "Password", "nobody has to sign in again")
	away.Store(false)
	require.NoError(t, p.See("Hold the mist valve in"))
}

// Where the core cannot be loaded, as behind a proxy that forbids it, one is told, and still writes, checks and hands in.
func TestWithoutTheCore(t *testing.T) {
	t.Parallel()
	p, proxy := proxied(t, servicetest.Start(t, true), func(w http.ResponseWriter, r *http.Request) bool {
		if strings.HasSuffix(r.URL.Path, ".wasm") {
			http.Error(w, "not here", http.StatusForbidden)
			return true
		}
		return false
	})
	meetsTrouble(p)
	require.NoError(t, p.Enter(proxy, "liam", servicetest.Password, "#/exercise/mist-hold-in", "light"))
	require.NoError(t, p.See("Wiring"))
	require.NoError(t, p.See("The drawing and the bench could not be loaded."))
	require.NoError(t, p.See("The core could not be loaded"))
	require.NoError(t, p.Write(wrongMist))
	require.NoError(t, p.Press(kb.Escape))
	require.NoError(t, p.Click("Check"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("At scan 300 (3 s), mist_valve should be FALSE and was TRUE."))
}
