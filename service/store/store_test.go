package store_test

import (
	"context"
	"errors"
	"sync"
	"testing"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/pressly/goose/v3/lock"
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
	r, err := s.Push(ctx, class.ID, p, &exercise.Exercise{Name: "mist", Title: "Mist"}, exercise.Files{"brief.md": []byte("x")})
	require.NoError(t, err)
	a, err := s.AnyAssignment(ctx, class.ID, "mist")
	require.NoError(t, err)
	a.Published = true
	require.NoError(t, s.ChangeAssignment(ctx, p.ID, a))
	return s, q, store.Handin{AssignmentID: a.ID, RevisionID: r.ID, PersonID: p.ID, File: "a.st", Text: "x"}
}

func TestHandInAndJobTogether(t *testing.T) {
	s, q, h := school(t)
	first, err := s.Record(ctx, h, 0, always)
	require.NoError(t, err)
	assert.Equal(t, []int64{first.ID}, q.jobs)

	q.fail = errors.New("no room in the queue")
	_, err = s.Record(ctx, h, 0, always)
	require.ErrorIs(t, err, q.fail)
	list, err := s.Handins(ctx, h.AssignmentID, store.Wanted{Person: h.PersonID, Limit: 10})
	require.NoError(t, err)
	assert.Len(t, list, 1, "neither the hand-in nor the job")

	q.fail = nil
	next, err := s.Record(ctx, h, 0, always)
	require.NoError(t, err)
	assert.Equal(t, 2, next.Number)
}

