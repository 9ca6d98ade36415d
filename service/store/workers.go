package store

import (
	"context"
	"fmt"
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

// Rescue gives jobs back to the queue that nobody works on, and returns how many: those of processes that have been silent so
// long, and those that count as this process's own but are not in its hands, since the database was away when they ended. A
// process that only seemed dead may finish its job too: the result is stored once, whoever brings it.
func (s *Store) Rescue(ctx context.Context, silence time.Duration, id string, inHand []int64) (int64, error) {
	out := s.db.WithContext(ctx).Exec(`UPDATE river_job SET state = 'available', scheduled_at = now()
		WHERE state = 'running' AND attempted_at < now() - make_interval(secs => @silence) AND (NOT EXISTS (
			SELECT FROM workers w WHERE w.id = river_job.attempted_by[array_upper(river_job.attempted_by, 1)]
			AND w.seen_at > now() - make_interval(secs => @silence))
		OR attempted_by[array_upper(attempted_by, 1)] = @id AND id NOT IN @inHand)`,
		map[string]any{"silence": silence.Seconds(), "id": id, "inHand": append([]int64{0}, inHand...)})
	if out.Error != nil {
		return 0, known(out.Error)
	}
	err := s.db.WithContext(ctx).Exec("DELETE FROM workers WHERE seen_at < now() - interval '1 hour'").Error
	return out.RowsAffected, known(err)
}

// live are the states in which a job will still be worked on.
const live = "('available', 'pending', 'retryable', 'running', 'scheduled')"

// A Stuck hand-in waits for a mark, and no job is there that will give it one.
type Stuck struct {
	ID       int64
	Exercise string
	Class    string
	Login    string
	Since    time.Time
}

// newest is how many of the newest hand-ins are looked at for stuck ones, whatever is noted of them.
const newest = 10_000

// Stuck lists hand-ins that have waited for a while for a mark that nobody works on, oldest first. That there is one is a
// mistake of Celandine's own, or of whoever changed its records by hand. It looks at those that are noted as waiting and at the
// newest; with all set at every one, which takes the longer the more there are.
func (s *Store) Stuck(ctx context.Context, after time.Duration, all bool, limit int) ([]Stuck, error) {
	which := fmt.Sprintf("h.id IN (SELECT handin_id FROM waiting UNION SELECT id FROM (SELECT id FROM handins ORDER BY id DESC LIMIT %d) n)",
		newest)
	if all {
		which = "TRUE"
	}
	var list []Stuck
	err := s.db.WithContext(ctx).Raw(`SELECT h.id, a.exercise, c.name AS class, p.login, h.created_at AS since
		FROM handins h JOIN assignments a ON a.id = h.assignment_id JOIN classes c ON c.id = a.class_id JOIN people p ON p.id = h.person_id
		WHERE `+which+` AND h.created_at < now() - make_interval(secs => ?) AND NOT EXISTS (SELECT FROM results r WHERE r.handin_id = h.id)
		AND NOT EXISTS (SELECT FROM river_job j WHERE j.state IN `+live+` AND (j.args ->> 'handin')::bigint = h.id)
		ORDER BY h.id LIMIT ?`, after.Seconds(), limit).Scan(&list).Error
	return list, known(err)
}

// Requeue puts stuck hand-ins into the queue again: all of them, or none. One that has its mark by now, or is not there, is left out.
func (s *Store) Requeue(ctx context.Context, ids []int64) (queued int, err error) {
	err = s.shared(ctx, func(tx work, queue Tx) error {
		queued = 0
		var found []int64
		err := tx.Raw(`INSERT INTO waiting (handin_id, assignment_id, person_id, since)
			SELECT h.id, h.assignment_id, h.person_id, h.created_at FROM handins h WHERE h.id IN ? AND NOT EXISTS (SELECT FROM results r
			WHERE r.handin_id = h.id)
			ON CONFLICT (handin_id) DO UPDATE SET since = excluded.since RETURNING handin_id`, ids).Scan(&found).Error
		if err != nil {
			return err
		}
		for _, id := range found {
			if err := s.queue.Enqueue(ctx, queue, id); err != nil {
				return err
			}
			queued++
		}
		return nil
	})
	return queued, known(err)
}
