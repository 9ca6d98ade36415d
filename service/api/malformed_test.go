package api_test

import (
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"math/rand/v2"
	"net/http"
	"net/url"
	"strings"
	"sync"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/service"
	"celandine/service/servicetest"
)

// nasty is what a text, a number or anything may be replaced by.
var nasty = []any{"\x00", "a\x00b", "", " ", strings.Repeat("x", 3000), "\u202e", "../../etc/passwd", "%00", "'; DROP TABLE people; --",
	"\ufeff", "😀", "-1", "0", "9223372036854775807", "99999999999999999999",
	-1, 0, 1 << 31, int64(1) << 62, 1e300, -1e300, 0.5, true, nil, "2026-02-30T25:00:00Z", "0001-01-01T00:00:00Z", "294277-01-01T00:00:00Z",
	"9999-12-31T23:59:59Z"}

func pick(random *rand.Rand) any {
	switch random.IntN(12) {
	case 0:
		return []any{nil, 1, "x"}[:random.IntN(4)]
	case 1:
		return map[string]any{"a": map[string]any{}}
	}
	return nasty[random.IntN(len(nasty))]
}

// bodies that are no JSON, or not what they say.
var broken = []string{"", "{", "null", "[]", `"x"`, "{\"login\":\"\xff\xfe\"}", `{"login":"\u0000"}`, `{"text":"\ud800"}`,
	strings.Repeat("[", 10_000), `{"a":1e999}`, "\x00\x00\x00", "<xml/>", "login=ana&password=x", `{"login":"ana","login":"ben"}`}

// spoil changes one thing in a valid value.
func spoil(random *rand.Rand, v any) any {
	switch v := v.(type) {
	case map[string]any:
		if len(v) == 0 || random.IntN(4) == 0 {
			v[fmt.Sprint("field", random.IntN(3))] = pick(random)
			return v
		}
		at := random.IntN(len(v))
		for key := range v {
			if at--; at < 0 {
				v[key] = spoil(random, v[key])
				return v
			}
		}
	case []any:
		if len(v) > 0 && random.IntN(2) == 0 {
			at := random.IntN(len(v))
			v[at] = spoil(random, v[at])
			return v
		}
	}
	return pick(random)
}

// malformed is a request to an operation that is wrong somewhere: in its path, its query, its headers, its method, its body.
func (d *document) malformed(random *rand.Rand, address, method, path string, op operation) *http.Request {
	query := url.Values{}
	for _, p := range op.Parameters {
		value := strings.Trim(string(p.Example), `"`)
		if random.IntN(3) == 0 {
			value = fmt.Sprint(nasty[random.IntN(len(nasty))])
		}
		switch p.In {
		case "path":
			path = strings.ReplaceAll(path, "{"+p.Name+"}", url.PathEscape(value))
		case "query":
			if random.IntN(2) == 0 {
				query.Set(p.Name, value)
			}
		}
	}
	var body []byte
	if op.RequestBody != nil {
		if body = []byte(broken[random.IntN(len(broken))]); random.IntN(4) > 0 {
			v := d.example(op.RequestBody.Content["application/json"].Schema)
			for range 1 + random.IntN(3) {
				v = spoil(random, v)
			}
			body, _ = json.Marshal(v) // what is no JSON is sent as nothing
		}
	}
	if random.IntN(20) == 0 {
		method = []string{"PATCH", "POST", "DELETE", "PUT", "OPTIONS", "TRACE", "GET"}[random.IntN(7)]
	}
	if random.IntN(30) == 0 {
		path += "/" + url.PathEscape(fmt.Sprint(nasty[random.IntN(len(nasty))]))
	}
	r, err := http.NewRequest(strings.ToUpper(method), address+path, bytes.NewReader(body))
	if err != nil {
		return nil // no client would send it
	}
	r.URL.RawQuery = query.Encode()
	if random.IntN(20) == 0 {
		r.URL.RawQuery += "&class=%zz&x=%00%ff"
	}
	r.Header.Set("Content-Type", []string{"application/json", "application/json", "application/json", "text/plain", "application/cbor",
		""}[random.IntN(6)])
	r.Header.Set("Idempotency-Key", []string{"", "k", "k\xff", strings.Repeat("k", 300)}[random.IntN(4)])
	return r
}

