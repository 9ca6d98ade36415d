package store

import (
	"context"
	"database/sql"
	"errors"
	"fmt"

	"github.com/jackc/pgx/v5"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jackc/pgx/v5/stdlib"
	"gorm.io/gorm"
)

// Tx is a transaction that the job queue takes part in.
type Tx = pgx.Tx

// work is a transaction under way.
type work struct{ *gorm.DB }

// transaction runs do in one transaction: all of it, or nothing.
func (s *Store) transaction(ctx context.Context, do func(work) error) error {
	return s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error { return do(work{tx}) })
}

// shared runs do in one transaction that the job queue takes part in.
func (s *Store) shared(ctx context.Context, do func(work, Tx) error) error {
	return s.db.WithContext(ctx).Connection(func(db *gorm.DB) error {
		conn, ok := db.Statement.ConnPool.(*sql.Conn)
		if !ok {
			return fmt.Errorf("store: a transaction cannot be shared over %T", db.Statement.ConnPool)
		}
		var queue queueTx
		// The queue's connection is kept beyond Raw, inside which GORM would wait for it. They take turns: all of a transaction
		// happens one after the other.
		err := conn.Raw(func(driver any) error {
			queue.conn = driver.(*stdlib.Conn).Conn()
			return nil
		})
		if err != nil {
			return err
		}
		return db.Transaction(func(tx *gorm.DB) error { return do(work{tx}, queue) })
	})
}

// queueTx lets the job queue write in a transaction that GORM has begun and will end.
type queueTx struct{ conn *pgx.Conn }

var errNotYours = errors.New("store: whoever began the transaction ends it")

func (t queueTx) Commit(context.Context) error   { return errNotYours }
func (t queueTx) Rollback(context.Context) error { return errNotYours }
func (t queueTx) Conn() *pgx.Conn                { return t.conn }

func (t queueTx) Exec(ctx context.Context, sql string, args ...any) (pgconn.CommandTag, error) {
	return t.conn.Exec(ctx, sql, args...)
}

func (t queueTx) Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error) {
	return t.conn.Query(ctx, sql, args...)
}

func (t queueTx) QueryRow(ctx context.Context, sql string, args ...any) pgx.Row {
	return t.conn.QueryRow(ctx, sql, args...)
}

func (t queueTx) SendBatch(ctx context.Context, b *pgx.Batch) pgx.BatchResults {
	return t.conn.SendBatch(ctx, b)
}

func (t queueTx) CopyFrom(ctx context.Context, table pgx.Identifier, columns []string, rows pgx.CopyFromSource) (int64, error) {
	return t.conn.CopyFrom(ctx, table, columns, rows)
}

func (t queueTx) Prepare(ctx context.Context, name, sql string) (*pgconn.StatementDescription, error) {
	return t.conn.Prepare(ctx, name, sql)
}

func (t queueTx) LargeObjects() pgx.LargeObjects { return pgx.LargeObjects{} }

// Begin begins a savepoint.
func (t queueTx) Begin(ctx context.Context) (pgx.Tx, error) {
	_, err := t.conn.Exec(ctx, "SAVEPOINT queue")
	return savepoint{t}, err
}

// savepoint is a part of the transaction that may be undone by itself.
type savepoint struct{ queueTx }

func (s savepoint) Commit(ctx context.Context) error {
	_, err := s.conn.Exec(ctx, "RELEASE SAVEPOINT queue")
	return err
}

func (s savepoint) Rollback(ctx context.Context) error {
	_, err := s.conn.Exec(ctx, "ROLLBACK TO SAVEPOINT queue")
	return err
}