func TestHandInsAtOnceAreNumberedInTurn(t *testing.T) {
	s, _, h := school(t)
	numbers := make(chan int, 20)
	for range 20 {
		go func() {
			made, err := s.Record(ctx, h, 0, always)
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

// However many hand in with one key at once, graded or to be graded, one is stored and the others are told.
func TestOneKeyAtOnceIsOneHandIn(t *testing.T) {
	s, q, h := school(t)
	h.Key = store.KeyOf("mine")
	errs := make(chan error, 20)
	for n := range cap(errs) {
		go func() {
			var err error
			if n%2 == 0 {
				_, err = s.Record(ctx, h, 0, always)
			} else {
				_, err = s.RecordGraded(ctx, h, full, 0)
			}
			errs <- err
		}()
	}
	stored := 0
	for range cap(errs) {
		if err := <-errs; err == nil {
			stored++
		} else {
			assert.ErrorIs(t, err, store.ErrTaken)
		}
	}
	assert.Equal(t, 1, stored)
	assert.LessOrEqual(t, len(q.jobs), 1)
	sofar, err := s.Sofar(ctx, h)
	require.NoError(t, err)
	assert.Equal(t, 1, sofar.Handins)
	assert.NotZero(t, sofar.Same)
}

// full is a result that earned everything.
var full = store.Result{Earned: 1000, Points: 1000, Result: store.Packed(`{ "earned":  10 }`), GradedAt: time.Now()}

// A hand-in that is graded at once comes with its result, and never beyond the attempts, however many come together.
func TestRecordGraded(t *testing.T) {
	s, q, h := school(t)
	numbers := make(chan int, 20)
	for range cap(numbers) {
		go func() {
			made, err := s.RecordGraded(ctx, h, full, 3)
			if err != nil {
				assert.ErrorIs(t, err, store.ErrRefused)
			}
			numbers <- made.Number
		}()
	}
	count := map[int]int{}
	for range cap(numbers) {
		count[<-numbers]++
	}
	assert.Equal(t, map[int]int{0: 17, 1: 1, 2: 1, 3: 1}, count)
	assert.Empty(t, q.jobs)
	list, err := s.Handins(ctx, h.AssignmentID, store.Wanted{Limit: 10})
	require.NoError(t, err)
	require.Len(t, list, 3)
	got, err := s.Handin(ctx, list[0].ID)
	require.NoError(t, err)
	assert.Equal(t, string(full.Result), string(got.Result.Result), "to the byte")
	assert.Nil(t, got.Result.Kept)
	a, err := s.AnyAssignment(ctx, 1, "mist")
	require.NoError(t, err)
	graded, waiting, err := s.ClassProgress(ctx, a.ClassID)
	require.NoError(t, err)
	assert.Equal(t, [2]int{3, 0}, [2]int{graded, waiting})
}

// The end of the job and the result stand or fall together; a second result changes nothing.
func TestAResultIsStoredOnce(t *testing.T) {
	s, _, h := school(t)
	h, err := s.Record(ctx, h, 0, always)
	require.NoError(t, err)
	result := func(earned exercise.Marks, text string) store.Result {
		return store.Result{HandinID: h.ID, RevisionID: h.RevisionID, Earned: earned, Points: 1000, Result: store.Packed(text),
			Kept: store.Packed("[1]"), GradedAt: time.Now()}
	}
	waiting := func() int64 {
		n, err := s.Waiting(ctx)
		require.NoError(t, err)
		return n
	}
	broken := errors.New("the job could not be ended")
	require.ErrorIs(t, s.SaveResult(ctx, result(900, "{}"), func(store.Tx) error { return broken }), broken)
	assert.EqualValues(t, 1, waiting(), "it goes on waiting")
	ended := 0
	done := func(store.Tx) error { ended++; return nil }
	require.NoError(t, s.SaveResult(ctx, result(400, `{ "earned":  4 }`), done))
	require.NoError(t, s.SaveResult(ctx, result(900, "{}"), done))
	assert.Equal(t, 2, ended)
	assert.Zero(t, waiting())
	got, err := s.Handin(ctx, h.ID)
	require.NoError(t, err)
	assert.Equal(t, exercise.Marks(400), got.Result.Earned)
	assert.Equal(t, `{ "earned":  4 }`, string(got.Result.Result), "to the byte")
}

// What one process tells, all hear; many are told together.
func TestTell(t *testing.T) {
	s, _, _ := school(t)
	heard := make(chan store.Notice, 2000)
	listening, stop := context.WithCancel(ctx)
	defer stop()
	go s.Listen(listening, func(n store.Notice) { heard <- n })
	go s.Telling(listening)
	require.Eventually(t, func() bool { // a listener needs a moment to be there
		s.Tell(store.Notice{})
		return len(heard) > 0
	}, servicetest.Patience, servicetest.Moment)
	want := map[int64]bool{}
	for n := range int64(500) {
		s.Tell(store.Notice{Handin: n + 1, Class: 3, Graded: n%2 == 0, Earned: 400, Points: 1000})
		want[n+1] = true
	}
	deadline := time.After(servicetest.Patience)
	for len(want) > 0 {
		select {
		case n := <-heard:
			delete(want, n.Handin)
			assert.True(t, n.Handin == 0 || n == store.Notice{Handin: n.Handin, Class: 3, Graded: n.Handin%2 == 1, Earned: 400, Points: 1000}, "%v",
				n)
		case <-deadline:
			require.Empty(t, want)
		}
	}
}

// A hand-in without a result and without a job is found, and queued again once; one that has its result is left out.
func TestStuck(t *testing.T) {
	s, q, h := school(t)
	h, err := s.Record(ctx, h, 0, always)
	require.NoError(t, err)
	graded, err := s.RecordGraded(ctx, h, full, 0)
	require.NoError(t, err)
	for _, all := range []bool{true, false} {
		list, err := s.Stuck(ctx, 0, all, 10)
		require.NoError(t, err)
		require.Len(t, list, 1, "the test's queue keeps no jobs")
		assert.Equal(t, h.ID, list[0].ID)
		assert.Equal(t, "mist", list[0].Exercise)
	}
	_, err = s.Pool.Exec(ctx, "DELETE FROM waiting")
	require.NoError(t, err)
	list, err := s.Stuck(ctx, 0, false, 10)
	require.NoError(t, err)
	assert.Len(t, list, 1, "whatever is noted of it")
	list, err = s.Stuck(ctx, time.Hour, true, 10)
	require.NoError(t, err)
	assert.Empty(t, list, "not yet")
	n, err := s.Requeue(ctx, []int64{h.ID, graded.ID, 12345})
	require.NoError(t, err)
	assert.Equal(t, 1, n)
	assert.Equal(t, []int64{h.ID, h.ID}, q.jobs)
	waiting, err := s.Waiting(ctx)
	require.NoError(t, err)
	assert.EqualValues(t, 1, waiting)
}

func TestAnUnchangedFolderGetsNoRevision(t *testing.T) {
	s, _, h := school(t)
	classes, err := s.Classes(ctx, h.PersonID)
	require.NoError(t, err)
	class := classes[0]
	e := &exercise.Exercise{Name: "mist", Title: "Mist"}
	same, err := s.Push(ctx, class.ID, store.Person{ID: h.PersonID}, e, exercise.Files{"brief.md": []byte("x")})
	require.NoError(t, err)
	assert.Equal(t, h.RevisionID, same.ID)
	other, err := s.Push(ctx, class.ID, store.Person{ID: h.PersonID}, e, exercise.Files{"brief.md": []byte("y")})
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
	h, err := s.Record(ctx, h, 0, always)
	require.NoError(t, err)
	require.NoError(t, s.SaveResult(ctx, store.Result{HandinID: h.ID, RevisionID: h.RevisionID, Earned: 400, Points: 1000,
		Result: store.Packed("{}"), Kept: store.Packed("[1]"), GradedAt: time.Now()},
		func(store.Tx) error { return nil }))
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
	assert.Nil(t, got.Result.Kept)
}

// A program does not write in a schema that a newer one has made.
func TestNewerSchemaIsRefused(t *testing.T) {
	s, _, _ := school(t)
	_, err := s.Pool.Exec(ctx, "INSERT INTO goose_db_version (version_id, is_applied) SELECT max(version_id) + 1, TRUE FROM goose_db_version")
	require.NoError(t, err)
	_, err = s.Migrate(ctx)
	assert.ErrorIs(t, err, store.ErrSchema)
	assert.ErrorContains(t, err, "start the version that was here last, or a newer one")
}

// Services that start together do not wait for each other's turn where nothing is to be migrated: one that came last in line lost
// its connection when the database was restarted half a minute later, and ended.
func TestNothingToMigrateWaitsForNobody(t *testing.T) {
	s, _, _ := school(t)
	other, err := s.Pool.Acquire(ctx)
	require.NoError(t, err)
	defer other.Release()
	_, err = other.Exec(ctx, "SELECT pg_advisory_lock($1)", lock.DefaultLockID)
	require.NoError(t, err)
	defer func() {
		_, err := other.Exec(ctx, "SELECT pg_advisory_unlock_all()")
		require.NoError(t, err)
	}()

	within, cancel := context.WithTimeout(ctx, time.Minute)
	defer cancel()
	applied, err := s.Migrate(within)
	require.NoError(t, err)
	assert.Empty(t, applied)
}
