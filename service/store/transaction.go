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

// work is a transaction under way, seen by GORM and, for the job queue, as a
// pgx.Tx: the same connection, the same transaction.
type work struct {
	*gorm.DB
	conn *sql.Conn
}

// enqueue gives the queue the transaction. No GORM call may be made meanwhile.
func (w work) enqueue(ctx context.Context, q Queue, handin int64) error {
	return w.conn.Raw(func(driver any) error {
		return q.Enqueue(ctx, borrowed{driver.(*stdlib.Conn).Conn(), 0}, handin)
	})
}

// transaction runs do in one transaction: all of it, or nothing.
func (s *Store) transaction(ctx context.Context, do func(work) error) error {
	return s.db.WithContext(ctx).Connection(func(db *gorm.DB) error {
		conn, ok := db.Statement.ConnPool.(*sql.Conn)
		if !ok {
			return errors.New("store: no single connection to begin a transaction on")
		}
		return db.Transaction(func(tx *gorm.DB) error { return do(work{tx, conn}) })
	})
}

// borrowed lets the job queue write in a transaction that it may neither
// commit nor roll back.
type borrowed struct {
	conn  *pgx.Conn
	depth int // savepoints
}

var errBorrowed = errors.New("store: a borrowed transaction is ended by its owner")

func (b borrowed) savepoint() string { return fmt.Sprintf("queue_%d", b.depth) }

func (b borrowed) Begin(ctx context.Context) (pgx.Tx, error) {
	inner := borrowed{b.conn, b.depth + 1}
	_, err := b.conn.Exec(ctx, "SAVEPOINT "+inner.savepoint())
	return inner, err
}

func (b borrowed) Commit(ctx context.Context) error { return b.end(ctx, "RELEASE SAVEPOINT ") }

func (b borrowed) Rollback(ctx context.Context) error { return b.end(ctx, "ROLLBACK TO SAVEPOINT ") }

func (b borrowed) end(ctx context.Context, how string) error {
	if b.depth == 0 {
		return errBorrowed
	}
	_, err := b.conn.Exec(ctx, how+b.savepoint())
	return err
}

func (b borrowed) CopyFrom(ctx context.Context, table pgx.Identifier, columns []string, rows pgx.CopyFromSource) (int64, error) {
	return b.conn.CopyFrom(ctx, table, columns, rows)
}

func (b borrowed) SendBatch(ctx context.Context, batch *pgx.Batch) pgx.BatchResults {
	return b.conn.SendBatch(ctx, batch)
}

func (b borrowed) LargeObjects() pgx.LargeObjects { return pgx.LargeObjects{} }

func (b borrowed) Prepare(ctx context.Context, name, sql string) (*pgconn.StatementDescription, error) {
	return b.conn.Prepare(ctx, name, sql)
}

func (b borrowed) Exec(ctx context.Context, sql string, arguments ...any) (pgconn.CommandTag, error) {
	return b.conn.Exec(ctx, sql, arguments...)
}

func (b borrowed) Query(ctx context.Context, sql string, args ...any) (pgx.Rows, error) {
	return b.conn.Query(ctx, sql, args...)
}

func (b borrowed) QueryRow(ctx context.Context, sql string, args ...any) pgx.Row {
	return b.conn.QueryRow(ctx, sql, args...)
}

func (b borrowed) Conn() *pgx.Conn { return b.conn }
