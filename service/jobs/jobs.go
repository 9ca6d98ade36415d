// Package jobs grades hand-ins: at once where a core is free, else in the background.
//
// [Queue.AtOnce] grades what takes little within the request that hands it in. For all else a grading job stands in PostgreSQL,
// written in the transaction that stores the hand-in and ended in the one that stores the result, so that none is lost. Any
// number of processes work on the queue; a result is stored once, whoever brings it. When a mark is there tells nothing of
// hidden scenarios: see [rest]. The grading itself is core/grade.
package jobs

import (
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/go-chi/chi/v5/middleware"
	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

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
	Handin  int64  `json:"handin"`
	Request string `json:"request,omitempty"` // the number of the request that handed it in, for the log
}

// Kind names the job in the queue.
func (GradeHandin) Kind() string { return "grade_handin" }

// A Queue takes jobs and, once started, works on them.
type Queue struct {
	worker *worker
	client *river.Client[pgx.Tx]
	id     string
	end    context.CancelFunc
	ended  chan struct{}
}

// New returns a queue on the store's database with that many workers. observe
// is told how long each grading took, noticed of mistakes of Celandine's own.
func New(s *store.Store, graders *Graders, workers int, log *slog.Logger, observe func(time.Duration),
	noticed func(*mistake.Mistake)) (*Queue, error) {
	registry := river.NewWorkers()
	each, err := pace()
	if err != nil {
		return nil, err
	}
	w := &worker{store: s, log: log, observe: observe, noticed: noticed, graders: graders, cores: make(chan struct{}, max(workers, 1)),
		none: workers == 0, perInstruction: each}
	river.AddWorker(registry, w)
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
	return &Queue{worker: w, client: client, id: id}, nil
}

// AtOnce grades a hand-in that is about to be stored, where a core is free and it takes little; else the result is nil. Whether
// it takes little is told by the program, the length of the exercise's hidden scenarios and what it does in shown ones; the
// result comes when the slowest run that such a program could have had would be over.
func (q *Queue) AtOnce(ctx context.Context, h store.Handin) (*store.Result, error) {
	return q.worker.withinRequest(ctx, h)
}

// Enqueue writes a grading job in a transaction.
func (q *Queue) Enqueue(ctx context.Context, tx pgx.Tx, handin int64) error {
	_, err := q.client.InsertTx(ctx, tx, GradeHandin{handin, middleware.GetReqID(ctx)}, nil)
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
	if err := q.worker.store.Alive(ctx, q.id); err != nil {
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
		if err := q.worker.store.Alive(ctx, q.id); err != nil {
			continue
		}
		if n, err := q.worker.store.Rescue(ctx, silence, q.id, q.worker.hands.list()); err == nil && n > 0 {
			q.worker.log.Warn("took jobs over that nobody worked on", "jobs", n)
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
	return errors.Join(err, q.worker.store.Gone(ctx, q.id))
}
