package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"log/slog"
	"maps"
	"slices"
	"sync"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/riverqueue/river"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"

	"celandine/core/grade"
	"celandine/core/machine"
	"celandine/core/source"
	"celandine/mistake"
	"celandine/service/store"
)

// worker grades, within requests and from the queue.
type worker struct {
	river.WorkerDefaults[GradeHandin]
	store   *store.Store
	log     *slog.Logger
	observe func(time.Duration)
	noticed func(*mistake.Mistake)
	graders *Graders
	cores   chan struct{} // as many grade at once as were asked for; the others wait for the database
	none    bool          // this process leaves grading to others
	hands   hands
	// perInstruction is how long an instruction takes at most, as measured when the process began.
	perInstruction time.Duration
}

// hands holds which jobs are under way here, and those that have ended within the last moments: their end may not be written yet.
type hands struct {
	mu   sync.Mutex
	jobs map[int64]int // how often: one may be taken again before its end counts as written
}

func (h *hands) take(job int64) (leave func()) {
	h.change(job, 1)
	return func() { time.AfterFunc(silence, func() { h.change(job, -1) }) }
}

func (h *hands) change(job int64, by int) {
	h.mu.Lock()
	defer h.mu.Unlock()
	if h.jobs == nil {
		h.jobs = map[int64]int{}
	}
	if h.jobs[job] += by; h.jobs[job] == 0 {
		delete(h.jobs, job)
	}
}

func (h *hands) list() []int64 {
	h.mu.Lock()
	defer h.mu.Unlock()
	return slices.Collect(maps.Keys(h.jobs))
}

// inFlight is how many jobs are under way for each one that grades: most of a job's time is spent waiting for the database.
// More than twice the connections would only keep requests waiting for theirs.
const inFlight = 20

// slow is the queue for hand-ins that execute far more than a program that does what the exercise asks: few are graded at once,
// so that others' hand-ins, and the service, keep their pace.
const slow = "slow"

// quickly is how many million instructions are not slow yet: some milliseconds, or several times what the solution takes.
func quickly(g *grade.Grader) int { return 5 + 4*g.Executed()/1_000_000 }

// How long a mark is held back, so that when it comes tells nothing of what the hand-in did in hidden scenarios.
const (
	atOnce      = 1_000_000        // instructions in hidden scenarios for which a request waits: some 30 ms
	longestRest = 30 * time.Second // a job may take a minute
)

// rest is how long so many instructions take at most.
func (w *worker) rest(instructions int) time.Duration {
	return min(time.Duration(min(instructions, 1_000_000_000))*w.perInstruction, longestRest)
}

func (w *worker) withinRequest(ctx context.Context, h store.Handin) (*store.Result, error) {
	if w.none {
		return nil, nil
	}
	g, err := w.graders.Of(ctx, h.RevisionID)
	if err != nil {
		return nil, fmt.Errorf("grading a hand-in: %w", err)
	}
	select {
	case w.cores <- struct{}{}:
	default:
		return nil, nil
	}
	graded, released, err := w.atOnce(ctx, g, h)
	<-w.cores
	if errors.Is(err, machine.ErrStopped) && ctx.Err() == nil {
		return nil, nil
	}
	if err != nil || graded == nil {
		return nil, err
	}
	time.Sleep(time.Until(released))
	return graded, nil
}

// atOnce grades while it holds a core. It returns when the result may be told.
func (w *worker) atOnce(ctx context.Context, g *grade.Grader, h store.Handin) (r *store.Result, released time.Time, err error) {
	began := time.Now()
	stop := Limited(ctx, quickly(g))
	marked, err := guarded(g, h, w.noticed, func(one *grade.Handin) (bool, error) {
		hidden := one.Longest(grade.Hidden)
		if hidden > atOnce {
			return false, nil
		}
		if err := one.Play(stop, grade.Shown); err != nil {
			return false, err
		}
		released = time.Now().Add(w.rest(hidden))
		return true, one.Play(func() bool { return false }, grade.Hidden)
	})
	if err != nil || marked == nil {
		return nil, released, err
	}
	w.observe(time.Since(began))
	stored, err := Stored(h, marked)
	return &stored, released, err
}

// Limited stops a run after so many million instructions, or when nobody waits any more.
func Limited(ctx context.Context, millions int) func() bool {
	return func() bool {
		millions--
		return millions < 0 || ctx.Err() != nil
	}
}

