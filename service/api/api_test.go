package api_test

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"net/http"
	"net/url"
	"os"
	"path/filepath"
	"regexp"
	"strings"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/source"
	"celandine/folder"
	"celandine/service/servicetest"
)

var ctx = context.Background()

const rightMist = "PROGRAM p\nmist_valve := (mist_on OR mist_valve) AND mist_off;\nEND_PROGRAM\n"

func handIn(t *testing.T, c *client.Client, exercise, text, key string) client.Handin {
	t.Helper()
	h, err := c.HandIn(ctx, exercise, client.Program{File: "mine.st", Text: text}, key)
	require.NoError(t, err)
	p, err := c.Await(ctx, h.ID)
	require.NoError(t, err)
	require.Equal(t, client.Done, p.State)
	h, err = c.Handin(ctx, h.ID)
	require.NoError(t, err)
	return h
}

func problemOf(t *testing.T, err error) *client.Problem {
	t.Helper()
	var p *client.Problem
	require.True(t, errors.As(err, &p), "%v", err)
	return p
}

func TestHandInIsGradedAndCounts(t *testing.T) {
	s := servicetest.Start(t, true)
	liam := s.As(t, "liam")
	h := handIn(t, liam, "mist-hold-in", rightMist, "one")
	assert.Equal(t, 10.0, *h.Earned)
	list, err := liam.Exercises(ctx)
	require.NoError(t, err)
	assert.Equal(t, "mist-hold-in", list[1].Name)
	assert.Equal(t, 10.0, *list[1].Best)
	m, err := s.As(t, "nadia").Marks(ctx)
	require.NoError(t, err)
	assert.Len(t, m.Rows, 12)
	assert.Equal(t, "Liam Byrne", m.Rows[11].Person.Name)
	assert.Equal(t, 10.0, *m.Rows[11].Marks[1].Earned)
}

func TestSameKeyIsSameHandIn(t *testing.T) {
	s := servicetest.Start(t, true)
	liam := s.As(t, "liam")
	first := handIn(t, liam, "mist-hold-in", rightMist, "again")
	second := handIn(t, liam, "mist-hold-in", rightMist, "again")
	assert.Equal(t, first.ID, second.ID)
	third := handIn(t, liam, "mist-hold-in", rightMist, "anew")
	assert.Equal(t, first.Number+1, third.Number)
}

// A draft is saved over the version one knows; over another it changes nothing. The same text again is no change.
func TestDrafts(t *testing.T) {
	s := servicetest.Start(t, true)
	liam := s.As(t, "liam")
	for _, step := range []struct {
		text          string
		over, version int
		status        int
	}{
		{"one", 0, 1, 0}, {"one", 0, 1, 0}, {"two", 1, 2, 0}, {"three", 1, 0, 409}, {"three", 2, 3, 0}, {"two", 0, 0, 409},
	} {
		d, err := liam.SaveDraft(ctx, "mist-hold-in", "st", client.DraftText{Text: step.text, Version: step.over})
		if step.status != 0 {
			assert.Equal(t, step.status, problemOf(t, err).Status, step.text)
			continue
		}
		require.NoError(t, err)
		assert.Equal(t, step.version, d.Version, step.text)
	}
	list, err := liam.Drafts(ctx, "mist-hold-in")
	require.NoError(t, err)
	require.Len(t, list, 1)
	assert.Equal(t, "three", list[0].Text)
	other, err := s.As(t, "ana").Drafts(ctx, "mist-hold-in")
	require.NoError(t, err)
	assert.Empty(t, other, "a draft is its writer's own")
}