// Ten thousand malformed requests, to all operations, as everybody: none is a mistake of the service's own, and each refusal is
// a problem document.
func TestMalformedRequests(t *testing.T) {
	t.Parallel()
	s := servicetest.Start(t, true, func(c *service.Config) { c.HandIns = 0 })
	neighbours(t, s)
	d := described(t, s)
	tokens := []string{""}
	for _, login := range []string{"liam", "nadia", "petra", "rosa"} {
		tokens = append(tokens, s.As(t, login).Token)
	}
	type one struct {
		method, path string
		op           operation
	}
	var all []one
	d.each(func(method, path string, op operation) {
		if op.OperationID != "signOut" && op.OperationID != "endSignIn" && op.OperationID != "disablePerson" { // whoever does asks no more
			all = append(all, one{method, path, op})
		}
	})
	const requests, at = 10_000, 8
	var wait sync.WaitGroup
	for worker := range at {
		wait.Go(func() {
			random := rand.New(rand.NewPCG(12, uint64(worker)))
			for n := range requests / at {
				o := all[(n*at+worker)%len(all)]
				if r := d.malformed(random, s.URL, o.method, o.path, o.op); r != nil {
					refused(t, r, tokens[random.IntN(len(tokens))], o.op.OperationID)
				}
			}
		})
	}
	wait.Wait()
	assert.NotContains(t, s.Log.String(), `"an operation failed"`)
	assert.NotContains(t, s.Log.String(), `"mistake"`)
}

func refused(t *testing.T, r *http.Request, token, id string) {
	ctx, cancel := context.WithTimeout(context.Background(), servicetest.Patience)
	defer cancel()
	if token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	response, err := http.DefaultClient.Do(r.WithContext(ctx))
	if err != nil {
		assert.ErrorContains(t, err, "invalid header", "%s %s", r.Method, r.URL) // which the client does not send
		return
	}
	defer response.Body.Close()
	if strings.HasPrefix(response.Header.Get("Content-Type"), "text/event-stream") {
		return
	}
	text, err := io.ReadAll(response.Body)
	assert.NoError(t, err)
	assert.Less(t, response.StatusCode, 500, "%s %s %s: %.300s", id, r.Method, r.URL, text)
	if response.StatusCode >= 400 && r.Method != "HEAD" {
		assert.Equal(t, "application/problem+json", response.Header.Get("Content-Type"), "%s %s %s: %d %.200s", id, r.Method, r.URL,
			response.StatusCode, text)
	}
}

// What the service does not have is told as a problem, as are methods that a path does not take.
func TestUnknownAddresses(t *testing.T) {
	s := servicetest.Start(t, false)
	for _, c := range []struct {
		method, path string
		status       int
		allow        string
	}{
		{"GET", "/api/nothing", 404, ""}, {"POST", "/api", 404, ""}, {"GET", "/api/", 404, ""}, {"PATCH", "/api/me", 405, "GET"},
		{"DELETE", "/api/exercises", 405, "GET, POST"}, {"POST", "/healthz", 405, "GET"},
		{"GET", "/api/handins/%ff", 400, ""}, {"GET", "/api/me?x=%00", 400, ""}, {"GET", "/", 200, ""},
	} {
		r, err := http.NewRequest(c.method, s.URL+c.path, nil)
		require.NoError(t, err)
		response, err := http.DefaultClient.Do(r)
		require.NoError(t, err)
		require.NoError(t, response.Body.Close())
		assert.Equal(t, c.status, response.StatusCode, "%s %s", c.method, c.path)
		assert.Equal(t, c.allow, strings.Join(response.Header.Values("Allow"), ", "), "%s %s", c.method, c.path)
		if c.status >= 400 {
			assert.Equal(t, "application/problem+json", response.Header.Get("Content-Type"))
		}
	}
}
