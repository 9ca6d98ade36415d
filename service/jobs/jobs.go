// Package jobs grades hand-ins in the background.
//
// A grading job stands in PostgreSQL and is written in the transaction that stores the
// hand-in, so that none is lost. Any number of processes work on the queue; a result is stored once, whoever
// brings it. The grading itself is core/grade.
package jobs

import (
	"context"
	"crypto/rand"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"celandine/core/exercise"
	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/source"
	"celandine/mistake"
	"celandine/service/store"
)

// How a job may fail.
const (
	timeout     = 60 * time.Second
	rescueAfter = 90 * time.Second
	attempts    = 25
)

// GradeHandin is the job: grade this hand-in.
type GradeHandin struct {
	Handin int64 `json:"handin"`
}

// Kind names the job in the queue.
func (GradeHandin) Kind() string { return "grade_handin" }

// A Queue takes jobs and, once started, works on them.
type Queue struct {
	client *river.Client[pgx.Tx]
	store  *store.Store
	id     string
	log    *slog.Logger
	end    context.CancelFunc
	ended  chan struct{}
}

// New returns a queue on the store's database with that many workers. observe
// is told how long each grading took, noticed of mistakes of Celandine's own.
func New(s *store.Store, workers int, log *slog.Logger, observe func(time.Duration), noticed func(*mistake.Mistake)) (*Queue, error) {
	registry := river.NewWorkers()
	river.AddWorker(registry, &worker{store: s, observe: observe, noticed: noticed, graders: map[int64]*grade.Grader{}, cores: make(chan struct{}, max(workers, 1))})
	id := rand.Text()
	queues := map[string]river.QueueConfig{}
	if workers > 0 { // else this process only puts jobs in
		queues[river.QueueDefault] = river.QueueConfig{MaxWorkers: min(workers*inFlight, 2*store.MaxConnections)}
		queues[slow] = river.QueueConfig{MaxWorkers: max(workers/2, 1)}
	}
	client, err := river.NewClient(riverpgxv5.New(s.Pool), &river.Config{
		ID:                   id,
		Queues:               queues,
		Workers:              registry,
		Logger:               log,
		JobTimeout:           timeout,
		RescueStuckJobsAfter: rescueAfter,
		FetchCooldown:        10 * time.Millisecond,
		FetchPollInterval:    time.Second,
		MaxAttempts:          attempts,
	})
	if err != nil {
		return nil, fmt.Errorf("setting up the grading queue: %w", err)
	}
	return &Queue{client: client, store: s, id: id, log: log}, nil
}

// Enqueue writes a grading job in a transaction.
func (q *Queue) Enqueue(ctx context.Context, tx pgx.Tx, handin int64) error {
	_, err := q.client.InsertTx(ctx, tx, GradeHandin{handin}, nil)
	return err
}

// How often a process says that it lives, and after what silence others take its jobs over.
const (
	beat    = 2 * time.Second
	silence = 8 * time.Second
)

// Start works on jobs until Stop.
func (q *Queue) Start(ctx context.Context) error {
	living, end := context.WithCancel(context.WithoutCancel(ctx))
	q.end, q.ended = end, make(chan struct{})
	if err := q.store.Alive(ctx, q.id); err != nil {
		end()
		return err
	}
	go q.live(living)
	return q.client.Start(context.WithoutCancel(ctx))
}

// live says that the process lives, and takes over from those that do not. Where the database does not answer it tries again.
func (q *Queue) live(ctx context.Context) {
	defer close(q.ended)
	tick := time.NewTicker(beat)
	defer tick.Stop()
	for {
		select {
		case <-ctx.Done():
			return
		case <-tick.C:
		}
		if err := q.store.Alive(ctx, q.id); err != nil {
			continue
		}
		if n, err := q.store.Rescue(ctx, silence); err == nil && n > 0 {
			q.log.Warn("took jobs over from a process that is gone", "jobs", n)
		}
	}
}

// Stop waits for the jobs under way.
func (q *Queue) Stop(ctx context.Context) error {
	if q.end == nil {
		return nil
	}
	err := q.client.Stop(ctx)
	q.end()
	<-q.ended
	return errors.Join(err, q.store.Gone(ctx, q.id))
}

type worker struct {
	river.WorkerDefaults[GradeHandin]
	store   *store.Store
	observe func(time.Duration)
	noticed func(*mistake.Mistake)
	cores   chan struct{} // as many grade at once as were asked for; the others wait for the database
	mu      sync.Mutex
	graders map[int64]*grade.Grader // by revision
}

// inFlight is how many jobs are under way for each one that grades: most of a job's time is spent waiting for the database. More than twice the
// connections would only keep requests waiting for theirs.
const inFlight = 20

