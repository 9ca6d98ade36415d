package api_test

import (
	"bytes"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/client"
	"celandine/core/exercise"
	"celandine/service"
	"celandine/service/api"
	"celandine/service/servicetest"
)

// refusal is the code and status of an error.
func refusal(t *testing.T, err error) (string, int) {
	t.Helper()
	var p *client.Problem
	require.ErrorAs(t, err, &p)
	return p.Code, p.Status
}

// An exercise is begun, written over the version that one knows, published with a note, given, and goes on from there.
func TestFromTheFirstWordToARevision(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	w, err := nadia.Begin(ctx, client.Beginning{Title: "Hold the mist valve in", Copy: "nadia/mist-hold-in"})
	require.NoError(t, err)
	assert.Equal(t, "hold-the-mist-valve-in", w.Name)
	assert.Equal(t, 1, w.Version)
	again, err := nadia.Begin(ctx, client.Beginning{Title: "Hold the mist valve in"})
	require.NoError(t, err)
	assert.Equal(t, "hold-the-mist-valve-in-2", again.Name, "a name of its own")
	require.NoError(t, nadia.DiscardWriting(ctx, "nadia", again.Name))
	_, err = nadia.Writing(ctx, "nadia", again.Name)
	code, _ := refusal(t, err)
	assert.Equal(t, "not-found", code, "it was never published, and is gone")

	brief := client.Saving{Version: 1, Files: map[string][]byte{"brief.md": []byte("Hold it. ![bench](pictures/bench.png)"),
		"pictures/bench.png": []byte("\x89PNG\r\n\x1a\nrest")}}
	saved, err := nadia.SaveWriting(ctx, "nadia", w.Name, brief)
	require.NoError(t, err)
	assert.Equal(t, 2, saved.Version)
	_, err = nadia.SaveWriting(ctx, "nadia", w.Name, brief)
	code, status := refusal(t, err)
	assert.Equal(t, "newer", code)
	assert.Equal(t, http.StatusConflict, status)

	p, err := nadia.Publish(ctx, "nadia", w.Name, client.Publishing{Version: 2, Note: "The first."})
	require.NoError(t, err)
	assert.Equal(t, 1, p.Revision)
	revisions, err := nadia.Revisions(ctx, "nadia", w.Name)
	require.NoError(t, err)
	require.Len(t, revisions, 1)
	assert.Equal(t, "The first.", revisions[0].Note)
	require.NoError(t, nadia.Give(ctx, "nadia", w.Name, 1))
	e, err := nadia.Exercise(ctx, w.Name)
	require.NoError(t, err)
	assert.Contains(t, e.Brief, `src="/api/exercises/hold-the-mist-valve-in/pictures/bench.png?class=1"`)
	r, err := http.NewRequest(http.MethodGet, s.URL+"/api/exercises/hold-the-mist-valve-in/pictures/bench.png?class=1", nil)
	require.NoError(t, err)
	r.Header.Set("Authorization", "Bearer "+nadia.Token)
	response, err := http.DefaultClient.Do(r)
	require.NoError(t, err)
	defer response.Body.Close()
	assert.Equal(t, "image/png", response.Header.Get("Content-Type"))
	var picture bytes.Buffer
	_, err = picture.ReadFrom(response.Body)
	require.NoError(t, err)
	assert.True(t, strings.HasPrefix(picture.String(), "\x89PNG"))
}

