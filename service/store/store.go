// Package store keeps the service's records in PostgreSQL.
//
// [Open] gives a [Store] on one connection pool that GORM and the job queue share. Methods take and return plain records; what
// must happen together (a hand-in and its result, or a hand-in and its grading job) happens in one transaction. The schema is
// made by the versioned migrations beside this file and by nothing else. No question waits for ever: see [Within]. Who may do
// what is decided elsewhere.
package store

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"errors"
	"fmt"
	"io"
	"net"
	"time"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/pgxpool"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/driver/postgres"
	"gorm.io/gorm"
	"gorm.io/gorm/logger"
)

// Errors that callers tell apart.
var (
	ErrNotFound = errors.New("not found")
	ErrDown     = errors.New("the database does not answer")
	ErrTaken    = errors.New("taken")                       // a name or login belongs to another already
	ErrValue    = errors.New("a value that cannot be kept") // too large a number, a letter that is none
	ErrSchema   = errors.New("the database's schema is newer")
)

// Store is the records. It is safe for concurrent use.
type Store struct {
	Pool  *pgxpool.Pool
	db    *gorm.DB
	queue Queue
	told  chan Notice
}

// A Queue puts a grading job into the transaction that stores the hand-in.
type Queue interface {
	Enqueue(ctx context.Context, tx Tx, handin int64) error
}

// MaxConnections is how many connections one process opens at most.
const MaxConnections = 20

// Open connects to a database by its URL.
func Open(ctx context.Context, url string) (*Store, error) {
	return Follow(ctx, func() string { return url })
}

// Follow connects to a database that may move: each new connection goes to the URL that there is then.
func Follow(ctx context.Context, url func() string) (*Store, error) {
	config, err := pgxpool.ParseConfig(url())
	if err != nil {
		return nil, fmt.Errorf("reading the database address: %w", err)
	}
	config.MaxConns = MaxConnections
	config.ConnConfig.ConnectTimeout = connecting
	config.ConnConfig.Tracer = deadlines{}
	config.ConnConfig.RuntimeParams["jit"] = "off" // it takes longer than our longest question
	config.BeforeConnect = func(_ context.Context, c *pgx.ConnConfig) error {
		now, err := pgx.ParseConfig(url())
		if err != nil {
			return fmt.Errorf("reading the database address: %w", err)
		}
		c.Host, c.Port, c.Fallbacks = now.Host, now.Port, now.Fallbacks
		return nil
	}
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("opening the database: %w", err)
	}
	if err := reach(ctx, pool); err != nil {
		pool.Close()
		return nil, fmt.Errorf("%w: %v", ErrDown, err)
	}
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: stdlib.OpenDBFromPool(pool)}), &gorm.Config{
		Logger:                 logger.Default.LogMode(logger.Silent),
		TranslateError:         false,
		SkipDefaultTransaction: true, // what must happen together says so
	})
	if err != nil {
		pool.Close()
		return nil, fmt.Errorf("opening the database: %w", err)
	}
	return &Store{Pool: pool, db: db, told: make(chan Notice, mostTold)}, nil
}

// reach waits for a database that is slow, or is starting; one that nobody listens for, or that refuses us, is told at once.
func reach(ctx context.Context, pool *pgxpool.Pool) error {
	for deadline := time.Now().Add(starting); ; {
		err := pool.Ping(ctx)
		var answered *pgconn.PgError
		busy := errors.Is(err, context.DeadlineExceeded) || errors.As(err, &answered) && answered.Code == cannotConnectNow
		if !busy || ctx.Err() != nil || time.Now().After(deadline) {
			return err
		}
		time.Sleep(100 * time.Millisecond)
	}
}

// cannotConnectNow is PostgreSQL's code while it starts.
const cannotConnectNow = "57P03"

// UseQueue sets where hand-ins are sent to be graded.
func (s *Store) UseQueue(q Queue) { s.queue = q }

// Close gives the connections back.
func (s *Store) Close() { s.Pool.Close() }

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return known(s.Pool.Ping(ctx)) }

// known turns what the database said into an error that callers tell apart.
func known(err error) error {
	var answered *pgconn.PgError
	switch {
	case err == nil:
		return nil
	case errors.Is(err, gorm.ErrRecordNotFound) || errors.Is(err, pgx.ErrNoRows) || errors.Is(err, sql.ErrNoRows):
		return ErrNotFound
	case errors.Is(err, ErrDown):
		return err
	case !errors.As(err, &answered):
		if unreachable(err) {
			return fmt.Errorf("%w: %v", ErrDown, err)
		}
		return err
	case answered.Code == "23505":
		return fmt.Errorf("%w: %v", ErrTaken, err)
	}
	switch answered.Code[:2] {
	// The connection broke; no connection, disk or memory is left; the server is going down; its disk fails; two stood in each other's way.
	case "08", "53", "57", "58", "40":
		return fmt.Errorf("%w: %v", ErrDown, err)
	case "22", "23":
		return fmt.Errorf("%w: %v", ErrValue, err)
	}
	return err
}

// unreachable reports whether the connection is at fault, not the question.
func unreachable(err error) bool {
	var refused *pgconn.ConnectError
	var network net.Error
	return errors.As(err, &refused) || errors.As(err, &network) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, driver.ErrBadConn) || errors.Is(err, context.DeadlineExceeded) || pgconn.SafeToRetry(err)
}
