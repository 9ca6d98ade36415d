package store

import (
	"context"
	"database/sql"
	"embed"
	"fmt"
	"io/fs"
	"time"

	"github.com/jackc/pgx/v5/stdlib"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/lock"
	"github.com/riverqueue/river/riverdriver/riverpgxv5"
	"github.com/riverqueue/river/rivermigrate"
)

//go:embed migrations/*.sql
var migrations embed.FS

// queueVersion numbers the migration that makes the job queue's tables, among
// the files of the folder.
const queueVersion = 2

// Migrate brings the schema up to date. Processes that start at once wait for
// each other, if there is anything to do. It returns the names of what it applied.
// [ErrSchema] tells that a newer program has been here: its schema is not this one's to write in.
func (s *Store) Migrate(ctx context.Context) ([]string, error) {
	ctx = Within(ctx, migrating)
	locker, err := lock.NewPostgresSessionLocker(lock.WithLockTimeout(1, uint64(migrating/time.Second)))
	if err != nil {
		return nil, fmt.Errorf("migrating: %w", err)
	}
	files, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return nil, fmt.Errorf("migrating: %w", err)
	}
	queue := goose.NewGoMigration(queueVersion, &goose.GoFunc{RunDB: func(ctx context.Context, _ *sql.DB) error {
		m, err := rivermigrate.New(riverpgxv5.New(s.Pool), nil)
		if err != nil {
			return err
		}
		_, err = m.Migrate(ctx, rivermigrate.DirectionUp, nil)
		return err
	}}, nil)
	db := stdlib.OpenDBFromPool(s.Pool)
	defer db.Close()
	p, err := goose.NewProvider(goose.DialectPostgres, db, files, goose.WithSessionLocker(locker),
		goose.WithGoMigrations(queue), goose.WithDisableGlobalRegistry(true))
	if err != nil {
		return nil, fmt.Errorf("migrating: %w", err)
	}
	if pending, err := pending(ctx, p); err != nil || !pending {
		return nil, err
	}
	results, err := p.Up(ctx)
	if err != nil {
		return nil, fmt.Errorf("migrating: %w", err)
	}
	var names []string
	for _, r := range results {
		names = append(names, fmt.Sprintf("%05d", r.Source.Version))
	}
	return names, nil
}

// migrating is how long a migration may take: it may write every row anew.
const migrating = 24 * time.Hour

// pending tells whether the schema lacks a version, and of a schema that is not known here. It waits for nobody: a process that
// finds everything in place does not stand in line with others that start.
func pending(ctx context.Context, p *goose.Provider) (bool, error) {
	stands, mine, err := p.GetVersions(ctx)
	if err != nil {
		return false, fmt.Errorf("reading the schema's version: %w", err)
	}
	if stands > mine {
		return false, fmt.Errorf("%w than this program knows (%d, not %d): start the version that was here last, or a newer one", ErrSchema,
			stands, mine)
	}
	lacking, err := p.HasPending(ctx)
	if err != nil {
		return false, fmt.Errorf("reading the schema's version: %w", err)
	}
	return lacking, nil
}
