package service

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"

	"github.com/jackc/pgx/v5"
)

// Backup writes all records to a file, whole or not at all. It asks pg_dump, which sees one moment of the database while the
// service goes on.
func Backup(ctx context.Context, database, path string) (err error) {
	draft, err := os.CreateTemp(filepath.Dir(path), ".celandine-*")
	if err != nil {
		return fmt.Errorf("writing the backup: %w", err)
	}
	defer os.Remove(draft.Name())
	if err := draft.Close(); err != nil {
		return fmt.Errorf("writing the backup: %w", err)
	}
	if err := postgresTool(ctx, database, "pg_dump", "--format=custom", "--no-owner", "--no-privileges", "--file="+draft.Name()); err != nil {
		return err
	}
	if err := os.Rename(draft.Name(), path); err != nil {
		return fmt.Errorf("writing the backup: %w", err)
	}
	return nil
}

// ErrNotEmpty tells that a database has records already; a backup is restored into an empty one.
var ErrNotEmpty = errors.New("this database is not empty. Make a new one and restore into that; nothing was changed")

// Restore puts a backup into an empty database: all of it, or nothing.
func Restore(ctx context.Context, database, path string) error {
	if _, err := os.Stat(path); err != nil {
		return fmt.Errorf("reading the backup: %w", err)
	}
	conn, err := pgx.Connect(ctx, database)
	if err != nil {
		return fmt.Errorf("opening the database: %w", err)
	}
	var tables int
	err = conn.QueryRow(ctx, "SELECT count(*) FROM pg_tables WHERE schemaname = 'public'").Scan(&tables)
	if closing := conn.Close(ctx); err == nil {
		err = closing
	}
	if err != nil {
		return fmt.Errorf("looking at the database: %w", err)
	}
	if tables > 0 {
		return ErrNotEmpty
	}
	return postgresTool(ctx, database, "pg_restore", "--single-transaction", "--exit-on-error", "--no-owner", "--no-privileges",
		"--dbname=service=celandine", path)
}

// postgresTool runs one of PostgreSQL's own programs with every setting of the database address, from a file that only its owner reads.
func postgresTool(ctx context.Context, database, name string, arguments ...string) error {
	path, err := exec.LookPath(name)
	if err != nil {
		return fmt.Errorf("%s is not installed; Debian has it in postgresql-client", name)
	}
	env, remove, err := serviceFile(database)
	if err != nil {
		return err
	}
	defer remove()
	var said bytes.Buffer
	c := exec.CommandContext(ctx, path, arguments...)
	c.Stderr = &said
	c.Env = append(os.Environ(), env...)
	if err := c.Run(); err != nil {
		return fmt.Errorf("%s: %w: %s", name, err, strings.TrimSpace(said.String()))
	}
	return nil
}