// The service gives the bytes that the core gives here.
func TestResultIsTheCoresOwn(t *testing.T) {
	s := servicetest.Start(t, true)
	h, err := s.As(t, "nadia").Handin(ctx, 3)
	require.NoError(t, err)
	e, problems := exercise.Read(exerciseFolder(t, "mist-hold-in"))
	require.Empty(t, problems)
	g, problems := grade.Prepare(e)
	require.Empty(t, problems)
	want, _ := g.Grade(h.File, []*source.File{source.NewFile(h.File, h.Text)})
	bytes, err := json.Marshal(want)
	require.NoError(t, err)
	assert.Equal(t, string(bytes), string(h.Result))
	var r grade.Result
	require.NoError(t, json.Unmarshal(h.Result, &r))
	assert.Equal(t, "scan 100: mist_valve expected FALSE, was TRUE", r.Scenarios[3].Signals[0].Words())
}

func TestLearnerSeesNothingHidden(t *testing.T) {
	s := servicetest.Start(t, true)
	ana := s.As(t, "ana")
	h, err := ana.Handin(ctx, 3)
	require.NoError(t, err)
	var r grade.Result
	require.NoError(t, json.Unmarshal(h.Result, &r))
	assert.NotEmpty(t, r.Scenarios[0].Signals)
	assert.True(t, r.Scenarios[3].Hidden)
	assert.Empty(t, r.Scenarios[3].Signals)
	var evidence []grade.Evidence
	require.NoError(t, json.Unmarshal(h.Evidence, &evidence))
	require.Len(t, evidence, 1)
	assert.Equal(t, "stays on after release", evidence[0].Scenario)

	e, err := ana.Exercise(ctx, "mist-hold-in")
	require.NoError(t, err)
	text, err := json.Marshal(e)
	require.NoError(t, err)
	for _, secret := range []string{"solution", "[mist_valve]", "break_wire", "1500"} {
		assert.NotContains(t, string(text), secret)
	}
}

func TestWhoMaySeeWhat(t *testing.T) {
	s := servicetest.Start(t, true)
	ana, nadia := s.As(t, "ana"), s.As(t, "nadia")
	_, err := ana.Handin(ctx, 4) // ben's
	assert.Equal(t, 404, problemOf(t, err).Status)
	_, err = nadia.Handin(ctx, 4)
	assert.NoError(t, err)
	list, err := ana.Handins(ctx, "mist-hold-in", client.Wanted{})
	require.NoError(t, err)
	assert.Len(t, list, 1)
	list, err = nadia.Handins(ctx, "mist-hold-in", client.Wanted{})
	require.NoError(t, err)
	assert.Len(t, list, 6)
	_, err = ana.Push(ctx, "mist-hold-in", client.Folder{Files: map[string][]byte{}})
	assert.Equal(t, 403, problemOf(t, err).Status)
	_, err = (&client.Client{URL: s.URL}).Exercises(ctx)
	assert.Equal(t, 401, problemOf(t, err).Status)
	_, err = ana.Exercise(ctx, "no-such")
	assert.Equal(t, "There is no exercise named no-such in your class.", problemOf(t, err).Detail)
}

func TestWrongPasswordSaysNeitherWhich(t *testing.T) {
	s := servicetest.Start(t, true)
	for _, who := range []client.Credentials{{Login: "ana", Password: "wrong-secret"}, {Login: "nobody", Password: "wrong-secret"}} {
		_, err := (&client.Client{URL: s.URL}).Login(ctx, client.TokenWish{Credentials: who})
		p := problemOf(t, err)
		assert.Equal(t, 401, p.Status)
		assert.Equal(t, "The login or the password is wrong.", p.Error())
	}
	// A login that is too long is refused without the password in the answer.
	_, err := (&client.Client{URL: s.URL}).Login(ctx,
		client.TokenWish{Credentials: client.Credentials{Login: strings.Repeat("x", 200), Password: "wrong-secret"}})
	p := problemOf(t, err)
	assert.Equal(t, 422, p.Status)
	assert.NotContains(t, p.Error(), "wrong-secret")
}

func TestAnotherSiteCannotHandIn(t *testing.T) {
	s := servicetest.Start(t, false)
	r, err := http.NewRequest("POST", s.URL+"/api/session", strings.NewReader("{}"))
	require.NoError(t, err)
	r.Header.Set("Origin", "http://elsewhere.example")
	r.Header.Set("Sec-Fetch-Site", "cross-site")
	answer, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer answer.Body.Close()
	assert.Equal(t, 403, answer.StatusCode)
	assert.Equal(t, "application/problem+json", answer.Header.Get("Content-Type"))
}

