package store

import (
	"context"
	"time"

	"github.com/jackc/pgx/v5"
	"gorm.io/gorm"

	"celandine/core/exercise"
)

// A Handin is a program as it was handed in, for ever.
type Handin struct {
	ID           int64
	AssignmentID int64
	Assignment   Assignment
	RevisionID   int64
	PersonID     int64
	Person       Person
	Number       int
	File         string
	Text         string
	Key          *string
	CreatedAt    time.Time `gorm:"autoCreateTime"`
	Result       *Result
}

// A Result is the mark of a hand-in. The JSON is kept as the grading gave it.
type Result struct {
	HandinID   int64 `gorm:"primaryKey"`
	RevisionID int64 // that gave it
	Earned     exercise.Marks
	Points     exercise.Marks
	Result     Document
	Evidence   Document
	GradedAt   time.Time `gorm:"autoCreateTime"`
}

// Sofar is what a person has handed in: to the assignment, and to any of which the mark has not come for at most an hour.
type Sofar struct{ Handins, Waiting int }

// Record stores a hand-in and its grading job together: both, or neither. It
// returns the same hand-in when the person has used the key before; else taken is asked, with what the person has handed in, and its
// error ends it.
func (s *Store) Record(ctx context.Context, h Handin, taken func(Sofar) error) (Handin, error) {
	var same int64
	err := pgx.BeginFunc(ctx, s.Pool, func(tx pgx.Tx) error {
		var before Sofar
		var all pgx.Batch // in one turn: many hand in at once
		// One person's hand-ins are numbered one after the other.
		all.Queue("SELECT pg_advisory_xact_lock($1)", h.PersonID)
		all.Queue(`SELECT coalesce(max(number) FILTER (WHERE assignment_id = $1), 0), coalesce(max(id) FILTER (WHERE key = $2), 0),
			count(*) FILTER (WHERE created_at > now() - interval '1 hour' AND NOT EXISTS (SELECT FROM results r WHERE r.handin_id = handins.id))
			FROM handins WHERE person_id = $3`, h.AssignmentID, h.Key, h.PersonID).QueryRow(func(row pgx.Row) error {
			return row.Scan(&before.Handins, &same, &before.Waiting)
		})
		if err := tx.SendBatch(ctx, &all).Close(); err != nil || same != 0 {
			return err
		}
		if err := taken(before); err != nil {
			return err
		}
		h.Number = before.Handins + 1
		err := tx.QueryRow(ctx, `INSERT INTO handins (assignment_id, revision_id, person_id, number, file, text, key)
			VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id, created_at`, h.AssignmentID, h.RevisionID, h.PersonID, h.Number, h.File, h.Text, h.Key).Scan(&h.ID, &h.CreatedAt)
		if err != nil {
			return err
		}
		return s.queue.Enqueue(ctx, tx, h.ID)
	})
	if err == nil && same != 0 {
		err = s.db.WithContext(ctx).Take(&h, same).Error
	}
	return h, known(err)
}

// Handin finds a hand-in with its person, exercise and result.
func (s *Store) Handin(ctx context.Context, id int64) (Handin, error) {
	var h Handin
	err := s.whole(ctx).Take(&h, "handins.id = ?", id).Error
	return h, known(err)
}

// Whose tells whose a hand-in is and in which class, and whether somebody belongs to that.
func (s *Store) Whose(ctx context.Context, id, somebody int64) (person int64, class Class, belongs bool, err error) {
	var found []struct {
		PersonID int64
		Belongs  bool
		Class
	}
	err = s.db.WithContext(ctx).Raw(`SELECT h.person_id, e.person_id IS NOT NULL AS belongs, c.* FROM handins h JOIN assignments a ON a.id = h.assignment_id
		JOIN classes c ON c.id = a.class_id LEFT JOIN enrolments e ON e.class_id = c.id AND e.person_id = ? WHERE h.id = ?`, somebody, id).Scan(&found).Error
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return 0, class, false, known(err)
	}
	return found[0].PersonID, found[0].Class, found[0].Belongs, nil
}

