package e2e

import (
	"context"
	"net/http"
	"net/http/httptest"
	"net/http/httputil"
	"net/url"
	"strings"
	"testing"

	"github.com/chromedp/chromedp/kb"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service/servicetest"
)

const saved = "document.querySelector('[data-kept=service]')"

// What is written is kept by the service a moment later, and stands there in another browser.
func TestDraftFollowsThePerson(t *testing.T) {
	s, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
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
	s, p := look(t, "liam", "#/exercise/mist-hold-in", "Wiring")
	require.NoError(t, p.Click("Bench"))
	require.NoError(t, p.See("Now: scan 0"))
	s.Stop(t)
	require.NoError(t, p.Write(rightMist))
	require.NoError(t, p.See("the service does not answer just now"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	require.NoError(t, p.Click("scans"))
	require.NoError(t, p.See("Now: scan 11"))
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
	p := drawn(t, "mist-hold-in", "Wiring", rightMist)
	require.NoError(t, p.Click("Start over"))
	require.NoError(t, p.Until("the starter", "!document.querySelector('.cm-content').innerText.includes('[mist_off]')"))
	require.NoError(t, p.Click("Undo"))
	becomes(t, p, rightMist)
}

// Where the core cannot be loaded, as behind a proxy that forbids it, one is told, and still writes, checks and hands in.
func TestWithoutTheCore(t *testing.T) {
	s := servicetest.Start(t, true)
	address, err := url.Parse(s.URL)
	require.NoError(t, err)
	through := httputil.NewSingleHostReverseProxy(address)
	proxy := httptest.NewServer(http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if strings.HasSuffix(r.URL.Path, ".wasm") {
			http.Error(w, "not here", http.StatusForbidden)
			return
		}
		through.ServeHTTP(w, r)
	}))
	t.Cleanup(proxy.Close)
	p := open(t)
	t.Cleanup(p.Close) // before the proxy, which waits for what is open
	require.NoError(t, p.SignIn(proxy.URL, "liam", servicetest.Password))
	require.NoError(t, p.Look(proxy.URL, "#/exercise/mist-hold-in", "light"))
	require.NoError(t, p.See("Wiring"))
	require.NoError(t, p.See("The drawing and the bench could not be loaded."))
	require.NoError(t, p.Click("Bench"))
	require.NoError(t, p.See("The core could not be loaded"))
	require.NoError(t, p.Write(wrongMist))
	require.NoError(t, p.Press(kb.Escape))
	require.NoError(t, p.Click("Check"))
	require.NoError(t, p.See("0 errors, 0 warnings"))
	require.NoError(t, p.Click("Hand in"))
	require.NoError(t, p.See("At scan 300 (3 s), mist_valve should be FALSE and was TRUE."))
}
