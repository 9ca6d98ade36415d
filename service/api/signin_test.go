package api_test

import (
	"encoding/base32"
	"encoding/base64"
	"encoding/hex"
	"encoding/json"
	"io"
	"net/http"
	"net/http/cookiejar"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service/servicetest"
)

const (
	firefox = "Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0"
	asAna   = `{"login":"ana","password":"glasshouse"}`
)

// visit is a browser that keeps cookies.
func visit(t *testing.T, s *servicetest.Service) func(method, path, body string) (int, string) {
	jar, err := cookiejar.New(nil)
	require.NoError(t, err)
	web := &http.Client{Jar: jar}
	t.Cleanup(web.CloseIdleConnections)
	return func(method, path, body string) (int, string) {
		r, err := http.NewRequest(method, s.URL+path, strings.NewReader(body))
		require.NoError(t, err)
		r.Header.Set("Content-Type", "application/json")
		r.Header.Set("User-Agent", firefox)
		answer, err := web.Do(r)
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		return answer.StatusCode, string(text)
	}
}

func TestExpiredSessionIsToldAndSignsInAgain(t *testing.T) {
	s := servicetest.Start(t, true)
	call := visit(t, s)
	status, _ := call("POST", "/api/session", asAna)
	require.Equal(t, 200, status)
	status, text := call("GET", "/api/me", "")
	require.Equal(t, 200, status, text)
	s.Exec(t, "UPDATE tokens SET expires_at = now() - interval '1 minute'")
	status, text = call("GET", "/api/exercises", "")
	assert.Equal(t, 401, status)
	assert.Contains(t, text, "Sign in first")
	status, _ = call("POST", "/api/session", asAna)
	assert.Equal(t, 200, status)
}

// Sessions and tokens stand in one list, each by a name its person knows; one is ended, the others go on.
func TestSignInsAreListedAndEndedOneByOne(t *testing.T) {
	s := servicetest.Start(t, true)
	s.Exec(t, "DELETE FROM tokens")
	call := visit(t, s)
	status, _ := call("POST", "/api/session", asAna)
	require.Equal(t, 200, status)
	token := s.As(t, "ana")
	token.Token = mustLogin(t, s, "ana", client.TokenWish{Name: "marks script", Scope: "read", Days: 7}).Token
	s.As(t, "ben")

	_, text := call("GET", "/api/signins", "")
	var list []client.SignIn
	require.NoError(t, json.Unmarshal([]byte(text), &list))
	require.Len(t, list, 3)
	assert.Equal(t, []string{"marks script", "", "Firefox on Linux"}, []string{list[0].Name, list[1].Name, list[2].Name})
	assert.Equal(t, []bool{false, false, true}, []bool{list[0].This, list[1].This, list[2].This})
	assert.Equal(t, "read", list[0].Scope)
	assert.InDelta(t, 7*24, list[0].Expires.Sub(list[0].Began).Hours(), 0.1)
	assert.Nil(t, list[0].Used)
	assert.NotNil(t, list[2].Used)

	require.NoError(t, s.As(t, "ana").EndSignIn(ctx, list[2].ID))
	status, _ = call("GET", "/api/me", "")
	assert.Equal(t, 401, status, "the session is over at once")
	_, err := token.Marks(ctx)
	assert.NoError(t, err, "the token goes on")
	err = s.As(t, "ben").EndSignIn(ctx, list[0].ID)
	assert.Equal(t, 404, problemOf(t, err).Status, "what is another's")
	require.NoError(t, token.Logout(ctx))
	_, err = token.Marks(ctx)
	assert.Equal(t, 401, problemOf(t, err).Status, "a token ends itself")
}

func mustLogin(t *testing.T, s *servicetest.Service, login string, w client.TokenWish) client.Token {
	w.Credentials = client.Credentials{Login: login, Password: servicetest.Password}
	token, err := (&client.Client{URL: s.URL}).Login(ctx, w)
	require.NoError(t, err)
	return token
}

// Signing in again gives another cookie, and the one from before is of no use.
func TestSignInRotates(t *testing.T) {
	s := servicetest.Start(t, true)
	s.Exec(t, "DELETE FROM tokens")
	call := visit(t, s)
	for range 2 {
		status, _ := call("POST", "/api/session", asAna)
		require.Equal(t, 200, status)
	}
	_, text := call("GET", "/api/signins", "")
	assert.Equal(t, 1, strings.Count(text, `"session"`), text)
}

// What the records hold of a session or a token does not sign in.
func TestRecordsDoNotSignIn(t *testing.T) {
	s := servicetest.Start(t, true)
	call := visit(t, s)
	status, _ := call("POST", "/api/session", asAna)
	require.Equal(t, 200, status)
	token := mustLogin(t, s, "ana", client.TokenWish{}).Token
	var hashes [][]byte
	require.NoError(t, s.Store.Pool.QueryRow(ctx, "SELECT array_agg(hash) FROM tokens").Scan(&hashes))
	require.Len(t, hashes, 2)
	var kept []string
	for _, h := range hashes {
		kept = append(kept, hex.EncodeToString(h), base64.StdEncoding.EncodeToString(h), base32.StdEncoding.EncodeToString(h))
	}
	kept = append(kept, strings.TrimPrefix(token, "cel_")) // a token is no session
	for _, stolen := range kept {
		_, err := (&client.Client{URL: s.URL, Token: stolen}).Marks(ctx)
		assert.Equal(t, 401, problemOf(t, err).Status)
		r, err := http.NewRequest("GET", s.URL+"/api/me", nil)
		require.NoError(t, err)
		r.AddCookie(&http.Cookie{Name: "celandine", Value: stolen})
		status, _ := answer(t, r, "")
		assert.Equal(t, 401, status)
	}
}

// Every operation is tried with a token of each scope, by an instructor who may do it: reading needs no more than read, handing in no more
// than hand-in, all else all.
func TestScopes(t *testing.T) {
	atLeast := map[string]string{"checkProgram": "read", "handIn": "hand-in", "saveDraft": "hand-in", "start": "hand-in"}
	always := []string{"signIn", "join", "issueToken", "signOut"}
	order := map[string]int{"": 0, "read": 1, "hand-in": 2, "all": 3}
	s := servicetest.Start(t, true)
	values := map[string]string{"id": "3", "class": "1", "name": "mist-hold-in"}
	d := described(t, s)
	d.each(func(method, path string, op operation) {
		asked := map[bool]string{true: "read", false: "all"}[method == "get"]
		if less, ok := atLeast[op.OperationID]; ok {
			asked = less
		}
		for _, always := range always {
			if op.OperationID == always {
				asked = ""
			}
		}
		for _, scope := range []string{"read", "hand-in"} {
			token := mustLogin(t, s, "nadia", client.TokenWish{Scope: scope}).Token
			_, text := answer(t, d.request(t, s, method, path, op, values), token)
			assert.Equal(t, order[scope] < order[asked], strings.Contains(text, `"scope"`) && strings.Contains(text, "This token may"),
				"%s with %s: %.200s", op.OperationID, scope, text)
		}
	})
}
