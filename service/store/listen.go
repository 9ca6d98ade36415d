package store

import (
	"context"
	"fmt"
	"log/slog"
	"time"

	"celandine/core/exercise"
)

// A Notice tells of a hand-in that has been graded.
type Notice struct {
	Handin         int64
	Earned, Points exercise.Marks
}

// String is how the notice travels.
func (n Notice) String() string { return fmt.Sprint(n.Handin, int64(n.Earned), int64(n.Points)) }

// Channel is where the database tells every process of a graded hand-in.
const Channel = "celandine_graded"

// Listen calls graded for each hand-in that any process has graded, until the
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
		var told Notice
		if _, err := fmt.Sscan(n.Payload, &told.Handin, &told.Earned, &told.Points); err == nil {
			graded(told)
		}
	}
}
