package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"

	"github.com/jackc/pgx/v5"
)

// cost is what has been spent so far: seconds of CPU, and bytes of write-ahead log.
type cost struct{ service, postgres, wal float64 }

func (c cost) minus(d cost) cost {
	return cost{c.service - d.service, c.postgres - d.postgres, c.wal - d.wal}
}

// spent asks the kernel and PostgreSQL; mode chooses the service.
func spent(ctx context.Context, db *pgx.Conn, mode int) (c cost, err error) {
	var wal int64
	var postmaster int
	if err := db.QueryRow(ctx, "SELECT pg_current_wal_insert_lsn() - '0/0'::pg_lsn").Scan(&wal); err != nil {
		return c, err
	}
	if err := db.QueryRow(ctx, "SELECT split_part(pg_read_file('postmaster.pid'), E'\\n', 1)::int").Scan(&postmaster); err != nil {
		return c, err
	}
	c.wal = float64(wal)
	service, err := strconv.Atoi(strings.Split(os.Getenv("CELANDINE_LOAD_PROCESSES"), " ")[mode])
	if err != nil {
		return c, fmt.Errorf("CELANDINE_LOAD_PROCESSES names the two services' processes: %w", err)
	}
	if c.service, err = ticks(service, false); err != nil {
		return c, err
	}
	all, err := filepath.Glob("/proc/[0-9]*/stat")
	if err != nil {
		return c, err
	}
	for _, path := range all {
		pid, _ := strconv.Atoi(filepath.Base(filepath.Dir(path))) // the pattern is digits
		if pid == postmaster || parent(pid) == postmaster {
			one, err := ticks(pid, pid == postmaster)
			if err == nil { // else it has ended meanwhile
				c.postgres += one
			}
		}
	}
	return c, nil
}

// stat is what the kernel says of a process, behind its name.
func stat(pid int) []string {
	text, err := os.ReadFile(fmt.Sprintf("/proc/%d/stat", pid))
	if err != nil {
		return nil
	}
	_, rest, _ := strings.Cut(string(text), ") ")
	return strings.Fields(rest)
}

func parent(pid int) int {
	if s := stat(pid); len(s) > 1 {
		n, _ := strconv.Atoi(s[1]) // the kernel writes numbers
		return n
	}
	return 0
}

// ticks is the CPU that a process has spent, in seconds, with its ended children's where asked for.
func ticks(pid int, children bool) (float64, error) {
	s := stat(pid)
	if len(s) < 15 {
		return 0, fmt.Errorf("there is no process %d", pid)
	}
	fields := s[11:13]
	if children {
		fields = s[11:15]
	}
	sum := 0.0
	for _, f := range fields {
		n, _ := strconv.ParseFloat(f, 64) // the kernel writes numbers
		sum += n
	}
	const perSecond = 100 // on every Linux that Go runs on
	return sum / perSecond, nil
}
