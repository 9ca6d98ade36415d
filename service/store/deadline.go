package store

import (
	"context"
	"sync/atomic"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgxpool"
)

// How long the database is waited for.
const (
	connecting = 1500 * time.Millisecond // a frozen server takes connections and says nothing
	answering  = time.Minute             // to one question, where nothing else is said
	starting   = 20 * time.Second        // by a process that starts: so may the database, at the same time on the same machine
)

// patience is what is left of the time that one request waits for the database, in all its questions.
type patience struct{ left atomic.Int64 }

type patienceKey struct{}

// Within lets everything that is asked of the database under the context take so long in all; then it fails with [ErrDown].
func Within(ctx context.Context, most time.Duration) context.Context {
	p := &patience{}
	p.left.Store(int64(most))
	return context.WithValue(ctx, patienceKey{}, p)
}

// deadlines gives every question, and the wait for a connection, an end.
type deadlines struct{}

// a question under way.
type question struct {
	began  time.Time
	cancel context.CancelFunc
}

type questionKey struct{}

func begin(ctx context.Context) context.Context {
	most := answering
	if p, ok := ctx.Value(patienceKey{}).(*patience); ok {
		most = time.Duration(p.left.Load())
	}
	asked, cancel := context.WithTimeout(ctx, most)
	return context.WithValue(asked, questionKey{}, &question{time.Now(), cancel})
}

func end(ctx context.Context) {
	q, ok := ctx.Value(questionKey{}).(*question)
	if !ok {
		return
	}
	q.cancel()
	if p, ok := ctx.Value(patienceKey{}).(*patience); ok {
		p.left.Add(-int64(time.Since(q.began)))
	}
}

// TraceQueryStart is called by pgx.
func (deadlines) TraceQueryStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryStartData) context.Context {
	return begin(ctx)
}

// TraceQueryEnd is called by pgx.
func (deadlines) TraceQueryEnd(ctx context.Context, _ *pgx.Conn, _ pgx.TraceQueryEndData) { end(ctx) }

// TracePrepareStart is called by pgx.
func (deadlines) TracePrepareStart(ctx context.Context, _ *pgx.Conn, _ pgx.TracePrepareStartData) context.Context {
	return begin(ctx)
}

// TracePrepareEnd is called by pgx.
func (deadlines) TracePrepareEnd(ctx context.Context, _ *pgx.Conn, _ pgx.TracePrepareEndData) {
	end(ctx)
}

// TraceBatchStart is called by pgx.
func (deadlines) TraceBatchStart(ctx context.Context, _ *pgx.Conn, _ pgx.TraceBatchStartData) context.Context {
	return begin(ctx)
}

// TraceBatchQuery is called by pgx.
func (deadlines) TraceBatchQuery(context.Context, *pgx.Conn, pgx.TraceBatchQueryData) {}

// TraceBatchEnd is called by pgx.
func (deadlines) TraceBatchEnd(ctx context.Context, _ *pgx.Conn, _ pgx.TraceBatchEndData) { end(ctx) }

// TraceAcquireStart is called by the pool.
func (deadlines) TraceAcquireStart(ctx context.Context, _ *pgxpool.Pool, _ pgxpool.TraceAcquireStartData) context.Context {
	return begin(ctx)
}

// TraceAcquireEnd is called by the pool.
func (deadlines) TraceAcquireEnd(ctx context.Context, _ *pgxpool.Pool, _ pgxpool.TraceAcquireEndData) {
	end(ctx)
}
