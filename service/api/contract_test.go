package api_test

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"fmt"
	"io"
	"net/http"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/service/servicetest"
)

// document is as much of the OpenAPI document as is needed to send each operation's example.
type document struct {
	OpenAPI    string                          `json:"openapi"`
	Paths      map[string]map[string]operation `json:"paths"`
	Components struct {
		Schemas map[string]schema `json:"schemas"`
	} `json:"components"`
}

type operation struct {
	OperationID string `json:"operationId"`
	Summary     string `json:"summary"`
	Parameters  []struct {
		Name     string          `json:"name"`
		In       string          `json:"in"`
		Required bool            `json:"required"`
		Example  json.RawMessage `json:"example"`
		Schema   schema          `json:"schema"`
	} `json:"parameters"`
	RequestBody *struct {
		Content map[string]struct {
			Schema schema `json:"schema"`
		} `json:"content"`
	} `json:"requestBody"`
	Responses map[string]struct {
		Content map[string]struct {
			Schema schema `json:"schema"`
		} `json:"content"`
	} `json:"responses"`
}

type schema struct {
	Ref        string            `json:"$ref"`
	Type       any               `json:"type"`
	Format     string            `json:"format"`
	Enum       []any             `json:"enum"`
	Examples   []any             `json:"examples"`
	Default    any               `json:"default"`
	Properties map[string]schema `json:"properties"`
	Required   []string          `json:"required"`
	Items      *schema           `json:"items"`
}

func (d *document) resolve(s schema) schema {
	if name, ok := strings.CutPrefix(s.Ref, "#/components/schemas/"); ok {
		return d.Components.Schemas[name]
	}
	return s
}

func (s schema) is(kind string) bool {
	list, ok := s.Type.([]any)
	return s.Type == kind || ok && slices.Contains(list, any(kind))
}

// example is the documented example of a schema.
func (d *document) example(s schema) any {
	s = d.resolve(s)
	switch {
	case len(s.Examples) > 0:
		return s.Examples[0]
	case len(s.Enum) > 0:
		return s.Enum[0]
	case s.is("object"):
		out := map[string]any{}
		for _, name := range s.Required {
			out[name] = d.example(s.Properties[name])
		}
		return out
	case s.is("array"):
		return []any{}
	case s.is("integer"), s.is("number"):
		return 0
	case s.is("boolean"):
		return false
	}
	return ""
}

func described(t *testing.T, s *servicetest.Service) *document {
	response, err := http.Get(s.URL + "/api/openapi.json")
	require.NoError(t, err)
	defer response.Body.Close()
	d := &document{}
	require.NoError(t, json.NewDecoder(response.Body).Decode(d))
	return d
}

// request is the example request of an operation; values stand in for the examples of its path.
func (d *document) request(t *testing.T, s *servicetest.Service, method, path string, op operation,
	values map[string]string) *http.Request {
	query := ""
	for _, p := range op.Parameters {
		example := strings.Trim(string(p.Example), `"`)
		if len(p.Schema.Examples) > 0 {
			example = fmt.Sprint(p.Schema.Examples[0])
		}
		if v, ok := values[p.Name]; ok {
			example = v
		}
		switch {
		case p.In == "path":
			require.NotEmpty(t, example, "%s: the parameter %s has no example", op.OperationID, p.Name)
			path = strings.ReplaceAll(path, "{"+p.Name+"}", example)
		case p.In == "query" && p.Name == "class":
			query = "?class=1"
		}
	}
	var body io.Reader
	if op.RequestBody != nil {
		text, err := json.Marshal(d.example(op.RequestBody.Content["application/json"].Schema))
		require.NoError(t, err)
		body = bytes.NewReader(text)
	}
	r, err := http.NewRequest(strings.ToUpper(method), s.URL+path+query, body)
	require.NoError(t, err)
	if body != nil {
		r.Header.Set("Content-Type", "application/json")
	}
	return r
}

// each visits the operations, those that take something away last.
func (d *document) each(visit func(method, path string, op operation)) {
	type one struct{ method, path string }
	var list []one
	for path, methods := range d.Paths {
		for method := range methods {
			list = append(list, one{method, path})
		}
	}
	slices.SortFunc(list, func(a, b one) int {
		rank := func(o one) string { return fmt.Sprint(o.method == "delete") + o.path + o.method }
		return strings.Compare(rank(a), rank(b))
	})
	for _, o := range list {
		visit(o.method, o.path, d.Paths[o.path][o.method])
	}
}