func TestTooLargeAProgram(t *testing.T) {
	s := servicetest.Start(t, true)
	_, err := s.As(t, "liam").HandIn(ctx, "mist-hold-in", client.Program{File: "big.st", Text: strings.Repeat(" ", 256<<10+1)}, "big")
	p := problemOf(t, err)
	assert.Equal(t, 413, p.Status)
	assert.Contains(t, p.Detail, "256 KiB")
}

func exerciseFolder(t *testing.T, name string) exercise.Files {
	files, err := folder.Open(filepath.Join(servicetest.Root(t), "courses/glasshouse/exercises", name))
	require.NoError(t, err)
	return files
}

// An exercise that is pushed is the instructor's alone until it is assigned.
func TestANewExerciseIsHiddenUntilItIsAssigned(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia, ana := s.As(t, "nadia"), s.As(t, "ana")
	files := exerciseFolder(t, "mist-hold-in")
	files["exercise.yaml"] = []byte(strings.Replace(string(files["exercise.yaml"]), "name: mist-hold-in", "name: mist-again", 1))
	p, err := nadia.Push(ctx, "mist-again", client.Folder{Files: files})
	require.NoError(t, err)
	assert.False(t, p.Published)
	_, err = ana.Exercise(ctx, "mist-again")
	assert.Equal(t, 404, problemOf(t, err).Status)
	list, err := nadia.Assignments(ctx, 1)
	require.NoError(t, err)
	last := list[len(list)-1]
	require.Equal(t, "mist-again", last.Name)
	last.Terms.Published = true
	_, err = nadia.Assign(ctx, 1, "mist-again", last.Terms)
	require.NoError(t, err)
	e, err := ana.Exercise(ctx, "mist-again")
	require.NoError(t, err)
	assert.Equal(t, "mist-again", e.Name)
	p, err = nadia.Push(ctx, "mist-again", client.Folder{Files: files})
	require.NoError(t, err)
	assert.True(t, p.Published, "what is assigned stays so")
}

func TestPushMakesARevisionAndKeepsOldMarks(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	files := exerciseFolder(t, "mist-hold-in")
	p, err := nadia.Push(ctx, "mist-hold-in", client.Folder{Files: files})
	require.NoError(t, err)
	assert.Equal(t, 1, p.Revision, "nothing changed")

	files["exercise.yaml"] = []byte(strings.Replace(string(files["exercise.yaml"]), "points: 4", "points: 6", 1))
	p, err = nadia.Push(ctx, "mist-hold-in", client.Folder{Files: files})
	require.NoError(t, err)
	assert.Equal(t, 2, p.Revision)
	old, err := nadia.Handin(ctx, 3)
	require.NoError(t, err)
	assert.Equal(t, 10.0, old.Points)
	assert.Equal(t, 12.0, handIn(t, s.As(t, "liam"), "mist-hold-in", rightMist, "new").Points)

	files["exercise.yaml"] = []byte(strings.Replace(string(files["exercise.yaml"]), "topic:", "topc:", 1))
	_, err = nadia.Push(ctx, "mist-hold-in", client.Folder{Files: files})
	bad := problemOf(t, err)
	assert.Equal(t, 422, bad.Status)
	assert.Contains(t, bad.Error(), "exercise.yaml:4:1: The exercise has no key topc. Did you mean topic?")
}

func TestCheckTellsOfMissingGradedNames(t *testing.T) {
	s := servicetest.Start(t, true)
	c, err := s.As(t, "ana").Check(ctx, "vent-settle-delay",
		client.Program{File: "a.st", Text: "PROGRAM p\nVAR settle : TOF; END_VAR\nsettle(IN := mist_switch, PT := T#5s);\nEND_PROGRAM\n"})
	require.NoError(t, err)
	assert.Equal(t, []string{"the program has no TON, whose ET is graded; declare one, with any name"}, c.Missing)
	assert.Equal(t, "0 errors, 2 warnings", c.Summary)
}

