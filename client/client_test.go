package client_test

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"net/http"
	"net/http/httptest"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
)

// serving answers every request with do.
func serving(t *testing.T, do http.HandlerFunc) *client.Client {
	s := httptest.NewServer(do)
	t.Cleanup(s.Close)
	return &client.Client{URL: s.URL + "/", Token: "cel_secret"}
}

func refuse(w http.ResponseWriter, status int, body string) {
	w.WriteHeader(status)
	fmt.Fprint(w, body)
}

func TestProblemsSayWhatAndWhere(t *testing.T) {
	for _, c := range []struct{ name, body, want string }{
		{"a detail", `{"status": 409, "detail": "There is a class named Autumn already."}`, "There is a class named Autumn already."},
		{"places", `{"detail": "The exercise has problems.", "errors": [{"message": "There is no key topc.", "location": "exercise.yaml:4:1"}, {"message": "Too short."}]}`,
			"The exercise has problems.\nexercise.yaml:4:1: There is no key topc.\nToo short."},
		{"a proxy's page", "<h1>Bad Gateway</h1>", "409 Conflict"},
	} {
		t.Run(c.name, func(t *testing.T) {
			service := serving(t, func(w http.ResponseWriter, _ *http.Request) { refuse(w, http.StatusConflict, c.body) })
			_, err := service.Me(t.Context())
			var p *client.Problem
			require.ErrorAs(t, err, &p)
			assert.Equal(t, http.StatusConflict, p.Status)
			assert.Equal(t, c.want, p.Error())
		})
	}
}

func TestNobodyAnswers(t *testing.T) {
	service := serving(t, nil)
	service.URL = "http://127.0.0.1:1"
	_, err := service.Me(t.Context())
	assert.ErrorIs(t, err, client.ErrUnreachable)
	assert.ErrorContains(t, err, "http://127.0.0.1:1")
}

// A request carries who asks, which class is meant, and the key under which it may be sent again.
func TestWhatIsSent(t *testing.T) {
	service := serving(t, func(w http.ResponseWriter, r *http.Request) {
		assert.Equal(t, "Bearer cel_secret", r.Header.Get("Authorization"))
		assert.Equal(t, "again", r.Header.Get("Idempotency-Key"))
		assert.Equal(t, "/api/exercises/mist-hold-in/handins?class=2", r.URL.RequestURI())
		var p client.Program
		assert.NoError(t, json.NewDecoder(r.Body).Decode(&p))
		assert.Equal(t, client.Program{File: "mine.st", Text: "PROGRAM p"}, p)
		refuse(w, http.StatusCreated, `{"id": 7}`)
	})
	service.Class = 2
	h, err := service.HandIn(t.Context(), "mist-hold-in", client.Program{File: "mine.st", Text: "PROGRAM p"}, "again")
	require.NoError(t, err)
	assert.EqualValues(t, 7, h.ID)
}

func TestPages(t *testing.T) {
	pages := map[string]client.Page[int]{"": {Items: []int{1, 2}, Next: "2"}, "2": {Items: []int{3}, Next: "3"}, "3": {}}
	all, err := client.Pages(func(after string) (client.Page[int], error) { return pages[after], nil })
	require.NoError(t, err)
	assert.Equal(t, []int{1, 2, 3}, all)
	gone := errors.New("gone")
	_, err = client.Pages(func(after string) (client.Page[int], error) {
		if after == "2" {
			return client.Page[int]{}, gone
		}
		return pages[after], nil
	})
	assert.ErrorIs(t, err, gone)
}

// The mark is waited for over a stream; one that ends before it is told as unreachable, so that one can ask again.
func TestAwait(t *testing.T) {
	for _, c := range []struct {
		name, stream string
		want         string
	}{
		{"graded", "data: {\"state\":\"waiting\",\"points\":10}\n\ndata: {\"state\":\"graded\",\"earned\":8,\"points\":10}\n\n", ""},
		{"ended early", "data: {\"state\":\"waiting\",\"points\":10}\n\n", "the connection ended before the mark came"},
		{"garbage", "data: {\n\n", "reading the progress"},
	} {
		t.Run(c.name, func(t *testing.T) {
			service := serving(t, func(w http.ResponseWriter, _ *http.Request) { fmt.Fprint(w, c.stream) })
			p, err := service.Await(context.Background(), 7)
			if c.want != "" {
				assert.ErrorContains(t, err, c.want)
				return
			}
			require.NoError(t, err)
			assert.Equal(t, 8.0, *p.Earned)
		})
	}
}