// answer sends a request, and reads at most a little of a stream.
func answer(t *testing.T, r *http.Request, token string) (int, string) {
	ctx, cancel := context.WithTimeout(context.Background(), servicetest.Patience)
	defer cancel()
	if token != "" {
		r.Header.Set("Authorization", "Bearer "+token)
	}
	response, err := http.DefaultClient.Do(r.WithContext(ctx))
	require.NoError(t, err, r.URL)
	defer response.Body.Close()
	if strings.HasPrefix(response.Header.Get("Content-Type"), "text/event-stream") {
		line, _ := bufio.NewReader(response.Body).ReadString('\n')
		return response.StatusCode, line
	}
	text, err := io.ReadAll(response.Body)
	require.NoError(t, err)
	return response.StatusCode, string(text)
}

// neighbours adds a second class with its own instructor and learner; all have the password of the course.
func neighbours(t *testing.T, s *servicetest.Service) {
	s.Exec(t, `WITH c AS (INSERT INTO classes (name) VALUES ('Potting line') RETURNING id),
		p AS (INSERT INTO people (login, name, role, password_hash) SELECT l, initcap(l), r, password_hash FROM people, (VALUES ('petra', 'instructor'), ('otto', 'learner')) AS n (l, r) WHERE login = 'ana' RETURNING id)
		INSERT INTO enrolments (class_id, person_id) SELECT c.id, p.id FROM c, p`)
}

func must[T any](v T, err error) T {
	if err != nil {
		panic(err)
	}
	return v
}

// permissions reads who gets which answer to which operation.
func permissions(t *testing.T) (people []string, want map[string][]string) {
	text, err := os.ReadFile("testdata/permissions.txt")
	require.NoError(t, err)
	want = map[string][]string{}
	for line := range strings.Lines(string(text)) {
		fields := strings.Fields(line)
		switch {
		case len(fields) == 0 || fields[0] == "#":
		case people == nil:
			people = fields[1:]
		default:
			want[fields[0]] = fields[1:]
		}
	}
	return people, want
}

// Every operation is tried by everybody: nobody, a learner with their own hand-in, a classmate, people of another class, the
// instructor and an administrator. testdata/permissions.txt says what each is to get; an operation that it does not know fails.
// No learner's answer holds a solution.
func TestEverybodyTriesEverything(t *testing.T) {
	people, want := permissions(t)
	solution, err := os.ReadFile(filepath.Join(servicetest.Root(t), "courses/glasshouse/exercises/tray-counter/solution.st"))
	if err != nil {
		solution, err = os.ReadFile(filepath.Join(servicetest.Root(t), "courses/glasshouse/exercises/tray-counter/solution.ladder"))
	}
	require.NoError(t, err)
	for column, login := range people {
		t.Run(login, func(t *testing.T) {
			s := servicetest.Start(t, true)
			neighbours(t, s)
			mine, err := s.As(t, "liam").Handins(ctx, "tray-counter", client.Wanted{})
			require.NoError(t, err)
			values := map[string]string{"id": fmt.Sprint(mine[0].ID), "class": "1", "name": "tray-counter"}
			s.Exec(t, fmt.Sprintf("INSERT INTO comments (handin_id, by_id, text) SELECT %d, id, 'Well done.' FROM people WHERE login = '%s'",
				mine[0].ID, login))
			token := ""
			if login != "nobody" {
				token = s.As(t, login).Token
			}
			d := described(t, s)
			d.each(func(method, path string, op operation) {
				expected := want[op.OperationID]
				require.Len(t, expected, len(people), "testdata/permissions.txt has no whole line for %s", op.OperationID)
				if op.OperationID == "removeComment" {
					values["comment"] = "1"
				}
				if op.OperationID == "takeBackOverride" {
					s.Exec(t, fmt.Sprintf("INSERT INTO overrides (handin_id, earned, reason, by_id) VALUES (%d, 100, 'So.', 1) ON CONFLICT DO NOTHING",
						mine[0].ID))
				}
				if op.OperationID == "endSignIn" {
					// liam's newest; whoever asks as liam asks with another.
					s.As(t, "liam")
					s.Exec(t, "UPDATE tokens SET id = 1000 WHERE id = (SELECT max(id) FROM tokens)")
					values["signin"] = "1000"
				}
				if op.OperationID == "signOut" && token != "" {
					defer func(kept string) { token = kept }(token)
					token = s.As(t, login).Token
				}
				status, text := answer(t, d.request(t, s, method, path, op, values), token)
				assert.Equal(t, expected[column], fmt.Sprint(status), "%s %s (%s): %.300s", method, path, op.OperationID, text)
				if login != "nadia" && login != "rosa" {
					assert.NotContains(t, text, strings.TrimSpace(string(solution)), op.OperationID)
				}
			})
			_, metrics := answer(t, must(http.NewRequest("GET", s.MetricsURL(t), nil)), "")
			for _, secret := range []string{strings.TrimSpace(string(solution)), "tray_seen"} {
				assert.NotContains(t, metrics, secret)
				assert.NotContains(t, s.Log.String(), secret)
			}
		})
	}
}

