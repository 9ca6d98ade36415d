package store

import (
	"context"
	"time"
)

// Prune forgets drafts that nobody has saved for so long, and the traces of results that are so old; marks, differences and
// programs stay. A duration of 0 keeps for ever. It returns how many of each it forgot.
func (s *Store) Prune(ctx context.Context, drafts, traces time.Duration) (forgotDrafts, forgotTraces int64, err error) {
	if drafts > 0 {
		out := s.db.WithContext(ctx).Exec("DELETE FROM drafts WHERE saved_at < now() - make_interval(secs => ?)", drafts.Seconds())
		if out.Error != nil {
			return 0, 0, known(out.Error)
		}
		forgotDrafts = out.RowsAffected
	}
	if traces > 0 {
		out := s.db.WithContext(ctx).Exec("UPDATE results SET kept = NULL WHERE graded_at < now() - make_interval(secs => ?) AND "+
			"kept IS NOT NULL", traces.Seconds())
		if out.Error != nil {
			return forgotDrafts, 0, known(out.Error)
		}
		forgotTraces = out.RowsAffected
	}
	return forgotDrafts, forgotTraces, nil
}