// While the database is away the service says so with 503; when it is back,
// so is the service, and nothing is lost.
func TestDatabaseDownAndBack(t *testing.T) {
	s := servicetest.Start(t, true)
	liam := s.As(t, "liam")
	address, err := url.Parse(s.Database)
	require.NoError(t, err)
	name := strings.TrimPrefix(address.Path, "/")
	admin, err := pgx.Connect(ctx, servicetest.Cluster(t))
	require.NoError(t, err)
	defer func() { _ = admin.Close(ctx) }()
	_, err = admin.Exec(ctx, "ALTER DATABASE "+name+" ALLOW_CONNECTIONS false")
	require.NoError(t, err)
	_, err = admin.Exec(ctx, "SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = $1", name)
	require.NoError(t, err)

	require.Eventually(t, func() bool {
		_, err := liam.Exercises(ctx)
		var p *client.Problem
		return errors.As(err, &p) && p.Status == 503
	}, 10*time.Second, 50*time.Millisecond)
	ready, err := http.Get(s.URL + "/readyz")
	require.NoError(t, err)
	ready.Body.Close()
	assert.Equal(t, 503, ready.StatusCode)
	health, err := http.Get(s.URL + "/healthz")
	require.NoError(t, err)
	health.Body.Close()
	assert.Equal(t, 200, health.StatusCode)

	_, err = admin.Exec(ctx, "ALTER DATABASE "+name+" ALLOW_CONNECTIONS true")
	require.NoError(t, err)
	require.Eventually(t, func() bool {
		_, err := liam.Exercises(ctx)
		return err == nil
	}, 10*time.Second, 50*time.Millisecond)
	assert.Equal(t, 10.0, *handIn(t, liam, "mist-hold-in", rightMist, "after").Earned)
}

func TestMigrateAgainAndAtOnce(t *testing.T) {
	s := servicetest.Start(t, false)
	errs := make(chan error, 4)
	for range 4 {
		go func() {
			_, err := s.Store.Migrate(ctx)
			errs <- err
		}()
	}
	for range 4 {
		assert.NoError(t, <-errs)
	}
}

func TestOpenAPIAndMetrics(t *testing.T) {
	s := servicetest.Start(t, true)
	get := func(url string) string {
		answer, err := http.Get(url)
		require.NoError(t, err)
		defer answer.Body.Close()
		text, err := io.ReadAll(answer.Body)
		require.NoError(t, err)
		require.Equal(t, 200, answer.StatusCode, url)
		return string(text)
	}
	var document struct {
		OpenAPI string
		Paths   map[string]any
	}
	require.NoError(t, json.Unmarshal([]byte(get(s.URL+"/api/openapi.json")), &document))
	assert.Equal(t, "3.1.0", document.OpenAPI)
	assert.Contains(t, document.Paths, "/api/exercises/{name}/handins")
	assert.Contains(t, get(s.URL+"/api/exercise.schema.json"), `"title": "Celandine exercise"`)
	assert.Contains(t, get(s.URL+"/api/version"), `"engine":"celandine/5"`)
	metrics := get(s.MetricsURL(t))
	answer, err := http.Get(s.URL + "/metrics")
	require.NoError(t, err)
	defer answer.Body.Close()
	page, err := io.ReadAll(answer.Body)
	require.NoError(t, err)
	assert.NotContains(t, string(page), "celandine_", "how long gradings take is nothing for learners")
	assert.Contains(t, metrics, "celandine_handins_waiting 0")
	alerts, err := os.ReadFile(filepath.Join(servicetest.Root(t), "docs/alerts.yml"))
	require.NoError(t, err)
	for _, name := range regexp.MustCompile(`celandine_\w+`).FindAllString(string(alerts), -1) {
		assert.Contains(t, metrics, name, "an alert watches it")
	}
}