// Work grades one hand-in.
func (w *worker) Work(ctx context.Context, job *river.Job[GradeHandin]) error {
	defer w.hands.take(job.ID)()
	h, graded, err := w.store.ToGrade(ctx, job.Args.Handin)
	if errors.Is(err, store.ErrNotFound) {
		return river.JobCancel(fmt.Errorf("there is no hand-in %d", job.Args.Handin))
	}
	if err != nil || graded {
		return err
	}
	g, err := w.graders.Of(ctx, h.RevisionID)
	if err != nil {
		return fmt.Errorf("grading hand-in %d: %w", h.ID, err)
	}
	marked, held, err := w.fromQueue(ctx, g, h, job.Queue == slow)
	if errors.Is(err, machine.ErrStopped) && ctx.Err() == nil {
		return w.leave(ctx, job)
	}
	if err != nil {
		return fmt.Errorf("grading hand-in %d: %w", h.ID, err)
	}
	select {
	case <-time.After(time.Until(h.CreatedAt.Add(held))):
	case <-ctx.Done():
		return ctx.Err()
	}
	r, err := Stored(h, marked)
	if err != nil {
		return err
	}
	err = w.store.SaveResult(ctx, r, func(tx store.Tx) error {
		_, err := river.JobCompleteTx[*riverpgxv5.Driver](ctx, tx, job)
		return err
	})
	if err != nil {
		return err
	}
	w.log.Info("graded", "handin", h.ID, "requestId", job.Args.Request)
	w.store.Tell(store.Notice{Handin: h.ID, Class: h.Assignment.ClassID, Graded: true, Earned: r.Earned, Points: r.Points})
	return nil
}

// leave puts a hand-in that has turned out to be slow into the queue of those.
func (w *worker) leave(ctx context.Context, job *river.Job[GradeHandin]) error {
	_, err := river.ClientFromContext[pgx.Tx](ctx).Insert(ctx, job.Args, &river.InsertOpts{Queue: slow})
	return err
}

// fromQueue grades a hand-in from the queue, and stops one that is not patiently graded once it has turned out to be slow. held is how long
// after handing in the mark may be told.
func (w *worker) fromQueue(ctx context.Context, g *grade.Grader, h store.Handin, patiently bool) (marked *grade.Handin, held time.Duration,
	err error) {
	stop := func() bool { return ctx.Err() != nil }
	if !patiently {
		stop = Limited(ctx, quickly(g))
		select {
		case w.cores <- struct{}{}:
		case <-ctx.Done():
			return nil, 0, ctx.Err()
		}
		defer func() { <-w.cores }()
	}
	began := time.Now()
	marked, err = guarded(g, h, w.noticed, func(one *grade.Handin) (bool, error) {
		if one.Longest(grade.Hidden) > 0 {
			held = w.rest(one.Longest(grade.Every))
		}
		return true, one.Play(stop, grade.Every)
	})
	if err == nil {
		w.observe(time.Since(began))
	}
	return marked, held, err
}

// Graded grades a hand-in, whatever it takes, unless it is stopped.
func Graded(g *grade.Grader, stop func() bool, h store.Handin, noticed func(*mistake.Mistake)) (*grade.Handin, error) {
	return guarded(g, h, noticed, func(one *grade.Handin) (bool, error) { return true, one.Play(stop, grade.Every) })
}

// guarded reads a hand-in, plays it and, if that was done, marks it; else it returns nil. Where that is a mistake of
// Celandine's own, it is noticed and the result says so: the hand-in must not wait for ever, nor the process end.
func guarded(g *grade.Grader, h store.Handin, noticed func(*mistake.Mistake), play func(*grade.Handin) (bool, error)) (marked *grade.Handin,
	err error) {
	files := []*source.File{source.NewFile(h.File, h.Text)}
	err = mistake.Guard(fmt.Sprintf("grading hand-in %d", h.ID), func() error {
		one := g.Read(h.File, files)
		done, err := play(one)
		if err != nil || !done {
			return err
		}
		one.Mark()
		marked = one
		return nil
	})
	var wrong *mistake.Mistake
	if errors.As(err, &wrong) {
		noticed(wrong)
		return &grade.Handin{Result: g.Spoilt(h.File, files)}, nil
	}
	return marked, err
}

// Stored is a marked hand-in's result as it is kept.
func Stored(h store.Handin, marked *grade.Handin) (store.Result, error) {
	result := marked.Result
	r := store.Result{HandinID: h.ID, RevisionID: h.RevisionID, Earned: result.Earned, Points: result.Points, GradedAt: time.Now()}
	record, err := marked.Record()
	if err != nil {
		return r, err
	}
	r.Result = store.Packed(record)
	if kept := marked.Keep(); len(kept) > 0 {
		r.Kept, err = json.Marshal(kept)
	}
	return r, err
}