// Every operation is described, takes its own example, and answers as the document says, with a problem that has a code where it refuses.
func TestTheDocumentIsTrue(t *testing.T) {
	s := servicetest.Start(t, true)
	d := described(t, s)
	assert.Equal(t, "3.1.0", d.OpenAPI)
	token := s.As(t, "rosa").Token
	values := map[string]string{"id": "3", "class": "1", "name": "mist-hold-in"}
	n := 0
	d.each(func(method, path string, op operation) {
		n++
		assert.NotEmpty(t, op.Summary, path)
		d.exemplary(t, op)
		status, text := answer(t, d.request(t, s, method, path, op, values), token)
		said, ok := op.Responses[fmt.Sprint(status)]
		if !ok {
			said, ok = op.Responses["default"]
		}
		require.True(t, ok, "%s answered %d, which is not in the document: %.200s", op.OperationID, status, text)
		if status < 400 {
			if body, ok := said.Content["application/json"]; ok {
				d.conforms(t, op.OperationID, body.Schema, []byte(text))
			}
			return
		}
		var p client.Problem
		require.NoError(t, json.Unmarshal([]byte(text), &p), "%s: %.200s", op.OperationID, text)
		assert.NotEmpty(t, p.Code, op.OperationID)
		assert.NotEmpty(t, p.Detail, op.OperationID)
		assert.NotEqual(t, 500, status, op.OperationID)
	})
	assert.Greater(t, n, 40)
}

// exemplary tells whether everything that an operation takes has an example, or says what it may be.
func (d *document) exemplary(t *testing.T, op operation) {
	shown := func(s schema) bool {
		return len(s.Examples) > 0 || len(s.Enum) > 0 || s.Default != nil || s.is("boolean") || s.Properties != nil
	}
	for _, p := range op.Parameters {
		assert.True(t, len(p.Example) > 0 || shown(d.resolve(p.Schema)), "%s: the parameter %s has no example", op.OperationID, p.Name)
	}
	if op.RequestBody == nil {
		return
	}
	for name, s := range d.resolve(op.RequestBody.Content["application/json"].Schema).Properties {
		assert.True(t, shown(d.resolve(s)), "%s: %s has no example", op.OperationID, name)
	}
}

// conforms tells whether an answer has the members that its schema requires, and no others.
func (d *document) conforms(t *testing.T, name string, s schema, text []byte) {
	s = d.resolve(s)
	if s.is("array") && s.Items != nil {
		var list []json.RawMessage
		require.NoError(t, json.Unmarshal(text, &list), name)
		for _, one := range list {
			d.conforms(t, name, *s.Items, one)
		}
		return
	}
	if !s.is("object") || s.Properties == nil || string(text) == "null" {
		return
	}
	var members map[string]json.RawMessage
	require.NoError(t, json.Unmarshal(text, &members), name)
	for _, required := range s.Required {
		assert.Contains(t, members, required, name)
	}
	for member, value := range members {
		inner, known := s.Properties[member]
		assert.True(t, known, "%s answers with %s, which is not in the document", name, member)
		d.conforms(t, name+"."+member, inner, value)
	}
}
