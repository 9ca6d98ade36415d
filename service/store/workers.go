package store

import (
	"context"
	"time"
)

// Alive notes that a grading process lives.
func (s *Store) Alive(ctx context.Context, id string) error {
	return known(s.db.WithContext(ctx).Exec("INSERT INTO workers (id) VALUES (?) ON CONFLICT (id) DO UPDATE SET seen_at = now()", id).Error)
}

// Gone takes a process off the list that has ended in order.
func (s *Store) Gone(ctx context.Context, id string) error {
	return known(s.db.WithContext(ctx).Exec("DELETE FROM workers WHERE id = ?", id).Error)
}

// Rescue gives the jobs of processes that have been silent so long back to the queue, and returns how many. A process that only
// seemed dead may finish its job too: the result is stored once, whoever brings it.
func (s *Store) Rescue(ctx context.Context, silence time.Duration) (int64, error) {
	out := s.db.WithContext(ctx).Exec(`UPDATE river_job SET state = 'available', scheduled_at = now()
		WHERE state = 'running' AND attempted_at < now() - make_interval(secs => ?) AND NOT EXISTS (
			SELECT FROM workers w WHERE w.id = river_job.attempted_by[array_upper(river_job.attempted_by, 1)] AND w.seen_at > now() - make_interval(secs => ?))`,
		silence.Seconds(), silence.Seconds())
	if out.Error != nil {
		return 0, known(out.Error)
	}
	err := s.db.WithContext(ctx).Exec("DELETE FROM workers WHERE seen_at < now() - interval '1 hour'").Error
	return out.RowsAffected, known(err)
}
