package store

import (
	"context"
	"fmt"
	"log/slog"
	"strings"
	"time"

	"celandine/core/exercise"
)

// A Notice tells of a hand-in that was handed in to a class and that, where Graded is set, has its mark.
type Notice struct {
	Handin, Class  int64
	Graded         bool
	Earned, Points exercise.Marks
}

// String is how the notice travels.
func (n Notice) String() string {
	return fmt.Sprint(n.Handin, n.Class, n.Graded, int64(n.Earned), int64(n.Points))
}

// Channel is where the database tells every process of hand-ins.
const Channel = "celandine_handins"

// Telling others takes the database a moment in which no other transaction that tells can end. So notices are gathered and go
// out together, apart from the transactions that they tell of. One that is lost is made up for by those who wait, who look for
// themselves now and then.
const (
	gathered = 20 * time.Millisecond
	mostTold = 1000
	payload  = 7500 // bytes, less than PostgreSQL takes
)

// Tell lets every process know, soon, of a hand-in. It does not wait.
func (s *Store) Tell(n Notice) {
	select {
	case s.told <- n:
	default: // more than can be told
	}
}

// Telling sends out what is told until the context ends.
func (s *Store) Telling(ctx context.Context) {
	for {
		var lines []string
		select {
		case <-ctx.Done():
			return
		case n := <-s.told:
			lines = append(lines, n.String())
		}
		time.Sleep(gathered)
		for size := 0; size < payload && len(s.told) > 0; {
			line := (<-s.told).String()
			lines, size = append(lines, line), size+len(line)+1
		}
		// Where it fails, nobody is woken.
		if err := s.db.WithContext(ctx).Exec("SELECT pg_notify(?, ?)", Channel, strings.Join(lines, "\n")).Error; err != nil && ctx.Err() == nil {
			slog.Warn("telling of hand-ins", "error", err)
		}
	}
}

// Listen calls graded for each hand-in that any process tells of, until the
// context ends. After a lost connection it begins again; what was graded meanwhile is not told, so a listener also looks now and then.
func (s *Store) Listen(ctx context.Context, graded func(Notice)) {
	for ctx.Err() == nil {
		if err := s.listen(ctx, graded); err != nil && ctx.Err() == nil {
			slog.Warn("listening for results was interrupted", "error", err)
			select {
			case <-ctx.Done():
			case <-time.After(time.Second):
			}
		}
	}
}

func (s *Store) listen(ctx context.Context, graded func(Notice)) error {
	conn, err := s.Pool.Acquire(ctx)
	if err != nil {
		return err
	}
	// A connection that listens must not serve anything else afterwards.
	defer func() { conn.Hijack().Close(context.WithoutCancel(ctx)) }()
	if _, err := conn.Exec(ctx, "LISTEN "+Channel); err != nil {
		return err
	}
	for {
		n, err := conn.Conn().WaitForNotification(ctx)
		if err != nil {
			return err
		}
		for line := range strings.Lines(n.Payload) {
			var told Notice
			if _, err := fmt.Sscan(line, &told.Handin, &told.Class, &told.Graded, &told.Earned, &told.Points); err == nil {
				graded(told)
			}
		}
	}
}
