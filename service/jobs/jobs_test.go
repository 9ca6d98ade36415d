package jobs_test

import (
	"context"
	"encoding/json"
	"log/slog"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/mistake"
	"celandine/service/jobs"
	"celandine/service/servicetest"
	"celandine/service/store"
)

const yaml = `format: celandine/exercise/1
name: fan
title: Fan
panel:
  inputs: [{name: fan_on, at: "%IX0.0", device: button}]
  outputs: [{name: fan, at: "%QX0.0", device: fan}]
graded: [{signal: fan}]
scenarios:
  - {name: seen, points: 1, shown: true, for: 1s, steps: [{at: 100ms, press: fan_on}], expect: solution}
  - {name: hidden, points: 3, for: 1s, steps: [{at: 200ms, press: fan_on}], expect: solution}
`

const (
	right = "PROGRAM p\nfan := fan_on;\nEND_PROGRAM\n"
	wrong = "PROGRAM p\nEND_PROGRAM\n"
	slow  = "PROGRAM p\nVAR i, n : INT; END_VAR\nFOR i := 1 TO 20000 DO n := n + 1; END_FOR;\nfan := fan_on;\nEND_PROGRAM\n"
)

// ground is a store with one exercise, and a queue on it.
type ground struct {
	store    *store.Store
	queue    *jobs.Queue
	handin   store.Handin
	observed chan time.Duration
	noticed  chan *mistake.Mistake
}

