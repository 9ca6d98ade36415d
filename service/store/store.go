// Package store keeps the service's records in PostgreSQL.
//
// [Open] gives a [Store] on one connection pool that GORM, the job queue and the sessions share.
// Methods take and return plain records; what must happen together (a hand-in and its grading job) happens in one transaction. The schema is
// made by the versioned migrations beside this file and by nothing else. Who may do what is decided elsewhere.
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
)

// Store is the records. It is safe for concurrent use.
type Store struct {
	Pool  *pgxpool.Pool
	db    *gorm.DB
	queue Queue
}

// A Queue puts a grading job into the transaction that stores the hand-in.
type Queue interface {
	Enqueue(ctx context.Context, tx pgx.Tx, handin int64) error
}

// MaxConnections is how many connections one process opens at most.
const MaxConnections = 20

// Open connects to a database by its URL.
func Open(ctx context.Context, url string) (*Store, error) {
	config, err := pgxpool.ParseConfig(url)
	if err != nil {
		return nil, fmt.Errorf("reading the database address: %w", err)
	}
	config.MaxConns = MaxConnections
	config.ConnConfig.ConnectTimeout = 3 * time.Second
	pool, err := pgxpool.NewWithConfig(ctx, config)
	if err != nil {
		return nil, fmt.Errorf("opening the database: %w", err)
	}
	if err := pool.Ping(ctx); err != nil {
		pool.Close()
		return nil, fmt.Errorf("%w: %v", ErrDown, err)
	}
	db, err := gorm.Open(postgres.New(postgres.Config{Conn: stdlib.OpenDBFromPool(pool)}), &gorm.Config{
		Logger:         logger.Default.LogMode(logger.Silent),
		TranslateError: false,
	})
	if err != nil {
		pool.Close()
		return nil, fmt.Errorf("opening the database: %w", err)
	}
	return &Store{Pool: pool, db: db}, nil
}

// UseQueue sets where hand-ins are sent to be graded.
func (s *Store) UseQueue(q Queue) { s.queue = q }

// Close gives the connections back.
func (s *Store) Close() { s.Pool.Close() }

// Ping tells whether the database answers.
func (s *Store) Ping(ctx context.Context) error { return known(s.Pool.Ping(ctx)) }

// known turns what the database said into an error that callers tell apart.
func known(err error) error {
	switch {
	case err == nil:
		return nil
	case errors.Is(err, gorm.ErrRecordNotFound) || errors.Is(err, pgx.ErrNoRows) || errors.Is(err, sql.ErrNoRows):
		return ErrNotFound
	case unreachable(err):
		return fmt.Errorf("%w: %v", ErrDown, err)
	}
	return err
}

// unreachable reports whether the connection is at fault, not the question.
func unreachable(err error) bool {
	var answered *pgconn.PgError
	if errors.As(err, &answered) {
		// Classes 08 and 57: the connection broke, or the server is going down.
		class := answered.Code[:2]
		return class == "08" || class == "57"
	}
	var refused *pgconn.ConnectError
	var network net.Error
	return errors.As(err, &refused) || errors.As(err, &network) || errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) ||
		errors.Is(err, driver.ErrBadConn) || errors.Is(err, context.DeadlineExceeded) || pgconn.SafeToRetry(err)
}