// keptGraders bounds the memory for prepared exercises.
const keptGraders = 200

// slow is the queue for hand-ins that execute far more than a program that does what the exercise asks: few are graded at once, so that others'
// hand-ins, and the service, keep their pace.
const slow = "slow"

// quickly is how many million instructions are not slow yet: some milliseconds, or several times what the solution takes.
func quickly(g *grade.Grader) int { return 5 + 4*g.Executed()/1_000_000 }

// Work grades one hand-in.
func (w *worker) Work(ctx context.Context, job *river.Job[GradeHandin]) error {
	h, graded, err := w.store.ToGrade(ctx, job.Args.Handin)
	if errors.Is(err, store.ErrNotFound) {
		return river.JobCancel(fmt.Errorf("there is no hand-in %d", job.Args.Handin))
	}
	if err != nil {
		return err
	}
	if graded {
		return nil
	}
	result, evidence, err := w.grade(ctx, h, job.Queue == slow)
	if errors.Is(err, machine.ErrStopped) && ctx.Err() == nil {
		_, err := river.ClientFromContext[pgx.Tx](ctx).Insert(ctx, job.Args, &river.InsertOpts{Queue: slow})
		return err
	}
	if err != nil {
		return fmt.Errorf("grading hand-in %d: %w", h.ID, err)
	}
	r, err := Stored(h.ID, h.RevisionID, result, evidence)
	if err != nil {
		return err
	}
	return w.store.SaveResult(ctx, r)
}

// grade stops a hand-in that is not patiently graded once it has turned out to be slow.
func (w *worker) grade(ctx context.Context, h store.Handin, patiently bool) (*grade.Result, []grade.Evidence, error) {
	g, err := w.grader(ctx, h.RevisionID)
	if err != nil {
		return nil, nil, err
	}
	millions := 0
	stop := func() bool {
		millions++
		return ctx.Err() != nil || !patiently && millions > quickly(g)
	}
	if !patiently {
		select {
		case w.cores <- struct{}{}:
		case <-ctx.Done():
			return nil, nil, ctx.Err()
		}
		defer func() { <-w.cores }()
	}
	began := time.Now()
	result, evidence, err := Graded(g, stop, h, w.noticed)
	if err == nil {
		w.observe(time.Since(began))
	}
	return result, evidence, err
}

// Graded grades a hand-in. Where that is a mistake of Celandine's own, it is noticed and the result says so: the
// hand-in must not wait for ever, nor the process end.
func Graded(g *grade.Grader, stop func() bool, h store.Handin, noticed func(*mistake.Mistake)) (result *grade.Result, evidence []grade.Evidence, err error) {
	files := []*source.File{source.NewFile(h.File, h.Text)}
	err = mistake.Guard(fmt.Sprintf("grading hand-in %d", h.ID), func() (err error) {
		result, evidence, err = g.GradeUntil(stop, h.File, files)
		return err
	})
	var wrong *mistake.Mistake
	if errors.As(err, &wrong) {
		noticed(wrong)
		return g.Spoilt(h.File, files), []grade.Evidence{}, nil
	}
	return result, evidence, err
}

// Stored is a result as it is kept.
func Stored(handin, revision int64, result *grade.Result, evidence []grade.Evidence) (store.Result, error) {
	r, err := json.Marshal(result)
	if err != nil {
		return store.Result{}, err
	}
	e, err := json.Marshal(evidence)
	return store.Result{HandinID: handin, RevisionID: revision, Earned: result.Earned, Points: result.Points, Result: r, Evidence: e, GradedAt: time.Now()}, err
}

// grader prepares a revision once; revisions never change.
func (w *worker) grader(ctx context.Context, revision int64) (*grade.Grader, error) {
	w.mu.Lock()
	defer w.mu.Unlock()
	if g := w.graders[revision]; g != nil {
		return g, nil
	}
	r, err := w.store.Revision(ctx, revision)
	if err != nil {
		return nil, err
	}
	g, err := Prepare(exercise.Files(r.Files))
	if err != nil {
		return nil, err
	}
	if len(w.graders) >= keptGraders {
		clear(w.graders)
	}
	w.graders[revision] = g
	return g, nil
}

// A BadExercise is why a folder cannot be graded with.
type BadExercise struct{ Problems source.List }

// Error counts the problems.
func (b BadExercise) Error() string { return "the exercise has " + b.Problems.Summary() }

// Prepare reads a folder and makes it ready to grade with.
func Prepare(files exercise.Files) (*grade.Grader, error) {
	e, problems := exercise.Read(files)
	if e == nil {
		return nil, BadExercise{problems}
	}
	g, problems := grade.Prepare(e)
	if g == nil {
		return nil, BadExercise{problems}
	}
	return g, nil
}