// ToGrade reads a hand-in as far as grading needs it; graded tells that it has its result.
func (s *Store) ToGrade(ctx context.Context, id int64) (h Handin, graded bool, err error) {
	var found []struct {
		RevisionID int64
		File, Text string
		Graded     bool
	}
	err = s.db.WithContext(ctx).Raw("SELECT h.revision_id, h.file, h.text, r.handin_id IS NOT NULL AS graded FROM handins h LEFT JOIN results r ON r.handin_id = h.id WHERE h.id = ?", id).Scan(&found).Error
	if err == nil && len(found) == 0 {
		err = ErrNotFound
	}
	if err != nil {
		return h, false, known(err)
	}
	f := found[0]
	return Handin{ID: id, RevisionID: f.RevisionID, File: f.File, Text: f.Text}, f.Graded, nil
}

// Mark returns what a hand-in earned, nil while it waits.
func (s *Store) Mark(ctx context.Context, id int64) (*Result, error) {
	var found []Result
	err := s.db.WithContext(ctx).Select("handin_id", "earned", "points").Where("handin_id = ?", id).Limit(1).Find(&found).Error
	if err != nil || len(found) == 0 {
		return nil, known(err)
	}
	return &found[0], nil
}

func (s *Store) whole(ctx context.Context) *gorm.DB {
	return s.db.WithContext(ctx).Joins("Person").Joins("Assignment").Preload("Result")
}

// Wanted says which of an assignment's hand-ins to list.
type Wanted struct {
	Person  int64 // 0: everybody's
	Waiting *bool // those that wait for their mark, or those that do not; nil: both
	Before  int64 // only those handed in before this one; 0: from the newest
	Limit   int
}

// Handins lists hand-ins to an assignment, newest first. Texts and evidence are left out.
func (s *Store) Handins(ctx context.Context, assignment int64, w Wanted) ([]Handin, error) {
	q := s.db.WithContext(ctx).Omit("Text").Joins("Person").Joins("Assignment").
		Preload("Result", func(db *gorm.DB) *gorm.DB { return db.Select("handin_id", "earned", "points") }).Where("assignment_id = ?", assignment)
	if w.Person != 0 {
		q = q.Where("person_id = ?", w.Person)
	}
	if w.Waiting != nil {
		q = q.Where("NOT EXISTS (SELECT FROM results r WHERE r.handin_id = handins.id) = ?", *w.Waiting)
	}
	if w.Before != 0 {
		q = q.Where("handins.id < ?", w.Before)
	}
	var list []Handin
	return list, known(q.Order("handins.id DESC").Limit(w.Limit).Find(&list).Error)
}

// SaveResult stores the mark of a hand-in, once: a second grading of the same
// hand-in changes nothing. Every process is told.
//
// It does not wait until the disk has it: the grading job is finished by a later commit, so that a crash which loses the result loses that too,
// and the hand-in is graded again, to the same mark. Notices are given one transaction after the other; waiting for the disk in each would hold all up.
func (s *Store) SaveResult(ctx context.Context, r Result) error {
	if r.GradedAt.IsZero() {
		r.GradedAt = time.Now()
	}
	var all pgx.Batch // one transaction, in one turn
	all.Queue("SELECT set_config('synchronous_commit', 'off', true)")
	all.Queue(`INSERT INTO results (handin_id, revision_id, earned, points, result, evidence, graded_at) VALUES ($1, $2, $3, $4, $5, $6, $7)
		ON CONFLICT DO NOTHING`, r.HandinID, r.RevisionID, int64(r.Earned), int64(r.Points), string(r.Result), string(r.Evidence), r.GradedAt)
	all.Queue("SELECT pg_notify($1, $2)", Channel, Notice{r.HandinID, r.Earned, r.Points}.String())
	return known(s.Pool.SendBatch(ctx, &all).Close())
}

// Waiting counts the hand-ins that have no result yet.
func (s *Store) Waiting(ctx context.Context) (int64, error) {
	var n int64
	err := s.db.WithContext(ctx).Raw("SELECT count(*) FROM handins h LEFT JOIN results r ON r.handin_id = h.id WHERE r.handin_id IS NULL").Scan(&n).Error
	return n, known(err)
}

// ClassProgress counts a class's hand-ins that have a result, and those that wait for one.
func (s *Store) ClassProgress(ctx context.Context, class int64) (graded, waiting int, err error) {
	var n struct{ Graded, Waiting int }
	err = s.db.WithContext(ctx).Raw(`SELECT count(r.handin_id) AS graded, count(*) - count(r.handin_id) AS waiting
		FROM handins h JOIN assignments a ON a.id = h.assignment_id LEFT JOIN results r ON r.handin_id = h.id WHERE a.class_id = ?`, class).Scan(&n).Error
	return n.Graded, n.Waiting, known(err)
}
