package client

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"
)

// A Client calls one service for one person.
type Client struct {
	URL   string // http://127.0.0.1:8460
	Token string
	Class int64        // whose exercises and marks are meant; 0 is one's first class
	HTTP  *http.Client // nil: the default
}

// ErrUnreachable is wrapped by errors of the network.
var ErrUnreachable = errors.New("the service cannot be reached")

// Login asks for a token.
func (c *Client) Login(ctx context.Context, w TokenWish) (t Token, err error) {
	return t, c.call(ctx, "POST", "/api/tokens", w, &t)
}

// Logout ends the token.
func (c *Client) Logout(ctx context.Context) error {
	return c.call(ctx, "DELETE", "/api/session", nil, nil)
}

// SignIns lists what acts for the person.
func (c *Client) SignIns(ctx context.Context) (list []SignIn, err error) {
	return list, c.call(ctx, "GET", "/api/signins", nil, &list)
}

// EndSignIn ends one of them.
func (c *Client) EndSignIn(ctx context.Context, id int64) error {
	return c.call(ctx, "DELETE", fmt.Sprintf("/api/signins/%d", id), nil, nil)
}

// Exercises lists the class's exercises.
func (c *Client) Exercises(ctx context.Context) (list []Summary, err error) {
	return list, c.call(ctx, "GET", "/api/exercises", nil, &list)
}

// Exercise returns what one may see of an exercise.
func (c *Client) Exercise(ctx context.Context, name string) (e Exercise, err error) {
	return e, c.call(ctx, "GET", "/api/exercises/"+url.PathEscape(name), nil, &e)
}

// Push stores an exercise folder as a revision for the class.
func (c *Client) Push(ctx context.Context, name string, f Folder) (p Pushed, err error) {
	return p, c.call(ctx, "PUT", "/api/exercises/"+url.PathEscape(name), f, &p)
}

// Check asks what is wrong in a program.
func (c *Client) Check(ctx context.Context, exercise string, p Program) (out Checked, err error) {
	return out, c.call(ctx, "POST", "/api/exercises/"+url.PathEscape(exercise)+"/check", p, &out)
}

// Drafts returns one's own drafts for an exercise.
func (c *Client) Drafts(ctx context.Context, exercise string) (list []Draft, err error) {
	return list, c.call(ctx, "GET", "/api/exercises/"+url.PathEscape(exercise)+"/drafts", nil, &list)
}

// SaveDraft saves one's own draft over the version that one knows.
func (c *Client) SaveDraft(ctx context.Context, exercise, language string, d DraftText) (saved Draft, err error) {
	return saved, c.call(ctx, "PUT", "/api/exercises/"+url.PathEscape(exercise)+"/drafts/"+language, d, &saved)
}

// HandIn hands a program in. The same key gives the same hand-in.
func (c *Client) HandIn(ctx context.Context, exercise string, p Program, key string) (h Handin, err error) {
	return h, c.call(ctx, "POST", "/api/exercises/"+url.PathEscape(exercise)+"/handins", p, &h, "Idempotency-Key", key)
}

// Wanted says which hand-ins to list: of a login, of a state; what is empty asks nothing.
type Wanted struct{ Person, State string }

// ReadExchange says in Celandine's notation what an exchange file holds.
func (c *Client) ReadExchange(ctx context.Context, p Program) (out Exchanged, err error) {
	return out, c.call(ctx, "POST", "/api/exchange/read", p, &out)
}

// WriteExchange writes a program as an exchange file.
func (c *Client) WriteExchange(ctx context.Context, e Exporting) (out Exchanged, err error) {
	return out, c.call(ctx, "POST", "/api/exchange/write", e, &out)
}

// Handins lists the hand-ins to an exercise that one may see, newest first, all pages of them.
func (c *Client) Handins(ctx context.Context, exercise string, w Wanted) ([]Handin, error) {
	return Pages(func(after string) (page Page[Handin], err error) {
		query := url.Values{"limit": {"500"}, "after": {after}, "person": {w.Person}}
		if w.State != "" {
			query.Set("state", w.State)
		}
		return page, c.call(ctx, "GET", "/api/exercises/"+url.PathEscape(exercise)+"/handins?"+query.Encode(), nil, &page)
	})
}

