package store_test

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"celandine/core/exercise"
	"celandine/service/servicetest"
	"celandine/service/store"
)

var ctx = context.Background()

func always(store.Sofar) error { return nil }

// queue remembers what was enqueued, and fails when told to.
type queue struct {
	mu   sync.Mutex
	jobs []int64
	fail error
}

func (q *queue) Enqueue(ctx context.Context, tx pgx.Tx, handin int64) error {
	q.mu.Lock()
	defer q.mu.Unlock()
	// The hand-in is there, in this very transaction.
	var n int
	if err := tx.QueryRow(ctx, "SELECT count(*) FROM handins WHERE id = $1", handin).Scan(&n); err != nil || n != 1 {
		return errors.Join(err, errors.New("the hand-in is not in the job's transaction"))
	}
	q.jobs = append(q.jobs, handin)
	return q.fail
}

// school is a store with one learner and one exercise.
func school(t *testing.T) (*store.Store, *queue, store.Handin) {
	t.Helper()
	s, err := store.Open(ctx, servicetest.Database(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	_, err = s.Migrate(ctx)
	require.NoError(t, err)
	q := &queue{}
	s.UseQueue(q)
	p, err := s.SavePerson(ctx, store.Person{Login: "ana", Name: "Ana", Role: store.Learner, PasswordHash: "-"})
	require.NoError(t, err)
	class, err := s.SaveClass(ctx, store.Class{Name: "spring"}, p)
	require.NoError(t, err)
	r, err := s.Push(ctx, class.ID, p.ID, &exercise.Exercise{Name: "mist", Title: "Mist"}, exercise.Files{"brief.md": []byte("x")})
	require.NoError(t, err)
	a, err := s.AnyAssignment(ctx, class.ID, "mist")
	require.NoError(t, err)
	a.Published = true
	require.NoError(t, s.ChangeAssignment(ctx, p.ID, a))
	return s, q, store.Handin{AssignmentID: a.ID, RevisionID: r.ID, PersonID: p.ID, File: "a.st", Text: "x"}
}

func TestHandInAndJobTogether(t *testing.T) {
	s, q, h := school(t)
	first, err := s.Record(ctx, h, always)
	require.NoError(t, err)
	assert.Equal(t, []int64{first.ID}, q.jobs)

	q.fail = errors.New("no room in the queue")
	_, err = s.Record(ctx, h, always)
	require.ErrorIs(t, err, q.fail)
	list, err := s.Handins(ctx, h.AssignmentID, store.Wanted{Person: h.PersonID, Limit: 10})
	require.NoError(t, err)
	assert.Len(t, list, 1, "neither the hand-in nor the job")

	q.fail = nil
	next, err := s.Record(ctx, h, always)
	require.NoError(t, err)
	assert.Equal(t, 2, next.Number)
}

func TestHandInsAtOnceAreNumberedInTurn(t *testing.T) {
	s, _, h := school(t)
	numbers := make(chan int, 20)
	for range 20 {
		go func() {
			made, err := s.Record(ctx, h, always)
			assert.NoError(t, err)
			numbers <- made.Number
		}()
	}
	seen := map[int]bool{}
	for range 20 {
		seen[<-numbers] = true
	}
	for n := 1; n <= 20; n++ {
		assert.True(t, seen[n], "number %d", n)
	}
}

func TestOneKeyAtOnceIsOneHandIn(t *testing.T) {
	s, q, h := school(t)
	key := "mine"
	h.Key = &key
	ids := make(chan int64, 10)
	for range 10 {
		go func() {
			made, err := s.Record(ctx, h, always)
			assert.NoError(t, err)
			ids <- made.ID
		}()
	}
	first := <-ids
	for range 9 {
		assert.Equal(t, first, <-ids)
	}
	assert.Len(t, q.jobs, 1)
}

func TestAResultIsStoredOnce(t *testing.T) {
	s, _, h := school(t)
	h, err := s.Record(ctx, h, always)
	require.NoError(t, err)
	told := make(chan store.Notice, 2)
	listening, stop := context.WithCancel(ctx)
	defer stop()
	go s.Listen(listening, func(n store.Notice) { told <- n })
	text := []byte(`{ "earned":  4 }`)
	require.Eventually(t, func() bool { // a listener needs a moment to be there
		require.NoError(t, s.SaveResult(ctx, store.Result{HandinID: h.ID, RevisionID: h.RevisionID, Earned: 400, Points: 1000, Result: text, Evidence: []byte("[]")}))
		select {
		case n := <-told:
			return n == store.Notice{Handin: h.ID, Earned: 400, Points: 1000}
		default:
			return false
		}
	}, servicetest.Patience, servicetest.Moment)
	require.NoError(t, s.SaveResult(ctx, store.Result{HandinID: h.ID, RevisionID: h.RevisionID, Earned: 900, Points: 1000, Result: []byte("{}"), Evidence: []byte("[]")}))
	got, err := s.Handin(ctx, h.ID)
	require.NoError(t, err)
	assert.Equal(t, exercise.Marks(400), got.Result.Earned)
	assert.Equal(t, string(text), string(got.Result.Result), "to the byte")
}

func TestAnUnchangedFolderGetsNoRevision(t *testing.T) {
	s, _, h := school(t)
	classes, err := s.Classes(ctx, h.PersonID)
	require.NoError(t, err)
	class := classes[0]
	e := &exercise.Exercise{Name: "mist", Title: "Mist"}
	same, err := s.Push(ctx, class.ID, h.PersonID, e, exercise.Files{"brief.md": []byte("x")})
	require.NoError(t, err)
	assert.Equal(t, h.RevisionID, same.ID)
	other, err := s.Push(ctx, class.ID, h.PersonID, e, exercise.Files{"brief.md": []byte("y")})
	require.NoError(t, err)
	assert.Equal(t, 2, other.Number)
	kept, err := s.Revision(ctx, h.RevisionID)
	require.NoError(t, err)
	assert.Equal(t, "x", string(kept.Files["brief.md"]))
}

func TestDownIsToldFromOtherErrors(t *testing.T) {
	_, err := store.Open(ctx, "postgres://nobody@127.0.0.1:1/none?sslmode=disable")
	assert.ErrorIs(t, err, store.ErrDown)
	s, _, _ := school(t)
	_, err = s.Handin(ctx, 12345)
	assert.ErrorIs(t, err, store.ErrNotFound)
	_, err = s.SavePerson(ctx, store.Person{Login: "x", Name: "X", Role: "gardener", PasswordHash: "-"})
	assert.Error(t, err)
	assert.NotErrorIs(t, err, store.ErrDown)
}

// Old drafts and old traces are forgotten; what is younger, and every mark, stays.
func TestPrune(t *testing.T) {
	s, _, h := school(t)
	h, err := s.Record(ctx, h, always)
	require.NoError(t, err)
	require.NoError(t, s.SaveResult(ctx, store.Result{HandinID: h.ID, RevisionID: h.RevisionID, Earned: 400, Points: 1000, Result: []byte("{}"), Evidence: []byte("[1]")}))
	for _, language := range []string{"st", "ladder"} {
		_, err := s.SaveDraft(ctx, store.Draft{AssignmentID: h.AssignmentID, PersonID: h.PersonID, Language: language, Text: "x"})
		require.NoError(t, err)
	}
	_, err = s.Pool.Exec(ctx, "UPDATE drafts SET saved_at = now() - interval '40 days' WHERE language = 'st'")
	require.NoError(t, err)
	for _, step := range []struct {
		drafts, traces time.Duration
		forgot         [2]int64
	}{
		{0, 0, [2]int64{}}, {30 * 24 * time.Hour, time.Hour, [2]int64{1, 0}}, {30 * 24 * time.Hour, time.Nanosecond, [2]int64{0, 1}},
	} {
		drafts, traces, err := s.Prune(ctx, step.drafts, step.traces)
		require.NoError(t, err)
		assert.Equal(t, step.forgot, [2]int64{drafts, traces})
	}
	got, err := s.Handin(ctx, h.ID)
	require.NoError(t, err)
	assert.Equal(t, exercise.Marks(400), got.Result.Earned)
	assert.Equal(t, "[]", string(got.Result.Evidence))
}