// What cannot be a file of the folder, or the start of an exercise, is refused, and nothing is kept of it.
func TestWhatTheWorkshopRefuses(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	for name, content := range map[string]string{
		"../outside": "x", "a//b": "x", ".hidden": "x", "pictures/bench.svg": "<svg/>", "pictures/bench.png": "<script>", "": "x",
	} {
		_, err := nadia.SaveWriting(ctx, "nadia", "mist-hold-in", client.Saving{Files: map[string][]byte{name: []byte(content)}})
		code, status := refusal(t, err)
		assert.Equal(t, "file", code, name)
		assert.Equal(t, http.StatusUnprocessableEntity, status)
	}
	w, err := nadia.Writing(ctx, "nadia", "mist-hold-in")
	require.NoError(t, err)
	assert.Zero(t, w.Version, "nothing was kept")
	for _, b := range []client.Beginning{{Title: "…"}, {Title: "x", Copy: "a/b", Lesson: "c"}, {Folder: &client.Folder{Zip: []byte("none")}}} {
		_, err := nadia.Begin(ctx, b)
		_, status := refusal(t, err)
		assert.Equal(t, http.StatusUnprocessableEntity, status)
	}
	broken, err := nadia.SaveWriting(ctx, "nadia", "mist-hold-in", client.Saving{Files: map[string][]byte{"exercise.yaml": []byte("a: [")}})
	require.NoError(t, err, "a draft may be wrong as yet")
	_, err = nadia.Publish(ctx, "nadia", "mist-hold-in", client.Publishing{Version: broken.Version})
	_, status := refusal(t, err)
	assert.Equal(t, http.StatusUnprocessableEntity, status, "a revision may not")
	require.NoError(t, nadia.DiscardWriting(ctx, "nadia", "mist-hold-in"))
	w, err = nadia.Writing(ctx, "nadia", "mist-hold-in")
	require.NoError(t, err)
	assert.Equal(t, 1, w.Base, "the revision is there as before")
}

// A trial says which marks would move, and moves none; a withdrawn exercise is seen by no learner, and its marks stay.
func TestTrialAndWithdrawal(t *testing.T) {
	s := servicetest.Start(t, true)
	nadia := s.As(t, "nadia")
	w, err := nadia.Writing(ctx, "nadia", "mist-hold-in")
	require.NoError(t, err)
	yaml := strings.Replace(string(w.Files["exercise.yaml"]), "points: 4", "points: 8", 1)
	_, err = nadia.SaveWriting(ctx, "nadia", "mist-hold-in", client.Saving{Files: map[string][]byte{"exercise.yaml": []byte(yaml)}})
	require.NoError(t, err)
	said, err := nadia.Differences(ctx, "nadia", "mist-hold-in", 0, 0)
	require.NoError(t, err)
	assert.Equal(t, []string{"“stays on after release”, points: “4” became “8”."}, said)
	moves, err := nadia.TryMarks(ctx, "nadia", "mist-hold-in", 1)
	require.NoError(t, err)
	assert.NotEmpty(t, moves.Changes)
	assert.Empty(t, moves.Key)
	before, err := nadia.Marks(ctx)
	require.NoError(t, err)
	require.NoError(t, nadia.Withdraw(ctx, "nadia", "mist-hold-in", false))
	_, err = s.As(t, "liam").Exercise(ctx, "mist-hold-in")
	_, status := refusal(t, err)
	assert.Equal(t, http.StatusNotFound, status)
	code, _ := refusal(t, nadia.Give(ctx, "nadia", "mist-hold-in", 1))
	assert.Equal(t, "withdrawn", code)
	after, err := nadia.Marks(ctx)
	require.NoError(t, err)
	assert.Equal(t, before, after)
}

// An exercise begins with a lesson's, under a title and a name of its own, every other byte as it was.
func TestBeginWithALesson(t *testing.T) {
	folder := exercise.Files{"exercise.yaml": []byte("name: hold-in   # the lesson\ntitle: Hold in\n"), "brief.md": []byte("Hold.")}
	s := servicetest.Start(t, true, func(c *service.Config) {
		c.Lessons = api.Lessons{List: []client.Lesson{{Name: "hold-in", Title: "Hold-in"}}, Folders: map[string]exercise.Files{"hold-in": folder}}
	})
	nadia := s.As(t, "nadia")
	lessons, err := nadia.Lessons(ctx)
	require.NoError(t, err)
	require.Len(t, lessons, 1)
	w, err := nadia.Begin(ctx, client.Beginning{Title: "Fogger, held", Lesson: "hold-in"})
	require.NoError(t, err)
	assert.Equal(t, "fogger-held", w.Name)
	assert.Equal(t, "name: fogger-held   # the lesson\ntitle: Fogger, held\n", string(w.Files["exercise.yaml"]))
	assert.Equal(t, "Hold.", string(w.Files["brief.md"]))
	_, err = nadia.Begin(ctx, client.Beginning{Title: "x", Lesson: "none"})
	code, _ := refusal(t, err)
	assert.Equal(t, "not-found", code)
}