func prepare(t *testing.T, workers int) *ground {
	ctx := t.Context()
	s, err := store.Open(ctx, servicetest.Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	_, err = s.Migrate(ctx)
	require.NoError(t, err)
	p, err := s.SavePerson(ctx, store.Person{Login: "ana", Name: "Ana", Role: store.Learner, PasswordHash: "-"})
	require.NoError(t, err)
	class, err := s.SaveClass(ctx, store.Class{Name: "spring"}, p)
	require.NoError(t, err)
	files := exercise.Files{"exercise.yaml": []byte(yaml), "brief.md": []byte("x"), "solution.st": []byte(right)}
	e, problems := exercise.Read(files)
	require.NotNil(t, e, "%v", problems)
	r, err := s.Push(ctx, class.ID, p, e, files)
	require.NoError(t, err)
	a, err := s.AnyAssignment(ctx, class.ID, "fan")
	require.NoError(t, err)
	g := &ground{store: s, observed: make(chan time.Duration, 1000), noticed: make(chan *mistake.Mistake, 10),
		handin: store.Handin{AssignmentID: a.ID, Assignment: a, RevisionID: r.ID, PersonID: p.ID, File: "mine.st"}}
	g.queue, err = jobs.New(s, jobs.NewGraders(s), workers, slog.New(slog.DiscardHandler), func(d time.Duration) { g.observed <- d },
		func(m *mistake.Mistake) { g.noticed <- m })
	require.NoError(t, err)
	s.UseQueue(g.queue)
	return g
}

func (g *ground) with(text string) store.Handin {
	h := g.handin
	h.Text = text
	return h
}

func (g *ground) start(t *testing.T) {
	require.NoError(t, g.queue.Start(t.Context()))
	t.Cleanup(func() { require.NoError(t, g.queue.Stop(context.Background())) })
}

func always(store.Sofar) error { return nil }

// marked waits until a hand-in has its mark.
func (g *ground) marked(t *testing.T, id int64) (earned exercise.Marks) {
	require.Eventually(t, func() bool {
		h, err := g.store.Handin(t.Context(), id)
		require.NoError(t, err)
		if h.Result == nil {
			return false
		}
		earned = h.Result.Earned
		return true
	}, 2*time.Minute, 10*time.Millisecond)
	return earned
}

// Within the request a hand-in that takes little gets its mark; what takes much is left for the queue, and so is all where this process
// grades nothing.
func TestAtOnce(t *testing.T) {
	g := prepare(t, 2)
	for text, want := range map[string]string{right: "4", wrong: "0"} {
		r, err := g.queue.AtOnce(t.Context(), g.with(text))
		require.NoError(t, err)
		require.NotNil(t, r)
		assert.Equal(t, want, r.Earned.String())
		assert.Equal(t, "4", r.Points.String())
		assert.NotEmpty(t, r.Result)
		assert.Positive(t, <-g.observed)
	}
	r, err := g.queue.AtOnce(t.Context(), g.with(slow))
	require.NoError(t, err)
	assert.Nil(t, r)
	r, err = prepare(t, 0).queue.AtOnce(t.Context(), g.with(right))
	require.NoError(t, err)
	assert.Nil(t, r)
}

// Whoever has gone is graded no further.
func TestAtOnceForNobody(t *testing.T) {
	g := prepare(t, 1)
	gone, cancel := context.WithCancel(t.Context())
	cancel()
	r, _ := g.queue.AtOnce(gone, g.with(slow))
	assert.Nil(t, r)
}

// Hand-ins in the queue get the marks that they would have got at once, the slow ones too.
func TestQueue(t *testing.T) {
	g := prepare(t, 2)
	ids := map[int64]string{}
	for _, text := range []string{right, wrong, slow, right} {
		h, err := g.store.Record(t.Context(), g.with(text), 0, always)
		require.NoError(t, err)
		ids[h.ID] = map[string]string{right: "4", wrong: "0", slow: "4"}[text]
	}
	g.start(t)
	for id, want := range ids {
		assert.Equal(t, want, g.marked(t, id).String())
	}
	n, err := g.store.Waiting(t.Context())
	require.NoError(t, err)
	assert.Zero(t, n)
	assert.Len(t, g.observed, len(ids))
}

// The job is written in the transaction that stores the hand-in: where that fails there is none.
func TestEnqueueTogether(t *testing.T) {
	g := prepare(t, 1)
	tx, err := g.store.Pool.Begin(t.Context())
	require.NoError(t, err)
	require.NoError(t, g.queue.Enqueue(t.Context(), tx, 7))
	require.NoError(t, tx.Rollback(t.Context()))
	assert.Zero(t, g.jobs(t))
	require.NoError(t, pgx.BeginFunc(t.Context(), g.store.Pool, func(tx pgx.Tx) error { return g.queue.Enqueue(t.Context(), tx, 7) }))
	assert.Equal(t, 1, g.jobs(t))
}

func (g *ground) jobs(t *testing.T) (n int) {
	require.NoError(t, g.store.Pool.QueryRow(t.Context(), "SELECT count(*) FROM river_job").Scan(&n))
	return n
}

// A job for a hand-in that there is not is dropped; of two for one hand-in one gives the mark.
func TestJobsThatHaveNothingToDo(t *testing.T) {
	g := prepare(t, 1)
	require.NoError(t, pgx.BeginFunc(t.Context(), g.store.Pool, func(tx pgx.Tx) error { return g.queue.Enqueue(t.Context(), tx, 999) }))
	h, err := g.store.Record(t.Context(), g.with(right), 0, always)
	require.NoError(t, err)
	require.NoError(t, pgx.BeginFunc(t.Context(), g.store.Pool, func(tx pgx.Tx) error { return g.queue.Enqueue(t.Context(), tx, h.ID) }))
	g.start(t)
	g.marked(t, h.ID)
	require.Eventually(t, func() bool {
		var open int
		require.NoError(t, g.store.Pool.QueryRow(t.Context(), "SELECT count(*) FROM river_job WHERE finalized_at IS NULL").Scan(&open))
		return open == 0
	}, 2*time.Minute, 10*time.Millisecond)
	var cancelled, results int
	require.NoError(t, g.store.Pool.QueryRow(t.Context(),
		"SELECT (SELECT count(*) FROM river_job WHERE state = 'cancelled'), (SELECT count(*) FROM results)").Scan(&cancelled, &results))
	assert.Equal(t, []int{1, 1}, []int{cancelled, results})
}

// Jobs of a process that has died are taken over by another.
func TestJobsAreTakenOver(t *testing.T) {
	g := prepare(t, 1)
	h, err := g.store.Record(t.Context(), g.with(right), 0, always)
	require.NoError(t, err)
	_, err = g.store.Pool.Exec(t.Context(), "UPDATE river_job SET state = 'running', attempt = 1, attempted_at = now(), attempted_by = "+
		"ARRAY['gone']")
	require.NoError(t, err)
	g.start(t)
	assert.Equal(t, "4", g.marked(t, h.ID).String())
}

// However many ask at once, an exercise is prepared once; a folder that cannot be graded with says so.
func TestGraders(t *testing.T) {
	g := prepare(t, 1)
	graders := jobs.NewGraders(g.store)
	var group sync.WaitGroup
	seen := make(chan any, 20)
	for range cap(seen) {
		group.Go(func() {
			made, err := graders.Of(t.Context(), g.handin.RevisionID)
			assert.NoError(t, err)
			seen <- made
		})
	}
	group.Wait()
	first := <-seen
	for range cap(seen) - 1 {
		assert.Same(t, first, <-seen)
	}
	_, err := graders.Of(t.Context(), 999)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = jobs.Prepare(exercise.Files{"exercise.yaml": []byte("format: x")})
	var bad jobs.BadExercise
	require.ErrorAs(t, err, &bad)
	assert.Contains(t, err.Error(), "the exercise has ")
	_, err = jobs.Prepare(exercise.Files{"exercise.yaml": []byte(yaml), "brief.md": []byte("x"),
		"solution.st": []byte("PROGRAM p\nfan := nothing;\nEND_PROGRAM")})
	assert.ErrorAs(t, err, &bad)
}

// What is stored of a hand-in is what its grading said.
func TestStored(t *testing.T) {
	g := prepare(t, 1)
	grader, err := jobs.NewGraders(g.store).Of(t.Context(), g.handin.RevisionID)
	require.NoError(t, err)
	h := g.with(right)
	marked, err := jobs.Graded(grader, func() bool { return false }, h, func(*mistake.Mistake) { t.Fail() })
	require.NoError(t, err)
	r, err := jobs.Stored(h, marked)
	require.NoError(t, err)
	assert.Equal(t, g.handin.RevisionID, r.RevisionID)
	assert.Equal(t, marked.Result.Earned, r.Earned)
	var record any
	require.NoError(t, json.Unmarshal(r.Result, &record))

	_, err = jobs.Graded(grader, jobs.Limited(t.Context(), 0), g.with(slow), func(*mistake.Mistake) { t.Fail() })
	assert.Error(t, err, "it was stopped")
}