// Pages reads a long list to its end; after is "" for the first page.
func Pages[T any](read func(after string) (Page[T], error)) (all []T, err error) {
	for after := ""; ; {
		page, err := read(after)
		if err != nil {
			return nil, err
		}
		all = append(all, page.Items...)
		if after = page.Next; after == "" {
			return all, nil
		}
	}
}

// Handin returns one hand-in.
func (c *Client) Handin(ctx context.Context, id int64) (h Handin, err error) {
	return h, c.call(ctx, "GET", fmt.Sprintf("/api/handins/%d", id), nil, &h)
}

// Marks returns the marks that one may see.
func (c *Client) Marks(ctx context.Context) (m Marks, err error) {
	return m, c.call(ctx, "GET", "/api/marks", nil, &m)
}

// Await waits until a hand-in is graded.
func (c *Client) Await(ctx context.Context, id int64) (Progress, error) {
	var p Progress
	request, err := c.request(ctx, "GET", fmt.Sprintf("/api/handins/%d/events", id), nil)
	if err != nil {
		return p, err
	}
	response, err := c.send(request)
	if err != nil {
		return p, err
	}
	defer response.Body.Close()
	lines := bufio.NewScanner(response.Body)
	for lines.Scan() {
		text, ok := strings.CutPrefix(lines.Text(), "data: ")
		if !ok {
			continue
		}
		if err := json.Unmarshal([]byte(text), &p); err != nil {
			return p, fmt.Errorf("reading the progress: %w", err)
		}
		if p.State == Done {
			return p, nil
		}
	}
	if err := lines.Err(); err != nil {
		return p, fmt.Errorf("%w: %v", ErrUnreachable, err)
	}
	return p, fmt.Errorf("%w: the connection ended before the mark came", ErrUnreachable)
}

func (c *Client) request(ctx context.Context, method, path string, body any) (*http.Request, error) {
	var in io.Reader
	if body != nil {
		text, err := json.Marshal(body)
		if err != nil {
			return nil, err
		}
		in = bytes.NewReader(text)
	}
	r, err := http.NewRequestWithContext(ctx, method, strings.TrimSuffix(c.URL, "/")+path, in)
	if err != nil {
		return nil, fmt.Errorf("the address %q cannot be used: %w", c.URL, err)
	}
	if body != nil {
		r.Header.Set("Content-Type", "application/json")
	}
	if c.Token != "" {
		r.Header.Set("Authorization", "Bearer "+c.Token)
	}
	return r, nil
}

// send returns a good answer, or the problem that the service told.
func (c *Client) send(r *http.Request) (*http.Response, error) {
	h := c.HTTP
	if h == nil {
		h = http.DefaultClient
	}
	response, err := h.Do(r)
	if err != nil {
		return nil, fmt.Errorf("%w at %s: %v", ErrUnreachable, c.URL, errors.Unwrap(err))
	}
	if response.StatusCode < 300 {
		return response, nil
	}
	defer response.Body.Close()
	p := &Problem{Status: response.StatusCode, Title: response.Status}
	text, _ := io.ReadAll(io.LimitReader(response.Body, 1<<20))
	_ = json.Unmarshal(text, p) // a proxy's page is no problem document; the status then says it
	return nil, p
}

func (c *Client) call(ctx context.Context, method, path string, body, into any, header ...string) error {
	return c.callWithin(ctx, time.Minute, method, path, body, into, header...)
}

func (c *Client) callWithin(ctx context.Context, limit time.Duration, method, path string, body, into any, header ...string) error {
	ctx, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	r, err := c.request(ctx, method, path, body)
	if err != nil {
		return err
	}
	if c.Class != 0 {
		query := r.URL.Query()
		query.Set("class", strconv.FormatInt(c.Class, 10))
		r.URL.RawQuery = query.Encode()
	}
	for i := 0; i+1 < len(header); i += 2 {
		r.Header.Set(header[i], header[i+1])
	}
	response, err := c.send(r)
	if err != nil {
		return err
	}
	defer response.Body.Close()
	if into == nil || response.StatusCode == http.StatusNoContent {
		return nil
	}
	if err := json.NewDecoder(response.Body).Decode(into); err != nil {
		return fmt.Errorf("the answer of %s could not be read: %w", path, err)
	}
	return nil
}
